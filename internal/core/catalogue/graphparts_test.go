package catalogue

import (
	"context"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strconv"
	"testing"
	"time"

	"echo-atlas/internal/core/schema"
)

// tangled makes a reading of so many tables, most of which depend on others, on themselves and on what is elsewhere.
func tangled(random *rand.Rand, tables int) *schema.Reading {
	r := &schema.Reading{Engine: "postgres", Database: "line", Model: schema.ModelVersion, Resolver: 7, Taken: time.Unix(1e9, 0)}
	for i := range tables {
		r.Objects = append(r.Objects, &schema.Object{Kind: schema.KindTable, Schema: "s" + strconv.Itoa(i%3), Name: "t" + strconv.Itoa(i), Relation: &schema.Relation{}})
	}
	end := func() schema.End {
		e := schema.ObjectEnd(r.Objects[min(random.IntN(tables), random.IntN(tables))].ID())
		if random.IntN(2) == 0 {
			e.Part, e.PartKind = "c"+strconv.Itoa(random.IntN(4)), []schema.Kind{schema.KindColumn, schema.KindCheck}[random.IntN(2)]
		}
		return e
	}
	for range tables * 3 {
		d := schema.Dependency{From: end(), To: end(), Use: []schema.Use{schema.UseReads, schema.UseWrites, schema.UseForeignKey}[random.IntN(3)], Evidence: evidences[random.IntN(3)]}
		switch random.IntN(4) {
		case 0:
			d.Field, d.Start = schema.FieldQuery, random.IntN(100_000)
			d.Stop = d.Start + random.IntN(30)
		case 1:
			d.Constraint = "key " + strconv.Itoa(random.IntN(5))
		case 2: // of an older reading: a line and a column
			d.Field, d.Start, d.Stop = schema.FieldLine, 10+random.IntN(50), 1+random.IntN(9)
		}
		switch random.IntN(20) {
		case 0:
			d.To = schema.End{ID: schema.ID{Name: "gone"}, Outside: schema.Outside{Server: "reef", Database: "tides"}}
		case 1:
			d.To, d.Use = schema.End{}, schema.UseRunsUnseen
		}
		r.Dependencies = append(r.Dependencies, d)
	}
	return r
}

// What is stored of dependencies in parts comes back whole, and the part that is reached from an object is what the whole says.
func TestGraphInParts(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 6))
	for _, tables := range []int{1, 2, runSize - 1, runSize, 3*runSize + 1} {
		t.Run(strconv.Itoa(tables), func(t *testing.T) {
			ctx, c, r := context.Background(), open(t, t.TempDir()), tangled(random, tables)
			s, _, err := c.Save(ctx, Origin{Server: "quay"}, r)
			if err != nil {
				t.Fatal(err)
			}
			contents, err := c.Contents(ctx, s)
			if err != nil {
				t.Fatal(err)
			}
			g, err := c.Needs(ctx, contents)
			if err != nil {
				t.Fatal(err)
			}
			inside, outside := dependenciesOf(g, contents)
			text := func(all ...[]schema.Dependency) (lines []string) {
				for _, d := range slices.Concat(all...) {
					lines = append(lines, fmt.Sprintf("%+v", d))
				}
				slices.Sort(lines)
				return lines
			}
			if got, want := text(inside, outside), text(r.Dependencies); !slices.Equal(got, want) {
				t.Fatalf("%d dependencies came back, of %d", len(got), len(want))
			}
			if !g.ByColumn || g.Resolver != 7 || !slices.IsSortedFunc(g.Ends, compareEnds) {
				t.Errorf("by column %v, resolver %d", g.ByColumn, g.Resolver)
			}
			for range 20 {
				checkAround(t, c, contents, g, []int{random.IntN(tables), random.IntN(tables)}, random.IntN(2) == 0, random.IntN(4))
			}
		})
	}
}

// checkAround compares what is read of a graph around entries with what the whole graph says.
func checkAround(t *testing.T, c *Catalogue, contents *Contents, whole *Graph, start []int, needs bool, depth int) {
	t.Helper()
	got, err := c.Around(context.Background(), contents, start, needs, depth)
	if err != nil {
		t.Fatal(err)
	}
	distance := map[int]int{}
	queue := slices.Compact(slices.Clone(start))
	for _, entry := range queue {
		distance[entry] = 0
	}
	lists := map[int][]schema.Dependency{} // by what is near
	for len(queue) > 0 {
		entry := queue[0]
		queue = queue[1:]
		if depth > 0 && distance[entry] == depth {
			continue
		}
		for i := range whole.Edges {
			e := &whole.Edges[i]
			near, far := whole.Ends[e.To].Entry, whole.Ends[e.From].Entry
			if needs {
				near, far = far, near
			}
			if near != entry {
				continue
			}
			lists[entry] = append(lists[entry], whole.Dependency(contents, e))
			if _, reached := distance[far]; !reached {
				distance[far] = distance[entry] + 1
				queue = append(queue, far)
			}
		}
	}
	found := map[int][]schema.Dependency{}
	for i := range got.Edges {
		e := &got.Edges[i]
		near := got.Ends[e.To].Entry
		if needs {
			near = got.Ends[e.From].Entry
		}
		found[near] = append(found[near], got.Dependency(contents, e))
	}
	if !reflect.DeepEqual(found, lists) {
		t.Errorf("from %v, needs %v, depth %d: reached\n%v\nwant\n%v", start, needs, depth, found, lists)
	}
	outside := map[string]int{}
	for i := range whole.Outside {
		x := &whole.Outside[i]
		if _, reached := distance[whole.Ends[x.From].Entry]; reached || x.Use == schema.UseRunsUnseen {
			outside[fmt.Sprintf("%+v %+v", whole.Dependency(contents, &x.Edge), x.End)]++
		}
	}
	for i := range got.Outside {
		x := &got.Outside[i]
		outside[fmt.Sprintf("%+v %+v", got.Dependency(contents, &x.Edge), x.End)]--
	}
	for line, n := range outside {
		if n != 0 {
			t.Errorf("from %v, depth %d: of what is outside, %d is missing or too much: %s", start, depth, n, line)
		}
	}
}

// Parts of a graph go with the last snapshot that names them, and no other.
func TestPartsAreDropped(t *testing.T) {
	ctx, c := context.Background(), open(t, t.TempDir())
	random := rand.New(rand.NewPCG(7, 8))
	first := tangled(random, 2*runSize)
	a, _ := save(t, c, first)
	nodes := count(t, c, "node")
	second := tangled(random, 2*runSize)
	second.Dependencies = slices.Clone(first.Dependencies)
	last := &second.Dependencies[len(second.Dependencies)-1]
	*last = schema.Dependency{From: schema.ObjectEnd(second.Objects[0].ID()), To: schema.ObjectEnd(second.Objects[1].ID()), Use: schema.UseCalls, Evidence: schema.Read}
	b, _ := save(t, c, second)
	if added := count(t, c, "node") - nodes; added == 0 || added > 8 { // a directory, and the parts of few runs
		t.Errorf("one other dependency added %d nodes to %d", added, nodes)
	}
	if err := c.Drop(ctx, []*Snapshot{a}); err != nil {
		t.Fatal(err)
	}
	contents, err := c.Contents(ctx, b)
	if err != nil {
		t.Fatal(err)
	}
	g, err := c.Needs(ctx, contents)
	if err != nil || len(g.Edges)+len(g.Outside) != len(second.Dependencies) {
		t.Fatalf("of the dependencies of what stays %v: %v", g, err)
	}
	if err := c.Drop(ctx, []*Snapshot{b}); err != nil {
		t.Fatal(err)
	}
	if left := count(t, c, "node"); left != 0 {
		t.Errorf("%d nodes are left of no snapshot", left)
	}
}
