package sqltext

// Relations are found in a text by the clauses that name them.

import "strings"

// RelationRef is a mention of a relation in a text.
type RelationRef struct {
	Names      []string // one to three: relation, schema.relation, database.schema.relation
	Start, End int      // place in the text, in bytes
	Writes     bool     // the relation is written to
}

// Relations finds the relations that a statement, or the statements of a body, read or write. Names
// that common table expressions give are left out where they hide a relation; what follows FROM in a
// function call (EXTRACT, TRIM) is no relation.
func Relations(text string, rules Rules) []RelationRef {
	f := relationFinder{text: text, rules: rules, tokens: Tokens(text, rules), frames: []relationFrame{{}}}
	f.run()
	return f.found
}

type relationFrame struct {
	with    []string // names of common table expressions that are seen here and deeper
	inFrom  bool     // a comma is followed by another relation
	call    bool     // the arguments of a function
	naming  bool     // inside WITH, where a name stands before its query
	reading bool     // the next name is a relation's
	writes  bool
	listing bool // a list of columns may follow: a bracket behind the name starts no function call
}

type relationFinder struct {
	text   string
	rules  Rules
	tokens []Token
	at     int
	frames []relationFrame
	found  []RelationRef
}

func (f *relationFinder) word(i int) string {
	if i < 0 || i >= len(f.tokens) || f.tokens[i].Kind != Word {
		return ""
	}
	return strings.ToLower(f.text[f.tokens[i].Start:f.tokens[i].End])
}

func (f *relationFinder) symbol(i int) string {
	if i < 0 || i >= len(f.tokens) || f.tokens[i].Kind != Symbol {
		return ""
	}
	return f.text[f.tokens[i].Start:f.tokens[i].End]
}

func (f *relationFinder) run() {
	for ; f.at < len(f.tokens); f.at++ {
		top := &f.frames[len(f.frames)-1]
		switch f.tokens[f.at].Kind {
		case Symbol:
			f.punctuation(top)
		case Word:
			if !f.keyword(top) && (top.reading || top.naming) {
				f.name(top)
			}
		case QuotedName:
			if top.reading || top.naming {
				f.name(top)
			}
		default:
			top.reading = false
		}
	}
}

func (f *relationFinder) punctuation(top *relationFrame) {
	switch f.symbol(f.at) {
	case "(":
		next := relationFrame{}
		switch f.word(f.at + 1) {
		case "select", "with", "values", "insert", "update", "delete":
		default:
			if top.reading { // a join in brackets
				next.reading, next.inFrom = true, true
			} else {
				before := f.word(f.at - 1)
				next.call = before != "" && before != "in" && before != "exists" && before != "as"
			}
		}
		top.reading = false
		f.frames = append(f.frames, next)
	case ")":
		if len(f.frames) > 1 {
			f.frames = f.frames[:len(f.frames)-1]
		}
	case ",":
		if top.inFrom {
			top.reading, top.writes, top.listing = true, false, false
		}
		if len(top.with) > 0 && f.symbol(f.at-1) == ")" && !top.inFrom {
			top.naming = f.startsQuery(f.at + 1)
		}
	case ";":
		*top = relationFrame{}
	}
}

// startsQuery reports whether "name AS (" or "name (columns) AS (" stands at token i.
func (f *relationFinder) startsQuery(i int) bool {
	if i >= len(f.tokens) || f.tokens[i].Kind != Word && f.tokens[i].Kind != QuotedName {
		return false
	}
	i++
	if f.symbol(i) == "(" {
		for i < len(f.tokens) && f.symbol(i) != ")" {
			i++
		}
		i++
	}
	return f.word(i) == "as"
}

// keyword handles a word that opens or closes a place for relations, and reports whether it was one.
func (f *relationFinder) keyword(top *relationFrame) bool {
	word := f.word(f.at)
	if f.symbol(f.at-1) == "." {
		return false
	}
	expect := func(writes, listing bool) bool {
		top.reading, top.writes, top.listing = true, writes, listing
		return true
	}
	switch word {
	case "with":
		top.naming = f.startsQuery(f.at+1) || f.word(f.at+1) == "recursive" && f.startsQuery(f.at+2)
	case "recursive":
		return top.naming
	case "from", "using":
		if top.call || f.word(f.at-1) == "distinct" && (f.word(f.at-2) == "is" || f.word(f.at-2) == "not") {
			return true
		}
		if word == "using" && f.symbol(f.at+1) == "(" {
			return true
		}
		top.inFrom = true
		return expect(f.word(f.at-1) == "delete", false)
	case "join":
		top.inFrom = true
		return expect(false, false)
	case "straight_join": // a join of MariaDB's; behind SELECT it is an option
		if f.word(f.at-1) == "select" || !top.inFrom && !top.reading {
			return true
		}
		top.inFrom = true
		return expect(false, false)
	case "into":
		return expect(true, true)
	case "update":
		if f.word(f.at-1) == "for" || f.word(f.at+1) == "of" || f.word(f.at+1) == "on" || f.word(f.at+1) == "set" {
			return true
		}
		return expect(true, false)
	case "only", "lateral":
		return top.reading
	case "or": // UPDATE OR IGNORE name
		if top.reading {
			f.at++
			return true
		}
	case "in":
		if f.rules.MembershipInTable && f.symbol(f.at+1) != "(" {
			return expect(false, false)
		}
	case "where", "group", "order", "having", "window", "limit", "union", "intersect", "except", "set", "returning", "select", "values", "on":
		top.reading = false
		if word != "on" {
			top.inFrom = false
		}
	default:
		return false
	}
	return true
}

// name reads a relation's name, or the name that a common table expression gives.
func (f *relationFinder) name(top *relationFrame) {
	if top.naming {
		top.naming = false
		top.with = append(top.with, Unquote(f.text, f.tokens[f.at], f.rules))
		return
	}
	top.reading = false
	ref := RelationRef{Start: f.tokens[f.at].Start, Writes: top.writes}
	for {
		ref.Names = append(ref.Names, Unquote(f.text, f.tokens[f.at], f.rules))
		ref.End = f.tokens[f.at].End
		if f.symbol(f.at+1) != "." || f.at+2 >= len(f.tokens) {
			break
		}
		if kind := f.tokens[f.at+2].Kind; kind != Word && kind != QuotedName {
			break
		}
		f.at += 2
	}
	if f.symbol(f.at+1) == "(" && !top.listing {
		return // a function that returns rows
	}
	if len(ref.Names) == 1 {
		for _, frame := range f.frames {
			for _, hidden := range frame.with {
				if strings.EqualFold(hidden, ref.Names[0]) {
					return
				}
			}
		}
	}
	f.found = append(f.found, ref)
}
