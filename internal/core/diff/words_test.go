package diff

import (
	"strings"
	"testing"
)

func TestWords(t *testing.T) {
	mark := func(s string, spans [][2]int) string {
		var b strings.Builder
		at := 0
		for _, x := range spans {
			b.WriteString(s[at:x[0]] + "[" + s[x[0]:x[1]] + "]")
			at = x[1]
		}
		return b.String() + s[at:]
	}
	for _, c := range []struct{ before, after, gone, come string }{
		{"WHERE s.status IN ('planned')", "WHERE s.status = 'planned'", "WHERE s.status [IN] [(]'planned'[)]", "WHERE s.status [=] 'planned'"},
		{"a b", "a c", "a [b]", "a [c]"},
		{"same", "same", "same", "same"},
		{"", "all", "", "[all]"},
		{"größe_m", "größe_km", "[größe_m]", "[größe_km]"},
	} {
		gone, come := Words(c.before, c.after)
		if x, y := mark(c.before, gone), mark(c.after, come); x != c.gone || y != c.come {
			t.Errorf("%s, %s", x, y)
		}
		// Without what is marked both are the same.
		rest := func(s string, spans [][2]int) string {
			for i := len(spans) - 1; i >= 0; i-- {
				s = s[:spans[i][0]] + s[spans[i][1]:]
			}
			return s
		}
		if x, y := rest(c.before, gone), rest(c.after, come); x != y {
			t.Errorf("%q and %q are left", x, y)
		}
	}
}
