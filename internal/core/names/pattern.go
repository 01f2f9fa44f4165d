// Package names compares names: without regard to case, by patterns, by how far one is from another, and as bytes that may
// be no UTF-8.
package names

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Name is one part of an address as somebody wrote it.
type Name struct {
	Text   string
	Quoted bool // written in double quotes: no patterns
}

// IsPattern reports whether the name holds a wildcard.
func (n Name) IsPattern() bool { return !n.Quoted && strings.ContainsAny(n.Text, "*%?") }

// Matches reports whether s is meant by the name, and whether that is so to the letter; a pattern
// always matches without regard to case.
func (n Name) Matches(s string) (matches, exactly bool) {
	if n.IsPattern() {
		return MatchPattern(n.Text, s), true
	}
	if n.Text == s {
		return true, true
	}
	if len(n.Text) != len(s) && IsASCII(n.Text) && IsASCII(s) {
		return false, false
	}
	return Fold(n.Text) == Fold(s), false
}

// IsASCII reports whether a text is ASCII.
func IsASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// Fold returns s in the form in which names are compared without regard to case.
func Fold(s string) string {
	for i := range len(s) {
		if c := s[i]; c >= utf8.RuneSelf || 'A' <= c && c <= 'Z' {
			return foldAll(s)
		}
	}
	return s
}

func foldAll(s string) string {
	if utf8.ValidString(s) {
		return strings.Map(foldRune, s)
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		r, size := utf8.DecodeRuneInString(s[i:])
		if r == utf8.RuneError && size == 1 { // a byte is like itself alone
			b.WriteByte(s[i])
		} else {
			b.WriteRune(foldRune(r))
		}
		i += size
	}
	return b.String()
}

func foldRune(r rune) rune { return unicode.ToLower(unicode.ToUpper(r)) }

// MatchPattern reports whether s matches a pattern as a whole, without regard to case: * and % stand
// for any run of characters, ? for one; all else, _ too, stands for itself.
func MatchPattern(pattern, s string) bool {
	star, mark := -1, 0 // behind the last star, and what was tried for it
	i, j := 0, 0
	for j < len(s) {
		p, width := foldedAt(pattern, i)
		c, size := foldedAt(s, j)
		switch {
		case p == '*' || p == '%':
			i += width
			star, mark = i, j
		case width > 0 && (p == '?' || p == c):
			i, j = i+width, j+size
		case star >= 0:
			_, size = foldedAt(s, mark)
			mark += size
			i, j = star, mark
		default:
			return false
		}
	}
	return strings.Trim(pattern[i:], "*%") == ""
}

// foldedAt returns the character at a place, without regard to case, and how many bytes it takes: none at the end.
func foldedAt(s string, at int) (rune, int) {
	if at >= len(s) {
		return 0, 0
	}
	if c := s[at]; c < utf8.RuneSelf {
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		return rune(c), 1
	}
	r, size := utf8.DecodeRuneInString(s[at:])
	if r == utf8.RuneError && size == 1 {
		return rawBase + rune(s[at]), 1
	}
	return foldRune(r), size
}
