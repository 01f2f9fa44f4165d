package ddl

// A script that drops is the inverse of the plan that makes; what stands in its way is told.

import (
	"maps"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// drops returns the statements that drop something, with what has to come right before each.
func drops(all []*engine.Statement) []*engine.Statement {
	var out []*engine.Statement
	for _, s := range all {
		if s.Unknown != nil {
			out = append(out, s)
			continue
		}
		for _, text := range []string{s.UndoFirst, s.Head} {
			if text != "" {
				out = append(out, &engine.Statement{Subject: s.Subject, Action: engine.Drop, Head: text, Settings: s.Settings, Alone: s.Alone})
			}
		}
	}
	return out
}

// dependantsLeft returns what depends on the selection and is not part of it.
func dependantsLeft(g *catalogue.Graph, t *catalogue.Contents, selected map[schema.ID]bool) []schema.ID {
	left := map[schema.ID]bool{}
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to := t.At(g.Ends[e.From].Entry).ID, &t.At(g.Ends[e.To].Entry).ID
		if selected[*to] && !selected[from] && !goesWith(from.Kind) && !e.Use.Apart() {
			left[from] = true
		}
	}
	return slices.SortedFunc(maps.Keys(left), schema.ID.Compare)
}

// goesWith reports whether objects of a kind go with the relation that they stand on.
func goesWith(k schema.Kind) bool {
	switch k {
	case schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy, schema.KindStatistics:
		return true
	}
	return false
}
