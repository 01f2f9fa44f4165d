package sqlserver

// Types in common terms (documentation: "Data types (Transact-SQL)"), and what has the same meaning elsewhere.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
)

// ReadType implements engine.Carrier.
func (Engine) ReadType(text string) engine.DataType {
	t := engine.DataType{Written: text, Precision: -1}
	name, args, _ := engine.CutType(strings.NewReplacer("[", "", "]", "").Replace(text))
	length := engine.Arg(args, 0, 1)
	if len(args) > 0 && strings.EqualFold(args[0], "max") {
		length = 0
	}
	switch name {
	case "bit":
		t.Base = "boolean"
	case "tinyint":
		t.Base, t.Unsigned = "tinyint", true
	case "smallint", "bigint", "date", "xml", "real", "money":
		t.Base = name
	case "int":
		t.Base = "integer"
	case "smallmoney":
		t.Base, t.Precision, t.Scale = "decimal", 10, 4
	case "decimal", "numeric":
		t.Base, t.Precision, t.Scale = "decimal", engine.Arg(args, 0, 18), engine.Arg(args, 1, 0)
	case "float":
		t.Base = "double"
	case "char", "nchar":
		t.Base, t.Length = "char", length
	case "varchar", "nvarchar":
		if t.Base, t.Length = "varchar", length; length == 0 {
			t.Base = "text"
		}
	case "text", "ntext":
		t.Base = "text"
	case "binary":
		t.Base, t.Length = "binary", length
	case "varbinary", "image":
		if t.Base, t.Length = "varbinary", length; length == 0 || name == "image" {
			t.Base, t.Length = "blob", 0
		}
	case "time":
		t.Base, t.Precision = "time", engine.Arg(args, 0, 7)
	case "datetime":
		t.Base, t.Precision = "timestamp", 3
	case "smalldatetime":
		t.Base, t.Precision = "timestamp", 0
	case "datetime2":
		t.Base, t.Precision = "timestamp", engine.Arg(args, 0, 7)
	case "datetimeoffset":
		t.Base, t.Precision, t.Zone = "timestamp", engine.Arg(args, 0, 7), true
	case "uniqueidentifier":
		t.Base = "uuid"
	}
	return t
}

// WriteType implements engine.Carrier.
func (Engine) WriteType(t engine.DataType, keyed int) (text, change string) {
	if t.Array {
		return "nvarchar(max)", "an array is text"
	}
	text2 := func(limit int) (string, string) {
		switch {
		case t.Length > 0 && t.Length <= limit:
			return "nvarchar" + engine.Arguments(t.Length), ""
		case keyed > 0:
			return "nvarchar(450)", "a text in a key has at most 450 characters"
		}
		return "nvarchar(max)", ""
	}
	switch t.Base {
	case "boolean":
		return "bit", ""
	case "tinyint":
		if t.Unsigned {
			return "tinyint", ""
		}
		return "smallint", ""
	case "smallint", "integer", "bigint":
		word := map[string]string{"smallint": "smallint", "integer": "int", "bigint": "bigint"}[t.Base]
		if t.Unsigned {
			word = map[string]string{"smallint": "int", "integer": "bigint", "bigint": "decimal(20)"}[t.Base]
		}
		return word, ""
	case "decimal":
		if t.Precision <= 0 {
			return "decimal(38,10)", "a decimal without a precision has 38 digits, 10 of them behind the point"
		}
		if t.Precision > 38 {
			return "decimal(38," + itoa(min(t.Scale, 38)) + ")", "a decimal has at most 38 digits"
		}
		return "decimal" + engine.Arguments(t.Precision, t.Scale), ""
	case "real":
		return "real", ""
	case "double":
		return "float", ""
	case "char":
		return "nchar" + engine.Arguments(min(max(1, t.Length), 4000)), ""
	case "varchar":
		return text2(4000)
	case "text", "json", "enum":
		t.Length = 0
		return text2(0)
	case "xml", "date", "money":
		return t.Base, ""
	case "interval":
		return "nvarchar(64)", "an interval is text"
	case "binary", "varbinary", "blob":
		if t.Length > 0 && t.Length <= 8000 {
			return "varbinary" + engine.Arguments(t.Length), ""
		}
		return "varbinary(max)", ""
	case "uuid":
		return "uniqueidentifier", ""
	case "bit":
		return "varchar" + engine.Arguments(max(1, t.Length)), "bits are text"
	case "time", "timestamp":
		word := "time"
		if t.Base == "timestamp" {
			if word = "datetime2"; t.Zone {
				word = "datetimeoffset"
			}
		} else if t.Zone {
			change = "there is no time with a time zone"
		}
		digits := t.Precision
		if digits < 0 {
			digits = 6
		}
		return word + "(" + itoa(min(digits, 7)) + ")", change
	}
	return "", ""
}

// CarriedFunctions implements engine.Carrier.
func (Engine) CarriedFunctions() map[string]string {
	return engine.CommonFunctions("getdate", "now", "sysdatetime", "now", "current_timestamp", "now", "isnull", "coalesce", "ceiling", "ceil", "floor", "floor", "power", "power", "sqrt", "sqrt", "newid", "uuid", "rand", "random")
}

// Carries implements engine.Carrier.
func (Engine) Carries(what string) bool {
	return slices.Contains([]string{"schemas", "sequences", "partial indexes", "comments", "set default", "stored", "virtual"}, what)
}

// Home implements engine.Carrier.
func (Engine) Home() string { return "dbo" }
