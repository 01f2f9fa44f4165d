package sqlserver

// Other names of this engine's types.

// typeNames holds the other names of types, with what they are printed as; it is never altered.
var typeNames = map[string]string{
	"integer": "int", "dec": "decimal", "character": "char", "character varying": "varchar", "char varying": "varchar", "national character": "nchar", "national char": "nchar",
	"national character varying": "nvarchar", "national text": "ntext", "double precision": "float", "rowversion": "timestamp", "bool": "bit", "boolean": "bit", "sysname": "nvarchar(128)",
}
