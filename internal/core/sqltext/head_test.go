package sqltext

import (
	"fmt"
	"strings"
	"testing"
)

func TestRoutineHead(t *testing.T) {
	postgres := Rules{DollarQuotes: true, EscapeStrings: true, FoldLower: true, NestedComments: true}
	mariadb := Rules{Backticks: true, BackslashEscapes: true, HashComments: true, DoubleQuoteStrings: true}
	sqlServer := Rules{Brackets: true, BracketEscapes: true, NestedComments: true}
	for _, c := range []struct {
		rules                  Rules
		text, parameters, body string // mode name type default, divided by |
	}{
		{postgres, "CREATE OR REPLACE FUNCTION ops.fee(a integer, OUT \"the Day\" timestamp with time zone, VARIADIC codes text[] DEFAULT '{}'::text[])\n RETURNS integer\n LANGUAGE sql\nAS $function$SELECT a, 1$function$",
			"_ a integer _|out the Day timestamp with time zone _|variadic codes text[] '{}'::text[]", "SELECT a, 1"},
		{postgres, "CREATE FUNCTION f(double precision, numeric(4,1), ops.code) RETURNS TABLE(x integer, y text) LANGUAGE plpgsql AS 'BEGIN END'", "_ _ double precision _|_ _ numeric(4,1) _|_ _ ops.code _", "BEGIN END"},
		{postgres, "CREATE OR REPLACE FUNCTION f(a integer)\n RETURNS integer\n LANGUAGE sql\nBEGIN ATOMIC\n SELECT a;\nEND", "_ a integer _", "BEGIN ATOMIC\n SELECT a;\nEND"},
		{postgres, "CREATE OR REPLACE FUNCTION f(a integer)\n RETURNS integer\n LANGUAGE sql\nRETURN (a + 1)\n", "_ a integer _", "RETURN (a + 1)"},
		{postgres, "CREATE FUNCTION f() RETURNS trigger LANGUAGE plpgsql SET search_path TO 'a' AS $x$ $1 $x$", "", " $1 "},
		{mariadb, "FUNCTION `fee`(`a b` int, c decimal(4,1) unsigned) RETURNS int(11)\n    DETERMINISTIC\nRETURN a + 1", "_ a b int _|_ c decimal(4,1) unsigned _", "RETURN a + 1"},
		{mariadb, "PROCEDURE `p`(IN a enum('x,y','z'), OUT b int)\n    READS SQL DATA\nBEGIN\n  SELECT a INTO b;\nEND", "in a enum('x,y','z') _|out b int _", "BEGIN\n  SELECT a INTO b;\nEND"},
		{mariadb, "PROCEDURE `p`()\nUPDATE berth SET no = 1", "", "UPDATE berth SET no = 1"},
		{mariadb, "PROCEDURE `p`(a int)\n    MODIFIES SQL DATA\nINSERT INTO log SELECT a AS x FROM berth", "_ a int _", "INSERT INTO log SELECT a AS x FROM berth"},
		{mariadb, "FUNCTION `f`(a int) RETURN int(11)\nAS\nBEGIN RETURN a; END", "_ a int _", "BEGIN RETURN a; END"},
		{mariadb, "FUNCTION `f`(a varchar(9) CHARSET utf8mb4) RETURNS varchar(9) CHARSET utf8mb4\n    SQL SECURITY INVOKER\nselect a", "_ a varchar(9) CHARSET utf8mb4 _", "select a"},
		{sqlServer, "CREATE PROCEDURE [nav].[light] @id int, @note nvarchar(40) = N'a, b', @sum int = 1 OUTPUT, @list nav.ids READONLY\nWITH EXECUTE AS OWNER AS\nBEGIN SELECT 1 END", "_ @id int _|_ @note nvarchar(40) N'a, b'|inout @sum int 1|readonly @list nav.ids _", "BEGIN SELECT 1 END"},
		{sqlServer, "CREATE FUNCTION nav.f (@a AS int, @b numeric(4,1) = 0) RETURNS TABLE AS RETURN (SELECT @a AS x)", "_ @a int _|_ @b numeric(4,1) 0", "RETURN (SELECT @a AS x)"},
		{sqlServer, "CREATE PROC p AS SELECT 1;", "", "SELECT 1"},
		{sqlServer, "CREATE PROCEDURE p @a AS int = NULL, @b AS nav.ids READONLY, @c CURSOR VARYING OUTPUT AS SELECT @a", "_ @a int NULL|readonly @b nav.ids _|inout @c CURSOR VARYING _", "SELECT @a"},
		{postgres, "CREATE FUNCTION (", "", ""},
		{postgres, "", "", ""},
	} {
		h := RoutineHead(c.text, c.rules)
		var got []string
		for _, p := range h.Parameters {
			words := []string{p.Mode, p.Name, p.Type, p.Default}
			for i := range words {
				if words[i] == "" {
					words[i] = "_"
				}
			}
			got = append(got, strings.Join(words, " "))
		}
		if strings.Join(got, "|") != c.parameters {
			t.Errorf("%s:\nparameters %q\nwant       %q", c.text, strings.Join(got, "|"), c.parameters)
		}
		if body := c.text[h.Body:h.End]; c.body != "" && body != c.body {
			t.Errorf("%s: body %q", c.text, body)
		}
	}
}

// Whatever a text is, its head ends within it.
func FuzzRoutineHead(f *testing.F) {
	for _, seed := range []string{"CREATE FUNCTION f(a int = 1) RETURNS int AS $$x$$", "PROCEDURE p(IN a int) BEGIN END", "CREATE PROC p @a int OUTPUT AS SELECT 1"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, rules := range []Rules{{DollarQuotes: true, FoldLower: true}, {Backticks: true, BackslashEscapes: true}, {Brackets: true}} {
			if h := RoutineHead(text, rules); h.Body < 0 || h.End > len(text) || h.Body > h.End {
				t.Errorf("%q: %s", text, fmt.Sprint(h))
			}
		}
	})
}
