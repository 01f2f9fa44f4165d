package names

// Names are quoted in addresses where their parts could not be told apart.

import (
	"strings"
	"unicode"
)

// special holds the characters that make it necessary to quote a part of an address.
const special = `./:@"*%?(),`

// Quote returns a name as it is written in an address: in double quotes where it holds a character
// that means something there, or a blank.
func Quote(s string) string {
	if plain(s) || s != "" && !strings.ContainsAny(s, special) && strings.IndexFunc(s, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }) < 0 && s[0] != '~' {
		return s
	}
	return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
}

// plain reports whether a name is made of nothing but what means nothing in an address. It errs on the side of no.
func plain(s string) bool {
	for i := range len(s) {
		if c := s[i]; c != '_' && (c < '0' || c > '9') && (c|0x20 < 'a' || c|0x20 > 'z') {
			return false
		}
	}
	return s != ""
}

// Unquote reads a name in double quotes from the start of s and returns it with the number of bytes
// that it takes, -1 if it is not closed.
func Unquote(s string) (string, int) {
	var b strings.Builder
	for i := 1; i < len(s); i++ {
		if s[i] != '"' {
			b.WriteByte(s[i])
			continue
		}
		if i+1 < len(s) && s[i+1] == '"' {
			b.WriteByte('"')
			i++
			continue
		}
		return b.String(), i + 1
	}
	return "", -1
}
