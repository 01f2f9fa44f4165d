package sqltext

// What becomes of columns: which outputs of a query each is a part of, and which decide over its rows. Columns of derived
// tables are followed to those of relations.

import "slices"

// Flow tells of what the outputs of a query are made.
type Flow struct {
	Outputs [][]FlowColumn // by place
	// Elsewhere are the columns that all rows depend on: in conditions, joins, groups and orders.
	Elsewhere []FlowColumn
}

// FlowColumn is a column of a relation that exists.
type FlowColumn struct {
	Key    any // what the World knows the relation by
	Column string
}

// FlowOf returns the flow of the first query of a text; ok is false where not all of its outputs are known.
func FlowOf(t *Tree, c Context) (_ Flow, ok bool) {
	c.Names = false
	b := binder{Tree: t, c: c, flow: &flow{}}
	b.scope(t.Root)
	main := firstQuery(t.Root)
	if main == nil {
		return Flow{}, false
	}
	return b.flow.outcome(&b, main)
}

func firstQuery(s *Scope) *Scope {
	if s.Kind == Query {
		return s
	}
	for _, c := range s.Children {
		if q := firstQuery(c); q != nil {
			return q
		}
	}
	return nil
}

// flow gathers where columns are used.
type flow struct {
	uses    []columnUse
	stars   map[*Ref]bool // that are outputs
	outputs map[outputAt][]columnUse
	arms    map[*Scope]*armFlow
	unknown bool
}

// columnUse is a use of a column of rows in a scope.
type columnUse struct {
	scope  *Scope
	at     int
	rows   *rows
	column string
}

// outputAt is an output of a query by its place.
type outputAt struct {
	query *Scope
	place int
}

// armFlow holds where the outputs of an arm stand in the text.
type armFlow struct {
	query *Scope
	spans []outputSpan
}

type outputSpan struct{ start, stop, place int }

// note keeps that a column of rows is used at a place of a scope.
func (f *flow) note(s *Scope, r *rows, column string, at int) {
	if f != nil {
		f.uses = append(f.uses, columnUse{s, at, r, column})
	}
}

// row keeps that all columns of rows are used by a reference: a star, or a row as a value.
func (f *flow) row(s *Scope, r *rows, ref *Ref) {
	if f == nil {
		return
	}
	if slices.ContainsFunc(s.Outputs, func(o Output) bool { return o.Star && ref == &s.Refs[o.Ref] }) {
		return // each of them is an output of its own
	}
	for _, c := range r.columns {
		f.note(s, r, c, ref.Start)
	}
}

// ordered keeps that rows are ordered by an output.
func (f *flow) ordered(b *binder, s, arm *Scope, name string, r *Ref) {
	if f == nil {
		return
	}
	q := arm
	for q.Parent != nil && q.Kind == Arm {
		q = q.Parent
	}
	if c, ok := b.column(b.query(q), name); ok {
		f.note(s, b.query(q), c, r.Start)
	}
}

// outcome follows all that was kept.
func (f *flow) outcome(b *binder, main *Scope) (Flow, bool) {
	f.outputs, f.arms = map[outputAt][]columnUse{}, map[*Scope]*armFlow{}
	f.query(b, main)
	f.walk(b, main)
	var elsewhere []columnUse
	for _, u := range f.uses {
		if at, ok := f.place(&u); ok {
			f.outputs[at] = append(f.outputs[at], u)
		} else {
			elsewhere = append(elsewhere, u)
		}
	}
	out := Flow{Outputs: make([][]FlowColumn, len(b.query(main).columns))}
	for i := range out.Outputs {
		out.Outputs[i] = f.resolve(f.outputs[outputAt{main, i}])
	}
	out.Elsewhere = f.resolve(elsewhere)
	return out, !f.unknown && !b.query(main).unknown
}

// walk notes the queries that are sources of others.
func (f *flow) walk(b *binder, s *Scope) {
	for _, src := range s.Sources {
		if src.Query != nil {
			f.query(b, src.Query)
		}
	}
	for _, c := range s.Common {
		if c.Query != nil {
			f.query(b, c.Query)
		}
	}
	for _, c := range s.Children {
		f.walk(b, c)
	}
}

// query notes where the outputs of a query's arms stand.
func (f *flow) query(b *binder, q *Scope) {
	var arms func(s *Scope)
	arms = func(s *Scope) {
		if len(s.Arms) > 0 {
			for _, a := range s.Arms {
				arms(a)
			}
			return
		}
		arm := &armFlow{query: q}
		f.arms[s] = arm
		place := 0
		for _, o := range s.Outputs {
			if !o.Star {
				arm.spans = append(arm.spans, outputSpan{o.start, o.stop, place})
				place++
				continue
			}
			for _, src := range b.starred(s, &s.Refs[o.Ref]) {
				of := b.rows(s, src)
				f.unknown = f.unknown || of.unknown
				for _, c := range of.columns {
					at := outputAt{q, place}
					f.outputs[at] = append(f.outputs[at], columnUse{rows: of, column: c})
					place++
				}
			}
		}
	}
	arms(q)
	for i := 1; i < len(q.Arms); i++ { // rows that are in both, or not in the other
		if b.setOperation(q.Arms[i-1].Stop, q.Arms[i].Start) {
			of := b.query(q)
			for _, c := range of.columns {
				f.note(q, of, c, q.Start)
			}
		}
	}
}

// setOperation reports whether rows of the query before a stretch of the text depend on those of the one behind it.
func (t *Tree) setOperation(start, stop int) bool {
	at, _ := slices.BinarySearchFunc(t.tokens, start, func(tok token, at int) int { return int(tok.start) - at })
	for ; at < len(t.tokens) && int(t.tokens[at].start) < stop; at++ {
		if w := t.tokens[at].word; w == kIntersect || w == kExcept || w == kMinus {
			return true
		}
	}
	return false
}

// place returns the output in which a use stands; ok is false for one that decides over rows.
func (f *flow) place(u *columnUse) (_ outputAt, ok bool) {
	for s := u.scope; s != nil; s = s.Parent {
		arm := f.arms[s]
		if arm == nil {
			continue
		}
		for _, span := range arm.spans {
			if u.at >= span.start && u.at < span.stop {
				return outputAt{arm.query, span.place}, true
			}
		}
		return outputAt{}, false
	}
	return outputAt{}, false
}

// resolve returns the columns of relations that uses come down to.
func (f *flow) resolve(uses []columnUse) []FlowColumn {
	var out []FlowColumn
	have, seen := map[FlowColumn]bool{}, map[outputAt]bool{}
	var follow func(uses []columnUse)
	follow = func(uses []columnUse) {
		for i := range uses {
			u := &uses[i]
			if u.rows.relation != nil {
				if c := (FlowColumn{u.rows.relation.Key, u.column}); !have[c] {
					have[c] = true
					out = append(out, c)
				}
				continue
			}
			if u.rows.query == nil {
				continue
			}
			at := outputAt{u.rows.query, slices.Index(u.rows.columns, u.column)}
			if !seen[at] {
				seen[at] = true
				follow(f.outputs[at])
			}
		}
	}
	follow(uses)
	return out
}
