// Package diff compares two snapshots of a database, or of counterparts.
package diff

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Change is what happened to an object between old and new.
type Change string

// The changes.
const (
	Added   Change = "added"
	Removed Change = "removed"
	Changed Change = "changed"
	Renamed Change = "renamed"
)

// Object is an object that differs.
type Object struct {
	ID         schema.ID
	Was        schema.ID // of a renamed object
	Change     Change
	Properties []schema.Difference
}

// Summary counts objects.
type Summary struct {
	Same    int `json:"same"`
	Added   int `json:"added"`
	Removed int `json:"removed"`
	Changed int `json:"changed"`
	Renamed int `json:"renamed"`
}

// Differs reports whether anything differs.
func (s Summary) Differs() bool { return s.Added+s.Removed+s.Changed+s.Renamed > 0 }

// Result is the comparison of two snapshots.
type Result struct {
	Old, New *catalogue.Snapshot
	Summary  Summary
	Objects  []Object // by identifier
}

// Options limit a comparison.
type Options struct {
	Kinds   []schema.Kind
	Without []string             // aspects: the first part of a property's path, or "owners", "comments"
	Wanted  func(schema.ID) bool // nil: all
}

// Compare compares two snapshots. Only what lies in differing chunks is loaded.
func Compare(ctx context.Context, c *catalogue.Catalogue, before, after *catalogue.Snapshot, o Options) (*Result, error) {
	res := &Result{Old: before, New: after}
	limited := len(o.Kinds) > 0 || o.Wanted != nil
	var a, b *catalogue.Contents
	var err error
	if limited {
		if a, err = c.Contents(ctx, before); err == nil {
			b, err = c.Contents(ctx, after)
		}
	} else {
		a, b, res.Summary.Same, err = c.Pair(ctx, before, after)
	}
	if err != nil {
		return nil, err
	}
	a.Entries, b.Entries = o.filter(a.Entries), o.filter(b.Entries)
	var gone, come []*catalogue.Entry
	var olds, news []*catalogue.Entry
	catalogue.DiffEntries(a.Entries, b.Entries, func(x, y *catalogue.Entry) {
		switch {
		case x == nil:
			come = append(come, y)
		case y == nil:
			gone = append(gone, x)
		default:
			olds, news = append(olds, x), append(news, y)
		}
	})
	res.Summary.Same += len(a.Entries) - len(gone) - len(olds)
	if err := res.compareChanged(ctx, c, olds, news, o); err != nil {
		return nil, err
	}
	if err := res.pairRenamed(ctx, c, gone, come, o); err != nil {
		return nil, err
	}
	slices.SortFunc(res.Objects, func(x, y Object) int {
		return cmp.Or(x.ID.Compare(y.ID), strings.Compare(string(x.Change), string(y.Change)))
	})
	return res, nil
}

func (o *Options) filter(entries []catalogue.Entry) []catalogue.Entry {
	if len(o.Kinds) == 0 && o.Wanted == nil {
		return entries
	}
	return slices.DeleteFunc(slices.Clone(entries), func(e catalogue.Entry) bool {
		return len(o.Kinds) > 0 && !slices.Contains(o.Kinds, e.ID.Kind) || o.Wanted != nil && !o.Wanted(e.ID)
	})
}

// without drops the properties of aspects that are left out.
func (o *Options) without(all []schema.Difference) []schema.Difference {
	if len(o.Without) == 0 {
		return all
	}
	return slices.DeleteFunc(all, func(d schema.Difference) bool {
		last := d.Path[strings.LastIndexByte(d.Path, '/')+1:]
		return slices.ContainsFunc(o.Without, func(aspect string) bool {
			return aspect == last || aspect == last+"s" || d.Path == aspect || strings.HasPrefix(d.Path, aspect+"/")
		})
	})
}

func (r *Result) compareChanged(ctx context.Context, c *catalogue.Catalogue, olds, news []*catalogue.Entry, o Options) error {
	before, after, err := c.Differing(ctx, olds, news)
	if err != nil {
		return err
	}
	for i := range before {
		properties := o.without(schema.Compare(before[i], after[i], r.Old.Model, r.New.Model))
		if len(properties) == 0 { // laid out differently, or in what is left out
			r.Summary.Same++
			continue
		}
		r.Summary.Changed++
		r.Objects = append(r.Objects, Object{ID: news[i].ID, Change: Changed, Properties: properties})
	}
	return nil
}

// pairRenamed takes an object that is gone and one that has come for one that was renamed where they
// are of one kind and schema, agree in all but the name, and no other pair does.
func (r *Result) pairRenamed(ctx context.Context, c *catalogue.Catalogue, gone, come []*catalogue.Entry, o Options) error {
	const most = 2000 // beyond that a rename is no likely explanation
	var before, after []*schema.Object
	if len(gone) > 0 && len(come) > 0 && len(gone)+len(come) <= most {
		var err error
		if before, err = c.Objects(ctx, gone); err != nil {
			return err
		}
		if after, err = c.Objects(ctx, come); err != nil {
			return err
		}
	}
	type likeness struct {
		kind   schema.Kind
		schema string
		hash   schema.Hash
	}
	like := func(object *schema.Object) (likeness, bool) {
		copied := *object
		copied.Name, copied.Source = "", ""
		if copied.Relation == nil || len(copied.Relation.Columns) == 0 {
			return likeness{}, false // too little to go by
		}
		return likeness{object.Kind, object.Schema, schema.HashOf(schema.AppendObject(nil, &copied))}, true
	}
	sides := [2]map[likeness][]int{{}, {}}
	for side, objects := range [][]*schema.Object{before, after} {
		for i, object := range objects {
			if l, ok := like(object); ok {
				sides[side][l] = append(sides[side][l], i)
			}
		}
	}
	renamedFrom := map[int]int{}
	left := map[int]bool{}
	for l, from := range sides[0] {
		if to := sides[1][l]; len(from) == 1 && len(to) == 1 {
			renamedFrom[to[0]] = from[0]
			left[from[0]] = true
		}
	}
	for i, e := range gone {
		if !left[i] {
			r.Summary.Removed++
			r.Objects = append(r.Objects, Object{ID: e.ID, Change: Removed})
		}
	}
	for i, e := range come {
		if from, ok := renamedFrom[i]; ok {
			r.Summary.Renamed++
			was := gone[from].ID
			oldName, newName := was.Name, e.ID.Name
			r.Objects = append(r.Objects, Object{ID: e.ID, Was: was, Change: Renamed, Properties: []schema.Difference{{Path: "name", Old: &oldName, New: &newName}}})
			continue
		}
		r.Summary.Added++
		r.Objects = append(r.Objects, Object{ID: e.ID, Change: Added})
	}
	return nil
}
