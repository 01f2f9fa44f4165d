package postgres

// Where foreign tables lead (documentation: "postgres_fdw").

import (
	"cmp"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Reaches implements engine.Reacher for servers of the wrapper postgres_fdw.
func (Engine) Reaches(server *schema.Object) (engine.Reach, bool) {
	if !strings.Contains(server.Definition, "postgres_fdw") {
		return engine.Reach{}, false
	}
	o := engine.OptionsIn(server.Definition, rules())
	return engine.Reach{Host: cmp.Or(o["host"], o["hostaddr"], "localhost"), Port: cmp.Or(o["port"], "5432"), Database: o["dbname"], Usual: "5432"}, true
}

// StandsFor implements engine.Reacher: options say what is called otherwise there.
func (Engine) StandsFor(table *schema.Object, column string) (schemaName, name, far string) {
	far = column
	if table.Relation != nil {
		if c := table.Relation.Column(column); c != nil {
			far = cmp.Or(schema.SettingOf(c.Options, "column_name"), column)
		}
	}
	return cmp.Or(schema.SettingOf(table.Options, "schema_name"), table.Schema), cmp.Or(schema.SettingOf(table.Options, "table_name"), table.Name), far
}
