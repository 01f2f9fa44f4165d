package render

// Values over time, as blocks in a terminal or as SVG 1.1.

import (
	"fmt"
	"html"
	"io"
	"math"
	"strings"
	"time"
)

// Plot is how a value moved.
type Plot struct {
	Title  string
	Points []PlotPoint // by time
	Say    func(int64) string
}

// PlotPoint is a value at a moment.
type PlotPoint struct {
	At    time.Time
	Value int64
}

// span returns the bounds of the axes. The values begin at nought unless all of them are far above.
func (p *Plot) span() (from, to time.Time, low, high int64) {
	from, to = p.Points[0].At, p.Points[len(p.Points)-1].At
	low, high = p.Points[0].Value, p.Points[0].Value
	for _, x := range p.Points {
		low, high = min(low, x.Value), max(high, x.Value)
	}
	if high-low > high/4 || high == low {
		low = 0
	} else {
		low -= (high - low) / 4
	}
	return from, to, low, high
}

// at returns the value that counted at a moment: that of the last reading by then.
func (p *Plot) at(t time.Time) int64 {
	v := p.Points[0].Value
	for _, x := range p.Points {
		if x.At.After(t) {
			break
		}
		v = x.Value
	}
	return v
}

// Text returns the plot in lines of at most so many cells.
func (p *Plot) Text(width, height int) []string {
	const blocks = " ▁▂▃▄▅▆▇█"
	levels := []rune(blocks)
	from, to, low, high := p.span()
	top, bottom := p.Say(high), p.Say(low)
	margin := max(Width(top), Width(bottom)) + 1
	columns := max(8, width-margin)
	rows := make([][]rune, height)
	for i := range rows {
		rows[i] = []rune(strings.Repeat(" ", columns))
	}
	for x := range columns {
		t := from.Add(time.Duration(float64(to.Sub(from)) * (float64(x) + 1) / float64(columns)))
		full := 0.0
		if high > low {
			full = float64(p.at(t)-low) / float64(high-low) * float64(height)
		}
		for y := range height {
			level := min(max(full-float64(height-1-y), 0), 1)
			rows[y][x] = levels[int(math.Ceil(level*8))]
		}
	}
	var lines []string
	for y, row := range rows {
		label := ""
		switch y {
		case 0:
			label = top
		case height - 1:
			label = bottom
		}
		lines = append(lines, strings.TrimRight(strings.Repeat(" ", margin-1-Width(label))+label+" "+string(row), " "))
	}
	first, last := from.UTC().Format(time.DateOnly), to.UTC().Format(time.DateOnly)
	if first == last {
		first, last = from.UTC().Format("2006-01-02 15:04"), to.UTC().Format("15:04")
	}
	return append(lines, strings.Repeat(" ", margin)+first+strings.Repeat(" ", max(1, columns-len(first)-len(last)))+last)
}

// SVG writes plots below each other.
func SVG(w io.Writer, title string, plots []Plot) error {
	const (
		width, height   = 720, 200
		left, right     = 90, 20
		above, below    = 46, 34
		inner, vertical = width - left - right, height - above - below
	)
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="%s">
<style>
svg { color-scheme: light dark; background: light-dark(#fff, #16191d); }
text { font: 13px system-ui, sans-serif; fill: light-dark(#222, #ddd); } .title { font-weight: 600; }
.axis { stroke: light-dark(#999, #777); } .line { stroke: light-dark(#22577a, #7fc4ee); stroke-width: 2; fill: none; } .dot { fill: light-dark(#22577a, #7fc4ee); }
</style>
<title>%s</title>
`, width, 30+height*len(plots), width, 30+height*len(plots), html.EscapeString(Visible(title)), html.EscapeString(Visible(title)))
	fmt.Fprintf(&b, "<text class=\"title\" x=\"12\" y=\"22\">%s</text>\n", html.EscapeString(Visible(title)))
	for i := range plots {
		p := &plots[i]
		from, to, low, high := p.span()
		top := 30 + i*height + above
		x := func(t time.Time) float64 {
			if to.Equal(from) {
				return left
			}
			return left + inner*float64(t.Sub(from))/float64(to.Sub(from))
		}
		y := func(v int64) float64 {
			if high == low {
				return float64(top + vertical)
			}
			return float64(top+vertical) - float64(vertical)*float64(v-low)/float64(high-low)
		}
		fmt.Fprintf(&b, "<text x=\"12\" y=\"%d\">%s</text>\n", top-16, html.EscapeString(Visible(p.Title)))
		fmt.Fprintf(&b, "<path class=\"axis\" d=\"M%d %dV%dH%d\" fill=\"none\"/>\n", left, top, top+vertical, width-right)
		fmt.Fprintf(&b, "<text x=\"%d\" y=\"%d\" text-anchor=\"end\">%s</text>\n<text x=\"%d\" y=\"%d\" text-anchor=\"end\">%s</text>\n", left-8, top+5, html.EscapeString(p.Say(high)), left-8, top+vertical+4, html.EscapeString(p.Say(low)))
		fmt.Fprintf(&b, "<text x=\"%d\" y=\"%d\">%s</text>\n<text x=\"%d\" y=\"%d\" text-anchor=\"end\">%s</text>\n", left, top+vertical+18, from.UTC().Format("2006-01-02 15:04"), width-right, top+vertical+18, to.UTC().Format("2006-01-02 15:04"))
		var path, dots strings.Builder
		for j, point := range p.Points {
			if j == 0 {
				fmt.Fprintf(&path, "M%.1f %.1f", x(point.At), y(point.Value))
			} else {
				fmt.Fprintf(&path, "H%.1fV%.1f", x(point.At), y(point.Value))
			}
			fmt.Fprintf(&dots, "<circle class=\"dot\" cx=\"%.1f\" cy=\"%.1f\" r=\"3\"><title>%s: %s</title></circle>\n", x(point.At), y(point.Value), point.At.UTC().Format("2006-01-02 15:04"), html.EscapeString(p.Say(point.Value)))
		}
		fmt.Fprintf(&b, "<path class=\"line\" d=\"%s\"/>\n%s", path.String(), dots.String())
	}
	b.WriteString("</svg>\n")
	_, err := io.WriteString(w, b.String())
	return err
}
