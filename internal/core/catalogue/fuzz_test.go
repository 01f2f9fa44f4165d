package catalogue

import (
	"context"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// Whatever stands in what a catalogue keeps, nothing that reads it panics or takes memory without end.
func FuzzStored(f *testing.F) {
	r := described(3)
	r.Sort()
	w := &saver{objects: r.Objects}
	w.encode()
	for which := range indexes {
		f.Add(encodeIndex(which, r.Objects))
	}
	f.Add(encodeEntries(w.entries))
	needs := encodeParts(w.entries, schema.Structural(r.Objects), schema.ModelVersion, 1)
	f.Add(needs.encode())
	for _, body := range needs.runs[0].bodies {
		f.Add(body)
	}
	f.Add(encodeMeasures(w.entries, r.Measures))
	f.Add(stored.AppendText(stored.AppendText(nil, "ops"), "table"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if x, err := index.DecodeNames(string(b)); err == nil {
			_ = x.Lines(func(_ string, l index.Line) bool { _ = l.Object(); return true })
		}
		if x, err := index.DecodeTexts(b, new([]byte)); err == nil {
			if items, err := x.Items(); err == nil {
				for _, i := range items {
					_ = x.Body[i.Start:i.End]
				}
			}
		}
		if list, err := decodeEntries(nil, "ops", schema.KindTable, string(b)); err == nil && len(list) > len(b) {
			t.Errorf("%d entries of %d bytes", len(list), len(b))
		}
		if g, err := decodeNeeds(b, 3); err == nil {
			for i := range g.Edges {
				_, _ = g.Evidence(&g.Edges[i]), g.Constraint(&g.Edges[i])
			}
		}
		if d, err := directoryOf(b, 3); err == nil && len(d.partsOf()) > parts*len(d.runs) {
			t.Errorf("%d parts of %d runs", len(d.partsOf()), len(d.runs))
		}
		if p, err := readPart(string(b), 3); err == nil {
			for at := range 3 {
				_ = p.edges(at, 0, 3, func(x storedEdge) { _ = p.edge(x, 1) })
			}
		}
		l := (*Catalogue)(nil).newGraphReader(context.Background(), &directory{entries: 3, runs: make([]run, 1)})
		_, _ = l.outsideOf(0, string(b), []int32{0, 1, 1, 2})
		_, _ = decodeRoot(b)
		_ = decodePlaces(b)
		_, _ = unseal(nil, string(b))
	})
}

func FuzzMoment(f *testing.F) {
	for _, seed := range []string{"2026-03-01", "yesterday", "2026-03-01T10:30", "1", "low tide"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if _, err := ParseMoment(s, time.Unix(0, 0)); err == nil && CheckLabel(s) == nil && s != "" {
			t.Errorf("%q is a moment and a label", s)
		}
	})
}
