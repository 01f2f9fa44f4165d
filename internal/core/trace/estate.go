package trace

// A trace goes on through other databases, and from those through further ones.

import (
	"context"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Estate is what a trace can go on through: the latest snapshots, each read once.
type Estate struct {
	catalogue *catalogue.Catalogue
	latest    []*catalogue.Snapshot
	known     map[int64]*held
}

type held struct {
	contents *catalogue.Contents
	graph    *catalogue.Graph

	adjacent *Lists           // the edges by what is depended on; nil until they are asked for
	at       []int32          // room to follow them, time and again
	outside  map[string][]int // of the graph's ends outside, by their names folded; nil until it is asked for

	servers, tables []*schema.Object // foreign ones
	places          []int            // of the tables' entries
	foreign         bool             // they were read
}

// NewEstate returns the estate of these snapshots.
func NewEstate(c *catalogue.Catalogue, latest []*catalogue.Snapshot) *Estate {
	return &Estate{c, latest, map[int64]*held{}}
}

func (e *Estate) load(ctx context.Context, s *catalogue.Snapshot) (*held, error) {
	if h, ok := e.known[s.ID]; ok {
		return h, nil
	}
	h := new(held)
	var err error
	if h.contents, err = e.catalogue.Contents(ctx, s); err != nil {
		return nil, err
	}
	if h.graph, err = e.catalogue.Needs(ctx, h.contents); err != nil {
		return nil, err
	}
	e.known[s.ID] = h
	return h, nil
}

// dependants follows what depends on an entry, or on the column of it that is the root.
func (h *held) dependants(root *address.Match, entry int) *Trace {
	if h.adjacent == nil {
		h.adjacent, h.at = adjacency(h.graph, h.contents.Len(), Dependants), make([]int32, h.contents.Len())
	}
	return followFrom(h.graph, root, entry, h.at, h.adjacent, Dependants, 0, nil, nil)
}

// called returns the places of the ends outside that bear a name.
func (h *held) called(name string) []int {
	if h.outside == nil {
		h.outside = map[string][]int{}
		for i := range h.graph.Outside {
			key := names.Fold(h.graph.Outside[i].End.ID.Name)
			h.outside[key] = append(h.outside[key], i)
		}
	}
	return h.outside[names.Fold(name)]
}

// loadForeign reads the foreign servers and tables of a snapshot.
func (e *Estate) loadForeign(ctx context.Context, h *held) error {
	if h.foreign {
		return nil
	}
	var servers, tables []*catalogue.Entry
	for i := range h.contents.All() {
		switch entry := h.contents.At(i); entry.ID.Kind {
		case schema.KindServer:
			servers = append(servers, entry)
		case schema.KindForeignTable:
			tables, h.places = append(tables, entry), append(h.places, i)
		}
	}
	var err error
	if h.servers, err = e.catalogue.Objects(ctx, servers); err != nil {
		return err
	}
	h.tables, err = e.catalogue.Objects(ctx, tables)
	h.foreign = err == nil
	return err
}

// Beyond returns what depends on the nodes of a trace in other databases, and on that again in further ones, each thing once for what
// is nearest. step returns what depends on the nodes of one trace in other databases.
func Beyond(t *Trace, step func(*Trace) ([]Foreign, error)) ([]Foreign, error) {
	type place struct {
		snapshot int64
		id       schema.ID
	}
	reached := map[place]bool{}
	reach := func(t *Trace) {
		for i := range t.Nodes {
			reached[place{t.Snapshot.ID, t.ID(&t.Nodes[i])}] = true
		}
	}
	all, err := step(t)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	reach(t)
	for i := range all {
		all[i].Of, all[i].Distance = t, t.Nodes[all[i].Node].Distance+1
		reach(all[i].Behind)
	}
	for i := 0; i < len(all); i++ {
		from := all[i]
		more, err := step(from.Behind)
		if err != nil {
			return nil, err
		}
		for _, f := range more {
			if at := (place{f.Snapshot.ID, f.Entry.ID}); !reached[at] {
				f.Of, f.Distance = from.Behind, from.Distance+from.Behind.Nodes[f.Node].Distance+1
				reach(f.Behind)
				all = append(all, f)
			}
		}
	}
	return all, nil
}
