package mariadb

import (
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testrows"
)

// Whatever a server sends, a row is decoded or refused, and nothing ends in a panic or in memory that does not end.
func FuzzRows(f *testing.F) {
	testrows.Fuzz(f, Engine{}, func() testrows.Decoder {
		r := newReader(&server{version: 101100}, "berths")
		return testrows.Decoder{Take: map[string]func(*engine.Row) error{
			"table":     testrows.Each(r.table),
			"column":    testrows.Each(r.column),
			"index":     testrows.Each(r.index),
			"reference": testrows.Each(r.reference),
			"keyColumn": testrows.Each(r.keyColumn),
			"view":      testrows.Each(r.view),
			"trigger":   testrows.Each(r.trigger),
			"event":     testrows.Each(r.event),
			"routine":   testrows.Each(r.routine),
			"check":     testrows.Each(r.check),
		}, Finish: func() *schema.Reading {
			r.assemble()
			r.codeNeeds()
			return r.reading
		}}
	})
}
