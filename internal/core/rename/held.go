package rename

// What holds the thing fast goes before the renaming, and what stands on that; behind it all is made again.

import (
	"context"
	"fmt"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// hold notes what holds the root fast: what mentions it in a definition that does, and what so mentions that.
func (w *writer) hold() {
	holder, ok := w.engine.(engine.Holder)
	if !ok {
		return
	}
	queue := []int{w.start}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for i := range w.graph.Edges {
			e := &w.graph.Edges[i]
			to, from := w.graph.Ends[e.To], w.graph.Ends[e.From].Entry
			if to.Entry != at || from == w.start || w.held[from] || w.objects[from] == nil || at == w.start && w.to.Column != "" && to.Part != w.to.Column {
				continue
			}
			if holder.Holds(w.objects[from]) {
				w.held[from] = true
				queue = append(queue, from)
			}
		}
	}
}

// gone is what there is once all that holds the thing fast is dropped.
var gone = engine.Resource{What: "nothing holds it"}

// release adds the statements that drop what holds the root fast, with what stands on it, and make it again.
func (w *writer) release(ctx context.Context, c *catalogue.Catalogue) error {
	if len(w.held) == 0 {
		return nil
	}
	for i := range w.statements {
		if s := &w.statements[i]; s.Subject == w.root.ID() {
			s.Requires = append(slices.Clone(s.Requires), gone)
		}
	}
	for i := range w.contents.All() {
		e := w.contents.At(i)
		attached := slices.ContainsFunc(w.graph.Edges, func(x catalogue.Edge) bool {
			return w.graph.Ends[x.From].Entry == i && w.held[w.graph.Ends[x.To].Entry] && (x.Use == schema.UseIndexOn || x.Use == schema.UseTriggerOn)
		})
		if !w.held[i] && !attached {
			continue
		}
		o := w.objects[i]
		if o == nil {
			var err error
			if o, err = c.Object(ctx, e); err != nil {
				return err
			}
		}
		now := o
		if edited := w.texts[i]; edited != nil {
			now = edited
		}
		drops, err := engine.DropStatements(w.engine, o)
		if err != nil {
			return fmt.Errorf("writing %s: %w", o.ID().Qualified(), err)
		}
		for _, s := range drops {
			if s.Head != "" {
				s.Provides = append(slices.Clone(s.Provides), gone)
				w.statements = append(w.statements, *s)
			}
		}
		made, err := w.engine.Make(now)
		if err != nil {
			return fmt.Errorf("writing %s: %w", o.ID().Qualified(), err)
		}
		for k := range made {
			made[k].Requires = append(slices.Clone(made[k].Requires), done)
			w.needs(&made[k], i)
		}
		w.statements = append(w.statements, made...)
	}
	return nil
}

// needs lets a statement that makes an object come behind those that make what it needs.
func (w *writer) needs(s *engine.Statement, at int) {
	if s.Action != engine.Make {
		return
	}
	for j := range w.graph.Edges {
		e := &w.graph.Edges[j]
		if to := w.graph.Ends[e.To].Entry; w.graph.Ends[e.From].Entry == at && to != at {
			s.Wishes = append(s.Wishes, engine.ResourceOf(w.contents.At(to).ID))
		}
	}
}
