package address

// What is said of an address that fits nothing, or too much.

import (
	"context"
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// NotFoundError says that an address fits nothing.
type NotFoundError struct {
	Address   string
	Near      []schema.Location // the nearest names
	Elsewhere []schema.Location // where the name does exist, outside the place that was asked for
	Empty     bool              // the catalogue holds no snapshots
	// Holder is the first object that the last name would be a part of, Parts what it has instead, and Holders how many such there are.
	Holder  schema.Location
	Parts   []string
	Holders int
}

func (e *NotFoundError) Error() string {
	if e.Empty {
		return fmt.Sprintf("nothing is known of %q: the catalogue is empty", e.Address)
	}
	s := fmt.Sprintf("nothing is called %q", e.Address)
	switch {
	case len(e.Elsewhere) > 0:
		s += "; the name exists elsewhere:" + listLocations(e.Elsewhere)
	case len(e.Near) > 0:
		s += "; near it are:" + listLocations(e.Near)
	case len(e.Parts) > 0:
		s += "; " + e.Holder.String()
		if e.Holders > 1 {
			s += ", for one,"
		}
		s += " has " + listed(e.Parts)
	}
	return s
}

// listed lists names, the first of many.
func listed(all []string) string {
	const most = 30
	if len(all) > most {
		return fmt.Sprintf("%s and %d more", strings.Join(all[:most], ", "), len(all)-most)
	}
	return strings.Join(all, ", ")
}

// AmbiguousError says that an address fits several things where one is wanted.
type AmbiguousError struct {
	Address string
	Matches []schema.Location
}

func (e *AmbiguousError) Error() string {
	return fmt.Sprintf("%q fits %d things where one is wanted:%s", e.Address, len(e.Matches), listLocations(e.Matches))
}

// ContainerError says that an address names a database or schema where an object is wanted.
type ContainerError struct {
	Address, Word string
	Location      schema.Location
}

func (e *ContainerError) Error() string {
	return fmt.Sprintf("%q is a %s, and an object is wanted", e.Address, e.Word)
}

// listLocations lists addresses, one a line, with the kind in front where kinds differ.
func listLocations(all []schema.Location) string {
	const most = 12
	kinds := map[schema.Kind]bool{}
	for _, l := range all {
		kinds[l.ID.Kind] = true
	}
	var b strings.Builder
	for i, l := range all {
		if i == most {
			fmt.Fprintf(&b, "\n  … and %d more", len(all)-most)
			break
		}
		b.WriteString("\n  ")
		if len(kinds) > 1 && l.ID.Kind != "" {
			b.WriteString(strings.ReplaceAll(string(l.ID.Kind), " ", "-") + ":")
		}
		b.WriteString(l.String())
	}
	return b.String()
}

// UnknownPlaceError says that the server or the database of an address is not known.
type UnknownPlaceError struct {
	Address   string
	Word      string // what is not known: "server", "database", or "server or database"
	Name      string
	Server    string   // of an unknown database
	Near      []string // the nearest names of that kind, the nearest first
	Known     []string // all names of that kind
	NeverRead bool     // the server is configured, and was never read
}

func (e *UnknownPlaceError) Error() string {
	if e.NeverRead {
		return fmt.Sprintf("%q: the server %s was never read, so nothing is known of it", e.Address, names.Quote(e.Name))
	}
	s := fmt.Sprintf("%q: there is no %s called %q", e.Address, e.Word, e.Name)
	if e.Server != "" {
		s = fmt.Sprintf("%q: the server %s has no database called %q that was read", e.Address, names.Quote(e.Server), e.Name)
	}
	const most = 12
	switch {
	case len(e.Near) > 0:
		s += "; the nearest is " + strings.Join(e.Near, ", ")
	case len(e.Known) > most:
		s += fmt.Sprintf("; known: %s and %d more", strings.Join(e.Known[:most], ", "), len(e.Known)-most)
	case len(e.Known) > 0:
		s += "; known: " + strings.Join(e.Known, ", ")
	}
	return s
}

// unknownPlace explains an address whose server or database is not known; nil if both are.
func (r *Resolver) unknownPlace(a Address) error {
	first := names.Name{}
	switch {
	case len(a.Outer) > 0:
		first = a.Outer[0]
	case len(a.Names) > 0 && a.Kind == "" && a.Signature == nil:
		first = JoinNames(a.Names)
	default:
		return nil
	}
	var servers, databases []string
	known, inside := false, false
	server := ""
	for _, s := range r.latest {
		servers = append(servers, s.Server)
		is, _ := first.Matches(s.Server)
		if is {
			known, server = true, s.Server
		}
		switch len(a.Outer) {
		case 2:
			if is {
				databases = append(databases, s.Database)
				in, _ := a.Outer[1].Matches(s.Database)
				inside = inside || in
			}
		default:
			databases = append(databases, s.Database)
			in, _ := first.Matches(s.Database)
			inside = inside || in
		}
	}
	slices.Sort(servers)
	servers = slices.Compact(servers)
	slices.Sort(databases)
	databases = slices.Compact(databases)
	neverRead := slices.ContainsFunc(r.Configured, func(name string) bool {
		is, _ := first.Matches(name)
		return is && !slices.Contains(servers, name)
	})
	e := &UnknownPlaceError{Address: a.Text, Name: first.Text, Word: "server", Known: servers, NeverRead: neverRead && !known}
	switch {
	case e.NeverRead && !(len(a.Outer) < 2 && inside):
	case len(a.Outer) == 2 && !known:
		e.Near = nearest(first.Text, append(servers, r.Configured...))
	case len(a.Outer) == 2 && !inside:
		e.Word, e.Name, e.Server, e.Known = "database", a.Outer[1].Text, server, databases
		e.Near = nearest(a.Outer[1].Text, databases)
	case len(a.Outer) == 1 && !known && !inside:
		e.Word = "server or database"
		e.Known = append(servers, databases...)
		e.Near = nearest(first.Text, append(e.Known, r.Configured...))
	default:
		return nil
	}
	if len(r.latest) == 0 && len(e.Near) == 0 && !e.NeverRead {
		return nil // nothing is known at all, which says more
	}
	return e
}

// nearest returns those of some names that are nearest to a name, the nearest first.
func nearest(wanted string, among []string) []string {
	const most = 3
	limit := max(1, (utf8.RuneCountInString(wanted)+1)/3)
	type candidate struct {
		name     string
		distance int
	}
	var all []candidate
	for _, n := range among {
		d := names.EditDistance(names.Fold(wanted), names.Fold(n), limit)
		if d > limit && len(wanted) >= 3 && (strings.Contains(names.Fold(n), names.Fold(wanted)) || strings.Contains(names.Fold(wanted), names.Fold(n))) {
			d = limit
		}
		if d <= limit && !slices.ContainsFunc(all, func(c candidate) bool { return c.name == n }) {
			all = append(all, candidate{n, d})
		}
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return a.distance - b.distance })
	var near []string
	for _, c := range all[:min(most, len(all))] {
		near = append(near, names.Quote(c.name))
	}
	return near
}

// notFound explains a miss: where else the name exists, and which names are near.
func (r *Resolver) notFound(ctx context.Context, a Address) error {
	r.Deferred = false
	if err := r.unknownPlace(a); err != nil {
		return err
	}
	e := &NotFoundError{Address: a.Text, Empty: len(r.latest) == 0}
	if e.Empty {
		return e
	}
	if len(a.Outer) > 0 && len(a.Names) > 0 {
		wide := a
		wide.Outer, wide.When = nil, ""
		elsewhere, err := r.match(ctx, wide, true)
		if err != nil {
			return err
		}
		for i := range elsewhere {
			e.Elsewhere = append(e.Elsewhere, elsewhere[i].Location())
		}
	}
	if err := r.near(ctx, a, r.latest, e); err != nil {
		return err
	}
	return e
}

// near finds the locations whose names are nearest to the last names of an address, nearest first; those of the place that was asked for
// come before others. It finds the objects of that place whose part the last name would be, too.
func (r *Resolver) near(ctx context.Context, a Address, among []*catalogue.Snapshot, e *NotFoundError) error {
	const most = 5
	type candidate struct {
		location schema.Location
		distance int
	}
	var all []candidate
	offer := func(wanted, name string, l schema.Location, penalty int) {
		limit := max(1, utf8.RuneCountInString(wanted)/3)
		if bits.OnesCount64(names.Letters(wanted)&^names.Letters(name)) > limit { // each would cost a change
			return
		}
		if d := names.EditDistance(names.Fold(wanted), names.Fold(name), limit); d <= limit {
			all = append(all, candidate{l, 2*d + penalty})
		}
	}
	for _, s := range among {
		penalty := 0
		for i, outer := range a.Outer {
			matches, _ := outer.Matches(s.Server)
			inDatabase, _ := outer.Matches(s.Database)
			if !matches && !inDatabase {
				penalty = 1
			}
			if i == 0 && len(a.Names) == 0 || len(a.Outer) == 1 && !matches && !inDatabase {
				offer(outer.Text, s.Server, schema.Location{Server: s.Server}, 0)
				offer(outer.Text, s.Database, s.Location(), 0)
			}
		}
		if len(a.Names) == 0 {
			continue
		}
		contents, err := r.Contents(ctx, s)
		if err != nil {
			return err
		}
		last := a.Names[len(a.Names)-1].Text
		if len(a.Outer) == 0 && len(a.Names) == 1 {
			offer(last, s.Server, schema.Location{Server: s.Server}, 0)
			offer(last, s.Database, s.Location(), 0)
		}
		for i := range contents.All() {
			id := contents.At(i).ID
			offer(last, id.Name, s.Locate(id, "", ""), penalty)
			if len(a.Names) > 1 && id.Kind.IsRelation() {
				if matches, _ := a.Names[len(a.Names)-2].Matches(id.Name); matches {
					o, err := r.c.Object(ctx, contents.At(i))
					if err != nil {
						return err
					}
					if penalty == 0 {
						e.Holders++
					}
					if penalty == 0 && e.Holders == 1 {
						e.Holder = s.Locate(id, "", "")
					}
					for _, p := range o.Parts() {
						offer(last, p.Name, s.Locate(id, p.Name, p.Kind), penalty)
						if penalty == 0 && e.Holders == 1 {
							e.Parts = append(e.Parts, names.Quote(p.Name))
						}
					}
				}
			}
		}
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return a.distance - b.distance })
	for _, c := range all {
		if !slices.Contains(e.Near, c.location) {
			e.Near = append(e.Near, c.location)
		}
		if len(e.Near) == most {
			break
		}
	}
	return nil
}
