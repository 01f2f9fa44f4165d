package search

// Where nothing is found, names and words that are near by edits, abbreviation or order are.

import (
	"cmp"
	"context"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// mostNear is how many near things are offered.
const mostNear = 5

// nearThings is what comes near to texts that nothing is called by.
type nearThings struct {
	names []schema.Location // of servers, databases and objects whose whole name is near
	words []string          // inside names, the nearest first
	parts [][]string        // by word of all texts: the words that are near it
}

// findNear looks for what is near to texts in the names of snapshots.
func findNear(ctx context.Context, c *catalogue.Catalogue, snapshots []*catalogue.Snapshot, texts []string) (*nearThings, error) {
	const workers = 2
	var looks [workers]nearLook
	for i := range looks {
		looks[i].known = map[string]bool{}
		for _, text := range texts {
			text = index.FoldLine(strings.Trim(text, "*%?"))
			looks[i].texts = append(looks[i].texts, newNearText(text))
			for _, word := range wordsIn(text) {
				looks[i].words = append(looks[i].words, newNearText(word))
			}
		}
		looks[i].near = make([][]nearWord, len(looks[i].words))
	}
	for i, s := range snapshots {
		last := math.MaxInt64 - int64(len(snapshots)-i)
		looks[0].name(names.Fold(s.Server), nearName{place: last, location: schema.Location{Server: s.Server}})
		looks[0].name(names.Fold(s.Database), nearName{place: last, location: s.Location()})
	}
	err := c.Scan(ctx, snapshots, workers, func(worker int, k *catalogue.Chunk) error {
		looks[worker].chunk(k)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return gather(looks[:])
}

// gather joins what workers saw.
func gather(looks []nearLook) (*nearThings, error) {
	out := &nearThings{parts: make([][]string, len(looks[0].words))}
	var names []nearName
	var words []nearWord
	for _, l := range looks {
		names = append(names, l.names...)
	}
	for i := range out.parts {
		var near []nearWord
		for _, l := range looks {
			near = append(near, l.near[i]...)
		}
		slices.SortFunc(near, nearWord.compare)
		near = slices.Compact(near)
		for _, w := range near {
			out.parts[i] = append(out.parts[i], w.word)
		}
		words = append(words, near...)
	}
	slices.SortFunc(words, nearWord.compare)
	for _, w := range words {
		if !slices.Contains(out.words, w.word) && len(out.words) < mostNear {
			out.words = append(out.words, w.word)
		}
	}
	slices.SortFunc(names, nearName.compare)
	seen := map[counterpart]bool{}
	for _, n := range names {
		if n.chunk != nil {
			entries, err := n.chunk.Entries()
			if err != nil {
				return nil, err
			}
			s, id := n.chunk.Snapshot, entries[n.entry].ID
			key := counterpartOf(s, id)
			if seen[key] {
				continue // in another environment
			}
			seen[key] = true
			n.location = s.Locate(id, "", "")
		}
		if !slices.Contains(out.names, n.location) {
			out.names = append(out.names, n.location)
		}
		if len(out.names) == mostNear {
			break
		}
	}
	return out, nil
}

// wordsIn returns the words of a text that may be a name.
func wordsIn(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r) || strings.ContainsRune("_.-*%?", r)
	})
}

type nearText struct {
	text  string // folded
	limit int    // how many changes are near
}

func newNearText(text string) nearText {
	return nearText{text, utf8.RuneCountInString(text) / 3} // of one or two letters any other is as near
}

// distance returns how far a folded name is; ok is false where it is too far.
func (t nearText) distance(name string) (d int, ok bool) {
	// By bytes, of which a letter may have four.
	if name == "" || t.text == "" || len(name) < len(t.text)-4*t.limit || len(name) > len(t.text)+4*t.limit {
		return 0, false
	}
	d = names.EditDistance(t.text, name, t.limit)
	return d, d <= t.limit
}

type nearName struct {
	distance int
	place    int64
	location schema.Location
	chunk    *catalogue.Chunk // of an object, which entry it is
	entry    int
}

func (a nearName) compare(b nearName) int {
	return cmp.Or(cmp.Compare(a.distance, b.distance), cmp.Compare(a.place, b.place))
}

type nearWord struct {
	distance int
	word     string
}

func (a nearWord) compare(b nearWord) int {
	return cmp.Or(cmp.Compare(a.distance, b.distance), strings.Compare(a.word, b.word))
}

// notLive puts places in other environments than live behind those there.
const notLive = 1 << 61

// nearLook is what one worker sees.
type nearLook struct {
	texts, words []nearText
	names        []nearName
	known        map[string]bool // words that were looked at
	near         [][]nearWord    // by word of the texts
}

func (l *nearLook) name(folded string, n nearName) {
	for _, t := range l.texts {
		if d, ok := t.distance(folded); ok {
			n.distance = d
			l.names = append(l.names, n)
		}
	}
	if len(l.names) > 200*mostNear {
		slices.SortFunc(l.names, nearName.compare)
		l.names = l.names[:100*mostNear]
	}
}

func (l *nearLook) chunk(k *catalogue.Chunk) {
	for word := range strings.Lines(k.Names.Words) {
		word = word[:len(word)-1]
		if l.known[word] {
			continue
		}
		word = strings.Clone(word)
		l.known[word] = true
		for i, t := range l.words {
			d, ok := t.distance(word)
			if !ok && (abbreviates(word, t.text) || abbreviates(t.text, word)) {
				d, ok = 1, true
			}
			if ok {
				l.near[i] = append(l.near[i], nearWord{d, word})
			}
		}
	}
	names, entry := k.Names.Folded, -1
	for line, start := 0, 0; start < len(names); line++ {
		end := start + strings.IndexByte(names[start:], '\n')
		if end < start {
			return
		}
		if k.Names.IsObject(line) {
			entry++
			n := nearName{place: int64(k.Place)<<32 + int64(entry), chunk: k, entry: entry}
			if k.Snapshot.Environment != "live" {
				n.place += notLive
			}
			l.name(names[start:end], n)
		}
		start = end + 1
	}
}

// abbreviates reports whether a word is short for another, both folded: its beginning, or letters of it in
// their order, without vowels, such as qty for quantity, or most of them; no is short for number.
func abbreviates(short, long string) bool {
	const beginning = 3 // letters
	if len(short) < 2 || len(short) >= len(long) || short[0] != long[0] {
		return false
	}
	if len(short) >= beginning && strings.HasPrefix(long, short) || short == "no" && long == "number" {
		return true
	}
	least := len(long) // bytes that a word with such letters has to have, times four
	if strings.ContainsAny(short[1:], "aeiou") {
		least = len(long) * 8 / 3
	}
	at := 1
	for i := 1; i < len(short); i++ {
		next := strings.IndexByte(long[at:], short[i])
		if next < 0 {
			return false
		}
		at += next + 1
	}
	return len(short)*4 >= least
}

// nearPhrase returns a query for names that hold, one after the other, the words of a phrase or words near
// them; ok is false where the text is no phrase, or a word has none.
func (n *nearThings) nearPhrase(q Query, first int) (_ Query, ok bool) {
	words := wordsIn(q.Text)
	if len(words) < 2 {
		return q, false
	}
	for i, w := range words {
		either := []string{regexp.QuoteMeta(w)}
		for _, near := range n.parts[first+i] {
			either = append(either, regexp.QuoteMeta(near))
		}
		words[i] = "(?:" + strings.Join(either, "|") + ")"
	}
	q.Text, q.Regex, q.Or, q.Most = strings.Join(words, joint)+"(?:[^a-z]|$)", true, nil, 8*mostNear // in several environments
	return q, true
}
