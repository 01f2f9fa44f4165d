package mariadb

// Statements for tables, views, indexes, sequences and triggers; they name no database.

import (
	"fmt"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Make returns the statements that make an object. They name no database: they run in the
// current one.
func (Engine) Make(o *schema.Object) ([]engine.Statement, error) {
	s := engine.Statement{Subject: o.ID(), Action: engine.Make, Provides: []engine.Resource{engine.ResourceOf(o.ID())}, Settings: usual,
		Undo: "DROP " + strings.ToUpper(string(o.Kind)) + " " + quote(o.Name)}
	var err error
	var more []engine.Statement
	switch said := o.Setting(brokenSetting); {
	case said != "":
		err = fmt.Errorf("it is broken where it comes from, and the server would not make it: %s", said)
	case o.Kind == schema.KindTable && o.Relation != nil:
		table(&s, o)
	case o.Kind == schema.KindView && o.Relation != nil:
		err = view(&s, o)
	case o.Index != nil:
		words, columns := indexItem(o)
		s.Head = "CREATE " + words + "INDEX " + quote(o.Name) + " ON " + quote(o.Index.Table) + " " + columns
		s.Requires = relation("", o.Index.Table)
		s.Undo += " ON " + quote(o.Index.Table)
		s.Joins, s.Step = &engine.Joining{Home: s.Requires[0], Item: words + "KEY " + quote(o.Name) + " " + columns}, o.Index.Position
	case o.Sequence != nil:
		err = sequence(&s, o)
	case o.Trigger != nil:
		trigger(&s, o)
	case o.Routine != nil || o.Kind == schema.KindEvent:
		err = code(&s, o)
	case o.Kind == schema.KindLibrary && o.Definition != "":
		s.Head, s.Compound = o.Definition, true
		if o.Comment != "" {
			head, body, _ := strings.Cut(s.Head, "\nAS $$")
			s.Head = head + "\n    COMMENT " + literal(o.Comment) + "\nAS $$" + body
		}
	case o.Definition != "": // a user, a role, a database
		made := engine.Texts(o, rules())
		s.Head, made = made[0], made[1:]
		for i, text := range made {
			more = append(more, engine.Statement{Subject: o.ID(), Step: i + 1, Head: text, Requires: s.Provides, Settings: usual})
		}
		if o.Kind == schema.KindRole && o.Signature != "" {
			s.Undo = "DROP USER " + literal(o.Name) + "@" + literal(o.Signature)
		}
	default:
		err = fmt.Errorf("no statement is known for %s", o.ID().Qualified())
	}
	on := ""
	switch {
	case o.Kind == schema.KindDatabase:
		on = quote(o.Name) + ".*"
	case o.Routine != nil:
		on = routineWord(o.Kind) + " " + quote(o.Name)
	default:
		on = quote(o.Name)
	}
	return append(append([]engine.Statement{s}, more...), grantStatements(o, on)...), err
}

// Completes reports whether a column that numbers its rows leads an index and no key: without it the server takes no
// such column.
func (Engine) Completes(table, index *schema.Object) (needed, one bool) {
	if table.Relation == nil || index.Index == nil || len(index.Index.Columns) == 0 {
		return false, false
	}
	for _, c := range table.Relation.Columns {
		if c.Identity == nil {
			continue
		}
		for _, k := range table.Relation.Keys {
			if len(k.Columns) > 0 && k.Columns[0].Column == c.Name {
				return false, false
			}
		}
		return index.Index.Columns[0].Column == c.Name, true
	}
	return false, false
}

// usual are the settings under which the statements mean what they say.
var usual = []engine.Setting{{Name: "characters", Text: "SET NAMES utf8mb4"}, {Name: "sql_mode", Text: "SET sql_mode = ''"}}

func relation(database, name string) []engine.Resource {
	return []engine.Resource{{What: schema.RelationNames, Schema: database, Name: name}}
}

func list(names []string) string {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quote(n)
	}
	return strings.Join(quoted, ", ")
}

func keyParts(parts []schema.KeyPart) string {
	texts := make([]string, len(parts))
	for i, p := range parts {
		texts[i] = quote(p.Column)
		if p.Expression != "" {
			texts[i] = "(" + p.Expression + ")"
		}
		if p.Length > 0 {
			texts[i] += "(" + strconv.Itoa(p.Length) + ")"
		}
		if p.Descending {
			texts[i] += " DESC"
		}
	}
	return "(" + strings.Join(texts, ", ") + ")"
}

func table(s *engine.Statement, o *schema.Object) {
	r := o.Relation
	s.Head = "CREATE TABLE " + quote(o.Name)
	for i := range r.Columns {
		s.Items = append(s.Items, column(r, &r.Columns[i]))
	}
	for _, k := range r.Keys {
		text := "UNIQUE KEY " + quote(k.Name) + " "
		if k.Primary {
			text = "PRIMARY KEY "
		}
		parts := keyParts(k.Columns)
		if schema.SettingOf(k.Settings, "without overlaps") != "" {
			parts = strings.TrimSuffix(parts, ")") + " WITHOUT OVERLAPS)"
		}
		s.Items = append(s.Items, text+parts+keyTail(schema.SettingOf(k.Settings, "method"), k.Settings, k.Comment))
	}
	for _, c := range r.Checks {
		if c.Column == "" {
			text := "CONSTRAINT " + quote(c.Name) + " CHECK (" + c.Expression + ")"
			if schema.SettingOf(c.Settings, notEnforced) != "" {
				text += " NOT ENFORCED"
			}
			s.Items = append(s.Items, text)
		}
	}
	if p := o.Setting("period"); p != "" {
		s.Items = append(s.Items, "PERIOD FOR "+p)
	}
	if p := o.Setting("system period"); p != "" {
		s.Items = append(s.Items, "PERIOD FOR SYSTEM_TIME "+p)
	}
	for _, f := range r.ForeignKeys {
		s.Splits = append(s.Splits, foreignKey(o, f))
	}
	for _, p := range o.Settings {
		switch p.Name {
		case "engine":
			s.Tail += " ENGINE=" + p.Value
		case "collation":
			s.Tail += " COLLATE=" + p.Value
		case "options":
			s.Tail += " " + p.Value
		case "union":
			s.Tail += " UNION=" + p.Value
		case "insert method":
			s.Tail += " INSERT_METHOD=" + p.Value
		case "connection":
			s.Tail += " CONNECTION=" + p.Value
		case "transactional":
			s.Tail += " TRANSACTIONAL=" + p.Value
		case "tablespace":
			s.Tail += " TABLESPACE " + quote(p.Value)
		case "autoextend size":
			s.Tail += " AUTOEXTEND_SIZE=" + p.Value
		}
	}
	if o.Comment != "" {
		s.Tail += " COMMENT=" + literal(o.Comment)
	}
	if o.Setting("system versioning") != "" {
		s.Tail += " WITH SYSTEM VERSIONING"
	}
	if p := o.Setting("partition by"); p != "" {
		s.Tail += "\nPARTITION BY " + p
	}
}

func column(r *schema.Relation, c *schema.Column) string {
	b := quote(c.Name) + " " + c.Type
	if c.Collation != "" {
		b += " CHARACTER SET " + c.Setting("character set") + " COLLATE " + c.Collation
	}
	if c.Generated != nil && (c.Generated.Expression == "ROW START" || c.Generated.Expression == "ROW END") {
		b += " GENERATED ALWAYS AS " + c.Generated.Expression
	} else if c.Generated != nil {
		b += " GENERATED ALWAYS AS (" + c.Generated.Expression + ")"
		if c.Generated.Stored {
			b += " STORED"
		} else {
			b += " VIRTUAL"
		}
		if c.Setting(generatedNotNull) != "" {
			b += " NOT NULL"
		}
	} else {
		if c.NotNull {
			b += " NOT NULL"
		} else {
			b += " NULL"
		}
		if srid := c.Setting("srid"); srid != "" {
			b += " SRID " + srid
		}
		if c.Default != "" {
			b += " DEFAULT " + c.Default
		}
		if u := c.Setting("on update"); u != "" {
			b += " ON UPDATE " + u
		}
		if c.Identity != nil {
			b += " AUTO_INCREMENT"
		}
	}
	if c.Setting("system versioning") == "without" {
		b += " WITHOUT SYSTEM VERSIONING"
	}
	if c.Setting("invisible") != "" {
		b += " INVISIBLE"
	}
	if c.Comment != "" {
		b += " COMMENT " + literal(c.Comment)
	}
	for _, check := range r.Checks {
		if check.Column == c.Name {
			b += " CHECK (" + check.Expression + ")"
		}
	}
	return b
}

func keyTail(method string, settings []schema.Property, comment string) string {
	tail := ""
	if parser := schema.SettingOf(settings, "parser"); parser != "" {
		tail += " WITH PARSER " + quote(parser)
	}
	if method != "" {
		tail += " USING " + strings.ToUpper(method)
	}
	if options := schema.SettingOf(settings, vectorOptions); options != "" {
		tail += " " + options
	}
	if block := schema.SettingOf(settings, blockSize); block != "" {
		tail += " KEY_BLOCK_SIZE=" + block
	}
	if comment != "" {
		tail += " COMMENT " + literal(comment)
	}
	if schema.SettingOf(settings, "ignored") != "" {
		tail += " IGNORED"
	}
	if schema.SettingOf(settings, invisibleIndex) != "" {
		tail += " INVISIBLE"
	}
	return tail
}

// indexItem returns what stands before and behind the name of an index in CREATE TABLE.
func indexItem(o *schema.Object) (words, columns string) {
	x := o.Index
	method := x.Method
	switch x.Method {
	case "fulltext", "spatial", "vector":
		words, method = strings.ToUpper(x.Method)+" ", ""
	}
	return words, keyParts(x.Columns) + keyTail(method, x.Settings, o.Comment)
}

func foreignKey(o *schema.Object, f schema.ForeignKey) engine.Split {
	to := quote(f.RefTable)
	if f.RefSchema != "" {
		to = quote(f.RefSchema) + "." + to
	}
	text := "CONSTRAINT " + quote(f.Name) + " FOREIGN KEY (" + list(f.Columns) + ") REFERENCES " + to + " (" + list(f.RefColumns) + ")"
	action := func(words, a string) string {
		switch a {
		case "":
			return " " + words + " NO ACTION"
		case "restrict": // what MariaDB does by itself
			if schema.SettingOf(f.Settings, writtenRestrict) == "" {
				return ""
			}
		}
		return " " + words + " " + strings.ToUpper(a)
	}
	text += action("ON DELETE", f.OnDelete) + action("ON UPDATE", f.OnUpdate)
	needs := relation(f.RefSchema, f.RefTable)
	subject := o.ID()
	subject.Kind, subject.Signature = schema.KindForeignKey, f.Name
	return engine.Split{Item: text, Requires: needs, Apart: engine.Statement{
		Subject: subject, Head: "ALTER TABLE " + quote(o.Name) + " ADD " + text, Requires: append(relation("", o.Name), needs...), Settings: usual,
		Undo: "ALTER TABLE " + quote(o.Name) + " DROP FOREIGN KEY " + quote(f.Name),
	}}
}

func definer(owner string) string {
	i := strings.LastIndexByte(owner, '@')
	if i < 0 {
		return ""
	}
	return "DEFINER=" + quote(owner[:i]) + "@" + quote(owner[i+1:]) + " "
}

func view(s *engine.Statement, o *schema.Object) error {
	if o.Relation.Query == "" {
		return fmt.Errorf("the query of %s is not known: the survey's user lacks the right SHOW VIEW", o.ID().Qualified())
	}
	names := make([]string, len(o.Relation.Columns))
	for i, c := range o.Relation.Columns {
		names[i] = c.Name
	}
	s.Head = "CREATE "
	if a := o.Setting("algorithm"); a != "" {
		s.Head += "ALGORITHM=" + strings.ToUpper(a) + " "
	}
	s.Head += definer(o.Owner)
	if sec := o.Setting("security"); sec != "" {
		s.Head += "SQL SECURITY " + strings.ToUpper(sec) + " "
	}
	if o.Setting(duality) != "" {
		s.Head += "JSON RELATIONAL DUALITY "
	}
	s.Head += "VIEW " + quote(o.Name)
	if len(names) > 0 && o.Setting(unlisted) == "" {
		s.Head += " (" + list(names) + ")"
	}
	s.Head += " AS\n" + o.Relation.Query
	if o.Setting("character set client") != "" {
		s.Settings = append(typedUnder(o, s.Head)[:1:1], usual[1])
	}
	if c := o.Setting("check option"); c != "" {
		s.Head += "\nWITH " + strings.ToUpper(c) + " CHECK OPTION"
	}
	return nil
}

func sequence(s *engine.Statement, o *schema.Object) error {
	q := o.Sequence
	if q.Start == "" {
		return fmt.Errorf("the options of %s were not read; survey again", o.ID().Qualified())
	}
	s.Head = "CREATE SEQUENCE " + quote(o.Name)
	if q.Type != "" {
		s.Head += " AS " + q.Type
	}
	s.Head += " START WITH " + q.Start + " MINVALUE " + q.Min + " MAXVALUE " + q.Max + " INCREMENT BY " + q.Increment
	if q.Cache == "0" {
		s.Head += " NOCACHE"
	} else {
		s.Head += " CACHE " + q.Cache
	}
	if q.Cycle {
		s.Head += " CYCLE"
	}
	if e := o.Setting("engine"); e != "" {
		s.Head += " ENGINE=" + e
	}
	if o.Comment != "" {
		s.Head += " COMMENT=" + literal(o.Comment)
	}
	return nil
}

func trigger(s *engine.Statement, o *schema.Object) {
	t := o.Trigger
	s.Requires = relation("", t.Table)
	s.Compound = true
	// Triggers of one event fire in the order in which they were made.
	if n, err := strconv.Atoi(o.Setting("order")); err == nil {
		place := engine.Resource{What: engine.Order, Schema: t.Table, Name: t.Timing + " " + t.Events[0]}
		for i := 1; i <= n; i++ {
			place.Detail = strconv.Itoa(i)
			if i == n {
				s.Provides = append(s.Provides, place)
			} else {
				s.Wishes = append(s.Wishes, place)
			}
		}
	}
	s.Head = "CREATE " + definer(o.Owner) + "TRIGGER " + quote(o.Name) + " " + strings.ToUpper(t.Timing) + " " + strings.ToUpper(t.Events[0]) +
		" ON " + quote(t.Table) + " FOR EACH ROW " + t.Body
	s.Settings = typedUnder(o, t.Body)
}
