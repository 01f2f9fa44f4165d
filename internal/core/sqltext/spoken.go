package sqltext

// The text that an expression makes, as far as it is known: constants, what joins them, and names that are put into them. Of the rest a gap is
// left.

import "strings"

// spoken is a text that is put together, to be run as SQL.
type spoken struct {
	p      *parser
	text   []byte
	places []int32 // of each byte, in the whole
	gaps   bool    // something in it is not known, and may be more than a value
	quote  byte    // what closes the quoted name or the string that is open, 0 for none
	opened int     // where in the text that began
	within bool    // what comes next goes on with a name that is not known
	unsure bool    // a name may be longer than it is known
	depth  int     // of the brackets that are read
}

// gap is where something stands that is not known.
const gap = " ? "

// cut cuts the tokens between two places where one outside of brackets is a sign.
func (d *spoken) cut(from, to int, sign func(t *token) bool) (all [][2]int) {
	start, depth := from, 0
	for i := from; i < to; i++ {
		switch t := &d.p.tokens[i]; {
		case t.symbol == '(':
			depth++
		case t.symbol == ')':
			depth--
		case depth == 0 && sign(t):
			all = append(all, [2]int{start, i})
			start = i + 1
		}
	}
	if start < to {
		all = append(all, [2]int{start, to})
	}
	return all
}

// join adds what the tokens between two places make: strings, joined by || or +.
func (d *spoken) join(from, to int) {
	for _, part := range d.cut(from, to, func(t *token) bool { return t.symbol == '+' || t.symbol == '|' }) {
		d.operand(part[0], part[1])
	}
}

// operand adds what one operand makes.
func (d *spoken) operand(from, to int) {
	p := d.p
	if parts := d.cut(from, to, func(t *token) bool { return t.symbol == ':' && t.end-t.start == 2 }); len(parts) > 1 {
		from, to = parts[0][0], parts[0][1] // what it is cast to does not matter
	}
	if from >= to {
		return
	}
	first := p.tokens[from]
	const deepest = 20 // brackets within brackets
	if d.depth++; d.depth > deepest {
		d.gap(first.start, false)
		return
	}
	defer func() { d.depth-- }()
	switch {
	case first.kind == String:
		for i := from; i < to; i++ {
			if p.tokens[i].kind != String {
				d.gap(first.start, false)
				return
			}
		}
		for i := from; i < to; i++ {
			d.constant(p.tokens[i])
		}
	case first.symbol == '(' && d.closes(from, to):
		d.join(from+1, to-1)
	default:
		open := from
		for open < to && (p.tokens[open].kind == Word || p.tokens[open].kind == QuotedName || p.tokens[open].symbol == '.') {
			open++
		}
		if open == from || open >= to || p.tokens[open].symbol != '(' || !d.closes(open, to) {
			d.gap(first.start, false)
			return
		}
		d.call(open-1, d.arguments(open+1, to-1))
	}
}

// closes reports whether the bracket at a place is closed by the last token before another.
func (d *spoken) closes(open, to int) bool {
	depth := 0
	for i := open; i < to; i++ {
		switch d.p.tokens[i].symbol {
		case '(':
			depth++
		case ')':
			if depth--; depth == 0 {
				return i == to-1
			}
		}
	}
	return false
}

// arguments cuts what stands between brackets at its commas.
func (d *spoken) arguments(from, to int) [][2]int {
	return d.cut(from, to, func(t *token) bool { return t.symbol == ',' })
}

// call adds what a function makes of its arguments.
func (d *spoken) call(name int, args [][2]int) {
	at := d.p.tokens[name].start
	switch strings.ToLower(d.p.Text[at:d.p.tokens[name].end]) {
	case "format":
		if len(args) > 0 && !d.p.mysql() && !d.p.tsql() {
			d.format(at, args)
			return
		}
	case "concat":
		for _, a := range args {
			d.join(a[0], a[1])
		}
		return
	case "quote_ident", "quotename":
		if len(args) > 0 {
			d.name(at, args[0])
			return
		}
	case "quote_literal", "quote_nullable", "quote":
		d.gap(at, true)
		return
	}
	d.gap(at, false)
}

// format adds what PostgreSQL's format makes (documentation: "String Functions and Operators", format).
func (d *spoken) format(at int32, args [][2]int) {
	pattern := spoken{p: d.p, depth: d.depth}
	if pattern.join(args[0][0], args[0][1]); len(pattern.text) == 0 || pattern.gaps {
		d.gap(at, false)
		return
	}
	next := 1
	for i := 0; i < len(pattern.text); i++ {
		c := pattern.text[i]
		if c != '%' {
			d.byte(c, pattern.places[i])
			continue
		}
		place := pattern.places[i]
		digits := i + 1
		for digits < len(pattern.text) && '0' <= pattern.text[digits] && pattern.text[digits] <= '9' {
			digits++
		}
		if digits > i+1 && digits < len(pattern.text) && pattern.text[digits] == '$' {
			next = 0
			for _, c := range pattern.text[i+1 : digits] {
				next = min(next*10+int(c-'0'), len(args))
			}
			i = digits
		}
		for i++; i < len(pattern.text) && strings.IndexByte("-*$0123456789", pattern.text[i]) >= 0; i++ { // the width
		}
		if i == len(pattern.text) || pattern.text[i] == '%' {
			d.byte('%', place)
			continue
		}
		switch {
		case pattern.text[i] == 'L':
			d.gap(place, true)
		case next >= len(args):
			d.gap(place, false)
		case pattern.text[i] == 'I':
			d.name(place, args[next])
		default:
			d.join(args[next][0], args[next][1])
		}
		next++
	}
}

// name adds a name, quoted where it has to be, or a gap where it is not known.
func (d *spoken) name(at int32, arg [2]int) {
	inner := spoken{p: d.p, depth: d.depth}
	if inner.join(arg[0], arg[1]); len(inner.text) == 0 || inner.gaps {
		d.gap(at, false)
		return
	}
	open, shut := byte('"'), byte('"')
	if d.p.tsql() {
		open, shut = '[', ']'
	}
	plain := true
	for _, c := range inner.text {
		plain = plain && (c == '_' || 'a' <= c && c <= 'z' || '0' <= c && c <= '9')
	}
	if plain {
		open = 0
	}
	last := inner.places[len(inner.places)-1]
	if open != 0 {
		d.byte(open, inner.places[0])
	}
	for i, c := range inner.text {
		d.byte(c, inner.places[i])
		if open != 0 && c == shut {
			d.byte(c, inner.places[i])
		}
	}
	if open != 0 {
		d.byte(shut, last)
	}
}

// constant adds a string.
func (d *spoken) constant(tok token) {
	s := d.p.Text[tok.start:tok.end]
	open, shut := 1, 1
	switch {
	case s[0] == '$':
		open = strings.IndexByte(s[1:], '$') + 2
		shut = open
	case s[0] != '\'' && s[0] != '"':
		open = 2
	}
	for j := open; j < len(s)-shut; j++ {
		if s[j] == s[len(s)-1] && s[0] != '$' && j+1 < len(s)-shut && s[j+1] == s[j] {
			continue // a quote that is doubled
		}
		d.byte(s[j], tok.start+int32(j))
	}
}

// byte adds a byte of a constant.
func (d *spoken) byte(c byte, place int32) {
	if d.within {
		if d.quote != 0 {
			if c == d.quote {
				d.quote, d.within = 0, false
			}
			return
		}
		if wordy(c) {
			d.unsure = true
			return
		}
		d.within = false
	}
	if n := len(d.text); n > 0 && d.quote != '\'' && wordy(c) && wordy(d.text[n-1]) && place != d.places[n-1]+1 { // a name in several strings has no place
		d.gap(place, false)
		return
	}
	switch {
	case d.quote != 0:
		if c == d.quote {
			d.quote = 0
		}
	case c == '\'' || c == '"' || c == '`':
		d.quote, d.opened = c, len(d.text)
	case c == '[' && d.p.tsql():
		d.quote, d.opened = ']', len(d.text)
	}
	d.text, d.places = append(d.text, c), append(d.places, place)
}

// wordy reports whether a byte can be one of a name.
func wordy(c byte) bool {
	return c == '_' || c == '$' || '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || c >= 0x80
}

// gap leaves a gap; value says that what stands there is a value whatever it is. A name that it stands in, or goes on with, is not known.
func (d *spoken) gap(at int32, value bool) {
	if d.quote == '\'' { // within a string it is a value, unless it holds a quote
		d.gaps = d.gaps || !value
		return
	}
	d.gaps = d.gaps || !value
	if n := len(d.text); d.quote != 0 {
		d.text, d.places, d.within = d.text[:d.opened], d.places[:d.opened], true
	} else if !value && n > 0 && wordy(d.text[n-1]) {
		d.unsure = true
		if d.text[n-1] != '_' && d.text[n-1] != '$' { // FROM stay, and a condition behind it
			n = 0
		}
		for n > 0 && wordy(d.text[n-1]) {
			n--
		}
		if n > 0 {
			d.text, d.places = d.text[:n], d.places[:n]
		}
	}
	d.within = d.within || !value
	for i := range len(gap) {
		d.text, d.places = append(d.text, gap[i]), append(d.places, at)
	}
}
