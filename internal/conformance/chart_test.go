package conformance

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/chart"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// In pictures of real schemas, whole and in part, no box lies on another and no link leads through one.
func TestPicturesOfSchemas(t *testing.T) {
	pictures, boxes, links := 0, 0, 0
	eachSchema(t, func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		contents := read(t, c, s, "all", url)
		s.Drop(t, url)
		r := rand.New(rand.NewPCG(15, uint64(len(script))))
		for n := range 4 {
			of := chart.Choice{Contents: contents}
			for i := range contents.All() {
				if k := contents.At(i).ID.Kind; (k.IsRelation() || k.IsRoutine()) && (n == 0 || r.IntN(4) < n) {
					of.Entries = append(of.Entries, contents.At(i))
				}
			}
			d, err := chart.Build(context.Background(), c, []chart.Choice{of}, chart.Options{Columns: []string{"all", "keys", "none", "all"}[n], Types: n == 3, WithDependants: n == 2})
			if err != nil {
				t.Fatal(err)
			}
			p := chart.Place(d)
			pictures, boxes, links = pictures+1, boxes+len(d.Boxes), links+len(d.Links)
			for _, f := range laidWrong(p) {
				t.Errorf("picture %d: %s", n, f)
			}
			if n == 0 {
				linksOf(t, c, contents, d)
			}
		}
	})
	t.Logf("%d pictures, %d boxes, %d links", pictures, boxes, links)
}

// laidWrong returns what lies on something else.
func laidWrong(p *chart.Picture) (all []string) {
	for i, a := range p.Places {
		for j, b := range p.Places[:i] {
			if a.X < b.X+b.W && b.X < a.X+a.W && a.Y < b.Y+b.H && b.Y < a.Y+a.H {
				all = append(all, fmt.Sprintf("%s lies on %s", p.Boxes[i].Name, p.Boxes[j].Name))
			}
		}
	}
	for _, w := range p.Ways {
		for _, line := range w.Lines {
			for k := 1; k < len(line); k++ {
				a, b := line[k-1], line[k]
				for i, r := range p.Places {
					if min(a[0], b[0]) < r.X+r.W && max(a[0], b[0]) > r.X && min(a[1], b[1]) < r.Y+r.H && max(a[1], b[1]) > r.Y {
						all = append(all, fmt.Sprintf("a link leads through %s", p.Boxes[i].Name))
					}
				}
			}
		}
	}
	return all
}

// linksOf counts that each foreign key of the schema is a link of the picture.
func linksOf(t *testing.T, c *catalogue.Catalogue, contents *catalogue.Contents, d *chart.Diagram) {
	t.Helper()
	want := 0
	for i := range contents.All() {
		o, err := c.Object(context.Background(), contents.At(i))
		if err != nil {
			t.Fatal(err)
		}
		if o.Relation == nil {
			continue
		}
		for _, f := range o.Relation.ForeignKeys {
			for k := range contents.All() {
				if id := contents.At(k).ID; id.Kind.IsRelation() && id.Name == f.RefTable && id.Schema == f.RefSchema {
					want++
				}
			}
		}
	}
	got := 0
	for _, l := range d.Links {
		if !l.Dashed && l.Many != "" {
			got++
		}
	}
	if got != want {
		t.Errorf("%d links for %d foreign keys", got, want)
	}
}
