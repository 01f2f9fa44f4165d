package format

// A text of statements and blocks: each statement in lines of its own, blocks indented. What opens and closes a block is told
// by the words at the beginning of statements, so that a word within an expression opens nothing.

import (
	"bytes"
	"slices"
	"strings"

	"echo-atlas/internal/core/sqltext"
)

type program struct {
	printer
	begun    bool     // there is a line
	blocks   []string // what is open: begin, declare, if, loop, case, when, exception, repeat
	current  []node
	cases    int      // CASE expressions that are open in the present statement
	once     bool     // the next statement is the only one of an IF, WHILE or ELSE of T-SQL
	gap      bool     // a blank line stood before the present statement
	remarked bool     // there is a comment in the present statement
	tall     bool     // the statement before has several lines
	stands   bool     // and is whole
	behind   *node    // what comes behind the present statement, or the token that is taken
	again    int      // how many tokens of a statement are taken once more
	around   []string // the blocks that were open where the present statement begins

	behindOther bool // a statement stands above the text, and an empty line between
	ended       bool // the text ends with a whole statement, and no block is open
}

func (p *program) tsql() bool  { return p.rules.HashNames }
func (p *program) mysql() bool { return p.rules.Backticks && !p.rules.Brackets }

// format appends a text, laid out, to b.
func (p *program) format(b []byte, text string) []byte {
	defer p.work.within()()
	in := p.work.room
	p.work.room = room{} // a body within has its own
	if in.out == nil {
		in.out, in.current = make([]byte, 0, len(text)+len(text)/4), make([]node, 0, 64)
	}
	p.out, p.current = in.out[:0], in.current[:0]
	defer func() { p.work.room = room{p.out, p.current, in.list, in.opened} }()
	if p.behindOther { // which a sign stands for
		p.out, p.begun, p.stands = append(p.out, ';'), true, true
	}
	above := len(p.out)
	r := p.reader(text)
	r.nodes(&in, p.take)
	p.ended = r.last == len(text) && r.sign == ';' && !r.unclosed && len(p.current) == 0 && len(p.blocks) == 0 && !p.once
	p.flush()
	if len(p.out) == above {
		return b
	}
	if p.out[len(p.out)-1] != '\n' { // which what is not closed may hold
		p.out = append(p.out, '\n')
	}
	return append(b, p.out[above:]...)
}

// next begins the next line.
func (p *program) next() {
	if p.begun {
		p.out = append(p.out, '\n')
	}
	p.begun = true
}

// above reports whether there is a line above that is not empty.
func (p *program) above() bool { return p.begun && len(p.out) > 0 && p.out[len(p.out)-1] != '\n' }

// take takes the next token.
func (p *program) take(n, behind *node) {
	p.consume(n, behind)
	if len(p.current) == 0 && (behind == nil || !behind.group) { // what stood in brackets is not asked for again
		p.work.nodes = p.work.nodes[:p.work.base]
	}
}

func (p *program) consume(n, behind *node) {
	if p.end != "" && n.text == p.end {
		p.current = append(p.current, *n)
		p.flush()
		p.blocks = nil
		return
	}
	if len(p.current) == 0 {
		p.gap = n.breaks > 1
	}
	if n.kind == sqltext.Comment && (len(p.current) == 0 || onlyComments(p.current)) {
		p.comment(n)
		return
	}
	if p.tsql() && len(p.current) > 0 && n.breaks > 0 && begins(p.current, p.cases, n.word) && !(n.word == wUPDATE && behind != nil && behind.group && behind.glued) {
		p.behind = n
		p.flush()
	}
	if p.ends(n, behind) {
		p.behind = n
		p.flush()
	}
	if len(p.current) == 0 {
		p.around = append(p.around[:0], p.blocks...)
	}
	p.behind = behind
	next := none
	if behind != nil {
		next = behind.word
		if behind.sign == ';' {
			next = semicolon
		}
	}
	if p.block(n, next) {
		return
	}
	switch n.word {
	case wCASE:
		p.cases++
	case wEND:
		p.cases = max(0, p.cases-1)
	}
	p.current = append(p.current, *n)
	p.remarked = p.remarked || n.remark
	if n.sign == ';' {
		p.flush()
	}
}

// ends reports whether END ends a block of T-SQL behind a statement that no semicolon ends.
func (p *program) ends(n, behind *node) bool {
	return n.word == wEND && p.tsql() && p.cases == 0 && len(p.current) > 0 && len(p.blocks) > 0 && !(behind != nil && strings.EqualFold(behind.text, "conversation"))
}

func onlyComments(list []node) bool {
	return !slices.ContainsFunc(list, func(n node) bool { return n.kind != sqltext.Comment })
}

// comment writes a comment between statements: beside the one before, where it stood there.
func (p *program) comment(n *node) {
	if n.breaks == 0 && p.above() && !strings.Contains(n.text, "\n") {
		p.string(" " + n.text)
		return
	}
	if n.breaks > 1 && p.begun {
		p.next()
	}
	p.next()
	p.pad(p.level())
	p.string(n.text)
}

// level returns the column at which statements begin.
func (p *program) level() int {
	const deepest = 20 // what is deeper is a text whose blocks are not understood
	n := len(p.blocks)
	if p.once {
		n++
	}
	return min(n, deepest) * p.Indent
}

// flush writes the present statement.
func (p *program) flush() {
	list := p.current
	p.current, p.cases = p.current[:0], 0
	if len(list) == 0 {
		return
	}
	before := p.state()
	if p.gap && p.above() {
		p.next()
	}
	p.gap = false
	at := p.level()
	p.bodies(list)
	apart := len(p.blocks) == 0 && !p.once && p.above() && p.stands // statements of several lines stand apart
	p.next()
	start := len(p.out)
	p.pad(at)
	p.statement(list, at)
	tall := bytes.IndexByte(p.out[start:], '\n') >= 0
	if apart && (tall || p.tall) {
		p.out = slices.Insert(p.out, start, '\n')
	}
	last := &list[len(list)-1]
	if p.remarked && !p.work.unsettled {
		p.work.unsettled = (p.Align || moved(list) || p.tsql() && splits(list, func(n *node) bool { return n.first })) && !p.stays(string(bytes.TrimLeft(p.out[start:], " \n")), at)
	} else if p.tsql() && tall && splits(list, func(n *node) bool { return n.first }) {
		if p.again == 0 || len(list) < p.again {
			p.reset(before)
			p.retake(list)
			return
		}
		p.work.unsettled = true
	}
	p.remarked = false
	p.tall, p.stands = tall, last.sign == ';' || p.end != "" && last.text == p.end
	p.once = p.tsql() && !slices.ContainsFunc(list, func(n node) bool { return n.sign == ';' }) && (list[0].word == wIF || list[0].word == wWHILE || list[0].word == wELSE) && !p.wholeIf(list)
}

// state is what a statement changes.
type state struct {
	out                            int
	begun, gap, once, tall, stands bool
}

func (p *program) state() state {
	return state{len(p.out), p.begun, p.gap, p.once, p.tall, p.stands}
}

func (p *program) reset(s state) {
	p.out, p.begun, p.gap, p.once, p.tall, p.stands = p.out[:s.out], s.begun, s.gap, s.once, s.tall, s.stands
}

// retake takes the tokens of a statement once more, at the beginnings of lines where it would have put them: there statements begin.
func (p *program) retake(list []node) {
	outer, behind := p.again, p.behind
	p.again = len(list)
	p.blocks = append(p.blocks[:0], p.around...)
	p.current = p.current[:0] // in the place of the list, and never ahead of what is read of it
	for i := range list {
		n := list[i]
		if i > 0 {
			if n.breaks = 0; n.first {
				n.breaks = 1
			}
		}
		n.first = false
		next := behind
		if i+1 < len(list) {
			next = &list[i+1]
		}
		p.consume(&n, next)
	}
	p.behind = behind
	p.flush()
	p.again = outer
}

// splits reports whether a statement of T-SQL would be taken for several where some of its words stand first on a line.
func splits(list []node, first func(*node) bool) bool {
	cases := 0
	for i := range list {
		n := &list[i]
		if i > 0 && first(n) && begins(list[:i], cases, n.word) && !(n.word == wUPDATE && asked(list, i)) {
			return true
		}
		switch n.word {
		case wCASE:
			cases++
		case wEND:
			cases = max(0, cases-1)
		}
	}
	return false
}

// moved reports whether a comment stands first on a line and did not before, or the other way about: on nothing else bears where something stood.
func moved(list []node) bool {
	for i := range list {
		n := &list[i]
		if n.kind == sqltext.Comment && !n.group && n.first != (n.breaks > 0) || n.group && n.remark && moved(n.inner) {
			return true
		}
	}
	return false
}

// stays reports whether a statement that was laid out would be laid out in the same way. Without comments it is: where something stands bears on
// nothing then, but in T-SQL on where statements begin.
func (p *program) stays(text string, at int) bool {
	in, nodes, base, chunks := p.work.room, p.work.nodes, p.work.base, p.work.chunks
	list := in.current[:0]
	p.reader(text).nodes(&in, func(n, _ *node) { list = append(list, *n) })
	if p.tsql() && splits(list, func(n *node) bool { return n.breaks > 0 }) {
		return false
	}
	again := printer{Style: p.Style, rules: p.rules, end: p.end, work: p.work, out: in.out[:0]}
	again.statement(list, at)
	in.current, in.out = list, again.out
	p.work.room, p.work.nodes, p.work.base, p.work.chunks = in, nodes, base, chunks // what stood in brackets here is not asked for again
	return string(again.out) == text
}

// bodies lays out what stands in dollar quotes where that is SQL: the body of a routine in SQL or PL/pgSQL, and of DO.
func (p *program) bodies(list []node) {
	if !p.rules.DollarQuotes {
		return
	}
	speaks := list[0].word == wDO && !slices.ContainsFunc(list, func(n node) bool { return n.word == wLANGUAGE })
	for i := 1; i < len(list); i++ {
		speaks = speaks || list[i-1].word == wLANGUAGE && (list[i].word == wSQL || list[i].word == wPLPGSQL)
	}
	for i := range list {
		open, body, shut, ok := dollars(list[i].text)
		if !speaks || !ok || list[i].kind != sqltext.String {
			continue
		}
		if strings.TrimSpace(body) == "" {
			continue
		}
		out, known := p.work.bodies[body]
		if !known {
			unsettled := p.work.unsettled
			out, ok = p.work.text(body, p.rules, p.Style)
			p.work.unsettled = unsettled
			if ok {
				out = "\n" + strings.TrimSpace(out) + "\n"
			}
			p.work.bodies[body] = out
			p.work.bodies[out] = out // it gives itself
		}
		if out != "" {
			list[i].text = open + out + shut
			list[i].measure()
		}
	}
}

// dollars cuts a string in dollar quotes.
func dollars(s string) (open, body, shut string, ok bool) {
	if !strings.HasPrefix(s, "$") {
		return "", "", "", false
	}
	n := strings.IndexByte(s[1:], '$') + 2
	if n < 2 || len(s) < 2*n {
		return "", "", "", false
	}
	return s[:n], s[n : len(s)-n], s[len(s)-n:], true
}

// wholeIf reports whether an IF of T-SQL has its statement on the same line.
func (p *program) wholeIf(list []node) bool {
	for _, n := range list[1:] {
		switch n.word {
		case wSELECT, wINSERT, wUPDATE, wDELETE, wSET, wEXEC, wEXECUTE, wRETURN, wPRINT, wRAISERROR, wTHROW, wBREAK, wCONTINUE, wGOTO, wDROP, wCREATE, wTRUNCATE, wROLLBACK, wCOMMIT, wDECLARE, wMERGE, wWAITFOR, wSAVE:
			return true
		}
	}
	return false
}

// begins reports whether a word at the beginning of a line begins a statement of T-SQL, and does not go on with the present one, in which
// so many CASE expressions are open.
func begins(current []node, cases int, w word) bool {
	first := none
	for _, n := range current {
		if n.kind != sqltext.Comment {
			first = n.word
			break
		}
	}
	has := func(words ...word) bool {
		return slices.ContainsFunc(current, func(n node) bool { return slices.Contains(words, n.word) })
	}
	last := current[len(current)-1].word
	switch w {
	case wSELECT:
		return !(first == wINSERT && !has(wSELECT, wVALUES, wEXEC) || first == wWITH && !has(wSELECT) || last == wUNION || last == wALL || last == wEXCEPT || last == wINTERSECT || last == wAS || last == wFOR || last == wIF || last == wRETURN || last == wOUTPUT)
	case wSET:
		return !((first == wUPDATE || first == wMERGE || first == wWITH || first == wIF || first == wELSE) && !has(wSET) || first == wMERGE || last == wUPDATE)
	case wUPDATE, wDELETE, wINSERT:
		return first != wMERGE && !(first == wWITH && !has(wUPDATE, wDELETE, wINSERT, wSELECT)) && last != wFOR && last != wAFTER && last != wOF && !has(wTRIGGER)
	case wEXEC, wEXECUTE:
		return !(first == wINSERT && !has(wEXEC, wSELECT, wVALUES)) && last != wWITH
	case wDECLARE, wIF, wELSE, wWHILE, wRETURN, wPRINT, wMERGE, wRAISERROR, wTHROW, wTRUNCATE, wCOMMIT, wROLLBACK, wOPEN, wCLOSE, wDEALLOCATE, wGOTO, wBREAK, wCONTINUE:
		return cases == 0 && last != wAS
	case wFETCH:
		return !has(wOFFSET)
	case wBEGIN, wEND:
		return cases == 0
	case wCREATE, wALTER, wDROP:
		return true
	}
	return false
}

// block handles what opens, parts and closes blocks, and reports whether the token was one of these.
func (p *program) block(n *node, next word) bool {
	start := len(p.current) == 0
	top := ""
	if k := len(p.blocks); k > 0 {
		top = p.blocks[k-1]
	}
	procedural := len(p.blocks) > 0 || p.mysql() || p.rules.DollarQuotes
	switch w := n.word; {
	case w == wBEGIN && p.cases == 0 && next != wTRAN && next != wTRANSACTION && next != wWORK && next != semicolon && next != wIMMEDIATE && next != wEXCLUSIVE && next != wDEFERRED && next != wDISTRIBUTED:
		if top == "declare" {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		if !start {
			behind := p.behind
			p.behind = n
			p.flush()
			p.behind, p.once = behind, false
		}
		p.once = false
		p.opens(n, "begin")
		return true
	case !start && n.sign == ';', p.tsql() && w != wEND && w != wTRY && w != wCATCH:
		return false
	case (w == wTRY || w == wCATCH) && start && top == "begin":
		p.string(" ")
		p.word(&n.tok) // BEGIN TRY
		return true
	case w == wDECLARE && start && p.rules.DollarQuotes:
		p.opens(n, "declare")
		return true
	case w == wEND && start && len(p.blocks) > 0:
		if top == "when" {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		if len(p.blocks) > 0 {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		return false
	case w == wEND && !start && top == "repeat" && p.cases == 0 && p.current[0].word == wUNTIL:
		p.blocks = p.blocks[:len(p.blocks)-1]
		return false
	case w == wTHEN && p.cases == 0 && procedural && !start && opensThen(p.current):
		kind := "if"
		if first := p.current[0].word; first == wWHEN {
			kind = "when"
		}
		p.opens(n, kind)
		return true
	case w == wLOOP && p.cases == 0 && (start || opensLoop(p.current)):
		p.opens(n, "loop")
		return true
	case w == wDO && p.mysql() && !start && (p.current[0].word == wWHILE || p.current[0].word == wFOR || labelled(p.current, wWHILE, wFOR)):
		p.opens(n, "loop")
		return true
	case w == wREPEAT && start && p.mysql():
		p.opens(n, "repeat")
		return true
	case w == wCASE && start && procedural && top != "":
		p.blocks = append(p.blocks, "case")
		p.current = append(p.current, *n)
		return true
	}
	return p.parts(n, top)
}

// parts handles what parts a block: WHEN, ELSE, EXCEPTION and the like at the beginning of a statement.
func (p *program) parts(n *node, top string) bool {
	start := len(p.current) == 0
	switch w := n.word; {
	case (w == wWHEN || w == wELSE) && start && top == "when":
		p.blocks = p.blocks[:len(p.blocks)-1]
		if w == wELSE {
			p.opens(n, "when")
			return true
		}
		return false
	case w == wWHEN && top == "case" && p.cases == 0 && !start: // CASE x: its head ends here
		p.blocks = p.blocks[:len(p.blocks)-1]
		p.flush()
		p.blocks = append(p.blocks, "case")
		return false
	case (w == wELSE || w == wELSIF || w == wELSEIF || w == wUNTIL || w == wEXCEPTION) && start && (top == "if" || top == "repeat" || w == wEXCEPTION && top == "begin"):
		p.blocks = p.blocks[:len(p.blocks)-1]
		switch w {
		case wELSE:
			p.opens(n, "if")
			return true
		case wEXCEPTION:
			p.opens(n, "exception")
			return true
		case wUNTIL:
			p.current = append(p.current, *n)
			p.blocks = append(p.blocks, "repeat")
			return true
		}
		return false
	}
	return false
}

// opens writes a line that opens a block.
func (p *program) opens(n *node, kind string) {
	p.current = append(p.current, *n)
	p.flush()
	p.once = false
	p.blocks = append(p.blocks, kind)
}

// opensThen reports whether THEN belongs to the statement that stands there, and not to an expression in it.
func opensThen(list []node) bool {
	switch list[0].word {
	case wIF, wELSIF, wELSEIF, wWHEN:
		return true
	}
	return false
}

// opensLoop reports whether LOOP ends the head of a loop.
func opensLoop(list []node) bool {
	switch list[0].word {
	case wEND:
		return false
	case wFOR, wWHILE, wFOREACH:
		return true
	}
	return labelled(list, wFOR, wWHILE, wFOREACH) || len(list) <= 2 || list[len(list)-1].text == ":" || strings.HasSuffix(list[len(list)-1].text, ">>")
}

// labelled reports whether a statement has a label in front of one of some words.
func labelled(list []node, words ...word) bool {
	for i := range list[:min(len(list), 6)] {
		if slices.Contains(words, list[i].word) {
			return i > 0
		}
	}
	return false
}
