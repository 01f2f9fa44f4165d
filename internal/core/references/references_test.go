package references

import (
	"testing"

	"echo-atlas/internal/core/sqltext"
)

func TestUnderstood(t *testing.T) {
	text := "CALL draught()"
	got := understood(text, func() []sqltext.Reference { return []sqltext.Reference{{Use: sqltext.RefCalls, Stop: 4}} })
	if len(got) != 1 || got[0].Use != sqltext.RefCalls {
		t.Errorf("found %+v", got)
	}
	var none []int
	got = understood(text, func() []sqltext.Reference { _ = none[len(text)]; return nil })
	if len(got) != 1 || got[0].Use != sqltext.RefUnseen || got[0].Stop != len(text) {
		t.Errorf("a text that brings the resolver down gives %+v", got)
	}
}
