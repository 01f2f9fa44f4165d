package catalogue

import (
	"context"
	"fmt"
	"os"
	"time"

	"echo-atlas/internal/core/schema"
)

// An exported snapshot that an address names by its path is a guest: it is read once, lies in a store of its own that goes
// when the catalogue is closed, and never comes into the catalogue. Its snapshot and entries know that store, so that
// whoever holds them need not.

// firstGuest is the number of the first guest: no snapshot of the catalogue bears such a one.
const firstGuest = 1 << 40

// Guest returns the guest of a path, nil if it was not read yet.
func (c *Catalogue) Guest(path string) *Snapshot {
	c.guestLock.Lock()
	defer c.guestLock.Unlock()
	return c.guestOf[path]
}

// SaveGuest takes in the reading of an exported snapshot under the path that it was given by.
func (c *Catalogue) SaveGuest(ctx context.Context, from Origin, r *schema.Reading) (*Snapshot, error) {
	c.guestLock.Lock()
	defer c.guestLock.Unlock()
	if c.guests == nil {
		dir, err := os.MkdirTemp(memory(), "atlas-")
		if err != nil {
			return nil, fmt.Errorf("making room for an exported snapshot: %w", err)
		}
		guests, err := Open(ctx, dir)
		if err != nil {
			os.RemoveAll(dir)
			return nil, err
		}
		guests.temporary, guests.first, guests.Called = true, firstGuest, c.Called
		c.guests, c.guestOf = guests, map[string]*Snapshot{}
	}
	s, _, err := c.guests.Save(ctx, from, r)
	if err == nil {
		s.home = c.guests
		c.guestOf[from.Path] = s
	}
	return s, err
}

// memory returns a folder that lies in memory, "" for the usual place of temporary files where there is none.
func memory() string {
	const shared = "/dev/shm"
	if st, err := os.Stat(shared); err == nil && st.IsDir() && os.Getenv("TMPDIR") == "" {
		return shared
	}
	return ""
}

// of returns the store that a snapshot lies in.
func (c *Catalogue) of(s *Snapshot) *Catalogue {
	if s.home != nil {
		return s.home
	}
	return c
}

// own marks entries that were loaded as those of a store of guests.
func (c *Catalogue) own(entries []Entry) {
	if c.first == 0 {
		return
	}
	for i := range entries {
		entries[i].home = c
	}
}

// byHome calls each for the snapshots of each store, in the order in which the stores come first.
func (c *Catalogue) byHome(snapshots []*Snapshot, each func(home *Catalogue, list []*Snapshot) error) error {
	var own, guests []*Snapshot
	for _, s := range snapshots {
		if s.home != nil {
			guests = append(guests, s)
		} else {
			own = append(own, s)
		}
	}
	if len(own) > 0 || len(guests) == 0 {
		if err := each(c, own); err != nil {
			return err
		}
	}
	if len(guests) > 0 {
		return each(guests[0].home, guests)
	}
	return nil
}

// FirstTaken returns when what a snapshot holds was first read.
func (c *Catalogue) FirstTaken(ctx context.Context, s *Snapshot) (time.Time, error) {
	same, err := c.of(s).query(ctx, "WHERE server = ? AND database = ? AND root = ? ORDER BY id LIMIT 1", s.Server, s.Database, s.Root[:])
	if err != nil || len(same) == 0 {
		return s.Taken, err
	}
	return same[0].Taken, nil
}
