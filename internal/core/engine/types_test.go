package engine

import (
	"fmt"
	"testing"

	"echo-atlas/internal/core/sqltext"
)

func TestParseType(t *testing.T) {
	postgres := Traits{Rules: sqltext.Rules{DollarQuotes: true, FoldLower: true}, Types: map[string]string{"int": "integer", "varchar": "character varying", "timestamptz": "timestamp with time zone", "float8": "double precision"}}
	mariadb := Traits{Rules: sqltext.Rules{Backticks: true, BackslashEscapes: true, DoubleQuoteStrings: true}, Types: map[string]string{"integer": "int"}}
	sqlServer := Traits{Rules: sqltext.Rules{Brackets: true, BracketEscapes: true}}
	for _, c := range []struct {
		traits      Traits
		text, parts string // schema, name, arguments, dimensions
		canonical   string
	}{
		{postgres, "INT", "|integer|[]|0", "integer"},
		{postgres, "int[]", "|integer|[]|1", "integer[]"},
		{postgres, "varchar ( 40 )[][3]", "|character varying|[40]|2", "character varying(40)[][]"},
		{postgres, "timestamp(3)  with time zone", "|timestamp with time zone|[3]|0", "timestamp(3) with time zone"},
		{postgres, "Timestamptz(3)", "|timestamp with time zone|[3]|0", "timestamp(3) with time zone"},
		{postgres, "double precision", "|double precision|[]|0", "double precision"},
		{postgres, `ops."berth state"[]`, "ops|berth state|[]|1", "ops.berth state[]"},
		{postgres, "numeric(6, 2)", "|numeric|[6 2]|0", "numeric(6,2)"},
		{mariadb, "INTEGER(11) unsigned", "|integer unsigned|[11]|0", "integer(11) unsigned"},
		{mariadb, "enum('a,b','(')", "|enum|['a,b' '(']|0", "enum('a,b','(')"},
		{sqlServer, "[nav].[Bearing]", "nav|Bearing|[]|0", "nav.Bearing"},
		{sqlServer, "nvarchar(max)", "|nvarchar|[max]|0", "nvarchar(max)"},
		{postgres, "*char*", "|*char*|[]|0", "*char*"},
		{postgres, "]", "|]|[]|0", "]"},
		{postgres, "", "||[]|0", ""},
	} {
		typ := c.traits.ParseType(c.text)
		if got := fmt.Sprintf("%s|%s|%v|%d", typ.Schema, typ.Name, typ.Arguments, typ.Dimensions); got != c.parts {
			t.Errorf("%q: %s, want %s", c.text, got, c.parts)
		}
		if got := c.traits.CanonicalType(c.text); got != c.canonical {
			t.Errorf("%q: %q, want %q", c.text, got, c.canonical)
		}
	}
}
