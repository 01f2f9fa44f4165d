package trace

// The ways from one object to another: simple paths, the shortest first. Each round takes the paths of one length, and follows
// only what can still reach the end within it.

import (
	"slices"

	"echo-atlas/internal/core/schema"
)

// Paths returns the simple ways from the root of a trace to an object, each as places of edges, the shortest first and at most
// so many; more says that there are others. Several dependencies between the same two objects are one step.
func (t *Trace) Paths(to schema.ID, most int) (paths [][]int, more bool) {
	place := t.contents.Place(to)
	end := slices.IndexFunc(t.Nodes, func(n Node) bool { return n.entry == place })
	if end <= 0 {
		return nil, false
	}
	w := walk{trace: t, end: end, most: most, next: t.steps(), steps: 1 << 20}
	w.left = w.distances()
	longest := 0
	for _, d := range w.left {
		if d >= 0 {
			longest++
		}
	}
	w.on = make([]bool, len(t.Nodes))
	for length := w.left[0]; length <= longest && !w.more; length++ {
		w.length = length
		w.on[0] = true
		w.follow(0)
	}
	return w.paths, w.more
}

// step leads from one node to another.
type step struct{ to, edge int }

// steps returns the steps from each node, away from the root.
func (t *Trace) steps() [][]step {
	next := make([][]step, len(t.Nodes))
	for i := range t.Edges {
		from, to := t.Edges[i].To, t.Edges[i].From
		if t.dir == Needs {
			from, to = to, from
		}
		if from != to && !slices.ContainsFunc(next[from], func(s step) bool { return s.to == to }) {
			next[from] = append(next[from], step{to, i})
		}
	}
	return next
}

type walk struct {
	trace     *Trace
	end, most int
	length    int // of the paths that are looked for now
	next      [][]step
	left      []int // steps from each node to the end at least, -1 where none leads there
	on        []bool
	path      []int
	paths     [][]int
	steps     int // that may still be taken
	more      bool
}

// distances returns how far each node is from the end.
func (w *walk) distances() []int {
	back := make([][]int, len(w.next))
	for from, list := range w.next {
		for _, s := range list {
			back[s.to] = append(back[s.to], from)
		}
	}
	left := make([]int, len(w.next))
	for i := range left {
		left[i] = -1
	}
	left[w.end] = 0
	for queue := []int{w.end}; len(queue) > 0; queue = queue[1:] {
		for _, from := range back[queue[0]] {
			if left[from] < 0 {
				left[from] = left[queue[0]] + 1
				queue = append(queue, from)
			}
		}
	}
	return left
}

func (w *walk) follow(at int) {
	if at == w.end {
		if len(w.path) != w.length {
			return
		}
		if len(w.paths) == w.most {
			w.more = true
			return
		}
		w.paths = append(w.paths, slices.Clone(w.path))
		return
	}
	for _, s := range w.next[at] {
		if w.steps--; w.steps < 0 {
			w.more = true
		}
		if w.more {
			return
		}
		if w.on[s.to] || w.left[s.to] < 0 || len(w.path)+1+w.left[s.to] > w.length {
			continue
		}
		w.on[s.to] = true
		w.path = append(w.path, s.edge)
		w.follow(s.to)
		w.path = w.path[:len(w.path)-1]
		w.on[s.to] = false
	}
}
