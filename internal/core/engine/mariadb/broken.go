package mariadb

// What the server keeps and would not make again: views on what is gone, triggers that name columns which are gone.

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// brokenSetting says why no statement makes an object as it is.
const brokenSetting = "broken"

// Errors that say that a name means nothing (documentation, "Server error message reference"): a column, a table, a routine.
var namesNothing = []uint16{1054, 1146, 1305, 1356, 1630}

// brokenCode marks views and triggers that cannot be made again. Of an invalid view the server says alike that something is gone and
// that its definer lacks a right: its query is prepared, and not run, to tell the two apart.
func (r *reader) brokenCode(ctx context.Context) error {
	for name, query := range r.queries {
		o := r.tables[name]
		statement, err := r.s.db.PrepareContext(ctx, query)
		var said *mysql.MySQLError
		switch {
		case err == nil:
			statement.Close()
		case errors.As(err, &said):
			if slices.Contains(namesNothing, said.Number) {
				o.Settings = append(o.Settings, schema.Property{Name: brokenSetting, Value: strings.ReplaceAll(said.Message, r.database+".", "")})
			}
		default:
			return err
		}
	}
	for _, o := range r.reading.Objects {
		if o.Trigger == nil {
			continue
		}
		if name := r.goneColumn(o); name != "" {
			o.Settings = append(o.Settings, schema.Property{Name: brokenSetting, Value: "it names the column " + name + ", which " + o.Trigger.Table + " does not have"})
			r.remark("failed", o.ID().Qualified(), "it names the column "+name+", which the table does not have")
		}
	}
	return nil
}

// goneColumn returns a column of the rows of a trigger that its table does not have.
func (r *reader) goneColumn(o *schema.Object) string {
	table := r.tables[o.Trigger.Table]
	if table == nil || table.Relation == nil || len(table.Relation.Columns) == 0 {
		return ""
	}
	body := o.Trigger.Body
	rules := Engine{}.Dialect(o)
	tokens := sqltext.Tokens(body, rules)
	word := func(i int) string { return strings.ToLower(body[tokens[i].Start:tokens[i].End]) }
	for i := 0; i+2 < len(tokens); i++ {
		if tokens[i].Kind != sqltext.Word || word(i) != "new" && word(i) != "old" || word(i+1) != "." || i > 0 && word(i-1) == "." {
			continue
		}
		if tokens[i+2].Kind != sqltext.Word && tokens[i+2].Kind != sqltext.QuotedName {
			continue
		}
		name := sqltext.Unquote(body, tokens[i+2], rules)
		if !slices.ContainsFunc(table.Relation.Columns, func(c schema.Column) bool { return strings.EqualFold(c.Name, name) || c.Name == "" }) {
			return name
		}
	}
	return ""
}
