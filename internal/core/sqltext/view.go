package sqltext

// The statement that makes a view, cut at its query.

// ViewQuery cuts the statement that makes a view into its query, what stands before it, and what behind. The query begins
// behind the first AS that is no part of a name or a bracket, and ends before WITH CHECK OPTION or a semicolon. A text
// without such an AS is all query.
func ViewQuery(text string, rules Rules) (head, query, tail string) {
	tokens := Tokens(text, rules)
	word := func(i int) string {
		if i < 0 || i >= len(tokens) || tokens[i].Kind != Word {
			return ""
		}
		return FoldASCII(text[tokens[i].Start:tokens[i].End])
	}
	symbol := func(i int) byte {
		if tokens[i].Kind == Symbol {
			return text[tokens[i].Start]
		}
		return 0
	}
	start, depth := -1, 0
	for i := range tokens {
		switch c := symbol(i); {
		case c == '(':
			depth++
		case c == ')':
			depth--
		case depth == 0 && word(i) == "as" && i > 0 && symbol(i-1) != '.':
			start = i
		}
		if start >= 0 {
			break
		}
	}
	if start < 0 || start == len(tokens)-1 {
		return "", text, ""
	}
	last := len(tokens)
	for last > start+1 && symbol(last-1) == ';' {
		last--
	}
	if word(last-1) == "option" && word(last-2) == "check" {
		at := last - 2
		if w := word(at - 1); w == "cascaded" || w == "local" {
			at--
		}
		if word(at-1) == "with" {
			last = at - 1
		}
	}
	if last <= start+1 {
		return "", text, ""
	}
	from, to := tokens[start+1].Start, tokens[last-1].End
	return text[:from], text[from:to], text[to:]
}
