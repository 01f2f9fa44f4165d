package sqltext

// Binding makes things of names. For each reference the scopes are asked from the inside out, as the dialects do it: sources of
// rows, then variables (the other way round where a variable hides a column), then what the catalogue has. Columns of derived
// tables end where they are derived: what they are made of is a reference of its own there.

import (
	"slices"
	"strconv"
	"strings"
)

// Relation is a relation that exists.
type Relation struct {
	Key     any      // what the World knows it by
	Columns []string // in order
	Unknown bool     // there may be more columns than are known
	Guessed bool     // the name may mean another
}

// World is what exists, as far as names reach from where a text runs.
type World interface {
	// Relation returns the relation of a name, which is in one part or more; nil if there is none.
	Relation(name []string) *Relation
	// Routines returns what the routines are known by that a call may mean; none if there are none.
	Routines(name []string, args int) (keys []any, guessed bool)
	// Type returns what a type is known by, nil if it is none of the catalogue's.
	Type(name []string) any
	// Sequence returns what a sequence is known by, nil if there is none.
	Sequence(name []string) any
	// Same reports whether two names of columns, aliases or variables are one.
	Same(a, b string) bool
}

// Context is where a text runs.
type Context struct {
	World World
	// Row is the relation of whose rows an expression speaks.
	Row *Relation
	// Trigger are the relations whose rows NEW and OLD, or inserted and deleted, are.
	Trigger []*Relation
	// Parameters are the names of a routine's parameters, where the text is its body alone.
	Parameters []string
}

// Use tells what a reference does.
type Use uint8

// The uses.
const (
	RefReads Use = iota
	RefWrites
	RefCalls
	RefTypes
	RefNumbers // takes from a sequence
	RefUnseen  // SQL runs that cannot be seen
	RefMissing // what is named does not exist
)

// Reference is a reference to a thing that exists, or one of which it is said why it is none.
type Reference struct {
	Use         Use
	Key         any    // what the World knows it by, nil for what is not seen or missing
	Column      string // of a relation, "" for the relation itself
	Names       []string
	Start, Stop int
	Guessed     bool
}

// Bind returns the references of a tree in the order of its scopes.
func Bind(t *Tree, c Context) []Reference {
	b := binder{Tree: t, c: c, outputs: map[*Scope]*rows{}}
	if c.Row != nil {
		b.row = rowsOf(c.Row)
		t.Root.Sources = append(t.Root.Sources, &Source{bound: b.row})
	}
	for _, name := range c.Parameters {
		t.Root.Variables = append(t.Root.Variables, &Variable{Name: name})
	}
	b.scope(t.Root)
	return b.found
}

type binder struct {
	*Tree
	c       Context
	row     *rows
	outputs map[*Scope]*rows
	found   []Reference
}

// rows is what is known of the rows of a source.
type rows struct {
	relation *Relation // nil for derived ones
	columns  []string
	unknown  bool // there may be more columns
}

func rowsOf(r *Relation) *rows { return &rows{relation: r, columns: r.Columns, unknown: r.Unknown} }

func (b *binder) emit(r Reference) { b.found = append(b.found, r) }

func (b *binder) same(a, c string) bool { return b.c.World.Same(a, c) }

// column returns the name of a column as it exists.
func (b *binder) column(r *rows, name string) (string, bool) {
	for _, c := range r.columns {
		if c == name || b.same(c, name) {
			return c, true
		}
	}
	return "", false
}

// scope binds a scope and what lies in it.
func (b *binder) scope(s *Scope) {
	for _, src := range s.Sources {
		b.source(s, src)
	}
	for i := range s.Refs {
		b.reference(s, &s.Refs[i])
	}
	for _, j := range s.joined {
		if j.column == "*" {
			b.natural(s, s.Sources[j.from:j.to])
		}
	}
	for _, c := range s.Children {
		b.scope(c)
	}
}

// source binds a source, and notes the relation that it is.
func (b *binder) source(s *Scope, src *Source) {
	r := b.rows(s, src)
	if src.Name.N == 0 || src.Of != nil || src.Call || r == b.row && b.row != nil {
		return
	}
	start, stop := b.nameSpan(src.Name)
	if r.relation == nil {
		if (src.Reads || src.Writes) && r.unknown && len(r.columns) == 0 && !b.isLocal(s, src) && !b.isCommon(s, src) {
			b.emit(Reference{Use: RefMissing, Names: b.parts(src.Name), Start: start, Stop: stop, Guessed: src.guessed})
		}
		return
	}
	for _, use := range [...]struct {
		is  bool
		use Use
	}{{src.Reads, RefReads}, {src.Writes, RefWrites}} {
		if use.is {
			b.emit(Reference{Use: use.use, Key: r.relation.Key, Start: start, Stop: stop, Guessed: src.guessed || r.relation.Guessed})
		}
	}
}

func (b *binder) nameSpan(n Name) (start, stop int) {
	first := n.Parts[0]
	return int(b.tokens[first].start), int(b.tokens[n.Parts[n.N-1]].end)
}

// outer returns the scope around one, and whether its sources are seen.
func outer(s *Scope) (_ *Scope, sources bool) {
	if s.sealed {
		return nil, false
	}
	return s.Parent, !s.Apart
}

// isLocal reports whether a source is a table that the text makes itself.
func (b *binder) isLocal(s *Scope, src *Source) bool { return b.local(s, src) != nil }

func (b *binder) local(s *Scope, src *Source) *Local {
	if src.Name.N == 0 {
		return nil
	}
	name := b.part(src.Name, src.Name.N-1)
	if b.tokens[src.Name.Parts[0]].kind == Placeholder {
		name = src.text(b.Tree)
	}
	for ; s != nil; s = s.Parent {
		for _, l := range s.Locals {
			if b.same(l.Name, name) {
				return l
			}
		}
		if s.sealed && s.Parent == nil {
			return nil
		}
	}
	return nil
}

// text returns the name of a source as it is written.
func (src *Source) text(t *Tree) string {
	tok := t.tokens[src.Name.Parts[0]]
	return t.Text[tok.start:tok.end]
}

func (b *binder) isCommon(s *Scope, src *Source) bool { return b.common(s, src) != nil }

// common returns the common table expression that a source names.
func (b *binder) common(s *Scope, src *Source) *Common {
	if src.Name.N != 1 || b.tokens[src.Name.Parts[0]].kind == Placeholder {
		return nil
	}
	name := b.part(src.Name, 0)
	at := int(b.tokens[src.Name.Parts[0]].start)
	for s != nil {
		for _, c := range s.Common {
			if (c.after == 0 || at >= c.after) && b.same(c.Name, name) {
				return c
			}
		}
		s, _ = outer(s)
	}
	return nil
}

// rows returns what is known of the rows of a source.
func (b *binder) rows(s *Scope, src *Source) *rows {
	if src.bound != nil {
		return src.bound
	}
	src.bound = &rows{unknown: true} // while it is worked out
	r := b.work(s, src)
	if len(src.Columns) > 0 && r != nil { // the alias gives other names
		named := &rows{columns: slices.Clone(src.Columns), unknown: r.unknown && !src.Call}
		if r.relation == nil {
			if len(r.columns) > len(src.Columns) {
				named.columns = append(named.columns, r.columns[len(src.Columns):]...)
			}
			r = named
		}
	}
	src.bound = r
	return r
}

func (b *binder) work(s *Scope, src *Source) *rows {
	unknown := &rows{unknown: true}
	switch {
	case src.Of != nil:
		return b.rows(s, src.Of)
	case src.Query != nil:
		return b.query(src.Query)
	case src.Call, src.Name.N == 0:
		return unknown
	}
	if c := b.common(s, src); c != nil {
		return b.commonRows(c)
	}
	if l := b.local(s, src); l != nil {
		switch {
		case l.Columns != nil:
			return &rows{columns: l.Columns}
		case l.Query != nil && l.Query != s:
			return b.query(l.Query)
		}
		return unknown
	}
	if b.tokens[src.Name.Parts[0]].kind == Placeholder {
		return &rows{unknown: true, columns: []string{""}}
	}
	names := b.parts(src.Name)
	if src.Writes && src.Name.N == 1 { // UPDATE b SET … FROM berth b
		for _, other := range s.Sources {
			if other != src && other.Alias != "" && b.same(other.Alias, names[0]) {
				src.Of = other
				r := b.rows(s, other)
				if r.relation != nil {
					start, stop := b.nameSpan(src.Name)
					b.emit(Reference{Use: RefWrites, Key: r.relation.Key, Start: start, Stop: stop, Guessed: src.guessed || r.relation.Guessed})
				}
				return r
			}
		}
	}
	if src.Name.N == 1 && len(b.c.Trigger) > 0 && b.Rules.HashNames && (b.same(names[0], "inserted") || b.same(names[0], "deleted")) {
		return &rows{columns: b.c.Trigger[0].Columns, relation: b.c.Trigger[0]}
	}
	if r := b.c.World.Relation(names); r != nil {
		return rowsOf(r)
	}
	return unknown
}

// commonRows returns the rows of a common table expression.
func (b *binder) commonRows(c *Common) *rows {
	if c.Query == nil {
		return &rows{unknown: true, columns: c.Columns}
	}
	r := b.query(c.Query)
	if len(c.Columns) > 0 {
		return &rows{columns: c.Columns}
	}
	return r
}

// query returns what the rows of a query are called.
func (b *binder) query(q *Scope) *rows {
	if r := b.outputs[q]; r != nil {
		return r
	}
	b.outputs[q] = &rows{unknown: true}
	arm := q
	for len(arm.Arms) > 0 {
		arm = arm.Arms[0]
	}
	r := &rows{}
	for i, o := range arm.Outputs {
		switch {
		case o.Star:
			for _, src := range b.starred(arm, &arm.Refs[o.Ref]) {
				of := b.rows(arm, src)
				r.columns = append(r.columns, of.columns...)
				r.unknown = r.unknown || of.unknown
			}
		case o.Name != "":
			r.columns = append(r.columns, o.Name)
		case arm.Kind == Arm:
			r.columns = append(r.columns, "column"+strconv.Itoa(i+1))
		}
	}
	b.outputs[q] = r
	return r
}

// starred returns the sources that a star stands for.
func (b *binder) starred(s *Scope, r *Ref) []*Source {
	if r.Name.N > 0 {
		if _, src := b.named(s, b.part(r.Name, r.Name.N-1), b.parts(r.Name)); src != nil {
			return []*Source{src}
		}
		return nil
	}
	for ; s != nil; s, _ = outer(s) {
		var list []*Source
		for _, src := range s.Sources {
			if !src.Hidden {
				list = append(list, src)
			}
		}
		if len(list) > 0 {
			return list
		}
	}
	return nil
}

// named returns the source of a name, looked for from the inside out; with more than one part the name is that of a relation.
func (b *binder) named(s *Scope, name string, parts []string) (*Scope, *Source) {
	for seen := true; s != nil; {
		if seen {
			for _, src := range s.Sources {
				if b.isNamed(s, src, name, parts) {
					return s, src
				}
			}
		}
		s, seen = outer(s)
	}
	return nil, nil
}

func (b *binder) isNamed(s *Scope, src *Source, name string, parts []string) bool {
	if src.Alias != "" {
		return len(parts) <= 1 && b.same(src.Alias, name)
	}
	if src.Name.N == 0 || !b.same(b.part(src.Name, src.Name.N-1), name) {
		return false
	}
	for i := 2; i <= len(parts) && i <= src.Name.N; i++ {
		if !b.same(b.part(src.Name, src.Name.N-i), parts[len(parts)-i]) {
			return false
		}
	}
	return true
}

// variable returns the variable of a name that is seen in a scope.
func (b *binder) variable(s *Scope, name string) *Variable {
	for s != nil {
		for i := len(s.Variables) - 1; i >= 0; i-- {
			if v := s.Variables[i]; v.Name != "" && b.same(v.Name, name) {
				return v
			}
		}
		s, _ = outer(s)
	}
	return nil
}

// reference binds one reference.
func (b *binder) reference(s *Scope, r *Ref) {
	switch r.Kind {
	case ToColumn:
		b.toColumn(s, r)
	case ToStar:
		for _, src := range b.starred(s, r) {
			b.all(b.rows(s, src), r, RefReads)
		}
	case ToTarget, ToAll:
		b.toTarget(s, r)
	case ToRoutine:
		keys, guessed := b.c.World.Routines(b.parts(r.Name), r.Args)
		for _, k := range keys {
			b.emit(Reference{Use: RefCalls, Key: k, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed || guessed || len(keys) > 1})
		}
	case ToType:
		if k := b.c.World.Type(b.parts(r.Name)); k != nil {
			b.emit(Reference{Use: RefTypes, Key: k, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed})
		}
	case ToTyped:
		b.toTyped(s, r)
	case ToSequence, ToConstant, ToRelation:
		b.toNamed(r)
	case ToUnseen:
		b.emit(Reference{Use: RefUnseen, Start: r.Start, Stop: r.Stop, Guessed: true})
	}
}

// all notes all columns of a relation.
func (b *binder) all(r *rows, at *Ref, use Use) {
	if r.relation == nil {
		return
	}
	for _, c := range r.columns {
		b.emit(Reference{Use: use, Key: r.relation.Key, Column: c, Start: at.Start, Stop: at.Stop, Guessed: at.Guessed || r.relation.Guessed})
	}
}

// emitColumn notes a column of rows, if these are of a relation.
func (b *binder) emitColumn(r *rows, column string, at *Ref) {
	if r.relation == nil {
		return
	}
	use := RefReads
	if at.Writes {
		use = RefWrites
	}
	b.emit(Reference{Use: use, Key: r.relation.Key, Column: column, Start: at.Start, Stop: at.Stop, Guessed: at.Guessed || r.relation.Guessed})
}

func (b *binder) toColumn(s *Scope, r *Ref) {
	parts := b.parts(r.Name)
	if r.Name.Parts[0] >= 0 && b.tokens[r.Name.Parts[0]].kind == Placeholder {
		parts[0] = strings.TrimLeft(parts[0], ":@")
	}
	if len(parts) == 1 {
		b.single(s, r, parts[0])
		return
	}
	column := parts[len(parts)-1]
	qualifier := parts[:len(parts)-1]
	if in, src := b.named(s, qualifier[len(qualifier)-1], qualifier); src != nil {
		rows := b.rows(in, src)
		if c, ok := b.column(rows, column); ok {
			b.emitColumn(rows, c, r)
		}
		return
	}
	if v := b.variable(s, parts[0]); v != nil {
		b.field(s, v, parts[1], r)
		return
	}
	if len(b.c.Trigger) > 0 && (b.same(parts[0], "new") || b.same(parts[0], "old")) {
		for _, t := range b.c.Trigger {
			rows := rowsOf(t)
			if c, ok := b.column(rows, parts[1]); ok {
				b.emitColumn(rows, c, r)
			}
		}
		return
	}
	if in, src := b.named(s, parts[0], parts[:1]); src != nil && len(parts) > 2 { // a field of a column
		rows := b.rows(in, src)
		if c, ok := b.column(rows, parts[1]); ok {
			b.emitColumn(rows, c, r)
		}
		return
	}
	if b.same(column, "nextval") || b.same(column, "currval") {
		if k := b.c.World.Sequence(qualifier); k != nil {
			b.emit(Reference{Use: RefNumbers, Key: k, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed})
		}
	}
}

// field notes the column of a relation whose row a variable holds.
func (b *binder) field(s *Scope, v *Variable, column string, r *Ref) {
	for v.Row.N == 0 { // a loop may use a variable that is declared outside
		if s, _ = outer(s); s == nil {
			return
		}
		if v = b.variable(s, v.Name); v == nil {
			return
		}
	}
	if rel := b.c.World.Relation(b.parts(v.Row)); rel != nil {
		rows := rowsOf(rel)
		if c, ok := b.column(rows, column); ok {
			read := *r
			read.Writes = false // into the variable, not the relation
			b.emitColumn(rows, c, &read)
		}
	}
}

// single binds a name of one part.
func (b *binder) single(s *Scope, r *Ref, name string) {
	if b.Rules.VariablesFirst && b.variable(s, name) != nil {
		return
	}
	for in, seen := s, true; in != nil; {
		if seen {
			found, maybe := false, false
			var of *joined
			for k := range in.joined {
				if j := &in.joined[k]; b.same(j.column, name) && (of == nil || j.to > of.to) {
					of = j
				}
			}
			for i, src := range in.Sources {
				if src.Hidden || of != nil && (i < of.from || i >= of.to) {
					continue
				}
				rows := b.rows(in, src)
				if c, ok := b.column(rows, name); ok {
					b.emitColumn(rows, c, r)
					found = true
					if of == nil {
						break
					}
				}
				maybe = maybe || rows.unknown
			}
			if found {
				return
			}
			if in.Kind == Query && len(in.Arms) > 0 && in != s || in.Kind == Query && len(in.Arms) > 1 {
				if _, ok := b.column(b.query(in), name); ok && r.ByOutput {
					return
				}
			}
			if r.ByOutput && slices.ContainsFunc(in.Outputs, func(o Output) bool { return o.Name != "" && b.same(o.Name, name) }) {
				return
			}
			if maybe { // it may be a column there
				return
			}
		}
		if slices.ContainsFunc(in.Variables, func(v *Variable) bool { return v.Name != "" && b.same(v.Name, name) }) {
			return
		}
		in, seen = outer(in)
	}
}

// natural notes the columns by which sources are joined that have them all.
func (b *binder) natural(s *Scope, sources []*Source) {
	for i, src := range sources {
		rows := b.rows(s, src)
		for _, c := range rows.columns {
			for k, other := range sources {
				if k == i {
					continue
				}
				if _, ok := b.column(b.rows(s, other), c); ok {
					last := sources[len(sources)-1]
					if last.Name.N > 0 {
						start, stop := b.nameSpan(last.Name)
						b.emitColumn(rows, c, &Ref{Start: start, Stop: stop, Guessed: last.guessed})
					} else {
						b.emitColumn(rows, c, &Ref{Start: s.Start, Stop: s.Start})
					}
					break
				}
			}
		}
	}
}

// toTarget binds a column of the target of a statement, or all of them.
func (b *binder) toTarget(s *Scope, r *Ref) {
	for s != nil && s.Kind != Statement {
		s = s.Parent
	}
	if s == nil || len(s.Sources) == 0 {
		return
	}
	use := RefReads
	if r.Writes {
		use = RefWrites
	}
	if r.Kind == ToAll {
		b.all(b.rows(s, s.Sources[0]), r, use)
		return
	}
	name := b.part(r.Name, r.Name.N-1)
	candidates := s.Sources[:1]
	if r.Name.N > 1 {
		qualifier := b.parts(r.Name)[:r.Name.N-1]
		if _, src := b.named(s, qualifier[len(qualifier)-1], qualifier); src != nil {
			candidates = []*Source{src}
		} else { // a field of a column
			name = b.part(r.Name, 0)
		}
	} else if b.Rules.Backticks && !b.Rules.Brackets {
		candidates = s.Sources
	}
	for _, src := range candidates {
		if src.Hidden {
			continue
		}
		rows := b.rows(s, src)
		if c, ok := b.column(rows, name); ok && rows.relation != nil {
			b.emit(Reference{Use: use, Key: rows.relation.Key, Column: c, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed || rows.relation.Guessed})
			return
		}
	}
}

// toTyped binds NAME%TYPE and NAME%ROWTYPE.
func (b *binder) toTyped(s *Scope, r *Ref) {
	parts := b.parts(r.Name)
	if len(parts) == 1 && b.variable(s, parts[0]) != nil {
		return
	}
	emit := func(rel *Relation, column string) {
		b.emit(Reference{Use: RefTypes, Key: rel.Key, Column: column, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed || rel.Guessed})
	}
	if len(parts) > 1 {
		if rel := b.c.World.Relation(parts[:len(parts)-1]); rel != nil {
			if c, ok := b.column(rowsOf(rel), parts[len(parts)-1]); ok {
				emit(rel, "")
				emit(rel, c)
				return
			}
		}
	}
	if rel := b.c.World.Relation(parts); rel != nil {
		emit(rel, "")
	}
}

// toNamed binds the name of a sequence or a relation that stands by itself.
func (b *binder) toNamed(r *Ref) {
	names := r.Quoted
	if names == nil {
		names = b.parts(r.Name)
	}
	if r.Kind != ToRelation {
		if k := b.c.World.Sequence(names); k != nil {
			b.emit(Reference{Use: RefNumbers, Key: k, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed})
			return
		}
		if r.Kind == ToSequence {
			return
		}
	}
	rel := b.c.World.Relation(names)
	if rel == nil {
		return
	}
	use := RefReads
	if r.Writes {
		use = RefWrites
	}
	b.emit(Reference{Use: use, Key: rel.Key, Start: r.Start, Stop: r.Stop, Guessed: r.Guessed || rel.Guessed})
}
