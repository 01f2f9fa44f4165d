package sqlite

// ALTER TABLE of SQLite reads the whole schema again: it rewrites what it renames, and refuses where something would not make
// sense any more; DROP TABLE looks at nothing (documentation: "ALTER TABLE").

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Forbids reports whether the server refuses a change whatever depends on the object: it changes no columns of virtual
// tables, renames nothing while some view does not work, and a table keeps one column.
func (Engine) Forbids(c engine.Change, r engine.Root) bool {
	o, column := r.Object, r.Column
	if c == engine.Renamed && column == "" && o.Kind != schema.KindTable || c == engine.Moved {
		return true // there is no statement for it
	}
	if c == engine.Renamed && (r.Invalid() || column != "" && o.Setting("virtual") != "") {
		return true
	}
	if column == "" || o.Relation == nil || c != engine.Dropped && c != engine.DroppedAlong {
		return false
	}
	return len(o.Relation.Columns) == 1 || o.Setting("virtual") != ""
}

// definition returns what CREATE TABLE says of a column, "" where it says nothing of it.
func definition(text, column string) string {
	tokens := sqltext.Tokens(text, rules())
	depth, start := 0, -1 // the token with which a definition starts
	for i, t := range tokens {
		said := text[t.Start:t.End]
		ends := depth == 1 && (said == "," || said == ")")
		if ends && start >= 0 && sqltext.FoldASCII(sqltext.Unquote(text, tokens[start], rules())) == sqltext.FoldASCII(column) {
			return text[tokens[start].Start:t.Start]
		}
		switch said {
		case "(":
			depth++
		case ")":
			depth--
		}
		if ends || depth == 1 && said == "(" && start < 0 {
			start = -1
			if i+1 < len(tokens) {
				start = i + 1
			}
		}
	}
	return ""
}

// beforeReferences returns what stands in front of REFERENCES.
func beforeReferences(text string, tokens []sqltext.Token) string {
	for _, t := range tokens {
		if t.Kind == sqltext.Word && sqltext.FoldASCII(text[t.Start:t.End]) == "references" {
			return text[:t.Start]
		}
	}
	return text
}

// checks returns the expressions of the checks in the definition of a column.
func checks(text string, tokens []sqltext.Token) []string {
	var all []string
	depth, start := 0, -1
	for i, t := range tokens {
		switch text[t.Start:t.End] {
		case "(":
			if depth++; depth == 1 && i > 0 && tokens[i-1].Kind == sqltext.Word && sqltext.FoldASCII(text[tokens[i-1].Start:tokens[i-1].End]) == "check" {
				start = t.End
			}
		case ")":
			if depth--; depth == 0 && start >= 0 {
				all = append(all, text[start:t.Start])
				start = -1
			}
		}
	}
	return all
}

// withColumn reports whether a constraint stands in the definition of a column, and goes with it.
func withColumn(o *schema.Object, column string, part schema.End) bool {
	own := definition(o.Source, column)
	tokens := sqltext.Tokens(own, rules())
	if part.PartKind == schema.KindForeignKey {
		return beforeReferences(own, tokens) != own
	}
	for _, c := range o.Relation.Checks {
		if c.PartKey() == part.Part {
			return slices.ContainsFunc(checks(own, tokens), func(said string) bool { return strings.TrimSpace(said) == strings.TrimSpace(c.Expression) })
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
	case c.Change == engine.Renamed && c.ByStar:
		return engine.Refused, engine.WhyStar
	case c.Change == engine.Renamed:
		return engine.Follows, engine.WhyTracked
	case c.Own && (d.From.PartKind == schema.KindForeignKey || d.From.PartKind == schema.KindCheck):
		if c.Object != nil && !withColumn(c.Object, d.To.Part, d.From) {
			return engine.Refused, engine.WhyDepends
		}
		return engine.Goes, engine.WhyPart
	case dropped && c.Column:
		if d.To.Part == "" || d.Use == schema.UseForeignKey {
			return engine.Unaffected, engine.WhyNothing
		}
		if d.From.ID.Kind == schema.KindTrigger && (d.Use == schema.UseWrites || d.Use == schema.UseTriggerOn) {
			return engine.Breaks, engine.WhyRuns // columns that are set, and those of UPDATE OF, are not looked at
		}
		return engine.Refused, engine.WhyDepends
	case d.Use == schema.UseIndexOn, d.Use == schema.UseTriggerOn:
		return engine.Goes, engine.WhyPart
	case d.Evidence == schema.Guessed:
		return engine.Uncertain, engine.WhyText
	}
	return engine.Breaks, engine.WhyRuns
}
