package catalogue

import (
	"context"
	"encoding/json"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"echo-atlas/internal/core/schema"
)

func TestLinesOfExports(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	pieces := []string{"\n", "\\", `\n`, `"`, "SELECT 1", " ", "\r\n", `{"lines": [`, "]}", ",", "\t", "é", "\x01", "lines", ":"}
	for range 5000 {
		var b strings.Builder
		for range random.IntN(8) {
			b.WriteString(pieces[random.IntN(len(pieces))])
		}
		type inner struct {
			Query string   `json:"query"`
			List  []string `json:"list"`
		}
		v := struct {
			Name  string `json:"name"`
			Lines string `json:"lines"`
			Inner inner  `json:"inner"`
		}{b.String(), b.String(), inner{b.String(), []string{b.String(), "x"}}}
		text, err := canonical(v)
		if err != nil {
			t.Fatal(err)
		}
		got := v
		got.Name, got.Inner = "", inner{}
		if err := json.Unmarshal(joinLines(text), &got); err != nil {
			t.Fatalf("%v:\n%s\n%s", err, text, joinLines(text))
		}
		if got.Name != v.Name || got.Lines != v.Lines || got.Inner.Query != v.Inner.Query || got.Inner.List[0] != v.Inner.List[0] {
			t.Fatalf("%q came back as %q:\n%s", v, got, text)
		}
		if strings.Contains(b.String(), "\n") && strings.Count(string(text), "\n") < strings.Count(b.String(), "\n") {
			t.Fatalf("lines are not apart:\n%s", text)
		}
	}
}

// Texts that JSON cannot hold as they are come back from an export byte for byte.
func TestExportOfOtherBytes(t *testing.T) {
	ctx := context.Background()
	c := open(t, t.TempDir())
	r := estate(3)
	r.Objects[0].Comment = `a \ufffd that is text, and one: ` + "\ufffd"
	r.Objects[1].Name, r.Objects[1].Comment = "t\xff", "two\n\xfe lines \U0010ff99"
	s, _ := save(t, c, r)
	s.Remarks = append(s.Remarks, schema.Remark{State: "note", Reason: "\xe9"})
	text, err := c.Export(ctx, s, nil)
	if err != nil || !utf8.Valid(text) {
		t.Fatal(err)
	}
	files, err := c.ExportFiles(ctx, s, nil)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	files["../whole.json"] = text
	for name, body := range files {
		path := filepath.Join(dir, "folder", name)
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, body, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	byID := func(a, b *schema.Object) int { return a.ID().Compare(b.ID()) }
	slices.SortFunc(r.Objects, byID)
	for _, from := range []string{"folder", "whole.json"} {
		back, _, err := Import(filepath.Join(dir, from))
		if err != nil {
			t.Fatal(err)
		}
		if slices.SortFunc(back.Objects, byID); !reflect.DeepEqual(back.Objects, r.Objects) || back.Remarks[len(back.Remarks)-1].Reason != "\xe9" {
			t.Errorf("%s: other objects came back: %+v %q", from, back.Objects[1], back.Remarks)
		}
	}
}
