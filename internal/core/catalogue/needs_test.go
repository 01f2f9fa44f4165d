package catalogue

import (
	"encoding/binary"
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

// What is stored of dependencies comes back whole, also of those that lead out of the snapshot.
func TestNeedsAreStored(t *testing.T) {
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
	nobody := schema.Dependency{From: schema.ObjectEnd(schema.ID{Name: "nobody"}), To: schema.ObjectEnd(berth)}
	g, err := decodeNeeds(encodeNeeds(entries, append(append([]schema.Dependency{nobody}, outside...), all...), schema.ModelVersion, 1), len(entries))
	if err != nil {
		t.Fatal(err)
	}
	contents := &Contents{Entries: entries}
	var got, gotOutside []schema.Dependency
	for i := range g.Edges {
		got = append(got, g.Dependency(contents, &g.Edges[i]))
	}
	for i := range g.Outside {
		d := g.Dependency(contents, &g.Outside[i].Edge)
		d.To = g.Outside[i].End
		gotOutside = append(gotOutside, d)
	}
	if !reflect.DeepEqual(got, all) || !reflect.DeepEqual(gotOutside, outside) {
		t.Errorf("came back as\n%+v\n%+v", got, gotOutside)
	}
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
		if got := g.Dependency(&Contents{Entries: entries}, &g.Edges[i]); got != want[i] {
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
	entries := make([]Entry, objects)
	for i := range entries {
		entries[i] = Entry{ID: schema.ID{Kind: schema.KindTable, Name: strconv.Itoa(i)}}
	}
	all := make([]schema.Dependency, edges)
	for i := range all {
		all[i] = schema.Dependency{From: schema.ObjectEnd(entries[i%objects].ID), To: schema.ColumnEnd(entries[(i*7919+1)%objects].ID, "c"+strconv.Itoa(i%20)), Use: schema.UseReads, Evidence: schema.Read, Field: schema.FieldQuery, Start: i % 5000, Stop: i%5000 + 5}
	}
	body := encodeNeeds(entries, all, schema.ModelVersion, 1)
	b.ReportMetric(float64(len(body))/edges, "stored-B/edge")
	b.ReportAllocs()
	for b.Loop() {
		if _, err := decodeNeeds(body, objects); err != nil {
			b.Fatal(err)
		}
	}
}
