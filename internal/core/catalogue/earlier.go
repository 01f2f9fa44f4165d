package catalogue

// What the snapshot before tells of a new reading: the dependencies of texts that did not change need not be found again.

import (
	"context"

	"echo-atlas/internal/core/schema"
)

// Earlier returns what the snapshot before a draft tells, nil where there is none that compares: of another version of the
// server or the model, or one that cannot be read now.
func (d *Draft) Earlier(ctx context.Context, from Origin) *schema.Earlier {
	before, err := d.w.c.previous(ctx, from.Server, d.r.Database, from.Path)
	if err != nil || before == nil || before.Model != d.w.model || before.Version != d.r.Version || before.Engine != d.r.Engine {
		return nil
	}
	old, err := d.w.c.Contents(ctx, before)
	if err != nil {
		return nil
	}
	g, err := d.w.c.Needs(ctx, old)
	if err != nil || g.Resolver == 0 {
		return nil
	}
	e := &schema.Earlier{Resolver: g.Resolver, Same: make([]bool, len(d.w.entries))}
	was := make([]int, len(d.w.entries)) // by entry of now: its place before
	for i, j := 0, 0; j < len(d.w.entries); j++ {
		for i < len(old.entries) && old.entries[i].ID.Compare(d.w.entries[j].ID) < 0 {
			i++
		}
		if i < len(old.entries) && old.entries[i].ID == d.w.entries[j].ID {
			was[j], e.Same[j] = i, old.entries[i].Hash == d.w.entries[j].Hash
		}
	}
	DiffEntries(old.entries, d.w.entries, func(was, now *Entry) {
		for _, x := range []*Entry{was, now} {
			if x != nil {
				e.Changed = append(e.Changed, x.ID)
			}
		}
	})
	edges, outside := make([][]int32, len(old.entries)), make([][]int32, len(old.entries))
	for i := range g.Edges {
		if x := &g.Edges[i]; x.Field != schema.NoField {
			at := g.Ends[x.From].Entry
			edges[at] = append(edges[at], int32(i))
		}
	}
	for i := range g.Outside {
		if x := &g.Outside[i]; x.Field != schema.NoField {
			at := g.Ends[x.From].Entry
			outside[at] = append(outside[at], int32(i))
		}
	}
	e.Found = func(j int) []schema.Dependency {
		var found []schema.Dependency
		add := func(x *Edge, to *schema.End) {
			k := g.Dependency(old, x)
			if to != nil {
				k.To = *to
			}
			if k.Evidence == schema.Recorded { // and found in the text besides
				k.Evidence = schema.Read
			}
			found = append(found, k)
		}
		for _, i := range edges[was[j]] {
			add(&g.Edges[i], nil)
		}
		for _, i := range outside[was[j]] {
			add(&g.Outside[i].Edge, &g.Outside[i].End)
		}
		return found
	}
	return e
}
