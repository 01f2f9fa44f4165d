package exchange

import (
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"
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
