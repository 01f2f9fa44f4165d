package report

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

func TestStructure(t *testing.T) {
	parts := func(names ...string) (all []schema.KeyPart) {
		for _, n := range names {
			down := strings.HasSuffix(n, "-")
			all = append(all, schema.KeyPart{Column: strings.TrimSuffix(n, "-"), Descending: down})
		}
		return all
	}
	table := func(name string, keys []schema.Key, foreign []schema.ForeignKey, columns ...string) *schema.Object {
		o := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: name, Relation: &schema.Relation{Keys: keys, ForeignKeys: foreign}}
		for _, c := range columns {
			n, typ, _ := strings.Cut(c, " ")
			o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: n, Type: strings.TrimSuffix(typ, "!"), NotNull: strings.HasSuffix(typ, "!")})
		}
		return o
	}
	index := func(on, name string, unique bool, where string, columns ...string) *schema.Object {
		return &schema.Object{Kind: schema.KindIndex, Schema: "ops", Name: name, Index: &schema.Index{Table: on, Unique: unique, Where: where, Columns: parts(columns...)}}
	}
	primary := schema.Key{Name: "pk", Primary: true, Columns: parts("no")}
	to := func(name string, columns ...string) schema.ForeignKey {
		return schema.ForeignKey{Name: name, Columns: columns, RefTable: "berth"}
	}
	objects := []*schema.Object{
		table("berth", []schema.Key{primary, {Name: "one_label", Columns: parts("label")}}, nil, "no int!", "label text", "made date"),
		table("mooring", []schema.Key{primary}, []schema.ForeignKey{to("at", "berth"), to("by", "pilot"), to("both", "b", "a")}, "no int!", "berth int", "pilot int", "a int", "b int", "made date"),
		table("log", nil, nil, "no bigint", "line text", "made timestamp"),
		index("mooring", "by_berth", false, "", "berth", "no"), index("mooring", "only_berth", false, "", "berth"), index("mooring", "down", false, "", "berth-"),
		index("mooring", "some", false, "pilot > 1", "pilot"), index("mooring", "pair", true, "", "a", "b"), index("mooring", "same_pair", true, "", "a", "b"), index("berth", "no_again", false, "", "no"),
	}
	c := testcatalogue.New(t)
	contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0), Objects: objects,
		Measures: []schema.Measure{{ID: objects[0].ID(), Rows: 5, Bytes: 100}, {ID: objects[2].ID(), Rows: 9, Bytes: 900}}})
	for _, k := range []struct {
		name string
		find func(context.Context, *catalogue.Catalogue, *catalogue.Contents) ([]Finding, error)
		want []string
	}{
		{"keyless", FindKeyless, []string{"log"}},
		{"unindexed", FindUnindexed, []string{"mooring.by [pilot]"}}, // a partial index does not serve, and the order of columns does not matter
		{"redundant", FindRedundant, []string{"no_again [no] pk", "only_berth [berth] by_berth", "same_pair [a b] pair"}},
		{"nullable", FindNullable, []string{"berth.one_label [label]", "mooring.pair [a b]", "mooring.same_pair [a b]"}},
		{"types", FindTypes, []string{"log.made timestamp date", "log.no bigint int"}},
	} {
		found, err := k.find(context.Background(), c, contents)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, f := range found {
			text := f.Entry.ID.Name
			if f.Part != "" {
				text += "." + f.Part
			}
			if len(f.Columns) > 0 {
				text += fmt.Sprint(" ", f.Columns)
			}
			got = append(got, strings.TrimSpace(text+strings.TrimRight(" "+f.By+f.Type+" "+f.Usual, " ")))
		}
		slices.Sort(got)
		if !slices.Equal(got, k.want) {
			t.Errorf("%s: %q, want %q", k.name, got, k.want)
		}
	}
	large, err := FindLargest(context.Background(), c, contents)
	if err != nil || len(large) != 2 || large[0].Entry.ID.Name != "log" || large[0].Bytes != 900 {
		t.Errorf("largest: %+v, %v", large, err)
	}
}
