package sqltext

// Two texts mean the same where they differ in layout, in the case of keywords, in brackets that change nothing, in quotes that
// are not needed, or in a qualifier that names the current schema. What is not sure to mean the same is kept apart.

import "strings"

// SameMeaning reports whether two texts of a dialect are sure to mean the same; schema is the current one, "" for none.
func SameMeaning(a, b string, rules Rules, schema string) bool {
	return a == b || Meaning(a, rules, schema) == Meaning(b, rules, schema)
}

// Meaning returns a text in the one form that all texts have which are sure to mean the same. It can be run like the text
// itself. Comments stay.
func Meaning(text string, rules Rules, schema string) string {
	m := meaning{rules: rules, schema: schema}
	items := m.read(text)
	for len(items) > 0 && items[len(items)-1].text == ";" {
		items = items[:len(items)-1]
	}
	var b strings.Builder
	write(&b, m.plain(items))
	return strings.TrimSpace(b.String())
}

type meaning struct {
	rules  Rules
	schema string
}

// item is a token, or what stands in a pair of brackets.
type item struct {
	text  string // of a word or a name that needs no quotes: in small letters
	kind  TokenKind
	pair  bool // of brackets; text is "(" then
	group []item
}

// multiple are the operators of several characters that are told apart.
var multiple = []string{"->>", "#>>", "<=>", "!~*", "<>", "!=", "<=", ">=", "||", "::", ":=", "=>", "->", "@>", "<@", "&&", "<<", ">>", "~*", "!~", "#>"}

// read cuts a text into items.
func (m *meaning) read(text string) []item {
	l := Lexer{Text: text, Rules: m.rules, KeepComments: true}
	stack := [][]item{nil}
	skip := 0
	for t := l.Next(); t.Kind != End; t = l.Next() {
		if t.Start < skip {
			continue
		}
		top := len(stack) - 1
		s := text[t.Start:t.End]
		switch {
		case s == "(" && t.Kind == Symbol:
			stack = append(stack, nil)
			continue
		case s == ")" && t.Kind == Symbol && top > 0:
			group := item{text: "(", kind: Symbol, pair: true, group: stack[top]}
			stack = stack[:top]
			stack[top-1] = append(stack[top-1], group)
			continue
		case t.Kind == Symbol:
			for _, op := range multiple {
				if strings.HasPrefix(text[t.Start:], op) {
					s, skip = op, t.Start+len(op)
					break
				}
			}
			if s == "!=" {
				s = "<>"
			}
		case t.Kind == Word:
			s = m.word(s)
		case t.Kind == QuotedName:
			s, t.Kind = m.name(Unquote(text, t, m.rules))
		case t.Kind == String && m.rules.DollarQuotes && s[0] == '$':
			if end := strings.IndexByte(s[1:], '$') + 2; end > 1 && len(s) >= 2*end {
				s = "$$" + Meaning(s[end:len(s)-end], m.rules, m.schema) + "$$"
			}
		}
		stack[top] = append(stack[top], item{text: s, kind: t.Kind})
		if n := len(stack[top]); m.schema != "" && n >= 3 && stack[top][n-2].text == "." && stack[top][n-3].text == m.own() && isName(stack[top][n-1]) &&
			(n == 3 || stack[top][n-4].text != ".") {
			stack[top] = append(stack[top][:n-3], stack[top][n-1])
		}
	}
	for len(stack) > 1 { // brackets that are not closed
		top := len(stack) - 1
		stack[top-1] = append(append(stack[top-1], item{text: "(", kind: Symbol}), stack[top]...)
		stack = stack[:top]
	}
	return stack[0]
}

func isName(i item) bool { return i.kind == Word || i.kind == QuotedName }

// own returns the current schema as a name is written.
func (m *meaning) own() string {
	s, _ := m.name(m.schema)
	return s
}

// word returns a word as all its spellings are written.
func (m *meaning) word(s string) string {
	if m.rules.CaseMatters && keywordOf(s) == kNone && !meaningful[strings.ToLower(s)] {
		return s
	}
	return FoldASCII(s)
}

// name returns a name that stood in quotes; without them where it means the same.
func (m *meaning) name(s string) (string, TokenKind) {
	plain := s != "" && isWordStart(s[0]) && keywordOf(s) == kNone && !meaningful[strings.ToLower(s)]
	for i := 0; plain && i < len(s); i++ {
		plain = isWordPart(s[i])
	}
	folded := FoldASCII(s)
	switch {
	case plain && (m.rules.CaseMatters || folded == s):
		return s, Word
	case plain && !m.rules.FoldLower:
		return folded, Word
	case m.rules.FoldLower || m.rules.CaseMatters:
		folded = s
	}
	quote := `"`
	if m.rules.DoubleQuoteStrings {
		quote = "`"
	}
	return quote + strings.ReplaceAll(folded, quote, quote+quote) + quote, QuotedName
}

// Precedences; a bracket may go where what is in it binds closer than what is beside it.
const (
	unsure = iota // nothing is known of it
	lowest        // a clause, a comma, an end
	either        // OR
	both          // AND
	negated
	compared
	added
	multiplied
	cast
	atom
)

var precedences = map[string]int{"or": either, "and": both, "not": negated, "=": compared, "<>": compared, "<": compared, ">": compared, "<=": compared, ">=": compared, "is": compared,
	"in": compared, "like": compared, "+": added, "-": added, "*": multiplied, "/": multiplied, "%": multiplied, "::": cast}

// clauses are the words beside which an expression begins or ends.
var opening = wordSet("where on having when then else case select return by distinct if elsif while until using returning")
var closing = wordSet("then when else end from where group having order limit union except intersect as asc desc join left right inner cross full natural on loop do for offset window returning into")
var joins = wordSet("join left right inner cross full natural straight_join where group having order limit union except intersect on")
var queries = wordSet("select with values table")
var meaningful = wordSet("and or not is in like between null true false when then else end case escape collate ilike similar glob regexp rlike div mod xor all any some exists distinct " +
	"user current_user session_user system_user current_role current_schema current_catalog current_date current_time current_timestamp localtime localtimestamp default value")

func wordSet(words string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(words) {
		all[w] = true
	}
	return all
}

// plain takes out of items the brackets and the words that change nothing.
func (m *meaning) plain(items []item) []item {
	var out []item
	inBetween := false
	for i, it := range items {
		next := func(n int) item {
			if i+n < len(items) {
				return items[i+n]
			}
			return item{}
		}
		if it.kind == Word {
			switch {
			case it.text == "between":
				inBetween = true
			case it.text == "inner" && next(1).text == "join":
				continue
			case it.text == "outer" && len(out) > 0 && (out[len(out)-1].text == "left" || out[len(out)-1].text == "right" || out[len(out)-1].text == "full"):
				continue
			}
		}
		if !it.pair {
			out = append(out, it)
			continue
		}
		it.group = m.plain(it.group)
		if goes(out, it.group, next(1), inBetween) {
			out = append(out, it.group...)
		} else {
			out = append(out, it)
		}
	}
	return out
}

// goes reports whether the brackets around some items can go that stand behind others and before one.
func goes(before, inside []item, next item, inBetween bool) bool {
	if len(inside) == 0 || queries[inside[0].text] || next.text == "." || next.text == "[" || next.text == "(" {
		return false
	}
	for _, it := range inside {
		if it.text == "," || it.kind == Comment {
			return false
		}
	}
	var last item
	if len(before) > 0 {
		last = before[len(before)-1]
	}
	if hasJoin(inside) {
		return (last.text == "" || last.text == "from") && (next.text == "" || joins[next.text] || next.text == ",")
	}
	left := beside(before, last, inBetween)
	right, known := lowest, true
	switch p, isOperator := precedences[next.text]; {
	case next.text == "" || next.text == "," || next.text == ";" || closing[next.text]:
	case next.text == "not":
		right = compared
	case isOperator && !(inBetween && next.text == "and"):
		right = p
	default:
		right, known = multiplied, false
	}
	if left < 0 {
		return false
	}
	inner := binds(inside)
	if inner == atom {
		return true
	}
	if !known || inner == unsure && (left > lowest || right > lowest) {
		return false
	}
	logical := inner == either || inner == both
	first := inner > left || logical && inner == left
	second := inner > right || inner == right && (logical || inner == added || inner == multiplied || inner == cast)
	if inner == unsure {
		return true
	}
	return first && second
}

// beside returns how close what stands in front of brackets binds, -1 where the brackets belong to it.
func beside(before []item, last item, inBetween bool) int {
	p, isOperator := precedences[last.text]
	switch {
	case len(before) == 0 || last.text == "," || last.kind == Word && opening[last.text]:
		return lowest
	case last.text == "in" || last.pair:
		return -1
	case last.text == "is" || inBetween && last.text == "and" || last.text == "between":
		return atom - 1
	case last.text == "not" && len(before) > 1 && before[len(before)-2].text == "is":
		return -1
	case isOperator && last.kind == Symbol && (last.text == "-" || last.text == "+"):
		if len(before) == 1 || !operand(before[len(before)-2]) { // a sign
			return atom - 1
		}
		return p
	case isOperator:
		return p
	case last.kind == Symbol:
		return atom - 1
	}
	return -1
}

func operand(i item) bool {
	return i.kind != Symbol && precedences[i.text] == 0 && !opening[i.text] || i.pair
}

// hasJoin reports whether items are relations that are joined.
func hasJoin(items []item) bool {
	for _, it := range items {
		if it.kind == Word && it.text == "join" {
			return true
		}
	}
	return false
}

// binds returns how close the loosest operator of an expression binds.
func binds(items []item) int {
	loosest, cases, between := atom, 0, false
	wasOperand := false
	for i, it := range items {
		if it.kind == Word && it.text == "case" {
			cases++
		}
		if cases > 0 {
			if it.kind == Word && it.text == "end" {
				if cases--; cases == 0 {
					wasOperand = true
				}
			}
			continue
		}
		p, isOperator := precedences[it.text]
		switch {
		case it.kind == Word && it.text == "between":
			p, isOperator, between = compared, true, true
		case it.text == "and" && between:
			p, isOperator, between = compared, true, false
		case it.text == "not" && (i > 0 && items[i-1].text == "is" || i > 0 && operand(items[i-1])):
			p = compared
		case it.text == ".":
			wasOperand = false
			continue
		case it.kind == Symbol && !it.pair && !isOperator:
			return unsure
		case (it.text == "-" || it.text == "+") && !wasOperand: // a sign
			if i+1 < len(items) && items[i+1].kind == Number && i == 0 && len(items) == 2 {
				return multiplied
			}
			return unsure
		}
		if isOperator {
			loosest = min(loosest, p)
			wasOperand = false
			continue
		}
		call := it.pair && wasOperand && isName(items[i-1])
		if wasOperand && !call {
			return unsure
		}
		wasOperand = true
	}
	return loosest
}

func write(b *strings.Builder, items []item) {
	for _, it := range items {
		switch {
		case it.kind == Comment:
			b.WriteString(it.text)
			b.WriteByte('\n')
			continue
		case it.pair:
			b.WriteByte('(')
			write(b, it.group)
			b.WriteByte(')')
		default:
			b.WriteString(it.text)
		}
		b.WriteByte(' ')
	}
}
