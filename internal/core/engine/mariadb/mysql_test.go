package mariadb

import (
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// MySQL is an engine of its own, whatever scheme its URL has, and what MariaDB alone has stands in none of its texts.
func TestMySQLIsItself(t *testing.T) {
	all := engine.Registry{Engine{}, MySQL()}
	for url, want := range map[string]string{"mysql://quay/b": "mysql", "mariadb://quay/b": "mariadb", "MySQL://quay": "mysql"} {
		if e, err := all.ForURL(url); err != nil || e.Name() != want {
			t.Errorf("%s: %v %v, want %s", url, e, err, want)
		}
	}
	for _, q := range MySQL().Queries() {
		for _, word := range []string{"mysql.proc ", "global_priv", "roles_mapping", "schema_comment", "HIDDEN", "PARTEXPRESSION", "max_statement_time,"} {
			if strings.Contains(q, word) {
				t.Errorf("%s stands in %s", word, q)
			}
		}
	}
	for _, of := range [][3]string{{"mariadb", "MySQL 8.4.2", "mysql"}, {"mariadb", "MariaDB 11.8.2", "mariadb"}, {"mysql", "MySQL 9.7.0", "mysql"}, {"postgres", "MySQL 1", "postgres"}} {
		if got := all.Called(of[0], of[1]); got != of[2] {
			t.Errorf("a reading of %s, %s is one of %s, want %s", of[0], of[1], got, of[2])
		}
	}
}

// What minds what is there names it as a text, however it is called.
func TestMySQLCareful(t *testing.T) {
	table := schema.ID{Kind: schema.KindTable, Name: "t"}
	for _, of := range []struct {
		subject schema.ID
		action  engine.Action
		text    string
		want    []string
	}{
		{table, engine.Make, "CREATE TABLE `t` (a int)", []string{"CREATE TABLE IF NOT EXISTS `t` (a int)"}},
		{schema.ID{Kind: schema.KindView, Name: "it's"}, engine.Make, "CREATE VIEW `it's` AS SELECT 'x\\\\'", []string{"table_name = 'it''s'), 'CREATE VIEW `it''s` AS SELECT ''x\\\\\\\\''', 'DO 0'"}},
		{table, engine.Make, "CREATE UNIQUE INDEX `a``b` ON `c d` (x)", []string{"table_name = 'c d' AND index_name = 'a`b'", "IF(NOT EXISTS"}},
		{table, engine.Alter, "ALTER TABLE `c` ADD CONSTRAINT `k` FOREIGN KEY (x) REFERENCES t (y)", []string{"table_name = 'c' AND constraint_name = 'k'", "IF(NOT EXISTS"}},
		{table, engine.Drop, "DROP INDEX `i` ON `c`", []string{"IF(EXISTS", "table_name = 'c' AND index_name = 'i'"}},
		{table, engine.Drop, "ALTER TABLE `c` DROP FOREIGN KEY `k`", []string{"IF(EXISTS", "constraint_name = 'k'"}},
		{table, engine.Drop, "DROP TABLE `c`", []string{"DROP TABLE IF EXISTS `c`"}},
	} {
		s := engine.Statement{Subject: of.subject, Action: of.action}
		got := MySQL().IfAbsent(&s, of.text)
		if of.action == engine.Drop {
			got = MySQL().IfPresent(&s, of.text)
		}
		for _, want := range of.want {
			if !strings.Contains(got, want) {
				t.Errorf("%s: %s, want %s in it", of.text, got, want)
			}
		}
	}
}

// A text that the client would read otherwise is prepared where the server prepares such a statement; code is left out then.
func TestMySQLScripted(t *testing.T) {
	for _, of := range []struct {
		text, mode     string
		compound, bad  bool
		want, wantNone string
	}{
		{text: "CREATE TABLE t (a int) COMMENT 'x\r\ny'", want: `COMMENT ''x\r`, wantNone: "\r"},
		{text: "CREATE TABLE t (a int) COMMENT 'x'", want: "CREATE TABLE t (a int) COMMENT 'x'", wantNone: "PREPARE"},
		{text: "CREATE PROCEDURE p() SELECT 'x\ry'", compound: true, bad: true},
		{text: "CREATE PROCEDURE p() SELECT 1 /* so */", compound: true, want: "/* so */"},
		{text: `CREATE PROCEDURE p() SELECT "x\\"`, compound: true, want: `"x\\"`},
		{text: `CREATE PROCEDURE p() SELECT "x\"" AS y`, compound: true, mode: "ANSI_QUOTES", bad: true},
		{text: `CREATE PROCEDURE p() SELECT '\'`, compound: true, mode: "NO_BACKSLASH_ESCAPES", want: `'\'`},
		{text: "CREATE PROCEDURE p() SELECT 1 /*! , 2 */", compound: true, bad: true},
	} {
		s := engine.Statement{Compound: of.compound, Settings: []engine.Setting{{Name: "sql_mode", Text: "SET sql_mode = '" + of.mode + "'"}}}
		got, _, err := MySQL().Scripted(&s, of.text, "MySQL 9.7.0")
		if (err != nil) != of.bad || !strings.Contains(got, of.want) || of.wantNone != "" && strings.Contains(got, of.wantNone) {
			t.Errorf("%q: %q (%v), want %q", of.text, got, err, of.want)
		}
	}
}

// The views of MySQL take each byte of a letter for a letter. A text that really holds such letters stays.
func TestUndoubled(t *testing.T) {
	for _, of := range [][3]string{
		{"(`Ã¼nter` > 0)", "CHECK ((`ünter` > 0))", "(`ünter` > 0)"},
		{"(`a` <> 'ÃŸâ‚¬')", "CHECK ((`a` <> _utf8mb4'ß€'))", "(`a` <> 'ß€')"},
		{"(`Ã¼` > 0)", "CHECK ((`Ã¼` > 0))", "(`Ã¼` > 0)"},
		{"(`ü` > 0)", "CHECK ((`ü` > 0))", "(`ü` > 0)"},
		{"(`a` > 0)", "CHECK ((`a` > 0))", "(`a` > 0)"},
	} {
		if got := undoubled(of[0], of[1]); got != of[2] {
			t.Errorf("%s in %s: %s, want %s", of[0], of[1], got, of[2])
		}
	}
}

// What changes in place does, and what the server cannot replace is made anew.
func TestMySQLChanges(t *testing.T) {
	table := func(checks ...schema.Check) *schema.Object {
		return &schema.Object{Kind: schema.KindTable, Name: "t", Relation: &schema.Relation{Columns: []schema.Column{{Name: "a", Type: "int"}}, Checks: checks}}
	}
	off := []schema.Property{{Name: notEnforced, Value: "yes"}}
	index := func(settings ...schema.Property) *schema.Object {
		return &schema.Object{Kind: schema.KindIndex, Name: "i", Index: &schema.Index{Table: "t", Columns: []schema.KeyPart{{Column: "a"}}, Settings: settings}}
	}
	function := func(returns string) *schema.Object {
		return &schema.Object{Kind: schema.KindFunction, Name: "f", Routine: &schema.Routine{Definition: "FUNCTION `f`() RETURNS " + returns + "\nRETURN 1"}}
	}
	for _, of := range []struct {
		was, now *schema.Object
		want     string
		anew     bool
	}{
		{table(schema.Check{Name: "c", Expression: "a > 0"}), table(schema.Check{Name: "c", Expression: "a > 0", Settings: off}), "ALTER TABLE `t` ALTER CHECK `c` NOT ENFORCED", false},
		{table(schema.Check{Name: "c", Expression: "a > 0", Settings: off}), table(schema.Check{Name: "c", Expression: "a > 0"}), "ALTER TABLE `t` ALTER CHECK `c` ENFORCED", false},
		{table(), table(schema.Check{Name: "c", Expression: "a > 0", Settings: off}), "ALTER TABLE `t` ADD CONSTRAINT `c` CHECK (a > 0) NOT ENFORCED", false},
		{index(), index(schema.Property{Name: invisibleIndex, Value: "yes"}), "ALTER TABLE `t` ALTER INDEX `i` INVISIBLE", false},
		{index(schema.Property{Name: invisibleIndex, Value: "yes"}), index(), "ALTER TABLE `t` ALTER INDEX `i` VISIBLE", false},
		{function("int"), function("bigint"), "", true},
	} {
		a, err := MySQL().Change(of.was, of.now, "MySQL 9.7.0")
		if err != nil || a.Anew != of.anew {
			t.Errorf("%s: anew %v (%v)", of.want, a.Anew, err)
		}
		var got []string
		for _, s := range slices.Concat(a.Release, a.Build, a.Links) {
			got = append(got, s.Text())
		}
		if strings.Join(got, "; ") != of.want {
			t.Errorf("%q, want %q", got, of.want)
		}
	}
	there := MySQL().Unmoved([]*schema.Object{table()}, []schema.ID{{Kind: schema.KindView, Name: "v"}})
	for _, s := range there {
		if strings.Contains(s.Text(), "BEGIN") || s.Compound {
			t.Errorf("a block outside of a routine: %s", s.Text())
		}
	}
	if len(there) != 3 {
		t.Errorf("%d statements", len(there))
	}
}
