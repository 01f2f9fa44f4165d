package ddl

// Some statements can be parts of others: the indexes of a table that cannot be made without them.

import (
	"slices"

	"echo-atlas/internal/core/engine"
)

// takeIn makes statements parts of others that can take them in.
func takeIn(all []*engine.Statement) []*engine.Statement {
	if !slices.ContainsFunc(all, func(s *engine.Statement) bool { return s.Joins != nil }) {
		return all
	}
	homes := map[engine.Resource]*engine.Statement{}
	for _, s := range all {
		if len(s.Items) > 0 {
			for _, r := range s.Provides {
				homes[r] = s
			}
		}
	}
	parts := map[*engine.Statement][]*engine.Statement{}
	kept := all[:0]
	for _, s := range all {
		if s.Joins != nil && homes[s.Joins.Home] != nil {
			home := homes[s.Joins.Home]
			parts[home] = append(parts[home], s)
		} else {
			kept = append(kept, s)
		}
	}
	for home, list := range parts {
		slices.SortFunc(list, before)
		slices.SortStableFunc(list, func(a, b *engine.Statement) int { return a.Step - b.Step })
		splits := make([]engine.Split, len(list), len(list)+len(home.Splits))
		for i, s := range list {
			needs := without(s.Requires, func(r engine.Resource) bool { return r == s.Joins.Home })
			splits[i] = engine.Split{Item: s.Joins.Item, Provides: s.Provides, Requires: needs, Apart: *s}
		}
		home.Splits = append(splits, home.Splits...)
	}
	return kept
}
