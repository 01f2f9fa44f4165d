package search

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Hits in texts come after all hits in names.
const rankOfText = 1 << 20

// newTextMatcher returns what finds a query's text in a line of a text: there a pattern with wildcards
// need not be the whole.
func newTextMatcher(q Query) (*matcher, error) {
	whole := q.Whole
	q.Whole = false
	m, err := newMatcher(q)
	if err != nil || m.pattern == "" && !whole {
		return m, err
	}
	expression := q.Text
	if words := strings.Fields(q.Text); len(words) > 1 && m.pattern == "" && !q.Regex {
		expression = strings.TrimPrefix(m.regex.String(), "(?i)")
	} else if !q.Regex {
		expression = strings.NewReplacer(`\*`, `.*?`, `%`, `.*?`, `\?`, `.`).Replace(regexp.QuoteMeta(q.Text))
	}
	if whole {
		expression = `\b(?:` + expression + `)\b`
	}
	if m.regex, err = regexp.Compile("(?i)" + expression); err != nil {
		return nil, err
	}
	return m, nil
}

// textLine is a line of a chunk's texts, without its line break.
type textLine struct{ start, end int }

// textLines appends the lines of texts that match, in any order, some perhaps twice.
func (m *matcher) textLines(x *catalogue.TextIndex, lines []textLine) []textLine {
	for _, one := range m.any {
		lines = one.textLines(x, lines)
	}
	if m.any != nil {
		return lines
	}
	if !x.Plain {
		lines = m.oddLines(x, lines)
	}
	for at := 0; ; {
		i := strings.Index(x.Folded[at:], m.literal)
		if i < 0 || at+i >= len(x.Folded) {
			return lines
		}
		line := textLine{start: at + strings.LastIndexByte(x.Folded[at:at+i], '\n') + 1, end: len(x.Folded)}
		if n := strings.IndexByte(x.Folded[at+i:], '\n'); n >= 0 {
			line.end = at + i + n
		}
		text := x.Body[line.start:line.end]
		if (x.Plain || ascii(text)) && (m.plain() || m.matches(text)) {
			lines = append(lines, line)
		}
		if at = line.end + 1; at > len(x.Folded) {
			return lines
		}
	}
}

// oddLines appends those of the lines that match that are not ASCII: in them letters may look otherwise and be
// the same.
func (m *matcher) oddLines(x *catalogue.TextIndex, lines []textLine) []textLine {
	for at := 0; at < len(x.Body); {
		end := len(x.Body)
		if n := strings.IndexByte(x.Body[at:], '\n'); n >= 0 {
			end = at + n
		}
		if text := x.Body[at:end]; !ascii(text) && m.matches(text) {
			lines = append(lines, textLine{at, end})
		}
		at = end + 1
	}
	return lines
}

func (m *matcher) matches(line string) bool {
	line = strings.TrimSuffix(line, "\r")
	return m.spans(line, catalogue.FoldLine(line)) != nil
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// inTexts finds the hits in the texts of a chunk. Its names are of no use afterwards.
func (f *finder) inTexts(k *catalogue.Chunk, have map[int]bool, reach reach) error {
	x, err := k.Texts()
	if err != nil || x == nil {
		return err
	}
	lines := f.texts.textLines(x, f.textLines[:0])
	f.textLines = lines
	if len(lines) == 0 {
		return nil
	}
	slices.SortFunc(lines, func(a, b textLine) int { return cmp.Compare(a.start, b.start) })
	lines = slices.Compact(lines)
	items, err := x.Items()
	if err != nil {
		return err
	}
	at := rankOf{rankOfText, int64(k.Place) << 32}
	if k.Snapshot.Environment != "live" {
		at.rank++
	}
	item := 0
	wanted := func(t *catalogue.TextItem) (bool, error) {
		kind := t.Part
		if kind == "" {
			kind = k.Kind()
		}
		if have != nil && !have[t.Entry] || !wantedKind(f.q.Kinds, kind) || f.q.Type != "" && (t.Part != schema.KindColumn || !schema.MatchPattern(f.q.Type, t.Type)) {
			return false, nil
		}
		if reach == everywhere && f.except == nil {
			return true, nil
		}
		entries, err := k.Entries()
		if err != nil {
			return false, err
		}
		id, name := entries[t.Entry].ID, t.Name
		if t.Part == "" {
			name = id.Name
		}
		return within(f.q.Within, k.Snapshot, &id) && !f.except.has(k.Snapshot, id, t.Part, name), nil
	}
	seen, take := -1, false // the item that was asked for last, and whether it is wanted
	for _, line := range lines {
		at.place++
		for items[item].End < line.start {
			item++
		}
		t := &items[item]
		if item != seen {
			if take, err = wanted(t); err != nil {
				return err
			}
			seen = item
		}
		if take && f.takes(at) {
			f.add(f.textHit(k, x, t, line, at))
		}
	}
	return nil
}

// textHit makes the hit of a line.
func (f *finder) textHit(k *catalogue.Chunk, x *catalogue.TextIndex, t *catalogue.TextItem, line textLine, at rankOf) *Hit {
	h := &Hit{Snapshot: k.Snapshot, Part: t.Part, Name: strings.Clone(t.Name), Type: strings.Clone(t.Type), in: InDefinition, rank: at, chunk: k, entry: t.Entry}
	if t.Comment {
		h.in = InComment
	}
	h.Line = 1 + strings.Count(x.Body[t.Start:line.start], "\n")
	h.Text = strings.Clone(strings.TrimSuffix(x.Body[line.start:line.end], "\r"))
	if f.q.Around > 0 {
		all := strings.Split(strings.ReplaceAll(strings.Clone(x.Body[t.Start:t.End]), "\r\n", "\n"), "\n")
		h.Before, h.After = all[max(0, h.Line-1-f.q.Around):h.Line-1], all[h.Line:min(len(all), h.Line+f.q.Around)]
	}
	return h
}
