package address

// The one resolver of addresses. An address may be read in several ways; the readings are tried by level, from
// the outside in (server, database, schema, object, part), and the first that fits anything is the meaning. What
// lies further in never mixes with what lies further out, so SERVER/DATABASE is that database, whatever else
// bears its name.

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/exchange"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Match is one thing that an address fits: a database (or what of it lies in a schema), an object, or
// a part of an object.
type Match struct {
	Contents *catalogue.Contents
	Schema   string           // of a match that is a schema as a container
	Entry    *catalogue.Entry // nil for a container
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

// Covers reports whether an object lies in the match: is it, or stands in its schema or database.
func (m *Match) Covers(id schema.ID) bool {
	if m.Entry != nil {
		return m.Entry.ID == id
	}
	return m.Schema == "" || id.Schema == m.Schema || id.Kind == schema.KindSchema && id.Name == m.Schema
}

// Entries returns the entries that the match covers.
func (m *Match) Entries() []*catalogue.Entry {
	if m.Entry != nil {
		return []*catalogue.Entry{m.Entry}
	}
	var list []*catalogue.Entry
	for i := range m.Contents.All() {
		if e := m.Contents.At(i); m.Covers(e.ID) {
			list = append(list, e)
		}
	}
	return list
}

// Dialect is what the resolver has to know of an engine.
type Dialect struct {
	// Overloads says that routines of one name are told apart by their argument types.
	Overloads bool
	// CanonicalType returns the one spelling of a type that stands for all of the engine's.
	CanonicalType func(string) string
}

// Resolver finds what addresses mean. It loads each snapshot once.
type Resolver struct {
	// Deferred says that a database that an address covers as a whole comes as an Outline, its entries
	// unread.
	Deferred bool
	// Ahead says that the dependencies of what is found are asked for next: where it can lie in one database alone, they are read meanwhile.
	Ahead bool
	// Sparse says that few entries are needed of a database in which an object or a part is found: they come when they are asked for.
	Sparse bool
	// Dialect tells of an engine by its name; nil where nothing is known.
	Dialect func(engine string) Dialect
	// Configured are the names of servers that are known without a reading.
	Configured []string
	// Without gathers the databases that an address covers, but for which its WHEN names no reading.
	Without []*catalogue.WhenError

	c        *catalogue.Catalogue
	now      time.Time
	latest   []*catalogue.Snapshot
	contents map[int64]*catalogue.Contents
	bearers  map[int64][]int // of the reading that is tried: by snapshot, the places of what bears one of its names
}

// NewResolver returns a resolver over the latest snapshots.
func NewResolver(ctx context.Context, c *catalogue.Catalogue, now time.Time) (*Resolver, error) {
	latest, err := c.Latest(ctx)
	if err != nil {
		return nil, err
	}
	return &Resolver{c: c, now: now, latest: latest, contents: map[int64]*catalogue.Contents{}}, nil
}

// Latest returns the latest snapshots.
func (r *Resolver) Latest() []*catalogue.Snapshot { return r.latest }

// Contents returns the entries of a snapshot.
func (r *Resolver) Contents(ctx context.Context, s *catalogue.Snapshot) (*catalogue.Contents, error) {
	return r.load(ctx, s, r.c.Contents)
}

func (r *Resolver) load(ctx context.Context, s *catalogue.Snapshot, load func(context.Context, *catalogue.Snapshot) (*catalogue.Contents, error)) (*catalogue.Contents, error) {
	if t := r.contents[s.ID]; t != nil {
		return t.As(s), nil
	}
	t, err := load(ctx, s)
	if err == nil {
		r.contents[s.ID] = t
	}
	return t, err
}

// Outline returns the contents of a snapshot without their entries.
func (r *Resolver) Outline(ctx context.Context, s *catalogue.Snapshot) (*catalogue.Contents, error) {
	return r.c.Outline(ctx, s)
}

// One returns the only thing that an address fits; *AmbiguousError if there are several.
func (r *Resolver) One(ctx context.Context, a Address) (*Match, error) {
	all, err := r.All(ctx, a)
	if err != nil {
		return nil, err
	}
	if all = preferColumn(all); len(all) > 1 {
		return nil, ambiguous(a, all)
	}
	return &all[0], nil
}

// preferColumn chooses the column among the parts of one object that share a name: some servers call a unique constraint after its
// column. A kind in front of the address chooses another.
func preferColumn(all []Match) []Match {
	column := -1
	for i := range all {
		m, first := &all[i], &all[0]
		if m.Entry == nil || m.Contents != first.Contents || m.Entry != first.Entry || m.Part != first.Part {
			return all
		}
		if m.PartKind == schema.KindColumn {
			column = i
		}
	}
	if column < 0 {
		return all
	}
	return all[column : column+1]
}

func ambiguous(a Address, all []Match) error {
	e := &AmbiguousError{Address: a.Text}
	for i := range all {
		e.Matches = append(e.Matches, all[i].Location())
	}
	return e
}

// Object is like One, for an object or a part of one: readings that end at a database or a schema are passed
// over where a further one ends at an object.
func (r *Resolver) Object(ctx context.Context, a Address) (*Match, error) {
	all, err := r.find(ctx, a, true)
	if err != nil {
		return nil, err
	}
	switch all = preferColumn(all); {
	case all[0].Entry == nil:
		return nil, &ContainerError{a.Text, containerWord(&all[0]), all[0].Location()}
	case len(all) > 1:
		return nil, ambiguous(a, all)
	}
	return &all[0], nil
}

func containerWord(m *Match) string {
	if m.Schema != "" {
		return "schema"
	}
	return "database"
}

// All returns everything that an address fits, in the order of addresses; *NotFoundError or *UnknownPlaceError
// if nothing.
func (r *Resolver) All(ctx context.Context, a Address) ([]Match, error) {
	return r.find(ctx, a, false)
}

// find returns what an address fits. With objects set, what ends at a container is an answer only where nothing
// else is.
func (r *Resolver) find(ctx context.Context, a Address, objects bool) ([]Match, error) {
	if a.Path != "" {
		return r.fromPath(ctx, a, objects)
	}
	matches, err := r.match(ctx, a, objects)
	if err != nil {
		return nil, err
	}
	if len(matches) > 0 {
		return matches, nil
	}
	return nil, r.notFound(ctx, a)
}

// fromPath finds what a path to an exported snapshot means.
func (r *Resolver) fromPath(ctx context.Context, a Address, objects bool) ([]Match, error) {
	s, rest, err := exchange.FromPath(ctx, r.c, a.Path)
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
	inner, err := Parse(rest)
	switch {
	case err != nil:
		return nil, err
	case len(inner.Outer) > 0 || inner.Path != "" || inner.Kind != "":
		return nil, &Error{Address: a.Text, Reason: "behind the path of an exported snapshot stands an object of it, " + names.Quote(s.Path) +
			"/schema.object.part, and no further slash; a kind stands in front of the path"}
	}
	inner.Kind = a.Kind
	containers, found, err := r.inside(ctx, contents, inner, inner.Names)
	if err != nil {
		return nil, err
	}
	if found = byLevel(containers, found, objects); len(found) == 0 {
		e := &NotFoundError{Address: a.Text}
		if err := r.near(ctx, inner, []*catalogue.Snapshot{s}, e); err != nil {
			return nil, err
		}
		return nil, e
	}
	return preferExact(found), nil
}

// Inside returns what an address without server and database fits in one database, nothing if it fits nothing.
func (r *Resolver) Inside(ctx context.Context, t *catalogue.Contents, a Address) ([]Match, error) {
	if len(a.Outer) > 0 || a.Path != "" || a.When != "" {
		return nil, &Error{Address: a.Text, Reason: "here it names objects, without server and database"}
	}
	containers, found, err := r.inside(ctx, t, a, a.Names)
	return preferExact(byLevel(containers, found, false)), err
}

// byLevel chooses between schemas and what lies in them: the outer level, or where objects are wanted, the inner
// one.
func byLevel(containers, found []Match, objects bool) []Match {
	if len(containers) > 0 && !(objects && len(found) > 0) {
		return containers
	}
	return found
}

// reading is one way to read an address: which of its segments name a server and a database, and which names are
// left for inside.
type reading struct {
	server, database *names.Name
	names            []names.Name
}

// readings returns the ways to read an address, the outermost level first.
func readings(a Address) []reading {
	plain := a.Kind == "" && a.Signature == nil && len(a.Names) > 0
	var whole names.Name
	if plain {
		whole = JoinNames(a.Names)
	}
	var all []reading
	switch len(a.Outer) {
	case 2:
		all = append(all, reading{&a.Outer[0], &a.Outer[1], a.Names})
	case 1:
		if plain && a.When == "" {
			all = append(all, reading{&a.Outer[0], &whole, nil})
		}
		all = append(all, reading{&a.Outer[0], nil, a.Names}, reading{nil, &a.Outer[0], a.Names})
	default:
		if plain {
			all = append(all, reading{&whole, nil, nil}, reading{nil, &whole, nil})
		}
		all = append(all, reading{nil, nil, a.Names})
	}
	return all
}

// match returns what the first reading fits that fits anything. Where objects are wanted, containers are kept for
// the case that no reading ends at an object.
func (r *Resolver) match(ctx context.Context, a Address, objects bool) ([]Match, error) {
	var kept []Match
	for _, rd := range readings(a) {
		if objects && len(rd.names) == 0 && len(a.Names) > 0 && len(kept) > 0 {
			continue
		}
		containers, found, err := r.read(ctx, a, rd)
		if err != nil {
			return nil, err
		}
		found = byLevel(containers, found, objects)
		if len(found) == 0 {
			continue
		}
		if !objects || found[0].Entry != nil {
			return preferExact(found), nil
		}
		if kept == nil {
			kept = preferExact(found)
		}
	}
	return kept, nil
}

// admitted is a snapshot that a reading covers.
type admitted struct {
	*catalogue.Snapshot
	exact bool // named to the letter
}

// covered returns the snapshots that a reading covers, of the moment that the address asks for. Databases without
// such a reading are left out, unless all are.
func (r *Resolver) covered(ctx context.Context, a Address, rd reading) ([]admitted, error) {
	var all []admitted
	var without []*catalogue.WhenError
	for _, s := range r.latest {
		exact := true
		if !admits(rd.server, s.Server, &exact) || !admits(rd.database, s.Database, &exact) {
			continue
		}
		if a.When != "" {
			older, err := r.c.At(ctx, s.Server, s.Database, a.When, r.now)
			if missing, ok := err.(*catalogue.WhenError); ok {
				without = append(without, missing)
				continue
			} else if err != nil {
				return nil, err
			}
			s = older
		}
		all = append(all, admitted{s, exact})
	}
	if len(all) == 0 && len(without) > 0 {
		return nil, without[0]
	}
	for _, w := range without {
		if !slices.ContainsFunc(r.Without, func(o *catalogue.WhenError) bool { return *o == *w }) {
			r.Without = append(r.Without, w)
		}
	}
	return all, nil
}

// read returns what one reading of an address fits: containers apart from objects and parts.
func (r *Resolver) read(ctx context.Context, a Address, rd reading) (containers, found []Match, err error) {
	all, err := r.covered(ctx, a, rd)
	if err != nil {
		return nil, nil, err
	}
	var snapshots []*catalogue.Snapshot
	for _, one := range all {
		snapshots = append(snapshots, one.Snapshot)
	}
	var may map[int64]bool
	defer func() { r.bearers = nil }()
	sparse := false
	if r.Sparse && len(rd.names) > 0 {
		if sparse, err = r.c.Indexed(ctx, snapshots); err != nil {
			return nil, nil, err
		}
	}
	filtered := len(rd.names) > 0 && (r.Deferred || sparse || len(snapshots) > 1)
	if filtered {
		if may, err = r.mayHold(ctx, snapshots, rd.names, sparse); err != nil {
			return nil, nil, err
		}
	}
	load := r.c.Contents
	switch {
	case r.bearers != nil:
		load = r.c.Sparse
	case r.Ahead && (len(may) == 1 || len(snapshots) == 1):
		load = r.c.ContentsAhead
	}
	for _, one := range all {
		s := one.Snapshot
		if len(rd.names) == 0 && r.Deferred {
			outline, err := r.c.Outline(ctx, s)
			if err != nil {
				return nil, nil, err
			}
			containers = append(containers, Match{Contents: outline, exact: one.exact})
			continue
		}
		if filtered && !may[s.ID] {
			continue
		}
		contents, err := r.load(ctx, s, load)
		if err != nil {
			return nil, nil, err
		}
		if len(rd.names) == 0 {
			containers = append(containers, Match{Contents: contents, exact: one.exact})
			continue
		}
		schemas, inside, err := r.inside(ctx, contents, a, rd.names)
		if err != nil {
			return nil, nil, err
		}
		for _, list := range [][]Match{schemas, inside} {
			for i := range list {
				list[i].exact = list[i].exact && one.exact
			}
		}
		containers, found = append(containers, schemas...), append(found, inside...)
	}
	return containers, found, nil
}

// mayHold returns which snapshots may hold something of the last of the names; it reads only the indexes of
// names. With sparse set it notes the places of what bears them, where they are no patterns.
func (r *Resolver) mayHold(ctx context.Context, snapshots []*catalogue.Snapshot, names []names.Name, sparse bool) (map[int64]bool, error) {
	last := names[len(names)-1]
	may := map[int64]bool{}
	if last.IsPattern() {
		for _, s := range snapshots {
			may[s.ID] = true
		}
		return may, nil
	}
	folded := index.FoldLine(last.Text) + "\n"
	if sparse && (len(names) == 1 || !names[len(names)-2].IsPattern()) {
		return r.bearersOf(ctx, snapshots, names)
	}
	var lock sync.Mutex
	err := r.c.Scan(ctx, snapshots, 2, func(_ int, k *catalogue.Chunk) error {
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

// bearersOf is mayHold, and notes the places of what bears one of the last two names.
func (r *Resolver) bearersOf(ctx context.Context, snapshots []*catalogue.Snapshot, names []names.Name) (map[int64]bool, error) {
	may, bearers := map[int64]bool{}, map[int64][]int{}
	wanted := names[max(0, len(names)-2):]
	last := &wanted[len(wanted)-1]
	var lock sync.Mutex
	err := r.c.Scan(ctx, snapshots, 2, func(_ int, k *catalogue.Chunk) error {
		var places []int
		for i := range wanted {
			found, err := k.Names.Objects(wanted[i].Text)
			if err != nil {
				return err
			}
			places = append(places, found...)
		}
		inSchema, _ := last.Matches(k.Schema())
		if len(places) == 0 && !inSchema {
			return nil
		}
		lock.Lock()
		defer lock.Unlock()
		may[k.Snapshot.ID] = true
		for _, at := range places {
			bearers[k.Snapshot.ID] = append(bearers[k.Snapshot.ID], k.Start()+at)
		}
		return nil
	})
	for id, places := range bearers {
		slices.Sort(places)
		bearers[id] = slices.Compact(places)
	}
	for id := range may {
		if bearers[id] == nil {
			bearers[id] = []int{} // a schema that no object tells of
		}
	}
	r.bearers = bearers
	return may, err
}

func admits(n *names.Name, s string, exact *bool) bool {
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
	seen := make(map[key]bool, len(found))
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
