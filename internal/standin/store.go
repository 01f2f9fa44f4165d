package standin

// Fixtures are tables of catalogue views in SQLite; queries run there.

import (
	"cmp"
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"

	"modernc.org/sqlite"
)

//go:embed views.sql fixtures/*.sql
var files embed.FS

// Fixture returns the script of a fixture that comes with the package.
func Fixture(name string) (string, error) {
	b, err := files.ReadFile("fixtures/" + name + ".sql")
	if err != nil {
		return "", fmt.Errorf("there is no fixture %q", name)
	}
	return string(b), nil
}

// database holds the catalogue views of one database.
type database struct {
	name string
	db   *sql.DB
}

var counter atomic.Int64

func openDatabase(name, script string) (*database, error) {
	views, err := files.ReadFile("views.sql")
	if err != nil {
		return nil, err
	}
	// Shared caches with names of their own: several sessions read one database in memory.
	n := counter.Add(1)
	db, err := sql.Open("sqlite", fmt.Sprintf("file:standin%d?mode=memory&cache=shared", n))
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1)
	for _, q := range []string{fmt.Sprintf("ATTACH 'file:standin%dsys?mode=memory&cache=shared' AS sys", n), string(views), script} {
		if _, err := db.Exec(q); err != nil {
			db.Close()
			return nil, err
		}
	}
	return &database{name, db}, nil
}

func (d *database) close() { d.db.Close() }

func equalFold(a, b string) bool { return strings.EqualFold(a, b) }

// expressions are what batches are searched for. They are compiled when the first server starts: the program that
// holds this one is to start at once.
type expressions struct{ set, property, permission, quoted, access, database, user, convert, variant, referenced, xmlSchema, text *regexp.Regexp }

var compiled = sync.OnceValue(func() expressions {
	return expressions{
		set:        regexp.MustCompile(`(?is)^\s*SET\s+[A-Z_]+\b[^;]*;?\s*`),
		property:   regexp.MustCompile(`(?i)SERVERPROPERTY\s*\(\s*'(\w+)'\s*\)`),
		permission: regexp.MustCompile(`(?i)HAS_PERMS_BY_NAME\s*\([^()]*'([A-Z ]+)'\s*\)`),
		quoted:     regexp.MustCompile(`(?i)QUOTENAME\s*\(\s*DB_NAME\s*\(\s*\)\s*\)`),
		access:     regexp.MustCompile(`(?i)HAS_DBACCESS\s*\(\s*(\w+)\s*\)`),
		convert:    regexp.MustCompile(`(?i)CONVERT\s*\(\s*nvarchar\(\d+\)\s*,\s*(?:CAST\s*\(\s*(\w+)\s+AS\s+\w+(?:\(\d+\))?\s*\)|(\w+))\s*,\s*\d+\s*\)`),
		variant:    regexp.MustCompile(`(?i)SQL_VARIANT_PROPERTY\s*\(\s*value\s*,\s*'BaseType'\s*\)`),
		referenced: regexp.MustCompile(`(?i)sys\.dm_sql_referenced_entities\s*\(\s*('(?:[^']|'')*')\s*,\s*'OBJECT'\s*\)`),
		xmlSchema:  regexp.MustCompile(`(?i)XML_SCHEMA_NAMESPACE\s*\(\s*('(?:[^']|'')*')\s*,\s*('(?:[^']|'')*')\s*\)`),
		text:       regexp.MustCompile(`\b(?:definition|x\.definition)\b`),
		database:   regexp.MustCompile(`(?i)DB_NAME\s*\(\s*\)`),
		user:       regexp.MustCompile(`(?i)SUSER_SNAME\s*\(\s*\)`),
	}
})

// functions puts the values of the few functions that are known in their places.
func (s *session) functions(text string) string {
	quoted := func(v string) string { return "'" + strings.ReplaceAll(v, "'", "''") + "'" }
	text = compiled().property.ReplaceAllStringFunc(text, func(m string) string {
		switch strings.ToLower(compiled().property.FindStringSubmatch(m)[1]) {
		case "productversion":
			return quoted(cmp.Or(s.server.Profile.Version, usualVersion))
		case "edition":
			return "'Stand-in'"
		case "engineedition":
			return strconv.Itoa(cmp.Or(s.server.Profile.Edition, 3))
		}
		return "NULL"
	})
	text = compiled().quoted.ReplaceAllLiteralString(text, quoted("["+s.database.name+"]"))
	text = compiled().permission.ReplaceAllStringFunc(text, func(m string) string {
		return s.server.Profile.right(compiled().permission.FindStringSubmatch(m)[1])
	})
	text = compiled().access.ReplaceAllString(text, "CASE WHEN lower($1) IN ("+strings.ToLower(quotedList(s.server.Hidden))+") THEN 0 ELSE 1 END")
	text = compiled().convert.ReplaceAllString(text, "$1$2")
	text = compiled().variant.ReplaceAllLiteralString(text, "standin_base")
	text = compiled().referenced.ReplaceAllString(text, "(SELECT d.* FROM sys.sql_expression_dependencies d WHERE d.referencing_id = (SELECT o.object_id FROM sys.objects o JOIN sys.schemas c ON c.schema_id = o.schema_id WHERE '[' || c.name || '].[' || o.name || ']' = $1))")
	text = compiled().xmlSchema.ReplaceAllString(text, "(SELECT x.text FROM sys.standin_xml_schemas x WHERE x.schema_name = $1 AND x.name = $2)")
	text = strings.ReplaceAll(text, "nvarchar(max)", "nvarchar(2000000000)")
	if s.server.Profile.NoTexts {
		text = compiled().text.ReplaceAllLiteralString(text, "NULL AS definition")
	}
	text = compiled().database.ReplaceAllLiteralString(text, quoted(s.database.name))
	return compiled().user.ReplaceAllLiteralString(text, quoted(s.server.User))
}

// run answers the statements of a batch.
func (s *session) run(ctx context.Context, text string, r *reply) error {
	for {
		rest := compiled().set.ReplaceAllString(text, "")
		if rest == text {
			break
		}
		text = rest
	}
	if strings.TrimSpace(text) == "" {
		r.done(0, 0)
		return nil
	}
	if word, _, _ := strings.Cut(strings.TrimSpace(strings.ToUpper(text)), " "); !strings.HasPrefix(word, "SELECT") && !strings.HasPrefix(word, "WITH") {
		return errors.New("the stand-in answers reading statements alone")
	}
	if err := s.server.Profile.refuses(text); err != nil {
		return err
	}
	rows, err := s.database.db.QueryContext(ctx, s.functions(text))
	if err != nil {
		return err
	}
	defer rows.Close()
	types, err := rows.ColumnTypes()
	if err != nil {
		return err
	}
	var all [][]any
	for rows.Next() {
		values, to := make([]any, len(types)), make([]any, len(types))
		for i := range values {
			to[i] = &values[i]
		}
		if err := rows.Scan(to...); err != nil {
			return err
		}
		all = append(all, values)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	columns := make([]column, len(types))
	for i, t := range types {
		typ := t.DatabaseTypeName()
		if typ == "" && t.Name() == "type" { // of sys.objects, a view of several tables, whose types SQLite forgets
			typ = "char(2)"
		}
		columns[i] = columnOf(t.Name(), typ, func(yield func(any) bool) {
			for _, row := range all {
				if !yield(row[i]) {
					return
				}
			}
		})
	}
	r.columns(columns)
	for _, row := range all {
		r.row(columns, row)
	}
	r.done(doneCount, len(all))
	return nil
}

func quotedList(list []string) string {
	out := "''"
	for _, s := range list {
		out += ", '" + strings.ReplaceAll(s, "'", "''") + "'"
	}
	return out
}

// errorNumber tells errors as the server numbers them.
func errorNumber(err error) int {
	var coded *sqlite.Error
	var refused *refusal
	switch {
	case errors.As(err, &refused):
		return refused.number
	case errors.As(err, &coded) && strings.Contains(err.Error(), "no such table"):
		return 208
	case errors.As(err, &coded) && strings.Contains(err.Error(), "no such column"):
		return 207
	case errors.As(err, &coded):
		return 102
	}
	return 50000
}
