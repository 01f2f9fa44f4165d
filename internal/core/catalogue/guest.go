package catalogue

import (
	"context"
	"slices"
	"time"

	"echo-atlas/internal/core/schema"
)

// SaveGuest stores the reading of an exported snapshot under the path that it was given by, where it stands in no list; the one
// of before under that path goes.
func (c *Catalogue) SaveGuest(ctx context.Context, from Origin, r *schema.Reading) (*Snapshot, error) {
	old, err := c.query(ctx, "WHERE path = ?", from.Path)
	if err != nil {
		return nil, err
	}
	s, _, err := c.Save(ctx, from, r)
	if err != nil {
		return nil, err
	}
	if i := slices.IndexFunc(old, func(o *Snapshot) bool { return o.Root == s.Root && o.needs == s.needs }); i >= 0 {
		s = old[i]
		_, err = c.db.ExecContext(ctx, "DELETE FROM snapshot WHERE path = ? AND id <> ?", from.Path, s.ID)
		return s, c.explain("writing to", err)
	}
	for _, o := range old {
		if _, err := c.db.ExecContext(ctx, "DELETE FROM snapshot WHERE id = ?", o.ID); err != nil {
			return nil, c.explain("writing to", err)
		}
	}
	return s, nil
}

// FirstTaken returns when what a snapshot holds was first read.
func (c *Catalogue) FirstTaken(ctx context.Context, s *Snapshot) (time.Time, error) {
	same, err := c.query(ctx, "WHERE server = ? AND database = ? AND root = ? ORDER BY id LIMIT 1", s.Server, s.Database, s.Root[:])
	if err != nil || len(same) == 0 {
		return s.Taken, err
	}
	return same[0].Taken, nil
}
