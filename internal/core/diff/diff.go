// Package diff compares two snapshots of a database, or of counterparts.
package diff

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
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
	Columns    []ColumnRename
	// Followers are objects that differ only in that they call a renamed object, or a renamed column of this one, by its new name.
	Followers []schema.ID
}

// ColumnRename is a column of another name.
type ColumnRename struct {
	Old, New string
	Guess    bool // all its properties are the same
}

// Summary counts objects.
type Summary struct {
	Same     int `json:"same"`
	Added    int `json:"added"`
	Removed  int `json:"removed"`
	Changed  int `json:"changed"`
	Renamed  int `json:"renamed"`
	Followed int `json:"followed,omitempty"` // they differ only in the name of a renamed object
	// Reordered are the same but for the order of their columns, which was not asked for; they are among the same.
	Reordered int `json:"reordered,omitempty"`
}

// Differs reports whether anything differs.
func (s Summary) Differs() bool { return s.Added+s.Removed+s.Changed+s.Renamed > 0 }

// Plus returns the sums of two summaries.
func (s Summary) Plus(o Summary) Summary {
	return Summary{s.Same + o.Same, s.Added + o.Added, s.Removed + o.Removed, s.Changed + o.Changed, s.Renamed + o.Renamed, s.Followed + o.Followed, s.Reordered + o.Reordered}
}

// Result is the comparison of two snapshots.
type Result struct {
	Old, New *catalogue.Snapshot
	Summary  Summary
	Objects  []Object // by identifier
	// Questions are what may be renamings; nothing else rests on them.
	Questions []Question
}

// Options limit a comparison.
type Options struct {
	Kinds   []schema.Kind
	Without []schema.Aspect
	Wanted  func(schema.ID) bool // nil: all
	// Parts limits the comparison of an object to some of its parts; those of other objects are not limited.
	Parts map[schema.ID][]Part
	Rules sqltext.Rules // of the dialect of the texts
	// Exact compares layout, brackets and names that servers make up, too.
	Exact     bool
	Order     bool // the order of columns counts
	NoRenames bool
	Fixed     []Rename // renamings that are known
	// MadeUp reports whether a constraint's name is one that the server makes up; it may be nil.
	MadeUp func(table, name string) bool
	// Former returns a type as models before the fourth held it: as a statement. It may be nil.
	Former func(*schema.Object) string
}

// Part is a part of an object.
type Part struct {
	Kind schema.Kind
	Name string
}

// path returns where the differences of a part stand.
func (p Part) path() string {
	list := map[schema.Kind]string{schema.KindColumn: "columns", schema.KindPrimaryKey: "keys", schema.KindUnique: "keys", schema.KindForeignKey: "foreign_keys",
		schema.KindCheck: "checks", schema.KindExclusion: "exclusions"}[p.Kind]
	return list + "/" + schema.PathPart(p.Name)
}

// For returns options for an engine's objects.
func For(e engine.Engine) Options {
	o := Options{Rules: e.Traits().Rules, MadeUp: e.Traits().MadeUp}
	if former, ok := e.(engine.Former); ok {
		o.Former = former.FormerDefinition
	}
	return o
}

// Compare compares two snapshots. Only what lies in differing chunks is loaded.
func Compare(ctx context.Context, c *catalogue.Catalogue, before, after *catalogue.Snapshot, o Options) (*Result, error) {
	res := &Result{Old: before, New: after}
	var a, b *catalogue.Contents
	var err error
	if len(o.Kinds) > 0 || o.Wanted != nil {
		if a, err = c.Contents(ctx, before); err == nil {
			b, err = c.Contents(ctx, after)
		}
	} else {
		a, b, res.Summary.Same, err = c.Pair(ctx, before, after)
	}
	if err != nil {
		return nil, err
	}
	olds, news := o.filter(a.All()), o.filter(b.All())
	w := comparison{c: c, o: &o, res: res, models: [2]int{before.Model, after.Model}, hidden: [2]map[string]bool{hiddenIn(before), hiddenIn(after)}}
	catalogue.DiffEntries(olds, news, func(x, y *catalogue.Entry) {
		switch {
		case x == nil:
			w.come = append(w.come, y)
		case y == nil:
			w.gone = append(w.gone, x)
		default:
			w.olds, w.news = append(w.olds, x), append(w.news, y)
		}
	})
	res.Summary.Same += len(olds) - len(w.gone) - len(w.olds)
	if err := w.run(ctx); err != nil {
		return nil, err
	}
	slices.SortFunc(res.Objects, func(x, y Object) int {
		return cmp.Or(x.ID.Compare(y.ID), strings.Compare(string(x.Change), string(y.Change)))
	})
	return res, nil
}

// properties returns in what two versions of an object differ. Where one was read when its kind was still held as a statement,
// the other is compared in that form, too.
func (o *Options) properties(id schema.ID, before, after *schema.Object, models [2]int) []schema.Difference {
	all := schema.Comparison{Models: models, Without: o.Without, Apart: o.NoRenames}.Compare(before, after)
	if o.Former != nil && before.IsTyped() != after.IsTyped() {
		text := func(x *schema.Object) string {
			if !x.IsTyped() {
				return x.Definition
			}
			whole := *x // what both sides hold alike, such as the name, may have been left out
			whole.Kind, whole.Schema, whole.Within, whole.Name = id.Kind, id.Schema, id.Table, id.Name
			return o.Former(&whole)
		}
		if old, now := text(before), text(after); old != now {
			all = append(all, schema.Difference{Path: "definition", Old: &old, New: &now})
		}
	}
	return all
}

// Objects compares two objects that may have different names.
func Objects(ctx context.Context, c *catalogue.Catalogue, before, after *catalogue.Contents, x, y *catalogue.Entry, o Options) (*Result, error) {
	res := &Result{Old: before.Snapshot, New: after.Snapshot}
	old, err := c.Object(ctx, x)
	if err != nil {
		return nil, err
	}
	now, err := c.Object(ctx, y)
	if err != nil {
		return nil, err
	}
	properties, reordered := o.meant(x.ID, y.ID, o.properties(y.ID, old, now, [2]int{before.Snapshot.Model, after.Snapshot.Model}))
	properties = o.onlyParts(y.ID, properties)
	if len(properties) == 0 {
		res.Summary.Same = 1
		if reordered {
			res.Summary.Reordered = 1
		}
		return res, nil
	}
	res.Summary.Changed = 1
	res.Objects = []Object{{ID: y.ID, Change: Changed, Properties: properties}}
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

// onlyParts keeps the differences of the parts that the comparison of an object is limited to.
func (o *Options) onlyParts(id schema.ID, all []schema.Difference) []schema.Difference {
	parts := o.Parts[id]
	if len(parts) == 0 {
		return all
	}
	return slices.DeleteFunc(all, func(d schema.Difference) bool {
		return !slices.ContainsFunc(parts, func(p Part) bool {
			path := p.path()
			renamed := d.Old != nil && strings.HasSuffix(d.Path, "/name") && *d.Old == p.Name
			return d.Path == path || strings.HasPrefix(d.Path, path+"/") || renamed
		})
	})
}
