package postgres

// What the server records in pg_depend it refuses to break, or takes along; it follows renames by number, and knows nothing of
// the bodies of routines in strings (documentation: "Dependency Tracking", "ALTER TABLE", "DROP TABLE").

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Effect returns what becomes of a dependant.
func (Engine) Effect(c engine.Case) (engine.Effect, engine.Why) {
	d := c.Dependency
	if c.Own {
		return ownEffect(c)
	}
	if c.Read() && !d.From.ID.Kind.IsRoutine() { // the server keeps a record of what it needs, which decides
		return engine.Unaffected, engine.WhyNothing
	}
	if c.Read() {
		return c.Unchecked()
	}
	switch c.Change {
	case engine.Renamed, engine.Moved:
		return engine.Follows, engine.WhyTracked
	case engine.Required:
		return engine.Unaffected, engine.WhyNothing
	case engine.Retyped:
		return retypedEffect(d)
	}
	if d.To.ID.Kind == schema.KindTrigger { // of a whole, that a partition fires otherwise
		return engine.Follows, engine.WhyTracked
	}
	if d.From.ID.Kind == schema.KindOperatorFamily {
		return engine.Follows, engine.WhyTracked // what is loose in it is taken out
	}
	if goesAlong(c) {
		return engine.Goes, engine.WhyPart
	}
	if c.Column && (d.Use == schema.UseInherits || d.Use == schema.UsePartitionOf) {
		return engine.Follows, engine.WhyTracked
	}
	if c.Column && d.To.Part == "" {
		return engine.Unaffected, engine.WhyNothing
	}
	if c.Change == engine.DroppedAlong {
		return engine.Goes, engine.WhyDepends
	}
	return engine.Refused, engine.WhyDepends
}

// Forbids reports whether the server refuses a change whatever depends on the object: columns that are inherited, or by which a
// table is partitioned, those of a typed table, and sequences that a column owns.
func (Engine) Forbids(c engine.Change, r engine.Root) bool {
	o, column := r.Object, r.Column
	if c == engine.Moved && o.Sequence != nil && o.Sequence.OwnedBy != "" { // it moves with its table
		return true
	}
	if column == "" || o.Relation == nil || c == engine.Required {
		return false
	}
	if o.Setting("of type") != "" {
		return true
	}
	col := o.Relation.Column(column)
	if col != nil && (col.Inherited != nil || o.Kind == schema.KindPartition) {
		return true
	}
	if slices.ContainsFunc(r.Parents, func(p *schema.Object) bool { return p.Relation != nil && p.Relation.Column(column) != nil }) {
		return true
	}
	if c == engine.Renamed {
		return false
	}
	if slices.ContainsFunc(o.Relation.Exclusions, func(x schema.Exclusion) bool { // its condition holds the column fast
		_, condition, _ := strings.Cut(x.Definition, " WHERE ")
		return engine.Mentions(condition, column, rules())
	}) {
		return true
	}
	return engine.Mentions(o.Setting("partition by"), column, rules())
}

// ownEffect is of parts of the same relation.
func ownEffect(c engine.Case) (engine.Effect, engine.Why) {
	generated := c.Dependency.From.PartKind == schema.KindColumn && c.Dependency.Field == schema.FieldGenerated
	switch {
	case c.Change == engine.Dropped && generated, c.Change == engine.Retyped && generated:
		return engine.Refused, engine.WhyDepends
	case c.Change == engine.Dropped || c.Change == engine.DroppedAlong:
		return engine.Goes, engine.WhyPart
	case c.Change == engine.Retyped && (c.Dependency.From.PartKind == schema.KindPrimaryKey || c.Dependency.From.PartKind == schema.KindUnique):
		return engine.Follows, engine.WhyRebuilt
	case c.Change == engine.Retyped:
		return engine.Uncertain, engine.WhyValues
	}
	return engine.Follows, engine.WhyTracked
}

// goesAlong reports whether the server drops a dependant by itself.
func goesAlong(c engine.Case) bool {
	if c.Kind == schema.KindOperatorFamily && c.Dependency.From.ID.Kind == schema.KindOperatorClass {
		return true
	}
	switch c.Dependency.Use {
	case schema.UseIndexOn, schema.UseOwnedBy, schema.UseStatisticsOn:
		return true
	case schema.UseTriggerOn, schema.UseStandsOn, schema.UsePartitionOf, schema.UsePublishes:
		return !c.Column
	case schema.UseMemberOf:
		return true
	}
	return false
}

func retypedEffect(d *schema.Dependency) (engine.Effect, engine.Why) {
	switch {
	case d.Use == schema.UseIndexOn || d.Use == schema.UseStatisticsOn:
		return engine.Follows, engine.WhyRebuilt
	case d.Use == schema.UseInherits || d.Use == schema.UsePartitionOf || d.Use == schema.UseOwnedBy:
		return engine.Follows, engine.WhyTracked
	case d.Use == schema.UseForeignKey:
		return engine.Uncertain, engine.WhyValues
	case d.To.Part == "":
		return engine.Unaffected, engine.WhyNothing
	}
	return engine.Refused, engine.WhyDepends
}
