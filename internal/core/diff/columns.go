package diff

// Columns of other names: those that are known, and those that are the same in all else. What names them by the new name follows
// from that.

import (
	"maps"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
)

// Rename says that something has another name, or stands in another schema: an object, or a column of two objects that are the
// same one.
type Rename struct {
	Old, New             schema.ID
	OldColumn, NewColumn string
}

// columnNames are the columns of a relation that have other names.
type columnNames struct {
	was, id schema.ID
	pairs   []ColumnRename
}

// fixed takes out of what is gone and come what is known to be one object under two names.
func (w *comparison) fixed() {
	gone, come := map[int]bool{}, map[int]bool{}
	for _, f := range w.o.Fixed {
		i := slices.IndexFunc(w.gone, func(e *entry) bool { return e.ID == f.Old })
		j := slices.IndexFunc(w.come, func(e *entry) bool { return e.ID == f.New })
		if f.OldColumn == "" && i >= 0 && j >= 0 && !gone[i] && !come[j] {
			gone[i], come[j] = true, true
			w.rename(i, j)
		}
	}
	w.take(gone, come)
}

// findColumns notes which columns of a relation have other names.
func (w *comparison) findColumns(was, id schema.ID, before, after *schema.Object) {
	if before.Relation == nil || after.Relation == nil || sameNames(before.Relation.Columns, after.Relation.Columns) {
		return
	}
	var pairs []ColumnRename
	taken := map[string]bool{}
	add := func(old, now string, guess bool) {
		if !taken["-"+old] && !taken["+"+now] && before.Relation.Column(old) != nil && after.Relation.Column(now) != nil && before.Relation.Column(now) == nil {
			taken["-"+old], taken["+"+now] = true, true
			pairs = append(pairs, ColumnRename{old, now, guess})
		}
	}
	for _, f := range w.o.Fixed {
		if f.OldColumn != "" && f.Old == was && f.New == id {
			add(f.OldColumn, f.NewColumn, false)
		}
	}
	gone := func(c schema.Column) bool { return after.Relation.Column(c.Name) == nil }
	if id.Kind.HasRows() && !w.o.NoRenames && len(before.Relation.Columns) > 0 && slices.ContainsFunc(before.Relation.Columns, gone) {
		for _, d := range w.o.properties(id, before, after, w.models) {
			if name, ok := strings.CutPrefix(d.Path, "columns/"); ok && d.Guess {
				add(*d.Old, strings.ReplaceAll(strings.TrimSuffix(name, "/name"), "~1", "/"), true)
			}
		}
	}
	if len(pairs) > 0 {
		w.columns = append(w.columns, columnNames{was, id, pairs})
	}
	w.askColumns(was, id, before, after, taken)
}

func (w *comparison) columnsOf(id schema.ID) []ColumnRename {
	for _, c := range w.columns {
		if c.id == id {
			return c.pairs
		}
	}
	return nil
}

// naming returns the new names that count for an object: those of relations, and those of the columns of relations that it is, stands
// on or mentions.
func (w *comparison) naming(id schema.ID, before *schema.Object) naming {
	n := naming{names: w.names, all: w.names}
	if len(w.columns) == 0 {
		return n
	}
	look := maps.Clone(w.names)
	for _, c := range w.columns {
		if _, ok := look[c.was.Name]; !ok {
			look[c.was.Name] = c.id.Name
		}
	}
	_, touched := look.apply(before, w.o.Rules)
	for _, c := range w.columns {
		own := c.id == id
		if !own && !slices.Contains(touched, c.was.Name) {
			continue
		}
		if n.columns == nil {
			n.columns, n.all, n.names = renaming{}, maps.Clone(look), look
		}
		n.own = n.own || own
		for _, p := range c.pairs {
			n.columns[p.Old], n.all[p.Old] = p.New, p.New
		}
	}
	return n
}

func sameNames(a, b []schema.Column) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].Name != b[i].Name {
			return false
		}
	}
	return true
}
