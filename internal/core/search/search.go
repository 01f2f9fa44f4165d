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

	"echo-atlas/internal/core/catalogue"
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
	Within []catalogue.Match // where to look; empty: everywhere
	// Environments and Type limit the search to snapshots of environments, and to columns whose type
	// matches a pattern.
	Environments []string
	Type         string
	// WithColumns limits the search to objects that have a column for each of these patterns. Without a Text
	// the objects themselves are the hits.
	WithColumns []string
	// Except leaves out what is there too: see catalogue.Match.
	Except []catalogue.Match
	Around int // lines to give before and after a hit in a text
	Most   int // how many hits to keep, the best; 0 for all. All are counted.
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

	in   Where       // "" for a hit in a name
	hash schema.Hash // of an object whose name is hit
	rank rankOf
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
	Sources []*catalogue.Snapshot
	Outside []*Hit // hits that the limits of the query leave out, when nothing else was found
	Near    []schema.Location
	Words   []string // near words inside names

	matcher, texts *matcher
}

// Spans returns which bytes of a hit's name match, of a hit in a text, of its line.
func (r *Result) Spans(h *Hit) [][2]int {
	if h.in != "" {
		return r.texts.spans(h.Text, catalogue.FoldLine(h.Text))
	}
	return r.matcher.spans(h.Name, catalogue.FoldLine(h.Name))
}

// Find looks names up in the latest snapshots. What is asked for stays within Within and Kinds; a
// miss tells of hits outside them, and of near names.
func Find(ctx context.Context, c *catalogue.Catalogue, r *catalogue.Resolver, q Query) (*Result, error) {
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
	inSnapshot := map[int64]bool{}
	for _, s := range latest {
		wanted := len(q.Environments) == 0 || slices.ContainsFunc(q.Environments, func(e string) bool { return schema.MatchPattern(e, s.Environment) })
		if wanted && (len(q.Within) == 0 || slices.ContainsFunc(q.Within, func(w catalogue.Match) bool { return w.Contents.Snapshot.ID == s.ID })) {
			inSnapshot[s.ID] = true
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
	find := func(snapshots []*catalogue.Snapshot) (*keeper, error) {
		workers := min(4, runtime.GOMAXPROCS(0))
		finders := make([]finder, workers)
		for i := range finders {
			finders[i] = finder{q: &q, m: m, columns: columns, except: except, objectsOnly: objectsOnly, keeper: keeper{most: q.Most, worst: rankOf{math.MaxInt32, math.MaxInt64}}}
		}
		err := c.Scan(ctx, snapshots, workers, func(worker int, k *catalogue.Chunk) error { return finders[worker].chunk(k) })
		best := &finders[0].keeper
		for i := range finders[1:] {
			best.hits = append(best.hits, finders[i+1].hits...)
			best.total += finders[i+1].total
		}
		if q.Texts && err == nil {
			var hits []*Hit
			hits, err = findTexts(ctx, c, r, snapshots, &q, texts, columns, except)
			best.hits = append(best.hits, hits...)
			best.total += len(hits)
		}
		best.cut()
		return best, err
	}
	best, err := find(res.Sources)
	if err != nil {
		return nil, err
	}
	res.Hits, res.Total = best.hits, best.total
	if err := follow(ctx, c, r, res.Hits); err != nil {
		return nil, err
	}
	if res.Total > 0 {
		return res, nil
	}
	// What the limits leave out, and near names.
	if len(q.Kinds) > 0 || len(q.Within) > 0 || len(q.Environments) > 0 || q.Type != "" {
		q.Kinds, q.Within, q.Environments, q.Type, q.Most = nil, nil, nil, "", mostOutside // what --except leaves out is no surprise
		outside, err := find(latest)
		if err != nil {
			return nil, err
		}
		res.Outside = outside.hits
	}
	if !q.Regex {
		for _, text := range append([]string{q.Text}, q.Or...) {
			near, err := r.NearNames(ctx, strings.Trim(text, "*%?"))
			if err != nil {
				return nil, err
			}
			res.Near = append(res.Near, near...)
			if len(near) == 0 {
				words, err := nearWords(ctx, c, latest, text)
				if err != nil {
					return nil, err
				}
				res.Words = append(res.Words, words...)
			}
		}
	}
	return res, nil
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
	lines       []catalogue.LineAt
}

// having returns which entries of a chunk have a column for each of the patterns.
func (f *finder) having(k *catalogue.Chunk) (map[int]bool, error) {
	var have map[int]bool
	for _, m := range f.columns {
		here := map[int]bool{}
		take := func(folded string, l catalogue.NameLine) bool {
			if l.Part == schema.KindColumn && (have == nil || have[l.Entry]) && m.first(l.Name, folded)[0] >= 0 {
				here[l.Entry] = true
			}
			return true
		}
		lines, every := m.lines(k.Names, nil)
		var err error
		if every {
			err = k.Names.Lines(nil, func(_ int, folded string, l catalogue.NameLine) bool { return take(folded, l) })
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

func (f *finder) chunk(k *catalogue.Chunk) error {
	lines, every := f.m.lines(k.Names, f.lines[:0])
	f.lines = lines
	if !every && len(lines) == 0 {
		return nil
	}
	var have map[int]bool
	if len(f.columns) > 0 {
		var err error
		if have, err = f.having(k); err != nil || len(have) == 0 {
			return err
		}
	}
	var broken error
	order := int64(k.Place) << 32
	take := func(folded string, l catalogue.NameLine) bool {
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
		if !wantedKind(f.q.Kinds, kind) || f.q.Type != "" && (l.Part != schema.KindColumn || !schema.MatchPattern(f.q.Type, l.Type)) {
			return true
		}
		var entries []catalogue.Entry // loaded only for a hit that is kept
		if len(f.q.Within) > 0 {
			if entries, broken = k.Entries(); broken != nil {
				return false
			}
			if !within(f.q.Within, k.Snapshot, &entries[l.Entry].ID) {
				return true
			}
		}
		if f.except != nil {
			if entries, broken = k.Entries(); broken != nil {
				return false
			}
			if f.except.has(k.Snapshot, entries[l.Entry].ID, l.Part, l.Name) {
				return true
			}
		}
		at := rankOf{rank(k.Snapshot, k.Kind(), &l, first), order}
		if !f.takes(at) {
			return true
		}
		if entries, broken = k.Entries(); broken != nil {
			return false
		}
		h := &Hit{Snapshot: k.Snapshot, ID: entries[l.Entry].ID, Name: l.Name, Part: l.Part, Type: l.Type, NotNull: l.Flags&catalogue.NotNull != 0, rank: at}
		if l.Part == "" {
			h.hash = entries[l.Entry].Hash
		}
		f.add(h)
		return true
	}
	var err error
	if every {
		err = k.Names.Lines(nil, func(_ int, folded string, l catalogue.NameLine) bool { return take(folded, l) })
	} else {
		err = k.Names.Sparse(lines, take)
	}
	return cmp.Or(err, broken)
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
func rank(s *catalogue.Snapshot, object schema.Kind, l *catalogue.NameLine, first [2]int) int32 {
	n := 3
	switch {
	case first[0] == 0 && first[1] == len(l.Name):
		n = 0
	case first[0] == 0:
		n = 1
	case strings.IndexByte("_ -.$", l.Name[first[0]-1]) >= 0:
		n = 2
	}
	n *= 4
	switch {
	case l.Part == schema.KindColumn:
		n += 2
	case l.Part != "":
		n += 3
	case !object.IsRelation():
		n++
	}
	n = n<<9 | min(len(l.Name), 255)<<1
	if s.Environment != "live" {
		n++
	}
	return int32(n)
}

// keeper keeps the best hits of many.
type keeper struct {
	most, total int
	worst       rankOf // what a hit must be better than, once most are kept
	hits        []*Hit
}

// takes counts a hit, and reports whether it may be among the best.
func (k *keeper) takes(rank rankOf) bool {
	k.total++
	return rank.compare(k.worst) < 0
}

func (k *keeper) add(h *Hit) {
	k.hits = append(k.hits, h)
	if k.most > 0 && len(k.hits) >= 2*k.most {
		k.cut()
	}
}

// cut orders the hits and drops those that are not among the best.
func (k *keeper) cut() {
	order(k.hits)
	if k.most > 0 && len(k.hits) >= k.most {
		k.hits = k.hits[:k.most]
		k.worst = k.hits[k.most-1].rank
	}
}

func order(hits []*Hit) {
	slices.SortFunc(hits, func(a, b *Hit) int { return a.rank.compare(b.rank) })
}

func wantedKind(kinds []schema.Kind, k schema.Kind) bool {
	return len(kinds) == 0 || slices.Contains(kinds, k)
}

func within(all []catalogue.Match, s *catalogue.Snapshot, id *schema.ID) bool {
	if len(all) == 0 {
		return true
	}
	return slices.ContainsFunc(all, func(w catalogue.Match) bool {
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
