package address

import (
	"errors"
	"strings"
	"testing"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// brief writes an address as its parts: kind|path|outer,…|when|names,…|signature; q marks quoted names.
func brief(a Address) string {
	listed := func(list []names.Name) string {
		var texts []string
		for _, n := range list {
			s := n.Text
			if n.Quoted {
				s = "q:" + s
			}
			texts = append(texts, s)
		}
		return strings.Join(texts, ",")
	}
	signature := "-"
	if a.Signature != nil {
		signature = *a.Signature
	}
	return strings.Join([]string{string(a.Kind), a.Path, listed(a.Outer), a.When, listed(a.Names), signature}, "|")
}

func TestParseAddress(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"mooring", "||||mooring|-"},
		{"ops.mooring", "||||ops,mooring|-"},
		{"ops.mooring.draught_m", "||||ops,mooring,draught_m|-"},
		{"quay-live/berths/ops.mooring.draught_m", "||quay-live,berths||ops,mooring,draught_m|-"},
		{"berths/mooring", "||berths||mooring|-"},
		{"quay-live/", "||quay-live|||-"},
		{"quay-live/berths@1", "||quay-live,berths|1||-"},
		{"berths@2026-03-01T10:30/m", "||berths|2026-03-01T10:30|m|-"},
		{"index:ops.mooring_idx", "index||||ops,mooring_idx|-"},
		{"materialised-view:x", "materialised view||||x|-"},
		{"ops.charge(int, text)", "||||ops,charge|int, text"},
		{"ops.charge()", "||||ops,charge|"},
		{"charge(numeric(5,2))", "||||charge|numeric(5,2)"},
		{`"lost property"."found where"`, "||||q:lost property,q:found where|-"},
		{`"a""b/c.d"`, `||||q:a"b/c.d|-`},
		{`"my/server"/"data.base"/t`, "||q:my/server,q:data.base||t|-"},
		{"my.server/data.base/t", "||my.server,data.base||t|-"},
		{"./export.json/t", "|./export.json/t||||-"},
		{"table:~/x", "table|~/x||||-"},
		{"m*_?%", "||||m*_?%|-"},
	} {
		a, err := Parse(c.text)
		if err != nil || brief(a) != c.want {
			t.Errorf("%s: %s, %v; want %s", c.text, brief(a), err, c.want)
		}
	}
	for _, c := range []struct{ text, says string }{
		{"", "empty"}, {"a.b.c.d", "dots"}, {"a/b/c/d", "slashes"}, {`"open`, "not closed"}, {"a..b", "name is missing"}, {"nokind:x", "no kind"},
		{"a@", "nothing stands behind"}, {"f(int", "not closed"}, {"f(int)x", "behind the argument types"}, {`"a"b`, "behind a closing quote"},
		{`a"b"`, "quote the whole name"}, {"//x", ""}, {"a//b", "missing"},
	} {
		a, err := Parse(c.text)
		var wrong *Error
		if c.says == "" {
			if a.Path == "" {
				t.Errorf("%q is no path", c.text)
			}
			continue
		}
		if !errors.As(err, &wrong) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q: %v; want an error with %q", c.text, err, c.says)
		}
	}
}

// A location is written so that it parses back to the same parts, whatever the names hold.
func TestLocationParsesBack(t *testing.T) {
	hostile := []string{"plain", "with blank", `qu"ote`, "a.b", "a/b", "a@1", "a:b", "*", "%", "?", "(x)", "a,b", "~x", "line\nbreak", "\x1b[31m", "../up", "ärger", "", "."}
	for _, name := range hostile {
		for _, l := range []schema.Location{
			{Server: name, Database: "d", ID: schema.ID{Kind: schema.KindTable, Name: "t"}, Part: "p"},
			{Server: "s", Database: name, ID: schema.ID{Kind: schema.KindTable, Schema: "x", Name: "t"}},
			{Server: "s", Database: "d", ID: schema.ID{Kind: schema.KindTable, Schema: name, Name: "t"}},
			{Server: "s", Database: "d", ID: schema.ID{Kind: schema.KindTable, Schema: "x", Name: name}, Part: "p"},
			{Server: "s", Database: "d", ID: schema.ID{Kind: schema.KindTable, Schema: "x", Name: "t"}, Part: name},
		} {
			if l.ID.Name == "" || l.Database == "" { // means "none"
				continue
			}
			a, err := Parse(l.String())
			if err != nil {
				t.Errorf("%q: %v", l.String(), err)
				continue
			}
			want := []string{l.Server, l.Database}
			if l.ID.Schema != "" {
				want = append(want, l.ID.Schema)
			}
			want = append(want, l.ID.Name)
			if l.Part != "" {
				want = append(want, l.Part)
			}
			var got []string
			for _, n := range append(a.Outer, a.Names...) {
				if n.IsPattern() {
					t.Errorf("%q: %q came back as a pattern", l.String(), n.Text)
				}
				got = append(got, n.Text)
			}
			if strings.Join(got, "\x00") != strings.Join(want, "\x00") {
				t.Errorf("%q came back as %q, want %q", l.String(), got, want)
			}
		}
	}
}

// An address that is read and written again means the same.
func FuzzParseAddress(f *testing.F) {
	for _, seed := range []string{"mooring", "quay-live/berths/ops.mooring.draught_m", `"a/b"/c@1/"x.y"(int, text)`, "./dir/snap.json/ops.mooring", "table:ops.*", "berths@2026-03-01T10:30/m", `"`, "a@", "/", "x(", "\xff"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, s string) {
		a, err := Parse(s)
		if err != nil {
			return
		}
		for _, n := range append(a.Outer, a.Names...) {
			if again, err := Parse(names.Quote(n.Text)); err != nil && n.Text != "" {
				t.Errorf("%q of %q cannot be quoted: %v", n.Text, s, err)
			} else if err == nil && n.Quoted && len(again.Names) == 1 && again.Names[0].Text != n.Text {
				t.Errorf("%q of %q becomes %q", n.Text, s, again.Names[0].Text)
			}
		}
	})
}
