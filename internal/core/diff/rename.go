package diff

// What is gone from one side and has come on the other may be one object under two names. Two objects are taken for
// one where they agree in all but the name and no other pair does. What then differs only in the name by which it calls
// a renamed object follows from the rename, and is folded under it.

import (
	"bytes"
	"context"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// comparison is the work of Compare: pairs of old and new, and what is on one side alone.
type comparison struct {
	c          *catalogue.Catalogue
	o          *Options
	res        *Result
	models     [2]int
	olds, news []*catalogue.Entry
	gone, come []*catalogue.Entry

	before, after []*schema.Object // of gone and come, where they are loaded
	names         renaming         // old name to new
	renamedAs     map[string]int   // old name to the place of its rename among the result's objects
}

// mostRenames is how many objects may be gone and come together for renames to be looked for: beyond that they are
// no likely explanation.
const mostRenames = 2000

func (w *comparison) run(ctx context.Context) error {
	if len(w.gone) > 0 && len(w.come) > 0 && len(w.gone)+len(w.come) <= mostRenames {
		var err error
		if w.before, err = w.c.Objects(ctx, w.gone); err != nil {
			return err
		}
		if w.after, err = w.c.Objects(ctx, w.come); err != nil {
			return err
		}
		w.renames()
	}
	for _, e := range w.gone {
		w.res.Summary.Removed++
		w.res.Objects = append(w.res.Objects, Object{ID: e.ID, Change: Removed})
	}
	for _, e := range w.come {
		w.res.Summary.Added++
		w.res.Objects = append(w.res.Objects, Object{ID: e.ID, Change: Added})
	}
	before, after, err := w.c.Differing(ctx, w.olds, w.news)
	if err != nil {
		return err
	}
	for i := range before {
		w.changed(w.news[i].ID, before[i], after[i], schema.ID{})
	}
	return nil
}

// take removes a pair from what is gone and come.
func (w *comparison) take(gone, come map[int]bool) {
	left := func(entries []*catalogue.Entry, objects []*schema.Object, taken map[int]bool) ([]*catalogue.Entry, []*schema.Object) {
		var e []*catalogue.Entry
		var o []*schema.Object
		for i := range entries {
			if !taken[i] {
				e, o = append(e, entries[i]), append(o, objects[i])
			}
		}
		return e, o
	}
	w.gone, w.before = left(w.gone, w.before, gone)
	w.come, w.after = left(w.come, w.after, come)
}

// renames pairs objects that agree in all but their names: relations first, since others are called after them.
func (w *comparison) renames() {
	w.names, w.renamedAs = renaming{}, map[string]int{}
	relations := func(o *schema.Object) bool { return o.Kind.IsRelation() }
	others := func(o *schema.Object) bool { return !o.Kind.IsRelation() }
	w.pair(relations, false)
	w.pair(relations, true)
	w.followIdentity()
	w.pair(others, false)
	w.pair(others, true) // once more: of what was found now others may be called after
}

// likeness is equal for two objects that agree in all but the name.
type likeness struct {
	space, schema, table string
	hash                 schema.Hash
}

// like returns the likeness of an object, with the names of its constraints left out where loose is set. ok is false
// where there is too little to go by.
func (w *comparison) like(o *schema.Object, names renaming, loose bool) (_ likeness, ok bool) {
	switch {
	case o.Relation != nil && len(o.Relation.Columns) > 0, o.Index != nil, o.Trigger != nil, o.Sequence != nil:
	case o.Routine != nil && o.Routine.Definition != "", o.Definition != "", o.IsTyped():
	default:
		return likeness{}, false
	}
	own := renaming{}
	for old, to := range names {
		own[old] = to
	}
	own[o.Name] = self
	if loose && o.Relation == nil { // what it is called after itself may be another: a trigger and its function
		delete(own, o.Name)
		if to, ok := names[o.Name]; ok {
			own[o.Name] = to
		}
		o = headless(o, w.o.Rules)
	}
	n, _ := own.apply(o, w.o.Rules)
	schema.Strip(n, w.o.Without)
	n.Name, n.Schema = "", ""
	if loose {
		forgetNames(n)
	}
	return likeness{o.Kind.NameSpace(), o.Schema, n.Within, schema.HashOf(schema.AppendObject(nil, n))}, true
}

// headless returns an object whose definition does not say its name, where it says it first.
func headless(o *schema.Object, rules sqltext.Rules) *schema.Object {
	out := *o
	out.Definition = withoutFirst(o.Definition, o.Name, rules)
	if o.Trigger != nil {
		t := *o.Trigger
		t.Definition = withoutFirst(t.Definition, o.Name, rules)
		out.Trigger = &t
	}
	if o.Routine != nil {
		r := *o.Routine
		r.Definition = withoutFirst(r.Definition, o.Name, rules)
		out.Routine = &r
	}
	return &out
}

func withoutFirst(text, name string, rules sqltext.Rules) string {
	for _, t := range sqltext.Tokens(text, rules) {
		if (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName) && sqltext.Unquote(text, t, rules) == name {
			return text[:t.Start] + "it" + text[t.End:]
		}
	}
	return text
}

// self stands for an object's own name.
const self = "\x00"

// forgetNames takes the names of constraints out of an object, and puts these in an order of their own.
func forgetNames(o *schema.Object) {
	r := o.Relation
	if r == nil {
		return
	}
	for i := range r.Keys {
		r.Keys[i].Name = ""
	}
	for i := range r.ForeignKeys {
		r.ForeignKeys[i].Name = ""
	}
	for i := range r.Checks {
		r.Checks[i].Name = ""
	}
	for i := range r.Exclusions {
		r.Exclusions[i].Name = ""
	}
	order := func(x, y *schema.Relation) int {
		return bytes.Compare(schema.AppendObject(nil, &schema.Object{Relation: x}), schema.AppendObject(nil, &schema.Object{Relation: y}))
	}
	slices.SortFunc(r.Keys, func(x, y schema.Key) int {
		return order(&schema.Relation{Keys: []schema.Key{x}}, &schema.Relation{Keys: []schema.Key{y}})
	})
	slices.SortFunc(r.ForeignKeys, func(x, y schema.ForeignKey) int {
		return order(&schema.Relation{ForeignKeys: []schema.ForeignKey{x}}, &schema.Relation{ForeignKeys: []schema.ForeignKey{y}})
	})
	slices.SortFunc(r.Checks, func(x, y schema.Check) int {
		return order(&schema.Relation{Checks: []schema.Check{x}}, &schema.Relation{Checks: []schema.Check{y}})
	})
	slices.SortFunc(r.Exclusions, func(x, y schema.Exclusion) int {
		return order(&schema.Relation{Exclusions: []schema.Exclusion{x}}, &schema.Relation{Exclusions: []schema.Exclusion{y}})
	})
}

// pair finds renamed objects among those that are wanted.
func (w *comparison) pair(wanted func(*schema.Object) bool, loose bool) {
	sides := [2]map[likeness][]int{{}, {}}
	for side, objects := range [][]*schema.Object{w.before, w.after} {
		names := w.names
		if side == 1 {
			names = nil
		}
		for i, o := range objects {
			if !wanted(o) {
				continue
			}
			if l, ok := w.like(o, names, loose); ok {
				sides[side][l] = append(sides[side][l], i)
			}
		}
	}
	gone, come := map[int]bool{}, map[int]bool{}
	for j, o := range w.after { // in the order of identifiers
		if !wanted(o) {
			continue
		}
		l, ok := w.like(o, nil, loose)
		from := sides[0][l]
		if !ok || len(from) != 1 || len(sides[1][l]) != 1 {
			continue
		}
		i := from[0]
		gone[i], come[j] = true, true
		w.rename(i, j)
	}
	w.take(gone, come)
}

// rename notes that an object has another name.
func (w *comparison) rename(i, j int) {
	old, now := w.gone[i].ID, w.come[j].ID
	w.names[old.Name] = now.Name
	own, _ := w.names.apply(w.before[i], w.o.Rules)
	after, _ := renaming{}.apply(w.after[j], w.o.Rules)
	own.Kind, own.Name, own.Schema, own.Within = after.Kind, after.Name, after.Schema, after.Within
	properties := []schema.Difference{{Path: "name", Old: &old.Name, New: &now.Name}}
	properties = append(properties, schema.Compare(own, after, w.models[0], w.models[1], w.o.Without...)...) // names of constraints
	w.renamedAs[old.Name] = len(w.res.Objects)
	w.res.Summary.Renamed++
	w.res.Objects = append(w.res.Objects, Object{ID: now, Was: old, Change: Renamed, Properties: properties})
}

// followIdentity pairs objects that are called after a renamed relation: a trigger of PostgreSQL.
func (w *comparison) followIdentity() {
	at := map[schema.Identity]int{}
	for i, e := range w.gone {
		id := e.ID.Identity()
		if to, ok := w.names[id.Table]; ok && id.Table != "" {
			id.Table = to
			at[id] = i
		}
	}
	gone, come := map[int]bool{}, map[int]bool{}
	for j, e := range w.come {
		if i, ok := at[e.ID.Identity()]; ok {
			gone[i], come[j] = true, true
			w.changed(e.ID, w.before[i], w.after[j], w.gone[i].ID)
		}
	}
	w.take(gone, come)
}

// changed adds what differs in an object that both sides have; was is what it was called, if otherwise.
func (w *comparison) changed(id schema.ID, before, after *schema.Object, was schema.ID) {
	properties := w.o.onlyParts(id, w.o.properties(id, before, after, w.models))
	if len(properties) == 0 { // laid out differently, or in what is left out
		w.res.Summary.Same++
		return
	}
	if len(w.names) > 0 {
		old, touched := w.names.apply(before, w.o.Rules)
		now, _ := renaming{}.apply(after, w.o.Rules)
		if len(touched) > 0 {
			left := map[string]bool{}
			for _, d := range schema.Compare(old, now, w.models[0], w.models[1], w.o.Without...) {
				left[d.Path] = true
			}
			properties = slices.DeleteFunc(properties, func(d schema.Difference) bool { return !left[d.Path] })
			if len(properties) == 0 {
				o := &w.res.Objects[w.renamedAs[touched[0]]]
				o.Followers = append(o.Followers, id)
				w.res.Summary.Followed++
				return
			}
		}
	}
	w.res.Summary.Changed++
	w.res.Objects = append(w.res.Objects, Object{ID: id, Was: was, Change: Changed, Properties: properties})
}
