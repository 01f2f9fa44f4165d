package benchmarks

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

var (
	nameWords = strings.Fields("berth pilot mooring vessel tide gauge beacon lamp tariff invoice sailing route harbour quay crew roster cargo ramp buoy anchor signal keeper dredge channel ferry ticket ledger permit survey swell")
	nameTypes = []string{"integer", "text", "numeric(8,2)", "timestamp with time zone", "date", "boolean"}
)

// catalogued makes a catalogue of the databases of 20 servers, and a flat file of what fill writes beside.
func catalogued(b *testing.B, fill func(server int, random *rand.Rand, flat *bufio.Writer) []*schema.Object) (home, flat string) {
	b.Helper()
	home, flat = b.TempDir(), filepath.Join(b.TempDir(), "flat")
	ctx := context.Background()
	c, err := catalogue.Open(ctx, home)
	if err != nil {
		b.Fatal(err)
	}
	defer c.Close()
	file, err := os.Create(flat)
	if err != nil {
		b.Fatal(err)
	}
	defer file.Close()
	lines := bufio.NewWriter(file)
	random := rand.New(rand.NewPCG(1, 2))
	for server := range 20 {
		r := &schema.Reading{Engine: "postgres", Database: "line", Taken: time.Unix(1e9, 0), Objects: fill(server, random, lines)}
		if _, _, err := c.Save(ctx, catalogue.Origin{Server: fmt.Sprintf("server-%d", server), Environment: "live"}, r); err != nil {
			b.Fatal(err)
		}
	}
	if err := lines.Flush(); err != nil {
		b.Fatal(err)
	}
	return home, flat
}

func oneOf[T any](list []T, random *rand.Rand) T { return list[random.IntN(len(list))] }

// million makes 1,000,000 columns in 50,000 tables; the flat file holds their names, one a line. 10 columns hold
// xebec, 1,000 yawl and 50,000 zodiac. Size is that of all names and types in bytes.
func million(b *testing.B) (home, flat string, size int64) {
	n := 0
	home, flat = catalogued(b, func(server int, random *rand.Rand, flat *bufio.Writer) (all []*schema.Object) {
		word := func() string { return oneOf(nameWords, random) }
		for table := range 2500 {
			o := &schema.Object{Kind: schema.KindTable, Schema: "public", Name: fmt.Sprintf("%s_%s_%d", word(), word(), table), Relation: &schema.Relation{}}
			fmt.Fprintln(flat, o.Name)
			for i := range 20 {
				n++
				col := schema.Column{Name: fmt.Sprintf("%s_%s_%d", word(), word(), i), Type: oneOf(nameTypes, random)}
				switch {
				case n%100000 == 3:
					col.Name = "xebec_" + col.Name
				case n%1000 == 5:
					col.Name = "the_yawl_" + col.Name
				case n%20 == 7:
					col.Name = "a_Zodiac_" + col.Name
				}
				o.Relation.Columns = append(o.Relation.Columns, col)
				fmt.Fprintln(flat, col.Name)
				size += int64(len(col.Type))
			}
			all = append(all, o)
		}
		return all
	})
	return home, flat, size + sizeOf(b, flat)
}

// definitions makes 100 MB of routines, in 40,000 of them; the flat file holds the same texts. 10 lines hold
// xebec, 1,000 yawl and 50,000 Zodiac.
func definitions(b *testing.B) (home, flat string) {
	n := 0
	return catalogued(b, func(server int, random *rand.Rand, flat *bufio.Writer) (all []*schema.Object) {
		word := func() string { return oneOf(nameWords, random) }
		for routine := range 2000 {
			var text strings.Builder
			name := fmt.Sprintf("%s_%s_%d", word(), word(), routine)
			fmt.Fprintf(&text, "CREATE FUNCTION public.%s() RETURNS void\nLANGUAGE plpgsql AS $$\nBEGIN\n", name)
			for text.Len() < 2500 {
				n++
				special := word()
				switch {
				case n%70000 == 3:
					special = "xebec"
				case n%700 == 5:
					special = "yawl"
				case n%14 == 7:
					special = "Zodiac"
				}
				fmt.Fprintf(&text, "  UPDATE %s_%d SET %s_%s = %d WHERE %s_id = (SELECT max(%s) FROM %s_%s); -- %s\n",
					word(), random.IntN(1000), word(), word(), random.IntN(100000), word(), special, word(), word(), word())
			}
			text.WriteString("END\n$$")
			all = append(all, &schema.Object{Kind: schema.KindFunction, Schema: "public", Name: name, Definition: text.String()})
			fmt.Fprintln(flat, text.String())
		}
		return all
	})
}

// search is a question to find, and the same one to grep and rg.
type search struct {
	name    string
	args    []string
	outside []string
}

// BenchmarkFind searches a million names.
func BenchmarkFind(b *testing.B) {
	home, flat, size := million(b)
	compare(b, home, flat, size, []search{
		{"10", []string{"xebec"}, []string{"xebec"}},
		{"1000", []string{"yawl"}, []string{"yawl"}},
		{"50000", []string{"zodiac"}, []string{"zodiac"}},
		{"none", []string{"zzzz"}, []string{"zzzz"}},
		{"letters", []string{"bu"}, []string{"bu"}},
		{"regex", []string{"--regex", "ya[vw]l.*_1[0-9]$"}, []string{"-E", "ya[vw]l.*_1[0-9]$"}},
		{"type", []string{"yawl", "--type", "num*"}, []string{"yawl"}},
	})
}

// BenchmarkFindText searches 100 MB of definitions.
func BenchmarkFindText(b *testing.B) {
	home, flat := definitions(b)
	compare(b, home, flat, sizeOf(b, flat), []search{
		{"10", []string{"xebec", "--text"}, []string{"xebec"}},
		{"1000", []string{"yawl", "--text"}, []string{"yawl"}},
		{"50000", []string{"zodiac", "--text"}, []string{"zodiac"}},
		{"none", []string{"zzzz", "--text"}, []string{"zzzz"}},
		{"letters", []string{"bu", "--text"}, []string{"bu"}},
		{"regex", []string{"--regex", "max\\(ya[vw]l\\).*gauge_", "--text"}, []string{"-E", "max\\(ya[vw]l\\).*gauge_"}},
	})
}

func sizeOf(b *testing.B, path string) int64 {
	b.Helper()
	st, err := os.Stat(path)
	if err != nil {
		b.Fatal(err)
	}
	return st.Size()
}

// compare runs searches beside grep and, where it is there, rg on a flat file of the same texts. It also tells how
// much the index takes in proportion to what it holds, size bytes.
func compare(b *testing.B, home, flat string, size int64, all []search) {
	b.Helper()
	paths, err := filepath.Glob(filepath.Join(home, "index-*"))
	if err != nil || len(paths) != 1 {
		b.Fatalf("files of indexes: %v %v", paths, err)
	}
	index := float64(sizeOf(b, paths[0])) / float64(size)
	for _, search := range all {
		b.Run(search.name, func(b *testing.B) {
			for b.Loop() {
				ours := median(9, func() measured {
					return run(b, program(b), append([]string{"--home", home, "find"}, search.args...), 1)
				})
				grep := median(9, func() measured {
					return run(b, "grep", append(append([]string{"-i", "-c"}, search.outside...), flat), 1)
				})
				reportRatio(b, ours, grep, "grep")
				b.ReportMetric(index, "index-ratio")
				if _, err := exec.LookPath("rg"); err == nil {
					pattern := search.outside[len(search.outside)-1]
					rg := median(9, func() measured { return run(b, "rg", []string{"-i", "-c", pattern, flat}, 1) })
					b.ReportMetric(millis(rg.took), "rg-ms")
				}
			}
		})
	}
}
