package rename

// Where a view shows the columns of a star under the names that they have at present, a new name of a column goes through it:
// what reads the view's column by the old name is left behind.

import (
	"context"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// ByStar returns the objects that read a column by a name that it has because of a star, directly or through views.
func ByStar(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, root *address.Match) (map[schema.ID]bool, error) {
	g, err := c.Needs(ctx, root.Contents)
	if err != nil {
		return nil, err
	}
	w := writer{engine: e, to: engine.Renaming{Column: root.Part, Name: root.Part}, contents: root.Contents, plan: &Plan{}, graph: g}
	w.start = slices.IndexFunc(root.Contents.All(), func(x catalogue.Entry) bool { return x.ID == root.Entry.ID })
	if err := w.load(ctx, c); err != nil {
		return nil, err
	}
	left := map[schema.ID]bool{}
	carriers := map[int]bool{}
	queue := []int{w.start}
	for len(queue) > 0 {
		carrier := queue[0]
		queue = queue[1:]
		if carriers[carrier] {
			continue
		}
		carriers[carrier] = true
		seen := map[int]bool{}
		for i := range g.Edges {
			to, from := g.Ends[g.Edges[i].To], g.Ends[g.Edges[i].From].Entry
			o := w.objects[from]
			if to.Entry != carrier || to.Part != root.Part || from == carrier || seen[from] || o == nil {
				continue
			}
			seen[from] = true
			carries, named := w.carries(o, w.objects[carrier], root.Part)
			if named || carrier != w.start && !carries {
				left[o.ID()] = true
			}
			if carries && o.Relation != nil && o.Relation.Column(root.Part) != nil {
				queue = append(queue, from)
			}
		}
	}
	return left, nil
}

// carries reports whether a text reads a column of a relation by a star, and whether it names the column that the star brings,
// or for a view in between the column itself.
func (w *writer) carries(o, of *schema.Object, column string) (star, named bool) {
	for _, t := range w.before.Texts(o) {
		for i := range t.Names {
			n := &t.Names[i]
			switch {
			case n.Key != of || n.Column != column:
			case n.Use == sqltext.RefThrough, n.Use == sqltext.RefBehind, of != w.root && n.At != n.End:
				named = true
				star = star || n.Shown
			case n.At == n.End, n.Shown:
				star = true
			}
		}
	}
	return star, named
}
