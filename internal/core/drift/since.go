package drift

// Since when something differs: the later of the moments from which on both sides have been as they are.

import (
	"context"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// since finds when the differences of a group began.
func (g *Group) since(ctx context.Context, c *catalogue.Catalogue) error {
	moments := make([]map[schema.Identity]time.Time, len(g.Snapshots))
	for i, s := range g.Snapshots {
		wanted := map[schema.Identity]bool{}
		for j := range g.Rows {
			r := &g.Rows[j]
			if i == 0 || r.Cells[i].State != r.Cells[0].State || r.Cells[i].State == Only {
				wanted[r.ID.Identity()] = true
			}
		}
		if len(wanted) == 0 {
			continue
		}
		var err error
		if moments[i], err = Since(ctx, c, s, wanted); err != nil {
			return err
		}
	}
	for j := range g.Rows {
		id := g.Rows[j].ID.Identity()
		for i := range g.Rows[j].Cells {
			if cell := &g.Rows[j].Cells[i]; i > 0 && cell.State != g.Rows[j].Cells[0].State {
				cell.Since = moments[i][id]
				if base := moments[0][id]; base.After(cell.Since) {
					cell.Since = base
				}
			}
		}
	}
	return nil
}

// Since returns from when on the objects have been as a snapshot has them, or away as it has them, by the readings of the database:
// the moment of the first such reading behind one that has them otherwise. There is no moment for an object that has been so in all
// readings.
func Since(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, wanted map[schema.Identity]bool) (map[schema.Identity]time.Time, error) {
	all, err := c.Of(ctx, s.Server, s.Database)
	if err != nil {
		return nil, err
	}
	moments := map[schema.Identity]time.Time{}
	now := s
	for _, before := range all {
		if len(moments) == len(wanted) {
			break
		}
		if before.ID >= now.ID || s.Path != "" {
			continue
		}
		if before.Root != now.Root {
			old, fresh, _, err := c.Pair(ctx, before, now)
			if err != nil {
				return nil, err
			}
			catalogue.DiffEntries(old.All(), fresh.All(), func(x, y *catalogue.Entry) {
				e := x
				if e == nil {
					e = y
				}
				id := e.ID.Identity()
				if _, found := moments[id]; wanted[id] && !found {
					moments[id] = now.Taken
				}
			})
		}
		now = before
	}
	return moments, nil
}
