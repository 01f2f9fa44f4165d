package sqltext

// Statements that change rows: their target is a source of their own scope, which the queries in them do not see unless
// they stand in an expression.

// change reads INSERT, UPDATE, DELETE or MERGE and returns its scope, nil if none stands there.
func (p *parser) change() *Scope {
	switch p.word(0) {
	case kInsert, kReplace:
		return p.insert()
	case kUpdate:
		return p.update()
	case kDelete:
		return p.delete()
	case kMerge:
		return p.merge()
	}
	return nil
}

// target reads the name of a relation that rows go to.
func (p *parser) target() *Source {
	p.take(kOnly)
	s := p.memory.source(Source{Writes: true})
	switch {
	case p.kind(0) == Placeholder:
		s.Alias = p.Text[p.tokens[p.at].start:p.tokens[p.at].end]
		s.Name = Name{Parts: [4]int32{int32(p.at)}, n: 1}
		p.at++
	case p.isName(0):
		s.Name = p.name()
		p.takeSymbol('*')
	default:
		return s
	}
	p.scope.Sources = append(p.scope.Sources, s)
	return s
}

// setOptions passes by words that may stand behind the first of a statement.
func (p *parser) changeOptions() {
	for p.is(0, "low_priority") || p.is(0, "delayed") || p.is(0, "high_priority") || p.is(0, "quick") || p.word(0) == kIgnore && p.word(1) != kNone || p.word(0) == kIgnore && p.isName(1) {
		p.at++
	}
	if p.word(0) == kOr { // OR IGNORE
		p.at += 2
	}
	if p.word(0) == kTop {
		p.selectOptions()
	}
}

func (p *parser) insert() *Scope {
	s := p.open(Statement)
	p.at++
	p.changeOptions()
	p.take(kInto)
	t := p.target()
	if p.word(0) == kPartition && p.symbol(1) == '(' {
		p.at++
		p.skipBrackets()
	}
	if p.word(0) == kAs && p.isName(1) {
		t.Alias, _ = p.alias()
	}
	if p.word(0) == kWith && p.symbol(1) == '(' {
		p.at++
		p.skipBrackets()
	}
	listed := false
	if p.symbol(0) == '(' && !p.startsQuery(0) {
		listed = true
		p.targetColumns()
	}
	for p.word(0) != kSelect && p.is(0, "overriding") {
		p.at += 3
	}
	p.output(s)
	var from *Scope
	switch {
	case p.word(0) == kSet:
		listed = true
		p.at++
		p.assignments()
	case p.word(0) == kDefault && p.word(1) == kValues:
		listed = true
		p.at += 2
	case p.word(0) == kValues || p.word(0) == kValue:
		p.at++
		p.rows(&Scope{}) // expressions of the statement
	case p.startsQuery(0) || p.word(0) == kTable && p.isName(1):
		from = p.query(true)
	case p.word(0) == kExec || p.word(0) == kExecute:
		p.execute()
	}
	if !listed && t.Name.N() > 0 {
		p.ref(Ref{Kind: ToAll, Name: t.Name, Writes: true})
	}
	if p.word(0) == kAs && p.isName(1) { // of the row, in MySQL
		alias, _ := p.alias()
		x := p.memory.source(Source{Of: t, Alias: alias, Hidden: true})
		if p.symbol(0) == '(' {
			x.Columns = p.nameList()
		}
		s.Sources = append(s.Sources, x)
	}
	if p.word(0) == kOn && p.word(1) == kDuplicate && from != nil && len(from.Arms) == 1 { // the rows of the query can be named there
		for _, src := range from.Arms[0].Sources {
			alias := src.Alias
			if alias == "" && src.Name.N() > 0 {
				alias = p.part(src.Name, src.Name.N()-1)
			}
			s.Sources = append(s.Sources, p.memory.source(Source{Of: src, Alias: alias, Hidden: true}))
		}
	}
	for p.word(0) == kOn {
		p.conflict(s, t)
	}
	p.returning()
	p.close(s)
	return s
}

// conflict reads ON CONFLICT … DO … or ON DUPLICATE KEY UPDATE ….
func (p *parser) conflict(s *Scope, t *Source) {
	p.at++
	switch p.word(0) {
	case kConflict:
		p.at++
		s.Sources = append(s.Sources, p.memory.source(Source{Of: t, Alias: "excluded", Hidden: true}))
		if p.symbol(0) == '(' {
			p.at++
			for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
				before := p.at
				p.expression()
				if !p.takeSymbol(',') && p.at == before || p.kind(0) == Word && p.symbol(0) != ')' {
					p.at++ // an operator class
				}
			}
			p.takeSymbol(')')
		} else if p.take(kOn) {
			p.at += 2 // CONSTRAINT name
		}
		if p.take(kWhere) {
			p.expression()
		}
		if p.take(kDo) {
			if p.take(kUpdate) {
				p.take(kSet)
				p.assignments()
				if p.take(kWhere) {
					p.expression()
				}
			} else {
				p.at++ // NOTHING
			}
		}
	case kDuplicate:
		p.at += 2
		p.take(kUpdate)
		p.assignments()
	default:
		p.at++
	}
}

// targetColumns reads the columns of the target in brackets.
func (p *parser) targetColumns() {
	for p.at++; p.more() && p.symbol(0) != ')' && p.symbol(0) != ';'; {
		if p.isName(0) {
			p.ref(Ref{Kind: ToTarget, Name: p.name(), Writes: true})
			for p.symbol(0) == '[' {
				p.at++
				p.expressions()
				p.takeSymbol(']')
			}
		} else {
			p.at++
		}
	}
	p.takeSymbol(')')
}

// copies reads COPY of PostgreSQL, which reads a relation or a query to elsewhere, or writes rows from there.
func (p *parser) copies() {
	if p.at++; p.symbol(0) == '(' {
		p.expression()
		p.skipTo(';')
		return
	}
	writes := false
	for i := 0; p.at+i < len(p.own) && p.symbol(i) != ';'; i++ {
		if p.word(i) == kFrom || p.is(i, "to") {
			writes = p.word(i) == kFrom
			break
		}
	}
	if writes {
		s := p.open(Statement)
		if t := p.target(); p.symbol(0) == '(' {
			p.targetColumns()
		} else if t.Name.N() > 0 {
			p.ref(Ref{Kind: ToAll, Name: t.Name, Writes: true})
		}
		p.skipTo(';')
		p.close(s)
		return
	}
	q := p.open(Query)
	s := p.open(Arm)
	q.Arms = []*Scope{s}
	if start := p.start(); p.isName(0) {
		s.Sources = append(s.Sources, p.memory.source(Source{Name: p.name(), Reads: true}))
		if p.symbol(0) == '(' {
			p.expression()
		} else {
			s.Refs = append(s.Refs, Ref{Kind: ToStar, Start: start, Stop: p.stop()})
		}
	}
	p.skipTo(';')
	p.close(s)
	p.close(q)
}

// assignments reads a list of column = value.
func (p *parser) assignments() {
	for p.more() {
		switch {
		case p.symbol(0) == '(':
			p.targetColumns()
		case p.kind(0) == Placeholder: // @x = column = value
			p.at++
			if p.symbol(0) == '=' && p.isName(1) && p.symbol(2) == '=' {
				p.at++
				continue
			}
		case p.isName(0) && !(p.word(0) != kNone && endsOperand(p.word(0))):
			n := p.name()
			p.ref(Ref{Kind: ToTarget, Name: n, Writes: true})
			for p.symbol(0) == '[' {
				p.at++
				p.expressions()
				p.skipTo(']')
				p.takeSymbol(']')
			}
			if p.symbol(0) == '(' { // a method of a type of T-SQL's
				p.skipBrackets()
			}
		default:
			return
		}
		for c := p.symbol(0); c == '+' || c == '-' || c == '*' || c == '/' || c == '%' || c == '|' || c == '&' || c == '^' || c == ':'; c = p.symbol(0) {
			p.at++
		}
		if p.takeSymbol('=') {
			p.expression()
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

func (p *parser) update() *Scope {
	s := p.open(Statement)
	p.at++
	p.changeOptions()
	if p.Rules.Backticks && !p.Rules.Brackets { // several tables may be joined
		p.sources()
		for _, t := range s.Sources {
			t.Writes = true
			t.several = len(s.Sources) > 1
			t.Reads = t.several
		}
	} else if t := p.target(); t.Name.N() > 0 {
		if p.word(0) == kWith && p.symbol(1) == '(' {
			p.at++
			p.skipBrackets()
		}
		for p.word(0) == kNot && p.is(1, "indexed") || p.is(0, "indexed") {
			p.at += 2
		}
		if p.word(0) != kSet {
			t.Alias, _ = p.alias()
		}
	}
	p.take(kSet)
	p.assignments()
	p.output(s)
	if p.take(kFrom) {
		p.sources()
	}
	p.where()
	p.behindQuery()
	p.returning()
	p.close(s)
	return s
}

// where reads WHERE, if it stands there.
func (p *parser) where() {
	if !p.take(kWhere) {
		return
	}
	if p.is(0, "current") && p.word(1) == kOf {
		p.at += 3
		return
	}
	p.expression()
}

func (p *parser) delete() *Scope {
	s := p.open(Statement)
	p.at++
	p.changeOptions()
	from := p.take(kFrom)
	first := p.at
	t := p.target()
	for p.takeSymbol(',') { // several targets
		if p.isName(0) {
			p.target()
		} else {
			break
		}
	}
	for p.symbol(0) == '.' && p.symbol(1) == '*' {
		p.at += 2
	}
	if p.word(0) == kWith && p.symbol(1) == '(' {
		p.at++
		p.skipBrackets()
	}
	p.output(s)
	switch {
	case p.word(0) == kFrom: // targets by their other names; the sources follow
		p.at++
		p.sources()
	case p.word(0) == kUsing && from && p.Rules.Backticks && !p.Rules.Brackets && !p.usesTarget(first):
		p.at++
		p.sources()
	default:
		if alias, ok := p.alias(); ok {
			t.Alias = alias
		}
		if p.take(kUsing) {
			p.sources()
		}
	}
	p.where()
	p.behindQuery()
	p.returning()
	p.close(s)
	return s
}

// usesTarget always lets the target stand for itself: what USING lists again is the same relation.
func (p *parser) usesTarget(int) bool { return false }

func (p *parser) merge() *Scope {
	s := p.open(Statement)
	p.at++
	p.changeOptions()
	p.take(kInto)
	t := p.target()
	if p.word(0) == kWith && p.symbol(1) == '(' {
		p.at++
		p.skipBrackets()
	}
	if alias, ok := p.alias(); ok {
		t.Alias = alias
	}
	if p.take(kUsing) {
		p.source()
	}
	if p.take(kOn) {
		p.expression()
	}
	for p.word(0) == kWhen {
		for p.at++; p.more() && p.word(0) != kThen; {
			if p.take(kAnd) {
				p.expression()
			} else if p.kind(0) == Word {
				p.at++
			} else {
				break
			}
		}
		p.take(kThen)
		switch p.word(0) {
		case kUpdate:
			p.at++
			p.take(kSet)
			p.assignments()
			if p.take(kWhere) {
				p.expression()
			}
		case kInsert:
			p.at++
			if p.symbol(0) == '(' {
				p.targetColumns()
			} else {
				p.ref(Ref{Kind: ToAll, Name: t.Name, Writes: true})
			}
			for p.is(0, "overriding") {
				p.at += 3
			}
			if p.take(kValues) {
				p.rows(&Scope{})
			} else if p.take(kDefault) {
				p.take(kValues)
			}
		case kDelete:
			p.at++
		case kDo:
			p.at += 2
		}
	}
	p.output(s)
	if p.word(0) == kOption && p.symbol(1) == '(' {
		p.at++
		p.skipBrackets()
	}
	p.returning()
	p.close(s)
	return s
}

// returning reads RETURNING and what follows it.
func (p *parser) returning() {
	if !p.take(kReturning) {
		return
	}
	p.outputs()
	if p.word(0) == kInto {
		p.into()
	}
}

// output reads OUTPUT … [INTO table] of T-SQL.
func (p *parser) output(s *Scope) {
	if p.word(0) != kOutput || !p.Rules.HashNames {
		return
	}
	p.at++
	for _, alias := range [...]string{"inserted", "deleted"} {
		if len(s.Sources) > 0 {
			s.Sources = append(s.Sources, p.memory.source(Source{Of: s.Sources[0], Alias: alias, Hidden: true}))
		}
	}
	p.outputs()
	if p.take(kInto) {
		into := p.open(Statement)
		t := p.target()
		if p.symbol(0) == '(' {
			p.targetColumns()
		} else if t.Name.N() > 0 {
			p.ref(Ref{Kind: ToAll, Name: t.Name, Writes: true})
		}
		p.close(into)
		if p.word(0) == kOutput {
			p.at++
			p.outputs()
		}
	}
}
