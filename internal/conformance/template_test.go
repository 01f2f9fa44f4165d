package conformance

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/template"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// Every template of every object is one that the engine parses.
func TestTemplatesParse(t *testing.T) {
	for _, s := range testservers.All(t) {
		written := map[string]int{}
		cases, _ := scriptsOf(s, "testdata")
		for _, path := range cases {
			t.Run(s.Name()+"/"+filepath.Base(path), func(t *testing.T) {
				script, err := os.ReadFile(path)
				if err != nil {
					t.Fatal(err)
				}
				c := testcatalogue.New(t)
				url := s.Database(t, string(script))
				contents := read(t, c, s, "s", url)
				objects, err := c.Objects(context.Background(), all(contents))
				if err != nil {
					t.Fatal(err)
				}
				db := s.Open(t, url)
				prove := func(verb, text string) {
					t.Helper()
					statement, err := db.Prepare(text)
					if err != nil {
						t.Errorf("%s: %v\n%s", verb, err, text)
						return
					}
					statement.Close()
					written[verb]++
				}
				for _, o := range objects {
					view := o.Kind == schema.KindView || o.Kind == schema.KindMaterialisedView
					for _, verb := range template.Verbs {
						if o.Setting("invalid") != "" {
							continue
						}
						text, err := template.Write(s.Engine(), verb, o, "")
						if err != nil {
							fits := o.Relation != nil && o.Kind.IsRelation() && len(o.Relation.Columns) > 0 && verb != "call" || o.Routine != nil && verb == "call" && o.Kind.IsRoutine()
							if fits && !errors.Is(err, template.ErrNoKey) && !(view && verb == "alter") && !strings.Contains(err.Error(), "beside its key") && !strings.Contains(err.Error(), "is a view") && !strings.Contains(err.Error(), "virtual") {
								t.Errorf("%s of %s: %v", verb, o.ID().Qualified(), err)
							}
							continue
						}
						if o.Setting("engine") == "ARCHIVE" && (verb == "update" || verb == "delete") || o.Kind == schema.KindAggregate || o.Routine != nil && (o.Routine.Returns == "trigger" || o.Routine.Returns == "event_trigger" || strings.Contains(o.Signature, "internal")) {
							continue // not to be called by themselves
						}
						prove(verb, text)
						if verb == "alter" && len(o.Relation.Columns) > 0 {
							if text, err = template.Write(s.Engine(), verb, o, o.Relation.Columns[0].Name); err != nil {
								t.Errorf("%s of a column of %s: %v", verb, o.ID().Qualified(), err)
							} else if s.Name() != "sqlite" || o.Relation.Columns[0].Generated == nil {
								prove(verb, text)
							}
						}
					}
				}
				for i := range contents.All() {
					for j := range contents.All() {
						a, b := contents.At(i), contents.At(j)
						if a.ID.Kind != schema.KindTable || b.ID.Kind != schema.KindTable || i == j {
							continue
						}
						joins, err := template.Joins(context.Background(), c, s.Engine(), contents, []*catalogue.Entry{a, b})
						if err != nil {
							continue // these two have nothing in common
						}
						for _, join := range joins {
							prove("join", join.Text)
						}
					}
				}
			})
		}
		for _, verb := range append(template.Verbs, "join") {
			if written[verb] == 0 && !(verb == "call" && s.Name() == "sqlite") {
				t.Errorf("%s: no template %q was proved", s.Name(), verb)
			}
		}
	}
}
