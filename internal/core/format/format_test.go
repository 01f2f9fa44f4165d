package format

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/sqltext"
)

// dialects are the rules of the dialects, as their engines say them.
var dialects = map[string]sqltext.Rules{
	"postgres":  {EscapeStrings: true, DollarQuotes: true, NestedComments: true, FoldLower: true},
	"mariadb":   {VariablesFirst: true, Backticks: true, BackslashEscapes: true, DoubleQuoteStrings: true, HashComments: true, DashNeedsBlank: true},
	"sqlite":    {Backticks: true, Brackets: true, MembershipInTable: true},
	"sqlserver": {Brackets: true, BracketEscapes: true, NestedComments: true, HashNames: true},
}

// corpus returns every SQL text of the test databases, by dialect.
func corpus(t testing.TB) map[string][]string {
	t.Helper()
	all := map[string][]string{}
	for dialect := range dialects {
		for _, pattern := range []string{"../../conformance/testdata/" + dialect + "/*.sql", "../../conformance/testdata/renames/" + dialect + ".sql", "../sqltext/testdata/references/" + dialect + ".sql", "testdata/" + dialect + "/*.sql"} {
			files, err := filepath.Glob(pattern)
			if err != nil {
				t.Fatal(err)
			}
			for _, f := range files {
				text, err := os.ReadFile(f)
				if err != nil {
					t.Fatal(err)
				}
				all[dialect] = append(all[dialect], strings.Split(string(text), "\n---\n")...)
			}
		}
		if len(all[dialect]) == 0 {
			t.Fatalf("no texts of %s", dialect)
		}
	}
	return all
}

// silent returns a text without its comments.
func silent(text string, rules sqltext.Rules) string {
	var b strings.Builder
	l, done := sqltext.Lexer{Text: text, Rules: rules, KeepComments: true}, 0
	for t := l.Next(); t.Kind != sqltext.End; t = l.Next() {
		if t.Kind == sqltext.Comment {
			b.WriteString(text[done:t.Start] + " ")
			done = t.End
		}
	}
	return b.String() + text[done:]
}

// Every word that the layout speaks of is one that it finds, in any case.
func TestWords(t *testing.T) {
	for w := wADD; w < words; w++ {
		if wordOf(texts[w].upper) != w || wordOf(texts[w].lower) != w || len(texts[w].upper) > longest {
			t.Errorf("%s is not found", texts[w].upper)
		}
	}
	for _, s := range []string{"", "x", "berth", "SELECTED", "ſelect", "sel3ct"} {
		if w := wordOf(s); w != other {
			t.Errorf("%s is %s", s, texts[w].upper)
		}
	}
	if texts[words-1].upper != "WORK" || texts[wSTRAIGHTJOIN].upper != "STRAIGHT_JOIN" || keywords.has(other) || headWords.has(other) || soft[other] != nil {
		t.Error("a list names a word that is not in the table")
	}
}

// broken reports whether a text cannot be cut into tokens, because it was written under other settings.
func broken(text string, rules sqltext.Rules) bool {
	for _, t := range sqltext.Tokens(text, rules) {
		if t.Kind == sqltext.Broken {
			return true
		}
	}
	return false
}

var styles = map[string]Style{
	"usual": Usual, "narrow": {Keywords: "lower", Indent: 2, Width: 40, CommasBefore: true}, "wide": {Keywords: "keep", Indent: 8, Width: 200, Fill: true}, "aligned": {Keywords: "upper", Indent: 4, Width: 60, Align: true},
	"bare": {Keywords: "upper", Indent: 4, Width: 80, Bare: func(name string) bool {
		return len(name) > 3 && strings.Trim(name, "abcdefghijklmnopqrstuvwxyz_") == ""
	}},
}

// Quotes go where a name means the same without them, and stay where it would be another, a string or one word with its neighbour.
func TestNeeded(t *testing.T) {
	style := Usual
	style.Bare = func(name string) bool { return name == "berth" || name == "depth_m" || name == "Quay" }
	for _, c := range []struct{ dialect, in, out string }{
		{"postgres", `select "berth"."depth_m", "no" from "ops"."berth" "b"`, `SELECT berth.depth_m, "no" FROM "ops".berth "b"`},
		{"postgres", `select "Quay", 1 as"berth", "berth"(3)`, `SELECT "Quay", 1 AS"berth", "berth"(3)`},
		{"mariadb", "select `Quay`.`depth_m` from `berth` where `x`='`berth`'", "SELECT Quay.depth_m FROM berth WHERE `x` = '`berth`'"},
		{"sqlite", "select \"berth\", [berth], `berth` from t", "SELECT \"berth\", berth, berth FROM t"},
		{"sqlserver", "select [depth_m], [a]]b] from [ops].[berth]", "SELECT depth_m, [a]]b] FROM [ops].berth"},
	} {
		if out, ok := Text(c.in, dialects[c.dialect], style); !ok || strings.TrimSpace(out) != c.out {
			t.Errorf("%s: %s gives %s, %v", c.dialect, c.in, out, ok)
		}
	}
}

// Whatever the style, the tokens stay, and what was laid out stays as it is.
func TestProperties(t *testing.T) {
	for dialect, texts := range corpus(t) {
		rules := dialects[dialect]
		for _, text := range texts {
			bare := silent(text, rules)
			if bare != text { // without comments less is done over again
				texts = append(texts, bare)
			}
			if !strings.Contains(strings.ToLower(text), "delimiter") { // which has a line of its own
				texts = append(texts, strings.ReplaceAll(bare, ", ", ", -- said\n"), strings.ReplaceAll(bare, "(", "(/* said */ "), strings.ReplaceAll(bare, " (", " -- said\n("), strings.ReplaceAll(bare, "\n", " "))
			}
		}
		for name, style := range styles {
			for _, text := range texts {
				out, ok := Text(text, rules, style)
				if !ok {
					if broken(text, rules) {
						continue
					}
					t.Errorf("%s, %s: given back as it is:\n%s", dialect, name, text)
					continue
				}
				if again, _ := Text(out, rules, style); again != out {
					t.Errorf("%s, %s: laid out again it is another text:\n%s\n----\n%s", dialect, name, out, again)
				}
			}
		}
	}
}

// A large text is laid out in pieces as it would be as a whole, also where they end within a body, a block, a comment or brackets.
func TestPieces(t *testing.T) {
	for dialect, texts := range corpus(t) {
		rules := dialects[dialect]
		long := strings.Repeat("\n\nINSERT INTO tide VALUES (1, 2);\n\nSELECT height, moment FROM tide WHERE height > 2 AND moment < '2026-01-01' AND harbour_id = 3 AND NOT falling;", pieceSize/100)
		middle := map[string]string{"statements": "", "a bracket": "SELECT (1", "a comment": "/* from here", "a string": "SELECT 'here", "a block": "BEGIN", "a routine": "CREATE FUNCTION f() RETURNS int LANGUAGE plpgsql AS $$ BEGIN RETURN 1;"}
		if rules.HashNames {
			middle["an only statement"] = "IF 1 = 1"
			middle["a command"] = "\nGO\n\n"
		}
		for name, text := range middle {
			if text != "" {
				text = strings.Join(texts, ";\n\n") + ";\n" + long + "\n" + text
			}
			text = long + text + long
			want, wantOk := newWork().text(text, rules, Usual)
			got, ok := Text(text, rules, Usual)
			if ok != wantOk || got != want {
				t.Errorf("%s, with %s in the middle: %v and %v, %d and %d bytes", dialect, name, ok, wantOk, len(got), len(want))
			}
			if pieces := pieces(parts(text, rules)); len(pieces) < 2 {
				t.Errorf("%s, with %s in the middle: %d bytes in %d pieces", dialect, name, len(text), len(pieces))
			}
			if _, apart := apiece(text, rules, Usual); name == "statements" && !apart && wantOk {
				t.Errorf("%s: statements alone are not laid out in pieces", dialect)
			}
		}
	}
}

func BenchmarkText(b *testing.B) {
	for dialect, texts := range corpus(b) {
		var plain []string
		for _, text := range texts {
			plain = append(plain, silent(text, dialects[dialect]))
		}
		for name, texts := range map[string][]string{"commented": texts, "plain": {strings.Repeat(strings.Join(plain, ";\n"), 5)}} {
			b.Run(dialect+"/"+name, func(b *testing.B) {
				n := 0
				for _, t := range texts {
					n += len(t)
				}
				b.SetBytes(int64(n))
				for b.Loop() {
					for _, t := range texts {
						Text(t, dialects[dialect], Usual)
					}
				}
			})
		}
	}
}
