package sqltext

// Which of several routines a call means, by the types of its arguments, as far as the text and what exists tell them.

import "strings"

// UntypedText stands for the type of a string constant whose type follows from where it stands.
const UntypedText = "?"

// Chooser is implemented by a World that tells routines of one name apart by the types of arguments.
type Chooser interface {
	// Choose returns those of some routines that a call with arguments of these types may mean: a type is "" where it is not known, and UntypedText
	// of a string that has none.
	Choose(keys []any, types []string) []any
	// TypeOf returns the type of a column of a relation, or what a routine returns where column is ""; "" where that is not known.
	TypeOf(key any, column string) string
}

// call is a call that may mean several routines.
type call struct {
	scope     *Scope
	ref       *Ref
	first, to int // what was found of it
	guessed   bool
}

// choose leaves those of the routines that were found of each call that the types of its arguments allow.
func (b *binder) choose() {
	chooser, ok := b.c.World.(Chooser)
	if !ok || len(b.calls) == 0 {
		return
	}
	gone := make([]bool, len(b.found))
	b.columns, b.called = make(map[int]int, len(b.found)), map[int]int{}
	for i := range b.found {
		if r := &b.found[i]; r.Column != "" && r.Key != nil && r.Use == RefReads {
			b.columns[r.Start] = i
		} else if r.Use == RefCalls {
			b.called[r.At] = i
		}
	}
	for i := len(b.calls) - 1; i >= 0; i-- { // what stands within others comes behind them
		c := &b.calls[i]
		types, ok := b.argumentTypes(chooser, c)
		if !ok {
			continue
		}
		var keys []any
		for k := c.first; k < c.to; k++ {
			keys = append(keys, b.found[k].Key)
		}
		chosen := chooser.Choose(keys, types)
		if len(chosen) == 0 || len(chosen) == len(keys) {
			continue
		}
		for k := c.first; k < c.to; k++ {
			kept := false
			for _, key := range chosen {
				kept = kept || key == b.found[k].Key
			}
			if gone[k] = !kept; kept && len(chosen) == 1 {
				b.found[k].Guessed = c.guessed || c.ref.Guessed
			}
		}
		if len(chosen) == 1 {
			c.ref.chosen = chosen[0]
		}
	}
	left := b.found[:0]
	for i, r := range b.found {
		if !gone[i] {
			left = append(left, r)
		}
	}
	b.found = left
}

// argumentTypes returns the types of the arguments of a call; ok is false where they cannot be told apart.
func (b *binder) argumentTypes(c Chooser, of *call) (types []string, ok bool) {
	n := of.ref.Name
	open := int(n.Parts[n.N()-1]) + 1
	if open >= len(b.tokens) || b.tokens[open].symbol != '(' {
		return nil, false
	}
	const most = 2000 // tokens
	start, depth := open+1, 0
	for i := open; i < min(len(b.tokens), open+most); i++ {
		switch t := &b.tokens[i]; {
		case t.symbol == '(' || t.symbol == '[':
			depth++
		case t.symbol == ')' || t.symbol == ']':
			if depth--; depth == 0 {
				if i > start {
					types = append(types, b.typeOf(c, of.scope, start, i))
				}
				return types, true
			}
		case depth > 1:
		case t.symbol == ',':
			types = append(types, b.typeOf(c, of.scope, start, i))
			start = i + 1
		case t.symbol == '=' && b.tokens[i+1].symbol == '>', t.symbol == ':' && b.tokens[i+1].symbol == '=': // by the name of a parameter
			return nil, false
		case t.word == kOrder || t.word == kDistinct:
			return nil, false
		}
	}
	return nil, false
}

func (b *binder) tokenText(i int) string { return b.Text[b.tokens[i].start:b.tokens[i].end] }

// typeOf returns the type of the expression that some tokens are, "" where it is not known.
func (b *binder) typeOf(c Chooser, s *Scope, from, to int) string {
	for to-from > 2 && b.tokens[from].symbol == '(' && b.closedBy(from) == to-1 {
		from, to = from+1, to-1
	}
	if from >= to {
		return ""
	}
	depth, cast, sum, joined := 0, -1, -1, false
	for i := from; i < to; i++ {
		switch t := &b.tokens[i]; {
		case t.symbol == '(' || t.symbol == '[':
			depth++
		case t.symbol == ')' || t.symbol == ']':
			depth--
		case depth > 0:
		case t.symbol == ':' && t.end-t.start == 2 && i+1 < to: // ::
			cast = i + 1
		case t.symbol == '|':
			joined = true
		case t.symbol == '<', t.symbol == '>', t.symbol == '=', t.symbol == '!', t.symbol == '~':
			return b.comparison(from, to)
		case t.word == kAnd, t.word == kOr, t.word == kNot, t.word == kIn, t.word == kIs, t.word == kLike, t.word == kBetween, t.word == kExists:
			return "boolean"
		case i > from && (t.symbol == '+' || t.symbol == '-' || t.symbol == '*' || t.symbol == '/'):
			sum = i
		}
	}
	switch {
	case joined:
		return "text"
	case sum > 0:
		x, y := b.typeOf(c, s, from, sum), b.typeOf(c, s, sum+1, to)
		bare := func(s string) string { s, _, _ = strings.Cut(s, "("); return strings.TrimSpace(s) }
		if bare(x) == bare(y) {
			return bare(x)
		}
		return ""
	case cast > 0:
		return b.Text[b.tokens[cast].start:b.tokens[to-1].end]
	}
	return b.operandType(c, s, from, to)
}

// comparison returns the type of an expression with a sign of comparison in it, which may be part of another operator.
func (b *binder) comparison(from, to int) string {
	for i := from; i < to; i++ {
		if sign := b.tokens[i].symbol; sign == '-' && i+1 < to && b.tokens[i+1].symbol == '>' || sign == '@' || sign == '#' || sign == '&' || sign == '|' {
			return ""
		}
	}
	return "boolean"
}

// closedBy returns the token that closes a bracket, -1 for none.
func (b *binder) closedBy(open int) int {
	depth := 0
	for i := open; i < len(b.tokens); i++ {
		switch b.tokens[i].symbol {
		case '(':
			depth++
		case ')':
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

// operandType is typeOf for what holds no operator.
func (b *binder) operandType(c Chooser, s *Scope, from, to int) string {
	first := &b.tokens[from]
	text := b.tokenText(from)
	if to-from == 1 {
		switch first.kind {
		case String:
			return UntypedText
		case Number:
			switch digits := strings.Trim(text, "0123456789"); {
			case digits == "" && len(text) < 10:
				return "integer"
			case digits == "." || digits == "" && len(text) > 19:
				return "numeric"
			}
			return ""
		}
		switch FoldASCII(text) {
		case "true", "false":
			return "boolean"
		case "null":
			return ""
		case "current_date":
			return "date"
		case "current_timestamp":
			return "timestamp with time zone"
		}
	}
	if first.kind == Word && to-from == 2 && b.tokens[from+1].kind == String { // date '2026-01-01'
		return text
	}
	last := from
	for last+2 < to && b.tokens[last+1].symbol == '.' {
		last += 2
	}
	switch {
	case first.kind != Word && first.kind != QuotedName:
		return ""
	case last == to-1:
		return b.nameType(c, s, from, to)
	case b.tokens[last+1].symbol == '(' && b.closedBy(last+1) == to-1:
		return b.calledType(c, last)
	}
	return ""
}

// calledType returns what a routine returns that is called at a token.
func (b *binder) calledType(c Chooser, at int) string {
	switch FoldASCII(b.tokenText(at)) {
	case "lower", "upper", "concat", "format", "trim", "btrim", "ltrim", "rtrim", "substring", "replace", "to_char", "left", "right", "initcap", "repeat", "lpad", "rpad", "md5", "string_agg", "quote_literal", "quote_ident":
		return "text"
	case "count":
		return "bigint"
	case "length":
		return "integer"
	case "now", "clock_timestamp":
		return "timestamp with time zone"
	}
	for i := range b.calls { // one that could mean several
		if r := b.calls[i].ref; int(r.Name.Parts[r.Name.N()-1]) == at {
			if r.chosen != nil {
				return c.TypeOf(r.chosen, "")
			}
			return ""
		}
	}
	if i, ok := b.called[int(b.tokens[at].start)]; ok {
		return c.TypeOf(b.found[i].Key, "")
	}
	return ""
}

// nameType returns the type of a column or a variable that is named by some tokens.
func (b *binder) nameType(c Chooser, s *Scope, from, to int) string {
	start, stop := int(b.tokens[from].start), int(b.tokens[to-1].end)
	if i, ok := b.columns[start]; ok && b.found[i].Stop <= stop {
		return c.TypeOf(b.found[i].Key, b.found[i].Column)
	}
	if v := b.variable(s, Unquote(b.Text, Token{b.tokens[to-1].kind, int(b.tokens[to-1].start), stop}, *b.Rules)); v != nil && to-from <= 3 && v.Type != "" {
		if name, ok := strings.CutSuffix(FoldASCII(v.Type), "%type"); ok {
			parts := TypeName(v.Type[:len(name)], *b.Rules)
			if len(parts) > 1 {
				if rel := b.c.World.Relation(parts[:len(parts)-1]); rel != nil {
					return c.TypeOf(rel.Key, parts[len(parts)-1])
				}
			}
			return ""
		}
		return v.Type
	}
	return ""
}
