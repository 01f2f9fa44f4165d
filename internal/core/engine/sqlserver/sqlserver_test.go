package sqlserver

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/standin"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// start runs a stand-in with the beacons as they are live and as they are in dev.
func start(t testing.TB) *standin.Server {
	t.Helper()
	var scripts [2]string
	for i, name := range []string{"beacons_live", "beacons_dev"} {
		var err error
		if scripts[i], err = standin.Fixture(name); err != nil {
			t.Fatal(err)
		}
	}
	s, err := standin.Start("surveyor", "fog-and-foam", map[string]string{"beacons": scripts[0], "beacons_dev": scripts[0] + scripts[1], "closed": "", "master": scripts[0]})
	if err != nil {
		t.Fatal(err)
	}
	s.Hidden = []string{"closed"}
	t.Cleanup(s.Close)
	return s
}

func target(address, database string) engine.Target {
	return engine.Target{URL: "sqlserver://surveyor@" + address + "?encrypt=disable&database=" + database,
		Password: func(context.Context) (string, error) { return "fog-and-foam", nil }, Patience: 2 * time.Second}
}

func read(t testing.TB, s *standin.Server, database string) *schema.Reading {
	t.Helper()
	ctx := context.Background()
	named := database
	if database == engine.ServerLevel {
		named = ""
	}
	session, err := Engine{}.Connect(ctx, target(s.Addr(), named))
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	reading, err := session.Read(ctx, database)
	if err != nil {
		t.Fatal(err)
	}
	return reading
}

// texts returns the statements of an object.
func texts(t *testing.T, o *schema.Object) string {
	t.Helper()
	statements, err := Engine{}.Make(o)
	all := fmt.Sprint(err)
	for i := range statements {
		all += "\n" + statements[i].Text()
	}
	return all
}

// What arrives over the wire is, field by field, what was written down by hand from the fixture.
func TestEveryFieldArrives(t *testing.T) {
	reading := read(t, start(t), "beacons")
	got := map[string]*schema.Object{}
	for _, o := range reading.Objects {
		got[o.ID().Qualified()] = o
	}
	b, err := os.ReadFile("testdata/beacons.json")
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]json.RawMessage{}
	if err := json.Unmarshal(b, &want); err != nil {
		t.Fatal(err)
	}
	for name, text := range want {
		o := new(schema.Object)
		d := json.NewDecoder(strings.NewReader(string(text)))
		d.DisallowUnknownFields()
		if err := d.Decode(o); err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if got[name] == nil {
			t.Errorf("%s did not arrive", name)
			continue
		}
		for _, p := range schema.Compare(o, got[name], schema.ModelVersion, schema.ModelVersion) {
			old, now := "nothing", "nothing"
			if p.Old != nil {
				old = *p.Old
			}
			if p.New != nil {
				now = *p.New
			}
			t.Errorf("%s %s: want %s, got %s", name, p.Path, old, now)
		}
		if x, y := texts(t, got[name]), texts(t, schema.OlderForm(got[name])); x != y {
			t.Errorf("%s as an older model held it is written as\n%s\nnot\n%s", name, y, x)
		}
		delete(got, name)
	}
	for name := range got {
		t.Errorf("nothing is expected of %s", name)
	}
	if len(reading.Remarks) != 1 || reading.Remarks[0].State != "hidden" || reading.Remarks[0].Subject != "view:nav.secret_view" {
		t.Errorf("remarks: %+v", reading.Remarks)
	}
	needs := map[string]bool{}
	for _, d := range reading.Dependencies {
		needs[d.From.ID.Qualified()+" > "+d.To.ID.Qualified()+" "+d.To.Part] = true
	}
	for _, want := range []string{"view:nav.lit_count > table:nav.lamp beacon_id", "view:nav.tall_beacon > table:nav.beacon ", "procedure:nav.light_lamp() > table:nav.lamp ", "trigger:nav.beacon.beacon_touch > table:nav.lamp ",
		"partition-scheme:by_year > partition-function:years ", "table:nav.reading > partition-scheme:by_year ", "role:keeper(user) > role:lamp_crew "} {
		if !needs[want] {
			t.Errorf("the need %s is missing: %v", want, needs)
		}
	}
}

// The scripts are as they were when somebody last read them; to look at a change: go test -run Script
// with ECHO_ATLAS_GOLDEN=write, and read what git shows.
func TestScript(t *testing.T) {
	s := start(t)
	c := testcatalogue.New(t)
	for _, database := range []string{"beacons", engine.ServerLevel} {
		contents := testcatalogue.Save(t, c, catalogue.Origin{Server: database}, read(t, s, database))
		var entries []*catalogue.Entry
		for i := range contents.All() {
			if contents.At(i).ID.Name != "secret_view" {
				entries = append(entries, contents.At(i))
			}
		}
		for _, drop := range []bool{false, true} {
			script, err := ddl.Write(context.Background(), c, Engine{}, contents, entries, ddl.Options{Drop: drop})
			if err != nil {
				t.Fatal(err)
			}
			path := filepath.Join("testdata", database+map[bool]string{false: "", true: "-drop"}[drop]+".sql")
			if os.Getenv("ECHO_ATLAS_GOLDEN") == "write" {
				if err := os.WriteFile(path, []byte(script.Text()), 0o644); err != nil {
					t.Fatal(err)
				}
			}
			want, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			if script.Text() != string(want) {
				for _, l := range diff.Lines(strings.Split(string(want), "\n"), strings.Split(script.Text(), "\n")) {
					if l.Change != "" {
						t.Errorf("%s: %s %s", path, l.Change, l.Text)
					}
				}
			}
		}
		if database == "beacons" {
			secret := contents.Find(schema.ID{Kind: schema.KindView, Schema: "nav", Name: "secret_view"})
			lit := contents.Find(schema.ID{Kind: schema.KindView, Schema: "nav", Name: "lit_count"})
			script, err := ddl.Write(context.Background(), c, Engine{}, contents, []*catalogue.Entry{secret, lit}, ddl.Options{})
			if err != nil {
				t.Fatal(err)
			}
			var b strings.Builder
			var left *ddl.RefusedError
			if err := script.WriteTo(&b); !errors.As(err, &left) || len(left.Statements) != 1 || !strings.Contains(err.Error(), "encrypted") {
				t.Errorf("the script of a view whose text is hidden: %v", err)
			}
			if !strings.Contains(b.String(), "-- left out: view:nav.secret_view") || !strings.Contains(b.String(), "lit_count") {
				t.Errorf("one view that is hidden costs the other:\n%s", b.String())
			}
		}
	}
}

// A comparison of the two variants names exactly what the second changes.
func TestVariantsDiffer(t *testing.T) {
	s := start(t)
	c := testcatalogue.New(t)
	before, after := read(t, s, "beacons"), read(t, s, "beacons_dev")
	after.Database = before.Database
	res, err := diff.Compare(context.Background(), c, testcatalogue.Save(t, c, catalogue.Origin{Server: "live"}, before).Snapshot, testcatalogue.Save(t, c, catalogue.Origin{Server: "dev"}, after).Snapshot, diff.Options{Exact: true, Order: true})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, o := range res.Objects {
		if len(o.Properties) == 0 {
			got = append(got, fmt.Sprintf("%s %s", o.Change, o.ID.Qualified()))
		}
		for _, p := range o.Properties {
			got = append(got, fmt.Sprintf("%s %s", o.ID.Qualified(), p.Path))
		}
	}
	want := []string{
		"added table:nav.fog_horn", "index:nav.beacon.beacon_by_height settings/fill factor/value", "removed synonym:dbo.mainland", "removed table:dbo.heap_note",
		"sequence:nav.ticket sequence/cache", "table:nav.beacon checks/CK_height", "table:nav.beacon columns/height_m/default", "table:nav.beacon columns/height_m/type", "table:nav.beacon comment",
		"table:nav.lamp columns/watts/not_null", "table:nav.lamp foreign_keys/FK_lamp_beacon/on_delete", "table:nav.lamp grants/lamp_crew", "trigger:nav.beacon.beacon_touch trigger/disabled", "view:nav.tall_beacon query",
	}
	slices.Sort(got)
	slices.Sort(want)
	if !slices.Equal(got, want) {
		t.Errorf("got\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
}

// The queries keep to what Transact-SQL and the stand-in both understand, so that what runs against the
// one is what is sent to the other.
func TestQueriesStayInTheSubset(t *testing.T) {
	forbidden := map[string]*regexp.Regexp{
		"a prefix on a string": regexp.MustCompile(`(?i)\bN'`), "TOP": regexp.MustCompile(`(?i)\bTOP\b`), "APPLY": regexp.MustCompile(`(?i)\bAPPLY\b`), "a hint": regexp.MustCompile(`(?i)\bNOLOCK\b|\bOPTION\s*\(`),
		"a name of three parts": regexp.MustCompile(`(?i)\bFROM\s+\w+\.\w+\.\w+|\bJOIN\s+\w+\.\w+\.\w+`), "ISNULL": regexp.MustCompile(`(?i)\bISNULL\s*\(`), "+ on a string": regexp.MustCompile(`'\s*\+|\+\s*'`),
		"LIMIT": regexp.MustCompile(`(?i)\bLIMIT\b`), "||": regexp.MustCompile(`\|\|`), "a double quote": regexp.MustCompile(`"`), "an aggregate of the stand-in's": regexp.MustCompile(`(?i)group_concat`),
		"a view that is not of the catalogue": regexp.MustCompile(`(?i)\b(?:FROM|JOIN)\s+(?:[a-rt-z]|s[a-xz]|sy[a-rt-z])\w*\.`), "a helper of the stand-in": regexp.MustCompile(`standin_`),
		"all columns": regexp.MustCompile(`SELECT \*`),
	}
	writes := regexp.MustCompile(`(?i)\b(INSERT|UPDATE|DELETE|MERGE|ALTER|CREATE|DROP|EXEC|GRANT|TRUNCATE)\b`)
	literals := regexp.MustCompile(`'[^']*'`) // names of rights
	for _, q := range (Engine{}).Queries() {
		for what, re := range forbidden {
			if m := re.FindString(q); m != "" {
				t.Errorf("%s (%q) in %s", what, m, q)
			}
		}
		if m := writes.FindString(literals.ReplaceAllString(q, "''")); m != "" {
			t.Errorf("%q in a query: %s", m, q)
		}
		if !strings.HasPrefix(q, "--") && !strings.HasPrefix(q, "SELECT") && q != sessionSettings {
			t.Errorf("no reading statement: %s", q)
		}
	}
}

func TestConnectErrors(t *testing.T) {
	s := start(t)
	with := func(user, password, rest string) engine.Target {
		return engine.Target{URL: "sqlserver://" + user + "@" + s.Addr() + "?encrypt=disable" + rest, Password: func(context.Context) (string, error) { return password, nil }}
	}
	for _, c := range []struct {
		target engine.Target
		says   string
	}{
		{with("surveyor", "wrong", "&database=beacons"), "refused the user or the password"},
		{with("nobody", "fog-and-foam", "&database=beacons"), "refused the user or the password"},
		{with("surveyor", "fog-and-foam", "&database=no_such"), "no such database, or the user may not open it"},
		{with("surveyor", "fog-and-foam", "&database=closed"), "no such database, or the user may not open it"},
		{engine.Target{URL: "sqlserver://surveyor@" + s.Addr() + "?encrypt=true&database=beacons", Password: target("", "").Password}, "no encrypted connection was made"},
		{target("127.0.0.1:1", "beacons"), "no server answers there"},
		{target("no..such..host", "beacons"), "was not resolved"},
	} {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		_, err := Engine{}.Connect(ctx, c.target)
		cancel()
		if err == nil || !strings.Contains(err.Error(), c.says) || strings.Contains(err.Error(), "fog-and-foam") {
			t.Errorf("%s: %v, want %q", c.target.URL, err, c.says)
		}
	}
}

// A connection that drops at any point, or answers that are spoilt, are an error, and the server lives.
func TestBrokenConnection(t *testing.T) {
	s := start(t)
	ctx := context.Background()
	try := func(address string) error {
		session, err := Engine{}.Connect(ctx, target(address, "beacons"))
		if err != nil {
			return err
		}
		defer session.Close()
		_, err = session.Read(ctx, "beacons")
		return err
	}
	whole := testservers.Faulty(t, s.Addr(), testservers.TDSMessages, testservers.Fault{After: 1 << 40})
	if err := try(whole.Addr); err != nil {
		t.Fatal(err)
	}
	total := whole.Passed()
	for _, do := range []string{"drop", "nonsense"} {
		for step := range int64(25) {
			after := total * step / 25
			proxy := testservers.Faulty(t, s.Addr(), testservers.TDSMessages, testservers.Fault{After: after, Do: do})
			if err := try(proxy.Addr); err == nil && do == "drop" {
				t.Errorf("%s after %d of %d bytes was not noticed", do, after, total)
			}
		}
	}
	if err := try(s.Addr()); err != nil {
		t.Errorf("afterwards: %v", err)
	}
}

// A query that is given up does not spoil the session's server.
func TestAttention(t *testing.T) {
	s := start(t)
	session, err := Engine{}.Connect(context.Background(), target(s.Addr(), "beacons"))
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	ctx, cancel := context.WithCancel(context.Background())
	timer := time.AfterFunc(30*time.Millisecond, cancel)
	defer timer.Stop()
	err = engine.Rows(ctx, session.(*server).db, "WITH n AS (SELECT 1 AS i UNION ALL SELECT i + 1 AS i FROM n WHERE i < 50000000) SELECT count(*) FROM n", nil)
	if err == nil || ctx.Err() == nil {
		t.Errorf("the query was not given up: %v", err)
	}
	if _, err := session.Read(context.Background(), "beacons"); err != nil {
		t.Errorf("afterwards: %v", err)
	}
}

// An independent client understands the stand-in, and gets the rows that we get.
func TestIndependentClient(t *testing.T) {
	if _, err := exec.LookPath("tsql"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("tsql is not installed (Debian: apt-get install freetds-bin)")
		}
		fmt.Fprintln(os.Stderr, "*** THE STAND-IN IS NOT CHECKED WITH AN INDEPENDENT CLIENT: tsql is not installed ***")
		t.Skip(err)
	}
	s := start(t)
	host, port, _ := strings.Cut(s.Addr(), ":")
	run := func(password, input string) string {
		cmd := exec.Command("tsql", "-H", host, "-p", port, "-U", "surveyor", "-P", password, "-D", "beacons")
		cmd.Env = append(os.Environ(), "TDSVER=7.4", "LC_ALL=C.UTF-8")
		cmd.Stdin = strings.NewReader(input)
		out, _ := cmd.CombinedOutput()
		return string(out)
	}
	out := run("fog-and-foam", "SELECT name, object_id, is_memory_optimized, history_table_id FROM sys.tables WHERE object_id IN (103, 108, 110)\ngo\nSELECT a FROM sys.nowhere\ngo\nSELECT count(*) FROM sys.schemas\ngo\nexit\n")
	for _, want := range []string{"keeper log\t103\t0\tNULL", "tariff\t108\t0\t109", "hot_signal\t110\t1\tNULL", "no such table", "\n6\n"} {
		if !strings.Contains(out, want) {
			t.Errorf("tsql does not show %q:\n%s", want, out)
		}
	}
	if out := run("wrong", "SELECT 1\ngo\n"); !strings.Contains(out, "Login failed") {
		t.Errorf("tsql with a wrong password:\n%s", out)
	}
}
