package diff

// What is not the same in all else but much alike may be a renaming, too: that is asked, and nothing rests on it.

import (
	"cmp"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Question is what may be one thing under two names.
type Question struct {
	Rename
	Likelihood float64 // from 0 to 1
}

type entry = catalogue.Entry

const (
	leastLikely = 0.6     // objects that are less alike are not asked
	leastColumn = 0.5     // nor are columns
	mostPairs   = 250_000 // that are looked at
)

// best keeps the pairs of which neither is more like another.
func best(all []Question, key func(*Question) (old, now string)) []Question {
	slices.SortStableFunc(all, func(a, b Question) int { return cmp.Compare(b.Likelihood, a.Likelihood) })
	taken := map[string]bool{}
	var out []Question
	for i := range all {
		old, now := key(&all[i])
		if !taken["-"+old] && !taken["+"+now] {
			taken["-"+old], taken["+"+now] = true, true
			out = append(out, all[i])
		}
	}
	return out
}

// ask notes what of the objects that are gone and have come may be the same.
func (w *comparison) ask() {
	if len(w.gone)*len(w.come) > mostPairs {
		return
	}
	var all []Question
	bags := [2][]map[string]int{w.bags(w.before), w.bags(w.after)}
	for i, g := range w.gone {
		for j, c := range w.come {
			if g.ID.Kind != c.ID.Kind || g.ID.Table != c.ID.Table {
				continue
			}
			if p := 0.7*common(bags[0][i], bags[1][j]) + 0.3*schema.Alike(g.ID.Name, c.ID.Name); p >= leastLikely {
				all = append(all, Question{Rename{Old: g.ID, New: c.ID}, p})
			}
		}
	}
	w.res.Questions = append(w.res.Questions, best(all, func(q *Question) (string, string) { return q.Old.Qualified(), q.New.Qualified() })...)
}

// bags counts what objects are made of: columns with their types, words of texts.
func (w *comparison) bags(objects []*schema.Object) []map[string]int {
	all := make([]map[string]int, len(objects))
	for i, o := range objects {
		bag := map[string]int{}
		words := func(texts ...string) {
			for _, text := range texts {
				for _, t := range sqltext.Tokens(text, w.o.Rules) {
					bag[text[t.Start:t.End]]++
				}
			}
		}
		if o.Relation != nil {
			for _, c := range o.Relation.Columns {
				bag[c.Name]++
				bag[c.Name+" "+c.Type]++
			}
			words(o.Relation.Query)
		}
		if o.Index != nil {
			bag["on "+o.Index.Table]++
			words(schema.DescribeKeyParts(o.Index.Columns), o.Index.Where)
		}
		if o.Routine != nil {
			words(o.Routine.Definition)
		}
		if o.Trigger != nil {
			bag["on "+o.Trigger.Table]++
			words(o.Trigger.Body, o.Trigger.Definition, o.Trigger.When)
		}
		if o.Enum != nil {
			for _, v := range o.Enum.Values {
				bag[v]++
			}
		}
		words(o.Definition)
		all[i] = bag
	}
	return all
}

// common returns how much two bags have in common, from 0 to 1 (Dice's coefficient).
func common(a, b map[string]int) float64 {
	both, all := 0, 0
	for word, n := range a {
		both += min(n, b[word])
		all += n
	}
	for _, n := range b {
		all += n
	}
	if all == 0 {
		return 0
	}
	return 2 * float64(both) / float64(all)
}

// askColumns notes what of the columns that are gone from a relation and have come may be the same.
func (w *comparison) askColumns(was, id schema.ID, before, after *schema.Object, taken map[string]bool) {
	if w.o.NoRenames || !id.Kind.HasRows() {
		return
	}
	var all []Question
	for i := range before.Relation.Columns {
		g := &before.Relation.Columns[i]
		if taken["-"+g.Name] || after.Relation.Column(g.Name) != nil {
			continue
		}
		for j := range after.Relation.Columns {
			c := &after.Relation.Columns[j]
			if taken["+"+c.Name] || before.Relation.Column(c.Name) != nil {
				continue
			}
			p := 0.6 * schema.Alike(g.Name, c.Name)
			if i == j {
				p += 0.15
			}
			switch kind := func(typ string) string { name, _, _ := strings.Cut(typ, "("); return name }; {
			case g.Type == c.Type:
				p += 0.15
			case kind(g.Type) == kind(c.Type):
				p += 0.1
			}
			if g.NotNull == c.NotNull && g.Default == c.Default {
				p += 0.1
			}
			if p >= leastColumn {
				all = append(all, Question{Rename{was, id, g.Name, c.Name}, p})
			}
		}
	}
	w.res.Questions = append(w.res.Questions, best(all, func(q *Question) (string, string) { return q.OldColumn, q.NewColumn })...)
}
