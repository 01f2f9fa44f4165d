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
		{"columns in another order", func(o []*schema.Object) []*schema.Object { slices.Reverse(o[0].Relation.Columns); return o }, Options{}, Summary{Same: 2, Changed: 1},
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
		}, Options{Without: []string{"owners", "comments"}}, Summary{Same: 3}, nil},
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
		}, Options{Without: []string{"grants"}}, Summary{Same: 3}, nil},
	} {
		summary, lines := compare(t, base(), c.change(base()), c.options)
		if summary != c.summary || !slices.Equal(lines, c.want) {
			t.Errorf("%s: %+v %q, want %+v %q", c.name, summary, lines, c.summary, c.want)
		}
	}
}

func TestLines(t *testing.T) {
	for _, c := range []struct{ before, after, want string }{
		{"a b c", "a b c", "a b c"},
		{"a b c", "a x c", "a -b +x c"},
		{"", "a", "+a"},
		{"a b c d", "b c d e", "-a b c d +e"},
		{"a a b", "a b b", "a -a +b b"},
	} {
		var got []string
		for _, l := range Lines(strings.Fields(c.before), strings.Fields(c.after)) {
			got = append(got, map[Change]string{"": "", Added: "+", Removed: "-"}[l.Change]+l.Text)
		}
		same := strings.Join(got, " ") == c.want
		var before, after []string
		for _, l := range got { // whatever was chosen, both texts have to come back
			if !strings.HasPrefix(l, "+") {
				before = append(before, strings.TrimPrefix(l, "-"))
			}
			if !strings.HasPrefix(l, "-") {
				after = append(after, strings.TrimPrefix(l, "+"))
			}
		}
		if !slices.Equal(before, strings.Fields(c.before)) || !slices.Equal(after, strings.Fields(c.after)) || len(got) > len(strings.Fields(c.want)) {
			t.Errorf("%q and %q: %q (as expected: %v)", c.before, c.after, got, same)
		}
	}
}
