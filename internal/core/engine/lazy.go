package engine

// Most commands ask no server, and are to start at once: what only some of them use is made when it is first used.

import (
	"regexp"
	"sync"
)

// Lazily returns what compiles an expression when it is first called.
func Lazily(expression string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(expression) })
}

// LazyWords is like WordSet, for a list that is read when it is first asked for.
func LazyWords(list string) func() map[string]bool {
	return sync.OnceValue(func() map[string]bool { return WordSet(list) })
}
