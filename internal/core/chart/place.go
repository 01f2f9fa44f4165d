package chart

// Coordinates. Each box wants to stand where its links are straight; what it may not overlap is minded by isotonic regression
// (pooling of adjacent violators: Ayer and others, "An Empirical Distribution Function for Sampling with Incomplete Information",
// 1955), layer by layer, back and forth. Boxes and rows stand on a grid of which neighbouring layers have different lines, so
// that no two ends in a channel are level and no two links lie on one another.

import (
	"cmp"
	"slices"
)

// Sizes in pixels; heights are multiples of the grid.
const (
	grid     = 4
	headSize = 28
	rowSize  = 20
	gapX     = 30 // beside a channel
	gapY     = 24
	passing  = 12 // the height of a net in a layer that it passes
	trackGap = 8
	margin   = 24
	aspect   = 1.4 // of a picture, about: its width to its height
)

// rowOffset returns how far below the top of a box a row's middle is, -1 for the head's.
func rowOffset(b *Box, row int) int {
	if row < 0 || row >= len(b.Rows) {
		return headSize / 2
	}
	return headSize + row*rowSize + rowSize/2
}

// boxHeight returns the height of a box.
func boxHeight(b *Box) int {
	h := headSize + len(b.Rows)*rowSize
	if b.More > 0 {
		h += rowSize
	}
	if len(b.Rows) > 0 || b.More > 0 {
		h += grid
	}
	return h
}

// gap returns what two neighbours in a layer keep between them.
func gap(a, b *item) int {
	switch {
	case a.box < 0 && b.box < 0:
		return grid
	case a.box < 0 || b.box < 0:
		return 3 * grid
	}
	return gapY
}

// coordinates gives the items their y.
func (c *component) coordinates() {
	hops := c.hops()
	for _, l := range c.layers { // one below the other, to begin with
		y := 0
		for pos, i := range l {
			if pos > 0 {
				y += gap(&c.items[l[pos-1]], &c.items[i])
			}
			c.items[i].y = y
			y += c.items[i].h
		}
	}
	for round := range 16 {
		if round%2 == 0 {
			for k := 1; k < len(c.layers); k++ {
				c.settle(k, hops[k-1], nil)
			}
		} else {
			for k := len(c.layers) - 1; k >= 0; k-- {
				var left []hop
				if k > 0 && round > 8 {
					left = hops[k-1]
				}
				c.settle(k, left, hops[k])
			}
		}
	}
	top := 1 << 30
	for _, it := range c.items {
		top = min(top, it.y)
	}
	for i := range c.items {
		it := &c.items[i]
		it.y = (it.y-top)/grid*grid + it.layer%2*grid/2
		c.height = max(c.height, it.y+it.h)
	}
}

// settle moves the items of a layer to where their links want them, as far as there is room.
func (c *component) settle(k int, left, right []hop) {
	wants := map[int][]int{}
	for _, h := range left {
		wants[h.right] = append(wants[h.right], c.items[h.left].y+h.leftOffset-h.rightOffset)
	}
	for _, h := range right {
		wants[h.left] = append(wants[h.left], c.items[h.right].y+h.rightOffset-h.leftOffset)
	}
	l := c.layers[k]
	// With what stands above taken off, the places have to be in ascending order.
	type block struct {
		sum, weight float64
		n           int
	}
	var blocks []block
	above := 0
	offsets := make([]int, len(l))
	for pos, i := range l {
		if pos > 0 {
			above += c.items[l[pos-1]].h + gap(&c.items[l[pos-1]], &c.items[i])
		}
		offsets[pos] = above
		want, weight := float64(c.items[i].y), 0.1 // stays
		if list := wants[i]; len(list) > 0 {
			slices.Sort(list)
			m := len(list) / 2
			want, weight = float64(list[m]), 1
			if len(list)%2 == 0 {
				want = float64(list[m-1]+list[m]) / 2
			}
			if c.items[i].box < 0 { // long links are to be straight
				weight = 2
			}
		}
		blocks = append(blocks, block{(want - float64(above)) * weight, weight, 1})
		for len(blocks) > 1 {
			a, b := &blocks[len(blocks)-2], blocks[len(blocks)-1]
			if a.sum/a.weight <= b.sum/b.weight {
				break
			}
			a.sum, a.weight, a.n = a.sum+b.sum, a.weight+b.weight, a.n+b.n
			blocks = blocks[:len(blocks)-1]
		}
	}
	pos := 0
	for _, b := range blocks {
		at := floor(b.sum / b.weight)
		for range b.n {
			c.items[l[pos]].y = at + offsets[pos]
			pos++
		}
	}
}

// floor returns the greatest multiple of the grid that is not above a number.
func floor(f float64) int {
	n := int(f)
	if f < 0 {
		n--
	}
	n -= ((n % grid) + grid) % grid
	return n
}

// Picture is a diagram with places, in pixels.
type Picture struct {
	*Diagram
	Width, Height int
	Places        []Rect  // of boxes
	Ways          []Way   // of links
	Labels        []Label // multiplicities
	letters       bool
}

// Rect is a place of a box.
type Rect struct{ X, Y, W, H int }

// Way is lines from corner to corner, each a pair of x and y; it may be of several links.
type Way struct {
	Lines  [][][2]int
	Links  []int
	Dashed bool
}

// Label is a word at the end of a link.
type Label struct {
	X, Y int
	Text string
	Left bool // it ends there
}

// Place gives a diagram its places. Its time grows with the number of boxes and links.
func Place(d *Diagram) *Picture {
	p := &Picture{Diagram: d, Places: make([]Rect, len(d.Boxes)), letters: len(d.Groups) > 1}
	sizes := make([]size, len(d.Boxes))
	for i := range d.Boxes {
		sizes[i] = size{p.boxWidth(&d.Boxes[i]), boxHeight(&d.Boxes[i])}
	}
	var pieces []*component
	area := 0
	linked := make([]bool, len(d.Boxes))
	for _, boxes := range components(d) {
		c := &component{d: d, sizes: sizes, boxes: boxes}
		c.layer()
		c.string()
		c.arrange()
		c.coordinates()
		c.route()
		pieces = append(pieces, c)
		area += (c.width + 2*gapX) * (c.height + 2*gapY)
		for _, b := range boxes {
			linked[b] = true
		}
	}
	var alone []int
	for i := range d.Boxes {
		if !linked[i] {
			alone = append(alone, i)
			area += (sizes[i].w + gapX) * (sizes[i].h + gapY)
		}
	}
	p.pack(pieces, alone, sizes, area)
	return p
}

// pack puts components into rows of one width, and boxes without links below them.
func (p *Picture) pack(pieces []*component, alone []int, sizes []size, area int) {
	most := 0
	for most*most < int(float64(area)*aspect) {
		most += 64
	}
	for _, c := range pieces {
		most = max(most, c.width)
	}
	x, y, deep := 0, 0, 0
	place := func(w, h int) (int, int) {
		if x > 0 && x+w > most {
			x, y, deep = 0, y+deep+gapY, 0
		}
		px, py := x, y
		x += w + 2*gapX
		deep = max(deep, h)
		p.Width, p.Height = max(p.Width, px+w), max(p.Height, py+h)
		return px + margin, py + margin + p.above()
	}
	slices.SortStableFunc(pieces, func(a, b *component) int { return cmp.Compare(b.height, a.height) })
	for _, c := range pieces {
		dx, dy := place(c.width, (c.height+grid)/grid*grid)
		c.draw(p, dx, dy)
	}
	if len(pieces) > 0 && len(alone) > 0 {
		x, y, deep = 0, y+deep+2*gapY, 0
	}
	slices.SortStableFunc(alone, func(a, b int) int {
		return cmp.Or(cmp.Compare(p.Boxes[a].Group, p.Boxes[b].Group), cmp.Compare(sizes[b].h, sizes[a].h))
	})
	for _, b := range alone {
		dx, dy := place(sizes[b].w, sizes[b].h)
		p.Places[b] = Rect{dx, dy, sizes[b].w, sizes[b].h}
	}
	p.Width += 2 * margin
	p.Height += 2*margin + p.above() + p.below()
	p.Width = max(p.Width, p.least())
}
