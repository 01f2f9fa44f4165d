package sqltext

// Qualifiers of names are replaced where tokens say that a name stands.

import "strings"

// Requalify rewrites what names a schema or database in front of a name: of a relation, a function, a
// type behind a cast, or a column that is written with all its parts. rename is called with the
// qualifier, folded as the dialect folds, and returns what is to stand there: "" takes it out with its
// dot. Aliases that bear the name of a schema are left alone.
func Requalify(text string, rules Rules, rename func(qualifier string) (replacement string, change bool)) string {
	return RequalifyIn(text, rules, "", rename)
}

// RequalifyIn is like Requalify for a text of a database: a schema behind the name of that is called anew, too.
func RequalifyIn(text string, rules Rules, database string, rename func(qualifier string) (replacement string, change bool)) string {
	tokens := Tokens(text, rules)
	relations := Parse(text, &rules).qualified() // by the place of their first token
	is := func(i int, symbol string) bool {
		return i >= 0 && i < len(tokens) && tokens[i].Kind == Symbol && text[tokens[i].Start:tokens[i].End] == symbol
	}
	isName := func(i int) bool {
		return i >= 0 && i < len(tokens) && (tokens[i].Kind == Word || tokens[i].Kind == QuotedName)
	}
	var b strings.Builder
	done := 0
	word := func(i int) string {
		if i < 0 || i >= len(tokens) || tokens[i].Kind != Word {
			return ""
		}
		return strings.ToLower(text[tokens[i].Start:tokens[i].End])
	}
	for i := 0; i < len(tokens); i++ {
		if tokens[i].Kind == String && is(i+1, "::") && strings.HasPrefix(word(i+2), "reg") {
			// 'schema.name'::regclass and the like: the literal holds a name.
			literal := text[tokens[i].Start:tokens[i].End]
			inner := strings.ReplaceAll(literal[1:len(literal)-1], "''", "'")
			if to := RequalifyIn("TABLE "+inner+"(", rules, database, rename); to != "TABLE "+inner+"(" {
				b.WriteString(text[done:tokens[i].Start])
				b.WriteString("'" + strings.ReplaceAll(to[len("TABLE "):len(to)-1], "'", "''") + "'")
				done = tokens[i].End
			}
			continue
		}
		if !isName(i) || is(i-1, ".") {
			continue
		}
		parts := 1
		for is(i+2*parts-1, ".") && isName(i+2*parts) {
			parts++
		}
		last := i + 2*(parts-1)
		qualifies := false
		switch {
		case relations[tokens[i].Start], parts == 3:
			qualifies = true
		case parts == 1 && is(i+1, ".") && is(i-1, "(") && word(i-2) == "operator": // OPERATOR(schema.+)
			qualifies = true
		case parts == 2:
			before := ""
			if i > 0 {
				before = strings.ToLower(text[tokens[i-1].Start:tokens[i-1].End])
			}
			// CREATE … ON name and RETURNS name are places of names, too.
			qualifies = is(last+1, "(") || before == "::" || before == "collate" || before == "returns" || before == "setof" || before == "on" && word(0) == "create" && !is(last+1, "=") ||
				before == "to" && word(0) == "create" || namesObject[before]
		}
		if qualifies {
			if to, change := rename(Unquote(text, tokens[i], rules)); change {
				b.WriteString(text[done:tokens[i].Start])
				done = tokens[i].End
				if to == "" {
					done = tokens[i+1].End
				} else {
					b.WriteString(to)
				}
			}
			if own := Unquote(text, tokens[i], rules); parts == 3 && relations[tokens[i].Start] && database != "" && (own == database || !rules.FoldLower && strings.EqualFold(own, database)) {
				if to, change := rename(Unquote(text, tokens[i+2], rules)); change && to != "" {
					b.WriteString(text[done:tokens[i+2].Start] + to)
					done = tokens[i+2].End
				}
			}
		}
		i = last
	}
	b.WriteString(text[done:])
	return b.String()
}

// namesObject are words behind which the name of an object stands, in every dialect that has them.
var namesObject = map[string]bool{"view": true, "procedure": true, "proc": true, "function": true, "trigger": true, "statistics": true, "identity_insert": true}

// qualified returns where the names of relations, sequences, routines and types begin that have more than one part.
func (t *Tree) qualified() map[int]bool {
	places := map[int]bool{}
	var walk func(s *Scope)
	walk = func(s *Scope) {
		note := func(n Name) {
			if n.N() > 1 && n.Parts[0] >= 0 {
				places[int(t.tokens[n.Parts[0]].start)] = true
			}
		}
		for _, src := range s.Sources {
			if !src.Call {
				note(src.Name)
			}
		}
		for i := range s.Refs {
			switch s.Refs[i].Kind {
			case ToRelation, ToSequence, ToRoutine, ToType:
				note(s.Refs[i].Name)
			}
		}
		for _, c := range s.Children {
			walk(c)
		}
	}
	walk(t.Root)
	return places
}

// RequalifyAll is like Requalify for a text in which every name that stands before a dot is a qualifier,
// such as a list of types; a name behind the word SCHEMA or DEFAULT_SCHEMA = is one, too.
func RequalifyAll(text string, rules Rules, rename func(qualifier string) (replacement string, change bool)) string {
	tokens := Tokens(text, rules)
	at := func(i int) string {
		if i < 0 || i >= len(tokens) {
			return ""
		}
		return text[tokens[i].Start:tokens[i].End]
	}
	var b strings.Builder
	done := 0
	for i, t := range tokens {
		if t.Kind != Word && t.Kind != QuotedName || at(i-1) == "." || at(i+1) != "." && !strings.EqualFold(at(i-1), "schema") && !(at(i-1) == "=" && strings.EqualFold(at(i-2), "default_schema")) {
			continue
		}
		if to, change := rename(Unquote(text, t, rules)); change {
			b.WriteString(text[done:t.Start] + to)
			done = t.End
		}
	}
	b.WriteString(text[done:])
	return b.String()
}
