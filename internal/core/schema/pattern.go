package schema

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
	if len(n.Text) != len(s) && ascii(n.Text) && ascii(s) {
		return false, false
	}
	return Fold(n.Text) == Fold(s), false
}

func ascii(s string) bool {
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
			return strings.Map(foldRune, s)
		}
	}
	return s
}

func foldRune(r rune) rune { return unicode.ToLower(unicode.ToUpper(r)) }

// MatchPattern reports whether s matches a pattern as a whole, without regard to case: * and % stand
// for any run of characters, ? for one; all else, _ too, stands for itself.
func MatchPattern(pattern, s string) bool {
	if ascii(pattern) && ascii(s) {
		return matchASCII(pattern, s)
	}
	p, t := []rune(Fold(pattern)), []rune(Fold(s))
	star, mark := -1, 0
	i, j := 0, 0
	for j < len(t) {
		switch {
		case i < len(p) && (p[i] == '*' || p[i] == '%'):
			star, mark = i, j
			i++
		case i < len(p) && (p[i] == '?' || p[i] == t[j]):
			i++
			j++
		case star >= 0:
			mark++
			i, j = star+1, mark
		default:
			return false
		}
	}
	for i < len(p) && (p[i] == '*' || p[i] == '%') {
		i++
	}
	return i == len(p)
}

// matchASCII is MatchPattern without a copy of either text.
func matchASCII(p, t string) bool {
	star, mark := -1, 0
	i, j := 0, 0
	for j < len(t) {
		switch {
		case i < len(p) && (p[i] == '*' || p[i] == '%'):
			star, mark = i, j
			i++
		case i < len(p) && (p[i] == '?' || lower(p[i]) == lower(t[j])):
			i++
			j++
		case star >= 0:
			mark++
			i, j = star+1, mark
		default:
			return false
		}
	}
	for i < len(p) && (p[i] == '*' || p[i] == '%') {
		i++
	}
	return i == len(p)
}

func lower(c byte) byte {
	if 'A' <= c && c <= 'Z' {
		c += 'a' - 'A'
	}
	return c
}
