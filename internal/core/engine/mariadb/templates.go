package mariadb

// How templates are written for this dialect.

import (
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Fills reports that nothing does but what the model says.
func (Engine) Fills(*schema.Column) bool { return false }

// EmptyRow returns MariaDB's form of a row without values.
func (Engine) EmptyRow() string { return "() VALUES ()" }

// Call calls a function in a SELECT, a procedure by CALL, with variables of the session for what comes back.
func (e Engine) Call(o *schema.Object, name string, value func(schema.Parameter) string) (string, error) {
	var arguments []string
	for _, p := range engine.ParametersOf(o, rules()) {
		if p.Mode == "out" || p.Mode == "inout" {
			arguments = append(arguments, "@"+e.Quote(p.Name))
		} else {
			arguments = append(arguments, value(p))
		}
	}
	text := name + "(" + strings.Join(arguments, ", ") + ")"
	switch o.Kind {
	case schema.KindProcedure:
		return "CALL " + text, nil
	case schema.KindPackage, schema.KindPackageBody:
		return "", fmt.Errorf("%s is a package; call a routine of it", o.ID().Qualified())
	}
	return "SELECT " + text, nil
}

// AddColumn adds a column.
func (e Engine) AddColumn(o *schema.Object, name string) string {
	return engine.Templates{Engine: e}.AddColumn(o, name)
}

// AlterColumn writes a column's type and nullability, which MODIFY needs both.
func (e Engine) AlterColumn(_ *schema.Object, name string, c *schema.Column) string {
	return "ALTER TABLE " + name + " MODIFY COLUMN " + e.Quote(c.Name) + " " + c.Type + engine.Nullability(c)
}

var _ engine.Templater = Engine{}
