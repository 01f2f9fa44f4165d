package conformance

import (
	"database/sql"
	"path/filepath"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/change"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

var lockName = regexp.MustCompile(`\(([A-Z]+(?: [A-Z]+)*)\)`)

// planned makes the two databases of a single change, and returns the old one, the script, and a connection to the database that it is
// for.
func planned(t *testing.T, s testservers.Server, base string, k changeCase) (*catalogue.Contents, *change.Plan, *sql.Conn) {
	t.Helper()
	c := testcatalogue.New(t)
	was, now := s.Database(t, base), s.Database(t, base+"\n"+k.script)
	old, fresh := read(t, c, s, "was", was), read(t, c, s, "now", now)
	res, err := diff.Compare(t.Context(), c, old.Snapshot, fresh.Snapshot, diff.For(s.Engine()))
	if err != nil {
		t.Fatal(err)
	}
	plan, err := change.Write(t.Context(), c, s.Engine(), old, fresh, res, change.Options{WithLossy: true, NoGuard: true})
	if err != nil {
		t.Fatal(err)
	}
	db, err := s.Open(t, was).Conn(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return old, plan, db
}

// What the notes claim of tables that are written anew and of locks is what PostgreSQL does: its file nodes and its view of locks say
// so, statement by statement.
func TestClaims(t *testing.T) {
	s := testservers.Postgres(t)
	base, cases := changeCases(t, filepath.Join("testdata", "changes", s.Name()+".sql"))
	var rewrites, locks atomic.Int64
	t.Cleanup(func() {
		if rewrites.Load() < 5 || locks.Load() < 5 {
			t.Errorf("only %d claims of rewriting and %d of locks were looked at", rewrites.Load(), locks.Load())
		}
	})
	for _, k := range cases {
		t.Run(k.name, func(t *testing.T) {
			t.Parallel()
			_, plan, db := planned(t, s, base, k)
			nodes := func() map[string]int64 {
				all := map[string]int64{}
				rows, err := db.QueryContext(t.Context(), "SELECT oid::regclass::text, pg_relation_filenode(oid) FROM pg_class WHERE relkind IN ('r', 'm') AND oid > 16384 AND relnamespace <> 'pg_toast'::regnamespace")
				if err != nil {
					t.Fatal(err)
				}
				defer rows.Close()
				for rows.Next() {
					var name string
					var node int64
					if err := rows.Scan(&name, &node); err != nil {
						t.Fatal(err)
					}
					all[name] = node
				}
				return all
			}
			exec := func(text string) {
				if _, err := db.ExecContext(t.Context(), text); err != nil {
					t.Fatalf("%s: %v", text, err)
				}
			}
			for _, p := range plan.Pieces() {
				if p.Text == "" {
					continue
				}
				for _, set := range p.Settings {
					exec(set.Text)
				}
				before := nodes()
				exec("BEGIN")
				exec(p.Text)
				after := nodes()
				anew := ""
				for name, node := range after {
					if was, there := before[name]; there && was != node {
						anew = name
					}
				}
				claimed, hedged := false, false
				for _, r := range p.Risks {
					claimed = claimed || r.Kind == engine.Rewrites
					hedged = hedged || r.Kind == engine.Rewrites && strings.Contains(r.Text, "unless")
					for _, m := range lockName.FindAllStringSubmatch(r.Text, -1) {
						locks.Add(1)
						mode := strings.ReplaceAll(strings.ToLower(m[1]), " ", "") + "lock"
						var held int
						if err := db.QueryRowContext(t.Context(), "SELECT count(*) FROM pg_locks WHERE pid = pg_backend_pid() AND lower(mode) = $1 AND relation > 16384", mode).Scan(&held); err != nil || held == 0 {
							t.Errorf("%s: no such lock is held (%v): %s", p.Text, err, r.Text)
						}
					}
				}
				exec("COMMIT")
				switch {
				case anew != "" && !claimed:
					t.Errorf("%s: %s is written anew, and no note says so", p.Text, anew)
				case anew == "" && claimed && !hedged:
					t.Errorf("%s: a note says that the table is written anew, and it is not", p.Text)
				case claimed:
					rewrites.Add(1)
				}
			}
		})
	}
}

// What the notes do not say to hold up writers MariaDB and MySQL do beside them: they take the statement with LOCK=NONE. What is said
// to be copied they do not do at once.
func TestClaimsMariaDB(t *testing.T) { claimsOfAlgorithms(t, testservers.MariaDB(t)) }

func TestClaimsMySQL(t *testing.T) { claimsOfAlgorithms(t, testservers.MySQL(t)) }

func claimsOfAlgorithms(t *testing.T, s testservers.Server) {
	t.Helper()
	base, cases := changeCases(t, filepath.Join("testdata", "changes", s.Name()+".sql"))
	var quiet, loud atomic.Int64
	t.Cleanup(func() {
		if quiet.Load() < 10 || loud.Load() < 2 {
			t.Errorf("only %d statements without a note and %d with one were looked at", quiet.Load(), loud.Load())
		}
	})
	for _, k := range cases {
		t.Run(k.name, func(t *testing.T) {
			t.Parallel()
			old, plan, db := planned(t, s, base, k)
			for _, p := range plan.Pieces() {
				if p.Text == "" {
					continue
				}
				for _, set := range p.Settings {
					if _, err := db.ExecContext(t.Context(), set.Text); err != nil {
						t.Fatal(err)
					}
				}
				claimed, hedged := false, false
				for _, r := range p.Risks {
					if r.Kind == engine.Rewrites || r.Kind == engine.HoldsUp {
						claimed, hedged = true, hedged || strings.Contains(r.Text, "unless")
					}
				}
				text := p.Text
				alters := strings.HasPrefix(text, "ALTER TABLE ") && !strings.Contains(text, "PARTITION") && !strings.Contains(text, "SYSTEM VERSIONING")
				if alters && !claimed && old.Find(p.Subject) != nil {
					quiet.Add(1)
					text += ", LOCK=NONE"
				}
				if alters && claimed && !hedged {
					loud.Add(1)
					if _, err := db.ExecContext(t.Context(), text+", ALGORITHM=INSTANT"); err == nil {
						t.Errorf("%s: a note says that it takes long, and it is done at once", p.Text)
						continue
					}
				}
				if _, err := db.ExecContext(t.Context(), text); err != nil {
					t.Errorf("%s: %v", text, err)
					if _, err := db.ExecContext(t.Context(), p.Text); err != nil {
						t.Fatalf("%s: %v", p.Text, err)
					}
				}
			}
		})
	}
}
