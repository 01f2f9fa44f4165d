package mariadb

// The server keeps foreign keys and indexes in step with their tables, and looks at views, triggers and routines only when they
// are used (documentation: "ALTER TABLE", "DROP TABLE", "RENAME TABLE").

import (
	"slices"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Forbids reports whether the server refuses a change whatever depends on the object: a table keeps one column, and those by
// which it is partitioned or which make a period.
func (e Engine) Forbids(c engine.Change, r engine.Root) bool {
	o, column := r.Object, r.Column
	if c == engine.Renamed && (o.Routine != nil || o.Trigger != nil) {
		return true // there is no statement for it
	}
	if e.mysql && column == generatedKey && o.Relation != nil && (c == engine.Renamed || c == engine.Retyped || c == engine.Required) {
		if of := o.Relation.Column(column); of != nil && of.Identity != nil && of.Setting("invisible") != "" {
			return true
		}
	}
	if e.mysql && c == engine.Renamed && column != "" {
		return engine.Mentions(o.Setting("partition by"), column, rules())
	}
	if column == "" || o.Relation == nil || c != engine.Dropped && c != engine.DroppedAlong {
		return false
	}
	if len(o.Relation.Columns) == 1 {
		return true
	}
	if o.Setting("system versioning") != "" {
		return true
	}
	return slices.ContainsFunc([]string{"partition by", "period", "system period"}, func(setting string) bool { return engine.Mentions(o.Setting(setting), column, rules()) })
}

// Effect returns what becomes of a dependant.
func (e Engine) Effect(c engine.Case) (engine.Effect, engine.Why) {
	d := c.Dependency
	if e.mysql {
		if effect, why, ok := mysqlEffect(c); ok {
			return effect, why
		}
	}
	dropped := c.Change == engine.Dropped || c.Change == engine.DroppedAlong
	key := d.From.PartKind == schema.KindPrimaryKey || d.From.PartKind == schema.KindUnique
	switch {
	case c.Own && key && dropped && c.Several: // it would be another key
		return engine.Refused, engine.WhyDepends
	case c.Own && key && dropped:
		return engine.Goes, engine.WhyPart
	case c.Own && key:
		return engine.Follows, engine.WhyTracked
	case c.Own && dropped:
		return engine.Refused, engine.WhyDepends
	case c.Own && c.Change == engine.Renamed:
		return engine.Uncertain, engine.WhyTracked
	case c.Own:
		return engine.Uncertain, engine.WhyValues
	case d.Use == schema.UseForeignKey:
		switch {
		case dropped, c.Change == engine.Retyped:
			return engine.Refused, engine.WhyDepends
		case c.Change == engine.Required:
			return engine.Unaffected, engine.WhyNothing
		}
		return engine.Follows, engine.WhyTracked
	case d.Use == schema.UseIndexOn:
		if dropped {
			return engine.Goes, engine.WhyPart
		}
		return engine.Follows, engine.WhyTracked
	case d.Use == schema.UseTriggerOn:
		if dropped && !c.Column {
			return engine.Goes, engine.WhyPart
		}
		return engine.Follows, engine.WhyTracked
	}
	return c.Unchecked()
}
