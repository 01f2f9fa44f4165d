package sqltext

// Binding makes things of names. For each reference the scopes are asked from the inside out, as the dialects do it: sources of
// rows, then variables (the other way round where a variable hides a column), then what the catalogue has. Columns of derived
// tables end where they are derived: what they are made of is a reference of its own there.

import (
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Relation is a relation that exists.
type Relation struct {
	Key     any      // what the World knows it by
	Columns []string // in order
	Unknown bool     // there may be more columns than are known
	Guessed bool     // the name may mean another
}

// Parameter of a routine whose head is not in the text.
type RowParameter struct {
	Name string
	Row  *Relation // the relation whose row it is, nil for none
	Type string
}

// World is what exists, as far as names reach from where a text runs.
type World interface {
	// Relation returns the relation of a name, which is in one part or more; nil if there is none.
	Relation(name []string) *Relation
	// Returned returns the relation whose rows a function returns, nil where it returns others.
	Returned(name []string) *Relation
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
	// Rows are relations that go by other names here: the transition tables of a trigger.
	Rows map[string]*Relation
	// Trigger are the relations whose rows NEW and OLD, or inserted and deleted, are.
	Trigger []*Relation
	// Parameters are those of a routine, where the text is its body alone.
	Parameters []RowParameter
	// Names asks for all places of names, too, such as those of relations in front of their columns.
	Names bool
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

	// With Context.Names only:
	RefQualifies  // a relation in front of a column
	RefThrough    // a column of a derived table that bears its name because of a star
	RefBehind     // a column of a derived table that bears its name because its output was given no other
	RefUnresolved // a name that was not understood
)

// Reference is a reference to a thing that exists, or one of which it is said why it is none.
type Reference struct {
	Use         Use
	Key         any    // what the World knows it by, nil for what is not seen or missing
	Column      string // of a relation, "" for the relation itself
	Names       []string
	Start, Stop int
	Guessed     bool

	// At and End are where the name itself is written, both 0 where it is not: a star, or a list that is left out.
	At, End int
	// Shown says that the column gives an output its name.
	Shown bool
	// Joined says that the name joins sources: USING, NATURAL.
	Joined bool
	// Ambiguous says that the name could mean something else in the same place.
	Ambiguous bool
}

// Bind returns the references of a tree in the order of its scopes.
func Bind(t *Tree, c Context) []Reference {
	b := binder{Tree: t, c: c, found: t.memory.found[:0]}
	if c.Row != nil {
		b.row = b.rowsOf(c.Row)
		t.Root.Sources = append(t.Root.Sources, t.memory.source(Source{bound: b.row}))
	}
	for _, p := range c.Parameters {
		t.Root.Variables = append(t.Root.Variables, &Variable{Name: p.Name, bound: p.Row, Type: p.Type})
	}
	if c.Names {
		t.shows()
	}
	b.scope(t.Root)
	b.choose()
	t.memory.found = b.found
	return b.found
}

type binder struct {
	*Tree
	c     Context
	row   *rows
	found []Reference
	flow  *flow // nil: what becomes of columns is not asked
	calls []call

	columns, called map[int]int // once calls are told apart: what was found of columns and routines, by where it is written
}

// rows is what is known of the rows of a source.
type rows struct {
	relation *Relation // nil for derived ones
	columns  []string
	aliases  []string // what the first columns of a relation are called here
	aliased  bool     // the relation goes by another name
	origin   []origin // of the columns of derived rows, as far as a star brought them
	unknown  bool     // there may be more columns
	query    *Scope   // whose outputs derived ones are, by place
}

// origin is the column of a relation from which one of derived rows has its name.
type origin struct {
	relation *Relation
	column   string
	output   bool // not by a star, but by an output of one column
}

// from returns where column i has its name from.
func (r *rows) from(i int) origin {
	switch {
	case r.relation != nil:
		return origin{relation: r.relation, column: r.columns[i]}
	case i < len(r.origin):
		return r.origin[i]
	}
	return origin{}
}

// unknownRows are those of which nothing is known; they are never written to.
var unknownRows = &rows{unknown: true}

// rowsOf returns the rows of a relation.
func (b *binder) rowsOf(r *Relation) *rows {
	return b.memory.rows(rows{relation: r, columns: r.Columns, unknown: r.Unknown})
}

func (b *binder) emit(r Reference) { b.found = append(b.found, r) }

// same reports whether two names are one. Where names are folded as they are read, the world is not asked; and else not where
// their first letters tell.
func (b *binder) same(a, c string) bool {
	if a == c {
		return true
	}
	if b.Rules.FoldLower || a != "" && c != "" && a[0]|c[0] < utf8.RuneSelf && a[0]|0x20 != c[0]|0x20 {
		return false
	}
	return b.c.World.Same(a, c)
}

// column returns the name of a column as it exists.
func (b *binder) column(r *rows, name string) (string, bool) {
	for i, c := range r.columns {
		called := c
		if i < len(r.aliases) {
			called = r.aliases[i]
		}
		if called == name || b.same(called, name) {
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
	if src.Name.N() == 0 || src.Name.partial || src.Of != nil || src.Call || r == b.row && b.row != nil {
		return
	}
	start, stop := b.nameSpan(src.Name)
	if base := b.base(r); r.relation == nil && src.Writes && base != nil && b.Rules.HashNames && !b.isLocal(s, src) { // through a common table expression
		b.emit(Reference{Use: RefWrites, Key: base.Key, Start: start, Stop: stop, Guessed: src.guessed || base.Guessed})
	}
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
		if use.is && !(use.use == RefWrites && src.several) {
			found := Reference{Use: use.use, Key: r.relation.Key, Start: start, Stop: stop, Guessed: src.guessed || r.relation.Guessed}
			if !r.aliased {
				found.At, found.End = b.span(src.Name, src.Name.N()-1)
			}
			b.emit(found)
		}
	}
}

func (b *binder) nameSpan(n Name) (start, stop int) {
	last := b.tokens[n.Parts[n.N()-1]]
	start, stop = int(b.tokens[n.Parts[0]].start), int(last.end)
	if start > stop { // its parts stand apart
		start = int(last.start)
	}
	return start, stop
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
	if src.Name.N() == 0 {
		return nil
	}
	name := b.part(src.Name, src.Name.N()-1)
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
	if src.Name.N() != 1 || b.tokens[src.Name.Parts[0]].kind == Placeholder {
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
	src.bound = unknownRows // while it is worked out
	r := b.work(s, src)
	if len(src.Columns) > 0 && r != nil { // the alias gives other names
		named := &rows{columns: slices.Clone(src.Columns), unknown: r.unknown && !src.Call}
		switch {
		case r.relation != nil:
			r = &rows{relation: r.relation, columns: r.columns, unknown: r.unknown, aliases: src.Columns[:min(len(src.Columns), len(r.columns))]}
		default:
			if len(r.columns) > len(src.Columns) {
				named.columns = append(named.columns, r.columns[len(src.Columns):]...)
			}
			named.query = r.query
			r = named
		}
	}
	src.bound = r
	return r
}

func (b *binder) work(s *Scope, src *Source) *rows {
	unknown := unknownRows
	switch {
	case src.Of != nil:
		return b.rows(s, src.Of)
	case src.Name.partial:
		return unknown
	case src.Query != nil:
		return b.query(src.Query)
	case src.Call && src.Name.N() > 0:
		if r := b.c.World.Returned(b.parts(src.Name)); r != nil {
			return b.rowsOf(r)
		}
		return unknown
	case src.Name.N() == 0:
		return unknown
	}
	if c := b.common(s, src); c != nil {
		return b.commonRows(c)
	}
	if l := b.local(s, src); l != nil {
		switch {
		case l.Columns != nil:
			return b.memory.rows(rows{columns: l.Columns})
		case l.Query != nil && l.Query != s:
			return b.query(l.Query)
		}
		return unknown
	}
	if b.tokens[src.Name.Parts[0]].kind == Placeholder {
		return &rows{unknown: true, columns: []string{""}}
	}
	names := b.parts(src.Name)
	if src.Writes && src.Name.N() == 1 { // UPDATE b SET … FROM berth b
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
	if src.Name.N() == 1 && len(b.c.Trigger) > 0 && b.Rules.HashNames && (b.same(names[0], "inserted") || b.same(names[0], "deleted")) {
		return &rows{columns: b.c.Trigger[0].Columns, relation: b.c.Trigger[0]}
	}
	if len(names) == 1 && b.c.Rows[names[0]] != nil {
		r := b.rowsOf(b.c.Rows[names[0]])
		r.aliased = true
		return r
	}
	if r := b.c.World.Relation(names); r != nil {
		return b.rowsOf(r)
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
		return &rows{columns: c.Columns, query: c.Query}
	}
	return r
}

// query returns what the rows of a query are called.
func (b *binder) query(q *Scope) *rows {
	if q.rows != nil {
		return q.rows
	}
	q.rows = unknownRows
	arm := q
	for len(arm.Arms) > 0 {
		arm = arm.Arms[0]
	}
	r := b.memory.rows(rows{query: q})
	for i, o := range arm.Outputs {
		switch {
		case o.Star:
			for _, src := range b.starred(arm, &arm.Refs[o.Ref]) {
				of := b.rows(arm, src)
				r.add(of)
				r.unknown = r.unknown || of.unknown
			}
		case o.Name != "":
			if (b.c.Names && !o.Named || b.Rules.HashNames) && o.Ref >= 0 {
				b.behind(r, arm, &arm.Refs[o.Ref])
			}
			r.columns = append(r.columns, o.Name)
		case arm.Kind == Arm:
			r.columns = append(r.columns, "column"+strconv.Itoa(i+1))
		}
	}
	q.rows = r
	return r
}

// behind notes the origin of an output that is a column.
func (b *binder) behind(r *rows, arm *Scope, ref *Ref) {
	name := b.part(ref.Name, ref.Name.N()-1)
	sources := arm.Sources
	if ref.Name.N() > 1 {
		qualifier := b.parts(ref.Name)[:ref.Name.N()-1]
		in, src := b.named(arm, qualifier[len(qualifier)-1], qualifier)
		if in != arm {
			return
		}
		sources = []*Source{src}
	}
	for _, src := range sources {
		of := b.rows(arm, src)
		if c, ok := b.column(of, name); ok {
			if k := slices.Index(of.columns, c); k >= len(of.aliases) {
				if from := of.from(k); from.relation != nil {
					from.output = true
					r.origin = append(r.origin, make([]origin, len(r.columns)-len(r.origin))...)
					r.origin = append(r.origin, from)
				}
			}
			return
		}
	}
}

// add adds all columns of other rows.
func (r *rows) add(of *rows) {
	for i, c := range of.columns {
		if i < len(of.aliases) {
			c = of.aliases[i]
		} else if from := of.from(i); from.relation != nil {
			r.origin = append(r.origin, make([]origin, len(r.columns)-len(r.origin))...)
			r.origin = append(r.origin, from)
		}
		r.columns = append(r.columns, c)
	}
}

// base returns the one relation from which derived rows come, nil if there are more.
func (b *binder) base(r *rows) *Relation {
	var of *Relation
	for _, from := range r.origin {
		switch {
		case from.relation == nil:
		case of == nil:
			of = from.relation
		case of.Key != from.relation.Key:
			return nil
		}
	}
	return of
}

// starred returns the sources that a star stands for.
func (b *binder) starred(s *Scope, r *Ref) []*Source {
	if r.Name.N() > 0 {
		if _, src := b.named(s, b.part(r.Name, r.Name.N()-1), b.parts(r.Name)); src != nil {
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
	if src.Name.N() == 0 || !b.same(b.part(src.Name, src.Name.N()-1), name) {
		return false
	}
	for i := 2; i <= len(parts) && i <= src.Name.N(); i++ {
		if !b.same(b.part(src.Name, src.Name.N()-i), parts[len(parts)-i]) {
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
	if r.Name.partial {
		return
	}
	switch r.Kind {
	case ToColumn:
		b.toColumn(s, r)
	case ToStar:
		for _, src := range b.starred(s, r) {
			b.flow.row(s, b.rows(s, src), r)
			b.all(b.rows(s, src), r, RefReads)
			if r.Name.N() > 0 {
				b.qualifies(s, src, r, r.Name.N()-1)
			}
		}
	case ToTarget, ToAll:
		b.toTarget(s, r)
	case ToRoutine:
		keys, guessed := b.c.World.Routines(b.parts(r.Name), int(r.Args))
		if len(keys) > 1 {
			b.calls = append(b.calls, call{s, r, len(b.found), len(b.found) + len(keys), guessed})
		}
		for _, k := range keys {
			b.note(Reference{Use: RefCalls, Key: k, Guessed: guessed || len(keys) > 1}, r, r.Name.N()-1)
		}
	case ToType:
		if k := b.c.World.Type(b.parts(r.Name)); k != nil {
			b.note(Reference{Use: RefTypes, Key: k}, r, r.Name.N()-1)
		}
	case ToTyped:
		b.toTyped(s, r)
	case ToSequence, ToConstant, ToRelation:
		b.toNamed(r)
	case ToFired:
		for _, t := range b.c.Trigger {
			rows := b.rowsOf(t)
			if c, ok := b.column(rows, b.part(r.Name, 0)); ok {
				b.note(Reference{Use: RefReads, Key: t.Key, Column: c, Guessed: t.Guessed}, r, 0)
			}
		}
	case ToUnseen:
		b.note(Reference{Use: RefUnseen, Guessed: true}, r, -1)
	}
}

// note emits a reference with where it stands; part i of the name is the thing's own, -1 for none.
func (b *binder) note(found Reference, r *Ref, i int) {
	found.Start, found.Stop = r.Start, r.Stop
	found.Guessed = found.Guessed || r.Guessed
	if i >= 0 && i < r.Name.N() && r.Name.Parts[i] >= 0 {
		found.At, found.End = b.span(r.Name, i)
	}
	b.emit(found)
}

// all notes all columns of a relation.
func (b *binder) all(r *rows, at *Ref, use Use) {
	if r.relation == nil {
		return
	}
	for _, c := range r.columns {
		b.note(Reference{Use: use, Key: r.relation.Key, Column: c, Guessed: r.relation.Guessed}, at, -1)
	}
}

// emitColumn notes a column of rows, if these are of a relation; part i of the name is the column's.
func (b *binder) emitColumn(s *Scope, r *rows, column string, at *Ref, i int) {
	found := Reference{Use: RefReads, Column: column}
	b.flow.note(s, r, column, at.Start)
	switch {
	case r.relation != nil:
		found.Key, found.Guessed = r.relation.Key, r.relation.Guessed
		if at.Writes {
			found.Use = RefWrites
		}
		if k := slices.Index(r.columns, column); k < len(r.aliases) {
			i = -1 // the name that is written is another
		}
	case b.c.Names:
		from := r.from(slices.Index(r.columns, column))
		if from.relation == nil {
			return
		}
		found.Use, found.Key, found.Column, found.Guessed = RefThrough, from.relation.Key, from.column, from.relation.Guessed
		if from.output {
			found.Use = RefBehind
		}
	default:
		return
	}
	if b.c.Names {
		found.Shown = s != nil && s.shown && i >= 0 && slices.ContainsFunc(s.Outputs, func(o Output) bool { return !o.Named && !o.Star && o.Ref >= 0 && at == &s.Refs[o.Ref] })
		if at.Name.N() == 1 && i >= 0 {
			found.Joined, found.Ambiguous = b.contested(s, at)
		}
	}
	b.note(found, at, i)
}

// contested reports whether a column that is named alone joins sources, and whether the name could mean another one of them.
func (b *binder) contested(s *Scope, r *Ref) (joins, ambiguous bool) {
	name := b.part(r.Name, 0)
	if r.Kind == ToTarget {
		return false, false
	}
	if b.Rules.DollarQuotes && b.variable(s, name) != nil {
		ambiguous = true
	}
	for in, seen := s, true; in != nil; {
		if seen {
			holders := 0
			for _, src := range in.Sources {
				if src.Hidden {
					continue
				}
				if _, ok := b.column(b.rows(in, src), name); ok {
					holders++
				}
			}
			for _, j := range in.joined {
				if b.same(j.column, name) || j.column == "*" && holders > 1 {
					joins = true
				}
			}
			if holders > 0 {
				return joins, ambiguous || holders > 1 && !joins
			}
		}
		in, seen = outer(in)
	}
	return joins, ambiguous
}

// qualifies notes the name of a relation in front of a column.
func (b *binder) qualifies(s *Scope, src *Source, r *Ref, i int) {
	if !b.c.Names || src.Alias != "" || src.Name.N() == 0 || src.Of != nil || i < 0 {
		return
	}
	if rel := b.rows(s, src).relation; rel != nil && !src.Call && b.common(s, src) == nil {
		b.note(Reference{Use: RefQualifies, Key: rel.Key, Guessed: rel.Guessed}, r, i)
	}
}

func (b *binder) unresolved(r *Ref) {
	if b.c.Names {
		b.note(Reference{Use: RefUnresolved, Names: b.parts(r.Name)}, r, r.Name.N()-1)
	}
}

func (b *binder) toColumn(s *Scope, r *Ref) {
	placeholder := r.Name.Parts[0] >= 0 && b.tokens[r.Name.Parts[0]].kind == Placeholder
	if r.Name.N() == 1 {
		name := b.part(r.Name, 0)
		if placeholder {
			name = strings.TrimLeft(name, ":@")
		}
		b.single(s, r, name)
		return
	}
	parts := b.parts(r.Name)
	if placeholder {
		parts[0] = strings.TrimLeft(parts[0], ":@")
	}
	last := len(parts) - 1
	column := parts[last]
	qualifier := parts[:last]
	if in, src := b.named(s, qualifier[len(qualifier)-1], qualifier); src != nil {
		rows := b.rows(in, src)
		b.qualifies(in, src, r, last-1)
		if c, ok := b.column(rows, column); ok {
			b.emitColumn(s, rows, c, r, last)
		} else if rows.unknown {
			b.unresolved(r)
		}
		return
	}
	if v := b.variable(s, parts[0]); v != nil {
		b.field(s, v, parts[1], r)
		return
	}
	if r.Bracketed { // a field of a column
		column := *r
		column.Name.n = 1
		b.single(s, &column, parts[0])
		return
	}
	if len(b.c.Trigger) > 0 && (b.same(parts[0], "new") || b.same(parts[0], "old")) {
		for _, t := range b.c.Trigger {
			rows := b.rowsOf(t)
			if c, ok := b.column(rows, parts[1]); ok {
				b.emitColumn(s, rows, c, r, 1)
			}
		}
		return
	}
	if in, src := b.named(s, parts[0], parts[:1]); src != nil && len(parts) > 2 { // a field of a column
		rows := b.rows(in, src)
		b.qualifies(in, src, r, 0)
		if c, ok := b.column(rows, parts[1]); ok {
			b.emitColumn(s, rows, c, r, 1)
		}
		return
	}
	if b.same(column, "nextval") || b.same(column, "currval") {
		if k := b.c.World.Sequence(qualifier); k != nil {
			b.note(Reference{Use: RefNumbers, Key: k}, r, last-1)
			return
		}
	}
	b.unresolved(r)
}

// field notes the column of a relation whose row a variable holds.
func (b *binder) field(s *Scope, v *Variable, column string, r *Ref) {
	inner, at := v, s
	for v != nil && v.bound == nil && (v.Row.N() == 0 || inner.Query != nil && b.rowType(s, v.Row) == nil) { // a loop may use a variable that is declared outside
		if at, _ = outer(at); at == nil {
			break
		}
		v = b.variable(at, inner.Name)
	}
	var of *rows
	switch {
	case at != nil && v != nil && v.bound != nil:
		of = b.rowsOf(v.bound)
	case at != nil && v != nil:
		of = b.rowType(s, v.Row)
	case inner.Query != nil:
		of = b.query(inner.Query)
	}
	if of == nil {
		b.unresolved(r)
		return
	}
	if c, ok := b.column(of, column); ok {
		read := *r
		read.Writes = false // into the variable, not the relation
		b.emitColumn(s, of, c, &read, 1)
		return
	}
	b.unresolved(r)
}

// rowType returns the row that a variable of a type holds: of a relation, or of a cursor.
func (b *binder) rowType(s *Scope, n Name) *rows {
	if rel := b.c.World.Relation(b.parts(n)); rel != nil {
		return b.rowsOf(rel)
	}
	if n.N() == 1 {
		if v := b.variable(s, b.part(n, 0)); v != nil && v.Query != nil {
			return b.query(v.Query)
		}
	}
	return nil
}

// single binds a name of one part.
func (b *binder) single(s *Scope, r *Ref, name string) {
	if b.Rules.VariablesFirst && b.variable(s, name) != nil {
		return
	}
	start := s
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
					b.emitColumn(start, rows, c, r, 0)
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
				if c, ok := b.column(b.query(in), name); ok && r.ByOutput {
					b.flow.note(s, b.query(in), c, r.Start)
					return
				}
			}
			if r.ByOutput && slices.ContainsFunc(in.Outputs, func(o Output) bool { return o.Name != "" && b.same(o.Name, name) }) {
				b.flow.ordered(b, s, in, name, r)
				return
			}
			if b.flow != nil {
				for _, src := range in.Sources {
					if b.isNamed(in, src, name, nil) {
						b.flow.row(s, b.rows(in, src), r)
						return
					}
				}
			}
			if b.c.Names && b.wholeRow(in, r, name) {
				return
			}
			if maybe { // it may be a column there
				b.unresolved(r)
				return
			}
		}
		if slices.ContainsFunc(in.Variables, func(v *Variable) bool { return v.Name != "" && b.same(v.Name, name) }) {
			return
		}
		in, seen = outer(in)
	}
	b.unresolved(r)
}

// wholeRow notes the name of a source that stands for its row.
func (b *binder) wholeRow(s *Scope, r *Ref, name string) bool {
	for _, src := range s.Sources {
		if b.isNamed(s, src, name, nil) {
			b.qualifies(s, src, r, 0)
			return true
		}
	}
	return false
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
					b.flow.note(s, rows, c, s.Start)
					last := sources[len(sources)-1]
					if last.Name.N() > 0 {
						start, stop := b.nameSpan(last.Name)
						b.joins(rows, c, &Ref{Start: start, Stop: stop, Guessed: last.guessed})
					} else {
						b.joins(rows, c, &Ref{Start: s.Start, Stop: s.Start})
					}
					break
				}
			}
		}
	}
}

// joins notes a column of which NATURAL makes use.
func (b *binder) joins(r *rows, column string, at *Ref) {
	if r.relation != nil {
		b.note(Reference{Use: RefReads, Key: r.relation.Key, Column: column, Guessed: r.relation.Guessed, Joined: true}, at, -1)
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
	at := r.Name.N() - 1
	candidates := s.Sources[:1]
	if r.Name.N() > 1 {
		qualifier := b.parts(r.Name)[:r.Name.N()-1]
		if in, src := b.named(s, qualifier[len(qualifier)-1], qualifier); src != nil {
			b.qualifies(in, src, r, r.Name.N()-2)
			candidates = []*Source{src}
		} else { // a field of a column
			at = 0
		}
	} else if b.Rules.Backticks && !b.Rules.Brackets {
		candidates = s.Sources
	}
	name := b.part(r.Name, at)
	for _, src := range candidates {
		if src.Hidden {
			continue
		}
		rows := b.rows(s, src)
		c, ok := b.column(rows, name)
		if ok && rows.relation != nil {
			if src.several && use == RefWrites { // rows go there, too
				src.several = false
				start, stop := b.nameSpan(src.Name)
				b.emit(Reference{Use: RefWrites, Key: rows.relation.Key, Start: start, Stop: stop, Guessed: src.guessed || rows.relation.Guessed})
			}
			b.note(Reference{Use: use, Key: rows.relation.Key, Column: c, Guessed: rows.relation.Guessed}, r, at)
			return
		}
		if real := src; ok && b.Rules.HashNames {
			for real.Of != nil {
				real = real.Of
			}
			if b.isLocal(s, real) {
				return
			}
			if from := rows.from(slices.Index(rows.columns, c)); from.relation != nil {
				b.note(Reference{Use: use, Key: from.relation.Key, Column: from.column, Guessed: from.relation.Guessed}, r, -1)
				return
			}
		}
	}
	b.unresolved(r)
}

// toTyped binds NAME%TYPE and NAME%ROWTYPE.
func (b *binder) toTyped(s *Scope, r *Ref) {
	parts := b.parts(r.Name)
	if len(parts) == 1 && b.variable(s, parts[0]) != nil {
		return
	}
	emit := func(rel *Relation, column string, part int) {
		b.note(Reference{Use: RefTypes, Key: rel.Key, Column: column, Guessed: rel.Guessed}, r, part)
	}
	if len(parts) > 1 {
		if rel := b.c.World.Relation(parts[:len(parts)-1]); rel != nil {
			if c, ok := b.column(b.rowsOf(rel), parts[len(parts)-1]); ok {
				emit(rel, "", len(parts)-2)
				emit(rel, c, len(parts)-1)
				return
			}
		}
	}
	if rel := b.c.World.Relation(parts); rel != nil {
		emit(rel, "", len(parts)-1)
	}
}

// toNamed binds the name of a sequence or a relation that stands by itself.
func (b *binder) toNamed(r *Ref) {
	var names []string
	last := -1
	if r.Quoted != nil {
		names = *r.Quoted
	} else {
		names, last = b.parts(r.Name), r.Name.N()-1
	}
	if r.Kind != ToRelation {
		if k := b.c.World.Sequence(names); k != nil {
			b.note(Reference{Use: RefNumbers, Key: k}, r, last)
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
	b.note(Reference{Use: use, Key: rel.Key, Guessed: rel.Guessed}, r, last)
}
