package mariadb

// Libraries of code in other languages, and the routines that use them (documentation: "CREATE LIBRARY", since MySQL 9.2).

import (
	"context"
	"errors"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

const (
	librariesQuery = `SELECT library_name, library_definition, language, library_comment FROM information_schema.libraries WHERE library_schema = @DB`
	libraryUses    = `SELECT routine_type, routine_name, library_schema, library_name FROM information_schema.routine_libraries WHERE routine_schema = @DB`
)

var (
	languageText = engine.Lazily(`\n    LANGUAGE ([A-Z]+)\n`)
	usingText    = engine.Lazily("\n    USING \\([^\n]*\\)\n")
)

// libraries reads libraries, where the server has them.
func (r *reader) libraries(ctx context.Context) error {
	err := r.query(ctx, librariesQuery, func(row *engine.Row) {
		o := &schema.Object{Kind: schema.KindLibrary, Name: row.Text(0), Comment: row.Text(3)}
		if row.Null(1) {
			r.remark("hidden", o.ID().Qualified(), "its text is not known: the user "+r.s.info.User+" lacks a right on it")
		} else {
			o.Definition = "CREATE LIBRARY " + quote(o.Name) + "\n    LANGUAGE " + row.Text(2) + "\nAS $$" + row.Text(1) + "$$"
		}
		r.reading.Objects = append(r.reading.Objects, o)
	})
	var said *mysql.MySQLError
	if errors.As(err, &said) && said.Number == 1109 { // there is no such view: an older server
		return nil
	}
	if err != nil {
		return err
	}
	return r.query(ctx, libraryUses, func(row *engine.Row) {
		from := schema.ID{Kind: schema.KindProcedure, Name: row.Text(1)}
		if row.Text(0) == "FUNCTION" {
			from.Kind = schema.KindFunction
		}
		to := schema.ObjectEnd(schema.ID{Kind: schema.KindLibrary, Name: row.Text(3)})
		if database := row.Text(2); database != r.database {
			to.Outside.Database = database
		}
		r.uses = append(r.uses, schema.Dependency{From: schema.ObjectEnd(from), To: to, Evidence: schema.Recorded, Use: schema.UseCalls})
	})
}

// libraryNeeds notes which routines use libraries; a routine is told from others by its name alone here.
func (r *reader) libraryNeeds() {
	for _, d := range r.uses {
		for _, o := range r.code {
			if id := o.ID(); id.Kind == d.From.ID.Kind && id.Name == d.From.ID.Name {
				d.From = schema.ObjectEnd(id)
				r.reading.Dependencies = append(r.reading.Dependencies, d)
			}
		}
	}
}

// mysqlQueries returns what a survey of a new MySQL sends.
func (e Engine) mysqlQueries() []string {
	all := append(sessionSettings(engine.Patience), "SELECT version(), current_user()", "SHOW GRANTS", databasesQuery)
	all = append(all, schemaQuery, tablesQuery, columnsQuery, indexesQuery, referencesQuery, keyColumnsQuery, viewsQuery, triggersQuery, mysqlChecksQuery, plainRoutinesQuery, eventsQuery, librariesQuery, libraryUses, ownRightsQuery,
		tableGrantsQuery, routineGrantsQuery, "-- for each table, view, routine, and each trigger and event whose text holds a quote:\nSHOW CREATE TABLE `database`.`name`", "-- what belongs to no database:\n"+allDatabasesQuery, databaseRightsQuery,
		mysqlUsersQuery, userRightsQuery, mysqlRolesQuery, mysqlDefaultRolesQuery, proxiesQuery, serversQuery, mysqlGroupsQuery, "-- again at the end, to notice changes:\n"+stampQuery)
	for i := range all {
		all[i] = worded(all[i], true, newest)
	}
	return all
}
