package postgres

// Other names of this engine's types.

// typeNames holds the other names of types, with what they are printed as; it is never altered.
var typeNames = map[string]string{
	"int": "integer", "int4": "integer", "serial": "integer", "int8": "bigint", "bigserial": "bigint", "int2": "smallint", "smallserial": "smallint", "bool": "boolean",
	"float": "double precision", "float8": "double precision", "float4": "real", "decimal": "numeric", "dec": "numeric",
	"varchar": "character varying", "char varying": "character varying", "char": "character", "bpchar": "character", "varbit": "bit varying",
	"timestamp": "timestamp without time zone", "timestamptz": "timestamp with time zone", "time": "time without time zone", "timetz": "time with time zone",
}
