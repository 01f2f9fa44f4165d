package chart

// Layers: boxes stand in columns from left to right, what is referred to left of what refers to it. The method is that of
// Sugiyama, Tagawa and Toda ("Methods for Visual Understanding of Hierarchical System Structures", 1981); the height of a column
// is bounded as Coffman and Graham bound the width of a schedule ("Optimal scheduling for two-processor systems", 1972).

import (
	"cmp"
	"math"
	"slices"
)

// item is a box in a layer, or a place that a net passes through.
type item struct {
	box   int // -1 for a place that a net passes
	net   int // of such a place
	layer int
	pos   int // in its layer
	w, h  int
	x, y  int
}

// port is an end of a net: a row of a box.
type port struct{ box, row int }

// net is all links that leave a port to the right: they share their way.
type net struct {
	from    port
	to      []port
	through []int // items that it passes, by layer, from the one behind from
	dashed  bool
	links   []int
}

// component is a set of boxes that are linked, in layers.
type component struct {
	d      *Diagram
	sizes  []size
	boxes  []int
	items  []item
	of     map[int]int // by box: its item
	layers [][]int     // items, in order
	nets   []net
	loops  []loop // links within a box

	width, height int
	channels      []channel
}

type size struct{ w, h int }

// components returns the sets of boxes that are linked, the largest first; boxes without links are left out.
func components(d *Diagram) [][]int {
	set := make([]int, len(d.Boxes))
	for i := range set {
		set[i] = i
	}
	var root func(i int) int
	root = func(i int) int {
		for set[i] != i {
			set[i] = set[set[i]]
			i = set[i]
		}
		return i
	}
	linked := make([]bool, len(d.Boxes))
	for _, l := range d.Links {
		linked[l.From], linked[l.To] = true, true
		set[root(l.From)] = root(l.To)
	}
	by := map[int][]int{}
	var roots []int
	for i := range d.Boxes {
		if linked[i] {
			r := root(i)
			if by[r] == nil {
				roots = append(roots, r)
			}
			by[r] = append(by[r], i)
		}
	}
	all := make([][]int, 0, len(roots))
	for _, r := range roots {
		all = append(all, by[r])
	}
	slices.SortStableFunc(all, func(a, b []int) int { return cmp.Compare(len(b), len(a)) })
	return all
}

// layer puts boxes into layers: each behind those that it refers to, as far as there is no circle, in columns of about one height.
func (c *component) layer() {
	needs := make(map[int][]int, len(c.boxes)) // by box: those that it refers to
	users := make(map[int]int, len(c.boxes))
	for _, l := range c.links() {
		if k := c.d.Links[l]; k.From != k.To && !slices.Contains(needs[k.From], k.To) {
			needs[k.From] = append(needs[k.From], k.To)
			users[k.To]++
		}
	}
	order := c.order(needs)
	at := make(map[int]int, len(order))
	for i, b := range order {
		at[b] = i
	}
	area, tallest := 0, 0
	for _, b := range c.boxes {
		area += (c.sizes[b].w + 4*gapX) * (c.sizes[b].h + gapY)
		tallest = max(tallest, c.sizes[b].h)
	}
	limit := max(tallest, int(math.Sqrt(float64(area)/aspect)))
	var heights []int
	layerOf := make(map[int]int, len(order))
	for _, b := range order {
		first := 0
		for _, n := range needs[b] {
			if at[n] < at[b] {
				first = max(first, layerOf[n]+1)
			}
		}
		k := first
		for k < len(heights) && heights[k] > 0 && heights[k]+c.sizes[b].h+gapY > limit {
			k++
		}
		for len(heights) <= k {
			heights = append(heights, 0)
		}
		layerOf[b] = k
		heights[k] += c.sizes[b].h + gapY
	}
	// What is used far right alone stands beside it.
	for i := len(order) - 1; i >= 0; i-- {
		b, last := order[i], len(heights)
		for _, u := range c.boxes {
			if at[u] > i && slices.Contains(needs[u], b) {
				last = min(last, layerOf[u])
			}
		}
		if users[b] == 0 || last == len(heights) {
			continue
		}
		for k := last - 1; k > layerOf[b]; k-- {
			if heights[k]+c.sizes[b].h+gapY <= limit {
				heights[layerOf[b]] -= c.sizes[b].h + gapY
				heights[k] += c.sizes[b].h + gapY
				layerOf[b] = k
				break
			}
		}
	}
	c.of = make(map[int]int, len(order))
	c.layers = make([][]int, len(heights))
	for _, b := range order {
		k := layerOf[b]
		c.of[b] = len(c.items)
		c.layers[k] = append(c.layers[k], len(c.items))
		c.items = append(c.items, item{box: b, layer: k, w: c.sizes[b].w, h: c.sizes[b].h})
	}
	c.layers = slices.DeleteFunc(c.layers, func(l []int) bool { return len(l) == 0 })
	for k, l := range c.layers {
		for _, i := range l {
			c.items[i].layer = k
		}
	}
}

// links returns the links of the component.
func (c *component) links() []int {
	in := make(map[int]bool, len(c.boxes))
	for _, b := range c.boxes {
		in[b] = true
	}
	var all []int
	for i := range c.d.Links {
		if in[c.d.Links[i].From] {
			all = append(all, i)
		}
	}
	return all
}

// order returns the boxes so that what is referred to comes first; a circle is broken where the search that goes from the most
// referred to first meets it.
func (c *component) order(needs map[int][]int) []int {
	referred := map[int]int{}
	for _, list := range needs {
		for _, n := range list {
			referred[n]++
		}
	}
	sorted := slices.Clone(c.boxes)
	slices.SortStableFunc(sorted, func(a, b int) int { return cmp.Compare(referred[b], referred[a]) })
	state := map[int]int{} // 1: on the way, 2: done
	var out []int
	var visit func(b int)
	visit = func(b int) {
		if state[b] != 0 {
			return
		}
		state[b] = 1
		for _, n := range needs[b] {
			visit(n)
		}
		state[b] = 2
		out = append(out, b)
	}
	for _, b := range sorted {
		visit(b)
	}
	return out
}

// string puts links into nets, and gives them places in the layers that they pass.
func (c *component) string() {
	at := map[port]map[bool]int{}
	for _, i := range c.links() {
		l := c.d.Links[i]
		left, right := port{l.To, l.ToRow}, port{l.From, l.FromRow}
		if l.From == l.To {
			c.loops = append(c.loops, loop{link: i, item: c.of[l.From]})
			continue
		}
		a, b := c.items[c.of[left.box]].layer, c.items[c.of[right.box]].layer
		if a == b {
			c.loops = append(c.loops, loop{link: i, item: c.of[l.From], other: c.of[l.To] + 1})
			continue
		}
		if a > b {
			left, right = right, left
		}
		if at[left] == nil {
			at[left] = map[bool]int{}
		}
		n, ok := at[left][l.Dashed]
		if !ok {
			n = len(c.nets)
			at[left][l.Dashed] = n
			c.nets = append(c.nets, net{from: left, dashed: l.Dashed})
		}
		if !slices.Contains(c.nets[n].to, right) {
			c.nets[n].to = append(c.nets[n].to, right)
		}
		c.nets[n].links = append(c.nets[n].links, i)
	}
	for n := range c.nets {
		x := &c.nets[n]
		first, last := c.items[c.of[x.from.box]].layer, 0
		for _, p := range x.to {
			last = max(last, c.items[c.of[p.box]].layer)
		}
		for k := first + 1; k < last; k++ {
			x.through = append(x.through, len(c.items))
			c.layers[k] = append(c.layers[k], len(c.items))
			c.items = append(c.items, item{box: -1, net: n, layer: k, h: passing})
		}
	}
}
