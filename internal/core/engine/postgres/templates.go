package postgres

// How templates are written for this dialect.

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Fills reports that nothing does but what the model says.
func (Engine) Fills(*schema.Column) bool { return false }

// EmptyRow returns DEFAULT VALUES.
func (Engine) EmptyRow() string { return "DEFAULT VALUES" }

// Call calls a function in a SELECT, in its FROM if it returns rows. The parameters are those of the signature, which an
// aggregate has, too.
func (Engine) Call(o *schema.Object, name string, value func(schema.Parameter) string) (string, error) {
	var arguments []string
	procedure := o.Kind == schema.KindProcedure
	for _, p := range sqltext.Parameters(o.Signature, sqltext.Tokens(o.Signature, rules()), rules()) {
		written := ""
		switch {
		case p.Mode == "out" && !procedure:
			continue
		case p.Mode == "out":
			written = "NULL /* " + p.Name + " */"
		default:
			written = value(schema.Parameter{Name: p.Name, Type: p.Type})
			if p.Mode == "variadic" {
				written = "VARIADIC " + written
			}
		}
		arguments = append(arguments, written)
	}
	text := name + "(" + strings.Join(arguments, ", ") + ")"
	switch {
	case procedure:
		return "CALL " + text, nil
	case o.Routine != nil && (strings.HasPrefix(o.Routine.Returns, "TABLE") || strings.HasPrefix(o.Routine.Returns, "SETOF")):
		return "SELECT * FROM " + text, nil
	}
	return "SELECT " + text, nil
}

// alterTable returns how a table is altered: a foreign one by a word of its own.
func alterTable(o *schema.Object, name string) string {
	if o.Setting("server") != "" {
		return "ALTER FOREIGN TABLE " + name + " "
	}
	return "ALTER TABLE " + name + " "
}

// AddColumn adds a column.
func (Engine) AddColumn(o *schema.Object, name string) string {
	return alterTable(o, name) + "ADD COLUMN " + quote("new_column") + " integer"
}

// AlterColumn changes a column's type.
func (Engine) AlterColumn(o *schema.Object, name string, c *schema.Column) string {
	return alterTable(o, name) + "ALTER COLUMN " + quote(c.Name) + " TYPE " + c.Type
}

var _ engine.Templater = Engine{}
