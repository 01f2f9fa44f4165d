// Package selection turns what addresses fit into sets of objects, one for each database, and pairs the sets of two
// sides by database. It is the one way from addresses to objects for every command.
package selection

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Set is what addresses cover of one database: all of it, or schemas, objects and parts.
type Set struct {
	Contents *catalogue.Contents
	Whole    bool
	Parts    []address.Match // single parts, in the order in which they were named

	schemas map[string]bool
	objects map[schema.ID]bool
	one     *catalogue.Entry // the object that was named last
}

// Gather makes sets of matches, in the order in which their databases come first.
func Gather(matches []address.Match) []*Set {
	var sets []*Set
	at := map[int64]*Set{}
	for i := range matches {
		m := &matches[i]
		s := at[m.Contents.Snapshot.ID]
		if s == nil {
			s = &Set{Contents: m.Contents, schemas: map[string]bool{}, objects: map[schema.ID]bool{}}
			at[m.Contents.Snapshot.ID] = s
			sets = append(sets, s)
		}
		switch {
		case m.Part != "":
			s.Parts = append(s.Parts, *m)
		case m.Entry != nil:
			s.objects[m.Entry.ID] = true
			s.one = m.Entry
		case m.Schema != "":
			s.schemas[m.Schema] = true
		default:
			s.Whole = true
		}
		if s.Contents.IsOutline() {
			s.Contents = m.Contents
		}
	}
	return sets
}

// Covers reports whether an object is in the set as a whole.
func (s *Set) Covers(id schema.ID) bool {
	return s.Whole || s.objects[id] || len(s.schemas) > 0 && (s.schemas[id.Schema] && id.Schema != "" || id.Kind == schema.KindSchema && s.schemas[id.Name])
}

// Entries returns the objects of the set, each once and in the order of their identifiers.
func (s *Set) Entries() []*catalogue.Entry {
	var list []*catalogue.Entry
	if !s.Whole && len(s.schemas) == 0 { // few are looked up
		for id := range s.objects {
			if e := s.Contents.Find(id); e != nil {
				list = append(list, e)
			}
		}
		slices.SortFunc(list, func(a, b *catalogue.Entry) int { return a.ID.Compare(b.ID) })
		return list
	}
	for i := range s.Contents.All() {
		if e := s.Contents.At(i); s.Covers(e.ID) {
			list = append(list, e)
		}
	}
	return list
}

// Attached reports whether objects of a kind are taken to be part of the relation that they stand on.
func Attached(k schema.Kind) bool {
	switch k {
	case schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy:
		return true
	}
	return false
}

// AddAttached adds to the relations that the set names one by one what stands on them: indexes, triggers, rules and
// policies.
func (s *Set) AddAttached(ctx context.Context, c *catalogue.Catalogue) error {
	var relations []*catalogue.Entry
	for id := range s.objects {
		if id.Kind.IsRelation() {
			if e := s.Contents.Find(id); e != nil {
				relations = append(relations, e)
			}
		}
	}
	if len(relations) == 0 {
		return nil
	}
	attached, err := c.Attached(ctx, s.Contents, relations)
	if err != nil {
		return err
	}
	for _, e := range attached {
		if Attached(e.ID.Kind) {
			s.objects[e.ID] = true
		}
	}
	return nil
}

// One returns the only object of a set that names nothing else, nil if there is none such.
func (s *Set) One() *catalogue.Entry {
	if s.Whole || len(s.schemas) > 0 || len(s.objects) != 1 || len(s.Parts) > 0 {
		return nil
	}
	return s.one
}

// Part returns the only part of a set that names nothing else, nil if there is none such.
func (s *Set) Part() *address.Match {
	if s.Whole || len(s.schemas) > 0 || len(s.objects) > 0 || len(s.Parts) != 1 {
		return nil
	}
	return &s.Parts[0]
}

// Schemas returns the schemas that the set covers as containers, in order.
func (s *Set) Schemas() []string {
	var names []string
	for name := range s.schemas {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// shape says in a word what a set names.
func (s *Set) shape() string {
	switch {
	case s.Whole:
		return "a database"
	case len(s.schemas) > 0:
		return "a schema"
	case len(s.objects) > 0:
		return "an object"
	}
	return "a part"
}

// Pair is a database of two sides.
type Pair struct{ Old, New *Set }

// MismatchError says why two selections cannot be compared.
type MismatchError struct{ Reason string }

func (e *MismatchError) Error() string { return e.Reason }

// Pairs pairs the sets of two sides: the only one of each, else those whose databases are counterparts, or that renamed says are so,
// old name to new. onlyOld and onlyNew are databases that one side has alone.
func Pairs(old, new []*Set, renamed map[string]string) (pairs []Pair, onlyOld, onlyNew []*Set, err error) {
	if len(old) == 1 && len(new) == 1 {
		p := Pair{old[0], new[0]}
		return []Pair{p}, nil, nil, p.check()
	}
	sides := [2]map[string]*Set{{}, {}}
	var names []string
	for i, sets := range [][]*Set{old, new} {
		for _, s := range sets {
			name := s.Contents.Snapshot.Counterpart()
			if to, ok := renamed[s.Contents.Snapshot.Database]; ok && i == 0 {
				name = to
			}
			if other := sides[i][name]; other != nil {
				return nil, nil, nil, &MismatchError{fmt.Sprintf("%s and %s are both of the same side; name one server on each", other.Contents.Snapshot.Location(), s.Contents.Snapshot.Location())}
			}
			sides[i][name] = s
			if !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	slices.Sort(names)
	for _, name := range names {
		p := Pair{sides[0][name], sides[1][name]}
		switch {
		case p.New == nil:
			onlyOld = append(onlyOld, p.Old)
		case p.Old == nil:
			onlyNew = append(onlyNew, p.New)
		default:
			if err := p.check(); err != nil {
				return nil, nil, nil, err
			}
			pairs = append(pairs, p)
		}
	}
	return pairs, onlyOld, onlyNew, nil
}

// check reports whether the two sides name things of one sort.
func (p Pair) check() error {
	a, b := p.Old.shape(), p.New.shape()
	if a != b {
		return &MismatchError{fmt.Sprintf("OLD names %s of %s, NEW %s of %s; compare two of a sort", a, p.Old.Contents.Snapshot.Location(), b, p.New.Contents.Snapshot.Location())}
	}
	return nil
}

// Renamed returns the schemas of two sides that each name one, of different names.
func (p Pair) Renamed() (old, new string, ok bool) {
	x, y := p.Old.Schemas(), p.New.Schemas()
	if len(x) == 1 && len(y) == 1 && x[0] != y[0] {
		return x[0], y[0], true
	}
	return "", "", false
}

// Like returns a set that covers of another database, whose contents are loaded, what a set covers of its own.
func (s *Set) Like(t *catalogue.Contents) *Set {
	out := &Set{Contents: t, Whole: s.Whole, schemas: s.schemas, objects: map[schema.ID]bool{}}
	identities := map[schema.Identity]bool{}
	for id := range s.objects {
		identities[id.Identity()] = true
		out.objects[id] = true
	}
	for i := range t.All() {
		if e := t.At(i); identities[e.ID.Identity()] {
			out.objects[e.ID] = true
			out.one = e
		}
	}
	for i := range s.Parts {
		m := s.Parts[i]
		if e := t.Find(m.Entry.ID); e != nil {
			m.Contents, m.Entry = t, e
			out.Parts = append(out.Parts, m)
		}
	}
	return out
}

// Kinds keeps the entries of some kinds; none means all.
func Kinds(entries []*catalogue.Entry, kinds []schema.Kind) []*catalogue.Entry {
	if len(kinds) == 0 {
		return entries
	}
	return slices.DeleteFunc(entries, func(e *catalogue.Entry) bool { return !slices.Contains(kinds, e.ID.Kind) })
}

// Describe says what a set covers, for people.
func (s *Set) Describe() string {
	where := s.Contents.Snapshot.Location().String()
	if names := s.Schemas(); len(names) > 0 && !s.Whole {
		return where + ", schema " + strings.Join(names, ", ")
	}
	return where
}
