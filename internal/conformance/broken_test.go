package conformance

import (
	"errors"
	"strings"
	"testing"

	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// What a server keeps and would not make again is left out of a script, and said to be broken; the rest runs. A view whose definer
// lacks a right looks alike to the server, and is whole.
func TestBrokenInMariaDB(t *testing.T) {
	s := testservers.MariaDB(t)
	url := s.Database(t, `
CREATE TABLE goes (id int PRIMARY KEY, a int, b int);
CREATE VIEW on_table AS SELECT id, a FROM goes;
CREATE TABLE shrinks (id int PRIMARY KEY, a int, said varchar(9) DEFAULT 'it''s');
CREATE VIEW on_column AS SELECT id, a, 'it''s' AS said FROM shrinks WHERE a > 3;
CREATE TRIGGER sets_column BEFORE INSERT ON shrinks FOR EACH ROW SET NEW.a = 4;
CREATE TRIGGER sound BEFORE UPDATE ON shrinks FOR EACH ROW SET NEW.said = concat(OLD.said, ' new.a ');
CREATE FUNCTION goes_away(n int) RETURNS int DETERMINISTIC RETURN n + 1;
CREATE VIEW on_routine AS SELECT goes_away(id) AS n FROM shrinks;
CREATE USER IF NOT EXISTS powerless@'localhost';
CREATE DEFINER=powerless@localhost VIEW of_powerless AS SELECT id FROM shrinks;
CREATE VIEW sound_view AS SELECT id FROM shrinks;
CREATE TABLE member (id int) ENGINE=MyISAM;
CREATE TABLE whole (id int) ENGINE=MERGE UNION=(member);
ALTER TABLE member ADD COLUMN more int;
DROP TABLE goes;
DROP FUNCTION goes_away;
ALTER TABLE shrinks DROP COLUMN a;
`)
	c := testcatalogue.New(t)
	before := read(t, c, s, "before", url)
	script, err := ddl.Write(t.Context(), c, s.Engine(), before, all(before), ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	var left *ddl.RefusedError
	if err := script.WriteTo(&b); !errors.As(err, &left) || len(left.Statements) != 5 {
		t.Errorf("%v\n%s", err, b.String())
	}
	for _, name := range []string{"view:on_table", "view:on_column", "view:on_routine", "trigger:sets_column", "table:whole"} {
		if !strings.Contains(b.String(), "-- left out: "+name+": it is broken where it comes from") {
			t.Errorf("%s is not said to be broken in\n%s", name, b.String())
		}
	}
	after := read(t, c, s, "after", s.Database(t, b.String()))
	if got, want := after.Len(), before.Len()-5; got != want {
		t.Errorf("%d objects, want %d", got, want)
	}
}
