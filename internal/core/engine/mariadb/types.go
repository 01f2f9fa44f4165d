package mariadb

// Other names of this engine's types.

// typeNames holds the other names of types, with what they are printed as; it is never altered.
var typeNames = map[string]string{
	"integer": "int", "int4": "int", "int1": "tinyint", "int2": "smallint", "int3": "mediumint", "middleint": "mediumint", "int8": "bigint", "bool": "tinyint", "boolean": "tinyint",
	"dec": "decimal", "numeric": "decimal", "fixed": "decimal", "number": "decimal", "float4": "float", "float8": "double", "double precision": "double", "real": "double",
	"character": "char", "nchar": "char", "character varying": "varchar", "varcharacter": "varchar", "nvarchar": "varchar", "long": "mediumtext", "long varchar": "mediumtext", "clob": "longtext",
}
