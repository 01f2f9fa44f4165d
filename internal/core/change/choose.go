package change

// A choice of what differs brings along what it needs to be made, and what has to go with what it drops.

import (
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

// Choose returns of a comparison what is wanted, with what that cannot do without, to any depth: what differs of the things that new
// versions need, and what differs of the things that rest on what is dropped.
func Choose(ctx context.Context, c *catalogue.Catalogue, old, now *catalogue.Contents, all *diff.Result, wanted func(*diff.Object) bool) (_ *diff.Result, brought []schema.ID, err error) {
	sides := [2]side{{contents: old}, {contents: now}}
	for i := range sides {
		if err := sides[i].load(ctx, c); err != nil {
			return nil, nil, err
		}
	}
	at := map[schema.ID]int{} // by the old and the new identifier
	chosen := make([]bool, len(all.Objects))
	var queue []int
	for i := range all.Objects {
		o := &all.Objects[i]
		at[o.ID] = i
		if o.Was.Name != "" {
			at[o.Was] = i
		}
		if wanted(o) {
			chosen[i] = true
			queue = append(queue, i)
		}
	}
	bring := func(s *side, entry int) {
		i, differs := at[s.contents.At(entry).ID]
		if differs && !chosen[i] {
			chosen[i] = true
			brought = append(brought, all.Objects[i].ID)
			queue = append(queue, i)
		}
	}
	for len(queue) > 0 {
		o := &all.Objects[queue[0]]
		queue = queue[1:]
		if o.Change == diff.Removed {
			s := &sides[0]
			for _, e := range s.to[s.places[o.ID]] {
				bring(s, s.graph.Ends[s.graph.Edges[e].From].Entry)
			}
			continue
		}
		if lost := lostColumns(o); len(lost) > 0 { // what reads them cannot stay as it is
			was := o.ID
			if o.Was.Name != "" {
				was = o.Was
			}
			s := &sides[0]
			for _, e := range s.to[s.places[was]] {
				if x := &s.graph.Edges[e]; lost[s.graph.Ends[x.To].Part] {
					bring(s, s.graph.Ends[x.From].Entry)
				}
			}
		}
		s := &sides[1]
		for _, e := range s.from[s.places[o.ID]] {
			bring(s, s.graph.Ends[s.graph.Edges[e].To].Entry)
		}
	}
	res := &diff.Result{Old: all.Old, New: all.New, Questions: all.Questions}
	for i := range all.Objects {
		if o := all.Objects[i]; chosen[i] {
			res.Objects = append(res.Objects, o)
			switch o.Change {
			case diff.Added:
				res.Summary.Added++
			case diff.Removed:
				res.Summary.Removed++
			case diff.Renamed:
				res.Summary.Renamed++
			default:
				res.Summary.Changed++
			}
		}
	}
	slices.SortFunc(brought, schema.ID.Compare)
	return res, brought, nil
}

// lostColumns returns the columns that the new version of an object does not have, or has under another name.
func lostColumns(o *diff.Object) map[string]bool {
	lost := map[string]bool{}
	for _, c := range o.Columns {
		lost[c.Old] = true
	}
	for _, p := range o.Properties {
		if name, ok := strings.CutPrefix(p.Path, "columns/"); ok && p.New == nil && !strings.Contains(name, "/") {
			lost[strings.ReplaceAll(name, "~1", "/")] = true
		}
	}
	return lost
}
