package selection

import (
	"errors"
	"strings"
	"testing"
)

func TestReadList(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"lines", "quay/berths/mooring\n\n # a comment\n  ops.\"a b\"  \nquay/berths/mooring\n", `quay/berths/mooring|ops."a b"`},
		{"a mark of byte order", "\ufeffmooring\r\n", "mooring"},
		{"of list", `{"objects":[{"address":"q/b/mooring","object":"mooring","kind":"table"},{"address":"q/b/mooring.id","object":"mooring","part":"id","kind":"column"}],"total":2}`, "table:q/b/mooring|q/b/mooring.id"},
		{"of find", `{"matches":[{"address":"q/b/v","object":"v","kind":"view"},{"address":"q/b/v","object":"v","kind":"view"}]}`, "view:q/b/v"},
		{"of trace", `{"root":"q/b/x","nodes":[{"address":"q/b/v","object":"v","kind":"materialised view"}],"edges":[]}`, "materialised view:q/b/v"},
		{"none", "# nothing\n", ""},
		{"no addresses in it", `{"objects":[]}`, ""},
		{"no JSON", `{"objects":[`, ""},
	} {
		got, err := ReadList(c.text)
		if strings.Join(got, "|") != c.want || (err != nil) != (c.want == "") {
			t.Errorf("%s: %q, %v", c.name, got, err)
		}
		if c.want == "" && !strings.HasPrefix(c.name, "no JSON") && !errors.Is(err, ErrNoAddresses) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
}
