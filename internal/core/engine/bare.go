package engine

// Names without quotes.

import "strings"

// Barer is implemented by engines that know which names mean the same without quotes, wherever they stand.
type Barer interface{ Bare(name string) bool }

// PlainName reports whether a name is of letters, digits and underscores of ASCII alone, and begins with no digit.
func PlainName(name string) bool {
	for i := range len(name) {
		c := name[i]
		if !(c == '_' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || i > 0 && '0' <= c && c <= '9') {
			return false
		}
	}
	return name != ""
}

// WordSet returns the words of a list.
func WordSet(list string) map[string]bool {
	all := map[string]bool{}
	for w := range strings.FieldsSeq(list) {
		all[w] = true
	}
	return all
}
