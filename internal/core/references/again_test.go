package references

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/schema"
)

// bodies returns a reading of the world of the resolver's own test file and routines of its cases.
func bodies(t testing.TB, routines int) (r *schema.Reading, size int) {
	text, err := os.ReadFile("../sqltext/testdata/references/postgres.sql")
	if err != nil {
		t.Fatal(err)
	}
	cases := strings.Split(string(text), "\n---\n")
	r = &schema.Reading{Engine: "postgres", Database: "berths"}
	for line := range strings.Lines(cases[0]) {
		words := strings.Fields(strings.TrimPrefix(line, "--"))
		if len(words) < 2 {
			continue
		}
		container, name, _ := strings.Cut(strings.TrimSuffix(words[1], ":"), ".")
		o := &schema.Object{Schema: container, Name: name}
		switch words[0] {
		case "table":
			o.Kind, o.Relation = schema.KindTable, &schema.Relation{}
			for _, c := range words[2:] {
				o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: c, Type: "integer"})
			}
		case "routine":
			o.Kind, o.Routine = schema.KindFunction, &schema.Routine{Language: "sql"}
		case "sequence":
			o.Kind = schema.KindSequence
		default:
			continue
		}
		r.Objects = append(r.Objects, o)
	}
	for i := range routines {
		body := cases[1+i%(len(cases)-1)]
		size += len(body)
		r.Objects = append(r.Objects, &schema.Object{Kind: schema.KindFunction, Schema: "ops", Name: fmt.Sprint("f", i), Routine: &schema.Routine{Language: "plpgsql", Definition: body, BodyEnd: len(body)}})
	}
	return r, size
}

// BenchmarkFind resolves bodies: bytes of text a second.
func BenchmarkFind(b *testing.B) {
	r, size := bodies(b, 2000)
	b.SetBytes(int64(size))
	for b.Loop() {
		Find(r, postgres.Engine{})
	}
}

// Whatever changes between two readings: with what the one before tells, the same is found as without.
func TestAgain(t *testing.T) {
	ctx := context.Background()
	c, err := catalogue.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	random := rand.New(rand.NewPCG(7, 11))
	from := catalogue.Origin{Server: "quay"}
	r, _ := bodies(t, 84)
	reused := 0
	for round := range 60 {
		now := &schema.Reading{Engine: r.Engine, Database: r.Database, Objects: slices.Clone(r.Objects)}
		for range random.IntN(3) {
			i := random.IntN(len(now.Objects))
			o := *now.Objects[i]
			switch relation := o.Relation; {
			case random.IntN(4) == 0 && round%2 == 0:
				now.Objects = slices.Delete(now.Objects, i, i+1)
				continue
			case relation != nil && random.IntN(2) == 0: // another column, with a name that is in use elsewhere
				o.Relation = &schema.Relation{Columns: append(slices.Clone(relation.Columns), schema.Column{Name: []string{"no", "depth", "what", "length"}[random.IntN(4)], Type: "integer"})}
			case relation != nil && len(relation.Columns) > 1:
				o.Relation = &schema.Relation{Columns: relation.Columns[1:]}
			case o.Routine != nil && random.IntN(2) == 0: // with a name that is called
				o.Name, o.Signature = []string{"charge", "note", "depth_of", "dock"}[random.IntN(4)], fmt.Sprint("t", round, i)
			default:
				o.Comment = fmt.Sprint("of round ", round)
			}
			now.Objects[i] = &o
		}
		d, err := c.Draft(now)
		if err != nil {
			t.Fatal(err)
		}
		before := d.Earlier(ctx, from)
		if round > 0 && before == nil {
			t.Fatalf("round %d: the reading before tells nothing", round)
		}
		got, want := find(now, postgres.Engine{}, before), Find(now, postgres.Engine{})
		k := knownFrom(now, newFinder(now, postgres.Engine{}), before)
		for i, o := range now.Objects {
			if k.holds(i, o) {
				reused++
			}
			for _, list := range [][]schema.Dependency{got[i], want[i]} {
				slices.SortFunc(list, func(a, b schema.Dependency) int { return strings.Compare(fmt.Sprint(a), fmt.Sprint(b)) })
			}
			if len(got[i])+len(want[i]) > 0 && !reflect.DeepEqual(got[i], want[i]) {
				t.Errorf("round %d, %s: found again\n%v\nanew\n%v", round, o.ID(), got[i], want[i])
			}
		}
		Add(now, postgres.Engine{}, before)
		if _, _, err := d.Save(ctx, from); err != nil {
			t.Fatal(err)
		}
		r = now
	}
	if reused < 60*20 {
		t.Errorf("only %d texts were not understood anew", reused)
	}
	t.Logf("%d of %d texts were not understood anew", reused, 60*84)
}
