package chart

// The order within layers, so that few links cross: sweeps by the median and exchanges of neighbours, after Gansner,
// Koutsofios, North and Vo ("A Technique for Drawing Directed Graphs", 1993, section 3).

import (
	"cmp"
	"slices"
)

// hop is a piece of a net between two layers that are neighbours; offsets tell where at its items it begins and ends.
type hop struct {
	left, right             int // items
	leftOffset, rightOffset int
}

// hops returns the pieces of all nets by channel: the one right of each layer.
func (c *component) hops() [][]hop {
	all := make([][]hop, len(c.layers))
	for n := range c.nets {
		x := &c.nets[n]
		first := c.of[x.from.box]
		k := c.items[first].layer
		at, offset := first, c.offset(x.from)
		for step := 0; ; step++ {
			for _, p := range x.to {
				if i := c.of[p.box]; c.items[i].layer == k+1 {
					all[k] = append(all[k], hop{at, i, offset, c.offset(p)})
				}
			}
			if step == len(x.through) {
				break
			}
			all[k] = append(all[k], hop{at, x.through[step], offset, passing / 2})
			at, offset, k = x.through[step], passing/2, k+1
		}
	}
	return all
}

// offset returns how far below the top of its box a port is.
func (c *component) offset(p port) int { return rowOffset(&c.d.Boxes[p.box], p.row) }

// arrange orders the layers.
func (c *component) arrange() {
	hops := c.hops()
	c.number()
	best, least := c.snapshot(), c.crossings(hops)
	for sweep := 0; sweep < 24 && least > 0; sweep++ {
		if sweep%2 == 0 {
			for k := 1; k < len(c.layers); k++ {
				c.byMedian(k, hops[k-1], true)
			}
		} else {
			for k := len(c.layers) - 2; k >= 0; k-- {
				c.byMedian(k, hops[k], false)
			}
		}
		c.exchange(hops)
		if n := c.crossings(hops); n < least {
			best, least = c.snapshot(), n
		}
	}
	c.layers = best
	c.number()
}

func (c *component) number() {
	for _, l := range c.layers {
		for pos, i := range l {
			c.items[i].pos = pos
		}
	}
}

func (c *component) snapshot() [][]int {
	out := make([][]int, len(c.layers))
	for k, l := range c.layers {
		out[k] = slices.Clone(l)
	}
	return out
}

// place of an end of a hop in its layer, fine enough to tell rows of a box apart.
func (c *component) place(item, offset int) int { return c.items[item].pos<<16 + min(offset, 1<<16-1) }

// byMedian orders a layer by the medians of what its items are linked to in the layer left or right of it.
func (c *component) byMedian(k int, hops []hop, left bool) {
	places := map[int][]int{}
	for _, h := range hops {
		if left {
			places[h.right] = append(places[h.right], c.place(h.left, h.leftOffset))
		} else {
			places[h.left] = append(places[h.left], c.place(h.right, h.rightOffset))
		}
	}
	medians := map[int]int{}
	for i, list := range places {
		slices.Sort(list)
		m := len(list) / 2
		switch {
		case len(list)%2 == 1:
			medians[i] = list[m]
		default:
			medians[i] = (list[m-1] + list[m]) / 2
		}
	}
	// What is linked to nothing there stays where it is.
	var fixed []int
	var moving []int
	for _, i := range c.layers[k] {
		if _, ok := medians[i]; ok {
			moving = append(moving, i)
		} else {
			fixed = append(fixed, i)
		}
	}
	slices.SortStableFunc(moving, func(a, b int) int { return cmp.Compare(medians[a], medians[b]) })
	out := make([]int, len(c.layers[k]))
	for i := range out {
		out[i] = -1
	}
	for _, i := range fixed {
		out[c.items[i].pos] = i
	}
	next := 0
	for i := range out {
		if out[i] < 0 {
			out[i] = moving[next]
			next++
		}
	}
	c.layers[k] = out
	for pos, i := range out {
		c.items[i].pos = pos
	}
}

// exchange swaps neighbours where that takes crossings away.
func (c *component) exchange(hops [][]hop) {
	lefts, rights := map[int][]hop{}, map[int][]hop{}
	for _, list := range hops {
		for _, h := range list {
			lefts[h.right] = append(lefts[h.right], h)
			rights[h.left] = append(rights[h.left], h)
		}
	}
	between := func(a, b int) int { // crossings of what is linked to a with what is linked to b, a above b
		n := 0
		for _, x := range lefts[a] {
			for _, y := range lefts[b] {
				if c.place(x.left, x.leftOffset) > c.place(y.left, y.leftOffset) {
					n++
				}
			}
		}
		for _, x := range rights[a] {
			for _, y := range rights[b] {
				if c.place(x.right, x.rightOffset) > c.place(y.right, y.rightOffset) {
					n++
				}
			}
		}
		return n
	}
	for round, better := 0, true; better && round < 8; round++ {
		better = false
		for _, l := range c.layers {
			for pos := 0; pos+1 < len(l); pos++ {
				a, b := l[pos], l[pos+1]
				if between(a, b) > between(b, a) {
					l[pos], l[pos+1] = b, a
					c.items[a].pos, c.items[b].pos = pos+1, pos
					better = true
				}
			}
		}
	}
}

// crossings counts them, layer by layer, by the inversions of their ends.
func (c *component) crossings(hops [][]hop) int {
	n := 0
	for _, list := range hops {
		ends := make([][2]int, len(list))
		for i, h := range list {
			ends[i] = [2]int{c.place(h.left, h.leftOffset), c.place(h.right, h.rightOffset)}
		}
		slices.SortFunc(ends, func(a, b [2]int) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
		var seen []int // right ends, sorted
		for i := 0; i < len(ends); i++ {
			at, _ := slices.BinarySearch(seen, ends[i][1]+1)
			n += len(seen) - at
			seen = slices.Insert(seen, at, ends[i][1])
		}
	}
	return n
}
