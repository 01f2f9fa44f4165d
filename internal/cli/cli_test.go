package cli_test

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

func TestDemoTour(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	out := p.want(0, "demo", "tour")
	for _, command := range []string{"survey", "servers", "find", "list", "tree", "show", "trace", "ddl", "diff", "snapshots"} {
		holds(t, "the tour", out, "$ echo-atlas "+command)
	}
	p.want(0, "demo", "tour") // again, over the old one
	p.file("mine.txt", "keep me")
	p.fails(3, []string{"demo", "."}, "not empty")
	if _, err := os.Stat(filepath.Join(p.dir, "mine.txt")); err != nil {
		t.Error(err)
	}
	// What the tour printed can be typed next.
	p.dir = filepath.Join(p.dir, "tour")
	p.env = p.env[:2]
	p.want(0, "show", "quay-live/berths/mooring")
}

func TestSurvey(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	again := answer[rows](p, 0, "survey")
	if len(again.Databases) != 6 {
		t.Fatalf("%d databases", len(again.Databases))
	}
	for _, d := range again.Databases {
		if d.Changed == nil || d.Changed.Added+d.Changed.Removed+d.Changed.Changed != 0 || d.Engine != "sqlite" || d.Error != "" {
			t.Errorf("%+v", d)
		}
	}
	if n := again.Databases[2].Counts["table"]; again.Databases[2].Address != "quay-live/berths" || n != 15 {
		t.Errorf("%s has %d tables", again.Databases[2].Address, n)
	}
	holds(t, "servers", p.want(0, "servers"), "quay-live", "berths, tides", "just now")
	holds(t, "servers check", p.want(0, "servers", "check"), "answers", "opened for reading only")
	holds(t, "snapshots", p.want(0, "snapshots"), "as before", "first")
	p.fails(2, []string{"survey", "nope"}, `no server "nope"`, "quay-dev, quay-live")
	holds(t, "from", p.want(0, "survey", "--from", "sqlite:quay-dev/tides.db", "--name", "alone"), "alone", "first reading")
	holds(t, "servers", p.want(0, "servers"), "not in the configuration")
	p.want(0, "survey", "--from", "sqlite:quay-dev/tides.db", "--name", "spare", "--environment", "rehearsal", "--family", "quay")
	holds(t, "what it is", p.want(0, "find", "gauge", "--whole"), "also dev, stage, rehearsal")
	p.fails(2, []string{"survey", "quay-dev", "--environment", "live"}, "--environment goes with --from")
}

func TestListAndTree(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	all := answer[rows](p, 0, "list", "quay-live/berths", "--kind", "table", "--sort", "rows")
	if first := all.Objects[0]; all.Total != 15 || first.Object != "mooring" || first.Rows == nil || *first.Rows != 900 || first.Address != "quay-live/berths/mooring" {
		t.Errorf("%d tables, first %+v", all.Total, first)
	}
	columns := answer[rows](p, 0, "list", "quay-live/berths/mooring", "--kind", "column")
	if c := columns.Objects[1]; len(columns.Objects) != 7 || c.Part != "berth_id" || c.Type != "INTEGER" || c.Nullable == nil || *c.Nullable {
		t.Errorf("%d columns, second %+v", len(columns.Objects), c)
	}
	text := p.want(0, "list", "quay-live", "--kind", "index,trigger", "--limit", "2")
	holds(t, "list", text, "6 objects, 2 shown", "--limit 0")
	holds(t, "csv", p.want(0, "list", "quay-live/berths", "--kind", "view", "--as", "csv", "--columns", "name,columns"), "name,columns\n", "free_berth,5\n")
	holds(t, "markdown", p.want(0, "list", "quay-live/berths", "--kind", "table", "--as", "markdown"), `| "lost property" |`)
	holds(t, "patterns", p.want(0, "list", "quay-*/berths/*mooring*", "--kind", "view"), "open_mooring", "quay-dev", "3 views")
	holds(t, "tree", p.want(0, "tree"), "quay-dev  server", "15 tables")
	holds(t, "tree of a table", p.want(0, "tree", "quay-live/tides/gauge"), "zero_m", "NUMERIC(5,2) not null default 0")
	p.fails(2, []string{"list", "--kind", "tabel"}, "no kind")
	p.fails(2, []string{"list", "--kind", "table,column"}, "cannot stand in one list")
	p.fails(2, []string{"list", "--sort", "nonsense"}, "no column")
	p.fails(2, []string{"list", "--as", "xml"}, "--as takes")
}

func TestFind(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	hits := answer[rows](p, 0, "find", "DRAUGHT")
	if hits.Total != 12 || hits.Matches[0].Where != "column" || len(hits.Sources) != 6 || hits.Sources[0].AgeSeconds == nil {
		t.Errorf("%+v", hits)
	}
	exact := answer[rows](p, 0, "find", "mooring", "--in", "quay-live")
	if m := exact.Matches[0]; m.Address != "quay-live/berths/mooring" || m.Kind != "table" {
		t.Errorf("the best hit is %+v", m)
	}
	for _, m := range answer[rows](p, 0, "find", "*_no", "--kind", "column").Matches {
		if !strings.HasSuffix(m.Text, "_no") {
			t.Errorf("*_no found %s", m.Text)
		}
	}
	if n := answer[rows](p, 0, "find", "^(berth|vessel)_id$", "--regex", "--in", "quay-live/berths").Total; n != 7 {
		t.Errorf("%d hits of the regular expression", n)
	}
	holds(t, "a miss", p.want(1, "find", "gauge", "--in", "quay-live/berths"), "Nothing is called", "quay-live/tides/gauge")
	holds(t, "a miss", p.want(1, "find", "moorng"), "Near it", "mooring")
	holds(t, "a phrase, and another", p.want(0, "find", "Max Draught", "gauge", "--environment", "live", "--kind", "table,column"), "quay-live/berths/pilot.max_draught_m", "quay-live/tides/gauge\n")
	holds(t, "one row for all environments", p.want(0, "find", "draught", "--in", "quay-*"), "also dev (NUMERIC(4,2)), stage", "12 hits, 4 different")
	holds(t, "the best rows", p.want(0, "find", "draught", "--limit", "2"), " 4 different, the best 2 shown")
	holds(t, "hits of one object together", p.want(0, "find", "berth", "--in", "quay-*"), "quay-live/berths/berth  ", "\n  column  ", " .berth_no ", "1 key or check is named after it")
	holds(t, "a name and a line of its text", p.want(0, "find", "unpaid", "--text", "--in", "quay-live", "--kind", "view"), "quay-live/berths/unpaid_invoice  line 1: CREATE VIEW unpaid_invoice AS\n")
	holds(t, "where most are", p.want(0, "find", "e", "--limit", "5"), "the best 5 shown", "they are in 6 databases, most in quay-", "/berths (")
	holds(t, "words that are nearly those", p.want(1, "find", "brth number"), "column ", "quay-live/berths/berth.berth_no\n")
	p.want(0, "snapshots", "export", "quay-live/berths", "--out", "kept.json")
	holds(t, "in an exported snapshot", p.want(0, "find", "berth_no", "--in", "./kept.json"), "./kept.json/berth.berth_no ", "4 hits")
	holds(t, "in an older snapshot", p.want(0, "find", "berth_no", "--in", "quay-live/berths@0"), "quay-live/berths@0/berth.berth_no ", "4 hits")
	holds(t, "a word of names, misspelt", p.want(1, "find", "draugth"), "words near it: draught")
	p.fails(2, []string{"find", "x", "--around", "-1"}, "cannot be shown")
	for _, limit := range []string{"-1", "0"} { // all
		holds(t, "no limit", p.want(0, "find", "draught", "--limit", limit), "12 hits, 4 different; what")
		p.want(1, "find", "gauge", "--in", "quay-live/berths", "--limit", limit)
	}
	holds(t, "misses", p.want(1, "find", "zzz", "qqq"), `"zzz" or "qqq"`)
	holds(t, "a text", p.want(0, "find", "paid_on is", "--text", "--in", "quay-live"), "line 4: WHERE i.paid_on IS NULL")
	holds(t, "a text as csv", p.want(0, "find", "paid_on is", "--text", "--kind", "view", "--as", "csv"), "view,quay-live/berths/unpaid_invoice,definition,4,")
	holds(t, "lines around", p.want(0, "find", "paid_on is", "--text", "--kind", "view", "--around", "1"), "view  quay-live/berths/unpaid_invoice  definition  also dev, stage\n     3  ", "\n     4  WHERE i.paid_on IS NULL\n")
	p.env = append(p.env, "COLUMNS=80")
	holds(t, "texts on a narrow terminal", p.want(0, "find", "paid", "--text", "--in", "quay-live", "--kind", "view"), "quay-live/berths/unpaid_invoice  definition\n     1  CREATE VIEW unpaid_invoice AS\n     4  WHERE i.paid_on IS NULL\n")
	p.env = append(p.env[:len(p.env)-1], "COLUMNS=50")
	holds(t, "whole addresses on a narrow terminal", p.want(0, "find", "paid", "--in", "quay-live", "--kind", "column,view"), "quay-live/berths/invoice.paid_on ", "quay-live/berths/unpaid_invoice")
	p.env = p.env[:len(p.env)-1]
	holds(t, "no text", p.want(1, "find", "paid_on is", "--text", "--kind", "table"), "is called or says", "Outside what the options allow", "unpaid_invoice")
	holds(t, "columns", p.want(0, "find", "--with-columns", "vessel_id,*_from", "--environment", "live"), "quay-live/berths/mooring\n")
	holds(t, "no such columns", p.want(1, "find", "--with-columns", "vessel_id,beak"), "all of the columns vessel_id, beak")
	holds(t, "what live lacks", p.want(0, "find", "*", "--in", "quay-dev", "--except", "quay-live", "--kind", "table"), "pilot_roster", "seasonal_closure", "2 hits")
	holds(t, "a whole name by type", p.want(0, "find", "code", "--whole", "--type", "text", "--environment", "l*"), "quay-live/berths/route.code")
	p.fails(2, []string{"find", "x", "--environment", "moon"}, "there are: dev, live, stage")
	p.fails(2, []string{"find", "x", "--except", "moon"}, "moon")
	p.fails(2, []string{"find", "(", "--regex"}, "regular expression")
	p.fails(2, []string{"find"}, "takes a TEXT")
	empty := newPlace(t)
	empty.fails(2, []string{"find", "x"}, "empty", "echo-atlas survey")
}

func TestShowAndTrace(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	text := p.want(0, "show", "quay-live/berths/mooring")
	holds(t, "show", text, "to berth.id", "mooring_open", "where moored_to IS NULL", "invoice_line", "generated", "read just now", "CREATE TABLE mooring")
	holds(t, "show column", p.want(0, "show", "quay-live/berths/berth.berth_no"), "column quay-live/berths/berth.berth_no", "INTEGER not null")
	holds(t, "show index", p.want(0, "show", "index:quay-live/berths/invoice_unpaid"), "paid_on IS NULL")
	p.fails(2, []string{"show", "mooring"}, "fits 3 things", "quay-dev/berths/mooring", "quay-live/berths/mooring")
	p.fails(2, []string{"show", "quay-live/berths/moring"}, "near it", "quay-live/berths/mooring")
	p.fails(2, []string{"show", "quay-live/berths/gauge"}, "exists elsewhere", "quay-live/tides/gauge")
	p.fails(2, []string{"show", "quay-live/berths"}, "an object is wanted", "echo-atlas list quay-live/berths")
	p.fails(2, []string{"show", "quay-live/berth/x"}, "no database called", "the nearest is berths")
	p.fails(2, []string{"show", "quay-live/berths@9/mooring"}, "no snapshot")

	got := answer[rows](p, 0, "trace", "quay-live/berths/mooring")
	distance := map[string]int{}
	for _, n := range got.Nodes {
		distance[n.Address] = n.Distance
	}
	for address, want := range map[string]int{"mooring": 0, "open_mooring": 1, "invoice_line": 1, "invoice_total": 2, "free_berth": 2, "harbour_load": 2, "mooring_open": 1} {
		if d, ok := distance["quay-live/berths/"+address]; !ok || d != want {
			t.Errorf("%s is at distance %d (%v), want %d", address, d, ok, want)
		}
	}
	if len(got.Nodes) != 8 {
		t.Errorf("%d objects", len(got.Nodes))
	}
	found := false
	for _, e := range got.Edges {
		if e.From == "quay-live/berths/open_mooring" && e.To == "quay-live/berths/mooring" {
			found = e.Evidence == "read" && e.Line == 3 && e.Column == 6 && e.Text == "FROM mooring m"
		}
	}
	if !found {
		t.Errorf("the view's reading of the table is not placed: %+v", got.Edges)
	}
	needs := answer[rows](p, 0, "trace", "quay-live/berths/dunning_list", "--needs")
	if len(needs.Nodes) != 4 {
		t.Errorf("needs: %+v", needs.Nodes)
	}
	if one := answer[rows](p, 0, "trace", "quay-live/berths/mooring", "--depth", "1"); len(one.Nodes) != 5 {
		t.Errorf("to depth 1: %+v", one.Nodes)
	}
	if id := answer[rows](p, 0, "trace", "quay-live/berths/mooring.draught_m"); len(id.Nodes) != 2 {
		t.Errorf("from a column that one view hands on and nothing reads there: %+v", id.Nodes)
	}
	if id := answer[rows](p, 0, "trace", "quay-live/berths/mooring.berth_id"); len(id.Nodes) < 4 {
		t.Errorf("from a column that a view hands on to others: %+v", id.Nodes)
	}
	code := answer[rows](p, 0, "trace", "quay-live/berths/harbour.code")
	parts := map[string]bool{}
	for _, n := range code.Nodes {
		parts[n.Address] = true
	}
	for _, part := range []string{"primary key", "check (length(code) = 3)"} {
		if !parts[`quay-live/berths/harbour."`+part+`"`] {
			t.Errorf("the %s of the table itself is not among what depends on its column: %v", part, parts)
		}
	}
}

func TestTraceOnly(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	berth := "quay-live/berths/berth"
	for _, c := range []struct {
		args  []string
		wants []string
		not   string
	}{
		{[]string{berth, "--kind", "view"}, []string{"4 objects depend on it", "harbour_load", "via harbour: reads it", "11 more are not listed"}, "mooring_by_berth"},
		{[]string{berth, "--in", "quay-live/berths/mooring"}, []string{"1 object depends on it", "14 more are not listed"}, "free_berth"},
		{[]string{berth, "--kind", "sequence"}, []string{"Nothing of what is asked for", "15 more are not listed"}, "Nothing depends"},
		{[]string{berth, "--use", "written"}, []string{"Nothing is joined with it so", "Only what --use names"}, "Nothing depends"},
		{[]string{"quay-live/berths/invoice_line", "--use", "fired"}, []string{"invoice_total", "trigger on it"}, "reads it"},
	} {
		out := p.want(0, append([]string{"trace"}, c.args...)...)
		holds(t, "trace "+strings.Join(c.args, " "), out, c.wants...)
		if strings.Contains(out, c.not) {
			t.Errorf("trace %s says %q:\n%s", strings.Join(c.args, " "), c.not, out)
		}
	}
	p.fails(2, []string{"trace", berth, "--use", "writen"}, "no use", "did you mean written?")
	p.fails(2, []string{"trace", berth, "--if", "dropped", "--kind", "view"}, "leave out --kind")
	p.fails(2, []string{"trace", berth, "quay-live/berths/harbour", "--in", "quay-live"}, "leave out --in")
}

func TestDDL(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	out := p.want(0, "ddl", "quay-live/berths/dunning_list", "--with-needs")
	at := -1
	for _, text := range []string{"CREATE TABLE customer", "CREATE TABLE invoice", "CREATE VIEW unpaid_invoice", "CREATE VIEW dunning_list"} {
		i := strings.Index(out, text)
		if i <= at {
			t.Errorf("%q is missing or comes too early:\n%s", text, out)
		}
		at = i
	}
	holds(t, "ddl alone", p.want(0, "ddl", "quay-live/berths/dunning_list"), "not part of the script", "--   view unpaid_invoice")
	p.want(0, "ddl", "quay-live/berths", "--out", "all.sql")
	script, err := os.ReadFile(filepath.Join(p.dir, "all.sql"))
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "copy.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(string(script)); err != nil {
		t.Fatal(err)
	}
	p.want(0, "survey", "--from", "sqlite:copy.db", "--name", "copy")
	holds(t, "diff with the copy", p.want(0, "diff", "quay-live/berths", "copy/copy"), "No difference in 27 objects")
	p.want(0, "ddl", "quay-live/berths", "--out", "all.sql") // a script of ours is replaced
	p.file("mine.sql", "-- precious\n")
	p.fails(2, []string{"ddl", "quay-live/berths", "--out", "mine.sql"}, "not written by echo-atlas")
	p.fails(3, []string{"ddl", "quay-live/berths", "--out", "no/such/folder.sql"}, "no such file")
	p.fails(2, []string{"ddl", "quay-live"}, "one database", "quay-live/tides")
	p.fails(2, []string{"ddl"}, "ADDRESS")
	p.fails(2, []string{"ddl", "quay-live/berths/mooring.id"}, "is a part")
}

func TestDiff(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	d := answer[rows](p, 1, "diff", "quay-live/berths", "quay-dev/berths")
	if d.Summary.Added != 1 || d.Summary.Removed != 2 || d.Summary.Changed != 6 || d.Summary.Renamed != 1 || d.Summary.Same != 18 {
		t.Errorf("%+v", d.Summary)
	}
	changes := map[string]string{}
	for _, o := range d.Objects {
		for _, q := range o.Properties {
			if q.Old != nil && q.New != nil {
				changes[o.Object+" "+q.Path] = *q.Old + " > " + *q.New
			}
		}
		changes[o.Object] = o.Change + o.Was
	}
	for k, want := range map[string]string{"berth columns/depth_m/type": "NUMERIC(4,1) > NUMERIC(5,2)", "pilot_roster": "added", "berth_note_old": "removed",
		"seasonal_closure": "renamedquay-live/berths/winter_closure"} {
		if changes[k] != want {
			t.Errorf("%s: %q, want %q", k, changes[k], want)
		}
	}
	text := p.want(1, "diff", "quay-live/berths", "quay-dev/berths")
	holds(t, "diff", text, "was  WHERE s.status IN", "now  WHERE s.status = 'planned'", "seasonal_closure, was winter_closure")
	p.want(0, "diff", "quay-live/berths", "quay-dev/berths", "vessel", "pilot")
	p.want(0, "diff", "quay-live/berths/vessel", "quay-dev/berths/vessel")
	p.want(1, "diff", "quay-live", "quay-dev", "--summary")
	p.want(0, "diff", "quay-live", "quay-live")
	p.fails(2, []string{"diff", "quay-live/berths"}, "OLD and NEW")
	p.fails(2, []string{"diff", "quay-live/berths", "quay-dev/berths", "no_such"}, "no_such")
	p.fails(2, []string{"diff", "quay-live/berths", "quay-dev/tides/gauge"}, "two of a sort")
}

func TestBadConfiguration(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	for text, says := range map[string]string{
		"[servers.a]\nurl = \"postgres://u:secret99@h/d\"\n":          "password_env",
		"[servers.a]\nurl = \"postgres://u@h/d?password=secret99\"\n": "password_env",
		"[servers.a]\nulr = \"x\"\n":                                  "line 2",
		"[servers.a\n":                                                "line 1",
		"[servers.a]\nenvironment = \"dev\"\n":                        "url or files is missing",
	} {
		p.file("echo-atlas.toml", text)
		p.fails(2, []string{"servers"}, "echo-atlas.toml", says)
		if _, errs, _ := p.run("servers"); strings.Contains(errs, "secret99") {
			t.Errorf("a password in the message: %s", errs)
		}
	}
	p.fails(2, []string{"--config", "missing.toml", "servers"}, "missing.toml")
	p.file("echo-atlas.toml", "[servers.a]\nurl = \"oracle://h\"\n")
	p.fails3("survey", "no engine serves")
	p.fails(2, []string{"nosuch"}, "no command")
	p.fails(2, []string{"list", "--nosuch"}, "nosuch", "--help")
	p.fails(2, []string{"survey", "--from", "sqlite:x.db", "extra"}, "leave out extra")
}

// fails3 runs a command that reports its failures in its answer.
func (p *place) fails3(command string, says string) {
	p.t.Helper()
	holds(p.t, command, p.want(3, command), "failed", says)
}

// One server that fails costs only itself, and its last reading stays.
func TestUnreachable(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	db := filepath.Join(p.dir, "quay-dev", "tides.db")
	if err := os.WriteFile(db, []byte("this is no database at all, but long enough to look like one might have been here: "+strings.Repeat("x", 200)), 0o644); err != nil {
		t.Fatal(err)
	}
	p.file("echo-atlas.toml", "home = \"catalogue\"\n[servers.quay-dev]\nfiles = \"quay-dev/*.db\"\n[servers.quay-live]\nfiles = \"quay-live/*.db\"\n"+
		"[servers.gone]\nurl = \"postgres://u@127.0.0.1:1/x\"\n[servers.nofile]\nurl = \"sqlite:no/such.db\"\n")
	d := answer[rows](p, 3, "survey", "--connect-timeout", "3s")
	failed := map[string]string{}
	for _, x := range d.Databases {
		failed[x.Address] = x.Error
	}
	for address, says := range map[string]string{"gone/x": "no server answers", "nofile/such": "no such file", "quay-dev/tides": "no SQLite database", "quay-dev/berths": "", "quay-live/tides": ""} {
		if e, ok := failed[address]; !ok || (says == "") != (e == "") || !strings.Contains(e, says) {
			t.Errorf("%s: %q (%v), want %q", address, e, ok, says)
		}
	}
	holds(t, "survey", p.want(3, "survey", "--connect-timeout", "3s"), "its last reading stays", "failed gone/x")
	p.want(0, "show", "quay-dev/tides/gauge")
	holds(t, "check", p.want(3, "servers", "check", "--connect-timeout", "3s"), "failed", "answers")
}

// Names that try to do harm are harmless, and can still be addressed.
func TestHostileNames(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	names := []string{`quote"d`, "line\nbreak", "\x1b[31mred\x1b[0m", "../../up", "a.b", "=cmd()", "semi;--x", "\u202egnp.exe", "<b>html</b>", "star*", "--\nDROP TABLE x; --"}
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "hostile.db"))
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range names {
		if _, err := db.Exec(`CREATE TABLE "` + strings.ReplaceAll(n, `"`, `""`) + `" (id INTEGER PRIMARY KEY, "` + strings.ReplaceAll(n, `"`, `""`) + `" TEXT)`); err != nil {
			t.Fatal(err)
		}
	}
	db.Close()
	p.want(0, "survey", "--from", "sqlite:hostile.db", "--name", "h")
	for _, args := range [][]string{{"list"}, {"tree", "h/hostile"}, {"find", "e"}, {"list", "--kind", "column"}, {"list", "--as", "markdown"}, {"snapshots"}} {
		out := p.want(0, args...)
		if strings.Contains(out, "\x1b") || strings.Contains(out, "\u202e") || strings.Contains(out, "line\nbreak") {
			t.Errorf("%v passes a name on as it is:\n%q", args, out)
		}
	}
	if out := p.want(0, "list", "--as", "csv", "--columns", "name"); strings.Contains(out, "\n=cmd") {
		t.Errorf("a formula in the CSV:\n%s", out)
	}
	all := answer[rows](p, 0, "list", "--kind", "table")
	if len(all.Objects) != len(names) {
		t.Fatalf("%d tables", len(all.Objects))
	}
	for _, o := range all.Objects {
		shown := answer[struct{ Object struct{ Name string } }](p, 0, "show", o.Address)
		if shown.Object.Name != o.Object {
			t.Errorf("%q shows %q", o.Address, shown.Object.Name)
		}
	}
	p.want(0, "ddl", "h/hostile", "--out", "copy.sql")
	script, err := os.ReadFile(filepath.Join(p.dir, "copy.sql"))
	if err != nil {
		t.Fatal(err)
	}
	copied, err := sql.Open("sqlite", filepath.Join(p.dir, "copy.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer copied.Close()
	if _, err := copied.Exec(string(script)); err != nil {
		t.Fatal(err)
	}
	p.want(0, "survey", "--from", "sqlite:copy.db", "--name", "c")
	p.want(0, "diff", "h/hostile", "c/copy")
}

// TestPostgres takes the commands over a real server.
func TestPostgres(t *testing.T) {
	s := testservers.Postgres(t)
	p := newPlace(t)
	url := s.Database(t, `CREATE SCHEMA ops; CREATE TABLE ops.berth (id int PRIMARY KEY, depth_m numeric(4,1) NOT NULL, note text);
COMMENT ON TABLE ops.berth IS 'places to lie'; CREATE VIEW ops.deep AS SELECT id, depth_m FROM ops.berth WHERE depth_m > 5;
CREATE VIEW deepest AS SELECT max(depth_m) FROM ops.deep; CREATE TABLE ops.deep_log (berth int REFERENCES ops.berth ON DELETE CASCADE);
CREATE DOMAIN metres AS numeric;`)
	hidden := s.Database(t, "")
	admin := s.Open(t, s.URL("postgres"))
	for _, q := range []string{`CREATE ROLE surveyor LOGIN`, `REVOKE CONNECT ON DATABASE ` + s.Engine().Database(hidden) + ` FROM PUBLIC`} {
		if _, err := admin.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	t.Cleanup(func() { _, _ = s.Open(t, s.URL("postgres")).Exec(`DROP ROLE surveyor`) })
	name := s.Engine().Database(url)
	p.file("echo-atlas.toml", fmt.Sprintf("[servers.quay]\nurl = \"postgres://surveyor@127.0.0.1:%d?sslmode=disable\"\nenvironment = \"live\"\n", s.Port()))
	d := answer[rows](p, 3, "survey") // one database stays hidden
	states := map[string]string{}
	for _, x := range d.Databases {
		states[x.Address] = x.Error
		if x.Address == "quay/"+name {
			if x.Counts["view"] != 2 || x.Counts["table"] != 2 {
				t.Errorf("%+v", x)
			}
			if x.Counts["domain"] != 1 || len(x.Warnings) != 0 {
				t.Errorf("%+v", x)
			}
		}
	}
	if e := states["quay/"+s.Engine().Database(hidden)]; !strings.Contains(e, "lacks the right CONNECT") {
		t.Errorf("the hidden database: %q", e)
	}
	p.want(0, "servers", "check")
	got := answer[rows](p, 0, "trace", "quay/"+name+"/ops.berth.depth_m")
	if len(got.Nodes) != 3 || len(got.Edges) != 3 || got.Edges[0].Line != 3 || got.Edges[0].Evidence != "recorded" || got.Edges[0].To != "quay/"+name+"/ops.berth.depth_m" {
		t.Errorf("%+v", got)
	}
	if note := answer[rows](p, 0, "trace", "quay/"+name+"/ops.berth.note"); len(note.Nodes) != 1 {
		t.Errorf("nothing reads note, but %+v", note.Nodes)
	}
	holds(t, "show", p.want(0, "show", "ops.deep"), "view quay/"+name+"/ops.deep", "numeric(4,1)", "live, read just now")
	p.fails(2, []string{"show", "ops.depp"}, "ops.deep")
	out := p.want(0, "ddl", "deepest", "--with-needs", "--without", "owners")
	holds(t, "ddl", out, "CREATE SCHEMA ops", "CREATE TABLE ops.berth", "CREATE VIEW public.deepest")
	p.want(0, "list", "ops.*")
}

func TestHelp(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	for _, command := range []string{"servers", "survey", "list", "tree", "find", "show", "trace", "ddl", "diff", "snapshots", "demo"} {
		holds(t, command+" --help", p.want(0, command, "--help"), "Example", "echo-atlas "+command)
	}
	holds(t, "--version", p.want(0, "--version"), "echo-atlas version")
	holds(t, "no arguments", p.want(0), "echo-atlas demo")
}

func TestCompletion(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	p.want(0, "snapshots", "label", "quay-dev/tides", "first")
	p.want(0, "survey", "quay-dev")
	p.want(0, "snapshots", "label", "quay-dev/tides", "second")
	for line, want := range map[string]string{
		"sn":                                  "snapshots",
		"servers ":                            "check trust",
		"show ":                               "quay-dev/ quay-live/ quay-stage/",
		"show quay-d":                         "quay-dev/",
		"show quay-live/":                     "quay-live/berths/ quay-live/tides/",
		"list --kind table quay-live/ti":      "quay-live/tides/",
		"show quay-live/tides/gau":            "quay-live/tides/gauge",
		"list --kind materialised":            "materialised-view",
		"list --columns name,own":             "name,owner",
		"ddl quay-live --without own":         "owners",
		"survey quay-l":                       "quay-live",
		"find x --in quay-live/b":             "quay-live/berths/",
		"snapshots export quay-dev/t":         "quay-dev/tides/",
		"--as j":                              "json",
		"tree --dep":                          "--depth",
		"completion z":                        "zsh",
		"show quay-live/berths/nosuchname":    "",
		"template sel":                        "select",
		"template select quay-live/tides/gau": "quay-live/tides/gauge",
		"snapshots label quay-live/":          "quay-live/berths quay-live/tides",
		"snapshots drop quay-live/ti":         "quay-live/tides",
		"help sn":                             "snapshots",
		"diff quay-dev/tides@":                "quay-dev/tides@first quay-dev/tides@second",
		"diff quay-dev@se":                    "quay-dev@second",
	} {
		got := strings.Join(strings.Fields(p.want(0, append([]string{"complete", "--"}, strings.Split(line, " ")...)...)), " ")
		if got != want {
			t.Errorf("%q: %q, want %q", line, got, want)
		}
	}
	columns := p.want(0, "complete", "--", "show", "quay-live/berths/mooring.draught")
	if strings.TrimSpace(columns) != "quay-live/berths/mooring.draught_m" {
		t.Errorf("%q", columns)
	}
	for _, shell := range []string{"bash", "zsh", "fish"} {
		holds(t, shell, p.want(0, "completion", shell), "echo-atlas complete ")
	}
	p.fails(2, []string{"completion", "tcsh"}, "bash, zsh, fish")
}

func TestTemplate(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	for arguments, want := range map[string][]string{
		"select quay-live/berths/pilot":                              {"SELECT\n    id,", "FROM pilot;"},
		"insert quay-live/berths/mooring":                            {"INSERT INTO mooring (", "? /* berth_id INTEGER */"},
		"update quay-live/berths/crossing_stop":                      {"UPDATE crossing_stop", "WHERE route_code = ?", "AND stop_no = ?"},
		"delete quay-live/berths/pilot":                              {"DELETE FROM pilot\nWHERE id = ? /* id INTEGER */;"},
		"alter quay-live/berths/pilot":                               {"ALTER TABLE pilot ADD COLUMN"},
		"alter quay-live/berths/pilot.name":                          {"RENAME COLUMN name TO"},
		"join quay-live/berths/mooring quay-live/berths/harbour":     {"JOIN berth b ON m.berth_id = b.id\nJOIN harbour h ON b.harbour_code = h.code;", "-- or"},
		"join quay-live/berths/invoice_line quay-live/berths/vessel": {"JOIN mooring m ON i.mooring_id = m.id\nJOIN vessel v ON m.vessel_id = v.id;"},
		"join quay-live/tides/tide_reading quay-live/tides/gauge":    {"JOIN gauge g ON t.gauge_id = g.id;"},
	} {
		words := append([]string{"template"}, strings.Fields(arguments)...)
		holds(t, arguments, p.want(0, words...), want...)
	}
	holds(t, "a further table beside the first", p.want(0, "template", "join", "quay-live/berths/mooring", "harbour"), "JOIN harbour h ON b.harbour_code = h.code")
	out := p.want(0, "template", "insert", "quay-live/berths/mooring")
	if strings.Contains(out, "hours") {
		t.Errorf("a generated column is given a value:\n%s", out)
	}
	var answered struct {
		Templates []struct{ Verb, Address, Text string }
	}
	if err := json.Unmarshal([]byte(p.want(0, "template", "select", "quay-live/berths/pilot", "--as", "json")), &answered); err != nil || len(answered.Templates) != 1 || answered.Templates[0].Address != "quay-live/berths/pilot" {
		t.Errorf("%+v %v", answered, err)
	}
	for arguments, says := range map[string]string{
		"":                                  "one of select, insert",
		"frobnicate quay-live/berths/pilot": "one of select, insert",
		"select":                            "takes one ADDRESS",
		"select quay-live/berths":           "an object is wanted",
		"join quay-live/berths/pilot":       "two tables or more",
		"join quay-live/berths/pilot quay-live/tides/gauge": "different databases",
		"call quay-live/berths/pilot":                       "is no routine",
		"update quay-live/berths/open_mooring":              "neither a primary key",
		"insert quay-live/berths/open_mooring":              "is a view",
		"alter quay-live/berths/open_mooring":               "is a view",
	} {
		p.fails(2, append([]string{"template"}, strings.Fields(arguments)...), says)
	}
	// What is not declared is guessed, and said.
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "loose.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	execAll(t, db, "CREATE TABLE berth (id INTEGER PRIMARY KEY, name TEXT)", "CREATE TABLE visit (at TEXT, berth_id INTEGER)", "CREATE TABLE apart (x BLOB)")
	p.want(0, "survey", "--from", "sqlite:loose.db", "--name", "loose")
	holds(t, "a guess", p.want(0, "template", "join", "loose/loose/visit", "loose/loose/berth"), "ON v.berth_id = b.id /* guessed by name and type */")
	p.fails(2, []string{"template", "join", "loose/loose/visit", "loose/loose/apart"}, "no chain of foreign keys")
}

// In the wrong folder nothing is known, which is what every command says, and not that a name is wrong.
func TestEmptyCatalogue(t *testing.T) {
	p := newPlace(t)
	for _, args := range [][]string{{"list"}, {"show", "quay-live/berths/mooring"}, {"trace", "mooring.id"}, {"ddl", "quay-live/berths"}, {"diff", "quay-live", "quay-dev/berths"}, {"chart", "quay-live/berths"}, {"find", "mooring"}} {
		p.fails(2, args, "the catalogue is empty; run: echo-atlas survey")
	}
}
