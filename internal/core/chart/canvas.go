package chart

// The picture as strokes: what SVG and PNG have in common.

import "strconv"

// canvas is what a picture is drawn on. Looks are names that each canvas knows.
type canvas interface {
	open(url, title string) // what follows, up to close, is a link
	close()
	rect(r Rect, round int, look string, group int)
	head(r Rect, look string, group int) // the upper part of a box
	line(points [][2]int, look string)
	text(x, y int, s string, l lettering, look string, end bool) // y of the base line; end: it ends at x
}

// paint draws a picture.
func (p *Picture) paint(c canvas) {
	if p.Title != "" {
		c.text(margin, margin+8, p.Title, lettering{16, true}, "ink", false)
	}
	for i := range p.Ways {
		w := &p.Ways[i]
		look := "link"
		if w.Dashed {
			look = "use"
		}
		for _, l := range w.Links {
			if s := p.Links[l].State; s != "" {
				look = s
			}
		}
		for _, points := range w.Lines {
			c.line(points, look)
		}
	}
	for _, l := range p.Labels {
		c.text(l.X, l.Y, l.Text, lettering{markLetters, false}, "faint", l.Left)
	}
	for i := range p.Boxes {
		p.box(c, &p.Boxes[i], p.Places[i])
	}
	y := p.Height - p.below() - margin + 16 + 12
	if p.letters {
		for i, g := range p.Groups {
			r := Rect{margin, y - 11, 14, 14}
			c.rect(r, 2, "swatch", i)
			c.text(r.X+7-textWidth(groupLetter(i), lettering{markLetters, true})/2, y, groupLetter(i), lettering{markLetters, true}, "ink", false)
			c.text(margin+22, y, cut(g, 80), lettering{textLetters, false}, "ink", false)
			y += lineSize
		}
	}
	for _, n := range p.Notes {
		c.text(margin, y, n, lettering{textLetters, false}, "faint", false)
		y += lineSize
	}
}

func (p *Picture) box(c canvas, b *Box, r Rect) {
	look := "box"
	switch {
	case b.State != "":
		look = b.State
	case b.Kind != "":
		look = "other"
	}
	note := b.Name
	if b.Note != "" {
		note += ": " + b.Note
	}
	c.open(b.URL, note)
	c.rect(r, 4, look, b.Group)
	c.head(Rect{r.X, r.Y, r.W, min(headSize, r.H-1)}, look, b.Group)
	name := "ink"
	if b.Root {
		name = "root"
	}
	c.text(r.X+padX, r.Y+18, cut(b.Name, longest), lettering{nameLetters, true}, name, false)
	if h := p.head(b); h != "" {
		c.text(r.X+r.W-padX, r.Y+18, h, lettering{markLetters, false}, "ink", true)
	}
	for i := range b.Rows {
		row := &b.Rows[i]
		y := r.Y + headSize + i*rowSize + 14
		switch row.Mark {
		case "":
		case "PK FK":
			c.text(r.X+6, y-5, "PK", lettering{markLetters, true}, "key", false)
			c.text(r.X+6, y+4, "FK", lettering{markLetters, false}, "faint", false)
		case "PK":
			c.text(r.X+6, y, row.Mark, lettering{markLetters, true}, "key", false)
		default:
			c.text(r.X+6, y, row.Mark, lettering{markLetters, false}, "faint", false)
		}
		ink := "ink"
		if row.State != "" {
			ink = row.State + "-text"
		}
		c.text(r.X+markSize+padX-4, y, cut(row.Name, longest), lettering{textLetters, false}, ink, false)
		if t := typeText(row); t != "" {
			c.text(r.X+r.W-padX, y, t, lettering{textLetters, false}, "faint", true)
		}
	}
	if b.More > 0 {
		c.text(r.X+markSize+padX-4, r.Y+headSize+len(b.Rows)*rowSize+14, "… "+strconv.Itoa(b.More)+" more", lettering{textLetters, false}, "faint", false)
	}
	c.close()
}
