package carry

import (
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/mariadb"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/engine/sqlite"
	"echo-atlas/internal/core/engine/sqlserver"
	"echo-atlas/internal/core/schema"
)

var engines = map[string]engine.Engine{"postgres": postgres.Engine{}, "mariadb": mariadb.Engine{}, "sqlite": sqlite.Engine{}, "sqlserver": sqlserver.Engine{}}

// check carries the check of a table with the columns depth, kind and free (a boolean), and returns it and what was lost.
func check(t *testing.T, from, to, expression string) (string, string) {
	t.Helper()
	boolean := map[string]string{"postgres": "boolean", "mariadb": "tinyint(1)", "sqlite": "BOOLEAN", "sqlserver": "bit"}[from]
	o := &schema.Object{Kind: schema.KindTable, Name: "berth", Schema: map[string]string{"postgres": "ops", "sqlserver": "ops"}[from], Relation: &schema.Relation{
		Columns: []schema.Column{{Name: "depth", Type: map[string]string{"postgres": "integer", "sqlite": "INTEGER"}[from] + map[string]string{"mariadb": "int", "sqlserver": "int"}[from]}, {Name: "kind", Type: map[string]string{"sqlserver": "nvarchar(max)"}[from] + map[string]string{"postgres": "text", "mariadb": "text", "sqlite": "TEXT"}[from]}, {Name: "free", Type: boolean}},
		Checks:  []schema.Check{{Name: "k", Expression: expression}},
	}}
	r, err := Objects([]*schema.Object{o}, nil, nil, engines[from], engines[to])
	if err != nil {
		t.Fatal(err)
	}
	var lost []string
	for _, l := range r.Losses {
		lost = append(lost, l.What)
	}
	if checks := r.Objects[0].Relation.Checks; len(checks) > 0 {
		return checks[0].Expression, strings.Join(lost, "; ")
	}
	return "", strings.Join(lost, "; ")
}

func TestExpressions(t *testing.T) {
	for _, c := range []struct{ from, to, text, want, lost string }{
		{"postgres", "mariadb", `((depth > (0)::integer) AND (kind ~~ 'q%'::text))`, "(`depth` > (0)) AND (`kind` LIKE 'q%')", ""},
		{"postgres", "sqlite", `(kind = ANY (ARRAY['quay'::text, 'pier'::text]))`, "kind IN ('quay', 'pier')", ""},
		{"postgres", "sqlite", `((kind)::text <> ALL ((ARRAY['quay'::character varying, 'pier'::character varying])::text[]))`, "(kind) NOT IN ('quay', 'pier')", ""},
		{"postgres", "mariadb", `(kind ~ '^q'::text)`, "", "a check, because of the operator ~"},
		{"postgres", "mariadb", `(length(kind) < 9)`, "char_length(`kind`) < 9", ""},
		{"postgres", "sqlserver", `((kind || 'x'::text) <> ''::text)`, "([kind] + 'x') <> ''", ""},
		{"postgres", "sqlserver", `(free OR depth > 1)`, "", "a check, because of the boolean free as a condition"},
		{"postgres", "mariadb", `(ops.depth_ok(depth))`, "", "a check, because of the function depth_ok"},
		{"mariadb", "postgres", "`depth` > 0 and `kind` in ('it\\'s','a\\\\b')", `depth > 0 AND kind IN ('it''s', 'a\b')`, ""},
		{"mariadb", "postgres", "`free` = 1", "free = TRUE", ""},
		{"mariadb", "postgres", "`free` in (0,1)", "", "a check, because of numbers that stand for true and false"},
		{"mariadb", "sqlite", "json_valid(`kind`)", "", "a check, because of the function json_valid"},
		{"mariadb", "postgres", "`label`(`kind`) = 1", "", "a check, because of the function `label`"},
		{"mariadb", "postgres", "`depth` / 2 > 1", "depth / 2 > 1", "a division of whole numbers has another result"},
		{"sqlite", "mariadb", `depth between 1 and 0x1F`, "`depth` BETWEEN 1 AND 31", ""},
		{"sqlite", "postgres", `kind glob 'a*'`, "", "a check, because of the word glob"},
		{"sqlite", "mariadb", `"kind" <> 'it''s \ so'`, "`kind` <> 'it''s \\\\ so'", ""},
		{"sqlserver", "postgres", `([kind]=N'quay' OR [depth]>(3))`, `kind = 'quay' OR depth > (3)`, ""},
		{"sqlserver", "mariadb", `(len([kind])>(3))`, "", "a check, because of the function len"},
	} {
		got, lost := check(t, c.from, c.to, c.text)
		if got != c.want || lost != c.lost {
			t.Errorf("%s to %s: %s\n  became %s, lost %q\n  want   %s, lost %q", c.from, c.to, c.text, got, lost, c.want, c.lost)
		}
	}
}

func TestTypes(t *testing.T) {
	for _, c := range []struct{ from, to, text, want, change string }{
		{"postgres", "mariadb", "character varying(20)", "varchar(20)", ""},
		{"postgres", "mariadb", "text", "longtext", ""},
		{"postgres", "mariadb", "timestamp(3) with time zone", "datetime(3)", "the time zone is lost: times are those of the session that wrote them"},
		{"postgres", "mariadb", "numeric", "decimal(65,30)", "a decimal without a precision has 65 digits, 30 of them behind the point"},
		{"postgres", "sqlite", "integer[]", "TEXT", "an array is text"},
		{"postgres", "mariadb", "tsvector", "longtext", "the type tsvector is text"},
		{"mariadb", "postgres", "int(10) unsigned", "bigint", ""},
		{"mariadb", "postgres", "bigint(20) unsigned", "numeric(20)", ""},
		{"mariadb", "postgres", "tinyint(1)", "boolean", ""},
		{"mariadb", "postgres", "datetime(6)", "timestamp(6) without time zone", ""},
		{"mariadb", "sqlite", "varbinary(16)", "BLOB", ""},
		{"sqlite", "postgres", "VARCHAR(9)", "character varying(9)", ""},
		{"sqlite", "mariadb", "NUMERIC(5,1)", "decimal(5,1)", ""},
		{"sqlserver", "postgres", "nvarchar(max)", "text", ""},
		{"sqlserver", "postgres", "datetime2(7)", "timestamp(6) without time zone", "a second has six digits"},
		{"postgres", "sqlserver", "uuid", "uniqueidentifier", ""},
	} {
		o := &schema.Object{Kind: schema.KindTable, Name: "t", Relation: &schema.Relation{Columns: []schema.Column{{Name: "c", Type: c.text}}}}
		r, err := Objects([]*schema.Object{o}, nil, nil, engines[c.from], engines[c.to])
		if err != nil {
			t.Fatal(err)
		}
		change := ""
		if len(r.Losses) > 0 {
			change = r.Losses[0].What
		}
		if got := r.Objects[0].Relation.Columns[0].Type; got != c.want || change != c.change {
			t.Errorf("%s to %s: %s became %s (%s), want %s (%s)", c.from, c.to, c.text, got, change, c.want, c.change)
		}
	}
}
