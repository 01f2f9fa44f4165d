package search

import (
	"context"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
)

// The hits of one object stand together where the first of them stands.
func TestByObject(t *testing.T) {
	c, r := stored(t, map[string]map[string][]string{
		"quay-live:live": {"tide": {"tide_no", "at"}, "tide_log": {"tide"}, "gauge": {"low_tide", "high_tide"}},
		"yard-live:live": {"tide": {"x"}},
	})
	res, err := Find(context.Background(), c, r, Query{Text: "tide"})
	if err != nil {
		t.Fatal(err)
	}
	rows, err := res.Rows(0)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, of := range ByObject(rows) {
		var names []string
		for _, g := range of {
			names = append(names, g.Name)
		}
		got = append(got, of[0].Snapshot.Server+" "+of[0].ID.Name+": "+strings.Join(names, " "))
	}
	want := "quay-live tide: tide tide_no; yard-live tide: tide; quay-live tide_log: tide tide_log; quay-live gauge: low_tide high_tide"
	if strings.Join(got, "; ") != want {
		t.Errorf("%s, want %s", strings.Join(got, "; "), want)
	}
}

// Where not all hits are kept, each stands by itself: what else there is of it is not known.
func TestRowsOfSome(t *testing.T) {
	c, r := stored(t, map[string]map[string][]string{"quay-live:live": {"tide": nil}, "quay-dev:dev": {"tide": nil}, "quay-stage:stage": {"tide": nil}})
	for few, want := range map[int]int{0: 2, 2: 2, 3: 3} {
		res, err := Find(context.Background(), c, r, Query{Text: "tide", Kinds: []schema.Kind{schema.KindTable}, Most: 2, Few: few})
		if err != nil {
			t.Fatal(err)
		}
		if rows, err := res.Rows(0); err != nil || len(rows) != want || len(res.Hits) != want || res.Total != 3 || len(res.In) != 3 {
			t.Errorf("of 3 hits, with %d at least: %d kept, %d rows, in %d databases, %v", few, len(res.Hits), len(rows), len(res.In), err)
		}
	}
}
