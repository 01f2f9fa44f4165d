package mariadb

// MySQL answers many questions otherwise than MariaDB (documentation: "INFORMATION_SCHEMA Tables", "SHOW CREATE TABLE").

import (
	"context"
	"errors"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/go-sql-driver/mysql"
	"golang.org/x/text/encoding/charmap"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// What the queries ask MySQL and MariaDB for under one name: mark, MySQL's and MariaDB's. Marks that begin like others stand before
// them. It is never altered.
var makes = [...]struct{ mark, mysql, mariadb string }{
	{"HIDDEN", "if(is_visible = 'NO', 'YES', 'NO')", "ignored"},
	{"ALGORITHM", "'UNDEFINED'", "algorithm"},
	{"REFERENCESYSTEM", "srs_id", "NULL"},
	{"PARTEXPRESSION", "expression", "NULL"},
	{"DATABASEENCRYPTION", "default_encryption", "'NO'"},
	{"DATABASECOMMENT", "''", "schema_comment"},
	{"SHOWROUTINE", "NULL", "if(Show_create_routine_priv = 'Y', 'SHOW CREATE ROUTINE', NULL)"},
}

// Took implements engine.Parted: before MySQL was an engine of its own, its readings were MariaDB's.
func (e Engine) Took(engine, version string) bool {
	return e.mysql && engine == (Engine{}).Name() && strings.HasPrefix(version, "MySQL ")
}

// mysqlChecksQuery names the tables, which MySQL keeps elsewhere.
const mysqlChecksQuery = `SELECT c.constraint_name, t.table_name, 'Table', c.check_clause, t.enforced FROM information_schema.check_constraints c
JOIN information_schema.table_constraints t ON t.constraint_schema = c.constraint_schema AND t.constraint_name = c.constraint_name WHERE c.constraint_schema = @DB AND t.constraint_type = 'CHECK'`

// unescaped undoes the escapes with which MySQL's information_schema writes expressions.
func unescaped(text string) string {
	if !strings.Contains(text, `\`) {
		return text
	}
	return strings.NewReplacer(`\\`, `\`, `\'`, `'`, `\"`, `"`, `\n`, "\n", `\r`, "\r", `\0`, "\x00", `\Z`, "\x1a").Replace(text)
}

// undoubled returns an expression of information_schema as the statement of its table has it: the views show each byte of a letter
// beyond ASCII as a letter of latin1.
func undoubled(expression, statement string) string {
	beyond := func(r rune) bool { return r >= 0x80 }
	if !strings.ContainsFunc(expression, beyond) {
		return expression
	}
	encoder := charmap.Windows1252.NewEncoder()
	var b strings.Builder
	for _, c := range expression {
		if c < 0x100 {
			b.WriteByte(byte(c))
		} else if s, err := encoder.String(string(c)); err == nil {
			b.WriteString(s)
		} else {
			return expression
		}
	}
	whole := b.String()
	if !utf8.ValidString(whole) {
		return expression
	}
	for _, word := range strings.FieldsFunc(whole, func(r rune) bool { return !beyond(r) }) {
		if !strings.Contains(statement, word) {
			return expression
		}
	}
	return whole
}

// mysqlColumn takes what MySQL says otherwise of a column.
func (r *reader) mysqlColumn(c *schema.Column, extra string, row *engine.Row) {
	if !row.Null(5) {
		switch {
		case !strings.Contains(extra, "default_generated"):
			c.Default = mysqlDefault(c.Type, c.Default)
		case !strings.HasPrefix(strings.ToUpper(c.Default), "CURRENT_TIMESTAMP"):
			c.Default = "(" + unescaped(c.Default) + ")"
		}
	}
	if len(row.Bytes(10)) > 0 {
		c.Generated = &schema.Generated{Expression: unescaped(row.Text(10)), Stored: strings.Contains(extra, "stored")}
		c.Default = ""
		if c.NotNull {
			c.Settings = append(c.Settings, schema.Property{Name: generatedNotNull, Value: "yes"})
		}
	}
	if !row.Null(11) {
		c.Settings = append(c.Settings, schema.Property{Name: "srid", Value: row.Text(11)})
	}
}

const (
	generatedNotNull = "generated not null" // of a generated column, which MariaDB has no such word for
	writtenRestrict  = "restrict"           // of a foreign key: the word was written, and is another than NO ACTION
	vectorOptions    = "vector options"     // of an index of vectors
	invisibleIndex   = "invisible"
	blockSize        = "key block size"     // of an index
	notEnforced      = "not enforced"       // of a check
	duality          = "duality"            // of a view that shows rows as JSON documents, and takes them
	unlisted         = "columns not listed" // of a view, whose statement MySQL keeps so
)

func (r *reader) mysqlCheck(row *engine.Row) {
	o := r.tables[row.Text(1)]
	if o == nil || o.Relation == nil {
		return
	}
	c := schema.Check{Name: row.Text(0), Expression: unescaped(row.Text(3))}
	c.Expression = sqltext.Unwrap(c.Expression, rules())
	if row.Text(4) == "NO" {
		c.Settings = []schema.Property{{Name: notEnforced, Value: "yes"}}
	}
	o.Relation.Checks = append(o.Relation.Checks, c)
}

var (
	parserText   = engine.Lazily("KEY `((?:[^`]|``)+)` .*/\\*!50100 WITH PARSER `((?:[^`]|``)+)` \\*/")
	mysqlKeyText = engine.Lazily("\n  (?:[A-Z]+ )?KEY `((?:[^`]|``)+)` ") // the primary one has no name
	optionsText  = engine.Lazily(`(?s)\n\) (?:/\*!\d{5} [^*]*\*/ )*ENGINE=.*$`)
	tableSpace   = engine.Lazily("/\\*!50100 TABLESPACE (`(?:[^`]|``)+`)")
	stretched    = engine.Lazily(`AUTOEXTEND_SIZE=(\d+)`)
)

// mysqlTables asks for the statement of each table, of which the views tell only a part: partitions, parsers, binary defaults up to their
// first zero, few options.
func (r *reader) mysqlTables(ctx context.Context) error {
	for name, o := range r.tables {
		if o.Kind != schema.KindTable || o.Relation == nil {
			continue
		}
		var table, text string
		err := r.s.db.QueryRowContext(ctx, "SHOW CREATE TABLE "+quote(r.database)+"."+quote(name)).Scan(&table, &text)
		var said *mysql.MySQLError
		if errors.As(err, &said) {
			r.remark("hidden", o.ID().Qualified(), "its statement is not known, and with it its partitions and binary defaults: "+said.Message)
			continue
		}
		if err != nil {
			return err
		}
		r.applyMySQL(o, text)
	}
	return nil
}

func (r *reader) applyMySQL(o *schema.Object, text string) {
	for i := range o.Relation.Checks {
		k := &o.Relation.Checks[i]
		k.Expression = undoubled(k.Expression, text)
	}
	for key, x := range r.indexes {
		for i := range x.parts {
			if key[0] == o.Name && x.parts[i].Expression != "" {
				x.parts[i].Expression = undoubled(x.parts[i].Expression, text)
			}
		}
	}
	for i := range o.Relation.Columns {
		c := &o.Relation.Columns[i]
		if c.Generated != nil {
			c.Generated.Expression = undoubled(c.Generated.Expression, text)
		}
		if strings.HasPrefix(c.Default, "(") {
			c.Default = undoubled(c.Default, text)
		}
		if _, line, ok := strings.Cut(text, "\n  "+quote(c.Name)+" "); ok && strings.Contains(c.Type, "binary") {
			line, _, _ = strings.Cut(line, "\n")
			if _, value, ok := strings.Cut(line, " DEFAULT "); ok && (strings.HasPrefix(value, "0x") || strings.HasPrefix(value, "'")) {
				tokens := sqltext.Tokens(value, rules())
				c.Default = value[:tokens[0].End]
			}
		}
	}
	for _, m := range parserText().FindAllStringSubmatch(text, -1) {
		if x := r.indexes[[2]string{o.Name, strings.ReplaceAll(m[1], "``", "`")}]; x != nil {
			x.parser = strings.ReplaceAll(m[2], "``", "`")
		}
	}
	for i, m := range mysqlKeyText().FindAllStringSubmatch(text, -1) {
		if x := r.indexes[[2]string{o.Name, strings.ReplaceAll(m[1], "``", "`")}]; x != nil {
			x.place = i
		}
	}
	set := func(name, value string) {
		o.Settings = append(o.Settings, schema.Property{Name: name, Value: value})
	}
	tail := optionsText().FindString(text)
	if m := tableSpace().FindStringSubmatch(tail); m != nil {
		set("tablespace", strings.ReplaceAll(strings.Trim(m[1], "`"), "``", "`"))
	}
	if m := stretched().FindStringSubmatch(tail); m != nil {
		o.Settings = slices.DeleteFunc(o.Settings, func(p schema.Property) bool { return p.Name == "autoextend size" })
		set("autoextend size", m[1])
	}
	if m := partitionText().FindStringSubmatch(text); m != nil {
		set("partition by", versionComment().ReplaceAllString(m[1], "$1"))
	}
	slices.SortFunc(o.Settings, func(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) })
}

// versionComment is what MySQL writes for servers of some versions alone.
var versionComment = engine.Lazily(`(?s)/\*!\d{5} (.*?) ?\*/`)

// mysqlRoutine takes the definition of a routine out of its statement; its comment is kept apart.
func mysqlRoutine(text string) (definition string, ok bool) {
	for _, t := range sqltext.Tokens(text, rules()) {
		if word := text[t.Start:t.End]; t.Kind == sqltext.Word && (word == "FUNCTION" || word == "PROCEDURE") {
			definition, ok = text[t.Start:], true
			break
		}
	}
	start := signatureEnd(definition)
	const mark = "\n    COMMENT "
	if i := strings.Index(definition[start:], mark); i >= 0 && !strings.Contains(definition[start:start+i], "\nBEGIN") {
		literal := definition[start+i+len(mark):]
		if tokens := sqltext.Tokens(literal, rules()); len(tokens) > 0 && tokens[0].Kind == sqltext.String {
			definition = definition[:start+i] + literal[tokens[0].End:]
		}
	}
	return definition, ok
}
