package sqlite

// Types in common terms (documentation: "Datatypes In SQLite"): a file takes any, and goes by words in their names.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
)

// ReadType implements engine.Carrier.
func (Engine) ReadType(text string) engine.DataType {
	t := engine.DataType{Written: text, Precision: -1}
	name, args, _ := engine.CutType(text)
	has := func(words ...string) bool {
		return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(name, w) })
	}
	switch {
	case name == "": // anything
	case has("bool"):
		t.Base = "boolean"
	case has("bigint"), name == "integer":
		t.Base = "bigint" // a rowid has 64 bits
	case has("smallint"):
		t.Base = "smallint"
	case has("tinyint"):
		t.Base = "tinyint"
	case name != "point" && has("int"):
		t.Base = "integer"
	case has("varchar", "character varying", "nchar", "nvarchar") && len(args) > 0:
		t.Base, t.Length = "varchar", engine.Arg(args, 0, 0)
	case name == "char" || name == "character":
		t.Base, t.Length = "char", engine.Arg(args, 0, 1)
	case has("char", "clob", "text"):
		t.Base = "text"
	case has("blob", "binary"):
		t.Base = "blob"
	case has("real", "floa", "doub"):
		t.Base = "double"
	case has("timestamp", "datetime"):
		t.Base = "timestamp"
	case name == "date", name == "time", name == "uuid", name == "json":
		t.Base = name
	case has("numeric", "decimal", "money"):
		t.Base, t.Precision, t.Scale = "decimal", engine.Arg(args, 0, 0), engine.Arg(args, 1, 0)
	}
	return t
}

// WriteType implements engine.Carrier.
func (Engine) WriteType(t engine.DataType, _ int) (text, change string) {
	if t.Array {
		return "TEXT", "an array is text"
	}
	switch t.Base {
	case "boolean":
		return "BOOLEAN", ""
	case "tinyint", "smallint", "integer", "bigint":
		return "INTEGER", ""
	case "decimal":
		return "NUMERIC" + engine.Arguments(t.Precision, t.Scale), "a decimal is kept as a floating number where it has a fraction"
	case "money":
		return "NUMERIC(19,4)", "a decimal is kept as a floating number where it has a fraction"
	case "real", "double":
		return "REAL", ""
	case "char", "varchar":
		if t.Length > 0 {
			return "VARCHAR" + engine.Arguments(t.Length), "its length is not kept to"
		}
		return "TEXT", ""
	case "text", "xml", "json", "uuid", "enum", "bit":
		return "TEXT", ""
	case "interval":
		return "TEXT", "an interval is text"
	case "binary", "varbinary", "blob":
		return "BLOB", ""
	case "date", "time":
		return strings.ToUpper(t.Base), "a date or a time is text or a number, as it is written"
	case "timestamp":
		return "TIMESTAMP", "a date or a time is text or a number, as it is written"
	}
	return "", ""
}

// CarriedFunctions implements engine.Carrier.
func (Engine) CarriedFunctions() map[string]string {
	return engine.CommonFunctions("length", "length", "current_timestamp", "now", "current_date", "current_date", "substr", "substr", "substring", "substr", "ifnull", "coalesce")
}

// Carries implements engine.Carrier.
func (Engine) Carries(what string) bool {
	return slices.Contains([]string{"rowids", "one integer", "partial indexes", "expression indexes", "booleans", "||", "deferrable", "set default", "stored", "virtual"}, what)
}

// Home implements engine.Carrier.
func (Engine) Home() string { return "" }
