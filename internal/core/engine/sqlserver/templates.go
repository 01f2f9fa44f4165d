package sqlserver

// How templates are written for this dialect.

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Fills reports row versions.
func (Engine) Fills(c *schema.Column) bool { return c.Type == "timestamp" }

// EmptyRow returns DEFAULT VALUES.
func (Engine) EmptyRow() string { return "DEFAULT VALUES" }

// Call names the parameters of a procedure, and marks those that come back.
func (Engine) Call(o *schema.Object, name string, _ func(schema.Parameter) string) (string, error) {
	var values, assigned []string
	for _, p := range engine.ParametersOf(o, rules()) {
		values = append(values, p.Name)
		one := p.Name + " = " + p.Name
		if p.Mode == "inout" {
			one += " OUTPUT"
		}
		assigned = append(assigned, one)
	}
	switch {
	case o.Kind == schema.KindProcedure:
		return strings.TrimSpace("EXEC " + name + " " + strings.Join(assigned, ", ")), nil
	case o.Routine.Returns == "":
		return "SELECT * FROM " + name + "(" + strings.Join(values, ", ") + ")", nil
	}
	return "SELECT " + name + "(" + strings.Join(values, ", ") + ")", nil
}

// AddColumn adds a column, which T-SQL does without the word COLUMN.
func (Engine) AddColumn(_ *schema.Object, name string) string {
	return "ALTER TABLE " + name + " ADD " + quote("new_column") + " int NULL"
}

// AlterColumn writes a column's type, collation and nullability: what is left out would become the database's. Computed columns
// and row versions cannot be altered (documentation: "ALTER TABLE").
func (e Engine) AlterColumn(_ *schema.Object, name string, c *schema.Column) string {
	if c.Generated != nil || e.Fills(c) || c.Setting("generated always") != "" {
		return ""
	}
	return "ALTER TABLE " + name + " ALTER COLUMN " + quote(c.Name) + " " + c.Type + collationOf(c) + engine.Nullability(c)
}

var _ engine.Templater = Engine{}
