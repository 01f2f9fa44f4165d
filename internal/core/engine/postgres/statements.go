package postgres

// Statements for relations, indexes, sequences, routines and the long tail, with what of them can stand apart.

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

func qualify(schemaName, name string) string {
	if schemaName == "" {
		return quote(name)
	}
	return quote(schemaName) + "." + quote(name)
}

func literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

func list(names []string) string {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quote(n)
	}
	return strings.Join(quoted, ", ")
}

func schemaResource(name string) []engine.Resource {
	return []engine.Resource{{What: schema.SchemaNames, Name: name}}
}

func relation(schemaName, name string) engine.Resource {
	return engine.Resource{What: schema.RelationNames, Schema: schemaName, Name: name}
}

// firstRights gives the rights on the schema public that a new database has.
const firstRights = `DO $rights$ BEGIN
    GRANT USAGE ON SCHEMA public TO PUBLIC;
    IF current_setting('server_version_num')::integer < 150000 THEN
        GRANT CREATE ON SCHEMA public TO PUBLIC;
    END IF;
END $rights$`

// Surplus implements engine.Emptier: every new database has the schema public. One that holds something is not dropped.
func (Engine) Surplus(has func(schema.ID) bool) []engine.Statement {
	id := schema.ID{Kind: schema.KindSchema, Name: "public"}
	if has(id) {
		return nil
	}
	return []engine.Statement{{Subject: id, Action: engine.Drop, Head: "DROP SCHEMA IF EXISTS public"}}
}

// Make returns the statements that make an object, its comments and its owner.
func (Engine) Make(o *schema.Object) ([]engine.Statement, error) {
	o = modern(o)
	w := writer{Maker: engine.NewMaker(o, qualify(o.Schema, o.Name))}
	switch {
	case o.Kind == schema.KindSchema:
		w.Name = quote(o.Name)
		w.Main(engine.Statement{Head: "CREATE SCHEMA " + w.Name, Given: o.Name == "public"})
		w.ownerAndComment("SCHEMA")
		if o.Name == "public" {
			w.After(firstRights, ownerOf(w.Self))
			w.Statements[len(w.Statements)-1].Given = true
		}
		w.granted("SCHEMA " + w.Name)
	case o.Relation != nil && (o.Kind == schema.KindView || o.Kind == schema.KindMaterialisedView):
		w.view()
	case o.Relation != nil:
		w.table()
	case o.Index != nil:
		w.index()
	case o.Sequence != nil:
		w.sequence()
	case o.Routine != nil:
		w.routine()
	case o.Trigger != nil:
		w.trigger()
	case o.Definition != "", o.IsTyped():
		w.tail()
	default:
		return nil, fmt.Errorf("no statement is known for %s", o.ID().Qualified())
	}
	for i := range w.Statements {
		castArrays(&w.Statements[i])
		w.Statements[i].Alone = alone(w.Statements[i].Head)
		if !validUTF8(&w.Statements[i]) {
			w.Statements[i].Settings = append(slices.Clone(w.Statements[i].Settings), engine.Setting{Name: "encoding", Text: rawEncoding, Reset: "RESET client_encoding"})
		}
	}
	return w.Statements, w.Failed
}

// alone reports whether a statement cannot be in a transaction (documentation: "CREATE DATABASE", …).
func alone(text string) bool {
	return strings.HasPrefix(text, "CREATE DATABASE ") || strings.HasPrefix(text, "CREATE TABLESPACE ") || strings.HasPrefix(text, "CREATE SUBSCRIPTION ")
}

// validUTF8 reports whether a statement is UTF-8, without putting its text together.
func validUTF8(s *engine.Statement) bool {
	valid := func(s string) bool { return utf8.ValidString(s) }
	return valid(s.Head) && valid(s.Tail) && !slices.ContainsFunc(s.Items, func(item string) bool { return !valid(item) }) &&
		!slices.ContainsFunc(s.Splits, func(c engine.Split) bool { return !valid(c.Item) || !valid(c.Apart.Head) })
}

// Completes reports whether a table names an index by which its rows are told apart for replicas, or by which it is clustered.
func (Engine) Completes(table, index *schema.Object) (needed, one bool) {
	return index.Name == table.Setting(schema.ReplicaIndex) || index.Name == table.Setting(schema.ClusterIndex), false
}

type writer struct {
	engine.Maker
	unvalidated []engine.Statement // that add checks which are not validated
}

// joinsLater is the setting of a table whose columns stand in an order that inheriting them would not give: it is made
// whole, and joins its parents then.
const joinsLater = "joins its parents"

// checkOf is the resource that a statement provides which adds a check to a relation; heirsOf that of the children
// which were there before it.
func checkOf(r engine.Resource, name string) engine.Resource {
	r.What, r.Detail = "check of relation", name
	return r
}

func heirsOf(r engine.Resource, name string) engine.Resource {
	r.What, r.Detail = "heirs before the check of relation", name
	return r
}

// notValid adds a check that is not validated in a statement of its own. It goes down to the children that are there.
func (w *writer) notValid(c schema.Check, text string) {
	s := engine.Statement{Subject: w.Object.ID(), Step: len(w.unvalidated) + 1, Head: "ALTER TABLE " + w.Name + " ADD " + text + " NOT VALID",
		Undo: "ALTER TABLE " + w.Name + " DROP CONSTRAINT " + quote(c.Name), Provides: []engine.Resource{checkOf(w.Self, c.Name)}, Requires: []engine.Resource{w.Self},
		Wishes: []engine.Resource{heirsOf(w.Self, c.Name)}}
	w.unvalidated = append(w.unvalidated, s)
}

func (w *writer) ownerAndComment(what string) {
	public := w.Object.Kind == schema.KindSchema && w.Object.Name == "public"
	if w.Object.Owner != "" {
		w.After(fmt.Sprintf("ALTER %s %s OWNER TO %s", what, w.Name, quote(w.Object.Owner)))
		last := &w.Statements[len(w.Statements)-1]
		last.Provides, last.Given = []engine.Resource{ownerOf(w.Self)}, public && w.Object.Owner == "pg_database_owner"
	}
	switch {
	case public && w.Object.Comment == "": // a new database has it with one
		w.After("COMMENT ON SCHEMA public IS NULL")
	case w.Object.Comment != "":
		w.After(fmt.Sprintf("COMMENT ON %s %s IS %s", what, w.Name, literal(w.Object.Comment)))
		w.Statements[len(w.Statements)-1].Given = public && w.Object.Comment == "standard public schema"
	}
}

// ownerOf is the resource that a statement provides which gives an object to its owner.
func ownerOf(r engine.Resource) engine.Resource {
	r.What = engine.OwnerOf + r.What
	return r
}

func (w *writer) columnComments(columns []schema.Column) {
	for _, c := range columns {
		if c.Comment != "" {
			w.After(fmt.Sprintf("COMMENT ON COLUMN %s.%s IS %s", w.Name, quote(c.Name), literal(c.Comment)))
		}
	}
}

// granted adds the rights; the owner has to be settled by then.
func (w *writer) granted(on string) {
	for _, text := range grantStatements(w.Object.Grants, "", on) {
		w.After(text, ownerOf(w.Self))
	}
}

// onNotAll is what the setting "invalid" says of an index of a partitioned table that not all partitions have.
const onNotAll = "not on all partitions"

// partitionsOf is the resource that all partitions of a relation provide when they are attached.
func partitionsOf(r engine.Resource) engine.Resource {
	r.What = engine.Heirs + schema.RelationNames
	return r
}

// indexesOf is the resource that all indexes of a relation provide.
func indexesOf(r engine.Resource) engine.Resource {
	r.What = engine.Indexes + schema.RelationNames
	return r
}

// checkOption is the parameter of a view that is written behind its query.
const checkOption = "check_option"

// with writes the storage parameters and what stands behind them.
func (w *writer) with() string {
	var options []string
	for _, p := range w.Object.Parameters {
		if p.Name != checkOption {
			options = append(options, option(p))
		}
	}
	text := ""
	if method := w.Object.Setting("access method"); method != "" {
		text += " USING " + quote(method)
	}
	if len(options) > 0 {
		text += " WITH (" + strings.Join(options, ", ") + ")"
	}
	if space := w.Object.Setting("tablespace"); space != "" {
		text += " TABLESPACE " + quote(space)
	}
	return text
}

// foreignOptions writes the options of a foreign table or its column.
func foreignOptions(list []schema.Property) string {
	var options []string
	for _, p := range list {
		options = append(options, quote(p.Name)+" "+literal(p.Value))
	}
	if len(options) == 0 {
		return ""
	}
	return " OPTIONS (" + strings.Join(options, ", ") + ")"
}

// tableWriter writes the statements that make a table.
type tableWriter struct {
	*writer
	r        *schema.Relation
	s        engine.Statement
	what     string // TABLE or FOREIGN TABLE
	typed    string // the composite type that its rows are of
	heir     bool   // it inherits
	inherits bool   // and says so when it is made
	later    []string
	heirs    []engine.Resource // checks that come with the parents', once the child is there
	apart    []engine.Statement
}

func (w *writer) table() {
	t := tableWriter{writer: w, r: w.Object.Relation, typed: w.Object.Setting("of type"), what: "TABLE"}
	t.heir = len(t.r.Parents) > 0 && w.Object.Kind != schema.KindPartition
	t.inherits = t.heir && w.Object.Setting(joinsLater) == ""
	t.head()
	t.columns()
	t.constraints()
	if w.Failed != nil {
		return
	}
	t.s.Brackets = t.typed == ""
	if t.inherits {
		t.s.Provides = append(t.s.Provides, t.heirs...)
	}
	for _, k := range w.Object.Relation.Keys { // its index bears its name
		t.s.Provides = append(t.s.Provides, engine.Resource{What: schema.IndexNames, Schema: w.Object.Schema, Name: k.Name})
	}
	w.Main(t.s)
	for _, action := range t.later {
		t.alter(action)
	}
	if t.heir && !t.inherits {
		t.joinParents()
	}
	w.Statements = append(append(w.Statements, w.unvalidated...), t.apart...)
	t.properties()
}

func (t *tableWriter) alter(action string, requires ...engine.Resource) {
	t.After("ALTER "+t.what+" ONLY "+t.Name+" "+action, requires...)
}

// head writes what stands before and behind the columns.
func (t *tableWriter) head() {
	o, s := t.Object, &t.s
	if server := o.Setting("server"); server != "" {
		t.what = "FOREIGN TABLE"
		s.Tail = " SERVER " + quote(server) + foreignOptions(o.Options)
		s.Requires = append(s.Requires, engine.Resource{What: string(schema.KindServer), Name: server})
	} else {
		if by := o.Setting("partition by"); by == notRead {
			t.Failed = fmt.Errorf("the partition key of %s was not read; survey again", o.ID().Qualified())
			return
		} else if by != "" {
			s.Tail = " PARTITION BY " + by
		}
		s.Tail += t.with()
	}
	if t.inherits {
		var parents []string
		for _, p := range t.r.Parents {
			parents = append(parents, qualify(p.Schema, p.Table))
			s.Requires = append(s.Requires, relation(p.Schema, p.Table))
		}
		s.Tail = " INHERITS (" + strings.Join(parents, ", ") + ")" + s.Tail
	}
	s.Undo = "DROP " + t.what + " " + t.Name
	s.Head = "CREATE " + t.what + " " + t.Name
	if o.Setting("unlogged") != "" {
		s.Head = "CREATE UNLOGGED TABLE " + t.Name
	}
	if t.typed != "" {
		s.Head += " OF " + t.typed
	}
}

// columns writes the columns that are the table's own; a default may stand apart.
func (t *tableWriter) columns() {
	s := &t.s
	for i := range t.r.Columns {
		c := &t.r.Columns[i]
		if c.Inherited != nil && t.inherits {
			t.later = append(t.later, inheritedColumn(c)...)
			continue
		}
		if c.Setting(nullNotValid) != "" {
			t.later = append(t.later, unvalidatedNull(t.Object.Name, c))
		}
		plain := t.column(c, t.typed != "", false)
		if t.typed != "" && plain == quote(c.Name)+" WITH OPTIONS" && c.Default == "" {
			continue
		}
		s.Items = append(s.Items, plain)
		switch {
		case c.Default == "":
		case strings.Contains(c.Default, "("): // it may need what needs the table
			alter := "ALTER " + t.what + " ONLY " + t.Name + " ALTER COLUMN " + quote(c.Name)
			s.Splits = append(s.Splits, engine.Split{
				Item: t.column(c, t.typed != "", true), Place: len(s.Items), Part: c.Name,
				Apart: engine.Statement{Subject: t.Object.ID(), Step: 1, Head: alter + " SET DEFAULT " + c.Default, Requires: []engine.Resource{t.Self}, Undo: alter + " DROP DEFAULT"},
			})
		default:
			s.Items[len(s.Items)-1] = t.column(c, t.typed != "", true)
		}
	}
}

// constraints writes keys, exclusions, checks and foreign keys.
func (t *tableWriter) constraints() {
	s := &t.s
	for _, k := range t.r.Keys {
		s.Items = append(s.Items, t.key(k))
	}
	for _, x := range t.r.Exclusions {
		if schema.SettingOf(x.Settings, ofWhole) != "" { // the server makes it when the partition is attached, and takes no other for it
			continue
		}
		if x.Definition == "" {
			t.Failed = fmt.Errorf("the definition of the exclusion constraint %s of %s was not read; survey again", x.Name, t.Object.ID().Qualified())
			return
		}
		s.Items = append(s.Items, "CONSTRAINT "+quote(x.Name)+" "+x.Definition)
	}
	for _, c := range t.r.Checks {
		if c.Expression == "" {
			t.Failed = fmt.Errorf("the expression of the check constraint %s of %s was not read; survey again", c.Name, t.Object.ID().Qualified())
			return
		}
		t.check(c)
	}
	for _, f := range t.r.ForeignKeys {
		cut := t.foreignKey(f)
		if f.NotValid {
			t.apart = append(t.apart, cut.Apart)
		} else {
			s.Splits = append(s.Splits, cut)
		}
	}
}

// check writes a check that is the table's own; one that calls something may stand apart.
func (t *tableWriter) check(c schema.Check) {
	s := &t.s
	if c.Inherited && t.heir {
		for _, p := range t.r.Parents {
			if c.NotValid { // it comes with the parent's, once the child is there
				t.heirs = append(t.heirs, heirsOf(relation(p.Schema, p.Table), c.Name))
			} else {
				s.Wishes = append(s.Wishes, checkOf(relation(p.Schema, p.Table), c.Name))
			}
		}
		return
	}
	text := fmt.Sprintf("CONSTRAINT %s CHECK (%s)", quote(c.Name), c.Expression)
	if c.NoInherit {
		text += " NO INHERIT"
	}
	if schema.SettingOf(c.Settings, notEnforced) != "" {
		text += " NOT ENFORCED"
	}
	switch {
	case c.NotValid:
		t.notValid(c, text)
	case strings.Contains(c.Expression, "("):
		s.Splits = append(s.Splits, engine.Split{Item: text, Part: c.Name, Apart: engine.Statement{
			Subject: t.Object.ID(), Step: 1, Head: "ALTER " + t.what + " " + t.Name + " ADD " + text, Requires: []engine.Resource{t.Self},
			Undo: "ALTER " + t.what + " " + t.Name + " DROP CONSTRAINT " + quote(c.Name)}})
	default:
		s.Items = append(s.Items, text)
	}
}

// joinParents makes a table that was made whole an heir.
func (t *tableWriter) joinParents() {
	for _, p := range t.r.Parents {
		parent := relation(p.Schema, p.Table)
		t.After("ALTER TABLE "+t.Name+" INHERIT "+qualify(p.Schema, p.Table), parent)
		last := &t.Statements[len(t.Statements)-1]
		last.Undo = "ALTER TABLE " + t.Name + " NO INHERIT " + qualify(p.Schema, p.Table)
		for _, h := range t.heirs {
			if h.Schema == p.Schema && h.Name == p.Table {
				last.Provides = append(last.Provides, h)
			}
		}
	}
}

// properties writes what is said of a table once it is there.
func (t *tableWriter) properties() {
	w, r, alter := t.writer, t.r, t.alter
	for i := range r.Columns {
		for _, action := range columnActions(&r.Columns[i]) {
			alter("ALTER COLUMN " + quote(r.Columns[i].Name) + " " + action)
		}
	}
	if w.Object.Setting("row security") != "" {
		alter("ENABLE ROW LEVEL SECURITY")
	}
	if w.Object.Setting("force row security") != "" {
		alter("FORCE ROW LEVEL SECURITY")
	}
	if identity := w.Object.Setting("replica identity"); identity != "" {
		alter("REPLICA IDENTITY " + strings.ToUpper(identity))
	}
	if index := w.Object.Setting(schema.ReplicaIndex); index != "" {
		alter("REPLICA IDENTITY USING INDEX "+quote(index), indexesOf(w.Self))
	}
	if index := w.Object.Setting(schema.ClusterIndex); index != "" {
		w.After("ALTER TABLE "+w.Name+" CLUSTER ON "+quote(index), indexesOf(w.Self))
	}
	for _, p := range w.Object.Settings { // triggers that the table has of a whole, and that fire otherwise here
		if name, ok := strings.CutPrefix(p.Name, partTrigger); ok {
			w.After("ALTER TABLE " + w.Name + " " + strings.ToUpper(p.Value) + " TRIGGER " + quote(name))
			w.Statements[len(w.Statements)-1].Late = true
		}
	}
	if w.Object.Kind == schema.KindPartition {
		for _, p := range r.Parents {
			parent := relation(p.Schema, p.Table)
			w.After("ALTER TABLE ONLY "+qualify(p.Schema, p.Table)+" ATTACH PARTITION "+w.Name+" "+p.Bound, parent, indexesOf(parent), indexesOf(w.Self))
			last := &w.Statements[len(w.Statements)-1]
			last.Provides = []engine.Resource{indexesOf(w.Self), partitionsOf(parent)}
			last.Undo = "ALTER TABLE ONLY " + qualify(p.Schema, p.Table) + " DETACH PARTITION " + w.Name
		}
	}
	w.ownerAndComment(t.what)
	w.granted("TABLE " + w.Name)
	w.numbered(r.Columns)
	w.columnComments(r.Columns)
	onTable := func(name, text string) {
		if text != "" {
			w.After(fmt.Sprintf("COMMENT ON CONSTRAINT %s ON %s IS %s", quote(name), w.Name, literal(text)))
		}
	}
	onIndex := func(name string, settings []schema.Property) {
		if text := schema.SettingOf(settings, keyIndexComment); text != "" {
			w.After("COMMENT ON INDEX " + qualify(w.Object.Schema, name) + " IS " + literal(text))
		}
	}
	for _, k := range r.Keys {
		onTable(k.Name, k.Comment)
		onIndex(k.Name, k.Settings)
	}
	for _, c := range r.Checks {
		onTable(c.Name, c.Comment)
	}
	for i := range r.Columns {
		onTable(nullNamed(w.Object.Name, &r.Columns[i]), r.Columns[i].Setting(nullComment))
	}
	for _, x := range r.Exclusions {
		onTable(x.Name, x.Comment)
		onIndex(x.Name, x.Settings)
	}
	for _, f := range r.ForeignKeys {
		if f.Comment != "" {
			onTable(f.Name, f.Comment)
			last := &w.Statements[len(w.Statements)-1]
			last.Requires = append(last.Requires, w.foreignKeyResource(f))
		}
	}
}

// inheritedColumn returns what sets an inherited column apart from its parent's.
func inheritedColumn(c *schema.Column) []string {
	var actions []string
	if c.Inherited.OwnDefault {
		action := "DROP DEFAULT"
		if c.Default != "" {
			action = "SET DEFAULT " + c.Default
		}
		actions = append(actions, "ALTER COLUMN "+quote(c.Name)+" "+action)
	}
	if c.Inherited.OwnNull && c.NotNull {
		actions = append(actions, "ALTER COLUMN "+quote(c.Name)+" SET NOT NULL")
	}
	return actions
}

// columnActions returns what is settled of a column after its table is made.
func columnActions(c *schema.Column) []string {
	var actions []string
	for _, p := range c.Settings {
		switch p.Name {
		case "storage":
			actions = append(actions, "SET STORAGE "+strings.ToUpper(p.Value))
		case "compression":
			actions = append(actions, "SET COMPRESSION "+p.Value)
		case "statistics":
			actions = append(actions, "SET STATISTICS "+p.Value)
		}
	}
	if len(c.Parameters) > 0 {
		actions = append(actions, "SET ("+schema.JoinParameters(c.Parameters)+")")
	}
	return actions
}

func (w *writer) foreignKeyResource(f schema.ForeignKey) engine.Resource {
	return engine.Resource{What: schema.ForeignKeyNames, Schema: w.Object.Schema, Name: f.Name, Detail: w.Object.Name}
}

func option(p schema.Property) string {
	name := quote(p.Name)
	if rest, ok := strings.CutPrefix(p.Name, "toast."); ok {
		name = "toast." + quote(rest)
	}
	if p.Value == "" {
		return name
	}
	return name + " = " + literal(p.Value)
}

func (w *writer) column(c *schema.Column, typed, withDefault bool) string {
	b := quote(c.Name) + " " + c.Type
	if typed {
		b = quote(c.Name) + " WITH OPTIONS"
	} else {
		b += foreignOptions(c.Options)
		if c.Collation != "" {
			b += " COLLATE " + c.Collation
		}
	}
	switch {
	case c.Identity != nil:
		b += " GENERATED " + strings.ToUpper(c.Identity.Mode) + " AS IDENTITY"
		b += identityOptions(c.Identity)
	case c.Generated != nil:
		b += " GENERATED ALWAYS AS (" + c.Generated.Expression + ")"
		if c.Generated.Stored {
			b += " STORED"
		} else {
			b += " VIRTUAL"
		}
	case c.Default != "" && withDefault:
		b += " DEFAULT " + c.Default
	}
	if c.NotNull && c.Setting(nullNotValid) == "" {
		if name := c.Setting(nullName); name != "" {
			b += " CONSTRAINT " + quote(name)
		}
		b += " NOT NULL"
		if c.Setting(nullNoInherit) != "" {
			b += " NO INHERIT"
		}
	}
	return b
}

// identityOptions writes the options of the sequence of an identity column, in brackets.
func identityOptions(n *schema.Numbering) string {
	text := ""
	if n.SequenceName != "" {
		text = "SEQUENCE NAME " + n.SequenceName
	}
	if n.Sequence != nil {
		text = strings.TrimSpace(text + " " + strings.TrimSpace(sequenceOptions(n.Sequence)))
	}
	if text == "" {
		return ""
	}
	return " (" + text + ")"
}

// numbered writes what is said of the sequences of identity columns.
func (w *writer) numbered(columns []schema.Column) {
	for i := range columns {
		n := columns[i].Identity
		if n == nil {
			continue
		}
		name := cmp.Or(n.SequenceName, qualify(w.Object.Schema, w.Object.Name+"_"+columns[i].Name+"_seq"))
		if n.Persistence != "" {
			w.After("ALTER SEQUENCE " + name + " SET " + strings.ToUpper(n.Persistence))
		}
		if n.Comment != "" {
			w.After("COMMENT ON SEQUENCE " + name + " IS " + literal(n.Comment))
		}
		for _, text := range grantStatements(n.Grants, "", "SEQUENCE "+name) {
			w.After(text, ownerOf(w.Self))
		}
	}
}

// Settings of columns that cannot be null, of what there is to say of the constraint (since 18).
const (
	nullName      = "not null name"
	nullNotValid  = "not null not valid"
	nullNoInherit = "not null no inherit"
	nullComment   = "not null comment"
)

// nullNamed returns the name of the not-null constraint of a column.
func nullNamed(table string, c *schema.Column) string {
	return cmp.Or(c.Setting(nullName), table+"_"+c.Name+"_not_null")
}

// unvalidatedNull is the action that adds a not-null constraint which is not validated.
func unvalidatedNull(table string, c *schema.Column) string {
	text := "ADD CONSTRAINT " + quote(nullNamed(table, c)) + " NOT NULL " + quote(c.Name)
	if c.Setting(nullNoInherit) != "" {
		text += " NO INHERIT"
	}
	return text + " NOT VALID"
}

func timing(t string) string {
	switch t {
	case "deferrable":
		return " DEFERRABLE"
	case "initially deferred":
		return " DEFERRABLE INITIALLY DEFERRED"
	}
	return ""
}

func (w *writer) key(k schema.Key) string {
	b := "CONSTRAINT " + quote(k.Name)
	if k.Primary {
		b += " PRIMARY KEY ("
	} else {
		b += " UNIQUE "
		if schema.SettingOf(k.Settings, "nulls not distinct") != "" {
			b += "NULLS NOT DISTINCT "
		}
		b += "("
	}
	b += list(k.ColumnNames())
	if schema.SettingOf(k.Settings, withoutOverlaps) != "" {
		b += " WITHOUT OVERLAPS"
	}
	b += ")"
	if len(k.Include) > 0 {
		b += " INCLUDE (" + list(k.Include) + ")"
	}
	if options := schema.SettingOf(k.Settings, keyParameters); options != "" {
		b += " WITH (" + options + ")"
	}
	if space := schema.SettingOf(k.Settings, "tablespace"); space != "" {
		b += " USING INDEX TABLESPACE " + quote(space)
	}
	return b + timing(k.Timing)
}

// partTrigger stands in front of the name of a trigger that a partition has of its whole.
const partTrigger = "trigger "

// Settings of keys and references.
const (
	withoutOverlaps = "without overlaps" // the last column is a range, and no two overlap
	keyParameters   = "parameters"       // of a key's index
	keyIndexComment = "index comment"
	notEnforced     = "not enforced"
	ofWhole         = "of the whole" // an exclusion constraint of a partition that the whole has
)

// periodList writes columns of which the last is a period.
func periodList(columns []string) string {
	last := len(columns) - 1
	text := "PERIOD " + quote(columns[last])
	if last > 0 {
		text = list(columns[:last]) + ", " + text
	}
	return text
}

// foreignKey returns the constraint as an item that can stand apart.
func (w *writer) foreignKey(f schema.ForeignKey) engine.Split {
	from, to := list(f.Columns), list(f.RefColumns)
	if schema.SettingOf(f.Settings, withoutOverlaps) != "" && len(f.Columns) > 0 && len(f.RefColumns) > 0 {
		from, to = periodList(f.Columns), periodList(f.RefColumns)
	}
	text := fmt.Sprintf("CONSTRAINT %s FOREIGN KEY (%s) REFERENCES %s (%s)", quote(f.Name), from, qualify(f.RefSchema, f.RefTable), to)
	if f.Match != "" {
		text += " MATCH " + strings.ToUpper(f.Match)
	}
	if f.OnUpdate != "" {
		text += " ON UPDATE " + strings.ToUpper(f.OnUpdate)
	}
	if f.OnDelete != "" {
		text += " ON DELETE " + strings.ToUpper(f.OnDelete)
		if len(f.SetColumns) > 0 {
			text += " (" + list(f.SetColumns) + ")"
		}
	}
	text += timing(f.Timing)
	if schema.SettingOf(f.Settings, notEnforced) != "" {
		text += " NOT ENFORCED"
	}
	apart := "ALTER TABLE " + w.Name + " ADD " + text
	if f.NotValid {
		apart += " NOT VALID"
	}
	needs := []engine.Resource{relation(f.RefSchema, f.RefTable)}
	if f.RefIndex != "" {
		needs = append(needs, engine.Resource{What: schema.IndexNames, Schema: f.RefSchema, Name: f.RefIndex})
	}
	subject := w.Object.ID()
	subject.Kind = schema.KindForeignKey
	subject.Signature = f.Name
	return engine.Split{Item: text, Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: needs, Apart: engine.Statement{
		Subject: subject, Head: apart, Undo: "ALTER TABLE " + w.Name + " DROP CONSTRAINT " + quote(f.Name), Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: append([]engine.Resource{w.Self}, needs...),
	}}
}

func (w *writer) view() {
	r := w.Object.Relation
	if r.Query == "" {
		w.Failed = fmt.Errorf("the query of %s was not read; survey again", w.Object.ID().Qualified())
		return
	}
	names := make([]string, len(r.Columns))
	for i, c := range r.Columns {
		names[i] = c.Name
	}
	what := strings.Replace(strings.ToUpper(string(w.Object.Kind)), "MATERIALISED", "MATERIALIZED", 1)
	head := "CREATE " + what + " " + w.Name
	if len(names) > 0 {
		head += " (" + list(names) + ")"
	}
	head += w.with()
	tail := ""
	if check := schema.SettingOf(w.Object.Parameters, checkOption); check != "" {
		tail = "\nWITH " + strings.ToUpper(check) + " CHECK OPTION"
	}
	if w.Object.Setting("populated") == "no" {
		tail += "\nWITH NO DATA"
	}
	s := engine.Statement{Head: head + " AS\n" + r.Query + tail, Undo: "DROP " + what + " " + w.Name}
	if what == "VIEW" && len(r.Columns) > 0 {
		s.Splits = append(s.Splits, w.viewStub(s.Head))
	}
	w.Main(s)
	for _, c := range r.Columns {
		if c.Default != "" {
			w.After(fmt.Sprintf("ALTER VIEW %s ALTER COLUMN %s SET DEFAULT %s", w.Name, quote(c.Name), c.Default))
		}
		for _, action := range columnActions(&c) {
			w.After("ALTER " + what + " " + w.Name + " ALTER COLUMN " + quote(c.Name) + " " + action)
		}
	}
	if index := w.Object.Setting(schema.ClusterIndex); index != "" {
		w.After("ALTER "+what+" "+w.Name+" CLUSTER ON "+quote(index), indexesOf(w.Self))
	}
	w.ownerAndComment(what)
	w.granted("TABLE " + w.Name)
	w.columnComments(r.Columns)
}

// viewStub splits off a view of the same columns that reads nothing.
func (w *writer) viewStub(head string) engine.Split {
	var columns []string
	for _, c := range w.Object.Relation.Columns {
		text := "NULL::" + c.Type
		if c.Collation != "" {
			text += " COLLATE " + c.Collation
		}
		columns = append(columns, text+" AS "+quote(c.Name))
	}
	s := engine.Statement{Subject: w.Object.ID(), Action: engine.Make, Step: -1, Head: "CREATE VIEW " + w.Name + " AS\nSELECT " + strings.Join(columns, ", "), Undo: "DROP VIEW " + w.Name,
		Provides: []engine.Resource{w.Self}}
	if w.Object.Schema != "" {
		s.Requires = schemaResource(w.Object.Schema)
	}
	orReplace := func(text string) string { return strings.Replace(text, "CREATE VIEW", "CREATE OR REPLACE VIEW", 1) }
	return engine.Split{First: true, Apart: s, Rest: orReplace(head), RestUndo: orReplace(s.Head)}
}

// partsOf are the indexes of partitions that are attached to one of a partitioned table by hand; they are made before it.
func partsOf(schemaName, name string) engine.Resource {
	return engine.Resource{What: "parts of " + schema.IndexNames, Schema: schemaName, Name: name}
}

func (w *writer) index() {
	x := w.Object.Index
	b := "CREATE "
	if x.Unique {
		b += "UNIQUE "
	}
	b += "INDEX " + quote(w.Object.Name) + " ON "
	only := w.Object.Setting("invalid") == onNotAll
	if only {
		b += "ONLY "
	}
	b += qualify(w.Object.Schema, x.Table)
	if x.Method != "" {
		b += " USING " + quote(x.Method)
	}
	parts := make([]string, len(x.Columns))
	for i, p := range x.Columns {
		parts[i] = quote(p.Column)
		if p.Expression != "" {
			parts[i] = "(" + p.Expression + ")"
		} else if p.Column == "" {
			w.Failed = fmt.Errorf("an expression of %s was not read; survey again", w.Object.ID().Qualified())
			return
		}
		if p.Collation != "" {
			parts[i] += " COLLATE " + p.Collation
		}
		if p.OpClass != "" {
			parts[i] += " " + p.OpClass
		}
		if p.Descending {
			parts[i] += " DESC"
		}
		if p.Nulls != "" {
			parts[i] += " NULLS " + strings.ToUpper(p.Nulls)
		}
	}
	b += " (" + strings.Join(parts, ", ") + ")"
	if len(x.Include) > 0 {
		b += " INCLUDE (" + list(x.Include) + ")"
	}
	if len(x.Settings) > 0 {
		b += " NULLS NOT DISTINCT"
	}
	b += w.with()
	if x.Where != "" {
		b += " WHERE (" + x.Where + ")"
	}
	on := relation(w.Object.Schema, x.Table)
	if only { // on a table without partitions it would be valid, and partitions that are attached later would get it
		w.Main(engine.Statement{Head: b, Requires: []engine.Resource{on}, Wishes: []engine.Resource{partitionsOf(on), partsOf(w.Object.Schema, w.Object.Name)}})
	} else {
		s := engine.Statement{Head: b, Requires: []engine.Resource{on}, Provides: []engine.Resource{indexesOf(on)}}
		if x.PartOf != nil { // it goes with the whole, which cannot spare it
			s.Undo = "DROP INDEX IF EXISTS " + w.Name
			s.Provides = append(s.Provides, partsOf(x.PartOf.Schema, x.PartOf.Name))
		}
		w.Main(s)
	}
	if whole := x.PartOf; whole != nil {
		w.After("ALTER INDEX "+qualify(whole.Schema, whole.Name)+" ATTACH PARTITION "+w.Name, engine.Resource{What: schema.IndexNames, Schema: whole.Schema, Name: whole.Name})
	}
	for i, p := range x.Columns {
		if p.Statistics != "" {
			w.After(fmt.Sprintf("ALTER INDEX %s ALTER COLUMN %d SET STATISTICS %s", w.Name, i+1, p.Statistics))
		}
	}
	if w.Object.Comment != "" { // an index belongs to the owner of its table
		w.After(fmt.Sprintf("COMMENT ON INDEX %s IS %s", w.Name, literal(w.Object.Comment)))
	}
}

func sequenceOptions(s *schema.Sequence) string {
	var b strings.Builder
	for _, o := range []struct{ words, value string }{
		{" AS ", s.Type}, {" INCREMENT BY ", s.Increment}, {" MINVALUE ", s.Min}, {" MAXVALUE ", s.Max}, {" START WITH ", s.Start}, {" CACHE ", s.Cache},
	} {
		if o.value != "" && !(o.words == " AS " && o.value == "bigint") {
			b.WriteString(o.words + o.value)
		}
	}
	if s.Cycle {
		b.WriteString(" CYCLE")
	}
	return b.String()
}

func (w *writer) sequence() {
	s := w.Object.Sequence
	head := "CREATE SEQUENCE "
	if w.Object.Setting("unlogged") != "" {
		head = "CREATE UNLOGGED SEQUENCE "
	}
	w.Main(engine.Statement{Head: head + w.Name + sequenceOptions(s)})
	w.ownerAndComment("SEQUENCE")
	w.granted("SEQUENCE " + w.Name)
	if s.OwnedBy != "" {
		w.After(fmt.Sprintf("ALTER SEQUENCE %s OWNED BY %s.%s", w.Name, qualify(w.Object.Schema, s.OwnedBy), quote(s.OwnedCol)), relation(w.Object.Schema, s.OwnedBy),
			ownerOf(w.Self), ownerOf(relation(w.Object.Schema, s.OwnedBy))) // both have to have the same owner by then
		w.Statements[len(w.Statements)-1].Undo = "ALTER SEQUENCE " + w.Name + " OWNED BY NONE"
	}
}

// bodiesLater lets routines be made before what their bodies mention.
var bodiesLater = []engine.Setting{{Name: "bodies", Text: "SET check_function_bodies = off", Reset: "RESET check_function_bodies"}}

func (w *writer) routine() {
	w.Name += "(" + w.Object.Signature + ")"
	if w.Object.Routine.Definition == "" {
		w.Failed = fmt.Errorf("the definition of %s was not read; survey again", w.Object.ID().Qualified())
		return
	}
	language := strings.ToLower(w.Object.Routine.Language)
	w.Main(engine.Statement{Head: strings.TrimRight(w.Object.Routine.Definition, "; \n"), Settings: bodiesLater, FirstForms: language == "c" || language == "internal"})
	if w.Statements[0].FirstForms { // it may go with a type that is made of it
		w.Statements[0].Undo = strings.Replace(w.Statements[0].Undo, " "+w.Name, " IF EXISTS "+w.Name, 1)
	}
	w.ownerAndComment(strings.ToUpper(string(w.Object.Kind)))
	w.granted(strings.ToUpper(string(w.Object.Kind)) + " " + w.Name)
}

// tail writes an object that is kept as a statement.
func (w *writer) tail() {
	o := w.Object
	name := identity(o)
	made := engine.Texts(o, rules())
	if o.IsTyped() {
		made = []string{typedStatement(o)}
	}
	s := engine.Statement{Head: made[0], Undo: "DROP " + name}
	switch o.Kind {
	case schema.KindExtension:
		if home := o.Setting("schema"); home != "pg_catalog" {
			s.Requires = schemaResource(home)
		}
	case schema.KindEventTrigger:
		s.Late = true // it would fire on the statements behind it
	case schema.KindDefaultRights:
		s.Late = true // they would change the rights of the objects behind them
		s.Undo = swapGrants(made[0])
	case schema.KindSubscription:
		s.Late = true
		s.UndoFirst = "ALTER SUBSCRIPTION " + quote(o.Name) + " SET (slot_name = NONE)"
	}
	if o.Within != "" {
		s.Requires = append(s.Requires, relation(o.Schema, o.Within))
	}
	if o.Setting("shell") != "" {
		s.Undo = "DROP TYPE IF EXISTS " + qualify(o.Schema, o.Name)
		s.Provides = []engine.Resource{engine.WholeOf(w.Self)}
		s.Splits = append(s.Splits, engine.Split{First: true, RestUndo: dropWithRoutines(o), Apart: engine.Statement{Subject: o.ID(), Action: engine.Make, Step: -1,
			Head: "CREATE TYPE " + qualify(o.Schema, o.Name), Undo: s.Undo, Provides: []engine.Resource{w.Self}, Requires: schemaResource(o.Schema)}})
	}
	late := s.Late
	w.Main(s)
	for _, more := range made[1:] {
		w.After(more)
		if o.Kind == schema.KindDefaultRights {
			w.Statements[len(w.Statements)-1].Undo = swapGrants(more)
		}
	}
	w.typedParts()
	if o.Owner != "" {
		w.After("ALTER " + name + " OWNER TO " + quote(o.Owner))
		w.Statements[len(w.Statements)-1].Provides = []engine.Resource{ownerOf(w.Self)}
	}
	if state := o.Setting("fires"); state != "" {
		if o.Kind == schema.KindEventTrigger {
			w.After("ALTER " + name + " " + strings.ToUpper(strings.Replace(state, "fires ", "", 1)))
		} else {
			w.After("ALTER TABLE " + qualify(o.Schema, o.Within) + " " + strings.ToUpper(state) + " RULE " + quote(o.Name))
		}
	}
	if target := o.Setting("target"); target != "" {
		w.After("ALTER " + name + " SET STATISTICS " + target)
	}
	if o.Comment != "" {
		w.After("COMMENT ON " + name + " IS " + literal(o.Comment))
	}
	switch o.Kind {
	case schema.KindAggregate:
		w.granted("FUNCTION " + qualify(o.Schema, o.Name) + "(" + o.Signature + ")")
	case schema.KindWrapper:
		w.granted(name)
	case schema.KindServer:
		w.granted("FOREIGN " + name)
	case schema.KindDatabase, schema.KindTablespace:
		w.granted(name)
	case schema.KindLanguage:
		w.granted(name)
	case schema.KindEnum, schema.KindComposite, schema.KindRange, schema.KindBaseType, schema.KindDomain:
		w.granted("TYPE " + qualify(o.Schema, o.Name))
	}
	for i := range w.Statements {
		w.Statements[i].Late = late
		if i > 0 && o.Setting("shell") != "" {
			w.Statements[i].Requires = append(w.Statements[i].Requires, engine.WholeOf(w.Self))
		}
	}
}

// dropWithRoutines returns the statement that drops a type together with the routines that it is made of: each needs
// the other, so that the server takes no order but CASCADE. Where anything else needs the type it stops.
func dropWithRoutines(o *schema.Object) string {
	name := qualify(o.Schema, o.Name)
	return `DO $drop$ BEGIN
    IF EXISTS (SELECT FROM pg_depend d JOIN pg_type t ON t.oid = d.refobjid WHERE d.refclassid = 'pg_type'::regclass AND d.deptype = 'n'
        AND (t.oid = ` + literal(name) + `::regtype OR t.typelem = ` + literal(name) + `::regtype AND t.typlen = -1)
        AND NOT (d.classid = 'pg_proc'::regclass AND EXISTS (SELECT FROM pg_proc p JOIN pg_language l ON l.oid = p.prolang WHERE p.oid = d.objid AND l.lanname IN ('c', 'internal')))) THEN
        RAISE EXCEPTION '% is still needed', ` + literal(name) + `;
    END IF;
    DROP TYPE ` + name + ` CASCADE;
END $drop$`
}

// swapGrants returns the statement that takes back one that grants or revokes.
func swapGrants(text string) string {
	if before, rest, ok := strings.Cut(text, " GRANT "); ok {
		rest = strings.TrimSuffix(rest, " WITH GRANT OPTION")
		at := strings.LastIndex(rest, " TO ")
		return before + " REVOKE " + rest[:at] + " FROM " + rest[at+4:]
	}
	if before, rest, ok := strings.Cut(text, " REVOKE "); ok {
		at := strings.LastIndex(rest, " FROM ")
		return before + " GRANT " + rest[:at] + " TO " + rest[at+6:]
	}
	return text
}

func (w *writer) trigger() {
	t := w.Object.Trigger
	if t.Definition == "" {
		w.Failed = fmt.Errorf("the definition of %s was not read; survey again", w.Object.ID().Qualified())
		return
	}
	on := " ON " + qualify(w.Object.Schema, t.Table)
	w.Main(engine.Statement{Head: t.Definition, Undo: "DROP TRIGGER " + quote(w.Object.Name) + on, Requires: []engine.Resource{relation(w.Object.Schema, t.Table)}})
	if state := w.Object.Setting("fires"); state != "" {
		w.After("ALTER TABLE " + qualify(w.Object.Schema, t.Table) + " " + strings.ToUpper(state) + " TRIGGER " + quote(w.Object.Name))
	} else if t.Disabled {
		w.After("ALTER TABLE " + qualify(w.Object.Schema, t.Table) + " DISABLE TRIGGER " + quote(w.Object.Name))
	}
	if w.Object.Comment != "" {
		w.After(fmt.Sprintf("COMMENT ON TRIGGER %s%s IS %s", quote(w.Object.Name), on, literal(w.Object.Comment)))
	}
}
