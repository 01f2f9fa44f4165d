package mariadb

// The names that the server makes up for constraints (documentation, "FOREIGN KEY Constraints" and "CONSTRAINT").

import (
	"strings"

	"echo-atlas/internal/core/schema"

	"echo-atlas/internal/core/engine"
)

var (
	madeUpKey   = engine.Lazily(`^_ibfk_\d+$`)
	madeUpCheck = engine.Lazily(`^CONSTRAINT_\d+$`)
	mysqlCheck  = engine.Lazily(`^_chk_\d+$`)
)

// madeUp reports whether the server could have made up the name of a constraint.
func (e Engine) madeUp(table, name string) bool {
	rest, found := strings.CutPrefix(name, table)
	return found && (madeUpKey().MatchString(rest) || e.mysql && mysqlCheck().MatchString(rest)) || !e.mysql && madeUpCheck().MatchString(name)
}

// Relabel implements engine.Relabeller: the names of foreign keys follow that of their table, and those of checks in MySQL.
func (e Engine) Relabel(o *schema.Object, was string) {
	if o.Relation == nil {
		return
	}
	for i := range o.Relation.ForeignKeys {
		f := &o.Relation.ForeignKeys[i]
		if rest, found := strings.CutPrefix(f.Name, was); found && madeUpKey().MatchString(rest) {
			f.Name = o.Name + rest
		}
	}
	for i := range o.Relation.Checks {
		k := &o.Relation.Checks[i]
		if rest, found := strings.CutPrefix(k.Name, was); e.mysql && found && mysqlCheck().MatchString(rest) {
			k.Name = o.Name + rest
		}
	}
}
