package diff

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

func object(kind schema.Kind, name string, columns ...string) *schema.Object {
	o := &schema.Object{Kind: kind, Schema: "ops", Name: name, Owner: "harbourmaster", Comment: "of " + name, Relation: &schema.Relation{}}
	for _, c := range columns {
		n, typ, _ := strings.Cut(c, " ")
		o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: n, Type: typ})
	}
	return o
}

// compare stores two readings and returns what differs, one property a line.
func compare(t *testing.T, before, after []*schema.Object, o Options) (Summary, []string) {
	t.Helper()
	ctx := context.Background()
	c := testcatalogue.New(t)
	save := func(server string, objects []*schema.Object) *catalogue.Snapshot {
		r := &schema.Reading{Engine: "postgres", Database: "berths", Taken: time.Unix(1e9, 0), Objects: slices.Clone(objects)}
		return testcatalogue.Save(t, c, catalogue.Origin{Server: server}, r).Snapshot
	}
	res, err := Compare(ctx, c, save("old", before), save("new", after), o)
	if err != nil {
		t.Fatal(err)
	}
	text := func(s *string) string {
		if s == nil {
			return "nothing"
		}
		return *s
	}
	var lines []string
	for _, x := range res.Objects {
		if len(x.Properties) == 0 || x.Change == Renamed {
			lines = append(lines, fmt.Sprintf("%s %s %s", x.Change, x.ID.Name, x.Was.Name))
			continue
		}
		for _, p := range x.Properties {
			lines = append(lines, fmt.Sprintf("%s %s: %s, %s", x.ID.Name, p.Path, text(p.Old), text(p.New)))
		}
	}
	return res.Summary, lines
}

func TestCompare(t *testing.T) {
	base := func() []*schema.Object {
		return []*schema.Object{object(schema.KindTable, "berth", "no int", "depth numeric"), object(schema.KindTable, "pilot", "name text"), object(schema.KindView, "deep", "no int")}
	}
	for _, c := range []struct {
		name    string
		change  func([]*schema.Object) []*schema.Object
		options Options
		summary Summary
		want    []string
	}{
		{"nothing", func(o []*schema.Object) []*schema.Object { return o }, Options{}, Summary{Same: 3}, nil},
		{"a type", func(o []*schema.Object) []*schema.Object { o[0].Relation.Columns[1].Type = "text"; return o }, Options{}, Summary{Same: 2, Changed: 1},
			[]string{"berth columns/depth/type: numeric, text"}},
		{"columns in another order", func(o []*schema.Object) []*schema.Object { slices.Reverse(o[0].Relation.Columns); return o }, Options{Order: true}, Summary{Same: 2, Changed: 1},
			[]string{"berth columns/order: no, depth, depth, no"}},
		{"added and removed", func(o []*schema.Object) []*schema.Object {
			return append(o[:2], object(schema.KindView, "shallow", "no int", "more int"))
		}, Options{}, Summary{Same: 2, Added: 1, Removed: 1}, []string{"removed deep ", "added shallow "}},
		{"renamed", func(o []*schema.Object) []*schema.Object {
			o[1].Name = "sea_pilot"
			return o
		}, Options{}, Summary{Same: 2, Renamed: 1}, []string{"renamed sea_pilot pilot"}},
		{"two that could be one another are no renaming", func(o []*schema.Object) []*schema.Object {
			a, b := object(schema.KindTable, "a", "name text"), object(schema.KindTable, "b", "name text")
			a.Comment, b.Comment = o[1].Comment, o[1].Comment
			return append([]*schema.Object{o[0], o[2]}, a, b)
		}, Options{}, Summary{Same: 2, Added: 2, Removed: 1}, []string{"added a ", "added b ", "removed pilot "}},
		{"what is left out", func(o []*schema.Object) []*schema.Object {
			for _, x := range o {
				x.Owner, x.Comment = "else", "other"
			}
			o[0].Relation.Columns[0].Comment = "new"
			return o
		}, Options{Without: []schema.Aspect{schema.Owners, schema.Comments}}, Summary{Same: 3}, nil},
		{"a column called owner is not what --without owners hides", func(o []*schema.Object) []*schema.Object {
			o[0].Relation.Columns = append(o[0].Relation.Columns, schema.Column{Name: "owner", Type: "text"})
			return o
		}, Options{Without: []schema.Aspect{schema.Owners}}, Summary{Same: 2, Changed: 1}, []string{"berth columns/owner: nothing, text"}},
		{"a column of another name", func(o []*schema.Object) []*schema.Object { o[0].Relation.Columns[1].Name = "depth_m"; return o }, Options{}, Summary{Same: 2, Changed: 1},
			[]string{"berth columns/depth_m/name: depth, depth_m"}},
		{"one part", func(o []*schema.Object) []*schema.Object {
			o[0].Relation.Columns[0].Type, o[0].Relation.Columns[1].Type = "bigint", "real"
			return o
		}, Options{Wanted: func(id schema.ID) bool { return id.Name == "berth" }, Parts: map[schema.ID][]Part{{Kind: schema.KindTable, Schema: "ops", Name: "berth"}: {{schema.KindColumn, "no"}}}},
			Summary{Changed: 1}, []string{"berth columns/no/type: int, bigint"}},
		{"one kind", func(o []*schema.Object) []*schema.Object { o[0].Owner, o[2].Owner = "x", "x"; return o }, Options{Kinds: []schema.Kind{schema.KindView}}, Summary{Changed: 1},
			[]string{"deep owner: harbourmaster, x"}},
		{"one object", func(o []*schema.Object) []*schema.Object { o[0].Owner, o[2].Owner = "x", "x"; return o }, Options{Wanted: func(id schema.ID) bool { return id.Name == "berth" }}, Summary{Changed: 1},
			[]string{"berth owner: harbourmaster, x"}},
		{"rights", func(o []*schema.Object) []*schema.Object {
			o[0].Grants = []schema.Grant{{Grantee: "crew", Granted: []string{"SELECT"}}, {Granted: []string{"SELECT"}, Column: "no"}}
			return o
		}, Options{}, Summary{Same: 2, Changed: 1}, []string{"berth grants/crew: nothing, SELECT", "berth grants/everybody on column no: nothing, SELECT"}},
		{"without rights", func(o []*schema.Object) []*schema.Object {
			o[0].Grants = []schema.Grant{{Grantee: "crew", Granted: []string{"SELECT"}}}
			return o
		}, Options{Without: []schema.Aspect{schema.Grants}}, Summary{Same: 3}, nil},
	} {
		summary, lines := compare(t, base(), c.change(base()), c.options)
		if summary != c.summary || !slices.Equal(lines, c.want) {
			t.Errorf("%s: %+v %q, want %+v %q", c.name, summary, lines, c.summary, c.want)
		}
	}
}
