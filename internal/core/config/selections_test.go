package config

import (
	"strings"
	"testing"
)

func TestExpand(t *testing.T) {
	c := &Config{Selections: map[string][]string{
		"billing": {"quay-live/tariffs/billing.*", "invoice"}, "money": {"selection:billing", "payment"}, "round": {"selection:trip"}, "trip": {"selection:round"}, "none": {},
	}}
	for _, x := range []struct{ in, want, fails string }{
		{"mooring", "mooring", ""},
		{"mooring selection:money", "mooring quay-live/tariffs/billing.* invoice payment", ""},
		{"selection:round", "", "it holds itself"},
		{"selection:bills", "", "there is no such selection; there is billing, money, none, round, trip"},
		{"selection:none", "", "it is empty"},
	} {
		got, err := c.Expand(strings.Fields(x.in))
		if strings.Join(got, " ") != x.want || (err == nil) != (x.fails == "") || err != nil && !strings.Contains(err.Error(), x.fails) {
			t.Errorf("%s: %q, %v", x.in, got, err)
		}
	}
	if _, err := (&Config{}).Expand([]string{"selection:x"}); err == nil || !strings.Contains(err.Error(), "[selections]") {
		t.Errorf("without any: %v", err)
	}
}
