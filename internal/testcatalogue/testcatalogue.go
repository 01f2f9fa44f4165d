// Package testcatalogue makes catalogues for tests.
package testcatalogue

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// New returns an empty catalogue in a temporary folder.
func New(t testing.TB) *catalogue.Catalogue {
	t.Helper()
	c, err := catalogue.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	return c
}

// Save stores a reading and returns what the new snapshot holds.
func Save(t testing.TB, c *catalogue.Catalogue, from catalogue.Origin, reading *schema.Reading) *catalogue.Contents {
	t.Helper()
	snapshot, _, err := c.Save(context.Background(), from, reading)
	if err != nil {
		t.Fatal(err)
	}
	contents, err := c.Contents(context.Background(), snapshot)
	if err != nil {
		t.Fatal(err)
	}
	return contents
}

// Resolver returns a resolver over what a catalogue holds now.
func Resolver(t testing.TB, c *catalogue.Catalogue) *address.Resolver {
	t.Helper()
	r, err := address.NewResolver(context.Background(), c, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	return r
}
