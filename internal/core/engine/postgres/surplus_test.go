package postgres

import (
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// The first schema is taken away only where all of a database was seen, and selected.
func TestSurplus(t *testing.T) {
	quay, public := &schema.Object{Kind: schema.KindSchema, Name: "quay"}, &schema.Object{Kind: schema.KindSchema, Name: "public", Owner: "pg_database_owner", Comment: "standard public schema"}
	berth := &schema.Object{Kind: schema.KindTable, Schema: "quay", Name: "berth", Relation: &schema.Relation{Columns: []schema.Column{{Name: "no", Type: "integer"}}}}
	role := &schema.Object{Kind: schema.KindRole, Name: "keeper", Definition: "CREATE ROLE keeper"}
	part := schema.Remark{State: "unread", Reason: "only a part of the database was exported: 2 of 9 objects"}
	for _, k := range []struct {
		name     string
		database string
		objects  []*schema.Object
		remarks  []schema.Remark
		selected int
		options  ddl.Options
		gone     bool
	}{
		{"all of it", "berths", []*schema.Object{quay, berth}, nil, 2, ddl.Options{}, true},
		{"a remark on one object", "berths", []*schema.Object{quay, berth}, []schema.Remark{{State: "hidden", Subject: "table:quay.berth", Reason: "its rows"}}, 2, ddl.Options{}, true},
		{"it is there", "berths", []*schema.Object{public, quay, berth}, nil, 3, ddl.Options{}, false},
		{"a part of it", "berths", []*schema.Object{quay, berth}, nil, 1, ddl.Options{}, false},
		{"a part was exported", "berths", []*schema.Object{quay, berth}, []schema.Remark{part}, 2, ddl.Options{}, false},
		{"no schema was read", "berths", []*schema.Object{berth}, nil, 1, ddl.Options{}, false},
		{"what drops it", "berths", []*schema.Object{quay, berth}, nil, 2, ddl.Options{Drop: true}, false},
		{"the server", engine.ServerLevel, []*schema.Object{role}, nil, 1, ddl.Options{}, false},
	} {
		c := testcatalogue.New(t)
		contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "live"}, &schema.Reading{Engine: "postgres", Database: k.database, Objects: k.objects, Remarks: k.remarks})
		var entries []*catalogue.Entry
		for i := range contents.All()[:k.selected] {
			entries = append(entries, contents.At(i))
		}
		script, err := ddl.Write(t.Context(), c, Engine{}, contents, entries, k.options)
		if err != nil {
			t.Fatal(err)
		}
		if gone := strings.Contains(script.Text(), "DROP SCHEMA IF EXISTS public"); gone != k.gone {
			t.Errorf("%s: %v\n%s", k.name, gone, script.Text())
		}
		if strings.Contains(script.Text(), "CREATE SCHEMA public") {
			t.Errorf("%s: it is made, where every new database has it:\n%s", k.name, script.Text())
		}
	}
}
