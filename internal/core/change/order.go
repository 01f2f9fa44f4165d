package change

// The order: what lets go comes before what drops, what drops before what takes its name, what alters a table before what is made
// on it; foreign keys last.

import (
	"cmp"
	"slices"
	"strconv"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// States of an object that is altered, which statements wait for.
const (
	asItWas  = "as it was: "  // until the first of its statements
	unbuilt  = "unbuilt: "    // until the first of those that build
	released = "let go: "     // by those that let go of something
	built    = "built: "      // its columns and keys are as they will be
	step     = "after step: " // of its own statements
)

// state returns a state of an object as a resource; n tells steps apart.
func state(what string, id schema.ID, n int) engine.Resource {
	r := engine.ResourceOf(id)
	r.What = what + r.What
	if n > 0 {
		r.What += " " + strconv.Itoa(n)
	}
	return r
}

// statements returns all statements in order.
func (p *planner) statements() ([]*engine.Statement, error) {
	drop, make, again, err := p.selected()
	if err != nil {
		return nil, err
	}
	made, err := ddl.Plan(p.ctx, p.c, p.e, p.now.contents, make, p.options.Without)
	if err != nil {
		return nil, err
	}
	asBefore, err := ddl.Plan(p.ctx, p.c, p.e, p.old.contents, again, p.options.Without)
	if err != nil {
		return nil, err
	}
	made = append(made, asBefore...)
	there, err := ddl.Plan(p.ctx, p.c, p.e, p.old.contents, drop, p.options.Without)
	if err != nil {
		return nil, err
	}
	dropped := engine.Inverse(there)
	p.wait(dropped, made)
	all := append(slices.Clone(dropped), made...)
	all = append(all, p.alterations()...)
	sorted, err := ddl.Order(all)
	if err != nil {
		return nil, err
	}
	return p.written(sorted), nil
}

// selected returns the entries that are dropped, of the old side, those that are made, of the new, and those of the old that are made
// again as they were: they are in the way, and differ from the new ones in what nobody asked to change.
func (p *planner) selected() (drop, make, asBefore []*catalogue.Entry, err error) {
	stays := map[schema.Identity]bool{}
	for i := range p.old.contents.All() {
		e := p.old.contents.At(i)
		if p.removed[e.ID] || p.anew[e.ID] {
			drop = append(drop, e)
		}
		if p.disturbed[e.ID] && !p.asked[e.ID.Identity()] {
			if now := p.now.entry(e.ID); now == nil || now.Hash != e.Hash {
				stays[e.ID.Identity()] = true
				asBefore = append(asBefore, e)
			}
		}
	}
	if drop, err = p.withoutParts(drop); err != nil {
		return nil, nil, nil, err
	}
	again := map[schema.Identity]bool{}
	for id := range p.anew {
		again[id.Identity()] = true
	}
	for i := range p.now.contents.All() {
		e := p.now.contents.At(i)
		if (p.added[e.ID] || p.anew[e.ID] || again[e.ID.Identity()]) && !stays[e.ID.Identity()] {
			make = append(make, e)
		}
	}
	return drop, make, asBefore, nil
}

// withoutParts leaves out the indexes of partitions that go with that of the whole table: one of the same columns.
func (p *planner) withoutParts(drop []*catalogue.Entry) ([]*catalogue.Entry, error) {
	type table struct{ schema, name string }
	byTable := map[table][]*schema.Object{}
	objects := map[schema.ID]*schema.Object{}
	indexes := 0
	for _, e := range drop {
		if e.ID.Kind == schema.KindIndex {
			indexes++
		}
	}
	if indexes < 2 {
		return drop, nil
	}
	for _, e := range drop {
		if e.ID.Kind != schema.KindIndex {
			continue
		}
		o, err := p.object(&p.old, e.ID)
		if err != nil {
			return nil, err
		}
		objects[e.ID] = o
		at := table{e.ID.Schema, o.On()}
		byTable[at] = append(byTable[at], o)
	}
	goes := map[schema.ID]bool{}
	for id, o := range objects {
		partition := schema.ID{Kind: schema.KindPartition, Schema: id.Schema, Name: o.On()}
		if p.old.entry(partition) == nil {
			continue
		}
		of, err := p.object(&p.old, partition)
		if err != nil {
			return nil, err
		}
		for _, parent := range of.Relation.Parents {
			for _, whole := range byTable[table{parent.Schema, parent.Table}] {
				x, y := whole.Index, o.Index
				if whole.Setting("invalid") != "" && y != nil && y.PartOf == nil { // not all partitions have it: this one stands alone
					continue
				}
				if x != nil && y != nil && slices.Equal(x.Columns, y.Columns) && x.Unique == y.Unique && x.Method == y.Method && x.Where == y.Where {
					goes[id] = true
				}
			}
		}
	}
	return slices.DeleteFunc(drop, func(e *catalogue.Entry) bool { return goes[e.ID] }), nil
}

// wait lets drops come before what they rest on is altered, and makings behind.
func (p *planner) wait(dropped, made []*engine.Statement) {
	byOld, byNew := map[int]schema.ID{}, map[int]schema.ID{}
	for was, x := range p.altered {
		byOld[p.old.places[was]], byNew[p.now.places[x.id]] = was, was
	}
	for _, part := range p.parts {
		byOld[p.old.places[part.table]] = part.table
	}
	needed := func(s *side, by map[int]schema.ID) map[schema.ID][]schema.ID {
		out := map[schema.ID][]schema.ID{}
		for i := range s.graph.Edges {
			e := &s.graph.Edges[i]
			if was, ok := by[s.graph.Ends[e.To].Entry]; ok && !e.Use.Apart() {
				if from := s.contents.At(s.graph.Ends[e.From].Entry).ID; !slices.Contains(out[from], was) {
					out[from] = append(out[from], was)
				}
			}
		}
		return out
	}
	before, behind := needed(&p.old, byOld), needed(&p.now, byNew)
	instead := p.indexesMade(made)
	for _, s := range dropped {
		until := asItWas
		if s.Subject.Kind == schema.KindIndex { // a key that is let go of may rest on it
			until = unbuilt
			if e := p.old.contents.Find(s.Subject); e != nil {
				s.Wishes = append(slices.Clone(s.Wishes), instead[relationName{s.Subject.Schema, e.On}]...)
			}
		}
		for _, was := range before[s.Subject] {
			if was.Kind == schema.KindSequence { // it is let go of by what it would go with
				s.Requires = append(s.Requires, state(unbuilt, was, 0))
				continue
			}
			s.Requires = append(s.Requires, state(until, was, 0))
		}
	}
	for _, s := range made {
		for _, was := range behind[s.Subject] {
			if s.Subject.Kind.IsRelation() && s.Subject.Kind != schema.KindView && s.Subject.Kind != schema.KindMaterialisedView {
				s.Wishes = append(slices.Clone(s.Wishes), state(built, was, 0))
			} else {
				s.Requires = append(s.Requires, state(built, was, 0))
			}
		}
	}
}

// indexesMade returns the indexes that are made on tables that have foreign keys, where these rest on an index: another may take the
// place of one that goes, if it is there before.
func (p *planner) indexesMade(made []*engine.Statement) map[relationName][]engine.Resource {
	if !p.e.Traits().KeysOnIndexes {
		return nil
	}
	all := map[relationName][]engine.Resource{}
	for _, s := range made {
		if s.Subject.Kind != schema.KindIndex || s.Action != engine.Make {
			continue
		}
		e := p.now.contents.Find(s.Subject)
		if e == nil || p.old.contents.Find(s.Subject) != nil {
			continue
		}
		on := relationName{s.Subject.Schema, p.formerly(s.Subject.Schema, e.On)}
		all[on] = append(all[on], engine.ResourceOf(s.Subject))
	}
	return all
}

// alterations returns the statements that alter, each with what it waits for.
func (p *planner) alterations() []*engine.Statement {
	var ids []schema.ID
	parts := map[schema.ID][]partChange{}
	for was := range p.altered {
		ids = append(ids, was)
	}
	for _, part := range p.parts {
		if p.altered[part.table] == nil && parts[part.table] == nil {
			ids = append(ids, part.table)
		}
		parts[part.table] = append(parts[part.table], part)
	}
	slices.SortFunc(ids, schema.ID.Compare)
	var all []*engine.Statement
	for _, was := range ids {
		all = append(all, p.chain(was, p.altered[was], parts[was])...)
	}
	return all
}

// chain is the statements of one object, each behind the one before it.
type chain struct {
	p          *planner
	was        schema.ID
	x          *alteration
	gone, come []engine.Resource // what the old version needs and goes, what the new one needs and is made
	indexes    []engine.Resource // that go, and may be needed by a foreign key until then
	behind     []engine.Resource // what has to be altered before
	lets       bool              // it lets go of what goes, before
	seen       map[string]bool
	last       int // the number of the last statement that alters
	all        []*engine.Statement
}

// How a statement takes part.
const (
	releases = iota // it lets go of something
	builds          // columns and keys
	links           // what refers to other relations
)

func (c *chain) add(s engine.Statement, part int) {
	if c.seen[s.Text()] {
		return
	}
	c.seen[s.Text()] = true
	s.Subject, s.Step = c.x.id, len(c.all)+1
	s.Requires, s.Wishes, s.Provides = slices.Clone(s.Requires), slices.Clone(s.Wishes), slices.Clone(s.Provides)
	s.Destroys = append(slices.Clone(s.Destroys), state(asItWas, c.was, 0))
	c.all = append(c.all, &s)
	if part == releases {
		s.Action = engine.Drop
		s.Requires = append(append(s.Requires, c.gone...), c.indexes...)
		s.Provides = append(s.Provides, state(released, c.was, 0))
		return
	}
	s.Action = engine.Alter
	s.Destroys = append(s.Destroys, state(unbuilt, c.was, 0))
	s.Requires = append(s.Requires, c.behind...)
	s.Requires = append(s.Requires, state(released, c.was, 0))
	if c.last > 0 {
		s.Requires = append(s.Requires, state(step, c.was, c.last))
	}
	c.last++
	s.Provides = append(s.Provides, state(step, c.was, c.last))
	s.Wishes = append(s.Wishes, c.come...)
	for _, r := range c.gone { // what nobody provides is there until it goes
		if !slices.Contains(c.come, r) && (part != links || !c.lets) {
			s.Wishes = append(s.Wishes, r)
		}
	}
	if part == builds {
		s.Provides = append(s.Provides, state(built, c.was, 0))
	} else {
		s.Wishes = append(s.Wishes, c.p.builtNeeds(c.x.id)...)
	}
}

// chain returns the statements of one object.
func (p *planner) chain(was schema.ID, x *alteration, parts []partChange) []*engine.Statement {
	if x == nil {
		x = &alteration{id: was}
	}
	c := chain{p: p, was: was, x: x, indexes: p.droppedIndexes(was), seen: map[string]bool{}}
	c.gone, c.come = p.edges(was, x.id)
	c.lets = len(x.Release) > 0 || slices.ContainsFunc(parts, func(c partChange) bool { return c.release })
	for parent := range p.altered {
		if slices.Contains(x.behind, parent.Identity()) {
			c.behind = append(c.behind, state(built, parent, 0))
		}
	}
	for _, s := range x.first {
		c.add(s, builds)
	}
	for _, part := range parts {
		if part.release {
			c.add(part.statement, releases)
		}
	}
	for _, s := range x.Release {
		c.add(s, releases)
	}
	for _, s := range x.Build {
		c.add(s, builds)
	}
	if c.last == 0 && len(c.behind) > 0 { // nothing is to be done but to wait
		c.add(engine.Statement{}, builds)
	}
	for _, part := range parts {
		if !part.release {
			s := part.statement
			s.Requires = nil
			s.Wishes = append(s.Wishes, engine.ResourceOf(part.on), state(built, part.on, 0))
			c.add(s, links)
		}
	}
	for _, s := range x.Links {
		for _, id := range x.after {
			s.Wishes = append(slices.Clone(s.Wishes), state(built, id, 0))
		}
		c.add(s, links)
	}
	return c.all
}

// edges returns what the old version of an object needs and is dropped, and what the new one needs and is made.
func (p *planner) edges(was, id schema.ID) (gone, come []engine.Resource) {
	add := func(list *[]engine.Resource, r engine.Resource) {
		if !slices.Contains(*list, r) {
			*list = append(*list, r)
		}
	}
	if at, ok := p.old.places[was]; ok {
		for _, i := range p.old.from[at] {
			e := &p.old.graph.Edges[i]
			if to := p.old.contents.At(p.old.graph.Ends[e.To].Entry).ID; to != was && (p.removed[to] || p.anew[to]) {
				add(&gone, engine.ResourceOf(to))
			}
		}
	}
	if at, ok := p.now.places[id]; ok {
		for _, i := range p.now.from[at] {
			e := &p.now.graph.Edges[i]
			if to := p.now.contents.At(p.now.graph.Ends[e.To].Entry).ID; to != id && (p.added[to] || p.anew[to]) {
				add(&come, engine.ResourceOf(to))
			}
		}
	}
	return gone, come
}

// droppedIndexes returns the indexes of a table that are dropped.
func (p *planner) droppedIndexes(table schema.ID) []engine.Resource {
	if p.dropped == nil {
		p.dropped = map[relationName][]engine.Resource{}
		for i := range p.old.contents.All() {
			if e := p.old.contents.At(i); e.ID.Kind == schema.KindIndex && (p.removed[e.ID] || p.anew[e.ID]) {
				on := relationName{e.ID.Schema, e.On}
				p.dropped[on] = append(p.dropped[on], engine.ResourceOf(e.ID))
			}
		}
	}
	return p.dropped[relationName{table.Schema, table.Name}]
}

// builtNeeds returns the states of altered objects that the new version of an object needs.
func (p *planner) builtNeeds(id schema.ID) []engine.Resource {
	at, ok := p.now.places[id]
	if !ok {
		return nil
	}
	var out []engine.Resource
	for _, i := range p.now.from[at] {
		e := &p.now.graph.Edges[i]
		to := p.now.contents.At(p.now.graph.Ends[e.To].Entry).ID
		if was := p.wasOf(to); was != (schema.ID{}) && to != id {
			out = append(out, state(built, was, 0))
		}
	}
	return out
}

// wasOf returns what an altered object was called, the zero ID for others.
func (p *planner) wasOf(id schema.ID) schema.ID {
	if p.altered[id] != nil {
		return id
	}
	for was, to := range p.renamed {
		if to == id {
			return was
		}
	}
	return schema.ID{}
}

// written returns the statements as they are written: drops with what comes right before them, and what they cost.
func (p *planner) written(sorted []*engine.Statement) []*engine.Statement {
	var out []*engine.Statement
	for _, s := range sorted {
		if s.Unknown != nil {
			out = append(out, s)
			continue
		}
		if s.Action == engine.Drop && s.UndoFirst != "" {
			out = append(out, &engine.Statement{Subject: s.Subject, Action: engine.Drop, Head: s.UndoFirst, Settings: s.Settings, Alone: s.Alone})
		}
		if s.Action == engine.Drop { // its parts are for the order alone
			s = &engine.Statement{Subject: s.Subject, Action: engine.Drop, Head: s.Head, Settings: s.Settings, Alone: s.Alone, Risks: s.Risks}
		}
		if s.Text() == "" {
			continue
		}
		if s.Action == engine.Make && s.Subject.Kind == schema.KindIndex {
			s = p.priced(s)
		}
		if s.Action == engine.Drop && len(s.Risks) == 0 && keepsRows(s.Subject.Kind) && s.Head == cmp.Or(p.dropOf(s.Subject), "-") {
			what := "all rows of "
			if s.Subject.Kind == schema.KindSequence {
				what = "the position of "
			}
			s.Risks = append(s.Risks, engine.Risk{Kind: engine.Loses, Text: what + s.Subject.Qualified()})
		}
		out = append(out, s)
	}
	return out
}

// priced returns the statement of an index with what it costs to make it on a relation that is there.
func (p *planner) priced(s *engine.Statement) *engine.Statement {
	pricer, ok := p.e.(engine.Pricer)
	if !ok {
		return s
	}
	o, err := p.object(&p.now, s.Subject)
	if err != nil {
		return s
	}
	on := relationName{o.Schema, p.formerly(o.Schema, o.On())}
	if !slices.ContainsFunc(p.old.contents.All(), func(e catalogue.Entry) bool {
		return e.ID.Kind.IsRelation() && relationName{e.ID.Schema, e.ID.Name} == on && !p.removed[e.ID] && !p.anew[e.ID]
	}) {
		return s
	}
	out := *s
	out.Risks = append(slices.Clone(s.Risks), pricer.Price(o)...)
	return &out
}

// dropOf returns the statement that drops a relation with its rows, "" where that is not known.
func (p *planner) dropOf(id schema.ID) string {
	o, err := p.object(&p.old, id)
	if err != nil {
		return ""
	}
	made, err := p.e.Make(o)
	if err != nil {
		return ""
	}
	for i := range made {
		if made[i].Action == engine.Make {
			return made[i].Undo
		}
	}
	return ""
}

// keepsRows reports whether objects of a kind hold data.
func keepsRows(k schema.Kind) bool {
	return k == schema.KindTable || k == schema.KindPartitionedTable || k == schema.KindPartition || k == schema.KindSequence
}

// mostGuarded is how many objects a script looks at first.
const mostGuarded = 500

// guards returns the statements that look first whether the database is as it was read.
func (p *planner) guards() ([]*engine.Statement, error) {
	var ids, absent []schema.ID
	for id := range p.removed {
		ids = append(ids, id)
	}
	for id := range p.anew {
		ids = append(ids, id)
	}
	for id := range p.altered {
		ids = append(ids, id)
	}
	for id := range p.added {
		if p.counterpart(id) == nil {
			absent = append(absent, id)
		}
	}
	slices.SortFunc(ids, schema.ID.Compare)
	slices.SortFunc(absent, schema.ID.Compare)
	ids = slices.Compact(ids)
	ids = ids[:min(len(ids), mostGuarded)]
	var there []*schema.Object
	for _, id := range ids {
		o, err := p.object(&p.old, id)
		if err != nil {
			return nil, err
		}
		if o.Setting(schema.System) == "" {
			there = append(there, o)
		}
	}
	if len(there)+len(absent) == 0 {
		return nil, nil
	}
	return engine.Pointers(p.changer.Unmoved(there, absent[:min(len(absent), mostGuarded)])), nil
}
