package sqltext

import (
	"database/sql"
	"fmt"
	"math/rand/v2"
	"testing"

	_ "modernc.org/sqlite"
)

var meaningRules = map[string]Rules{
	"postgres": {EscapeStrings: true, DollarQuotes: true, NestedComments: true, FoldLower: true},
	"mariadb":  {VariablesFirst: true, CaseMatters: true, Backticks: true, BackslashEscapes: true, DoubleQuoteStrings: true, HashComments: true, DashNeedsBlank: true},
	"sqlite":   {Backticks: true, Brackets: true, MembershipInTable: true},
	"mssql":    {HashNames: true, CaseMatters: true, Brackets: true, BracketEscapes: true, NestedComments: true},
}

func TestMeaning(t *testing.T) {
	for _, c := range []struct {
		dialect, a, b string
		same          bool
	}{
		{"postgres", "(depth > 0)", "depth>0", true},
		{"postgres", "((depth > 0) AND (no IS NOT NULL))", "depth > 0 and no is not null", true},
		{"postgres", "((a OR b) AND c)", "a OR b AND c", false},
		{"postgres", "(a OR (b AND c))", "a OR b AND c", true},
		{"postgres", "(a + b) * c", "a + b * c", false},
		{"postgres", "a - (b - c)", "a - b - c", false},
		{"postgres", "(a - b) - c", "a - b - c", true},
		{"postgres", "a + (b + c)", "a + b + c", false},
		{"postgres", "- (a ^ b)", "- a ^ b", false},
		{"postgres", "(a || b) = c", "a || b = c", false}, // not sure is not the same
		{"postgres", "NOT (a AND b)", "NOT a AND b", false},
		{"postgres", "NOT (a = b)", "NOT a = b", true},
		{"postgres", "(a = b) IS NULL", "a = b IS NULL", false},
		{"postgres", "x IN ((SELECT 1))", "x IN (SELECT 1)", false},
		{"postgres", "lower((name))", "lower(name)", true},
		{"postgres", "('x'::text)", "'x' :: text", true},
		{"postgres", "(berth).no", "berth.no", false},
		{"postgres", "SELECT (a, b)", "SELECT a, b", false},
		{"postgres", "x BETWEEN 1 AND (2 AND y)", "x BETWEEN 1 AND 2 AND y", false},
		{"postgres", `SELECT "no" FROM ops.berth`, "select no from berth;", true},
		{"postgres", `SELECT "No" FROM berth`, "select No from berth", false},
		{"postgres", `SELECT "user"`, "SELECT user", false},
		{"postgres", "SELECT 1 FROM dev.berth", "SELECT 1 FROM berth", false},
		{"postgres", "SELECT 'A  b'", "SELECT 'a b'", false},
		{"postgres", "a != b", "a <> b", true},
		{"postgres", "SELECT 1 -- why\n", "SELECT 1", false},
		{"postgres", "AS $$ SELECT  1 $$", "AS $f$SELECT 1$f$", true},
		{"postgres", "AS $$ SELECT  1 $$", "AS $$ SELECT  2 $$", false},
		{"mariadb", "select `a`.`no` from (`berth` `a` join `pilot` `p` on(`a`.`no` = `p`.`no`)) where `a`.`no` > 1", "SELECT a.no FROM berth a INNER JOIN pilot p ON (a.no = p.no) WHERE (a.no > 1)", true},
		{"mariadb", "select 1 from a join (b join c on b.x = c.x) on a.x = b.x", "select 1 from a join b join c on b.x = c.x on a.x = b.x", false},
		{"mariadb", "select 1 from Berth", "select 1 from berth", false},
		{"sqlite", "CHECK (length(\"Code\") = 3)", "check (LENGTH(code)=3)", true},
		{"sqlite", "a, (b)", "a, b", true},
		{"mssql", "([depth]>(0))", "depth > 0", true},
		{"mssql", "[Depth] > 0", "depth > 0", false},
		{"sqlite", "VALUES ((1))", "VALUES (1)", true},
		{"sqlite", "(", "((", false},
		{"sqlite", "CASE WHEN (a = 1) THEN (2) ELSE (b + 1) END", "case when a = 1 then 2 else b + 1 end", true},
		{"sqlite", "(CASE WHEN a THEN 1 ELSE 2 END) + 1", "CASE WHEN a THEN 1 ELSE 2 END + 1", true},
	} {
		if got := SameMeaning(c.a, c.b, meaningRules[c.dialect], "ops"); got != c.same {
			t.Errorf("%s: %s, %s: %v\n%s\n%s", c.dialect, c.a, c.b, got, Meaning(c.a, meaningRules[c.dialect], "ops"), Meaning(c.b, meaningRules[c.dialect], "ops"))
		}
	}
}

// A text and its one form give the same values, whatever brackets there were.
func TestMeaningKeepsValues(t *testing.T) {
	db, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	random := rand.New(rand.NewPCG(3, 7))
	value := func(text string) (v sql.NullString, err error) {
		err = db.QueryRow("WITH t (a, b, c) AS (VALUES (3, NULL, 7)) SELECT " + text + " FROM t").Scan(&v)
		return v, err
	}
	fewer := 0
	for range 20000 {
		text := randomExpression(random, 4)
		plain := Meaning(text, meaningRules["sqlite"], "")
		x, err := value(text)
		if err != nil { // an operand that has to stand in brackets
			continue
		}
		if y, err := value(plain); x != y || err != nil {
			t.Fatalf("%s is %v\n%s is %v, %v", text, x, plain, y, err)
		}
		if again := Meaning(plain, meaningRules["sqlite"], ""); again != plain {
			t.Fatalf("%s\n%s\n%s", text, plain, again)
		}
		if len(plain) < len(text) {
			fewer++
		}
	}
	if fewer < 10000 {
		t.Errorf("only %d texts became shorter", fewer)
	}
}

func randomExpression(random *rand.Rand, depth int) string {
	if depth == 0 || random.IntN(6) == 0 {
		return []string{"a", "b", "c", "t.a", "1", "0", "-2", "NULL", "'x'", "abs(c)"}[random.IntN(10)]
	}
	sub := func() string {
		s := randomExpression(random, depth-1)
		if random.IntN(2) == 0 {
			s = "(" + s + ")"
		}
		return s
	}
	switch random.IntN(12) {
	case 0:
		return "NOT " + sub()
	case 1:
		return sub() + " IS NULL"
	case 2:
		return sub() + " IS NOT NULL"
	case 3:
		return sub() + " BETWEEN " + sub() + " AND " + sub()
	case 4:
		return sub() + " IN (" + sub() + ", " + sub() + ")"
	case 5:
		return "CASE WHEN " + sub() + " THEN " + sub() + " ELSE " + sub() + " END"
	case 6:
		return "- (" + sub() + ")"
	}
	return fmt.Sprintf("%s %s %s", sub(), []string{"+", "-", "*", "/", "%", "=", "<>", "<", ">=", "AND", "OR", "||", "IS", "<<"}[random.IntN(14)], sub())
}
