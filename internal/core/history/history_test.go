package history

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

func table(name string, columns ...string) *schema.Object {
	o := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: name, Relation: &schema.Relation{}}
	for _, c := range columns {
		o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: c, Type: "int"})
	}
	return o
}

func TestHistory(t *testing.T) {
	ctx := context.Background()
	c := testcatalogue.New(t)
	start := time.Date(2026, 3, 1, 6, 0, 0, 0, time.UTC)
	berth := schema.ID{Kind: schema.KindTable, Schema: "ops", Name: "berth"}
	pilot := schema.ID{Kind: schema.KindTable, Schema: "ops", Name: "pilot"}
	var latest *catalogue.Snapshot
	read := func(day int, rows int64, objects ...*schema.Object) {
		r := &schema.Reading{Engine: "postgres", Database: "berths", Taken: start.AddDate(0, 0, day), Objects: objects}
		for _, o := range objects {
			if o.Name == "berth" {
				r.Measures = append(r.Measures, schema.Measure{ID: berth, Rows: rows, Bytes: rows * 100})
			}
		}
		latest = testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, r).Snapshot
	}
	read(0, 10, table("berth", "no"))
	read(3, 20, table("berth", "no"), table("pilot", "name"))
	read(7, 40, table("berth", "no", "depth"), table("pilot", "name"))
	read(8, 40, table("berth", "no", "depth"))
	read(14, 50, table("berth", "no", "depth"))

	h, err := OfObject(ctx, c, latest, berth, diff.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if len(h.Readings) != 5 || len(h.Steps) != 2 || h.Steps[0].Change != First || h.Steps[1].Change != Changed || !h.Steps[1].Snapshot.Taken.Equal(start.AddDate(0, 0, 7)) ||
		len(h.Steps[1].Properties) != 1 || h.Steps[1].Properties[0].Path != "columns/depth" || len(h.Sizes) != 5 || h.Sizes[4].Rows != 50 {
		t.Errorf("%+v", h)
	}
	if h, err = OfObject(ctx, c, latest, pilot, diff.Options{}); err != nil || len(h.Steps) != 2 || h.Steps[0].Change != Added || h.Steps[1].Change != Removed {
		t.Errorf("%+v, %v", h, err)
	}
	all, err := OfDatabase(ctx, c, latest, nil, diff.Options{})
	if err != nil {
		t.Fatal(err)
	}
	sums := []diff.Summary{{}, {Same: 1, Added: 1}, {Same: 1, Changed: 1}, {Same: 1, Removed: 1}, {}}
	for i, r := range all.Readings {
		if r.Summary != sums[i] {
			t.Errorf("reading %d: %+v, want %+v", i, r.Summary, sums[i])
		}
	}
	if len(all.Grown) != 1 || all.Grown[0].Rows() != 40 || all.Grown[0].Bytes() != 4000 {
		t.Errorf("%+v", all.Grown)
	}
	if n, ok := PerWeek(all.Grown[0].Rows(), all.Grown[0].Last.Taken.Sub(all.Grown[0].First.Taken)); !ok || n != 20 {
		t.Errorf("%v a week", n)
	}
	if _, ok := PerWeek(40, time.Hour); ok {
		t.Error("an hour tells of a week")
	}
}
