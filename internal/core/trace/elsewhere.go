package trace

// What depends on a thing may lie in another database of its server, or of one that has a link to it: the graphs of those keep
// such ends by name, and are joined with this one when it is asked.

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Foreign is something in another database that depends on a node.
type Foreign struct {
	Of         *Trace // that holds the node: the one that was asked for, or that of something in a database between
	Node       int    // place of the node in it that it depends on
	Distance   int    // from the root of the trace that was asked for
	Snapshot   *catalogue.Snapshot
	Entry      *catalogue.Entry
	Dependency schema.Dependency
	Behind     *Trace // what depends on it there
}

// Links returns the links that lead to a server: by the server that has them, their names folded. leads says whether a place is
// that server. Links are read with what belongs to no database.
func (e *Estate) Links(ctx context.Context, of engine.Linker, leads func(engine.Reach) bool) (map[string]map[string]engine.Reach, error) {
	links := map[string]map[string]engine.Reach{}
	for _, s := range e.latest {
		if s.Counts[schema.KindLinkedServer] == 0 || s.Path != "" {
			continue
		}
		h, err := e.load(ctx, s)
		if err != nil {
			return nil, err
		}
		contents := h.contents
		var entries []*catalogue.Entry
		for i := range contents.All() {
			if e := contents.At(i); e.ID.Kind == schema.KindLinkedServer {
				entries = append(entries, e)
			}
		}
		objects, err := e.catalogue.Objects(ctx, entries)
		if err != nil {
			return nil, err
		}
		for _, o := range objects {
			if r, ok := of.Links(o); ok && leads(r) {
				if links[s.Server] == nil {
					links[s.Server] = map[string]engine.Reach{}
				}
				links[s.Server][names.Fold(o.Name)] = r
			}
		}
	}
	return links, nil
}

// Elsewhere returns what depends on the nodes of a trace in other databases of the same server, and in those of servers with links
// to it, by place.
func (e *Estate) Elsewhere(ctx context.Context, t *Trace, links map[string]map[string]engine.Reach) ([]Foreign, error) {
	type name struct{ schema, name string }
	var nodes map[name]int // once they are asked for
	known := func() {
		nodes = make(map[name]int, len(t.Nodes))
		for i := range t.Nodes {
			id := t.ID(&t.Nodes[i])
			if at := (name{names.Fold(id.Schema), names.Fold(id.Name)}); id.Table == "" {
				if _, there := nodes[at]; !there {
					nodes[at] = i
				}
			}
		}
	}
	var all []Foreign
	for _, s := range e.latest {
		same := s.Server == t.Snapshot.Server
		if same && s.Database == t.Snapshot.Database && links[s.Server] == nil || !same && links[s.Server] == nil || s.Engine != t.Snapshot.Engine || s.Path != "" {
			continue
		}
		here := func(o schema.Outside) bool {
			if o.Server == "" {
				return same && s.Database != t.Snapshot.Database && strings.EqualFold(o.Database, t.Snapshot.Database)
			}
			r, linked := links[s.Server][names.Fold(o.Server)]
			return linked && strings.EqualFold(cmp.Or(o.Database, r.Database), t.Snapshot.Database)
		}
		h, err := e.load(ctx, s)
		if err != nil {
			return nil, err
		}
		if nodes == nil {
			known()
		}
		contents, g := h.contents, h.graph
		seen := map[[2]int]bool{}
		var places []int
		for at := range nodes {
			places = append(places, h.called(at.name)...)
		}
		slices.Sort(places)
		for _, i := range slices.Compact(places) {
			x := &g.Outside[i]
			if !here(x.End.Outside) {
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
			found := contents.At(entry)
			behind := h.dependants(&address.Match{Contents: contents, Entry: found}, entry)
			all = append(all, Foreign{Node: node, Snapshot: s, Entry: found, Dependency: d, Behind: behind})
		}
	}
	slices.SortStableFunc(all, func(a, b Foreign) int {
		return cmp.Or(strings.Compare(a.Snapshot.Database, b.Snapshot.Database), strings.Compare(a.Snapshot.Server, b.Snapshot.Server))
	})
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
