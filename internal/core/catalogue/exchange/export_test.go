package exchange_test

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"testing"
	"time"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/exchange"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// someReading holds a table, an index on it, a view of it and a routine.
func someReading() *schema.Reading {
	table := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "berth", Comment: "where ships lie", Relation: &schema.Relation{
		Columns: []schema.Column{{Name: "no", Type: "integer", NotNull: true}, {Name: "depth", Type: "numeric(4,1)", Default: "0"}}, Keys: []schema.Key{{Name: "berth_pkey", Primary: true, Columns: []schema.KeyPart{{Column: "no"}}}}}}
	index := &schema.Object{Kind: schema.KindIndex, Schema: "ops", Name: "berth_depth", Within: "", Index: &schema.Index{Table: "berth", Columns: []schema.KeyPart{{Column: "depth"}}}}
	view := &schema.Object{Kind: schema.KindView, Schema: "ops", Name: "deep", Relation: &schema.Relation{Query: "SELECT no\nFROM ops.berth", Columns: []schema.Column{{Name: "no", Type: "integer"}}}}
	routine := &schema.Object{Kind: schema.KindFunction, Schema: "ops", Name: "fee", Signature: "integer", Routine: &schema.Routine{Definition: "CREATE FUNCTION ops.fee(integer)"}}
	return &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0).UTC(), Objects: []*schema.Object{table, index, view, routine}, Dependencies: []schema.Dependency{
		{From: schema.ObjectEnd(view.ID()), To: schema.ColumnEnd(table.ID(), "no"), Use: schema.UseReads, Evidence: schema.Read, Field: schema.FieldQuery, Start: 15, Stop: 24},
		{From: schema.ObjectEnd(view.ID()), To: schema.End{ID: schema.ID{Name: "tide"}, Outside: schema.Outside{Database: "tides"}}, Use: schema.UseReads, Evidence: schema.Read}}}
}

// What an import takes can be stored, loaded and exported again.
func FuzzImport(f *testing.F) {
	ctx := context.Background()
	c, err := catalogue.Open(ctx, f.TempDir())
	if err != nil {
		f.Fatal(err)
	}
	f.Cleanup(func() { c.Close() })
	s, _, err := c.Save(ctx, catalogue.Origin{Server: "quay"}, someReading())
	if err != nil {
		f.Fatal(err)
	}
	whole, err := exchange.Export(ctx, c, s, nil)
	if err != nil {
		f.Fatal(err)
	}
	f.Add(whole)
	f.Add([]byte(`{"objects": [{"kind": "index"}]}`))
	for _, o := range someReading().Objects {
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
			if _, _, err := c.Save(ctx, catalogue.Origin{Server: "quay"}, r); err != nil {
				t.Error(err)
			}
		}
		reading, _, err := exchange.Import(path)
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

// Texts that JSON cannot hold as they are come back from an export byte for byte.
func TestExportOfOtherBytes(t *testing.T) {
	ctx := context.Background()
	c := testcatalogue.New(t)
	r := someReading()
	r.Objects[0].Comment = `a \ufffd that is text, and one: ` + "\ufffd"
	r.Objects[1].Name, r.Objects[1].Comment = "t\xff", "two\n\xfe lines \U0010ff99"
	s := testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, r).Snapshot
	s.Remarks = append(s.Remarks, schema.Remark{State: "note", Reason: "\xe9"})
	text, err := exchange.Export(ctx, c, s, nil)
	if err != nil || !utf8.Valid(text) {
		t.Fatal(err)
	}
	files, err := exchange.ExportFiles(ctx, c, s, nil)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	files["../whole.json"] = text
	for name, body := range files {
		path := filepath.Join(dir, "folder", name)
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, body, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	byID := func(a, b *schema.Object) int { return a.ID().Compare(b.ID()) }
	slices.SortFunc(r.Objects, byID)
	for _, from := range []string{"folder", "whole.json"} {
		back, _, err := exchange.Import(filepath.Join(dir, from))
		if err != nil {
			t.Fatal(err)
		}
		if slices.SortFunc(back.Objects, byID); !reflect.DeepEqual(back.Objects, r.Objects) || back.Remarks[len(back.Remarks)-1].Reason != "\xe9" {
			t.Errorf("%s: other objects came back: %+v %q", from, back.Objects[1], back.Remarks)
		}
	}
}
