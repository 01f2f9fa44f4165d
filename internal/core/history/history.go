// Package history tells from the readings of a database when its objects changed, and how they grew.
package history

import (
	"cmp"
	"context"
	"slices"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

// Change is what a reading found otherwise than the one before.
type Change string

// The changes of an object.
const (
	First   Change = "first"   // it was there in the first reading
	Added   Change = "added"   // it was not there before
	Removed Change = "removed" // it is not there any more
	Changed Change = "changed"
)

// Step is a change of an object between two readings.
type Step struct {
	Snapshot   *catalogue.Snapshot // the first that has it so
	Before     *catalogue.Snapshot // the reading before, nil at first
	Change     Change
	Properties []schema.Difference
}

// Point is a size at a moment; -1 where it is not known.
type Point struct {
	Taken time.Time
	Rows  int64
	Bytes int64
}

// readings returns the readings of a database up to a snapshot, the oldest first.
func readings(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot) ([]*catalogue.Snapshot, error) {
	if s.Path != "" {
		return []*catalogue.Snapshot{s}, nil
	}
	all, err := c.Of(ctx, s.Server, s.Database)
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(o *catalogue.Snapshot) bool { return o.ID > s.ID })
	slices.Reverse(all)
	return all, nil
}

// Object is the history of one object.
type Object struct {
	Readings []*catalogue.Snapshot // the oldest first
	Steps    []Step                // the oldest first
	Sizes    []Point               // of the readings that have it
}

// OfObject returns the history of an object, by its identity.
func OfObject(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, id schema.ID, o diff.Options) (*Object, error) {
	all, err := readings(ctx, c, s)
	if err != nil {
		return nil, err
	}
	h := &Object{Readings: all}
	var before *catalogue.Entry
	var last *catalogue.Snapshot
	for i, r := range all {
		t, err := c.Contents(ctx, r)
		if err != nil {
			return nil, err
		}
		at := slices.IndexFunc(t.All(), func(e catalogue.Entry) bool { return e.ID.Identity() == id.Identity() })
		var now *catalogue.Entry
		if at >= 0 {
			now = t.At(at)
			sizes, _, err := c.Sizes(ctx, t)
			if err != nil {
				return nil, err
			}
			h.Sizes = append(h.Sizes, Point{r.Taken, sizes[at].Rows, sizes[at].Bytes})
		}
		step := Step{Snapshot: r, Before: last}
		switch {
		case before == nil && now == nil, before != nil && now != nil && before.Hash == now.Hash && before.ID == now.ID:
			step.Change = ""
		case now == nil:
			step.Change = Removed
		case before == nil && i == 0:
			step.Change = First
		case before == nil:
			step.Change = Added
		default:
			if step.Properties, err = differences(ctx, c, before, now, last, r, o); err != nil {
				return nil, err
			}
			if len(step.Properties) > 0 {
				step.Change = Changed
			}
		}
		if step.Change != "" {
			h.Steps = append(h.Steps, step)
		}
		before, last = now, r
	}
	return h, nil
}

func differences(ctx context.Context, c *catalogue.Catalogue, x, y *catalogue.Entry, before, after *catalogue.Snapshot, o diff.Options) ([]schema.Difference, error) {
	res, err := diff.Objects(ctx, c, &catalogue.Contents{Snapshot: before}, &catalogue.Contents{Snapshot: after}, x, y, o)
	if err != nil || len(res.Objects) == 0 {
		return nil, err
	}
	return res.Objects[0].Properties, nil
}

// Reading is one reading of a database, beside the one before.
type Reading struct {
	Snapshot *catalogue.Snapshot
	Summary  diff.Summary // of what changed since the one before
	Objects  int
	Bytes    int64 // of the database, -1 where it is not known
}

// Growth is how an object grew from the first reading that knows its size to the last.
type Growth struct {
	ID          schema.ID
	First, Last Point
}

// Database is the history of a database, or of some of its objects.
type Database struct {
	Readings []Reading // the oldest first
	Grown    []Growth  // what grew most comes first
}

// OfDatabase returns the history of the objects of a database that are wanted; nil: all.
func OfDatabase(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, wanted func(schema.ID) bool, o diff.Options) (*Database, error) {
	all, err := readings(ctx, c, s)
	if err != nil {
		return nil, err
	}
	h := &Database{}
	first, last := map[schema.ID]Point{}, map[schema.ID]Point{}
	o.Wanted = wanted
	for i, r := range all {
		t, err := c.Contents(ctx, r)
		if err != nil {
			return nil, err
		}
		sizes, total, err := c.Sizes(ctx, t)
		if err != nil {
			return nil, err
		}
		reading := Reading{Snapshot: r, Bytes: total.Bytes}
		if wanted != nil {
			reading.Bytes = -1
		}
		clear(last) // of what is gone nothing is said
		for j := range t.All() {
			id := t.At(j).ID
			if wanted != nil && !wanted(id) {
				continue
			}
			reading.Objects++
			p := Point{r.Taken, sizes[j].Rows, sizes[j].Bytes}
			if p.Rows < 0 && p.Bytes < 0 {
				continue
			}
			if wanted != nil && p.Bytes >= 0 {
				reading.Bytes = max(reading.Bytes, 0) + p.Bytes
			}
			if _, known := first[id]; !known {
				first[id] = p
			}
			last[id] = p
		}
		if i > 0 && all[i-1].Root != r.Root {
			res, err := diff.Compare(ctx, c, all[i-1], r, o)
			if err != nil {
				return nil, err
			}
			reading.Summary = res.Summary
		}
		h.Readings = append(h.Readings, reading)
	}
	for id, p := range last {
		g := Growth{ID: id, First: first[id], Last: p}
		if g.Bytes() > 0 || g.Rows() > 0 {
			h.Grown = append(h.Grown, g)
		}
	}
	slices.SortFunc(h.Grown, func(a, b Growth) int {
		return cmp.Or(cmp.Compare(b.Bytes(), a.Bytes()), cmp.Compare(b.Rows(), a.Rows()), a.ID.Compare(b.ID))
	})
	return h, nil
}

// Rows returns by how many rows it grew, 0 where that is not known.
func (g *Growth) Rows() int64 { return grown(g.First.Rows, g.Last.Rows) }

// Bytes returns by how many bytes it grew, 0 where that is not known.
func (g *Growth) Bytes() int64 { return grown(g.First.Bytes, g.Last.Bytes) }

func grown(first, last int64) int64 {
	if first < 0 || last < 0 {
		return 0
	}
	return last - first
}

// Week is what growth is told for.
const Week = 7 * 24 * time.Hour

// shortest is the time between readings from which on a growth per week is told: from less it would be guessed.
const shortest = 24 * time.Hour

// PerWeek returns how much a growth over some time is in a week; ok is false where the time is too short to tell.
func PerWeek(growth int64, over time.Duration) (_ float64, ok bool) {
	if over < shortest {
		return 0, false
	}
	return float64(growth) * float64(Week) / float64(over), true
}
