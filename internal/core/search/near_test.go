package search

import (
	"context"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
)

// What is offered where nothing is found: names that are nearly so, words inside names, and names that hold words
// near those of a phrase.
func TestNear(t *testing.T) {
	c, r := stored(t, map[string]map[string][]string{
		"quay-live:live": {
			"mooring": {"berth_no", "vessel_id", "quantity"}, "harbour_dues": {"paid_on", "customer_number"}, "tide": {"at"}, "Pilotage Order": {"vslName"},
			"signal_mast": {"a", "b"}, "KAI": {"Überlänge"},
		},
		"yard-dev:dev": {"mooring": {"x"}},
	})
	for _, of := range []struct {
		text  string
		near  []string // locations, without the server where it is quay-live
		words []string
	}{
		{"moring", []string{"mooring", "yard-dev/berths/mooring"}, nil},
		{"tied", []string{"tide"}, nil},
		{"pilotage_ordre", []string{"\"Pilotage Order\""}, nil},
		{"harbor_dues", []string{"harbour_dues"}, nil},
		{"brth", nil, []string{"berth"}},
		{"qty", nil, []string{"quantity"}},
		{"vesl", nil, []string{"vessel"}},
		{"vsl_id", []string{"mooring.vessel_id"}, nil},
		{"brt number", []string{"mooring.berth_no"}, nil},
		{"cust no", []string{"harbour_dues.customer_number"}, nil},
		{"uberlange", nil, []string{"überlänge"}},
		{"quay-liv", []string{"server quay-live"}, nil},
		{"zzzzzz", nil, nil},
		{"ib", nil, nil}, // id is no nearer than others of two letters
		{"zz zz", nil, nil},
	} {
		res, err := Find(context.Background(), c, r, Query{Text: of.text})
		if err != nil || res.Total > 0 {
			t.Fatalf("%q: %d hits, %v", of.text, res.Total, err)
		}
		var near []string
		for _, l := range res.Near {
			text := strings.TrimPrefix(l.String(), "quay-live/berths/")
			if l.ID == (schema.ID{}) && l.Database == "" {
				text = "server " + l.Server
			}
			near = append(near, text)
		}
		if !slices.Equal(near, of.near) || !slices.Equal(res.Words, of.words) {
			t.Errorf("%q: near %q %q, want %q %q", of.text, near, res.Words, of.near, of.words)
		}
	}
}

func TestAbbreviates(t *testing.T) {
	for _, of := range []struct {
		short, long string
		want        bool
	}{
		{"qty", "quantity", true}, {"vsl", "vessel", true}, {"cust", "customer", true}, {"no", "number", true}, {"amt", "amount", true}, {"nr", "number", true},
		{"cu", "customer", false}, // a beginning of two letters says nothing
		{"vesl", "vessel", true},
		{"quay", "quantity", false},      // with vowels most of the letters have to be there
		{"tqy", "quantity", false},       // another first letter
		{"qyt", "quantity", false},       // another order
		{"st", "staggeringly", false},    // too short for so long a word
		{"vessel", "vessel", false},      // the same
		{"vessels", "vessel", false},     // longer
		{"q", "quantity", false},         // one letter
		{"bth", "berthing_place", false}, // too short
	} {
		if got := abbreviates(of.short, of.long); got != of.want {
			t.Errorf("%s is short for %s: %v", of.short, of.long, got)
		}
	}
}
