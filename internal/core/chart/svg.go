package chart

// SVG 1.1 with a style sheet for light and dark, texts that can be selected and searched, and links where boxes have pages.

import (
	"encoding/xml"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// colours of groups: the head of a box, light and dark; after them they repeat, and the letters tell them apart.
var colours = [][2]string{{"#d9e6f2", "#24405a"}, {"#e3ecd6", "#38482a"}, {"#f2e2d0", "#553f26"}, {"#eadcef", "#47304f"}, {"#d3ebe6", "#1f4a43"}, {"#f4dcdc", "#5a2f33"}, {"#e9e6c9", "#4b4724"}, {"#dfe0ea", "#3a3c52"}}

const sheet = `svg{font-family:"Go","DejaVu Sans",Verdana,"Segoe UI",sans-serif;background:#fff;color-scheme:light dark}
.paper{fill:#fff}.box,.other,.added,.removed,.changed,.renamed{fill:#fff;stroke:#5b6672;stroke-width:1}
.other{stroke-dasharray:5 3}.added{stroke:#1d6b32;stroke-width:2.5}.removed{stroke:#a3262a;stroke-width:2.5;stroke-dasharray:7 4}.changed,.renamed{stroke:#8a5a00;stroke-width:2.5}
.h{stroke:none}.g0{fill:#e6eaee}
.link,.use{fill:none;stroke:#5b6672;stroke-width:1.2}.use{stroke-dasharray:5 3}
path.added,path.removed,path.changed,path.renamed{fill:none;stroke-width:1.8}
text{fill:#17202a}.faint{fill:#5b6672}.key{fill:#7a4b00}.root{fill:#0b4f8a}.added-text{fill:#1d6b32}.removed-text{fill:#a3262a;text-decoration:line-through}.changed-text,.renamed-text{fill:#8a5a00}
a:hover rect.box,a:focus rect.box{stroke:#0b4f8a;stroke-width:2}a{text-decoration:none}
`

const darkSheet = `svg{background:#14181d}.paper{fill:#14181d}.box,.other,.added,.removed,.changed,.renamed{fill:#1b2128;stroke:#94a1af}.added{stroke:#8fd6a0}.removed{stroke:#ff9d98}.changed,.renamed{stroke:#e8c06a}
.g0{fill:#2b333c}.link,.use{stroke:#94a1af}text{fill:#e6ebf0}.faint{fill:#a3afbb}.key{fill:#e8c06a}.root{fill:#8cc4f5}.added-text{fill:#8fd6a0}.removed-text{fill:#ff9d98}.changed-text,.renamed-text{fill:#e8c06a}
`

// groupClass returns the class of a group's colour.
func groupClass(group int) string {
	if group < 0 {
		return "g0"
	}
	return "g" + strconv.Itoa(group%len(colours)+1)
}

func groupSheet(dark int) string {
	var b strings.Builder
	for i, c := range colours {
		fmt.Fprintf(&b, ".g%d{fill:%s}", i+1, c[dark])
	}
	return b.String() + "\n"
}

type svg struct {
	b    strings.Builder
	link []bool // of what is open: whether it is a link
}

// SVG writes the picture as a document of its own.
func (p *Picture) SVG(w io.Writer) error {
	var s svg
	fmt.Fprintf(&s.b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d" role="img">`+"\n", p.Width, p.Height, p.Width, p.Height)
	s.b.WriteString("<title>" + escape(p.Title) + "</title>\n<style>" + sheet + groupSheet(0) + "@media (prefers-color-scheme:dark){" + darkSheet + groupSheet(1) + "}</style>\n")
	fmt.Fprintf(&s.b, `<rect class="paper" width="%d" height="%d"/>`+"\n", p.Width, p.Height)
	p.paint(&s)
	s.b.WriteString("</svg>\n")
	if _, err := io.WriteString(w, s.b.String()); err != nil {
		return fmt.Errorf("writing the picture: %w", err)
	}
	return nil
}

// Inline writes the picture as an element of a page, which has to hold Sheet among its styles.
func (p *Picture) Inline(w io.Writer, label string) error {
	var s svg
	fmt.Fprintf(&s.b, `<svg class="chart" width="%d" height="%d" viewBox="0 0 %d %d" role="img" aria-label="%s">`+"\n", p.Width, p.Height, p.Width, p.Height, escape(label))
	p.paint(&s)
	s.b.WriteString("</svg>")
	_, err := io.WriteString(w, s.b.String())
	return err
}

// Sheet returns the style sheet of pictures that stand in a page.
func Sheet() string {
	within := func(sheet string) string {
		var b strings.Builder
		for _, rule := range strings.SplitAfter(strings.ReplaceAll(sheet, "\n", ""), "}") {
			if rule == "" {
				continue
			}
			names, body, _ := strings.Cut(rule, "{")
			for i, n := range strings.Split(names, ",") {
				if i > 0 {
					b.WriteByte(',')
				}
				if n == "svg" {
					b.WriteString("svg.chart")
				} else {
					b.WriteString("svg.chart " + n)
				}
			}
			b.WriteString("{" + body + "\n")
		}
		return b.String()
	}
	return within(sheet+groupSheet(0)) + "@media (prefers-color-scheme:dark){\n" + within(darkSheet+groupSheet(1)) + "}\n"
}

func escape(s string) string {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(strings.ToValidUTF8(s, "\ufffd"))) // a builder takes all
	return b.String()
}

func (s *svg) open(url, title string) {
	s.link = append(s.link, url != "")
	if url != "" {
		s.b.WriteString(`<a href="` + escape(url) + `">`)
	} else {
		s.b.WriteString("<g>")
	}
	s.b.WriteString("<title>" + escape(title) + "</title>\n")
}

func (s *svg) close() {
	if s.link[len(s.link)-1] {
		s.b.WriteString("</a>\n")
	} else {
		s.b.WriteString("</g>\n")
	}
	s.link = s.link[:len(s.link)-1]
}

func (s *svg) rect(r Rect, round int, look string, group int) {
	class := look
	if look == "swatch" {
		class = "box " + groupClass(group)
	}
	fmt.Fprintf(&s.b, `<rect class="%s" x="%d" y="%d" width="%d" height="%d" rx="%d"/>`+"\n", class, r.X, r.Y, r.W, r.H, round)
}

func (s *svg) head(r Rect, _ string, group int) {
	fmt.Fprintf(&s.b, `<path class="h %s" d="M%d %dv%da3 3 0 0 1 3 -3h%da3 3 0 0 1 3 3v%dz"/>`+"\n", groupClass(group), r.X+1, r.Y+r.H, -(r.H - 4), r.W-8, r.H-4)
}

const corner = 5 // the radius of a link's

func (s *svg) line(points [][2]int, look string) {
	var b strings.Builder
	for i, q := range points {
		switch {
		case i == 0:
			fmt.Fprintf(&b, "M%d %d", q[0], q[1])
		case i == len(points)-1:
			fmt.Fprintf(&b, "L%d %d", q[0], q[1])
		default:
			in, out := toward(q, points[i-1], corner), toward(q, points[i+1], corner)
			fmt.Fprintf(&b, "L%d %dQ%d %d %d %d", in[0], in[1], q[0], q[1], out[0], out[1])
		}
	}
	fmt.Fprintf(&s.b, `<path class="%s" d="%s"/>`+"\n", look, b.String())
}

// toward returns the point that lies so far from one in the direction of another, at most half the way.
func toward(from, to [2]int, far int) [2]int {
	out := from
	for k := range 2 {
		d := to[k] - from[k]
		step := min(far, max(d, -d)/2)
		if d < 0 {
			step = -step
		}
		out[k] += step
	}
	return out
}

func (s *svg) text(x, y int, text string, l lettering, look string, end bool) {
	anchor, weight := "", ""
	if end {
		anchor = ` text-anchor="end"`
	}
	if l.bold {
		weight = ` font-weight="600"`
	}
	fmt.Fprintf(&s.b, `<text class="%s" x="%d" y="%d" font-size="%d"%s%s textLength="%d" lengthAdjust="spacingAndGlyphs">%s</text>`+"\n", look, x, y, l.size, weight, anchor, textWidth(text, l), escape(text))
}
