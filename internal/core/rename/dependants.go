package rename

// Which objects are edited, and how they get their new texts.

import (
	"fmt"
	"maps"
	"slices"

	"echo-atlas/internal/core/schema"
)

// near returns the objects that have a dependency on the root, or on the column of it, by their places.
func (w *writer) near() map[int]bool {
	all := map[int]bool{}
	for i := range w.graph.Edges {
		e := &w.graph.Edges[i]
		to := w.graph.Ends[e.To]
		if from := w.graph.Ends[e.From].Entry; to.Entry == w.start && from != w.start && (w.to.Column == "" || to.Part == w.to.Column || to.Part == "" && w.graph.Evidence(e) == schema.Guessed) {
			all[from] = true
		}
	}
	return all
}

// dependants edits what the server does not adjust.
func (w *writer) dependants() error {
	wanted := map[int]bool{}
	for i := range w.graph.Edges {
		e := &w.graph.Edges[i]
		to := w.graph.Ends[e.To]
		from := w.graph.Ends[e.From].Entry
		if to.Entry != w.start || from == w.start || w.to.Column != "" && to.Part != w.to.Column && to.Part != "" {
			continue
		}
		d := w.graph.Dependency(w.contents, e)
		if w.wanted(&d) {
			wanted[from] = true
		}
	}
	replaced := map[int]bool{}
	for i := range w.contents.All() {
		o := w.objects[i]
		if !wanted[i] || o == nil {
			continue
		}
		if o.Synonym != nil {
			w.plan.Unsure = append(w.plan.Unsure, Unsure{Object: o.ID(), Reason: Elsewhere, Left: true})
			continue
		}
		now := *o
		if at := w.moved[o]; at != nil {
			now = *at
		}
		unsure := w.edited(o, &now, false)
		w.plan.Unsure = append(w.plan.Unsure, unsure...)
		if slices.ContainsFunc(unsure, func(u Unsure) bool { return u.Left }) || !touched(o, &now) {
			continue
		}
		replaced[i] = true
		w.texts[i] = &now
		w.plan.Edited = append(w.plan.Edited, o.ID())
	}
	w.hold()
	for _, i := range slices.Sorted(maps.Keys(w.texts)) {
		if w.held[i] {
			continue
		}
		if err := w.replace(i, w.texts[i]); err != nil {
			return err
		}
	}
	if err := w.siblings(replaced); err != nil {
		return err
	}
	w.sequence()
	return nil
}

// touched reports whether a text of an object is another one now.
func touched(o, now *schema.Object) bool {
	for _, f := range [...]schema.Field{schema.FieldSource, schema.FieldDefinition, schema.FieldQuery, schema.FieldBody, schema.FieldWhen} {
		if o.Text(f, "") != now.Text(f, "") {
			return true
		}
	}
	return slices.ContainsFunc(now.Columns(), func(c schema.Column) bool { return o.Text(schema.FieldDefault, c.Name) != c.Default })
}

// replace adds the statements that put an object in the place of what is there.
func (w *writer) replace(i int, now *schema.Object) error {
	made, err := w.renamer.Replace(now, w.version)
	if err != nil {
		return fmt.Errorf("writing %s: %w", now.ID().Qualified(), err)
	}
	if len(made) == 0 {
		w.plan.Unsure = append(w.plan.Unsure, Unsure{Object: now.ID(), Reason: NoStatement, Left: true})
		w.plan.Edited = slices.DeleteFunc(w.plan.Edited, func(id schema.ID) bool { return id == w.contents.At(i).ID })
	}
	for k := range made {
		made[k].Requires = append(slices.Clone(made[k].Requires), done)
		made[k].Provides = append(slices.Clone(made[k].Provides), last)
		w.needs(&made[k], i) // what else is edited and needed comes first, where that can be
	}
	w.statements = append(w.statements, made...)
	return nil
}

// siblings makes the triggers anew, too, that fire behind one that is made anew: the new one would come last.
func (w *writer) siblings(replaced map[int]bool) error {
	order := func(o *schema.Object) string { return o.Setting("order") }
	for i := range w.contents.All() {
		o := w.objects[i]
		if o == nil || o.Trigger == nil || order(o) == "" || replaced[i] {
			continue
		}
		for j := range replaced {
			x := w.objects[j]
			if replaced[j] && x.Trigger != nil && x.Trigger.Table == o.Trigger.Table && x.Trigger.Timing == o.Trigger.Timing && slices.Equal(x.Trigger.Events, o.Trigger.Events) &&
				(len(order(x)) < len(order(o)) || len(order(x)) == len(order(o)) && order(x) < order(o)) {
				now := *o
				if at := w.moved[o]; at != nil {
					now = *at
				}
				if err := w.replace(i, &now); err != nil {
					return err
				}
				break
			}
		}
	}
	return nil
}

// sequence lets the renaming come before what is edited.
func (w *writer) sequence() {
	for i := range w.statements {
		if s := &w.statements[i]; s.Subject == w.root.ID() || s.Subject == w.after.ID() {
			if !slices.Contains(s.Requires, last) {
				s.Provides = append(slices.Clone(s.Provides), done)
			}
		}
	}
}

// unseen notes what runs SQL that cannot be seen, anywhere in the database: it may mention the old name.
func (w *writer) unseen() {
	for i := range w.graph.Outside {
		x := &w.graph.Outside[i]
		id := w.contents.At(w.graph.Ends[x.From].Entry).ID
		if x.Use == schema.UseRunsUnseen && !slices.ContainsFunc(w.plan.Unsure, func(u Unsure) bool { return u.Object == id && u.Reason == NotSeen }) {
			w.plan.Unsure = append(w.plan.Unsure, Unsure{Object: id, Reason: NotSeen})
		}
	}
}
