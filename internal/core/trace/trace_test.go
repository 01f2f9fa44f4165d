package trace

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// graph stores tables with needs, written "from.part>to.part", and returns what resolves addresses, entries as a whole or as they are asked for.
func graph(t *testing.T, sparse bool, needs ...string) (*catalogue.Catalogue, *address.Resolver) {
	t.Helper()
	r := &schema.Reading{Engine: "sqlite", Database: "berths", Taken: time.Unix(1e9, 0)}
	made := map[string]*schema.Object{}
	end := func(s string) schema.End {
		name, part, _ := strings.Cut(s, ".")
		if made[name] == nil {
			made[name] = &schema.Object{Kind: schema.KindTable, Name: name, Relation: &schema.Relation{Columns: []schema.Column{{Name: "x"}, {Name: "y"}}}}
			r.Objects = append(r.Objects, made[name])
		}
		return schema.ColumnEnd(made[name].ID(), part)
	}
	for _, n := range needs {
		from, to, _ := strings.Cut(n, ">")
		evidence := schema.Recorded
		if rest, ok := strings.CutPrefix(from, "~"); ok {
			from, evidence = rest, schema.Read
		}
		r.Dependencies = append(r.Dependencies, schema.Dependency{From: end(from), To: end(to), Evidence: evidence})
	}
	c := testcatalogue.New(t)
	testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, r)
	resolver := testcatalogue.Resolver(t, c)
	resolver.Sparse = sparse
	return c, resolver
}

// A trace is the same whether entries and dependencies are there as a whole, or as far as they are reached.
func TestRun(t *testing.T) {
	for _, sparse := range []bool{false, true} {
		testRun(t, sparse)
	}
}

func testRun(t *testing.T, sparse bool) {
	chain := []string{"b>a", "c>b", "d>c", "e>a", "e>b"}
	columns := []string{"b.x>a.x", "c>a.y", "d>a", "~e>a", "f>b"}
	for _, c := range []struct {
		name   string
		needs  []string
		root   string
		dir    Direction
		depth  int
		want   string // object:distance
		cyclic bool
	}{
		{"dependants", chain, "a", Dependants, 0, "b:1 c:2 d:3 e:1", false},
		{"needs", chain, "d", Needs, 0, "a:3 b:2 c:1", false},
		{"one step", chain, "a", Dependants, 1, "b:1 e:1", false},
		{"two steps", chain, "a", Dependants, 2, "b:1 c:2 e:1", false},
		{"nothing", chain, "d", Dependants, 0, "", false},
		{"a cycle", []string{"a>b", "b>c", "c>a", "d>c"}, "a", Dependants, 0, "b:2 c:1 d:2", true},
		{"itself", []string{"a>a", "b>a"}, "a", Dependants, 0, "b:1", true},
		// The server records that c reads y and b x; d and e may read any column.
		{"a column", columns, "a.x", Dependants, 0, "b:1 d:1 e:1 f:2", false},
		{"another column", columns, "a.y", Dependants, 0, "c:1 d:1 e:1", false},
	} {
		store, r := graph(t, sparse, c.needs...)
		parsed, err := address.Parse(c.root)
		if err != nil {
			t.Fatal(err)
		}
		m, err := r.Object(context.Background(), parsed)
		if err != nil {
			t.Fatal(err)
		}
		tr, err := Run(context.Background(), store, m, c.dir, c.depth)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, n := range tr.Nodes[1:] {
			got = append(got, fmt.Sprintf("%s:%d", tr.ID(&n).Name, n.Distance))
		}
		slices.Sort(got)
		if strings.Join(got, " ") != c.want || tr.Cyclic != c.cyclic {
			t.Errorf("%s: %v, cyclic %v; want %s", c.name, got, tr.Cyclic, c.want)
		}
		for _, e := range tr.Edges { // each edge joins the nodes that it says
			if d := tr.Dependency(&e); tr.ID(&tr.Nodes[e.From]) != d.From.ID || tr.ID(&tr.Nodes[e.To]) != d.To.ID {
				t.Errorf("%s: the edge from %v to %v stands between other nodes", c.name, d.From, d.To)
			}
		}
		for i, n := range tr.Nodes[1:] { // and each node is reached over one that is nearer
			if via := tr.Edges[n.Via]; tr.Nodes[n.By].Distance != n.Distance-1 || via.From != n.By && via.To != n.By {
				t.Errorf("%s: node %d is reached over one at distance %d", c.name, i+1, tr.Nodes[n.By].Distance)
			}
		}
	}
}

func TestClosure(t *testing.T) {
	store, r := graph(t, false, "b>a", "c>b", "d>c", "x>y", "y>x", "x>a")
	parsed, err := address.Parse("quay/berths")
	if err != nil {
		t.Fatal(err)
	}
	m, err := r.One(context.Background(), parsed)
	if err != nil {
		t.Fatal(err)
	}
	g, err := store.Needs(context.Background(), m.Contents)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		set  string
		dir  Direction
		want string
	}{{"d", Needs, "a b c"}, {"b d", Needs, "a c"}, {"a", Dependants, "b c d x y"}, {"x", Needs, "a y"}, {"a", Needs, ""}} {
		var set []*catalogue.Entry
		for _, name := range strings.Fields(c.set) {
			set = append(set, m.Contents.Find(schema.ID{Kind: schema.KindTable, Name: name}))
		}
		var got []string
		for _, e := range Closure(g, m.Contents, set, c.dir) {
			got = append(got, e.ID.Name)
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s, direction %v: %v, want %s", c.set, c.dir, got, c.want)
		}
	}
}

func TestPaths(t *testing.T) {
	for _, sparse := range []bool{false, true} {
		testPaths(t, sparse)
	}
}

func testPaths(t *testing.T, sparse bool) {
	diamonds := []string{"s>a", "s>b", "a>m", "b>m", "m>c", "m>d", "c>e", "d>e"}
	for _, c := range []struct {
		name     string
		needs    []string
		from, to string
		most     int
		want     string
	}{
		{"two diamonds", diamonds, "s", "e", 9, "a m c e|a m d e|b m c e|b m d e"},
		{"the shortest first", []string{"s>a", "a>e", "s>e"}, "s", "e", 9, "e|a e"},
		{"no more than asked for", diamonds, "s", "e", 2, "a m c e|a m d e +"},
		{"a cycle on the way", []string{"s>a", "a>b", "b>a", "b>e"}, "s", "e", 9, "a b e"},
		{"around a cycle both ways", []string{"s>a", "s>b", "a>b", "b>a", "a>e", "b>e"}, "s", "e", 9, "a e|b e|a b e|b a e"},
		{"two dependencies are one step", []string{"s.x>e.x", "s.y>e.y"}, "s", "e", 9, "e"},
		{"none", []string{"e>s"}, "s", "e", 9, ""},
		{"itself", []string{"s>e", "e>s"}, "s", "s", 9, ""},
	} {
		store, r := graph(t, sparse, c.needs...)
		parsed, err := address.Parse(c.from)
		if err != nil {
			t.Fatal(err)
		}
		m, err := r.Object(context.Background(), parsed)
		if err != nil {
			t.Fatal(err)
		}
		tr, err := Run(context.Background(), store, m, Needs, 0)
		if err != nil {
			t.Fatal(err)
		}
		paths, more := tr.Paths(schema.ID{Kind: schema.KindTable, Name: c.to}, c.most)
		var all []string
		for _, p := range paths {
			var names []string
			for _, i := range p {
				names = append(names, tr.Dependency(&tr.Edges[i]).To.ID.Name)
			}
			all = append(all, strings.Join(names, " "))
		}
		got := strings.Join(all, "|")
		if more {
			got += " +"
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}
