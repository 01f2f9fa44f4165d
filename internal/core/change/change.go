// Package change plans the script that turns one version of a database into another: what differs becomes statements that
// alter, drop and make, with what is in their way taken out before and put back behind.
package change

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Options say what a script holds.
type Options struct {
	Without   []schema.Aspect
	WithLossy bool // statements that lose data are not written as comments
	NoGuard   bool // it does not look first whether the database is as it was read
	Together  bool // in a transaction, where the engine can do that
}

// Plan is a script that turns old into new.
type Plan struct {
	*ddl.Script
	// Disturbed are objects that are the same in both, and are dropped and made again because something in their way changes.
	Disturbed []schema.ID
	// Lossy counts statements that lose data and are written as comments.
	Lossy int
	// Left are differences that no statement is known for.
	Left []Left
}

// Left is an object of which something cannot be changed by a script.
type Left struct {
	ID  schema.ID
	Why error
}

// ErrServerLevel says that what belongs to no database is not changed by scripts.
var ErrServerLevel = errors.New("users, roles and databases are not changed by a script; write them with ddl")

// ErrNoChanger says that an engine's objects cannot be altered.
var ErrNoChanger = errors.New("no statements are known that alter objects of this engine")

// Write returns the script that turns the old database into the new one, as far as a comparison says that they differ.
func Write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, old, now *catalogue.Contents, res *diff.Result, o Options) (*Plan, error) {
	changer, ok := e.(engine.Changer)
	if !ok {
		return nil, fmt.Errorf("%w (%s)", ErrNoChanger, e.Name())
	}
	if old.Snapshot.Database == engine.ServerLevel || now.Snapshot.Database == engine.ServerLevel {
		return nil, ErrServerLevel
	}
	p := planner{ctx: ctx, c: c, e: e, changer: changer, old: side{contents: old}, now: side{contents: now}, options: &o,
		removed: map[schema.ID]bool{}, added: map[schema.ID]bool{}, anew: map[schema.ID]bool{}, renamed: map[schema.ID]schema.ID{}, altered: map[schema.ID]*alteration{}}
	for _, s := range []*side{&p.old, &p.now} {
		if err := s.load(ctx, c); err != nil {
			return nil, err
		}
	}
	if err := p.sort(res); err != nil {
		return nil, err
	}
	if err := p.disturb(); err != nil {
		return nil, err
	}
	statements, err := p.statements()
	if err != nil {
		return nil, err
	}
	if !o.NoGuard {
		guards, err := p.guards()
		if err != nil {
			return nil, err
		}
		statements = append(guards, statements...)
	}
	prelude := ""
	if w, ok := e.(engine.Wrapper); ok && len(statements) > 0 {
		var first, last []*engine.Statement
		first, last, prelude = w.Wrap(statements)
		statements = slices.Concat(first, statements, last)
	}
	plan := &Plan{Script: ddl.New(old.Snapshot, e, statements), Left: p.left}
	plan.Prelude = prelude
	plan.Objects = len(res.Objects)
	plan.Together = o.Together && e.Traits().Begin != ""
	if !o.WithLossy {
		plan.Lossy = p.spare(statements)
	}
	for id := range p.anew {
		if p.disturbed[id] {
			plan.Disturbed = append(plan.Disturbed, id)
		}
	}
	slices.SortFunc(plan.Disturbed, schema.ID.Compare)
	return plan, nil
}

// side is one of the two databases.
type side struct {
	contents *catalogue.Contents
	graph    *catalogue.Graph
	places   map[schema.ID]int
	from, to [][]int32                    // the edges of an entry, by their places in the graph
	loaded   map[schema.ID]*schema.Object // those that differ
}

func (s *side) load(ctx context.Context, c *catalogue.Catalogue) (err error) {
	if s.graph, err = c.Needs(ctx, s.contents); err != nil {
		return err
	}
	s.from, s.to = make([][]int32, s.contents.Len()), make([][]int32, s.contents.Len())
	for i := range s.graph.Edges {
		e := &s.graph.Edges[i]
		from, to := s.graph.Ends[e.From].Entry, s.graph.Ends[e.To].Entry
		s.from[from], s.to[to] = append(s.from[from], int32(i)), append(s.to[to], int32(i))
	}
	s.places = make(map[schema.ID]int, s.contents.Len())
	for i := range s.contents.All() {
		s.places[s.contents.At(i).ID] = i
	}
	return nil
}

func (s *side) entry(id schema.ID) *catalogue.Entry {
	if i, ok := s.places[id]; ok {
		return s.contents.At(i)
	}
	return nil
}

// alteration is how an object is altered.
type alteration struct {
	id       schema.ID // of the new version
	was, now *schema.Object
	engine.Alteration
	first   []engine.Statement // that give it and its columns their new names
	behind  []schema.Identity  // what has to be altered before
	after   []schema.ID        // what has to be altered before the last of it
	columns bool               // it or its columns have new names
}

// planner sorts what differs.
type planner struct {
	ctx      context.Context
	c        *catalogue.Catalogue
	e        engine.Engine
	changer  engine.Changer
	old, now side
	options  *Options

	removed, added map[schema.ID]bool
	anew           map[schema.ID]bool // dropped and made again; by the old identifier
	disturbed      map[schema.ID]bool // of these: the same in both
	renamed        map[schema.ID]schema.ID
	altered        map[schema.ID]*alteration // by the old identifier
	parts          []partChange              // of tables that are not altered
	relations      map[relationName]relationNames
	aside          map[string]aside                   // types of which an old version stands beside the new one, by how columns call them
	dropped        map[relationName][]engine.Resource // indexes that are dropped, by their tables
	asked          map[schema.Identity]bool           // what the comparison says differs
	left           []Left
}

// object loads one of the objects of a side.
func (p *planner) object(s *side, id schema.ID) (*schema.Object, error) {
	entry := s.entry(id)
	if entry == nil {
		return nil, fmt.Errorf("%s is not in %s", id.Qualified(), s.contents.Snapshot.Location())
	}
	if o := s.loaded[id]; o != nil {
		return clone(o)
	}
	o, err := p.c.Object(p.ctx, entry)
	if err == nil {
		schema.Strip(o, p.options.Without)
	}
	return o, err
}

// preload loads the objects that differ in one go.
func (p *planner) preload(res *diff.Result) error {
	for _, s := range []*side{&p.old, &p.now} {
		var entries []*catalogue.Entry
		for i := range res.Objects {
			d := &res.Objects[i]
			for _, id := range []schema.ID{d.ID, d.Was} {
				if e := s.entry(id); e != nil {
					entries = append(entries, e)
				}
			}
		}
		objects, err := p.c.Objects(p.ctx, entries)
		if err != nil {
			return err
		}
		s.loaded = make(map[schema.ID]*schema.Object, len(objects))
		for i, o := range objects {
			schema.Strip(o, p.options.Without)
			s.loaded[entries[i].ID] = o
		}
	}
	return nil
}

// counterpart returns the entry of the old side that is the same thing as one of the new.
func (p *planner) counterpart(id schema.ID) *catalogue.Entry {
	if e := p.old.entry(id); e != nil {
		return e
	}
	identity := id.Identity()
	for i := range p.old.contents.All() {
		if e := p.old.contents.At(i); e.ID.Identity() == identity {
			return e
		}
	}
	return nil
}

// sort takes the differences apart.
func (p *planner) sort(res *diff.Result) error {
	var followers []schema.ID
	p.newNames(res)
	if err := p.preload(res); err != nil {
		return err
	}
	if err := p.besides(res); err != nil {
		return err
	}
	p.asked = map[schema.Identity]bool{}
	for i := range res.Objects {
		d := &res.Objects[i]
		p.asked[d.ID.Identity()], p.asked[d.Was.Identity()] = true, true
		for _, id := range d.Followers {
			p.asked[id.Identity()] = true
		}
		switch d.Change {
		case diff.Added:
			p.added[d.ID] = true
		case diff.Removed:
			p.removed[d.ID] = true
		case diff.Changed:
			was := p.counterpart(d.ID)
			if was == nil {
				return fmt.Errorf("%s has no old version", d.ID.Qualified())
			}
			if err := p.alter(was.ID, d.ID, nil, d.Columns); err != nil {
				return err
			}
			followers = append(followers, d.Followers...)
		case diff.Renamed:
			if err := p.rename(d); err != nil {
				return err
			}
			followers = append(followers, d.Followers...)
		}
	}
	if err := p.retype(); err != nil {
		return err
	}
	return p.follow(followers)
}

// alter plans how an object becomes its new version; first are the statements that name it anew.
func (p *planner) alter(was, id schema.ID, first []engine.Statement, columns []diff.ColumnRename) error {
	old, err := p.object(&p.old, was)
	if err != nil {
		return err
	}
	now, err := p.object(&p.now, id)
	if err != nil {
		return err
	}
	if old.Setting(schema.System) != "" || now.Setting(schema.System) != "" {
		return nil
	}
	if err := p.inherit(&p.old, old); err != nil {
		return err
	}
	if err := p.inherit(&p.now, now); err != nil {
		return err
	}
	var former *schema.Object // under its old name
	if len(first) > 0 {
		copied := *old
		former = &copied
		old.Schema, old.Name = now.Schema, now.Name
		if r, ok := p.e.(engine.Relabeller); ok {
			if old, err = clone(old); err != nil {
				return err
			}
			r.Relabel(old, former.Name)
		}
	}
	p.followNames(old)
	types := p.retyped(old)
	renames, called, err := p.renameColumns(old, now, columns)
	if err != nil {
		return err
	}
	old, first = called, append(first, renames...)
	x := &alteration{id: id, was: old, now: now, first: first, columns: len(first) > 0 && now.Relation != nil}
	x.behind = append(x.behind, types...)
	if now.Index != nil && len(first) > 0 {
		x.behind = append(x.behind, schema.Identity{Space: schema.KindTable.NameSpace(), Schema: now.Schema, Name: p.formerly(now.Schema, now.On())})
	}
	if len(columns) > 0 {
		for _, parent := range old.Relation.Parents {
			x.behind = append(x.behind, schema.Identity{Space: schema.KindTable.NameSpace(), Schema: parent.Schema, Name: parent.Table})
		}
	}
	if x.Alteration, err = p.changer.Change(old, now, p.old.contents.Snapshot.Version); err != nil {
		p.left = append(p.left, Left{id, err})
		return nil
	}
	if len(x.Spare) > 0 && !p.options.WithLossy {
		x.Build, x.Links = x.Spare, append(x.Links, x.Lost...)
	}
	if former != nil && len(x.Release) > 0 { // what is let go of is let go of before
		if x.Release, err = p.releases(former, now); err != nil {
			return err
		}
	}
	if x.Anew {
		p.anew[was] = true
		if was != id {
			p.added[id] = true
		}
		return nil
	}
	p.altered[was] = x
	return nil
}

// releases returns what lets go of an object that has another name afterwards: under the name that it has before.
func (p *planner) releases(former, now *schema.Object) ([]engine.Statement, error) {
	as, err := clone(now)
	if err != nil {
		return nil, err
	}
	as.Schema, as.Name = former.Schema, former.Name
	if r, ok := p.e.(engine.Relabeller); ok {
		r.Relabel(as, now.Name)
	}
	x, err := p.changer.Change(former, as, p.old.contents.Snapshot.Version)
	return x.Release, err
}

// clone returns a copy that shares nothing.
func clone(o *schema.Object) (*schema.Object, error) {
	now, err := schema.DecodeObject(schema.AppendObject(nil, o))
	if err != nil {
		return nil, fmt.Errorf("copying %s: %w", o.ID().Qualified(), err)
	}
	now.Kind, now.Schema, now.Name, now.Within, now.Signature = o.Kind, o.Schema, o.Name, o.Within, o.Signature
	return now, nil
}

// inherit marks the columns and checks that a relation has because a parent has them: they follow the parent's.
func (p *planner) inherit(s *side, o *schema.Object) error {
	if o.Relation == nil {
		return nil
	}
	for _, parent := range o.Relation.Parents {
		var of *schema.Object
		for _, kind := range []schema.Kind{schema.KindTable, schema.KindPartitionedTable, schema.KindPartition, schema.KindForeignTable} {
			if id := (schema.ID{Kind: kind, Schema: parent.Schema, Name: parent.Table}); s.entry(id) != nil {
				var err error
				if of, err = p.object(s, id); err != nil {
					return err
				}
			}
		}
		if of == nil || of.Relation == nil {
			continue
		}
		for i := range o.Relation.Columns {
			c := &o.Relation.Columns[i]
			if from := of.Relation.Column(c.Name); from != nil && c.Inherited == nil {
				c.Inherited = &schema.Inheriting{OwnDefault: c.Default != from.Default, OwnNull: c.NotNull != from.NotNull}
			}
		}
		for i := range o.Relation.Checks {
			k := &o.Relation.Checks[i]
			if slices.ContainsFunc(of.Relation.Checks, func(x schema.Check) bool {
				return x.Name == k.Name && x.Expression == k.Expression && !x.NoInherit
			}) {
				k.Inherited = true
			}
		}
	}
	return nil
}

// rename plans a renaming where the engine has a statement for it, else a drop and a making.
func (p *planner) rename(d *diff.Object) error {
	apart := func() { p.removed[d.Was], p.added[d.ID] = true, true }
	renamer, ok := p.e.(engine.Renamer)
	if !ok || d.Was.Kind != d.ID.Kind || d.Was.Table != d.ID.Table && d.ID.Kind != schema.KindIndex || !(d.ID.Kind.IsRelation() || d.ID.Kind == schema.KindIndex || d.ID.Kind == schema.KindSequence || d.ID.Kind.IsType()) {
		apart()
		return nil
	}
	old, err := p.object(&p.old, d.Was)
	if err != nil {
		return err
	}
	if n, ok := p.relations[relationName{old.Schema, old.On()}]; ok && old.Index != nil { // its table has its new name by then
		x := *old.Index
		x.Table, old.Index = n.to.name, &x
	}
	var first []engine.Statement
	if d.Was.Name != d.ID.Name {
		s, err := renamer.Rename(old, engine.Renaming{Name: d.ID.Name}, p.old.contents.Snapshot.Version)
		if err != nil {
			return err
		}
		first = append(first, s...)
		if len(s) == 0 {
			apart()
			return nil
		}
	}
	if d.Was.Schema != d.ID.Schema {
		moved := *old
		moved.Name = d.ID.Name
		s, err := renamer.Rename(&moved, engine.Renaming{Name: d.ID.Name, Schema: d.ID.Schema}, p.old.contents.Snapshot.Version)
		if err != nil {
			return err
		}
		if len(s) == 0 {
			apart()
			return nil
		}
		first = append(first, s...)
	}
	p.renamed[d.Was] = d.ID
	return p.alter(d.Was, d.ID, first, d.Columns)
}

// follow replaces the definitions that call what is renamed by its new name; tables and indexes follow by themselves.
func (p *planner) follow(ids []schema.ID) error {
	for _, id := range ids {
		if id.Kind.IsRelation() && id.Kind != schema.KindView || id.Kind == schema.KindIndex {
			continue
		}
		was := p.counterpart(id)
		if was == nil || p.altered[was.ID] != nil {
			continue
		}
		if err := p.alter(was.ID, id, nil, nil); err != nil {
			return err
		}
	}
	return nil
}
