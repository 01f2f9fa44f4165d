package diff

import (
	"context"
	"fmt"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// BenchmarkLarge compares 100,000 objects with themselves after a hundred changes.
func BenchmarkLarge(b *testing.B) {
	const objects, every = 100_000, 1_000
	c := testcatalogue.New(b)
	save := func(server string, changed bool) *catalogue.Snapshot {
		r := &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0)}
		for i := range objects {
			o := object(schema.KindTable, fmt.Sprintf("berth_%06d", i), "no int", "depth numeric", fmt.Sprintf("note_%d text", i%17))
			if changed && i%every == 0 {
				o.Relation.Columns[1].Type = "text"
			}
			r.Objects = append(r.Objects, o)
		}
		return testcatalogue.Save(b, c, catalogue.Origin{Server: server}, r).Snapshot
	}
	old, now := save("old", false), save("new", true)
	for b.Loop() {
		res, err := Compare(context.Background(), c, old, now, Options{})
		if err != nil || res.Summary.Changed != objects/every {
			b.Fatalf("%+v, %v", res, err)
		}
	}
}
