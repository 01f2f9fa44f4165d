package postgres

// The names that the server makes up for constraints and the sequences of columns (documentation, "CREATE TABLE": the names of table and columns, and a word for
// the kind; cut to 63 bytes in the middle).

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

var (
	madeUpRest = engine.Lazily(`^(_pkey|(_.+)?_(check|excl|not_null)|_.+_(f?key|seq))\d*$`)
	madeUpEnd  = engine.Lazily(`_(pkey|f?key|check|excl|not_null)\d*$`)
)

// shortestPart is what is left of a table's name at least where a name would be too long.
const shortestPart = 28

// madeUp reports whether the server could have made up the name of a constraint or of a column's sequence.
func madeUp(table, name string) bool {
	if rest, ok := strings.CutPrefix(name, table); ok {
		return madeUpRest().MatchString(rest)
	}
	const longest = 63
	return len(name) >= longest-2 && len(table) > shortestPart && strings.HasPrefix(name, table[:shortestPart]) && madeUpEnd().MatchString(name)
}
