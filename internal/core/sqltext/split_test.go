package sqltext

import (
	"strings"
	"testing"
)

func TestStatements(t *testing.T) {
	rules := Rules{DollarQuotes: true, NestedComments: true}
	for text, want := range map[string]string{
		"CREATE ROLE a":                                     "CREATE ROLE a",
		"CREATE ROLE a;\nGRANT b TO a;":                     "CREATE ROLE a|GRANT b TO a",
		"SET x = 'a;b';\n-- c;d\nSET y = (1);":              "SET x = 'a;b'|-- c;d\nSET y = (1)",
		"DO $x$ BEGIN a; b; END $x$;\nDROP TYPE \"t;u\" ; ": "DO $x$ BEGIN a; b; END $x$|DROP TYPE \"t;u\"",
		"CREATE RULE r AS ON INSERT TO t DO ALSO (a; b)":    "CREATE RULE r AS ON INSERT TO t DO ALSO (a; b)",
		" ; ;": "",
	} {
		if got := strings.Join(Statements(text, rules), "|"); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}
