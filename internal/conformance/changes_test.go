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
	"sync/atomic"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/change"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// changeCase is one change of a base, as statements.
type changeCase struct {
	name, script string
	oneWay       bool // the way back ends otherwise, and the case says why
}

// changeCases reads a file: a base, then behind each line "-- change: NAME" what is done to it.
func changeCases(t *testing.T, path string) (base string, cases []changeCase) {
	t.Helper()
	text, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	blocks := strings.Split(string(text), "-- change: ")
	for _, b := range blocks[1:] {
		name, script, _ := strings.Cut(b, "\n")
		cases = append(cases, changeCase{strings.TrimSpace(name), script, strings.Contains(name, ", one way: ")})
	}
	return blocks[0], cases
}

// Each change is carried over by the script that the comparison gives, and back: afterwards nothing differs, the server's own
// account is the same, and the rows are there.
func TestChanges(t *testing.T) {
	for _, s := range testservers.All(t) {
		if _, ok := s.Engine().(engine.Changer); !ok {
			continue
		}
		names := []string{s.Name()}
		if own, ok := s.(interface{ Major(testing.TB) int }); ok { // and those of what versions brought
			more, err := filepath.Glob(filepath.Join("testdata", "changes", s.Name()+"-*.sql"))
			if err != nil {
				t.Fatal(err)
			}
			for _, path := range more {
				name := strings.TrimSuffix(filepath.Base(path), ".sql")
				if version, err := strconv.Atoi(name[strings.LastIndexByte(name, '-')+1:]); err != nil || version <= own.Major(t) {
					names = append(names, name)
				}
			}
		}
		for _, name := range names {
			changesOf(t, s, name)
		}
	}
}

// changesOf runs the changes of a file.
func changesOf(t *testing.T, s testservers.Server, file string) {
	t.Run(file, func(t *testing.T) {
		base, cases := changeCases(t, filepath.Join("testdata", "changes", file+".sql"))
		told := make([]string, len(cases))
		t.Cleanup(func() {
			if !slices.Contains(told, "") { // all ran, and not a choice of them
				saidOf(t, file, strings.Join(told, ""))
			}
		})
		for i, k := range cases {
			t.Run(k.name, func(t *testing.T) {
				t.Parallel()
				c := testcatalogue.New(t)
				was, now := s.Database(t, base), s.Database(t, base+"\n"+k.script)
				old, fresh := read(t, c, s, "was", was), read(t, c, s, "now", now)
				told[i] = k.name + "\n" + paths(t, c, s, old, fresh)
				wanted := [2][]string{s.Account(t, now), s.Account(t, was)}
				carried(t, c, s, old, fresh, was, true)
				account(t, wanted[0], s.Account(t, was))
				if !k.oneWay {
					carried(t, c, s, fresh, old, now, true)
					account(t, wanted[1], s.Account(t, now))
				}
			})
		}
	})
}

// paths returns what a comparison says of two databases, a property a line.
func paths(t *testing.T, c *catalogue.Catalogue, s testservers.Server, old, now *catalogue.Contents) string {
	t.Helper()
	o := diff.For(s.Engine())
	o.Order = true
	res, err := diff.Compare(t.Context(), c, old.Snapshot, now.Snapshot, o)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, x := range res.Objects {
		if len(x.Properties) == 0 {
			fmt.Fprintf(&b, "    %s %s\n", x.ID.Qualified(), x.Change)
		}
		for _, p := range x.Properties {
			fmt.Fprintf(&b, "    %s %s\n", x.ID.Qualified(), p.Path)
		}
		for _, id := range x.Followers {
			fmt.Fprintf(&b, "    %s follows\n", id.Qualified())
		}
	}
	return b.String()
}

// saidOf compares what is said of the single changes with what somebody last read beside them; ECHO_ATLAS_GOLDEN=write keeps it.
func saidOf(t *testing.T, engine, told string) {
	t.Helper()
	path := filepath.Join("testdata", "changes", engine+".said")
	if os.Getenv("ECHO_ATLAS_GOLDEN") == "write" {
		if err := os.WriteFile(path, []byte(told), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range diff.Lines(strings.Split(string(want), "\n"), strings.Split(told, "\n")) {
		if l.Change != "" {
			t.Errorf("%s: %s %s", path, l.Change, l.Text)
		}
	}
}

var madeUpSequence = regexp.MustCompile(`\w+_id_seq`)

// account compares what the server says of two databases.
func account(t *testing.T, wanted, got []string) {
	t.Helper()
	loose := func(lines []string) (out []string) { // the order of keys and of columns that were added, and the quotes of a name that SQLite sets
		for _, line := range lines {
			parts := strings.Split(line, "\\n")
			for i := range parts {
				parts[i] = strings.TrimSuffix(strings.TrimSpace(parts[i]), ",")
			}
			slices.Sort(parts)
			line = strings.ReplaceAll(strings.Join(parts, "\\n"), `\"`, "")
			out = append(out, madeUpSequence.ReplaceAllString(line, "its sequence")) // which is called after the table as it was called then
		}
		return out
	}
	wanted, got = loose(wanted), loose(got)
	for _, line := range wanted {
		if !slices.Contains(got, line) {
			t.Errorf("the server does not say any more: %s", line)
		}
	}
	for _, line := range got {
		if !slices.Contains(wanted, line) {
			t.Errorf("the server says besides: %s", line)
		}
	}
}

// carried runs the script from one reading to another on a database that holds the first; order says that the columns have to stand in
// the same order afterwards.
func carried(t *testing.T, c *catalogue.Catalogue, s testservers.Server, old, now *catalogue.Contents, url string, order bool) {
	t.Helper()
	ctx := context.Background()
	compare := func(a, b *catalogue.Contents) *diff.Result {
		o := diff.For(s.Engine())
		o.Exact, o.Order = true, order
		res, err := diff.Compare(ctx, c, a.Snapshot, b.Snapshot, o)
		if err != nil {
			t.Fatal(err)
		}
		return res
	}
	res := compare(old, now)
	if len(res.Objects) == 0 {
		t.Errorf("nothing differs")
		return
	}
	plan, err := change.Write(ctx, c, s.Engine(), old, now, res, change.Options{WithLossy: true, Together: true})
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range plan.Left {
		t.Errorf("left: %s: %v", l.ID.Qualified(), l.Why)
	}
	text := plan.Text()
	before := rowCounts(t, s, url, old)
	func() {
		defer func() {
			if t.Failed() {
				t.Log(text)
			}
		}()
		s.Run(t, url, text)
	}()
	made := read(t, c, s, fmt.Sprintf("made%d", now.Snapshot.ID), url)
	if left := compare(made, now); left.Summary.Differs() {
		for _, x := range left.Objects {
			t.Errorf("%s %s", x.Change, x.ID.Qualified())
			for _, d := range x.Properties {
				t.Errorf("    %s: %s, wanted %s", d.Path, said(d.Old), said(d.New))
			}
		}
		t.Logf("%s", text)
	}
	for table, n := range rowCounts(t, s, url, made) {
		if was, ok := before[table]; ok && was != n {
			t.Errorf("%s had %d rows, and has %d\n%s", table, was, n, text)
		}
	}
}

func said(s *string) string {
	if s == nil {
		return "none"
	}
	return *s
}

// rowCounts returns how many rows the tables of a database have.
func rowCounts(t *testing.T, s testservers.Server, url string, contents *catalogue.Contents) map[string]int {
	t.Helper()
	db := s.Open(t, url)
	defer db.Close()
	counts := map[string]int{}
	for i := range contents.All() {
		id := contents.At(i).ID
		if !slices.Contains([]string{"table", "partitioned table", "partition"}, string(id.Kind)) {
			continue
		}
		name := s.Engine().Quote(id.Name)
		if id.Schema != "" {
			name = s.Engine().Quote(id.Schema) + "." + name
		}
		n := 0
		if err := db.QueryRow("SELECT count(*) FROM " + map[bool]string{true: "ONLY "}[s.Name() == "postgres"] + name).Scan(&n); err != nil {
			continue // a foreign table, of a server that is not there
		}
		counts[id.Schema+"."+id.Name] = n
	}
	return counts
}

// Chains of changes, each of several of the single ones in a random order, are carried over and back, too. What does not go with the
// changes before it is left out.
func TestChangeChains(t *testing.T) {
	const usual = 10
	for _, s := range testservers.All(t) {
		if _, ok := s.Engine().(engine.Changer); !ok {
			continue
		}
		t.Run(s.Name(), func(t *testing.T) {
			base, cases := changeCases(t, filepath.Join("testdata", "changes", s.Name()+".sql"))
			for round := range testservers.Rounds(usual) {
				random := rand.New(rand.NewPCG(uint64(round), 14))
				t.Run(fmt.Sprint(round), func(t *testing.T) {
					t.Parallel()
					c := testcatalogue.New(t)
					was, now := s.Database(t, base), s.Database(t, base)
					db := s.Open(t, now)
					var done []string
					oneWay := false
					for range 2 + random.IntN(9) {
						k := cases[random.IntN(len(cases))]
						if slices.Contains(done, k.name) {
							continue
						}
						if _, err := db.Exec(k.script); err == nil {
							done = append(done, k.name)
							oneWay = oneWay || k.oneWay
						}
					}
					t.Log(strings.Join(done, "; "))
					old, fresh := read(t, c, s, "was", was), read(t, c, s, "now", now)
					carried(t, c, s, old, fresh, was, true)
					account(t, s.Account(t, now), s.Account(t, was))
					if !oneWay && !t.Failed() {
						carried(t, c, s, fresh, old, now, true)
					}
				})
			}
		})
	}
}

// A choice of what differs is carried over by itself: what it needs comes along, and what is in its way comes back as it was.
func TestChosenChanges(t *testing.T) {
	s := testservers.Postgres(t)
	const base = `CREATE TABLE berth (no int PRIMARY KEY, depth numeric(6,2), label text);
CREATE VIEW deep AS SELECT no, depth FROM berth WHERE depth > 3; CREATE VIEW named AS SELECT no, label FROM berth; INSERT INTO berth VALUES (1, 4, 'a');`
	const release = `DROP VIEW deep; ALTER TABLE berth ALTER COLUMN depth TYPE numeric(8,3); CREATE TABLE tide (no int PRIMARY KEY);
CREATE VIEW deep AS SELECT no, depth FROM berth WHERE depth > (SELECT max(no) FROM tide); DROP VIEW named; ALTER TABLE berth DROP COLUMN label; CREATE VIEW more AS SELECT no FROM tide;`
	for _, k := range []struct{ choose, brought, differs string }{
		{"berth", "view:public.named", "deep, more, tide"}, // the view that is in the way comes back as it was
		{"more", "table:public.tide", "berth, deep, named"},
		{"named", "", "berth, deep, more, tide"},
		{"deep", "table:public.berth table:public.tide view:public.named", "more"},
	} {
		t.Run(k.choose, func(t *testing.T) {
			c := testcatalogue.New(t)
			was, now := s.Database(t, base), s.Database(t, base+release)
			old, fresh := read(t, c, s, "was", was), read(t, c, s, "now", now)
			o := diff.For(s.Engine())
			all, err := diff.Compare(t.Context(), c, old.Snapshot, fresh.Snapshot, o)
			if err != nil {
				t.Fatal(err)
			}
			res, brought, err := change.Choose(t.Context(), c, old, fresh, all, func(x *diff.Object) bool { return x.ID.Name == k.choose })
			if err != nil {
				t.Fatal(err)
			}
			var names []string
			for _, id := range brought {
				names = append(names, id.Qualified())
			}
			if got := strings.Join(names, " "); got != k.brought {
				t.Errorf("%s comes along, want %s", got, k.brought)
			}
			plan, err := change.Write(t.Context(), c, s.Engine(), old, fresh, res, change.Options{WithLossy: true, Together: true})
			if err != nil {
				t.Fatal(err)
			}
			s.Run(t, was, plan.Text())
			left, err := diff.Compare(t.Context(), c, read(t, c, s, "made", was).Snapshot, fresh.Snapshot, o)
			if err != nil {
				t.Fatal(err)
			}
			names = nil
			for _, x := range left.Objects {
				names = append(names, x.ID.Name)
			}
			slices.Sort(names)
			if got := strings.Join(names, ", "); got != k.differs {
				t.Errorf("%s differ afterwards, want %s\n%s", got, k.differs, plan.Text())
			}
		})
	}
}

// A script whose statements that lose data are comments runs all the same, and nothing is lost: neither rows nor columns.
func TestSparingChanges(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			base, cases := changeCases(t, filepath.Join("testdata", "changes", s.Name()+".sql"))
			var spared atomic.Int64
			t.Cleanup(func() {
				if spared.Load() == 0 {
					t.Error("nothing loses data")
				}
			})
			for _, k := range cases {
				t.Run(k.name, func(t *testing.T) {
					t.Parallel()
					c := testcatalogue.New(t)
					was, now := s.Database(t, base), s.Database(t, base+"\n"+k.script)
					old, fresh := read(t, c, s, "was", was), read(t, c, s, "now", now)
					for i, way := range [][2]*catalogue.Contents{{old, fresh}, {fresh, old}} {
						if sparing(t, c, s, way[0], way[1], []string{was, now}[i]) {
							spared.Add(1)
						}
					}
				})
			}
		})
	}
}

// sparing runs a script without what loses data, if it has such, and looks that all rows are still there.
func sparing(t *testing.T, c *catalogue.Catalogue, s testservers.Server, old, now *catalogue.Contents, url string) bool {
	t.Helper()
	res, err := diff.Compare(t.Context(), c, old.Snapshot, now.Snapshot, diff.For(s.Engine()))
	if err != nil {
		t.Fatal(err)
	}
	plan, err := change.Write(t.Context(), c, s.Engine(), old, now, res, change.Options{Together: true})
	if err != nil {
		t.Fatal(err)
	}
	if plan.Lossy == 0 {
		return false
	}
	before := rowCounts(t, s, url, old)
	s.Run(t, url, plan.Text())
	after := rowCounts(t, s, url, read(t, c, s, fmt.Sprintf("made%d", now.Snapshot.ID), url))
	for table, n := range before {
		if after[table] != n && !slices.ContainsFunc(res.Objects, func(o diff.Object) bool { return o.Was.Name != "" && o.Was.Schema+"."+o.Was.Name == table }) {
			t.Errorf("%s had %d rows, and has %d\n%s", table, n, after[table], plan.Text())
		}
	}
	return true
}
