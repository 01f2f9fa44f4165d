package format

// One statement: on a line if it fits, else clause by clause, lists and conditions in lines of their own.

import (
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
}

const blanks = "                                                                "

func (p *printer) pad(n int) string {
	if n <= len(blanks) {
		return blanks[:n]
	}
	return strings.Repeat(" ", n)
}

// word returns a token as it is written.
func (p *printer) word(t *tok) string {
	if t.word == "" || !keywords[t.word] && !t.soft {
		return t.text
	}
	switch p.Keywords {
	case "lower":
		return strings.ToLower(t.text)
	case "keep":
		return t.text
	}
	return t.word
}

// flat returns tokens on one line; ok is false where that cannot be, because of a comment or a break within a token.
func (p *printer) flat(list []node) (text string, ok bool) {
	return p.within(list, 1<<30)
}

// within is like flat, and gives up where the line would be longer than so many characters.
func (p *printer) within(list []node, most int) (text string, ok bool) {
	width, ok := flatWidth(list, nil, most)
	if !ok {
		return "", false
	}
	var b strings.Builder
	b.Grow(width)
	var last *tok
	p.flatten(&b, list, &last)
	return b.String(), true
}

func (p *printer) flatten(b *strings.Builder, list []node, last **tok) {
	for i := range list {
		n := &list[i]
		if blank(*last, &n.tok) {
			b.WriteByte(' ')
		}
		if !n.group {
			b.WriteString(p.word(&n.tok))
			*last = &n.tok
			continue
		}
		b.WriteByte('(')
		*last = &opening
		p.flatten(b, n.inner, last)
		b.WriteByte(')')
		*last = &closing
	}
}

// fits returns tokens on one line if they fit behind so many columns.
func (p *printer) fits(list []node, column int) (string, bool) {
	return p.within(list, p.Width-column)
}

// statement returns a statement; its further lines begin at a column.
func (p *printer) statement(list []node, at int) string {
	if s, ok := p.fits(list, at); ok {
		return s
	}
	q := p.query(list)
	if q < 0 {
		return p.item(list, at)
	}
	var lines []string
	if q > 0 {
		lines = append(lines, p.item(list[:q], at))
	}
	for _, clause := range clauses(list[q:]) {
		lines = append(lines, p.clause(clause, at))
	}
	return strings.Join(lines, "\n"+p.pad(at))
}

// query returns where in a statement the query or the change of rows begins, -1 for nowhere.
func (p *printer) query(list []node) int {
	for i := range list {
		switch w := list[i].word; {
		case i == 0 && (w == "GRANT" || w == "REVOKE" || w == "ALTER" || w == "COMMENT" || w == "DROP"), w == "TRIGGER", w == "HANDLER", w == "POLICY", w == "RULE":
			return -1
		case w == "UPDATE" && asked(list, i):
		case w == "SELECT", w == "INSERT", w == "DELETE", w == "MERGE", w == "VALUES" && i == 0, w == "UPDATE" && (i == 0 || list[0].word != "SELECT"):
			return i
		case w == "WITH" && i+1 < len(list) && list[i+1].kind != sqltext.Symbol && !list[i+1].group && (i == 0 || list[i-1].word == "AS" || list[i-1].word == "QUERY" || list[i-1].word == "IN" || list[i-1].word == "FOR"):
			return i
		}
	}
	return -1
}

// joinWords begin a join, up to JOIN or APPLY.
var joinWords = []string{"LEFT", "RIGHT", "FULL", "INNER", "CROSS", "NATURAL", "OUTER", "JOIN", "STRAIGHT_JOIN"}

// clauses cuts a query where its clauses begin.
func clauses(list []node) [][]node {
	var all [][]node
	start, depth := 0, 0
	merge := len(list) > 0 && list[0].word == "MERGE"
	for i := range list {
		w := list[i].word
		before := func(words ...string) bool { return i > 0 && slices.Contains(words, list[i-1].word) }
		next := func(words ...string) bool { return i+1 < len(list) && slices.Contains(words, list[i+1].word) }
		cut := false
		switch w {
		case "CASE":
			depth++
		case "END":
			depth = max(0, depth-1)
		case "SELECT", "INSERT", "WHERE", "HAVING", "RETURNING", "UNION", "INTERSECT", "EXCEPT", "LIMIT", "WINDOW":
			cut = !before("UNION", "ALL", "FOR") || w == "SELECT"
		case "VALUES":
			cut = !(i+1 < len(list) && list[i+1].group && list[i+1].glued && !before("")) || i > 0 && list[i-1].group
		case "FROM":
			cut = !before("DELETE", "DISTINCT", "FOR") || before("DISTINCT") && i > 1 && list[i-2].word == "SELECT"
		case "GROUP", "ORDER":
			cut = next("BY") && !before("WITHIN")
		case "SET":
			cut = i > 0 && !before("UPDATE")
		case "UPDATE":
			cut = !before("FOR", "DO", "KEY", "THEN", "NO") && !asked(list, i)
		case "DELETE":
			cut = !before("THEN", "ON")
		case "USING":
			cut = merge
		case "ON":
			cut = next("CONFLICT", "DUPLICATE") || merge && start > 0
		case "WHEN":
			cut = merge && depth == 0
		case "OFFSET", "FETCH":
			cut = !before("")
		default:
			cut = slices.Contains(joinWords, w) && !before(joinWords...) && (w == "JOIN" || w == "STRAIGHT_JOIN" || joinAhead(list[i:]))
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
		case "JOIN", "APPLY":
			return true
		case "LEFT", "RIGHT", "FULL", "INNER", "CROSS", "NATURAL", "OUTER", "HASH", "LOOP", "MERGE":
		default:
			return false
		}
	}
	return false
}

// headWords may belong to the head of a clause.
var headWords = wordSet("SELECT DISTINCT ALL FROM WHERE HAVING GROUP ORDER BY SET VALUES RETURNING UNION INTERSECT EXCEPT LIMIT OFFSET WINDOW LEFT RIGHT FULL INNER CROSS NATURAL OUTER JOIN APPLY STRAIGHT_JOIN INTO INSERT DELETE UPDATE MERGE WITH RECURSIVE USING")

// clause returns a clause; its further lines begin at a column.
func (p *printer) clause(list []node, at int) string {
	if s, ok := p.fits(list, at); ok {
		return s
	}
	h := 0
	for h < len(list) && !list[h].group && headWords[list[h].word] {
		h++
	}
	head, rest := list[:h], list[h:]
	if h == 0 || len(rest) == 0 {
		return p.item(list, at)
	}
	first, _ := p.flat(head)
	in := at + p.Indent
	switch w := head[0].word; {
	case w == "WHERE" || w == "HAVING":
		return first + " " + p.conditions(rest, in)
	case slices.Contains(joinWords, w):
		on := slices.IndexFunc(rest, func(n node) bool { return n.word == "ON" })
		if on < 0 {
			return first + " " + p.item(rest, in)
		}
		text := first + " " + p.item(rest[:on], in)
		return text + "\n" + p.pad(in) + p.word(&rest[on].tok) + " " + p.conditions(rest[on+1:], in+p.Indent)
	case w == "INSERT" || w == "DELETE" || w == "UPDATE" || w == "MERGE" || w == "UNION":
		return p.item(list, at)
	case w == "WITH" && len(items(rest)) > 0:
		var texts []string
		for _, x := range items(rest) {
			texts = append(texts, p.item(x, at))
		}
		return first + " " + p.joined(texts, at)
	}
	if list := items(rest); len(list) > 1 {
		if text, ok := p.list(list, in); ok {
			return first + "\n" + p.pad(in) + text
		}
	}
	return first + " " + p.item(rest, at)
}

// joined puts items in lines of their own.
func (p *printer) joined(texts []string, at int) string {
	if p.CommasBefore {
		return strings.Join(texts, "\n"+p.pad(max(0, at-2))+", ")
	}
	return strings.Join(texts, ",\n"+p.pad(at))
}

// list returns items in lines; ok is false where a comment could end up in front of a comma.
func (p *printer) list(list [][]node, at int) (string, bool) {
	var texts []string
	for _, x := range list {
		if len(x) == 0 {
			return "", false
		}
		if last := x[len(x)-1]; last.kind == sqltext.Comment && !strings.HasPrefix(last.text, "/*") {
			return "", false
		}
		texts = append(texts, p.item(x, at))
	}
	if !p.Fill {
		return p.joined(texts, at), true
	}
	var b strings.Builder
	column := at
	for i, s := range texts {
		if i > 0 {
			b.WriteString(",")
			if first, _, _ := strings.Cut(s, "\n"); column+2+utf8.RuneCountInString(first) > p.Width {
				b.WriteString("\n" + p.pad(at))
				column = at
			} else {
				b.WriteString(" ")
				column += 2
			}
		}
		b.WriteString(s)
		if k := strings.LastIndexByte(s, '\n'); k >= 0 {
			column = utf8.RuneCountInString(s[k+1:])
		} else {
			column += utf8.RuneCountInString(s)
		}
	}
	return b.String(), true
}

// items cuts a list at its commas; a comment behind a comma on the same line stays with what is before.
func items(list []node) [][]node {
	var all [][]node
	start := 0
	for i := range list {
		if list[i].text == "," && !list[i].group {
			all = append(all, list[start:i])
			start = i + 1
		}
	}
	return append(all, list[start:])
}

// conditions returns what AND and OR join, each in a line.
func (p *printer) conditions(list []node, at int) string {
	if s, ok := p.fits(list, at); ok {
		return s
	}
	var lines []string
	start, between, depth := 0, false, 0
	for i := range list {
		switch list[i].word {
		case "CASE":
			depth++
		case "END":
			depth--
		case "BETWEEN":
			between = true
		case "AND", "OR":
			if between && list[i].word == "AND" {
				between = false
				continue
			}
			if depth == 0 && i > start {
				lines = append(lines, p.item(list[start:i], at))
				start = i
			}
		}
	}
	return strings.Join(append(lines, p.item(list[start:], at)), "\n"+p.pad(at))
}

// item returns tokens in a row, with groups broken that do not fit. Its further lines begin at a column or deeper.
func (p *printer) item(list []node, at int) string {
	if s, ok := p.fits(list, at); ok {
		return s
	}
	w := writer{printer: p, at: at, column: at}
	long := slices.ContainsFunc(list, func(n node) bool { return n.word == "CASE" })
	for i := range list {
		n := &list[i]
		if long && w.cases > 0 && (n.word == "WHEN" || n.word == "ELSE") {
			w.line(at + w.cases*p.Indent)
		}
		switch n.word {
		case "CASE":
			w.cases++
		case "END":
			if w.cases > 0 {
				w.cases--
				if long {
					w.line(at + w.cases*p.Indent)
				}
			}
		}
		w.node(n, list[i+1:])
	}
	return w.b.String()
}

// writer writes tokens in a row.
type writer struct {
	*printer
	b      strings.Builder
	last   *tok
	at     int
	column int
	cases  int
	fresh  bool // at the beginning of a line
}

func (w *writer) line(at int) {
	w.b.WriteString("\n" + w.pad(at))
	w.column, w.fresh = at, true
}

func (w *writer) text(s string) {
	w.b.WriteString(s)
	if k := strings.LastIndexByte(s, '\n'); k >= 0 {
		w.column = utf8.RuneCountInString(s[k+1:])
	} else {
		w.column += utf8.RuneCountInString(s)
	}
	w.fresh = false
}

func (w *writer) node(n *node, rest []node) {
	if n.kind == sqltext.Comment && n.breaks > 0 && w.last != nil && !w.fresh {
		w.line(w.at)
	}
	if blank(w.last, &n.tok) && !w.fresh {
		w.text(" ")
	}
	if !n.group {
		w.text(w.word(&n.tok))
		w.last = &n.tok
		if n.kind == sqltext.Comment && (!strings.HasPrefix(n.text, "/*") || strings.Contains(n.text, "\n")) && len(rest) > 0 {
			w.line(w.at)
		}
		return
	}
	defer func() { w.last = &closing }()
	if s, ok := w.fits(n.inner, w.column+2); ok || len(n.inner) == 0 {
		w.text("(" + s + ")")
		return
	}
	in := w.at + (w.cases+1)*w.Indent
	inner := ""
	if q := w.query(n.inner); q == 0 {
		inner = w.statement(n.inner, in)
	} else if list := items(n.inner); len(list) > 1 {
		if w.Align {
			list = w.aligned(list)
		}
		text, ok := w.list(list, in)
		if !ok {
			text = w.item(n.inner, in)
		}
		inner = text
	} else {
		inner = w.conditions(n.inner, in)
	}
	w.text("(\n" + w.pad(in) + inner + "\n" + w.pad(in-w.Indent) + ")")
}

// aligned widens the names of a list of columns, so that their types stand below each other.
func (p *printer) aligned(list [][]node) [][]node {
	widest := 0
	is := func(x []node) bool {
		return len(x) > 1 && (x[0].kind == sqltext.QuotedName || x[0].kind == sqltext.Word && !keyword(x[0].word) && x[0].word != "EXCLUDE" && x[0].word != "KEY" && x[0].word != "INDEX" && x[0].word != "PERIOD") &&
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
			x[0].word = ""
			x[0].measure()
			out[i] = x
		}
	}
	return out
}
