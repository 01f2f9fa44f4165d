package engine

// What becomes of a dependant when the thing that it depends on is changed is the engine's to say: each server keeps track of
// some dependencies, and lets others break.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Change is what might be done to an object or a column.
type Change string

// The changes.
const (
	Dropped      Change = "dropped"                 // DROP, and nothing else
	DroppedAlong Change = "dropped-with-dependants" // with all that depends on it, where the server has a way
	Renamed      Change = "renamed"
	Retyped      Change = "retyped"
	Required     Change = "required" // not null
	Moved        Change = "moved"    // to another schema
)

// Effect is what becomes of a dependant.
type Effect string

// The effects, the gravest first.
const (
	Refused    Effect = "refused"    // the server does not let you
	Breaks     Effect = "breaks"     // it fails later
	Goes       Effect = "goes"       // it is dropped along
	Uncertain  Effect = "uncertain"  // it depends on what is not known
	Follows    Effect = "follows"    // the server adjusts it
	Unaffected Effect = "unaffected" // nothing happens to it
)

// Effects are in the order of their gravity.
var effects = [...]Effect{Refused, Breaks, Goes, Uncertain, Follows, Unaffected}

// Graver returns the graver of two effects.
func Graver(a, b Effect) Effect {
	for _, e := range effects {
		if e == a || e == b {
			return e
		}
	}
	return a
}

// Why is the reason for an effect.
type Why uint8

// The reasons.
const (
	WhyDepends Why = iota + 1 // the server refuses while something depends on it
	WhyRuns                   // it fails when it is used or run next
	WhyPart                   // it stands on it, or belongs to it
	WhyTracked                // the server keeps track of it by itself
	WhyRebuilt                // it is built anew
	WhyValues                 // it depends on the values, or on the new type
	WhyLeftOut                // it fails where it leaves the column out
	WhyText                   // it is known from a text that is run, or not for certain
	WhyBehind                 // it rests on what breaks
	WhyStar                   // it names the column as a star brings it
	WhyNothing                // it is not touched
)

// Case is a dependency of which the effect is asked.
type Case struct {
	Change     Change
	Column     bool // of a column; else of the object
	Kind       schema.Kind
	Dependency *schema.Dependency
	Own        bool           // the dependant is a part of the same object: a generated column, a check, a key
	Several    bool           // such a key has other columns, too
	Object     *schema.Object // the object, of a part
	ByStar     bool           // the column is named as a star brings it
}

// Read reports whether the dependency is known from a text alone.
func (c *Case) Read() bool { return c.Dependency.Evidence != schema.Recorded }

// Unchecked returns what becomes of a dependant whose text the server looks at only when it is used.
func (c *Case) Unchecked() (Effect, Why) {
	switch d := c.Dependency; {
	case d.Evidence == schema.Guessed:
		return Uncertain, WhyText
	case c.Change == Required && d.Use == schema.UseWrites:
		return Uncertain, WhyLeftOut
	case c.Change == Required:
		return Unaffected, WhyNothing
	case c.Change == Retyped:
		return Uncertain, WhyValues
	}
	return Breaks, WhyRuns
}

// Mentions reports whether a text names a column.
func Mentions(text, column string, rules sqltext.Rules) bool {
	return slices.ContainsFunc(sqltext.Tokens(text, rules), func(t sqltext.Token) bool {
		if t.Kind != sqltext.Word && t.Kind != sqltext.QuotedName {
			return false
		}
		name := sqltext.Unquote(text, t, rules)
		return name == column || !rules.FoldLower && strings.EqualFold(name, column)
	})
}

// Root is the thing that is changed.
type Root struct {
	Object  *schema.Object
	Column  string           // "" for the object as a whole
	Parents []*schema.Object // from which it inherits
	Invalid func() bool      // whether something in the database does not work already
}

// Forecaster is implemented by engines that say what their servers do.
type Forecaster interface {
	// Effect returns what becomes of a dependant.
	Effect(Case) (Effect, Why)
	// Forbids reports whether the server refuses a change whatever depends on the thing.
	Forbids(Change, Root) bool
}
