package sqltext

import (
	"strings"
	"testing"
)

var (
	lite = Rules{Backticks: true, Brackets: true, MembershipInTable: true}
	pg   = Rules{EscapeStrings: true, DollarQuotes: true, NestedComments: true, FoldLower: true}
	my   = Rules{Backticks: true, BackslashEscapes: true, HashComments: true, DashNeedsBlank: true, DoubleQuoteStrings: true}
)

func TestTokens(t *testing.T) {
	kinds := map[TokenKind]string{Word: "w", QuotedName: "q", String: "s", Number: "n", Symbol: "y", Placeholder: "p", Broken: "b"}
	for _, c := range []struct {
		rules      Rules
		text, want string
	}{
		{lite, `a "b""c" [d]]e] 'it''s'`, `w:a q:"b""c" q:[d] y:] w:e y:] s:'it''s'`},
		{lite, "x--y\n1.5e-3+.5 0xFF", "w:x n:1.5e-3 y:+ n:.5 n:0xFF"},
		{lite, "a/* b", "w:a b:/* b"},
		{lite, "'open", "b:'open"},
		{lite, "?1 :name @v $x", "p:?1 p::name p:@v p:$x"},
		{pg, `E'a\'b' x'ff' $1 $$a$$ $t$b$c$t$ é1`, `s:E'a\'b' s:x'ff' p:$1 s:$$a$$ s:$t$b$c$t$ w:é1`},
		{pg, "a::text[1:2]", "w:a y::: w:text y:[ n:1 p::2 y:]"},
		{pg, "/* /* */ x */ y $open$ z", "w:y b:$open$ z"},
		{my, "a--b -- c\n# d\n`e``f` \"str\" 'g\\'h'", "w:a y:- y:- w:b q:`e``f` s:\"str\" s:'g\\'h'"},
		{lite, "a;\x00b", "w:a y:; y:\x00 w:b"},
	} {
		var got []string
		for _, tok := range Tokens(c.text, c.rules) {
			got = append(got, kinds[tok.Kind]+":"+c.text[tok.Start:tok.End])
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%q:\n got %s\nwant %s", c.text, s, c.want)
		}
	}
}

// FuzzTokens checks that tokens cover a text in order and in bounds, whatever it holds.
func FuzzTokens(f *testing.F) {
	f.Add("SELECT 'a' FROM [b] -- c")
	f.Add("$a$ E'\\")
	f.Fuzz(func(t *testing.T, text string) {
		for _, rules := range []Rules{lite, pg, my} {
			end := 0
			for _, tok := range Tokens(text, rules) {
				if tok.Start < end || tok.End <= tok.Start || tok.End > len(text) {
					t.Fatalf("token %+v after %d in %q", tok, end, text)
				}
				end = tok.End
			}
		}
	})
}

func TestPlace(t *testing.T) {
	text := "a\r\nbé FROM x\n"
	line, column, whole := Place(text, strings.Index(text, "FROM"))
	if line != 2 || column != 4 || whole != "bé FROM x" {
		t.Errorf("%d %d %q", line, column, whole)
	}
}

func TestUnwrap(t *testing.T) {
	for in, want := range map[string]string{"((a > 0))": "a > 0", "(a) = (b)": "(a) = (b)", "(')')": "')'", "a": "a", "(a": "(a", "": "", "f(x)": "f(x)", "((a) AND (b))": "(a) AND (b)"} {
		if got := Unwrap(in, pg); got != want {
			t.Errorf("Unwrap(%q) = %q, want %q", in, got, want)
		}
	}
}

func TestRequalify(t *testing.T) {
	rename := func(q string) (string, bool) {
		switch q {
		case "ops":
			return `"New Ops"`, true
		case "gone":
			return "", true
		}
		return "", false
	}
	for _, c := range []struct{ in, want string }{
		{"SELECT ops.berth.no FROM ops.berth ops", `SELECT "New Ops".berth.no FROM "New Ops".berth ops`},
		{"SELECT ops.no FROM mooring ops", "SELECT ops.no FROM mooring ops"}, // an alias of that name
		{"SELECT 'ops.berth', \"ops\".near(1) -- ops.x", `SELECT 'ops.berth', "New Ops".near(1) -- ops.x`},
		{"nextval('ops.berth_seq'::regclass)", `nextval('"New Ops".berth_seq'::regclass)`},
		{"to_tsvector('ops.words'::regconfig, x)", `to_tsvector('"New Ops".words'::regconfig, x)`},
		{"x::ops.state COLLATE ops.island", `x::"New Ops".state COLLATE "New Ops".island`},
		{"a OPERATOR(ops.~~~) b", `a OPERATOR("New Ops".~~~) b`},
		{"SELECT * FROM gone.berth", "SELECT * FROM berth"},
	} {
		if got := Requalify(c.in, pg, rename); got != c.want {
			t.Errorf("%s became %s, want %s", c.in, got, c.want)
		}
	}
	for _, c := range []struct{ in, want string }{
		{"CREATE TYPE ops.state AS ENUM ('ops.x')", `CREATE TYPE "New Ops".state AS ENUM ('ops.x')`},
		{"a ops.metres, VARIADIC b ops.state[]", `a "New Ops".metres, VARIADIC b "New Ops".state[]`},
		{"CREATE OPERATOR ops.+ (FUNCTION = ops.plus)", `CREATE OPERATOR "New Ops".+ (FUNCTION = "New Ops".plus)`},
		{"CREATE EXTENSION x WITH SCHEMA ops", `CREATE EXTENSION x WITH SCHEMA "New Ops"`},
		{"FOR TABLES IN SCHEMA ops, TABLE other.ops", `FOR TABLES IN SCHEMA "New Ops", TABLE other.ops`},
	} {
		if got := RequalifyAll(c.in, pg, rename); got != c.want {
			t.Errorf("%s became %s, want %s", c.in, got, c.want)
		}
	}
}
