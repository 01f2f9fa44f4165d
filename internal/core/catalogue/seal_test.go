package catalogue

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
)

// everything returns all that a catalogue answers, as text.
func everything(ctx context.Context, dir string) (text string, err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("panic: %v\n%s", r, debug.Stack())
		}
	}()
	c, err := Open(ctx, dir)
	if err != nil {
		return "", err
	}
	defer c.Close()
	var b strings.Builder
	all, err := c.Snapshots(ctx)
	if err != nil {
		return "", err
	}
	latest, err := c.Latest(ctx)
	if err != nil {
		return "", err
	}
	for _, s := range append(latest, all...) {
		fmt.Fprintf(&b, "%+v\n", *s)
		of, err := c.Of(ctx, s.Server, s.Database)
		if err != nil {
			return "", err
		}
		fmt.Fprintln(&b, len(of))
		contents, err := c.Contents(ctx, s)
		if err != nil {
			return "", err
		}
		entries := make([]*Entry, contents.Len())
		for i := range contents.All() {
			entries[i] = contents.At(i)
			e := *contents.At(i)
			e.at = place{} // content that is stored again lies elsewhere
			fmt.Fprintf(&b, "%+v\n", e)
		}
		objects, err := c.Objects(ctx, entries)
		if err != nil {
			return "", err
		}
		for _, o := range objects {
			fmt.Fprintf(&b, "%q\n", schema.AppendObject(nil, o))
		}
		graph, err := c.Needs(ctx, contents)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&b, "%+v %+v %+v\n", graph.Ends, graph.Edges, graph.Outside)
		for i := range graph.Edges {
			e := &graph.Edges[i]
			fmt.Fprintf(&b, "%+v\n", graph.Dependency(contents, e))
		}
		sizes, size, err := c.Sizes(ctx, contents)
		if err != nil {
			return "", err
		}
		fmt.Fprintln(&b, sizes, size)
		err = c.Names(ctx, contents, func(k *Chunk) error {
			fmt.Fprintln(&b, k.Schema(), k.Kind())
			return k.Names.Lines(func(line string, l index.Line) bool {
				fmt.Fprintf(&b, "%s|%s|%s|%s|%s|%d\n", line, l.Object(), l.Part, l.Name, l.Type, l.Flags)
				return true
			})
		})
		if err != nil {
			return "", err
		}
	}
	err = c.Scan(ctx, all, 1, func(_ int, k *Chunk) error {
		texts, err := k.Texts()
		if err != nil || texts == nil {
			return err
		}
		items, err := texts.Items()
		fmt.Fprintf(&b, "%s %+v\n", texts.Body, items)
		return err
	})
	if err != nil {
		return "", err
	}
	failures, err := c.Failures(ctx)
	fmt.Fprintf(&b, "%+v\n", failures)
	return b.String(), err
}

// history fills a catalogue with a little of all that it holds.
func history(t *testing.T, dir string) {
	t.Helper()
	ctx := context.Background()
	c, err := Open(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	save(t, c, described(10))
	s, _ := save(t, c, described(12))
	if _, err := c.SetLabel(ctx, s, "before the storm"); err != nil {
		t.Fatal(err)
	}
	for i := range 5 {
		r := described(2 + i)
		r.Database = fmt.Sprint("pilots", i)
		save(t, c, r)
	}
	for _, reason := range []string{"the tide was low", "the door was shut"} {
		if err := c.NoteFailure(ctx, Failure{Server: "quay", Database: reason, At: time.Unix(1, 0), Reason: reason}); err != nil {
			t.Fatal(err)
		}
	}
	if err := c.Close(); err != nil {
		t.Fatal(err)
	}
}

// A flipped byte anywhere is noticed, or changes no answer.
func TestFlippedBytes(t *testing.T) {
	t.Parallel()
	rounds := 250
	if n, err := strconv.Atoi(os.Getenv("ECHO_ATLAS_ROUNDS")); err == nil {
		rounds = n
	}
	ctx := context.Background()
	dir := t.TempDir()
	history(t, dir)
	want, err := everything(ctx, dir)
	if err != nil || len(want) < 10000 {
		t.Fatalf("%d bytes of answers: %v", len(want), err)
	}
	files, err := filepath.Glob(filepath.Join(dir, "*"))
	if err != nil || len(files) != 2 {
		t.Fatalf("files %q, %v", files, err)
	}
	contents := map[string][]byte{}
	for _, f := range files {
		if contents[f], err = os.ReadFile(f); err != nil {
			t.Fatal(err)
		}
	}
	random := rand.New(rand.NewPCG(5, 8))
	noticed, other := map[string]int{}, map[string]int{}
	for round := range rounds * len(files) {
		spoilt := t.TempDir()
		name := files[round%len(files)]
		at := random.IntN(len(contents[name]))
		if round%8 > 1 { // most of the bytes of a small file are free
			for contents[name][at] == 0 {
				at = random.IntN(len(contents[name]))
			}
		}
		flip := byte(1 + random.IntN(255))
		for f, body := range contents {
			copied := append([]byte(nil), body...)
			if f == name {
				copied[at] ^= flip
			}
			writeFile(t, filepath.Join(spoilt, filepath.Base(f)), copied)
		}
		got, err := everything(ctx, spoilt)
		base := filepath.Base(name)
		switch {
		case errors.Is(err, ErrDamaged):
			noticed[base]++
		case err != nil && strings.HasPrefix(err.Error(), "panic"):
			t.Errorf("%s, byte %d ^ %#x: %v", base, at, flip, err)
		case err != nil:
			other[err.Error()]++
		case got != want:
			t.Errorf("%s, byte %d ^ %#x: another answer, and no word of it", base, at, flip)
			for i, line := range strings.Split(got, "\n") {
				if w := strings.Split(want, "\n"); i >= len(w) || w[i] != line {
					t.Logf("%q instead of %q", line[:min(len(line), 300)], w[min(i, len(w)-1)][:min(300, len(w[min(i, len(w)-1)]))])
					break
				}
			}
		}
		os.RemoveAll(spoilt)
	}
	t.Logf("noticed %v of %d each", noticed, rounds)
	if len(other) > 0 {
		t.Errorf("damage with other errors: %v", other)
	}
	if noticed["catalogue.db"] < rounds/4 {
		t.Errorf("only %d flipped bytes of the database were noticed", noticed["catalogue.db"])
	}
}

// layoutFour turns a file back into what the layout before held.
const layoutFour = `
CREATE TABLE four (id INTEGER PRIMARY KEY, server TEXT NOT NULL, database TEXT NOT NULL, engine TEXT NOT NULL, version TEXT NOT NULL, user TEXT NOT NULL,
  environment TEXT NOT NULL, family TEXT NOT NULL, label TEXT NOT NULL, taken INTEGER NOT NULL, model INTEGER NOT NULL,
  root BLOB NOT NULL, needs BLOB NOT NULL, measures BLOB NOT NULL, counts TEXT NOT NULL, remarks TEXT NOT NULL, path TEXT NOT NULL, places BLOB NOT NULL);
INSERT INTO four SELECT id, server, database, engine, version, user, environment, family, label, taken, model, root, needs, measures, counts, remarks, path, substr(places, 1, length(places) - 4) FROM snapshot;
DROP TABLE snapshot;
ALTER TABLE four RENAME TO snapshot;
CREATE INDEX snapshot_of ON snapshot (server, database, id);
UPDATE chunk SET entries = substr(entries, 1, length(entries) - 4), places = substr(places, 1, length(places) - 4);
UPDATE pack SET holds = substr(holds, 1, length(holds) - 4);
CREATE TABLE old (server TEXT NOT NULL, database TEXT NOT NULL, at INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (server, database));
INSERT INTO old SELECT server, database, at, reason FROM failure;
DROP TABLE failure;
ALTER TABLE old RENAME TO failure;
DROP TABLE tally;
PRAGMA user_version = 4;`

// A catalogue of the layouts before is brought to this one and answers as it did.
func TestUpgrade(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	history(t, dir)
	want, err := everything(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	for _, more := range []string{"", "DROP TABLE failure; PRAGMA user_version = 3;"} {
		c := open(t, dir)
		if _, err := c.db.Exec(layoutFour + more); err != nil {
			t.Fatal(err)
		}
		c.Close()
		if more != "" {
			want = strings.Replace(want, want[strings.LastIndex(want, "[{Server:quay"):], "[]\n", 1)
		}
		if got, err := everything(ctx, dir); err != nil || got != want {
			t.Errorf("%q: other answers, %v", more, err)
		}
		if more == "" { // what comes afterwards shares with what was there
			c := open(t, dir)
			packs := count(t, c, "pack")
			r := described(12)
			save(t, c, r)
			if n := count(t, c, "pack"); n != packs {
				t.Errorf("an unchanged reading made %d packs", n-packs)
			}
			c.Close()
			if want, err = everything(ctx, dir); err != nil {
				t.Fatal(err)
			}
		}
	}
}

func writeFile(t *testing.T, path string, text []byte) {
	t.Helper()
	if err := os.WriteFile(path, text, 0o600); err != nil {
		t.Fatal(err)
	}
}
