package sqlserver

// Statements in batches: what is a module is its own text, all else is put together.

import (
	"fmt"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
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
	case o.Trigger != nil:
		w.module(o.Trigger.Definition, "TRIGGER")
		if o.Trigger.Disabled {
			w.After("DISABLE TRIGGER " + w.Name + " ON " + qualify(o.Schema, o.Within))
		}
	case o.Kind == schema.KindDatabaseTrigger:
		w.Name = quote(o.Name)
		w.module(o.Definition, "TRIGGER")
		if len(w.Statements) > 0 {
			w.Statements[0].Undo += " ON DATABASE"
			w.Statements[0].Late = true // it would fire on the statements behind it
		}
	case o.Definition != "", o.Synonym != nil:
		w.definition()
	default:
		return nil, fmt.Errorf("no statement is known for %s", o.ID().Qualified())
	}
	return w.Statements, w.Failed
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
				w.describe("MS_Description", c.Comment, append(append([]string{}, levels...), "COLUMN", c.Name)...)
			}
		}
	}
	for _, g := range w.Object.Grants {
		column := ""
		if g.Column != "" {
			column = " (" + quote(g.Column) + ")"
		}
		for _, x := range []struct {
			words      []string
			verb, tail string
		}{{g.Granted, "GRANT", ""}, {g.Grantable, "GRANT", " WITH GRANT OPTION"}, {g.Revoked, "DENY", ""}} {
			if len(x.words) > 0 {
				w.After(x.verb + " " + strings.Join(x.words, ", ") + " ON " + securable + column + " TO " + quote(g.Grantee) + x.tail)
			}
		}
	}
}

func (w *writer) column(c *schema.Column) string {
	b := quote(c.Name)
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
	b += " " + c.Type
	if c.Collation != "" {
		b += " COLLATE " + c.Collation
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
		if !c.NotValid && !c.Disabled {
			s.Items = append(s.Items, constraintName(c.Name)+"CHECK "+c.Expression)
		}
	}
}

func (w *writer) tableType() {
	s := engine.Statement{Head: "CREATE TYPE " + w.Name + " AS TABLE", Undo: "DROP TYPE " + w.Name}
	w.items(&s)
	w.Main(s)
	w.finish("TYPE::"+w.Name, "TYPE", "", "")
}

func (w *writer) table() {
	o, r := w.Object, w.Object.Relation
	s := engine.Statement{Head: "CREATE TABLE " + w.Name}
	w.items(&s)
	clusteredKey := false
	for _, k := range r.Keys {
		c := schema.SettingOf(k.Settings, "clustering")
		clusteredKey = clusteredKey || k.Primary && c == "" || c == "clustered"
	}
	if on := o.Setting("on"); on != "" && !clusteredKey {
		s.Tail += " ON " + on
	}
	var options []string
	if durability := o.Setting("memory optimized"); durability != "" {
		options = append(options, "MEMORY_OPTIMIZED = ON", "DURABILITY = "+strings.ToUpper(durability))
	}
	if history := o.Setting("history table"); history != "" {
		options = append(options, "SYSTEM_VERSIONING = ON (HISTORY_TABLE = "+history+")")
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
			w.After("ALTER TABLE " + w.Name + " WITH NOCHECK ADD " + constraintName(c.Name) + "CHECK " + c.Expression)
			if c.Disabled {
				w.After("ALTER TABLE " + w.Name + " NOCHECK CONSTRAINT " + quote(c.Name))
			}
		}
	}
	w.Statements = append(w.Statements, apart...)
	for _, f := range r.ForeignKeys {
		if f.Disabled {
			w.After("ALTER TABLE " + w.Name + " NOCHECK CONSTRAINT " + quote(f.Name))
			last := &w.Statements[len(w.Statements)-1]
			last.Requires = append(last.Requires, w.foreignKeyResource(f))
		}
	}
	if escalation := o.Setting("lock escalation"); escalation != "" {
		w.After("ALTER TABLE " + w.Name + " SET (LOCK_ESCALATION = " + strings.ToUpper(escalation) + ")")
	}
	if index := o.Setting("full text key"); index != "" {
		var columns []string
		for _, c := range r.Columns {
			if language := c.Setting("full text language"); language != "" {
				columns = append(columns, quote(c.Name)+" LANGUAGE "+language)
			}
		}
		text := "CREATE FULLTEXT INDEX ON " + w.Name + " (" + strings.Join(columns, ", ") + ") KEY INDEX " + quote(index)
		if catalog := o.Setting("full text catalog"); catalog != "" {
			text += " ON " + quote(catalog)
		}
		w.After(text)
		last := &w.Statements[len(w.Statements)-1]
		last.Undo = "DROP FULLTEXT INDEX ON " + w.Name
		last.Wishes = []engine.Resource{{What: string(schema.KindTextCatalog), Name: o.Setting("full text catalog")}}
		if o.Setting("full text") == "disabled" {
			w.After("ALTER FULLTEXT INDEX ON " + w.Name + " DISABLE")
		}
	}
	w.finish(w.Name, "TABLE", "", "")
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
	check := " WITH CHECK"
	if f.NotValid || f.Disabled {
		check = " WITH NOCHECK"
	}
	needs := []engine.Resource{relation(f.RefSchema, f.RefTable)}
	subject := w.Object.ID()
	subject.Kind, subject.Signature = schema.KindForeignKey, f.PartKey()
	return engine.Split{Item: text, Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: needs, Apart: engine.Statement{
		Subject: subject, Head: "ALTER TABLE " + w.Name + check + " ADD " + text, Provides: []engine.Resource{w.foreignKeyResource(f)}, Requires: append([]engine.Resource{w.Self}, needs...),
		Undo: "ALTER TABLE " + w.Name + " DROP CONSTRAINT " + quote(f.Name),
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
	case "xml":
		head = "CREATE XML INDEX "
		tail = " USING XML INDEX " + quote(w.Object.Setting("using")) + " FOR " + strings.ToUpper(w.Object.Setting("for"))
	case "spatial":
		head = "CREATE SPATIAL INDEX "
		if t := w.Object.Setting("tessellation"); t != "" {
			tail = " USING " + t
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
	w.Main(engine.Statement{Head: text + storage(w.Object.Settings), Undo: "DROP INDEX " + quote(w.Object.Name) + " ON " + on, Requires: []engine.Resource{relation(w.Object.Schema, x.Table)}})
	if w.Object.Setting("invalid") != "" {
		w.After("ALTER INDEX " + quote(w.Object.Name) + " ON " + on + " DISABLE")
	}
	w.finish("", "INDEX", "TABLE", x.Table)
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
	s := engine.Statement{Head: text, Undo: "DROP " + word + " " + w.Name, Settings: []engine.Setting{
		{Name: "ansi nulls", Text: "SET ANSI_NULLS " + onOff("ansi nulls")}, {Name: "quoted identifier", Text: "SET QUOTED_IDENTIFIER " + onOff("quoted identifier")}}}
	if w.Object.Within != "" {
		s.Requires = append(s.Requires, relation(w.Object.Schema, w.Object.Within))
	}
	w.Main(s)
	if w.Object.Within != "" {
		w.finish(w.Name, "TRIGGER", "TABLE", w.Object.Within)
	} else {
		w.finish(w.Name, word, "", "")
	}
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
		s.Undo = "DROP " + map[string]string{"": "ROLE", "user": "USER", "login": "LOGIN"}[w.Object.Signature] + " " + quote(w.Object.Name)
	case schema.KindTextCatalog:
		s.Undo = "DROP FULLTEXT CATALOG " + quote(w.Object.Name)
	case schema.KindLinkedServer:
		s.Undo = "EXEC sys.sp_dropserver @server = " + literal(w.Object.Name) + ", @droplogins = 'droplogins'"
	}
	w.Main(s)
	for _, more := range made[1:] {
		w.After(more)
	}
	if w.Object.Kind == schema.KindAlias {
		w.finish("TYPE::"+w.Name, "TYPE", "", "")
	} else {
		w.finish(w.Name, strings.ToUpper(string(w.Object.Kind)), "", "")
	}
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
