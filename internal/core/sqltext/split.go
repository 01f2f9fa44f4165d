package sqltext

// A text of several statements is cut where the dialect ends one.

import "strings"

// Statements cuts a text at the semicolons that end statements: those that stand in no string, comment or bracket. It is for
// texts that hold no bodies with semicolons of their own. A text of one statement comes back as it is, without its end.
func Statements(text string, rules Rules) []string {
	var all []string
	start, depth := 0, 0
	add := func(end int) {
		if s := strings.TrimSpace(text[start:end]); s != "" {
			all = append(all, s)
		}
	}
	for _, t := range Tokens(text, rules) {
		switch {
		case t.Kind != Symbol:
		case text[t.Start] == '(':
			depth++
		case text[t.Start] == ')':
			depth--
		case text[t.Start] == ';' && depth <= 0:
			add(t.Start)
			start = t.End
		}
	}
	add(len(text))
	return all
}
