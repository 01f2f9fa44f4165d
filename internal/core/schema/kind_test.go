package schema

import (
	"strings"
	"testing"
)

// Every kind is understood as it is printed, with hyphens as in addresses, in the plural, and in capital letters.
func TestParseKind(t *testing.T) {
	for _, k := range append(ObjectKinds(), PartKinds()...) {
		for _, text := range []string{string(k), strings.ReplaceAll(string(k), " ", "-"), strings.ReplaceAll(string(k), " ", "_"), k.Plural(), strings.ToUpper(string(k)), strings.ReplaceAll(k.Plural(), " ", "-")} {
			if got, ok := ParseKind(text); !ok || got != k {
				t.Errorf("%q is %q, want %q", text, got, k)
			}
		}
	}
	for _, text := range []string{"", "berth", "tab le", "-"} {
		if k, ok := ParseKind(text); ok {
			t.Errorf("%q is taken for %q", text, k)
		}
	}
}
