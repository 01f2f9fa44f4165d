package format

// Tokens with what was around them, groups of them in brackets, and the blanks between.

import (
	"math"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/sqltext"
)

// tok is a token with what stood before it, or a group in brackets.
type tok struct {
	text   string
	width  int32  // on a line, in characters; of a group with its brackets
	breaks uint16 // line breaks before it
	word   word
	kind   sqltext.TokenKind
	sign   byte // of a symbol of one byte
	group  bool
	glued  bool // nothing stood between it and the one before
	cased  bool // a word that is written in the case of the style
	tight  bool // no blank stands before it, as in numeric(4,2): some engines keep the text of a type
	spaced bool // an operator that stands between blanks
	broken bool // it cannot stand on a line with others
	remark bool // a comment, or with one in it
	first  bool // on a line, as it was laid out
}

// measure sets the width.
func (t *tok) measure() {
	t.width = int32(utf8.RuneCountInString(t.text))
	switch t.kind {
	case sqltext.Number, sqltext.Placeholder, sqltext.Word:
	case sqltext.Symbol:
		t.spaced = spaced(t.text)
		if len(t.text) == 1 {
			t.sign = t.text[0]
		}
	default:
		t.broken = t.kind == sqltext.Comment && (!strings.HasPrefix(t.text, "/*") || t.breaks > 0) || strings.IndexByte(t.text, '\n') >= 0
	}
}

// work is what laying out a text takes, from its beginning to its end.
type work struct {
	bodies map[string]string // what was laid out of strings in dollar quotes; the same for the outcome
	nodes  []node            // room for what stands in brackets
	base   int               // where in it that of the present program begins
	chunks int               // how many such rooms there were
	room   room              // of the program that ran before
	// unsettled says that where something stood bears on where it is put: what is laid out has to be laid out once more.
	unsettled bool
}

// room is what a program works in.
type room struct {
	out           []byte
	current, list []node
	opened        []int
}

func newWork() *work { return &work{bodies: map[string]string{}} }

// keep returns a copy of nodes.
func (w *work) keep(list []node) []node {
	if len(w.nodes)+len(list) > cap(w.nodes) {
		w.nodes = make([]node, 0, max(len(list), min(1024, max(16, 2*cap(w.nodes)))))
		w.base = 0
		w.chunks++
	}
	at := len(w.nodes)
	w.nodes = append(w.nodes, list...)
	return w.nodes[at:len(w.nodes):len(w.nodes)]
}

// within makes the room of the program that runs until the function it returns is called begin behind that of the one around it.
func (w *work) within() func() {
	base, chunks := w.base, w.chunks
	w.base = len(w.nodes)
	own := w.base
	return func() {
		if w.base = 0; w.chunks == chunks {
			w.nodes, w.base = w.nodes[:own], base
		}
	}
}

// closing is what stands at the end of a group.
var closing = tok{text: ")", sign: ')', kind: sqltext.Symbol, width: 1}

// opening is what stands at its beginning.
var opening = tok{text: "(", sign: '(', kind: sqltext.Symbol, width: 1}

// flatWidth returns the width of nodes on one line behind a token; ok is false where it is more than most, or they cannot stand on one.
func flatWidth(list []node, last *tok, most int) (width int, ok bool) {
	for i := range list {
		n := &list[i]
		if n.broken {
			return 0, false
		}
		if blank(last, &n.tok) {
			width++
		}
		if width += int(n.width); width > most {
			return 0, false
		}
		last = &n.tok
		if n.group {
			last = &closing
		}
	}
	return width, true
}

// node is a token, or a group in brackets.
type node struct {
	tok
	inner []node
}

// reader cuts a text into tokens one by one. Symbols that stand together are one, but for brackets, commas, dots and semicolons.
type reader struct {
	sqltext.Lexer
	*work
	bare  func(string) bool
	end   string // what ends statements, where a client was told so
	last  int    // where the token before ends
	word  word   // the token before: its word, and its sign
	sign  byte
	ahead bool // a token was cut off already
	held  sqltext.Token

	unclosed bool // brackets were open at the end
}

func (p *printer) reader(text string) *reader {
	return &reader{bare: p.Bare, work: p.work, Lexer: sqltext.Lexer{Text: text, Rules: p.rules, KeepComments: true}, end: p.end}
}

func (r *reader) raw() sqltext.Token {
	if r.ahead {
		r.ahead = false
		return r.held
	}
	return r.Lexer.Next()
}

// next reads the next token into k, which is empty; ok is false at the end.
func (r *reader) next(k *tok) (ok bool) {
	t := r.raw()
	if t.Kind == sqltext.End {
		return false
	}
	k.text, k.kind, k.glued = r.Text[t.Start:t.End], t.Kind, t.Start == r.last && r.last > 0
	if t.Start > r.last+1 || t.Start > r.last && r.Text[r.last] != ' ' {
		k.breaks = uint16(min(strings.Count(r.Text[r.last:t.Start], "\n"), math.MaxUint16))
	}
	r.last = t.End
	switch t.Kind {
	case sqltext.Comment:
		k.text, k.remark = strings.TrimRight(k.text, " \t\r"), true
	case sqltext.Symbol:
		for r.end != "" || joins(k.text) {
			more := r.raw()
			s := r.Text[more.Start:more.End]
			if more.Kind != sqltext.Symbol || more.Start != r.last || !(joins(s) && joins(k.text) || r.end != "" && strings.HasPrefix(r.end, k.text+s)) {
				r.held, r.ahead = more, true
				break
			}
			k.text = r.Text[t.Start:more.End]
			r.last = more.End
		}
	case sqltext.QuotedName:
		k.text, k.kind = r.unquoted(t)
	case sqltext.Word:
		if r.sign != '.' {
			k.word = wordOf(k.text)
			k.cased = keywords.has(k.word) || soft[k.word] != nil && soft[k.word].has(r.word)
		}
	}
	k.measure()
	r.word, r.sign = k.word, k.sign
	return true
}

// unquoted returns a name without its quotes where it means the same, and is not glued to another word. What stands between
// double quotes may be a string where brackets and backticks quote names, too.
func (r *reader) unquoted(t sqltext.Token) (string, sqltext.TokenKind) {
	text := r.Text[t.Start:t.End]
	if r.bare == nil || text[0] == '"' && r.Rules.Backticks || t.Start > 0 && wordy(r.Text[t.Start-1]) || t.End < len(r.Text) && (wordy(r.Text[t.End]) || r.Text[t.End] == '(') {
		return text, t.Kind
	}
	if name := sqltext.Unquote(r.Text, t, r.Rules); r.bare(name) && (!r.Rules.FoldLower || name == strings.ToLower(name)) && !recased(name) {
		return name, sqltext.Word
	}
	return text, t.Kind
}

// wordy reports whether a word that stands beside a byte would be one with it.
func wordy(c byte) bool {
	return c == '_' || c == '$' || c == '#' || c == '@' || c == '\'' || c == '&' || '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || c >= 0x80
}

// nodes calls each with the tokens and groups of a text, one by one, and with the one behind, nil for the last.
func (r *reader) nodes(in *room, each func(n, next *node)) {
	list := in.list[:0]     // what stands in the brackets that are open
	opened := in.opened[:0] // where in it the brackets are
	defer func() { in.list, in.opened = list[:0], opened }()
	give := r.giver(each)
	for {
		var n node
		if !r.next(&n.tok) {
			break
		}
		switch {
		case n.sign == '(':
			opened, list = append(opened, len(list)), append(list, n)
		case n.sign == ')' && len(opened) > 0:
			at := opened[len(opened)-1]
			n = group(&list[at].tok, r.keep(list[at+1:]))
			list, opened = list[:at], opened[:len(opened)-1]
			if len(opened) > 0 {
				list = append(list, n)
			} else {
				give(n)
			}
		case len(opened) > 0:
			list = append(list, n)
		default:
			give(n)
		}
	}
	r.unclosed = len(list) > 0
	for i := range list { // what is not closed stays as it is
		give(list[i])
	}
	give(node{})
}

// giver returns what calls each with the node before and the one that it is given, nil for an empty one.
func (r *reader) giver(each func(n, next *node)) func(node) {
	var slots [2]node // the one before and the present one, in turn
	given := 0
	return func(n node) {
		slots[given%2] = n
		next := &slots[given%2]
		if n.text == "" {
			next = nil
		}
		if given++; given > 1 {
			each(&slots[given%2], next)
		}
	}
}

// group returns a group of what stood in brackets.
func group(open *tok, list []node) node {
	g := node{tok: *open, inner: list}
	g.group, g.sign = true, 0
	for i := range list {
		g.remark = g.remark || list[i].remark
	}
	if g.glued && len(list) > 1 && numbers(list) {
		for i := range list {
			list[i].tight = list[i].glued
		}
	}
	width, ok := flatWidth(list, &opening, 1<<30)
	g.width, g.broken = int32(width)+2, !ok
	return g
}

func numbers(list []node) bool {
	for i := range list {
		if list[i].kind != sqltext.Number && list[i].sign != ',' {
			return false
		}
	}
	return true
}

// joins reports whether symbols are part of a longer operator.
func joins(s string) bool {
	switch s[0] {
	case '(', ')', ',', ';', '.', '[', ']', '{', '}':
		return false
	}
	return len(s) == 1 || !strings.ContainsAny(s, "(),;.[]{}")
}

// spaced reports whether an operator stands between blanks.
func spaced(s string) bool {
	switch s {
	case "=", "<>", "!=", "<", ">", "<=", ">=", "||", "+", "/", ":=", "=>", "+=", "-=", "<=>":
		return true
	}
	return false
}

// blank reports whether a blank stands between two tokens.
func blank(a, b *tok) bool {
	switch {
	case a == nil:
		return false
	case b.kind == sqltext.Comment || a.kind == sqltext.Comment:
		return true
	case b.sign == ',' || b.sign == ';' || b.sign == ')':
		return false
	case a.sign == '(':
		return false
	case a.sign == ',':
		return !b.tight
	case a.sign == '.' || b.sign == '.':
		return a.kind == sqltext.Number && !b.glued
	case b.spaced && ends(a):
		return true
	case a.spaced:
		return a.sign != '+' || !b.glued || a.glued
	}
	return !b.glued
}

// ends reports whether a token can end an operand.
func ends(t *tok) bool {
	switch t.kind {
	case sqltext.Word:
		return !keywords.has(t.word) || t.word == wNULL || t.word == wEND
	case sqltext.Symbol:
		return t.sign == ')' || t.sign == ']'
	}
	return true
}
