package ddl

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

func resources(names string) []engine.Resource {
	var list []engine.Resource
	for _, n := range strings.Fields(names) {
		list = append(list, engine.Resource{What: "relation", Name: n})
	}
	return list
}

// table is a statement that provides its name; cuts are foreign keys that can stand apart.
func table(name, requires, wishes, cuts string) *engine.Statement {
	id := schema.ID{Kind: schema.KindTable, Name: name}
	s := &engine.Statement{Subject: id, Head: name, Provides: resources(name), Requires: resources(requires), Wishes: resources(wishes)}
	for _, c := range resources(cuts) {
		apart := schema.ID{Kind: schema.KindForeignKey, Name: name, Signature: c.Name}
		s.Splits = append(s.Splits, engine.Split{Item: ">" + c.Name, Requires: []engine.Resource{c},
			Apart: engine.Statement{Subject: apart, Head: name + "+" + c.Name, Requires: append(resources(name), c)}})
	}
	return s
}

func brief(list []*engine.Statement) string {
	var b []string
	for i := range list {
		b = append(b, strings.Join(strings.Fields(strings.NewReplacer("(", "", ")", "", ",", "").Replace(list[i].Text())), ""))
	}
	return strings.Join(b, " ")
}

func TestOrder(t *testing.T) {
	view := table("a_view", "z", "", "")
	view.Subject.Kind = schema.KindView
	for _, c := range []struct {
		name string
		list []*engine.Statement
		want string
	}{
		{"by name when free", []*engine.Statement{table("c", "", "", ""), table("a", "", "", ""), table("b", "", "", "")}, "a b c"},
		{"by need", []*engine.Statement{table("a", "b", "", ""), table("b", "c", "", ""), table("c", "", "", "")}, "c b a"},
		{"kinds", []*engine.Statement{view, table("z", "", "", "")}, "z a_view"},
		{"missing needs are assumed", []*engine.Statement{table("a", "elsewhere", "", "")}, "a"},
		{"wishes order", []*engine.Statement{table("a", "", "b", ""), table("b", "", "", "")}, "b a"},
		{"wishes give way", []*engine.Statement{table("a", "", "b", ""), table("b", "a", "", "")}, "a b"},
		{"wishes in a cycle", []*engine.Statement{table("a", "", "b", ""), table("b", "", "a", "")}, "a b"},
		{"inline where it can", []*engine.Statement{table("a", "", "", "b"), table("b", "", "", "")}, "b a>b"},
		{"apart in a cycle", []*engine.Statement{table("a", "", "", "b"), table("b", "", "", "a")}, "a b a+b b+a"},
		{"only what is in the cycle", []*engine.Statement{table("a", "", "", "b c"), table("b", "", "", "a"), table("c", "", "", "")}, "b c a>c a+b b+a"},
		{"itself", []*engine.Statement{table("a", "", "", "a")}, "a>a"},
		{"two cycles", []*engine.Statement{table("a", "", "", "b"), table("b", "", "", "a"), table("x", "", "", "y a"), table("y", "", "", "x")}, "a b x>a y a+b b+a x+y y+x"},
	} {
		for range 10 {
			rand.Shuffle(len(c.list), func(i, j int) { c.list[i], c.list[j] = c.list[j], c.list[i] })
			got, err := Order(c.list)
			if err != nil || brief(got) != c.want {
				t.Errorf("%s: %q, %v; want %q", c.name, brief(got), err, c.want)
				break
			}
		}
	}
	var cycle *CycleError
	if _, err := Order([]*engine.Statement{table("a", "b", "", ""), table("b", "a", "", ""), table("c", "", "", "")}); !errors.As(err, &cycle) || len(cycle.Subjects) != 2 {
		t.Errorf("a cycle that cannot be cut: %v", err)
	}
}

// Whatever the graph, nothing comes before what it requires.
func TestOrderHoldsRequirements(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for round := range 60 {
		n := 2 + random.IntN(40)
		var list []*engine.Statement
		for i := range n {
			var hard, cuts []string
			for j := range n {
				switch {
				case j < i && random.IntN(12) == 0:
					hard = append(hard, fmt.Sprint("t", j))
				case random.IntN(8) == 0:
					cuts = append(cuts, fmt.Sprint("t", j))
				}
			}
			list = append(list, table(fmt.Sprint("t", i), strings.Join(hard, " "), "", strings.Join(cuts, " ")))
		}
		got, err := Order(list)
		if err != nil {
			t.Fatalf("round %d: %v", round, err)
		}
		there := map[engine.Resource]bool{}
		keys := 0
		for _, s := range got {
			needs := slices.Clone(s.Requires)
			for _, c := range s.Splits {
				keys++
				needs = append(needs, c.Requires...)
			}
			if len(s.Provides) == 0 {
				keys++
			}
			for _, p := range s.Provides {
				there[p] = true
			}
			for _, r := range needs {
				if !there[r] {
					t.Fatalf("round %d: %s comes before %s", round, s.Head, r.Name)
				}
			}
		}
		want := 0
		for _, s := range list {
			want += len(s.Splits)
		}
		if keys != want {
			t.Fatalf("round %d: %d foreign keys of %d are left", round, keys, want)
		}
	}
}

// Where nothing else cuts a cycle a stub is made first; what follows completes it, and a drop reduces it.
func TestStub(t *testing.T) {
	view := table("v", "f", "", "")
	view.Head, view.Undo = "make", "drop"
	view.Splits = []engine.Split{{First: true, Rest: "complete", RestUndo: "reduce", Apart: engine.Statement{Subject: view.Subject, Step: -1, Head: "stub", Undo: "drop", Provides: resources("v")}}}
	list := []*engine.Statement{view, table("f", "v", "", ""), table("w", "v", "", "")}
	got, err := Order(list)
	if err != nil {
		t.Fatal(err)
	}
	if text := brief(got); text != "stub f complete w" && text != "stub f w complete" {
		t.Errorf("%q", text)
	}
	var undone []string
	back, err := Order(engine.Inverse(list))
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range drops(back) {
		undone = append(undone, s.Head)
	}
	if text := strings.Join(undone, " "); text != "reduce drop" {
		t.Errorf("undone by %q", text)
	}
	alone, err := Order([]*engine.Statement{view, table("f", "", "", "")})
	if err != nil || brief(alone) != "f make" {
		t.Errorf("without a cycle: %q %v", brief(alone), err)
	}
}

// What drops comes in the opposite order, before what takes the names anew; foreign keys in a cycle go first.
func TestDropOrder(t *testing.T) {
	key := func(s *engine.Statement) *engine.Statement {
		s.Undo = "-" + s.Head
		for i := range s.Splits {
			s.Splits[i].Apart.Undo = "-" + s.Splits[i].Apart.Head
		}
		return s
	}
	renamed := table("b2", "", "", "")
	renamed.Action, renamed.Frees = engine.Alter, resources("b")
	alter := table("y", "a", "", "")
	alter.Action = engine.Alter
	for _, c := range []struct {
		name string
		old  []*engine.Statement
		more []*engine.Statement
		want string
	}{
		{"by need", []*engine.Statement{table("a", "b", "", ""), table("b", "c", "", ""), table("c", "", "", "")}, nil, "-a -b -c"},
		{"from behind", []*engine.Statement{table("a", "", "", ""), table("b", "", "", "")}, nil, "-b -a"},
		{"through what has nothing to take back", []*engine.Statement{table("a", "x", "", ""), {Subject: schema.ID{Kind: schema.KindTable, Name: "x"}, Provides: resources("x"), Requires: resources("b")}, table("b", "", "", "")}, nil, "-a -b"},
		{"a cycle", []*engine.Statement{table("a", "", "", "b"), table("b", "", "", "a")}, nil, "-b+a -a+b -b -a"},
		{"made anew", []*engine.Statement{table("a", "b", "", ""), table("b", "", "", "")}, []*engine.Statement{table("a", "b", "", ""), table("b", "", "", "")}, "-a -b b a"},
		{"a name that another takes", nil, []*engine.Statement{table("b", "", "", ""), renamed}, "b2 b"},
		{"what needs it comes before", []*engine.Statement{table("a", "", "", "")}, []*engine.Statement{alter}, "y -a"},
	} {
		var list []*engine.Statement
		for _, s := range c.old {
			if s.Head != "" {
				s = key(s)
			}
			list = append(list, s)
		}
		list = append(engine.Inverse(list), c.more...)
		for range 10 {
			rand.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
			got, err := Order(list)
			text := strings.Join(strings.Fields(brief(got)), " ")
			if err != nil || text != c.want {
				t.Errorf("%s: %q, %v; want %q", c.name, text, err, c.want)
				break
			}
		}
	}
}

// Late statements come after all others, whatever their names, and keep their own order.
func TestLate(t *testing.T) {
	a, b := table("a", "", "", ""), table("b", "a", "", "")
	a.Late, b.Late = true, true
	got, err := Order([]*engine.Statement{b, a, table("z", "", "", ""), table("c", "a", "", "")})
	if err != nil || brief(got) != "c z a b" {
		t.Errorf("%q %v", brief(got), err)
	}
}

// A default that calls what needs the table stands apart; the column stays.
func TestPlacedCut(t *testing.T) {
	s := table("t", "", "", "")
	s.Items = []string{"x int", "y int"}
	s.Splits = []engine.Split{{Item: "y int DEFAULT f", Place: 2, Part: "y", Requires: resources("f"),
		Apart: engine.Statement{Subject: s.Subject, Step: 1, Head: "default", Requires: append(resources("t"), resources("f")...)}}}
	apart, err := Order([]*engine.Statement{s, table("f", "t", "", "")})
	if err != nil || brief(apart) != "txintyint f default" {
		t.Errorf("in a cycle: %q %v", brief(apart), err)
	}
	whole, err := Order([]*engine.Statement{s, table("f", "", "", "")})
	if err != nil || brief(whole) != "f txintyintDEFAULTf" {
		t.Errorf("without one: %q %v", brief(whole), err)
	}
}

func TestParseRename(t *testing.T) {
	for text, want := range map[string]string{"ops=desk": "ops>desk", `"a=b"="c d"`: "a=b>c d", "schema:ops=desk": "ops>desk", "database:x=y": "x>y", "owner:atlas=crew": "owner atlas>crew",
		"ops": "", "ops=": "", "=x": "", `"ops=desk`: "", "a=b=c": ""} {
		var r Renames
		err := r.ParseRename(text)
		got := ""
		for old, to := range r.Containers {
			got = old + ">" + to
		}
		for old, to := range r.Owners {
			got = "owner " + old + ">" + to
		}
		if (err != nil) != (want == "") || err == nil && got != want {
			t.Errorf("%s: %q, %v; want %q", text, got, err, want)
		}
	}
}
