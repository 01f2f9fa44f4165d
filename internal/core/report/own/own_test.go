package own

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

func TestParse(t *testing.T) {
	r, err := Parse("deep", "-- title: Deep berths\n-- about: which berths\n-- about: are deep\n-- parameter: least number = 4.5, metres\n-- parameter: quay text\n-- column: bytes as bytes\n-- leads to: columns_of table=name\n-- chart: bar name, rows\n-- a word without meaning\n\nSELECT name, rows FROM objects -- parameter: none text\n;")
	if err != nil {
		t.Fatal(err)
	}
	if r.Title != "Deep berths" || r.About != "which berths are deep" || len(r.Parameters) != 2 || r.Parameters[0] != (Parameter{"least", "number", "4.5", "metres", true}) || r.Columns["bytes"] != "bytes" ||
		r.LeadsTo.Report != "columns_of" || r.LeadsTo.Set[0] != [2]string{"table", "name"} || *r.Chart != (Chart{"bar", "name", "rows"}) || !strings.HasPrefix(r.Query, "SELECT") {
		t.Errorf("%+v", r)
	}
	for text, says := range map[string]string{
		"": "no query", "-- title: x": "no query", "DELETE FROM objects": "begins with SELECT", "SELECT 1; SELECT 2": "behind the semicolon", "PRAGMA query_only = 0": "begins with SELECT", "ATTACH 'x' AS y": "begins with SELECT",
		"-- parameter: least integer\nSELECT 1": "NAME number", "-- chart: pie a, b\nSELECT 1": "bar NAME", "-- parameter: n number = many\nSELECT 1": "takes a number", "-- leads to: other\nSELECT 1": "PARAMETER=COLUMN", "SELECT 'open": "not closed", "EXPLAIN SELECT 1": "begins with SELECT",
	} {
		if _, err := Parse("x", text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
}

// harbour returns a catalogue with two readings of a database.
func harbour(t *testing.T) (*catalogue.Catalogue, []Choice) {
	t.Helper()
	ctx := context.Background()
	c, err := catalogue.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	var s *catalogue.Snapshot
	for n := range 2 {
		berth := &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "berth", Grants: []schema.Grant{{Grantee: "clerk", Granted: []string{"SELECT"}, Grantable: []string{"UPDATE"}}}, Relation: &schema.Relation{
			Columns: []schema.Column{{Name: "no", Type: "integer", NotNull: true}, {Name: "depth", Type: "numeric(4,1)", Comment: "at low tide"}}, Keys: []schema.Key{{Primary: true, Columns: []schema.KeyPart{{Column: "no"}}}}}}
		objects := []*schema.Object{berth, {Kind: schema.KindIndex, Schema: "ops", Name: "by_depth", Index: &schema.Index{Table: "berth", Columns: []schema.KeyPart{{Column: "depth"}}}}}
		if n == 1 {
			objects = append(objects, &schema.Object{Kind: schema.KindTable, Schema: "ops", Name: "mooring", Relation: &schema.Relation{Columns: []schema.Column{{Name: "berth_no", Type: "integer"}},
				ForeignKeys: []schema.ForeignKey{{Name: "lies", Columns: []string{"berth_no"}, RefSchema: "ops", RefTable: "berth", RefColumns: []string{"no"}}}}})
		}
		r := &schema.Reading{Engine: "toy", Database: "berths", Taken: time.Date(2026, 3, 1+n, 6, 0, 0, 0, time.UTC), Objects: objects, Measures: []schema.Measure{{ID: berth.ID(), Rows: 42, Bytes: -1}}}
		if s, _, err = c.Save(ctx, catalogue.Origin{Server: "quay", Environment: "live"}, r); err != nil {
			t.Fatal(err)
		}
	}
	contents, err := c.Contents(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	return c, []Choice{{Contents: contents}}
}

var usual = Limits{Time: 30 * time.Second, Rows: 1000}

// Every table of the catalogue has what its description says.
func TestTables(t *testing.T) {
	c, choices := harbour(t)
	for query, want := range map[string]string{
		"SELECT address, kind, columns, rows, bytes FROM objects ORDER BY 1":                                          "quay/berths/ops.berth table 2 42 <nil>; quay/berths/ops.by_depth index 0 <nil> <nil>; quay/berths/ops.mooring table 1 <nil> <nil>",
		"SELECT address, position, type, nullable, comment FROM columns WHERE table_name = 'berth'":                   "quay/berths/ops.berth.no 1 integer 0 ; quay/berths/ops.berth.depth 2 numeric(4,1) 1 at low tide",
		"SELECT table_name, kind, columns, ref_table, ref_columns FROM keys ORDER BY 1":                               "berth primary key no <nil> <nil>; mooring foreign key berth_no berth no",
		"SELECT name, table_name, columns, is_unique FROM indexes":                                                    "by_depth berth depth 0",
		"SELECT grantee, right_name, grantable FROM grants ORDER BY 2":                                                "clerk SELECT 0; clerk UPDATE 1",
		"SELECT from_address, use, to_address, to_part FROM dependencies WHERE use = 'foreign key' AND to_part <> ''": "quay/berths/ops.mooring foreign key quay/berths/ops.berth no",
		"SELECT taken, objects FROM snapshots ORDER BY id":                                                            "2026-03-01T06:00:00Z 2; 2026-03-02T06:00:00Z 3",
		"SELECT address, change, taken FROM changes":                                                                  "quay/berths/ops.mooring added 2026-03-02T06:00:00Z",
		"WITH n AS (SELECT count(*) AS n FROM objects) SELECT n * :least FROM n":                                      "6",
	} {
		text := query
		set := map[string]string{}
		if strings.Contains(query, ":least") {
			text, set["least"] = "-- parameter: least number\n"+query, "2"
		}
		r, err := Parse("x", text)
		if err != nil {
			t.Fatalf("%s: %v", query, err)
		}
		rows, err := Run(context.Background(), c, r, choices, set, usual)
		if err != nil {
			t.Errorf("%s: %v", query, err)
			continue
		}
		var lines []string
		for _, v := range rows.Values {
			lines = append(lines, strings.TrimSuffix(strings.TrimPrefix(fmt.Sprint(v...), "["), "]"))
			lines[len(lines)-1] = strings.Trim(fmt.Sprintln(v...), "\n")
		}
		if got := strings.Join(lines, "; "); got != want {
			t.Errorf("%s:\n got %s\nwant %s", query, got, want)
		}
	}
}

// A report reads the tables, and can do nothing else: no file comes to be, none is read, it ends in time.
func TestConfined(t *testing.T) {
	c, choices := harbour(t)
	dir := t.TempDir()
	secret := filepath.Join(dir, "secret.db")
	if err := os.WriteFile(secret, []byte("SQLite format 3\x00 not for you"), 0o600); err != nil {
		t.Fatal(err)
	}
	made := filepath.Join(dir, "made.db")
	for _, query := range []string{
		"WITH x AS (SELECT 1) INSERT INTO objects (name) SELECT 'mine'", "WITH x AS (SELECT 1) DELETE FROM objects", "SELECT load_extension('" + secret + "')", "SELECT readfile('" + secret + "')", "SELECT writefile('" + made + "', 'x')",
		"SELECT * FROM pragma_database_list WHERE file <> ''", "SELECT fts3_tokenizer('simple', x'00')", "SELECT * FROM fsdir('/')", "SELECT edit('x', 'touch " + made + "')", "SELECT zeroblob(1000000000)",
	} {
		r, err := Parse("x", query)
		if err != nil {
			continue
		}
		rows, err := Run(context.Background(), c, r, choices, nil, usual)
		if err == nil && len(rows.Values) > 0 {
			t.Errorf("%s answers %v", query, rows.Values)
		}
	}
	// What the check of the head keeps out is kept out by the database, too.
	for _, query := range []string{"ATTACH '" + made + "' AS other", "VACUUM INTO '" + made + "'", "PRAGMA query_only = 0", "CREATE TABLE mine (a)", "DROP TABLE objects", "UPDATE objects SET name = 'x'"} {
		rows, err := Run(context.Background(), c, &Report{Query: query}, choices, nil, usual)
		if err == nil && !strings.HasPrefix(query, "PRAGMA") {
			t.Errorf("%s runs: %v", query, rows.Values)
		}
	}
	if left, err := os.ReadDir(dir); err != nil || len(left) != 1 {
		t.Errorf("files came to be: %v, %v", left, err)
	}
	r, err := Parse("x", "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT sum(i) FROM n")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Run(context.Background(), c, r, choices, nil, Limits{Time: 50 * time.Millisecond, Rows: 10}); !errors.Is(err, ErrTime) {
		t.Errorf("an endless report: %v", err)
	}
	if r, err = Parse("x", "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n"); err != nil {
		t.Fatal(err)
	}
	if rows, err := Run(context.Background(), c, r, choices, nil, Limits{Time: time.Minute, Rows: 10}); err != nil || len(rows.Values) != 10 || !rows.Cut {
		t.Errorf("rows without end: %+v, %v", rows, err)
	}
	var wrong *ParameterError
	if r, err = Parse("x", "-- parameter: n number\nSELECT :n"); err != nil {
		t.Fatal(err)
	}
	for _, set := range []map[string]string{{}, {"n": "many"}, {"n": "1", "m": "2"}} {
		if _, err := Run(context.Background(), c, r, choices, set, usual); !errors.As(err, &wrong) {
			t.Errorf("%v: %v", set, err)
		}
	}
}
