package format

// One statement: on a line if it fits, else clause by clause, lists and conditions in lines of their own.

import (
	"bytes"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/sqltext"
)

type printer struct {
	Style
	rules sqltext.Rules
	end   string
	work  *work
	out   []byte // what is laid out
	head  int    // where in it the present line begins, behind its blanks
}

const blanks = "                                                                "

// pad writes blanks.
func (p *printer) pad(n int) {
	for ; n > len(blanks); n -= len(blanks) {
		p.out = append(p.out, blanks...)
	}
	p.out = append(p.out, blanks[:max(0, n)]...)
}

// line begins a line at a column.
func (p *printer) line(at int) {
	p.out = append(p.out, '\n')
	p.pad(at)
	p.head = len(p.out)
}

func (p *printer) string(s string) { p.out = append(p.out, s...) }

// word writes a token.
func (p *printer) word(t *tok) {
	text := t.text
	t.first = len(p.out) == p.head
	if t.cased {
		switch p.Keywords {
		case "lower":
			text = texts[t.word].lower
		case "keep":
		default:
			text = texts[t.word].upper
		}
	}
	p.out = append(p.out, text...)
}

// flat writes tokens on one line.
func (p *printer) flat(list []node) { p.flatten(list, nil) }

// flatten writes tokens on one line, behind the one that is given, and returns the last.
func (p *printer) flatten(list []node, last *tok) *tok {
	for i := range list {
		n := &list[i]
		if blank(last, &n.tok) {
			p.out = append(p.out, ' ')
		}
		if !n.group {
			p.word(&n.tok)
			last = &n.tok
			continue
		}
		p.out = append(p.out, '(')
		p.flatten(n.inner, &opening)
		p.out = append(p.out, ')')
		last = &closing
	}
	return last
}

// fits writes tokens on one line if they fit behind so many columns, and reports whether they do.
func (p *printer) fits(list []node, column int) bool {
	_, ok := flatWidth(list, nil, p.Width-column)
	if ok {
		p.flat(list)
	}
	return ok
}

// statement writes a statement; its further lines begin at a column.
func (p *printer) statement(list []node, at int) {
	if p.fits(list, at) {
		return
	}
	q := p.query(list)
	if q < 0 {
		p.item(list, at)
		return
	}
	if q > 0 {
		p.item(list[:q], at)
		p.line(at)
	}
	for i, clause := range clauses(list[q:]) {
		if i > 0 {
			p.line(at)
		}
		p.clause(clause, at)
	}
}

// query returns where in a statement the query or the change of rows begins, -1 for nowhere.
func (p *printer) query(list []node) int {
	for i := range list {
		switch w := list[i].word; {
		case i == 0 && (w == wGRANT || w == wREVOKE || w == wALTER || w == wCOMMENT || w == wDROP), w == wTRIGGER, w == wHANDLER, w == wPOLICY, w == wRULE:
			return -1
		case w == wUPDATE && asked(list, i):
		case w == wSELECT, w == wINSERT, w == wDELETE, w == wMERGE, w == wVALUES && i == 0, w == wUPDATE && (i == 0 || list[0].word != wSELECT):
			return i
		case w == wWITH && i+1 < len(list) && list[i+1].kind != sqltext.Symbol && !list[i+1].group && (i == 0 || list[i-1].word == wAS || list[i-1].word == wQUERY || list[i-1].word == wIN || list[i-1].word == wFOR):
			return i
		}
	}
	return -1
}

// joinWords begin a join, up to JOIN or APPLY.
var joinWords = []word{wLEFT, wRIGHT, wFULL, wINNER, wCROSS, wNATURAL, wOUTER, wJOIN, wSTRAIGHTJOIN}

// clauses cuts a query where its clauses begin.
func clauses(list []node) [][]node {
	var all [][]node
	start, depth := 0, 0
	merge := len(list) > 0 && list[0].word == wMERGE
	for i := range list {
		w := list[i].word
		before := func(words ...word) bool { return i > 0 && slices.Contains(words, list[i-1].word) }
		next := func(words ...word) bool { return i+1 < len(list) && slices.Contains(words, list[i+1].word) }
		cut := false
		switch w {
		case wCASE:
			depth++
		case wEND:
			depth = max(0, depth-1)
		case wSELECT, wINSERT, wWHERE, wHAVING, wRETURNING, wUNION, wINTERSECT, wEXCEPT, wLIMIT, wWINDOW:
			cut = !before(wUNION, wALL, wFOR) || w == wSELECT
		case wVALUES:
			cut = !(i+1 < len(list) && list[i+1].group && list[i+1].glued && !before(none)) || i > 0 && list[i-1].group
		case wFROM:
			cut = !before(wDELETE, wDISTINCT, wFOR) || before(wDISTINCT) && i > 1 && list[i-2].word == wSELECT
		case wGROUP, wORDER:
			cut = next(wBY) && !before(wWITHIN)
		case wSET:
			cut = i > 0 && !before(wUPDATE)
		case wUPDATE:
			cut = !before(wFOR, wDO, wKEY, wTHEN, wNO) && !asked(list, i)
		case wDELETE:
			cut = !before(wTHEN, wON)
		case wUSING:
			cut = merge
		case wON:
			cut = next(wCONFLICT, wDUPLICATE) || merge && start > 0
		case wWHEN:
			cut = merge && depth == 0
		case wOFFSET, wFETCH:
			cut = !before(none)
		default:
			cut = slices.Contains(joinWords, w) && !before(joinWords...) && (w == wJOIN || w == wSTRAIGHTJOIN || joinAhead(list[i:]))
		}
		if cut && depth == 0 && i > start {
			all = append(all, list[start:i])
			start = i
		}
	}
	return append(all, list[start:])
}

// asked reports whether UPDATE is the function of T-SQL's that tells what a statement sets.
func asked(list []node, i int) bool { return i+1 < len(list) && list[i+1].group && list[i+1].glued }

// joinAhead reports whether words lead to JOIN or APPLY.
func joinAhead(list []node) bool {
	for i := range list[:min(len(list), 4)] {
		switch list[i].word {
		case wJOIN, wAPPLY:
			return true
		case wLEFT, wRIGHT, wFULL, wINNER, wCROSS, wNATURAL, wOUTER, wHASH, wLOOP, wMERGE:
		default:
			return false
		}
	}
	return false
}

// headWords may belong to the head of a clause.
var headWords = setOf("SELECT DISTINCT ALL FROM WHERE HAVING GROUP ORDER BY SET VALUES RETURNING UNION INTERSECT EXCEPT LIMIT OFFSET WINDOW LEFT RIGHT FULL INNER CROSS NATURAL OUTER JOIN APPLY STRAIGHT_JOIN INTO INSERT DELETE UPDATE MERGE WITH RECURSIVE USING")

// clause writes a clause; its further lines begin at a column.
func (p *printer) clause(list []node, at int) {
	if p.fits(list, at) {
		return
	}
	h := 0
	for h < len(list) && !list[h].group && headWords.has(list[h].word) {
		h++
	}
	head, rest := list[:h], list[h:]
	if h == 0 || len(rest) == 0 {
		p.item(list, at)
		return
	}
	in := at + p.Indent
	w := head[0].word
	if w == wINSERT || w == wDELETE || w == wUPDATE || w == wMERGE || w == wUNION {
		p.item(list, at)
		return
	}
	p.flat(head)
	switch {
	case w == wWHERE || w == wHAVING:
		p.string(" ")
		p.conditions(rest, in)
		return
	case slices.Contains(joinWords, w):
		p.string(" ")
		on := slices.IndexFunc(rest, func(n node) bool { return n.word == wON })
		if on < 0 {
			p.item(rest, in)
			return
		}
		p.item(rest[:on], in)
		p.line(in)
		p.word(&rest[on].tok)
		p.string(" ")
		p.conditions(rest[on+1:], in+p.Indent)
		return
	case w == wWITH:
		p.string(" ")
		for i, x := range items(rest) {
			if i > 0 {
				p.comma(at)
			}
			p.item(x, at)
		}
		return
	}
	if list := items(rest); len(list) > 1 && listable(list) {
		p.line(in)
		p.list(list, in)
		return
	}
	p.string(" ")
	p.item(rest, at)
}

// comma writes a comma between items in lines of their own.
func (p *printer) comma(at int) {
	if p.CommasBefore {
		p.line(max(0, at-2))
		p.string(", ")
		return
	}
	p.string(",")
	p.line(at)
}

// listable reports whether items can stand in lines of their own: not where a comment could end up in front of a comma.
func listable(list [][]node) bool {
	return !slices.ContainsFunc(list, func(x []node) bool {
		if len(x) == 0 {
			return true
		}
		last := &x[len(x)-1]
		return last.kind == sqltext.Comment && !strings.HasPrefix(last.text, "/*")
	})
}

// list writes items in lines.
func (p *printer) list(list [][]node, at int) {
	column := at
	for i, x := range list {
		if i > 0 && !p.Fill {
			p.comma(at)
		}
		start := len(p.out)
		p.item(x, at)
		if !p.Fill {
			continue
		}
		if i > 0 {
			first, _, _ := bytes.Cut(p.out[start:], []byte("\n"))
			between := ", "
			column += 2
			if column+utf8.RuneCount(first) > p.Width {
				between, column = ",\n"+strings.Repeat(" ", at), at
			}
			p.out = slices.Insert(p.out, start, []byte(between)...)
			if p.head > start {
				p.head += len(between)
			}
			if x[0].first = column == at; x[0].first {
				p.head = max(p.head, start+len(between))
			}
			start += len(between)
		}
		if k := bytes.LastIndexByte(p.out[start:], '\n'); k >= 0 {
			column, start = 0, start+k+1
		}
		column += utf8.RuneCount(p.out[start:])
	}
}

// items cuts a list at its commas; a comment behind a comma on the same line stays with what is before.
func items(list []node) [][]node {
	commas := 0
	for i := range list {
		if list[i].sign == ',' {
			commas++
		}
	}
	all := make([][]node, 0, commas+1)
	start := 0
	for i := range list {
		if list[i].sign == ',' {
			all = append(all, list[start:i])
			start = i + 1
		}
	}
	return append(all, list[start:])
}

// conditions writes what AND and OR join, each in a line.
func (p *printer) conditions(list []node, at int) {
	if p.fits(list, at) {
		return
	}
	start, between, depth := 0, false, 0
	for i := range list {
		switch list[i].word {
		case wCASE:
			depth++
		case wEND:
			depth--
		case wBETWEEN:
			between = true
		case wAND, wOR:
			if between && list[i].word == wAND {
				between = false
				continue
			}
			if depth == 0 && i > start {
				p.item(list[start:i], at)
				p.line(at)
				start = i
			}
		}
	}
	p.item(list[start:], at)
}

// item writes tokens in a row, with groups broken that do not fit. Its further lines begin at a column or deeper.
func (p *printer) item(list []node, at int) {
	if p.fits(list, at) {
		return
	}
	w := writer{printer: p, at: at, column: at}
	long := slices.ContainsFunc(list, func(n node) bool { return n.word == wCASE })
	for i := range list {
		n := &list[i]
		if long && w.cases > 0 && (n.word == wWHEN || n.word == wELSE) {
			w.line(at + w.cases*p.Indent)
		}
		switch n.word {
		case wCASE:
			w.cases++
		case wEND:
			if w.cases > 0 {
				w.cases--
				if long {
					w.line(at + w.cases*p.Indent)
				}
			}
		}
		w.node(n, i == len(list)-1)
	}
}

// writer writes tokens in a row.
type writer struct {
	*printer
	last   *tok
	at     int
	column int
	cases  int
	fresh  bool // at the beginning of a line
}

func (w *writer) line(at int) {
	w.printer.line(at)
	w.column, w.fresh = at, true
}

func (w *writer) node(n *node, last bool) {
	if n.kind == sqltext.Comment && n.breaks > 0 && w.last != nil && !w.fresh {
		w.line(w.at)
	}
	if blank(w.last, &n.tok) && !w.fresh {
		w.string(" ")
		w.column++
	}
	w.fresh = false
	if n.group {
		w.brackets(n)
		w.last = &closing
		return
	}
	w.word(&n.tok)
	w.last = &n.tok
	if k := strings.LastIndexByte(n.text, '\n'); n.broken && k >= 0 {
		w.column = utf8.RuneCountInString(n.text[k+1:])
	} else {
		w.column += int(n.width)
	}
	if n.kind == sqltext.Comment && (!strings.HasPrefix(n.text, "/*") || strings.Contains(n.text, "\n")) && !last {
		w.line(w.at)
	}
}

// brackets writes a group.
func (w *writer) brackets(n *node) {
	if width, ok := flatWidth(n.inner, nil, w.Width-w.column-2); ok || len(n.inner) == 0 {
		w.string("(")
		w.flat(n.inner)
		w.string(")")
		w.column += width + 2
		return
	}
	in := w.at + (w.cases+1)*w.Indent
	w.string("(")
	w.printer.line(in)
	if q := w.query(n.inner); q == 0 {
		w.statement(n.inner, in)
	} else if list := items(n.inner); len(list) > 1 {
		if w.Align {
			list = w.aligned(list)
		}
		if listable(list) {
			w.list(list, in)
		} else {
			w.item(n.inner, in)
		}
	} else {
		w.conditions(n.inner, in)
	}
	w.printer.line(in - w.Indent)
	w.string(")")
	w.column = in - w.Indent + 1
}

// aligned widens the names of a list of columns, so that their types stand below each other.
func (p *printer) aligned(list [][]node) [][]node {
	widest := 0
	is := func(x []node) bool {
		return len(x) > 1 && (x[0].kind == sqltext.QuotedName || x[0].kind == sqltext.Word && !keywords.has(x[0].word) && x[0].word != wEXCLUDE && x[0].word != wKEY && x[0].word != wINDEX && x[0].word != wPERIOD) &&
			x[1].kind == sqltext.Word
	}
	for _, x := range list {
		if !is(x) {
			continue
		}
		widest = max(widest, utf8.RuneCountInString(x[0].text))
	}
	out := make([][]node, len(list))
	for i, x := range list {
		out[i] = x
		if is(x) && widest <= 40 {
			x = slices.Clone(x)
			x[0].text += strings.Repeat(" ", widest-utf8.RuneCountInString(x[0].text))
			x[0].word, x[0].cased = none, false
			x[0].measure()
			out[i] = x
		}
	}
	return out
}
