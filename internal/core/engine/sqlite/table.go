package sqlite

// CREATE TABLE, read clause by clause as SQLite's own grammar has it.

import (
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// parseTable reads a CREATE TABLE or CREATE VIRTUAL TABLE statement.
func parseTable(text string, o *schema.Object) error {
	p := newParser(text)
	o.Relation = &schema.Relation{}
	if p.is("create", "virtual") {
		if err := p.header("virtual", "table"); err != nil {
			return err
		}
		if err := p.expect("using"); err != nil {
			return err
		}
		if !p.done() {
			o.Settings = append(o.Settings, schema.Property{Name: "virtual", Value: p.text[p.tokens[p.at].Start:]})
		}
		return nil
	}
	if err := p.header("table"); err != nil {
		return err
	}
	if err := p.expect("("); err != nil {
		return err
	}
	for constraints := false; ; {
		constraints = constraints || p.atTableConstraint()
		var err error
		if constraints {
			err = p.tableConstraint(o.Relation)
			p.take(",") // SQLite lets the commas between constraints be left out
		} else {
			if err = p.column(o.Relation); err == nil && !p.is(")") && !p.atTableConstraint() {
				err = p.expect(",")
			} else {
				p.take(",")
			}
		}
		if err != nil {
			return err
		}
		if p.take(")") {
			break
		}
	}
	for !p.done() {
		switch {
		case p.take("without", "rowid"):
			o.Settings = append(o.Settings, schema.Property{Name: "without rowid", Value: "yes"})
		case p.take("strict"):
			o.Settings = append([]schema.Property{{Name: "strict", Value: "yes"}}, o.Settings...)
		case p.take(","), p.take(";"):
		default:
			return p.expect("the end")
		}
	}
	if c := rowNumber(o); c != nil && !p.descendingKey {
		c.NotNull = true
	}
	return nil
}

// rowNumber returns the column that is the row's number under another name, which cannot be null: a primary key of
// one column whose type is INTEGER, in a table that has such numbers. nil if there is none. See "ROWIDs and the
// INTEGER PRIMARY KEY" in SQLite's documentation of CREATE TABLE.
func rowNumber(o *schema.Object) *schema.Column {
	key := o.Relation.PrimaryKey()
	if key == nil || len(key.Columns) != 1 || o.Setting("without rowid") != "" {
		return nil
	}
	for i := range o.Relation.Columns {
		c := &o.Relation.Columns[i]
		if sqltext.FoldASCII(c.Name) == sqltext.FoldASCII(key.Columns[0].Column) && strings.EqualFold(c.Type, "INTEGER") {
			return c
		}
	}
	return nil
}

func (p *parser) atTableConstraint() bool {
	return p.is("constraint") || p.is("primary", "key") || p.is("unique") || p.is("check") || p.is("foreign", "key")
}

func (p *parser) atColumnConstraint() bool {
	return p.is("constraint") || p.is("primary", "key") || p.is("not", "null") || p.is("null") || p.is("unique") || p.is("check") ||
		p.is("default") || p.is("collate") || p.is("references") || p.is("generated", "always", "as") || p.is("as", "(")
}

func (p *parser) column(r *schema.Relation) error {
	var c schema.Column
	var err error
	if c.Name, err = p.name(); err != nil {
		return err
	}
	start := p.at
	for !p.done() && !p.is(",") && !p.is(")") && !p.atColumnConstraint() {
		if p.is("(") {
			if _, err := p.brackets(); err != nil {
				return err
			}
			continue
		}
		p.at++
	}
	if p.at > start {
		c.Type = strings.Join(strings.Fields(p.text[p.tokens[start].Start:p.tokens[p.at-1].End]), " ")
	}
	for name := ""; !p.done() && !p.is(",") && !p.is(")"); {
		if p.take("constraint") {
			if name, err = p.name(); err != nil {
				return err
			}
			continue
		}
		if err := p.columnConstraint(r, &c, name); err != nil {
			return err
		}
		name = ""
	}
	r.Columns = append(r.Columns, c)
	return nil
}

func (p *parser) columnConstraint(r *schema.Relation, c *schema.Column, name string) (err error) {
	setting := func(name, value string) {
		if value != "" {
			c.Settings = append(c.Settings, schema.Property{Name: name, Value: value})
		}
	}
	switch {
	case p.take("primary", "key"):
		part := schema.KeyPart{Column: c.Name, Descending: p.take("desc")}
		p.take("asc")
		p.descendingKey = part.Descending // then, and only as part of the column, it is no number of the row
		key := schema.Key{Name: name, Primary: true, Columns: []schema.KeyPart{part}}
		key.Settings = p.conflict()
		if p.take("autoincrement") {
			c.Identity = &schema.Numbering{Mode: "auto increment"}
		}
		r.Keys = append(r.Keys, key)
	case p.take("not", "null"):
		c.NotNull = true
		for _, s := range p.conflict() {
			setting("not null "+s.Name, s.Value)
		}
	case p.take("null"):
	case p.take("unique"):
		r.Keys = append(r.Keys, schema.Key{Name: name, Columns: []schema.KeyPart{{Column: c.Name}}, Settings: p.conflict()})
	case p.take("check"):
		err = p.check(r, name)
	case p.take("default"):
		c.Default, err = p.defaultValue()
	case p.take("collate"):
		c.Collation, err = p.name()
	case p.take("references"):
		err = p.references(r, name, []string{c.Name})
	case p.is("generated", "always", "as"), p.is("as"):
		p.take("generated", "always")
		if err = p.expect("as"); err != nil {
			return err
		}
		c.Generated = &schema.Generated{}
		if c.Generated.Expression, err = p.brackets(); err != nil {
			return err
		}
		c.Generated.Stored = p.take("stored")
		p.take("virtual")
	default:
		return p.expect("a column constraint")
	}
	return err
}

// conflict reads "ON CONFLICT …".
func (p *parser) conflict() []schema.Property {
	if !p.take("on", "conflict") || p.done() {
		return nil
	}
	value := strings.ToLower(p.raw())
	p.at++
	return []schema.Property{{Name: "on conflict", Value: value}}
}

func (p *parser) check(r *schema.Relation, name string) error {
	expression, err := p.brackets()
	r.Checks = append(r.Checks, schema.Check{Name: name, Expression: expression})
	p.conflict()
	return err
}

func (p *parser) defaultValue() (string, error) {
	start := p.at
	if p.is("(") {
		text, err := p.brackets()
		return "(" + text + ")", err
	}
	if p.is("-") || p.is("+") {
		p.at++
	}
	if p.done() {
		return "", p.expect("a value")
	}
	p.at++
	return p.text[p.tokens[start].Start:p.tokens[p.at-1].End], nil
}

func (p *parser) references(r *schema.Relation, name string, columns []string) error {
	f := schema.ForeignKey{Name: name, Columns: columns}
	var err error
	if f.RefTable, err = p.name(); err != nil {
		return err
	}
	if p.is("(") {
		if f.RefColumns, err = p.names(); err != nil {
			return err
		}
	}
	for {
		switch {
		case p.take("on", "update"):
			f.OnUpdate = p.action()
		case p.take("on", "delete"):
			f.OnDelete = p.action()
		case p.take("match"):
			if f.Match, err = p.name(); err != nil {
				return err
			}
			f.Match = strings.ToLower(f.Match)
		case p.take("not", "deferrable"):
			p.take("initially", "immediate")
			p.take("initially", "deferred")
		case p.take("deferrable"):
			f.Timing = "deferrable"
			if p.take("initially", "deferred") {
				f.Timing = "initially deferred"
			}
			p.take("initially", "immediate")
		default:
			r.ForeignKeys = append(r.ForeignKeys, f)
			return nil
		}
	}
}

// action reads what ON UPDATE or ON DELETE does, "" for nothing.
func (p *parser) action() string {
	for _, words := range [][]string{{"set", "null"}, {"set", "default"}, {"cascade"}, {"restrict"}, {"no", "action"}} {
		if p.take(words...) {
			if words[0] == "no" {
				return ""
			}
			return strings.Join(words, " ")
		}
	}
	return ""
}

func (p *parser) tableConstraint(r *schema.Relation) error {
	var name string
	var err error
	if p.take("constraint") {
		if name, err = p.name(); err != nil {
			return err
		}
		if p.is(",") || p.is(")") || p.is("constraint") {
			return nil // SQLite takes a name of nothing
		}
	}
	switch {
	case p.take("primary", "key"):
		err = p.tableKey(r, schema.Key{Name: name, Primary: true})
	case p.take("unique"):
		err = p.tableKey(r, schema.Key{Name: name})
	case p.take("check"):
		err = p.check(r, name)
	case p.take("foreign", "key"):
		columns, err := p.names()
		if err != nil {
			return err
		}
		if err := p.expect("references"); err != nil {
			return err
		}
		return p.references(r, name, columns)
	default:
		return p.expect("a table constraint")
	}
	return err
}

func (p *parser) tableKey(r *schema.Relation, key schema.Key) error {
	parts, err := p.keyParts()
	if err != nil {
		return err
	}
	key.Columns, key.Settings = parts, p.conflict()
	r.Keys = append(r.Keys, key)
	return nil
}

// keywords of SQLite that cannot stand for a name, or are better not (sqlite.org/lang_keywords.html).
const keywords = ` abort action add after all alter always analyze and as asc attach autoincrement before begin between by cascade case cast check
collate column commit conflict constraint create cross current current_date current_time current_timestamp database default deferrable
deferred delete desc detach distinct do drop each else end escape except exclude exclusive exists explain fail filter first following
for foreign from full generated glob group groups having if ignore immediate in index indexed initially inner insert instead intersect
into is isnull join key last left like limit match materialized natural no not nothing notnull null nulls of offset on or order others
outer over partition plan pragma preceding primary query raise range recursive references regexp reindex release rename replace restrict
returning right rollback row rows savepoint select set table temp temporary then ties to transaction trigger unbounded union unique update
using vacuum values view virtual when where window with without `

func quote(name string) string {
	tokens := sqltext.Tokens(name, rules())
	plain := len(tokens) == 1 && tokens[0].Kind == sqltext.Word && tokens[0].End == len(name) && tokens[0].Start == 0
	if plain && !strings.Contains(strings.ReplaceAll(keywords, "\n", " "), " "+strings.ToLower(name)+" ") {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}
