package search

import (
	"context"
	"regexp"
	"slices"
	"strings"

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

// mayHold reports whether the compact form of an object may hold what matches. It errs on the side of yes.
func (m *matcher) mayHold(content []byte) bool {
	if slices.ContainsFunc(m.any, func(one *matcher) bool { return one.mayHold(content) }) {
		return true
	}
	if m.literal == "" {
		return len(m.any) == 0
	}
	for i := range len(m.literal) {
		if c := m.literal[i]; c >= 0x80 || c < ' ' {
			return true
		}
	}
	first := m.literal[0]
	for i := 0; i+len(m.literal) <= len(content); i++ {
		if lower(content[i]) != first {
			continue
		}
		n := 1
		for n < len(m.literal) && lower(content[i+n]) == m.literal[n] {
			n++
		}
		if n == len(m.literal) {
			return true
		}
	}
	return false
}

func lower(c byte) byte {
	if 'A' <= c && c <= 'Z' {
		c += 'a' - 'A'
	}
	return c
}

// findTexts looks through the definitions and comments of the latest snapshots.
func findTexts(ctx context.Context, c *catalogue.Catalogue, r *catalogue.Resolver, snapshots []*catalogue.Snapshot, q *Query, m *matcher, columns []*matcher, not *except) ([]*Hit, error) {
	var all []*Hit
	for _, s := range snapshots {
		t, err := r.Contents(ctx, s)
		if err != nil {
			return nil, err
		}
		var wanted []*catalogue.Entry
		for i := range t.Entries {
			if within(q.Within, s, &t.Entries[i].ID) {
				wanted = append(wanted, &t.Entries[i])
			}
		}
		hits := make([][]*Hit, len(wanted))
		err = c.Select(ctx, wanted, m.mayHold, func(i int, o *schema.Object) error {
			for _, column := range columns {
				if o.Relation == nil || !slices.ContainsFunc(o.Relation.Columns, func(c schema.Column) bool {
					return column.spans(c.Name, catalogue.FoldLine(c.Name)) != nil
				}) {
					return nil
				}
			}
			hits[i] = slices.DeleteFunc(textHits(s, o, q, m), func(h *Hit) bool { return not.has(s, h.ID, h.Part, h.Name) })
			return nil
		})
		if err != nil {
			return nil, err
		}
		for _, of := range hits {
			for _, h := range of {
				h.rank.place = int64(len(all))
				all = append(all, h)
			}
		}
	}
	return all, nil
}

func textHits(s *catalogue.Snapshot, o *schema.Object, q *Query, m *matcher) []*Hit {
	var hits []*Hit
	for _, text := range o.Texts() {
		kind := text.Part
		if kind == "" {
			kind = o.Kind
		}
		if !wantedKind(q.Kinds, kind) || q.Type != "" && (text.Part != schema.KindColumn || !schema.MatchPattern(q.Type, text.Type)) {
			continue
		}
		lines := strings.Split(strings.ReplaceAll(text.Text, "\r\n", "\n"), "\n")
		for i, line := range lines {
			if m.spans(line, catalogue.FoldLine(line)) == nil {
				continue
			}
			h := &Hit{Snapshot: s, ID: o.ID(), Part: text.Part, Name: text.Name, Type: text.Type, Line: i + 1, Text: line, in: InDefinition, rank: rankOf{rank: rankOfText}}
			if h.Part == "" {
				h.Name = o.Name
			}
			if q.Around > 0 {
				h.Before, h.After = lines[max(0, i-q.Around):i], lines[i+1:min(len(lines), i+1+q.Around)]
			}
			if text.Comment {
				h.in = InComment
			}
			if s.Environment != "live" {
				h.rank.rank++
			}
			hits = append(hits, h)
		}
	}
	return hits
}
