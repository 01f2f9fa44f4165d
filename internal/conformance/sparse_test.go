package conformance

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"testing"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/core/view"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// TestSparse asks for each object of the databases with all kinds twice: of contents that are there as a whole, and of such that come as they are
// asked for. The answers are the same.
func TestSparse(t *testing.T) {
	eachCase(t, "testdata", func(t *testing.T, s testservers.Server, script string) {
		ctx, c := context.Background(), testcatalogue.New(t)
		whole := read(t, c, s, "s", s.Database(t, script))
		for i := range whole.All() {
			e := whole.At(i)
			sparse, err := c.Sparse(ctx, whole.Snapshot)
			if err != nil {
				t.Fatal(err)
			}
			if got := sparse.Place(e.ID); got != i || *sparse.At(i) != *e {
				t.Fatalf("%s: place %d, want %d", e.ID, got, i)
			}
			a, b := &address.Match{Contents: whole, Entry: e}, &address.Match{Contents: sparse, Entry: sparse.At(i)}
			for _, dir := range []trace.Direction{trace.Needs, trace.Dependants} {
				for _, depth := range []int{0, 1, 2} {
					if x, y := told(t, c, a, dir, depth), told(t, c, b, dir, depth); !slices.Equal(x, y) {
						t.Errorf("%s, direction %d, depth %d:\n%s\n----\n%s", e.ID, dir, depth, x, y)
					}
				}
			}
			x, err := view.NewAbout(ctx, c, a, s.Engine(), false)
			if err != nil {
				t.Fatal(err)
			}
			y, err := view.NewAbout(ctx, c, b, s.Engine(), false)
			if err != nil {
				t.Fatal(err)
			}
			if !reflect.DeepEqual(x.Attached, y.Attached) || x.Size != y.Size || !reflect.DeepEqual(x.Outside(), y.Outside()) {
				t.Errorf("%s: %d stand on it, of %d", e.ID, len(y.Attached), len(x.Attached))
			}
			for _, o := range []ddl.Options{{}, {WithNeeds: true}, {WithDependants: true}, {Drop: true}, {Recreate: true}} {
				if x, y := scriptOf(ctx, c, s, a, o), scriptOf(ctx, c, s, b, o); x != y {
					t.Errorf("%s, %+v:\n%s\n----\n%s", e.ID, o, x, y)
				}
			}
			if err := sparse.Err(); err != nil {
				t.Fatal(err)
			}
		}
	})
}

// told returns what a trace says, by line.
func told(t *testing.T, c *catalogue.Catalogue, m *address.Match, dir trace.Direction, depth int) (lines []string) {
	t.Helper()
	tr, err := trace.Run(context.Background(), c, m, dir, depth)
	if err != nil {
		t.Fatal(err)
	}
	for i := range tr.Nodes {
		n := &tr.Nodes[i]
		lines = append(lines, fmt.Sprintf("%s %d %d %d", tr.ID(n), n.Distance, n.By, n.Via))
	}
	for i := range tr.Edges {
		lines = append(lines, fmt.Sprintf("%+v", tr.Dependency(&tr.Edges[i])))
	}
	for _, d := range slices.Concat(tr.Outside(), tr.Unseen()) {
		lines = append(lines, fmt.Sprintf("%+v", d))
	}
	return lines
}

// scriptOf returns the script for one object, and what it says of others.
func scriptOf(ctx context.Context, c *catalogue.Catalogue, s testservers.Server, m *address.Match, o ddl.Options) string {
	script, err := ddl.Write(ctx, c, s.Engine(), m.Contents, []*catalogue.Entry{m.Entry}, o)
	if err != nil {
		return err.Error()
	}
	ids := func(list []schema.ID) string { return fmt.Sprint(list) }
	return script.Text() + ids(script.Assumed) + ids(script.Obstacles)
}
