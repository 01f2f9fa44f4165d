package ddl

// Order is a topological sort of statements (Kahn's algorithm with a heap, so that ties are broken by kind and name);
// cycles are found by Tarjan's.

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
// the kind, then the name decides, so the result depends on the set of statements alone; what drops comes
// before what makes, in the opposite order. Cycles are cut at wishes first, then at the parts that can stand apart behind,
// then at those that can come first. Late statements follow all others, those of them that drop precede all others. What no
// statement provides is taken to be there.
//
// What a statement that drops requires is what is there at the beginning, so that it comes before what destroys it; so does
// any statement whose requirement nothing provides. What provides a name comes after what frees or destroys it.
func Order(statements []*engine.Statement) ([]*engine.Statement, error) {
	if !slices.ContainsFunc(statements, func(s *engine.Statement) bool { return s.Late }) {
		return order(statements)
	}
	var groups [3][]*engine.Statement
	for _, s := range statements {
		switch {
		case !s.Late:
			groups[1] = append(groups[1], s)
		case s.Action == engine.Drop:
			groups[0] = append(groups[0], s)
		default:
			groups[2] = append(groups[2], s)
		}
	}
	var all []*engine.Statement
	for _, group := range groups {
		sorted, err := order(group)
		if err != nil {
			return nil, err
		}
		all = append(all, sorted...)
	}
	return all, nil
}

func order(list []*engine.Statement) ([]*engine.Statement, error) {
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

// inOrder returns statements in the order in which those that are ready stand.
func inOrder(list []*engine.Statement) []*engine.Statement {
	list = slices.Clone(list)
	slices.SortStableFunc(list, before)
	return list
}

// before is the order of statements that are ready.
func before(a, b *engine.Statement) int {
	if drops := a.Action == engine.Drop; drops != (b.Action == engine.Drop) {
		return map[bool]int{true: -1, false: 1}[drops]
	} else if drops {
		a, b = b, a
	}
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
	list       []*engine.Statement
	providers  map[engine.Resource][]int
	destroyers map[engine.Resource][]int
	needs      [][]int
}

func newGraph(list []*engine.Statement) *graph {
	g := &graph{list: list, providers: map[engine.Resource][]int{}, destroyers: map[engine.Resource][]int{}, needs: make([][]int, len(list))}
	freers := map[engine.Resource][]int{}
	for i := range list {
		s := list[i]
		for _, r := range s.Destroys {
			g.destroyers[r] = append(g.destroyers[r], i)
		}
		for _, r := range s.Frees {
			freers[r] = append(freers[r], i)
		}
		for _, r := range s.Provides {
			g.providers[r] = append(g.providers[r], i)
		}
		if s.Action != engine.Drop {
			for k := range s.Splits {
				for _, r := range s.Splits[k].Provides {
					g.providers[r] = append(g.providers[r], i)
				}
			}
		}
	}
	for i := range list {
		s := list[i]
		g.require(i, s.Requires)
		g.require(i, s.Wishes)
		for k := range s.Splits {
			if split := &s.Splits[k]; !split.First {
				g.require(i, split.Requires)
			}
		}
		if len(g.destroyers)+len(freers) > 0 {
			for _, r := range s.Provides {
				g.follow(i, g.destroyers[r])
				g.follow(i, freers[r])
			}
		}
	}
	return g
}

// follow lets statement i come after others.
func (g *graph) follow(i int, others []int) {
	for _, p := range others {
		if p != i {
			g.needs[i] = append(g.needs[i], p)
		}
	}
}

// require lets statement i come after what provides the resources, or before what destroys them.
func (g *graph) require(i int, resources []engine.Resource) {
	for _, r := range resources {
		if asTheyWere := g.list[i].Action == engine.Drop || len(g.providers[r]) == 0; !asTheyWere {
			g.follow(i, g.providers[r])
			continue
		}
		for _, d := range g.destroyers[r] {
			g.follow(d, []int{i})
		}
	}
}

// peers returns the statements that stand in an order with statement i because it requires a resource.
func (g *graph) peers(i int, r engine.Resource) []int {
	if g.list[i].Action == engine.Drop || len(g.providers[r]) == 0 {
		return g.destroyers[r]
	}
	return g.providers[r]
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
// can stand apart and require something in it. Statements that it alters are copied.
func (g *graph) cut(components [][]int) (next []*engine.Statement, progress bool) {
	next = slices.Clone(g.list)
	var apart []*engine.Statement
	for _, component := range components {
		member := map[int]bool{}
		for _, n := range component {
			member[n] = true
		}
		inside := func(n int, resources ...engine.Resource) bool {
			return slices.ContainsFunc(resources, func(r engine.Resource) bool {
				return slices.ContainsFunc(g.peers(n, r), func(p int) bool { return p != n && member[p] })
			})
		}
		altered := func(way func(n int, s *engine.Statement) bool) bool {
			any := false
			for _, n := range component {
				s := *next[n]
				if way(n, &s) {
					next[n], any = &s, true
				}
			}
			return any
		}
		switch {
		case altered(func(n int, s *engine.Statement) bool {
			wishes := len(s.Wishes)
			s.Wishes = without(s.Wishes, func(r engine.Resource) bool { return inside(n, r) })
			return len(s.Wishes) < wishes
		}):
		case altered(func(n int, s *engine.Statement) bool {
			splits := len(s.Splits)
			s.Splits = without(s.Splits, func(c engine.Split) bool {
				behind := !c.First && inside(n, c.Requires...)
				if behind {
					apart = append(apart, &c.Apart)
				}
				return behind
			})
			return len(s.Splits) < splits
		}):
		default:
			at := slices.IndexFunc(component, func(n int) bool { return slices.ContainsFunc(next[n].Splits, first) })
			if at < 0 {
				continue
			}
			s := *next[component[at]]
			apart = append(apart, makeFirst(&s))
			next[component[at]] = &s
		}
		progress = true
	}
	return append(next, apart...), progress
}

// without returns a copy of a list that lacks some of it.
func without[T any](list []T, gone func(T) bool) []T {
	return slices.DeleteFunc(slices.Clone(list), gone)
}

func first(c engine.Split) bool { return c.First }

// makeFirst lets a first form of a statement come before it, and returns that.
func makeFirst(s *engine.Statement) *engine.Statement {
	i := slices.IndexFunc(s.Splits, first)
	split := s.Splits[i]
	in := func(list []engine.Resource) func(engine.Resource) bool {
		return func(r engine.Resource) bool { return slices.Contains(list, r) }
	}
	s.Provides, s.Requires = without(s.Provides, in(split.Apart.Provides)), without(s.Requires, in(split.Requires))
	if split.Rest != "" {
		s.Head = split.Rest
	}
	s.Undo = split.RestUndo
	s.Splits = without(s.Splits, first)
	return &split.Apart
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

func (g *graph) sorted() ([]*engine.Statement, error) {
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
	out := make([]*engine.Statement, 0, len(g.list))
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
