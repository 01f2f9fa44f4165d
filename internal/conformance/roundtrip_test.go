// Package conformance runs the same tests against every engine: what is surveyed, written as a script
// and run on an empty database is the same again, by our comparison and by the server's own account.
package conformance

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
	"echo-atlas/internal/core/survey"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

func TestMain(m *testing.M) { testservers.Main(m) }

// read surveys one database under a name and returns its snapshot's contents.
func read(t testing.TB, c *catalogue.Catalogue, s testservers.Server, name, url string) *catalogue.Contents {
	t.Helper()
	ctx := context.Background()
	sv := survey.Surveyor{Engines: engine.Registry{s.Engine()}, Catalogue: c, Jobs: 2, Timeout: 20 * time.Second}
	results := sv.Run(ctx, []survey.Target{{Server: config.Server{Name: name, URL: url}}})
	if len(results) != 1 || results[0].Err != nil {
		t.Fatalf("surveying %s: %+v", url, results)
	}
	contents, err := c.Contents(ctx, results[0].Snapshot)
	if err != nil {
		t.Fatal(err)
	}
	return contents
}

func all(t *catalogue.Contents) []*catalogue.Entry {
	var entries []*catalogue.Entry
	for i := range t.All() {
		entries = append(entries, t.At(i))
	}
	return entries
}

// compare reports every difference between two snapshots.
func compare(t *testing.T, c *catalogue.Catalogue, before, after *catalogue.Contents) {
	t.Helper()
	res, err := diff.Compare(context.Background(), c, before.Snapshot, after.Snapshot, diff.Options{Exact: true, Order: true})
	if err != nil {
		t.Fatal(err)
	}
	if res.Summary.Same == 0 {
		t.Error("nothing is the same: nothing was compared")
	}
	for _, o := range res.Objects {
		t.Errorf("%s %s", o.Change, o.ID.Qualified())
		for _, p := range o.Properties {
			t.Errorf("  %s: %s, now %s", p.Path, value(p.Old), value(p.New))
		}
	}
}

func value(s *string) string {
	if s == nil {
		return "nothing"
	}
	return fmt.Sprintf("%q", *s)
}

// compareAccounts compares what the server itself says of a database with what it said of another.
// What no script can keep is named by its columns.
func compareAccounts(t *testing.T, s testservers.Server, x []string, after string, notKept ...string) {
	t.Helper()
	y := s.Account(t, after)
	for _, column := range notKept {
		for _, lines := range [][]string{x, y} {
			for i := range lines {
				lines[i] = regexp.MustCompile(` `+column+`="[^"]*"`).ReplaceAllString(lines[i], "")
			}
		}
	}
	if len(x) == 0 {
		t.Error("the server's account is empty")
	}
	compareLines(t, "the server's account", x, y)
}

func compareLines(t *testing.T, what string, x, y []string) {
	t.Helper()
	for _, l := range diff.Lines(x, y) {
		if l.Change != "" {
			t.Errorf("%s: %s %s", what, l.Change, l.Text)
		}
	}
}

// dump returns what the server's own dump program writes of a database, nil where there is none.
func dump(t *testing.T, s testservers.Server, url string) []string {
	t.Helper()
	if own, ok := s.(interface {
		Dump(testing.TB, string) []string
	}); ok {
		return own.Dump(t, url)
	}
	return nil
}

// use reads every view of a database and runs what can be run without arguments: nothing in it may need the database
// that it was copied from.
func use(t *testing.T, s testservers.Server, copied *catalogue.Contents, url string) {
	t.Helper()
	if kin(s) != "mariadb" {
		return
	}
	db := s.Open(t, url)
	for _, e := range copied.All() {
		statement := ""
		switch {
		case e.ID.Kind == schema.KindView && e.State == "":
			statement = "SELECT * FROM " + s.Engine().Quote(e.ID.Name) + " LIMIT 0"
		case e.ID.Kind == schema.KindProcedure && strings.HasPrefix(e.ID.Name, "own_"):
			statement = "CALL " + s.Engine().Quote(e.ID.Name) + "()"
		default:
			continue
		}
		if _, err := db.Exec(statement); err != nil && !strings.HasPrefix(e.ID.Name, "broken") {
			t.Errorf("%s: %v", statement, err)
		}
	}
}

// notKept returns the columns of the server's account that a case says, in its first lines, no script can keep.
func notKept(t *testing.T, s testservers.Server, script string) []string {
	for line := range strings.Lines(script) {
		if m := notKeptLine.FindStringSubmatch(line); m != nil {
			own, ok := s.(interface{ Major(testing.TB) int })
			if since, _ := strconv.Atoi(m[1]); since > 0 && (!ok || since > own.Major(t)) {
				continue
			}
			return strings.Split(m[2], ", ")
		}
	}
	return nil
}

var notKeptLine = regexp.MustCompile(`^-- not kept(?: since (\d+))?: (.*)\n$`)

// roundTrip surveys what a script makes, writes it, drops it so that no text can lean on it, runs what was written
// on an empty database, and compares; then it drops all.
func roundTrip(t *testing.T, s testservers.Server, script string) {
	t.Helper()
	c := testcatalogue.New(t)
	original := s.Database(t, script)
	before := read(t, c, s, "before", original)
	for _, k := range before.Snapshot.Remarks {
		if k.State != "note" && !(k.State == "failed" && strings.HasPrefix(k.Subject, "view:broken")) && k.Subject != "view:numbers" {
			t.Errorf("remark: %+v", k)
		}
	}
	written, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	olderForms(t, c, s.Engine(), before)
	account, dumped := s.Account(t, original), dump(t, s, original)
	s.Drop(t, original)
	copied := s.Database(t, written.Text())
	after := read(t, c, s, "after", copied)
	compare(t, c, before, after)
	compareAccounts(t, s, account, copied, notKept(t, s, script)...)
	if len(notKept(t, s, script)) == 0 {
		compareLines(t, "the server's dump", dumped, dump(t, s, copied))
	}
	use(t, s, after, copied)
	drop, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{Drop: true})
	if err != nil {
		t.Fatal(err)
	}
	empty := read(t, c, s, "empty", s.Database(t, written.Text()+drop.Text()))
	for _, e := range empty.All() {
		if e.ID.Name != "public" {
			t.Errorf("the script that drops all leaves %s", e.ID.Qualified())
		}
	}
}

// ofVersions returns the scripts of what versions up to that of a server brought.
func ofVersions(t *testing.T, s testservers.Server) []string {
	t.Helper()
	own, ok := s.(interface{ Major(testing.TB) int })
	if !ok {
		return nil
	}
	cases, err := filepath.Glob(filepath.Join("testdata/versions", s.Name(), "*.sql"))
	if err != nil {
		t.Fatal(err)
	}
	return slices.DeleteFunc(cases, func(path string) bool {
		version, err := strconv.Atoi(strings.TrimSuffix(filepath.Base(path), ".sql"))
		if err != nil {
			t.Fatal(err)
		}
		return version > own.Major(t)
	})
}

// eachCase runs a test for every script of every engine in a folder.
func eachCase(t *testing.T, dir string, run func(t *testing.T, s testservers.Server, script string)) {
	casesOf(t, testservers.All(t), dir, run)
}

// kin is the engine whose tests a server shares.
func kin(s testservers.Server) string {
	if s.Name() == "mysql" {
		return "mariadb"
	}
	return s.Name()
}

// scriptsOf returns the scripts for a server in a folder. Some of MariaDB's run on MySQL as they are, and so may real schemas.
func scriptsOf(s testservers.Server, dir string) ([]string, error) {
	files, err := filepath.Glob(filepath.Join(dir, s.Name(), "*.sql"))
	if s.Name() != "mysql" {
		return files, err
	}
	if dir != "testdata" {
		files, err := filepath.Glob(filepath.Join(dir, "mariadb", "*.sql"))
		return slices.DeleteFunc(files, func(path string) bool { return filepath.Base(path) == "cacti.sql" }), err // it counts on a client that drops comments
	}
	return append(files, filepath.Join(dir, "mariadb", "views.sql"), filepath.Join(dir, "mariadb", "escapes.sql")), err
}

func casesOf(t *testing.T, servers []testservers.Server, dir string, run func(t *testing.T, s testservers.Server, script string)) {
	for _, s := range servers {
		cases, err := scriptsOf(s, dir)
		if err != nil || len(cases) == 0 {
			t.Fatalf("no cases for %s: %v", s.Name(), err)
		}
		if dir == "testdata" {
			cases = append(cases, ofVersions(t, s)...)
		}
		for _, path := range cases {
			t.Run(s.Name()+"/"+strings.TrimSuffix(filepath.Base(path), ".sql"), func(t *testing.T) {
				script, err := os.ReadFile(path)
				if err != nil {
					t.Fatal(err)
				}
				run(t, s, string(script))
			})
		}
	}
}

func TestRoundTrip(t *testing.T) { eachCase(t, "testdata", roundTrip) }

// TestRealSchemas takes schemas of real programs from a folder that is not part of the repository; see
// scripts/real-schemas.
func TestRealSchemas(t *testing.T) {
	dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS")
	if dir == "" {
		t.Skip("scripts/real-schemas runs this")
	}
	eachCase(t, dir, roundTrip)
}

// TestUnchangedIsFree surveys a database twice: the second snapshot shares all content.
func TestUnchangedIsFree(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			script, err := os.ReadFile(filepath.Join("testdata", s.Name(), "tables.sql"))
			if err != nil {
				t.Fatal(err)
			}
			c := testcatalogue.New(t)
			url := s.Database(t, string(script))
			first, second := read(t, c, s, "s", url), read(t, c, s, "s", url)
			if first.Snapshot.Root != second.Snapshot.Root || first.Snapshot.ID == second.Snapshot.ID {
				t.Errorf("roots %v and %v of snapshots %d and %d", first.Snapshot.Root, second.Snapshot.Root, first.Snapshot.ID, second.Snapshot.ID)
			}
		})
	}
}

// TestShuffledSelection writes 200 tables, 30 of them in cycles of foreign keys, named in random order.
func TestShuffledSelection(t *testing.T) {
	const tables, inCycles, cycle = 200, 30, 5
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			random := rand.New(rand.NewPCG(7, 11))
			names := random.Perm(tables)
			var script strings.Builder
			references := make([][]int, tables)
			for i := range tables {
				if i < inCycles {
					references[i] = append(references[i], i/cycle*cycle+(i+1)%cycle)
				}
				for range random.IntN(3) {
					if i > 0 {
						references[i] = append(references[i], random.IntN(i))
					}
				}
				if i%17 == 0 {
					references[i] = append(references[i], i)
				}
			}
			define := func(i int, keys bool) {
				fmt.Fprintf(&script, "CREATE TABLE t%d (id integer PRIMARY KEY", names[i])
				for n, to := range references[i] {
					fmt.Fprintf(&script, ", r%d integer", n)
					if keys {
						fmt.Fprintf(&script, " REFERENCES t%d (id)", names[to])
					}
				}
				script.WriteString(");\n")
			}
			for i := range tables {
				define(i, s.Name() == "sqlite")
			}
			for i := range tables {
				for n, to := range references[i] {
					if s.Name() != "sqlite" {
						fmt.Fprintf(&script, "ALTER TABLE t%d ADD CONSTRAINT k%d_%d FOREIGN KEY (r%d) REFERENCES t%d (id);\n", names[i], i, n, n, names[to])
					}
				}
			}
			c := testcatalogue.New(t)
			original := s.Database(t, script.String())
			before := read(t, c, s, "before", original)
			entries := all(before)
			random.Shuffle(len(entries), func(i, j int) { entries[i], entries[j] = entries[j], entries[i] })
			written, err := ddl.Write(context.Background(), c, s.Engine(), before, entries, ddl.Options{})
			if err != nil {
				t.Fatal(err)
			}
			again, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{})
			if err != nil || again.Text() != written.Text() {
				t.Errorf("the script depends on the order of the selection (%v)", err)
			}
			apart := strings.Count(written.Text(), "ALTER TABLE") - strings.Count(written.Text(), "OWNER TO")
			if s.Name() == "postgres" && (apart == 0 || apart > inCycles*3) {
				t.Errorf("%d foreign keys stand apart; only those of cycles need to", apart)
			}
			account := s.Account(t, original)
			s.Drop(t, original)
			copied := s.Database(t, written.Text())
			after := read(t, c, s, "after", copied)
			compare(t, c, before, after)
			compareAccounts(t, s, account, copied)
		})
	}
}

// TestWithNeeds writes one view with its needs, on a database where names mislead.
func TestWithNeeds(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			c := testcatalogue.New(t)
			url := s.Database(t, `CREATE TABLE z (id integer PRIMARY KEY); CREATE TABLE y (id integer PRIMARY KEY, z integer REFERENCES z (id));
CREATE TABLE other (id integer PRIMARY KEY); CREATE VIEW x AS SELECT id FROM y; CREATE VIEW a AS SELECT id FROM x;`)
			contents := read(t, c, s, "s", url)
			i := slices.IndexFunc(contents.All(), func(e catalogue.Entry) bool { return e.ID.Name == "a" })
			written, err := ddl.Write(context.Background(), c, s.Engine(), contents, []*catalogue.Entry{contents.At(i)}, ddl.Options{WithNeeds: true})
			if err != nil {
				t.Fatal(err)
			}
			s.Drop(t, url)
			copied := read(t, c, s, "copy", s.Database(t, written.Text()))
			var got []string
			for _, e := range copied.All() {
				if e.ID.Kind.IsRelation() {
					got = append(got, e.ID.Name)
				}
			}
			slices.Sort(got)
			if want := []string{"a", "x", "y", "z"}; !slices.Equal(got, want) {
				t.Errorf("the copy holds %v, want %v", got, want)
			}
			alone, err := ddl.Write(context.Background(), c, s.Engine(), contents, []*catalogue.Entry{contents.At(i)}, ddl.Options{})
			if err != nil || len(alone.Assumed) == 0 {
				t.Errorf("the script of the view alone does not say what it assumes: %v, %v", alone, err)
			}
		})
	}
}

// TestRename writes every case under other names of its schemas and owner, runs it, and renames it back.
func TestRename(t *testing.T) {
	s := testservers.Postgres(t)
	if _, err := s.Open(t, s.URL("postgres")).Exec("CREATE ROLE harbourmaster SUPERUSER"); err != nil {
		t.Fatal(err)
	}
	cases, _ := scriptsOf(s, "testdata")
	for _, path := range cases {
		t.Run(filepath.Base(path), func(t *testing.T) {
			script, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			c := testcatalogue.New(t)
			original := s.Database(t, string(script))
			before := read(t, c, s, "before", original)
			there := ddl.Renames{Owners: map[string]string{"atlas": "harbourmaster"}, Containers: map[string]string{}}
			back := ddl.Renames{Owners: map[string]string{"harbourmaster": "atlas"}, Containers: map[string]string{}}
			for old, to := range map[string]string{"ops": "Other Ops", "calc": "reckon", "Ops Desk": "desk"} {
				if slices.ContainsFunc(before.All(), func(e catalogue.Entry) bool { return e.ID.Schema == old }) {
					there.Containers[old], back.Containers[to] = to, old
				}
			}
			write := func(from *catalogue.Contents, r ddl.Renames) string {
				written, err := ddl.Write(context.Background(), c, s.Engine(), from, all(from), ddl.Options{Rename: r})
				if err != nil {
					t.Fatal(err)
				}
				return written.Text()
			}
			text := write(before, there)
			for _, token := range sqltext.Tokens(text, s.Engine().Traits().Rules) {
				name := sqltext.Unquote(text, token, s.Engine().Traits().Rules)
				if (token.Kind == sqltext.Word || token.Kind == sqltext.QuotedName) && there.Containers[name] != "" && strings.HasPrefix(text[token.End:], ".") {
					line, _, what := sqltext.Place(text, token.Start)
					t.Errorf("line %d of the script names the old schema: %s", line, what)
				}
			}
			s.Drop(t, original) // what runs below runs where the old names do not exist
			renamed := read(t, c, s, "renamed", s.Database(t, text))
			for _, e := range renamed.All() {
				if e.Owner == "atlas" || there.Containers[e.ID.Schema] != "" {
					t.Errorf("%s of %s was not renamed", e.ID.Qualified(), e.Owner)
				}
			}
			compare(t, c, before, read(t, c, s, "back", s.Database(t, write(renamed, back))))
		})
	}
}

// notCopied are the objects that the server's own means do not copy as they are, and why.
var notCopied = map[string]string{
	"procedure:back\\slash()": "the dump doubles the backslashes of comments",
	"event:slashed":           "likewise",
	"procedure:own_tidy()":    "the dump leaves names of the database that was copied",
	"view:numbers":            "likewise",
	"table:takes":             "likewise",
	"function:tide_twice()":   "the dump leaves the database of a library",
	"table:small":             "the dump writes what was the usual",
	"table:taken":             "the dump leaves the database that was copied in the default of a column",
	"view:crossed":            "likewise, of which it is a column",
	"view:joined":             "likewise",
	"view:righted":            "likewise",
	"view:used":               "likewise",
}

// A database and a copy of it that its own server, or its own client, made are the same.
func TestCopiesOfTheServer(t *testing.T) {
	eachCase(t, "testdata", func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		before := read(t, c, s, "before", url)
		o := diff.For(s.Engine())
		o.Order = true
		if kin(s) == "mariadb" { // the dump leaves rights to the server
			o.Without = []schema.Aspect{schema.Grants}
		}
		res, err := diff.Compare(t.Context(), c, before.Snapshot, read(t, c, s, "copy", s.Copy(t, url)).Snapshot, o)
		if err != nil {
			t.Fatal(err)
		}
		if res.Summary.Same == 0 {
			t.Error("nothing was compared")
		}
		for _, x := range res.Objects {
			if notCopied[x.ID.Qualified()] != "" || x.ID.Kind == schema.KindSubscription { // which a template does not bring
				continue
			}
			t.Errorf("%s %s", x.Change, x.ID.Qualified())
			for _, p := range x.Properties {
				t.Errorf("  %s: %s, now %s", p.Path, value(p.Old), value(p.New))
			}
		}
	})
}
