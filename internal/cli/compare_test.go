package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// sides is a place with two SQLite databases, a.db and b.db, that were read as the servers a and b.
func sides(t *testing.T, a, b string) *place {
	t.Helper()
	p := newPlace(t)
	p.file("echo-atlas.toml", "home = \"home\"\n[servers.a]\nurl = \"sqlite:a.db\"\nenvironment = \"live\"\nfamily = \"quay\"\npair = { a = \"quay\" }\n[servers.b]\nurl = \"sqlite:b.db\"\nenvironment = \"dev\"\nfamily = \"quay\"\npair = { b = \"quay\" }\n")
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "a.db"), a)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "b.db"), b)
	p.want(0, "survey")
	return p
}

// Equal schemas that are written differently are equal; only --exact says how they are written, and --with-order where columns stand.
func TestDiffMeaning(t *testing.T) {
	t.Parallel()
	p := sides(t, `CREATE TABLE berth (no INTEGER PRIMARY KEY, depth real DEFAULT NULL, label TEXT, CHECK (depth > 0)); CREATE VIEW deep AS SELECT no FROM berth WHERE (depth > 3) AND label IS NOT NULL;`,
		`CREATE TABLE berth (no integer PRIMARY KEY, label text, "depth" REAL, CHECK ((depth>0))); CREATE VIEW deep AS select no
from "berth" where depth > 3 and label is not null;`)
	holds(t, "meaning", p.want(0, "diff", "a", "b"), "No difference in 2 objects; 1 differs only in the order of columns, which --with-order compares")
	holds(t, "order", p.want(1, "diff", "a", "b", "--with-order"), "columns order was no, depth, label, now no, label, depth")
	holds(t, "exactly", p.want(1, "diff", "a", "b", "--exact"), "was  SELECT no FROM berth WHERE (depth > 3) AND label IS NOT NULL", "column depth: default no longer NULL")
	text, err := os.ReadFile(filepath.Join(p.dir, "echo-atlas.toml"))
	if err != nil {
		t.Fatal(err)
	}
	p.file("echo-atlas.toml", string(text)+"[diff]\nwith_order = true\nwithout = [\"comments\"]\n")
	holds(t, "configured", p.want(1, "diff", "a", "b"), "columns order", "compared as the configuration says: without comments; with the order of columns")
	p.want(0, "diff", "a", "b", "--with-order=false")
	p.file("echo-atlas.toml", string(text)+"[diff]\nwithout = [\"colours\"]\n")
	p.fails(2, []string{"diff", "a", "b"}, "[diff] without", "no aspect")
}

func TestDiffRenames(t *testing.T) {
	t.Parallel()
	p := sides(t, `CREATE TABLE berth (no integer primary key, label text, tide_mark int); CREATE INDEX by_label ON berth (label); CREATE VIEW named AS SELECT no FROM berth WHERE label <> ''; CREATE TABLE crew_list (id integer, name text, shift text, role text);`,
		`CREATE TABLE berth (no integer primary key, title text, tide_marks bigint); CREATE INDEX by_label ON berth (title); CREATE VIEW named AS SELECT no FROM berth WHERE title <> ''; CREATE TABLE crew (id integer, name text, shift text, rank int, role text);`)
	type answers struct {
		rows
		Questions []struct {
			Address, Was, Option string
			Likelihood           float64
		}
	}
	d := answer[answers](p, 1, "diff", "a", "b")
	asked := map[string]string{}
	for _, q := range d.Questions {
		asked[q.Address] = q.Option
	}
	if d.Summary.Added != 1 || d.Summary.Removed != 1 || d.Summary.Renamed != 0 || asked["b/b/crew"] != "--rename crew_list=crew" || asked["b/b/berth.tide_marks"] != "--rename berth.tide_mark=tide_marks" {
		t.Errorf("%+v", d)
	}
	holds(t, "a column of the same sort and place", p.want(1, "diff", "a", "b"), "column title renamed? was label", "2 follow: index by_label, view named")
	holds(t, "fixed", p.want(1, "diff", "a", "b", "--rename", "crew_list=crew,berth.tide_mark=tide_marks", "--rename", "berth.label=title"),
		"table crew, was crew_list\n    column rank added INT", "column tide_marks renamed was tide_mark", "column tide_marks: type was INT, now bigint", "column title renamed was label")
	holds(t, "no renames", p.want(1, "diff", "a", "b", "--no-renames"), "column label removed TEXT", "column title added TEXT", "index columns was label, now title")
	p.fails(2, []string{"diff", "a", "b", "--rename", "nothing=crew"}, "nothing in OLD is called nothing")
	p.fails(2, []string{"diff", "a", "b", "--rename", "crew_list=nothing"}, "nothing in NEW is called nothing")
	p.fails(2, []string{"diff", "a", "b", "--rename", "crew_list"}, "write OLD=NEW")
}

// Environments are named by their words, and answers come in every form.
func TestDiffSides(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	out := p.want(1, "diff", "live", "dev", "--summary")
	holds(t, "environments", out, "old  quay-live/berths", "new  quay-dev/berths", "old  quay-live/tides")
	if strings.Contains(out, "stage") {
		t.Errorf("%s", out)
	}
	holds(t, "one beside an environment", p.want(1, "diff", "quay-live/berths/mooring", "dev"), "new  quay-dev/berths", "column draught_m: type was NUMERIC(3,1), now NUMERIC(4,2)")
	p.want(0, "diff", "quay-live/berths/vessel", "stage")
	holds(t, "markdown", p.want(1, "diff", "quay-live/berths", "quay-dev/berths", "--as", "markdown"), "# What changed from quay-live/berths to quay-dev/berths", "| table | 1 | 1 | 3 | 1 |",
		"- column depth\\_m: type was `NUMERIC(4,1)`, now `NUMERIC(5,2)`", "  now  WHERE s.status = 'planned'")
	holds(t, "html", p.want(1, "diff", "quay-live/berths", "quay-dev/berths", "--as", "html"), "<!DOCTYPE html>", "<del><code>NUMERIC(4,1)</code></del>", "<ins>=</ins> &#39;planned&#39;")
	p.fails(2, []string{"diff", "live", "moon"}, "moon")
}

func TestDrift(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	type states struct {
		Groups []struct {
			Family, Database, Against string
			Same                      int
			Objects                   []struct {
				Address string
				States  []struct {
					Environment, State, Since string
					Version                   int
				}
			}
		}
	}
	d := answer[states](p, 1, "drift")
	found := map[string]string{}
	for _, g := range d.Groups {
		for _, o := range g.Objects {
			var words []string
			for _, s := range o.States {
				words = append(words, s.Environment+" "+s.State)
			}
			found[o.Address] = strings.Join(words, ", ")
		}
	}
	for address, want := range map[string]string{
		"quay-live/berths/mooring":        "live same, dev differs, stage differs",
		"quay-live/berths/berth":          "live same, dev differs, stage same",
		"quay-live/berths/berth_note_old": "live same, dev missing, stage missing",
		"quay-dev/berths/pilot_roster":    "live missing, dev there, stage missing",
		"quay-live/tides/tide_reading":    "live same, dev differs, stage differs",
	} {
		if found[address] != want {
			t.Errorf("%s: %q, want %q", address, found[address], want)
		}
	}
	holds(t, "text", p.want(1, "drift", "quay"), "berths of quay", "table mooring           as it is  differs (1)  differs (2)", "18 objects are the same in 3 environments")
	holds(t, "against", p.want(1, "drift", "quay-dev/berths/mooring", "--against", "stage", "--details"), "object         stage     live         dev", "column draught_m: type was NUMERIC(3,1), now NUMERIC(4,2)")
	p.want(0, "drift", "quay-live/berths/vessel")
	holds(t, "markdown", p.want(1, "drift", "--as", "markdown"), "## berths of quay", "| table mooring | as it is | differs (1) | differs (2) |")
	p.want(1, "drift", "--as", "html")
	holds(t, "csv", p.want(1, "drift", "quay", "--as", "csv"), "quay,berths,table,mooring,stage,differs,3,")
	p.fails(2, []string{"drift", "--against", "moon"}, "it has live, dev, stage")
	p.fails(2, []string{"diff", "liv", "dev"}, `nothing is called "liv"; the environments are dev, live, stage`)
	p.fails(2, []string{"ddl", "quay-live/tides", "--prove=moon"}, "tried in a temporary file")
	holds(t, "of two that are the same", p.want(0, "change", "quay-live/tides", "quay-live/tides"), "nothing is to be done")
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "lamps.db"), "CREATE TABLE lamp (id INTEGER)") // of a family that has no stage
	for _, env := range []string{"live", "dev"} {
		p.want(0, "survey", "--from", "sqlite:lamps.db", "--name", "light-"+env, "--environment", env, "--family", "light")
	}
	if _, said, code := p.run("drift", "--against", "stage"); code != 1 || !strings.Contains(said, `left out, no environment of light is called "stage"`) {
		t.Errorf("a family without the environment: %d %s", code, said)
	}
	empty := newPlace(t)
	empty.fails(2, []string{"drift"}, "family")

	// Since when: as of the reading that found it so.
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "quay-stage", "berths.db"), "ALTER TABLE vessel ADD COLUMN beam_m REAL")
	p.want(0, "survey", "quay-stage")
	for _, g := range answer[states](p, 1, "drift", "quay-live/berths/vessel").Groups {
		for _, o := range g.Objects {
			if o.Address == "quay-live/berths/vessel" && (o.States[2].State != "differs" || o.States[2].Since == "" || o.States[1].Since != "") {
				t.Errorf("%+v", o)
			}
		}
	}
}

func TestHistoryCommand(t *testing.T) {
	t.Parallel()
	p, db := kept(t)
	execAll(t, db, "INSERT INTO tide (id) VALUES (0), (-1)", "ANALYZE")
	p.want(0, "survey")
	execAll(t, db, "ALTER TABLE tide ADD COLUMN moon text", "INSERT INTO tide (id) WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5000) SELECT i FROM n", "DROP VIEW high", "ANALYZE")
	p.want(0, "survey")
	out := p.want(0, "history", "quay/tides/tide")
	holds(t, "object", out, "table quay/tides/tide\n5 readings", "1 change", "column moon added TEXT", "there, in the first reading, label before works", "rows: ")
	holds(t, "what is gone", p.want(0, "history", "quay/tides@before works/high"), "removed since", "there, in the first reading")
	holds(t, "database", p.want(0, "history", "quay/tides"), "5 readings", "before works", "grew most", "table tide", "size: ")
	h := answer[struct {
		Changes []struct {
			Change     string
			Properties []struct{ Path string }
		}
		Sizes []struct{ Bytes, Rows *int64 }
	}](p, 0, "history", "quay/tides/tide")
	if len(h.Changes) != 2 || h.Changes[1].Change != "changed" || h.Changes[1].Properties[0].Path != "columns/moon" || len(h.Sizes) != 5 {
		t.Errorf("%+v", h)
	}
	holds(t, "svg", p.want(0, "history", "quay/tides", "--as", "svg"), "<svg ", "size: ", "class=\"line\"")
	holds(t, "csv", p.want(0, "history", "quay/tides/tide", "--as", "csv"), ",changed,columns/moon,,TEXT")
	p.fails(2, []string{"history", "quay/tides/nothing"}, "nothing")
	p.fails(2, []string{"history"}, "one ADDRESS")
}

// The script of a change turns one database into the other, refuses another database, and is proved.
func TestChange(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	live, dev := "quay-live/berths", "quay-dev/berths"
	p.want(0, "snapshots", "label", live, "before the change")
	text, errs, code := p.run("change", live, dev)
	if code != 0 {
		t.Fatalf("%d: %s", code, errs)
	}
	holds(t, "script", text, "-- from: quay-live/berths", "-- loses data: all rows of table:berth_note_old\n-- DROP TABLE berth_note_old;", "-- rewrites the table:",
		"look first: SELECT * FROM customer WHERE NOT", "ALTER TABLE winter_closure RENAME TO seasonal_closure;", "index mooring_open")
	holds(t, "stderr", errs, "1 statement loses data and is a comment; --with-lossy writes it")
	if strings.Contains(text, "new seasonal_closure") {
		t.Errorf("a renamed table is rebuilt:\n%s", text)
	}
	p.want(0, "change", live, dev, "--with-lossy", "--out", "there.sql")
	p.want(0, "change", live, dev, "--with-lossy", "--reverse", "--out", "back.sql")
	there, back := p.read("there.sql"), p.read("back.sql")
	p.want(1, "diff", live, dev)
	target := "sqlite:" + filepath.Join(p.dir, "quay-live", "berths.db")
	testservers.SQLite{}.Run(t, target, "INSERT INTO winter_closure (harbour_code, closed_from) SELECT code, '2026-12-01' FROM harbour;")
	testservers.SQLite{}.Run(t, target, there)
	holds(t, "there", p.want(0, "diff", live, dev, "--fresh"), "No difference")
	path := filepath.Join(p.dir, "quay-live", "berths.db")
	if out, err := exec.Command("sqlite3", path, "SELECT count(*) > 0 FROM seasonal_closure WHERE closed_from = '2026-12-01'").Output(); err != nil || strings.TrimSpace(string(out)) != "1" {
		t.Errorf("the rows of the renamed table: %q, %v", out, err)
	}
	again := exec.Command("sqlite3", "-batch", path)
	again.Stdin = strings.NewReader(there)
	if out, err := again.CombinedOutput(); err == nil || !strings.Contains(string(out), "as_read") {
		t.Errorf("the script runs on a database that it is not for: %v: %s", err, out)
	}
	holds(t, "after the refusal", p.want(0, "diff", live, dev, "--fresh"), "No difference")
	testservers.SQLite{}.Run(t, target, back)
	p.want(0, "survey", "quay-live")
	holds(t, "back", p.want(0, "diff", live+"@before the change", live), "No difference")
}

func TestChangeProof(t *testing.T) {
	t.Parallel()
	p := sides(t, "CREATE TABLE berth (no integer primary key, label text, note text); CREATE VIEW v AS SELECT no, label FROM berth; INSERT INTO berth VALUES (1, 'a', 'b');",
		"CREATE TABLE berth (no integer primary key, title text); CREATE VIEW v AS SELECT no, title FROM berth;")
	_, errs, code := p.run("change", "a", "b", "--prove")
	if code != 0 {
		t.Fatalf("%d: %s", code, errs)
	}
	holds(t, "proof", errs, "proved: OLD becomes NEW exactly; the 3 made-up rows in 1 table are still there")
	_, errs, _ = p.run("change", "a", "b", "--prove", "--reverse")
	holds(t, "proof of the way back", errs, "proved: OLD becomes NEW exactly")
	_, errs, code = p.run("change", "a", "b", "--fail-on", "lossy,rewrite")
	if code != 5 || !strings.Contains(errs, "--fail-on lossy: table:berth: the values of note") {
		t.Errorf("%d: %s", code, errs)
	}
	p.fails(5, []string{"change", "a", "b", "v", "--fail-on", "lossy"}, "brings 1 object along", "--fail-on lossy: table:berth")
	c := answer[struct {
		Statements []struct {
			Text    string
			Comment bool
			Risks   []struct{ Risk, Text, Query string }
		}
	}](p, 0, "change", "a", "b", "--no-renames", "--no-look")
	risks := map[string]bool{}
	for _, s := range c.Statements {
		for _, r := range s.Risks {
			risks[r.Risk] = true
		}
	}
	if !risks["lossy"] || !risks["rewrite"] {
		t.Errorf("%+v", c)
	}
	p.fails(2, []string{"change", "a", "b", "--fail-on", "weather"}, "no risk", "lossy")
	p.fails(2, []string{"change", "a"}, "OLD and NEW")
	if out := p.want(0, "change", "a", "a"); strings.Contains(out, ";") && !strings.Contains(out, "0 statements") {
		t.Errorf("%s", out)
	}
}

// Databases of two engines are compared as far as both have a thing, and the answer says so.
func TestDiffAcrossEngines(t *testing.T) {
	const tables = "CREATE TABLE berth (no integer PRIMARY KEY, label varchar(20) NOT NULL, depth decimal(6,2) DEFAULT 3); CREATE TABLE mooring (id integer PRIMARY KEY, berth_no integer REFERENCES berth (no) ON DELETE CASCADE); CREATE INDEX by_label ON berth (label); CREATE VIEW deep AS SELECT no, depth FROM berth WHERE depth > 3;"
	postgres, maria := testservers.Postgres(t), testservers.MariaDB(t)
	p := newPlace(t)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "harbour.db"), tables)
	p.want(0, "survey", "--from", "sqlite:harbour.db", "--name", "file")
	p.want(0, "survey", "--from", postgres.Database(t, tables+"COMMENT ON TABLE berth IS 'here';"), "--name", "post")
	p.want(0, "survey", "--from", maria.Database(t, strings.ReplaceAll(tables, "label varchar(20)", "label varchar(30)")), "--name", "maria")
	holds(t, "the same", p.want(0, "diff", "file/*", "post/*"), "No difference in", "of two engines, only what both have is compared")
	holds(t, "another type", p.want(1, "diff", "post/*", "maria/*"), "column label: type was varchar(20), now varchar(30)")
	p.fails(2, []string{"change", "file/*", "post/*"}, "a script is for one engine")
	p.fails(2, []string{"diff", "file/*/berth", "post/*/berth"}, "compared as a whole")
}

// Each ready-made report answers in every form, and says what to do.
func TestReadyMadeReports(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	holds(t, "unindexed", p.want(0, "report", "unindexed", "quay-live/berths"), "crossing_stop", "berth_id", "make an index with these columns first")
	holds(t, "nullable", p.want(0, "report", "nullable", "quay-live/berths"), "call_sign", "1 finding")
	holds(t, "largest", p.want(0, "report", "largest", "quay-live"), "quay-live/tides", "tide_reading", "2,000")
	holds(t, "none", p.want(0, "report", "redundant", "quay-live/tides"), "Nothing is redundant.")
	holds(t, "csv", p.want(0, "report", "unindexed", "quay-live/tides", "--as", "csv"), "table,quay-live/tides,", "replaced_by")
	r := answer[struct {
		Total   int
		Objects []struct {
			Address string
			Rows    int64
			Columns []string
		}
	}](p, 0, "report", "largest", "quay-live", "--kind", "table")
	if r.Total < 5 || r.Objects[0].Address != "quay-live/tides/tide_reading" || r.Objects[0].Rows != 2000 {
		t.Errorf("%+v", r)
	}
	list := p.want(0, "report")
	for _, name := range []string{"broken", "keyless", "types", "growth"} {
		holds(t, "the list", list, name)
		p.want(0, "report", name)
	}
	p.fails(2, []string{"report", "largst"}, "largest")
}
