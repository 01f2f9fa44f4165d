package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// Scripts in all their forms, from the built program on files.
func TestScriptForms(t *testing.T) {
	p := demoPlace(t)
	p.file("list.txt", "# what the office asked for\nquay-live/berths/tariff\n\nquay-live/berths/invoice\n")
	holds(t, "a script from a list", p.want(0, "ddl", "--from-list", "list.txt"), "CREATE TABLE tariff", "CREATE TABLE invoice", "--from-list list.txt", "BEGIN;", "COMMIT;", "in 4 statements")
	holds(t, "a named selection", p.want(0, "ddl", "selection:tariffs"), "CREATE TABLE tariff", "CREATE TABLE invoice")
	holds(t, "a selection in another command", p.want(0, "list", "selection:tariffs"), "tariff", "invoice")
	p.fails(2, []string{"ddl", "selection:tariff"}, "there is tariffs")
	if out := p.want(0, "ddl", "quay-live/tides", "--no-transaction"); strings.Contains(out, "BEGIN;") {
		t.Errorf("a transaction:\n%s", out)
	}
	holds(t, "what is made anew", p.want(0, "ddl", "quay-live/berths/mooring", "--recreate"), "DROP TABLE IF EXISTS mooring", "in the way of what it drops first", "view open_mooring")
	holds(t, "what is made where it is not", p.want(0, "ddl", "quay-live/berths/mooring", "--if-not-exists"), "CREATE TABLE IF NOT EXISTS mooring", "CREATE INDEX IF NOT EXISTS")
	p.fails(2, []string{"ddl", "quay-live/tides", "--drop", "--recreate"}, "choose one")
	p.fails(2, []string{"ddl", "quay-live/tides", "--create-database"}, "is a file")
	p.fails(2, []string{"ddl", "quay-live"}, "--into")
	p.fails(2, []string{"ddl", "--from-list", "echo-atlas.toml"}, "is no address")

	_, said, code := p.run("ddl", "quay-live", "--into", "scripts")
	if code != 0 || !strings.Contains(said, "27 objects in 27 files") {
		t.Fatalf("%d, %s", code, said)
	}
	folder := filepath.Join(p.dir, "scripts", "quay-live", "tides")
	cmd := exec.Command("sqlite3", filepath.Join(p.dir, "again.db"), ".read main.sql")
	cmd.Dir = folder
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	p.want(0, "survey", "--from", "sqlite:again.db", "--name", "again")
	p.want(0, "diff", "quay-live/tides", "again/again")
	if err := os.WriteFile(filepath.Join(folder, "mine.txt"), nil, 0o644); err != nil {
		t.Fatal(err)
	}
	p.want(0, "ddl", "quay-live/tides/gauge", "--into", filepath.Join("scripts", "quay-live", "tides")) // what is left of before goes
	if left, _ := filepath.Glob(filepath.Join(folder, "*", "*.sql")); len(left) != 1 || !there(filepath.Join(folder, "mine.txt")) {
		t.Errorf("left: %v", left)
	}
	p.fails(2, []string{"ddl", "quay-live/tides", "--into", "quay-live"}, "something else")
}

func TestProveFromOutside(t *testing.T) {
	p := demoPlace(t)
	out, said, code := p.run("ddl", "quay-live/berths", "--prove", "--out", "all.sql")
	if code != 0 || out != "" || !strings.Contains(said, "proved: recreated exactly") || !there(filepath.Join(p.dir, "all.sql")) {
		t.Errorf("%d %s%s", code, out, said)
	}
	p.fails(3, []string{"ddl", "quay-live/berths/mooring_open", "--prove", "--out", "index.sql"}, "not proved: statement 1 failed, line", "mooring_open", "--with-needs")
	if there(filepath.Join(p.dir, "index.sql")) {
		t.Error("what failed was written all the same")
	}
	if _, said, code := p.run("ddl", "quay-live/berths/open_mooring", "--prove"); code != 1 || !strings.Contains(said, "what it makes differs") {
		t.Errorf("%d, %s", code, said)
	}
	type answered struct{ Proof struct{ Exact bool } }
	if a := answer[answered](p, 0, "ddl", "quay-live/tides", "--prove"); !a.Proof.Exact {
		t.Errorf("%+v", a)
	}
}

func TestFormatFromOutside(t *testing.T) {
	p := demoPlace(t)
	p.file("query.sql", "select a,b from t where x=1;")
	if out := p.want(0, "format", "query.sql"); out != "SELECT a, b FROM t WHERE x = 1;\n" {
		t.Errorf("%q", out)
	}
	p.want(1, "format", "query.sql", "--check")
	p.want(0, "format", "query.sql", "--in-place")
	p.want(0, "format", "query.sql", "--check")
	p.fails(2, []string{"format", "query.sql", "--dialect", "postgre"}, "did you mean postgres")
	p.fails(2, []string{"format", "query.sql", "--style", "narrow"}, "no style")
	p.file("broken.sql", "select 'a")
	if out, said, code := p.run("format", "broken.sql"); out != "select 'a" || code != 0 || !strings.Contains(said, "left as it is") {
		t.Errorf("%q, %s, %d", out, said, code)
	}
	p.file("bad.toml", "[format]\nwidth = 3\n")
	p.fails(2, []string{"format", "query.sql", "--config", "bad.toml"}, "width takes 20 to 1000")
}

func TestRenameScript(t *testing.T) {
	p := demoPlace(t)
	out := p.want(0, "trace", "quay-live/berths/mooring.draught_m", "--if", "renamed=draft_m", "--out", "-")
	holds(t, "a script of a new name", out, "ALTER TABLE mooring RENAME COLUMN draught_m TO draft_m;")
	p.fails(2, []string{"trace", "quay-live/berths/mooring.draught_m", "--if", "renamed=hours", "--out", "-"}, "is there already")
	p.fails(2, []string{"trace", "quay-live/berths/mooring.draught_m", "--if", "dropped", "--out", "-"}, "--out writes the script of")
	p.fails(2, []string{"trace", "quay-live/berths/mooring", "--if", "moved=x", "--out", "-"}, "no schemas")
	view := p.want(0, "trace", "quay-live/berths/open_mooring", "--if", "renamed=lying", "--out", "-")
	holds(t, "a view under a new name", view, "made anew", "CREATE VIEW lying AS", "DROP VIEW free_berth", "DROP VIEW open_mooring")
}

func there(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}
