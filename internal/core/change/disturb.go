package change

// What is in the way of a change: definitions that rest on what is dropped or altered are dropped before and made again behind;
// parts of tables that do are taken off and put back.

import (
	"slices"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// partChange takes a part of a table off, or puts it on.
type partChange struct {
	table     schema.ID
	on        schema.ID // in whose way it is
	statement engine.Statement
	release   bool
}

// wave is what a definition must not rest on: some columns of an object, or all of it.
type wave struct {
	entry   int
	columns []string // none: the whole object
	keys    [][]string
	strict  bool // also what the server takes no notice of
	gone    bool // it goes for good, before something takes its name
	follow  bool // indexes follow
	indexed bool // no index may rest on the columns
}

// disturb finds what is in the way, and what is in the way of that.
func (p *planner) disturb() error {
	p.disturbed = map[schema.ID]bool{}
	var queue []wave
	for id := range p.anew {
		queue = append(queue, wave{entry: p.old.places[id]})
	}
	for was, x := range p.altered {
		if len(x.Disturbs)+len(x.Keys) > 0 {
			w := wave{entry: p.old.places[was], columns: x.Disturbs, keys: x.Keys, indexed: x.Indexed}
			if slices.Contains(x.Disturbs, "") {
				w.columns = nil
			}
			queue = append(queue, w)
		}
	}
	strict := p.wholeRenames()
	for i := range queue {
		queue[i].strict = queue[i].strict || strict
	}
	if strict {
		for was, x := range p.altered {
			if x.columns {
				queue = append(queue, wave{entry: p.old.places[was], strict: true, follow: true})
			}
		}
		for id := range p.removed {
			queue = append(queue, wave{entry: p.old.places[id], strict: true, follow: true})
		}
	}
	taken, err := p.taken()
	if err != nil {
		return err
	}
	for _, id := range taken {
		queue = append(queue, wave{entry: p.old.places[id], gone: true})
	}
	slices.SortFunc(queue, func(a, b wave) int { return a.entry - b.entry })
	for len(queue) > 0 {
		w := queue[0]
		queue = queue[1:]
		more, err := p.inTheWay(w)
		if err != nil {
			return err
		}
		for _, id := range more {
			if !p.anew[id] {
				p.anew[id], p.disturbed[id] = true, true
				delete(p.altered, id)
				queue = append(queue, wave{entry: p.old.places[id], strict: strict})
			}
		}
	}
	return nil
}

// taken returns the relations that are removed and whose names, or those of their parts, something takes that is made: they go before
// that, and so does what rests on them.
func (p *planner) taken() ([]schema.ID, error) {
	names := func(s *side, id schema.ID) ([]engine.Resource, error) {
		o, err := p.object(s, id)
		if err != nil {
			return nil, err
		}
		made, err := p.e.Make(o)
		if err != nil {
			return nil, nil // it is told where it is made
		}
		var all []engine.Resource
		for i := range made {
			if made[i].Action == engine.Make {
				all = append(all, made[i].Provides...)
			}
		}
		return all, nil
	}
	fresh := map[engine.Resource]bool{}
	for id := range p.added {
		if p.now.entry(id) == nil {
			continue
		}
		all, err := names(&p.now, id)
		if err != nil {
			return nil, err
		}
		for _, r := range all {
			fresh[r] = true
		}
	}
	var ids []schema.ID
	for id := range p.removed {
		if len(fresh) == 0 || !id.Kind.IsRelation() {
			continue
		}
		all, err := names(&p.old, id)
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(all, func(r engine.Resource) bool { return fresh[r] }) {
			ids = append(ids, id)
		}
	}
	slices.SortFunc(ids, schema.ID.Compare)
	return ids, nil
}

// holds reports whether a definition holds what it mentions fast.
func (p *planner) holds(id schema.ID) bool {
	holder, ok := p.e.(engine.Holder)
	if !ok || !(id.Kind == schema.KindView || id.Kind.IsRoutine()) {
		return false
	}
	o, err := p.object(&p.old, id)
	return err == nil && holder.Holds(o)
}

// wholeRenames reports whether a column is renamed where that reads every definition: none may then speak of what is away.
func (p *planner) wholeRenames() bool {
	for _, x := range p.altered {
		if x.columns && p.e.Traits().WholeRenames {
			return true
		}
	}
	return false
}

// inTheWay returns the definitions that rest on something, and notes the parts of tables that do.
func (p *planner) inTheWay(w wave) ([]schema.ID, error) {
	var found []schema.ID
	g, traits := p.old.graph, p.e.Traits()
	for _, i := range p.old.to[w.entry] {
		e := &g.Edges[i]
		to := g.Ends[e.To]
		from := g.Ends[e.From]
		id := p.old.contents.At(from.Entry).ID
		if w.gone && !(id.Kind == schema.KindView || id.Kind == schema.KindMaterialisedView || id.Kind == schema.KindRule || id.Kind.IsRoutine()) {
			continue // its own parts go with it, and tables let go of it in time
		}
		if w.follow && id.Kind == schema.KindIndex {
			continue
		}
		if from.Entry == w.entry || p.removed[id] || e.Use.Apart() || e.Use == schema.UseMemberOf {
			continue
		}
		if len(w.keys) > 0 && e.Use == schema.UseForeignKey {
			if err := p.takeOff(id, p.old.contents.At(w.entry).ID, g.Constraint(e), "", w.keys); err != nil {
				return nil, err
			}
			continue
		}
		if len(w.columns) == 0 && len(w.keys) > 0 || len(w.columns) > 0 && !slices.Contains(w.columns, to.Part) {
			continue
		}
		attached := id.Kind == schema.KindIndex || id.Kind == schema.KindTrigger || id.Kind == schema.KindRule || id.Kind == schema.KindPolicy || id.Kind == schema.KindStatistics
		of := p.old.contents.At(w.entry).ID
		attached = attached && id.Schema == of.Schema && (p.old.contents.At(from.Entry).On == of.Name || id.Table == of.Name || id.Kind == schema.KindStatistics)
		switch {
		case attached && len(w.columns) > 0: // an index goes with a change of its column; what else is attached does so only where it names it
			if id.Kind != schema.KindIndex || w.indexed {
				found = append(found, id)
			}
		case attached:
			found = append(found, id)
		case id.Kind.IsRelation() && id.Kind != schema.KindView && id.Kind != schema.KindMaterialisedView:
			if err := p.takeOff(id, p.old.contents.At(w.entry).ID, g.Constraint(e), from.Part, nil); err != nil {
				return nil, err
			}
		case p.holds(id):
			found = append(found, id)
		case w.strict && (id.Kind == schema.KindView || id.Kind == schema.KindTrigger):
			found = append(found, id)
		case traits.LaxNeeds || slices.Contains(traits.LaxKinds, id.Kind) || id.Kind.IsRoutine() && g.Evidence(e) != schema.Recorded:
			// the server takes no notice
		default:
			found = append(found, id)
		}
	}
	return found, nil
}

// takeOff notes that a foreign key, a check or a default of a table has to be away meanwhile.
func (p *planner) takeOff(table, on schema.ID, constraint, part string, keys [][]string) error {
	was, err := p.object(&p.old, table)
	if err != nil {
		return err
	}
	if was.Relation == nil || was.Setting(schema.System) != "" {
		return nil
	}
	if keys != nil && !slices.ContainsFunc(was.Relation.ForeignKeys, func(f schema.ForeignKey) bool {
		return f.Name == constraint && slices.ContainsFunc(keys, func(k []string) bool { return len(f.RefColumns) == 0 || sameColumns(k, f.RefColumns) })
	}) {
		return nil
	}
	splits := func(o *schema.Object) ([]engine.Split, error) {
		made, err := p.e.Make(o)
		var all []engine.Split
		for i := range made {
			for _, s := range made[i].Splits {
				if !s.First && (part != "" && s.Part == part || constraint != "" && names(&s, constraint)) {
					all = append(all, s)
				}
			}
		}
		return all, err
	}
	before, err := splits(was)
	if err != nil {
		return err
	}
	for i := range before {
		if undo := before[i].Apart.Undo; undo != "" {
			p.parts = append(p.parts, partChange{table, on, engine.Statement{Subject: table, Action: engine.Drop, Head: undo}, true})
		}
	}
	id := table
	if to, ok := p.renamed[table]; ok {
		id = to
	}
	if p.now.entry(id) == nil || len(before) == 0 {
		return nil
	}
	now, err := p.object(&p.now, id)
	if err != nil {
		return err
	}
	after, err := splits(now)
	for i := range after {
		s := after[i].Apart
		s.Subject, s.Provides = table, nil
		if constraint != "" {
			s.Risks = append(slices.Clone(s.Risks), engine.Risk{Kind: engine.HoldsUp, Text: "at least writers of " + table.String() + ", while all its rows are looked at"})
		}
		p.parts = append(p.parts, partChange{table, on, s, false})
	}
	return err
}

// names reports whether a part that can stand apart is the constraint of that name.
func names(s *engine.Split, constraint string) bool {
	return s.Apart.Subject.Kind == schema.KindForeignKey && s.Apart.Subject.Signature == constraint ||
		slices.ContainsFunc(s.Provides, func(r engine.Resource) bool { return r.What == schema.ForeignKeyNames && r.Name == constraint })
}

func sameColumns(a, b []string) bool {
	x, y := slices.Clone(a), slices.Clone(b)
	slices.Sort(x)
	slices.Sort(y)
	return slices.Equal(x, y)
}
