package change

// What loses data is a comment unless it is wanted: then what it would drop stays, with all that this needs, and nothing else can take
// its name.

import (
	"slices"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// sparing knows what stays.
type sparing struct {
	p       *planner
	kept    map[schema.ID]bool // which would be dropped otherwise
	schemas map[string]bool
	names   map[engine.Resource]bool // that are taken
	unmade  map[engine.Resource]bool // what is not made therefore
}

// spare makes comments of the statements that lose data, and of those that cannot run without them. It returns how many lose data.
func (p *planner) spare(statements []*engine.Statement) (lossy int) {
	w := sparing{p: p, kept: map[schema.ID]bool{}, schemas: map[string]bool{}, names: map[engine.Resource]bool{}, unmade: map[engine.Resource]bool{}}
	for _, s := range statements {
		switch {
		case slices.ContainsFunc(s.Risks, func(r engine.Risk) bool { return r.Kind == engine.Loses }):
			s.Off = true
			lossy++
			w.stays(s)
		case len(w.kept)+len(w.names) == 0:
		case s.Action == engine.Drop && (w.kept[s.Subject] || s.Subject.Kind == schema.KindSchema && w.schemas[s.Subject.Name]), s.Action != engine.Drop && w.takes(s):
			s.Off = true
			if s.Action == engine.Make {
				for _, r := range s.Provides {
					w.unmade[r] = true
				}
			}
			s.Risks = append(slices.Clone(s.Risks), engine.Risk{Kind: engine.ByHand, Text: "once what loses data was done"})
		}
	}
	return lossy
}

// stays notes what is there because a statement is a comment.
func (w *sparing) stays(s *engine.Statement) {
	id := s.Subject
	if s.Action != engine.Drop { // a column stays
		if was := w.p.wasOf(id); was != (schema.ID{}) {
			id = was
		}
		w.needs(id)
		w.kept[id] = true
		return
	}
	w.kept[id], w.schemas[id.Schema] = true, true
	w.needs(id)
	o, err := w.p.object(&w.p.old, id)
	if err != nil {
		return
	}
	made, err := w.p.e.Make(o)
	if err != nil {
		return
	}
	for i := range made {
		for _, r := range made[i].Provides {
			w.names[r] = true
		}
	}
}

// needs notes what an object that stays needs of what would be dropped.
func (w *sparing) needs(id schema.ID) {
	at, ok := w.p.old.places[id]
	if !ok {
		return
	}
	for _, i := range w.p.old.from[at] {
		to := w.p.old.contents.At(w.p.old.graph.Ends[w.p.old.graph.Edges[i].To].Entry).ID
		if w.p.removed[to] && !w.kept[to] {
			w.kept[to] = true
			w.needs(to)
		}
	}
}

// takes reports whether a statement makes something of a name that is taken, or needs what is not made therefore.
func (w *sparing) takes(s *engine.Statement) bool {
	on := s.Subject.Table
	if e := w.p.now.entry(s.Subject); e != nil && on == "" {
		on = e.On
	}
	missing := func(r engine.Resource) bool { return w.unmade[r] }
	return slices.ContainsFunc(s.Requires, missing) || slices.ContainsFunc(s.Wishes, missing) || slices.ContainsFunc(s.Provides, func(r engine.Resource) bool { return w.names[r] }) ||
		on != "" && w.names[engine.Resource{What: schema.RelationNames, Schema: s.Subject.Schema, Name: on}] || w.names[engine.ResourceOf(s.Subject)]
}
