package conformance

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/prove"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// scratches returns the scratch databases that a server still has.
func scratches(t *testing.T, s testservers.Server, url string) []string {
	query := map[string]string{"postgres": "SELECT datname FROM pg_database WHERE datname LIKE 'echo_atlas_proof%'", "mariadb": "SELECT schema_name FROM information_schema.schemata WHERE schema_name LIKE 'echo_atlas_proof%'"}[kin(s)]
	if query == "" {
		left, _ := filepath.Glob(filepath.Join(os.TempDir(), "atlas-proof-*"))
		return left
	}
	db := s.Open(t, url)
	defer db.Close()
	rows, err := db.Query(query)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	var all []string
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			t.Fatal(err)
		}
		all = append(all, name)
	}
	return all
}

// The script of every test database is proved: it recreates what was read, and nothing is left on the scratch server.
func TestProve(t *testing.T) {
	testservers.All(t) // are started where they always are
	t.Setenv("TMPDIR", t.TempDir())
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		contents := read(t, c, s, "before", url)
		p, err := prove.Run(context.Background(), prove.Job{Catalogue: c, Engine: s.Engine(), Target: engine.Target{URL: url, Trusted: true}, Contents: contents, Entries: all(contents)})
		if err != nil {
			t.Fatal(err)
		}
		if !p.Exact() || p.Statements == 0 || len(p.Missing) > 0 {
			t.Errorf("%d statements, missing %v: %+v", p.Statements, p.Missing, p.Result.Objects)
		}
		if left := scratches(t, s, url); len(left) > 0 {
			t.Errorf("left: %v", left)
		}
	})
}

// What a script lacks is told by its line, what it makes otherwise is seen, and nothing is left after a failure or an interruption.
func TestProveFails(t *testing.T) {
	servers := testservers.All(t)
	t.Setenv("TMPDIR", t.TempDir())
	for _, s := range servers {
		t.Run(s.Name(), func(t *testing.T) {
			c := testcatalogue.New(t)
			url := s.Database(t, "CREATE TABLE berth (id integer PRIMARY KEY, depth integer); CREATE INDEX by_depth ON berth (depth);")
			contents := read(t, c, s, "before", url)
			i := slices.IndexFunc(contents.All(), func(e catalogue.Entry) bool { return e.ID.Kind == schema.KindIndex })
			job := prove.Job{Catalogue: c, Engine: s.Engine(), Target: engine.Target{URL: url, Trusted: true}, Contents: contents, Entries: []*catalogue.Entry{contents.At(i)}}
			_, err := prove.Run(context.Background(), job)
			var failed *prove.StatementError
			if !errors.As(err, &failed) || failed.Number != 1 || failed.Subject.Name != "by_depth" {
				t.Fatalf("%v", err)
			}
			script, err := ddl.Write(context.Background(), c, s.Engine(), contents, job.Entries, ddl.Options{})
			if err != nil {
				t.Fatal(err)
			}
			if lines := strings.Split(script.Text(), "\n"); failed.Line < 1 || !strings.Contains(lines[failed.Line-1], "by_depth") {
				t.Errorf("line %d of\n%s", failed.Line, script.Text())
			}
			job.Entries = all(contents)
			ctx, cancel := context.WithCancel(context.Background())
			job.Progress = func(int, int) { cancel() }
			if _, err := prove.Run(ctx, job); err == nil {
				t.Error("an interrupted proof succeeds")
			}
			if left := scratches(t, s, url); len(left) > 0 {
				t.Errorf("left: %v", left)
			}
		})
	}
}
