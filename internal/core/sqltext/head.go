package sqltext

// The head of a routine: parameters, and where the body begins.

import "strings"

// Parameter is one of a routine, as its head writes it.
type Parameter struct {
	Mode    string // "", "in", "out", "inout", "variadic" or "readonly"
	Name    string // "" where it has none
	Type    string
	Default string
}

// Head is what stands before the body of a routine.
type Head struct {
	Parameters []Parameter
	Body       int // where the body begins, in bytes; the length of the text if it was not found
	End        int // where it ends
}

// RoutineHead reads the head of a statement that makes a routine: CREATE … FUNCTION name (parameters) … body. The body
// is what stands in the string behind AS, or what follows AS; in dialects with backticks it begins behind the characteristics.
// What is not understood gives fewer parameters, never an error. The body itself is not looked at.
func RoutineHead(text string, rules Rules) Head {
	h := headReader{Lexer: Lexer{Text: text, Rules: rules}}
	at := h.skipName()
	var head Head
	if h.is(at, "(") {
		end := h.closing(at)
		head.Parameters = Parameters(text, h.tokens[at+1:end], rules)
		at = end + 1
	} else if h.have(at) && strings.HasPrefix(text[h.tokens[at].Start:], "@") { // T-SQL takes them without brackets
		end := at
		for h.have(end) && (h.word(end) != "as" || strings.HasPrefix(text[h.tokens[end-1].Start:], "@")) && h.word(end) != "with" && h.word(end) != "for" { // @name AS type
			end++
		}
		head.Parameters = Parameters(text, h.tokens[at:end], rules)
		at = end
	}
	head.Body, head.End = h.body(at)
	head.End = max(head.Body, head.End)
	return head
}

// headReader cuts off tokens as they are asked for: bodies are long.
type headReader struct {
	Lexer
	tokens []Token
	done   bool
}

// have reports whether there is a token i.
func (h *headReader) have(i int) bool {
	for i >= len(h.tokens) && !h.done {
		if t := h.Next(); t.Kind == End {
			h.done = true
		} else {
			h.tokens = append(h.tokens, t)
		}
	}
	return i >= 0 && i < len(h.tokens)
}

func (h *headReader) word(i int) string {
	if !h.have(i) || h.tokens[i].Kind != Word {
		return ""
	}
	return FoldASCII(h.Text[h.tokens[i].Start:h.tokens[i].End])
}

func (h *headReader) is(i int, symbol string) bool {
	return h.have(i) && h.Text[h.tokens[i].Start:h.tokens[i].End] == symbol
}

// skipName returns the token behind the name of the routine.
func (h *headReader) skipName() int {
	for i := 0; h.have(i); i++ {
		switch h.word(i) {
		case "function", "procedure", "proc", "aggregate":
			if h.word(i) == "aggregate" && h.word(i+1) == "function" {
				continue
			}
			i++
			if h.word(i) == "if" { // IF NOT EXISTS
				i += 3
			}
			for i++; h.is(i, "."); i += 2 {
			}
			return i
		}
	}
	return len(h.tokens)
}

// closing returns the token that closes the bracket at i, or the end where none does.
func (h *headReader) closing(i int) int {
	depth := 0
	for ; h.have(i); i++ {
		switch {
		case h.is(i, "("):
			depth++
		case h.is(i, ")"):
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return len(h.tokens)
}

// characteristics are the words that may stand between the parameters and the body where no AS parts them.
var characteristics = map[string]bool{
	"contains": true, "no": true, "reads": true, "modifies": true, "sql": true, "data": true, "deterministic": true, "not": true, "security": true, "definer": true, "invoker": true,
	"comment": true, "language": true,
}

// body returns where the body begins and ends, from behind the parameters.
func (h *headReader) body(at int) (start, end int) {
	if h.Rules.Backticks {
		at = h.behindCharacteristics(at)
		if w := h.word(at); w == "as" || w == "is" {
			at++
		}
		return h.from(at)
	}
	depth := 0
	for i := at; h.have(i); i++ {
		switch {
		case h.is(i, "("):
			depth++
		case h.is(i, ")"):
			depth--
		case depth > 0:
		case h.word(i) == "as" && (h.word(i-1) == "execute" || h.word(i-1) == "exec"): // EXECUTE AS OWNER
		case h.word(i) == "as" && h.have(i+1):
			if next := h.tokens[i+1]; next.Kind == String && h.Rules.DollarQuotes {
				return inString(h.Text, next)
			}
			return h.from(i + 1)
		case h.word(i) == "begin", h.word(i) == "return" && i > at: // the first word behind the parameters names the type
			return h.from(i)
		}
	}
	return len(h.Text), len(h.Text)
}

// from returns a body that begins with token i.
func (h *headReader) from(i int) (start, end int) {
	if !h.have(i) {
		return len(h.Text), len(h.Text)
	}
	return h.tokens[i].Start, len(strings.TrimRight(h.Text, "; \r\n\t"))
}

// behindCharacteristics returns the token behind RETURNS type and the characteristics.
func (h *headReader) behindCharacteristics(at int) int {
	if h.word(at) == "returns" || h.word(at) == "return" {
		at += 2
		if h.is(at, "(") {
			at = h.closing(at) + 1
		}
		for w := h.word(at); w == "unsigned" || w == "zerofill" || w == "charset" || w == "collate" || w == "character" || w == "set"; w = h.word(at) {
			at++
			if w == "charset" || w == "set" || w == "collate" {
				at++
			}
		}
	}
	for characteristics[h.word(at)] {
		if h.word(at) == "comment" {
			at++
		}
		at++
	}
	return at
}

// inString returns where the content of a string literal is: in dollar quotes or plain ones.
func inString(text string, t Token) (start, end int) {
	s := text[t.Start:t.End]
	quote := 1
	if i := strings.IndexByte(s[1:], '$'); s[0] == '$' && i >= 0 {
		quote = i + 2
	} else if i := strings.IndexByte(s, '\''); i >= 0 {
		return t.Start + i + 1, max(t.Start+i+1, t.End-1)
	}
	return t.Start + quote, max(t.Start+quote, t.End-quote)
}

// Parameters divides the tokens of a list of parameters: mode, name, type and default, of which all but the type may be
// missing.
func Parameters(text string, tokens []Token, rules Rules) []Parameter {
	var all []Parameter
	depth, start := 0, 0
	for i, t := range tokens {
		switch text[t.Start:t.End] {
		case "(", "[":
			depth++
		case ")", "]":
			depth--
		case ",":
			if depth == 0 {
				all = appendParameter(all, text, tokens[start:i], rules)
				start = i + 1
			}
		}
	}
	return appendParameter(all, text, tokens[start:], rules)
}

func appendParameter(all []Parameter, text string, part []Token, rules Rules) []Parameter {
	var p Parameter
	word := func(t Token) string { return FoldASCII(text[t.Start:t.End]) }
	for len(part) > 1 {
		last := word(part[len(part)-1])
		if last != "output" && last != "out" && last != "readonly" || part[len(part)-1].Kind != Word {
			break
		}
		p.Mode = map[string]string{"output": "inout", "out": "inout", "readonly": "readonly"}[last] // T-SQL's OUTPUT takes a value, too
		part = part[:len(part)-1]
	}
	depth := 0
	for i, t := range part {
		switch w := word(t); {
		case w == "(" || w == "[":
			depth++
		case w == ")" || w == "]":
			depth--
		case depth == 0 && i > 0 && (w == "=" || w == "default" && t.Kind == Word || w == ":="):
			if i+1 < len(part) {
				p.Default = text[part[i+1].Start:part[len(part)-1].End]
			}
			part = part[:i]
		default:
			continue
		}
		if len(part) <= i {
			break
		}
	}
	if len(part) == 0 {
		return all
	}
	switch mode := word(part[0]); mode {
	case "in", "out", "inout", "variadic":
		if len(part) > 1 && part[0].Kind == Word {
			p.Mode, part = mode, part[1:]
		}
	}
	if len(part) > 1 && (part[0].Kind == Word || part[0].Kind == QuotedName) && beginsWithName(text, part) {
		p.Name = Unquote(text, part[0], rules)
		part = part[1:]
	} else if strings.HasPrefix(text[part[0].Start:], "@") {
		p.Name = text[part[0].Start:part[0].End]
		part = part[1:]
		if len(part) > 1 && part[0].Kind == Word && word(part[0]) == "as" {
			part = part[1:]
		}
	}
	if len(part) > 0 {
		p.Type = text[part[0].Start:part[len(part)-1].End]
	}
	return append(all, p)
}

// twoWords are types of two words, which begin no parameter's name.
var twoWords = map[string]string{"double": "precision", "character": "varying", "bit": "varying", "timestamp": "with", "time": "with"}

// beginsWithName reports whether a parameter begins with its name, and not with its type.
func beginsWithName(text string, part []Token) bool {
	first, second := FoldASCII(text[part[0].Start:part[0].End]), FoldASCII(text[part[1].Start:part[1].End])
	if follows, ok := twoWords[first]; ok && (strings.HasPrefix(second, follows) || second == "without") {
		return false
	}
	return second != "(" && second != "." && second != "[" && second != ","
}
