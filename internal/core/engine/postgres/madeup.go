package postgres

// The names that the server makes up for constraints (documentation, "CREATE TABLE": the names of table and columns, and a word for
// the kind; cut to 63 bytes in the middle).

import (
	"regexp"
	"strings"
)

var madeUpEnd = regexp.MustCompile(`_(pkey|key|fkey|check|excl|not_null)\d*$`)

// shortestPart is what is left of a table's name at least, however long the whole gets.
const shortestPart = 28

// madeUp reports whether the server could have made up the name of a constraint.
func madeUp(table, name string) bool {
	return madeUpEnd.MatchString(name) && strings.HasPrefix(name, table[:min(len(table), shortestPart)])
}
