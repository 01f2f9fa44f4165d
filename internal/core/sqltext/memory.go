package sqltext

// Most texts are short, and there are many: what one took is used again for the next.

// Memory is what the parser and the resolver work in. A tree and the references that are bound in it hold until the memory is
// used for another text. It is not safe for use side by side.
type Memory struct {
	tree    Tree
	descent parser
	tokens  []token
	scopes  []*Scope
	used    int // of the scopes
	names   []string
	sources []Source
	derived []rows
	found   []Reference
}

// tooLarge is how many tokens a text has whose memory is not kept.
const tooLarge = 1 << 16

func (m *Memory) reset() {
	if cap(m.tokens) > tooLarge {
		*m = Memory{}
	}
	m.used, m.names = 0, m.names[:0]
	clear(m.sources)
	clear(m.derived)
	m.sources, m.derived = m.sources[:0], m.derived[:0]
	clear(m.found) // what they refer to is let go
	m.found = m.found[:0]
}

// scope returns a scope; what it is to hold is empty.
func (m *Memory) scope(kind ScopeKind, parent *Scope, start int) *Scope {
	if m.used == len(m.scopes) {
		some := make([]Scope, min(64, max(2, len(m.scopes))))
		for i := range some {
			m.scopes = append(m.scopes, &some[i])
		}
	}
	s := m.scopes[m.used]
	m.used++
	s.Kind, s.Parent, s.Start, s.Stop = kind, parent, start, 0
	s.Apart, s.sealed, s.into, s.shown, s.rows = false, false, false, false, nil
	s.Sources, s.Common, s.Variables, s.Locals = s.Sources[:0], s.Common[:0], s.Variables[:0], s.Locals[:0]
	s.Outputs, s.Children, s.Refs, s.joined, s.Arms = s.Outputs[:0], s.Children[:0], s.Refs[:0], s.joined[:0], s.Arms[:0]
	return s
}

// source returns a source like the one given.
func (m *Memory) source(like Source) *Source {
	m.sources = append(roomFor(m.sources), like)
	return &m.sources[len(m.sources)-1]
}

// rows returns rows like those given.
func (m *Memory) rows(like rows) *rows {
	m.derived = append(roomFor(m.derived), like)
	return &m.derived[len(m.derived)-1]
}

// roomFor returns a list that has room for one more. What stands in the one before stays where it is.
func roomFor[T any](list []T) []T {
	if len(list) < cap(list) {
		return list
	}
	return make([]T, 0, min(256, max(4, 2*cap(list))))
}

// strings returns room for the parts of a name.
func (m *Memory) strings(n int) []string {
	if len(m.names)+n > cap(m.names) {
		m.names = make([]string, 0, max(64, 2*cap(m.names)))
	}
	at := len(m.names)
	m.names = m.names[:at+n]
	return m.names[at : at+n : at+n]
}
