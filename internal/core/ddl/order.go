package ddl

import (
	"cmp"
	"container/heap"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
)

// CycleError says that statements require each other and none of them can stand apart.
type CycleError struct{ Subjects []string }

func (e *CycleError) Error() string {
	return fmt.Sprintf("these objects require each other, and no order of their statements runs: %s", strings.Join(e.Subjects, ", "))
}

// Order sorts statements topologically by what they require and provide. Among those that are ready,
// the kind, then the name decides, so the result depends on the set of statements alone. Cycles are cut
// at wishes first, then at the items that can stand apart, then by making a stub first. Late statements
// follow all others. What no statement provides is taken to be
// there.
func Order(statements []engine.Statement) ([]engine.Statement, error) {
	isLate := func(s engine.Statement) bool { return s.Late }
	if !slices.ContainsFunc(statements, isLate) {
		return order(statements)
	}
	sorted, err := order(slices.DeleteFunc(slices.Clone(statements), isLate))
	if err != nil {
		return sorted, err
	}
	last, err := order(slices.DeleteFunc(slices.Clone(statements), func(s engine.Statement) bool { return !s.Late }))
	return append(sorted, last...), err
}

func order(list []engine.Statement) ([]engine.Statement, error) {
	list = inOrder(list)
	for {
		g := newGraph(list)
		cyclic := g.cyclicComponents()
		if len(cyclic) == 0 {
			return g.sorted()
		}
		next, progress := g.cut(cyclic)
		if !progress {
			e := &CycleError{}
			for _, n := range cyclic[0] {
				e.Subjects = append(e.Subjects, list[n].Subject.Qualified())
			}
			slices.Sort(e.Subjects)
			e.Subjects = slices.Compact(e.Subjects)
			return nil, e
		}
		list = inOrder(next)
	}
}

// inOrder returns statements in the order in which those that are ready stand. They are large: each is moved once.
func inOrder(list []engine.Statement) []engine.Statement {
	places := make([]int32, len(list))
	for i := range places {
		places[i] = int32(i)
	}
	slices.SortStableFunc(places, func(i, j int32) int { return before(&list[i], &list[j]) })
	out := make([]engine.Statement, len(list))
	for i, at := range places {
		out[i] = list[at]
	}
	return out
}

// before is the order of statements that are ready.
func before(a, b *engine.Statement) int {
	x, y := &a.Subject, &b.Subject
	if x.Kind != y.Kind {
		return cmp.Or(cmp.Compare(x.Kind.Rank(), y.Kind.Rank()), strings.Compare(string(x.Kind), string(y.Kind)))
	}
	for _, names := range [...][2]string{{x.Schema, y.Schema}, {x.Table, y.Table}, {x.Name, y.Name}, {x.Signature, y.Signature}} {
		if names[0] != names[1] {
			return strings.Compare(names[0], names[1])
		}
	}
	return cmp.Compare(a.Step, b.Step)
}

// graph holds for each statement those that have to come before it.
type graph struct {
	list      []engine.Statement
	providers map[engine.Resource][]int
	needs     [][]int
}

func newGraph(list []engine.Statement) *graph {
	g := &graph{list: list, providers: map[engine.Resource][]int{}, needs: make([][]int, len(list))}
	for i := range list {
		for _, r := range list[i].Provides {
			g.providers[r] = append(g.providers[r], i)
		}
		for _, r := range list[i].Whole {
			g.providers[r] = append(g.providers[r], i)
		}
		for _, c := range list[i].Cuts {
			for _, r := range c.Provides {
				g.providers[r] = append(g.providers[r], i)
			}
		}
	}
	for i := range list {
		s := &list[i]
		g.require(i, s.Requires)
		g.require(i, s.Wishes)
		for _, c := range s.Cuts {
			g.require(i, c.Requires)
		}
	}
	return g
}

func (g *graph) require(i int, resources []engine.Resource) {
	for _, r := range resources {
		for _, p := range g.providers[r] {
			if p != i {
				g.needs[i] = append(g.needs[i], p)
			}
		}
	}
}

// cyclicComponents returns the strongly connected components of more than one statement (Tarjan's
// algorithm, without recursion).
func (g *graph) cyclicComponents() [][]int {
	n := len(g.list)
	index, low := make([]int, n), make([]int, n)
	onStack := make([]bool, n)
	var stack []int
	var found [][]int
	counter := 0
	type frame struct{ node, edge int }
	for root := range n {
		if index[root] != 0 {
			continue
		}
		frames := []frame{{root, 0}}
		for len(frames) > 0 {
			f := &frames[len(frames)-1]
			v := f.node
			if f.edge == 0 {
				counter++
				index[v], low[v] = counter, counter
				stack = append(stack, v)
				onStack[v] = true
			}
			if f.edge < len(g.needs[v]) {
				w := g.needs[v][f.edge]
				f.edge++
				if index[w] == 0 {
					frames = append(frames, frame{w, 0})
				} else if onStack[w] {
					low[v] = min(low[v], index[w])
				}
				continue
			}
			if f.edge == 0 {
				f.edge = 1 // has no edges: do not enter it again
			}
			frames = frames[:len(frames)-1]
			if len(frames) > 0 {
				parent := frames[len(frames)-1].node
				low[parent] = min(low[parent], low[v])
			}
			if low[v] != index[v] {
				continue
			}
			var component []int
			for {
				w := stack[len(stack)-1]
				stack = stack[:len(stack)-1]
				onStack[w] = false
				component = append(component, w)
				if w == v {
					break
				}
			}
			if len(component) > 1 {
				slices.Sort(component)
				found = append(found, component)
			}
		}
	}
	return found
}

// cut takes out of each component the wishes that lie in it, or where there are none, the items that
// can stand apart and require something in it.
func (g *graph) cut(components [][]int) (next []engine.Statement, progress bool) {
	next = slices.Clone(g.list)
	var apart []engine.Statement
	for _, component := range components {
		member := map[int]bool{}
		for _, n := range component {
			member[n] = true
		}
		inside := func(n int, resources []engine.Resource) bool {
			for _, r := range resources {
				for _, p := range g.providers[r] {
					if p != n && member[p] {
						return true
					}
				}
			}
			return false
		}
		wished := false
		for _, n := range component {
			s := &next[n]
			kept := slices.DeleteFunc(slices.Clone(s.Wishes), func(r engine.Resource) bool { return inside(n, []engine.Resource{r}) })
			if len(kept) < len(s.Wishes) {
				s.Wishes, wished = kept, true
			}
		}
		if wished {
			progress = true
			continue
		}
		separate := false
		for _, n := range component {
			s := &next[n]
			cuts := len(s.Cuts)
			var kept []engine.Cut
			for _, c := range s.Cuts {
				if inside(n, c.Requires) {
					apart = append(apart, c.Apart)
				} else {
					kept = append(kept, c)
				}
			}
			s.Cuts = kept
			separate = separate || len(kept) < cuts
		}
		if separate {
			progress = true
			continue
		}
		for _, n := range component {
			if s := &next[n]; s.Stub != nil {
				stub := *s.Stub
				stub.Provides, stub.Undo = s.Provides, s.Undo
				apart = append(apart, stub)
				s.Stub, s.Provides, s.Undo = nil, nil, s.Reducing // Whole stays
				if s.Completing != "" {
					s.Head = s.Completing
				}
				progress = true
				break
			}
		}
	}
	return append(next, apart...), progress
}

// ready is a heap of statements that can run, by place in the list, which is in order.
type ready []int

func (h ready) Len() int           { return len(h) }
func (h ready) Less(i, j int) bool { return h[i] < h[j] }
func (h ready) Swap(i, j int)      { h[i], h[j] = h[j], h[i] }
func (h *ready) Push(x any)        { *h = append(*h, x.(int)) }
func (h *ready) Pop() any {
	old := *h
	x := old[len(old)-1]
	*h = old[:len(old)-1]
	return x
}

func (g *graph) sorted() ([]engine.Statement, error) {
	waiting := make([]int, len(g.list))
	followers := make([][]int, len(g.list))
	for i, needs := range g.needs {
		waiting[i] = len(needs)
		for _, n := range needs {
			followers[n] = append(followers[n], i)
		}
	}
	h := &ready{}
	for i, n := range waiting {
		if n == 0 {
			*h = append(*h, i)
		}
	}
	heap.Init(h)
	out := make([]engine.Statement, 0, len(g.list))
	for h.Len() > 0 {
		i := heap.Pop(h).(int)
		out = append(out, g.list[i])
		for _, f := range followers[i] {
			if waiting[f]--; waiting[f] == 0 {
				heap.Push(h, f)
			}
		}
	}
	return out, nil
}
