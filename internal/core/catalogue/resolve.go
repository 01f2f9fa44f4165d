package catalogue

import (
	"cmp"
	"context"
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"echo-atlas/internal/core/schema"
)

// Match is one thing that an address fits: a database (or what of it lies in a schema), an object, or
// a part of an object.
type Match struct {
	Contents *Contents
	Schema   string // of a match that is a schema as a container
	Entry    *Entry // nil for a container
	Part     string
	PartKind schema.Kind
	exact    bool
}

// Location returns where the match is.
func (m *Match) Location() schema.Location {
	switch {
	case m.Entry != nil:
		return m.Contents.Snapshot.Locate(m.Entry.ID, m.Part, m.PartKind)
	case m.Schema != "":
		return m.Contents.Snapshot.Locate(schema.ID{Kind: schema.KindSchema, Name: m.Schema}, "", "")
	}
	return m.Contents.Snapshot.Location()
}

// Entries returns the entries that the match covers.
func (m *Match) Entries() []*Entry {
	if m.Entry != nil {
		return []*Entry{m.Entry}
	}
	var list []*Entry
	for i := range m.Contents.Entries {
		e := &m.Contents.Entries[i]
		if m.Schema == "" || e.ID.Schema == m.Schema || e.ID.Kind == schema.KindSchema && e.ID.Name == m.Schema {
			list = append(list, e)
		}
	}
	return list
}

// NotFoundError says that an address fits nothing.
type NotFoundError struct {
	Address   string
	Near      []schema.Location // the nearest names
	Elsewhere []schema.Location // where the name does exist, outside the place that was asked for
	Empty     bool              // the catalogue holds no snapshots
}

func (e *NotFoundError) Error() string {
	if e.Empty {
		return fmt.Sprintf("nothing is known of %q: the catalogue is empty; run: echo-atlas survey", e.Address)
	}
	s := fmt.Sprintf("nothing is called %q", e.Address)
	switch {
	case len(e.Elsewhere) > 0:
		s += "; the name exists elsewhere:" + listLocations(e.Elsewhere)
	case len(e.Near) > 0:
		s += "; near it are:" + listLocations(e.Near)
	default:
		s += "; to search parts of names: echo-atlas find TEXT"
	}
	return s
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
	return fmt.Sprintf("%q is a %s, and an object is wanted; list what it holds with: echo-atlas list %s", e.Address, e.Word, e.Location)
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

// Resolver finds what addresses mean. It loads each snapshot once.
type Resolver struct {
	// Deferred says that a database that an address covers as a whole comes as an Outline, its entries
	// unread.
	Deferred bool

	c        *Catalogue
	now      time.Time
	latest   []*Snapshot
	contents map[int64]*Contents
}

// NewResolver returns a resolver over the latest snapshots.
func (c *Catalogue) NewResolver(ctx context.Context, now time.Time) (*Resolver, error) {
	latest, err := c.Latest(ctx)
	if err != nil {
		return nil, err
	}
	return &Resolver{c: c, now: now, latest: latest, contents: map[int64]*Contents{}}, nil
}

// Latest returns the latest snapshots.
func (r *Resolver) Latest() []*Snapshot { return r.latest }

// Contents returns the entries of a snapshot.
func (r *Resolver) Contents(ctx context.Context, s *Snapshot) (*Contents, error) {
	if t := r.contents[s.ID]; t != nil {
		return &Contents{Snapshot: s, Entries: t.Entries, chunks: t.chunks}, nil
	}
	t, err := r.c.Contents(ctx, s)
	if err == nil {
		r.contents[s.ID] = t
	}
	return t, err
}

// One returns the only thing that an address fits; *AmbiguousError if there are several.
func (r *Resolver) One(ctx context.Context, a schema.Address) (*Match, error) {
	all, err := r.All(ctx, a)
	if err != nil {
		return nil, err
	}
	if len(all) > 1 {
		e := &AmbiguousError{Address: a.Text}
		for i := range all {
			e.Matches = append(e.Matches, all[i].Location())
		}
		return nil, e
	}
	return &all[0], nil
}

// Object is like One, for an object or a part of one.
func (r *Resolver) Object(ctx context.Context, a schema.Address) (*Match, error) {
	all, err := r.All(ctx, a)
	if err != nil {
		return nil, err
	}
	objects := slices.DeleteFunc(slices.Clone(all), func(m Match) bool { return m.Entry == nil })
	if len(objects) == 1 {
		return &objects[0], nil
	}
	if len(objects) > 1 {
		all = objects
	}
	e := &AmbiguousError{Address: a.Text}
	for i := range all {
		e.Matches = append(e.Matches, all[i].Location())
	}
	if len(objects) == 0 {
		return nil, &ContainerError{a.Text, containerWord(&all[0]), all[0].Location()}
	}
	return nil, e
}

func containerWord(m *Match) string {
	if m.Schema != "" {
		return "schema"
	}
	return "database"
}

// All returns everything that an address fits, in the order of addresses; *NotFoundError if nothing.
func (r *Resolver) All(ctx context.Context, a schema.Address) ([]Match, error) {
	if a.Path != "" {
		return r.fromPath(ctx, a)
	}
	matches, err := r.match(ctx, a)
	if err != nil {
		return nil, err
	}
	if len(matches) > 0 {
		return matches, nil
	}
	return nil, r.notFound(ctx, a)
}

// fromPath finds what a path to an exported snapshot means.
func (r *Resolver) fromPath(ctx context.Context, a schema.Address) ([]Match, error) {
	s, rest, err := r.c.FromPath(ctx, a.Path)
	if err != nil {
		return nil, err
	}
	contents, err := r.Contents(ctx, s)
	if err != nil {
		return nil, err
	}
	if rest == "" {
		return []Match{{Contents: contents, exact: true}}, nil
	}
	inner, err := schema.ParseAddress(rest)
	if err != nil {
		return nil, err
	}
	inner.Kind = a.Kind
	found, err := r.inside(ctx, contents, inner, inner.Names)
	if err == nil && len(found) == 0 {
		err = &NotFoundError{Address: a.Text}
	}
	return preferExact(found), err
}

// readings of an address: which of its segments name a server and a database, and whether names are
// left for inside.
type reading struct {
	server, database *schema.Name
	names            []schema.Name
}

func readings(a schema.Address) []reading {
	var all []reading
	whole := func() *schema.Name { n := joined(a.Names); return &n }
	switch len(a.Outer) {
	case 2:
		all = append(all, reading{&a.Outer[0], &a.Outer[1], a.Names})
	case 1:
		all = append(all, reading{nil, &a.Outer[0], a.Names})
		if a.When == "" {
			all = append(all, reading{&a.Outer[0], nil, a.Names})
			if len(a.Names) > 0 && a.Kind == "" && a.Signature == nil {
				all = append(all, reading{&a.Outer[0], whole(), nil})
			}
		}
	default:
		all = append(all, reading{nil, nil, a.Names})
		if a.Kind == "" && a.Signature == nil {
			all = append(all, reading{whole(), nil, nil}, reading{nil, whole(), nil})
		}
	}
	return all
}

func joined(names []schema.Name) schema.Name {
	if len(names) == 1 {
		return names[0]
	}
	texts := make([]string, len(names))
	for i, n := range names {
		texts[i] = n.Text
	}
	return schema.Name{Text: strings.Join(texts, ".")}
}

func (r *Resolver) match(ctx context.Context, a schema.Address) ([]Match, error) {
	var found []Match
	for _, rd := range readings(a) {
		type admitted struct {
			*Snapshot
			exact bool
		}
		var all []admitted
		var snapshots []*Snapshot
		for _, s := range r.latest {
			exact := true
			if !admits(rd.server, s.Server, &exact) || !admits(rd.database, s.Database, &exact) {
				continue
			}
			if a.When != "" {
				older, err := r.c.At(ctx, s.Server, s.Database, a.When, r.now)
				if err != nil {
					return nil, err
				}
				s = older
			}
			all, snapshots = append(all, admitted{s, exact}), append(snapshots, s)
		}
		var may map[int64]bool
		filtered := len(rd.names) > 0 && (r.Deferred || len(snapshots) > 1)
		if filtered {
			var err error
			if may, err = r.mayHold(ctx, snapshots, rd.names); err != nil {
				return nil, err
			}
		}
		for _, one := range all {
			s, exact := one.Snapshot, one.exact
			if len(rd.names) == 0 && r.Deferred {
				outline, err := r.c.Outline(ctx, s)
				if err != nil {
					return nil, err
				}
				found = append(found, Match{Contents: outline, exact: exact})
				continue
			}
			if filtered && !may[s.ID] {
				continue
			}
			contents, err := r.Contents(ctx, s)
			if err != nil {
				return nil, err
			}
			if len(rd.names) == 0 {
				found = append(found, Match{Contents: contents, exact: exact})
				continue
			}
			inside, err := r.inside(ctx, contents, a, rd.names)
			if err != nil {
				return nil, err
			}
			for _, m := range inside {
				m.exact = m.exact && exact
				found = append(found, m)
			}
		}
	}
	return preferExact(found), nil
}

// mayHold returns which snapshots may hold something of the last of the names; it reads only the indexes of
// names.
func (r *Resolver) mayHold(ctx context.Context, snapshots []*Snapshot, names []schema.Name) (map[int64]bool, error) {
	last := names[len(names)-1]
	may := map[int64]bool{}
	if last.IsPattern() {
		for _, s := range snapshots {
			may[s.ID] = true
		}
		return may, nil
	}
	folded := FoldLine(last.Text) + "\n"
	var lock sync.Mutex
	err := r.c.Scan(ctx, snapshots, 2, func(_ int, k *Chunk) error {
		inSchema, _ := last.Matches(k.Schema()) // a schema is an object too, but may be known by its members alone
		if inSchema || strings.HasPrefix(k.Names.Folded, folded) || strings.Contains(k.Names.Folded, "\n"+folded) {
			lock.Lock()
			defer lock.Unlock()
			may[k.Snapshot.ID] = true
		}
		return nil
	})
	return may, err
}

func admits(n *schema.Name, s string, exact *bool) bool {
	if n == nil {
		return true
	}
	matches, exactly := n.Matches(s)
	*exact = *exact && exactly
	return matches
}

// preferExact drops matches in other case where some match to the letter, and what stands twice.
func preferExact(found []Match) []Match {
	if slices.ContainsFunc(found, func(m Match) bool { return m.exact }) {
		found = slices.DeleteFunc(found, func(m Match) bool { return !m.exact })
	}
	type key struct {
		snapshot int64
		id       schema.ID
		schema   string
		part     string
		kind     schema.Kind
	}
	seen := map[key]bool{}
	found = slices.DeleteFunc(found, func(m Match) bool {
		k := key{snapshot: m.Contents.Snapshot.ID, schema: m.Schema, part: m.Part, kind: m.PartKind}
		if m.Entry != nil {
			k.id = m.Entry.ID
		}
		twice := seen[k]
		seen[k] = true
		return twice
	})
	slices.SortStableFunc(found, func(a, b Match) int {
		return cmp.Or(strings.Compare(a.Contents.Snapshot.Server, b.Contents.Snapshot.Server),
			strings.Compare(a.Contents.Snapshot.Database, b.Contents.Snapshot.Database))
	})
	return found
}

// inside finds names in a database: schema.object.part with leading parts optional, and names that
// belong to a relation as schema.relation.name.
func (r *Resolver) inside(ctx context.Context, t *Contents, a schema.Address, names []schema.Name) ([]Match, error) {
	var found []Match
	object, part := names[len(names)-1], (*schema.Name)(nil)
	n := len(names)
	for i := range t.Entries {
		e := &t.Entries[i]
		exact := true
		var ok bool
		switch {
		case e.ID.Table != "": // its name belongs to a relation
			ok = n <= 3 && admits(&object, e.ID.Name, &exact) &&
				(n < 2 || admits(&names[n-2], e.ID.Table, &exact)) && (n < 3 || admits(&names[0], e.ID.Schema, &exact))
			if n == 2 && !ok && e.ID.Schema != "" {
				exact = true
				ok = admits(&object, e.ID.Name, &exact) && admits(&names[0], e.ID.Schema, &exact)
			}
		case e.ID.Schema == "":
			ok = n == 1 && admits(&object, e.ID.Name, &exact)
		default:
			ok = n <= 2 && admits(&object, e.ID.Name, &exact) && (n < 2 || admits(&names[0], e.ID.Schema, &exact))
		}
		if ok && (a.Kind == "" || a.Kind == e.ID.Kind) && (a.Signature == nil || sameSignature(*a.Signature, e.ID.Signature)) {
			if e.ID.Kind == schema.KindSchema {
				found = append(found, Match{Contents: t, Schema: e.ID.Name, exact: exact})
				if a.Kind != schema.KindSchema {
					continue
				}
				found = found[:len(found)-1]
			}
			found = append(found, Match{Contents: t, Entry: e, exact: exact})
		}
	}
	if n == 1 || a.Kind != "" && !a.Kind.IsPart() {
		return found, nil
	}
	// The last name may be a part's.
	part, object = &names[n-1], names[n-2]
	var owners []*Entry
	var exactly []bool
	for i := range t.Entries {
		e := &t.Entries[i]
		exact := true
		if e.ID.Kind.IsRelation() && admits(&object, e.ID.Name, &exact) && (n < 3 || admits(&names[0], e.ID.Schema, &exact)) {
			owners, exactly = append(owners, e), append(exactly, exact)
		}
	}
	objects, err := r.c.Objects(ctx, owners)
	if err != nil {
		return nil, err
	}
	for i, o := range objects {
		for _, p := range o.Parts() {
			exact := exactly[i]
			if admits(part, p.Name, &exact) && (a.Kind == "" || a.Kind == p.Kind) {
				found = append(found, Match{Contents: t, Entry: owners[i], Part: p.Name, PartKind: p.Kind, exact: exact})
			}
		}
	}
	return found, nil
}

func sameSignature(a, b string) bool {
	squeeze := func(s string) string { return strings.ReplaceAll(schema.Fold(s), " ", "") }
	return squeeze(a) == squeeze(b)
}

// notFound explains a miss: where else the name exists, and which names are near.
func (r *Resolver) notFound(ctx context.Context, a schema.Address) error {
	r.Deferred = false
	e := &NotFoundError{Address: a.Text, Empty: len(r.latest) == 0}
	if e.Empty {
		return e
	}
	if len(a.Outer) > 0 && len(a.Names) > 0 {
		wide := a
		wide.Outer, wide.When = nil, ""
		elsewhere, err := r.match(ctx, wide)
		if err != nil {
			return err
		}
		for i := range elsewhere {
			e.Elsewhere = append(e.Elsewhere, elsewhere[i].Location())
		}
	}
	near, err := r.near(ctx, a)
	if err != nil {
		return err
	}
	e.Near = near
	return e
}

// near returns the locations whose names are nearest to the last names of an address, nearest first;
// those of the place that was asked for come before others.
func (r *Resolver) near(ctx context.Context, a schema.Address) ([]schema.Location, error) {
	const most = 5
	type candidate struct {
		location schema.Location
		distance int
	}
	var all []candidate
	offer := func(wanted, name string, l schema.Location, penalty int) {
		limit := max(1, utf8.RuneCountInString(wanted)/3)
		if bits.OnesCount64(letters(wanted)&^letters(name)) > limit { // each would cost a change
			return
		}
		if d := EditDistance(schema.Fold(wanted), schema.Fold(name), limit); d <= limit {
			all = append(all, candidate{l, 2*d + penalty})
		}
	}
	for _, s := range r.latest {
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
			return nil, err
		}
		last := a.Names[len(a.Names)-1].Text
		if len(a.Outer) == 0 && len(a.Names) == 1 {
			offer(last, s.Server, schema.Location{Server: s.Server}, 0)
			offer(last, s.Database, s.Location(), 0)
		}
		for i := range contents.Entries {
			id := contents.Entries[i].ID
			offer(last, id.Name, s.Locate(id, "", ""), penalty)
			if len(a.Names) > 1 && id.Kind.IsRelation() {
				if matches, _ := a.Names[len(a.Names)-2].Matches(id.Name); matches {
					o, err := r.c.Object(ctx, &contents.Entries[i])
					if err != nil {
						return nil, err
					}
					for _, p := range o.Parts() {
						offer(last, p.Name, s.Locate(id, p.Name, p.Kind), penalty)
					}
				}
			}
		}
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return a.distance - b.distance })
	var near []schema.Location
	for _, c := range all {
		if !slices.Contains(near, c.location) {
			near = append(near, c.location)
		}
		if len(near) == most {
			break
		}
	}
	return near, nil
}

// letters returns the set of the characters of a text, in any case; many share a place.
func letters(s string) (set uint64) {
	for i := range len(s) {
		c := s[i]
		if c >= 0x80 { // not worth more
			continue
		}
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		set |= 1 << (c & 63)
	}
	return set
}

// EditDistance returns the number of characters to insert, delete, replace or swap with their
// neighbour to make b of a (restricted Damerau–Levenshtein), or something above limit.
func EditDistance(a, b string, limit int) int {
	if len(a)-4*len(b) > limit || len(b)-4*len(a) > limit { // a character has four bytes at most
		return limit + 1
	}
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > limit || -d > limit {
		return limit + 1
	}
	var room [3 * 64]int
	rows := room[:]
	if len(y) >= 64 {
		rows = make([]int, 3*(len(y)+1))
	}
	n := len(y) + 1
	before, last, row := rows[:n], rows[n:2*n], rows[2*n:3*n]
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(x); i++ {
		row[0] = i
		best := i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			row[j] = min(last[j]+1, row[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				row[j] = min(row[j], before[j-2]+1)
			}
			best = min(best, row[j])
		}
		if best > limit {
			return limit + 1
		}
		before, last, row = last, row, before
	}
	return last[len(y)]
}
