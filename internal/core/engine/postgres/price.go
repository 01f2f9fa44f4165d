package postgres

// What it costs to make an index where rows are (documentation: "CREATE INDEX", "Explicit Locking").

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Price implements engine.Pricer.
func (Engine) Price(o *schema.Object) []engine.Risk {
	x := o.Index
	table := qualify(o.Schema, x.Table)
	var risks []engine.Risk
	if x.Unique {
		var names []string
		for _, p := range x.Columns {
			if p.Column != "" {
				names = append(names, quote(p.Column))
			} else {
				names = append(names, "("+p.Expression+")")
			}
		}
		all := strings.Join(names, ", ")
		where := ""
		if x.Where != "" {
			where = " WHERE " + x.Where
		}
		risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows that agree in " + all, Query: "SELECT " + all + ", count(*) FROM " + table + where + " GROUP BY " + all + " HAVING count(*) > 1"})
	}
	return append(risks, engine.Risk{Kind: engine.HoldsUp, Text: "writers of " + x.Table + ", while it is built from all rows (SHARE); CREATE INDEX CONCURRENTLY, outside of a transaction, spares them"})
}
