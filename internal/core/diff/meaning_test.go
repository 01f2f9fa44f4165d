package diff

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/engine/sqlserver"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// What one reading could not see is no difference.
func TestHidden(t *testing.T) {
	c := testcatalogue.New(t)
	view := func(query, owner string) *schema.Object {
		return &schema.Object{Kind: schema.KindView, Schema: "ops", Name: "deep", Owner: owner, Relation: &schema.Relation{Query: query, Columns: []schema.Column{{Name: "no", Type: "int"}}}}
	}
	save := func(server string, o *schema.Object, remarks ...schema.Remark) *catalogue.Snapshot {
		r := &schema.Reading{Engine: "sqlserver", Database: "berths", Taken: time.Unix(1e9, 0), Objects: []*schema.Object{o}, Remarks: remarks}
		return testcatalogue.Save(t, c, catalogue.Origin{Server: server}, r).Snapshot
	}
	hidden := schema.Remark{State: "hidden", Subject: "view:ops.deep", Reason: "no right"}
	for _, k := range []struct {
		name     string
		old, now *catalogue.Snapshot
		changed  int
	}{
		{"hidden in the new one", save("a", view("SELECT 1", "x")), save("b", view("", "x"), hidden), 0},
		{"hidden in the old one", save("c", view("", "x"), hidden), save("d", view("SELECT 1", "x")), 0},
		{"hidden, and another owner", save("e", view("", "x"), hidden), save("f", view("SELECT 1", "y")), 1},
		{"not there, and not hidden", save("g", view("SELECT 1", "x")), save("h", view("", "x")), 1},
	} {
		res, err := Compare(context.Background(), c, k.old, k.now, For(sqlserver.Engine{}))
		if err != nil || res.Summary.Changed != k.changed {
			t.Errorf("%s: %+v, %v", k.name, res, err)
		}
	}
}

// Names that the server makes up on both sides are no difference; a name that somebody gave is one.
func TestMadeUpNames(t *testing.T) {
	o := For(postgres.Engine{})
	id := schema.ID{Kind: schema.KindTable, Schema: "ops", Name: "berth"}
	for _, k := range []struct {
		old, now string
		left     int
	}{{"berth_no_key", "berth_no_key1", 0}, {"berth_no_key", "one_no", 1}, {"berth_pkey", "berth_key", 1}, {"winter_pkey", "berth_pkey", 1}} {
		all, _ := o.meant(id, id, []schema.Difference{{Path: "keys/" + k.now + "/name", Old: &k.old, New: &k.now}})
		if len(all) != k.left {
			t.Errorf("%s, %s: %v", k.old, k.now, all)
		}
	}
}
