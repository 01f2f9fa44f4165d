package report

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

func TestReports(t *testing.T) {
	object := func(kind schema.Kind, name string) *schema.Object {
		o := &schema.Object{Kind: kind, Schema: "ops", Name: name}
		switch {
		case kind.IsRelation():
			o.Relation = &schema.Relation{Columns: []schema.Column{{Name: "no", Type: "integer"}}}
		case kind.IsRoutine():
			o.Routine = &schema.Routine{Definition: "x"}
		case kind == schema.KindSequence:
			o.Sequence = &schema.Sequence{}
		case kind == schema.KindEnum:
			o.Enum = &schema.Enum{}
		}
		return o
	}
	berth, deep, lost, charge, note := object(schema.KindTable, "berth"), object(schema.KindView, "deep"), object(schema.KindView, "lost"), object(schema.KindFunction, "charge"), object(schema.KindFunction, "note")
	numbers, free, state, broken := object(schema.KindSequence, "berth_no"), object(schema.KindSequence, "free"), object(schema.KindEnum, "state"), object(schema.KindView, "torn")
	broken.Settings = []schema.Property{{Name: "invalid", Value: "no such column: x"}}
	needs := func(from, to *schema.Object, use schema.Use) schema.Dependency {
		return schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.ObjectEnd(to.ID()), Use: use, Evidence: schema.Read}
	}
	missing := schema.Dependency{From: schema.ObjectEnd(charge.ID()), To: schema.ObjectEnd(schema.ID{Schema: "ops", Name: "tide"}), Use: schema.UseReads, Evidence: schema.Guessed, Field: schema.FieldBody}
	far := schema.Dependency{From: schema.ObjectEnd(charge.ID()), To: schema.End{ID: schema.ID{Name: "tide"}, Outside: schema.Outside{Database: "tides"}}, Use: schema.UseReads, Evidence: schema.Read}
	unseen := schema.Dependency{From: schema.ObjectEnd(note.ID()), Use: schema.UseRunsUnseen, Evidence: schema.Guessed}
	c := testcatalogue.New(t)
	contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0),
		Objects: []*schema.Object{berth, deep, lost, charge, note, numbers, free, state, broken},
		Dependencies: []schema.Dependency{needs(deep, berth, schema.UseReads), needs(charge, note, schema.UseCalls), needs(note, charge, schema.UseCalls), needs(numbers, berth, schema.UseOwnedBy),
			needs(charge, deep, schema.UseReads), needs(berth, state, schema.UseTypedBy), missing, far, unseen}})
	ctx := context.Background()
	found, err := FindBroken(ctx, c, contents)
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, b := range found {
		text := b.Entry.ID.Name + ": " + b.Said
		if b.Dependency != nil {
			text += b.Dependency.To.ID.String()
		}
		said = append(said, text)
	}
	if !slices.Equal(said, []string{"charge: ops.tide", "torn: no such column: x"}) {
		t.Errorf("broken: %q", said)
	}
	unused, err := FindUnused(ctx, c, contents)
	if err != nil || names(unused) != "free lost torn" {
		t.Errorf("unused: %q, %v", names(unused), err)
	}
	cycles, err := FindCycles(ctx, c, contents)
	if err != nil || len(cycles) != 1 || names(cycles[0]) != "charge note" {
		t.Errorf("cycles: %v, %v", cycles, err)
	}
}

func names(entries []*catalogue.Entry) string {
	var all []string
	for _, e := range entries {
		all = append(all, e.ID.Name)
	}
	slices.Sort(all)
	return strings.Join(all, " ")
}

// Components are found whatever the graph: two nodes are in one where each reaches the other.
func TestComponents(t *testing.T) {
	needs := [][]int32{{1}, {2}, {0, 3}, {4}, {3}, {5}, {4}}
	var reach func(from, to int, seen map[int]bool) bool
	reach = func(from, to int, seen map[int]bool) bool {
		for _, n := range needs[from] {
			if int(n) == to || !seen[int(n)] && func() bool { seen[int(n)] = true; return reach(int(n), to, seen) }() {
				return true
			}
		}
		return false
	}
	in := map[int]int{}
	for i, component := range components(needs) {
		for _, n := range component {
			in[n] = i + 1
		}
	}
	for a := range needs {
		for b := range needs {
			together := a != b && reach(a, b, map[int]bool{}) && reach(b, a, map[int]bool{})
			if together != (a != b && in[a] > 0 && in[a] == in[b]) {
				t.Errorf("%d and %d: together %v, components %v", a, b, together, in)
			}
		}
	}
}
