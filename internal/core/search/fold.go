package search

// Environments share most of what they hold: equal hits of several are one row.

import (
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Group is a hit, and the same thing in other environments: in databases of the same name and family.
type Group struct {
	*Hit
	Others []Other
}

// Other is a hit that stands for the same thing as the first of its group.
type Other struct {
	*Hit
	Differs bool // an object in anything, a column in type or nullability
}

// counterpart is the same for an object in all environments: in databases of the same name and family.
type counterpart struct {
	server, family, database string // server or family
	id                       schema.ID
}

func counterpartOf(s *catalogue.Snapshot, id schema.ID) counterpart {
	if s.Family != "" {
		return counterpart{family: s.Family, database: s.Counterpart(), id: id}
	}
	return counterpart{server: s.Server, database: s.Counterpart(), id: id}
}

// Fold makes one group of the hits that are the same thing in several environments, in the order of the
// first of each. Of objects only in the first groups, up to most or all if that is no number above 0, it is told whether they
// differ.
func Fold(hits []*Hit, most int) ([]Group, error) {
	type thing struct {
		counterpart
		part schema.Kind
		name string
		in   Where
		text string
		nth  int // of the same lines of one text
	}
	type line struct {
		thing
		snapshot int64
	}
	var groups []Group
	places, lines := map[thing]int{}, map[line]int{}
	for _, h := range hits {
		key := thing{counterpart: counterpartOf(h.Snapshot, h.ID), part: h.Part, name: h.Name, in: h.in, text: h.Text}
		if h.in != "" {
			l := line{key, h.Snapshot.ID}
			key.nth = lines[l]
			lines[l]++
		}
		at, seen := places[key]
		if !seen {
			places[key] = len(groups)
			groups = append(groups, Group{Hit: h})
			continue
		}
		first := groups[at].Hit
		differs := h.Part == schema.KindColumn && (h.Type != first.Type || h.NotNull != first.NotNull)
		groups[at].Others = append(groups[at].Others, Other{h, differs})
	}
	if most <= 0 || most > len(groups) {
		most = len(groups)
	}
	for _, g := range groups[:most] {
		if len(g.Others) == 0 || g.Part != "" || g.in != "" {
			continue
		}
		first, err := g.hash()
		if err != nil {
			return nil, err
		}
		for i := range g.Others {
			hash, err := g.Others[i].hash()
			if err != nil {
				return nil, err
			}
			g.Others[i].Differs = hash != first
		}
	}
	return groups, nil
}

// hash returns that of the object whose name is hit.
func (h *Hit) hash() (schema.Hash, error) {
	entries, err := h.chunk.Entries()
	if err != nil {
		return schema.Hash{}, err
	}
	return entries[h.entry].Hash, nil
}

// Rows returns the hits as they are to be shown, of which up to limit will be, 0 for all: folded, if all of them are
// kept; else each by itself, since it is not known where else its thing is.
func (r *Result) Rows(limit int) ([]Group, error) {
	if r.Total <= len(r.Hits) {
		return Fold(r.Hits, limit)
	}
	rows := make([]Group, len(r.Hits))
	for i, h := range r.Hits {
		rows[i].Hit = h
	}
	return rows, nil
}

// ByObject puts the groups of one object together, in the order of the first of each.
func ByObject(groups []Group) [][]Group {
	type object struct {
		snapshot int64
		id       schema.ID
	}
	var all [][]Group
	places := map[object]int{}
	for _, g := range groups {
		key := object{g.Snapshot.ID, g.ID}
		at, seen := places[key]
		if !seen {
			at = len(all)
			places[key] = at
			all = append(all, nil)
		}
		all[at] = append(all[at], g)
	}
	return all
}
