package postgres

// A table that inherits gets the columns of its parents first, in the order of the parents, and its own behind them.
// Where its columns stand in another order, because a parent grew later or the table joined its parents when it was
// made, it has to be made whole and join them again.

import "slices"

// joinsLater reports whether a table that inherits has to be made whole before it joins its parents.
func (r *reader) joinsLater(c *class) bool {
	if c.partition || len(r.parents[c.oid]) == 0 {
		return false
	}
	later, known := r.heirs[c.oid]
	if !known {
		later = r.outOfOrder(c)
		r.heirs[c.oid] = later
	}
	return later
}

func (r *reader) outOfOrder(c *class) bool {
	var merged []string
	generated := map[string]bool{}
	for _, p := range r.parents[c.oid] {
		for _, a := range r.attributes[p.relation] {
			if !slices.Contains(merged, a.name) {
				merged = append(merged, a.name)
			}
			generated[a.name] = generated[a.name] || a.generated != 0
		}
	}
	own := r.attributes[c.oid]
	for i, a := range own {
		if i < len(merged) && a.name != merged[i] {
			return true
		}
		inherited := r.extraOf(c.oid, a.number).inherited
		if generated[a.name] && !inherited { // it cannot be declared again and inherited in one statement
			return true
		}
	}
	return len(own) < len(merged)
}
