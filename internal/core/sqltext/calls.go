package sqltext

// Calls are words before a bracket.

// ofSequence reports whether token i stands where a sequence is named: the first argument of a function over
// sequences, or NEXT VALUE FOR name.
func ofSequence(word func(int) string, is func(int, string) bool, i int) bool {
	if is(i-1, "(") {
		switch word(i - 2) {
		case "nextval", "lastval", "setval", "currval":
			return true
		}
	}
	return word(i-1) == "for" && word(i-2) == "value" && (word(i-3) == "next" || word(i-3) == "previous")
}

// CallRef is a mention of a routine or a sequence in a text.
type CallRef struct {
	Names      []string // one to three: the name, with schema and database in front
	Start, End int      // place in the text, in bytes
	Sequence   bool     // a sequence, of which a number is taken
}

// Calls finds the names that stand before a bracket or behind CALL, and the sequences of which numbers are taken.
// Which of them are routines and which are functions of the engine or keywords the reader has to know.
func Calls(text string, rules Rules) []CallRef {
	tokens := Tokens(text, rules)
	is := func(i int, symbol string) bool {
		return i >= 0 && i < len(tokens) && tokens[i].Kind == Symbol && text[tokens[i].Start:tokens[i].End] == symbol
	}
	word := func(i int) string {
		if i < 0 || i >= len(tokens) || tokens[i].Kind != Word {
			return ""
		}
		return FoldASCII(text[tokens[i].Start:tokens[i].End])
	}
	isName := func(i int) bool {
		return i >= 0 && i < len(tokens) && (tokens[i].Kind == Word || tokens[i].Kind == QuotedName)
	}
	var found []CallRef
	for i := 0; i < len(tokens); i++ {
		if !isName(i) || is(i-1, ".") {
			continue
		}
		parts := 1
		for parts < 3 && is(i+2*parts-1, ".") && isName(i+2*parts) {
			parts++
		}
		last := i + 2*(parts-1)
		sequence := ofSequence(word, is, i)
		if sequence || is(last+1, "(") || word(i-1) == "call" {
			ref := CallRef{Start: tokens[i].Start, End: tokens[last].End, Sequence: sequence}
			for k := i; k <= last; k += 2 {
				ref.Names = append(ref.Names, Unquote(text, tokens[k], rules))
			}
			found = append(found, ref)
		}
		i = last
	}
	return found
}

// FoldASCII returns a keyword, or a name where only the case of ASCII letters does not count, in lower case.
func FoldASCII(s string) string {
	b := []byte(s)
	for i, c := range b {
		if 'A' <= c && c <= 'Z' {
			b[i] = c + 'a' - 'A'
		}
	}
	return string(b)
}
