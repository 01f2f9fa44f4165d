package render

// Values by name as bars in SVG 1.1. Bars begin at nought: their lengths are to be compared.

import (
	"fmt"
	"html"
	"io"
	"math"
	"strings"
)

// Bars are values by name.
type Bars struct {
	Title string
	Bars  []Bar
	Say   func(int64) string
}

// Bar is one of them.
type Bar struct {
	Name  string
	Value float64
}

// mostBars is how many are drawn.
const mostBars = 60

// SVG writes the bars.
func (b *Bars) SVG(w io.Writer) error {
	const width, left, row, top = 900, 260, 24, 48
	bars := b.Bars[:min(len(b.Bars), mostBars)]
	least, most := 0.0, 0.0
	for _, x := range bars {
		least, most = min(least, x.Value), max(most, x.Value)
	}
	if most == least {
		most = least + 1
	}
	scale := float64(width-left-120) / (most - least)
	zero := left + int(math.Round(-least*scale))
	height := top + len(bars)*row + 24
	var s strings.Builder
	fmt.Fprintf(&s, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d" role="img"><title>%s</title>`+"\n", width, height, width, height, html.EscapeString(Visible(b.Title)))
	s.WriteString("<style>svg{background:#fff;color-scheme:light dark;font:13px sans-serif}text{fill:#17202a}.bar{fill:#2f6f9f}.axis{stroke:#5b6672}@media (prefers-color-scheme:dark){svg{background:#14181d}text{fill:#e6ebf0}.bar{fill:#7fb7e0}.axis{stroke:#94a1af}}</style>\n")
	fmt.Fprintf(&s, `<text x="16" y="28" font-size="17" font-weight="600">%s</text>`+"\n", html.EscapeString(Visible(b.Title)))
	for i, x := range bars {
		y := top + i*row
		length := int(math.Round(math.Abs(x.Value) * scale))
		from := zero
		if x.Value < 0 {
			from = zero - length
		}
		name := []rune(Visible(x.Name))
		if len(name) > 34 {
			name = append(name[:33], '…')
		}
		fmt.Fprintf(&s, `<g><title>%s: %s</title><text x="%d" y="%d" text-anchor="end">%s</text><rect class="bar" x="%d" y="%d" width="%d" height="%d"/><text x="%d" y="%d">%s</text></g>`+"\n", html.EscapeString(Visible(x.Name)), html.EscapeString(b.Say(int64(math.Round(x.Value)))),
			left-8, y+15, html.EscapeString(string(name)), from, y+3, max(1, length), row-8, max(from+length, zero)+6, y+15, html.EscapeString(b.Say(int64(math.Round(x.Value)))))
	}
	fmt.Fprintf(&s, `<line class="axis" x1="%d" y1="%d" x2="%d" y2="%d"/>`+"\n", zero, top-4, zero, top+len(bars)*row)
	if len(b.Bars) > mostBars {
		fmt.Fprintf(&s, `<text x="16" y="%d">and %d more</text>`+"\n", height-6, len(b.Bars)-mostBars)
	}
	s.WriteString("</svg>\n")
	_, err := io.WriteString(w, s.String())
	return err
}
