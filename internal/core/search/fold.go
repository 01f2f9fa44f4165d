package search

import "echo-atlas/internal/core/schema"

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

// Fold makes one group of the hits that are the same thing in several environments, in the order of the
// first of each.
func Fold(hits []*Hit) []Group {
	type identity struct {
		server, family, database string // server or family
		id                       schema.ID
		part                     schema.Kind
		name                     string
		in                       Where
		text                     string
		nth                      int // of the same lines of one text
	}
	var groups []Group
	places, lines := map[identity]int{}, map[identity]int{}
	for _, h := range hits {
		s := h.Snapshot
		key := identity{server: s.Server, database: s.Database, id: h.ID, part: h.Part, name: h.Name, in: h.in, text: h.Text}
		if h.in != "" {
			nth := lines[key]
			lines[key]++
			key.nth = nth
		}
		if s.Family != "" {
			key.server, key.family = "", s.Family
		}
		at, seen := places[key]
		if !seen {
			places[key] = len(groups)
			groups = append(groups, Group{Hit: h})
			continue
		}
		first := groups[at].Hit
		differs := h.hash != first.hash
		if h.Part == schema.KindColumn {
			differs = h.Type != first.Type || h.NotNull != first.NotNull
		}
		groups[at].Others = append(groups[at].Others, Other{h, differs})
	}
	return groups
}
