package sqlite

import (
	"encoding/json"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
)

// The expectations are written by hand from the syntax diagrams, not taken from what the parser said.
func TestParseTable(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`CREATE TABLE a(b)`, `{"columns":[{"name":"b"}]}`},
		{"CREATE TABLE \"x\".[a b] (`c d` VARYING CHARACTER ( 10 ,2 ) NOT NULL DEFAULT -1 COLLATE NOCASE -- )\n)",
			`{"columns":[{"name":"c d","type":"VARYING CHARACTER ( 10 ,2 )","not_null":true,"default":"-1","collation":"NOCASE"}]}`},
		{`CREATE TABLE a (b INTEGER CONSTRAINT pk PRIMARY KEY DESC ON CONFLICT FAIL AUTOINCREMENT, c INT CONSTRAINT chk CHECK (c IN (1,2)) CONSTRAINT u UNIQUE)`,
			`{"columns":[{"name":"b","type":"INTEGER","identity":{"mode":"auto increment"}},{"name":"c","type":"INT"}],
			"keys":[{"name":"pk","primary":true,"columns":[{"column":"b","descending":true}],"settings":[{"name":"on conflict","value":"fail"}]},{"name":"u","columns":[{"column":"c"}]}],
			"checks":[{"name":"chk","expression":"c IN (1,2)"}]}`},
		{`CREATE TABLE a (b, c, CONSTRAINT f FOREIGN KEY (b, c) REFERENCES d (e, f) ON DELETE SET DEFAULT ON UPDATE NO ACTION MATCH FULL NOT DEFERRABLE INITIALLY IMMEDIATE)`,
			`{"columns":[{"name":"b"},{"name":"c"}],"foreign_keys":[{"name":"f","columns":["b","c"],"ref_table":"d","ref_columns":["e","f"],"on_delete":"set default","match":"full"}]}`},
		{`CREATE TABLE a (b REFERENCES d DEFERRABLE INITIALLY DEFERRED, c AS (b || ')') STORED, PRIMARY KEY (b COLLATE x, c DESC) UNIQUE (c))`,
			`{"columns":[{"name":"b"},{"name":"c","generated":{"expression":"b || ')'","stored":true}}],
			"keys":[{"primary":true,"columns":[{"column":"b","collation":"x"},{"column":"c","descending":true}]},{"columns":[{"column":"c"}]}],
			"foreign_keys":[{"columns":["b"],"ref_table":"d","timing":"initially deferred"}]}`},
		{`CREATE TABLE a ("primary" TEXT, key TEXT, "check" INT DEFAULT (1 + (2)) NULL)`,
			`{"columns":[{"name":"primary","type":"TEXT"},{"name":"key","type":"TEXT"},{"name":"check","type":"INT","default":"(1 + (2))"}]}`},
	} {
		o := &schema.Object{}
		if err := parseTable(c.text, o); err != nil {
			t.Errorf("%s: %v", c.text, err)
			continue
		}
		var want schema.Relation
		if err := json.Unmarshal([]byte(c.want), &want); err != nil {
			t.Fatal(err)
		}
		got, _ := json.Marshal(o.Relation)
		canonical, _ := json.Marshal(&want)
		if string(got) != string(canonical) {
			t.Errorf("%s:\n got %s\nwant %s", c.text, got, canonical)
		}
	}
	for _, broken := range []string{"", "CREATE TABLE", "CREATE TABLE a", "CREATE TABLE a (", "CREATE TABLE a (b CHECK (", "CREATE TABLE a (b DEFAULT", "CREATE TABLE a (b, FOREIGN KEY (b))", "CREATE TABLE a (b) WITH"} {
		if err := parseTable(broken, &schema.Object{}); err == nil {
			t.Errorf("%q was taken for a table", broken)
		}
	}
}

func TestParseTrigger(t *testing.T) {
	tr := &schema.Trigger{}
	err := parseTrigger("CREATE TRIGGER IF NOT EXISTS x.t BEFORE UPDATE OF a, \"b c\" ON d FOR EACH ROW WHEN (NEW.a > 1) AND CASE 1 WHEN 1 THEN 0 END BEGIN SELECT 1; END", tr)
	if err != nil || tr.Timing != "before" || strings.Join(tr.Columns, "|") != "a|b c" || tr.When != "(NEW.a > 1) AND CASE 1 WHEN 1 THEN 0 END" || tr.Body != "BEGIN SELECT 1; END" {
		t.Errorf("%+v, %v", tr, err)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("CREATE TABLE a (b INT PRIMARY KEY, CHECK (b > 0))")
	f.Add("CREATE UNIQUE INDEX a ON b (c DESC, lower(d)) WHERE e")
	f.Add("CREATE TRIGGER a AFTER INSERT ON b BEGIN SELECT 1; END")
	f.Fuzz(func(_ *testing.T, text string) { // none may panic or hang
		_ = parseTable(text, &schema.Object{})
		_ = parseIndex(text, &schema.Index{})
		_ = parseTrigger(text, &schema.Trigger{})
		_ = parseView(text, &schema.Object{Relation: &schema.Relation{}})
	})
}

func TestQuote(t *testing.T) {
	for in, want := range map[string]string{"berth": "berth", "Berth": "Berth", "select": `"select"`, "SELECT": `"SELECT"`, "a b": `"a b"`, `a"b`: `"a""b"`, "": `""`, "1a": `"1a"`, "é": "é", "a\nb": "\"a\nb\""} {
		if got := quote(in); got != want {
			t.Errorf("quote(%q) = %s, want %s", in, got, want)
		}
	}
}
