package sqlserver

// Constraints and schema-bound modules hold a table fast; other modules are looked at when they run (documentation: "DROP
// TABLE", "ALTER TABLE", "sp_rename"). Whether a module is bound is not told by a dependency, so that is left open.

import (
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Forbids reports whether the server refuses a change whatever depends on the object: a table keeps one column.
func (Engine) Forbids(c engine.Change, r engine.Root) bool {
	o, column := r.Object, r.Column
	return column != "" && o.Relation != nil && (c == engine.Dropped || c == engine.DroppedAlong) && len(o.Relation.Columns) == 1
}

// Effect returns what becomes of a dependant.
func (Engine) Effect(c engine.Case) (engine.Effect, engine.Why) {
	d := c.Dependency
	dropped := c.Change == engine.Dropped || c.Change == engine.DroppedAlong
	switch {
	case c.Own && (dropped || c.Change == engine.Retyped):
		return engine.Refused, engine.WhyDepends
	case c.Own, d.Use == schema.UseForeignKey && !dropped && c.Change != engine.Retyped:
		return engine.Follows, engine.WhyTracked
	case d.Use == schema.UseForeignKey:
		return engine.Refused, engine.WhyDepends
	case d.Use == schema.UseIndexOn && dropped && c.Column:
		return engine.Refused, engine.WhyDepends
	case d.Use == schema.UseIndexOn || d.Use == schema.UseTriggerOn:
		if dropped && !c.Column {
			return engine.Goes, engine.WhyPart
		}
		if c.Change == engine.Retyped && d.Use == schema.UseIndexOn {
			return engine.Uncertain, engine.WhyValues
		}
		return engine.Follows, engine.WhyTracked
	case dropped && (d.Use == schema.UseTypedBy || d.Use == schema.UseLiesOn || d.Use == schema.UsePartitionsBy || d.Use == schema.UseWrites && d.From.ID.Kind == schema.KindTable): // types, schemes, catalogs, and the history of a table
		return engine.Refused, engine.WhyDepends
	case c.Change == engine.Required && d.Use == schema.UseWrites:
		return engine.Uncertain, engine.WhyLeftOut
	case c.Change == engine.Required:
		return engine.Unaffected, engine.WhyNothing
	}
	return engine.Uncertain, engine.WhyText
}
