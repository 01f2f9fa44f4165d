package cli

import (
	"strings"
	"testing"
)

func TestBashLine(t *testing.T) {
	const breaks = " \t\n\"'><=;|&(:@"
	for _, c := range []struct{ line, words, candidate, want string }{
		{"echo-atlas show quay", "echo-atlas|show|quay", "quay-live/", "quay-live/"},
		{"echo-atlas show ", "echo-atlas|show|", "a b", `a\ b`},
		{`echo-atlas show a\ `, "echo-atlas|show|a ", "a b", `a\ b`},
		{`echo-atlas show "a `, "echo-atlas|show|a ", "a $(b)", `a \$(b)`},
		{`echo-atlas show "a `, "echo-atlas|show|a ", "a!", "-"},
		{`echo-atlas show 'a `, "echo-atlas|show|a ", "a $(b)", "a $(b)"},
		{`echo-atlas show 'a `, "echo-atlas|show|a ", "a'b", "-"},
		{"echo-atlas diff quay/b@re", "echo-atlas|diff|quay/b@re", "quay/b@rel-1", "rel-1"},
		{"echo-atlas show index:by", "echo-atlas|show|index:by", "index:by_no", "by_no"},
		{"echo-atlas list --kind=ta", "echo-atlas|list|--kind=ta", "--kind=table", "table"},
		{"ls; echo-atlas sh", "echo-atlas|sh", "show", "show"},
		{"echo-atlas show `", "echo-atlas|show|`", "`touch x`", "\\`touch\\ x\\`"},
		{"echo-atlas show ~", "echo-atlas|show|~", "~a;b&c|d>e<f*g?h[i]{j}#k", `\~a\;b\&c\|d\>e\<f\*g\?h\[i\]\{j\}\#k`},
	} {
		w := bashLine(c.line, breaks)
		if got := strings.Join(w.words, "|"); got != c.words {
			t.Errorf("%q: words %q, want %q", c.line, got, c.words)
		}
		got, ok := w.quote(c.candidate)
		if !ok {
			got = "-"
		}
		if got != c.want {
			t.Errorf("%q: %q is inserted as %q, want %q", c.line, c.candidate, got, c.want)
		}
	}
}

func TestParseDuration(t *testing.T) {
	for text, want := range map[string]string{"90s": "1m30s", "15m": "15m0s", "1h30m": "1h30m0s", "1d": "24h0m0s", "2w": "336h0m0s", "3 hours": "3h0m0s", "1.5h": "1h30m0s", "1d 12h": "36h0m0s",
		"": "0s", "x": "-", "5": "-", "5 fortnights": "-", "-1h": "-"} {
		d, err := parseDuration(text)
		got := d.String()
		if err != nil {
			got = "-"
		}
		if got != want {
			t.Errorf("%q: %s, want %s", text, got, want)
		}
	}
}
