// Package ddl writes scripts: the statements that make a selection of objects, in an order that runs.
package ddl

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// Options say what a script holds.
type Options struct {
	WithNeeds      bool
	WithDependants bool
	Without        []schema.Aspect
	Rename         Renames
	Drop           bool // statements that drop the selection instead of making it
}

// Script is an ordered list of statements for one database.
type Script struct {
	Snapshot   *catalogue.Snapshot
	Statements []*engine.Statement
	Objects    int
	Added      []*catalogue.Entry // needs or dependants that were added to the selection
	// Assumed are needs that are not part of the script: the target database must hold them.
	Assumed []schema.ID

	engine engine.Engine
	traits engine.Traits
}

// Write returns the script for entries of one snapshot.
func Write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, entries []*catalogue.Entry, o Options) (*Script, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	s := &Script{Snapshot: t.Snapshot, engine: e, traits: e.Traits()}
	o.Rename.used = map[string]bool{}
	add := func(more []*catalogue.Entry) {
		s.Added, entries = append(s.Added, more...), append(slices.Clone(entries), more...)
	}
	if o.WithDependants {
		add(trace.Closure(g, t, entries, trace.Dependants))
	}
	if o.WithNeeds {
		add(withSchemas(t, entries, trace.Closure(g, t, entries, trace.Needs)))
	}
	if completer, ok := e.(engine.Completer); ok {
		more, err := complete(ctx, c, completer, t, entries)
		if err != nil {
			return nil, err
		}
		add(more)
	}
	s.Objects = len(entries)
	p := planner{script: s, options: &o, selected: make(map[schema.ID]bool, len(entries)), assumed: map[schema.ID]bool{}}
	for _, entry := range entries {
		p.selected[entry.ID] = true
	}
	p.needs = needsOf(g, t, p.selected)
	if err := inBatches(ctx, c, entries, func(_ int, object *schema.Object) error { return p.add(object) }); err != nil {
		return nil, err
	}
	if err := o.Rename.check(containersOf(t), ownersOf(t)); err != nil {
		return nil, err
	}
	if err := p.order(); err != nil {
		return nil, err
	}
	if o.Drop {
		s.Assumed = dependantsLeft(g, t, p.selected)
	} else {
		s.Assumed = slices.SortedFunc(maps.Keys(p.assumed), schema.ID.Compare)
	}
	return s, nil
}

// planner gathers the statements of objects.
type planner struct {
	script            *Script
	options           *Options
	selected, assumed map[schema.ID]bool
	needs             map[schema.ID][]need
	all               []*engine.Statement
	executing         []*engine.Statement // that may run routines
}

// add adds the statements of an object.
func (p *planner) add(object *schema.Object) error {
	id := object.ID()
	if object.Setting(schema.System) != "" {
		return nil // the engine or an extension makes it
	}
	e, rename := p.script.engine, &p.options.Rename
	schema.Strip(object, p.options.Without)
	rename.object(object, e)
	statements, err := e.Make(object)
	if err != nil {
		return fmt.Errorf("writing %s: %w", id.Qualified(), err)
	}
	statements = slices.Clone(statements) // they are kept, and the engine's list has room for more
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
	return nil
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

// containersOf returns the names of the schemas of a database, or its own where it has none.
func containersOf(t *catalogue.Contents) []string {
	names := map[string]bool{t.Snapshot.Database: true}
	for i := range t.Entries {
		id := &t.Entries[i].ID
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
	for i := range t.Entries {
		if owner := t.Entries[i].Owner; owner != "" {
			names[owner] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// inBatches calls each with the contents of entries, with their places, and keeps few of them in memory.
func inBatches(ctx context.Context, c *catalogue.Catalogue, entries []*catalogue.Entry, each func(i int, o *schema.Object) error) error {
	const batch = 1000
	for start := 0; start < len(entries); start += batch {
		objects, err := c.Objects(ctx, entries[start:min(start+batch, len(entries))])
		if err != nil {
			return err
		}
		for i, o := range objects {
			if err := each(start+i, o); err != nil {
				return err
			}
		}
	}
	return nil
}

// withSchemas adds the schemas in which the objects of a script stand.
func withSchemas(t *catalogue.Contents, entries, needs []*catalogue.Entry) []*catalogue.Entry {
	there := map[string]bool{}
	for _, e := range entries {
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
