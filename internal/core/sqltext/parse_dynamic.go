package sqltext

// SQL in strings: a constant is read as SQL, and what is found in it is guessed; of all else it is only known that it runs.

// execute reads EXECUTE or EXEC: a procedure that is called, a prepared statement, or an expression that is run as SQL.
func (p *parser) execute() {
	p.at++
	if p.take(kImmediate) {
		p.dynamic()
		return
	}
	if p.tsql() {
		p.exec()
		return
	}
	if p.mysql() { // a prepared statement; what it holds was read at PREPARE
		p.at++
		if p.take(kUsing) {
			p.expressions()
		}
		return
	}
	p.dynamic()
}

// exec reads what follows EXEC in T-SQL.
func (p *parser) exec() {
	if p.symbol(0) == '(' {
		p.at++
		p.dynamic()
		p.closing()
		return
	}
	if p.kind(0) == Placeholder && p.symbol(1) == '=' { // @result = procedure
		p.at += 2
	}
	switch {
	case p.kind(0) == Placeholder: // the name is in a variable
		p.ref(Ref{Kind: ToUnseen, Start: p.start(), Stop: int(p.tokens[p.at].end)})
		p.at++
	case p.isName(0):
		n := p.name()
		last := int(n.Parts[n.N()-1])
		if p.isText(last, "sp_executesql") {
			if p.kind(0) == Placeholder && p.symbol(1) == '=' {
				p.at += 2
			}
			p.dynamic()
			p.takeSymbol(',')
		} else {
			p.ref(Ref{Kind: ToRoutine, Name: n})
		}
	}
	for p.more() && p.symbol(0) != ';' && !p.begins() {
		before := p.at
		if p.kind(0) == Placeholder && p.symbol(1) == '=' {
			p.at += 2
		}
		if p.word(0) == kOutput || p.is(0, "out") {
			p.at++
		}
		if p.kind(0) == Word && p.symbol(1) != '(' && p.symbol(1) != '.' { // a word as a value
			p.at++
		} else {
			p.expression()
		}
		if p.word(0) == kOutput || p.is(0, "out") {
			p.at++
		}
		if !p.takeSymbol(',') {
			if p.word(0) == kWith {
				p.at += 2
			}
			if p.at == before || p.symbol(-1) != ',' {
				return
			}
		}
	}
}

// dynamic reads an expression that is run as SQL, and what follows it.
func (p *parser) dynamic() {
	from, scope := p.at, p.scope
	p.expression()
	if !p.runs(from, p.at, scope) {
		p.text(from, p.at, scope)
	}
	for p.word(0) == kInto || p.word(0) == kUsing {
		if p.word(0) == kInto {
			p.into()
		} else {
			p.at++
			p.expressions()
		}
	}
}

// text reads the constant strings of an expression as SQL. What is joined between them stands for values; where it could be
// a name, or there is nothing constant, it is noted that SQL runs which is not seen.
func (p *parser) text(from, to int, scope *Scope) {
	if to <= from {
		return
	}
	start, stop := int(p.tokens[from].start), int(p.tokens[to-1].end)
	unseen := func() {
		scope.Refs = append(scope.Refs, Ref{Kind: ToUnseen, Start: start, Stop: stop})
	}
	if p.depth >= deepest || p.depth > 20 {
		unseen()
		return
	}
	d := spoken{p: p}
	d.join(from, to)
	if len(d.places) == 0 {
		unseen()
		return
	}
	inner := p.memory.within(string(d.text), p.Rules)
	if !p.readInner(inner, &d, scope) {
		unseen()
	}
}

// readInner reads a text that was put together, and reports whether all of it is known.
func (p *parser) readInner(inner *parser, d *spoken, scope *Scope) (whole bool) {
	inner.depth = p.depth + 10
	for inner.more() {
		inner.statements()
		inner.at++
	}
	inner.runVariables()
	whole = !d.gaps || !d.unsure && inner.names()
	p.adopt(inner, scope, d.places)
	return whole
}

// names reports whether a text that has gaps is understood all the same: a statement that is known, with names where names
// have to stand.
func (p *parser) names() bool {
	if len(p.own) == 0 {
		return false
	}
	switch p.tokens[0].word {
	case kSelect, kInsert, kUpdate, kDelete, kWith, kCall, kTruncate:
	default:
		return false
	}
	for i, tok := range p.own {
		if tok.kind != Placeholder || i == 0 {
			continue
		}
		switch p.tokens[i-1].word {
		case kFrom, kJoin, kInto, kUpdate, kTable, kBy, kSet, kSelect, kWhere, kAnd, kOr:
			return false
		}
		if p.tokens[i-1].kind == Placeholder || p.Text[p.tokens[i-1].start:p.tokens[i-1].end] == "." {
			return false
		}
	}
	return true
}

// adopt takes over the scopes of a text that stood in strings, with the places that it has in the whole.
func (p *parser) adopt(inner *parser, into *Scope, places []int32) {
	place := func(at int) int {
		if at >= len(places) {
			return int(places[len(places)-1]) + 1
		}
		return int(places[at])
	}
	base := int32(len(p.tokens))
	// The text of the inner tokens is that of the whole, or of a name the name itself; where it is neither, the name cannot be told.
	lost := map[int32]bool{}
	for i, tok := range inner.tokens {
		start := place(int(tok.start))
		moved := token{tok.kind, tok.word, tok.symbol, tok.folds, int32(start), int32(max(start, place(int(tok.end)-1)+1))}
		if tok.kind == QuotedName || tok.kind == Word {
			switch said, own := p.Text[moved.start:moved.end], inner.Text[tok.start:tok.end]; {
			case said == own:
			case said == unquote(own, tok.kind, p.Rules):
				moved.folds = false
			default:
				moved.kind, moved.folds, lost[base+int32(i)] = Word, false, true
			}
		}
		p.Tree.tokens = append(p.Tree.tokens, moved)
	}
	shift := func(n *Name) {
		for i := range n.N() {
			if n.Parts[i] >= 0 {
				n.Parts[i] += base
				if lost[n.Parts[i]] && !n.partial {
					n.partial = true
					into.Refs = append(into.Refs, Ref{Kind: ToUnseen, Start: int(p.Tree.tokens[n.Parts[i]].start), Stop: int(p.Tree.tokens[n.Parts[i]].end)})
				}
			}
		}
	}
	var walk func(s *Scope)
	walk = func(s *Scope) {
		s.Start, s.Stop = place(s.Start), place(max(s.Stop-1, 0))+1
		s.Stop = max(s.Start, s.Stop) // what is put in may stand behind
		for i := range s.Refs {
			r := &s.Refs[i]
			shift(&r.Name)
			r.Start, r.Stop, r.Guessed = place(r.Start), place(max(r.Stop-1, 0))+1, true
			if r.Stop < r.Start { // of a name in several places, the last part has it
				if last := r.Name.N() - 1; last >= 0 && r.Name.Parts[last] >= 0 {
					tok := p.Tree.tokens[r.Name.Parts[last]]
					r.Start, r.Stop = int(tok.start), int(tok.end)
				} else {
					r.Stop = r.Start
				}
			}
		}
		for _, x := range s.Sources {
			shift(&x.Name)
			x.guessed = true
		}
		for _, v := range s.Variables {
			shift(&v.Row)
		}
		for _, c := range s.Children {
			walk(c)
		}
	}
	walk(inner.Root)
	inner.Root.Parent = into
	inner.Root.sealed = true
	into.Children = append(into.Children, inner.Root)
}
