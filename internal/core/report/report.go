// Package report answers ready-made questions over a snapshot: what is broken, what nothing uses, what goes round in circles.
// Each rests on the dependencies that were recorded and read.
package report

import (
	"context"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Broken is an object that does not work, or refers to something that is not there.
type Broken struct {
	Entry *catalogue.Entry
	// Dependency is on what does not exist; nil where the server says itself that the object is invalid.
	Dependency *schema.Dependency
	Said       string // what the server says
}

// FindBroken returns the objects of a snapshot that are broken, in the order of their identifiers.
func FindBroken(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Broken, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	var all []Broken
	var invalid []*catalogue.Entry
	for i := range t.All() {
		if t.At(i).State == "invalid" {
			invalid = append(invalid, t.At(i))
		}
	}
	objects, err := c.Objects(ctx, invalid)
	if err != nil {
		return nil, err
	}
	for i, o := range objects {
		all = append(all, Broken{Entry: invalid[i], Said: o.Setting("invalid")})
	}
	for i := range g.Outside {
		x := &g.Outside[i]
		if g.Evidence(&x.Edge) == schema.Recorded || x.Use == schema.UseRunsUnseen || x.End.Outside != (schema.Outside{}) || x.End.ID.Name == "" {
			continue
		}
		d := g.Dependency(t, &x.Edge)
		d.To = x.End
		all = append(all, Broken{Entry: t.At(g.Ends[x.From].Entry), Dependency: &d})
	}
	slices.SortStableFunc(all, func(a, b Broken) int { return a.Entry.ID.Compare(b.Entry.ID) })
	return all, nil
}

// useful reports whether objects of a kind are there for others to use; what stands on a relation, or is a relation that
// people ask, is not.
func useful(k schema.Kind) bool {
	return k == schema.KindView || k == schema.KindMaterialisedView || k == schema.KindSequence || k == schema.KindSynonym || k.IsRoutine() || k.IsType()
}

// FindUnused returns the objects of a snapshot that nothing in it uses, though they are of a kind that others use.
func FindUnused(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]*catalogue.Entry, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	used := make([]bool, t.Len())
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to := g.Ends[e.From].Entry, g.Ends[e.To].Entry
		if from != to {
			used[to] = true
		}
		if e.Use.Apart() { // a sequence belongs to its column
			used[from] = true
		}
	}
	var all []*catalogue.Entry
	for i := range t.All() {
		if e := t.At(i); !used[i] && useful(e.ID.Kind) && e.State != schema.System {
			all = append(all, e)
		}
	}
	return all, nil
}

// FindCycles returns the sets of objects of a snapshot that depend on each other in a circle: the strongly connected
// components of more than one (Tarjan's algorithm, without recursion), each in the order of identifiers.
func FindCycles(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([][]*catalogue.Entry, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	needs := make([][]int32, t.Len())
	for i := range g.Edges {
		if from, to := g.Ends[g.Edges[i].From].Entry, g.Ends[g.Edges[i].To].Entry; from != to {
			needs[from] = append(needs[from], int32(to))
		}
	}
	var found [][]*catalogue.Entry
	for _, component := range components(needs) {
		set := make([]*catalogue.Entry, len(component))
		for i, n := range component {
			set[i] = t.At(n)
		}
		found = append(found, set)
	}
	return found, nil
}

// components returns the strongly connected components of more than one node, the nodes of each in order.
func components(needs [][]int32) [][]int {
	type frame struct{ node, edge int }
	index, low, onStack := make([]int, len(needs)), make([]int, len(needs)), make([]bool, len(needs))
	var stack []int
	var found [][]int
	counter := 0
	enter := func(n int) {
		counter++
		index[n], low[n], onStack[n] = counter, counter, true
		stack = append(stack, n)
	}
	for root := range needs {
		if index[root] > 0 {
			continue
		}
		enter(root)
		frames := []frame{{root, 0}}
		for len(frames) > 0 {
			f := &frames[len(frames)-1]
			if f.edge < len(needs[f.node]) {
				to := int(needs[f.node][f.edge])
				f.edge++
				if index[to] == 0 {
					enter(to)
					frames = append(frames, frame{to, 0})
				} else if onStack[to] {
					low[f.node] = min(low[f.node], index[to])
				}
				continue
			}
			n := f.node
			frames = frames[:len(frames)-1]
			if len(frames) > 0 {
				parent := frames[len(frames)-1].node
				low[parent] = min(low[parent], low[n])
			}
			if low[n] != index[n] {
				continue
			}
			at := slices.Index(stack, n)
			component := slices.Clone(stack[at:])
			stack = stack[:at]
			for _, m := range component {
				onStack[m] = false
			}
			if len(component) > 1 {
				slices.Sort(component)
				found = append(found, component)
			}
		}
	}
	slices.SortFunc(found, func(a, b []int) int { return a[0] - b[0] })
	return found
}
