package postgres

// Names are quoted where the server would read something else.

import (
	"slices"
	"strings"
)

// keywords that need quotes as a name somewhere: reserved ones and those that cannot be the name of a
// column, a function or a type (documentation, appendix "SQL Key Words").
var keywords = strings.Fields(`all analyse analyze and any array as asc asymmetric authorization between bigint binary bit boolean both case cast
char character check coalesce collate collation column concurrently constraint create cross current_catalog current_date current_role
current_schema current_time current_timestamp current_user dec decimal default deferrable desc distinct do else end except exists extract
false fetch float for foreign freeze from full grant greatest group grouping having ilike in initially inner inout int integer intersect
interval into is isnull join json json_array json_arrayagg json_exists json_object json_objectagg json_query json_scalar json_serialize
json_table json_value lateral leading least left like limit localtime localtimestamp merge_action national natural nchar none normalize not
notnull null nullif numeric offset on only or order out outer overlaps overlay placing position precision primary real references returning
right row select session_user setof similar smallint some substring symmetric system_user table tablesample then time timestamp to trailing
treat trim true union unique user using values varchar variadic verbose when where window with xmlattributes xmlconcat xmlelement xmlexists
xmlforest xmlnamespaces xmlparse xmlpi xmlroot xmlserialize xmltable`)

func quote(name string) string {
	plain := name != "" && (name[0] == '_' || 'a' <= name[0] && name[0] <= 'z')
	for i := 0; plain && i < len(name); i++ {
		c := name[i]
		plain = c == '_' || 'a' <= c && c <= 'z' || '0' <= c && c <= '9'
	}
	if plain {
		if _, reserved := slices.BinarySearch(keywords, name); !reserved {
			return name
		}
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}
