package chart

// Ways of links. Between two layers lies a channel; each net has one vertical line in it, on a track of its own where it would
// lie on another, and level lines to its ends (after Hashimoto and Stevens, "Wire routing by optimizing channel assignment
// within large apertures", 1971). No way leads through a box: in a layer a net has a place of its own.

import (
	"cmp"
	"slices"
)

// channel is what lies right of a layer.
type channel struct {
	x, width int
	trunks   []trunk
}

// trunk is the vertical line of a net in a channel.
type trunk struct {
	net, loop  int // of these one, the other -1
	left       int // y of the end on the left
	rights     []int
	top, under int
	track      int
}

// loop is a link whose ends are in one layer: it leaves and comes back on the right.
type loop struct {
	link  int
	item  int
	other int // the item of the other end, plus one; 0 for the same
}

// route finds tracks, and with them the places of layers.
func (c *component) route() {
	hops := c.hops()
	c.channels = make([]channel, len(c.layers))
	for k := range c.channels {
		ch := &c.channels[k]
		byNet := map[int]int{}
		for _, h := range hops[k] {
			n := c.netOf(h)
			at, ok := byNet[n]
			if !ok {
				at = len(ch.trunks)
				byNet[n] = at
				ch.trunks = append(ch.trunks, trunk{net: n, loop: -1, left: c.items[h.left].y + h.leftOffset})
			}
			ch.trunks[at].rights = append(ch.trunks[at].rights, c.items[h.right].y+h.rightOffset)
		}
		for i, l := range c.loops {
			if c.items[l.item].layer != k {
				continue
			}
			link := c.d.Links[l.link]
			other := l.item
			if l.other > 0 {
				other = l.other - 1
			}
			a, b := c.items[l.item].y+c.offset(port{link.From, link.FromRow}), c.items[other].y+c.offset(port{link.To, link.ToRow})
			if a == b { // a row that refers to itself
				b += rowSize / 4
			}
			ch.trunks = append(ch.trunks, trunk{net: -1, loop: i, left: a, rights: []int{b}})
		}
		ch.assign()
	}
	x := 0
	for k, l := range c.layers {
		widest := 0
		for _, i := range l {
			widest = max(widest, c.items[i].w)
		}
		for _, i := range l {
			c.items[i].x = x
			if c.items[i].box < 0 {
				c.items[i].w = widest
			}
		}
		x += widest
		c.channels[k].x = x
		c.width = x
		if len(c.channels[k].trunks) > 0 {
			x += 2*gapX + c.channels[k].width
			c.width = x - gapX
		}
		if k == len(c.layers)-1 {
			continue
		}
		if len(c.channels[k].trunks) == 0 {
			x += 2 * gapX
		}
	}
}

// netOf returns the net of a hop.
func (c *component) netOf(h hop) int {
	if it := &c.items[h.right]; it.box < 0 {
		return it.net
	}
	if it := &c.items[h.left]; it.box < 0 {
		return it.net
	}
	for n := range c.nets {
		x := &c.nets[n]
		if c.of[x.from.box] == h.left && c.offset(x.from) == h.leftOffset && slices.ContainsFunc(x.to, func(p port) bool { return c.of[p.box] == h.right && c.offset(p) == h.rightOffset }) {
			return n
		}
	}
	return -1
}

// assign gives trunks their tracks. Of those that go down the upper ones take the tracks on the right, of those that go up the
// lower ones: so two that lie side by side do not cross.
func (ch *channel) assign() {
	for i := range ch.trunks {
		t := &ch.trunks[i]
		t.top, t.under = min(t.left, slices.Min(t.rights)), max(t.left, slices.Max(t.rights))
	}
	down := func(t *trunk) bool {
		sum := 0
		for _, r := range t.rights {
			sum += r - t.left
		}
		return sum >= 0
	}
	slices.SortStableFunc(ch.trunks, func(a, b trunk) int {
		da, db := down(&a), down(&b)
		switch {
		case da != db && da:
			return -1
		case da != db:
			return 1
		case da:
			return cmp.Compare(b.left, a.left)
		}
		return cmp.Compare(a.left, b.left)
	})
	tracks := 0
	for i := range ch.trunks {
		t := &ch.trunks[i]
		for j := range i {
			if o := &ch.trunks[j]; o.top-trackGap < t.under && t.top-trackGap < o.under {
				t.track = max(t.track, o.track+1)
			}
		}
		tracks = max(tracks, t.track+1)
	}
	ch.width = max(0, tracks-1) * trackGap
}

// draw puts the component into a picture.
func (c *component) draw(p *Picture, dx, dy int) {
	for _, it := range c.items {
		if it.box >= 0 {
			p.Places[it.box] = Rect{it.x + dx, it.y + dy, it.w, it.h}
		}
	}
	ways := make([]Way, len(c.nets))
	for n := range c.nets {
		ways[n] = Way{Links: c.nets[n].links, Dashed: c.nets[n].dashed}
		for _, i := range c.nets[n].through {
			it := &c.items[i]
			y := it.y + passing/2 + dy
			ways[n].Lines = append(ways[n].Lines, [][2]int{{it.x + dx, y}, {it.x + it.w + dx, y}})
		}
	}
	for k := range c.channels {
		ch := &c.channels[k]
		next := c.nextX(k)
		for i := range ch.trunks {
			t := &ch.trunks[i]
			x := ch.x + gapX + t.track*trackGap + dx
			if t.loop >= 0 {
				c.drawLoop(p, t, x, dx, dy)
				continue
			}
			start := c.leftEnd(t, k)
			for _, r := range t.rights {
				ways[t.net].Lines = append(ways[t.net].Lines, [][2]int{{start + dx, t.left + dy}, {x, t.left + dy}, {x, r + dy}, {next + dx, r + dy}})
			}
		}
	}
	p.Ways = append(p.Ways, ways...)
	ones := map[port]string{} // what all that refer to a port say of it, " " where they do not agree
	for _, i := range c.links() {
		if l := &c.d.Links[i]; l.Many != "" {
			at := port{l.To, l.ToRow}
			if said, ok := ones[at]; ok && said != l.One {
				ones[at] = " "
			} else {
				ones[at] = l.One
			}
		}
	}
	for _, i := range c.links() {
		l := &c.d.Links[i]
		c.label(p, l, dx, dy, ones[port{l.To, l.ToRow}] != " ")
	}
}

// nextX returns where the layer right of a channel begins.
func (c *component) nextX(k int) int {
	if k+1 < len(c.layers) {
		return c.items[c.layers[k+1][0]].x
	}
	return c.width
}

// leftEnd returns where the line of a trunk begins: at the box, or where the net has passed the layer.
func (c *component) leftEnd(t *trunk, k int) int {
	if from := &c.items[c.of[c.nets[t.net].from.box]]; from.layer == k {
		return from.x + from.w
	}
	return c.channels[k].x
}

func (c *component) drawLoop(p *Picture, t *trunk, x, dx, dy int) {
	l := c.loops[t.loop]
	right := func(i int) int { return c.items[i].x + c.items[i].w + dx }
	other := l.item
	if l.other > 0 {
		other = l.other - 1
	}
	p.Ways = append(p.Ways, Way{Links: []int{l.link}, Dashed: c.d.Links[l.link].Dashed,
		Lines: [][][2]int{{{right(l.item), t.left + dy}, {x, t.left + dy}, {x, t.rights[0] + dy}, {right(other), t.rights[0] + dy}}}})
}

// label notes the multiplicities of a link at its ends; where links of several share an end, both at the other one.
func (c *component) label(p *Picture, l *Link, dx, dy int, agreed bool) {
	from, to := &c.items[c.of[l.From]], &c.items[c.of[l.To]]
	put := func(it *item, row int, text string, onRight bool) {
		if text == "" {
			return
		}
		x := it.x + it.w + dx + 3
		if !onRight {
			x = it.x + dx - 3
		}
		at := Label{X: x, Y: it.y + rowOffset(&c.d.Boxes[it.box], row) + dy - 3, Text: text, Left: !onRight}
		if !slices.Contains(p.Labels, at) {
			p.Labels = append(p.Labels, at)
		}
	}
	many, one := l.Many, l.One
	if !agreed && one != "" {
		many, one = many+":"+one, ""
	}
	put(from, l.FromRow, many, from.layer <= to.layer)
	put(to, l.ToRow, one, to.layer <= from.layer)
}
