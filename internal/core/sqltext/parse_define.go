package sqltext

// Statements that define something: in a routine, tables for its own use; as the text that a server keeps, a view, a trigger
// or a routine with its head.

// create reads CREATE.
func (p *parser) create() {
	p.at++
	temporary := false
	for p.more() {
		switch p.word(0) {
		case kOr:
			p.at += 2
			continue
		case kTemp, kTemporary:
			temporary = true
			p.at++
			continue
		case kTable:
			p.createTable(temporary)
			return
		case kView:
			p.createView()
			return
		case kTrigger:
			p.createTrigger()
			return
		case kFunction, kProcedure, kProc:
			p.nested()
			return
		case kUnique:
			p.at++
			continue
		}
		switch {
		case p.symbol(0) == ';':
			return
		case p.is(0, "rule"):
			p.createRule()
			return
		case p.is(0, "event") && p.mysql():
			for p.more() && p.word(0) != kDo {
				p.at++
			}
			p.take(kDo)
			return
		case p.is(0, "index") || p.is(0, "schema") || p.is(0, "role") || p.is(0, "user") || p.is(0, "database") || p.is(0, "statistics") || p.word(0) == kType || p.is(0, "sequence") || p.is(0, "extension"):
			p.passBy()
			return
		}
		p.at++
	}
}

// createRule reads the head of a rule and what it does.
func (p *parser) createRule() {
	for p.more() && p.word(0) != kDo && p.symbol(0) != ';' {
		if p.take(kWhere) {
			p.expression()
			continue
		}
		if p.word(0) == kOn || p.is(0, "to") { // the event, the relation
			if p.at++; p.is(-1, "to") && p.isName(0) {
				p.ref(Ref{Kind: ToRelation, Name: p.name()})
				continue
			}
		}
		p.at++
	}
	p.take(kDo)
	for p.is(0, "instead") || p.is(0, "also") {
		p.at++
	}
	if p.symbol(0) != '(' || p.startsQuery(0) {
		p.statement()
		return
	}
	for p.at++; p.more() && p.symbol(0) != ')'; {
		before := p.at
		p.statement()
		if !p.takeSymbol(';') && p.at == before {
			p.at++
		}
	}
	p.takeSymbol(')')
}

// ifNotExists passes by IF NOT EXISTS.
func (p *parser) ifNotExists() {
	if p.take(kIf) {
		p.take(kNot)
		p.take(kExists)
	}
}

func (p *parser) createTable(temporary bool) {
	p.at++
	p.ifNotExists()
	if !p.isName(0) {
		return
	}
	n := p.name()
	name := p.part(n, n.N()-1)
	local := &Local{Name: name}
	if temporary || name != "" && name[0] == '#' {
		p.scope.Locals = append(p.scope.Locals, local)
	}
	if p.symbol(0) == '(' && !p.startsQuery(0) {
		if p.word(1) == kLike {
			p.at += 2
			if p.isName(0) {
				p.ref(Ref{Kind: ToRelation, Name: p.name()})
			}
			p.skipTo(')')
			p.takeSymbol(')')
		} else {
			local.Columns = p.tableColumns()
		}
	}
	for p.more() && p.symbol(0) != ';' {
		if p.take(kAs) || p.startsQuery(0) {
			if p.startsQuery(0) {
				q := p.query(false)
				if local.Columns == nil {
					local.Query = q
				}
			}
			return
		}
		if p.take(kLike) {
			if p.isName(0) {
				p.ref(Ref{Kind: ToRelation, Name: p.name()})
			}
			return
		}
		if p.tsql() && p.begins() {
			return
		}
		p.at++
	}
}

func (p *parser) createView() {
	p.at++
	p.ifNotExists()
	if p.isName(0) {
		p.name()
	}
	for p.more() && p.symbol(0) != ';' {
		if p.take(kAs) {
			if p.startsQuery(0) {
				p.query(false)
			}
			return
		}
		if p.symbol(0) == '(' {
			p.skipBrackets()
		} else {
			p.at++
		}
	}
}

// createTrigger reads the head of a trigger; its statements follow.
func (p *parser) createTrigger() {
	p.at++
	p.ifNotExists()
	if p.isName(0) {
		p.name()
	}
	var columns []Name // of the table that is named behind
	for p.more() && p.symbol(0) != ';' && p.word(0) != kBegin {
		switch {
		case p.word(0) == kOn && p.isName(1):
			p.at++
			s := p.open(Statement)
			s.Sources = []*Source{{Name: p.name()}}
			for _, n := range columns {
				p.ref(Ref{Kind: ToTarget, Name: n})
			}
			p.close(s)
		case p.word(0) == kOf:
			for p.at++; p.isName(0); {
				columns = append(columns, p.name())
				if !p.takeSymbol(',') {
					break
				}
			}
		case p.is(0, "each") && p.word(1) == kRow:
			if p.at += 2; !p.mysql() {
				continue
			}
			if p.is(0, "follows") || p.is(0, "precedes") {
				p.at += 2
			}
			return // one statement follows, or a block
		case p.word(0) == kWhen:
			p.at++
			p.expression()
			return
		case p.word(0) == kAs && p.tsql():
			p.at++
			return
		default:
			p.at++
		}
	}
}

// nested reads FUNCTION or PROCEDURE: its head, what it declares, and its body where that is not a string.
func (p *parser) nested() {
	p.at++
	p.ifNotExists()
	if !p.isName(0) {
		return
	}
	p.name()
	s := p.open(Block)
	if p.symbol(0) == ';' && p.tsql() { // ;1 numbers a procedure
		p.at += 2
	}
	if p.symbol(0) == '(' {
		p.parameters()
	} else if p.kind(0) == Placeholder {
		p.parameterList()
	}
	for p.more() && p.symbol(0) != ';' {
		switch {
		case p.word(0) == kReturns || p.word(0) == kReturn && !p.tsql() && p.returnsType():
			p.at++
			p.returnType()
			continue
		case p.word(0) == kBegin:
			p.take(kBegin)
			p.block(s)
			return
		case p.word(0) == kAs || p.word(0) == kIs:
			p.at++
			if p.kind(0) == String { // a body in a string is read by itself
				continue
			}
			if !p.tsql() {
				p.section()
				if p.take(kBegin) {
					p.block(s)
				} else {
					p.close(s)
				}
				return
			}
			if p.take(kBegin) {
				p.block(s)
				return
			}
			p.statements()
			p.close(s)
			return
		case p.word(0) == kReturn || p.mysql() && p.startsQuery(0) || p.mysql() && (p.word(0) == kInsert || p.word(0) == kUpdate || p.word(0) == kDelete || p.word(0) == kCall || p.word(0) == kSet || p.word(0) == kIf):
			p.statement()
			p.close(s)
			return
		}
		p.at++
	}
	p.close(s)
}

// returnsType reports whether the word RETURN begins the type in a head, as Oracle mode has it, and not a statement: the body
// follows behind IS or AS.
func (p *parser) returnsType() bool {
	if p.kind(1) != Word && p.kind(1) != QuotedName {
		return false
	}
	n := 2
	for p.symbol(n) == '.' || p.symbol(n) == '%' {
		n += 2
	}
	if p.symbol(n) == '(' {
		n = p.behindBracket(n)
	}
	for ; p.kind(n) == Word; n++ {
		if k := p.word(n); k == kIs || k == kAs {
			return true
		}
	}
	return false
}

// returnType reads the type that a function returns, or the table.
func (p *parser) returnType() {
	if p.kind(0) == Placeholder && p.word(1) == kTable { // RETURNS @t TABLE (…)
		local := &Local{Name: p.variableName()}
		if p.at++; p.symbol(0) == '(' {
			local.Columns = p.tableColumns()
		}
		p.scope.Locals = append(p.scope.Locals, local)
		return
	}
	if p.word(0) == kTable {
		if p.at++; p.symbol(0) == '(' {
			p.parameters()
		}
		return
	}
	p.typeName()
}

// parameters reads parameters in brackets.
func (p *parser) parameters() {
	p.at++
	p.parameterList()
	p.skipTo(')')
	p.takeSymbol(')')
}

func (p *parser) parameterList() {
	for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
		for p.word(0) == kIn || p.is(0, "out") || p.is(0, "inout") || p.word(0) == kVariadic {
			p.at++
		}
		if p.kind(0) != Placeholder && !p.isName(0) {
			return
		}
		v := &Variable{Name: p.variableName()}
		p.scope.Variables = append(p.scope.Variables, v)
		for p.word(0) == kIn || p.is(0, "out") || p.is(0, "inout") || p.word(0) == kAs {
			p.at++
		}
		first := len(p.scope.Refs)
		p.typeName()
		if len(p.scope.Refs) > first {
			v.Row = p.scope.Refs[first].Name
		}
		for p.more() && p.symbol(0) != ',' && p.symbol(0) != ')' && p.symbol(0) != ';' && p.word(0) != kAs && p.word(0) != kWith && p.word(0) != kFor {
			if p.symbol(0) == '=' || p.word(0) == kDefault || p.symbol(0) == ':' {
				p.at++
				p.takeSymbol('=')
				p.expression()
			} else {
				p.at++
			}
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}
