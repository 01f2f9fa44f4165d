package notes

import (
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

func TestOf(t *testing.T) {
	n, err := New(map[string]string{
		"mooring": "any mooring", "quay-live/mooring": "of live", "quay-live/berths/ops.mooring": "this one", "ops.mooring.draught_m": "below the keel", "berths/tide_*": "a tide", "function:charge": "takes money", `"a.b"`: "with a dot",
	})
	if err != nil {
		t.Fatal(err)
	}
	live := &catalogue.Snapshot{Server: "quay-live", Database: "berths"}
	dev := &catalogue.Snapshot{Server: "quay-dev", Database: "berths"}
	table := func(container, name string) schema.ID {
		return schema.ID{Kind: schema.KindTable, Schema: container, Name: name}
	}
	for _, c := range []struct {
		s    *catalogue.Snapshot
		id   schema.ID
		part string
		want string
	}{
		{live, table("ops", "mooring"), "", "this one"}, {live, table("old", "mooring"), "", "of live"}, {dev, table("ops", "mooring"), "", "any mooring"}, {dev, table("", "Mooring"), "", "any mooring"},
		{dev, table("ops", "mooring"), "draught_m", "below the keel"}, {dev, table("old", "mooring"), "draught_m", ""}, {dev, table("ops", "berth"), "mooring", ""}, {dev, table("ops", "tide_high"), "", "a tide"},
		{dev, table("ops", "charge"), "", ""}, {dev, schema.ID{Kind: schema.KindFunction, Name: "charge", Signature: "int"}, "", "takes money"}, {dev, table("", "a.b"), "", "with a dot"}, {dev, table("a", "b"), "", ""},
	} {
		if got := n.Of(c.s, c.id, c.part); got != c.want {
			t.Errorf("%s %s %s: %q, want %q", c.s.Server, c.id, c.part, got, c.want)
		}
	}
	var none *Notes
	if none.Of(live, table("", "mooring"), "") != "" || none.All() != nil {
		t.Error("no notes say something")
	}
	for _, broken := range []string{"", "a/b/c/d", "mooring@1", `"open`} {
		if _, err := New(map[string]string{broken: "x"}); err == nil {
			t.Errorf("%q was taken for an address", broken)
		}
	}
}
