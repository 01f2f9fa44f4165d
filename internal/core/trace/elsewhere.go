package trace

// What depends on a thing may lie in another database of its server: the graphs of those keep such ends by name, and are
// joined with this one when it is asked.

import (
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Foreign is something in another database that depends on a node.
type Foreign struct {
	Node       int // place of the node in the trace that it depends on
	Snapshot   *catalogue.Snapshot
	Entry      *catalogue.Entry
	Dependency schema.Dependency
	Behind     *Trace // what depends on it there
}

// Elsewhere returns what depends on the nodes of a trace in other databases of the same server, by database. load
// returns what a snapshot holds.
func Elsewhere(ctx context.Context, c *catalogue.Catalogue, t *Trace, latest []*catalogue.Snapshot, load func(context.Context, *catalogue.Snapshot) (*catalogue.Contents, error)) ([]Foreign, error) {
	type name struct{ schema, name string }
	nodes := map[name]int{}
	for i := range t.Nodes {
		id := t.ID(&t.Nodes[i])
		if at := (name{names.Fold(id.Schema), names.Fold(id.Name)}); id.Table == "" {
			if _, there := nodes[at]; !there {
				nodes[at] = i
			}
		}
	}
	var all []Foreign
	for _, s := range latest {
		if s.Server != t.Snapshot.Server || s.Database == t.Snapshot.Database || s.Engine != t.Snapshot.Engine || s.Path != "" {
			continue
		}
		contents, err := load(ctx, s)
		if err != nil {
			return nil, err
		}
		g, err := c.Needs(ctx, contents)
		if err != nil {
			return nil, err
		}
		seen := map[[2]int]bool{}
		for i := range g.Outside {
			x := &g.Outside[i]
			if x.End.Outside.Server != "" || !strings.EqualFold(x.End.Outside.Database, t.Snapshot.Database) {
				continue
			}
			node, ok := nodes[name{names.Fold(x.End.ID.Schema), names.Fold(x.End.ID.Name)}]
			entry := g.Ends[x.From].Entry
			if !ok || seen[[2]int{node, entry}] {
				continue
			}
			seen[[2]int{node, entry}] = true
			d := g.Dependency(contents, &x.Edge)
			d.To = x.End
			e := &contents.Entries[entry]
			behind := Follow(g, &address.Match{Contents: contents, Entry: e}, Dependants, 0)
			all = append(all, Foreign{Node: node, Snapshot: s, Entry: e, Dependency: d, Behind: behind})
		}
	}
	slices.SortStableFunc(all, func(a, b Foreign) int { return strings.Compare(a.Snapshot.Database, b.Snapshot.Database) })
	return all, nil
}

// Unseen returns the routines of the trace's database that run SQL which cannot be seen: each of them may refer to anything.
func (t *Trace) Unseen() []schema.Dependency {
	var all []schema.Dependency
	for i := range t.graph.Outside {
		x := &t.graph.Outside[i]
		if x.Use != schema.UseRunsUnseen {
			continue
		}
		d := t.graph.Dependency(t.contents, &x.Edge)
		d.To = x.End
		all = append(all, d)
	}
	return all
}
