package view_test

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/view"
	"echo-atlas/internal/testcatalogue"
)

func TestAbout(t *testing.T) {
	ctx := context.Background()
	berth := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "berth", Relation: &schema.Relation{Columns: []schema.Column{{Name: "no", Type: "integer"}}}}
	index := &schema.Object{Kind: schema.KindIndex, Schema: "ops", Name: "by_no", Index: &schema.Index{Table: "berth", Columns: []schema.KeyPart{{Column: "no"}}}}
	deep := &schema.Object{Kind: schema.KindView, Schema: "ops", Name: "deep", Relation: &schema.Relation{Query: " SELECT no\n   FROM ops.berth", Columns: []schema.Column{{Name: "no", Type: "integer"}}}}
	far := schema.End{ID: schema.ID{Name: "tide"}, Outside: schema.Outside{Database: "tides"}}
	r := &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0), Objects: []*schema.Object{berth, index, deep},
		Measures: []schema.Measure{{ID: berth.ID(), Rows: 7, Bytes: 8192}},
		Dependencies: []schema.Dependency{{From: schema.ObjectEnd(deep.ID()), To: schema.ColumnEnd(berth.ID(), "no"), Use: schema.UseReads, Evidence: schema.Recorded},
			{From: schema.ObjectEnd(deep.ID()), To: far, Use: schema.UseReads, Evidence: schema.Read}}}
	c := testcatalogue.New(t)
	testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, r)
	about := func(text string, bare bool) *view.About {
		t.Helper()
		a, err := address.Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		m, err := testcatalogue.Resolver(t, c).Object(ctx, a)
		if err != nil {
			t.Fatal(err)
		}
		all, err := view.NewAbout(ctx, c, m, postgres.Engine{}, bare)
		if err != nil {
			t.Fatal(err)
		}
		return all
	}
	a := about("ops.berth", false)
	if a.Size != (catalogue.Size{Rows: 7, Bytes: 8192}) || len(a.Attached) != 1 || len(a.Dependants.Nodes) != 3 || len(a.Needs.Nodes) != 1 || a.Definition != "CREATE TABLE ops.berth (\n    no integer\n)" {
		t.Errorf("%+v", a)
	}
	if bare := about("ops.berth", true); len(bare.Attached) != 0 {
		t.Errorf("%d objects stand on a bare table", len(bare.Attached))
	}
	if part := about("ops.berth.no", false); part.Definition != "" || len(part.Dependants.Nodes) != 3 {
		t.Errorf("of a part: %q, %d dependants", part.Definition, len(part.Dependants.Nodes)-1)
	}
	if v := about("ops.deep", false); len(v.Outside()) != 1 || v.Outside()[0].To != far || v.Size.Rows != -1 {
		t.Errorf("%+v", v.Outside())
	}
	if view.Definition(berth, nil) != "" || view.Definition(&schema.Object{Source: "CREATE x"}, nil) != "CREATE x" {
		t.Error("without an engine the text that the server keeps is all that is known")
	}
}
