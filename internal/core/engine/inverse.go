package engine

// What drops an object follows from what makes it: each statement is taken back by its own, in an order that the needs of
// the first give the second. What has nothing to take back stays as a statement without a text, so that an order that leads
// through it holds.

import (
	"slices"

	"echo-atlas/internal/core/schema"
)

// Inverse returns the statements that take others back. Their texts are "" where there is nothing to take back; UndoFirst
// is kept for what puts them into order, so that it stays right before.
func Inverse(all []*Statement) []*Statement {
	out := make([]*Statement, len(all))
	for i, s := range all {
		d := inverse(s)
		out[i] = &d
	}
	return out
}

// DropStatements returns the statements that drop an object of an engine.
func DropStatements(e Engine, o *schema.Object) ([]*Statement, error) {
	made, err := e.Make(o)
	return Inverse(Pointers(made)), err
}

// Pointers returns where statements stand.
func Pointers(all []Statement) []*Statement {
	out := make([]*Statement, len(all))
	for i := range all {
		out[i] = &all[i]
	}
	return out
}

func inverse(s *Statement) Statement {
	d := Statement{Subject: s.Subject, Action: Drop, Step: s.Step, Head: s.Undo, UndoFirst: s.UndoFirst, Settings: s.UndoSettings, Requires: slices.Clone(s.Requires), Wishes: s.Wishes,
		Destroys: slices.Clone(s.Provides), Late: s.Late, Alone: s.Alone, Unknown: s.Unknown}
	for i := range s.Splits {
		switch split := &s.Splits[i]; {
		case split.First:
			whole := slices.DeleteFunc(slices.Clone(s.Provides), func(r Resource) bool { return slices.Contains(split.Apart.Provides, r) })
			// What is left of it is taken back by the statement that makes the first form.
			d.Splits = append(d.Splits, Split{First: true, Requires: s.Requires, Apart: Statement{Subject: s.Subject, Action: Drop, Step: s.Step + 1, Head: split.RestUndo, Late: s.Late,
				Settings: s.UndoSettings, Requires: append(slices.Clone(s.Requires), split.Apart.Provides...), Destroys: whole}})
		case split.Apart.Undo != "":
			d.Destroys = append(d.Destroys, split.Provides...)
			d.Splits = append(d.Splits, Split{Requires: split.Requires, Provides: split.Provides, Part: split.Part, Apart: inverse(&split.Apart)})
		default:
			d.Destroys = append(d.Destroys, split.Provides...)
			d.Requires = append(d.Requires, split.Requires...)
		}
	}
	return d
}
