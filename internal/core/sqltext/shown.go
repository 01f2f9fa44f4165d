package sqltext

// Which outputs are known by their names: those of derived tables, common table expressions, cursors and tables that a query
// makes, and of queries that are run for their rows. Elsewhere only their order matters.

// shows marks the arms whose outputs are known by their names.
func (t *Tree) shows() {
	var mark func(q *Scope)
	mark = func(q *Scope) {
		if q == nil || q.shown {
			return
		}
		q.shown = true
		if len(q.Arms) > 0 { // the first of them names the columns
			mark(q.Arms[0])
		}
	}
	var walk func(s *Scope)
	walk = func(s *Scope) {
		for _, src := range s.Sources {
			mark(src.Query)
		}
		for _, c := range s.Common {
			mark(c.Query)
		}
		for _, l := range s.Locals {
			mark(l.Query)
		}
		for _, v := range s.Variables {
			mark(v.Query)
		}
		for _, c := range s.Children {
			if s.Kind == Block && !c.into && (c.Kind == Query && (len(c.Arms) == 0 || !c.Arms[0].into) || c.Kind == Statement) {
				mark(c)
			}
			walk(c)
		}
	}
	walk(t.Root)
}
