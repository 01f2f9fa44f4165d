package search

// A matcher finds a text, a pattern or an expression in folded lines; most lines are passed by a plain search of bytes.

import (
	"cmp"
	"fmt"
	"regexp"
	"regexp/syntax"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
)

// matcher finds a text in names.
type matcher struct {
	literal string // folded; a line that matches holds it
	rare    int    // which of its bytes is the rarest
	pattern string // whole name with wildcards
	regex   *regexp.Regexp
	words   []string   // folded, of a phrase: what regex does not match is found if it holds all of them
	across  string     // folded, of a text with line breaks: what a text has to hold from the line on that matches
	any     []*matcher // what one of these finds, instead of the above
}

// newMatchers makes a matcher of all texts of a query.
func newMatchers(q Query, one func(Query) (*matcher, error)) (*matcher, error) {
	if len(q.Or) == 0 {
		return one(q)
	}
	all := new(matcher)
	for _, text := range append([]string{q.Text}, q.Or...) {
		q.Text = text
		m, err := one(q)
		if err != nil {
			return nil, err
		}
		all.any = append(all.any, m)
	}
	return all, nil
}

func newMatcher(q Query) (*matcher, error) {
	m, err := matcherOf(q)
	if err == nil {
		m.rare = rarest(m.literal)
	}
	return m, err
}

func matcherOf(q Query) (*matcher, error) {
	if q.Regex {
		expression := "(?i)" + q.Text
		re, err := compile(expression) // as it stands, so that an error speaks of what was typed
		if err == nil && q.Whole {
			re, err = compile("^(?:" + expression + ")$")
		}
		if err != nil {
			return nil, fmt.Errorf("%q is no regular expression: %w", q.Text, err)
		}
		return &matcher{regex: re, literal: required(q.Text)}, nil
	}
	if strings.ContainsAny(q.Text, "*%?") {
		longest := ""
		for _, run := range strings.FieldsFunc(q.Text, func(r rune) bool { return r == '*' || r == '%' || r == '?' }) {
			if len(run) > len(longest) {
				longest = run
			}
		}
		return &matcher{literal: index.FoldLine(longest), pattern: q.Text}, nil
	}
	if words := strings.Fields(q.Text); len(words) > 1 {
		return phrase(words, q.Whole)
	}
	m := &matcher{literal: index.FoldLine(q.Text)}
	if q.Whole {
		m.pattern = q.Text
	}
	return m, nil
}

// compile is regexp.Compile, for expressions with bytes that are no UTF-8, too: each finds any such byte.
func compile(expression string) (*regexp.Regexp, error) {
	if utf8.ValidString(expression) {
		return regexp.Compile(expression)
	}
	var b strings.Builder
	for i := 0; i < len(expression); {
		r, size := utf8.DecodeRuneInString(expression[i:])
		if r == utf8.RuneError && size == 1 {
			b.WriteString(`\x{FFFD}`)
		} else {
			b.WriteString(expression[i : i+size])
		}
		i += size
	}
	return regexp.Compile(b.String())
}

// joint is what may stand between the words of a phrase.
const joint = `[\s_.-]*`

// phrase finds words in a name, however it joins them: a blank, an underscore, a capital. Best are names in which
// they follow each other; those that hold them in another order, or apart, are found too.
func phrase(words []string, whole bool) (*matcher, error) {
	longest := ""
	quoted := make([]string, len(words))
	m := &matcher{}
	for i, w := range words {
		quoted[i] = regexp.QuoteMeta(w)
		if len(w) > len(longest) {
			longest = w
		}
		if !whole {
			m.words = append(m.words, index.FoldLine(w))
		}
	}
	expression := strings.Join(quoted, joint)
	if whole {
		const most = 4 // words, of which all orders are tried
		if len(words) <= most {
			expression = strings.Join(orders(quoted), "|")
		}
		expression = "^(?:" + expression + ")$"
	}
	var err error
	m.regex, err = compile("(?i)" + expression)
	m.literal = index.FoldLine(longest)
	return m, err
}

// orders returns words in all orders, joined.
func orders(words []string) []string {
	if len(words) == 1 {
		return words
	}
	var all []string
	for i, w := range words {
		rest := slices.Delete(slices.Clone(words), i, i+1)
		for _, tail := range orders(rest) {
			all = append(all, w+joint+tail)
		}
	}
	return all
}

// apart returns where all the words of a phrase stand, nil if one does not.
func (m *matcher) apart(name, folded string) [][2]int {
	var spans [][2]int
	for _, w := range m.words {
		i := strings.Index(folded, w)
		if i < 0 {
			return nil
		}
		spans = append(spans, [2]int{i, i + len(w)})
	}
	if len(folded) != len(name) { // folding changed the length: mark the whole
		return [][2]int{{0, len(name)}}
	}
	return union(spans)
}

// required returns the longest text that everything an expression matches holds, folded; "" if there is
// none, or it is not plain.
func required(expression string) string {
	parsed, err := syntax.Parse(expression, syntax.Perl)
	if err != nil {
		return ""
	}
	best := ""
	var walk func(e *syntax.Regexp)
	walk = func(e *syntax.Regexp) {
		switch e.Op {
		case syntax.OpLiteral:
			text := string(e.Rune)
			if ascii := strings.IndexFunc(text, func(r rune) bool { return r >= 0x80 || r == '\n' }) < 0; ascii && len(text) > len(best) {
				best = text
			}
		case syntax.OpConcat, syntax.OpCapture:
			for _, sub := range e.Sub {
				walk(sub)
			}
		case syntax.OpPlus:
			walk(e.Sub[0])
		}
	}
	walk(parsed.Simplify())
	return index.FoldLine(best)
}

// spans returns where the name matches, nil if it does not.
func (m *matcher) spans(name, folded string) [][2]int {
	switch {
	case len(m.any) > 0:
		var spans [][2]int
		for _, one := range m.any {
			spans = append(spans, one.spans(name, folded)...)
		}
		return union(spans)
	case m.regex != nil:
		var spans [][2]int
		for _, s := range m.regex.FindAllStringIndex(name, -1) {
			if s[1] > s[0] {
				spans = append(spans, [2]int{s[0], s[1]})
			}
		}
		if spans == nil && m.words != nil {
			return m.apart(name, folded)
		}
		return spans
	case m.pattern != "":
		if names.MatchPattern(m.pattern, name) {
			return [][2]int{{0, len(name)}}
		}
		return nil
	}
	i := m.index(folded)
	if i < 0 {
		return nil
	}
	if len(folded) != len(name) { // folding changed the length: mark the whole
		return [][2]int{{0, len(name)}}
	}
	var spans [][2]int
	for at := 0; i >= 0; i = m.index(folded[at:]) {
		spans = append(spans, [2]int{at + i, at + i + len(m.literal)})
		at += i + len(m.literal)
	}
	return spans
}

// union returns spans in order, with those that overlap made one.
func union(spans [][2]int) [][2]int {
	slices.SortFunc(spans, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	var all [][2]int
	for _, s := range spans {
		if last := len(all) - 1; last >= 0 && s[0] <= all[last][1] {
			all[last][1] = max(all[last][1], s[1])
		} else {
			all = append(all, s)
		}
	}
	return all
}

// first returns the first bytes of a name that match, {-1, -1} if none do.
func (m *matcher) first(name, folded string) [2]int {
	if m.plain() && len(folded) == len(name) {
		if i := m.index(folded); i >= 0 {
			return [2]int{i, i + len(m.literal)}
		}
		return [2]int{-1, -1}
	}
	if spans := m.spans(name, folded); spans != nil {
		return spans[0]
	}
	return [2]int{-1, -1}
}

// plain reports whether what matches is just a text inside a name.
func (m *matcher) plain() bool {
	return m.any == nil && m.regex == nil && m.pattern == "" && m.literal != ""
}

// lines returns the lines of an index that may match; every says that all may.
func (m *matcher) lines(x *index.Names, hits []index.LineAt) (_ []index.LineAt, every bool) {
	if len(m.any) > 0 {
		for _, one := range m.any {
			if hits, every = one.lines(x, hits); every {
				return nil, true
			}
		}
		slices.SortFunc(hits, func(a, b index.LineAt) int { return cmp.Compare(a.Line, b.Line) })
		return slices.CompactFunc(hits, func(a, b index.LineAt) bool { return a.Line == b.Line }), false
	}
	if m.literal == "" {
		return nil, true
	}
	text := x.Folded
	line, counted := 0, 0
	for at := m.index(text); at >= 0; {
		line += strings.Count(text[counted:at], "\n")
		counted = at
		end := strings.IndexByte(text[at:], '\n')
		if end < 0 {
			break
		}
		end += at
		hits = append(hits, index.LineAt{Line: line, Start: strings.LastIndexByte(text[:at], '\n') + 1, End: end, At: at})
		next := m.index(text[end:])
		if next < 0 {
			break
		}
		at = end + next
	}
	return hits, false
}
