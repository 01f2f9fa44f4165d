package cli_test

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// Rights, changes and environments; and reports of one's own, by file and by name, with parameters, rows that lead on, and pictures.
func TestReportsOfOnesOwn(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	holds(t, "drift", p.want(0, "report", "drift", "quay-live"), "berth_note_old", "missing in dev", "differs in dev")
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "quay-live", "berths.db"), "CREATE TABLE ferry_pass (id INTEGER PRIMARY KEY); DROP TABLE berth_note_old;")
	p.want(0, "survey", "quay-live")
	holds(t, "changed", p.want(0, "report", "changed", "quay-live"), "ferry_pass", "added", "berth_note_old", "removed")
	holds(t, "changed since", p.want(0, "report", "changed", "quay-live", "--since", "2099-01-01"), "changed.")
	p.fails(2, []string{"report", "changed", "--since", "soon"}, "2026-03-01")
	p.file("wide.sql", "-- title: Wide tables\n-- about: tables of many columns\n-- parameter: least number = 5, columns at least\n-- leads to: columns_of table=name\n-- chart: bar name, columns\n-- advice: Look at them.\nSELECT name, columns, rows FROM objects WHERE kind = 'table' AND columns >= :least ORDER BY 2 DESC, 1;\n")
	p.file("columns_of.sql", "-- title: Columns\n-- parameter: table text, its name\nSELECT name, type FROM columns WHERE table_name = :table ORDER BY position")
	out := p.want(0, "report", "./wide.sql", "quay-live/berths", "--set", "least=7")
	holds(t, "own report", out, "Wide tables", "tables of many columns", "vessel", "3 rows", "Look at them.", "echo-atlas report columns_of --set table=vessel")
	if strings.Contains(out, "pilot") {
		t.Errorf("the parameter does not count:\n%s", out)
	}
	if svg := p.want(0, "report", "wide.sql", "quay-live/berths", "--as", "svg"); !strings.HasPrefix(svg, "<svg ") || strings.Count(svg, `class="bar"`) < 5 {
		t.Errorf("the picture: %s", svg)
	}
	var d struct {
		Rows []struct {
			Name    string
			Columns int
		}
		LeadsTo struct{ Report string } `json:"leads_to"`
	}
	if err := json.Unmarshal([]byte(p.want(0, "report", "wide.sql", "quay-live/berths", "--as", "json")), &d); err != nil || len(d.Rows) < 5 || d.Rows[0].Name != "vessel" || d.Rows[0].Columns != 8 || d.LeadsTo.Report != "columns_of" {
		t.Errorf("%v, %+v", err, d)
	}
	holds(t, "csv", p.want(0, "report", "wide.sql", "quay-live/berths", "--as", "csv"), "name,columns,rows\nvessel,8,3\n")
	text := p.read("echo-atlas.toml")
	p.file("echo-atlas.toml", strings.Replace(text, `["reports/*.sql"]`, `["reports/*.sql", "*.sql"]`, 1))
	holds(t, "list", p.want(0, "report"), "wide", "tables of many columns", "rights", "drift")
	holds(t, "by name", p.want(0, "report", "columns_of", "quay-live", "--set", "table=vessel"), "call_sign", "8 rows")
	p.fails(2, []string{"report", "columns_of"}, "--set table=VALUE", "its name")
	p.fails(2, []string{"report", "columns_of", "--set", "table=x", "--set", "chair=y"}, "chair", "none of the report's")
	p.fails(2, []string{"report", "columns_of", "--set", "table=x", "--as", "svg"}, "draws nothing")
	p.fails(2, []string{"report", "none.sql"}, "none.sql")
	p.fails(2, []string{"report", "columns_if"}, "did you mean", "columns_of")
	p.file("wrong.sql", "SELECT * FROM tables")
	p.fails(2, []string{"report", "wrong.sql"}, "no such table", "objects (address", "columns (")
	p.file("wrong.sql", "DROP TABLE objects")
	p.fails(2, []string{"report", "wrong.sql"}, "begins with SELECT")
	p.file("wrong.sql", "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) FROM n")
	p.fails(2, []string{"report", "wrong.sql", "--timeout", "100ms"}, "took longer", "--timeout")
	p.file("wrong.sql", "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n")
	holds(t, "a limit", p.want(0, "report", "wrong.sql", "--limit", "5"), "5 rows shown, and there are more")
}

// Who may do what, on a real server.
func TestReportRights(t *testing.T) {
	t.Parallel()
	pg := testservers.Postgres(t)
	execAll(t, pg.Open(t, pg.URL("postgres")), "CREATE ROLE warden")
	t.Cleanup(func() { _, _ = pg.Open(t, pg.URL("postgres")).Exec("DROP ROLE warden") })
	url := pg.Database(t, "CREATE TABLE berth (no int, depth int); CREATE TABLE pier (no int); GRANT SELECT ON berth, pier TO warden; GRANT UPDATE (depth) ON berth TO warden WITH GRANT OPTION; GRANT SELECT ON pier TO PUBLIC;")
	p := newPlace(t)
	p.want(0, "survey", "--from", url, "--name", "quay")
	holds(t, "rights", p.want(0, "report", "rights", "quay"), "warden", "SELECT", "public.berth, public.pier", "UPDATE (grantable)", "everybody")
	pg.Drop(t, url)
}
