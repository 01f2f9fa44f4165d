package change

// Types that are made anew beside their old version: the columns of the old one are given the new one.

import (
	"slices"

	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

// aside is a type whose old version stands beside the new one.
type aside struct {
	id   schema.ID
	text string // what the old version is called meanwhile
}

// besides finds the types that are made beside their old version.
func (p *planner) besides(res *diff.Result) error {
	p.aside = map[string]aside{}
	for i := range res.Objects {
		d := &res.Objects[i]
		if d.Change != diff.Changed || !d.ID.Kind.IsType() {
			continue
		}
		was, err := p.object(&p.old, d.ID)
		if err != nil {
			return err
		}
		now, err := p.object(&p.now, d.ID)
		if err != nil {
			return err
		}
		x, err := p.changer.Change(was, now, p.old.contents.Snapshot.Version)
		if err == nil && x.Aside != "" {
			p.aside[p.e.Quote(d.ID.Schema)+"."+p.e.Quote(d.ID.Name)] = aside{d.ID, x.Aside}
		}
	}
	return nil
}

// retyped calls the types of an object's columns as they are called once the new versions are there, and returns those types.
func (p *planner) retyped(o *schema.Object) (types []schema.Identity) {
	if o.Relation == nil || len(p.aside) == 0 || !o.Kind.HasRows() {
		return nil
	}
	relation := *o.Relation
	for i := range relation.Columns {
		typ := relation.Columns[i].Type
		array := ""
		for len(typ) > 2 && typ[len(typ)-2:] == "[]" {
			typ, array = typ[:len(typ)-2], array+"[]"
		}
		a, ok := p.aside[typ]
		if !ok {
			continue
		}
		if o.Relation != &relation {
			relation.Columns = slices.Clone(relation.Columns)
			o.Relation = &relation
		}
		relation.Columns[i].Type = a.text + array
		if !slices.Contains(types, a.id.Identity()) {
			types = append(types, a.id.Identity())
		}
	}
	return types
}

// retype alters the tables with columns of such types that are the same otherwise, and lets the types wait for all of them.
func (p *planner) retype() error {
	for _, a := range p.aside {
		x := p.altered[a.id]
		if x == nil {
			continue
		}
		for _, i := range p.old.to[p.old.places[a.id]] {
			e := &p.old.graph.Edges[i]
			id := p.old.contents.At(p.old.graph.Ends[e.From].Entry).ID
			if !id.Kind.HasRows() || p.removed[id] || p.anew[id] {
				continue
			}
			if p.altered[id] == nil && p.now.entry(id) != nil {
				if err := p.alter(id, id, nil, nil); err != nil {
					return err
				}
			}
			if !slices.Contains(x.after, id) {
				x.after = append(x.after, id)
			}
		}
	}
	return nil
}
