package engine

// What an engine says so that tables can be carried over from another one: its types in common terms, and the names of functions.

import (
	"strconv"
	"strings"
)

// DataType is a type in common terms.
type DataType struct {
	// Base is one of: boolean, tinyint, smallint, integer, bigint, decimal, real, double, char, varchar, text, binary, varbinary,
	// blob, date, time, timestamp, interval, uuid, json, xml, enum, bit, money, and "" for what has no common term.
	Base      string
	Length    int // of char, varchar, binary, varbinary, bit; 0: none said
	Precision int // of decimal; of time and timestamp the digits of a second, -1: none said
	Scale     int
	Unsigned  bool
	Zone      bool     // with time zone
	Array     bool     // of the type
	Values    []string // of an enum
	Written   string   // as the engine writes it
}

// Carrier is implemented by engines that tables can be carried from and to.
type Carrier interface {
	// ReadType returns a type of the engine's in common terms.
	ReadType(text string) DataType
	// WriteType returns the engine's type for one in common terms, and what changes with it, "" for nothing. keyed is how many
	// columns the widest key or index has that the column is in, 0 for none. An empty text says that there is none.
	WriteType(t DataType, keyed int) (text, change string)
	// CarriedFunctions maps the names of functions, in small letters, to common ones. What is not in it is not carried.
	CarriedFunctions() map[string]string
	// Carries says what the engine has: "schemas", "sequences", "partial indexes", "expression indexes", "booleans", "||", "comments",
	// "deferrable", "set default", "match full", "stored" or "virtual" generated columns, "nulls order", "one integer": a single type for whole numbers.
	Carries(what string) bool
	// Home is the schema in which objects stand that come from an engine without schemas.
	Home() string
}

// Defaulter is implemented by carriers whose servers want a default written in a way that its column's type says.
type Defaulter interface {
	// WriteDefault returns the default of a column of a type of the engine's, as that takes it.
	WriteDefault(typ, text string) string
}

// CutType cuts the text of a type into its name, in small letters and with single blanks, its arguments, and what stands behind
// them: "numeric(4,2) unsigned" gives "numeric", ["4" "2"] and "unsigned".
func CutType(text string) (name string, args []string, tail string) {
	lower := strings.Join(strings.Fields(strings.ToLower(text)), " ")
	open := strings.IndexByte(lower, '(')
	if open < 0 {
		return lower, nil, ""
	}
	end := strings.LastIndexByte(text, ')')
	start := strings.IndexByte(text, '(')
	if end < start {
		return lower, nil, ""
	}
	args = SplitQuoted(text[start+1 : end])
	return strings.TrimSpace(lower[:open]), args, strings.TrimSpace(strings.ToLower(text[end+1:]))
}

// SplitQuoted cuts a list at its commas, but for those in single quotes, and takes the quotes off.
func SplitQuoted(list string) []string {
	var all []string
	var b strings.Builder
	quoted := false
	for i := 0; i < len(list); i++ {
		switch c := list[i]; {
		case c == '\'' && quoted && i+1 < len(list) && list[i+1] == '\'':
			b.WriteByte(c)
			i++
		case c == '\'':
			quoted = !quoted
		case c == ',' && !quoted:
			all = append(all, strings.TrimSpace(b.String()))
			b.Reset()
		default:
			b.WriteByte(c)
		}
	}
	return append(all, strings.TrimSpace(b.String()))
}

// Arg returns an argument of a type as a number, other where there is none.
func Arg(args []string, i, other int) int {
	if i < len(args) {
		if n, err := strconv.Atoi(args[i]); err == nil {
			return n
		}
	}
	return other
}

// Arguments writes the arguments of a type: (4, 2), (9), or nothing for what is not positive.
func Arguments(args ...int) string {
	var b strings.Builder
	for i, n := range args {
		if n <= 0 && i == 0 || n < 0 {
			break
		}
		if i > 0 {
			b.WriteString(",")
		}
		b.WriteString(strconv.Itoa(n))
	}
	if b.Len() == 0 {
		return ""
	}
	return "(" + b.String() + ")"
}

// CommonFunctions are those that every engine has under the same name and with the same meaning.
func CommonFunctions(more ...string) map[string]string {
	all := map[string]string{}
	for _, f := range strings.Fields("abs coalesce count sum avg min max round nullif upper lower replace trim ltrim rtrim sign row_number rank dense_rank lag lead first_value last_value ntile cast") {
		all[f] = f
	}
	for i := 0; i+1 < len(more); i += 2 {
		all[more[i]] = more[i+1]
	}
	return all
}
