package mariadb

// What MySQL refuses that MariaDB lets pass, and the other way round (documentation: "ALTER TABLE", "CHECK Constraints", "CREATE TABLE
// and Generated Columns", "Data Type Default Values", "FOREIGN KEY Constraints").

import (
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// generatedKey is the column that MySQL gives a table without a primary key, where it is told to; it stays as it is (documentation:
// "Generated Invisible Primary Keys").
const generatedKey = "my_row_id"

// mysqlEffect returns what becomes of a dependant where MySQL's rule is one of its own.
func mysqlEffect(c engine.Case) (engine.Effect, engine.Why, bool) {
	d := c.Dependency
	key := d.From.PartKind == schema.KindPrimaryKey || d.From.PartKind == schema.KindUnique
	dropped := c.Change == engine.Dropped || c.Change == engine.DroppedAlong
	switch {
	case c.Own && d.From.PartKind == schema.KindForeignKey && c.Change == engine.Renamed:
		return engine.Follows, engine.WhyTracked, true
	case c.Own && key && dropped && c.Several: // it goes on with the other columns, in which rows may agree
		return engine.Uncertain, engine.WhyValues, true
	case c.Own && !key && c.Change == engine.Renamed && d.From.PartKind != schema.KindForeignKey: // checks, computed columns, defaults
		return engine.Refused, engine.WhyDepends, true
	case c.Column && d.Use == schema.UseIndexOn && c.Read() && (dropped || c.Change == engine.Renamed): // its expressions
		return engine.Refused, engine.WhyDepends, true
	}
	return engine.Uncertain, engine.WhyNothing, false
}
