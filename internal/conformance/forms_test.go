package conformance

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/format"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// eachSchema calls f with every test database of every engine, and with those of real programs where they are given.
func eachSchema(t *testing.T, f func(t *testing.T, s testservers.Server, script string)) {
	for _, s := range testservers.All(t) {
		files, err := scriptsOf(s, "testdata")
		if err != nil || len(files) == 0 {
			t.Fatal(err)
		}
		if dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS"); dir != "" {
			more, _ := scriptsOf(s, dir)
			files = append(files, more...)
		}
		for _, file := range files {
			t.Run(s.Name()+"/"+strings.TrimSuffix(filepath.Base(file), ".sql"), func(t *testing.T) {
				script, err := os.ReadFile(file)
				if err != nil {
					t.Fatal(err)
				}
				f(t, s, string(script))
			})
		}
	}
}

// A script that makes what is not there, one that makes all anew, and one in pieces make the same, also where they run twice.
func TestForms(t *testing.T) {
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		before := read(t, c, s, "before", url)
		account := s.Account(t, url)
		s.Drop(t, url)
		for name, o := range map[string]ddl.Options{"absent": {IfAbsent: true, Together: true}, "anew": {Recreate: true, Together: true}, "pieces": {Together: true}} {
			t.Run(name, func(t *testing.T) {
				written, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), o)
				if err != nil {
					t.Fatal(err)
				}
				text := written.Text()
				if name == "pieces" {
					text = ""
					for _, f := range written.Files() {
						text += f.Script.Text() + "\n"
					}
				}
				copied := s.Database(t, text)
				defer s.Drop(t, copied)
				if name != "pieces" {
					s.Run(t, copied, text)
				}
				compare(t, c, before, read(t, c, s, "after "+name, copied))
				compareAccounts(t, s, account, copied, notKept(t, s, script)...)
			})
		}
	})
}

// Whatever is chosen, with what it needs it runs on an empty database. ECHO_ATLAS_SELECTIONS says how many are tried for each.
func TestRandomSelections(t *testing.T) {
	tries, _ := strconv.Atoi(os.Getenv("ECHO_ATLAS_SELECTIONS"))
	tries = max(tries, 5)
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		contents := read(t, c, s, "all", url)
		s.Drop(t, url)
		r := rand.New(rand.NewPCG(7, uint64(len(script))))
		for n := range tries {
			var chosen []*catalogue.Entry
			for range 1 + r.IntN(4) {
				chosen = append(chosen, contents.At(r.IntN(contents.Len())))
			}
			written, err := ddl.Write(context.Background(), c, s.Engine(), contents, unique(chosen), ddl.Options{WithNeeds: true, Together: true})
			if err != nil {
				t.Fatal(err)
			}
			t.Run(strconv.Itoa(n), func(t *testing.T) {
				defer func() {
					if t.Failed() {
						t.Log(written.Text())
					}
				}()
				copied := s.Database(t, written.Text())
				there := read(t, testcatalogue.New(t), s, "copy", copied)
				drop, err := ddl.Write(context.Background(), c, s.Engine(), contents, append(unique(chosen), written.Added...), ddl.Options{Drop: true, Together: true})
				if err != nil {
					t.Fatal(err)
				}
				s.Run(t, copied, drop.Text())
				for _, e := range read(t, testcatalogue.New(t), s, "empty", copied).All() {
					if e.ID.Name != "public" {
						t.Errorf("the script that drops it leaves %s\n%s", e.ID.Qualified(), drop.Text())
					}
				}
				s.Drop(t, copied)
				for _, e := range chosen {
					if there.Find(e.ID) == nil {
						t.Errorf("%s is not there afterwards", e.ID.Qualified())
					}
				}
			})
		}
	})
}

func unique(all []*catalogue.Entry) []*catalogue.Entry {
	seen := map[*catalogue.Entry]bool{}
	var out []*catalogue.Entry
	for _, e := range all {
		if !seen[e] {
			seen[e] = true
			out = append(out, e)
		}
	}
	return out
}

// A script that was laid out makes what it made before, by the servers' own account: of statements as the server takes them, that
// is, where texts are not kept as they were written.
func TestLaidOut(t *testing.T) {
	styles := []format.Style{format.Usual, {Keywords: "lower", Indent: 2, Width: 30, CommasBefore: true, Needed: true}}
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		before := read(t, c, s, "before", url)
		account := s.Account(t, url)
		s.Drop(t, url)
		for i, style := range styles {
			written, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{Style: &style})
			if err != nil {
				t.Fatal(err)
			}
			copied := s.Database(t, written.Text())
			if s.Name() != "sqlite" { // keeps the text of every statement
				compare(t, c, before, read(t, c, s, "after "+strconv.Itoa(i), copied))
				compareAccounts(t, s, account, copied, notKept(t, s, script)...)
			}
			s.Drop(t, copied)
		}
	})
}

// What is left out of a script is all that a comparison without it would find.
func TestWithoutAspects(t *testing.T) {
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		before := read(t, c, s, "before", url)
		s.Drop(t, url)
		for _, without := range [][]schema.Aspect{{schema.Storage}, schema.Aspects()} {
			written, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{Without: without})
			if err != nil {
				t.Fatal(err)
			}
			copied := s.Database(t, written.Text())
			after := read(t, c, s, fmt.Sprint("after ", len(without)), copied)
			s.Drop(t, copied)
			res, err := diff.Compare(context.Background(), c, before.Snapshot, after.Snapshot, diff.Options{Without: without, Exact: true, Order: true, Rules: s.Engine().Traits().Rules})
			if err != nil {
				t.Fatal(err)
			}
			for _, x := range res.Objects {
				if s.Name() == "sqlite" && len(x.Properties) == 0 {
					continue
				}
				for _, p := range x.Properties {
					if kin(s) == "mariadb" && p.Path == "index/method" { // follows from the engine of the table
						continue
					}
					t.Errorf("without %v: %s %s differs in %s", without, x.Change, x.ID.Qualified(), p.Path)
				}
			}
		}
	})
}
