package ddl

// Some tables cannot be made without an index that stands on them; where none is selected, one comes along.

import (
	"context"
	"slices"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// complete returns the indexes that are not selected, but without which a selected table cannot be made: the first
// of each.
func complete(ctx context.Context, c *catalogue.Catalogue, e engine.Completer, t *catalogue.Contents, entries []*catalogue.Entry) ([]*catalogue.Entry, error) {
	type relation struct{ schema, name string }
	selected, done := map[schema.ID]bool{}, map[relation]bool{}
	var relations []*catalogue.Entry
	for _, entry := range entries {
		selected[entry.ID] = true
		if entry.ID.Kind.IsRelation() {
			relations = append(relations, entry)
		}
	}
	tables := map[relation]*schema.Object{}
	err := inBatches(ctx, c, relations, nil, func(_ int, o *schema.Object, _ struct{}) error {
		if o.Relation != nil && (numbersWithoutKey(o.Relation) || o.Setting(schema.ReplicaIndex) != "" || o.Setting(schema.ClusterIndex) != "") {
			tables[relation{o.Schema, o.Name}] = o
		}
		return nil
	})
	if err != nil || len(tables) == 0 {
		return nil, err
	}
	var candidates []*catalogue.Entry
	for i := range t.All() {
		if entry := t.At(i); entry.ID.Kind == schema.KindIndex && tables[relation{entry.ID.Schema, entry.On}] != nil {
			candidates = append(candidates, entry)
		}
	}
	indexes, err := c.Objects(ctx, candidates)
	if err != nil {
		return nil, err
	}
	var more []*catalogue.Entry
	for pass := range 2 { // those that are selected first: then no other is needed
		for i, index := range indexes {
			at := relation{candidates[i].ID.Schema, candidates[i].On}
			needed, one := e.Completes(tables[at], index)
			if selected[candidates[i].ID] != (pass == 0) || done[at] || !needed {
				continue
			}
			done[at] = one
			if pass == 1 {
				more = append(more, candidates[i])
			}
		}
	}
	return more, nil
}

// numbersWithoutKey reports whether a column numbers its rows and leads no key.
func numbersWithoutKey(r *schema.Relation) bool {
	return slices.ContainsFunc(r.Columns, func(c schema.Column) bool {
		return c.Identity != nil && !slices.ContainsFunc(r.Keys, func(k schema.Key) bool { return len(k.Columns) > 0 && k.Columns[0].Column == c.Name })
	})
}
