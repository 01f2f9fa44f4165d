package mariadb

// The names that the server makes up for constraints (documentation, "FOREIGN KEY Constraints" and "CONSTRAINT").

import (
	"regexp"
	"strings"
)

var (
	madeUpKey   = regexp.MustCompile(`^_ibfk_\d+$`)
	madeUpCheck = regexp.MustCompile(`^CONSTRAINT_\d+$`)
)

// madeUp reports whether the server could have made up the name of a constraint.
func madeUp(table, name string) bool {
	rest, found := strings.CutPrefix(name, table)
	return found && madeUpKey.MatchString(rest) || madeUpCheck.MatchString(name)
}
