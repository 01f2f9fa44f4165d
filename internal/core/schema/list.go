package schema

// Lists of types in a signature are cut at commas that stand in no bracket or quote.

import "strings"

// SplitList splits a text at commas that stand neither in double quotes nor in brackets, and trims the parts. An
// empty text has none.
func SplitList(s string) []string {
	if strings.TrimSpace(s) == "" {
		return nil
	}
	var parts []string
	depth, quoted, start := 0, false, 0
	for i := range len(s) {
		switch c := s[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '(':
			depth++
		case c == ')':
			depth--
		case c == ',' && depth <= 0:
			parts = append(parts, strings.TrimSpace(s[start:i]))
			start = i + 1
		}
	}
	return append(parts, strings.TrimSpace(s[start:]))
}
