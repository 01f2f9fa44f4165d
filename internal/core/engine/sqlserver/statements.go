package sqlserver

// Statements in batches: what is a module is its own text, all else is put together.

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

func itoa(n int) string { return strconv.Itoa(n) }

func qualify(schemaName, name string) string {
	if schemaName == "" {
		return quote(name)
	}
	return quote(schemaName) + "." + quote(name)
}

func list(names []string) string {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quote(n)
	}
	return strings.Join(quoted, ", ")
}

func relation(schemaName, name string) engine.Resource {
	return engine.Resource{What: schema.RelationNames, Schema: schemaName, Name: name}
}

// Make returns the statements that make an object, its description and its rights.
func (Engine) Make(o *schema.Object) ([]engine.Statement, error) {
	w := writer{engine.NewMaker(o, qualify(o.Schema, o.Name))}
	switch {
	case o.Kind == schema.KindSchema:
		w.Name = quote(o.Name)
		if o.Name != "dbo" { // every database has that one
			text := "CREATE SCHEMA " + w.Name
			if o.Owner != "" && o.Owner != "dbo" {
				text += " AUTHORIZATION " + quote(o.Owner)
			}
			w.Main(engine.Statement{Head: text})
		}
		w.finish("SCHEMA::"+w.Name, "SCHEMA", "", "")
	case o.Kind == schema.KindTableType:
		w.tableType()
	case o.Kind == schema.KindTable:
		w.table()
	case o.Index != nil:
		w.index()
	case o.Sequence != nil:
		w.sequence()
	case o.Kind == schema.KindView:
		w.module(o.Relation.Head+o.Relation.Query+o.Relation.Tail, "VIEW")
	case o.Routine != nil:
		w.module(o.Routine.Definition, strings.ToUpper(string(o.Kind)))
		w.numberedOnes()
	case o.Trigger != nil:
		w.module(o.Trigger.Definition, "TRIGGER")
		if o.Trigger.Disabled {
			w.After("DISABLE TRIGGER " + w.Name + " ON " + qualify(o.Schema, o.Within))
		}
		w.order(w.Name, "")
	case o.Kind == schema.KindDatabaseTrigger:
		w.Name = quote(o.Name)
		w.module(o.Definition, "TRIGGER")
		if w.Object.Setting("fires") == "disable" {
			w.After("DISABLE TRIGGER " + w.Name + " ON DATABASE")
		}
		w.order(o.Name, ", @namespace = N'DATABASE'")
		for i := range w.Statements { // it would fire on the statements behind it, and what is said of it comes after it
			w.Statements[i].Late = true
		}
		if len(w.Statements) > 0 {
			w.Statements[0].Undo += " ON DATABASE"
		}
	case o.Kind == schema.KindRule, o.Kind == schema.KindDefault:
		w.module(o.Definition, strings.ToUpper(string(o.Kind)))
	case o.Kind == schema.KindFileGroup:
		w.fileGroup()
	case o.Definition != "", o.Synonym != nil:
		w.definition()
	default:
		return nil, fmt.Errorf("no statement is known for %s", o.ID().Qualified())
	}
	w.owner()
	for i := range w.Statements {
		s := &w.Statements[i]
		s.Settings = sessionOf(s.Settings)
	}
	return w.Statements, w.Failed
}

// order says which trigger of several fires first or last.
func (w *writer) order(name, space string) {
	for _, p := range w.Object.Settings {
		if place, ok := strings.CutPrefix(p.Name, "fires "); ok && w.Failed == nil {
			w.After("EXEC sys.sp_settriggerorder @triggername = " + literal(name) + ", @order = N'" + strings.ToUpper(place[:1]) + place[1:] + "', @stmttype = " + literal(p.Value) + space)
		}
	}
}

// owner hands an object over that somebody else has than its schema's owner.
func (w *writer) owner() {
	o := w.Object
	class := ""
	switch {
	case o.Owner == "" || w.Failed != nil || len(w.Statements) == 0:
		return
	case o.Kind.IsRelation(), o.Kind.IsRoutine(), o.Kind == schema.KindSequence, o.Kind == schema.KindSynonym, o.Kind == schema.KindSecurityPolicy:
		class = "OBJECT"
	case o.Kind.IsType():
		class = "TYPE"
	default:
		return
	}
	w.After("ALTER AUTHORIZATION ON " + class + "::" + w.Name + " TO " + quote(o.Owner))
}

// needed are the options without which filtered, XML and spatial indexes, indexes on views and on computed columns cannot be made or
// used (documentation: "SET options that affect results", "CREATE INDEX").
var needed = []engine.Setting{
	{Name: "session", Text: "SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON\nSET NUMERIC_ROUNDABORT OFF"},
	{Name: "ansi nulls", Text: "SET ANSI_NULLS ON"}, {Name: "quoted identifier", Text: "SET QUOTED_IDENTIFIER ON"},
}

// sessionOf returns the settings of a statement: a module's own, and for all else those that are needed, so that none leaks from one
// statement into another.
func sessionOf(own []engine.Setting) []engine.Setting {
	all := slices.Clone(needed)
	for _, s := range own {
		if i := slices.IndexFunc(all, func(n engine.Setting) bool { return n.Name == s.Name }); i >= 0 {
			all[i] = s
		} else {
			all = append(all, s)
		}
	}
	return all
}

type writer struct{ engine.Maker }

// describe writes a description; names are pairs of the level's type and name.
func (w *writer) describe(name, value string, levels ...string) {
	text := "EXEC sys.sp_addextendedproperty @name = " + literal(name) + ", @value = " + literal(value)
	for i := 0; i+1 < len(levels); i += 2 {
		text += fmt.Sprintf(", @level%dtype = %s, @level%dname = %s", i/2, literal(levels[i]), i/2, literal(levels[i+1]))
	}
	w.After(text)
}

// finish writes descriptions and rights; securable is what stands behind ON.
func (w *writer) finish(securable, level, within, withinName string) {
	var levels []string
	if w.Object.Schema != "" {
		levels = append(levels, "SCHEMA", w.Object.Schema)
	}
	if within != "" {
		levels = append(levels, within, withinName)
	}
	levels = append(levels, level, w.Object.Name)
	if w.Object.Comment != "" {
		w.describe("MS_Description", w.Object.Comment, levels...)
	}
	for _, p := range w.Object.Extended {
		if rest, ok := strings.CutPrefix(p.Name, ofParameter); ok {
			parameter, name, _ := strings.Cut(rest, " ")
			w.describe(name, p.Value, append(slices.Clone(levels), "PARAMETER", parameter)...)
			continue
		}
		w.describe(p.Name, p.Value, levels...)
	}
	for _, p := range w.Object.Settings {
		if name, ok := strings.CutPrefix(p.Name, schema.FormerExtended); ok { // of an older reading
			w.describe(name, p.Value, levels...)
		}
	}
	if w.Object.Relation != nil {
		for _, c := range w.Object.Relation.Columns {
			if c.Comment != "" {
				w.describe(description, c.Comment, append(slices.Clone(levels), "COLUMN", c.Name)...)
			}
			for _, p := range c.Options {
				w.describe(p.Name, p.Value, append(slices.Clone(levels), "COLUMN", c.Name)...)
			}
		}
		w.constraintNotes(levels)
	}
	w.grants(securable)
}

// constraintNotes writes what is said of constraints; one that the server named cannot be told by name, and has none.
func (w *writer) constraintNotes(levels []string) {
	note := func(name, text string, needs ...engine.Resource) {
		if text == "" || name == "" {
			return
		}
		w.describe(description, text, append(slices.Clone(levels), "CONSTRAINT", name)...)
		last := &w.Statements[len(w.Statements)-1]
		last.Requires = append(last.Requires, needs...)
	}
	for _, k := range w.Object.Relation.Keys {
		note(k.Name, k.Comment)
	}
	for _, k := range w.Object.Relation.Checks {
		note(k.Name, k.Comment)
	}
	for _, f := range w.Object.Relation.ForeignKeys {
		note(f.Name, f.Comment, w.foreignKeyResource(f))
	}
}

// grants writes rights; securable is what stands behind ON.
func (w *writer) grants(securable string) {
	for _, g := range w.Object.Grants {
		column := ""
		if g.Column != "" {
			column = " (" + quote(g.Column) + ")"
		}
		for _, x := range []struct {
			words      []string
			verb, tail string
		}{{g.Granted, "GRANT", ""}, {g.Grantable, "GRANT", " WITH GRANT OPTION"}, {denied(g.Revoked), "DENY", ""}} {
			if len(x.words) > 0 {
				w.After(x.verb + " " + strings.Join(x.words, ", ") + " ON " + securable + column + " TO " + quote(g.Grantee) + x.tail)
			}
		}
	}
	for _, g := range w.Object.Grants { // behind those of the whole
		for _, right := range g.Revoked {
			if right, ok := strings.CutSuffix(right, takenBack); ok {
				w.After("REVOKE " + right + " ON " + securable + " (" + quote(g.Column) + ") FROM " + quote(g.Grantee))
			}
		}
	}
}

// denied returns the rights that are denied, and not only taken back.
func denied(revoked []string) []string {
	return slices.DeleteFunc(slices.Clone(revoked), func(r string) bool { return strings.HasSuffix(r, takenBack) })
}

// collationOf writes a column's collation. One of an alias type has that of its type, and takes no other (error 452).
func collationOf(c *schema.Column) string {
	if c.Collation == "" || strings.HasPrefix(c.Type, "[") {
		return ""
	}
	return " COLLATE " + c.Collation
}

func (w *writer) column(c *schema.Column) string {
	b := quote(c.Name)
	if c.Setting(hiddenText) != "" {
		w.Failed = fmt.Errorf("the default or the expression of the column %s is not known: the survey's user lacks VIEW DEFINITION", c.Name)
	}
	if c.Generated != nil {
		b += " AS " + c.Generated.Expression
		if c.Generated.Stored {
			b += " PERSISTED"
			if c.NotNull {
				b += " NOT NULL"
			}
		}
		return b
	}
	b += " " + c.Type + collationOf(c)
	if c.Setting("column set") != "" {
		return b + " COLUMN_SET FOR ALL_SPARSE_COLUMNS"
	}
	if c.Setting(encryptedColumn) != "" {
		w.Failed = fmt.Errorf("the column %s is always encrypted, and its key is not part of the catalogue", c.Name)
	}
	if c.Setting("filestream") != "" {
		b += " FILESTREAM"
	}
	if c.Setting("sparse") != "" {
		b += " SPARSE"
	}
	if mask := c.Setting("masked"); mask != "" {
		b += " MASKED WITH (FUNCTION = '" + strings.ReplaceAll(mask, "'", "''") + "')"
	}
	if g := c.Setting("generated always"); g != "" {
		b += " GENERATED ALWAYS AS " + strings.ToUpper(g)
		if c.Setting("hidden") != "" {
			b += " HIDDEN"
		}
	}
	if c.Identity != nil {
		b += " IDENTITY"
		if s := c.Identity.Sequence; s != nil {
			b += "(" + s.Start + "," + s.Increment + ")"
		}
		if c.Setting("not for replication") != "" {
			b += " NOT FOR REPLICATION"
		}
	}
	if c.NotNull {
		b += " NOT NULL"
	} else {
		b += " NULL"
	}
	if c.Setting("rowguidcol") != "" {
		b += " ROWGUIDCOL"
	}
	if c.Default != "" {
		if name := c.Setting("default name"); name != "" {
			b += " CONSTRAINT " + quote(name)
		}
		b += " DEFAULT " + c.Default
	}
	return b
}

func keyParts(parts []schema.KeyPart) string {
	texts := make([]string, len(parts))
	for i, p := range parts {
		texts[i] = quote(p.Column)
		if p.Descending {
			texts[i] += " DESC"
		}
	}
	return "(" + strings.Join(texts, ", ") + ")"
}

// storage writes the options of an index or a key, and where it lies.
func storage(settings []schema.Property) string {
	var options []string
	for _, p := range settings {
		switch p.Name {
		case "fill factor":
			options = append(options, "FILLFACTOR = "+p.Value)
		case "pad index":
			options = append(options, "PAD_INDEX = ON")
		case "ignore duplicates":
			options = append(options, "IGNORE_DUP_KEY = ON")
		case "bucket count":
			options = append(options, "BUCKET_COUNT = "+p.Value)
		case "no row locks":
			options = append(options, "ALLOW_ROW_LOCKS = OFF")
		case "no page locks":
			options = append(options, "ALLOW_PAGE_LOCKS = OFF")
		case "no recompute":
			options = append(options, "STATISTICS_NORECOMPUTE = ON")
		case "sequential key":
			options = append(options, "OPTIMIZE_FOR_SEQUENTIAL_KEY = ON")
		case "compression":
			options = append(options, p.Value)
		}
	}
	text := ""
	if len(options) > 0 {
		text = " WITH (" + strings.Join(options, ", ") + ")"
	}
	if on := schema.SettingOf(settings, "on"); on != "" {
		text += " ON " + on
	}
	return text
}

func constraintName(name string) string {
	if name == "" {
		return ""
	}
	return "CONSTRAINT " + quote(name) + " "
}

func keyItem(k schema.Key) string {
	text := constraintName(k.Name) + "UNIQUE"
	clustering := "NONCLUSTERED"
	if k.Primary {
		text, clustering = constraintName(k.Name)+"PRIMARY KEY", "CLUSTERED"
	}
	switch c := schema.SettingOf(k.Settings, "clustering"); c {
	case "":
	case "hash":
		clustering = "NONCLUSTERED HASH"
	default:
		clustering = strings.ToUpper(c)
	}
	return text + " " + clustering + " " + keyParts(k.Columns) + storage(k.Settings)
}

func checkItem(c schema.Check) string {
	text := constraintName(c.Name) + "CHECK "
	if schema.SettingOf(c.Settings, "not for replication") != "" {
		text += "NOT FOR REPLICATION "
	}
	return text + c.Expression
}

func (w *writer) items(s *engine.Statement) {
	r := w.Object.Relation
	for i := range r.Columns {
		s.Items = append(s.Items, w.column(&r.Columns[i]))
	}
	for _, k := range r.Keys {
		s.Items = append(s.Items, keyItem(k))
	}
	if p := w.Object.Setting("period"); p != "" {
		s.Items = append(s.Items, "PERIOD FOR SYSTEM_TIME ("+p+")")
	}
	for _, c := range r.Checks {
		if c.Expression == "" {
			w.Failed = fmt.Errorf("the condition of the check %s is not known: the survey's user lacks VIEW DEFINITION", c.Name)
		}
		if !c.NotValid && !c.Disabled {
			s.Items = append(s.Items, checkItem(c))
		}
	}
}

func (w *writer) tableType() {
	s := engine.Statement{Head: "CREATE TYPE " + w.Name + " AS TABLE", Undo: "DROP TYPE " + w.Name, Strict: true}
	w.items(&s)
	w.Main(s)
	w.finish("TYPE::"+w.Name, "TYPE", "", "")
}

func (w *writer) table() {
	o, r := w.Object, w.Object.Relation
	if sort := o.Setting(unwrittenSort); sort != "" {
		w.Failed = fmt.Errorf("it is %s, which is not written yet: an ordinary table would be something else", sort)
	}
	s := engine.Statement{Head: "CREATE TABLE " + w.Name, Strict: true}
	w.items(&s)
	clusteredKey := false
	for _, k := range r.Keys {
		c := schema.SettingOf(k.Settings, "clustering")
		clusteredKey = clusteredKey || k.Primary && c == "" || c == "clustered"
	}
	if on := o.Setting("on"); on != "" && !clusteredKey {
		s.Tail += " ON " + on
	}
	if large := o.Setting("large values on"); large != "" {
		s.Tail += " TEXTIMAGE_ON " + large
	}
	var options []string
	if pressed := o.Setting("compression"); pressed != "" {
		options = append(options, pressed)
	}
	if durability := o.Setting("memory optimized"); durability != "" {
		options = append(options, "MEMORY_OPTIMIZED = ON", "DURABILITY = "+strings.ToUpper(durability))
	}
	if history := o.Setting("history table"); history != "" {
		retention := ""
		if kept := o.Setting("history retention"); kept != "" {
			retention = ", HISTORY_RETENTION_PERIOD = " + kept
		}
		options = append(options, "SYSTEM_VERSIONING = ON (HISTORY_TABLE = "+history+retention+")")
		if parts := strings.SplitN(strings.Trim(history, "[]"), "].[", 2); len(parts) == 2 {
			s.Requires = append(s.Requires, relation(strings.ReplaceAll(parts[0], "]]", "]"), strings.ReplaceAll(parts[1], "]]", "]")))
		}
		s.UndoFirst = "ALTER TABLE " + w.Name + " SET (SYSTEM_VERSIONING = OFF)"
	}
	if len(options) > 0 {
		s.Tail += " WITH (" + strings.Join(options, ", ") + ")"
	}
	var apart []engine.Statement
	for _, f := range r.ForeignKeys {
		cut := w.foreignKey(f)
		if f.NotValid || f.Disabled {
			apart = append(apart, cut.Apart)
		} else {
			s.Splits = append(s.Splits, cut)
		}
	}
	w.Main(s)
	for _, c := range r.Checks {
		if c.NotValid || c.Disabled {
			w.After("ALTER TABLE " + w.Name + " WITH NOCHECK ADD " + checkItem(c))
			if c.Disabled && c.Name != "" {
				w.After("ALTER TABLE " + w.Name + " NOCHECK CONSTRAINT " + quote(c.Name))
			}
		}
	}
	w.Statements = append(w.Statements, apart...)
	for _, f := range r.ForeignKeys {
		if f.Disabled {
			w.After(w.offByName(f))
			last := &w.Statements[len(w.Statements)-1]
			last.Requires = append(last.Requires, w.foreignKeyResource(f))
		}
	}
	if escalation := o.Setting("lock escalation"); escalation != "" {
		w.After("ALTER TABLE " + w.Name + " SET (LOCK_ESCALATION = " + strings.ToUpper(escalation) + ")")
	}
	for i := range r.Columns {
		w.bindings(r.Columns[i].Settings, w.Name+"."+quote(r.Columns[i].Name))
	}
	w.tracking()
	w.fullText()
	w.finish(w.Name, "TABLE", "", "")
}

// fullText writes the full-text index of a table, behind the index that is its key.
func (w *writer) fullText() {
	o, r := w.Object, w.Object.Relation
	index := o.Setting("full text key")
	if index == "" {
		return
	}
	var columns []string
	for _, c := range r.Columns {
		if language := c.Setting("full text language"); language != "" {
			of := ""
			if typ := c.Setting("full text type"); typ != "" {
				of = " TYPE COLUMN " + quote(typ)
			}
			columns = append(columns, quote(c.Name)+of+" LANGUAGE "+language)
		}
	}
	text := "CREATE FULLTEXT INDEX ON " + w.Name + " (" + strings.Join(columns, ", ") + ") KEY INDEX " + quote(index)
	if catalog := o.Setting("full text catalog"); catalog != "" {
		text += " ON " + quote(catalog)
	}
	text += w.fullTextOptions()
	w.After(text)
	last := &w.Statements[len(w.Statements)-1]
	last.Undo = "DROP FULLTEXT INDEX ON " + w.Name
	last.Wishes = []engine.Resource{{What: string(schema.KindTextCatalog), Name: o.Setting("full text catalog")}}
	if list := o.Setting("full text stoplist"); list != "" && list != "off" {
		last.Requires = append(last.Requires, resourceCalled(schema.KindStoplist, list))
	}
	if !slices.ContainsFunc(r.Keys, func(k schema.Key) bool { return k.Name == index }) { // of an index, which comes first
		last.Requires = append(last.Requires, indexResource(o.Schema, o.Name, index))
	}
	if o.Setting("full text") == "disabled" {
		w.After("ALTER FULLTEXT INDEX ON " + w.Name + " DISABLE")
	}
}

// indexResource is an index, as what makes it provides it.
func indexResource(schemaName, table, name string) engine.Resource {
	return engine.ResourceOf(schema.ID{Kind: schema.KindIndex, Schema: schemaName, Table: table, Name: name})
}

// offByName switches a foreign key off; where an older reading does not know its name, by the name that is looked for then.
func (w *writer) offByName(f schema.ForeignKey) string {
	if f.Name != "" {
		return "ALTER TABLE " + w.Name + " NOCHECK CONSTRAINT " + quote(f.Name)
	}
	t := tableChange{name: w.Name}
	return strings.NewReplacer("DROP CONSTRAINT", "NOCHECK CONSTRAINT", "@drop", "@off").Replace(t.dropForeignKey(f))
}

func (w *writer) foreignKeyResource(f schema.ForeignKey) engine.Resource {
	return engine.Resource{What: schema.ForeignKeyNames, Schema: w.Object.Schema, Name: f.PartKey(), Detail: w.Object.Name}
}

func (w *writer) foreignKey(f schema.ForeignKey) engine.Split {
	text := constraintName(f.Name) + "FOREIGN KEY (" + list(f.Columns) + ") REFERENCES " + qualify(f.RefSchema, f.RefTable) + " (" + list(f.RefColumns) + ")"
	if f.OnDelete != "" {
		text += " ON DELETE " + strings.ToUpper(f.OnDelete)
	}
	if f.OnUpdate != "" {
		text += " ON UPDATE " + strings.ToUpper(f.OnUpdate)
	}
	if schema.SettingOf(f.Settings, "not for replication") != "" {
		text += " NOT FOR REPLICATION"
	}
	check := " WITH CHECK"
	if f.NotValid || f.Disabled {
		check = " WITH NOCHECK"
	}
	needs := []engine.Resource{relation(f.RefSchema, f.RefTable)}
	if f.RefIndex != "" {
		needs = append(needs, indexResource(f.RefSchema, f.RefTable, f.RefIndex))
	}
	drop := tableChange{name: w.Name}
	subject := w.Object.ID()
	subject.Kind, subject.Signature = schema.KindForeignKey, f.PartKey()
	return engine.Split{Item: text, Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: needs, Apart: engine.Statement{
		Subject: subject, Head: "ALTER TABLE " + w.Name + check + " ADD " + text, Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: append([]engine.Resource{w.Self}, needs...),
		Undo: drop.dropForeignKey(f),
	}}
}

func (w *writer) index() {
	x := w.Object.Index
	on := qualify(w.Object.Schema, x.Table)
	head := "CREATE "
	if x.Unique {
		head += "UNIQUE "
	}
	columns := " " + keyParts(x.Columns)
	tail := ""
	switch x.Method {
	case "clustered":
		head += "CLUSTERED INDEX "
	case "clustered columnstore":
		head, columns = "CREATE CLUSTERED COLUMNSTORE INDEX ", ""
	case "columnstore":
		head, columns = "CREATE NONCLUSTERED COLUMNSTORE INDEX ", " ("+list(x.Include)+")"
	case "primary xml":
		head = "CREATE PRIMARY XML INDEX "
	case "selective xml":
		head, tail = "CREATE SELECTIVE XML INDEX ", w.selectiveTail()
	case "xml":
		head = "CREATE XML INDEX "
		tail = w.madeOfXML()
	case "spatial":
		head = "CREATE SPATIAL INDEX "
		if t := w.Object.Setting("tessellation"); t != "" {
			tail = " USING " + t
		}
		if box := w.Object.Setting("bounding box"); box != "" { // geometry has no bounds of its own
			tail += " WITH (BOUNDING_BOX = (" + box + "))"
		}
	default:
		head += "INDEX "
	}
	text := head + quote(w.Object.Name) + " ON " + on + columns + tail
	if len(x.Include) > 0 && x.Method != "columnstore" {
		text += " INCLUDE (" + list(x.Include) + ")"
	}
	if x.Where != "" {
		text += " WHERE " + x.Where
	}
	s := engine.Statement{Head: text + storage(w.Object.Settings), Undo: "DROP INDEX " + quote(w.Object.Name) + " ON " + on, Requires: []engine.Resource{relation(w.Object.Schema, x.Table)}}
	level := "TABLE"
	if w.Object.Setting(ofView) != "" {
		level = "VIEW"
		if x.Method != "clustered" { // it comes first
			s.Wishes = append(s.Wishes, clusteredOf(w.Object.Schema, x.Table))
		}
	}
	if x.Method == "clustered" {
		s.Provides = append(s.Provides, clusteredOf(w.Object.Schema, x.Table))
	}
	if w.Object.Setting(inMemory) != "" { // such a table takes indexes in its statement alone, or by ALTER TABLE (documentation: "Indexes on memory-optimized tables")
		item := "INDEX " + quote(w.Object.Name)
		if x.Unique {
			item += " UNIQUE"
		}
		switch x.Method {
		case "hash":
			item += " NONCLUSTERED HASH" + columns
		case "clustered columnstore":
			item += " CLUSTERED COLUMNSTORE"
		default:
			item += " NONCLUSTERED" + columns
		}
		item += storage(w.Object.Settings)
		s.Head, s.Undo = "ALTER TABLE "+on+" ADD "+item, "ALTER TABLE "+on+" DROP INDEX "+quote(w.Object.Name)
		s.Joins = &engine.Joining{Home: s.Requires[0], Item: item}
	}
	w.Main(s)
	if w.Object.Setting("invalid") != "" {
		w.After("ALTER INDEX " + quote(w.Object.Name) + " ON " + on + " DISABLE")
	}
	w.finish("", "INDEX", level, x.Table)
}

// clusteredOf is the clustered index of a view, before which it has no other.
func clusteredOf(schemaName, name string) engine.Resource {
	return engine.Resource{What: "clustered index", Schema: schemaName, Name: name}
}

func (w *writer) sequence() {
	s := w.Object.Sequence
	text := "CREATE SEQUENCE " + w.Name + " AS " + s.Type + " START WITH " + s.Start + " INCREMENT BY " + s.Increment + " MINVALUE " + s.Min + " MAXVALUE " + s.Max
	if s.Cycle {
		text += " CYCLE"
	}
	switch s.Cache {
	case "":
	case "0":
		text += " NO CACHE"
	default:
		text += " CACHE " + s.Cache
	}
	w.Main(engine.Statement{Head: text})
	w.finish(w.Name, "SEQUENCE", "", "")
}

// module writes what the server keeps as a text, under the settings it was made under.
func (w *writer) module(text, word string) {
	if text == "" {
		w.Failed = fmt.Errorf("the text of %s is not known: it is encrypted, or the survey's user lacks VIEW DEFINITION", w.Object.ID().Qualified())
		return
	}
	onOff := func(name string) string {
		if w.Object.Setting(name) == "off" {
			return "OFF"
		}
		return "ON"
	}
	s := engine.Statement{Head: titled(strings.TrimSpace(text), w.Object), Undo: "DROP " + word + " " + w.Name, Settings: []engine.Setting{
		{Name: "ansi nulls", Text: "SET ANSI_NULLS " + onOff("ansi nulls")}, {Name: "quoted identifier", Text: "SET QUOTED_IDENTIFIER " + onOff("quoted identifier")}}}
	if w.Object.Within != "" {
		s.Requires = append(s.Requires, relation(w.Object.Schema, w.Object.Within))
	}
	s.Strict = schemaBound(text)
	w.Main(s)
	if w.Object.Within != "" {
		level := "TABLE"
		if w.Object.Setting(ofView) != "" {
			level = "VIEW"
		}
		w.finish(w.Name, "TRIGGER", level, w.Object.Within)
	} else {
		w.finish(w.Name, word, "", "")
	}
}

// titled returns the text of a module under its own name. sp_rename and ALTER SCHEMA leave the old one in the text, and a name
// without a schema is one of whoever runs the script (documentation: "sp_rename", "sys.sql_modules").
func titled(text string, o *schema.Object) string {
	tokens := sqltext.Tokens(text, rules())
	word := func(i int) string {
		if i >= len(tokens) || tokens[i].Kind != sqltext.Word {
			return ""
		}
		return strings.ToLower(text[tokens[i].Start:tokens[i].End])
	}
	at := slices.IndexFunc(tokens, func(t sqltext.Token) bool {
		return t.Kind == sqltext.Word && slices.Contains([]string{"view", "procedure", "proc", "function", "trigger", "rule", "default"}, strings.ToLower(text[t.Start:t.End]))
	}) + 1
	if at == 0 || word(0) != "create" || at >= len(tokens) {
		return text
	}
	parts := []string{sqltext.Unquote(text, tokens[at], rules())}
	last := at
	for ; last+2 < len(tokens) && text[tokens[last+1].Start:tokens[last+1].End] == "."; last += 2 {
		parts = append(parts, sqltext.Unquote(text, tokens[last+2], rules()))
	}
	name := parts[len(parts)-1]
	in := o.Schema
	if len(parts) > 1 {
		in = parts[len(parts)-2]
	}
	if strings.EqualFold(name, o.Name) && strings.EqualFold(in, o.Schema) && (len(parts) > 1 || o.Schema == "") {
		return text
	}
	title := quote(o.Name)
	if o.Schema != "" {
		title = qualify(o.Schema, o.Name)
	}
	return text[:tokens[at].Start] + title + text[tokens[last].End:]
}

// schemaBound reports whether a module is bound to what it refers to: all of that has to be there before it.
func schemaBound(text string) bool {
	return slices.ContainsFunc(sqltext.Tokens(text, rules()), func(t sqltext.Token) bool {
		return t.Kind == sqltext.Word && strings.EqualFold(text[t.Start:t.End], "schemabinding")
	})
}

// definition writes an object that is kept as a statement.
func (w *writer) definition() {
	made := engine.Texts(w.Object, rules())
	if w.Object.Synonym != nil {
		made = []string{synonymStatement(w.Object)}
	}
	s := engine.Statement{Head: made[0]}
	switch w.Object.Kind {
	case schema.KindAlias:
		s.Undo = "DROP TYPE " + w.Name
	case schema.KindRole:
		s.Undo = "DROP " + map[string]string{"": "ROLE", "user": "USER", "login": "LOGIN", "application role": "APPLICATION ROLE"}[w.Object.Signature] + " " + quote(w.Object.Name)
		if _, owner, ok := strings.Cut(made[0], " AUTHORIZATION "); ok {
			s.Requires = append(s.Requires, principals(owner)...)
		}
	case schema.KindXMLSchemas:
		s.Undo = "DROP XML SCHEMA COLLECTION " + w.Name
	case schema.KindStatistics:
		s.Undo = "DROP STATISTICS " + qualify(w.Object.Schema, w.Object.Within) + "." + quote(w.Object.Name)
		s.Requires = append(s.Requires, relation(w.Object.Schema, w.Object.Within))
	case schema.KindSecurityPolicy:
		s.Strict = true
	case schema.KindTextCatalog:
		s.Undo = "DROP FULLTEXT CATALOG " + quote(w.Object.Name)
	case schema.KindStoplist:
		s.Undo = "DROP FULLTEXT STOPLIST " + quote(w.Object.Name)
	case schema.KindLinkedServer:
		s.Undo = "EXEC sys.sp_dropserver @server = " + literal(w.Object.Name) + ", @droplogins = 'droplogins'"
	}
	w.Main(s)
	for _, more := range made[1:] {
		w.After(more)
		for _, words := range []string{"ALTER ROLE ", "ALTER SERVER ROLE "} { // the member is there; so must the role be
			if role, _, ok := strings.Cut(strings.TrimPrefix(more, words), " ADD MEMBER "); ok && strings.HasPrefix(more, words) {
				last := &w.Statements[len(w.Statements)-1]
				last.Requires = append(last.Requires, principals(role)...)
			}
		}
	}
	switch w.Object.Kind {
	case schema.KindAlias:
		w.bindings(w.Object.Settings, w.Name)
		w.finish("TYPE::"+w.Name, "TYPE", "", "")
	case schema.KindXMLSchemas:
		w.finish("XML SCHEMA COLLECTION::"+w.Name, "XML SCHEMA COLLECTION", "", "")
	default:
		w.finish(w.Name, strings.ToUpper(string(w.Object.Kind)), "", "")
	}
}

// principals are what a quoted name may stand for: a role, a user, or a login.
func principals(quoted string) []engine.Resource {
	id := schema.ID{Kind: schema.KindRole, Name: strings.ReplaceAll(strings.Trim(quoted, "[]"), "]]", "]")}
	var all []engine.Resource
	for _, signature := range []string{"", "user", "login", "application role"} {
		id.Signature = signature
		all = append(all, engine.ResourceOf(id))
	}
	return all
}

// synonymStatement returns the statement that makes a synonym.
func synonymStatement(o *schema.Object) string {
	var target []string
	for _, part := range []string{o.Synonym.Server, o.Synonym.Database, o.Synonym.Schema, o.Synonym.Name} {
		switch {
		case part != "":
			target = append(target, quote(part))
		case len(target) > 0: // the usual schema of another database
			target = append(target, "")
		}
	}
	return "CREATE SYNONYM " + qualify(o.Schema, o.Name) + " FOR " + strings.Join(target, ".")
}

// FormerDefinition returns the statement of a synonym, as earlier readings held it.
func (Engine) FormerDefinition(o *schema.Object) string {
	if o.Synonym == nil {
		return o.Definition
	}
	return synonymStatement(o)
}
