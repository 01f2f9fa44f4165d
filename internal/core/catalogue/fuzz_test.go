package catalogue

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"
	"time"

	"echo-atlas/internal/core/schema"
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
	f.Add(encodeNeeds(w.entries, schema.Structural(r.Objects)))
	f.Add(encodeMeasures(w.entries, r.Measures))
	f.Add(appendText(appendText(nil, "ops"), "table"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if x, err := decodeNames(string(b)); err == nil {
			_ = x.Lines(func(_ string, l NameLine) bool { _ = l.Object(); return true })
		}
		if x, body, err := decodeTexts(b); err == nil {
			x.Body = string(body)
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
		_, _ = decodeRoot(b)
		_ = decodePlaces(b)
		_, _ = unseal(nil, string(b))
	})
}

// What an import takes can be stored, loaded and exported again.
func FuzzImport(f *testing.F) {
	ctx := context.Background()
	c, err := Open(ctx, f.TempDir())
	if err != nil {
		f.Fatal(err)
	}
	f.Cleanup(func() { c.Close() })
	s, _, err := c.Save(ctx, Origin{Server: "quay"}, described(2))
	if err != nil {
		f.Fatal(err)
	}
	whole, err := c.Export(ctx, s, nil)
	if err != nil {
		f.Fatal(err)
	}
	f.Add(whole)
	f.Add([]byte(`{"objects": [{"kind": "index"}]}`))
	for _, o := range described(2).Objects {
		text, err := json.Marshal(o)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
	}
	f.Add([]byte(`{"kind": "index", "name": "x", "table": "t", "index": {"columns": [{"column": "a"}]}}`))
	f.Add([]byte(`{"kind": "trigger", "name": "x", "table": "t", "trigger": {"events": ["insert"]}}`))
	f.Add([]byte(`{"kind": "function", "name": "x", "routine": {"arguments": [{"type": "int"}]}}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		path := filepath.Join(t.TempDir(), "snapshot.json")
		if err := os.WriteFile(path, b, 0o600); err != nil {
			t.Fatal(err)
		}
		var o schema.Object // an export has a sum, which hides what stands behind it
		if json.Unmarshal(b, &o) == nil && o.Validate() == nil {
			r := &schema.Reading{Database: "berths", Objects: []*schema.Object{&o}}
			if _, _, err := c.Save(ctx, Origin{Server: "quay"}, r); err != nil {
				t.Error(err)
			}
			for which := range indexes {
				_ = encodeIndex(which, r.Objects)
			}
		}
		reading, _, err := Import(path)
		if err != nil {
			return
		}
		_ = schema.Structural(reading.Objects)
		for _, o := range reading.Objects {
			if _, err := schema.DecodeObject(schema.AppendObject(nil, o)); err != nil {
				t.Errorf("%s: %v", o.ID().Qualified(), err)
			}
		}
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
