package conformance

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// estate writes databases of many small tables, each with a few of the properties that its engine knows, put
// together at random: what each property does alone the cases of testdata show.
type estate struct {
	*rand.Rand
	engine string
	make   string // MySQL, whose tests are MariaDB's
	types  []typed
	tables []string
	b      strings.Builder
}

// typed is a type with defaults that fit it.
type typed struct {
	name     string
	defaults []string
}

var types = map[string][]typed{
	"postgres": {
		{"integer", []string{"7", "-1", "(1 + 2)", "length('a''b')"}}, {"bigint", []string{"9223372036854775807"}}, {"text", []string{"'it''s'", "'back\\slash'", "E'tab\\there'", "''", "current_user"}},
		{"character varying(10)", []string{"'x'::character varying", "NULL"}}, {"numeric(8,2)", []string{"1.50", "-0.1"}}, {"timestamp(3) with time zone", []string{"now()", "CURRENT_TIMESTAMP", "'2026-01-02 03:04:05+00'"}},
		{"date", []string{"CURRENT_DATE", "'2026-01-02'"}}, {"boolean", []string{"true", "(NOT false)"}}, {"jsonb", []string{`'{"a": [1]}'`}}, {"uuid", []string{"gen_random_uuid()"}}, {"integer[]", []string{"'{1,2}'", "ARRAY[1, 2]"}},
		{"text[]", []string{`'{"a b",NULL}'`}}, {"bytea", []string{`'\x00ff'`}}, {"interval day to second(2)", []string{"'1 day'"}}, {"int4range", []string{"'[1,3)'"}}, {"double precision", []string{"1e10"}}, {"bit varying(7)", []string{"B'101'"}},
		{"character(3)", []string{"'ab'"}}, {"time(0) without time zone", []string{"'12:00'"}}, {`"char"`, []string{"'c'"}}, {"inet", []string{"'10.0.0.1/8'"}}, {"point", []string{"'(1,2)'"}}, {"regclass", nil}, {"xml", nil},
	},
	"mariadb": {
		{"int", []string{"7", "-1", "(1 + 2)"}}, {"int(5) unsigned zerofill", []string{"7"}}, {"bigint unsigned", []string{"18446744073709551615"}}, {"tinyint(1)", []string{"1", "true"}}, {"varchar(10)", []string{"'it''s'", `'back\\slash'`, "''", "(concat('a', 'b'))"}},
		{"varchar(20) CHARACTER SET latin1 COLLATE latin1_german1_ci", []string{"'x'"}}, {"char(3) CHARACTER SET ascii", []string{"'ab'"}}, {"text", []string{"'x'"}}, {"decimal(8,2)", []string{"1.50", "-0.1"}}, {"datetime(3)", []string{"current_timestamp(3)", "'2026-01-02 03:04:05'"}},
		{"timestamp", []string{"current_timestamp() ON UPDATE current_timestamp()"}}, {"date", []string{"'2026-01-02'", "(curdate() + interval 1 day)"}}, {"enum('a','b''c','d,e')", []string{"'b''c'"}}, {"set('x','y')", []string{"'x,y'"}}, {"double", []string{"1e10"}},
		{"bit(3)", []string{"b'101'"}}, {"year", []string{"2026"}}, {"mediumblob", []string{"x'00ff'"}}, {"json", []string{"'{}'"}}, {"uuid", []string{"uuid()"}}, {"inet6", []string{"'::1'"}}, {"time(2)", []string{"'12:00:00'"}},
	},
	"mysql": {
		{"int", []string{"7", "-1", "(1 + 2)"}}, {"bigint unsigned", []string{"18446744073709551615"}}, {"tinyint(1)", []string{"1", "true"}}, {"varchar(10)", []string{"'it''s'", `'back\\slash'`, "''", "(concat('a', 'b'))"}},
		{"varchar(20) CHARACTER SET latin1 COLLATE latin1_german1_ci", []string{"'x'"}}, {"char(3) CHARACTER SET ascii", []string{"'ab'"}}, {"text", []string{"('x')"}}, {"decimal(8,2)", []string{"1.50", "-0.1"}}, {"datetime(3)", []string{"current_timestamp(3)", "'2026-01-02 03:04:05'"}},
		{"timestamp", []string{"current_timestamp() ON UPDATE current_timestamp()"}}, {"date", []string{"'2026-01-02'", "(curdate() + interval 1 day)"}}, {"enum('a','b''c','d,e')", []string{"'b''c'"}}, {"set('x','y')", []string{"'x,y'"}}, {"double", []string{"1e10"}},
		{"bit(3)", []string{"b'101'"}}, {"year", []string{"2026"}}, {"mediumblob", []string{"(x'00ff')"}}, {"json", []string{"(json_object('a', 1))"}}, {"varbinary(20)", []string{"x'00ff'", "(uuid_to_bin(uuid()))"}}, {"time(2)", []string{"'12:00:00'"}}, {"point SRID 4326", nil},
	},
	"sqlite": {
		{"INTEGER", []string{"7", "-1", "(1 + 2)"}}, {"TEXT", []string{"'it''s'", "''", "CURRENT_TIMESTAMP"}}, {"NUMERIC(8,2)", []string{"1.50"}}, {"BLOB", []string{"x'00ff'"}}, {"", []string{"NULL"}}, {"REAL", []string{"1e10"}},
	},
}

func (e *estate) one(of ...string) string { return of[e.IntN(len(of))] }

// maybe returns a text in one case of n.
func (e *estate) maybe(n int, text string) string {
	if e.IntN(n) > 0 {
		return ""
	}
	return text
}

func (e *estate) quoted(name string) string {
	if e.engine == "mariadb" {
		return "`" + strings.ReplaceAll(name, "`", "``") + "`"
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

func (e *estate) literal(s string) string {
	s = strings.ReplaceAll(s, "'", "''")
	if e.engine == "mariadb" {
		s = strings.ReplaceAll(s, `\`, `\\`)
	}
	return "'" + s + "'"
}

func (e *estate) name(n int) string {
	return e.one("berth", "Tide Gauge", `say "aye"`, "back`tick", "ünter", "select", "a.b", "semi;colon", "x) (y", "it's", "per%cent", `back\slash`, "$1", "--dash", "/*star", "two\nlines") + fmt.Sprint("_", n)
}

func (e *estate) remark() string {
	return e.literal(e.one("what lies here", "it's ours; --not theirs", `back\slash`, "first\nsecond", "Überlänge", "$$ $1 %s"))
}

func (e *estate) table() {
	name := e.name(len(e.tables))
	table := e.quoted(name)
	var parts, plain, after []string
	key := e.quoted("id")
	checked, computed := key, "" // what a check may speak of, and a computed column
	switch e.engine {
	case "postgres":
		parts = append(parts, key+" integer "+e.one("", "GENERATED ALWAYS AS IDENTITY", "GENERATED BY DEFAULT AS IDENTITY (START WITH 5 INCREMENT BY 2 CACHE 3)"))
	case "mariadb":
		auto := e.one("", "AUTO_INCREMENT")
		parts = append(parts, key+" int NOT NULL "+auto)
		if auto != "" {
			checked = "2"
			computed = map[string]string{"mysql": "2"}[e.make]
		}
	default:
		parts = append(parts, key+" integer")
	}
	columnTypes := map[string]string{}
	for i := range 1 + e.IntN(6) {
		t := e.types[e.IntN(len(e.types))]
		c := e.quoted(e.name(i))
		plain = append(plain, c)
		columnTypes[c] = t.name
		text := c + " " + t.name
		if e.engine == "postgres" && (t.name == "text" || strings.HasPrefix(t.name, "character")) {
			text += e.maybe(4, ` COLLATE "C"`)
		}
		text += e.maybe(3, " NOT NULL")
		if len(t.defaults) > 0 && !(e.engine == "mariadb" && strings.Contains(text, "NOT NULL") && t.name == "timestamp") {
			if d := e.one(t.defaults...); !(d == "NULL" && strings.Contains(text, "NOT NULL")) {
				text += e.maybe(2, " DEFAULT "+d)
			}
		}
		if e.engine == "mariadb" {
			text += e.maybe(6, " COMMENT "+e.remark())
		}
		check := e.maybe(6, " CHECK ("+c+" IS NOT NULL OR "+checked+" > 1)")
		if e.make == "mysql" { // a check of a column speaks of that alone
			parts, text = append(parts, text), strings.TrimSpace(check)
		} else {
			text += check
		}
		parts = append(parts, text)
		if e.engine == "postgres" {
			after = append(after, e.maybe(5, "COMMENT ON COLUMN "+table+"."+c+" IS "+e.remark()))
			if t.name == "text" || t.name == "jsonb" {
				after = append(after, e.maybe(5, "ALTER TABLE "+table+" ALTER COLUMN "+c+" SET STORAGE EXTERNAL"))
			}
			after = append(after, e.maybe(8, "ALTER TABLE "+table+" ALTER COLUMN "+c+" SET STATISTICS 50"))
		}
	}
	if e.IntN(3) == 0 {
		parts = append(parts, e.quoted("gen")+" "+map[string]string{"postgres": "integer", "mariadb": "int", "sqlite": "INT"}[e.engine]+" GENERATED ALWAYS AS ("+cmp.Or(computed, key)+" * 2) "+map[string]string{"postgres": "STORED"}[e.engine])
	}
	parts = append(parts, e.maybe(2, "CONSTRAINT "+e.quoted(name+" pk")+" ")+"PRIMARY KEY ("+key+")")
	parts = append(parts, e.maybe(3, "CONSTRAINT "+e.quoted("ck "+name)+" CHECK ("+checked+" BETWEEN 1 AND 1000 OR "+checked+" IN (-1, -2))"))
	if len(e.tables) > 0 && e.IntN(2) == 0 {
		c := e.quoted("ref")
		parts = append([]string{c + map[string]string{"postgres": " integer", "mariadb": " int", "sqlite": " integer"}[e.engine]}, parts...)
		reference := "CONSTRAINT " + e.quoted("fk "+name) + " FOREIGN KEY (" + c + ") REFERENCES " + e.quoted(e.one(e.tables...)) + " (" + key + ")" +
			e.maybe(2, " ON DELETE "+e.one("CASCADE", "SET NULL", "RESTRICT", "NO ACTION")) + e.maybe(2, " ON UPDATE "+e.one("CASCADE", "RESTRICT"))
		if e.engine == "postgres" {
			reference += e.one("", "", " DEFERRABLE INITIALLY DEFERRED", " NOT DEFERRABLE")
		}
		parts = append(parts, reference)
	}
	parts = slices.DeleteFunc(parts, func(p string) bool { return p == "" })
	create := "CREATE TABLE "
	tail := ""
	switch e.engine {
	case "postgres":
		tail = e.one("", "", " WITH (fillfactor=70)", " WITH (autovacuum_enabled=off)")
		after = append(after, e.maybe(3, "COMMENT ON TABLE "+table+" IS "+e.remark()))
	case "mariadb":
		tail = e.one("", "", " ROW_FORMAT=COMPRESSED", " CHARACTER SET latin1", " COLLATE utf8mb4_bin") + e.maybe(3, " COMMENT "+e.remark())
	case "sqlite":
		tail = e.one("", "", " WITHOUT ROWID")
	}
	fmt.Fprintf(&e.b, "%s%s (\n  %s\n)%s;\n", create, table, strings.Join(parts, ",\n  "), tail)
	if c := e.one(plain...); e.indexable(columnTypes[c]) {
		index := e.quoted("ix " + name)
		switch e.engine {
		case "postgres":
			after = append(after, e.one("CREATE INDEX "+index+" ON "+table+" ("+c+e.one("", " DESC", " DESC NULLS LAST", " NULLS FIRST")+", "+key+")"+e.maybe(2, " INCLUDE ("+key+")")+e.maybe(2, " WHERE ("+key+" > 0)"),
				"CREATE UNIQUE INDEX "+index+" ON "+table+" (("+key+" + 1), "+c+")"+e.maybe(3, " NULLS NOT DISTINCT"), "CREATE INDEX "+index+" ON "+table+" USING hash ("+key+") WITH (fillfactor=60)", "ALTER TABLE "+table+" ADD CONSTRAINT "+index+" UNIQUE ("+c+", "+key+")"+e.maybe(2, " DEFERRABLE"),
				"CREATE STATISTICS "+index+" ON "+c+", "+key+" FROM "+table))
		case "mariadb":
			prefix := ""
			if strings.HasPrefix(columnTypes[c], "text") || strings.HasSuffix(columnTypes[c], "blob") {
				prefix = "(5)"
			}
			after = append(after, "CREATE "+e.maybe(3, "UNIQUE ")+"INDEX "+index+" ON "+table+" ("+c+prefix+", "+key+e.one("", " DESC")+")"+e.maybe(4, " COMMENT "+e.remark()))
		case "sqlite":
			after = append(after, "CREATE "+e.maybe(3, "UNIQUE ")+"INDEX "+index+" ON "+table+" ("+c+e.one("", " COLLATE NOCASE", " DESC")+", abs("+key+"))"+e.maybe(3, " WHERE "+key+" > 0"))
		}
	}
	if e.IntN(4) == 0 {
		view := e.quoted("view of " + name)
		after = append(after, "CREATE VIEW "+view+" AS SELECT "+strings.Join(plain, ", ")+", 'a;b' AS "+e.quoted("const")+" FROM "+table+" WHERE "+key+" > 0")
	}
	for _, s := range after {
		if s != "" {
			e.b.WriteString(s + ";\n")
		}
	}
	e.tables = append(e.tables, name)
}

func (e *estate) indexable(typ string) bool {
	return !slices.Contains([]string{"xml", "point", "point SRID 4326", "json", "jsonb"}, typ)
}

// TestGeneratedEstates makes the round trip with databases put together at random.
func TestGeneratedEstates(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			e := &estate{Rand: rand.New(rand.NewPCG(20, 26)), engine: kin(s), make: s.Name(), types: types[s.Name()]}
			for range 80 {
				e.table()
			}
			roundTrip(t, s, e.b.String())
		})
	}
}
