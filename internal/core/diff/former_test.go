package diff

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// A type that an earlier reading held as a statement is the same where the statement says the same, and differs where it
// does not.
func TestTypesOfFormerReadings(t *testing.T) {
	mood := func(values ...string) *schema.Object {
		return &schema.Object{Kind: schema.KindEnum, Schema: "ops", Name: "mood", Owner: "harbourmaster", Enum: &schema.Enum{Values: values}}
	}
	depth := &schema.Object{Kind: schema.KindDomain, Schema: "ops", Name: "depth", Domain: &schema.Domain{Type: "numeric", NotNull: true, Checks: []schema.Check{{Name: "deep", Expression: "(VALUE > 0)", NotValid: true, Comment: "metres"}}}}
	place := &schema.Object{Kind: schema.KindComposite, Schema: "ops", Name: "place", Composite: &schema.Composite{Attributes: []schema.Column{{Name: "no", Type: "integer", Comment: "which"}}}}
	own := &schema.Object{Kind: schema.KindPolicy, Schema: "ops", Within: "berth", Name: "own rows", Policy: &schema.Policy{Restrictive: true, Command: "select", Roles: []string{"public", "Crew"}, Using: "(no > 0)"}}
	former := func(definition string, o *schema.Object) *schema.Object {
		return &schema.Object{Kind: o.Kind, Schema: o.Schema, Within: o.Within, Name: o.Name, Owner: o.Owner, Definition: definition}
	}
	calm, rough := mood("calm"), mood("calm", "rough")
	c := testcatalogue.New(t)
	save := func(server string, model int, objects ...*schema.Object) *catalogue.Snapshot {
		r := &schema.Reading{Engine: "postgres", Model: model, Database: "berths", Taken: time.Unix(1e9, 0), Objects: objects}
		return testcatalogue.Save(t, c, catalogue.Origin{Server: server}, r).Snapshot
	}
	old := save("old", 3, former("CREATE TYPE ops.mood AS ENUM (\n    'calm'\n)", calm),
		former("CREATE DOMAIN ops.depth AS numeric NOT NULL;\nALTER DOMAIN ops.depth ADD CONSTRAINT deep CHECK ((VALUE > 0)) NOT VALID;\nCOMMENT ON CONSTRAINT deep ON DOMAIN ops.depth IS 'metres'", depth),
		former("CREATE TYPE ops.place AS (\n    no integer\n);\nCOMMENT ON COLUMN ops.place.no IS 'which'", place),
		former("CREATE POLICY \"own rows\" ON ops.berth AS RESTRICTIVE FOR SELECT TO PUBLIC, \"Crew\"\n    USING ((no > 0))", own))
	options := Options{Rules: postgres.Engine{}.Traits().Rules, Former: postgres.Engine{}.FormerDefinition}
	for _, q := range []struct {
		now     []*schema.Object
		changed int
	}{{[]*schema.Object{calm, depth, place, own}, 0}, {[]*schema.Object{rough, depth, place, own}, 1}} {
		res, err := Compare(context.Background(), c, old, save("new", 0, q.now...), options)
		if err != nil {
			t.Fatal(err)
		}
		if res.Summary != (Summary{Same: 4 - q.changed, Changed: q.changed}) {
			t.Errorf("%+v: %+v", res.Summary, res.Objects)
		}
		for _, o := range res.Objects {
			if len(o.Properties) != 1 || o.Properties[0].Path != "definition" || *o.Properties[0].New != "CREATE TYPE ops.mood AS ENUM (\n    'calm',\n    'rough'\n)" {
				t.Errorf("%s: %q", o.ID, *o.Properties[0].New)
			}
		}
	}
	// Between two readings that hold types, values and parts are compared as such.
	res, err := Compare(context.Background(), c, save("was", 0, calm, depth, place), save("is", 0, rough, depth, place), options)
	if err != nil || len(res.Objects) != 1 || res.Objects[0].Properties[0].Path != "enum/values" {
		t.Errorf("%+v %v", res.Objects, err)
	}
}
