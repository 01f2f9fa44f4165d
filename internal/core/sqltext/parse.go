package sqltext

// The parser is one recursive descent over the statements and clauses of all dialects. It needs no catalogue, and it never
// fails: what it does not know is passed by token by token until something is known again, each token once, so that its time
// is linear in the length of the text. What it finds is a tree of scopes (tree.go).

// deepest is how deep brackets and blocks are followed; what lies deeper is passed by.
const deepest = 400

// parser is the state of a descent.
type parser struct {
	*Tree
	at    int
	own   []token // that are the text's own, and not those of texts in strings
	scope *Scope
	depth int
	loops []*Scope // of the loops that are open: the scope outside of each
	pairs []int32  // by token: where the bracket that opens there closes; made when it is first asked for
	// args says that arguments of a function are read: name.* is a whole row there.
	args     bool
	assigned map[string][]assignment // to variables, by their names folded
	executed []execution
	// rowType says that the type that was read last is that of a relation's rows.
	rowType bool
}

// Parse understands a text of statements, or the body of a routine.
func Parse(text string, rules *Rules) *Tree { return new(Memory).Parse(text, rules) }

// Parse is like the function of that name.
func (m *Memory) Parse(text string, rules *Rules) *Tree {
	p := m.parser(text, rules)
	for p.more() {
		p.statements()
		p.at++ // an END or a bracket that closes nothing
	}
	p.runVariables()
	return p.Tree
}

// ParseExpression understands an expression of the row of a relation, such as a check or a default.
func ParseExpression(text string, rules *Rules) *Tree {
	return new(Memory).ParseExpression(text, rules)
}

// ParseExpression is like the function of that name.
func (m *Memory) ParseExpression(text string, rules *Rules) *Tree {
	p := m.parser(text, rules)
	for p.more() {
		p.expressions()
		p.at++
	}
	return p.Tree
}

func (m *Memory) parser(text string, rules *Rules) *parser {
	m.reset()
	m.tokens = cut(m.tokens[:0], text, rules)
	m.tree = Tree{Text: text, Rules: rules, memory: m, tokens: m.tokens}
	m.descent = parser{Tree: &m.tree, own: m.tokens, loops: m.descent.loops[:0]}
	m.descent.root()
	return &m.descent
}

// within returns a parser of a text that is a part of another, which works in the same memory.
func (m *Memory) within(text string, rules *Rules) *parser {
	p := &parser{Tree: &Tree{Text: text, Rules: rules, memory: m, tokens: cut(nil, text, rules)}}
	p.own = p.tokens
	p.root()
	return p
}

// root opens the scope that holds all.
func (p *parser) root() {
	p.scope = p.memory.scope(Block, nil, 0)
	p.scope.Stop = len(p.Text)
	p.Root = p.scope
}

// cut appends the tokens of a text. Most are words and single symbols between blanks: they are cut here, all others by the lexer.
func cut(tokens []token, text string, rules *Rules) []token {
	if cap(tokens) == 0 {
		tokens = make([]token, 0, len(text)/5+4)
	}
	l := Lexer{Text: text, Rules: *rules}
	for start := 0; start < len(text); {
		class := classes[text[start]]
		if class&blank != 0 {
			start++
			continue
		}
		end := start + 1
		if class&plain != 0 {
			all := class
			for end < len(text) {
				c := classes[text[end]]
				if c&wordPart == 0 {
					break
				}
				all |= c
				end++
			}
			if end > start+1 || end == len(text) || text[end] != '\'' {
				tokens = append(tokens, token{Word, keywordOf(text[start:end]), 0, all&folds != 0, int32(start), int32(end)})
				start = end
				continue
			}
		} else if class&alone != 0 || text[start] == '.' && (end == len(text) || !isDigit(text[end])) {
			tokens = append(tokens, token{Symbol, kNone, text[start], false, int32(start), int32(end)})
			start = end
			continue
		}
		l.pos = start
		tok := l.Next()
		start = l.pos
		switch tok.Kind {
		case End:
			return tokens
		case Word:
			tokens = append(tokens, token{Word, keywordOf(text[tok.Start:tok.End]), 0, true, int32(tok.Start), int32(tok.End)})
		case Symbol:
			tokens = append(tokens, token{Symbol, kNone, text[tok.Start], false, int32(tok.Start), int32(tok.End)})
		default:
			tokens = append(tokens, token{tok.Kind, kNone, 0, true, int32(tok.Start), int32(tok.End)})
		}
	}
	return tokens
}

func (p *parser) more() bool { return p.at < len(p.own) }

// word returns the keyword n tokens on.
func (p *parser) word(n int) keyword {
	if i := p.at + n; uint(i) < uint(len(p.own)) {
		return p.own[i].word
	}
	return kNone
}

// symbol returns the symbol n tokens on, as its first byte; 0 if it is none.
func (p *parser) symbol(n int) byte {
	if i := p.at + n; uint(i) < uint(len(p.own)) {
		return p.own[i].symbol
	}
	return 0
}

func (p *parser) kind(n int) TokenKind {
	if i := p.at + n; uint(i) < uint(len(p.own)) {
		return p.own[i].kind
	}
	return End
}

// is reports whether the token n on is a word without a keyword's number, by its small letters.
func (p *parser) is(n int, word string) bool {
	i := p.at + n
	if uint(i) >= uint(len(p.own)) {
		return false
	}
	tok := &p.own[i]
	return int(tok.end-tok.start) == len(word) && tok.kind == Word && equalFold(word, p.Text[tok.start:tok.end])
}

// take passes a keyword by, and reports whether it stood there.
func (p *parser) take(k keyword) bool {
	if p.word(0) == k {
		p.at++
		return true
	}
	return false
}

func (p *parser) takeSymbol(c byte) bool {
	if p.symbol(0) == c {
		p.at++
		return true
	}
	return false
}

// start returns where the token stands, in bytes.
func (p *parser) start() int {
	if p.more() {
		return int(p.own[p.at].start)
	}
	return len(p.Text)
}

// stop returns where the token before ends.
func (p *parser) stop() int {
	if i := p.at - 1; uint(i) < uint(len(p.own)) {
		return int(p.own[i].end)
	}
	return 0
}

// isName reports whether the token n on can be a part of a name.
func (p *parser) isName(n int) bool {
	k := p.kind(n)
	return k == Word || k == QuotedName || k == String && p.Rules.DoubleQuoteStrings && p.Text[p.tokens[p.at+n].start] == '"' && p.symbol(n-1) == '.'
}

// name reads a name of up to four parts with dots between; a part may be left out between two dots.
func (p *parser) name() Name {
	n := Name{}
	add := func(part int32) {
		// What is written in front of the parts that fit, a server, is let go; a part that is left out does not lead.
		for n.N() == len(n.Parts) || n.N() > 0 && n.Parts[0] < 0 {
			copy(n.Parts[:], n.Parts[1:])
			n.n--
		}
		n.Parts[n.n] = part
		n.n++
	}
	add(int32(p.at))
	p.at++
	for p.symbol(0) == '.' {
		switch {
		case p.isName(1):
			add(int32(p.at + 1))
			p.at += 2
		case p.symbol(1) == '.' && p.Rules.HashNames && p.isName(2):
			add(-1)
			add(int32(p.at + 2))
			p.at += 3
		default:
			if p.kind(1) == Placeholder { // the rest of the name is put in when it runs
				n.partial = true
				p.at += 2
			}
			return n
		}
	}
	return n
}

// open makes a scope in the present one, and goes into it.
func (p *parser) open(kind ScopeKind) *Scope {
	s := p.memory.scope(kind, p.scope, p.start())
	p.scope.Children = append(p.scope.Children, s)
	p.scope = s
	return s
}

// close leaves a scope.
func (p *parser) close(s *Scope) {
	s.Stop = max(s.Start, p.stop())
	p.scope = s.Parent
}

// ref notes a reference of the present scope.
func (p *parser) ref(r Ref) {
	if r.Name.N() > 0 && r.Stop == 0 {
		first := max(r.Name.Parts[0], 0)
		r.Start, r.Stop = int(p.tokens[first].start), int(p.tokens[r.Name.Parts[r.Name.N()-1]].end)
	}
	p.scope.Refs = append(p.scope.Refs, r)
}

// skipTo passes tokens by up to a symbol or the end, brackets as a whole.
func (p *parser) skipTo(symbols ...byte) {
	for depth := 0; p.more(); p.at++ {
		c := p.symbol(0)
		if depth == 0 {
			for _, s := range symbols {
				if c == s {
					return
				}
			}
			if c == ')' {
				return
			}
		}
		switch c {
		case '(':
			depth++
		case ')':
			depth--
		}
	}
}

// skipBrackets passes by what stands in brackets, and the brackets.
func (p *parser) skipBrackets() {
	p.at++
	p.skipTo(')')
	p.takeSymbol(')')
}

// behindBracket returns how many tokens on the token behind the brackets stands that open n tokens on.
func (p *parser) behindBracket(n int) int {
	if p.pairs == nil {
		p.pairs = make([]int32, len(p.own))
		var open []int32
		for i := range p.own {
			switch p.own[i].symbol {
			case '(':
				open = append(open, int32(i))
			case ')':
				if len(open) > 0 {
					p.pairs[open[len(open)-1]] = int32(i)
					open = open[:len(open)-1]
				}
			}
		}
	}
	if at := p.at + n; at < len(p.own) && p.pairs[at] > 0 {
		return int(p.pairs[at]) + 1 - p.at
	}
	return len(p.own) - p.at
}

// deeper enters another level, and reports whether it may be followed; if not, the brackets are passed by.
func (p *parser) deeper() bool {
	if p.depth >= deepest {
		if p.symbol(0) == '(' {
			p.skipBrackets()
		} else {
			p.at++
		}
		return false
	}
	p.depth++
	return true
}
