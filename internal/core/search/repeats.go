package search

// A key that is called after its table is found with the table; it is told with it.

import (
	"strings"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// WithoutRepeats leaves out keys and checks that are hits only because they repeat the name of their table, where the
// table is a hit itself. It returns how many were left out of each table, by the place of its row, and of all.
func (r *Result) WithoutRepeats(rows []Group) (kept []Group, of map[int]int, all int) {
	type object struct {
		snapshot int64
		id       schema.ID
	}
	tables := map[object]bool{}
	for _, g := range rows {
		if g.Part == "" && g.in == "" {
			tables[object{g.Snapshot.ID, g.ID}] = true
		}
	}
	left := map[object]int{}
	for _, g := range rows {
		key := object{g.Snapshot.ID, g.ID}
		if g.Part != "" && g.Part != schema.KindColumn && g.in == "" && tables[key] && r.repeats(g.Hit) {
			left[key]++
			all++
			continue
		}
		kept = append(kept, g)
	}
	of = map[int]int{}
	for i, g := range kept {
		if g.Part == "" && g.in == "" {
			if n := left[object{g.Snapshot.ID, g.ID}]; n > 0 {
				of[i] = n
			}
		}
	}
	return kept, of, all
}

// repeats reports whether a part's name would not match without the name of its table in it.
func (r *Result) repeats(h *Hit) bool {
	at := strings.Index(names.Fold(h.Name), names.Fold(h.ID.Name))
	if at < 0 || at+len(h.ID.Name) > len(h.Name) {
		return false
	}
	rest := h.Name[:at] + h.Name[at+len(h.ID.Name):]
	return rest == "" || r.matcher.spans(rest, index.FoldLine(rest)) == nil
}
