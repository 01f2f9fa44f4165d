package catalogue

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
)

// scanned returns all names and texts of the latest snapshots as the indexes tell them, and whether some had to be
// made from the objects.
func scanned(t testing.TB, c *Catalogue) (all []string, remade bool) {
	t.Helper()
	ctx := context.Background()
	latest, err := c.Latest(ctx)
	if err != nil {
		t.Fatal(err)
	}
	number := fileNumber(t, c)
	err = c.Scan(ctx, latest, 1, func(_ int, k *Chunk) error {
		err := k.Names.Lines(func(_ string, l index.Line) bool {
			all = append(all, fmt.Sprintf("%s|%s|%s|%s|%d", l.Object(), l.Part, l.Name, l.Type, l.Flags))
			return true
		})
		if err != nil {
			return err
		}
		x, err := k.Texts()
		if err != nil || x == nil {
			return err
		}
		items, err := x.Items()
		for _, i := range items {
			all = append(all, fmt.Sprintf("%d|%s|%s|%v|%s", i.Entry, i.Part, i.Name, i.Comment, x.Body[i.Start:i.End]))
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return all, fileNumber(t, c) != number
}

func fileNumber(t testing.TB, c *Catalogue) (n int) {
	t.Helper()
	if err := c.db.QueryRow("SELECT number FROM indexfile").Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

// only fails unless the file of indexes with that number is the only one, and returns its size.
func only(t testing.TB, dir string, number int) int64 {
	t.Helper()
	files, err := filepath.Glob(filepath.Join(dir, "index-*"))
	if err != nil || len(files) != 1 || filepath.Base(files[0]) != fmt.Sprintf("index-%d", number) {
		t.Fatalf("files of indexes: %q %v, want number %d alone", files, err, number)
	}
	st, err := os.Stat(files[0])
	if err != nil {
		t.Fatal(err)
	}
	return st.Size()
}

// described is an estate with texts.
func described(n int) *schema.Reading {
	r := estate(n)
	for i, o := range r.Objects {
		o.Comment = fmt.Sprintf("Berth %d\nof the quay", i)
		o.Relation.Columns[2].Default = "next_Tide()"
		o.Relation.Columns[2].Comment = "Ünruhe"
	}
	return r
}

// An index that is damaged or missing is made again from the objects, once.
func TestIndexIsMended(t *testing.T) {
	for name, spoil := range map[string]func(path string) error{
		"gone":    os.Remove,
		"empty":   func(path string) error { return os.Truncate(path, 0) },
		"cut off": func(path string) error { return os.Truncate(path, 20000) },
		"changed": func(path string) error {
			b, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			for i := 100; i < len(b); i += 5000 {
				b[i] ^= 0x20
			}
			return os.WriteFile(path, b, 0o600)
		},
		"other": func(path string) error { return os.WriteFile(path, slices.Repeat([]byte("tide"), 100000), 0o600) },
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			c := open(t, dir)
			save(t, c, described(700))
			want, remade := scanned(t, c)
			if names, texts := 700*9, 700*3; remade || len(want) != names+texts {
				t.Fatalf("%d names and texts, want %d; made again: %v", len(want), names+texts, remade)
			}
			c.Close()
			if err := spoil(filepath.Join(dir, "index-1")); err != nil {
				t.Fatal(err)
			}
			c = open(t, dir)
			got, remade := scanned(t, c)
			if !slices.Equal(got, want) || !remade {
				t.Errorf("%d names and texts of %d, mended: %v", len(got), len(want), remade)
			}
			only(t, dir, 2)
			if got, remade := scanned(t, open(t, dir)); !slices.Equal(got, want) || remade {
				t.Errorf("afterwards: %d names and texts of %d, mended again: %v", len(got), len(want), remade)
			}
		})
	}
}

// What was written and never committed is written over.
func TestIndexOfAbandonedWrite(t *testing.T) {
	dir := t.TempDir()
	c := open(t, dir)
	save(t, c, described(300))
	f, err := os.OpenFile(filepath.Join(dir, "index-1"), os.O_APPEND|os.O_WRONLY, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := f.WriteString(strings.Repeat("abandoned", 100)); err != nil {
		t.Fatal(err)
	}
	f.Close()
	save(t, c, described(600))
	got, remade := scanned(t, c)
	other := open(t, t.TempDir())
	save(t, other, described(600))
	if want, _ := scanned(t, other); remade || !slices.Equal(got, want) {
		t.Errorf("%d names and texts, want %d; made again: %v", len(got), len(want), remade)
	}
}

// The file of indexes does not grow with the history: it holds what the latest snapshots need and as much again.
func TestIndexesOfOldSnapshots(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	c := open(t, dir)
	random := rand.New(rand.NewPCG(1, 2))
	const size = 5 << 20
	version := func(n int) *schema.Reading {
		var b strings.Builder
		fmt.Fprintf(&b, "version %d\n", n)
		for b.Len() < size {
			fmt.Fprintf(&b, "tide %d\n", random.Uint64())
		}
		r := described(3)
		r.Objects = append(r.Objects, &schema.Object{Kind: schema.KindFunction, Name: "f", Routine: &schema.Routine{Definition: b.String()}})
		return r
	}
	var all []*Snapshot
	for n := range 6 {
		s, _ := save(t, c, version(n))
		all = append(all, s)
	}
	if got := only(t, dir, fileNumber(t, c)); got > idleSize+size+size/10 {
		t.Errorf("six versions of %d bytes take %d", size, got)
	}
	says := func(want string) {
		t.Helper()
		got, remade := scanned(t, c)
		if remade || !slices.ContainsFunc(got, func(s string) bool { return strings.Contains(s, want+"\n") }) {
			t.Errorf("no text says %q; made again: %v", want, remade)
		}
	}
	says("version 5")
	// An old snapshot has no index any more, and still can be read.
	found := false
	err := c.Scan(ctx, all[:1], 1, func(_ int, k *Chunk) error {
		x, err := k.Texts()
		found = found || x != nil && strings.Contains(x.Body, "version 0\n")
		return err
	})
	if err != nil || !found {
		t.Errorf("the oldest version was found: %v, %v", found, err)
	}
	number := fileNumber(t, c)
	if err := c.Drop(ctx, all[2:]); err != nil {
		t.Fatal(err)
	}
	says("version 1")
	if got := only(t, dir, number+1); got > size+size/10 {
		t.Errorf("one version takes %d bytes", got)
	}
	// What comes back is indexed again.
	old, err := c.Contents(ctx, all[0])
	if err != nil {
		t.Fatal(err)
	}
	var entries []*Entry
	for i := range old.All() {
		entries = append(entries, old.At(i))
	}
	r := described(3)
	if r.Objects, err = c.Objects(ctx, entries); err != nil {
		t.Fatal(err)
	}
	if s, _ := save(t, c, r); s.Root != all[0].Root {
		t.Error("the same content has another root")
	}
	says("version 0")
}

// Snapshots that are dropped while others are stored take nothing away that these need.
func TestSaveBesideDrop(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	c, other := open(t, dir), open(t, dir)
	first, _ := save(t, c, described(400))

	// Between looking what is stored and storing.
	r := described(401)
	r.Sort()
	w := &saver{c: c, objects: r.Objects}
	w.encode()
	if _, err := w.reuse(ctx, nil); err != nil {
		t.Fatal(err)
	}
	if err := other.Drop(ctx, []*Snapshot{first}); err != nil {
		t.Fatal(err)
	}
	if err := w.fillPacks(); err != nil {
		t.Fatal(err)
	}
	if err := w.write(ctx, &Snapshot{}, nil, nil); !errors.Is(err, errDropped) {
		t.Errorf("contents that were dropped meanwhile: %v", err)
	}

	var wait sync.WaitGroup
	for i := range 4 {
		wait.Add(2)
		go func() {
			defer wait.Done()
			for n := range 5 {
				if _, _, err := c.Save(ctx, Origin{Server: fmt.Sprint("quay-", i)}, described(300+n)); err != nil {
					t.Error(err)
				}
			}
		}()
		go func() {
			defer wait.Done()
			for range 5 {
				all, err := other.Of(ctx, fmt.Sprint("quay-", i), "berths")
				if err == nil && len(all) > 1 {
					err = other.Drop(ctx, all[1:])
				}
				if err != nil {
					t.Error(err)
				}
			}
		}()
	}
	wait.Wait()
	got, _ := scanned(t, c)
	if got2, remade := scanned(t, open(t, dir)); remade || !slices.Equal(got, got2) {
		t.Errorf("%d and %d names, made again: %v", len(got), len(got2), remade)
	}
	latest, err := c.Latest(ctx)
	if err != nil || len(latest) != 4 {
		t.Fatalf("%d latest snapshots, %v", len(latest), err)
	}
	for _, s := range latest {
		contents, err := c.Contents(ctx, s)
		if err != nil {
			t.Fatal(err)
		}
		for i := range contents.All() {
			if _, err := c.Object(ctx, contents.At(i)); err != nil {
				t.Fatal(err)
			}
		}
	}
}
