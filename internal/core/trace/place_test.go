package trace

import (
	"testing"

	"echo-atlas/internal/core/schema"
)

// Lines are those of the text that is printed, where it holds the text in which the other end is named.
func TestPlaceIn(t *testing.T) {
	view := &schema.Object{Kind: schema.KindView, Name: "plan", Relation: &schema.Relation{Query: "SELECT é,\n  no FROM berth", Columns: []schema.Column{{Name: "no", Default: "next()"}}}}
	in := func(f schema.Field, start, stop int) schema.Dependency {
		return schema.Dependency{From: schema.ColumnEnd(view.ID(), "no"), Field: f, Start: start, Stop: stop}
	}
	for _, c := range []struct {
		printed string
		d       schema.Dependency
		want    Place
	}{
		{"", in(schema.FieldQuery, 21, 26), Place{2, 11, "  no FROM berth"}},
		{"CREATE VIEW plan AS\nSELECT é,\n  no FROM berth;", in(schema.FieldQuery, 21, 26), Place{3, 11, "  no FROM berth;"}},
		{"-- something else", in(schema.FieldQuery, 21, 26), Place{2, 11, "  no FROM berth"}},
		{"", in(schema.FieldLine, 2, 11), Place{2, 11, "  no FROM berth"}},
		{"", in(schema.FieldLine, 1, 9), Place{1, 9, "SELECT é,"}},
		{"", in(schema.FieldDefault, 0, 4), Place{1, 1, "next()"}},
		{"", in(schema.FieldLine, 9, 1), Place{}},
		{"", in(schema.FieldQuery, 999, 1000), Place{}},
		{"", in(schema.NoField, 0, 0), Place{}},
	} {
		if got := PlaceIn(view, c.printed, &c.d); got != c.want {
			t.Errorf("%s %d in %q: %+v, want %+v", c.d.Field, c.d.Start, c.printed, got, c.want)
		}
	}
}
