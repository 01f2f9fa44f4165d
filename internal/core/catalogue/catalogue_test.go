package catalogue

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
)

// estate returns a reading of n tables of some columns, each but the first with a foreign key.
func estate(n int) *schema.Reading {
	r := &schema.Reading{Engine: "sqlite", Version: "1", Database: "berths", Taken: time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC)}
	for i := range n {
		rel := &schema.Relation{Keys: []schema.Key{{Primary: true, Columns: []schema.KeyPart{{Column: "id"}}}}}
		for c := range 6 {
			rel.Columns = append(rel.Columns, schema.Column{Name: fmt.Sprintf("col_%d", c), Type: "TEXT"})
		}
		rel.Columns = append(rel.Columns, schema.Column{Name: "id", Type: "INTEGER", NotNull: true}, schema.Column{Name: "Parent\nId"})
		if i > 0 {
			rel.ForeignKeys = []schema.ForeignKey{{Columns: []string{"Parent\nId"}, RefTable: fmt.Sprintf("t%05d", i-1), RefColumns: []string{"id"}}}
		}
		o := &schema.Object{Kind: schema.KindTable, Name: fmt.Sprintf("t%05d", i), Relation: rel}
		r.Objects = append(r.Objects, o)
		r.Measures = append(r.Measures, schema.Measure{ID: o.ID(), Rows: int64(i), Bytes: -1})
	}
	return r
}

func open(t testing.TB, dir string) *Catalogue {
	t.Helper()
	c, err := Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	return c
}

func save(t testing.TB, c *Catalogue, r *schema.Reading) (*Snapshot, *Changes) {
	t.Helper()
	s, changes, err := c.Save(context.Background(), Origin{Server: "quay", Environment: "dev"}, r)
	if err != nil {
		t.Fatal(err)
	}
	return s, changes
}

func count(t testing.TB, c *Catalogue, table string) (n int) {
	t.Helper()
	if err := c.db.QueryRow("SELECT count(*) FROM " + table).Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

func TestSaveAndLoad(t *testing.T) {
	ctx := context.Background()
	c := open(t, t.TempDir())
	empty, _ := save(t, c, estate(0))
	if contents, err := c.Contents(ctx, empty); err != nil || contents.Len() > 0 {
		t.Errorf("an empty database: %v, %v", contents, err)
	}
	if _, err := c.db.Exec("DELETE FROM snapshot"); err != nil {
		t.Fatal(err)
	}
	r := estate(1000)
	s, changes := save(t, c, r)
	if changes != nil {
		t.Errorf("the first snapshot has changes %+v", changes)
	}
	contents, err := c.Contents(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	var entries []*Entry
	for i := range contents.All() {
		entries = append(entries, contents.At(i))
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(objects, r.Objects) {
		t.Error("what was loaded is not what was saved")
	}
	sizes, _, err := c.Sizes(ctx, contents)
	if err != nil || sizes[7] != (Size{7, -1}) {
		t.Errorf("sizes[7] = %+v, %v", sizes[7], err)
	}
	g, err := c.Needs(ctx, contents)
	if err != nil || len(g.Edges) != 999 {
		t.Fatalf("%d dependencies, %v", len(g.Edges), err)
	}
	e := g.Edges[0]
	if from, to := g.Ends[e.From], g.Ends[e.To]; from != (End{1, "Parent\nId", schema.KindColumn}) || to != (End{0, "id", schema.KindColumn}) || g.Evidence(&e) != schema.Recorded {
		t.Errorf("first dependency %+v from %+v to %+v", e, from, to)
	}
	lines := 0
	err = c.Names(ctx, contents, func(k *Chunk) error {
		if entries, err := k.Entries(); err != nil || len(entries) == 0 {
			t.Errorf("%d entries, %v", len(entries), err)
		}
		return k.Names.Lines(func(folded string, l index.Line) bool {
			lines++
			if l.Name == "Parent\nId" && (folded != "parent\x01id" || l.Part != schema.KindColumn) {
				t.Errorf("line %q for %+v", folded, l)
			}
			return true
		})
	})
	if err != nil || lines != 1000*9 {
		t.Errorf("%d names, %v", lines, err)
	}
}

// A changed object costs a chunk and a pack, an unchanged reading nothing but its row.
func TestSharing(t *testing.T) {
	c := open(t, t.TempDir())
	first, _ := save(t, c, estate(1000))
	chunks, packs := count(t, c, "chunk"), count(t, c, "pack")
	same, changes := save(t, c, estate(1000))
	if *changes != (Changes{}) || same.Root != first.Root || count(t, c, "chunk") != chunks || count(t, c, "pack") != packs {
		t.Errorf("an unchanged reading: %+v, %d chunks and %d packs more", changes, count(t, c, "chunk")-chunks, count(t, c, "pack")-packs)
	}
	r := estate(1001)
	r.Objects[500].Comment = "dredged in spring"
	r.Objects = append(r.Objects[:20], r.Objects[21:]...)
	s, changes := save(t, c, r)
	if *changes != (Changes{Added: 1, Removed: 1, Changed: 1}) {
		t.Errorf("changes %+v", changes)
	}
	if n := count(t, c, "chunk") - chunks; n < 1 || n > 3 {
		t.Errorf("three changes made %d chunks", n)
	}
	before, after, shared, err := c.Pair(context.Background(), first, s)
	if err != nil || shared+after.Len() != 1000 || before.Len() == 1000 {
		t.Errorf("pair: %d shared, %d and %d left, %v", shared, before.Len(), after.Len(), err)
	}
}

func TestDamageIsRecognised(t *testing.T) {
	ctx := context.Background()
	run := func(script string) func(string) error {
		return func(path string) error {
			db, err := sql.Open("sqlite", path)
			if err != nil {
				return err
			}
			defer db.Close()
			_, err = db.Exec(script)
			return err
		}
	}
	for name, spoil := range map[string]func(path string) error{
		"other file": func(path string) error {
			return os.WriteFile(path, []byte(strings.Repeat("no database ", 1000)), 0o600)
		},
		"cut off": func(path string) error { return os.Truncate(path, 16384) },
		"pack":    run("UPDATE pack SET body = x'28b52ffd'"),
		"chunk":   run("UPDATE chunk SET entries = substr(entries, 1, 40)"),
		"node":    run("UPDATE node SET body = x'00'"),
		"gone":    run("DELETE FROM pack"),
		"other":   run("DROP TABLE chunk"),
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			c, err := Open(ctx, dir)
			if err != nil {
				t.Fatal(err)
			}
			save(t, c, estate(300))
			c.Close()
			if err := spoil(filepath.Join(dir, "catalogue.db")); err != nil {
				t.Fatal(err)
			}
			err = func() error {
				c, err := Open(ctx, dir)
				if err != nil {
					return err
				}
				defer c.Close()
				latest, err := c.Latest(ctx)
				if err != nil {
					return err
				}
				contents, err := c.Contents(ctx, latest[0])
				if err != nil {
					return err
				}
				_, err = c.Object(ctx, contents.At(3))
				return err
			}()
			if !errors.Is(err, ErrDamaged) {
				t.Errorf("the damage was not recognised: %v", err)
			}
		})
	}
}

func TestLockedAndReadable(t *testing.T) {
	dir := t.TempDir()
	c := open(t, dir)
	save(t, c, estate(3))
	for _, name := range []string{"", "catalogue.db"} {
		st, err := os.Stat(filepath.Join(dir, name))
		if err != nil || st.Mode().Perm()&0o077 != 0 && name != "" {
			t.Errorf("%s: others may read it (%v, %v)", name, st.Mode(), err)
		}
	}
	tx, err := c.db.Begin() // immediate: holds the write lock
	if err != nil {
		t.Fatal(err)
	}
	defer tx.Rollback()
	other := open(t, dir)
	if _, err := other.Latest(context.Background()); err != nil {
		t.Errorf("reading beside a writer: %v", err)
	}
	if _, err := other.db.Exec("PRAGMA busy_timeout = 10"); err != nil {
		t.Fatal(err)
	}
	other.db.SetMaxOpenConns(1)
	_, err = other.db.Exec("PRAGMA busy_timeout = 10; DELETE FROM node WHERE 0")
	if err := other.explain("writing to", err); !errors.Is(err, ErrLocked) {
		t.Errorf("a locked catalogue: %v", err)
	}
}

func TestAt(t *testing.T) {
	ctx := context.Background()
	c := open(t, t.TempDir())
	day := func(d int, n int, label string) *Snapshot {
		r := estate(n)
		r.Taken = time.Date(2026, 3, d, 12, 0, 0, 0, time.UTC)
		s, _, err := c.Save(ctx, Origin{Server: "quay", Label: label}, r)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	first, _, third, fourth := day(1, 5, ""), day(2, 5, ""), day(3, 6, "release 4"), day(4, 7, "")
	now := time.Date(2026, 3, 4, 18, 0, 0, 0, time.UTC)
	for when, want := range map[string]int64{"0": fourth.ID, "1": third.ID, "2": first.ID + 1, "release 4": third.ID, "2026-03-01": first.ID, "yesterday": third.ID,
		"2026-03-03T11:00": first.ID + 1, "today": fourth.ID} {
		s, err := c.At(ctx, "quay", "berths", when, now)
		if err != nil || s.ID != want {
			t.Errorf("@%s: %v, %v; want snapshot %d", when, s, err, want)
		}
	}
	for _, when := range []string{"3", "2026-02-28", "soon"} {
		var e *WhenError
		if _, err := c.At(ctx, "quay", "berths", when, now); !errors.As(err, &e) {
			t.Errorf("@%s: %v", when, err)
		}
	}
}

func TestCountIndexes(t *testing.T) {
	index := func(schemaName, on string) Entry {
		return Entry{ID: schema.ID{Kind: schema.KindIndex, Schema: schemaName, Name: "ix"}, Summary: Summary{On: on}}
	}
	relation := func(schemaName, name string) *Entry {
		return &Entry{ID: schema.ID{Kind: schema.KindTable, Schema: schemaName, Name: name}}
	}
	contents := NewContents(nil, []Entry{index("port", "berth"), index("port", "berth"), index("yard", "berth"), index("port", "tide"), *relation("port", "berth")})
	routine := &Entry{ID: schema.ID{Kind: schema.KindFunction, Schema: "port", Name: "tide"}} // of the name of a table
	got := contents.CountIndexes([]*Entry{relation("port", "berth"), routine, relation("yard", "berth"), relation("yard", "tide")})
	if want := []int{2, 0, 1, 0}; !reflect.DeepEqual(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}

// What a later version of the model has more fields for did not change with the program.
func TestAnotherModel(t *testing.T) {
	ctx := context.Background()
	c := open(t, t.TempDir())
	reading := func(model int, fee string, parameters ...schema.Parameter) *schema.Reading {
		r := estate(3)
		r.Model = model
		for _, name := range []string{"fee", "toll"} {
			r.Objects = append(r.Objects, &schema.Object{Kind: schema.KindFunction, Name: name, Routine: &schema.Routine{Definition: map[string]string{"fee": fee, "toll": "SELECT 1"}[name], Parameters: parameters}})
		}
		return r
	}
	save(t, c, reading(3, "SELECT 1"))
	s, changes := save(t, c, reading(0, "SELECT 2", schema.Parameter{Name: "a", Type: "int"}))
	if *changes != (Changes{Changed: 1}) || s.Model != schema.ModelVersion {
		t.Errorf("%+v of model %d", changes, s.Model)
	}
	contents, err := c.Contents(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	if o, err := c.Object(ctx, contents.Find(schema.ID{Kind: schema.KindFunction, Name: "toll"})); err != nil || len(o.Routine.Parameters) != 1 {
		t.Errorf("%+v, %v", o, err)
	}
	if s, _ := save(t, c, reading(3, "SELECT 2")); s.Model != 3 {
		t.Errorf("the model became %d", s.Model)
	}
}
