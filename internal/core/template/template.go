// Package template writes statements to start from: the ones that somebody would otherwise type by hand,
// in the engine's own syntax and quoting.
package template

import (
	"errors"
	"fmt"
	"strings"
	"unicode"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Verbs are what a template can do with one object.
var Verbs = []string{"select", "insert", "update", "delete", "call", "alter"}

// ErrNoKey says that a table has nothing by which one row could be named.
var ErrNoKey = errors.New("it has neither a primary key nor a unique constraint, so no row of it can be named by one")

// Write returns the template of a verb for an object, or for a column of it. The statement has no
// terminator. Errors say why there is none.
func Write(e engine.Engine, verb string, o *schema.Object, part string) (string, error) {
	w := writer{e: e, dialect: engine.TemplatesOf(e), traits: e.Traits(), o: o, name: qualified(e, o.Schema, o.Name)}
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
	e       engine.Engine
	dialect engine.Templater
	traits  engine.Traits
	o       *schema.Object
	name    string
	used    int             // placeholders
	named   map[string]bool // those that have names
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
			if r == '_' || unicode.IsDigit(r) || unicode.IsLetter(r) {
				return r
			}
			return '_'
		}, name)
		one := word
		for n := 2; w.named[strings.ToLower(one)]; n++ { // two columns are two values
			one = fmt.Sprintf("%s_%d", word, n)
		}
		if w.named == nil {
			w.named = map[string]bool{}
		}
		w.named[strings.ToLower(one)] = true
		return "@" + one
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
		if c.Generated == nil && c.Identity == nil && c.Setting("generated always") == "" && !w.dialect.Fills(c) {
			all = append(all, c)
		}
	}
	return all
}

func (w *writer) insert() string {
	columns := w.writable()
	if len(columns) == 0 {
		return "INSERT INTO " + w.name + " " + w.dialect.EmptyRow()
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

// call writes a call of a routine.
func (w *writer) call() (string, error) {
	if w.o.Routine == nil && w.o.Kind != schema.KindAggregate {
		return "", fmt.Errorf("%s is no routine", w.o.ID().Qualified())
	}
	return w.dialect.Call(w.o, w.name, func(p schema.Parameter) string { return w.placeholder(p.Name, p.Type) })
}

// alter writes what a table, or a column of it, is altered with most often.
func (w *writer) alter(part string) (string, error) {
	if w.o.Kind == schema.KindView || w.o.Kind == schema.KindMaterialisedView {
		return "", fmt.Errorf("%s is a view: alter its definition, which ddl writes", w.o.ID().Qualified())
	}
	if w.o.Setting("virtual") != "" {
		return "", fmt.Errorf("%s is a virtual table, and those cannot be altered", w.o.ID().Qualified())
	}
	if part == "" {
		return w.dialect.AddColumn(w.o, w.name), nil
	}
	c := w.o.Relation.Column(part)
	if c == nil {
		return "", fmt.Errorf("%s has no column %q", w.o.ID().Qualified(), part)
	}
	text := w.dialect.AlterColumn(w.o, w.name, c)
	if text == "" {
		return "", fmt.Errorf("the server fills %s of %s by itself: such a column is not altered, but dropped and added anew", part, w.o.ID().Qualified())
	}
	return text, nil
}
