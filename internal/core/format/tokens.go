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
	width  int32  // on a line, in characters; of a group with its brackets
	breaks int32  // line breaks before it
	kind   sqltext.TokenKind
	glued  bool // nothing stood between it and the one before
	soft   bool // a keyword because of what stands before it
	tight  bool // no blank stands before it, as in numeric(4,2): some engines keep the text of a type
	spaced bool // an operator that stands between blanks
	broken bool // it cannot stand on a line with others
}

// measure sets the width.
func (t *tok) measure() {
	t.width, t.broken, t.spaced = int32(len(t.text)), false, false
	switch t.kind {
	case sqltext.Number, sqltext.Placeholder:
	case sqltext.Symbol:
		t.spaced = spaced[t.text]
		t.width = int32(utf8.RuneCountInString(t.text))
	case sqltext.Word:
		t.width = int32(utf8.RuneCountInString(t.text))
	default:
		t.width = int32(utf8.RuneCountInString(t.text))
		t.broken = t.kind == sqltext.Comment && (!strings.HasPrefix(t.text, "/*") || t.breaks > 0) || strings.Contains(t.text, "\n")
	}
}

// work is what laying out a text takes, from its beginning to its end.
type work struct {
	upper  map[string]string // words in capital letters
	bodies map[string]string // what was laid out of strings in dollar quotes; the same for the outcome
	nodes  []node            // room for what stands in brackets
}

func newWork() *work { return &work{upper: map[string]string{}, bodies: map[string]string{}} }

// capitals returns a word in capital letters.
func (w *work) capitals(s string) string {
	u, ok := w.upper[s]
	if !ok {
		u = strings.ToUpper(s)
		w.upper[s] = u
	}
	return u
}

// keep returns a copy of nodes.
func (w *work) keep(list []node) []node {
	if len(w.nodes)+len(list) > cap(w.nodes) {
		w.nodes = make([]node, 0, max(len(list), min(1024, max(16, 2*cap(w.nodes)))))
	}
	at := len(w.nodes)
	w.nodes = append(w.nodes, list...)
	return w.nodes[at:len(w.nodes):len(w.nodes)]
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
	group bool
}

// reader cuts a text into tokens one by one. Symbols that stand together are one, but for brackets, commas, dots and semicolons.
type reader struct {
	sqltext.Lexer
	*work
	bare func(string) bool
	end  string // what ends statements, where a client was told so
	last int    // where the token before ends
	word string // the token before: its word, and whether it is a dot
	dot  bool
	held *sqltext.Token
}

func newReader(text string, rules sqltext.Rules, end string, bare func(string) bool, w *work) *reader {
	return &reader{bare: bare, work: w, Lexer: sqltext.Lexer{Text: text, Rules: rules, KeepComments: true}, end: end}
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
	k = tok{text: r.Text[t.Start:t.End], kind: t.Kind, glued: between == "" && r.last > 0}
	if between != "" && between != " " {
		k.breaks = int32(strings.Count(between, "\n"))
	}
	r.last = t.End
	switch t.Kind {
	case sqltext.Comment:
		k.text = strings.TrimRight(k.text, " \t\r")
	case sqltext.Symbol:
		for r.end != "" || joins(k.text) {
			more := r.raw()
			s := r.Text[more.Start:more.End]
			if more.Kind != sqltext.Symbol || more.Start != r.last || !(joins(s) && joins(k.text) || r.end != "" && strings.HasPrefix(r.end, k.text+s)) {
				r.held = &more
				break
			}
			k.text = r.Text[t.Start:more.End]
			r.last = more.End
		}
	case sqltext.QuotedName:
		k.text, k.kind = r.unquoted(t)
	case sqltext.Word:
		if !r.dot {
			k.word = r.capitals(k.text)
			k.soft = r.word != "" && softWords[k.word] && soft[[2]string{r.word, k.word}]
		}
	}
	r.word, r.dot = k.word, k.text == "."
	k.measure()
	return k, true
}

// unquoted returns a name without its quotes where it means the same, and is not glued to another word. What stands between
// double quotes may be a string where brackets and backticks quote names, too.
func (r *reader) unquoted(t sqltext.Token) (string, sqltext.TokenKind) {
	text := r.Text[t.Start:t.End]
	if r.bare == nil || text[0] == '"' && r.Rules.Backticks || t.Start > 0 && wordy(r.Text[t.Start-1]) || t.End < len(r.Text) && (wordy(r.Text[t.End]) || r.Text[t.End] == '(') {
		return text, t.Kind
	}
	if name := sqltext.Unquote(r.Text, t, r.Rules); r.bare(name) && (!r.Rules.FoldLower || name == strings.ToLower(name)) && !keyword(name) && !softWords[strings.ToUpper(name)] {
		return name, sqltext.Word
	}
	return text, t.Kind
}

// wordy reports whether a word that stands beside a byte would be one with it.
func wordy(c byte) bool {
	return c == '_' || c == '$' || c == '#' || c == '@' || c == '\'' || c == '&' || '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || c >= 0x80
}

// nodes calls each with the tokens and groups of a text, one by one, and with the one behind, nil for the last.
func (r *reader) nodes(each func(n, next *node)) {
	var list []node   // what stands in the brackets that are open
	var opened []int  // where in it the brackets are
	var slots [2]node // the one before and the present one, in turn
	given := 0
	give := func(n *node) {
		slots[given%2] = *n
		if given++; given > 1 {
			each(&slots[given%2], &slots[(given+1)%2])
		}
	}
	for t, ok := r.next(); ok; t, ok = r.next() {
		switch {
		case t.kind == sqltext.Symbol && t.text == "(":
			opened, list = append(opened, len(list)), append(list, node{tok: t})
			continue
		case t.kind == sqltext.Symbol && t.text == ")" && len(opened) > 0:
			at := opened[len(opened)-1]
			g := group(list[at].tok, r.keep(list[at+1:]))
			list, opened = list[:at], opened[:len(opened)-1]
			if len(opened) > 0 {
				list = append(list, g)
			} else {
				give(&g)
			}
		case len(opened) > 0:
			list = append(list, node{tok: t})
		default:
			give(&node{tok: t})
		}
	}
	for i := range list { // what is not closed stays as it is
		give(&list[i])
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
	g.width, g.broken = int32(width)+2, !ok
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
	case b.spaced && ends(a):
		return true
	case a.spaced:
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
var soft = func() map[[2]string]bool {
	all := map[[2]string]bool{}
	for _, pair := range strings.Split("PRIMARY KEY,FOREIGN KEY,ON CONFLICT,ON DUPLICATE,DUPLICATE KEY,WITH RECURSIVE,DELETE CASCADE,UPDATE CASCADE,DELETE RESTRICT,UPDATE RESTRICT,GENERATED ALWAYS,AS IDENTITY,DO NOTHING,"+
		"OR REPLACE,IF EXISTS,CREATE INDEX,UNIQUE INDEX,CREATE SEQUENCE,CREATE TYPE,CREATE DOMAIN,CREATE SCHEMA,CREATE MATERIALIZED,CREATE TEMPORARY,CREATE TEMP,CREATE UNIQUE,DROP INDEX,DROP SEQUENCE,DROP TYPE,DROP SCHEMA,ALTER COLUMN,"+
		"ADD COLUMN,DROP COLUMN,TABLE ADD,RETURN QUERY,RETURN NEXT,EACH ROW,FOR EACH,RETURNS SETOF,INNER APPLY,CROSS APPLY,OUTER APPLY,NULLS FIRST,NULLS LAST,BEGIN TRY,END TRY,BEGIN CATCH,END CATCH,SET NOCOUNT,SELECT TOP,BEGIN TRANSACTION,BEGIN TRAN,COMMIT TRANSACTION,ROLLBACK TRANSACTION", ",") {
		first, second, _ := strings.Cut(pair, " ")
		all[[2]string{first, second}] = true
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
		all[pair[1]] = true
	}
	return all
}()

// wordSet returns a set of words.
func wordSet(list string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(list) {
		all[w] = true
	}
	return all
}

var keywords = wordSet(`SELECT FROM WHERE GROUP ORDER HAVING JOIN INNER LEFT RIGHT FULL OUTER CROSS NATURAL ON USING UNION INTERSECT EXCEPT ALL DISTINCT AS AND OR NOT IN IS NULL LIKE BETWEEN EXISTS
CASE WHEN THEN ELSE END INSERT INTO VALUES UPDATE SET DELETE CREATE TABLE VIEW PRIMARY FOREIGN REFERENCES UNIQUE CHECK CONSTRAINT DEFAULT ALTER DROP WITH LIMIT OFFSET ASC DESC CAST RETURNING TRIGGER
FUNCTION PROCEDURE BEGIN DECLARE IF ELSIF ELSEIF LOOP WHILE RETURN RETURNS FOR BY GRANT REVOKE TO MERGE OVER PARTITION WINDOW FETCH EXEC EXECUTE CALL`)
