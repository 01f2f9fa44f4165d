package engine

// What a template needs to know of a dialect.

import (
	"errors"

	"echo-atlas/internal/core/schema"
)

// Templater is an engine that has more to say about statements to start from than standard SQL does.
type Templater interface {
	// Fills reports that the server alone gives a column its values.
	Fills(c *schema.Column) bool
	// EmptyRow is what stands behind INSERT INTO name where a statement gives no column a value.
	EmptyRow() string
	// Call returns the call of a routine; name is how it is written, and value returns what stands for a value of a parameter.
	Call(o *schema.Object, name string, value func(schema.Parameter) string) (string, error)
	// AddColumn returns what adds a column to a table, which is written as name.
	AddColumn(o *schema.Object, name string) string
	// AlterColumn returns what alters a column most often; "" for one that cannot be altered.
	AlterColumn(o *schema.Object, name string, c *schema.Column) string
}

// Templates is what templates say of an engine that is no Templater: standard SQL. Templaters embed it for what they
// have nothing to add to.
type Templates struct{ Engine Engine }

// Fills reports false.
func (Templates) Fills(*schema.Column) bool { return false }

// EmptyRow returns DEFAULT VALUES.
func (Templates) EmptyRow() string { return "DEFAULT VALUES" }

// Call returns an error: nothing is known of routines.
func (Templates) Call(*schema.Object, string, func(schema.Parameter) string) (string, error) {
	return "", errors.New("how the engine calls routines is not known")
}

// AddColumn returns ALTER TABLE … ADD COLUMN.
func (t Templates) AddColumn(_ *schema.Object, name string) string {
	return "ALTER TABLE " + name + " ADD COLUMN " + t.Engine.Quote("new_column") + " integer"
}

// AlterColumn returns ALTER TABLE … RENAME COLUMN, which every engine knows.
func (t Templates) AlterColumn(_ *schema.Object, name string, c *schema.Column) string {
	return "ALTER TABLE " + name + " RENAME COLUMN " + t.Engine.Quote(c.Name) + " TO " + t.Engine.Quote(c.Name+"_new")
}

// TemplatesOf returns what templates say of an engine.
func TemplatesOf(e Engine) Templater {
	if t, ok := e.(Templater); ok {
		return t
	}
	return Templates{e}
}

// Nullability returns NULL or NOT NULL with a blank in front.
func Nullability(c *schema.Column) string {
	if c.NotNull {
		return " NOT NULL"
	}
	return " NULL"
}
