package postgres

// Tables: columns, keys, checks and foreign keys are altered one by one; rows stay.

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// tableChange is the work on a table.
type tableChange struct {
	*changing
	w        *writer // of the new version
	what     string
	alter    string // to the whole table, with its heirs
	only     string // to the table alone
	attached bool   // it is the same partition in both
	kept     schema.Relation
	again    map[string]bool // columns that are dropped and added
}

var errPartitioned = errors.New("a table cannot begin or cease to be partitioned, and its rows would go")

func (c *changing) table() (engine.Alteration, error) {
	old, now := c.was, c.now
	for _, name := range []string{"partition by", "of type", "server"} {
		if old.Setting(name) != now.Setting(name) {
			return engine.Alteration{}, fmt.Errorf("%w (%s)", errPartitioned, name)
		}
	}
	t := tableChange{changing: c, what: "TABLE", kept: *old.Relation, again: map[string]bool{}}
	if now.Setting("server") != "" {
		t.what = "FOREIGN TABLE"
	}
	t.w = &writer{Maker: engine.NewMaker(now, c.name)}
	t.alter, t.only = "ALTER "+t.what+" "+c.name+" ", "ALTER "+t.what+" ONLY "+c.name+" "
	t.attached = old.Kind == schema.KindPartition && now.Kind == schema.KindPartition && slices.Equal(old.Relation.Parents, now.Relation.Parents)
	t.parents()
	t.keys()
	t.exclusions()
	t.checks()
	t.foreignKeys()
	t.columns()
	if a, b := old.Setting("unlogged"), now.Setting("unlogged"); a != b {
		t.build(t.alter+"SET "+map[bool]string{true: "UNLOGGED", false: "LOGGED"}[b != ""], engine.Risk{Kind: engine.Rewrites, Text: "nobody reads or writes it meanwhile"})
	}
	c.storage(t.what)
	t.options()
	t.follow()
	return c.out, nil
}

// follow compares what is said of the table once it is there; of what is dropped nothing is taken back.
func (t *tableChange) follow() {
	kept := *t.was
	kept.Relation = &t.kept
	t.kept.Columns = slices.DeleteFunc(slices.Clone(t.kept.Columns), func(c schema.Column) bool { return t.again[c.Name] || t.now.Relation.Column(c.Name) == nil })
	kept.Grants = slices.DeleteFunc(slices.Clone(kept.Grants), func(g schema.Grant) bool {
		return g.Column != "" && (t.again[g.Column] || t.now.Relation.Column(g.Column) == nil)
	})
	now := *t.now
	relation := *t.now.Relation
	now.Relation = &relation
	for _, o := range []*schema.Object{&kept, &now} { // of which the statements were written
		o.Relation.ForeignKeys = slices.Clone(o.Relation.ForeignKeys)
		for i := range o.Relation.ForeignKeys {
			o.Relation.ForeignKeys[i].NotValid = false
		}
		o.Relation.Checks = slices.Clone(o.Relation.Checks)
		for i := range o.Relation.Checks {
			o.Relation.Checks[i].NotValid = false
		}
		o.Relation.Parents = nil
		if o.Kind == schema.KindPartition {
			o.Kind = schema.KindTable
		}
		o.Relation.Columns = slices.Clone(o.Relation.Columns)
		for i := range o.Relation.Columns {
			o.Relation.Columns[i].Inherited = nil
		}
		plainNulls(o.Relation.Columns)
	}
	made, err := Engine{}.Make(&kept)
	if err != nil {
		return
	}
	fresh, err := Engine{}.Make(&now)
	if err != nil {
		return
	}
	t.out.Links = append(t.out.Links, engine.Followers(made, fresh, t.opposite)...)
}

func (t *tableChange) parents() {
	old, now := t.was.Relation.Parents, t.now.Relation.Parents
	for _, p := range old {
		if slices.Contains(now, p) {
			continue
		}
		if t.was.Kind == schema.KindPartition {
			t.release("ALTER TABLE "+qualify(p.Schema, p.Table)+" DETACH PARTITION "+t.name, engine.Risk{Kind: engine.HoldsUp, Text: "readers and writers of " + p.Table + ", shortly; its rows are not seen there any more"})
		} else {
			t.release("ALTER TABLE " + t.name + " NO INHERIT " + qualify(p.Schema, p.Table))
		}
	}
	for _, p := range now {
		if slices.Contains(old, p) {
			continue
		}
		text := "ALTER TABLE " + t.name + " INHERIT " + qualify(p.Schema, p.Table)
		var risks []engine.Risk
		if t.now.Kind == schema.KindPartition {
			text = "ALTER TABLE " + qualify(p.Schema, p.Table) + " ATTACH PARTITION " + t.name + " " + p.Bound
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows outside of " + p.Bound})
		}
		t.out.Links = append(t.out.Links, engine.Statement{Head: text, Risks: risks, Requires: []engine.Resource{relation(p.Schema, p.Table)}})
	}
}

// renamedPart looks for a constraint that is the same under another name.
func renamedPart[T any](old, now []T, key func(T) string, same func(a, b T) bool) map[string]string {
	out := map[string]string{}
	for _, a := range old {
		if slices.ContainsFunc(now, func(n T) bool { return key(n) == key(a) }) {
			continue
		}
		for _, b := range now {
			if !slices.ContainsFunc(old, func(o T) bool { return key(o) == key(b) }) && same(a, b) && !slices.ContainsFunc(now, func(n T) bool { return key(n) != key(b) && same(a, n) }) {
				out[key(a)] = key(b)
				break
			}
		}
	}
	return out
}

func sameKey(a, b schema.Key) bool {
	a.Name, b.Name, a.Comment, b.Comment = "", "", "", ""
	return a.Primary == b.Primary && slices.Equal(a.Columns, b.Columns) && slices.Equal(a.Include, b.Include) && a.Timing == b.Timing && slices.Equal(ofKey(a.Settings), ofKey(b.Settings))
}

func (t *tableChange) renameConstraint(from, to string) {
	t.build("ALTER " + t.what + " " + t.name + " RENAME CONSTRAINT " + quote(from) + " TO " + quote(to))
}

func (t *tableChange) keys() {
	old, now := t.was.Relation.Keys, t.now.Relation.Keys
	t.kept.Keys = nil
	named := renamedPart(old, now, func(k schema.Key) string { return k.Name }, sameKey)
	come := map[string]bool{}
	for _, k := range old {
		if to := named[k.Name]; to != "" && !k.Inherited {
			t.renameConstraint(k.Name, to)
			come[to] = true
			k.Name = to
			t.kept.Keys = append(t.kept.Keys, k)
			continue
		}
		if i := slices.IndexFunc(now, func(n schema.Key) bool { return n.Name == k.Name && sameKey(n, k) }); i >= 0 {
			t.keyStorage(k, now[i])
			t.kept.Keys = append(t.kept.Keys, k)
			come[k.Name] = true
			continue
		}
		if k.Inherited && t.attached {
			continue
		}
		t.out.Keys = append(t.out.Keys, k.ColumnNames())
		t.release(t.alter + "DROP CONSTRAINT " + quote(k.Name))
	}
	for _, k := range now {
		if come[k.Name] || k.Inherited && t.attached {
			continue
		}
		names := list(k.ColumnNames())
		risks := []engine.Risk{{Kind: engine.MayFail, Text: "rows that agree in " + names, Query: "SELECT " + names + ", count(*) FROM " + t.name + " GROUP BY " + names + " HAVING count(*) > 1"},
			{Kind: engine.HoldsUp, Text: "readers and writers, while its index is built (ACCESS EXCLUSIVE)"}}
		if k.Primary {
			var null []string
			for _, c := range k.ColumnNames() {
				null = append(null, quote(c)+" IS NULL")
			}
			risks[0].Text += ", or have none"
			risks = append(risks[:1], append([]engine.Risk{{Kind: engine.MayFail, Text: "rows that have no value", Query: "SELECT * FROM " + t.name + " WHERE " + strings.Join(null, " OR ")}}, risks[1:]...)...)
		}
		t.out.Build = append(t.out.Build, engine.Statement{Head: t.alter + "ADD " + t.w.key(k), Risks: risks, Step: 1})
	}
}

func (t *tableChange) exclusions() {
	t.kept.Exclusions = nil
	whole := func(x schema.Exclusion) bool { return schema.SettingOf(x.Settings, ofWhole) != "" }
	for _, x := range t.was.Relation.Exclusions {
		if whole(x) { // it comes and goes with the whole's
			continue
		}
		if slices.ContainsFunc(t.now.Relation.Exclusions, func(n schema.Exclusion) bool { return n.Name == x.Name && n.Definition == x.Definition }) {
			t.kept.Exclusions = append(t.kept.Exclusions, x)
			continue
		}
		t.release(t.alter + "DROP CONSTRAINT " + quote(x.Name))
	}
	for _, x := range t.now.Relation.Exclusions {
		if !whole(x) && !slices.ContainsFunc(t.kept.Exclusions, func(k schema.Exclusion) bool { return k.Name == x.Name }) {
			t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + "ADD CONSTRAINT " + quote(x.Name) + " " + x.Definition, Risks: []engine.Risk{{Kind: engine.MayFail, Text: "rows that exclude each other"}, {Kind: engine.HoldsUp, Text: "readers and writers, while its index is built (ACCESS EXCLUSIVE)"}}})
		}
	}
}

func (t *tableChange) checks() {
	old, now := t.was.Relation.Checks, t.now.Relation.Checks
	t.kept.Checks = nil
	same := func(a, b schema.Check) bool {
		return a.Expression == b.Expression && a.NoInherit == b.NoInherit && slices.Equal(a.Settings, b.Settings) && (a.NotValid == b.NotValid || a.NotValid && !b.NotValid)
	}
	named := renamedPart(old, now, func(k schema.Check) string { return k.Name }, same)
	done := map[string]bool{}
	for _, k := range old {
		to := k.Name
		if n := named[k.Name]; n != "" && !k.Inherited {
			t.renameConstraint(k.Name, n)
			to = n
		}
		i := slices.IndexFunc(now, func(n schema.Check) bool { return n.Name == to && same(k, n) })
		if i < 0 {
			if !k.Inherited {
				t.release(t.alter + "DROP CONSTRAINT " + quote(k.Name))
			}
			continue
		}
		done[to] = true
		if k.NotValid && !now[i].NotValid && !k.Inherited {
			t.validate(to, now[i].Expression)
		}
		k.Name, k.NotValid = to, now[i].NotValid
		t.kept.Checks = append(t.kept.Checks, k)
	}
	for _, k := range now {
		if done[k.Name] || k.Inherited {
			continue
		}
		text := t.alter + "ADD CONSTRAINT " + quote(k.Name) + " CHECK (" + k.Expression + ")"
		if k.NoInherit {
			text += " NO INHERIT"
		}
		if unenforced := schema.SettingOf(k.Settings, notEnforced) != ""; t.what != "TABLE" || unenforced {
			if unenforced {
				text += " NOT ENFORCED"
			} else if k.NotValid {
				text += " NOT VALID"
			}
			t.out.Links = append(t.out.Links, engine.Statement{Head: text})
			continue
		}
		t.out.Links = append(t.out.Links, engine.Statement{Head: text + " NOT VALID"})
		if !k.NotValid {
			t.validate(k.Name, k.Expression)
		}
	}
}

func (t *tableChange) validate(name, expression string) {
	t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + "VALIDATE CONSTRAINT " + quote(name), Risks: []engine.Risk{
		{Kind: engine.MayFail, Text: "rows that do not fulfil it", Query: "SELECT * FROM " + t.name + " WHERE NOT (" + expression + ")"}}})
}

func (t *tableChange) foreignKeys() {
	old, now := t.was.Relation.ForeignKeys, t.now.Relation.ForeignKeys
	t.kept.ForeignKeys = nil
	plain := func(f schema.ForeignKey) string {
		f.Comment, f.NotValid, f.Inherited = "", false, false
		return t.w.foreignKey(f).Item + f.RefIndex
	}
	same := func(a, b schema.ForeignKey) bool {
		a.Name = b.Name
		return plain(a) == plain(b) && (a.NotValid == b.NotValid || a.NotValid)
	}
	named := renamedPart(old, now, func(f schema.ForeignKey) string { return f.Name }, same)
	done := map[string]bool{}
	for _, f := range old {
		to := f.Name
		if n := named[f.Name]; n != "" && !f.Inherited {
			t.renameConstraint(f.Name, n)
			to = n
		}
		i := slices.IndexFunc(now, func(n schema.ForeignKey) bool { return n.Name == to && same(f, n) })
		if i < 0 {
			if !(f.Inherited && t.attached) {
				t.release(t.alter + "DROP CONSTRAINT " + quote(f.Name))
			}
			continue
		}
		done[to] = true
		if f.NotValid && !now[i].NotValid {
			t.validateKey(now[i])
		}
		f.Name, f.NotValid = to, now[i].NotValid
		t.kept.ForeignKeys = append(t.kept.ForeignKeys, f)
	}
	for _, f := range now {
		if done[f.Name] || f.Inherited && t.attached {
			continue
		}
		s := t.w.foreignKey(f).Apart
		s.Provides = nil
		s.Requires = slices.DeleteFunc(s.Requires, func(r engine.Resource) bool { return r == t.w.Self })
		s.Wishes, s.Requires = s.Requires, nil
		twoSteps := t.now.Setting("partition by") == "" && t.what == "TABLE" && schema.SettingOf(f.Settings, notEnforced) == ""
		if twoSteps && !f.NotValid {
			s.Head += " NOT VALID"
		}
		t.out.Links = append(t.out.Links, s)
		if twoSteps && !f.NotValid {
			t.validateKey(f)
		}
	}
}

func (t *tableChange) validateKey(f schema.ForeignKey) {
	var on, set []string
	for i, c := range f.Columns {
		set = append(set, "a."+quote(c)+" IS NOT NULL")
		if i < len(f.RefColumns) {
			on = append(on, "b."+quote(f.RefColumns[i])+" = a."+quote(c))
		}
	}
	query := "SELECT a.* FROM " + t.name + " a WHERE " + strings.Join(set, " AND ") + " AND NOT EXISTS (SELECT FROM " + qualify(f.RefSchema, f.RefTable) + " b WHERE " + strings.Join(on, " AND ") + ")"
	t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + "VALIDATE CONSTRAINT " + quote(f.Name), Risks: []engine.Risk{{Kind: engine.MayFail, Text: "rows that refer to nothing", Query: query}}})
}

func (t *tableChange) columns() {
	old, now := t.was.Relation, t.now.Relation
	var keys []engine.Statement // which come behind the columns
	keys, t.out.Build = t.out.Build, nil
	for _, computed := range []bool{true, false} { // what is computed from others goes before them
		for i := range old.Columns {
			c := &old.Columns[i]
			n := now.Column(c.Name)
			switch {
			case (c.Generated != nil) != computed, n == nil && c.Inherited != nil:
			case n == nil:
				t.drop(c, true)
			default:
				t.column(c, n)
			}
		}
	}
	for i := range now.Columns {
		n := &now.Columns[i]
		if old.Column(n.Name) == nil && (n.Inherited == nil) || t.again[n.Name] {
			t.add(n)
		}
	}
	t.out.Build = append(t.out.Build, keys...)
}

// drop drops a column; lost says that its values are gone for good.
func (t *tableChange) drop(c *schema.Column, lost bool) {
	var risks []engine.Risk
	if lost && c.Generated == nil {
		risks = append(risks, engine.Risk{Kind: engine.Loses, Text: "the values of " + c.Name, Query: "SELECT count(" + quote(c.Name) + ") FROM " + t.name})
	}
	t.out.Disturbs = append(t.out.Disturbs, c.Name)
	t.build(t.alter+"DROP COLUMN "+quote(c.Name), risks...)
}

func (t *tableChange) add(c *schema.Column) {
	var risks []engine.Risk
	computed := c.Generated != nil && c.Generated.Stored
	switch {
	case computed, c.Identity != nil, strings.Contains(c.Default, "("):
		risks = append(risks, engine.Risk{Kind: engine.Rewrites, Text: "each row gets a value, unless the default is the same for all; nobody reads or writes it meanwhile"})
	case c.NotNull && c.Default == "" && c.Generated == nil:
		risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "every row: they have no value for it", Query: "SELECT count(*) FROM " + t.name})
	}
	t.build(t.alter+"ADD COLUMN "+t.w.column(c, false, true), risks...)
}

// column alters one column.
func (t *tableChange) column(c, n *schema.Column) {
	at := "ALTER COLUMN " + quote(n.Name) + " "
	computed := c.Generated != nil && n.Generated != nil && *c.Generated == *n.Generated
	if (c.Generated != nil || n.Generated != nil) && (!computed || c.Type != n.Type || c.Collation != n.Collation) {
		t.computed(c, n)
		return
	}
	own := n.Inherited == nil
	if own && (c.Type != n.Type || c.Collation != n.Collation) {
		t.retype(c, n)
	} else if c.Default != n.Default {
		if n.Default == "" {
			t.release(t.only + at + "DROP DEFAULT")
		} else {
			t.build(t.only + at + "SET DEFAULT " + n.Default)
		}
	}
	if c.Identity != nil && n.Identity == nil {
		t.build(t.alter + at + "DROP IDENTITY")
	}
	if (own || n.Inherited.OwnNull || c.Inherited != nil && c.Inherited.OwnNull) && c.NotNull != n.NotNull {
		if n.NotNull {
			t.build(t.setNotNull(n), engine.Risk{Kind: engine.MayFail, Text: "rows that have no value", Query: "SELECT * FROM " + t.name + " WHERE " + quote(n.Name) + " IS NULL"},
				engine.Risk{Kind: engine.HoldsUp, Text: "readers and writers, while all rows are read (ACCESS EXCLUSIVE); a valid check that it is not null saves that"})
		} else {
			t.build(t.alter + at + "DROP NOT NULL")
		}
	} else if own && c.NotNull && n.NotNull {
		t.notNull(c, n)
	}
	t.sequenceOf(c, n)
	switch {
	case n.Identity == nil:
	case c.Identity == nil:
		t.build(t.alter + at + "ADD GENERATED " + strings.ToUpper(n.Identity.Mode) + " AS IDENTITY" + identityOptions(n.Identity))
	default:
		text := ""
		if c.Identity.Mode != n.Identity.Mode {
			text += " SET GENERATED " + strings.ToUpper(n.Identity.Mode)
		}
		a, b := c.Identity.Sequence, n.Identity.Sequence
		if a == nil {
			a = &schema.Sequence{}
		}
		if b == nil {
			b = &schema.Sequence{}
		}
		plain := *b
		plain.Type = a.Type // which is the column's
		options := sequenceChange(a, &plain)
		for _, word := range []string{"INCREMENT BY", "NO MINVALUE", "NO MAXVALUE", "MINVALUE", "MAXVALUE", "START WITH", "CACHE", "NO CYCLE", "CYCLE"} {
			options = setEach(options, word)
		}
		text += options
		if text != "" {
			t.build(t.alter + strings.TrimSpace(at) + text)
		}
	}
}

// setEach puts SET in front of an option.
func setEach(options, word string) string {
	if i := strings.Index(options, " "+word); i >= 0 && !strings.HasSuffix(options[:i], "SET") && !strings.HasSuffix(options[:i], "NO") {
		return options[:i] + " SET" + options[i:]
	}
	return options
}

// computed changes what a column is computed from.
func (t *tableChange) computed(c, n *schema.Column) {
	if n.Generated == nil && c.Generated.Stored && c.Type == n.Type && c.Collation == n.Collation {
		t.build(t.alter + "ALTER COLUMN " + quote(n.Name) + " DROP EXPRESSION")
		plain := *c
		plain.Generated = nil
		t.column(&plain, n)
		return
	}
	t.drop(c, c.Generated == nil)
	t.again[c.Name] = true
}

// retype gives a column another type.
func (t *tableChange) retype(c, n *schema.Column) {
	at := "ALTER COLUMN " + quote(n.Name) + " "
	if c.Default != "" {
		t.build(t.only + at + "DROP DEFAULT")
	}
	for i := range t.was.Relation.Columns { // computed from it
		if g := &t.was.Relation.Columns[i]; g.Generated != nil && g.Inherited == nil && mentionsName(g.Generated.Expression, c.Name) && t.now.Relation.Column(g.Name) != nil && !t.again[g.Name] {
			t.drop(g, false)
			t.again[g.Name] = true
		}
	}
	text := at + "TYPE " + n.Type
	if n.Collation != "" {
		text += " COLLATE " + n.Collation
	}
	var risks []engine.Risk
	switch {
	case c.Type == n.Type:
		risks = append(risks, engine.Risk{Kind: engine.HoldsUp, Text: "readers and writers, while its indexes are built anew (ACCESS EXCLUSIVE)"})
	case !widens(c.Type, n.Type):
		using := quote(n.Name) + "::"
		if !builtIn(c.Type) || !builtIn(n.Type) {
			using += "text::"
		}
		text += " USING " + using + n.Type
		risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "values that are no " + n.Type}, engine.Risk{Kind: engine.Rewrites, Text: "nobody reads or writes it meanwhile (ACCESS EXCLUSIVE), and its indexes are built anew"})
	}
	t.out.Disturbs = append(t.out.Disturbs, c.Name)
	t.build(t.alter+text, risks...)
	if n.Default != "" {
		t.build(t.only + at + "SET DEFAULT " + n.Default)
	}
}

// mentionsName reports whether an expression holds a name.
func mentionsName(expression, name string) bool {
	return strings.Contains(expression, name) || strings.Contains(expression, quote(name))
}

// builtIn reports whether a type is one of the server's own.
func builtIn(typ string) bool {
	base, _, _ := strings.Cut(strings.TrimSuffix(typ, "[]"), "(")
	switch strings.TrimSpace(base) {
	case "smallint", "integer", "bigint", "numeric", "real", "double precision", "text", "character varying", "character", "date", "timestamp without time zone", "timestamp with time zone",
		"time without time zone", "time with time zone", "interval", "boolean", "bytea", "uuid", "json", "jsonb", "inet", "cidr", "money", "xml", "name", "oid", "timestamp", "time":
		return true
	}
	return false
}

// widens reports whether a type takes all values of another as they lie there (documentation, "ALTER TABLE": binary coercible,
// and no rewrite for a longer varchar).
func widens(from, to string) bool {
	length := func(typ string) (string, []int) {
		base, rest, ok := strings.Cut(typ, "(")
		if !ok {
			return typ, nil
		}
		rest, tail, _ := strings.Cut(rest, ")")
		var numbers []int
		for _, s := range strings.Split(rest, ",") {
			n, err := strconv.Atoi(strings.TrimSpace(s))
			if err != nil {
				return typ, nil
			}
			numbers = append(numbers, n)
		}
		return base + tail, numbers
	}
	a, x := length(from)
	b, y := length(to)
	switch {
	case a == "character varying" && (b == "text" || b == a && (y == nil || x != nil && y[0] >= x[0])), a == "text" && b == "character varying" && y == nil:
		return true
	case a == "numeric" && b == "numeric":
		return y == nil || len(x) == 2 && len(y) == 2 && x[1] == y[1] && y[0] >= x[0]
	}
	return false
}

// options changes what a foreign-data wrapper is told.
func (t *tableChange) options() {
	changed := func(old, now []schema.Property) string {
		var words []string
		for _, p := range old {
			if !slices.ContainsFunc(now, func(n schema.Property) bool { return n.Name == p.Name }) {
				words = append(words, "DROP "+quote(p.Name))
			}
		}
		for _, n := range now {
			switch i := slices.IndexFunc(old, func(p schema.Property) bool { return p.Name == n.Name }); {
			case i < 0:
				words = append(words, "ADD "+quote(n.Name)+" "+literal(n.Value))
			case old[i].Value != n.Value:
				words = append(words, "SET "+quote(n.Name)+" "+literal(n.Value))
			}
		}
		return strings.Join(words, ", ")
	}
	if words := changed(t.was.Options, t.now.Options); words != "" {
		t.build(t.alter + "OPTIONS (" + words + ")")
	}
	for i := range t.now.Relation.Columns {
		n := &t.now.Relation.Columns[i]
		if c := t.was.Relation.Column(n.Name); c != nil {
			if words := changed(c.Options, n.Options); words != "" {
				t.build(t.alter + "ALTER COLUMN " + quote(n.Name) + " OPTIONS (" + words + ")")
			}
		}
	}
}
