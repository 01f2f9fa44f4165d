package chart

// DOT and Mermaid, for those who have a program of their own to draw with.

import (
	"fmt"
	"io"
	"strings"
)

// DOT writes the diagram in the language of Graphviz: boxes as HTML-like labels with a port for each row.
func (d *Diagram) DOT(w io.Writer) error {
	var b strings.Builder
	fmt.Fprintf(&b, "digraph %s {\n  rankdir=RL;\n  node [shape=plain, fontname=\"sans-serif\"];\n", dotText(d.Title))
	for i := range d.Boxes {
		x := &d.Boxes[i]
		fmt.Fprintf(&b, "  n%d [label=<<table border=\"0\" cellborder=\"1\" cellspacing=\"0\"><tr><td port=\"h\"><b>%s</b>%s</td></tr>", i, htmlText(x.Name), wordsBehind(" · ", x.Kind, x.State))
		for k := range x.Rows {
			r := &x.Rows[k]
			fmt.Fprintf(&b, "<tr><td align=\"left\" port=\"r%d\">%s%s</td></tr>", k, htmlText(r.Name), wordsBehind("  ", r.Mark, typeText(r)))
		}
		b.WriteString("</table>>];\n")
	}
	end := func(box, row int) string {
		if row < 0 {
			return fmt.Sprintf("n%d:h", box)
		}
		return fmt.Sprintf("n%d:r%d", box, row)
	}
	for i := range d.Links {
		l := &d.Links[i]
		style := ""
		if l.Dashed {
			style = ", style=dashed"
		}
		fmt.Fprintf(&b, "  %s -> %s [label=%s, taillabel=%s, headlabel=%s%s];\n", end(l.From, l.FromRow), end(l.To, l.ToRow), dotText(l.Label), dotText(l.Many), dotText(l.One), style)
	}
	b.WriteString("}\n")
	_, err := io.WriteString(w, b.String())
	return err
}

func wordsBehind(between string, words ...string) string {
	var b strings.Builder
	for _, w := range words {
		if w != "" {
			b.WriteString(between + htmlText(w))
		}
	}
	return b.String()
}

func dotText(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(cut(s, 200)) + `"`
}

func htmlText(s string) string {
	s = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;").Replace(cut(s, 200))
	if s == "" {
		return " "
	}
	return s
}

// Mermaid writes the diagram as an erDiagram. Its grammar takes only words for names of columns and types: other letters become _.
func (d *Diagram) Mermaid(w io.Writer) error {
	var b strings.Builder
	b.WriteString("erDiagram\n")
	word := func(s string) string {
		out := strings.Map(func(r rune) rune {
			if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '_' {
				return r
			}
			return '_'
		}, s)
		if out == "" || out[0] >= '0' && out[0] <= '9' {
			out = "_" + out
		}
		return out
	}
	quoted := func(s string) string {
		return `"` + strings.NewReplacer(`"`, "#quot;", "#", "#35;", "<", "#lt;", ">", "#gt;", "%", "#37;", "\\", "#92;").Replace(cut(s, 200)) + `"`
	}
	for i := range d.Boxes {
		x := &d.Boxes[i]
		fmt.Fprintf(&b, "  n%d[%s] {\n", i, quoted(strings.TrimSpace(x.Name+" "+x.Kind)))
		for k := range x.Rows {
			r := &x.Rows[k]
			typ := "column"
			if r.Type != "" {
				typ = word(r.Type)
			}
			fmt.Fprintf(&b, "    %s %s", typ, word(r.Name))
			if r.Mark != "" {
				b.WriteString(" " + strings.ReplaceAll(r.Mark, " ", ", "))
			}
			b.WriteByte('\n')
		}
		b.WriteString("  }\n")
	}
	for i := range d.Links {
		l := &d.Links[i]
		if l.Dashed {
			fmt.Fprintf(&b, "  n%d }o..o{ n%d : %s\n", l.From, l.To, quoted(l.Label))
			continue
		}
		many, one := "}o", "||"
		switch l.Many {
		case "0..1", "1":
			many = "|o"
		}
		if l.One == "0..1" {
			one = "o|"
		}
		fmt.Fprintf(&b, "  n%d %s--%s n%d : %s\n", l.From, many, one, l.To, quoted(l.Label))
	}
	_, err := io.WriteString(w, b.String())
	return err
}
