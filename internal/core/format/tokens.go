package format

// Tokens with what was around them, groups of them in brackets, and the blanks between.

import (
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/sqltext"
)

// tok is a token with what stood before it.
type tok struct {
	text   string
	word   string // in capital letters, of a word that is no name behind a dot; "" for all else
	kind   sqltext.TokenKind
	glued  bool // nothing stood between it and the one before
	breaks int  // line breaks before it
	soft   bool // a keyword because of what stands before it
	tight  bool // no blank stands before it, as in numeric(4,2): some engines keep the text of a type

	width  int  // on a line, in characters; of a group with its brackets
	broken bool // it cannot stand on a line with others
}

// measure sets the width.
func (t *tok) measure() {
	t.width = utf8.RuneCountInString(t.text)
	t.broken = t.kind == sqltext.Comment && (!strings.HasPrefix(t.text, "/*") || t.breaks > 0) || strings.Contains(t.text, "\n")
}

// closing is what stands at the end of a group.
var closing = tok{text: ")", kind: sqltext.Symbol, width: 1}

// opening is what stands at its beginning.
var opening = tok{text: "(", kind: sqltext.Symbol, width: 1}

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
		if width += n.width; width > most {
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
	group bool
}

// reader cuts a text into tokens one by one. Symbols that stand together are one, but for brackets, commas, dots and semicolons.
type reader struct {
	sqltext.Lexer
	end  string // what ends statements, where a client was told so
	last int    // where the token before ends
	word string // the token before: its word, and whether it is a dot
	dot  bool
	held *sqltext.Token
}

func newReader(text string, rules sqltext.Rules, end string) *reader {
	return &reader{Lexer: sqltext.Lexer{Text: text, Rules: rules, KeepComments: true}, end: end}
}

func (r *reader) raw() sqltext.Token {
	if t := r.held; t != nil {
		r.held = nil
		return *t
	}
	return r.Lexer.Next()
}

// next returns the next token; ok is false at the end.
func (r *reader) next() (k tok, ok bool) {
	t := r.raw()
	if t.Kind == sqltext.End {
		return tok{}, false
	}
	between := r.Text[r.last:t.Start]
	k = tok{text: r.Text[t.Start:t.End], kind: t.Kind, glued: between == "" && r.last > 0, breaks: strings.Count(between, "\n")}
	r.last = t.End
	switch t.Kind {
	case sqltext.Comment:
		k.text = strings.TrimRight(k.text, " \t\r")
	case sqltext.Symbol:
		for {
			more := r.raw()
			s := r.Text[more.Start:more.End]
			if more.Kind != sqltext.Symbol || more.Start != r.last || !(joins(s) && joins(k.text) || r.end != "" && strings.HasPrefix(r.end, k.text+s)) {
				r.held = &more
				break
			}
			k.text = r.Text[t.Start:more.End]
			r.last = more.End
		}
	case sqltext.Word:
		if !r.dot {
			k.word = strings.ToUpper(k.text)
			k.soft = r.word != "" && softWords[k.word] && soft[r.word+" "+k.word]
		}
	}
	r.word, r.dot = k.word, k.text == "."
	k.measure()
	return k, true
}

// nodes calls each with the tokens and groups of a text, one by one, and with the one behind, nil for the last.
func (r *reader) nodes(each func(n, next *node)) {
	var stack [][]node // what stood before the brackets that are open
	var opened []tok
	var list []node
	var slots [2]node // the one before and the present one, in turn
	given := 0
	give := func(n node) {
		slots[given%2] = n
		if given++; given > 1 {
			each(&slots[given%2], &slots[(given+1)%2])
		}
	}
	add := func(n node) {
		if len(stack) == 0 {
			give(n)
		} else {
			list = append(list, n)
		}
	}
	for t, ok := r.next(); ok; t, ok = r.next() {
		switch {
		case t.kind == sqltext.Symbol && t.text == "(":
			stack, opened, list = append(stack, list), append(opened, t), nil
		case t.kind == sqltext.Symbol && t.text == ")" && len(stack) > 0:
			g := group(opened[len(opened)-1], list)
			list = stack[len(stack)-1]
			stack, opened = stack[:len(stack)-1], opened[:len(opened)-1]
			add(g)
		default:
			add(node{tok: t})
		}
	}
	for len(stack) > 0 { // what is not closed stays as it is
		list = append(append(stack[len(stack)-1], node{tok: opened[len(opened)-1]}), list...)
		stack, opened = stack[:len(stack)-1], opened[:len(opened)-1]
	}
	for _, n := range list {
		give(n)
	}
	if given > 0 {
		each(&slots[(given+1)%2], nil)
	}
}

// group returns a group of what stood in brackets.
func group(open tok, list []node) node {
	g := node{tok: open, inner: list, group: true}
	if g.glued && len(list) > 1 && !slices.ContainsFunc(list, func(n node) bool { return n.kind != sqltext.Number && n.text != "," }) {
		for i := range list {
			list[i].tight = list[i].glued
		}
	}
	width, ok := flatWidth(list, &opening, 1<<30)
	g.width, g.broken = width+2, !ok
	return g
}

// joins reports whether symbols are part of a longer operator.
func joins(s string) bool { return !strings.ContainsAny(s, "(),;.[]{}") }

// spaced are operators that stand between blanks.
var spaced = map[string]bool{"=": true, "<>": true, "!=": true, "<": true, ">": true, "<=": true, ">=": true, "||": true, "+": true, "/": true, ":=": true, "=>": true, "+=": true, "-=": true, "<=>": true}

// blank reports whether a blank stands between two tokens.
func blank(a, b *tok) bool {
	switch {
	case a == nil:
		return false
	case b.kind == sqltext.Comment || a.kind == sqltext.Comment:
		return true
	case b.text == "," || b.text == ";" || b.text == ")":
		return false
	case a.text == "(":
		return false
	case a.text == ",":
		return !b.tight
	case a.text == "." || b.text == ".":
		return a.kind == sqltext.Number && !b.glued
	case b.kind == sqltext.Symbol && spaced[b.text] && ends(a):
		return true
	case a.kind == sqltext.Symbol && spaced[a.text]:
		return a.text != "+" || !b.glued || a.glued
	}
	return !b.glued
}

// ends reports whether a token can end an operand.
func ends(t *tok) bool {
	switch t.kind {
	case sqltext.Word:
		return !keyword(t.word) || t.word == "NULL" || t.word == "END"
	case sqltext.Symbol:
		return t.text == ")" || t.text == "]"
	}
	return true
}

// soft are pairs of words of which the second is a keyword behind the first.
var soft = func() map[string]bool {
	all := map[string]bool{}
	for _, pair := range strings.Split("PRIMARY KEY,FOREIGN KEY,ON CONFLICT,ON DUPLICATE,DUPLICATE KEY,WITH RECURSIVE,DELETE CASCADE,UPDATE CASCADE,DELETE RESTRICT,UPDATE RESTRICT,GENERATED ALWAYS,AS IDENTITY,DO NOTHING,"+
		"OR REPLACE,IF EXISTS,CREATE INDEX,UNIQUE INDEX,CREATE SEQUENCE,CREATE TYPE,CREATE DOMAIN,CREATE SCHEMA,CREATE MATERIALIZED,CREATE TEMPORARY,CREATE TEMP,CREATE UNIQUE,DROP INDEX,DROP SEQUENCE,DROP TYPE,DROP SCHEMA,ALTER COLUMN,"+
		"ADD COLUMN,DROP COLUMN,TABLE ADD,RETURN QUERY,RETURN NEXT,EACH ROW,FOR EACH,RETURNS SETOF,INNER APPLY,CROSS APPLY,OUTER APPLY,NULLS FIRST,NULLS LAST,BEGIN TRY,END TRY,BEGIN CATCH,END CATCH,SET NOCOUNT,SELECT TOP,BEGIN TRANSACTION,BEGIN TRAN,COMMIT TRANSACTION,ROLLBACK TRANSACTION", ",") {
		all[pair] = true
	}
	return all
}()

// keyword reports whether a word is reserved enough to be written in another case.
func keyword(word string) bool { return keywords[strings.ToUpper(word)] }

// recased reports whether a word may be written in another case.
func recased(word string) bool { return keyword(word) || softWords[strings.ToUpper(word)] }

var softWords = func() map[string]bool {
	all := map[string]bool{}
	for pair := range soft {
		_, second, _ := strings.Cut(pair, " ")
		all[second] = true
	}
	return all
}()

var keywords = func() map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(`SELECT FROM WHERE GROUP ORDER HAVING JOIN INNER LEFT RIGHT FULL OUTER CROSS NATURAL ON USING UNION INTERSECT EXCEPT ALL DISTINCT AS AND OR NOT IN IS NULL LIKE BETWEEN EXISTS
CASE WHEN THEN ELSE END INSERT INTO VALUES UPDATE SET DELETE CREATE TABLE VIEW PRIMARY FOREIGN REFERENCES UNIQUE CHECK CONSTRAINT DEFAULT ALTER DROP WITH LIMIT OFFSET ASC DESC CAST RETURNING TRIGGER
FUNCTION PROCEDURE BEGIN DECLARE IF ELSIF ELSEIF LOOP WHILE RETURN RETURNS FOR BY GRANT REVOKE TO MERGE OVER PARTITION WINDOW FETCH EXEC EXECUTE CALL`) {
		all[w] = true
	}
	return all
}()
