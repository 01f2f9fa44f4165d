package engine

// What an engine says of routines that share a name.

import "echo-atlas/internal/core/sqltext"

// Overloader is implemented by engines whose routines of one name are told apart by the types of their arguments.
type Overloader interface {
	// Overloads returns which of several routines a call means, by place: parameters has the types of each one's parameters, in order, and arguments
	// those of the call's: "" where a type is not known, UntypedText of a string that has none. Where that cannot be told, all are returned that may
	// be meant.
	Overloads(parameters [][]string, arguments []string) []int
}

// UntypedText stands for the type of a string constant whose type follows from where it stands.
const UntypedText = sqltext.UntypedText
