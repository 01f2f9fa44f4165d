package sqlite

// Other names of this engine's types.

// typeNames holds the other names of types, with what they are printed as; it is never altered.
var typeNames = map[string]string{
	"int": "integer", "bool": "boolean", "dec": "decimal", "double precision": "double",
}
