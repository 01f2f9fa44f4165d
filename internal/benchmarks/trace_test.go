package benchmarks

// A trace in a database of 100,000 objects and a million dependencies, beside tsort on the same pairs.

import (
	"bufio"
	"context"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// linked makes a catalogue of one database: 20,000 tables in 20 schemas, their 40,000 indexes, 30,000 views and 10,000 functions that
// read some 20 columns each of what stands before them, and a table that 12,000 of them read. The flat file holds the pairs of
// objects, dependant last, as tsort takes them.
func linked(b *testing.B) (home, flat string, edges int, ask map[string][]string) {
	b.Helper()
	home, flat = b.TempDir(), filepath.Join(b.TempDir(), "pairs")
	random := rand.New(rand.NewPCG(3, 4))
	r := &schema.Reading{Engine: "postgres", Version: "15.4", Database: "line", Taken: time.Unix(1e9, 0), Model: schema.ModelVersion}
	var tables, readers, all []*schema.Object
	for i := range 20000 {
		o := &schema.Object{Kind: schema.KindTable, Schema: fmt.Sprintf("quay_%02d", i%20), Name: fmt.Sprintf("%s_%s_%05d", oneOf(nameWords, random), oneOf(nameWords, random), i), Owner: "harbour", Relation: &schema.Relation{}}
		for c := range 8 {
			o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: fmt.Sprintf("%s_%d", nameWords[(i+c)%len(nameWords)], c), Type: oneOf(nameTypes, random)})
		}
		tables = append(tables, o)
		for n := range 2 {
			index := &schema.Index{Table: o.Name, Columns: []schema.KeyPart{{Column: o.Relation.Columns[n].Name}}}
			all = append(all, &schema.Object{Kind: schema.KindIndex, Schema: o.Schema, Name: fmt.Sprintf("%s_by_%d", o.Name, n), Index: index})
		}
	}
	for i := range 40000 {
		kind := schema.KindView
		if i%4 == 3 {
			kind = schema.KindFunction
		}
		o := &schema.Object{Kind: kind, Schema: fmt.Sprintf("quay_%02d", random.IntN(20)), Name: fmt.Sprintf("%s_of_%s_%05d", oneOf(nameWords, random), oneOf(nameWords, random), i), Owner: "harbour"}
		if kind == schema.KindView {
			o.Relation = &schema.Relation{}
			for c := range 6 {
				o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: fmt.Sprintf("%s_%d", nameWords[(i+c)%len(nameWords)], c), Type: "integer"})
			}
		} else {
			o.Definition = "CREATE FUNCTION"
		}
		for n := range 4 {
			to := oneOf(tables, random)
			switch {
			case n == 0 && i < 12000:
				to = tables[7]
			case n == 1 && i%8 == 0 && i > 0:
				to = oneOf(readers, random)
			}
			columns := 0
			if to.Relation != nil {
				columns = len(to.Relation.Columns)
			}
			for c := range columns + 1 {
				d := schema.Dependency{From: schema.End{ID: o.ID()}, To: schema.End{ID: to.ID()}, Evidence: schema.Read, Use: schema.UseReads, Field: schema.FieldDefinition, Start: 40*n + 5*c, Stop: 40*n + 5*c + 4}
				if c > 0 {
					if c > 5 {
						break
					}
					d.To.Part, d.To.PartKind = to.Relation.Columns[c-1].Name, schema.KindColumn
				}
				r.Dependencies = append(r.Dependencies, d)
			}
		}
		readers = append(readers, o)
	}
	r.Objects = slices.Concat(tables, readers, all)
	dependencies := append(schema.Structural(r.Objects), r.Dependencies...)
	file, err := os.Create(flat)
	if err != nil {
		b.Fatal(err)
	}
	defer file.Close()
	lines := bufio.NewWriter(file)
	for i := range dependencies {
		d := &dependencies[i]
		fmt.Fprintf(lines, "%s.%s %s.%s\n", d.To.ID.Schema, d.To.ID.Name, d.From.ID.Schema, d.From.ID.Name)
	}
	if err := lines.Flush(); err != nil {
		b.Fatal(err)
	}
	ctx := context.Background()
	c, err := catalogue.Open(ctx, home)
	if err != nil {
		b.Fatal(err)
	}
	defer c.Close()
	if _, _, err := c.Save(ctx, catalogue.Origin{Server: "bench", Environment: "live"}, r); err != nil {
		b.Fatal(err)
	}
	table, view := tables[11], readers[len(readers)-2]
	return home, flat, len(dependencies), map[string][]string{
		"many":       {tables[7].Schema + "." + tables[7].Name},
		"few":        {table.Schema + "." + table.Name},
		"of_columns": {table.Schema + "." + table.Name + "." + table.Relation.Columns[1].Name},
		"needs":      {view.Schema + "." + view.Name, "--needs"},
	}
}

// BenchmarkTrace follows what depends on a table that 12,000 views and functions read, on one that few do and on its column, and what a view needs.
func BenchmarkTrace(b *testing.B) {
	home, flat, edges, ask := linked(b)
	b.Logf("%d dependencies", edges)
	tsort := median(5, func() measured { return run(b, "tsort", []string{flat}) })
	for _, name := range slices.Sorted(maps.Keys(ask)) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				ours := median(9, func() measured {
					return run(b, program(b), append([]string{"--home", home, "trace"}, ask[name]...))
				})
				reportRatio(b, ours, tsort, "tsort")
			}
		})
	}
}
