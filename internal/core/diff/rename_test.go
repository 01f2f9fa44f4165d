package diff

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
)

// harbour is a table that refers to itself, fifteen that refer to it, and what hangs on it.
func harbour(table, constraint string) []*schema.Object {
	berth := object(schema.KindTable, table, "no integer", "beside integer", "mood ops.mood")
	berth.Comment = ""
	berth.Relation.Keys = []schema.Key{{Name: constraint + "_pkey", Primary: true, Columns: []schema.KeyPart{{Column: "no"}}}}
	berth.Relation.ForeignKeys = []schema.ForeignKey{{Name: constraint + "_beside", Columns: []string{"beside"}, RefSchema: "ops", RefTable: table, RefColumns: []string{"no"}}}
	all := []*schema.Object{berth,
		{Kind: schema.KindIndex, Schema: "ops", Name: "by_beside", Index: &schema.Index{Table: table, Columns: []schema.KeyPart{{Column: "beside"}}}},
		{Kind: schema.KindTrigger, Schema: "ops", Within: table, Name: "stamp", Trigger: &schema.Trigger{Table: table, Timing: "before", Events: []string{"insert"},
			Definition: "CREATE TRIGGER stamp BEFORE INSERT ON ops." + table + " FOR EACH ROW EXECUTE FUNCTION ops.stamp()"}},
		{Kind: schema.KindSequence, Schema: "ops", Name: "berth_no", Sequence: &schema.Sequence{Type: "integer", OwnedBy: table, OwnedCol: "no"}},
		{Kind: schema.KindFunction, Schema: "ops", Name: "stamp", Routine: &schema.Routine{Language: "plpgsql", Returns: "trigger",
			Definition: "CREATE FUNCTION ops.stamp() RETURNS trigger LANGUAGE plpgsql AS $$begin perform ops.stamp(); return new; end$$"}},
		{Kind: schema.KindEnum, Schema: "ops", Name: "mood", Definition: "CREATE TYPE ops.mood AS ENUM ('calm', 'rough')"},
		{Kind: schema.KindView, Schema: "ops", Name: "free", Relation: &schema.Relation{Columns: []schema.Column{{Name: "no", Type: "integer"}},
			Query: " SELECT " + table + ".no\n   FROM ops." + table}},
	}
	for i := range 15 {
		o := object(schema.KindTable, fmt.Sprintf("sailing_%02d", i), "id integer", "berth integer", fmt.Sprintf("c%d text", i))
		o.Relation.ForeignKeys = []schema.ForeignKey{{Name: "at", Columns: []string{"berth"}, RefSchema: "ops", RefTable: table, RefColumns: []string{"no"}}}
		all = append(all, o)
	}
	return all
}

func named(objects []*schema.Object, name string) *schema.Object {
	return objects[slices.IndexFunc(objects, func(o *schema.Object) bool { return o.Name == name })]
}

func TestRenames(t *testing.T) {
	replace := func(o *schema.Object, old, to string) {
		if o.Routine != nil {
			o.Routine.Definition = strings.ReplaceAll(o.Routine.Definition, old, to)
		}
		o.Definition = strings.ReplaceAll(o.Definition, old, to)
	}
	for _, c := range []struct {
		name    string
		now     func([]*schema.Object) []*schema.Object
		summary Summary
		want    []string
	}{
		{"a table, its constraints called as before", func([]*schema.Object) []*schema.Object { return harbour("pier", "berth") },
			Summary{Same: 2, Renamed: 1, Followed: 19}, []string{"renamed pier berth"}},
		{"a table, made anew", func([]*schema.Object) []*schema.Object { return harbour("pier", "pier") },
			Summary{Same: 2, Renamed: 1, Followed: 19}, []string{"renamed pier berth"}},
		{"a table, and one that refers to it otherwise", func([]*schema.Object) []*schema.Object {
			all := harbour("pier", "berth")
			named(all, "sailing_03").Relation.ForeignKeys[0].OnDelete = "cascade"
			return all
		}, Summary{Same: 2, Renamed: 1, Changed: 1, Followed: 18}, []string{"renamed pier berth", "sailing_03 foreign_keys/at/on_delete: nothing, cascade"}},
		{"an index", func(o []*schema.Object) []*schema.Object { named(o, "by_beside").Name = "berth_beside"; return o }, Summary{Same: 21, Renamed: 1}, []string{"renamed berth_beside by_beside"}},
		{"an index of a renamed table", func([]*schema.Object) []*schema.Object {
			all := harbour("pier", "berth")
			named(all, "by_beside").Name = "pier_beside"
			return all
		}, Summary{Same: 2, Renamed: 2, Followed: 18}, []string{"renamed pier berth", "renamed pier_beside by_beside"}},
		{"a sequence", func(o []*schema.Object) []*schema.Object { named(o, "berth_no").Name = "berth_no_seq"; return o }, Summary{Same: 21, Renamed: 1}, []string{"renamed berth_no_seq berth_no"}},
		{"a routine that calls itself, and the trigger that calls it", func(o []*schema.Object) []*schema.Object {
			f := o[4]
			f.Name = "set_stamp"
			replace(f, "ops.stamp", "ops.set_stamp")
			o[2].Trigger.Definition = strings.ReplaceAll(o[2].Trigger.Definition, "ops.stamp()", "ops.set_stamp()")
			return o
		}, Summary{Same: 20, Renamed: 1, Changed: 1}, nil},
		{"a type", func(o []*schema.Object) []*schema.Object {
			m := named(o, "mood")
			m.Name = "weather"
			replace(m, "ops.mood", "ops.weather")
			named(o, "berth").Relation.Columns[2].Type = "ops.weather"
			return o
		}, Summary{Same: 20, Renamed: 1, Followed: 1}, []string{"renamed weather mood"}},
		{"a trigger", func(o []*schema.Object) []*schema.Object {
			o[2].Name = "set_stamp"
			o[2].Trigger.Definition = strings.Replace(o[2].Trigger.Definition, "TRIGGER stamp", "TRIGGER set_stamp", 1)
			return o
		}, Summary{Same: 21, Renamed: 1}, nil},
		{"constraints", func(o []*schema.Object) []*schema.Object {
			r := named(o, "berth").Relation
			r.Keys[0].Name, r.ForeignKeys[0].Name = "pk", "fk"
			return o
		}, Summary{Same: 21, Changed: 1}, []string{"berth keys/pk/name: berth_pkey, pk", "berth foreign_keys/fk/name: berth_beside, fk"}},
		{"a table that became a partition", func(o []*schema.Object) []*schema.Object {
			s := named(o, "sailing_07")
			s.Kind = schema.KindPartition
			s.Relation.Parents = []schema.Parent{{Schema: "ops", Table: "sailings", Bound: "FOR VALUES IN (7)"}}
			return o
		}, Summary{Same: 21, Changed: 1}, []string{"sailing_07 kind: table, partition", "sailing_07 parents/ops.sailings: nothing, partition of ops.sailings FOR VALUES IN (7)"}},
	} {
		summary, lines := compare(t, harbour("berth", "berth"), c.now(harbour("berth", "berth")), Options{})
		if summary != c.summary || c.want != nil && !slices.Equal(lines, c.want) {
			t.Errorf("%s: %+v %q, want %+v %q", c.name, summary, lines, c.summary, c.want)
		}
	}
}
