// Package drift lays the environments of a system side by side: what is the same in all, what differs from the one that they are
// held against, what is missing, and since when.
package drift

import (
	"cmp"
	"context"
	"runtime"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

// State is how an object stands in an environment, beside the one that it is held against.
type State string

// The states.
const (
	Same    State = "same"
	Differs State = "differs"
	Missing State = "missing"
	Only    State = "there" // and missing in the one that it is held against
)

// Cell is an object in one environment.
type Cell struct {
	State State
	// Version tells apart what differs: 1 is that of the environment that all are held against, equal ones have equal numbers; 0
	// where the object is missing.
	Version int
	// Since is when the difference began, as far as readings tell; zero where it is older than the first of them.
	Since      time.Time
	Properties []schema.Difference // in what it differs
	hash       schema.Hash
}

// Row is an object that is not the same everywhere, with a cell for each environment, in their order.
type Row struct {
	ID    schema.ID
	Cells []Cell
}

// apart counts the environments in which an object is not as in the first.
func (r *Row) apart() (n int) {
	for i := range r.Cells {
		if r.Cells[i].State != r.Cells[0].State {
			n++
		}
	}
	return n
}

// Group is a database in several environments.
type Group struct {
	Snapshots []*catalogue.Snapshot // the first is the one that the others are held against
	Rows      []Row                 // what differs in most environments comes first
	Same      int                   // objects that are the same in all
}

// Compare lays counterparts side by side; the first is the one that the others are held against. Renamed objects are two, one missing
// here and one there.
func Compare(ctx context.Context, c *catalogue.Catalogue, snapshots []*catalogue.Snapshot, o diff.Options) (*Group, error) {
	o.NoRenames = true
	results := make([]*diff.Result, len(snapshots))
	hashes := make([]map[schema.Identity]schema.Hash, len(snapshots))
	work, inner := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i := 1; i < len(snapshots); i++ {
		work.Go(func() (err error) {
			results[i], hashes[i], err = against(inner, c, snapshots[0], snapshots[i], o)
			return err
		})
	}
	if err := work.Wait(); err != nil {
		return nil, err
	}
	g := &Group{Snapshots: snapshots}
	at := map[schema.Identity]int{}
	for i, res := range results {
		if res == nil {
			continue
		}
		for j := range res.Objects {
			x := &res.Objects[j]
			place, known := at[x.ID.Identity()]
			if !known {
				place = len(g.Rows)
				at[x.ID.Identity()] = place
				g.Rows = append(g.Rows, newRow(x.ID, len(snapshots), x.Change == diff.Added))
			}
			cell := &g.Rows[place].Cells[i]
			switch x.Change {
			case diff.Removed:
				cell.State = Missing
			case diff.Added:
				cell.State = Only
			default:
				cell.State, cell.Properties = Differs, x.Properties
			}
			cell.hash = hashes[i][x.ID.Identity()]
		}
	}
	for i := range g.Rows {
		g.Rows[i].number()
	}
	if len(results) > 1 { // what is not in a row is the same in all
		total := results[1].Summary
		all := total.Same + total.Changed + total.Removed
		for i := range g.Rows {
			if g.Rows[i].Cells[0].State == Same {
				all--
			}
		}
		g.Same = all
	}
	if err := g.since(ctx, c); err != nil {
		return nil, err
	}
	slices.SortFunc(g.Rows, func(a, b Row) int {
		return cmp.Or(cmp.Compare(b.apart(), a.apart()), cmp.Compare(a.ID.Kind.Rank(), b.ID.Kind.Rank()), a.ID.Compare(b.ID))
	})
	return g, nil
}

// against compares an environment with the one that all are held against, and returns what the objects that differ there are.
func against(ctx context.Context, c *catalogue.Catalogue, base, s *catalogue.Snapshot, o diff.Options) (*diff.Result, map[schema.Identity]schema.Hash, error) {
	res, err := diff.Compare(ctx, c, base, s, o)
	if err != nil || len(res.Objects) == 0 {
		return res, nil, err
	}
	_, there, _, err := c.Pair(ctx, base, s)
	if err != nil {
		return nil, nil, err
	}
	wanted := make(map[schema.Identity]schema.Hash, len(res.Objects))
	for i := range res.Objects {
		wanted[res.Objects[i].ID.Identity()] = schema.Hash{}
	}
	for i := range there.All() {
		id := there.At(i).ID.Identity()
		if _, ok := wanted[id]; ok {
			wanted[id] = there.At(i).Hash
		}
	}
	return res, wanted, nil
}

func newRow(id schema.ID, n int, absent bool) Row {
	r := Row{ID: id, Cells: make([]Cell, n)}
	for i := range r.Cells {
		r.Cells[i].State = Same
		if absent { // an environment that does not have it, like the first, is no exception
			r.Cells[i].State = Missing
		}
	}
	return r
}

// number gives equal versions equal numbers.
func (r *Row) number() {
	next := 2
	known := map[schema.Hash]int{}
	for i := range r.Cells {
		c := &r.Cells[i]
		switch c.State {
		case Same:
			c.Version = 1
		case Missing:
		default:
			if known[c.hash] == 0 {
				known[c.hash] = next
				next++
			}
			c.Version = known[c.hash]
		}
	}
}
