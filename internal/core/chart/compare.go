package chart

// What changed between two snapshots, as a picture: what came, went and changed, and the columns that did.

import (
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

// OfDiff draws what differs in a comparison. load returns what a snapshot holds.
func OfDiff(ctx context.Context, c *catalogue.Catalogue, res *diff.Result, load func(context.Context, *catalogue.Snapshot) (*catalogue.Contents, error)) (*Diagram, error) {
	b := builder{c: c, groups: map[string]int{}}
	before, err := load(ctx, res.Old)
	if err != nil {
		return nil, err
	}
	after, err := load(ctx, res.New)
	if err != nil {
		return nil, err
	}
	at := map[schema.ID]int{}
	tables := map[[2]string]int{}
	var drawn []*schema.Object
	for i := range res.Objects {
		o := &res.Objects[i]
		if k := o.ID.Kind; k == schema.KindIndex || !k.IsRelation() && !k.IsRoutine() && k != schema.KindTrigger {
			continue
		}
		side, id := after, o.ID
		if o.Change == diff.Removed {
			side = before
		}
		e := side.Find(id)
		if e == nil {
			continue
		}
		object, err := c.Object(ctx, e)
		if err != nil {
			return nil, err
		}
		box := Box{Name: object.Name, Group: b.group(side.Snapshot, id), State: string(o.Change), Note: o.Was.Name}
		if object.Kind != schema.KindTable {
			box.Kind = string(object.Kind)
		}
		if object.Relation != nil {
			b.changedRows(&box, object.Relation, o)
		}
		at[id] = len(b.d.Boxes)
		if object.Kind.IsRelation() {
			tables[[2]string{object.Schema, object.Name}] = len(b.d.Boxes)
		}
		b.d.Boxes = append(b.d.Boxes, box)
		drawn = append(drawn, object)
	}
	for i, object := range drawn {
		first := len(b.d.Links)
		b.references(object, i, tables)
		for k := first; k < len(b.d.Links); k++ {
			l := &b.d.Links[k]
			for _, state := range []string{"added", "removed"} {
				if b.d.Boxes[l.From].State == state || b.d.Boxes[l.To].State == state {
					l.State = state
				}
			}
		}
	}
	return b.finish(), nil
}

// changedRows draws the key columns and those that differ.
func (b *builder) changedRows(box *Box, r *schema.Relation, o *diff.Object) {
	states := map[string]string{}
	var gone []string
	for _, p := range o.Properties {
		rest, ok := strings.CutPrefix(p.Path, "columns/")
		if !ok {
			if rest, ok = strings.CutPrefix(p.Path, "relation/columns/"); !ok {
				continue
			}
		}
		column, deeper, _ := strings.Cut(rest, "/")
		switch {
		case deeper != "":
			states[column] = "changed"
		case p.Old == nil:
			states[column] = "added"
		case p.New == nil:
			states[column] = "removed"
			gone = append(gone, column)
		default:
			states[column] = "changed"
		}
	}
	for _, renamed := range o.Columns {
		states[renamed.New] = "renamed"
	}
	marks := Marks(r)
	for i := range r.Columns {
		name := r.Columns[i].Name
		switch {
		case states[name] == "" && marks[name] == "" && o.Change == diff.Changed:
		case len(box.Rows) == maxRows:
			box.More++
		default:
			box.Rows = append(box.Rows, Row{Name: name, Mark: marks[name], State: states[name]})
		}
	}
	for _, name := range gone {
		if !slices.ContainsFunc(box.Rows, func(x Row) bool { return x.Name == name }) {
			box.Rows = append(box.Rows, Row{Name: name, State: "removed"})
		}
	}
}
