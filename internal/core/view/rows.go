package view

// Rows of a list are objects, parts, or rights. They are gathered from what lists are made of: entries and names. Only what is
// shown of the rest is loaded.

import (
	"cmp"
	"context"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

// Row is a row of list: an object, a part, or the rights of somebody on one of these.
type Row struct {
	Match   address.Match
	Size    catalogue.Size
	Indexes int         // on a relation
	Line    *index.Line // of a column
	// What the object says, if it was loaded.
	Part   *schema.Part
	Column *schema.Column
	Index  *schema.Index
	Grant  *schema.Grant
}

// Subject is what the rows of a list are.
type Subject int

// The subjects.
const (
	Objects Subject = iota
	Parts
	Grants
)

// Rows is a list, and what it is limited to.
type Rows struct {
	Catalogue *catalogue.Catalogue
	Subject   Subject
	Kinds     []schema.Kind // of objects or of parts; none: all
	To        *names.Name   // whose rights are listed, nil for all
	Where     []Condition   // that each row meets
	Most      int           // rows that are kept; all are counted
	// IndexMethod returns how an index works that says nothing else, by the name of an engine.
	IndexMethod func(engine string) string

	List  []Row
	Total int // rows there are, List may have fewer
}

// Gather adds the rows of some sets: all of them, or as many as are kept. They are complete after Complete.
func (l *Rows) Gather(ctx context.Context, sets []*selection.Set) error {
	if err := l.gather(ctx, sets); err != nil {
		return err
	}
	if len(l.Where) > 0 {
		l.List = slices.DeleteFunc(l.List, func(row Row) bool {
			return slices.ContainsFunc(l.Where, func(w Condition) bool { return !w.holds(&row, l) })
		})
		l.Total = len(l.List)
	}
	return nil
}

func (l *Rows) gather(ctx context.Context, sets []*selection.Set) error {
	for _, s := range sets {
		var err error
		switch l.Subject {
		case Grants:
			err = l.grants(ctx, s)
		case Parts:
			err = l.parts(ctx, s)
		default:
			err = l.objects(ctx, s)
		}
		if err != nil {
			return err
		}
	}
	if len(l.Where) > 0 || l.Subject == Parts {
		wants := func(w Condition) bool {
			return slices.Contains([]string{"nullable", "default", "comment", "text", "type", "method", "predicate"}, w.Column)
		}
		if slices.ContainsFunc(l.Where, wants) {
			return l.Complete(ctx)
		}
	}
	return nil
}

// Sort puts the rows into the order of a column, numbers the largest first, and keeps as many as limit says; "" leaves the order.
func (l *Rows) Sort(by string, limit int) {
	if by == "" {
		return
	}
	order := make([]int, len(l.List)) // the rows themselves are too large to be moved about
	for i := range l.List {
		order[i] = i
	}
	slices.SortFunc(order, func(i, j int) int { return cmp.Or(l.compareRows(&l.List[i], &l.List[j], by), i-j) })
	sorted := make([]Row, 0, min(limit, len(order)))
	for _, i := range order[:min(limit, len(order))] {
		sorted = append(sorted, l.List[i])
	}
	l.List = sorted
}

// keep counts a row, and reports whether it is to be kept.
func (l *Rows) keep() bool {
	l.Total++
	return len(l.List) < l.Most
}

func (l *Rows) objects(ctx context.Context, s *selection.Set) error {
	t := s.Contents
	sizes, _, err := l.Catalogue.Sizes(ctx, t)
	if err != nil {
		return err
	}
	var kept []*catalogue.Entry
	first := len(l.List)
	for i := range t.All() {
		e := t.At(i)
		if len(l.Kinds) > 0 && !slices.Contains(l.Kinds, e.ID.Kind) || !s.Covers(e.ID) || !l.keep() {
			continue
		}
		l.List = append(l.List, Row{Match: address.Match{Contents: t, Entry: e}, Size: sizes[i]})
		kept = append(kept, e)
	}
	for i, n := range t.CountIndexes(kept) {
		l.List[first+i].Indexes = n
	}
	return nil
}

// grants lists who may do what with the objects of a set.
func (l *Rows) grants(ctx context.Context, s *selection.Set) error {
	entries := selection.Kinds(s.Entries(), l.Kinds)
	objects, err := l.Catalogue.Objects(ctx, entries)
	if err != nil {
		return err
	}
	for i, o := range objects {
		for j := range o.Grants {
			g := &o.Grants[j]
			if l.To != nil {
				if matches, _ := l.To.Matches(Grantee(g)); !matches {
					continue
				}
			}
			if l.keep() {
				l.List = append(l.List, Row{Match: address.Match{Contents: s.Contents, Entry: entries[i]}, Grant: g, Size: catalogue.Size{Rows: -1, Bytes: -1}})
			}
		}
	}
	return nil
}

// Grantee returns whose rights these are.
func Grantee(g *schema.Grant) string { return cmp.Or(g.Grantee, "everybody") }

// parts gathers parts from the name index; only the rows that are shown are completed from the objects.
func (l *Rows) parts(ctx context.Context, s *selection.Set) error {
	for _, m := range s.Parts {
		if slices.Contains(l.Kinds, m.PartKind) && !s.Covers(m.Entry.ID) && l.keep() {
			l.List = append(l.List, Row{Match: m})
		}
	}
	return l.Catalogue.Names(ctx, s.Contents, func(k *catalogue.Chunk) error {
		entries, err := k.Entries()
		if err != nil {
			return err
		}
		if len(l.List) >= l.Most && len(l.Kinds) == 1 && l.Kinds[0] == schema.KindColumn { // they need only be counted
			for i := range entries {
				if entries[i].ID.Kind.IsRelation() && s.Covers(entries[i].ID) {
					l.Total += entries[i].Columns
				}
			}
			return nil
		}
		return k.Names.Lines(func(_ string, line index.Line) bool {
			if line.Part == "" || !slices.Contains(l.Kinds, line.Part) {
				return true
			}
			e := &entries[line.Entry]
			if s.Covers(e.ID) && l.keep() {
				l.List = append(l.List, Row{Match: address.Match{Contents: s.Contents, Entry: e, Part: line.Name, PartKind: line.Part}, Line: &line})
			}
			return true
		})
	})
}

// Complete loads the objects whose parts are shown, and the indexes where these are.
func (l *Rows) Complete(ctx context.Context) error {
	if l.Subject == Grants || l.Subject == Objects && !slices.ContainsFunc(l.Kinds, func(k schema.Kind) bool { return k == schema.KindIndex }) {
		return nil
	}
	var entries []*catalogue.Entry
	place := map[*catalogue.Entry]int{}
	for i := range l.List {
		row := &l.List[i]
		if row.Column != nil || row.Part != nil || row.Index != nil || l.Subject == Objects && row.Match.Entry.ID.Kind != schema.KindIndex {
			continue
		}
		if _, ok := place[row.Match.Entry]; !ok {
			place[row.Match.Entry] = len(entries)
			entries = append(entries, row.Match.Entry)
		}
	}
	objects, err := l.Catalogue.Objects(ctx, entries)
	if err != nil {
		return err
	}
	parts := make([]map[[2]string]schema.Part, len(objects))
	if l.Subject == Parts {
		for i, o := range objects {
			parts[i] = map[[2]string]schema.Part{}
			for _, p := range o.Parts() {
				parts[i][[2]string{string(p.Kind), p.Name}] = p
			}
		}
	}
	for i := range l.List {
		row := &l.List[i]
		at, ok := place[row.Match.Entry]
		if !ok {
			continue
		}
		if l.Subject == Objects {
			row.Index = objects[at].Index
			continue
		}
		if p, ok := parts[at][[2]string{string(row.Match.PartKind), row.Match.Part}]; ok {
			row.Part = &p
		}
		if row.Match.PartKind == schema.KindColumn && objects[at].Relation != nil {
			row.Column = objects[at].Relation.Column(row.Match.Part)
		}
	}
	return nil
}
