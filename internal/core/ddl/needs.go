package ddl

// What objects need becomes what their statements require.

import (
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// waitForRoutines lets statements that run a routine wait for all routines, as far as they can: what a routine calls
// in turn is not known before its body is understood.
func waitForRoutines(all, executing []*engine.Statement) {
	var routines []engine.Resource
	for _, s := range all {
		if s.Subject.Kind.IsRoutine() && s.Action == engine.Make {
			routines = append(routines, s.Provides...)
		}
	}
	runs := func(list []engine.Resource) bool {
		return slices.ContainsFunc(list, func(r engine.Resource) bool { return r.What == schema.RoutineNames })
	}
	for _, s := range executing {
		runsAny := runs(s.Requires) || runs(s.Wishes)
		for k := range s.Splits {
			if runs(s.Splits[k].Requires) {
				runsAny = true
				s.Splits[k].Apart.Wishes = append(s.Splits[k].Apart.Wishes, routines...)
			}
		}
		if runsAny {
			s.Wishes = append(slices.Clone(s.Wishes), routines...)
			if s.Subject.Kind == schema.KindMaterialisedView { // it is filled, and a routine may read any relation
				s.Wishes = append(s.Wishes, relationsOf(all)...)
			}
		}
	}
}

// relationsOf returns the tables and views that statements make.
func relationsOf(all []*engine.Statement) []engine.Resource {
	var list []engine.Resource
	for _, s := range all {
		for _, r := range s.Provides {
			if r.What == schema.RelationNames && s.Subject.Kind != schema.KindMaterialisedView {
				list = append(list, r)
			}
		}
	}
	return list
}

// require adds the dependencies of an object to the statement that makes it.
func require(s *engine.Statement, t *engine.Traits, kind schema.Kind, needs []need) {
	lax := t.LaxNeeds || slices.Contains(t.LaxKinds, kind)
	routine := kind.IsRoutine()
	for _, n := range needs {
		r := engine.ResourceOf(n.id)
		if n.id.Kind == schema.KindBaseType && !s.FirstForms {
			s.Requires = append(s.Requires, engine.WholeOf(r))
		}
		cut := -1
		if n.part != "" {
			cut = slices.IndexFunc(s.Splits, func(c engine.Split) bool { return c.Part == n.part })
		}
		switch {
		case slices.Contains(s.Provides, r), slices.Contains(s.Requires, r):
		case cut >= 0:
			s.Splits[cut].Requires = append(s.Splits[cut].Requires, r)
			s.Splits[cut].Apart.Requires = append(s.Splits[cut].Apart.Requires, r)
		case mentions(s, r):
		case lax && !(s.Strict && !n.read), routine && n.read: // a body is not looked at when it is made
			s.Wishes = append(s.Wishes, r)
		default:
			s.Requires = append(s.Requires, r)
		}
	}
}

// mentions reports whether the engine has already said when r is required.
func mentions(s *engine.Statement, r engine.Resource) bool {
	return slices.Contains(s.Requires, r) || slices.Contains(s.Wishes, r) ||
		slices.ContainsFunc(s.Splits, func(c engine.Split) bool { return slices.Contains(c.Requires, r) })
}

// need is something that an object needs, or a part of it.
type need struct {
	id   schema.ID
	part string // of the object that needs it
	read bool   // known from its text alone
}

// needsOf returns what each selected object needs, each need once. What follows from the object itself
// (a sequence that a column owns) is left to the engine, which knows how it can stand apart.
func needsOf(g *catalogue.Graph, t *catalogue.Contents, selected map[schema.ID]bool) map[schema.ID][]need {
	needs := make(map[schema.ID][]need, len(selected))
	chosen := make([]bool, t.Len()) // by place: there are many edges, and an identifier is large
	for id := range selected {
		if i := t.Place(id); i >= 0 {
			chosen[i] = true
		}
	}
	for i := range g.Edges {
		e := &g.Edges[i]
		at := g.Ends[e.From].Entry
		if !chosen[at] || e.Use.Apart() || g.Ends[e.To].Entry == at {
			continue
		}
		from, to := t.At(at).ID, t.At(g.Ends[e.To].Entry).ID
		n := need{to, g.Ends[e.From].Part, g.Evidence(e) != schema.Recorded}
		list := needs[from]
		if i := slices.IndexFunc(list, func(have need) bool { return have.id == n.id && have.part == n.part }); i >= 0 {
			list[i].read = list[i].read && n.read
		} else {
			needs[from] = append(list, n)
		}
	}
	return needs
}
