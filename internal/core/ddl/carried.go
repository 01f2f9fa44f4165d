package ddl

// A script for another engine: the objects are carried over before their statements are made.

import (
	"context"
	"maps"
	"slices"
	"strings"

	"echo-atlas/internal/core/carry"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/format"
	"echo-atlas/internal/core/schema"
)

// carry adds the statements of objects in another engine.
func (p *planner) carry(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents, entries []*catalogue.Entry) error {
	from, to := p.script.engine, p.options.For
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	var typed []*catalogue.Entry // columns may be of any of them
	for i := range t.All() {
		if e := t.At(i); e.ID.Kind == schema.KindEnum || e.ID.Kind == schema.KindDomain {
			typed = append(typed, e)
		}
	}
	types, err := c.Objects(ctx, typed)
	if err != nil {
		return err
	}
	for _, o := range objects {
		schema.Strip(o, p.options.Without)
		p.options.Rename.object(o, from)
	}
	reads := func(id schema.ID) []schema.ID {
		var ids []schema.ID
		for _, n := range p.needs[id] {
			ids = append(ids, n.id)
		}
		return ids
	}
	result, err := carry.Objects(objects, types, reads, from, to)
	if err != nil {
		return err
	}
	p.script.engine, p.script.traits, p.script.carried = to, to.Traits(), true
	p.script.Losses, p.script.Objects = result.Losses, len(result.Objects)
	now := map[schema.ID]schema.ID{}
	for is, was := range result.Of {
		now[was] = is
	}
	for _, o := range result.Objects {
		if o.Kind == schema.KindView { // its lines are lost on the way
			if text, ok := format.Text(o.Relation.Query, to.Traits().Rules, format.Usual); ok {
				o.Relation.Query = strings.TrimRight(text, "\n")
			}
		}
		made, err := to.Make(o)
		if err != nil {
			made = []engine.Statement{unknown(o.ID(), err)}
		}
		made = slices.Clone(made)
		var needs []need
		was := result.Of[o.ID()]
		for _, n := range p.needs[was] {
			if is, ok := now[n.id]; ok {
				n.id = is
				needs = append(needs, n)
			} else if !p.selected[n.id] {
				p.assumed[n.id] = true
			}
		}
		if i := slices.IndexFunc(made, func(s engine.Statement) bool { return s.Action == engine.Make }); i >= 0 && o.Kind == schema.KindView {
			require(&made[i], &p.script.traits, o.Kind, needs)
		}
		p.all = append(p.all, engine.Pointers(made)...)
	}
	maps.DeleteFunc(p.assumed, func(id schema.ID, _ bool) bool { return id.Kind.IsType() })
	return nil
}
