// Package search finds names in the catalogue.
package search

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Query says what to look for.
type Query struct {
	Text   string   // part of a name, or words of one; with wildcards, a whole name
	Or     []string // further texts; what matches one of them is found
	Regex  bool     // Text is a regular expression (RE2)
	Whole  bool     // Text is a whole name, in a text a whole word
	Texts  bool     // look through definitions and comments too
	Kinds  []schema.Kind
	Within []address.Match // where to look; empty: everywhere
	// Environments and Type limit the search to snapshots of environments, and to columns whose type
	// matches a pattern.
	Environments []string
	Type         string
	// CanonicalType returns the one spelling of a type that stands for all of an engine's. It may be nil.
	CanonicalType func(engine, typ string) string
	// TypeNames returns an engine's other names of types, with the ones that it prints. It may be nil.
	TypeNames func(engine string) map[string]string
	// WithColumns limits the search to objects that have a column for each of these patterns. Without a Text
	// the objects themselves are the hits.
	WithColumns []string
	// Except leaves out what is there too: see address.Match.
	Except []address.Match
	Around int // lines to give before and after a hit in a text
	Most   int // how many hits to keep, the best; 0 for all. All are counted.
	Few    int // all are kept where there are no more than these
}

// Where tells in what a hit was found.
type Where string

// The places of hits.
const (
	InName   Where = "name"
	InColumn Where = "column"
	InPart   Where = "part"

	InDefinition Where = "definition" // SQL: a body, a query, a default, the expression of a check
	InComment    Where = "comment"
)

// Hit is one thing whose name matches.
type Hit struct {
	Snapshot *catalogue.Snapshot
	ID       schema.ID
	Part     schema.Kind // kind of the part, "" for the object itself
	Name     string      // of the object or the part
	Type     string      // of a column
	NotNull  bool
	Line     int      // of a hit in a text, from 1
	Text     string   // that line
	Before   []string // lines around it, as many as Query.Around asks for
	After    []string

	in   Where // "" for a hit in a name
	rank rankOf

	// Of a hit in the name of an object or in a text, where the object's identity and hash are found.
	chunk *catalogue.Chunk
	entry int
}

// Kind returns the kind of the object or the part.
func (h *Hit) Kind() schema.Kind {
	if h.Part != "" {
		return h.Part
	}
	return h.ID.Kind
}

// Where tells in what the hit was found.
func (h *Hit) Where() Where {
	if h.in != "" {
		return h.in
	}
	switch h.Part {
	case "":
		return InName
	case schema.KindColumn:
		return InColumn
	}
	return InPart
}

// Location returns where the hit is.
func (h *Hit) Location() schema.Location {
	if h.Part != "" {
		return h.Snapshot.Locate(h.ID, h.Name, h.Part)
	}
	return h.Snapshot.Locate(h.ID, "", "")
}

// Result holds the hits, best first, and what to say when there are none.
type Result struct {
	Hits    []*Hit
	Total   int // hits, kept or not
	In      []Count
	Sources []*catalogue.Snapshot
	Outside []*Hit // hits that the limits of the query leave out, when nothing else was found
	Near    []schema.Location
	Words   []string // near words inside names
	// Excepted is how many hits were left out because what Except covers has them too.
	Excepted int
	Types    []string // of columns, near the one that was asked for

	matcher, texts *matcher
}

// Count says how many hits are in a database.
type Count struct {
	Snapshot *catalogue.Snapshot
	Hits     int
}

// Spans returns which bytes of a hit's name match, of a hit in a text, of its line.
func (r *Result) Spans(h *Hit) [][2]int {
	if h.in != "" {
		return r.texts.spans(h.Text, index.FoldLine(h.Text))
	}
	return r.matcher.spans(h.Name, index.FoldLine(h.Name))
}

// Find looks names up in the latest snapshots. What is asked for stays within Within and Kinds; a
// miss tells of hits outside them, and of near names.
func Find(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, q Query) (*Result, error) {
	objectsOnly := q.Text == "" && len(q.WithColumns) > 0
	if objectsOnly {
		q.Text = "*"
	}
	if q.Text == "" {
		return nil, fmt.Errorf("the text to find is empty")
	}
	m, err := newMatchers(q, newMatcher)
	if err != nil {
		return nil, err
	}
	texts, err := newMatchers(q, newTextMatcher)
	if err != nil {
		return nil, err
	}
	res := &Result{matcher: m, texts: texts}
	latest := r.Latest()
	sources := latest
	if len(q.Within) > 0 { // older snapshots may be among them, and exported ones
		sources = nil
		for _, w := range q.Within {
			if s := w.Contents.Snapshot; !slices.ContainsFunc(sources, func(o *catalogue.Snapshot) bool { return o.ID == s.ID }) {
				sources = append(sources, s)
			}
		}
	}
	for _, s := range sources {
		if len(q.Environments) == 0 || slices.ContainsFunc(q.Environments, func(e string) bool { return names.MatchPattern(e, s.Environment) }) {
			res.Sources = append(res.Sources, s)
		}
	}
	var columns []*matcher
	for _, pattern := range q.WithColumns {
		column, err := newMatcher(Query{Text: pattern, Whole: true})
		if err != nil {
			return nil, err
		}
		columns = append(columns, column)
	}
	except, err := newExcept(ctx, c, q.Except)
	if err != nil {
		return nil, err
	}
	q0 := q
	types := &typeFinder{wanted: q.Type, canonical: q.CanonicalType}
	find := func(snapshots []*catalogue.Snapshot, q *Query, m *matcher) (*keeper, error) {
		one := finder{q: q, m: m, texts: texts, columns: columns, except: except, objectsOnly: objectsOnly, types: typeFinder{wanted: q.Type, canonical: q.CanonicalType}}
		best, excepted, err := one.scan(ctx, c, snapshots, types)
		res.Excepted = max(res.Excepted, excepted)
		return best, err
	}
	best, err := find(res.Sources, &q, m)
	if err != nil {
		return nil, err
	}
	res.Hits, res.Total, res.In = best.hits, best.total, best.counts()
	if err := follow(ctx, c, r, res.Hits); err != nil {
		return nil, err
	}
	if res.Total > 0 {
		return res, nil
	}
	// That there is nothing is an answer only where what is searched is whole: the index may be, and the rest not.
	var whole errgroup.Group
	whole.Go(func() error {
		for _, s := range res.Sources {
			if _, err := c.Contents(ctx, s); err != nil {
				return err
			}
		}
		return nil
	})
	err = res.miss(ctx, c, latest, q, q0, m, types, find)
	return res, cmp.Or(whole.Wait(), err)
}

// scan runs copies of a finder side by side over snapshots, and returns the best of what they keep and how much was excepted.
func (f finder) scan(ctx context.Context, c *catalogue.Catalogue, snapshots []*catalogue.Snapshot, types *typeFinder) (*keeper, int, error) {
	finders := make([]finder, min(4, runtime.GOMAXPROCS(0)))
	for i := range finders {
		finders[i] = f
		finders[i].keeper = keeper{most: f.q.Most, few: f.q.Few, in: map[*catalogue.Snapshot]int{}, worst: rankOf{math.MaxInt32, math.MaxInt64}}
	}
	err := c.Scan(ctx, snapshots, len(finders), func(worker int, k *catalogue.Chunk) error {
		f := &finders[worker]
		before := f.total
		err := f.chunk(k)
		if f.total > before {
			f.in[k.Snapshot] += f.total - before
		}
		return err
	})
	if err != nil {
		return nil, 0, err
	}
	best, excepted := &finders[0].keeper, finders[0].excepted
	for i := range finders[1:] {
		best.hits = append(best.hits, finders[i+1].hits...)
		best.total += finders[i+1].total
		excepted += finders[i+1].excepted
		for s, n := range finders[i+1].in {
			best.in[s] += n
		}
	}
	best.cut()
	if f.q.Type != "" {
		for i := range finders {
			types.merge(&finders[i].types)
		}
	}
	return best, excepted, identify(best.hits)
}

// findFunc looks a query up in snapshots.
type findFunc func(snapshots []*catalogue.Snapshot, q *Query, m *matcher) (*keeper, error)

// miss fills in what a query that finds nothing may have meant.
func (r *Result) miss(ctx context.Context, c *catalogue.Catalogue, latest []*catalogue.Snapshot, q, q0 Query, m *matcher, types *typeFinder, find findFunc) error {
	// What the limits leave out, and near names.
	if len(q.Kinds) > 0 || len(q.Within) > 0 || len(q.Environments) > 0 || q.Type != "" {
		q.Kinds, q.Within, q.Environments, q.Type, q.Most = nil, nil, nil, "", mostOutside // what is excepted is no surprise
		outside, err := find(latest, &q, m)
		if err != nil {
			return err
		}
		r.Outside = outside.hits
	}
	if wanted := q0.Type; wanted != "" && !types.matchesAny {
		r.Types = types.near(wanted, q0.TypeNames)
	}
	if !q.Regex {
		return r.near(ctx, c, latest, q, func(q Query, m *matcher) (*keeper, error) { return find(latest, &q, m) })
	}
	return nil
}

// near fills in what is near the texts of a query that finds nothing.
func (r *Result) near(ctx context.Context, c *catalogue.Catalogue, snapshots []*catalogue.Snapshot, q Query, find func(Query, *matcher) (*keeper, error)) error {
	texts := append([]string{q.Text}, q.Or...)
	near, err := findNear(ctx, c, snapshots, texts)
	if err != nil {
		return err
	}
	r.Near, r.Words = near.names, near.words
	first := 0
	for _, text := range texts {
		one := q
		one.Text, one.Texts = text, false
		if phrase, ok := near.nearPhrase(one, first); ok {
			m, err := newMatcher(phrase)
			if err != nil {
				return err
			}
			best, err := find(phrase, m)
			if err != nil {
				return err
			}
			groups, err := Fold(best.hits, 0)
			if err != nil {
				return err
			}
			for _, h := range groups {
				if l := h.Location(); !slices.Contains(r.Near, l) {
					r.Near = append(r.Near, l)
				}
			}
		}
		first += len(wordsIn(text))
	}
	r.Near = r.Near[:min(len(r.Near), mostNear)]
	if len(r.Near) > 0 {
		r.Words = nil
	}
	return nil
}

// mostOutside is how many hits outside the limits are kept.
const mostOutside = 1000

// finder looks through chunks and keeps the best hits.
type finder struct {
	keeper
	q           *Query
	m           *matcher
	columns     []*matcher
	except      *except
	objectsOnly bool
	excepted    int
	types       typeFinder
	texts       *matcher
	lines       []index.LineAt // of the last chunk, for the next one to use the memory again
	textLines   []textLine
}

// having returns which entries of a chunk have a column for each of the patterns.
func (f *finder) having(k *catalogue.Chunk) (map[int]bool, error) {
	var have map[int]bool
	for _, m := range f.columns {
		here := map[int]bool{}
		take := func(folded string, l index.Line) bool {
			if l.Part == schema.KindColumn && (have == nil || have[l.Entry]) && m.first(l.Name, folded)[0] >= 0 {
				here[l.Entry] = true
			}
			return true
		}
		lines, every := m.lines(k.Names, nil)
		var err error
		if every {
			err = k.Names.Lines(take)
		} else if len(lines) > 0 {
			err = k.Names.Sparse(lines, take)
		}
		if err != nil || len(here) == 0 {
			return nil, err
		}
		have = here
	}
	return have, nil
}

// reach tells how much of a chunk a query's Within covers.
type reach int

const (
	nowhere reach = iota
	somewhere
	everywhere
)

func (f *finder) reach(k *catalogue.Chunk) reach {
	if len(f.q.Within) == 0 {
		return everywhere
	}
	best := nowhere
	for _, w := range f.q.Within {
		if w.Contents.Snapshot.ID == k.Snapshot.ID && (w.Schema == "" || w.Schema == k.Schema()) {
			if w.Entry == nil {
				return everywhere
			}
			best = somewhere
		}
	}
	return best
}

func (f *finder) chunk(k *catalogue.Chunk) error {
	reach := f.reach(k)
	if reach == nowhere {
		return nil
	}
	var have map[int]bool
	if len(f.columns) > 0 {
		var err error
		if have, err = f.having(k); err != nil || len(have) == 0 {
			return err
		}
	}
	if err := f.inNames(k, have, reach); err != nil || !f.q.Texts || f.objectsOnly {
		return err
	}
	return f.inTexts(k, have, reach)
}

// inNames finds the hits among the names of a chunk, of those of its objects that have, nil for all.
func (f *finder) inNames(k *catalogue.Chunk, have map[int]bool, reach reach) error {
	lines, every := f.m.lines(k.Names, f.lines[:0])
	f.lines = lines
	order := int64(k.Place) << 32
	if q := f.q; k.Names.Plain && f.m.plain() && len(q.Kinds)+len(q.Within)+len(q.WithColumns) == 0 && q.Type == "" && f.except == nil {
		lines = f.promising(k.Names, lines, order)
	}
	if !every && len(lines) == 0 {
		return nil
	}
	var broken error
	take := func(folded string, l index.Line) bool {
		order++
		if have != nil && !have[l.Entry] || f.objectsOnly && l.Part != "" {
			return true
		}
		first := f.m.first(l.Name, folded)
		if first[0] < 0 {
			return true
		}
		kind := l.Part
		if kind == "" {
			kind = k.Kind()
		}
		if !wantedKind(f.q.Kinds, kind) || f.q.Type != "" && (l.Part != schema.KindColumn || !f.types.matches(k.Snapshot.Engine, l.Type)) {
			return true
		}
		if reach != everywhere || f.except != nil {
			var id schema.ID
			if id, broken = identity(k, &l); broken != nil {
				return false
			}
			if !within(f.q.Within, k.Snapshot, &id) {
				return true
			}
			if f.except.has(k.Snapshot, id, l.Part, l.Name) {
				f.excepted++
				return true
			}
		}
		at := rankOf{rank(k.Snapshot, k.Kind(), &l, first), order}
		if !f.takes(at) {
			return true
		}
		h := &Hit{Snapshot: k.Snapshot, Name: strings.Clone(l.Name), Part: l.Part, Type: strings.Clone(l.Type), NotNull: l.Flags&index.NotNull != 0, rank: at}
		if l.Part == "" {
			h.chunk, h.entry = k, l.Entry
		} else if h.ID, broken = identity(k, &l); broken != nil {
			return false
		}
		f.add(h)
		return true
	}
	var err error
	if every {
		err = k.Names.Lines(take)
	} else {
		err = k.Names.Sparse(lines, take)
	}
	return cmp.Or(err, broken)
}

// promising counts the lines of hits that cannot be among the best, and returns the others: most of a broad
// search needs no closer look. All of the lines are hits.
func (f *finder) promising(x *index.Names, lines []index.LineAt, order int64) []index.LineAt {
	kept := lines[:0]
	for _, l := range lines {
		name := x.Folded[l.Start:l.End]
		at := l.At - l.Start
		thing := anyColumn
		if x.IsObject(l.Line) {
			thing = anyRelation
		}
		best := rankOfSpan(name, [2]int{at, at + len(f.m.literal)}, thing, true)
		if (rankOf{best, order}).compare(f.worst) < 0 {
			kept = append(kept, l)
		} else {
			f.total++
		}
	}
	return kept
}

// identity returns what object a line belongs to. That of a part follows from the names; entries are loaded
// for no more than they have to.
func identity(k *catalogue.Chunk, l *index.Line) (schema.ID, error) {
	if l.Part != "" {
		return schema.ID{Kind: k.Kind(), Schema: k.Schema(), Name: strings.Clone(l.Object())}, nil
	}
	entries, err := k.Entries()
	if err != nil {
		return schema.ID{}, err
	}
	return entries[l.Entry].ID, nil
}

// identify fills in which objects the hits that do not tell yet are in.
func identify(hits []*Hit) error {
	for _, h := range hits {
		if h.chunk == nil {
			continue
		}
		if kind := h.chunk.Kind(); h.in == "" && kind.IsRelation() { // its name tells
			h.ID = schema.ID{Kind: kind, Schema: h.chunk.Schema(), Name: h.Name}
			continue
		}
		entries, err := h.chunk.Entries()
		if err != nil {
			return err
		}
		h.ID = entries[h.entry].ID
		if h.in != "" && h.Part == "" {
			h.Name = h.ID.Name
		}
	}
	return nil
}

// rankOf is what hits are ordered by: how good they are, then where they were found.
type rankOf struct {
	rank  int32
	place int64
}

func (a rankOf) compare(b rankOf) int {
	return cmp.Or(cmp.Compare(a.rank, b.rank), cmp.Compare(a.place, b.place))
}

// rank orders hits: exact, prefix, word start, inside; relations before other objects before parts; the
// shorter name first, live before other environments.
func rank(s *catalogue.Snapshot, object schema.Kind, l *index.Line, first [2]int) int32 {
	thing := anyRelation
	switch {
	case l.Part == schema.KindColumn:
		thing = anyColumn
	case l.Part != "":
		thing = anyPart
	case !object.IsRelation():
		thing = anyObject
	}
	return rankOfSpan(l.Name, first, thing, s.Environment == "live")
}

// Classes of things, the best first.
const (
	anyRelation = iota
	anyObject
	anyColumn
	anyPart
)

// rankOfSpan ranks a hit at those bytes of a name, of a thing of the given class.
func rankOfSpan(name string, first [2]int, thing int, live bool) int32 {
	n := 3
	switch {
	case first[0] == 0 && first[1] == len(name):
		n = 0
	case first[0] == 0:
		n = 1
	case strings.IndexByte("_ -.$", name[first[0]-1]) >= 0:
		n = 2
	}
	n = (n*4+thing)<<9 | min(len(name), 255)<<1
	if !live {
		n++
	}
	return int32(n)
}

// keeper keeps the best hits of many.
type keeper struct {
	most, few int // how many to keep, 0 for all; where there are no more than few, all are
	total     int
	in        map[*catalogue.Snapshot]int
	worst     rankOf // what a hit must be better than, once most are kept
	hits      []*Hit
}

// room returns how many hits are kept.
func (k *keeper) room() int {
	if k.total <= k.few {
		return max(k.most, k.few)
	}
	return k.most
}

// counts returns how many hits are in each database, the most first.
func (k *keeper) counts() []Count {
	var all []Count
	for s, n := range k.in {
		all = append(all, Count{s, n})
	}
	slices.SortFunc(all, func(a, b Count) int {
		return cmp.Or(cmp.Compare(b.Hits, a.Hits), cmp.Compare(a.Snapshot.ID, b.Snapshot.ID))
	})
	return all
}

// takes counts a hit, and reports whether it may be among the best.
func (k *keeper) takes(rank rankOf) bool {
	k.total++
	return rank.compare(k.worst) < 0
}

func (k *keeper) add(h *Hit) {
	k.hits = append(k.hits, h)
	if k.most > 0 && len(k.hits) >= 2*k.room() {
		k.cut()
	}
}

// cut orders the hits and drops those that are not among the best.
func (k *keeper) cut() {
	order(k.hits)
	if room := k.room(); k.most > 0 && len(k.hits) > room {
		k.hits = k.hits[:room]
		k.worst = k.hits[room-1].rank
	}
}

func order(hits []*Hit) {
	slices.SortFunc(hits, func(a, b *Hit) int { return a.rank.compare(b.rank) })
}

func wantedKind(kinds []schema.Kind, k schema.Kind) bool {
	return len(kinds) == 0 || slices.Contains(kinds, k)
}

func within(all []address.Match, s *catalogue.Snapshot, id *schema.ID) bool {
	if len(all) == 0 {
		return true
	}
	return slices.ContainsFunc(all, func(w address.Match) bool {
		switch {
		case w.Contents.Snapshot.ID != s.ID:
			return false
		case w.Entry != nil:
			return w.Entry.ID == *id
		case w.Schema != "":
			return id.Schema == w.Schema
		}
		return true
	})
}
