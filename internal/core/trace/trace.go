// Package trace follows dependencies: what depends on a thing, or what it needs, to any depth.
package trace

import (
	"cmp"
	"context"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Direction is which way to follow dependencies.
type Direction int

// The directions.
const (
	Dependants Direction = iota // what depends on the root
	Needs                       // what the root needs
)

// Node is an object that was reached.
type Node struct {
	Distance int // dependencies between it and the root; the root has 0
	By       int // the object over which it was reached first, by place in the nodes; -1 for the root
	Via      int // the dependency over which that was, by place in the edges; -1 for the root

	entry int
}

// Edge is a dependency between two nodes, by their places. What it says is asked of the trace.
type Edge struct {
	From, To int // From is the dependant
	in       int32
}

// Trace is the outcome. It holds numbers; what people read of nodes and edges is made when it is asked for.
type Trace struct {
	Root     schema.Location
	Nodes    []Node // the root first, then by distance and identifier
	Edges    []Edge
	Snapshot *catalogue.Snapshot
	Cyclic   bool // some node depends on itself
	// ByStar are the objects that name the column that is the root as a star brings it, where that matters.
	ByStar map[schema.ID]bool
	// Bypassed counts what depends on these by other columns alone, of a trace that follows a column.
	Bypassed int

	carried  map[int]*carriage // by entry, of such a trace
	contents *catalogue.Contents
	graph    *catalogue.Graph
	dir      Direction
}

// Location returns where a node is.
func (t *Trace) Location(n *Node) schema.Location { return t.Snapshot.Locate(t.ID(n), "", "") }

// ID returns the object that a node is.
func (t *Trace) ID(n *Node) schema.ID { return t.contents.At(n.entry).ID }

// Entry returns the entry of the object that a node is.
func (t *Trace) Entry(n *Node) *catalogue.Entry { return t.contents.At(n.entry) }

// Dependency returns what an edge says.
func (t *Trace) Dependency(e *Edge) schema.Dependency {
	return t.graph.Dependency(t.contents, &t.graph.Edges[e.in])
}

// Outside returns the dependencies of the nodes on what the snapshot does not hold.
func (t *Trace) Outside() []schema.Dependency {
	reached := make(map[int]bool, len(t.Nodes))
	for i := range t.Nodes {
		reached[t.Nodes[i].entry] = true
	}
	var all []schema.Dependency
	for i := range t.graph.Outside {
		x := &t.graph.Outside[i]
		if !reached[t.graph.Ends[x.From].Entry] {
			continue
		}
		d := t.graph.Dependency(t.contents, &x.Edge)
		d.To = x.End
		all = append(all, d)
	}
	return all
}

// Run follows dependencies from an object, or from a part of it, as far as depth; 0 is no limit. From
// a column it first follows what refers to that column, then whole objects.
func Run(ctx context.Context, c *catalogue.Catalogue, root *address.Match, dir Direction, depth int) (*Trace, error) {
	return RunBy(ctx, c, root, dir, depth, nil)
}

// Dependent is Run for all dependants of something that may be changed: of a partition, the whole graph is there to tell what its parents
// are held by.
func Dependent(ctx context.Context, c *catalogue.Catalogue, root *address.Match) (*Trace, error) {
	if root.Entry.ID.Kind != schema.KindPartition {
		return Run(ctx, c, root, Dependants, 0)
	}
	g, err := c.Needs(ctx, root.Contents)
	if err != nil {
		return nil, err
	}
	return Follow(g, root, Dependants, 0), nil
}

// RunBy is like Run, but the first step follows only dependencies of some uses; none is all.
func RunBy(ctx context.Context, c *catalogue.Catalogue, root *address.Match, dir Direction, depth int, uses []schema.Use) (*Trace, error) {
	g, err := around(ctx, c, root, dir, depth)
	if err != nil {
		return nil, err
	}
	return follow(g, root, dir, depth, uses, nil), nil
}

// around returns the dependencies by which something is reached from the root: of sparse contents those alone.
func around(ctx context.Context, c *catalogue.Catalogue, root *address.Match, dir Direction, depth int) (*catalogue.Graph, error) {
	t := root.Contents
	if !t.IsSparse() {
		return c.Needs(ctx, t)
	}
	return c.Around(ctx, t, []int{t.Place(root.Entry.ID)}, dir == Needs, depth)
}

// FetchEnds loads the entries that some edges join, by their places: see catalogue.Sparse.
func (t *Trace) FetchEnds(edges []int) error {
	places := []int{t.Nodes[0].entry}
	for _, i := range edges {
		places = append(places, t.Nodes[t.Edges[i].From].entry, t.Nodes[t.Edges[i].To].entry)
	}
	return t.contents.Fetch(places)
}

// FetchAll loads the entries of all nodes.
func (t *Trace) FetchAll() error {
	places := make([]int, len(t.Nodes))
	for i := range t.Nodes {
		places[i] = t.Nodes[i].entry
	}
	return t.contents.Fetch(places)
}

// Follow is like Run, over dependencies that are loaded already.
func Follow(g *catalogue.Graph, root *address.Match, dir Direction, depth int) *Trace {
	return follow(g, root, dir, depth, nil, nil)
}

// follow follows dependencies; carried says what of each entry matters, nil: of all but the root everything.
func follow(g *catalogue.Graph, root *address.Match, dir Direction, depth int, uses []schema.Use, carried map[int]*carriage) *Trace {
	t := root.Contents
	start := t.Place(root.Entry.ID)
	at := make([]int32, t.Len())
	return followFrom(g, root, start, at, adjacencyOf(g, t.Len(), dir, start, depth), dir, depth, uses, carried)
}

// followFrom is like follow, from an entry whose place is known, along edges that are sorted. at has room for a number by entry: it is all
// zeros, before and afterwards.
func followFrom(g *catalogue.Graph, root *address.Match, start int, at []int32, adjacent *Lists, dir Direction, depth int, uses []schema.Use, carried map[int]*carriage) *Trace {
	t := root.Contents
	tr := &Trace{Root: root.Location(), Snapshot: t.Snapshot, contents: t, graph: g, dir: dir, carried: carried}
	if n := len(g.Reached); n > 0 {
		tr.Nodes, tr.Edges = make([]Node, 0, n), make([]Edge, 0, len(g.Edges))
	}
	tr.Nodes = append(tr.Nodes, Node{By: -1, Via: -1, entry: start})
	at[start] = 1 // the place of its node, one more
	if carried == nil && root.Part != "" {
		carried = map[int]*carriage{start: {columns: map[string]bool{root.Part: true}}}
	}
	for next := 0; next < len(tr.Nodes); next++ {
		n := tr.Nodes[next]
		if depth > 0 && n.Distance >= depth {
			continue
		}
		only, kind := carried[n.entry], schema.KindColumn
		if next == 0 {
			kind = root.PartKind
		}
		var byPart map[int]bool // what is joined with the node by a dependency on a part of it
		if only != nil && !only.whole {
			byPart = map[int]bool{}
			for _, i := range adjacent.Of(n.entry) {
				near, far := g.Edges[i].To, g.Edges[i].From
				if dir == Needs {
					near, far = far, near
				}
				if g.Ends[near].Part != "" {
					byPart[g.Ends[far].Entry] = true
				}
			}
		}
		for _, i := range adjacent.Of(n.entry) {
			e := &g.Edges[i]
			near, far := e.To, e.From
			if dir == Needs {
				near, far = far, near
			}
			other := g.Ends[far].Entry
			if other == n.entry && g.Ends[e.From].Part != "" { // a check of its own columns
				continue
			}
			if next == 0 && uses != nil && !slices.Contains(uses, e.Use) {
				continue
			}
			if byPart != nil && !touches(g, e, near, only.columns, kind, dir, byPart[other]) {
				continue
			}
			place := int(at[other]) - 1
			if place < 0 {
				place = len(tr.Nodes)
				at[other] = int32(place) + 1
				tr.Nodes = append(tr.Nodes, Node{Distance: n.Distance + 1, By: next, Via: len(tr.Edges), entry: other})
			}
			from, to := next, place
			if dir == Dependants {
				from, to = place, next
			}
			tr.Edges = append(tr.Edges, Edge{from, to, i})
		}
	}
	for i := range tr.Nodes {
		at[tr.Nodes[i].entry] = 0
	}
	tr.Cyclic = tr.cyclic()
	return tr
}

// cyclic reports whether the edges hold a cycle: whether something is left when all that depends on
// nothing is taken away again and again (Kahn's algorithm).
func (t *Trace) cyclic() bool {
	waiting := make([]int, len(t.Nodes))
	dependants := Group(len(t.Nodes), len(t.Edges), func(i int) int { return t.Edges[i].To })
	for i := range t.Edges {
		waiting[t.Edges[i].From]++
	}
	var free []int
	for n, count := range waiting {
		if count == 0 {
			free = append(free, n)
		}
	}
	taken := 0
	for ; len(free) > 0; taken++ {
		n := free[len(free)-1]
		free = free[:len(free)-1]
		for _, i := range dependants.Of(n) {
			d := t.Edges[i].From
			if waiting[d]--; waiting[d] == 0 {
				free = append(free, d)
			}
		}
	}
	return taken < len(t.Nodes)
}

// touches reports whether a dependency touches some parts of a node. One that is known
// for the whole object may touch it, unless the server also records on which parts the same two are
// joined: then it says nothing of the others.
func touches(g *catalogue.Graph, e *catalogue.Edge, near int32, parts map[string]bool, kind schema.Kind, dir Direction, byPart bool) bool {
	switch end := g.Ends[near]; {
	case parts[end.Part] && end.PartKind == kind:
		return true
	case end.Part == "":
		if g.Evidence(e) == schema.Recorded {
			return !byPart
		}
		named := e.Use == schema.UseReads || e.Use == schema.UseWrites || e.Use == schema.UseTypedBy
		return !(g.ByColumn && named && dir == Dependants)
	}
	return false
}

// Lists holds lists of numbers, by number, in compressed rows.
type Lists struct {
	start, stop []int32
	items       []int32
}

// Of returns a list.
func (l *Lists) Of(n int) []int32 { return l.items[l.start[n]:l.stop[n]] }

// Group returns n lists of the numbers up to count: each is in the list that key says, in order.
func Group(n, count int, key func(int) int) *Lists {
	l := &Lists{start: make([]int32, n), stop: make([]int32, n), items: make([]int32, count)}
	for i := range count {
		l.stop[key(i)]++
	}
	first := int32(0)
	for i, size := range l.stop {
		l.start[i], l.stop[i] = first, first
		first += size
	}
	for i := range count {
		k := key(i)
		l.items[l.stop[k]] = int32(i)
		l.stop[k]++
	}
	return l
}

// adjacencyOf returns the edges by entry; where one step is wanted, those of the start alone.
func adjacencyOf(g *catalogue.Graph, entries int, dir Direction, start, depth int) *Lists {
	l := &Lists{}
	switch {
	case g.Reached != nil: // and so sorted already
		l.start, l.stop, l.items = make([]int32, entries), make([]int32, entries), make([]int32, len(g.Edges))
		for i := range l.items {
			l.items[i] = int32(i)
		}
		at := int32(0)
		for _, r := range g.Reached {
			l.start[r.Entry], l.stop[r.Entry] = at, at+r.Edges
			at += r.Edges
		}
		return l
	case depth != 1:
		return adjacency(g, entries, dir)
	}
	l.start, l.stop = make([]int32, entries), make([]int32, entries)
	for i := range g.Edges {
		end := g.Edges[i].To
		if dir == Needs {
			end = g.Edges[i].From
		}
		if g.Ends[end].Entry == start {
			l.items = append(l.items, int32(i))
		}
	}
	l.stop[start] = int32(len(l.items))
	return l
}

// adjacency sorts the edges by the entry from which they are followed.
func adjacency(g *catalogue.Graph, entries int, dir Direction) *Lists {
	return Group(entries, len(g.Edges), func(i int) int {
		if dir == Needs {
			return g.Ends[g.Edges[i].From].Entry
		}
		return g.Ends[g.Edges[i].To].Entry
	})
}

// Closure returns the entries that a set needs, or that depend on it, without the set itself, in the
// order of their identifiers.
func Closure(g *catalogue.Graph, t *catalogue.Contents, set []*catalogue.Entry, dir Direction) []*catalogue.Entry {
	adjacent := adjacency(g, t.Len(), dir)
	reached := make([]bool, t.Len())
	var queue []int
	for _, e := range set {
		if i := t.Place(e.ID); i >= 0 && !reached[i] {
			reached[i] = true
			queue = append(queue, i)
		}
	}
	var found []*catalogue.Entry
	for len(queue) > 0 {
		n := queue[0]
		queue = queue[1:]
		for _, i := range adjacent.Of(n) {
			e := &g.Edges[i]
			other := g.Ends[e.To].Entry
			if dir == Dependants {
				other = g.Ends[e.From].Entry
			}
			if !reached[other] {
				reached[other] = true
				queue = append(queue, other)
				found = append(found, t.At(other))
			}
		}
	}
	slices.SortFunc(found, func(a, b *catalogue.Entry) int { return cmp.Or(a.ID.Compare(b.ID)) })
	return found
}
