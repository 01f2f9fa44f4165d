package sqlserver

// The names that the server makes up for constraints: kind, the beginnings of the names of table and columns, and a number.

import "echo-atlas/internal/core/engine"

var madeUpName = engine.Lazily(`^(PK|UQ|FK|DF|CK|EC)__.*__[0-9A-F]{8,16}$`)

// madeUp reports whether the server could have made up the name of a constraint.
func madeUp(_, name string) bool { return madeUpName().MatchString(name) }
