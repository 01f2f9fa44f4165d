package conformance

import (
	"context"
	"slices"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// olderForms checks that an object as an older model held it is the same to a comparison, and is written as the same
// statements.
func olderForms(t *testing.T, c *catalogue.Catalogue, e engine.Engine, contents *catalogue.Contents) {
	t.Helper()
	texts := func(o *schema.Object) []string {
		statements, err := e.Make(o)
		if err != nil {
			return []string{err.Error()}
		}
		var all []string
		for i := range statements {
			all = append(all, statements[i].Text())
		}
		return all
	}
	objects, err := c.Objects(context.Background(), all(contents))
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range objects {
		older := schema.OlderForm(o)
		for _, d := range append(schema.Compare(older, o, 4, schema.ModelVersion), schema.Compare(o, older, schema.ModelVersion, 4)...) {
			t.Errorf("%s as an older model held it differs in %s: %s, %s", o.ID().Qualified(), d.Path, value(d.Old), value(d.New))
		}
		if x, y := texts(older), texts(o); !slices.Equal(x, y) {
			t.Errorf("%s as an older model held it is written as\n%q\nnot\n%q", o.ID().Qualified(), x, y)
		}
	}
}
