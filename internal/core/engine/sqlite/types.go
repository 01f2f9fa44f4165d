package sqlite

// typeNames returns the other names of types, with what they are printed as.
func typeNames() map[string]string {
	return map[string]string{
		"int": "integer", "bool": "boolean", "dec": "decimal", "double precision": "double",
	}
}
