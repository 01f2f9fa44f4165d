package view_test

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/view"
	"echo-atlas/internal/testcatalogue"
)

// harbour is a database of two tables, an index, a view and an enum type.
func harbour(t *testing.T) (*catalogue.Catalogue, []address.Match) {
	column := func(name, typ string, notNull bool) schema.Column {
		return schema.Column{Name: name, Type: typ, NotNull: notNull}
	}
	berth := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "berth", Grants: []schema.Grant{{Grantee: "clerk", Granted: []string{"SELECT"}}, {Granted: []string{"SELECT"}, Column: "no"}},
		Relation: &schema.Relation{Columns: []schema.Column{column("no", "integer", true), column("depth_m", "numeric(4,1)", false)}, Keys: []schema.Key{{Name: "berth_pkey", Primary: true, Columns: []schema.KeyPart{{Column: "no"}}}}}}
	log := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "Log", Relation: &schema.Relation{Columns: []schema.Column{column("line", "text", false)}}}
	index := &schema.Object{Kind: schema.KindIndex, Schema: "ops", Name: "by_depth", Index: &schema.Index{Table: "berth", Columns: []schema.KeyPart{{Column: "depth_m", Descending: true}}, Where: "no > 3"}}
	deep := &schema.Object{Kind: schema.KindView, Schema: "ops", Name: "deep", Relation: &schema.Relation{Query: "SELECT no FROM ops.berth", Columns: []schema.Column{column("no", "integer", false)}}}
	state := &schema.Object{Kind: schema.KindEnum, Schema: "tides", Name: "state", Enum: &schema.Enum{Values: []string{"ebb", "flood"}}}
	c := testcatalogue.New(t)
	contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "quay", Environment: "live"}, &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0),
		Objects:  []*schema.Object{{Kind: schema.KindSchema, Name: "ops"}, berth, log, index, deep, state},
		Measures: []schema.Measure{{ID: berth.ID(), Rows: 7, Bytes: 8192}, {ID: log.ID(), Rows: 90_000, Bytes: 1 << 20}}})
	return c, []address.Match{{Contents: contents}}
}

func TestRows(t *testing.T) {
	c, matches := harbour(t)
	for _, x := range []struct {
		name    string
		rows    view.Rows
		where   []string
		sort    string
		limit   int
		columns string
		want    string
		total   int
	}{
		{"objects in their order", view.Rows{}, nil, "", 9, "kind name", "schema ops; table ops.Log; table ops.berth; index ops.by_depth; view ops.deep; enum type tides.state", 6},
		{"of a kind", view.Rows{Kinds: []schema.Kind{schema.KindTable}}, nil, "", 9, "name columns key indexes rows", "ops.Log 1 none 0 90000; ops.berth 2 primary 1 7", 2},
		{"the largest first", view.Rows{}, nil, "size", 2, "name size", "ops.Log 1048576; ops.berth 8192", 6},
		{"by name, whatever the case", view.Rows{Kinds: []schema.Kind{schema.KindTable}}, nil, "name", 9, "name", "ops.berth; ops.Log", 2},
		{"a number", view.Rows{}, []string{"rows>=7", "rows<90,000"}, "", 9, "name", "ops.berth", 1},
		{"what has no number meets none", view.Rows{}, []string{"rows!=7"}, "", 9, "name", "ops.Log", 1},
		{"a pattern", view.Rows{}, []string{"key!=none", "kind=tab*"}, "", 9, "name", "ops.berth", 1},
		{"an index", view.Rows{Kinds: []schema.Kind{schema.KindIndex}}, []string{"method=tree"}, "", 9, "columns predicate method", "depth_m descending no > 3 tree", 1},
		{"columns", view.Rows{Subject: view.Parts, Kinds: []schema.Kind{schema.KindColumn}}, nil, "", 9, "object name type key nullable", "ops.Log line text yes; ops.berth no integer primary no; ops.berth depth_m numeric(4,1) yes; ops.deep no integer yes", 4},
		{"columns that cannot be null", view.Rows{Subject: view.Parts, Kinds: []schema.Kind{schema.KindColumn}}, []string{"nullable=no"}, "", 9, "name", "no", 1},
		{"more than are kept", view.Rows{Subject: view.Parts, Kinds: []schema.Kind{schema.KindColumn}, Most: 1}, nil, "", 1, "name", "line", 4},
		{"rights", view.Rows{Subject: view.Grants}, nil, "", 9, "object grantee rights part", "ops.berth clerk SELECT; ops.berth everybody SELECT no", 2},
		{"rights of one", view.Rows{Subject: view.Grants, To: &names.Name{Text: "everybody"}}, nil, "", 9, "grantee", "everybody", 1},
	} {
		l := x.rows
		l.Catalogue, l.IndexMethod = c, func(string) string { return "tree" }
		if l.Most == 0 {
			l.Most = math.MaxInt
		}
		for _, text := range x.where {
			w, err := view.ParseCondition(text)
			if err != nil || !w.Sound() {
				t.Fatalf("%s: %s: %v", x.name, text, err)
			}
			l.Where = append(l.Where, w)
		}
		ctx := context.Background()
		if err := l.Gather(ctx, selection.Gather(matches)); err != nil {
			t.Fatal(err)
		}
		l.Sort(x.sort, x.limit)
		if err := l.Complete(ctx); err != nil {
			t.Fatal(err)
		}
		var got []string
		for i := range l.List {
			var cells []string
			for _, column := range strings.Fields(x.columns) {
				if text := l.Text(&l.List[i], column, false); text != "" {
					cells = append(cells, text)
				}
			}
			got = append(got, strings.Join(cells, " "))
		}
		if text := strings.Join(got, "; "); text != x.want || l.Total != x.total {
			t.Errorf("%s: %d of %d: %q\nwant %q", x.name, len(l.List), l.Total, text, x.want)
		}
	}
	for _, text := range []string{"", "=x", "rows", "name<3", "rows>many"} {
		if w, err := view.ParseCondition(text); err == nil && w.Sound() {
			t.Errorf("%q is taken for a condition", text)
		}
	}
}

func TestTree(t *testing.T) {
	c, matches := harbour(t)
	entry := matches[0].Contents.Find(schema.ID{Kind: schema.KindTable, Schema: "ops", Name: "berth"})
	one := []address.Match{{Contents: matches[0].Contents, Entry: entry}}
	column := []address.Match{{Contents: matches[0].Contents, Entry: entry, Part: "no", PartKind: schema.KindColumn}}
	for _, x := range []struct {
		name    string
		tree    view.Tree
		matches []address.Match
		want    string
	}{
		{"servers", view.Tree{Depth: view.ServerLevel}, matches, "quay 5"},
		{"kinds", view.Tree{Depth: view.KindLevel}, matches, "quay 5(berths 5(ops 4(tables 2 indexes 1 views 1) tides 1(enum types 1)))"},
		{"objects, not yet branches", view.Tree{Depth: view.ObjectLevel, Kinds: []schema.Kind{schema.KindTable}}, matches, "quay 2(berths 2(ops 2(tables 2[Log berth])))"},
		{"objects as branches", view.Tree{Depth: view.ObjectLevel, Kinds: []schema.Kind{schema.KindTable}, Whole: true}, matches, "quay 2(berths 2(ops 2(tables 2(Log berth))))"},
		{"parts", view.Tree{Depth: view.PartLevel}, one, "quay 1(berths 1(ops 1(tables 1(berth(no depth_m berth_pkey)))))"},
		{"a part", view.Tree{Depth: view.PartLevel}, column, "quay 1(berths 1(ops 1(tables 1(berth(no)))))"},
	} {
		if err := x.tree.Build(context.Background(), c, x.matches); err != nil {
			t.Fatal(err)
		}
		if got := outline(x.tree.Roots); got != x.want {
			t.Errorf("%s: %s\nwant %s", x.name, got, x.want)
		}
	}
}

func outline(list []*view.Branch) string {
	var all []string
	for _, b := range list {
		text := b.Name
		if b.Count > 0 {
			text += fmt.Sprintf(" %d", b.Count)
		}
		if len(b.Objects) > 0 {
			var objects []string
			for _, e := range b.Objects {
				objects = append(objects, view.ObjectBranch(b.Snapshot, e).Name)
			}
			text += fmt.Sprint(objects)
		}
		if len(b.Children) > 0 {
			text += "(" + outline(b.Children) + ")"
		}
		all = append(all, text)
	}
	return strings.Join(all, " ")
}
