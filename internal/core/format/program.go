package format

// A text of statements and blocks: each statement in lines of its own, blocks indented. What opens and closes a block is told
// by the words at the beginning of statements, so that a word within an expression opens nothing.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/sqltext"
)

type program struct {
	printer
	lines   []string
	blocks  []string // what is open: begin, declare, if, loop, case, when, exception, repeat
	current []node
	cases   int  // CASE expressions that are open in the present statement
	once    bool // the next statement is the only one of an IF, WHILE or ELSE of T-SQL
	gap     bool // a blank line stood before the present statement
	tall    bool // the statement before has several lines
	stands  bool // and is whole
}

func (p *program) tsql() bool  { return p.rules.HashNames }
func (p *program) mysql() bool { return p.rules.Backticks && !p.rules.Brackets }

// format returns a text, laid out.
func (p *program) format(text string) string {
	newReader(text, p.rules, p.end, p.Bare, p.work).nodes(p.take)
	p.flush()
	if len(p.lines) == 0 {
		return ""
	}
	return strings.Join(p.lines, "\n") + "\n"
}

// take takes the next token.
func (p *program) take(n, behind *node) {
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
	if p.tsql() && len(p.current) > 0 && n.breaks > 0 && p.begins(n.word) && !(n.word == "UPDATE" && behind != nil && behind.group && behind.glued) {
		p.flush()
	}
	next := ""
	if behind != nil {
		next = behind.word
		if behind.text == ";" {
			next = ";"
		}
	}
	if p.block(n, next) {
		return
	}
	switch n.word {
	case "CASE":
		p.cases++
	case "END":
		p.cases = max(0, p.cases-1)
	}
	p.current = append(p.current, *n)
	if n.text == ";" && !n.group {
		p.flush()
	}
}

func onlyComments(list []node) bool {
	return !slices.ContainsFunc(list, func(n node) bool { return n.kind != sqltext.Comment })
}

// comment writes a comment between statements: beside the one before, where it stood there.
func (p *program) comment(n *node) {
	if n.breaks == 0 && len(p.lines) > 0 && !strings.Contains(n.text, "\n") && p.lines[len(p.lines)-1] != "" {
		p.lines[len(p.lines)-1] += " " + n.text
		return
	}
	if n.breaks > 1 && len(p.lines) > 0 {
		p.lines = append(p.lines, "")
	}
	p.lines = append(p.lines, p.pad(p.level())+n.text)
}

// level returns the column at which statements begin.
func (p *program) level() int {
	n := len(p.blocks)
	if p.once {
		n++
	}
	return n * p.Indent
}

// flush writes the present statement.
func (p *program) flush() {
	list := p.current
	p.current, p.cases = p.current[:0], 0
	if len(list) == 0 {
		return
	}
	if p.gap && len(p.lines) > 0 && p.lines[len(p.lines)-1] != "" {
		p.lines = append(p.lines, "")
	}
	p.gap = false
	at := p.level()
	p.bodies(list)
	text := p.pad(at) + p.statement(list, at)
	if n := len(p.lines); len(p.blocks) == 0 && !p.once && n > 0 && p.lines[n-1] != "" && p.stands && (strings.Contains(text, "\n") || p.tall) { // statements of several lines stand apart
		p.lines = append(p.lines, "")
	}
	p.lines = append(p.lines, text)
	p.tall, p.stands = strings.Contains(text, "\n"), list[len(list)-1].text == ";" || p.end != "" && list[len(list)-1].text == p.end
	p.once = p.tsql() && !slices.ContainsFunc(list, func(n node) bool { return n.text == ";" }) && (list[0].word == "IF" || list[0].word == "WHILE" || list[0].word == "ELSE") && !p.wholeIf(list)
}

// bodies lays out what stands in dollar quotes where that is SQL: the body of a routine in SQL or PL/pgSQL, and of DO.
func (p *program) bodies(list []node) {
	if !p.rules.DollarQuotes {
		return
	}
	speaks := list[0].word == "DO" && !slices.ContainsFunc(list, func(n node) bool { return n.word == "LANGUAGE" })
	for i := 1; i < len(list); i++ {
		speaks = speaks || list[i-1].word == "LANGUAGE" && (list[i].word == "SQL" || list[i].word == "PLPGSQL")
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
			if out, ok = p.work.text(body, p.rules, p.Style); ok {
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
		case "SELECT", "INSERT", "UPDATE", "DELETE", "SET", "EXEC", "EXECUTE", "RETURN", "PRINT", "RAISERROR", "THROW", "BREAK", "CONTINUE", "GOTO", "DROP", "CREATE", "TRUNCATE", "ROLLBACK", "COMMIT", "DECLARE", "MERGE", "WAITFOR", "SAVE":
			return true
		}
	}
	return false
}

// begins reports whether a word at the beginning of a line begins a statement of T-SQL, and does not go on with the present one.
func (p *program) begins(word string) bool {
	first := ""
	for _, n := range p.current {
		if n.kind != sqltext.Comment {
			first = n.word
			break
		}
	}
	has := func(words ...string) bool {
		return slices.ContainsFunc(p.current, func(n node) bool { return slices.Contains(words, n.word) })
	}
	last := p.current[len(p.current)-1].word
	switch word {
	case "SELECT":
		return !(first == "INSERT" && !has("SELECT", "VALUES", "EXEC") || first == "WITH" && !has("SELECT") || last == "UNION" || last == "ALL" || last == "EXCEPT" || last == "INTERSECT" || last == "AS" || last == "FOR" || last == "IF" || last == "RETURN" || last == "OUTPUT")
	case "SET":
		return !((first == "UPDATE" || first == "MERGE" || first == "WITH" || first == "IF" || first == "ELSE") && !has("SET") || first == "MERGE" || last == "UPDATE")
	case "UPDATE", "DELETE", "INSERT":
		return first != "MERGE" && !(first == "WITH" && !has("UPDATE", "DELETE", "INSERT", "SELECT")) && last != "FOR" && last != "AFTER" && last != "," && last != "OF" && !has("TRIGGER")
	case "EXEC", "EXECUTE":
		return !(first == "INSERT" && !has("EXEC", "SELECT", "VALUES")) && last != "WITH"
	case "DECLARE", "IF", "ELSE", "WHILE", "RETURN", "PRINT", "MERGE", "RAISERROR", "THROW", "TRUNCATE", "COMMIT", "ROLLBACK", "OPEN", "CLOSE", "DEALLOCATE", "GOTO", "BREAK", "CONTINUE":
		return p.cases == 0 && last != "AS"
	case "FETCH":
		return !has("OFFSET")
	case "BEGIN", "END":
		return p.cases == 0
	case "CREATE", "ALTER", "DROP":
		return true
	}
	return false
}

// block handles what opens, parts and closes blocks, and reports whether the token was one of these.
func (p *program) block(n *node, next string) bool {
	start := len(p.current) == 0
	top := ""
	if k := len(p.blocks); k > 0 {
		top = p.blocks[k-1]
	}
	procedural := len(p.blocks) > 0 || p.mysql() || p.rules.DollarQuotes
	switch w := n.word; {
	case w == "BEGIN" && p.cases == 0 && next != "TRAN" && next != "TRANSACTION" && next != "WORK" && next != ";" && next != "IMMEDIATE" && next != "EXCLUSIVE" && next != "DEFERRED" && next != "DISTRIBUTED":
		if top == "declare" {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		if !start {
			p.flush()
			p.once = false
		}
		p.once = false
		p.line(n, "begin")
		return true
	case !start && n.text == ";" && !n.group, p.tsql() && w != "END" && w != "TRY" && w != "CATCH":
		return false
	case (w == "TRY" || w == "CATCH") && start && top == "begin":
		p.lines[len(p.lines)-1] += " " + p.word(&n.tok) // BEGIN TRY
		return true
	case w == "DECLARE" && start && p.rules.DollarQuotes:
		p.line(n, "declare")
		return true
	case w == "END" && start && len(p.blocks) > 0:
		if top == "when" {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		if len(p.blocks) > 0 {
			p.blocks = p.blocks[:len(p.blocks)-1]
		}
		return false
	case w == "THEN" && p.cases == 0 && procedural && !start && opensThen(p.current):
		kind := "if"
		if first := p.current[0].word; first == "WHEN" {
			kind = "when"
		}
		p.line(n, kind)
		return true
	case w == "LOOP" && p.cases == 0 && (start || opensLoop(p.current)):
		p.line(n, "loop")
		return true
	case w == "DO" && p.mysql() && !start && (p.current[0].word == "WHILE" || p.current[0].word == "FOR" || labelled(p.current, "WHILE", "FOR")):
		p.line(n, "loop")
		return true
	case w == "REPEAT" && start && p.mysql():
		p.line(n, "repeat")
		return true
	case w == "CASE" && start && procedural && top != "":
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
	case (w == "WHEN" || w == "ELSE") && start && top == "when":
		p.blocks = p.blocks[:len(p.blocks)-1]
		if w == "ELSE" {
			p.line(n, "when")
			return true
		}
		return false
	case w == "WHEN" && top == "case" && p.cases == 0 && !start: // CASE x: its head ends here
		p.blocks = p.blocks[:len(p.blocks)-1]
		p.flush()
		p.blocks = append(p.blocks, "case")
		return false
	case (w == "ELSE" || w == "ELSIF" || w == "ELSEIF" || w == "UNTIL" || w == "EXCEPTION") && start && (top == "if" || top == "repeat" || w == "EXCEPTION" && top == "begin"):
		p.blocks = p.blocks[:len(p.blocks)-1]
		switch w {
		case "ELSE":
			p.line(n, "if")
			return true
		case "EXCEPTION":
			p.line(n, "exception")
			return true
		case "UNTIL":
			p.current = append(p.current, *n)
			p.blocks = append(p.blocks, "repeat")
			return true
		}
		return false
	}
	return false
}

// line writes a line that opens a block.
func (p *program) line(n *node, kind string) {
	p.current = append(p.current, *n)
	p.flush()
	p.once = false
	p.blocks = append(p.blocks, kind)
}

// opensThen reports whether THEN belongs to the statement that stands there, and not to an expression in it.
func opensThen(list []node) bool {
	switch list[0].word {
	case "IF", "ELSIF", "ELSEIF", "WHEN":
		return true
	}
	return false
}

// opensLoop reports whether LOOP ends the head of a loop.
func opensLoop(list []node) bool {
	switch list[0].word {
	case "END":
		return false
	case "FOR", "WHILE", "FOREACH":
		return true
	}
	return labelled(list, "FOR", "WHILE", "FOREACH") || len(list) <= 2 || list[len(list)-1].text == ":" || strings.HasSuffix(list[len(list)-1].text, ">>")
}

// labelled reports whether a statement has a label in front of one of some words.
func labelled(list []node, words ...string) bool {
	for i := range list[:min(len(list), 6)] {
		if slices.Contains(words, list[i].word) {
			return i > 0
		}
	}
	return false
}
