// Package ddl writes scripts: the statements that make a selection of objects, in an order that runs.
package ddl

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/carry"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/format"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// New returns the script of statements that are in order already.
func New(s *catalogue.Snapshot, e engine.Engine, statements []*engine.Statement) *Script {
	return &Script{Snapshot: s, Statements: statements, engine: e, traits: e.Traits()}
}

// Options say what a script holds.
type Options struct {
	WithNeeds      bool
	WithDependants bool
	Without        []schema.Aspect
	Rename         Renames
	Drop           bool          // statements that drop the selection instead of making it
	Recreate       bool          // drop what is there of the selection, then make it
	IfAbsent       bool          // make what is not there
	Database       bool          // make the database first, and enter it
	For            engine.Engine // carry it over to another engine; nil: none
	Style          *format.Style // lay out the statements; nil: as they come
	StyleAll       bool          // and the texts of views and routines, which stay as the server keeps them otherwise
	Together       bool          // in a transaction, where the engine can do that and the script is not too large for one
}

// mostTogether is how many objects a transaction may make: each takes locks, for which servers keep little room.
const mostTogether = 1000

// Script is an ordered list of statements for one database.
type Script struct {
	Snapshot   *catalogue.Snapshot
	Statements []*engine.Statement
	Objects    int
	Added      []*catalogue.Entry // needs or dependants that were added to the selection
	// Assumed are needs that are not part of the script: the target database must hold them.
	Assumed []schema.ID
	// Together says that all statements take effect or none, where the engine can do that.
	Together bool
	// Careful says that statements mind what is there: those that drop pass by what is missing, and those that make what is there.
	Careful bool
	// IfAbsent says that only what is not there is made.
	IfAbsent bool
	// Doubtful are objects whose strings may still hold names that were replaced elsewhere: they run them as SQL.
	Doubtful []schema.ID
	// Losses are what does not come along to another engine, or means something else there.
	Losses []carry.Loss
	// Prelude is what makes the database and enters it, as the client takes it.
	Prelude string
	// Obstacles depend on what a script drops before it makes it again, and are not part of it.
	Obstacles []schema.ID

	engine   engine.Engine
	traits   engine.Traits
	style    *format.Style // the statements are laid out in it; nil: they stay as they come
	styleAll bool
	carried  bool // to another engine than that of the snapshot
}

// Write returns the script for entries of one snapshot.
func Write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, entries []*catalogue.Entry, o Options) (*Script, error) {
	if !o.Recreate {
		return write(ctx, c, e, t, entries, o)
	}
	o.Recreate, o.IfAbsent = false, false
	made, err := write(ctx, c, e, t, entries, o)
	if err != nil {
		return nil, err
	}
	o.Drop = true
	dropped, err := write(ctx, c, e, t, append(slices.Clone(entries), made.Added...), o)
	if err != nil {
		return nil, err
	}
	made.Statements = append(dropped.Statements, made.Statements...)
	made.Careful, made.Obstacles = true, dropped.Assumed
	return made, nil
}

// Plan returns the statements that make entries, without an order, and what of other objects they need.
func Plan(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, entries []*catalogue.Entry, without []schema.Aspect) ([]*engine.Statement, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	p := planner{given: true, script: &Script{Snapshot: t.Snapshot, engine: e, traits: e.Traits()}, options: &Options{Without: without}, selected: make(map[schema.ID]bool, len(entries)), assumed: map[schema.ID]bool{}}
	p.options.Rename.used, p.options.Rename.database = map[string]bool{}, t.Snapshot.Database
	for _, entry := range entries {
		p.selected[entry.ID] = true
	}
	p.needs = needsOf(g, t, p.selected)
	if err := p.addAll(ctx, c, entries); err != nil {
		return nil, err
	}
	waitForRoutines(p.all, p.executing)
	return takeIn(p.all), nil
}

// write returns the script that makes entries, or drops them.
func write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, entries []*catalogue.Entry, o Options) (*Script, error) {
	s := &Script{Snapshot: t.Snapshot, engine: e, traits: e.Traits(), Careful: o.IfAbsent, IfAbsent: o.IfAbsent, style: o.Style, styleAll: o.StyleAll}
	o.Rename.used, o.Rename.database = map[string]bool{}, t.Snapshot.Database
	add := func(more []*catalogue.Entry) {
		s.Added, entries = append(s.Added, more...), append(slices.Clone(entries), more...)
	}
	near := neighbours{ctx: ctx, c: c, t: t, all: len(o.Rename.Containers) > 0} // what may be doubtful is looked for everywhere
	if o.WithDependants {
		g, err := near.graph(entries, trace.Dependants, 0)
		if err != nil {
			return nil, err
		}
		add(trace.Closure(g, t, entries, trace.Dependants))
	}
	if o.WithNeeds {
		g, err := near.graph(entries, trace.Needs, 0)
		if err != nil {
			return nil, err
		}
		add(withSchemas(t, entries, trace.Closure(g, t, entries, trace.Needs)))
	}
	if completer, ok := e.(engine.Completer); ok && o.For == nil && len(entries) < t.Len() {
		more, err := complete(ctx, c, completer, t, entries)
		if err != nil {
			return nil, err
		}
		add(more)
	}
	s.Objects = len(entries)
	s.Together = o.Together && s.traits.Begin != "" && len(entries) <= mostTogether
	p := planner{script: s, options: &o, selected: make(map[schema.ID]bool, len(entries)), assumed: map[schema.ID]bool{}}
	for _, entry := range entries {
		p.selected[entry.ID] = true
	}
	g, err := near.graph(entries, trace.Needs, 1)
	if err != nil {
		return nil, err
	}
	p.needs = needsOf(g, t, p.selected)
	if o.For != nil {
		err = p.carry(ctx, c, t, entries)
	} else {
		err = p.addAll(ctx, c, entries)
	}
	if err != nil {
		return nil, err
	}
	if len(o.Rename.Containers)+len(o.Rename.Owners) > 0 {
		if err := o.Rename.check(containersOf(t), ownersOf(t)); err != nil {
			return nil, err
		}
	}
	if err := p.order(); err != nil {
		return nil, err
	}
	if surplus, ok := e.(engine.Emptier); ok && o.For == nil && !o.Drop && len(entries) == t.Len() && seen(t) {
		s.Statements = append(engine.Pointers(surplus.Surplus(func(id schema.ID) bool { return t.Find(id) != nil })), s.Statements...)
	}
	if len(o.Rename.Containers) > 0 {
		s.Doubtful = doubtful(g, t, p.selected, &o.Rename)
	}
	if o.Database {
		maker, ok := s.engine.(engine.DatabaseMaker)
		if !ok {
			return nil, ErrNoDatabases
		}
		s.Prelude = maker.MakeDatabase(o.Rename.container(t.Snapshot.Database))
	}
	if o.Drop {
		if g, err = near.graph(entries, trace.Dependants, 1); err != nil {
			return nil, err
		}
		s.Assumed = dependantsLeft(g, t, p.selected)
	} else {
		s.Assumed = slices.SortedFunc(maps.Keys(p.assumed), schema.ID.Compare)
	}
	return s, t.Err()
}

// neighbours reads the dependencies of what is selected: of sparse contents those alone.
type neighbours struct {
	ctx   context.Context
	c     *catalogue.Catalogue
	t     *catalogue.Contents
	all   bool             // all dependencies are needed
	whole *catalogue.Graph // once they are read
}

// graph returns the dependencies by which something is reached from entries in so many steps; 0 is no limit.
func (n *neighbours) graph(entries []*catalogue.Entry, dir trace.Direction, depth int) (g *catalogue.Graph, err error) {
	if n.t.IsSparse() && !n.all {
		places := make([]int, len(entries))
		for i, e := range entries {
			places[i] = n.t.Place(e.ID)
		}
		return n.c.Around(n.ctx, n.t, places, dir == trace.Needs, depth)
	}
	if n.whole == nil {
		n.whole, err = n.c.Needs(n.ctx, n.t)
	}
	return n.whole, err
}

// ErrNoDatabases says that an engine's server holds one database.
var ErrNoDatabases = errors.New("a database of this engine is a file, and is made by opening it")

// doubtful returns what is selected and runs strings as SQL that may name what is renamed.
func doubtful(g *catalogue.Graph, t *catalogue.Contents, selected map[schema.ID]bool, r *Renames) []schema.ID {
	found := map[schema.ID]bool{}
	for i := range g.Outside {
		if x := &g.Outside[i]; x.Use == schema.UseRunsUnseen {
			found[t.At(g.Ends[x.From].Entry).ID] = true
		}
	}
	for i := range g.Edges {
		e := &g.Edges[i]
		if to := t.At(g.Ends[e.To].Entry).ID; g.Evidence(e) == schema.Guessed && (to.Schema == "" || r.Containers[to.Schema] != "") {
			found[t.At(g.Ends[e.From].Entry).ID] = true
		}
	}
	maps.DeleteFunc(found, func(id schema.ID, _ bool) bool { return !selected[id] })
	return slices.SortedFunc(maps.Keys(found), schema.ID.Compare)
}

// planner gathers the statements of objects.
type planner struct {
	script            *Script
	options           *Options
	selected, assumed map[schema.ID]bool
	needs             map[schema.ID][]need
	all               []*engine.Statement
	executing         []*engine.Statement // that may run routines
	given             bool                // what every new database has is made, too
}

// made is what an engine makes of an object.
type made struct {
	statements []engine.Statement
	err        error
}

// make returns what the engine makes of an object.
func (p *planner) make(object *schema.Object) made {
	if object.Setting(schema.System) != "" {
		return made{} // the engine or an extension makes it
	}
	schema.Strip(object, p.options.Without)
	p.options.Rename.object(object, p.script.engine)
	statements, err := p.script.engine.Make(object)
	return made{statements, err}
}

// addAll adds the statements of entries. Those of some are made while those of the ones before are added, but for where names are changed: it
// is noted which are met.
func (p *planner) addAll(ctx context.Context, c *catalogue.Catalogue, entries []*catalogue.Entry) error {
	if len(p.options.Rename.Containers)+len(p.options.Rename.Owners) > 0 {
		return inBatches(ctx, c, entries, nil, func(i int, object *schema.Object, _ struct{}) error {
			p.add(entries[i].ID, object, p.make(object))
			return nil
		})
	}
	return inBatches(ctx, c, entries, p.makeAll, func(i int, object *schema.Object, of made) error { p.add(entries[i].ID, object, of); return nil })
}

// makeAll returns what the engine makes of objects.
func (p *planner) makeAll(objects []*schema.Object) []made {
	list := make([]made, len(objects))
	var group errgroup.Group
	group.SetLimit(2)
	const some = 64
	for start := 0; start < len(objects); start += some {
		group.Go(func() error {
			for i := start; i < min(start+some, len(objects)); i++ {
				list[i] = p.make(objects[i])
			}
			return nil
		})
	}
	_ = group.Wait() // never fails
	return list
}

// add adds what was made of an object, which was called id before names were changed.
func (p *planner) add(id schema.ID, object *schema.Object, of made) {
	if object.Setting(schema.System) != "" {
		return
	}
	rename, statements := &p.options.Rename, of.statements
	e := p.script.engine
	if of.err != nil { // it costs no more than itself
		statements = []engine.Statement{unknown(object.ID(), of.err)}
	}
	statements = slices.DeleteFunc(slices.Clone(statements), func(s engine.Statement) bool { return s.Given && !p.given }) // they are kept, and the engine's list has room for more
	if i := slices.IndexFunc(statements, func(s engine.Statement) bool { return s.Action == engine.Make }); i >= 0 {
		require(&statements[i], &p.script.traits, id.Kind, rename.needs(p.needs[id], e))
		if slices.Contains(p.script.traits.Executing, id.Kind) {
			p.executing = append(p.executing, &statements[i])
		}
	}
	for _, n := range p.needs[id] {
		if !p.selected[n.id] && n.id != id {
			p.assumed[n.id] = true
		}
	}
	p.all = append(p.all, engine.Pointers(statements)...)
}

// unknown returns the statement of an object whose text is not known.
func unknown(id schema.ID, err error) engine.Statement {
	return engine.Statement{Subject: id, Action: engine.Make, Unknown: err, Provides: []engine.Resource{engine.ResourceOf(id)}}
}

// order puts the statements of the script into order.
func (p *planner) order() error {
	p.needs = nil
	waitForRoutines(p.all, p.executing)
	all := takeIn(p.all)
	if p.options.Drop {
		all = engine.Inverse(all)
	}
	p.all, p.executing = nil, nil
	sorted, err := Order(all)
	if err != nil {
		return fmt.Errorf("ordering the script: %w", err)
	}
	if p.options.Drop {
		sorted = drops(sorted)
	}
	p.script.Statements = sorted
	return nil
}

// seen reports whether a snapshot is of a database, all of it: what it does not have is not there.
func seen(t *catalogue.Contents) bool {
	return t.Snapshot.Database != engine.ServerLevel && slices.ContainsFunc(t.All(), func(e catalogue.Entry) bool { return e.ID.Kind == schema.KindSchema }) &&
		!slices.ContainsFunc(t.Snapshot.Remarks, func(m schema.Remark) bool { return m.Subject == "" && (m.State == "unread" || m.State == "hidden") })
}

// containersOf returns the names of the schemas of a database, or its own where it has none.
func containersOf(t *catalogue.Contents) []string {
	names := map[string]bool{t.Snapshot.Database: true}
	for i := range t.All() {
		id := &t.At(i).ID
		if id.Schema != "" {
			names[id.Schema] = true
		}
		if id.Kind == schema.KindSchema {
			names[id.Name] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// ownersOf returns who owns the objects of a database.
func ownersOf(t *catalogue.Contents) []string {
	names := map[string]bool{}
	for i := range t.All() {
		if owner := t.At(i).Owner; owner != "" {
			names[owner] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// batch is how many objects are held at a time, and as many more that come next.
const batch = 1000

// inBatches calls each with the contents of entries, with their places and what prepare returns of them, and keeps few of them in memory. The
// next batch is loaded and prepared while each is called for the present one. prepare may be nil.
func inBatches[T any](ctx context.Context, c *catalogue.Catalogue, entries []*catalogue.Entry, prepare func([]*schema.Object) []T, each func(i int, o *schema.Object, of T) error) error {
	type loaded struct {
		objects []*schema.Object
		of      []T
		err     error
	}
	load := func(start int) <-chan loaded {
		to := make(chan loaded, 1)
		go func() {
			var l loaded
			l.objects, l.err = c.Objects(ctx, entries[start:min(start+batch, len(entries))])
			if l.of = make([]T, len(l.objects)); l.err == nil && prepare != nil {
				l.of = prepare(l.objects)
			}
			to <- l
		}()
		return to
	}
	var next <-chan loaded
	for start := 0; start < len(entries); start += batch {
		if next == nil {
			next = load(start)
		}
		present := <-next
		if next = nil; present.err != nil {
			return present.err
		}
		if start+batch < len(entries) {
			next = load(start + batch)
		}
		for i, o := range present.objects {
			if err := each(start+i, o, present.of[i]); err != nil {
				if next != nil {
					<-next // nothing goes on behind an error
				}
				return err
			}
		}
	}
	return nil
}

// withSchemas adds the schemas in which the objects of a script stand.
func withSchemas(t *catalogue.Contents, entries, needs []*catalogue.Entry) []*catalogue.Entry {
	there := map[string]bool{}
	for _, e := range append(slices.Clone(entries), needs...) {
		if e.ID.Kind == schema.KindSchema {
			there[e.ID.Name] = true
		}
	}
	for _, e := range append(slices.Clone(entries), needs...) {
		if name := e.ID.Schema; name != "" && !there[name] {
			there[name] = true
			if s := t.Find(schema.ID{Kind: schema.KindSchema, Name: name}); s != nil {
				needs = append(needs, s)
			}
		}
	}
	return needs
}
