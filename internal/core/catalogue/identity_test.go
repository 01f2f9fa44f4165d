package catalogue

import (
	"fmt"
	"slices"
	"testing"

	"echo-atlas/internal/core/schema"
)

// What is of another kind is the same object, but where the kind itself tells two of one name apart.
func TestDiffEntriesByIdentity(t *testing.T) {
	list := func(ids ...schema.ID) []Entry {
		var all []Entry
		for i, id := range ids {
			all = append(all, Entry{ID: id, Hash: schema.HashOf([]byte(fmt.Sprint(id, i)))})
		}
		slices.SortFunc(all, func(a, b Entry) int { return a.ID.Compare(b.ID) })
		return all
	}
	id := func(k schema.Kind, name string) schema.ID { return schema.ID{Kind: k, Schema: "ops", Name: name} }
	table, partition := id(schema.KindTable, "sailing"), id(schema.KindPartition, "sailing")
	function, procedure := id(schema.KindFunction, "charge"), id(schema.KindProcedure, "charge")
	for _, c := range []struct {
		name          string
		before, after []Entry
		want          []string
	}{
		{"a table that became a partition", list(table), list(partition), []string{"table sailing > partition sailing"}},
		{"a routine of another kind", list(function), list(procedure), []string{"function charge > procedure charge"}},
		{"two of one name", list(function, procedure), list(procedure), []string{"procedure charge > procedure charge", "function charge > -"}},
		{"an index is no table", list(table), list(id(schema.KindIndex, "sailing")), []string{"table sailing > -", "- > index sailing"}},
		{"other names", list(table), list(id(schema.KindPartition, "sailing_2026")), []string{"table sailing > -", "- > partition sailing_2026"}},
	} {
		var got []string
		say := func(e *Entry) string {
			if e == nil {
				return "-"
			}
			return string(e.ID.Kind) + " " + e.ID.Name
		}
		DiffEntries(c.before, c.after, func(x, y *Entry) { got = append(got, say(x)+" > "+say(y)) })
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}
