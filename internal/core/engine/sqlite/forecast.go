package sqlite

// ALTER TABLE of SQLite reads the whole schema again: it rewrites what it renames, and refuses where something would not make
// sense any more; DROP TABLE looks at nothing (documentation: "ALTER TABLE").

import (
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Forbids reports whether the server refuses a change whatever depends on the object: it changes no columns of virtual
// tables, renames nothing while some view does not work, and a table keeps one column.
func (Engine) Forbids(c engine.Change, r engine.Root) bool {
	o, column := r.Object, r.Column
	if c == engine.Renamed && (r.Invalid || column != "" && o.Setting("virtual") != "") {
		return true
	}
	if column == "" || o.Relation == nil || c != engine.Dropped && c != engine.DroppedAlong {
		return false
	}
	return len(o.Relation.Columns) == 1 || o.Setting("virtual") != "" || constrained(o.Source, column)
}

// constrained reports whether a constraint of a table as a whole names a column; one that stands with its column goes with it.
func constrained(text, column string) bool {
	tokens := sqltext.Tokens(text, rules())
	depth, start := 0, -1 // of the constraint that is read
	for i, t := range tokens {
		switch s := text[t.Start:t.End]; {
		case s == "(":
			depth++
		case s == ")":
			depth--
		}
		ends := depth == 0 && start >= 0 || depth == 1 && text[t.Start:t.End] == ","
		if ends && start >= 0 && engine.Mentions(text[tokens[start].Start:t.Start], column, rules()) {
			return true
		}
		if ends {
			start = -1
		}
		if depth == 1 && i+1 < len(tokens) && (text[t.Start:t.End] == "," || text[t.Start:t.End] == "(") {
			switch sqltext.FoldASCII(text[tokens[i+1].Start:tokens[i+1].End]) {
			case "constraint", "check", "foreign", "primary", "unique":
				start = i + 1
			}
		}
	}
	return false
}

// Effect returns what becomes of a dependant.
func (Engine) Effect(c engine.Case) (engine.Effect, engine.Why) {
	d := c.Dependency
	dropped := c.Change == engine.Dropped || c.Change == engine.DroppedAlong
	switch {
	case c.Change == engine.Retyped || c.Change == engine.Required || c.Change == engine.Moved:
		return engine.Uncertain, engine.WhyValues // there is no statement for it
	case c.Change == engine.Renamed:
		return engine.Follows, engine.WhyTracked
	case c.Own && (d.From.PartKind == schema.KindForeignKey || d.From.PartKind == schema.KindCheck):
		return engine.Goes, engine.WhyPart
	case dropped && c.Column:
		if d.To.Part == "" || d.Use == schema.UseForeignKey {
			return engine.Unaffected, engine.WhyNothing
		}
		return engine.Refused, engine.WhyDepends
	case d.Use == schema.UseIndexOn, d.Use == schema.UseTriggerOn:
		return engine.Goes, engine.WhyPart
	case d.Evidence == schema.Guessed:
		return engine.Uncertain, engine.WhyText
	}
	return engine.Breaks, engine.WhyRuns
}
