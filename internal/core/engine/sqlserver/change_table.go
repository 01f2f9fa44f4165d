package sqlserver

// A table is altered column by column (documentation: "ALTER TABLE", "ALTER TABLE column_definition"): what stands on a column that
// is altered goes before, default constraints by their names, and comes back behind.

import (
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

type tableChange struct {
	was, now *schema.Object
	name     string
	altered  map[string]bool // columns that are altered so that nothing may stand on them
	widened  map[string]bool // columns that take more: no primary or foreign key and no computed column may stand on them
	out      engine.Alteration
}

func (t *tableChange) build(text string, risks ...engine.Risk) {
	t.out.Build = append(t.out.Build, engine.Statement{Head: text, Risks: risks})
}

func (t *tableChange) release(text string, risks ...engine.Risk) {
	t.out.Release = append(t.out.Release, engine.Statement{Head: text, Risks: risks})
}

func (t *tableChange) run() error {
	for _, name := range []string{"on", "memory optimized", "history table", "period", "large values on"} {
		if was, now := t.was.Setting(name), t.now.Setting(name); was != now {
			return fmt.Errorf("%s of a table is changed by hand (%q, now %q)", name, was, now)
		}
	}
	t.altered, t.widened = map[string]bool{}, map[string]bool{}
	for i := range t.now.Relation.Columns {
		n := &t.now.Relation.Columns[i]
		c := t.was.Relation.Column(n.Name)
		if c == nil {
			continue
		}
		if was, now := c.Identity != nil, n.Identity != nil; was != now || was && describe(c.Identity) != describe(n.Identity) {
			return fmt.Errorf("the identity of %s cannot be altered: the table has to be made anew by hand", n.Name)
		}
		if c.Generated != nil || n.Generated != nil {
			t.altered[n.Name] = writtenAs(c) != writtenAs(n)
		} else if c.Type != n.Type || c.Collation != n.Collation || c.NotNull != n.NotNull {
			t.altered[n.Name], t.widened[n.Name] = !widens(c, n), widens(c, n)
		}
	}
	for i := range t.was.Relation.Columns {
		if c := &t.was.Relation.Columns[i]; t.now.Relation.Column(c.Name) == nil {
			t.altered[c.Name] = true
		}
	}
	for name, gone := range t.altered {
		if gone {
			t.out.Disturbs = append(t.out.Disturbs, name)
		}
	}
	slices.Sort(t.out.Disturbs)
	t.out.Indexed = len(t.out.Disturbs) > 0
	t.foreignKeys()
	t.checks()
	t.keys()
	t.columns()
	return nil
}

func describe(n *schema.Numbering) string {
	if n.Sequence == nil {
		return n.Mode
	}
	return n.Mode + " " + n.Sequence.Start + " " + n.Sequence.Increment
}

func writtenAs(c *schema.Column) string {
	return (&writer{}).column(c)
}

// widens reports whether a column only takes more than before: that leaves indexes, unique keys, checks and the default alone.
func widens(c, n *schema.Column) bool {
	base := func(typ string) string { name, _, _ := strings.Cut(typ, "("); return strings.ToLower(name) }
	size := func(typ string) (size int) {
		if strings.Contains(typ, "(max)") {
			return 1 << 30
		}
		if _, err := fmt.Sscanf(typ[strings.IndexByte(typ+"(", '('):], "(%d)", &size); err != nil {
			return 0
		}
		return size
	}
	switch base(n.Type) {
	case "varchar", "nvarchar", "varbinary":
		return base(c.Type) == base(n.Type) && size(n.Type) >= size(c.Type) && size(n.Type) < 1<<30 && c.NotNull == n.NotNull && c.Collation == n.Collation
	}
	return false
}

func (t *tableChange) mentions(expression string) bool {
	for name, gone := range t.altered {
		if gone && engine.Mentions(expression, name, rules()) {
			return true
		}
	}
	return false
}

func (t *tableChange) touches(columns []string, key bool) bool {
	return slices.ContainsFunc(columns, func(c string) bool { return t.altered[c] || key && t.widened[c] })
}

// rests reports whether the value of a computed column rests on one that is altered.
func (t *tableChange) rests(expression string) bool {
	for name, wider := range t.widened {
		if wider && engine.Mentions(expression, name, rules()) {
			return true
		}
	}
	return t.mentions(expression)
}

// misfits returns a query for the values that a type does not take: a text that is too long is cut by a conversion, not refused.
func (t *tableChange) misfits(n *schema.Column) string {
	text := "SELECT * FROM " + t.name + " WHERE "
	base, rest, _ := strings.Cut(n.Type, "(")
	var size int
	if _, err := fmt.Sscanf(rest, "%d)", &size); err == nil && (strings.HasSuffix(base, "char") || strings.HasSuffix(base, "binary")) {
		if strings.HasPrefix(base, "n") {
			size *= 2
		}
		return text + fmt.Sprintf("DATALENGTH(%s) > %d", quote(n.Name), size)
	}
	return text + quote(n.Name) + " IS NOT NULL AND TRY_CONVERT(" + n.Type + ", " + quote(n.Name) + ") IS NULL"
}

// dropNamed drops a constraint: by its name, or, where the server made that up, by the name that is looked for then.
func (t *tableChange) dropNamed(name, lookup string) string {
	if name != "" {
		return "ALTER TABLE " + t.name + " DROP CONSTRAINT " + quote(name)
	}
	return "DECLARE @drop nvarchar(max) = " + literal("ALTER TABLE "+t.name+" DROP CONSTRAINT ") + " + QUOTENAME((" + lookup + "));\nEXEC (@drop)"
}

func (t *tableChange) object() string { return "OBJECT_ID(" + literal(t.name) + ")" }

func (t *tableChange) dropDefault(c *schema.Column) string {
	return t.dropNamed(c.Setting("default name"), "SELECT name FROM sys.default_constraints WHERE parent_object_id = "+t.object()+" AND parent_column_id = COLUMNPROPERTY("+t.object()+", "+literal(c.Name)+", 'ColumnId')")
}

func (t *tableChange) dropKey(k schema.Key) string {
	names := make([]string, len(k.Columns))
	for i, c := range k.ColumnNames() {
		names[i] = literal(c)
	}
	of := "(SELECT COUNT(*) FROM sys.index_columns i JOIN sys.columns c ON c.object_id = i.object_id AND c.column_id = i.column_id WHERE i.object_id = k.parent_object_id AND i.index_id = k.unique_index_id"
	kind := "UQ"
	if k.Primary {
		kind = "PK"
	}
	return t.dropNamed(k.Name, fmt.Sprintf("SELECT TOP (1) k.name FROM sys.key_constraints k WHERE k.parent_object_id = %s AND k.type = '%s' AND %s) = %d AND %s AND c.name IN (%s)) = %d", t.object(), kind, of, len(names), of, strings.Join(names, ", "), len(names)))
}

func (t *tableChange) dropForeignKey(f schema.ForeignKey) string {
	names := make([]string, len(f.Columns))
	for i, c := range f.Columns {
		names[i] = literal(c)
	}
	of := "(SELECT COUNT(*) FROM sys.foreign_key_columns x WHERE x.constraint_object_id = f.object_id"
	return t.dropNamed(f.Name, fmt.Sprintf("SELECT TOP (1) f.name FROM sys.foreign_keys f WHERE f.parent_object_id = %s AND f.referenced_object_id = OBJECT_ID(%s) AND %s) = %d AND %s AND COL_NAME(x.parent_object_id, x.parent_column_id) IN (%s)) = %d",
		t.object(), literal(qualify(f.RefSchema, f.RefTable)), of, len(names), of, strings.Join(names, ", "), len(names)))
}

func (t *tableChange) dropCheck(k schema.Check) string {
	return t.dropNamed(k.Name, "SELECT TOP (1) name FROM sys.check_constraints WHERE parent_object_id = "+t.object()+" AND definition = "+literal(k.Expression))
}

func (t *tableChange) foreignKeys() {
	old, now := t.was.Relation.ForeignKeys, t.now.Relation.ForeignKeys
	same := func(a, b schema.ForeignKey) bool {
		a.Comment, b.Comment = "", ""
		return fmt.Sprintf("%+v", a) == fmt.Sprintf("%+v", b)
	}
	w := writer{engine.NewMaker(t.now, t.name)}
	for _, f := range old {
		if t.touches(f.Columns, true) || !slices.ContainsFunc(now, func(n schema.ForeignKey) bool { return same(f, n) }) {
			t.release(t.dropForeignKey(f))
		}
	}
	for _, f := range now {
		if !t.touches(f.Columns, true) && slices.ContainsFunc(old, func(o schema.ForeignKey) bool { return same(o, f) }) {
			continue
		}
		made := w.foreignKey(f)
		s := engine.Statement{Head: made.Apart.Head, Wishes: made.Requires}
		if !f.NotValid && !f.Disabled {
			var on, set []string
			for i, c := range f.Columns {
				set = append(set, "a."+quote(c)+" IS NOT NULL")
				if i < len(f.RefColumns) {
					on = append(on, "b."+quote(f.RefColumns[i])+" = a."+quote(c))
				}
			}
			s.Risks = []engine.Risk{{Kind: engine.MayFail, Text: "rows that refer to nothing",
				Query: "SELECT a.* FROM " + t.name + " a WHERE " + strings.Join(set, " AND ") + " AND NOT EXISTS (SELECT 1 FROM " + qualify(f.RefSchema, f.RefTable) + " b WHERE " + strings.Join(on, " AND ") + ")"},
				{Kind: engine.HoldsUp, Text: "everybody on both tables (Sch-M) while all rows are looked at"}}
		}
		t.out.Links = append(t.out.Links, s)
		if f.Disabled && f.Name != "" {
			t.out.Links = append(t.out.Links, engine.Statement{Head: "ALTER TABLE " + t.name + " NOCHECK CONSTRAINT " + quote(f.Name)})
		}
	}
}

func (t *tableChange) checks() {
	same := func(a, b schema.Check) bool {
		return checkItem(a) == checkItem(b) && a.NotValid == b.NotValid && a.Disabled == b.Disabled
	}
	for _, k := range t.was.Relation.Checks {
		if t.mentions(k.Expression) || !slices.ContainsFunc(t.now.Relation.Checks, func(n schema.Check) bool { return same(k, n) }) {
			t.release(t.dropCheck(k))
		}
	}
	for _, k := range t.now.Relation.Checks {
		if !t.mentions(k.Expression) && slices.ContainsFunc(t.was.Relation.Checks, func(o schema.Check) bool { return same(o, k) }) {
			continue
		}
		s := engine.Statement{Head: "ALTER TABLE " + t.name + " WITH CHECK ADD " + checkItem(k),
			Risks: []engine.Risk{{Kind: engine.MayFail, Text: "rows that do not fulfil it", Query: "SELECT * FROM " + t.name + " WHERE NOT (" + k.Expression + ")"}}}
		if k.NotValid || k.Disabled {
			s = engine.Statement{Head: "ALTER TABLE " + t.name + " WITH NOCHECK ADD " + checkItem(k)}
		}
		t.out.Links = append(t.out.Links, s)
		if k.Disabled && k.Name != "" {
			t.out.Links = append(t.out.Links, engine.Statement{Head: "ALTER TABLE " + t.name + " NOCHECK CONSTRAINT " + quote(k.Name)})
		}
	}
}

func (t *tableChange) keys() {
	old, now := t.was.Relation.Keys, t.now.Relation.Keys
	for _, k := range old {
		if t.touches(k.ColumnNames(), k.Primary) || !slices.ContainsFunc(now, func(n schema.Key) bool { return keyItem(n) == keyItem(k) }) {
			var risks []engine.Risk
			if k.Primary && schema.SettingOf(k.Settings, "clustering") == "" || schema.SettingOf(k.Settings, "clustering") == "clustered" {
				risks = []engine.Risk{{Kind: engine.Rewrites, Text: "its rows lie in the order of this key, and all other indexes are built anew"}}
			}
			t.build(t.dropKey(k), risks...)
			t.out.Keys = append(t.out.Keys, k.ColumnNames())
		}
	}
}

// addKeys adds what keys are new, once the columns are as they will be.
func (t *tableChange) addKeys() {
	for _, k := range t.now.Relation.Keys {
		if !t.touches(k.ColumnNames(), k.Primary) && slices.ContainsFunc(t.was.Relation.Keys, func(o schema.Key) bool { return keyItem(o) == keyItem(k) }) {
			continue
		}
		names := k.ColumnNames()
		t.build("ALTER TABLE "+t.name+" ADD "+keyItem(k), engine.Risk{Kind: engine.MayFail, Text: "rows that agree in " + list(names), Query: twins(t.name, names)},
			engine.Risk{Kind: engine.HoldsUp, Text: "everybody on the table (Sch-M) while the index is built"})
	}
}

func (t *tableChange) columns() {
	for i := range t.was.Relation.Columns { // computed ones first: they rest on others
		c := &t.was.Relation.Columns[i]
		if n := t.now.Relation.Column(c.Name); c.Generated != nil && (n == nil || t.altered[c.Name] || t.rests(c.Generated.Expression)) {
			t.build("ALTER TABLE " + t.name + " DROP COLUMN " + quote(c.Name))
		}
	}
	for i := range t.was.Relation.Columns {
		c := &t.was.Relation.Columns[i]
		if t.now.Relation.Column(c.Name) != nil || c.Generated != nil {
			continue
		}
		if c.Default != "" {
			t.release(t.dropDefault(c))
		}
		t.out.Links = append(t.out.Links, engine.Statement{Head: "ALTER TABLE " + t.name + " DROP COLUMN " + quote(c.Name),
			Risks: []engine.Risk{{Kind: engine.Loses, Text: "the values of " + c.Name, Query: "SELECT COUNT(" + quote(c.Name) + ") FROM " + t.name}}})
	}
	var computed []*schema.Column
	for i := range t.now.Relation.Columns {
		n := &t.now.Relation.Columns[i]
		c := t.was.Relation.Column(n.Name)
		switch {
		case n.Generated != nil:
			if c == nil || c.Generated == nil || t.altered[n.Name] || t.rests(c.Generated.Expression) {
				computed = append(computed, n)
			}
			if c != nil && c.Generated == nil {
				if c.Default != "" {
					t.release(t.dropDefault(c))
				}
				t.build("ALTER TABLE "+t.name+" DROP COLUMN "+quote(c.Name), engine.Risk{Kind: engine.Loses, Text: "the values of " + c.Name, Query: "SELECT COUNT(" + quote(c.Name) + ") FROM " + t.name})
			}
		case c == nil || c.Generated != nil:
			t.add(n)
		default:
			t.alter(c, n)
		}
	}
	for _, n := range computed {
		var risks []engine.Risk
		if n.Generated.Stored {
			risks = []engine.Risk{{Kind: engine.Rewrites, Text: "each row gets a value for " + n.Name + "; nobody uses the table meanwhile (Sch-M)"}}
		}
		t.build("ALTER TABLE "+t.name+" ADD "+writtenAs(n), risks...)
	}
	t.addKeys()
}

func (t *tableChange) add(n *schema.Column) {
	var risks []engine.Risk
	if n.NotNull && n.Default == "" && n.Identity == nil {
		risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "any row: " + n.Name + " has no value for it", Query: "SELECT COUNT(*) FROM " + t.name})
	}
	if n.Identity != nil {
		risks = append(risks, engine.Risk{Kind: engine.Rewrites, Text: "each row gets a number; nobody uses the table meanwhile (Sch-M)"})
	}
	t.build("ALTER TABLE "+t.name+" ADD "+writtenAs(n), risks...)
}

func (t *tableChange) alter(c, n *schema.Column) {
	typed := c.Type != n.Type || c.Collation != n.Collation || c.NotNull != n.NotNull
	name := func(c *schema.Column) string { return c.Setting("default name") }
	if changed := c.Default != n.Default || c.Default != "" && name(c) != name(n); c.Default != "" && (changed || typed) {
		t.release(t.dropDefault(c))
	}
	if typed {
		text := "ALTER TABLE " + t.name + " ALTER COLUMN " + quote(n.Name) + " " + n.Type
		text += collationOf(n)
		if n.NotNull {
			text += " NOT NULL"
		} else {
			text += " NULL"
		}
		var risks []engine.Risk
		if n.NotNull && !c.NotNull {
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows that have no value for " + n.Name, Query: "SELECT * FROM " + t.name + " WHERE " + quote(n.Name) + " IS NULL"})
		}
		if c.Type != n.Type && !widens(c, n) {
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "values of " + n.Name + " that are no " + n.Type, Query: t.misfits(n)},
				engine.Risk{Kind: engine.Rewrites, Text: "each row; nobody uses the table meanwhile (Sch-M)"})
		}
		t.build(text, risks...)
	}
	for _, x := range []struct{ setting, words string }{{"sparse", "SPARSE"}, {"rowguidcol", "ROWGUIDCOL"}, {"not for replication", "NOT FOR REPLICATION"}} {
		if was, now := c.Setting(x.setting), n.Setting(x.setting); was != now {
			verb := "ADD "
			if now == "" {
				verb = "DROP "
			}
			t.build("ALTER TABLE " + t.name + " ALTER COLUMN " + quote(n.Name) + " " + verb + x.words)
		}
	}
	if was, now := c.Setting("masked"), n.Setting("masked"); was != now {
		words := "ADD MASKED WITH (FUNCTION = '" + strings.ReplaceAll(now, "'", "''") + "')"
		if now == "" {
			words = "DROP MASKED"
		}
		t.build("ALTER TABLE " + t.name + " ALTER COLUMN " + quote(n.Name) + " " + words)
	}
	if n.Default != "" && (typed || c.Default != n.Default || name(c) != name(n)) {
		t.build("ALTER TABLE " + t.name + " ADD " + constraintName(name(n)) + "DEFAULT " + n.Default + " FOR " + quote(n.Name))
	}
}
