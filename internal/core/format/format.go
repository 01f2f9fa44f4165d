// Package format lays out SQL in a house's style. Only blanks, line breaks and the case of keywords change: what comes out is
// compared with what went in, token by token, and a text that would not be the same is given back as it is.
package format

import (
	"strings"

	"echo-atlas/internal/core/sqltext"
	"echo-atlas/internal/core/stored"
)

// Style is how a house writes SQL.
type Style struct {
	Keywords     string // "upper", "lower" or "keep"
	Indent       int    // blanks for each level
	Width        int    // of a line, as far as that goes
	CommasBefore bool   // commas stand in front of the next item
	Fill         bool   // lists that are too long fill lines, instead of an item a line
	Align        bool   // the types of columns stand below each other
	Needed       bool   // quotes stay only where they are needed: where Bare, which the dialect's engine gives, says so
	// Bare reports whether a name means the same without quotes, wherever it stands: such quotes are left out. nil: all stay.
	Bare func(name string) bool
}

// Usual is the style where nothing else is said.
var Usual = Style{Keywords: "upper", Indent: 4, Width: 100}

// Text lays out a text of statements, with the commands of clients in it left as they are. It gives the same for what it gave
// itself. ok is false where the text was given back as it is, because laying it out would have changed it.
func Text(text string, rules sqltext.Rules, s Style) (out string, ok bool) {
	if s.Indent == 0 && s.Width == 0 {
		s = Usual
	}
	if len(text) >= 2*pieceSize {
		if out, ok := apiece(text, rules, s); ok {
			return out, true
		}
	}
	return newWork().text(text, rules, s)
}

func (w *work) text(text string, rules sqltext.Rules, s Style) (out string, ok bool) {
	return w.settle(text, rules, s, w.once)
}

// settle lays a text out by once until it stays.
func (w *work) settle(text string, rules sqltext.Rules, s Style, once func(string, sqltext.Rules, Style) string) (out string, ok bool) {
	out = text
	for range 4 {
		w.unsettled = false
		next := once(out, rules, s)
		stays := next == out || !w.unsettled
		if out = next; stays {
			break
		}
	}
	if out != text && !(comparison{rules, s.Bare, w.bodies}).same(text, out) {
		return text, false
	}
	return out, true
}

// Same reports whether two texts hold the same tokens and comments, but for the case of keywords and the blanks at the ends of
// lines of comments.
func Same(a, b string, rules sqltext.Rules) bool { return comparison{rules: rules}.same(a, b) }

// comparison compares texts.
type comparison struct {
	rules sqltext.Rules
	// bare says which names of the first text may stand without their quotes in the second.
	bare func(string) bool
	// known are strings in dollar quotes that were compared already.
	known map[string]string
}

func (c comparison) same(a, b string) bool {
	x, y := sqltext.Lexer{Text: a, Rules: c.rules, KeepComments: true}, sqltext.Lexer{Text: b, Rules: c.rules, KeepComments: true}
	for {
		s, t := x.Next(), y.Next()
		p, q := a[s.Start:s.End], b[t.Start:t.End]
		if s.Kind != t.Kind {
			if c.bare != nil && s.Kind == sqltext.QuotedName && t.Kind == sqltext.Word && c.bare(q) && sqltext.Unquote(a, s, c.rules) == q {
				continue
			}
			return false
		}
		if s.Kind == sqltext.End {
			return true
		}
		switch {
		case p == q:
		case s.Kind == sqltext.Word && strings.EqualFold(p, q) && recased(p):
		case s.Kind == sqltext.Comment && strings.TrimRight(p, " \t\r") == strings.TrimRight(q, " \t\r"):
		default:
			open, x, _, ok := dollars(p)
			other, y, _, also := dollars(q)
			if !ok || !also || s.Kind != sqltext.String || open != other || c.known[x] != y && !c.same(x, y) {
				return false
			}
		}
	}
}

// once lays out a text.
func (w *work) once(text string, rules sqltext.Rules, s Style) string {
	all := parts(text, rules)
	b := make([]byte, 0, len(text)+len(text)/4)
	for _, part := range all {
		if part.verbatim {
			b = append(b, part.command()...)
			continue
		}
		before := len(b)
		if before > 0 && part.apart() {
			b = append(b, '\n')
		}
		from := len(b)
		p := program{printer: printer{Style: s, rules: rules, end: part.end, work: w}}
		if b = p.format(b, part.text); len(b) == from {
			b = b[:before]
		}
	}
	return stored.View(b)
}

// part is a stretch of a text: statements, or lines that are for a client.
type part struct {
	text     string
	verbatim bool
	end      string // what ends statements, where a client was told so
}

// command returns the line of a command.
func (p *part) command() string { return strings.TrimRight(p.text, " \t\r\n") + "\n" }

// apart reports whether an empty line stands between a part and the command before.
func (p *part) apart() bool { return strings.HasPrefix(strings.TrimLeft(p.text, " \t\r"), "\n") }

// parts cuts the commands of clients out of a text: lines with a backslash or a dot in front, DELIMITER, and GO.
func parts(text string, rules sqltext.Rules) []part {
	var all []part
	var inside map[int]bool // made when it is first asked for
	end, start, at := "", 0, 0
	flush := func(to int) {
		if strings.TrimSpace(text[start:to]) != "" {
			all = append(all, part{text: text[start:to], end: end})
		}
	}
	for line := range strings.Lines(text) {
		if !mayCommand(line, rules) {
			at += len(line)
			continue
		}
		trimmed := strings.TrimSpace(line)
		word, rest, _ := strings.Cut(trimmed, " ")
		delimiter := rules.Backticks && !rules.Brackets && strings.EqualFold(word, "delimiter") && rest != ""
		command := delimiter || strings.HasPrefix(trimmed, `\`) && rules.DollarQuotes || strings.HasPrefix(line, ".") && rules.Brackets && rules.Backticks || rules.HashNames && strings.EqualFold(trimmed, "go")
		if command && inside == nil {
			inside = insideTokens(text, rules)
		}
		if command && !inside[at] {
			flush(at)
			all = append(all, part{text: line, verbatim: true})
			start = at + len(line)
			if delimiter {
				if end = strings.TrimSpace(rest); end == ";" {
					end = ""
				}
			}
		}
		at += len(line)
	}
	flush(len(text))
	return all
}

// mayCommand reports whether a line could be the command of a client, by how it begins.
func mayCommand(line string, rules sqltext.Rules) bool {
	for i := range len(line) {
		switch c := line[i]; {
		case c <= ' ':
		case c >= 0x80: // perhaps a blank
			return true
		default:
			return rules.Backticks && !rules.Brackets && c|0x20 == 'd' || c == '\\' || c == '.' || rules.HashNames && c|0x20 == 'g'
		}
	}
	return false
}

// insideTokens returns the places of line beginnings that lie within a string, a name or a comment.
func insideTokens(text string, rules sqltext.Rules) map[int]bool {
	inside := map[int]bool{}
	l := sqltext.Lexer{Text: text, Rules: rules, KeepComments: true}
	for t := l.Next(); t.Kind != sqltext.End; t = l.Next() {
		for i := t.Start; i < t.End; i++ {
			if text[i] == '\n' {
				inside[i+1] = true
			}
		}
	}
	return inside
}
