package chart

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

// estate returns tables with references as real schemas have them: a few that many refer to, chains, circles, tables alone.
func estate(tables int, seed uint64) *Diagram {
	r := rand.New(rand.NewPCG(seed, 15))
	d := &Diagram{Title: fmt.Sprint("estate ", seed), Groups: []string{"ops", "billing", "nav"}}
	for i := range tables {
		b := Box{Name: fmt.Sprintf("%s_%d", []string{"mooring", "berth", "pilot", "sailing", "tide", "invoice"}[r.IntN(6)], i), Group: r.IntN(3)}
		b.Rows = append(b.Rows, Row{Name: "id", Mark: "PK", Type: "bigint"})
		for k := range r.IntN(12) {
			b.Rows = append(b.Rows, Row{Name: fmt.Sprint("column_", k), Type: "numeric(10,2)", Null: k%2 == 0})
		}
		d.Boxes = append(d.Boxes, b)
	}
	for i := range tables {
		if r.IntN(8) == 0 {
			continue // alone, if nothing refers to it
		}
		for k := range r.IntN(4) {
			to := r.IntN(max(1, min(i, 1+tables/10)))
			switch r.IntN(10) {
			case 0:
				to = i
			case 1:
				to = r.IntN(tables) // may close a circle
			case 2, 3, 4:
				to = max(0, i-1-r.IntN(3))
			}
			row := min(len(d.Boxes[i].Rows)-1, 1+k)
			d.Links = append(d.Links, Link{From: i, FromRow: row, To: to, ToRow: 0, Many: "n", One: "1", Label: "refers"})
		}
	}
	return d
}

// faults returns what is wrong with a picture: boxes that overlap, links that lead through a box or that do not end where they should.
func faults(p *Picture) (all []string) {
	for i, a := range p.Places {
		if a.X < 0 || a.Y < 0 || a.X+a.W > p.Width || a.Y+a.H > p.Height {
			all = append(all, fmt.Sprintf("%s lies outside", p.Boxes[i].Name))
		}
		for j, b := range p.Places[:i] {
			if a.X < b.X+b.W && b.X < a.X+a.W && a.Y < b.Y+b.H && b.Y < a.Y+a.H {
				all = append(all, fmt.Sprintf("%s lies on %s", p.Boxes[i].Name, p.Boxes[j].Name))
			}
		}
	}
	ends := map[int]map[[2]int]bool{} // by link: where its way comes by
	for _, w := range p.Ways {
		points := map[[2]int]bool{}
		for _, line := range w.Lines {
			for k := range line {
				points[line[k]] = true
				if k == 0 {
					continue
				}
				a, b := line[k-1], line[k]
				if a[0] != b[0] && a[1] != b[1] {
					all = append(all, fmt.Sprintf("a line leads aslant from %v to %v", a, b))
				}
				for i, r := range p.Places {
					if min(a[0], b[0]) < r.X+r.W && max(a[0], b[0]) > r.X && min(a[1], b[1]) < r.Y+r.H && max(a[1], b[1]) > r.Y {
						all = append(all, fmt.Sprintf("a link leads through %s", p.Boxes[i].Name))
					}
				}
			}
		}
		for _, l := range w.Links {
			ends[l] = points
		}
	}
	for i, l := range p.Links {
		for _, end := range [][2]int{{l.From, l.FromRow}, {l.To, l.ToRow}} {
			r := p.Places[end[0]]
			y := r.Y + rowOffset(&p.Boxes[end[0]], end[1])
			if l.From == l.To && l.FromRow == l.ToRow {
				continue
			}
			if !ends[i][[2]int{r.X, y}] && !ends[i][[2]int{r.X + r.W, y}] {
				all = append(all, fmt.Sprintf("the link %d does not end at row %d of %s", i, end[1], p.Boxes[end[0]].Name))
			}
		}
	}
	return all
}

// lying counts pieces of different ways that lie on one another, and do not lead to one end: nobody could tell them apart.
func lying(p *Picture) int {
	type piece struct{ way, at, from, to int }
	var level, upright []piece
	for i, w := range p.Ways {
		for _, line := range w.Lines {
			for k := 1; k < len(line); k++ {
				a, b := line[k-1], line[k]
				if a[1] == b[1] {
					level = append(level, piece{i, a[1], min(a[0], b[0]), max(a[0], b[0])})
				} else {
					upright = append(upright, piece{i, a[0], min(a[1], b[1]), max(a[1], b[1])})
				}
			}
		}
	}
	n := 0
	for _, list := range [][]piece{level, upright} {
		slices.SortFunc(list, func(a, b piece) int { return a.at - b.at })
		for i := range list {
			for j := i + 1; j < len(list) && list[j].at == list[i].at; j++ {
				one := list[i].from == list[j].from || list[i].to == list[j].to
				if list[i].way != list[j].way && !one && list[i].from < list[j].to && list[j].from < list[i].to {
					n++
				}
			}
		}
	}
	return n
}

// crossings counts where pieces of different ways cross.
func crossings(p *Picture) int {
	type piece struct{ way, x1, y1, x2, y2 int }
	var level, upright []piece
	for i, w := range p.Ways {
		seen := map[piece]bool{}
		for _, line := range w.Lines {
			for k := 1; k < len(line); k++ {
				a, b := line[k-1], line[k]
				x := piece{i, min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1])}
				if seen[x] {
					continue
				}
				seen[x] = true
				if a[1] == b[1] {
					level = append(level, x)
				} else {
					upright = append(upright, x)
				}
			}
		}
	}
	n := 0
	for _, l := range level {
		for _, u := range upright {
			if l.way != u.way && l.x1 < u.x1 && u.x1 < l.x2 && u.y1 < l.y1 && l.y1 < u.y2 {
				n++
			}
		}
	}
	return n
}

// gridCrossings counts the crossings of straight lines between the middles of boxes that stand in a plain grid.
func gridCrossings(d *Diagram) int {
	columns := 1
	for columns*columns < len(d.Boxes) {
		columns++
	}
	at := func(i int) (float64, float64) {
		return float64(i % columns), float64(i/columns) + float64(i%columns)/1000
	}
	side := func(ax, ay, bx, by, cx, cy float64) float64 { return (bx-ax)*(cy-ay) - (by-ay)*(cx-ax) }
	n := 0
	for i, l := range d.Links {
		for _, m := range d.Links[:i] {
			if l.From == m.From || l.From == m.To || l.To == m.From || l.To == m.To || l.From == l.To || m.From == m.To {
				continue
			}
			ax, ay := at(l.From)
			bx, by := at(l.To)
			cx, cy := at(m.From)
			ex, ey := at(m.To)
			if side(ax, ay, bx, by, cx, cy)*side(ax, ay, bx, by, ex, ey) < 0 && side(cx, cy, ex, ey, ax, ay)*side(cx, cy, ex, ey, bx, by) < 0 {
				n++
			}
		}
	}
	return n
}

// In no picture lies a box on another, leads a link through one, or lies on another link; the same diagram gives the same picture.
func TestLayout(t *testing.T) {
	ours, plain, area, boxes := 0, 0, 0, 0
	for seed := range uint64(40) {
		d := estate([]int{1, 2, 3, 5, 8, 13, 21, 34, 60, 120}[seed%10], seed)
		p := Place(d)
		for _, f := range faults(p) {
			t.Errorf("seed %d: %s", seed, f)
		}
		if n := lying(p); n > 0 {
			t.Errorf("seed %d: %d pieces of links lie on one another", seed, n)
		}
		var a, b bytes.Buffer
		if err := p.SVG(&a); err != nil {
			t.Fatal(err)
		}
		if err := Place(estate(len(d.Boxes), seed)).SVG(&b); err != nil || !bytes.Equal(a.Bytes(), b.Bytes()) {
			t.Errorf("seed %d: another picture the second time; %v", seed, err)
		}
		ours, plain = ours+crossings(p), plain+gridCrossings(d)
		area += p.Width * p.Height
		for _, r := range p.Places {
			boxes += r.W * r.H
		}
	}
	t.Logf("%d crossings, %d of straight lines in a plain grid; the pictures are %.1f times as large as their boxes", ours, plain, float64(area)/float64(boxes))
	if ours > plain || area > 12*boxes {
		t.Errorf("%d crossings against %d in a plain grid, area %d of boxes %d", ours, plain, area, boxes)
	}
}

// Whatever a name holds, the picture is well-formed, and the name is text in it.
func TestHostile(t *testing.T) {
	names := []string{`</text><script>alert(1)</script>`, `"><img src=x onerror=alert(1)>`, "a\x00b\x1b[31m\u202ec", "]]>", strings.Repeat("Ж", 300), "\xff\xfe", "n%d", "", "{}|<>"}
	d := &Diagram{Title: names[0]}
	for i, n := range names {
		d.Boxes = append(d.Boxes, Box{Name: n, Group: -1, Note: n, URL: "page.html?" + n, Kind: n, Rows: []Row{{Name: n, Type: n, Mark: "PK FK"}}})
		d.Links = append(d.Links, Link{From: i, To: 0, FromRow: 0, ToRow: 0, Label: n, Many: "n", One: "1"})
	}
	p := Place(d)
	var s, raster, dot, mermaid bytes.Buffer
	for _, err := range []error{p.SVG(&s), p.PNG(&raster), d.DOT(&dot), d.Mermaid(&mermaid)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	decoder := xml.NewDecoder(&s)
	for {
		token, err := decoder.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		if e, ok := token.(xml.StartElement); ok && !slices.Contains([]string{"svg", "title", "style", "rect", "path", "text", "a", "g"}, e.Name.Local) {
			t.Errorf("the picture has an element %s", e.Name.Local)
		}
	}
	if image, err := png.Decode(&raster); err != nil || image.Bounds().Dx() < p.Width {
		t.Errorf("%v", err)
	}
	if strings.Contains(strings.ReplaceAll(dot.String(), "[label=\"</text><script", ""), "<td port=\"h\"><b><") || strings.Contains(mermaid.String(), "<script") || strings.Count(dot.String(), "\n") != 3+2*len(names)+1 || strings.Count(mermaid.String(), "\n") != 1+4*len(names) {
		t.Errorf("a name breaks out:\n%s\n%s", dot.String(), mermaid.String())
	}
}

func BenchmarkPlace(b *testing.B) {
	for _, n := range []int{30, 200, 400} {
		d := estate(n, 3)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				if err := Place(d).SVG(io.Discard); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
