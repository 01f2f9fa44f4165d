package sqltext

// Procedural code: statements one after the other, blocks that declare, loops that bind a row. Words that only divide
// (THEN, ELSE, LOOP) are passed by; what a block or a loop binds ends with it.

// tsql reports whether the dialect has no terminators: a statement ends where the next begins.
func (p *parser) tsql() bool { return p.Rules.HashNames }

// plpgsql reports whether blocks declare before BEGIN.
func (p *parser) plpgsql() bool { return p.Rules.DollarQuotes }

// mysql reports whether the dialect is that of MariaDB and MySQL.
func (p *parser) mysql() bool { return p.Rules.Backticks && !p.Rules.Brackets }

// statements reads statements up to an END that closes what is open here, or the end.
func (p *parser) statements() {
	for p.more() {
		before := p.at
		if p.word(0) == kEnd && p.symbol(1) != '.' {
			if p.tsql() || !p.endOf() {
				return
			}
			continue
		}
		p.statement()
		if p.at == before {
			p.at++
		}
	}
}

// endOf passes by END IF, END LOOP and the like, and reports whether it was one of these.
func (p *parser) endOf() bool {
	switch p.word(1) {
	case kIf, kCase:
		p.at += 2
		return true
	case kLoop, kWhile, kRepeat, kFor:
		p.at += 2
		if n := len(p.loops); n > 0 {
			if outer := p.loops[n-1]; outer != nil && p.scope != p.Root {
				p.scope.Stop = p.stop()
				p.scope = outer
			}
			p.loops = p.loops[:n-1]
		}
		return true
	}
	return false
}

// statement reads one statement, or a word that divides statements.
func (p *parser) statement() {
	if p.symbol(1) == '.' && p.isName(0) { // a name, whatever word it is
		p.plain()
		return
	}
	switch k := p.word(0); k {
	case kSelect, kValues:
		p.query(false)
	case kTable:
		if !p.plpgsql() || !p.isName(1) {
			p.passBy()
			return
		}
		p.query(false)
	case kWith:
		p.query(false)
	case kInsert, kUpdate, kMerge, kDelete:
		p.change()
	case kReplace:
		if p.symbol(1) == '(' {
			p.expression()
		} else {
			p.change()
		}
	case kBegin:
		p.begin()
	case kDeclare:
		p.declare()
	case kIf, kElseif, kElsif, kUntil, kReturn, kPrint, kThrow, kWhile, kWhen, kExit, kLeave, kContinue, kCase, kDo, kRaise, kThen, kElse, kException, kRepeat, kLoop, kGoto, kFor, kForeach:
		p.control(k)
	case kExec, kExecute, kPrepare, kCall, kPerform, kOpen, kFetch, kClose, kSet, kTruncate, kLock:
		p.command(k)
	case kCreate:
		p.create()
	case kFunction, kProcedure, kProc:
		p.nested()
	case kDrop:
		p.alters()
	default:
		if p.plpgsql() && p.is(0, "assert") {
			p.at++
			p.expressions()
			return
		}
		p.plain()
	}
}

// passBy passes by a statement that names nothing of interest.
func (p *parser) passBy() {
	p.at++
	if p.tsql() {
		for p.more() && p.symbol(0) != ';' && !p.begins() {
			p.at++
		}
		return
	}
	p.skipTo(';')
}

// alters reads ALTER, DROP and the like: what they name in front, if that is a relation.
func (p *parser) alters() {
	p.at++
	looks := p.is(-1, "analyze")
	relation := looks
	for p.word(0) == kTable || p.word(0) == kView || p.is(0, "sequence") || p.is(0, "materialized") {
		relation = relation || p.word(0) != kNone || p.is(0, "sequence")
		p.at++
	}
	if p.take(kIf) {
		p.take(kNot)
		p.take(kExists)
	}
	p.take(kOnly)
	if p.is(0, "concurrently") {
		p.at++
	}
	for relation && p.isName(0) && !(p.word(0) != kNone && endsOperand(p.word(0))) {
		p.ref(Ref{Kind: ToRelation, Name: p.name(), Writes: !looks})
		if !p.takeSymbol(',') {
			break
		}
	}
	if p.symbol(0) == ';' || p.tsql() && p.begins() {
		return
	}
	p.passBy()
}

// begins reports whether a word begins a statement of T-SQL.
func (p *parser) begins() bool {
	switch p.word(0) {
	case kSelect, kInsert, kUpdate, kDelete, kMerge, kBegin, kDeclare, kIf, kWhile, kReturn, kExec, kExecute, kPrint, kSet, kEnd, kCreate, kDrop, kTruncate, kOpen, kFetch, kClose, kWith, kElse, kThrow, kGoto:
		return p.symbol(-1) != '.'
	}
	return false
}

// begin reads BEGIN … END.
func (p *parser) begin() {
	if p.word(1) == kTran || p.word(1) == kTransaction || p.is(1, "work") || p.symbol(1) == ';' && !p.plpgsql() {
		p.at += 2
		return
	}
	if !p.deeper() {
		return
	}
	s := p.open(Block)
	p.at++
	p.block(s)
	p.depth--
}

// block reads statements up to END, and that, and leaves the scope.
func (p *parser) block(s *Scope) {
	if p.take(kTry) || p.take(kCatch) || p.is(0, "atomic") || p.is(0, "not") && p.is(1, "atomic") {
		for p.is(0, "atomic") || p.word(0) == kNot {
			p.at++
		}
	}
	loops := p.loops
	p.loops = nil
	p.statements()
	p.loops = loops
	p.scope = s
	if p.take(kEnd) && !p.take(kTry) {
		p.take(kCatch)
	}
	p.close(s)
}

// declare reads DECLARE: a section up to BEGIN, or one statement.
func (p *parser) declare() {
	p.at++
	if !p.plpgsql() {
		p.declaration()
		return
	}
	s := p.open(Block)
	p.section()
	if p.take(kBegin) {
		p.block(s)
		return
	}
	p.close(s)
}

// section reads declarations up to BEGIN.
func (p *parser) section() {
	for p.more() && p.word(0) != kBegin && p.word(0) != kEnd {
		before := p.at
		switch p.word(0) {
		case kFunction, kProcedure:
			p.nested()
		default:
			p.declaration()
		}
		p.takeSymbol(';')
		if p.at == before {
			p.at++
		}
	}
}

// declaration reads the declaration of variables, a cursor, a handler or a table variable.
func (p *parser) declaration() {
	for p.more() {
		if (p.word(0) == kContinue || p.word(0) == kExit || p.is(0, "undo")) && p.word(1) == kHandler {
			p.handler()
			return
		}
		if p.word(0) == kCursor && p.isName(1) { // Oracle mode has the word in front
			p.at++
			v := &Variable{Name: p.variableName()}
			p.scope.Variables = append(p.scope.Variables, v)
			p.cursor(v)
			return
		}
		if p.kind(0) != Placeholder && !p.isName(0) {
			return
		}
		v := &Variable{Name: p.variableName()}
		p.scope.Variables = append(p.scope.Variables, v)
		names := 1
		for p.symbol(0) == ',' && p.mysql() && p.isName(1) {
			p.at++
			p.scope.Variables = append(p.scope.Variables, &Variable{Name: p.variableName()})
			names++
		}
		p.take(kAs)
		switch {
		case p.word(0) == kCursor || p.is(0, "insensitive") || p.is(0, "scroll") || p.is(0, "no") && p.is(1, "scroll"):
			p.cursor(v)
			return
		case p.is(0, "condition"):
			p.passBy()
			return
		case p.is(0, "alias"):
			p.skipTo(';')
			return
		case p.word(0) == kTable:
			p.at++
			local := &Local{Name: v.Name}
			if p.symbol(0) == '(' {
				local.Columns = p.tableColumns()
			}
			p.scope.Locals = append(p.scope.Locals, local)
		default:
			p.take(kConstant)
			first, begins := len(p.scope.Refs), p.at
			p.rowType = false
			p.typeName()
			if p.at > begins {
				v.Type = p.Text[p.tokens[begins].start:p.tokens[p.at-1].end]
			}
			if len(p.scope.Refs) > first && p.scope.Refs[first].Kind == ToTyped && (p.rowType || p.word(-1) == kRowtype) {
				v.Row = p.scope.Refs[first].Name
			} else if len(p.scope.Refs) > first && p.scope.Refs[first].Kind == ToType {
				v.Row = p.scope.Refs[first].Name // a relation is a type, too
			}
			for p.word(0) == kNot || p.word(0) == kNull {
				p.at++
			}
			if p.symbol(0) == ':' && p.symbol(1) == '=' {
				p.at++
			}
			if p.symbol(0) == '=' || p.word(0) == kDefault {
				p.at++
				value := p.at
				p.expression()
				p.assigns(v.Name, value, false)
			}
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// variableName reads a name that is declared.
func (p *parser) variableName() string {
	p.at++
	if p.tokens[p.at-1].kind == Placeholder {
		return p.Text[p.tokens[p.at-1].start:p.tokens[p.at-1].end]
	}
	return p.aliasText(p.at - 1)
}

// cursor reads what follows the name of a cursor.
func (p *parser) cursor(v *Variable) {
	for p.more() && p.word(0) != kFor && p.word(0) != kIs && p.symbol(0) != ';' && p.symbol(0) != '(' {
		p.at++
	}
	s := p.open(Block)
	if p.symbol(0) == '(' {
		p.parameters()
	}
	if p.take(kFor) || p.take(kIs) {
		if p.startsQuery(0) {
			v.Query = p.query(false)
		}
	}
	p.close(s)
}

// handler reads DECLARE … HANDLER FOR conditions; its statement follows.
func (p *parser) handler() {
	p.at += 2
	p.take(kFor)
	for p.more() {
		switch {
		case p.is(0, "sqlstate"):
			p.at++
			p.take(kValue)
			p.at++
		case p.word(0) == kNot:
			p.at += 2
		default:
			p.at++
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// tableColumns reads the definitions of columns in brackets.
func (p *parser) tableColumns() []string {
	var names []string
	for p.at++; p.more() && p.symbol(0) != ')' && p.symbol(0) != ';'; {
		if p.isName(0) {
			switch {
			case p.is(0, "constraint") || p.is(0, "primary") || p.is(0, "check") || p.is(0, "foreign") || p.is(0, "index") || p.is(0, "key") || p.word(0) == kUnique || p.word(0) == kLike:
			default:
				names = append(names, p.aliasText(p.at))
				if p.isName(1) && p.word(1) != kAs && !p.is(1, "generated") {
					p.at++
					p.typeName()
				}
			}
		}
		p.skipTo(',')
		p.takeSymbol(',')
	}
	p.takeSymbol(')')
	return names
}

// control reads a statement that decides what runs.
func (p *parser) control(k keyword) {
	p.at++
	switch k {
	case kIf, kElseif, kElsif, kUntil, kWhen, kPrint, kThrow, kGoto, kLeave:
		p.expressions()
	case kWhile:
		p.expression()
		p.loop(nil)
	case kCase:
		if p.word(0) != kWhen {
			p.expression()
		}
	case kLoop, kRepeat:
		p.loops = append(p.loops, nil)
	case kFor:
		p.forLoop()
	case kForeach:
		s := p.loopScope()
		p.declareLoop()
		for p.more() && p.word(0) != kIn && p.symbol(0) != ';' {
			p.at++
		}
		p.take(kIn)
		p.take(kArray)
		p.expression()
		p.loop(s)
	case kReturn:
		p.returns()
	case kExit, kContinue:
		if p.kind(0) == Word && p.word(0) != kWhen && p.word(0) != kHandler {
			p.at++
		}
		if p.take(kWhen) {
			p.expression()
		}
	case kRaise:
		if !p.plpgsql() {
			p.passTo()
			return
		}
		for p.more() && p.symbol(0) != ';' {
			before := p.at
			p.expressions()
			p.take(kUsing)
			if p.at == before || p.kind(0) == Word {
				p.at++
			}
		}
	case kDo:
		if p.mysql() && p.symbol(0) != ';' {
			p.expressions()
		}
	}
}

// passTo passes by the rest of a statement.
func (p *parser) passTo() {
	p.at--
	p.passBy()
}

// returns reads what a routine returns.
func (p *parser) returns() {
	switch {
	case p.word(0) == kQuery && p.plpgsql():
		p.at++
		if p.take(kExecute) {
			p.dynamic()
			return
		}
		p.query(false)
	case p.word(0) == kNext && p.plpgsql():
		p.at++
		p.expression()
	case p.startsQuery(0):
		if p.symbol(0) == '(' {
			p.expression()
		} else {
			p.query(false)
		}
	case p.symbol(0) == ';' || p.tsql() && p.begins():
	default:
		p.expressions()
	}
}

// loopScope opens the scope of a loop that binds a name.
func (p *parser) loopScope() *Scope { return p.open(Block) }

func (p *parser) declareLoop() *Variable {
	v := &Variable{}
	for p.isName(0) {
		v = &Variable{Name: p.aliasText(p.at)}
		p.at++
		for p.symbol(0) == '.' && p.isName(1) {
			p.at += 2
		}
		p.scope.Variables = append(p.scope.Variables, v)
		if !p.takeSymbol(',') {
			break
		}
	}
	return v
}

// loop passes by LOOP or DO; s is the scope that ends with the loop, nil for none.
func (p *parser) loop(s *Scope) {
	if p.tsql() {
		return
	}
	var outer *Scope
	if s != nil {
		outer = s.Parent
	}
	if p.take(kLoop) || p.take(kDo) {
		p.loops = append(p.loops, outer)
	} else if s != nil {
		p.close(s)
	}
}

// forLoop reads FOR x IN … LOOP.
func (p *parser) forLoop() {
	s := p.loopScope()
	v := p.declareLoop()
	p.take(kIn)
	switch {
	case p.take(kExecute):
		p.dynamic()
	case p.startsQuery(0) && p.symbol(0) == '(' && p.mysql():
		p.at++
		v.Query = p.query(false)
		p.closing()
	case p.startsQuery(0):
		v.Query = p.query(false)
	default:
		p.take(kReverse)
		p.expression()
		for p.symbol(0) == '.' {
			p.at++
		}
		p.expression()
		if p.take(kBy) {
			p.expression()
		}
	}
	p.loop(s)
}

// command reads a statement that begins with a verb.
func (p *parser) command(k keyword) {
	p.at++
	switch k {
	case kExec, kExecute:
		p.at--
		p.execute()
	case kPrepare:
		if p.isName(0) && p.word(1) == kFrom {
			p.at += 2
			p.dynamic()
			return
		}
		p.passTo()
	case kCall:
		if p.isName(0) {
			if n := p.name(); p.symbol(0) == '(' {
				p.call(n)
			} else {
				p.ref(Ref{Kind: ToRoutine, Name: n})
			}
		}
	case kPerform:
		q := p.open(Query)
		s := p.open(Arm)
		q.Arms = []*Scope{s}
		p.selectArm()
		p.behindQuery()
		p.close(s)
		p.close(q)
	case kOpen:
		p.openCursor()
	case kFetch:
		for p.more() && p.word(0) != kInto && p.symbol(0) != ';' && !(p.tsql() && p.begins()) {
			p.at++
		}
		if p.word(0) == kInto {
			p.fetchInto()
		}
	case kClose:
		if p.isName(0) || p.kind(0) == Placeholder {
			p.at++
		}
	case kSet:
		p.set()
	case kTruncate:
		if p.symbol(0) == '(' {
			p.at--
			p.expression()
			return
		}
		p.take(kTable)
		p.relations(true)
	case kLock:
		if !p.take(kTable) {
			p.at++ // TABLES
		}
		p.relations(false)
		p.skipTo(';')
	}
}

// fetchInto reads the variables that a row goes to.
func (p *parser) fetchInto() {
	p.at++
	for p.isName(0) || p.kind(0) == Placeholder {
		if p.symbol(1) == '.' {
			p.ref(Ref{Kind: ToColumn, Name: p.name(), Writes: true})
		} else {
			p.taken()
			p.at++
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// openCursor reads OPEN.
func (p *parser) openCursor() {
	if p.isName(0) || p.kind(0) == Placeholder {
		p.at++
	}
	for p.is(0, "no") || p.is(0, "scroll") {
		p.at++
	}
	switch {
	case p.symbol(0) == '(':
		p.at++
		p.arguments()
	case p.take(kFor):
		if p.take(kExecute) {
			p.dynamic()
		} else if p.startsQuery(0) {
			p.query(false)
		} else {
			p.expression()
		}
	}
}

// relations reads a list of relations.
func (p *parser) relations(writes bool) {
	for {
		p.take(kOnly)
		if !p.isName(0) {
			return
		}
		p.ref(Ref{Kind: ToRelation, Name: p.name(), Writes: writes})
		p.takeSymbol('*')
		if !p.takeSymbol(',') {
			return
		}
	}
}

// set reads SET name = value, ….
func (p *parser) set() {
	for p.more() {
		variable := ""
		for p.is(0, "local") || p.is(0, "session") || p.is(0, "global") {
			p.at++
		}
		if p.word(0) == kTransaction {
			p.skipTo(';')
			return
		}
		switch {
		case p.kind(0) == Placeholder && p.symbol(1) == '.' && p.isName(2):
			p.ref(Ref{Kind: ToColumn, Name: p.name(), Writes: true})
		case p.kind(0) == Placeholder || p.symbol(0) == '@':
			variable = p.Text[p.tokens[p.at].start:p.tokens[p.at].end]
			p.at++
		case p.isName(0) && p.symbol(1) == '.':
			p.ref(Ref{Kind: ToColumn, Name: p.name(), Writes: true})
		case p.isName(0):
			variable = p.aliasText(p.at)
			p.at++
		default:
			return
		}
		if p.plpgsql() && p.is(0, "to") {
			p.skipTo(';')
			return
		}
		for p.symbol(0) != 0 && p.symbol(0) != '=' && p.symbol(0) != ',' && p.symbol(0) != ';' && p.symbol(0) != '(' && p.symbol(0) != ')' {
			p.at++
		}
		if !p.takeSymbol('=') {
			if p.tsql() { // SET NOCOUNT ON
				for p.kind(0) == Word && !p.begins() || p.symbol(0) == ',' {
					p.at++
				}
				return
			}
			p.skipTo(';')
			return
		}
		if p.word(0) == kCursor {
			p.at++
			for p.more() && p.word(0) != kFor && p.symbol(0) != ';' {
				p.at++
			}
			p.take(kFor)
		}
		if p.startsQuery(0) && p.symbol(0) != '(' {
			p.query(false)
		} else {
			value, appended := p.at, p.at > 1 && p.symbol(-2) == '+'
			p.expression()
			p.assigns(variable, value, appended)
		}
		if !p.takeSymbol(',') {
			return
		}
	}
}

// plain reads a statement that begins with no word of the grammar: an assignment, a call, a label, a declaration.
func (p *parser) plain() {
	variable := ""
	switch {
	case p.symbol(0) == '<' && p.symbol(1) == '<': // a label
		p.at += 2
		p.skipTo('>', ';')
		for p.symbol(0) == '>' {
			p.at++
		}
		return
	case p.symbol(0) == '(':
		if p.startsQuery(0) {
			p.query(false)
		} else {
			p.expression()
		}
		return
	case p.kind(0) == Word && p.symbol(1) == ':' && p.symbol(2) != '=': // a label
		p.at += 2
		return
	case p.kind(0) == Word && p.word(0) == kNone && (p.is(0, "grant") || p.is(0, "revoke") || p.is(0, "comment") || p.is(0, "vacuum") || p.is(0, "notify") || p.is(0, "listen") || p.is(0, "commit") || p.is(0, "rollback") || p.is(0, "savepoint") || p.is(0, "release") || p.is(0, "signal") || p.is(0, "resignal") || p.is(0, "get") || p.is(0, "reset") || p.is(0, "discard") || p.is(0, "deallocate") || p.is(0, "raiserror") || p.is(0, "waitfor") || p.is(0, "iterate") || p.is(0, "move") || p.is(0, "null") || p.is(0, "pragma") || p.is(0, "go")):
		p.passBy()
		return
	case p.is(0, "alter"), p.is(0, "analyze"), p.is(0, "refresh"):
		p.alters()
		return
	case p.is(0, "copy") && p.plpgsql() && (p.isName(1) || p.symbol(1) == '('):
		p.copies()
		return
	case p.kind(0) == Placeholder:
		if p.symbol(1) == '.' && p.isName(2) {
			p.ref(Ref{Kind: ToColumn, Name: p.name(), Writes: true})
		} else {
			p.at++
		}
	case p.isName(0) && p.isName(1) && p.mysql(): // Oracle mode declares without DECLARE
		p.declaration()
		return
	case p.isName(0):
		n := p.name()
		switch {
		case p.symbol(0) == '(':
			p.call(n)
			return
		case p.symbol(0) == '[' || p.symbol(0) == ':' || p.symbol(0) == '=':
			if n.N() > 1 {
				p.ref(Ref{Kind: ToColumn, Name: n, Writes: true})
			} else {
				variable = p.part(n, 0)
			}
		case p.symbol(0) == ';' && p.mysql():
			p.ref(Ref{Kind: ToRoutine, Name: n})
			return
		default:
			if p.tsql() {
				p.ref(Ref{Kind: ToRoutine, Name: n}) // a procedure may be called without EXEC
			}
		}
	default:
		p.at++
		return
	}
	for p.symbol(0) == '[' {
		p.at++
		p.expressions()
		p.skipTo(']', ';')
		p.takeSymbol(']')
	}
	p.value(variable)
}

// value reads what is assigned to a variable, "" for something else.
func (p *parser) value(variable string) {
	if p.symbol(0) == ':' && p.symbol(1) == '=' {
		p.at++
	}
	if p.takeSymbol('=') {
		if p.startsQuery(0) && p.symbol(0) != '(' {
			p.query(false)
			return
		}
		first, value := len(p.scope.Refs), p.at
		p.expression()
		p.assigns(variable, value, false)
		if p.plpgsql() && (p.word(0) == kFrom || p.word(0) == kWhere) { // x := a FROM t WHERE …
			p.restOfQuery(first)
		}
	}
}

// restOfQuery reads FROM … behind an expression that PL/pgSQL takes for a query; its references begin at first.
func (p *parser) restOfQuery(first int) {
	outer := p.scope
	q := p.open(Query)
	s := p.open(Arm)
	q.Arms = []*Scope{s}
	s.Refs = append(s.Refs, outer.Refs[first:]...)
	outer.Refs = outer.Refs[:first]
	p.selectArm()
	p.behindQuery()
	p.close(s)
	p.close(q)
}
