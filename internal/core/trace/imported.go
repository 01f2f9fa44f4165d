package trace

// What depends on a thing may stand for it in another database, of this server or another: as a foreign table.

import (
	"context"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Imported returns the foreign tables of other databases that stand for nodes of a trace, and what depends on them there.
// leads says whether a foreign server leads to the server of the trace.
func (e *Estate) Imported(ctx context.Context, t *Trace, of engine.Reacher, leads func(engine.Reach) bool) ([]Foreign, error) {
	type name struct{ schema, name string }
	var nodes map[name]int // once they are asked for
	var all []Foreign
	for _, s := range e.latest {
		if s.Engine != t.Snapshot.Engine || s.ID == t.Snapshot.ID || s.Path != "" || s.Counts[schema.KindForeignTable] == 0 {
			continue
		}
		h, err := e.load(ctx, s)
		if err != nil {
			return nil, err
		}
		if err := e.loadForeign(ctx, h); err != nil {
			return nil, err
		}
		contents := h.contents
		here := map[string]bool{} // the foreign servers that lead to this database
		for _, o := range h.servers {
			if r, ok := of.Reaches(o); ok && r.Database == t.Snapshot.Database && leads(r) {
				here[o.Name] = true
			}
		}
		if len(here) == 0 {
			continue
		}
		if nodes == nil {
			nodes = make(map[name]int, len(t.Nodes))
			for i := range t.Nodes {
				if id := t.ID(&t.Nodes[i]); id.Kind.IsRelation() {
					nodes[name{id.Schema, id.Name}] = i
				}
			}
		}
		for i, o := range h.tables {
			if !here[o.Setting("server")] {
				continue
			}
			in, called, _ := of.StandsFor(o, "")
			node, ok := nodes[name{in, called}]
			if !ok {
				continue
			}
			root := &address.Match{Contents: contents, Entry: contents.At(h.places[i])}
			if node == 0 && t.Root.Part != "" {
				if root.Part, ok = near(of, o, t.Root.Part); !ok {
					continue
				}
				root.PartKind = t.Root.PartKind
			}
			d := schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(t.ID(&t.Nodes[node])), Use: schema.UseStandsFor, Evidence: schema.Recorded}
			d.To.Outside = schema.Outside{Server: t.Snapshot.Server, Database: t.Snapshot.Database}
			behind := h.dependants(root, h.places[i])
			all = append(all, Foreign{Node: node, Snapshot: s, Entry: root.Entry, Dependency: d, Behind: behind})
		}
	}
	return all, nil
}

// near returns the column of a foreign table that stands for one of the far table.
func near(of engine.Reacher, o *schema.Object, column string) (string, bool) {
	for _, c := range o.Columns() {
		if _, _, far := of.StandsFor(o, c.Name); far == column {
			return c.Name, true
		}
	}
	return "", false
}
