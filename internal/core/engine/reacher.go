package engine

// Tables of one database may stand for those of another server; the engine knows how that is written.

import (
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Reach is where a foreign or a linked server leads.
type Reach struct {
	Host, Port, Database string
	Usual                string // the port of a server that is given without one
}

// Linker is implemented by engines whose texts name things of other servers of the same make by the name of a link.
type Linker interface {
	// Links returns where a linked server leads; ok is false for one of another make.
	Links(linked *schema.Object) (r Reach, ok bool)
}

// Reacher is implemented by engines with tables that stand for those of another server of the same make.
type Reacher interface {
	// Reaches returns where a foreign server leads; ok is false for one of another make.
	Reaches(server *schema.Object) (r Reach, ok bool)
	// StandsFor returns the schema and the name of the table that a foreign table stands for, and the column for one of its own.
	StandsFor(table *schema.Object, column string) (schemaName, name, far string)
}

// OptionsIn returns the options in the statement of a foreign server: OPTIONS (name 'value', …).
func OptionsIn(statement string, rules sqltext.Rules) map[string]string {
	options := map[string]string{}
	tokens := sqltext.Tokens(statement, rules)
	for i := 0; i+1 < len(tokens); i++ {
		name, value := tokens[i], tokens[i+1]
		if (name.Kind == sqltext.Word || name.Kind == sqltext.QuotedName) && value.Kind == sqltext.String {
			s := statement[value.Start+1 : value.End-1]
			options[sqltext.Unquote(statement, name, rules)] = strings.ReplaceAll(s, "''", "'")
		}
	}
	return options
}
