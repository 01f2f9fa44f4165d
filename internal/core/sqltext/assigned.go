package sqltext

// SQL that a variable holds when it is run: what is assigned to it in the text is read, where it was built in the text.

// assignment is a value that is given to a variable.
type assignment struct {
	from, to int // its tokens
	scope    *Scope
	appended bool // to what the variable holds
	unknown  bool // by a query, or the like
}

// execution is a variable that is run as SQL.
type execution struct {
	variable    string
	start, stop int
	scope       *Scope
}

// assigns notes what a variable is given: the tokens from one on, up to the present one.
func (p *parser) assigns(variable string, from int, appended bool) {
	if from >= p.at || variable == "" {
		return
	}
	name := FoldASCII(variable)
	if p.assigned == nil {
		p.assigned = map[string][]assignment{}
	}
	first := p.tokens[from]
	if from+2 < p.at && (p.tokens[from+1].symbol == '|' || p.tokens[from+1].symbol == '+') && FoldASCII(p.Text[first.start:first.end]) == name {
		from, appended = from+2, true // v := v || …
	}
	p.assigned[name] = append(p.assigned[name], assignment{from: from, to: p.at, scope: p.scope, appended: appended})
}

// taken notes that the variable at the present token takes a value that is not in the text.
func (p *parser) taken() {
	if p.assigned == nil {
		p.assigned = map[string][]assignment{}
	}
	name := FoldASCII(p.Text[p.start():p.tokens[p.at].end])
	p.assigned[name] = append(p.assigned[name], assignment{unknown: true, scope: p.scope})
}

// runs notes that a variable is run as SQL, where one token is all that is run.
func (p *parser) runs(from, to int, scope *Scope) bool {
	for to-from == 3 && p.tokens[from].symbol == '(' {
		from, to = from+1, to-1
	}
	if to-from != 1 || p.tokens[from].kind != Word && p.tokens[from].kind != Placeholder {
		return false
	}
	tok := p.tokens[from]
	p.executed = append(p.executed, execution{FoldASCII(p.Text[tok.start:tok.end]), int(tok.start), int(tok.end), scope})
	return true
}

// runVariables reads what the variables that are run hold. Where a part of it is not known it is noted that SQL runs which is not seen.
func (p *parser) runVariables() {
	seen := map[string]bool{} // whether all of it is
	for _, e := range p.executed {
		whole, known := seen[e.variable]
		if !known {
			whole = p.readAssigned(p.assigned[e.variable])
			seen[e.variable] = whole
		}
		if !whole {
			e.scope.Refs = append(e.scope.Refs, Ref{Kind: ToUnseen, Start: e.start, Stop: e.stop})
		}
	}
	p.executed, p.assigned = p.executed[:0], nil
}

// readAssigned reads what was given to a variable, piece by piece where it was added to, and reports whether that is all known.
func (p *parser) readAssigned(all []assignment) (whole bool) {
	whole = len(all) > 0
	for i := 0; i < len(all); {
		d := spoken{p: p}
		d.join(all[i].from, all[i].to)
		scope := all[i].scope
		whole = whole && !all[i].appended && !all[i].unknown
		for i++; i < len(all) && all[i].appended; i++ {
			d.join(all[i].from, all[i].to)
		}
		if len(d.places) == 0 {
			whole = whole && len(all) > 1 && !d.gaps // it was emptied first
			continue
		}
		inner := p.memory.within(string(d.text), p.Rules)
		if !inner.begins() && !inner.startsQuery(0) {
			whole = false // a piece of a statement, or none
			continue
		}
		whole = p.readInner(inner, &d, scope) && whole
	}
	return whole
}
