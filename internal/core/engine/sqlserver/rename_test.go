package sqlserver

import (
	"context"
	"os"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/standin"
	"echo-atlas/internal/testcatalogue"
)

// A schema that is renamed is renamed wherever it stands: nothing of the old name is left.
func TestRenameReachesAll(t *testing.T) {
	reading := read(t, moored(t, standin.Profile{}), "moorings")
	body, err := os.ReadFile("testdata/renamed.sql")
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range reading.Objects {
		if o.Name == "haul" {
			o.Routine.Definition = string(body)
		}
	}
	c := testcatalogue.New(t)
	contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "north"}, reading)
	var entries []*catalogue.Entry
	for i := range contents.All() {
		entries = append(entries, contents.At(i))
	}
	script, err := ddl.Write(context.Background(), c, Engine{}, contents, entries, ddl.Options{Rename: ddl.Renames{Containers: map[string]string{"quay": "dock"}}})
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	_ = script.WriteTo(&b)
	for line := range strings.Lines(b.String()) {
		if strings.Contains(line, "quay") && !strings.Contains(line, "kept") && !strings.HasPrefix(line, "-- left out") {
			t.Errorf("the old name is left in %s", line)
		}
	}
}

// A module that was renamed keeps its old name in its text: the script has the new one. What CREATE OR ALTER leaves behind is
// no difference.
func TestHeaders(t *testing.T) {
	s := moored(t, standin.Profile{})
	c := testcatalogue.New(t)
	was, now := read(t, s, "moorings"), read(t, s, "moorings")
	for _, o := range now.Objects {
		switch o.Name {
		case "usual_fee":
			o.Routine.Definition = strings.Replace(o.Routine.Definition, "CREATE FUNCTION", "CREATE   FUNCTION", 1)
		case "tally":
			o.Relation.Head = strings.Replace(o.Relation.Head, "CREATE VIEW", "CREATE   VIEW", 1)
		case "rope_2":
			o.Trigger.Definition = strings.Replace(o.Trigger.Definition, "CREATE TRIGGER", "CREATE   TRIGGER", 1)
		}
	}
	res, err := diff.Compare(context.Background(), c, testcatalogue.Save(t, c, catalogue.Origin{Server: "a"}, was).Snapshot, testcatalogue.Save(t, c, catalogue.Origin{Server: "b"}, now).Snapshot, diff.For(Engine{}))
	if err != nil || len(res.Objects) != 0 {
		t.Errorf("%+v %v", res.Objects, err)
	}
	for _, k := range []struct {
		kind schema.Kind
		text string
		want string
	}{
		{schema.KindProcedure, "CREATE PROC haul AS SELECT 1", "CREATE PROC [quay].[lift] AS SELECT 1"},
		{schema.KindProcedure, "-- haul\ncreate or alter procedure [quay] . [haul] @a int AS SELECT 1", "-- haul\ncreate or alter procedure [quay].[lift] @a int AS SELECT 1"},
		{schema.KindProcedure, "CREATE PROCEDURE quay.LIFT AS SELECT 1", "CREATE PROCEDURE quay.LIFT AS SELECT 1"},
		{schema.KindProcedure, "CREATE PROCEDURE lift AS SELECT 1", "CREATE PROCEDURE [quay].[lift] AS SELECT 1"}, // in the schema of whoever runs the script
		{schema.KindProcedure, "CREATE PROCEDURE \"quay\".\"lift\";2 AS SELECT 1", "CREATE PROCEDURE \"quay\".\"lift\";2 AS SELECT 1"},
	} {
		o := &schema.Object{Kind: k.kind, Schema: "quay", Name: "lift", Routine: &schema.Routine{Definition: k.text}}
		made, err := Engine{}.Make(o)
		if err != nil || len(made) == 0 || made[0].Head != k.want {
			t.Errorf("%s: %+v %v", k.text, made, err)
		}
	}
}
