package search

// What another place has is taken out of the hits by name and kind.

import (
	"context"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
)

// except holds what a search leaves out because it is somewhere else too. A nil except holds nothing.
type except struct {
	// databases says that things are told apart by the name of their database: those left out come from
	// several databases.
	databases bool
	names     map[excepted]bool
}

type excepted struct {
	database string
	id       schema.ID
	part     schema.Kind
	name     string
}

// newExcept collects the names of objects and parts that the matches cover.
func newExcept(ctx context.Context, c *catalogue.Catalogue, all []address.Match) (*except, error) {
	if len(all) == 0 {
		return nil, nil
	}
	x := &except{names: map[excepted]bool{}}
	var snapshots []*catalogue.Snapshot
	seen := map[int64]bool{}
	for _, m := range all {
		s := m.Contents.Snapshot
		x.databases = x.databases || s.Counterpart() != all[0].Contents.Snapshot.Counterpart()
		if !seen[s.ID] {
			seen[s.ID] = true
			snapshots = append(snapshots, s)
		}
	}
	err := c.Scan(ctx, snapshots, 1, func(_ int, k *catalogue.Chunk) error {
		entries, err := k.Entries()
		if err != nil {
			return err
		}
		return k.Names.Lines(func(_ string, l index.Line) bool {
			if id := entries[l.Entry].ID; within(all, k.Snapshot, &id) {
				x.names[x.key(k.Snapshot, id, l.Part, strings.Clone(l.Name))] = true
			}
			return true
		})
	})
	return x, err
}

func (x *except) key(s *catalogue.Snapshot, id schema.ID, part schema.Kind, name string) excepted {
	k := excepted{id: id, part: part, name: name}
	if x.databases {
		k.database = s.Counterpart()
	}
	return k
}

func (x *except) has(s *catalogue.Snapshot, id schema.ID, part schema.Kind, name string) bool {
	return x != nil && x.names[x.key(s, id, part, name)]
}
