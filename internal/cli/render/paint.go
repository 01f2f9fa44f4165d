package render

// Colour helps the eye and says nothing that words do not.

import "strings"

// Paint adds colour; the zero value adds none.
type Paint struct{ On bool }

// Style is how a text is set off.
type Style string

// The styles, as SGR parameters of ECMA-48.
const (
	Plain   Style = ""
	Title   Style = "1"
	Faint   Style = "2"
	Hit     Style = "1;33"
	Good    Style = "32"
	Bad     Style = "31"
	Notable Style = "36"
)

// Text returns s in a style.
func (p Paint) Text(style Style, s string) string {
	if !p.On || style == Plain || s == "" {
		return s
	}
	return "\x1b[" + string(style) + "m" + s + "\x1b[0m"
}

// Spans returns a name made visible, with parts of it, in bytes, set off.
func (p Paint) Spans(style Style, s string, spans [][2]int) string {
	if !p.On || len(spans) == 0 {
		return Visible(s)
	}
	var b strings.Builder
	at := 0
	for _, span := range spans {
		b.WriteString(Visible(s[at:span[0]]))
		b.WriteString(p.Text(style, Visible(s[span[0]:span[1]])))
		at = span[1]
	}
	b.WriteString(Visible(s[at:]))
	return b.String()
}
