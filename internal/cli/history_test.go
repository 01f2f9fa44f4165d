package cli_test

import (
	"database/sql"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"
)

// kept is a place with a database that was read three times: at first, with a table more, and the same
// again.
func kept(t *testing.T) (*place, *sql.DB) {
	t.Helper()
	p := newPlace(t)
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "tides.db"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	p.file("echo-atlas.toml", "home = \"home\"\n[servers.quay]\nurl = \"sqlite:tides.db\"\nenvironment = \"live\"\n")
	execAll(t, db, `CREATE TABLE tide (id int PRIMARY KEY, "high water" real)`, `CREATE VIEW high AS SELECT id FROM tide WHERE "high water" > 3`)
	p.want(0, "survey", "--label", "before works")
	execAll(t, db, "CREATE TABLE gauge (id int)")
	p.want(0, "survey")
	p.want(0, "survey")
	return p, db
}

func TestHistory(t *testing.T) {
	t.Parallel()
	p, db := kept(t)
	total := func(address string) int { return answer[rows](p, 0, "list", address, "--kind", "table").Total }
	for address, want := range map[string]int{"quay/tides": 2, "quay/tides@0": 2, "quay/tides@1": 1, "quay/tides@before works": 1, "quay/tides@today": 2} {
		if got := total(address); got != want {
			t.Errorf("%s has %d tables, want %d", address, got, want)
		}
	}
	p.fails(2, []string{"list", "quay/tides@2"}, "only 1 different reading")
	p.fails(2, []string{"list", "quay/tides@yesterday"}, "the first reading was taken later")
	p.fails(2, []string{"list", "quay/tides@no such"}, "echo-atlas snapshots")
	if d := answer[rows](p, 1, "diff", "quay/tides@before works", "quay/tides"); d.Summary.Added != 1 || d.Summary.Same != 2 {
		t.Errorf("%+v", d.Summary)
	}
	p.want(0, "snapshots", "label", "quay/tides", "after works")
	holds(t, "snapshots", p.want(0, "snapshots"), "before works", "after works", "as before", "first")
	p.want(0, "diff", "quay/tides@after works", "quay/tides")
	p.fails(2, []string{"snapshots", "label", "quay/tides", "a/b"}, "cannot be a label")

	execAll(t, db, "CREATE TABLE beacon (id int)")
	if got := total("quay/tides"); got != 2 {
		t.Errorf("without --fresh %d tables", got)
	}
	if d := answer[rows](p, 0, "list", "--kind", "table", "--max-age", "1h"); d.Total != 2 {
		t.Errorf("the reading is younger than an hour, but %d tables", d.Total)
	}
	time.Sleep(20 * time.Millisecond)
	if d := answer[rows](p, 0, "list", "--kind", "table", "--max-age", "1ms"); d.Total != 3 {
		t.Errorf("with --max-age %d tables", d.Total)
	}
	execAll(t, db, "DROP TABLE beacon")
	if d := answer[rows](p, 0, "list", "--kind", "table", "--fresh"); d.Total != 2 {
		t.Errorf("with --fresh %d tables", d.Total)
	}

	readings := func() int { return strings.Count(p.want(0, "snapshots", "--as", "csv"), "quay/tides") }
	before := readings()
	p.fails(2, []string{"snapshots", "drop", "quay/tides"}, "--all")
	p.want(0, "snapshots", "drop", "quay/tides@before works")
	if n := readings(); n != before-1 {
		t.Errorf("%d readings, there were %d", n, before)
	}
	p.want(0, "snapshots", "drop", "quay", "--keep", "1")
	if n := readings(); n != 1 {
		t.Errorf("%d readings stay", n)
	}
	p.want(0, "show", "quay/tides/high")
	p.want(0, "snapshots", "drop", "quay/tides", "--all")
	p.fails(2, []string{"list", "quay"}, "never read")
	if n := p.intact(); n != 0 {
		t.Errorf("%d snapshots", n)
	}
	p.want(0, "survey")
	if got := total("quay/tides"); got != 2 {
		t.Errorf("after a new survey %d tables", got)
	}
}

// An export is the same bytes for the same schema, can stand for an address, and a change by hand is
// found with its place.
func TestExportAndImport(t *testing.T) {
	t.Parallel()
	p, _ := kept(t)
	p.want(0, "snapshots", "export", "quay/tides", "--out", "a.json")
	p.want(0, "snapshots", "export", "quay/tides", "--into", "a")
	if out := p.want(0, "snapshots", "export", "quay/tides"); out != p.read("a.json") {
		t.Error("stdout and file differ")
	}
	for _, path := range []string{"./a.json", "./a"} {
		p.want(0, "diff", path, "quay/tides")
		if d := answer[rows](p, 1, "diff", "quay/tides@1", path); d.Summary.Added != 1 {
			t.Errorf("%s: %+v", path, d.Summary)
		}
		holds(t, "show "+path, p.want(0, "show", path+"/tide"), "high water")
		holds(t, "trace "+path, p.want(0, "trace", path+"/tide"), "high")
		holds(t, "ddl "+path, p.want(0, "ddl", path), "CREATE TABLE", "CREATE VIEW")
	}
	p.want(0, "snapshots", "import", "a.json", "--name", "customer")
	p.want(0, "snapshots", "import", "a", "--name", "customer-b")
	p.want(0, "diff", "customer/tides", "quay/tides")
	p.want(0, "diff", "customer-b/tides", "customer/tides")
	p.want(0, "snapshots", "export", "customer/tides", "--out", "b.json")
	strip := regexp.MustCompile(`"(server|environment|family|taken|label)": "[^"]*",?`)
	if a, b := strip.ReplaceAllString(p.read("a.json"), ""), strip.ReplaceAllString(p.read("b.json"), ""); a != b {
		t.Errorf("an imported snapshot is exported as something else:\n%s\n%s", a, b)
	}

	whole := p.read("a.json")
	for what, c := range map[string]struct{ text, says string }{
		"a property changed": {strings.Replace(whole, `"high water"`, `"low water"`, 1), "checksum"},
		"an object left out": {regexp.MustCompile(`(?s)\{[^{}]*"name": "gauge".*?\n    \},?\n`).ReplaceAllString(whole, ""), ""},
		"cut short":          {whole[:len(whole)/2], "line"},
		"no snapshot":        {`{"a": 1}`, ""},
		"empty":              {"", ""},
		"a later model":      {regexp.MustCompile(`"model": \d+`).ReplaceAllString(whole, `"model": 99`), "later version"},
	} {
		if c.text == whole {
			t.Fatalf("%s: the test changes nothing", what)
		}
		p.file("spoilt.json", c.text)
		p.fails(3, []string{"show", "./spoilt.json/tide"}, "spoilt.json", c.says)
		p.fails(3, []string{"snapshots", "import", "spoilt.json"}, "spoilt.json", c.says)
	}
	files, err := filepath.Glob(filepath.Join(p.dir, "a", "*", "*"))
	if err != nil || len(files) < 3 {
		t.Fatalf("%v %v", files, err)
	}
	content, err := os.ReadFile(files[0])
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(files[0], []byte(strings.Replace(string(content), `"name": "`, `"name": "x`, 1)), 0o644); err != nil {
		t.Fatal(err)
	}
	p.fails(3, []string{"show", "./a/tide"}, filepath.Base(files[0]))
	if err := os.Remove(files[0]); err != nil {
		t.Fatal(err)
	}
	p.fails(3, []string{"show", "./a/tide"}, "")
	p.file("mine.txt", "keep")
	if err := os.MkdirAll(filepath.Join(p.dir, "full"), 0o755); err != nil {
		t.Fatal(err)
	}
	p.file("full/mine.txt", "keep")
	p.want(0, "snapshots", "export", "quay/tides", "--into", "full") // beside what is not its own
	p.want(0, "diff", "./full", "quay/tides")
	p.fails(2, []string{"snapshots", "export", "quay/tides", "--out", "mine.txt"}, "mine.txt")
	if p.read("mine.txt") != "keep" || p.read("full/mine.txt") != "keep" {
		t.Error("an export wrote over a file that it did not make")
	}
}

func (p *place) read(name string) string {
	p.t.Helper()
	b, err := os.ReadFile(filepath.Join(p.dir, name))
	if err != nil {
		p.t.Fatal(err)
	}
	return string(b)
}
