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
			"table":     plain(r.table),
			"column":    plain(r.column),
			"index":     plain(r.index),
			"reference": plain(r.reference),
			"keyColumn": plain(r.keyColumn),
			"view":      plain(r.view),
			"trigger":   plain(r.trigger),
			"event":     plain(r.event),
			"routine":   plain(r.routine),
			"check":     plain(r.check),
		}, Finish: func() *schema.Reading {
			r.assemble()
			r.codeNeeds()
			return r.reading
		}}
	})
}

func plain(each func(*engine.Row)) func(*engine.Row) error {
	return func(row *engine.Row) error { each(row); return nil }
}
