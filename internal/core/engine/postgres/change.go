package postgres

// How an object becomes another version of itself (documentation: "ALTER TABLE", "ALTER TYPE", "CREATE VIEW", …).

import (
	"cmp"
	"errors"
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// major returns the first number of a version, 0 where it is not known.
func major(version string) int {
	for _, word := range strings.Fields(version) {
		digits, _, _ := strings.Cut(word, ".")
		if n, err := strconv.Atoi(digits); err == nil {
			return n
		}
	}
	return 0
}

var (
	errActs     = errors.New("it would act by itself; change it by hand")
	errNotTyped = errors.New("it was read when such objects were held as statements; survey again")
)

// Change implements engine.Changer.
func (e Engine) Change(was, now *schema.Object, version string) (engine.Alteration, error) {
	was, now = modern(was), modern(now)
	made, err := e.Make(was)
	if err != nil {
		return engine.Alteration{}, err
	}
	fresh, err := e.Make(now)
	if err != nil {
		return engine.Alteration{}, err
	}
	c := changing{was: was, now: now, made: made, fresh: fresh, version: major(version), name: qualify(now.Schema, now.Name)}
	if was.Kind != now.Kind && !(ordinary(was.Kind) && ordinary(now.Kind)) || was.IsTyped() != now.IsTyped() {
		return engine.Alteration{Anew: true}, nil
	}
	switch {
	case now.Kind == schema.KindView || now.Kind == schema.KindMaterialisedView:
		c.view()
	case now.Relation != nil:
		return c.table()
	case now.Index != nil:
		c.index()
	case now.Sequence != nil:
		c.sequence()
	case now.Routine != nil:
		c.routine()
	case now.Enum != nil:
		c.enum()
	case now.Domain != nil:
		c.domain()
	case now.Composite != nil:
		c.composite()
	case now.Policy != nil:
		c.policy()
	case now.Kind == schema.KindSubscription:
		return engine.Alteration{}, errActs
	case now.Kind == schema.KindExtension:
		return c.extension()
	case now.Kind == schema.KindDefaultRights:
		c.defaultRights()
	default:
		c.out.Anew = !engine.SameMain(made, fresh)
	}
	if !c.out.Anew && c.out.Aside == "" {
		for _, s := range engine.Followers(c.made, c.fresh, c.opposite) {
			switch owned := now.Sequence != nil && strings.Contains(s.Head, " OWNED BY "); {
			case owned && strings.HasSuffix(s.Head, " OWNED BY NONE"): // before the table goes, and it with the table
				c.out.Release = append(c.out.Release, s)
			case owned, strings.Contains(s.Head, " REPLICA IDENTITY USING INDEX "), strings.Contains(s.Head, " CLUSTER ON "): // once that is there
				c.out.Links = append(c.out.Links, s)
			default:
				c.out.Build = append(c.out.Build, s)
			}
		}
	}
	return c.out, nil
}

func ordinary(k schema.Kind) bool { return k == schema.KindTable || k == schema.KindPartition }

// changing is the work on one object.
type changing struct {
	was, now    *schema.Object
	made, fresh []engine.Statement
	version     int
	name        string
	out         engine.Alteration
}

func (c *changing) build(text string, risks ...engine.Risk) {
	c.out.Build = append(c.out.Build, engine.Statement{Head: text, Risks: risks})
}

func (c *changing) release(text string, risks ...engine.Risk) {
	c.out.Release = append(c.out.Release, engine.Statement{Head: text, Risks: risks})
}

// main returns the statement that makes the new version.
func (c *changing) main() engine.Statement {
	for _, s := range c.fresh {
		if s.Action == engine.Make {
			s.Provides, s.Requires, s.Splits, s.Destroys = nil, nil, nil, nil
			return s
		}
	}
	return engine.Statement{}
}

// replace puts the definition in the place of the one that is there.
func (c *changing) replace() {
	s := c.main()
	s.Action = engine.Alter
	s.Head = engine.CreateInstead(s.Head, "CREATE OR REPLACE", rules())
	c.out.Build = append(c.out.Build, s)
}

func (c *changing) view() {
	if engine.SameMain(c.made, c.fresh) {
		return
	}
	old, now := c.was.Relation.Columns, c.now.Relation.Columns
	if c.now.Kind == schema.KindMaterialisedView {
		c.materialised()
		return
	}
	fits := len(old) <= len(now)
	for i := range old {
		fits = fits && old[i].Name == now[i].Name && old[i].Type == now[i].Type && old[i].Collation == now[i].Collation
	}
	if !fits {
		c.out.Anew = true
		return
	}
	c.replace()
}

// materialised changes what can be changed without filling it again.
func (c *changing) materialised() {
	if c.was.Relation.Query != c.now.Relation.Query || columnNames(c.was) != columnNames(c.now) {
		c.out.Anew = true
		return
	}
	c.storage("MATERIALIZED VIEW")
	if c.was.Setting("populated") != c.now.Setting("populated") {
		text := "REFRESH MATERIALIZED VIEW " + c.name
		if c.now.Setting("populated") == "no" {
			text += " WITH NO DATA"
		}
		c.build(text)
	}
}

func columnNames(o *schema.Object) string {
	var names []string
	for _, x := range o.Columns() {
		names = append(names, x.Name)
	}
	return strings.Join(names, "\x00")
}

// storage changes parameters, tablespace and access method.
func (c *changing) storage(what string) {
	alter := "ALTER " + what + " " + c.name + " "
	var reset, set []string
	for _, p := range c.was.Parameters {
		if !slices.ContainsFunc(c.now.Parameters, func(n schema.Property) bool { return n.Name == p.Name }) {
			reset = append(reset, strings.TrimSuffix(option(schema.Property{Name: p.Name}), " "))
		}
	}
	for _, p := range c.now.Parameters {
		if !slices.Contains(c.was.Parameters, p) {
			set = append(set, option(p))
		}
	}
	if len(reset) > 0 {
		c.build(alter + "RESET (" + strings.Join(reset, ", ") + ")")
	}
	if len(set) > 0 {
		c.build(alter + "SET (" + strings.Join(set, ", ") + ")")
	}
	if old, now := c.was.Setting("tablespace"), c.now.Setting("tablespace"); old != now {
		if now == "" {
			now = "pg_default"
		}
		c.build(alter+"SET TABLESPACE "+quote(now), engine.Risk{Kind: engine.Rewrites, Text: "it is copied to the other place, and nobody reads or writes it meanwhile"})
	}
	if old, now := c.was.Setting("access method"), c.now.Setting("access method"); old != now {
		if now == "" {
			now = "heap"
		}
		c.build(alter+"SET ACCESS METHOD "+quote(now), engine.Risk{Kind: engine.Rewrites, Text: "nobody reads or writes it meanwhile"})
	}
}

func (c *changing) index() {
	bare := func(o *schema.Object) string {
		plain := *o
		plain.Parameters, plain.Settings = nil, slices.DeleteFunc(slices.Clone(o.Settings), func(p schema.Property) bool { return p.Name == "tablespace" })
		made, err := Engine{}.Make(&plain)
		if err != nil || len(made) == 0 {
			return ""
		}
		return made[0].Text()
	}
	if bare(c.was) != bare(c.now) {
		c.out.Anew = true
		return
	}
	c.storage("INDEX")
}

func (c *changing) sequence() {
	old, now := c.was.Sequence, c.now.Sequence
	if text := sequenceChange(old, now); text != "" {
		c.build("ALTER SEQUENCE " + c.name + text)
	}
	if a, b := c.was.Setting("unlogged"), c.now.Setting("unlogged"); a != b {
		c.build("ALTER SEQUENCE " + c.name + " SET " + map[bool]string{true: "UNLOGGED", false: "LOGGED"}[b != ""])
	}
}

// sequenceChange returns the options that turn one sequence into another.
func sequenceChange(old, now *schema.Sequence) string {
	var b strings.Builder
	for _, o := range []struct{ words, old, now string }{
		{" AS ", old.Type, now.Type}, {" INCREMENT BY ", old.Increment, now.Increment}, {" MINVALUE ", old.Min, now.Min}, {" MAXVALUE ", old.Max, now.Max}, {" START WITH ", old.Start, now.Start}, {" CACHE ", old.Cache, now.Cache},
	} {
		switch {
		case o.old == o.now:
		case o.now != "":
			b.WriteString(o.words + o.now)
		case o.words == " MINVALUE ", o.words == " MAXVALUE ":
			b.WriteString(" NO" + strings.TrimSuffix(o.words, " "))
		case o.words == " AS ":
			b.WriteString(" AS bigint")
		case strings.HasPrefix(now.Increment, "-") && o.words == " START WITH ":
			b.WriteString(" START WITH " + cmp.Or(now.Max, "-1"))
		case o.words == " START WITH ":
			b.WriteString(" START WITH " + cmp.Or(now.Min, "1"))
		default:
			b.WriteString(o.words + "1")
		}
	}
	if old.Cycle != now.Cycle {
		b.WriteString(map[bool]string{true: " CYCLE", false: " NO CYCLE"}[now.Cycle])
	}
	return b.String()
}

func (c *changing) routine() {
	if engine.SameMain(c.made, c.fresh) {
		return
	}
	old, now := c.was.Routine, c.now.Routine
	same := c.was.Kind == c.now.Kind && c.now.Kind != schema.KindAggregate && old.Returns == now.Returns && len(old.Parameters) == len(now.Parameters)
	for i := range old.Parameters {
		if same {
			p, q := old.Parameters[i], now.Parameters[i]
			same = (p.Name == q.Name || p.Name == "") && p.Mode == q.Mode && p.Type == q.Type && (p.Default == "" || q.Default != "")
		}
	}
	if !same {
		c.out.Anew = true
		return
	}
	c.replace()
}

// enum adds values; where one is gone or has another place, the type is made beside and the columns of it converted by hand.
func (c *changing) enum() {
	old, now := c.was.Enum.Values, c.now.Enum.Values
	at := 0
	for _, v := range now {
		if at < len(old) && old[at] == v {
			at++
		}
	}
	if at < len(old) {
		if len(old) == len(now) {
			if from, to, ok := renamedValue(old, now); ok {
				c.build("ALTER TYPE " + c.name + " RENAME VALUE " + literal(from) + " TO " + literal(to))
				return
			}
		}
		c.beside()
		return
	}
	for i, v := range now {
		if slices.Contains(old, v) {
			continue
		}
		where := ""
		if i > 0 {
			where = " AFTER " + literal(now[i-1])
		} else if len(old) > 0 {
			where = " BEFORE " + literal(old[0])
		}
		c.out.Build = append(c.out.Build, engine.Statement{Head: "ALTER TYPE " + c.name + " ADD VALUE " + literal(v) + where, Alone: true})
	}
}

// beside makes the new version of a type beside the old one, which goes when no column is of it any more.
func (c *changing) beside() {
	const mark = " as it was"
	c.out.Aside = qualify(c.was.Schema, c.was.Name+mark)
	c.build("ALTER TYPE " + c.name + " RENAME TO " + quote(c.was.Name+mark))
	for _, s := range c.fresh {
		s.Provides, s.Requires, s.Wishes, s.Splits, s.Destroys = nil, nil, nil, nil, nil
		c.out.Build = append(c.out.Build, s)
	}
	c.out.Links = append(c.out.Links, engine.Statement{Head: "DROP TYPE " + c.out.Aside})
	c.out.Disturbs = []string{""}
}

// renamedValue returns the one value that has another name.
func renamedValue(old, now []string) (from, to string, ok bool) {
	for i := range old {
		if old[i] != now[i] {
			if ok || slices.Contains(now, old[i]) || slices.Contains(old, now[i]) {
				return "", "", false
			}
			from, to, ok = old[i], now[i], true
		}
	}
	return from, to, ok
}

func (c *changing) domain() {
	old, now := c.was.Domain, c.now.Domain
	if old.Type != now.Type || old.Collation != now.Collation {
		c.out.Anew = true
		return
	}
	alter := "ALTER DOMAIN " + c.name + " "
	kept := *c.was
	body := *old
	kept.Domain = &body
	body.Checks = nil
	for _, k := range old.Checks {
		i := slices.IndexFunc(now.Checks, func(n schema.Check) bool {
			return n.Name == k.Name && n.Expression == k.Expression && (n.NotValid == k.NotValid || k.NotValid)
		})
		if i < 0 {
			c.release(alter + "DROP CONSTRAINT " + quote(k.Name))
			continue
		}
		body.Checks = append(body.Checks, k)
		if k.NotValid && !now.Checks[i].NotValid {
			c.build(alter+"VALIDATE CONSTRAINT "+quote(k.Name), engine.Risk{Kind: engine.MayFail, Text: "values of columns of the domain that do not fulfil " + k.Expression})
			body.Checks[len(body.Checks)-1].NotValid = false
		}
	}
	if old.Default != now.Default {
		if now.Default == "" {
			c.build(alter + "DROP DEFAULT")
		} else {
			c.build(alter + "SET DEFAULT " + now.Default)
		}
	}
	if old.NotNull && now.NotNull && old.NotNullName != now.NotNullName {
		made := func(name string) string { return quote(cmp.Or(name, c.now.Name+"_not_null")) }
		c.build(alter + "RENAME CONSTRAINT " + made(old.NotNullName) + " TO " + made(now.NotNullName))
	}
	if old.NotNull != now.NotNull {
		if now.NotNull && now.NotNullName != "" {
			c.build(alter+"ADD CONSTRAINT "+quote(now.NotNullName)+" NOT NULL", engine.Risk{Kind: engine.MayFail, Text: "columns of the domain that hold NULL"})
		} else if now.NotNull {
			c.build(alter+"SET NOT NULL", engine.Risk{Kind: engine.MayFail, Text: "columns of the domain that hold NULL"})
		} else {
			c.build(alter + "DROP NOT NULL")
		}
	}
	for _, k := range now.Checks {
		if slices.ContainsFunc(body.Checks, func(o schema.Check) bool { return o.Name == k.Name }) || k.NotValid {
			continue // what is not validated follows
		}
		c.build(alter+"ADD CONSTRAINT "+quote(k.Name)+" CHECK ("+k.Expression+")", engine.Risk{Kind: engine.MayFail, Text: "values of columns of the domain that do not fulfil " + k.Expression})
	}
	c.remake(&kept)
}

// remake takes what is left of the old version for what follows the main statement.
func (c *changing) remake(kept *schema.Object) {
	if made, err := (Engine{}).Make(kept); err == nil {
		c.made = made
	}
}

func (c *changing) composite() {
	old, now := c.was.Composite, c.now.Composite
	alter := "ALTER TYPE " + c.name + " "
	kept := *c.was
	kept.Composite = &schema.Composite{}
	for _, a := range old.Attributes {
		i := slices.IndexFunc(now.Attributes, func(n schema.Column) bool { return n.Name == a.Name })
		if i < 0 {
			c.build(alter+"DROP ATTRIBUTE "+quote(a.Name)+" CASCADE", engine.Risk{Kind: engine.Loses, Text: "the values of " + a.Name + " in tables of this type"})
			continue
		}
		kept.Composite.Attributes = append(kept.Composite.Attributes, a)
		if n := now.Attributes[i]; n.Type != a.Type || n.Collation != a.Collation {
			c.build(alter + "ALTER ATTRIBUTE " + quote(a.Name) + " TYPE " + n.Type + collateClause(n.Collation) + " CASCADE")
		}
	}
	for _, n := range now.Attributes {
		if !slices.ContainsFunc(old.Attributes, func(a schema.Column) bool { return a.Name == n.Name }) {
			c.build(alter + "ADD ATTRIBUTE " + quote(n.Name) + " " + n.Type + collateClause(n.Collation) + " CASCADE")
		}
	}
	c.remake(&kept)
}

func (c *changing) policy() {
	old, now := c.was.Policy, c.now.Policy
	if old.Restrictive != now.Restrictive || old.Command != now.Command || old.Using != "" && now.Using == "" || old.Check != "" && now.Check == "" {
		c.out.Anew = true
		return
	}
	if engine.SameMain(c.made, c.fresh) {
		return
	}
	text := policyStatement(c.now)
	head := "CREATE POLICY " + quote(c.now.Name) + " ON " + qualify(c.now.Schema, c.now.Within)
	rest := strings.TrimPrefix(text, head)
	if now.Command != "" {
		rest = strings.Replace(rest, " FOR "+strings.ToUpper(now.Command), "", 1)
	}
	c.build("ALTER" + strings.TrimPrefix(head, "CREATE") + strings.Replace(rest, " AS RESTRICTIVE", "", 1))
}

// extension moves an extension; its version is what the server has to offer.
func (c *changing) extension() (engine.Alteration, error) {
	if a, b := c.was.Setting("schema"), c.now.Setting("schema"); a != b {
		c.build("ALTER EXTENSION " + quote(c.now.Name) + " SET SCHEMA " + quote(b))
	}
	if a, b := c.was.Setting("version"), c.now.Setting("version"); a != b && b != "" {
		c.build("ALTER EXTENSION " + quote(c.now.Name) + " UPDATE TO " + literal(b))
	}
	made, fresh := slices.Clone(c.made), slices.Clone(c.fresh)
	c.out.Build = append(c.out.Build, engine.Followers(made, fresh, c.opposite)...)
	return c.out, nil
}

// defaultRights takes back what is gone and gives what has come.
func (c *changing) defaultRights() {
	old, now := engine.Texts(c.was, rules()), engine.Texts(c.now, rules())
	for _, text := range old {
		if !slices.Contains(now, text) {
			c.build(swapGrants(text))
		}
	}
	for _, text := range now {
		if !slices.Contains(old, text) {
			c.build(text)
		}
	}
	c.made, c.fresh = nil, nil
}

// opposite returns what takes back a statement that follows the one which makes an object, "" for nothing.
func (c *changing) opposite(text string) string {
	words := strings.SplitN(text, " ", 3)
	until := func(mark string) (string, bool) { return cutOutside(text, mark) }
	switch words[0] {
	case "COMMENT":
		if head, ok := until("IS"); ok {
			return head + "IS NULL"
		}
	case "GRANT":
		text = strings.TrimSuffix(text, " WITH GRANT OPTION")
		if head, ok := cutOutside(text, "TO"); ok {
			return "REVOKE" + strings.TrimPrefix(head, "GRANT") + "FROM" + text[len(head)+2:]
		}
	case "REVOKE":
		if head, ok := until("FROM"); ok {
			return "GRANT" + strings.TrimPrefix(head, "REVOKE") + "TO" + text[len(head)+4:]
		}
	case "ALTER":
		return c.oppositeAlter(text)
	}
	return ""
}

// cutOutside returns a text up to the last of a word that stands outside of strings and quoted names.
func cutOutside(text, word string) (string, bool) {
	at := -1
	for _, t := range sqltext.Tokens(text, rules()) {
		if t.Kind == sqltext.Word && text[t.Start:t.End] == word {
			at = t.Start
		}
	}
	if at < 0 {
		return "", false
	}
	return text[:at], true
}

func (c *changing) oppositeAlter(text string) string {
	has := func(mark string) (string, bool) {
		i := strings.Index(text, mark)
		return text[:max(i, 0)], i >= 0
	}
	for _, x := range [...]struct{ mark, instead string }{
		{" ENABLE ROW LEVEL SECURITY", " DISABLE ROW LEVEL SECURITY"}, {" FORCE ROW LEVEL SECURITY", " NO FORCE ROW LEVEL SECURITY"}, {" REPLICA IDENTITY ", " REPLICA IDENTITY DEFAULT"},
		{" CLUSTER ON ", " SET WITHOUT CLUSTER"}, {" SET STATISTICS ", " SET STATISTICS -1"}, {" SET COMPRESSION ", " SET COMPRESSION DEFAULT"}, {" OWNED BY ", " OWNED BY NONE"}, {" SET DEFAULT ", " DROP DEFAULT"},
	} {
		if head, ok := has(x.mark); ok && !strings.HasPrefix(text, "ALTER TYPE") {
			return head + x.instead
		}
	}
	if head, ok := has(" SET STORAGE "); ok {
		if c.version >= 16 {
			return head + " SET STORAGE DEFAULT"
		}
		return head + " SET STORAGE EXTENDED"
	}
	if head, ok := has(" SET ("); ok {
		var names []string
		for _, p := range strings.Split(strings.Trim(text[len(head)+5:], "()"), ", ") {
			name, _, _ := strings.Cut(p, "=")
			names = append(names, strings.TrimSpace(name))
		}
		return head + " RESET (" + strings.Join(names, ", ") + ")"
	}
	for _, what := range []string{"TRIGGER", "RULE"} {
		for _, state := range []string{" DISABLE ", " ENABLE ALWAYS ", " ENABLE REPLICA "} {
			if head, ok := has(state + what + " "); ok {
				return head + " ENABLE " + what + text[len(head)+len(state)+len(what):]
			}
		}
	}
	if head, ok := strings.CutPrefix(text, "ALTER EVENT TRIGGER "); ok {
		for _, state := range []string{" DISABLE", " ENABLE ALWAYS", " ENABLE REPLICA"} {
			if name, ok := strings.CutSuffix(head, state); ok {
				return "ALTER EVENT TRIGGER " + name + " ENABLE"
			}
		}
	}
	return ""
}
