// Package template writes statements to start from: the ones that somebody would otherwise type by hand,
// in the engine's own syntax and quoting.
package template

import (
	"errors"
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Verbs are what a template can do with one object.
var Verbs = []string{"select", "insert", "update", "delete", "call", "alter"}

// ErrNoKey says that a table has nothing by which one row could be named.
var ErrNoKey = errors.New("it has neither a primary key nor a unique constraint, so no row of it can be named by one")

// Write returns the template of a verb for an object, or for a column of it. The statement has no
// terminator. Errors say why there is none.
func Write(e engine.Engine, verb string, o *schema.Object, part string) (string, error) {
	w := writer{e: e, traits: e.Traits(), o: o, name: qualified(e, o.Schema, o.Name)}
	relation := func() error {
		if o.Relation == nil || !o.Kind.IsRelation() {
			return fmt.Errorf("%s is no table and no view", o.ID().Qualified())
		}
		if len(o.Relation.Columns) == 0 {
			return fmt.Errorf("the columns of %s are not known", o.ID().Qualified())
		}
		return nil
	}
	switch verb {
	case "select":
		if err := relation(); err != nil {
			return "", err
		}
		return w.selectAll(), nil
	case "insert":
		if err := relation(); err != nil {
			return "", err
		}
		if o.Kind == schema.KindView || o.Kind == schema.KindMaterialisedView { // whether it takes rows is the engine's to say
			return "", fmt.Errorf("%s is a view: insert into the tables that it reads", o.ID().Qualified())
		}
		return w.insert(), nil
	case "update", "delete":
		if err := relation(); err != nil {
			return "", err
		}
		return w.byKey(verb)
	case "call":
		return w.call()
	case "alter":
		if err := relation(); err != nil {
			return "", err
		}
		return w.alter(part)
	}
	return "", fmt.Errorf("there is no template %q; there are %s, join", verb, strings.Join(Verbs, ", "))
}

func qualified(e engine.Engine, schemaName, name string) string {
	if schemaName == "" {
		return e.Quote(name)
	}
	return e.Quote(schemaName) + "." + e.Quote(name)
}

type writer struct {
	e      engine.Engine
	traits engine.Traits
	o      *schema.Object
	name   string
	used   int // placeholders
}

// placeholder stands for a value, with a note of what it is.
func (w *writer) placeholder(name, typ string) string {
	w.used++
	note := strings.TrimSpace(name + " " + typ)
	note = strings.NewReplacer("*/", "* /", "\n", " ", "\x00", " ").Replace(note)
	switch w.traits.Placeholder {
	case "$":
		return fmt.Sprintf("$%d /* %s */", w.used, note)
	case "@":
		word := strings.Map(func(r rune) rune {
			if r == '_' || '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' {
				return r
			}
			return '_'
		}, name)
		return "@" + word
	}
	return "? /* " + note + " */"
}

func (w *writer) selectAll() string {
	var columns []string
	for _, c := range w.o.Relation.Columns {
		columns = append(columns, "    "+w.e.Quote(c.Name))
	}
	return "SELECT\n" + strings.Join(columns, ",\n") + "\nFROM " + w.name
}

// writable returns the columns to which a statement may give a value.
func (w *writer) writable() []*schema.Column {
	var all []*schema.Column
	for i := range w.o.Relation.Columns {
		c := &w.o.Relation.Columns[i]
		stamp := w.e.Name() == "sqlserver" && c.Type == "timestamp" // a row version
		if c.Generated == nil && c.Identity == nil && c.Setting("generated always") == "" && !stamp {
			all = append(all, c)
		}
	}
	return all
}

func (w *writer) insert() string {
	columns := w.writable()
	if len(columns) == 0 {
		if w.e.Name() == "mariadb" {
			return "INSERT INTO " + w.name + " () VALUES ()"
		}
		return "INSERT INTO " + w.name + " DEFAULT VALUES"
	}
	var names, values []string
	for _, c := range columns {
		names = append(names, "    "+w.e.Quote(c.Name))
		values = append(values, "    "+w.placeholder(c.Name, c.Type))
	}
	return "INSERT INTO " + w.name + " (\n" + strings.Join(names, ",\n") + "\n) VALUES (\n" + strings.Join(values, ",\n") + "\n)"
}

// key returns the columns by which a row is named: those of the primary key, or of a unique constraint.
func key(r *schema.Relation) []string {
	for _, primary := range []bool{true, false} {
		for _, k := range r.Keys {
			plain := k.Primary == primary
			for _, c := range k.Columns {
				plain = plain && c.Column != "" && r.Column(c.Column) != nil
			}
			if plain {
				return k.ColumnNames()
			}
		}
	}
	return nil
}

func (w *writer) byKey(verb string) (string, error) {
	names := key(w.o.Relation)
	if len(names) == 0 {
		return "", fmt.Errorf("%s: %w", w.o.ID().Qualified(), ErrNoKey)
	}
	text := "DELETE FROM " + w.name
	if verb == "update" {
		inKey := map[string]bool{}
		for _, n := range names {
			inKey[n] = true
		}
		var set []string
		for _, c := range w.writable() {
			if !inKey[c.Name] {
				set = append(set, "    "+w.e.Quote(c.Name)+" = "+w.placeholder(c.Name, c.Type))
			}
		}
		if len(set) == 0 {
			return "", fmt.Errorf("%s has no column beside its key that could be set", w.o.ID().Qualified())
		}
		text = "UPDATE " + w.name + "\nSET\n" + strings.Join(set, ",\n")
	}
	var conditions []string
	for _, n := range names {
		conditions = append(conditions, w.e.Quote(n)+" = "+w.placeholder(n, w.o.Relation.Column(n).Type))
	}
	return text + "\nWHERE " + strings.Join(conditions, "\n  AND "), nil
}

// parameter is one of a routine.
type parameter struct{ mode, name, typ string }

// call writes a call of a routine.
func (w *writer) call() (string, error) {
	if w.o.Routine == nil {
		if w.o.Kind != schema.KindAggregate {
			return "", fmt.Errorf("%s is no routine", w.o.ID().Qualified())
		}
	}
	switch w.e.Name() {
	case "postgres":
		return w.callPostgres(), nil
	case "sqlserver":
		return w.callSQLServer(), nil
	}
	var arguments []string
	for _, p := range w.parameters(list(header(w.o.Routine.Definition))) {
		if p.mode == "OUT" || p.mode == "INOUT" {
			arguments = append(arguments, "@"+w.e.Quote(p.name))
		} else {
			arguments = append(arguments, w.placeholder(p.name, p.typ))
		}
	}
	text := w.name + "(" + strings.Join(arguments, ", ") + ")"
	if w.o.Kind == schema.KindProcedure {
		return "CALL " + text, nil
	}
	if w.o.Kind == schema.KindPackage || w.o.Kind == schema.KindPackageBody {
		return "", fmt.Errorf("%s is a package; call a routine of it", w.o.ID().Qualified())
	}
	return "SELECT " + text, nil
}

func (w *writer) callPostgres() string {
	var arguments []string
	procedure := w.o.Kind == schema.KindProcedure
	for _, p := range w.parameters(w.o.Signature) {
		switch {
		case p.mode == "OUT" && !procedure:
			continue
		case p.mode == "OUT":
			arguments = append(arguments, "NULL /* "+p.name+" */")
		case p.mode == "VARIADIC":
			arguments = append(arguments, "VARIADIC "+w.placeholder(p.name, p.typ))
		default:
			arguments = append(arguments, w.placeholder(p.name, p.typ))
		}
	}
	text := w.name + "(" + strings.Join(arguments, ", ") + ")"
	switch {
	case procedure:
		return "CALL " + text
	case w.o.Routine != nil && (strings.HasPrefix(w.o.Routine.Returns, "TABLE") || strings.HasPrefix(w.o.Routine.Returns, "SETOF")):
		return "SELECT * FROM " + text
	}
	return "SELECT " + text
}

func (w *writer) callSQLServer() string {
	before := header(w.o.Routine.Definition)
	var names, assigned []string
	tokens := sqltext.Tokens(before, w.traits.Rules)
	word := func(i int) string { return before[tokens[i].Start:tokens[i].End] }
	for i := range tokens {
		// A parameter is a name that begins with @; its own type may hold none.
		if name := word(i); strings.HasPrefix(name, "@") && (len(names) == 0 || names[len(names)-1] != name) {
			if strings.EqualFold(word(max(0, i-1)), "returns") {
				break
			}
			names = append(names, name)
			assigned = append(assigned, name+" = "+name)
		} else if (strings.EqualFold(name, "output") || strings.EqualFold(name, "out")) && len(assigned) > 0 {
			assigned[len(assigned)-1] += " OUTPUT"
		}
	}
	switch {
	case w.o.Kind == schema.KindProcedure && len(names) == 0:
		return "EXEC " + w.name
	case w.o.Kind == schema.KindProcedure:
		return "EXEC " + w.name + " " + strings.Join(assigned, ", ")
	case w.o.Routine.Returns == "":
		return "SELECT * FROM " + w.name + "(" + strings.Join(names, ", ") + ")"
	}
	return "SELECT " + w.name + "(" + strings.Join(names, ", ") + ")"
}

// header returns what stands before the body of a routine.
func header(definition string) string {
	rules := sqltext.Rules{Backticks: true, Brackets: true}
	for _, t := range sqltext.Tokens(definition, rules) {
		switch strings.ToUpper(definition[t.Start:t.End]) {
		case "AS", "BEGIN":
			return definition[:t.Start]
		}
	}
	return definition
}

// list returns what stands between the first bracket and the one that closes it.
func list(text string) string {
	depth, start := 0, -1
	for i := 0; i < len(text); i++ {
		switch text[i] {
		case '`':
			for i++; i < len(text) && text[i] != '`'; i++ {
			}
		case '(':
			if depth++; depth == 1 {
				start = i + 1
			}
		case ')':
			if depth--; depth == 0 {
				return text[start:i]
			}
		}
	}
	return ""
}

// parameters divides a list of parameters: mode, name and type, of which the first two may be missing.
func (w *writer) parameters(text string) []parameter {
	var all []parameter
	tokens := sqltext.Tokens(text, w.traits.Rules)
	depth, start := 0, 0
	add := func(part []sqltext.Token) {
		if len(part) == 0 {
			return
		}
		p := parameter{}
		switch mode := strings.ToUpper(text[part[0].Start:part[0].End]); mode {
		case "IN", "OUT", "INOUT", "VARIADIC":
			if len(part) > 1 {
				p.mode, part = mode, part[1:]
			}
		}
		if len(part) > 1 && (part[0].Kind == sqltext.Word || part[0].Kind == sqltext.QuotedName) && named(text, part) {
			p.name = sqltext.Unquote(text, part[0], w.traits.Rules)
			part = part[1:]
		}
		p.typ = text[part[0].Start:part[len(part)-1].End]
		all = append(all, p)
	}
	for i, t := range tokens {
		switch text[t.Start:t.End] {
		case "(", "[":
			depth++
		case ")", "]":
			depth--
		case ",":
			if depth == 0 {
				add(tokens[start:i])
				start = i + 1
			}
		}
	}
	add(tokens[start:])
	return all
}

// twoWords are types of two words, which begin no parameter's name.
var twoWords = map[string]string{"double": "precision", "character": "varying", "bit": "varying", "timestamp": "with", "time": "with"}

// named reports whether a parameter begins with its name, and not with its type.
func named(text string, part []sqltext.Token) bool {
	first, second := strings.ToLower(text[part[0].Start:part[0].End]), strings.ToLower(text[part[1].Start:part[1].End])
	if follows, ok := twoWords[first]; ok && (strings.HasPrefix(second, follows) || second == "without") {
		return false
	}
	return second != "(" && second != "." && second != "[" && second != ","
}

// alter writes what a table, or a column of it, is altered with most often.
func (w *writer) alter(part string) (string, error) {
	if w.o.Kind == schema.KindView || w.o.Kind == schema.KindMaterialisedView {
		return "", fmt.Errorf("%s is a view: alter its definition, which ddl writes", w.o.ID().Qualified())
	}
	if w.o.Setting("virtual") != "" {
		return "", fmt.Errorf("%s is a virtual table, and those cannot be altered", w.o.ID().Qualified())
	}
	what := "ALTER TABLE "
	if w.o.Setting("server") != "" && w.e.Name() == "postgres" {
		what = "ALTER FOREIGN TABLE "
	}
	alter := what + w.name + " "
	if part == "" {
		if w.e.Name() == "sqlserver" {
			return alter + "ADD " + w.e.Quote("new_column") + " int NULL", nil
		}
		return alter + "ADD COLUMN " + w.e.Quote("new_column") + " integer", nil
	}
	c := w.o.Relation.Column(part)
	if c == nil {
		return "", fmt.Errorf("%s has no column %q", w.o.ID().Qualified(), part)
	}
	null := " NULL"
	if c.NotNull {
		null = " NOT NULL"
	}
	switch w.e.Name() {
	case "postgres":
		return alter + "ALTER COLUMN " + w.e.Quote(part) + " TYPE " + c.Type, nil
	case "mariadb":
		return alter + "MODIFY COLUMN " + w.e.Quote(part) + " " + c.Type + null, nil
	case "sqlserver":
		return alter + "ALTER COLUMN " + w.e.Quote(part) + " " + c.Type + null, nil
	}
	return alter + "RENAME COLUMN " + w.e.Quote(part) + " TO " + w.e.Quote(part+"_new"), nil // all that SQLite alters of a column
}
