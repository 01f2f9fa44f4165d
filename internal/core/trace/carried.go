package trace

// A column that becomes one of a view is followed as that, on the whole way; so is one that refers to it, or that an heir has of
// it. What is reached by other columns alone is not followed further.

import (
	"context"
	"maps"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
)

// carriage is what of an entry matters to a trace that starts from a column.
type carriage struct {
	whole   bool
	columns map[string]bool
}

// add adds columns, or all of it; it reports whether that changes anything.
func (c *carriage) add(whole bool, columns []string) bool {
	if c.whole {
		return false
	}
	if whole {
		c.whole = true
		return true
	}
	before := len(c.columns)
	for _, name := range columns {
		c.columns[name] = true
	}
	return len(c.columns) > before
}

// RunPrecisely is like RunBy for the dependants of a column, but follows on the whole way only what touches the column, and the
// columns of views that are made of it.
func RunPrecisely(ctx context.Context, c *catalogue.Catalogue, root *address.Match, depth int, uses []schema.Use, e engine.Engine) (*Trace, error) {
	g, err := around(ctx, c, root, Dependants, depth)
	if err != nil {
		return nil, err
	}
	if root.PartKind != schema.KindColumn || !g.ByColumn {
		return follow(g, root, Dependants, depth, uses, nil), nil
	}
	f := carrier{ctx: ctx, c: c, g: g, t: root.Contents, e: e, lineages: map[int]*references.Lineage{}, objects: map[int]*schema.Object{}}
	carried, err := f.run(root)
	if err != nil {
		return nil, err
	}
	t := follow(g, root, Dependants, depth, uses, carried)
	t.Bypassed = len(follow(g, root, Dependants, depth, uses, nil).Nodes) - len(t.Nodes)
	return t, nil
}

// carrier finds out what is carried where.
type carrier struct {
	ctx      context.Context
	c        *catalogue.Catalogue
	g        *catalogue.Graph
	t        *catalogue.Contents
	e        engine.Engine
	lineages map[int]*references.Lineage // by entry; nil where it is not known
	objects  map[int]*schema.Object
}

// run returns what of each entry that is reached matters.
func (f *carrier) run(root *address.Match) (map[int]*carriage, error) {
	start := f.t.Place(root.Entry.ID)
	dependants := adjacencyOf(f.g, f.t.Len(), Dependants, start, 0)
	carried := map[int]*carriage{start: {columns: map[string]bool{root.Part: true}}}
	queue := []int{start}
	for len(queue) > 0 {
		n := queue[0]
		queue = queue[1:]
		own := carried[n]
		precise := f.byPart(dependants, n, own)
		for _, i := range dependants.Of(n) {
			edge := &f.g.Edges[i]
			other := f.g.Ends[edge.From].Entry
			if other == n || !own.whole && !touches(f.g, edge, edge.To, own.columns, schema.KindColumn, Dependants, precise[other]) {
				continue
			}
			whole, columns := true, []string(nil)
			if !own.whole && len(dependants.Of(other)) > 0 {
				var err error
				if whole, columns, err = f.step(n, own, other, edge); err != nil {
					return nil, err
				}
			}
			at := carried[other]
			if at == nil {
				at = &carriage{columns: map[string]bool{}}
				carried[other] = at
			}
			if at.add(whole, columns) {
				queue = append(queue, other)
			}
		}
	}
	return carried, nil
}

// byPart returns what is joined with an entry by its parts.
func (f *carrier) byPart(dependants *Lists, n int, own *carriage) map[int]bool {
	out := map[int]bool{}
	if own.whole {
		return out
	}
	for _, i := range dependants.Of(n) {
		if f.g.Ends[f.g.Edges[i].To].Part != "" {
			out[f.g.Ends[f.g.Edges[i].From].Entry] = true
		}
	}
	return out
}

// step returns what becomes of the columns of an entry in a dependant.
func (f *carrier) step(n int, own *carriage, other int, edge *catalogue.Edge) (whole bool, columns []string, err error) {
	id := f.t.At(n).ID
	switch kind := f.t.KindAt(other); {
	case kind == schema.KindView || kind == schema.KindMaterialisedView:
		l, err := f.lineage(other)
		if err != nil || l == nil {
			return true, nil, err
		}
		for column := range own.columns {
			end := schema.ColumnEnd(id, column)
			if l.Elsewhere[end] {
				return true, nil, nil
			}
			columns = append(columns, l.Into[end]...)
		}
		return len(columns) == 0, columns, nil // what is read and becomes nothing was not understood
	case edge.Use == schema.UseInherits || edge.Use == schema.UsePartitionOf:
		return false, slices.Collect(maps.Keys(own.columns)), nil
	case edge.Use == schema.UseForeignKey:
		o, err := f.object(other)
		if err != nil || o.Relation == nil {
			return true, nil, err
		}
		for i := range o.Relation.ForeignKeys {
			k := &o.Relation.ForeignKeys[i]
			if k.RefTable != id.Name || k.RefSchema != id.Schema || len(k.Columns) != len(k.RefColumns) {
				continue
			}
			for at, to := range k.RefColumns {
				if own.columns[to] {
					columns = append(columns, k.Columns[at])
				}
			}
		}
		return len(columns) == 0, columns, nil
	}
	return true, nil, nil
}

func (f *carrier) object(n int) (*schema.Object, error) {
	if o := f.objects[n]; o != nil {
		return o, nil
	}
	o, err := f.c.Object(f.ctx, f.t.At(n))
	f.objects[n] = o
	return o, err
}

// lineage returns of what the columns of a view are made, nil where that is not known.
func (f *carrier) lineage(view int) (*references.Lineage, error) {
	if l, done := f.lineages[view]; done {
		return l, nil
	}
	o, err := f.object(view)
	if err != nil {
		return nil, err
	}
	direct, err := f.g.Direct(view)
	if err != nil {
		return nil, err
	}
	var needs []*schema.Object
	for _, n := range direct {
		need, err := f.object(n)
		if err != nil {
			return nil, err
		}
		needs = append(needs, need)
	}
	f.lineages[view] = nil
	if l, ok := references.LineageOf(f.t.Snapshot.Database, o, needs, f.e); ok {
		f.lineages[view] = &l
	}
	return f.lineages[view], nil
}

// Carries returns the columns of a node that are made of the column that is the root; whole says that all of it depends on that.
func (t *Trace) Carries(n *Node) (columns []string, whole bool) {
	c := t.carried[n.entry]
	if c == nil {
		return nil, true
	}
	return slices.Sorted(maps.Keys(c.columns)), c.whole
}
