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

// million makes a catalogue of 1,000,000 columns in 50,000 tables on 20 servers, and a flat file of the same
// names, one a line with its address. 10 columns hold xebec, 1,000 yawl and 50,000 zodiac.
func million(b *testing.B) (home, flat string) {
	b.Helper()
	home, flat = b.TempDir(), filepath.Join(b.TempDir(), "names")
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
	word := func() string { return nameWords[random.IntN(len(nameWords))] }
	n := 0
	for server := range 20 {
		r := &schema.Reading{Engine: "postgres", Database: "line", Taken: time.Unix(1e9, 0)}
		for table := range 2500 {
			o := &schema.Object{Kind: schema.KindTable, Schema: "public", Name: fmt.Sprintf("%s_%s_%d", word(), word(), table), Relation: &schema.Relation{}}
			fmt.Fprintf(lines, "server-%d/line/public.%s\n", server, o.Name)
			for i := range 20 {
				n++
				col := schema.Column{Name: fmt.Sprintf("%s_%s_%d", word(), word(), i), Type: nameTypes[random.IntN(len(nameTypes))]}
				switch {
				case n%100000 == 3:
					col.Name = "xebec_" + col.Name
				case n%1000 == 5:
					col.Name = "the_yawl_" + col.Name
				case n%20 == 7:
					col.Name = "a_Zodiac_" + col.Name
				}
				o.Relation.Columns = append(o.Relation.Columns, col)
				fmt.Fprintf(lines, "server-%d/line/public.%s.%s %s\n", server, o.Name, col.Name, col.Type)
			}
			r.Objects = append(r.Objects, o)
		}
		if _, _, err := c.Save(ctx, catalogue.Origin{Server: fmt.Sprintf("server-%d", server), Environment: "live"}, r); err != nil {
			b.Fatal(err)
		}
	}
	if err := lines.Flush(); err != nil {
		b.Fatal(err)
	}
	return home, flat
}

// BenchmarkFind searches a million names, beside grep and, where it is there, rg on the flat file.
func BenchmarkFind(b *testing.B) {
	home, flat := million(b)
	for _, search := range []struct {
		name    string
		args    []string
		outside []string // what grep and rg are asked
	}{
		{"10", []string{"xebec"}, []string{"xebec"}},
		{"1000", []string{"yawl"}, []string{"yawl"}},
		{"50000", []string{"zodiac"}, []string{"zodiac"}},
		{"none", []string{"zzzz"}, []string{"zzzz"}},
		{"letters", []string{"bu"}, []string{"bu"}},
		{"regex", []string{"--regex", "ya[vw]l.*_1[0-9]$"}, []string{"-E", "ya[vw]l.*_1[0-9] "}},
		{"type", []string{"yawl", "--type", "num*"}, []string{"yawl.* num"}},
		{"text", []string{"yawl", "--text"}, []string{"yawl"}},
	} {
		b.Run(search.name, func(b *testing.B) {
			for b.Loop() {
				ours := median(9, func() measured {
					return run(b, program(b), append([]string{"--home", home, "find"}, search.args...), 1)
				})
				grep := median(9, func() measured {
					return run(b, "grep", append(append([]string{"-i", "-c"}, search.outside...), flat), 1)
				})
				reportRatio(b, ours, grep, "grep")
				if _, err := exec.LookPath("rg"); err == nil {
					pattern := search.outside[len(search.outside)-1]
					rg := median(9, func() measured { return run(b, "rg", []string{"-i", "-c", pattern, flat}, 1) })
					b.ReportMetric(millis(rg.took), "rg-ms")
				}
			}
		})
	}
}
