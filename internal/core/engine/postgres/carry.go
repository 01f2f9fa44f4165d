package postgres

// Types in common terms (documentation: "Data Types"), and what has the same meaning elsewhere.

import (
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/engine"
)

// ReadType implements engine.Carrier.
func (Engine) ReadType(text string) engine.DataType {
	t := engine.DataType{Written: text, Precision: -1}
	if rest, ok := strings.CutSuffix(text, "[]"); ok {
		text, t.Array = rest, true
	}
	name, args, tail := engine.CutType(text)
	switch name {
	case "smallint", "integer", "bigint", "boolean", "real", "text", "date", "uuid", "xml", "money":
		t.Base = name
	case "double precision":
		t.Base = "double"
	case "numeric":
		t.Base, t.Precision, t.Scale = "decimal", engine.Arg(args, 0, 0), engine.Arg(args, 1, 0)
	case "character", "bpchar":
		t.Base, t.Length = "char", engine.Arg(args, 0, 1)
	case "character varying":
		t.Base, t.Length = "varchar", engine.Arg(args, 0, 0)
	case "bytea":
		t.Base = "blob"
	case "json", "jsonb":
		t.Base = "json"
	case "bit", "bit varying":
		t.Base, t.Length = "bit", engine.Arg(args, 0, 1)
	case "interval":
		t.Base = "interval"
	}
	for _, base := range []string{"timestamp", "time"} {
		if rest, ok := strings.CutPrefix(name, base); ok && t.Base == "" && (rest == "" || rest[0] == ' ') {
			t.Base, t.Precision = base, engine.Arg(args, 0, -1)
			t.Zone = strings.Contains(rest+" "+tail, "with time zone")
		}
	}
	return t
}

// WriteType implements engine.Carrier.
func (Engine) WriteType(t engine.DataType, _ int) (text, change string) {
	switch t.Base {
	case "boolean", "date", "uuid", "xml", "real", "text", "interval", "money", "json":
		text = t.Base
	case "tinyint":
		text = "smallint"
	case "smallint", "integer", "bigint":
		text = t.Base
		if t.Unsigned {
			text = map[string]string{"smallint": "integer", "integer": "bigint", "bigint": "numeric(20)"}[t.Base]
		}
	case "decimal":
		text = "numeric" + engine.Arguments(t.Precision, t.Scale)
	case "double":
		text = "double precision"
	case "char":
		text = "character" + engine.Arguments(max(1, t.Length))
	case "varchar":
		text = "character varying" + engine.Arguments(t.Length)
	case "binary", "varbinary", "blob":
		text = "bytea"
		if t.Length > 0 {
			change = "its length is not kept to"
		}
	case "enum":
		text = "text"
	case "bit":
		text = "bit" + engine.Arguments(max(1, t.Length))
	case "time", "timestamp":
		text = t.Base
		if t.Precision >= 0 {
			text += "(" + strconv.Itoa(min(t.Precision, 6)) + ")"
		}
		if t.Precision > 6 {
			change = "a second has six digits"
		}
		if text += " without time zone"; t.Zone {
			text = strings.Replace(text, "without", "with", 1)
		}
	}
	if t.Array && text != "" {
		text += "[]"
	}
	return text, change
}

// CarriedFunctions implements engine.Carrier.
func (Engine) CarriedFunctions() map[string]string {
	return engine.CommonFunctions("length", "length", "char_length", "length", "character_length", "length", "now", "now", "current_timestamp", "now", "current_date", "current_date", "floor", "floor", "ceil", "ceil",
		"ceiling", "ceil", "substr", "substr", "substring", "substr", "power", "power", "sqrt", "sqrt", "string_agg", "string_agg", "gen_random_uuid", "uuid", "random", "random")
}

// Carries implements engine.Carrier.
func (Engine) Carries(what string) bool {
	return slices.Contains([]string{"schemas", "sequences", "strict types", "partial indexes", "expression indexes", "booleans", "||", "comments", "deferrable", "set default", "match full", "stored", "nulls order"}, what)
}

// Home implements engine.Carrier.
func (Engine) Home() string { return "public" }
