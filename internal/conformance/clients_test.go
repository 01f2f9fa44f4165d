package conformance

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// hostile puts texts together that a client could take for commands of its own. CANARY is a file that such a command
// makes.
type hostile struct {
	*estate
	canary string
}

func (h *hostile) piece() string {
	piece := strings.ReplaceAll(h.one("go", "/", "GO 5", "\\! touch CANARY", "\\\\! touch CANARY", ".shell touch CANARY", ".system touch CANARY", "system touch CANARY", "DELIMITER $$", "delimiter x", "//", "///", ";", "';", `";`, "`;",
		"$$", "$x$", "$1", ":DBNAME", ":'DBNAME'", `:"DBNAME"`, ":{?x}", "''", `\'`, `\"`, `'`, `"`, "`", "-- ", "--\x01", "--", "/*", "*/", "/*!", "/*M!", "#", "\\", "\\\\", "\\N", "\\g", "\\q", "quit", "exit", "[", "]", ")", "(", "BEGIN", "END", "CASE", "berth", "tide", "é", "\x7f", "\x1b[31m",
		"\t", " ", "\r", ":!!touch CANARY", "$(x)"), "CANARY", h.canary)
	if h.engine == "sqlite" { // whose shell drops some of them
		piece = strings.ReplaceAll(piece, "\r", "")
	}
	return piece
}

// text is some pieces, and line breaks between some.
func (h *hostile) text() string {
	var b strings.Builder
	for range 1 + h.IntN(6) {
		b.WriteString(h.piece() + h.one("", " ", "\n", "\n", "\r\n", "\n \t"))
	}
	if h.engine == "sqlite" {
		return strings.ReplaceAll(b.String(), "\r", "")
	}
	return b.String()
}

// comment is a comment that the server takes for one; what stands in it can be anything else.
func (h *hostile) comment() string {
	oneLine := strings.NewReplacer("\n", " ", "\r", " ").Replace(h.text())
	inside := strings.NewReplacer("*/", "* /", "/*", "/ *", "!", "", "\x01", "").Replace(h.text())
	switch h.IntN(4) {
	case 0:
		return "-- " + oneLine + "\n"
	case 1:
		return "/* " + inside + " */"
	case 2:
		if h.engine == "mariadb" {
			return h.one("#", "--\x01", "--\x1f", "--\t") + oneLine + "\n"
		}
		return "--" + oneLine + "\n"
	}
	return " "
}

// statements are some that make objects with such texts in them; the server may refuse them.
func (h *hostile) statement(n int) string {
	gap := func() string { return h.one(" ", "\n", h.comment(), h.comment()+"\n") }
	lit, name := h.literal(h.text()), h.quoted(fmt.Sprint("n", n, strings.TrimSpace(strings.NewReplacer("\r", "", "\n", h.one("", "\n"), "`", "").Replace(h.piece()))))
	switch h.engine {
	case "postgres":
		lit = "E" + strings.ReplaceAll(lit, `\`, `\\`)
		switch h.IntN(5) {
		case 0:
			return "CREATE VIEW " + name + " AS SELECT " + lit + " AS x, (ARRAY[1, 2])[c:" + h.quoted(h.one("DBNAME", "d", "USER")) + "] FROM (SELECT 1 AS c, 2 AS " + h.one(`"DBNAME"`, "d", `"USER"`) + ") AS q(c, " + h.one(`"DBNAME"`, "d", `"USER"`) + ")"
		case 1:
			return "CREATE FUNCTION " + name + "(" + h.one("begin", "atlas", `"case"`) + " int) RETURNS text LANGUAGE plpgsql AS " + lit
		case 2:
			return "CREATE FUNCTION " + name + "() RETURNS text LANGUAGE sql BEGIN ATOMIC SELECT " + lit + "::text AS " + h.one("begin", "x", `"end"`) + "; SELECT CASE WHEN true THEN " + lit + "::text END; END"
		case 3:
			return "CREATE TABLE " + name + " (a text DEFAULT " + lit + " CHECK (a <> " + lit + ")); COMMENT ON TABLE " + name + " IS " + lit
		}
		return "CREATE PROCEDURE " + name + "() LANGUAGE sql AS 'SELECT 1'; COMMENT ON PROCEDURE " + name + " IS " + lit
	case "mariadb":
		body := "BEGIN" + gap() + "DECLARE " + h.one("delimiter_x", "delimiter", "x") + " int;" + gap() + "SELECT " + lit + h.one("", " AS "+h.quoted(strings.Trim(h.piece(), " \t\r"))) + gap() + h.one("", "/* "+h.piece()+" */", "/*!50000 , 1 */", "/*M! , "+lit+" */") + ";" + gap() + " END"
		switch h.IntN(4) {
		case 0:
			return "CREATE TABLE " + name + " (a varchar(200) DEFAULT " + h.literal(h.piece()) + " COMMENT " + lit + ") COMMENT " + lit
		case 1:
			return "CREATE VIEW " + name + " AS SELECT " + lit + gap() + " AS x"
		case 2:
			return "CREATE EVENT " + name + " ON SCHEDULE EVERY 1 YEAR STARTS '2030-01-01 00:00:00' COMMENT " + h.literal(h.piece()) + " DO " + body
		}
		return "CREATE PROCEDURE " + name + "()" + gap() + "COMMENT " + lit + " " + body
	}
	line := func() string {
		return h.one("\ngo\n", "\n/\n", "\n  GO  \n", "\n / \n", "\ngo -- so\n", "\ngo /* so */\n", gap(), gap())
	}
	switch h.IntN(4) {
	case 0:
		return "CREATE TABLE " + name + " (a" + line() + "DEFAULT " + lit + gap() + ",\ngo\n text)"
	case 1:
		return "CREATE TRIGGER " + name + " AFTER INSERT ON berth BEGIN" + gap() + "SELECT " + lit + ";" + line() + "SELECT 8" + h.one("\n/\n", "/") + "2 AS" + h.one("\ngo\n", " x") + ";" + gap() + "END"
	}
	return "CREATE VIEW " + name + " AS" + gap() + "SELECT 6" + h.one("\n/\n", " /\n", "\n / 3 /\n", gap()+"\n/"+gap()) + " 2 AS" + h.one("\ngo\n", "\n go"+gap()+",", " x\n") + h.one("", ", "+lit) + line()
}

// Each engine's own client runs a script of hostile texts: it makes what was there, and runs nothing else.
func TestHostileTextsThroughClients(t *testing.T) {
	t.Parallel()
	rounds := testservers.Rounds(300)
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			t.Parallel()
			for part := 0; rounds > part*500; part++ {
				hostileTexts(t, s, uint64(part), min(500, rounds-part*500), ddl.Options{})
			}
			// And what minds what is there, or makes it anew.
			hostileTexts(t, s, 77, rounds/3, ddl.Options{IfAbsent: true, Together: true})
			hostileTexts(t, s, 78, rounds/3, ddl.Options{Recreate: true, Together: true})
		})
	}
}

func hostileTexts(t *testing.T, s testservers.Server, seed uint64, rounds int, o ddl.Options) {
	t.Helper()
	canary := filepath.Join(t.TempDir(), "canary")
	h := hostile{&estate{Rand: rand.New(rand.NewPCG(11, seed)), engine: kin(s)}, canary}
	begin := map[string]string{"postgres": "SET check_function_bodies = off;", "mariadb": "", "sqlite": "CREATE TABLE berth (a);"}[kin(s)]
	original := s.Database(t, "")
	db := s.Open(t, original)
	db.SetMaxOpenConns(1)
	if _, err := db.Exec(begin + "SELECT 1"); err != nil {
		t.Fatal(err)
	}
	made := 0
	for n := range rounds {
		if _, err := db.Exec(h.statement(n)); err == nil {
			made++
		}
	}
	if made < rounds/3 {
		t.Fatalf("the server took %d of %d statements: too few to show anything", made, rounds)
	}
	c := testcatalogue.New(t)
	write := func() (string, *ddl.RefusedError) {
		before := read(t, c, s, "before", original)
		for _, r := range before.Snapshot.Remarks {
			if r.State != "note" && !strings.Contains(r.Reason, "no such column: ") {
				t.Errorf("remark: %+v", r)
			}
		}
		script, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), o)
		if err != nil {
			t.Fatal(err)
		}
		var b strings.Builder
		var left *ddl.RefusedError
		if err := script.WriteTo(&b); err != nil && !errors.As(err, &left) {
			t.Fatal(err)
		}
		return b.String(), left
	}
	text, left := write()
	if left != nil {
		if most := map[string]int{"sqlite": rounds / 5, "mysql": rounds / 2}[s.Name()]; len(left.Statements) > most { // MySQL makes no code from strings
			t.Errorf("%v", left)
		}
		for _, refused := range left.Statements {
			if _, err := db.Exec("DROP " + strings.ToUpper(string(refused.Subject.Kind)) + " " + h.quoted(refused.Subject.Name)); err != nil {
				t.Fatal(err)
			}
		}
		if text, left = write(); left != nil {
			t.Fatal(left)
		}
	}
	account := s.Account(t, original)
	s.Drop(t, original)
	copied := s.Database(t, text)
	if _, err := os.Stat(canary); err == nil {
		t.Fatal("the client ran a command that a text held")
	}
	after := s.Account(t, copied)
	// The script may join lines in SQLite; MySQL's client drops what ends them but a line feed, and sets blanks behind comments.
	if told := map[string]*strings.Replacer{"sqlite": strings.NewReplacer(`\n`, " "), "mysql": strings.NewReplacer(`\r`, "", "*/ ;", "*/;", "*/ ", "*/")}[s.Name()]; told != nil {
		for _, lines := range [][]string{account, after} {
			for i := range lines {
				lines[i] = told.Replace(lines[i])
			}
		}
	}
	differ := 0
	for i := range max(len(account), len(after)) {
		if i >= len(account) || i >= len(after) || account[i] != after[i] {
			if differ++; differ > 3 {
				break
			}
			t.Errorf("%d of %d lines, %d:\nbefore %q\nafter  %q", len(account), len(after), i, account[min(i, len(account)-1)], after[min(i, len(after)-1)])
		}
	}
}

// The shell of SQLite drops a carriage return before a line feed; what a view returns keeps it.
func TestCarriageReturnsInSQLite(t *testing.T) {
	t.Parallel()
	s := testservers.SQLite{}
	original := s.Database(t, "")
	if _, err := s.Open(t, original).Exec("CREATE TABLE notice (a DEFAULT 'high\r\nwater'); CREATE VIEW lines AS SELECT 'a\r\n\r\nb' AS x,\r\n 'c\rd\r\n' AS y"); err != nil {
		t.Fatal(err)
	}
	c := testcatalogue.New(t)
	before := read(t, c, s, "before", original)
	script, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	db := s.Open(t, s.Database(t, script.Text()))
	var x, y, a string
	if err := db.QueryRow("INSERT INTO notice DEFAULT VALUES; SELECT x, y, a FROM lines, notice").Scan(&x, &y, &a); err != nil {
		t.Fatal(err)
	}
	if x != "a\r\n\r\nb" || y != "c\rd\r\n" || a != "high\r\nwater" {
		t.Errorf("%q %q %q", x, y, a)
	}
}
