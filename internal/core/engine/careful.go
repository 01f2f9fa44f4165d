package engine

// Statements that do nothing where what they make is there, or what they drop is not.

import (
	"slices"
	"strings"
)

// Careful is implemented by engines that say how a statement minds what is there.
type Careful interface {
	// IfAbsent returns the text of a statement that makes or adds something, so that it does nothing where that is there.
	IfAbsent(s *Statement, text string) string
	// IfPresent returns the text of a statement that drops something, so that it does nothing where that is not there.
	IfPresent(s *Statement, text string) string
}

// DatabaseMaker is implemented by engines whose servers hold several databases.
type DatabaseMaker interface {
	// MakeDatabase returns what makes a database of that name and enters it, as the engine's own client takes it.
	MakeDatabase(name string) string
}

// Behind puts words behind the longest of some beginnings with which a text begins; it reports whether there is one.
func Behind(text, words string, beginnings []string) (string, bool) {
	best := ""
	for _, b := range beginnings {
		if len(b) > len(best) && strings.HasPrefix(text, b+" ") {
			best = b
		}
	}
	if best == "" || strings.HasPrefix(text[len(best):], " "+words) {
		return text, best != ""
	}
	return best + " " + words + text[len(best):], true
}

// FirstWords returns the words in capital letters with which a text begins.
func FirstWords(text string) []string {
	words := strings.Fields(text[:min(len(text), 200)])
	i := slices.IndexFunc(words, func(w string) bool { return strings.ToUpper(w) != w || strings.ContainsAny(w, "\"`[.'(0123456789") })
	if i >= 0 {
		words = words[:i]
	}
	return words
}
