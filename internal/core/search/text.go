package search

// Words are found in texts with their lines, whole or in part.

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Hits in texts come after all hits in names.
const rankOfText = 1 << 20

// newTextMatcher returns what finds a query's text in a line of a text: there a pattern with wildcards
// need not be the whole.
func newTextMatcher(q Query) (*matcher, error) {
	if strings.Contains(q.Text, "\n") && !q.Regex {
		first, _, _ := strings.Cut(strings.TrimLeft(q.Text, "\r\n"), "\n")
		m := &matcher{literal: index.FoldLine(strings.TrimRight(first, "\r")), across: names.Fold(strings.ReplaceAll(strings.TrimLeft(q.Text, "\r\n"), "\r\n", "\n"))}
		m.rare = rarest(m.literal)
		if m.literal == "" {
			m.regex = noLine // nothing but line breaks
		}
		return m, nil
	}
	whole := q.Whole
	q.Whole = false
	m, err := newMatcher(q)
	if m != nil {
		m.words = nil // in a text the words of a phrase follow each other
	}
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
	if m.regex, err = compile("(?i)" + expression); err != nil {
		return nil, err
	}
	return m, nil
}

// noLine matches nothing.
var noLine = regexp.MustCompile(`[^\s\S]`)

// goesOn reports whether a text that is looked for with its line breaks stands in the line that begins at a place, and
// in those behind it.
func (m *matcher) goesOn(x *index.Texts, t *index.Item, line textLine) bool {
	if m.across == "" {
		return true
	}
	rest := names.Fold(strings.ReplaceAll(x.Body[line.start:min(t.End, line.start+len(m.across)*4+(line.end-line.start)+4096)], "\r\n", "\n"))
	at := strings.Index(rest, m.across)
	end := strings.IndexByte(rest, '\n')
	return at >= 0 && (end < 0 || at <= end)
}

// textLine is a line of a chunk's texts, without its line break.
type textLine struct{ start, end int }

// textLines appends the lines of a window that match, in any order, some perhaps twice.
func (m *matcher) textLines(w index.Window, lines []textLine) []textLine {
	for _, one := range m.any {
		lines = one.textLines(w, lines)
	}
	if m.any != nil {
		return lines
	}
	if !w.Plain {
		lines = m.oddLines(w, lines)
	}
	for at := 0; at < len(w.Folded); {
		i := m.index(w.Folded[at:])
		if i < 0 {
			break
		}
		start, end := at+strings.LastIndexByte(w.Folded[at:at+i], '\n')+1, lineEnd(w.Folded, at+i)
		text := w.Body[start:end]
		if (w.Plain || names.IsASCII(text)) && (m.plain() || m.matches(text)) {
			lines = append(lines, textLine{w.Start + start, w.Start + end})
		}
		at = end + 1
	}
	return lines
}

// lineEnd returns where the line that holds the byte at a place ends.
func lineEnd(text string, at int) int {
	if n := strings.IndexByte(text[at:], '\n'); n >= 0 {
		return at + n
	}
	return len(text)
}

// oddLines appends those of the lines that match that are not ASCII: in them letters may look otherwise and be
// the same.
func (m *matcher) oddLines(w index.Window, lines []textLine) []textLine {
	for at := 0; at < len(w.Body); {
		end := lineEnd(w.Body, at)
		if text := w.Body[at:end]; !names.IsASCII(text) && m.matches(text) {
			lines = append(lines, textLine{w.Start + at, w.Start + end})
		}
		at = end + 1
	}
	return lines
}

func (m *matcher) matches(line string) bool {
	line = strings.TrimSuffix(line, "\r")
	return m.spans(line, index.FoldLine(line)) != nil
}

// inTexts finds the hits in the texts of a chunk. Its names are of no use afterwards.
func (f *finder) inTexts(k *catalogue.Chunk, have map[int]bool, reach reach) error {
	x, err := k.Texts()
	if err != nil || x == nil {
		return err
	}
	lines := f.textLines[:0]
	x.Windows(func(w index.Window) { lines = f.texts.textLines(w, lines) })
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
	wanted := func(t *index.Item) (bool, error) {
		kind := t.Part
		if kind == "" {
			kind = k.Kind()
		}
		if have != nil && !have[t.Entry] || !wantedKind(f.q.Kinds, kind) || f.q.Type != "" && (t.Part != schema.KindColumn || !f.types.matches(k.Snapshot.Engine, t.Type)) {
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
		if take && f.texts.goesOn(x, t, line) && f.takes(at) {
			f.add(f.textHit(k, x, t, line, at))
		}
	}
	return nil
}

// textHit makes the hit of a line.
func (f *finder) textHit(k *catalogue.Chunk, x *index.Texts, t *index.Item, line textLine, at rankOf) *Hit {
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
