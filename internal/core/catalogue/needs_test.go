package catalogue

import (
	"context"
	"encoding/binary"
	"encoding/hex"
	"reflect"
	"strconv"
	"testing"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

func entriesOf(names ...string) []Entry {
	var all []Entry
	for _, name := range names {
		all = append(all, Entry{ID: schema.ID{Kind: schema.KindTable, Name: name}})
	}
	return all
}

// The form of before dependencies were stored in parts is read.
func TestNeedsInOneBlob(t *testing.T) {
	entries := entriesOf("berth", "mooring", "plan")
	berth, mooring, plan := entries[0].ID, entries[1].ID, entries[2].ID
	all := []schema.Dependency{
		{From: schema.End{ID: mooring, Part: "berth", PartKind: schema.KindCheck}, To: schema.ObjectEnd(plan), Use: schema.UseCalls, Evidence: schema.Guessed},
		{From: schema.ColumnEnd(mooring, "berth"), To: schema.ColumnEnd(berth, "no"), Use: schema.UseForeignKey, Constraint: `odd "name"`, Evidence: schema.Recorded},
		{From: schema.ObjectEnd(plan), To: schema.ObjectEnd(mooring), Use: schema.UseReads, Evidence: schema.Read, Field: schema.FieldQuery, Start: 70000, Stop: 70007},
	}
	outside := []schema.Dependency{
		{From: schema.ObjectEnd(plan), To: schema.ObjectEnd(schema.ID{Name: "gone"}), Use: schema.UseReads, Evidence: schema.Read},
		// It bears the name of one that is here, and is another.
		{From: schema.ObjectEnd(plan), To: schema.End{ID: berth, Outside: schema.Outside{Server: "reef", Database: "tides"}}, Use: schema.UseWrites, Evidence: schema.Read, Field: schema.FieldBody, Start: 3, Stop: 5},
	}
	stored, err := hex.DecodeString("0004010a00026e6f06636f6c756d6e05626572746810636865636b20636f6e73747261696e740a6f646420226e616d652204676f6e650472656566057469646573057461626c" +
		"65050001020100000103040103020200000302040302000000000300050005000000040101010003f0a204f7a204020400000000000600000001010000000004070809000003" +
		"000000020100040305")
	if err != nil {
		t.Fatal(err)
	}
	g, err := decodeNeeds(stored, len(entries))
	if err != nil {
		t.Fatal(err)
	}
	got, gotOutside := dependenciesOf(g, NewContents(nil, entries))
	if !reflect.DeepEqual(got, all) || !reflect.DeepEqual(gotOutside, outside) {
		t.Errorf("came back as\n%+v\n%+v", got, gotOutside)
	}
}

// dependenciesOf returns what a graph says.
func dependenciesOf(g *Graph, t *Contents) (inside, outside []schema.Dependency) {
	for i := range g.Edges {
		inside = append(inside, g.Dependency(t, &g.Edges[i]))
	}
	for i := range g.Outside {
		d := g.Dependency(t, &g.Outside[i].Edge)
		d.To = g.Outside[i].End
		outside = append(outside, d)
	}
	return inside, outside
}

// A graph that an earlier program stored said in sentences what a dependency is.
func TestNeedsInSentences(t *testing.T) {
	var b []byte
	numbers := func(all ...uint64) {
		for _, n := range all {
			b = binary.AppendUvarint(b, n)
		}
	}
	numbers(3, 0)
	b = stored.AppendText(b, "no")
	numbers(1)
	b = stored.AppendText(b, "berth")
	numbers(2)
	b = stored.AppendText(b, "")
	numbers(4)
	for _, s := range []string{`foreign key "odd ""name"`, "reads it", "FROM berth", "foreign key"} {
		b = stored.AppendText(b, s)
	}
	numbers(3)
	numbers(1, 0, 0, 0, 0, 0, 2)
	numbers(2, 0, 1, 1, 3, 8, 2)
	numbers(2, 0, 0, 3, 0, 0, 2)
	entries := entriesOf("berth", "mooring", "plan")
	g, err := decodeNeeds(b, len(entries))
	if err != nil {
		t.Fatal(err)
	}
	berth, mooring, plan := entries[0].ID, entries[1].ID, entries[2].ID
	want := []schema.Dependency{
		{From: schema.ColumnEnd(mooring, "berth"), To: schema.ColumnEnd(berth, "no"), Use: schema.UseForeignKey, Constraint: `odd "name`, Evidence: schema.Recorded},
		{From: schema.ObjectEnd(plan), To: schema.ColumnEnd(berth, "no"), Use: schema.UseReads, Evidence: schema.Read, Field: schema.FieldLine, Start: 3, Stop: 8},
		{From: schema.ObjectEnd(plan), To: schema.ColumnEnd(berth, "no"), Use: schema.UseForeignKey, Evidence: schema.Recorded},
	}
	for i := range want {
		if got := g.Dependency(NewContents(nil, entries), &g.Edges[i]); got != want[i] {
			t.Errorf("%+v, want %+v", got, want[i])
		}
	}
	for s, use := range useOfSentence {
		if got, _ := UseOfSentence(s); got != use || !use.Known() {
			t.Errorf("%q is %s", s, got)
		}
	}
}

// BenchmarkNeeds loads the graph of a hundred thousand objects with a million dependencies; B/op is what it takes in memory.
func BenchmarkNeeds(b *testing.B) {
	const objects, edges = 100_000, 1_000_000
	r := &schema.Reading{Engine: "postgres", Database: "line", Model: schema.ModelVersion}
	for i := range objects {
		r.Objects = append(r.Objects, &schema.Object{Kind: schema.KindTable, Name: strconv.Itoa(i), Relation: &schema.Relation{}})
	}
	for i := range edges {
		from, to := r.Objects[i%objects].ID(), r.Objects[(i*7919+1)%objects].ID()
		r.Dependencies = append(r.Dependencies, schema.Dependency{From: schema.ObjectEnd(from), To: schema.ColumnEnd(to, "c"+strconv.Itoa(i%20)), Use: schema.UseReads, Evidence: schema.Read, Field: schema.FieldQuery, Start: i % 5000, Stop: i%5000 + 5})
	}
	ctx, c := context.Background(), open(b, b.TempDir())
	s, _, err := c.Save(ctx, Origin{Server: "quay"}, r)
	if err != nil {
		b.Fatal(err)
	}
	t, err := c.Contents(ctx, s)
	if err != nil {
		b.Fatal(err)
	}
	var size float64
	if err := c.db.QueryRow("SELECT sum(length(body)) FROM node").Scan(&size); err != nil {
		b.Fatal(err)
	}
	b.ReportMetric(size/edges, "stored-B/edge")
	b.ReportAllocs()
	for b.Loop() {
		if _, err := c.Needs(ctx, t); err != nil {
			b.Fatal(err)
		}
	}
}
