package references

// Lineage says of the columns of a view of what they are made.

import (
	"slices"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Lineage tells what becomes of the columns that a view reads, by their ends.
type Lineage struct {
	Into      map[schema.End][]string // the columns of the view in which each is
	Elsewhere map[schema.End]bool     // those that decide over its rows
}

// LineageOf returns the lineage of a view of a database; needs are the objects that it needs. ok is false where not all of it is known.
func LineageOf(database string, view *schema.Object, needs []*schema.Object, e engine.Engine) (_ Lineage, ok bool) {
	r := &schema.Reading{Database: database, Objects: append(slices.Clone(needs), view)}
	f := newFinder(r, e)
	rules := f.dialect(view)
	text := view.Text(schema.FieldQuery, "")
	if text == "" {
		text = view.Text(schema.FieldSource, "")
	}
	if view.Relation == nil || text == "" {
		return Lineage{}, false
	}
	out := Lineage{Into: map[schema.End][]string{}, Elsewhere: map[schema.End]bool{}}
	understood(text, func() []sqltext.Reference {
		var flow sqltext.Flow
		flow, ok = sqltext.FlowOf(sqltext.Parse(text, &rules), sqltext.Context{World: scoped{f.world, f.world.path(view, f.pather), view}})
		if ok = ok && len(flow.Outputs) == len(view.Relation.Columns); !ok {
			return nil
		}
		for i, list := range flow.Outputs {
			for _, c := range list {
				if o, is := c.Key.(*schema.Object); is {
					end := schema.ColumnEnd(o.ID(), c.Column)
					out.Into[end] = append(out.Into[end], view.Relation.Columns[i].Name)
				}
			}
		}
		for _, c := range flow.Elsewhere {
			if o, is := c.Key.(*schema.Object); is {
				out.Elsewhere[schema.ColumnEnd(o.ID(), c.Column)] = true
			}
		}
		return nil
	})
	return out, ok
}
