package sqltext

// Queries: WITH, SELECT, set operations, and the sources of rows.

// query reads a query that is not in brackets, or several joined, with what stands before and behind. apart says that it does
// not see the sources around it. It returns its scope.
func (p *parser) query(apart bool) *Scope {
	q := p.open(Query)
	q.Apart = apart
	if p.depth++; p.depth > deepest {
		p.skipTo(';')
		p.depth--
		p.close(q)
		return q
	}
	if p.word(0) == kWith {
		p.common()
	}
	if p.word(0) != kSelect && p.word(0) != kValues && p.word(0) != kTable && p.symbol(0) != '(' { // WITH … INSERT
		if s := p.change(); s != nil {
			q.Arms = append(q.Arms, s)
		}
	} else {
		p.arms(q)
	}
	p.depth--
	p.close(q)
	return q
}

func (p *parser) arms(q *Scope) {
	for {
		q.Arms = append(q.Arms, p.arm())
		if k := p.word(0); k != kUnion && k != kIntersect && k != kExcept && !(k == kMinus && (p.word(1) == kSelect || p.symbol(1) == '(')) {
			break
		}
		p.at++
		if !p.take(kAll) {
			p.take(kDistinct)
		}
	}
	last := q.Arms[0]
	if len(q.Arms) > 1 || last.Kind != Arm {
		last = q
	}
	outer := p.scope
	p.scope = last
	p.behindQuery()
	last.Stop = max(last.Stop, p.stop())
	p.scope = outer
}

// common reads WITH and its queries.
func (p *parser) common() {
	p.at++
	recursive := p.take(kRecursive)
	for p.isName(0) {
		c := &Common{Name: p.aliasText(p.at), after: p.start()}
		if recursive || p.Rules.HashNames || p.Rules.Brackets { // some dialects say nothing of recursion
			c.after = 0
		}
		p.at++
		if p.symbol(0) == '(' {
			c.Columns = p.nameList()
		}
		if !p.take(kAs) {
			return
		}
		p.take(kNot)
		p.take(kMaterialized)
		if p.symbol(0) != '(' {
			return
		}
		if c.after == 0 {
			p.scope.Common = append(p.scope.Common, c)
		}
		p.at++
		c.Query = p.query(false)
		p.closing()
		if c.after > 0 {
			c.after = p.stop()
			p.scope.Common = append(p.scope.Common, c)
		}
		for p.more() && p.symbol(0) != ',' && p.kind(0) == Word && (p.is(0, "search") || p.is(0, "cycle")) { // SEARCH … SET x, CYCLE … SET x USING y
			for p.more() && p.word(0) != kSelect && p.word(0) != kInsert && p.word(0) != kUpdate && p.word(0) != kDelete && p.symbol(0) != ')' && !(p.symbol(0) == ',' && p.word(-2) == kSet) {
				p.at++
			}
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// aliasText returns the name that a token gives.
func (p *parser) aliasText(at int) string {
	return p.unquoted(&p.tokens[at])
}

// nameList reads names in brackets.
func (p *parser) nameList() []string {
	var names []string
	for p.at++; p.more() && p.symbol(0) != ')' && p.symbol(0) != ';'; {
		if p.isName(0) && (p.symbol(-1) == '(' || p.symbol(-1) == ',') {
			names = append(names, p.aliasText(p.at))
		}
		if p.symbol(0) == '(' {
			p.skipBrackets()
		} else {
			p.at++
		}
	}
	p.takeSymbol(')')
	return names
}

// arm reads one query of a set operation.
func (p *parser) arm() *Scope {
	if p.symbol(0) == '(' {
		p.at++
		s := p.query(false)
		p.closing()
		return s
	}
	s := p.open(Arm)
	switch p.word(0) {
	case kValues:
		p.at++
		p.rows(s)
	case kTable:
		p.at++
		p.take(kOnly)
		if p.isName(0) {
			s.Sources = append(s.Sources, p.memory.source(Source{Name: p.name(), Reads: true}))
			p.takeSymbol('*')
			p.ref(Ref{Kind: ToStar, Start: s.Start, Stop: p.stop()})
			s.Outputs = append(s.Outputs, Output{Star: true, Ref: 0})
		}
	default:
		p.take(kSelect)
		p.selectArm()
	}
	p.close(s)
	return s
}

// rows reads rows of values in brackets.
func (p *parser) rows(s *Scope) {
	for first := true; ; first = false {
		p.take(kRow)
		if p.symbol(0) != '(' {
			return
		}
		p.at++
		n := 0
		for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
			before := p.at
			p.expression()
			n++
			if !p.takeSymbol(',') && p.at == before {
				p.at++
			}
		}
		p.takeSymbol(')')
		if first {
			for range n {
				s.Outputs = append(s.Outputs, Output{Ref: -1})
			}
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// selectArm reads what follows SELECT.
func (p *parser) selectArm() {
	p.selectOptions()
	p.outputs()
	if p.word(0) == kInto {
		p.into()
	}
	if p.take(kFrom) {
		p.sources()
	}
	for p.more() {
		switch p.word(0) {
		case kWhere, kHaving:
			p.at++
			p.expression()
		case kGroup:
			p.at++
			p.take(kBy)
			p.grouping()
		case kWindow:
			if !(p.isName(1) && p.word(2) == kAs) {
				return
			}
			for p.at++; p.isName(0) && p.word(1) == kAs; {
				if p.at += 2; p.symbol(0) == '(' {
					p.window()
				}
				if !p.takeSymbol(',') {
					break
				}
			}
		case kInto:
			p.into()
		case kFrom: // PL/pgSQL takes INTO anywhere
			p.at++
			p.sources()
		default:
			if p.is(0, "qualify") {
				p.at++
				p.expression()
				continue
			}
			return
		}
	}
}

// grouping reads the list behind GROUP BY.
func (p *parser) grouping() {
	for p.more() {
		p.take(kAll)
		p.take(kDistinct)
		if (p.is(0, "rollup") || p.is(0, "cube") || p.is(0, "grouping")) && (p.symbol(1) == '(' || p.is(1, "sets")) {
			p.at++
			if p.is(0, "sets") {
				p.at++
			}
		}
		first := len(p.scope.Refs)
		p.expression()
		for i := first; i < len(p.scope.Refs); i++ {
			p.scope.Refs[i].ByOutput = true
		}
		for p.is(0, "asc") || p.is(0, "desc") {
			p.at++
		}
		if p.word(0) == kWith && p.is(1, "rollup") {
			p.at += 2
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// selectOptions passes by what may stand between SELECT and the list.
func (p *parser) selectOptions() {
	for p.more() {
		switch {
		case p.word(0) == kDistinct && p.word(1) == kOn && p.symbol(2) == '(':
			p.at += 3
			first := len(p.scope.Refs)
			p.expressions()
			for i := first; i < len(p.scope.Refs); i++ {
				p.scope.Refs[i].ByOutput = true
			}
			p.closing()
		case p.word(0) == kAll, p.word(0) == kDistinct, p.word(0) == kStraight:
			p.at++
		case p.word(0) == kTop && (p.symbol(1) == '(' || p.kind(1) == Number || p.kind(1) == Placeholder):
			p.at++
			if p.symbol(0) == '(' {
				p.brackets()
			} else {
				p.at++
			}
			if p.is(0, "percent") {
				p.at++
			}
			if p.word(0) == kWith && p.is(1, "ties") {
				p.at += 2
			}
		case p.kind(0) == Word && p.word(0) == kNone && (p.is(0, "sql_calc_found_rows") || p.is(0, "sql_no_cache") || p.is(0, "sql_cache") || p.is(0, "high_priority") || p.is(0, "distinctrow") || p.is(0, "sql_small_result") || p.is(0, "sql_big_result") || p.is(0, "sql_buffer_result")):
			p.at++
		default:
			return
		}
	}
}

// outputs reads the list of what is selected, or returned.
func (p *parser) outputs() {
	s := p.scope
	args := p.args
	p.args = false
	defer func() { p.args = args }()
	for p.more() {
		if k := p.word(0); k != kNone && endsOperand(k) && !(p.symbol(1) == '(' && callable(k)) && p.symbol(1) != '.' {
			return
		}
		o := Output{Ref: -1}
		named, variable := false, ""
		appended := false
		switch {
		case p.Rules.HashNames && p.kind(0) == Placeholder && (p.symbol(1) == '=' || p.symbol(2) == '='): // a variable is set
			variable, appended = p.Text[p.tokens[p.at].start:p.tokens[p.at].end], p.symbol(1) == '+'
			p.at++
			for p.symbol(0) != 0 && p.symbol(0) != '(' {
				p.at++
			}
		case p.Rules.HashNames && p.isName(0) && p.symbol(1) == '=':
			o.Name, named = p.aliasText(p.at), true
			p.at += 2
		}
		first, before := len(s.Refs), p.at
		p.expression()
		if p.at == before {
			return
		}
		p.assigns(variable, before, appended)
		if len(s.Refs) == first+1 {
			r := &s.Refs[first]
			if r.Start == int(p.tokens[before].start) && r.Stop == p.stop() {
				switch r.Kind {
				case ToStar:
					o.Star, o.Ref = true, first
				case ToColumn:
					o.Ref = first
				}
			}
			if !named && r.Name.N() > 0 && !o.Star && (o.Ref >= 0 || r.Kind == ToRoutine) {
				o.Name = p.part(r.Name, r.Name.N()-1)
			}
		} else if !named && len(s.Refs) > first && s.Refs[first].Kind == ToRoutine && s.Refs[first].Start == int(p.tokens[before].start) {
			o.Name = p.part(s.Refs[first].Name, s.Refs[first].Name.N()-1)
		}
		o.Named = named
		o.start, o.stop = int(p.tokens[before].start), p.stop()
		if alias, ok := p.alias(); ok {
			o.Name, o.Named = alias, true
		}
		s.Outputs = append(s.Outputs, o)
		if !p.takeSymbol(',') {
			return
		}
	}
}

// alias reads the other name of an output or a source, if there is one.
func (p *parser) alias() (string, bool) {
	if p.take(kAs) {
		if p.isName(0) || p.kind(0) == String {
			p.at++
			return p.aliasText(p.at - 1), true
		}
		return "", false
	}
	if p.kind(0) == QuotedName || p.kind(0) == Word && (p.word(0) == kNone || asAlias(p.word(0))) || p.kind(0) == String && (p.kind(-1) != Symbol || p.symbol(-1) == ')') {
		p.at++
		return p.aliasText(p.at - 1), true
	}
	return "", false
}

// asAlias reports whether a keyword is an alias where one may stand without AS.
func asAlias(k keyword) bool {
	switch k {
	case kType, kValue, kQuery, kMatched, kAsc, kEach, kCatch, kTemp, kConstant, kView, kPackage, kTrigger, kStrict, kDuplicate, kRowtype, kHandler, kTop, kBinary, kMod, kArray:
		return true
	}
	return false
}

// into reads INTO: variables, or a table that is made.
func (p *parser) into() {
	p.at++
	p.scope.into = true
	p.take(kStrict)
	if p.Rules.HashNames && p.isName(0) {
		p.makes(p.name())
		return
	}
	if p.take(kTable) || (p.is(0, "unlogged") || p.word(0) == kTemp || p.word(0) == kTemporary) && p.Rules.DollarQuotes {
		for p.is(0, "unlogged") || p.word(0) == kTemp || p.word(0) == kTemporary || p.word(0) == kTable {
			p.at++
		}
		if p.isName(0) {
			p.makes(p.name())
		}
		return
	}
	if p.is(0, "outfile") || p.is(0, "dumpfile") {
		p.at += 2
		return
	}
	for p.isName(0) || p.kind(0) == Placeholder {
		if p.kind(0) != Placeholder && p.word(0) != kNone && endsOperand(p.word(0)) && p.symbol(1) != '.' {
			return
		}
		if p.symbol(1) == '.' {
			p.ref(Ref{Kind: ToColumn, Name: p.name(), Writes: true})
		} else {
			p.taken()
			p.at++
		}
		if p.symbol(0) == '[' {
			p.at++
			p.expressions()
			p.takeSymbol(']')
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// makes notes a table that the query of the present scope makes.
func (p *parser) makes(n Name) {
	name := p.part(n, n.N()-1)
	local := &Local{Name: name, Query: p.scope}
	s := p.scope
	for s.Kind != Block {
		s = s.Parent
	}
	if p.Rules.HashNames && name != "" && name[0] != '#' {
		p.ref(Ref{Kind: ToRelation, Name: n, Writes: true})
	}
	s.Locals = append(s.Locals, local)
}

// behindQuery reads ORDER BY, LIMIT and the like.
func (p *parser) behindQuery() {
	for p.more() {
		switch p.word(0) {
		case kOrder:
			p.at++
			if p.is(0, "siblings") {
				p.at++
			}
			p.take(kBy)
			p.ordering()
		case kLimit, kOffset:
			p.at++
			if !p.take(kAll) {
				p.expressions()
			}
			for p.is(0, "rows") || p.word(0) == kRow {
				p.at++
			}
		case kFetch:
			if !p.is(1, "first") && p.word(1) != kNext {
				return
			}
			for p.at += 2; p.more() && (p.kind(0) == Number || p.kind(0) == Placeholder || p.symbol(0) == '(' || p.word(0) == kRow || p.word(0) == kOnly || p.is(0, "rows") || p.is(0, "percent") || p.is(0, "ties") || p.word(0) == kWith && p.is(1, "ties")); {
				if p.symbol(0) == '(' {
					p.brackets()
				} else {
					p.at++
				}
			}
		case kFor:
			if !p.forClause() {
				return
			}
		case kInto:
			p.into()
		case kLock: // IN SHARE MODE
			if p.word(1) != kIn {
				return
			}
			p.at += 2
			for p.is(0, "share") || p.is(0, "mode") {
				p.at++
			}
		case kOption:
			if p.symbol(1) != '(' {
				return
			}
			p.at++
			p.skipBrackets()
		case kProcedure: // ANALYSE
			return
		default:
			return
		}
	}
}

// forClause reads FOR UPDATE, FOR XML and FOR JSON, and reports whether it was one of these.
func (p *parser) forClause() bool {
	switch {
	case p.word(1) == kUpdate || p.is(1, "share") || p.is(1, "no") || p.is(1, "key"):
		for p.at += 2; p.word(0) == kUpdate || p.is(0, "key") || p.is(0, "share") || p.is(0, "nowait") || p.is(0, "skip") || p.is(0, "locked") || p.is(0, "wait") || p.kind(0) == Number; {
			p.at++
		}
		for p.take(kOf) || p.symbol(0) == ',' && p.isName(1) {
			p.takeSymbol(',')
			p.name()
		}
		for p.is(0, "nowait") || p.is(0, "skip") || p.is(0, "locked") {
			p.at++
		}
		return true
	case p.is(1, "xml") || p.is(1, "json") || p.is(1, "browse"):
		for p.at += 2; p.kind(0) == Word && p.word(0) == kNone || p.symbol(0) == ','; {
			if p.at++; p.symbol(0) == '(' {
				p.skipBrackets()
			}
		}
		return true
	}
	return false
}

// ordering reads the list behind ORDER BY.
func (p *parser) ordering() {
	for p.more() {
		first := len(p.scope.Refs)
		p.expression()
		for i := first; i < len(p.scope.Refs); i++ {
			p.scope.Refs[i].ByOutput = true
		}
		for {
			switch {
			case p.word(0) == kAsc, p.word(0) == kDesc, p.is(0, "nulls"), p.is(0, "first") && p.is(-1, "nulls"), p.is(0, "last") && p.is(-1, "nulls"):
				p.at++
				continue
			case p.word(0) == kUsing:
				for p.at++; p.symbol(0) != 0 && p.symbol(0) != ',' && p.symbol(0) != ')' && p.symbol(0) != ';'; {
					p.at++
				}
				continue
			}
			break
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// sources reads the list behind FROM.
func (p *parser) sources() {
	for {
		p.joins()
		if !p.takeSymbol(',') {
			return
		}
	}
}

// joins reads a source, and what is joined to it.
func (p *parser) joins() {
	first := len(p.scope.Sources)
	p.source()
	for p.more() {
		natural := false
		switch p.word(0) {
		case kNatural, kLeft, kRight, kFull, kInner, kCross, kOuter:
			n := 1
			for k := p.word(n); k == kOuter || k == kInner || k == kLeft || k == kRight || k == kFull; k = p.word(n) {
				n++
			}
			if p.is(n, "loop") || p.word(n) == kLoop || p.is(n, "hash") || p.word(n) == kMerge { // a hint
				n++
			}
			if p.word(n) != kJoin && p.word(n) != kApply {
				return
			}
			natural = p.word(0) == kNatural
			p.at += n + 1
		case kJoin, kStraight:
			p.at++
		case kPivot, kUnpivot:
			p.pivot()
			continue
		default:
			return
		}
		p.source()
		if natural {
			p.scope.joined = append(p.scope.joined, joined{"*", first, len(p.scope.Sources)})
		}
		switch {
		case p.word(0) == kOn:
			p.at++
			p.expression()
		case p.word(0) == kUsing && p.symbol(1) == '(':
			p.at++
			start := p.at + 1
			names := p.nameList()
			for _, name := range names {
				p.scope.joined = append(p.scope.joined, joined{name, first, len(p.scope.Sources)})
			}
			for i := start; i < p.at-1; i++ {
				if k := p.tokens[i].kind; k == Word || k == QuotedName {
					p.ref(Ref{Kind: ToColumn, Name: Name{Parts: [4]int32{int32(i)}, n: 1}})
				}
			}
			if p.word(0) == kAs && p.isName(1) {
				p.at += 2
			}
		}
	}
}

// source reads one source of rows.
func (p *parser) source() {
	lateral := p.take(kLateral)
	p.take(kOnly)
	s := p.memory.source(Source{Reads: true})
	switch {
	case p.symbol(0) == '(' && p.derives():
		p.at++
		s.Query = p.query(!lateral && p.word(-2) != kApply)
		p.closing()
	case p.symbol(0) == '(':
		if !p.deeper() {
			return
		}
		p.at++
		p.sources()
		p.closing()
		p.depth--
		if p.word(0) == kAs && p.isName(1) || p.kind(0) == QuotedName || p.kind(0) == Word && p.word(0) == kNone { // a join with a name of its own
			p.alias()
		}
		return
	case p.kind(0) == Placeholder: // a table variable, or a method of one
		s.Alias = p.Text[p.tokens[p.at].start:p.tokens[p.at].end]
		s.Name = Name{Parts: [4]int32{int32(p.at)}, n: 1}
		p.at++
		if p.symbol(0) == '.' {
			p.at += 2
			if p.symbol(0) == '(' {
				p.skipBrackets()
			}
			s.Name, s.Alias, s.Call = Name{}, "", true
		}
	case p.isName(0):
		if p.is(0, "rows") && p.word(1) == kFrom && p.symbol(2) == '(' {
			p.at += 2
			p.brackets()
			s.Call = true
			break
		}
		n := p.name()
		if p.symbol(0) == '(' && !p.isHint() {
			s.Call = true
			s.Name = n
			if p.isText(int(n.Parts[n.N()-1]), "json_table") || p.isText(int(n.Parts[n.N()-1]), "xmltable") || p.isText(int(n.Parts[n.N()-1]), "openrowset") || p.isText(int(n.Parts[n.N()-1]), "opendatasource") {
				p.at++
				p.expressions()
				if p.is(0, "passing") {
					for p.at++; p.word(0) == kBy || p.is(0, "ref") || p.word(0) == kValue; {
						p.at++
					}
					p.expressions()
				}
				p.skipTo(')')
				p.takeSymbol(')')
			} else if p.tsql() && (p.isText(int(n.Parts[n.N()-1]), "containstable") || p.isText(int(n.Parts[n.N()-1]), "freetexttable")) {
				p.searched()
			} else {
				p.call(n)
			}
			break
		}
		s.Name = n
		p.takeSymbol('*')
	default:
		return
	}
	p.scope.Sources = append(p.scope.Sources, s)
	p.behindSource(s)
}

// searched reads the arguments of a search of full text: a relation, and columns of it.
func (p *parser) searched() {
	p.at++
	arm := p.open(Arm)
	arm.Apart = true
	if p.isName(0) {
		arm.Sources = append(arm.Sources, p.memory.source(Source{Name: p.name(), Reads: true}))
		p.takeSymbol(',')
	}
	p.expressions()
	p.close(arm)
	p.closing()
}

// derives reports whether a bracket opens a query, and not a join or an expression that begins with one in further brackets:
// these go on behind it with something of their own.
func (p *parser) derives() bool {
	if !p.startsQuery(0) {
		return false
	}
	for level := 1; p.symbol(level) == '('; level++ {
		n := p.behindBracket(level)
		switch p.word(n) {
		case kUnion, kIntersect, kExcept, kMinus, kOrder, kLimit, kOffset, kFetch:
			continue
		}
		if p.symbol(n) != ')' || level > deepest {
			return false
		}
	}
	return true
}

// isHint reports whether brackets behind a name hold hints of T-SQL's.
func (p *parser) isHint() bool {
	return p.Rules.HashNames && (p.is(1, "nolock") || p.is(1, "readpast") || p.is(1, "updlock") || p.is(1, "holdlock"))
}

// behindSource reads the other name of a source, and what else may follow it.
func (p *parser) behindSource(s *Source) {
	for p.more() {
		switch {
		case p.word(0) == kPartition && p.symbol(1) == '(':
			p.at++
			p.skipBrackets()
		case p.word(0) == kWith && p.is(1, "ordinality"):
			p.at += 2
		case p.word(0) == kWith && p.symbol(1) == '(', p.symbol(0) == '(' && p.isHint():
			p.take(kWith)
			p.skipBrackets()
		case p.word(0) == kFor && p.is(1, "system_time"):
			p.at += 2
			for p.word(0) == kAs || p.word(0) == kOf || p.word(0) == kAll || p.word(0) == kFrom || p.word(0) == kBetween || p.word(0) == kAnd || p.is(0, "to") || p.is(0, "contained") || p.word(0) == kIn || p.is(0, "timestamp") {
				p.at++
				if p.kind(0) == String || p.kind(0) == Placeholder || p.symbol(0) == '(' || p.kind(0) == Word && p.symbol(1) == '(' {
					p.expression()
				}
			}
		case p.word(0) == kTablesample:
			p.at++
			if p.isName(0) {
				p.at++
			}
			if p.symbol(0) == '(' {
				p.skipBrackets()
			}
			if p.is(0, "repeatable") {
				p.at++
				p.skipBrackets()
			}
		case (p.word(0) == kUse || p.word(0) == kForce || p.word(0) == kIgnore) && (p.is(1, "index") || p.is(1, "key")):
			for p.at += 2; p.word(0) == kFor || p.word(0) == kJoin || p.word(0) == kOrder || p.word(0) == kGroup || p.word(0) == kBy; {
				p.at++
			}
			if p.symbol(0) == '(' {
				p.skipBrackets()
			}
		case p.word(0) == kNot && p.is(1, "indexed"):
			p.at += 2
		case p.is(0, "indexed") && p.word(1) == kBy:
			p.at += 3
		case s.Columns == nil && p.symbol(0) == '(' && s.Alias != "" && p.kind(-1) != Symbol:
			s.Columns = p.aliasColumns()
		default:
			if s.Alias != "" && p.word(-1) != kAs && s.Name.N() == 1 && p.kind(-1) == Placeholder && p.kind(0) != Placeholder { // @t AS t
				s.Alias = ""
			}
			if s.Alias != "" {
				return
			}
			if p.word(0) == kAs && p.symbol(1) == '(' { // f() AS (no int, name text)
				p.at++
				s.Columns = p.aliasColumns()
				return
			}
			alias, ok := p.sourceAlias()
			if !ok {
				return
			}
			s.Alias = alias
		}
	}
}

func (p *parser) sourceAlias() (string, bool) {
	if p.kind(0) == String {
		return "", false
	}
	return p.alias()
}

// aliasColumns reads the names that an alias gives columns, perhaps with their types.
func (p *parser) aliasColumns() []string {
	var names []string
	p.at++
	for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
		if p.isName(0) {
			names = append(names, p.aliasText(p.at))
			p.at++
			if p.isName(0) {
				p.typeName()
			}
		}
		if !p.takeSymbol(',') && p.symbol(0) != ')' {
			p.at++
		}
	}
	p.takeSymbol(')')
	return names
}

// pivot reads PIVOT (…) or UNPIVOT (…): what it gives is not known, what it takes is.
func (p *parser) pivot() {
	p.at++
	if p.symbol(0) == '(' {
		p.at++
		p.expression()
		if p.take(kFor) {
			p.expression()
		}
		p.skipTo(')')
		p.takeSymbol(')')
	}
	s := p.memory.source(Source{Call: true, Hidden: false})
	s.Alias, _ = p.sourceAlias()
	p.scope.Sources = append(p.scope.Sources, s)
}
