package mariadb

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
	name, args, tail := engine.CutType(text)
	t.Unsigned = strings.Contains(name+" "+tail, "unsigned")
	name = strings.TrimSpace(strings.NewReplacer(" unsigned", "", " zerofill", "").Replace(name))
	switch name {
	case "tinyint":
		if t.Base = "tinyint"; engine.Arg(args, 0, 0) == 1 && !t.Unsigned {
			t.Base = "boolean"
		}
	case "smallint", "bigint", "date", "uuid":
		t.Base = name
	case "mediumint", "int":
		t.Base = "integer"
	case "year":
		t.Base = "smallint"
	case "decimal":
		t.Base, t.Precision, t.Scale = "decimal", engine.Arg(args, 0, 10), engine.Arg(args, 1, 0)
	case "float":
		t.Base = "real"
	case "double":
		t.Base = "double"
	case "char", "varchar", "binary", "varbinary", "bit":
		t.Base, t.Length = name, engine.Arg(args, 0, 1)
	case "tinytext", "text", "mediumtext", "longtext":
		t.Base = "text"
	case "tinyblob", "blob", "mediumblob", "longblob":
		t.Base = "blob"
	case "datetime", "timestamp":
		t.Base, t.Precision, t.Zone = "timestamp", engine.Arg(args, 0, 0), name == "timestamp"
	case "time":
		t.Base, t.Precision = "time", engine.Arg(args, 0, 0)
	case "json":
		t.Base = "json"
	case "enum":
		t.Base, t.Values = "enum", args
	case "inet4", "inet6":
		t.Base, t.Length = "varchar", 45
	}
	return t
}

// WriteType implements engine.Carrier.
func (e Engine) WriteType(t engine.DataType, keyed int) (text, change string) {
	if text, change := e.mysqlType(t); text != "" {
		return text, change
	}
	if t.Array {
		return "longtext", "an array is text"
	}
	digits := func(base string) string {
		if t.Precision == 0 {
			return base
		}
		n := t.Precision
		if n < 0 || n > 6 {
			n = 6
		}
		return base + "(" + strconv.Itoa(n) + ")"
	}
	switch t.Base {
	case "boolean":
		return "tinyint(1)", ""
	case "tinyint", "smallint", "bigint", "date", "uuid", "double":
		text = t.Base
	case "integer":
		text = "int"
	case "decimal":
		if t.Precision <= 0 {
			return "decimal(65,30)", "a decimal without a precision has 65 digits, 30 of them behind the point"
		}
		return "decimal(" + strconv.Itoa(min(t.Precision, 65)) + "," + strconv.Itoa(min(t.Scale, 38)) + ")", ""
	case "real":
		text = "float"
	case "char":
		text = "char(" + strconv.Itoa(min(max(1, t.Length), 255)) + ")"
		if t.Length > 255 {
			text = "varchar(" + strconv.Itoa(t.Length) + ")"
		}
	case "varchar":
		switch {
		case keyed > 0 && (t.Length == 0 || t.Length > most(keyed)):
			text, change = keyText(keyed)
		case t.Length > 0 && t.Length <= 16000:
			text = "varchar(" + strconv.Itoa(t.Length) + ")"
		default:
			text = "longtext"
		}
	case "text", "xml":
		if text = "longtext"; keyed > 0 {
			text, change = keyText(keyed)
		}
	case "json":
		text = "longtext"
	case "binary", "varbinary", "blob":
		text, change = bytesType(t, keyed)
	case "time":
		if text = digits("time"); t.Zone {
			change = "there is no time with a time zone"
		}
	case "timestamp":
		if text = digits("datetime"); t.Zone {
			change = "the time zone is lost: times are those of the session that wrote them"
		}
	case "interval":
		return "varchar(64)", "an interval is text"
	case "money":
		return "decimal(19,4)", ""
	case "enum":
		quoted := make([]string, len(t.Values))
		for i, v := range t.Values {
			quoted[i] = literal(v)
		}
		text = "enum(" + strings.Join(quoted, ",") + ")"
	case "bit":
		text = "bit(" + strconv.Itoa(min(max(1, t.Length), 64)) + ")"
	}
	if t.Unsigned && text != "" {
		text += " unsigned"
	}
	return text, change
}

// mysqlType returns the types that MySQL alone writes so, "" for others.
func (e Engine) mysqlType(t engine.DataType) (text, change string) {
	switch {
	case !e.mysql || t.Array:
	case t.Base == "uuid":
		return "char(36)", "a UUID is text"
	case t.Base == "json":
		return "json", ""
	}
	return "", ""
}

// most returns how many characters a column has in a key of so many columns: a key holds 3072 bytes, a character four of them.
func most(keyed int) int { return min(255, 760/keyed) }

func keyText(keyed int) (text, change string) {
	n := strconv.Itoa(most(keyed))
	return "varchar(" + n + ")", "a text in this key has at most " + n + " characters"
}

// bytesType returns the type for bytes.
func bytesType(t engine.DataType, keyed int) (text, change string) {
	switch {
	case t.Base == "binary":
		return "binary(" + strconv.Itoa(min(max(1, t.Length), 255)) + ")", ""
	case t.Length > 0 && t.Length <= 65000:
		return "varbinary(" + strconv.Itoa(t.Length) + ")", ""
	case keyed > 0:
		return "varbinary(" + strconv.Itoa(most(keyed)) + ")", "bytes in a key are at most " + strconv.Itoa(most(keyed))
	}
	return "longblob", ""
}

// CarriedFunctions implements engine.Carrier.
func (Engine) CarriedFunctions() map[string]string {
	return engine.CommonFunctions("char_length", "length", "character_length", "length", "now", "now", "current_timestamp", "now", "curdate", "current_date", "current_date", "current_date", "floor", "floor", "ceiling", "ceil", "ceil", "ceil",
		"substr", "substr", "substring", "substr", "pow", "power", "power", "power", "sqrt", "sqrt", "uuid", "uuid", "ifnull", "coalesce", "rand", "random")
}

// Carries implements engine.Carrier.
func (e Engine) Carries(what string) bool {
	if e.mysql && what == "sequences" {
		return false
	}
	return slices.Contains([]string{"booleans", "short rows", "sequences", "comments", "stored", "virtual"}, what)
}

// WriteDefault implements engine.Defaulter. MySQL takes an expression for what has no fixed length, and the digits of a second as
// the column has them (documentation: "Data Type Default Values", "Automatic Initialization and Updating for TIMESTAMP and DATETIME").
func (e Engine) WriteDefault(typ, text string) string {
	if !e.mysql || strings.HasPrefix(text, "(") {
		return text
	}
	name, args, _ := engine.CutType(typ)
	switch {
	case strings.HasSuffix(name, "text") || strings.HasSuffix(name, "blob") || name == "json":
		return "(" + text + ")"
	case text == "CURRENT_DATE":
		return "(" + text + ")"
	case text == "CURRENT_TIMESTAMP" && name == "datetime" && len(args) == 1:
		return text + "(" + args[0] + ")"
	}
	return text
}

// Home implements engine.Carrier.
func (Engine) Home() string { return "" }
