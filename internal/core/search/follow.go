package search

// A synonym that is found is told with what it stands for.

import (
	"context"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// follow adds to hits that are synonyms what they stand for.
func follow(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, hits []*Hit) error {
	for _, h := range hits {
		if h.ID.Kind != schema.KindSynonym || h.in != "" {
			continue
		}
		t, err := r.Contents(ctx, h.Snapshot)
		if err != nil {
			return err
		}
		e := t.Find(h.ID)
		if e == nil {
			continue
		}
		o, err := c.Object(ctx, e)
		if err != nil {
			return err
		}
		h.Type = target(o)
	}
	return nil
}

// target returns what a synonym stands for. Older readings hold the statement that makes it: the name before FOR, in
// brackets, is skipped, since it may hold the word too.
func target(o *schema.Object) string {
	if o.Synonym != nil {
		return o.Synonym.String()
	}
	const making, between = "CREATE SYNONYM ", len("[].[]")
	name := min(len(making)+len(o.Schema)+len(o.Name)+between, len(o.Definition))
	_, after, _ := strings.Cut(o.Definition[name:], " FOR ")
	return after
}
