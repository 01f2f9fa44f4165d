package sqltext

// Expressions are read operand by operand. Where an operand is complete, a word that is no operator ends the expression: it is
// an alias, or begins a clause. So no list of reserved words is needed but for what cannot begin an operand.

// endsOperand reports whether a keyword cannot begin an operand.
func endsOperand(k keyword) bool {
	switch k {
	case kFrom, kWhere, kGroup, kHaving, kOrder, kUnion, kIntersect, kExcept, kInto, kOn, kJoin, kThen, kElse, kElseif, kElsif, kWhen, kEnd, kSelect, kUpdate, kDelete, kSet, kUsing, kReturning, kAs, kBy,
		kWith, kLoop, kDo, kFetch, kWindow, kBegin, kDeclare, kReturn, kCreate, kInner, kCross, kNatural, kFor, kLimit, kInsert, kMerge, kExec, kExecute, kWhile, kPrint, kSeparator:
		return true
	}
	return false
}

// callable reports whether a keyword is a function where a bracket follows.
func callable(k keyword) bool {
	switch k {
	case kLeft, kRight, kReplace, kInsert, kIf, kTruncate, kMod, kRepeat, kReverse, kValues, kConvert, kCast, kExtract, kDefault, kValue, kNext, kMatch, kGlob, kLike, kAny, kQuery, kOpen, kClose, kOffset, kLock,
		kType, kOutput, kExit, kUse, kView, kTry:
		return true
	}
	return false
}

// isOperator reports whether a keyword joins two operands, or follows one.
func isOperator(k keyword) bool {
	switch k {
	case kAnd, kOr, kNot, kIs, kIn, kLike, kIlike, kSimilar, kBetween, kEscape, kRegexp, kRlike, kGlob, kMatch, kDiv, kMod, kXor, kCollate, kAt, kOverlaps, kIsnull, kNotnull, kOperator:
		return true
	}
	return false
}

// expressions reads a list of expressions with commas between.
func (p *parser) expressions() {
	for {
		p.expression()
		if !p.takeSymbol(',') {
			return
		}
	}
}

// expression reads one expression.
func (p *parser) expression() {
	operand := true // is expected
	for p.more() {
		switch p.kind(0) {
		case Symbol:
			var done bool
			if operand, done = p.operatorSymbol(operand); done {
				return
			}
		case Word, QuotedName:
			if !operand {
				if p.is(0, "sounds") && p.word(1) == kLike {
					p.at++
				}
				if !isOperator(p.word(0)) {
					return
				}
				operand = p.operatorWord()
				continue
			}
			var done bool
			if operand, done = p.operandWord(); done {
				return
			}
		case String:
			if !operand {
				return
			}
			p.constant()
			operand = false
		default:
			if !operand {
				return
			}
			if p.kind(0) == Placeholder && p.symbol(1) == '.' && p.isName(2) {
				p.ref(Ref{Kind: ToColumn, Name: p.name()}) // :new.no
			} else {
				p.at++
			}
			operand = false
		}
	}
}

// operatorSymbol reads a symbol within an expression. It returns whether an operand is expected behind it, and whether the
// expression has ended.
func (p *parser) operatorSymbol(operand bool) (expected, done bool) {
	switch c := p.symbol(0); c {
	case '(':
		if !p.deeper() {
			return false, false
		}
		p.brackets()
		p.depth--
		return false, false
	case ')', ',', ';', ']', '}':
		return operand, true
	case '[':
		p.at++
		p.expressions()
		for p.more() && p.symbol(0) != ']' && p.symbol(0) != ')' && p.symbol(0) != ';' { // a slice
			p.at++
			p.expression()
		}
		p.takeSymbol(']')
		return false, false
	case '.':
		p.at++
		if p.isName(0) || p.symbol(0) == '*' {
			p.at++
		}
		return false, false
	case ':':
		if p.tokens[p.at].end-p.tokens[p.at].start == 2 {
			p.at++
			p.typeName()
			return false, false
		}
		if p.symbol(1) == '=' {
			if p.kind(-1) != Placeholder { // a variable of the session may be set within
				return operand, true
			}
			p.at++
		}
	case '*':
		if p.plpgsql() && p.symbol(-1) == '~' && p.tokens[p.at-1].end == p.tokens[p.at].start { // ~*
			break
		}
		if operand {
			p.ref(Ref{Kind: ToStar, Start: p.start(), Stop: p.start() + 1})
			p.at++
			return false, false
		}
	}
	p.at++
	return true, false
}

// operatorWord reads an operator that is a word, and reports whether an operand is expected behind it.
func (p *parser) operatorWord() bool {
	k := p.word(0)
	p.at++
	switch k {
	case kIsnull, kNotnull:
		return false
	case kNot: // NOT LIKE
		if isOperator(p.word(0)) && p.word(0) != kNot {
			return p.operatorWord()
		}
	case kIs:
		p.take(kNot)
		if p.take(kDistinct) {
			p.take(kFrom)
			return true
		}
		if p.is(0, "of") {
			p.at++
		}
		return true
	case kCollate:
		if p.isName(0) {
			p.name()
		} else {
			p.at++
		}
		return false
	case kAt:
		if p.is(0, "time") && p.is(1, "zone") {
			p.at += 2
			return true
		}
		if p.is(0, "local") {
			p.at++
			return false
		}
	case kOperator:
		if p.symbol(0) == '(' {
			p.skipBrackets()
		}
	case kSimilar:
		p.at++ // TO
	case kIn:
		if p.Rules.MembershipInTable && p.isName(0) {
			if n := p.name(); p.symbol(0) == '(' {
				p.call(n)
			} else {
				p.ref(Ref{Kind: ToRelation, Name: n})
			}
			return false
		}
	}
	return true
}

// operandWord reads an operand that begins with a word. It returns whether one is still expected, and whether the expression
// ends before it.
func (p *parser) operandWord() (expected, done bool) {
	k := p.word(0)
	if k == kNone || p.kind(0) == QuotedName || p.symbol(1) == '.' {
		p.operandName()
		return false, false
	}
	bracket := p.symbol(1) == '('
	switch k {
	case kExists:
		p.at++
		if !p.plpgsql() && p.symbol(0) == '(' && p.derives() {
			p.at++
			for _, arm := range p.query(false).Arms {
				for _, o := range arm.Outputs {
					if o.Star {
						arm.Refs[o.Ref].Kind = ToNothing
					}
				}
			}
			p.closing()
			return false, false
		}
		return true, false
	case kNot, kAll, kSome, kDistinct, kUnique, kBinary, kPrior, kVariadic, kAny:
		p.at++
		return true, false
	case kRow, kArray:
		p.at++
		return p.symbol(0) == '(' || p.symbol(0) == '[', false
	case kNull:
		p.at++
		return false, false
	case kDefault:
		if !bracket {
			p.at++
			return false, false
		}
	case kUpdate:
		if bracket && p.tsql() && p.isName(2) && p.symbol(3) == ')' { // whether a trigger's statement sets a column
			p.at += 2
			p.ref(Ref{Kind: ToFired, Name: p.name()})
			p.takeSymbol(')')
			return false, false
		}
	case kBoth, kLeading, kTrailing:
		p.at++
		return true, false
	case kCase:
		p.caseOf()
		return false, false
	case kInterval:
		if p.kind(1) == String || p.kind(1) == Number || p.kind(1) == Placeholder || p.isName(1) || bracket {
			p.at++
			p.interval()
			return false, false
		}
	case kNext:
		if p.word(1) == kValue && p.word(2) == kFor {
			p.nextValue()
			return false, false
		}
	}
	if endsOperand(k) && !(bracket && callable(k)) {
		return true, true
	}
	p.operandName()
	return false, false
}

// nextValue reads NEXT VALUE FOR a sequence.
func (p *parser) nextValue() {
	p.at += 3
	if p.isName(0) {
		p.ref(Ref{Kind: ToSequence, Name: p.name()})
	}
	p.overAndFilter()
}

// interval reads what follows INTERVAL: an operand, and its unit.
func (p *parser) interval() {
	switch {
	case p.kind(0) == String || p.kind(0) == Number || p.kind(0) == Placeholder:
		p.at++
	case p.symbol(0) == '(':
		if p.deeper() {
			p.brackets()
			p.depth--
		}
	default:
		p.operandName()
	}
	if p.kind(0) == Word && p.word(0) == kNone { // its unit
		p.at++
		if p.is(0, "to") {
			p.at += 2
		}
	}
}

// caseOf reads CASE … END.
func (p *parser) caseOf() {
	if !p.deeper() {
		return
	}
	p.at++
	for p.more() {
		switch p.word(0) {
		case kWhen, kThen, kElse:
			p.at++
			continue
		case kEnd:
			p.at++
			p.depth--
			return
		}
		if c := p.symbol(0); c == ')' || c == ';' { // it is not closed
			break
		}
		before := p.at
		p.expression()
		if p.at == before {
			p.at++
		}
	}
	p.depth--
}

// brackets reads what stands in brackets: a query, or expressions.
func (p *parser) brackets() {
	open, first := p.at, len(p.scope.Refs)
	if p.derives() {
		p.at++
		p.query(false)
	} else {
		p.at++
		p.expressions()
	}
	p.closing()
	if p.symbol(0) == '.' && p.at == open+3 && len(p.scope.Refs) == first+1 { // a field of a row: (b).name, (b).*
		r := &p.scope.Refs[first]
		switch {
		case r.Kind != ToColumn || r.Name.N() != 1:
		case p.isName(1):
			r.Name.Parts[1], r.Name.n, r.Bracketed = int32(p.at+1), 2, true
			p.at += 2
			r.Start, r.Stop = int(p.tokens[open].start), p.stop()
		case p.symbol(1) == '*':
			p.at += 2
			r.Kind, r.Start, r.Stop, r.Bracketed = ToStar, int(p.tokens[open].start), p.stop(), true
		}
	}
}

// closing passes by what is not understood up to the closing bracket, and that.
func (p *parser) closing() {
	for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
		before := p.at
		if p.startsQuery(0) {
			p.query(false)
		} else {
			p.expressions()
		}
		if p.at == before {
			p.at++
		}
	}
	p.takeSymbol(')')
}

// startsQuery reports whether a query stands n tokens on, perhaps in brackets.
func (p *parser) startsQuery(n int) bool {
	for most := n + deepest; p.symbol(n) == '('; n++ {
		if n > most {
			return false
		}
	}
	switch p.word(n) {
	case kSelect:
		return true
	case kWith:
		return p.kind(n+1) == Word || p.kind(n+1) == QuotedName
	case kValues:
		return p.symbol(n+1) == '(' || p.word(n+1) == kRow
	}
	return false
}

// operandName reads a name within an expression: a column, a call, a type before a literal, all columns of something.
func (p *parser) operandName() {
	single := p.kind(0) == Word && p.symbol(1) != '.'
	n := p.name()
	switch {
	case p.symbol(0) == '(':
		p.call(n)
	case p.symbol(0) == '.' && p.symbol(1) == '*':
		p.at += 2
		start := int(p.tokens[n.Parts[0]].start)
		if p.plpgsql() && (p.args || p.symbol(0) == ':') { // a whole row
			return
		}
		p.ref(Ref{Kind: ToStar, Name: n, Start: start, Stop: p.stop()})
	case p.symbol(0) == '%' && (p.word(1) == kType || p.word(1) == kRowtype):
		p.at += 2
		p.ref(Ref{Kind: ToTyped, Name: n})
	case p.kind(0) == String && single: // date '2026-03-01'
		p.constant()
	default:
		p.ref(Ref{Kind: ToColumn, Name: n})
	}
}

// constant reads a string; one that is cast to a name of a relation names it.
func (p *parser) constant() {
	text := p.at
	p.at++
	for p.kind(0) == String && p.kind(-1) == String {
		p.at++
	}
	if p.symbol(0) == ':' && p.tokens[p.at].end-p.tokens[p.at].start == 2 && p.is(1, "regclass") {
		p.quotedName(text, ToConstant)
	}
}

// quotedName notes the name that stands in a string.
func (p *parser) quotedName(at int, kind RefKind) {
	tok := p.tokens[at]
	literal := p.Text[tok.start:tok.end]
	if len(literal) < 2 || literal[0] != '\'' {
		return
	}
	rules := *p.Rules
	inner := literal[1 : len(literal)-1]
	var parts []string
	for _, t := range Tokens(inner, rules) {
		switch {
		case t.Kind == Word || t.Kind == QuotedName:
			parts = append(parts, Unquote(inner, t, rules))
		case inner[t.Start:t.End] != ".":
			return
		}
	}
	if len(parts) > 0 && len(parts) <= 3 {
		p.ref(Ref{Kind: kind, Quoted: &parts, Start: int(tok.start) + 1, Stop: int(tok.end) - 1})
	}
}

// ofSequence are functions over sequences; their first argument names one.
func (p *parser) ofSequence(at int) bool {
	switch tok := p.tokens[at]; int(tok.end - tok.start) {
	case 6:
		return equalFold("setval", p.Text[tok.start:tok.end])
	case 7:
		s := p.Text[tok.start:tok.end]
		return equalFold("nextval", s) || equalFold("currval", s) || equalFold("lastval", s)
	}
	return false
}

// call reads the arguments of a function, and what may follow them.
func (p *parser) call(n Name) {
	if !p.deeper() {
		return
	}
	defer func() { p.depth-- }()
	last := int(n.Parts[n.N()-1])
	name := p.tokens[last]
	place := len(p.scope.Refs)
	p.ref(Ref{Kind: ToRoutine, Name: n})
	scope := p.scope
	p.at++ // the bracket
	if name.kind == Word && p.ofSequence(last) {
		switch {
		case p.kind(0) == String:
			p.quotedName(p.at, ToSequence)
		case p.isName(0) && p.word(0) == kNone:
			p.ref(Ref{Kind: ToSequence, Name: p.name()})
		}
	}
	switch {
	case p.firstIsUnit(last):
		p.at++
	case name.word == kConvert && p.Rules.HashNames || p.isText(last, "try_convert"):
		p.typeName()
	case name.word == kValues && n.N() == 1 && p.isName(0): // of a row that was to be inserted
		p.ref(Ref{Kind: ToTarget, Name: p.name()})
	}
	if p.symbol(0) == '*' && p.symbol(1) == ')' { // count(*) reads no column
		p.at++
	}
	whole := p.args
	p.args = name.word != kRow
	args := p.arguments()
	p.args = whole
	scope.Refs[place].Args = int32(args)
	p.overAndFilter()
}

func (p *parser) isText(at int, word string) bool {
	tok := p.tokens[at]
	return int(tok.end-tok.start) == len(word) && equalFold(word, p.Text[tok.start:tok.end])
}

// firstIsUnit reports whether the first argument of a function is a word that names a unit of time.
func (p *parser) firstIsUnit(at int) bool {
	if p.kind(0) != Word || p.symbol(1) != ',' && p.word(1) != kFrom {
		return false
	}
	if p.tokens[at].word == kExtract {
		return true
	}
	for _, f := range [...]string{"dateadd", "datediff", "datediff_big", "datepart", "datename", "datetrunc", "date_bucket", "timestampdiff", "timestampadd"} {
		if p.isText(at, f) {
			return true
		}
	}
	return false
}

// arguments reads arguments up to the closing bracket, and returns how many there are.
func (p *parser) arguments() int {
	if p.takeSymbol(')') {
		return 0
	}
	args := 1
	for p.more() {
		switch p.symbol(0) {
		case ')':
			p.at++
			return args
		case ';':
			return args
		case ',':
			args++
			p.at++
			continue
		case ':': // name := value
			if p.symbol(1) == '=' {
				p.at += 2
				continue
			}
		}
		switch {
		case p.kind(0) == Word && p.symbol(1) == '=' && p.symbol(2) == '>', p.kind(0) == Word && p.symbol(1) == ':' && p.symbol(2) == '=': // the name of a parameter
			p.at += 3
		case p.startsQuery(0) && p.word(0) != kNone:
			p.query(false)
		case p.take(kAs):
			p.typeName()
		case p.word(0) == kOrder || p.word(0) == kBy || p.word(0) == kSeparator || p.word(0) == kFrom || p.word(0) == kFor || p.word(0) == kUsing || p.word(0) == kAsc || p.word(0) == kDesc:
			p.at++
		default:
			before := p.at
			p.expression()
			if p.at == before || p.kind(0) == Word && !endsOperand(p.word(0)) && p.word(0) != kAsc && p.word(0) != kDesc { // a word that is no operator: NULLS FIRST, a unit
				p.at++
			}
		}
	}
	return args
}

// overAndFilter reads FILTER (…), WITHIN GROUP (…) and OVER (…) behind a call.
func (p *parser) overAndFilter() {
	for {
		switch {
		case p.word(0) == kFilter && p.symbol(1) == '(':
			p.at += 2
			p.take(kWhere)
			p.expression()
			p.closing()
		case p.word(0) == kWithin && p.word(1) == kGroup && p.symbol(2) == '(':
			p.at += 2
			p.window()
		case p.word(0) == kOver && p.symbol(1) == '(':
			p.at++
			p.window()
		case p.word(0) == kOver && p.isName(1):
			p.at += 2
		case (p.word(0) == kIgnore || p.is(0, "respect")) && p.is(1, "nulls"):
			p.at += 2
		default:
			return
		}
	}
}

// window reads the definition of a window in brackets.
func (p *parser) window() {
	p.at++
	if p.kind(0) == Word && p.word(0) == kNone && !p.is(0, "rows") && !p.is(0, "range") && !p.is(0, "groups") || p.kind(0) == QuotedName { // of another window
		p.at++
	}
	for p.more() && p.symbol(0) != ')' && p.symbol(0) != ';' {
		switch {
		case p.word(0) == kPartition || p.word(0) == kOrder || p.word(0) == kBy || p.word(0) == kAsc || p.word(0) == kDesc || p.word(0) == kUsing || p.word(0) == kBetween || p.word(0) == kAnd || p.word(0) == kRow || p.symbol(0) == ',':
			p.at++
		case p.frameWord():
			p.at++
		default:
			before := p.at
			p.expression()
			if p.at == before {
				p.at++
			}
		}
	}
	p.takeSymbol(')')
}

// frameWord reports whether a word belongs to the frame or the order of a window.
func (p *parser) frameWord() bool {
	if p.kind(0) != Word || p.symbol(1) == '.' {
		return false
	}
	for _, w := range [...]string{"rows", "range", "groups", "unbounded", "preceding", "following", "current", "exclude", "ties", "others", "nulls", "first", "last"} {
		if p.is(0, w) {
			return true
		}
	}
	return false
}

// typeWords may follow the name of a type.
var typeWords = [...]string{"precision", "varying", "without", "with", "time", "zone", "unsigned", "signed", "zerofill", "character", "byte", "local", "national", "large", "object", "max", "year", "month", "day", "hour", "minute", "second", "to"}

// typeName reads the name of a type, with its arguments and brackets.
func (p *parser) typeName() {
	if p.is(0, "setof") {
		p.at++
	}
	if !p.isName(0) {
		return
	}
	if p.mysql() { // TYPE OF a column, ROW TYPE OF a relation
		row := p.word(0) == kRow && p.word(1) == kType && p.is(2, "of")
		if row {
			p.at++
		}
		if (row || p.word(0) == kType) && p.is(1, "of") {
			if p.at += 2; p.isName(0) {
				p.ref(Ref{Kind: ToTyped, Name: p.name()})
				p.rowType = row
			}
			return
		}
	}
	n := p.name()
	switch {
	case p.symbol(0) == '%' && (p.word(1) == kType || p.word(1) == kRowtype):
		p.at += 2
		p.ref(Ref{Kind: ToTyped, Name: n})
	default:
		p.ref(Ref{Kind: ToType, Name: n})
	}
	for more := true; more; {
		more = false
		if p.symbol(0) == '(' {
			p.skipBrackets()
			more = true
		}
		if p.kind(0) == Word {
			for _, w := range typeWords {
				if p.is(0, w) && !(w == "with" && !p.is(1, "time") && !p.is(1, "local")) && !(w == "to" && p.kind(1) != Word) {
					p.at++
					more = true
					break
				}
			}
			if p.is(0, "charset") || p.is(0, "character") && p.word(1) == kSet {
				p.at += 2
				more = true
			}
			if p.word(0) == kCollate {
				p.at += 2
				more = true
			}
		}
	}
	for p.symbol(0) == '[' {
		p.at++
		if p.kind(0) == Number {
			p.at++
		}
		p.takeSymbol(']')
	}
	if p.word(0) == kArray {
		p.at++
	}
}
