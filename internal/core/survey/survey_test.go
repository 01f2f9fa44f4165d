package survey

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/sqlite"
	"echo-atlas/internal/core/schema"
)

// place is a folder with SQLite files and a catalogue.
type place struct {
	t   *testing.T
	dir string
	Surveyor
}

func newPlace(t *testing.T) *place {
	t.Helper()
	dir := t.TempDir()
	c, err := catalogue.Open(context.Background(), filepath.Join(dir, "catalogue"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	return &place{t, dir, Surveyor{Engines: engine.Registry{sqlite.Engine{}}, Catalogue: c, Jobs: 2}}
}

func (p *place) database(name string, statements ...string) {
	p.t.Helper()
	path := filepath.Join(p.dir, name)
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		p.t.Fatal(err)
	}
	db, err := sql.Open("sqlite", path)
	if err != nil {
		p.t.Fatal(err)
	}
	defer db.Close()
	for _, s := range statements {
		if _, err := db.Exec(s); err != nil {
			p.t.Fatalf("%s: %v", s, err)
		}
	}
}

// outcome writes results as "server/database objects" or "server/database: what went wrong".
func outcome(results []Result) []string {
	var all []string
	for _, r := range results {
		text := r.Server + "/" + r.Database
		switch {
		case r.Err != nil:
			text += ": " + r.Err.Error()
		default:
			n := 0
			for _, count := range r.Snapshot.Counts {
				n += count
			}
			text += fmt.Sprint(" ", n)
		}
		all = append(all, text)
	}
	return all
}

// What fails costs itself alone, and what was read before stays.
func TestRun(t *testing.T) {
	p := newPlace(t)
	p.database("quay/berths.db", "CREATE TABLE berth (id INTEGER PRIMARY KEY)", "CREATE INDEX berth_ix ON berth (id)", "CREATE TABLE scratch_1 (x)")
	p.database("quay/tides.db", "CREATE TABLE gauge (id)")
	if err := os.WriteFile(filepath.Join(p.dir, "quay", "notes.db"), []byte(strings.Repeat("no database ", 100)), 0o644); err != nil {
		t.Fatal(err)
	}
	quay := config.Server{Name: "quay", Files: filepath.Join(p.dir, "quay", "*.db"), Environment: "live", Family: "harbour", Skip: []string{"berths/scratch_*"}}
	p.Label = "release 4"
	var events []string
	p.Progress = func(e Event) { events = append(events, e.Database+" "+e.Stage) }
	results := p.Run(context.Background(), []Target{
		{Server: quay}, {Server: config.Server{Name: "gone", URL: "sqlite:" + filepath.Join(p.dir, "gone.db")}},
		{Server: config.Server{Name: "empty", Files: filepath.Join(p.dir, "nothing", "*.db")}}, {Server: config.Server{Name: "odd", URL: "papyrus:roll"}},
	})
	got := outcome(results)
	for i, want := range []string{"empty/: no file matches ", "gone/gone: ", "odd/: no engine serves", "quay/berths 2", "quay/notes: ", "quay/tides 1"} {
		if i >= len(got) || !strings.HasPrefix(got[i], want) {
			t.Fatalf("%q, want %q at %d", got, want, i)
		}
	}
	for _, want := range []string{"berths connecting", "berths reading", "berths storing", "berths done", "notes failed", "gone failed"} {
		if !slices.Contains(events, want) {
			t.Errorf("no event %q: %q", want, events)
		}
	}
	if s := results[3].Snapshot; s.Environment != "live" || s.Family != "harbour" || s.Label != "release 4" || results[3].Changes != nil {
		t.Errorf("%+v", s)
	}

	// Again, with one database spoilt and one changed.
	p.database("quay/tides.db", "CREATE TABLE forecast (at)")
	if err := os.WriteFile(filepath.Join(p.dir, "quay", "berths.db"), []byte("spoilt"), 0o644); err != nil {
		t.Fatal(err)
	}
	again := p.Run(context.Background(), []Target{{Server: quay}})
	if r := again[0]; r.Database != "berths" || r.Err == nil || r.Last == nil || r.Last.ID != results[3].Snapshot.ID {
		t.Errorf("a spoilt file: %+v", r)
	}
	if r := again[2]; r.Database != "tides" || r.Err != nil || r.Same || *r.Changes != (catalogue.Changes{Added: 1}) {
		t.Errorf("a changed one: %+v", r)
	}
	if r := p.Run(context.Background(), []Target{{Server: quay}})[2]; r.Err != nil || !r.Same {
		t.Errorf("an unchanged one: %+v", r)
	}
}

// A survey that is cancelled says so of every database, and stores nothing.
func TestCancelled(t *testing.T) {
	p := newPlace(t)
	for i := range 4 {
		p.database(fmt.Sprintf("quay/d%d.db", i), "CREATE TABLE berth (id)")
	}
	ctx, cancel := context.WithCancel(context.Background())
	p.Jobs = 1
	p.Progress = func(e Event) {
		if e.Stage == "reading" {
			cancel()
		}
	}
	results := p.Run(ctx, []Target{{Server: config.Server{Name: "quay", Files: filepath.Join(p.dir, "quay", "*")}}})
	if len(results) != 4 {
		t.Fatalf("%d results of 4: %q", len(results), outcome(results))
	}
	for _, r := range results {
		if !errors.Is(r.Err, context.Canceled) || r.Snapshot != nil {
			t.Errorf("%s: %v", r.Database, r.Err)
		}
	}
	if latest, err := p.Catalogue.Latest(context.Background()); err != nil || len(latest) > 0 {
		t.Errorf("%d snapshots, %v", len(latest), err)
	}
}

func TestURLs(t *testing.T) {
	p := newPlace(t)
	for _, name := range []string{"a/berths.db", "b/berths.db", "a/tides.sqlite", "a/berths.db-wal", "a/berths.db-shm", "a/tides.sqlite-journal"} {
		path := filepath.Join(p.dir, name)
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, nil, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	urls, err := p.URLs(config.Server{Files: filepath.Join(p.dir, "a", "*")})
	if want := []string{"sqlite:" + filepath.Join(p.dir, "a", "berths.db"), "sqlite:" + filepath.Join(p.dir, "a", "tides.sqlite")}; err != nil || !slices.Equal(urls, want) {
		t.Errorf("%q %v, want %q", urls, err, want)
	}
	for files, says := range map[string]string{"?/*.db": "would both be the database berths", "[": "is not understood", "c/*": "no file matches"} {
		if urls, err := p.URLs(config.Server{Files: filepath.Join(p.dir, files)}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %q %v, want %q", files, urls, err, says)
		}
	}
	if urls, err := p.URLs(config.Server{URL: "postgres://quay"}); err != nil || !slices.Equal(urls, []string{"postgres://quay"}) {
		t.Errorf("%q %v", urls, err)
	}
}

func TestChosen(t *testing.T) {
	for _, of := range []struct {
		databases, skip []string
		database        string
		want            bool
	}{
		{nil, nil, "berths", true},
		{[]string{"berths"}, nil, "berths", true},
		{[]string{"berths"}, nil, "berths_old", false},
		{[]string{"b*"}, nil, "Berths", true},
		{[]string{"b*"}, []string{"*_old"}, "berths_old", false},
		{nil, []string{"odd*"}, "odd*name", false},
		{[]string{"tides"}, nil, engine.ServerLevel, true}, // whatever databases are chosen
		{nil, []string{engine.ServerLevel}, engine.ServerLevel, false},
		{nil, []string{"berths/scratch_*"}, "berths", true}, // objects of it
	} {
		if got := chosen(config.Server{Databases: of.databases, Skip: of.skip}, of.database); got != of.want {
			t.Errorf("%+v: %v", of, got)
		}
	}
}

// An object is skipped by its name, by its full name, or with the table that it stands on.
func TestSkipObjects(t *testing.T) {
	table := func(schemaName, name string) *schema.Object {
		return &schema.Object{Kind: schema.KindTable, Schema: schemaName, Name: name, Relation: &schema.Relation{}}
	}
	reading := &schema.Reading{Database: "berths", Objects: []*schema.Object{
		table("port", "berth"), table("port", "scratch_1"), table("attic", "berth"),
		{Kind: schema.KindIndex, Schema: "port", Name: "ix", Index: &schema.Index{Table: "scratch_1"}}, {Kind: schema.KindIndex, Schema: "port", Name: "iy", Index: &schema.Index{Table: "berth"}},
	}}
	(&run{}).skipObjects(config.Server{Skip: []string{"b*/scratch_*", "*/attic.*", "tides/*", "berths"}}, reading)
	var left []string
	for _, o := range reading.Objects {
		left = append(left, o.ID().String())
	}
	if want := []string{"port.berth", "port.iy"}; len(left) != 2 || left[0] != want[0] || !strings.HasSuffix(left[1], "iy") {
		t.Errorf("%q, want %q", left, want)
	}
}

func TestPassword(t *testing.T) {
	t.Setenv("QUAY_PASSWORD", "s3cret ")
	for _, of := range []struct {
		server  config.Server
		trusted bool
		want    string
		says    string
	}{
		{config.Server{PasswordEnv: "QUAY_PASSWORD"}, true, "s3cret ", ""},
		{config.Server{PasswordEnv: "QUAY_NOTHING"}, true, "", "QUAY_NOTHING, which password_env names, is not set"},
		{config.Server{PasswordCommand: "printf 'one \\r\\ntwo\\n'"}, true, "one ", ""},
		{config.Server{PasswordCommand: "echo the safe is shut >&2; exit 3"}, true, "", "exit status 3: the safe is shut"},
	} {
		got, err := Password(Target{of.server, of.trusted})(context.Background())
		if got != of.want || (err == nil) != (of.says == "") || err != nil && !strings.Contains(err.Error(), of.says) {
			t.Errorf("%+v: %q %v", of.server, got, err)
		}
	}
	for _, none := range []Target{{config.Server{}, true}, {config.Server{PasswordCommand: "echo x"}, false}, {config.Server{PasswordEnv: "QUAY_PASSWORD"}, false}} { // a file that lies about runs nothing, and gets no secret
		if Password(none) != nil {
			t.Errorf("%+v has a password", none)
		}
	}
}
