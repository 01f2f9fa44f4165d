package names

import (
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
)

func TestMatchPattern(t *testing.T) {
	for _, c := range []struct {
		pattern, s string
		want       bool
	}{
		{"m*", "Mooring", true}, {"*ing", "mooring", true}, {"m*g*", "mooring", true}, {"m?oring", "mooring", true}, {"m?ring", "mooring", false},
		{"a_b", "axb", false}, {"%", "", true}, {"?", "", false}, {"*a*a*a*b", strings.Repeat("a", 60), false}, {"ÄRGER*", "ärgernis", true}, {"*ss", "Straß", false},
	} {
		if got := MatchPattern(c.pattern, c.s); got != c.want {
			t.Errorf("MatchPattern(%q, %q) = %v", c.pattern, c.s, got)
		}
	}
}

// Patterns match what the regular expressions match that say the same.
func TestMatchPatternAgainstRegexp(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 9))
	text := func(pieces string, n int) string {
		letters := []rune(pieces)
		var b strings.Builder
		for range random.IntN(n) {
			b.WriteRune(letters[random.IntN(len(letters))])
		}
		return b.String()
	}
	matched := 0
	for range 20000 {
		alphabet := "abAB_."
		if random.IntN(2) == 0 {
			alphabet = "aAéÉß港_"
		}
		pattern, s := text(alphabet+"**%?", 7), text(alphabet, 8)
		expression := strings.NewReplacer(`\*`, `.*`, `%`, `.*`, `\?`, `.`).Replace(regexp.QuoteMeta(pattern))
		want := regexp.MustCompile(`(?is)^` + expression + `$`).MatchString(s)
		if got := MatchPattern(pattern, s); got != want {
			t.Fatalf("MatchPattern(%q, %q) = %v", pattern, s, got)
		}
		if want {
			matched++
		}
	}
	if matched < 1000 {
		t.Errorf("only %d of the patterns matched", matched)
	}
}

func TestEditDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"mooring", "moring", 1}, {"berth", "brth", 1}, {"quay", "quya", 1}, {"tide", "tide", 0}, {"a", "xyz", 3}, {"é", "e", 1}} {
		if got := EditDistance(c.a, c.b, 5); got != c.want {
			t.Errorf("EditDistance(%s, %s) = %d, want %d", c.a, c.b, got, c.want)
		}
	}
}
