package mariadb

// Patterns are compiled when they are first used: start-up pays for none.

import (
	"regexp"
	"sync"
)

// lazily compiles an expression when it is first used: most commands ask no server, and are to start at once.
func lazily(expression string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(expression) })
}
