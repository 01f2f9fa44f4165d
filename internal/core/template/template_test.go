package template

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/mariadb"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/engine/sqlite"
	"echo-atlas/internal/core/engine/sqlserver"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// mooring is a table with everything that a template has to mind.
func mooring() *schema.Object {
	return &schema.Object{Kind: schema.KindTable, Schema: "port", Name: "mooring", Relation: &schema.Relation{
		Columns: []schema.Column{
			{Name: "id", Type: "int", NotNull: true, Identity: &schema.Numbering{}},
			{Name: "berth_no", Type: "int", NotNull: true}, {Name: "tide", Type: "char(1)", NotNull: true},
			{Name: "lies until", Type: "date"}, {Name: "hours", Type: "int", Generated: &schema.Generated{Expression: "1"}},
			{Name: "*/note", Type: "text"},
		},
		Keys: []schema.Key{
			{Name: "by_place", Columns: []schema.KeyPart{{Column: "berth_no"}, {Column: "tide"}}},
			{Name: "mooring_pkey", Primary: true, Columns: []schema.KeyPart{{Column: "id"}}},
		},
	}}
}

func without(o *schema.Object, change func(*schema.Object)) *schema.Object {
	change(o)
	return o
}

func routine(kind schema.Kind, signature, returns, definition string) *schema.Object {
	return &schema.Object{Kind: kind, Schema: "port", Name: "f", Signature: signature, Routine: &schema.Routine{Returns: returns, Definition: definition}}
}

func TestWrite(t *testing.T) {
	noPrimary := func(o *schema.Object) { o.Relation.Keys = o.Relation.Keys[:1] }
	for _, of := range []struct {
		engine engine.Engine
		verb   string
		object *schema.Object
		part   string
		want   string // lines, without their indentation, divided by |
	}{
		{postgres.Engine{}, "select", mooring(), "", `SELECT|id,|berth_no,|tide,|"lies until",|hours,|"*/note"|FROM port.mooring`},
		{mariadb.Engine{}, "select", mooring(), "", "SELECT|`id`,|`berth_no`,|`tide`,|`lies until`,|`hours`,|`*/note`|FROM `port`.`mooring`"},
		{sqlserver.Engine{}, "select", mooring(), "", "SELECT|[id],|[berth_no],|[tide],|[lies until],|[hours],|[*/note]|FROM [port].[mooring]"},
		{postgres.Engine{}, "insert", mooring(), "", `INSERT INTO port.mooring (|berth_no,|tide,|"lies until",|"*/note"|) VALUES (|$1 /* berth_no int */,|$2 /* tide char(1) */,|$3 /* lies until date */,|$4 /* * /note text */|)`},
		{sqlserver.Engine{}, "insert", mooring(), "", "INSERT INTO [port].[mooring] (|[berth_no],|[tide],|[lies until],|[*/note]|) VALUES (|@berth_no,|@tide,|@lies_until,|@__note|)"},
		{postgres.Engine{}, "update", mooring(), "", `UPDATE port.mooring|SET|berth_no = $1 /* berth_no int */,|tide = $2 /* tide char(1) */,|"lies until" = $3 /* lies until date */,|"*/note" = $4 /* * /note text */|WHERE id = $5 /* id int */`},
		{sqlite.Engine{}, "update", without(mooring(), noPrimary), "", `UPDATE port.mooring|SET|"lies until" = ? /* lies until date */,|"*/note" = ? /* * /note text */|WHERE berth_no = ? /* berth_no int */|AND tide = ? /* tide char(1) */`},
		{mariadb.Engine{}, "delete", mooring(), "", "DELETE FROM `port`.`mooring`|WHERE `id` = ? /* id int */"},
		{postgres.Engine{}, "alter", mooring(), "", "ALTER TABLE port.mooring ADD COLUMN new_column integer"},
		{postgres.Engine{}, "alter", mooring(), "lies until", `ALTER TABLE port.mooring ALTER COLUMN "lies until" TYPE date`},
		{mariadb.Engine{}, "alter", mooring(), "tide", "ALTER TABLE `port`.`mooring` MODIFY COLUMN `tide` char(1) NOT NULL"},
		{sqlserver.Engine{}, "alter", mooring(), "lies until", "ALTER TABLE [port].[mooring] ALTER COLUMN [lies until] date NULL"},
		{sqlite.Engine{}, "alter", mooring(), "tide", "ALTER TABLE port.mooring RENAME COLUMN tide TO tide_new"},
		{postgres.Engine{}, "alter", without(mooring(), func(o *schema.Object) { o.Settings = []schema.Property{{Name: "server", Value: "yard"}} }), "", "ALTER FOREIGN TABLE port.mooring ADD COLUMN new_column integer"},

		{postgres.Engine{}, "call", routine(schema.KindFunction, "integer, OUT total numeric, VARIADIC names text[]", "SETOF record", ""), "", "SELECT * FROM port.f($1 /* integer */, VARIADIC $2 /* names text[] */)"},
		{postgres.Engine{}, "call", routine(schema.KindProcedure, `"at tide" timestamp with time zone, OUT n integer`, "", ""), "", "CALL port.f($1 /* at tide timestamp with time zone */, NULL /* n */)"},
		{postgres.Engine{}, "call", routine(schema.KindFunction, "double precision, x numeric(3,1)", "int", ""), "", "SELECT port.f($1 /* double precision */, $2 /* x numeric(3,1) */)"},
		{mariadb.Engine{}, "call", routine(schema.KindProcedure, "", "", "PROCEDURE `f`(IN a INT, OUT b DECIMAL(3,1), `c (d` TEXT)\nBEGIN END"), "", "CALL `port`.`f`(? /* a INT */, @`b`, ? /* c (d TEXT */)"},
		{mariadb.Engine{}, "call", routine(schema.KindFunction, "", "int", "FUNCTION `f`() RETURNS int\nRETURN 1"), "", "SELECT `port`.`f`()"},
		{sqlserver.Engine{}, "call", routine(schema.KindProcedure, "", "", "CREATE PROCEDURE port.f @a int, @b varchar(10) = 'x' OUTPUT AS SELECT @c"), "", "EXEC [port].[f] @a = @a, @b = @b OUTPUT"},
		{sqlserver.Engine{}, "call", routine(schema.KindProcedure, "", "", "CREATE PROCEDURE port.f AS SELECT 1"), "", "EXEC [port].[f]"},
		{sqlserver.Engine{}, "call", routine(schema.KindFunction, "", "", "CREATE FUNCTION port.f (@a int) RETURNS @t TABLE (x int) AS BEGIN RETURN END"), "", "SELECT * FROM [port].[f](@a)"},
		{sqlserver.Engine{}, "call", routine(schema.KindFunction, "", "int", "CREATE FUNCTION port.f (@a int) RETURNS int AS BEGIN RETURN @a END"), "", "SELECT [port].[f](@a)"},
	} {
		text, err := Write(of.engine, of.verb, of.object, of.part)
		var lines []string
		for line := range strings.Lines(text) {
			lines = append(lines, strings.TrimSpace(line))
		}
		if got := strings.Join(lines, "|"); err != nil || got != of.want {
			t.Errorf("%s %s: %v\n%s, want\n%s", of.engine.Name(), of.verb, err, got, of.want)
		}
	}
}

// What the server fills is not altered, and a text keeps its collation.
func TestAlterColumnOfSQLServer(t *testing.T) {
	o := mooring()
	o.Relation.Columns[1].Type = "timestamp"
	o.Relation.Columns[2].Collation = "Latin1_General_BIN2"
	for column, want := range map[string]string{"hours": "", "berth_no": "", "tide": "ALTER TABLE [port].[mooring] ALTER COLUMN [tide] char(1) COLLATE Latin1_General_BIN2 NOT NULL"} {
		got, err := Write(sqlserver.Engine{}, "alter", o, column)
		if got != want || (err == nil) != (want != "") {
			t.Errorf("%s: %q %v", column, got, err)
		}
	}
}

// Two columns never share a parameter.
func TestParametersAreTold(t *testing.T) {
	o := mooring()
	o.Relation.Columns = []schema.Column{{Name: "lies until", Type: "date"}, {Name: "lies_until", Type: "date"}, {Name: "Lies-until", Type: "date"}, {Name: "gültig", Type: "date"}}
	got, err := Write(sqlserver.Engine{}, "insert", o, "")
	for _, want := range []string{"@lies_until,", "@lies_until_2,", "@Lies_until_3,", "@gültig\n"} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is missing in\n%s %v", want, got, err)
		}
	}
}

// A table of which nothing can be given has a statement too, in each engine's way.
func TestInsertOfDefaults(t *testing.T) {
	o := mooring()
	o.Relation.Columns = o.Relation.Columns[:1]
	for e, want := range map[engine.Engine]string{
		postgres.Engine{}: "INSERT INTO port.mooring DEFAULT VALUES", sqlserver.Engine{}: "INSERT INTO [port].[mooring] DEFAULT VALUES", mariadb.Engine{}: "INSERT INTO `port`.`mooring` () VALUES ()",
	} {
		if got, err := Write(e, "insert", o, ""); err != nil || got != want {
			t.Errorf("%s: %s %v", e.Name(), got, err)
		}
	}
	stamped := mooring()
	stamped.Relation.Columns[1].Type = "timestamp"
	if got, _ := Write(sqlserver.Engine{}, "insert", stamped, ""); strings.Contains(got, "berth_no") {
		t.Errorf("a row version is given a value:\n%s", got)
	}
}

func TestWriteRefuses(t *testing.T) {
	view := &schema.Object{Kind: schema.KindView, Name: "open_mooring", Relation: &schema.Relation{Columns: []schema.Column{{Name: "x"}}}}
	for _, of := range []struct {
		verb   string
		object *schema.Object
		part   string
		says   string
	}{
		{"select", routine(schema.KindFunction, "", "", ""), "", "no table and no view"},
		{"select", &schema.Object{Kind: schema.KindTable, Name: "hidden", Relation: &schema.Relation{}}, "", "the columns of table:hidden are not known"},
		{"insert", view, "", "is a view"}, {"alter", view, "", "is a view"},
		{"call", view, "", "is no routine"},
		{"alter", mooring(), "mast", `has no column "mast"`},
		{"sink", mooring(), "", "there is no template"},
		{"update", without(mooring(), func(o *schema.Object) { o.Relation.Columns = o.Relation.Columns[:1] }), "", "no column beside its key"},
	} {
		if text, err := Write(postgres.Engine{}, of.verb, of.object, of.part); err == nil || !strings.Contains(err.Error(), of.says) {
			t.Errorf("%s: %q %v, want an error that says %q", of.verb, text, err, of.says)
		}
	}
	keyless := without(mooring(), func(o *schema.Object) { // a key on an expression names no row
		o.Relation.Keys = []schema.Key{{Columns: []schema.KeyPart{{Column: "tide"}, {Expression: "lower(tide)"}}}}
	})
	if _, err := Write(postgres.Engine{}, "delete", keyless, ""); !errors.Is(err, ErrNoKey) {
		t.Errorf("without a key: %v", err)
	}
}

// harbour is a catalogue of tables that refer to each other; a reference is written "column>table.column", two
// columns of one as "a+b>table.c+d".
func harbour(t *testing.T, tables map[string][]string) (*catalogue.Catalogue, *catalogue.Contents) {
	t.Helper()
	c := testcatalogue.New(t)
	r := &schema.Reading{Engine: "sqlite", Database: "berths", Taken: time.Unix(1e9, 0)}
	for name, parts := range tables {
		o := &schema.Object{Kind: schema.KindTable, Name: name, Relation: &schema.Relation{Keys: []schema.Key{{Primary: true, Columns: []schema.KeyPart{{Column: "id"}}}}}}
		columns := map[string]bool{}
		add := func(names ...string) {
			for _, n := range names {
				if !columns[n] {
					columns[n] = true
					o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: n, Type: "INTEGER"})
				}
			}
		}
		add("id")
		for i, p := range parts {
			from, to, refers := strings.Cut(p, ">")
			names := strings.Split(from, "+")
			add(names...)
			if refers {
				table, keys, _ := strings.Cut(to, ".")
				o.Relation.ForeignKeys = append(o.Relation.ForeignKeys, schema.ForeignKey{Name: fmt.Sprint("f", i), Columns: names, RefTable: table, RefColumns: strings.Split(keys, "+")})
			}
		}
		r.Objects = append(r.Objects, o)
	}
	return c, testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, r)
}

func TestJoins(t *testing.T) {
	c, contents := harbour(t, map[string][]string{
		"harbour": {"main_berth>berth.id"}, "berth": {"harbour_id>harbour.id", "beside_id>berth.id"}, "mooring": {"berth_id>berth.id", "vessel_id>vessel.id"},
		"vessel": {"home_id>harbour.id"}, "sailing": {"vessel_id>vessel.id", "from_id>harbour.id", "to_id>harbour.id"}, "stop": {"route+nr>leg.a+b"}, "leg": {"a", "b"},
		"visit": {"berth_id"}, "apart": nil,
	})
	for _, of := range []struct {
		tables string
		want   []string // the conditions of each way
	}{
		{"mooring berth", []string{"m.berth_id = b.id"}},
		{"berth mooring", []string{"m.berth_id = b.id"}},
		{"stop leg", []string{"s.route = l.a AND s.nr = l.b"}},
		{"sailing harbour", []string{"s.from_id = h.id", "s.to_id = h.id"}}, // they tie
		{"berth harbour", []string{"b.harbour_id = h.id", "h.main_berth = b.id"}},
		{"mooring harbour", []string{"m.berth_id = b.id; b.harbour_id = h.id", "m.berth_id = b.id; h.main_berth = b.id", "m.vessel_id = v.id; v.home_id = h.id"}},
		{"sailing mooring", []string{"s.vessel_id = v.id; m.vessel_id = v.id"}},
		{"mooring berth vessel", []string{"m.berth_id = b.id; m.vessel_id = v.id"}}, // from the tables before
		{"mooring harbour berth", []string{"m.berth_id = b.id; b.harbour_id = h.id", "m.berth_id = b.id; h.main_berth = b.id", "m.vessel_id = v.id; v.home_id = h.id; b.harbour_id = h.id", "m.vessel_id = v.id; v.home_id = h.id; h.main_berth = b.id", "m.vessel_id = v.id; v.home_id = h.id; m.berth_id = b.id"}},
		{"visit berth", []string{"v.berth_id = b.id guessed"}},
		{"berth visit", []string{"v.berth_id = b.id guessed"}},
	} {
		var tables []*catalogue.Entry
		for name := range strings.FieldsSeq(of.tables) {
			tables = append(tables, contents.Find(schema.ID{Kind: schema.KindTable, Name: name}))
		}
		joins, err := Joins(context.Background(), c, sqlite.Engine{}, contents, tables)
		if err != nil {
			t.Fatalf("%s: %v", of.tables, err)
		}
		var got []string
		for _, j := range joins {
			var conditions []string
			for line := range strings.Lines(j.Text) {
				if _, condition, ok := strings.Cut(strings.TrimSpace(line), " ON "); ok {
					conditions = append(conditions, strings.Replace(condition, "/* guessed by name and type */", "guessed", 1))
				}
			}
			if j.Guessed != strings.Contains(j.Text, "guessed") {
				t.Errorf("%s: guessed %v:\n%s", of.tables, j.Guessed, j.Text)
			}
			got = append(got, strings.Join(conditions, "; "))
		}
		slices.Sort(got)
		slices.Sort(of.want)
		if !slices.Equal(got, of.want) {
			t.Errorf("%s:\n%q, want\n%q", of.tables, got, of.want)
		}
	}
	apart := []*catalogue.Entry{contents.Find(schema.ID{Kind: schema.KindTable, Name: "leg"}), contents.Find(schema.ID{Kind: schema.KindTable, Name: "apart"})}
	if _, err := Joins(context.Background(), c, sqlite.Engine{}, contents, apart); err == nil || !strings.Contains(err.Error(), "no chain of foreign keys joins table:apart with table:leg") {
		t.Errorf("tables that nothing joins: %v", err)
	}
}

// Tables of one first letter, and one that is met on the way, each have an alias of their own.
func TestAliases(t *testing.T) {
	c, contents := harbour(t, map[string][]string{"berth": nil, "buoy": {"berth_id>berth.id"}, "Ö2": {"buoy_id>buoy.id"}})
	var tables []*catalogue.Entry
	for _, name := range []string{"Ö2", "berth"} {
		tables = append(tables, contents.Find(schema.ID{Kind: schema.KindTable, Name: name}))
	}
	joins, err := Joins(context.Background(), c, sqlite.Engine{}, contents, tables)
	want := "SELECT *\nFROM Ö2 t\nJOIN buoy b ON t.buoy_id = b.id\nJOIN berth b2 ON b.berth_id = b2.id"
	if err != nil || len(joins) != 1 || joins[0].Text != want {
		t.Errorf("%+v %v, want\n%s", joins, err, want)
	}
}
