package sqltext

// The name of a type, without what is around it.

// TypeName returns the parts of the name in the text of a type, as the dialect folds them: without SETOF, arguments and
// brackets. It is nil for a type that is no name.
func TypeName(text string, rules Rules) []string {
	l := Lexer{Text: text, Rules: rules}
	var parts []string
	for {
		t := l.Next()
		if t.Kind != Word && t.Kind != QuotedName {
			return parts
		}
		name := Unquote(text, t, rules)
		if len(parts) == 0 && t.Kind == Word && FoldASCII(name) == "setof" {
			continue
		}
		parts = append(parts, name)
		if t = l.Next(); t.Kind != Symbol || text[t.Start:t.End] != "." {
			return parts
		}
	}
}
