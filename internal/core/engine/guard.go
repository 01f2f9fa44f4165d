package engine

// A driver's panic over what a server sent is an error of that connection, not of the program.

import (
	"fmt"
	"runtime/debug"
	"strings"
)

// PanicError says that what a server sent ended in a panic: rows that are not what was asked for.
type PanicError struct {
	Value any
	Place string // where in this program
}

func (e *PanicError) Error() string {
	return fmt.Sprintf("the server sent what this program does not understand (%v, at %s)", e.Value, e.Place)
}

// Guarded returns a function that does the same and makes an error of a panic: nothing that a server sends may end
// the program.
func Guarded(f func() error) func() error {
	return func() (err error) {
		defer Recover(&err)
		return f()
	}
}

// Recover is deferred, and makes an error of a panic.
func Recover(err *error) {
	if v := recover(); v != nil {
		*err = &PanicError{v, panicPlace(string(debug.Stack()))}
	}
}

// panicPlace returns the line of this program's own in which a panic came up.
func panicPlace(stack string) string {
	lines := strings.Split(stack, "\n")
	for i, l := range lines {
		if strings.HasPrefix(l, "panic(") {
			for _, place := range lines[i+1:] {
				if at := strings.Index(place, "echo-atlas/internal/"); at >= 0 && strings.Contains(place, ".go:") {
					place, _, _ = strings.Cut(place[at+len("echo-atlas/internal/"):], " +0x")
					return place
				}
				if at := strings.Index(place, "/internal/core/"); at >= 0 && strings.Contains(place, ".go:") {
					place, _, _ = strings.Cut(place[at+1:], " +0x")
					return place
				}
			}
		}
	}
	return "an unknown place"
}
