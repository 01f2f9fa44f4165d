// Package rename writes the script that gives a thing another name, or another schema, and edits every text that mentions it
// and that the server does not adjust. Names are replaced where the resolver finds them, nothing by search and replace; what
// is edited is read again in the world as it is afterwards, and has to mean the same.
package rename

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
)

// Plan is what a renaming takes.
type Plan struct {
	Script *ddl.Script
	Edited []schema.ID // what is put in the place of what is there, in the order of the entries
	Unsure []Unsure    // what people have to look at
	Anew   bool        // the engine has no statement for it: the object is made anew, and the old one dropped
}

// ErrNotKnown says that an engine does not tell how it renames.
var ErrNotKnown = errors.New("how this engine renames things is not known here")

// Write returns the plan of a renaming of the root.
func Write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, root *address.Match, to engine.Renaming) (*Plan, error) {
	renamer, ok := e.(engine.Renamer)
	if !ok {
		return nil, ErrNotKnown
	}
	w := writer{engine: e, renamer: renamer, to: to, texts: map[int]*schema.Object{}, held: map[int]bool{}, contents: root.Contents, plan: &Plan{}, version: root.Contents.Snapshot.Version}
	if w.to.Name == "" {
		w.to.Name = root.Entry.ID.Name
	}
	g, err := c.Needs(ctx, root.Contents)
	if err != nil {
		return nil, err
	}
	w.graph = g
	w.start = slices.IndexFunc(root.Contents.All(), func(x catalogue.Entry) bool { return x.ID == root.Entry.ID })
	if err := w.load(ctx, c); err != nil {
		return nil, err
	}
	made, err := renamer.Rename(w.root, w.to, w.version)
	if err != nil {
		return nil, err
	}
	if w.plan.Anew = len(made) == 0; w.plan.Anew {
		if made, err = w.anew(); err != nil {
			return nil, err
		}
	}
	w.statements = made
	if err := w.dependants(); err != nil {
		return nil, err
	}
	if err := w.release(ctx, c); err != nil {
		return nil, err
	}
	w.unseen()
	sorted, err := ddl.Order(engine.Pointers(w.statements))
	if err != nil {
		return nil, fmt.Errorf("ordering the script: %w", err)
	}
	w.plan.Script = ddl.New(root.Contents.Snapshot, e, sorted)
	w.plan.Script.Together = len(sorted) > 1
	w.plan.Script.Objects = len(w.plan.Edited) + 1
	return w.plan, nil
}

// writer is the work on one renaming.
type writer struct {
	engine   engine.Engine
	renamer  engine.Renamer
	version  string
	to       engine.Renaming
	contents *catalogue.Contents
	graph    *catalogue.Graph
	start    int // the root, by its place among the entries

	objects     map[int]*schema.Object // by place among the entries
	root, after *schema.Object         // as it is, and as it is afterwards
	before, now *references.Reader     // the world as it is, and as it is afterwards
	moved       map[*schema.Object]*schema.Object
	plan        *Plan
	statements  []engine.Statement
	texts       map[int]*schema.Object // what is edited, as it is afterwards, by place among the entries
	held        map[int]bool           // what holds the root fast, and is dropped before and made again behind
}

// done is what there is once the thing has its new name.
var done = engine.Resource{What: "new name"}

// load reads what names can mean, and makes the worlds of before and after.
func (w *writer) load(ctx context.Context, c *catalogue.Catalogue) error {
	var entries []*catalogue.Entry
	var at []int
	edited := w.near()
	for i := range w.contents.All() {
		e := w.contents.At(i)
		k := e.ID.Kind
		if k.IsRelation() || k.IsRoutine() || k.IsType() || k == schema.KindSequence || k == schema.KindSynonym || k == schema.KindPackage || k == schema.KindSchema || k == schema.KindTrigger || edited[i] || i == w.start {
			entries, at = append(entries, e), append(at, i)
		}
	}
	list, err := c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	w.objects = make(map[int]*schema.Object, len(list))
	w.moved = map[*schema.Object]*schema.Object{}
	later := slices.Clone(list)
	for i, o := range list {
		w.objects[at[i]] = o
	}
	w.root = w.objects[w.start]
	for i, o := range list {
		if now := w.renamed(o); now != o {
			w.moved[o], later[i] = now, now
		}
	}
	w.after = w.moved[w.root]
	w.before, w.now = references.NewReader(w.reading(list, false), w.engine), references.NewReader(w.reading(later, true), w.engine)
	return nil
}

// reading returns objects as a reading, with what triggers call.
func (w *writer) reading(objects []*schema.Object, after bool) *schema.Reading {
	r := &schema.Reading{Database: w.contents.Snapshot.Database, Engine: w.engine.Name(), Objects: objects}
	for i := range w.graph.Edges {
		if x := &w.graph.Edges[i]; x.Use == schema.UseCalls {
			from, to := w.objects[w.graph.Ends[x.From].Entry], w.objects[w.graph.Ends[x.To].Entry]
			if from == nil || to == nil || from.Trigger == nil {
				continue
			}
			if now := w.moved[from]; after && now != nil {
				from = now
			}
			if now := w.moved[to]; after && now != nil {
				to = now
			}
			r.Dependencies = append(r.Dependencies, schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.ObjectEnd(to.ID()), Use: x.Use})
		}
	}
	return r
}

// renamed returns an object as it is called afterwards; the object itself where nothing of its head changes.
func (w *writer) renamed(o *schema.Object) *schema.Object {
	on := w.to.Column == "" && w.root.Kind.IsRelation() && o != w.root && o.Schema == w.root.Schema
	switch {
	case o == w.root && w.to.Column != "" && o.Relation != nil:
		now, r := *o, *o.Relation
		r.Columns = slices.Clone(r.Columns)
		for i := range r.Columns {
			if r.Columns[i].Name == w.to.Column {
				r.Columns[i].Name = w.to.Name
			}
		}
		now.Relation = &r
		return &now
	case o == w.root:
		now := *o
		now.Name = w.to.Name
		if w.to.Schema != "" {
			now.Schema = w.to.Schema
		}
		return &now
	case on && o.Trigger != nil && o.Trigger.Table == w.root.Name:
		now, t := *o, *o.Trigger
		t.Table = w.to.Name
		if now.Within == w.root.Name {
			now.Within = w.to.Name
		}
		if w.to.Schema != "" {
			now.Schema = w.to.Schema
		}
		now.Trigger = &t
		return &now
	}
	return o
}

// anew returns the statements that make the root under its new name and drop the old one.
func (w *writer) anew() ([]engine.Statement, error) {
	if w.root.Relation != nil && w.root.Kind == schema.KindTable || w.root.IsTyped() && w.root.Kind.IsType() {
		return nil, fmt.Errorf("the engine has no statement that renames a %s", w.root.Kind)
	}
	now := *w.after
	for _, t := range w.edited(w.root, &now, true) {
		w.plan.Unsure = append(w.plan.Unsure, t)
	}
	if !w.rename(&now) {
		return nil, fmt.Errorf("the text of %s does not show where its name stands", w.root.ID().Qualified())
	}
	w.after = &now
	made, err := w.engine.Make(&now)
	if err != nil {
		return nil, err
	}
	old, err := engine.DropStatements(w.engine, w.root)
	if err != nil {
		return nil, err
	}
	for _, s := range old {
		if s.Head != "" {
			s.Action, s.Requires, s.Destroys = engine.Alter, []engine.Resource{last, done}, nil
			made = append(made, *s)
		}
	}
	return made, nil
}

// last is what there is once all that mentioned the old name is edited.
var last = engine.Resource{What: "edited texts"}
