package engine

// A Maker gathers the statements of an object whose owner, comment and rights are set one by one behind it.

import (
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Maker gathers the statements that make an object whose owner, comment and other properties are set by
// statements of their own.
type Maker struct {
	Object     *schema.Object
	Self       Resource // what the object is to others
	Name       string   // as it stands in statements
	Statements []Statement
	Failed     error
}

// NewMaker returns a maker for an object; name is its name as it stands in statements.
func NewMaker(o *schema.Object, name string) Maker {
	return Maker{Object: o, Self: ResourceOf(o.ID()), Name: name}
}

// Main adds the statement that makes the object.
func (m *Maker) Main(s Statement) {
	s.Subject, s.Action = m.Object.ID(), Make
	if s.Undo == "" {
		s.Undo = "DROP " + strings.ToUpper(string(m.Object.Kind)) + " " + m.Name
	}
	s.Provides = append(s.Provides, m.Self)
	if m.Object.Schema != "" {
		s.Requires = append(s.Requires, Resource{What: schema.SchemaNames, Name: m.Object.Schema})
	}
	m.Statements = append(m.Statements, s)
}

// After adds a statement that follows the one that makes the object.
func (m *Maker) After(text string, requires ...Resource) {
	m.Statements = append(m.Statements, Statement{
		Subject: m.Object.ID(), Step: len(m.Statements) + 1, Head: text, Requires: append(requires, m.Self),
	})
}

// Texts returns the statements that the definition of an object holds, one text each: the first makes it.
func Texts(o *schema.Object, rules sqltext.Rules) []string {
	if all := sqltext.Statements(o.Definition, rules); len(all) > 0 {
		return all
	}
	return []string{o.Definition}
}
