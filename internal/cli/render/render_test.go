package render

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"strings"
	"testing"
	"time"
	"unicode/utf8"
)

func TestVisible(t *testing.T) {
	for in, want := range map[string]string{
		"berth":                  "berth",
		"Ålesund 港":              "Ålesund 港",
		"two\nlines\tand\r":      `two\nlines\tand\r`,
		"\x1b[31mred":            `\x1b[31mred`,
		"\u202egnp.exe":          `\u202egnp.exe`,
		"zero\u200bwidth\u2028x": `zero\u200bwidth\u2028x`,
		"bad\xff":                `bad\xff`,
		"\x9bm":                  `\x9bm`,
		"\u009bm":                `\u009bm`,
	} {
		if got := Visible(in); got != want {
			t.Errorf("Visible(%q) = %q, want %q", in, got, want)
		}
	}
	if got := VisibleLines("a\r\nb\tc\x07"); got != "a\nb\tc\\x07" {
		t.Errorf("%q", got)
	}
}

func TestFit(t *testing.T) {
	for _, c := range []struct {
		in    string
		width int
		want  string
	}{
		{"mooring", 7, "mooring"}, {"mooring", 6, "moori…"}, {"mooring", 1, "…"}, {"港港港", 6, "港港港"}, {"港港港", 5, "港港…"}, {"港港港", 4, "港…"}, {"e\u0301e\u0301e\u0301", 2, "e\u0301…"},
		{"👩‍👩‍👧x", 3, "👩‍👩‍👧x"}, {"", 3, ""},
	} {
		got := Fit(c.in, c.width)
		if got != c.want || Width(got) > c.width || !utf8.ValidString(got) {
			t.Errorf("Fit(%q, %d) = %q, want %q", c.in, c.width, got, c.want)
		}
	}
}

func TestNumbers(t *testing.T) {
	for n, want := range map[int]string{0: "0", 999: "999", 1000: "1,000", 31001: "31,001", 1234567: "1,234,567", -5: "-5", -1234: "-1,234"} {
		if got := Count(n); got != want {
			t.Errorf("Count(%d) = %s", n, got)
		}
	}
	for n, want := range map[int64]string{0: "0 B", 999: "999 B", 1000: "1.0 kB", 99_400: "99.4 kB", 99_500: "100 kB", 999_499: "999 kB", 999_500: "1.0 MB", 5_300_000_000: "5.3 GB"} {
		if got := Bytes(n); got != want {
			t.Errorf("Bytes(%d) = %s, want %s", n, got, want)
		}
	}
	for d, want := range map[time.Duration]string{0: "just now", -time.Hour: "just now", 6 * time.Second: "6 seconds ago", 119 * time.Second: "119 seconds ago", 2 * time.Minute: "2 minutes ago", 47 * time.Hour: "47 hours ago", 49 * time.Hour: "2 days ago"} {
		if got := Age(d); got != want {
			t.Errorf("Age(%v) = %s, want %s", d, got, want)
		}
	}
	if got := Plural(1, "table", "tables") + ", " + Plural(2000, "index", "indexes"); got != "1 table, 2,000 indexes" {
		t.Error(got)
	}
	if Took(1500*time.Microsecond) != "1 ms" || Took(2340*time.Millisecond) != "2.3 s" {
		t.Error("durations")
	}
}

func TestWrap(t *testing.T) {
	text := Wrap("the berth is taken by the evening ferry", 14, "  ")
	if want := "the berth is\n  taken by the\n  evening ferry"; text != want {
		t.Errorf("%q", text)
	}
	if got := Wrap("a  b\n c", 0, ""); got != "a  b\n c" {
		t.Errorf("without a width: %q", got)
	}
}

func table() *Table {
	t := &Table{Columns: []Column{{Title: "name", Min: 6}, {Title: "rows", Right: true}, {Title: "empty"}, {Title: "comment", Min: 8}}}
	t.Add("mooring", "900", "", "where a vessel | lies <b>")
	t.Add("=cmd()", "-5", "", "+1")
	t.Add("line\nbreak", "", "", "@x")
	return t
}

func TestTableText(t *testing.T) {
	var b bytes.Buffer
	if err := table().Text(&b, 0, Paint{}); err != nil {
		t.Fatal(err)
	}
	want := "name         rows  comment\nmooring       900  where a vessel | lies <b>\n=cmd()         -5  +1\nline\\nbreak        @x\n"
	if b.String() != want {
		t.Errorf("got\n%s\nwant\n%s", b.String(), want)
	}
	b.Reset()
	if err := table().Text(&b, 30, Paint{}); err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(b.String(), "\n") {
		if Width(line) > 30 || strings.HasSuffix(line, " ") {
			t.Errorf("a line of %d columns: %q", Width(line), line)
		}
	}
	if !strings.Contains(b.String(), "900") || !strings.Contains(b.String(), "…") {
		t.Errorf("numbers are never cut, texts are:\n%s", b.String())
	}
}

func TestTableForms(t *testing.T) {
	var b bytes.Buffer
	if err := table().CSV(&b); err != nil {
		t.Fatal(err)
	}
	records, err := csv.NewReader(&b).ReadAll()
	if err != nil || len(records) != 4 {
		t.Fatalf("%v %v", records, err)
	}
	for _, c := range []struct {
		row, column int
		want        string
	}{{1, 0, "mooring"}, {2, 0, "'=cmd()"}, {2, 1, "-5"}, {2, 3, "+1"}, {3, 3, "'@x"}, {3, 0, "line\nbreak"}} {
		if got := records[c.row][c.column]; got != c.want {
			t.Errorf("row %d, column %d: %q, want %q", c.row, c.column, got, c.want)
		}
	}
	b.Reset()
	if err := table().Markdown(&b); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"| name | rows | empty | comment |", "|---|---:|---|---|", `where a vessel \| lies &lt;b>`, `line\\nbreak`} {
		if !strings.Contains(b.String(), want) {
			t.Errorf("Markdown lacks %q:\n%s", want, b.String())
		}
	}
}

// What is set off stays so where a cell is cut.
func TestTableTextCutSpans(t *testing.T) {
	for width, want := range map[int]string{
		0:  "the \x1b[M" + "tide\x1b[0m turns at \x1b[M" + "tide\x1b[0m end",
		20: "the \x1b[M" + "tide\x1b[0m turns at \x1b[M" + "t\x1b[0m…",
		12: "the \x1b[M" + "tide\x1b[0m tu…",
		7:  "the \x1b[M" + "ti\x1b[0m…",
		4:  "the…",
	} {
		table := &Table{NoHead: true, Columns: []Column{{Min: 2}}}
		table.AddCells(Cell{Text: "the tide turns at tide end", Spans: [][2]int{{4, 8}, {18, 22}}})
		var b bytes.Buffer
		if err := table.Text(&b, width, Paint{On: true}); err != nil {
			t.Fatal(err)
		}
		if want = strings.ReplaceAll(want, "\x1b[M", "\x1b["+string(Hit)+"m") + "\n"; b.String() != want {
			t.Errorf("width %d: %q, want %q", width, b.String(), want)
		}
	}
}

// A column to keep is cut last, and only as far as it must be.
func TestTableTextKeeps(t *testing.T) {
	for width, want := range map[int]string{
		0:  "quay-live/berths/mooring  NUMERIC(3,1)\n",
		34: "quay-live/berths/mooring  NUMERIC…\n",
		32: "quay-live/berths/mooring  NUMER…\n",
		28: "quay-live/berths/mo…  NUMER…\n",
	} {
		table := &Table{NoHead: true, Columns: []Column{{Min: 10, Keep: true}, {Min: 6}}}
		table.Add("quay-live/berths/mooring", "NUMERIC(3,1)")
		var b bytes.Buffer
		if err := table.Text(&b, width, Paint{}); err != nil {
			t.Fatal(err)
		}
		if b.String() != want {
			t.Errorf("width %d: %q, want %q", width, b.String(), want)
		}
	}
}

// JSON holds no character that a terminal obeys, and means what was put in.
func TestJSONOnATerminal(t *testing.T) {
	want := "berth\x1b[2J\x7f\u0085\u009b31m\u202eeulb\u2066\u200b\U000e0041é日本\n\"\\"
	var b strings.Builder
	if err := JSON(&b, map[string]string{"name": want, want: "x"}); err != nil {
		t.Fatal(err)
	}
	for _, r := range strings.ReplaceAll(b.String(), "\n", "") {
		if hidden(r) {
			t.Errorf("%U in %q", r, b.String())
		}
	}
	var got map[string]string
	if err := json.Unmarshal([]byte(b.String()), &got); err != nil || got["name"] != want || got[want] != "x" {
		t.Errorf("%q, %v", got, err)
	}
}
