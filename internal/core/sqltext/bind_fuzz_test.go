package sqltext

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// FuzzBind parses and binds whatever text: it ends, without a panic, and every place lies in the text.
func FuzzBind(f *testing.F) {
	files, err := filepath.Glob("testdata/references/*.sql")
	if err != nil || len(files) == 0 {
		f.Fatal(err)
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			f.Fatal(err)
		}
		for _, c := range strings.Split(string(text), "\n---\n") {
			f.Add(c)
		}
	}
	for _, s := range []string{"((((((", "SELECT (((SELECT 1", "CASE CASE CASE", "BEGIN BEGIN IF", "WITH a AS (WITH a AS (", "SELECT * FROM a JOIN b USING (", "EXECUTE 'EXECUTE ''EXECUTE x'''", "a.b.c.d.e.f", "a.b.c..d", "a..b.c.d", "SELECT a.b.c..d FROM a.b..c", "..", "SELECT [", "@a.b.c()", "x := := ="} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, rules := range []Rules{lite, pg, my, ms} {
			w := worldOf("postgres", "-- table a: b c\n-- table berth: no name\n-- path public")
			w.rules = rules
			c := Context{World: w, Trigger: []*Relation{w.Relation([]string{"berth"})}, Row: w.Relation([]string{"a"}), Parameters: []RowParameter{{Name: "x"}}, Names: true}
			for _, tree := range []*Tree{Parse(text, &rules), ParseExpression(text, &rules)} {
				for _, r := range Bind(tree, c) {
					if r.Start < 0 || r.Stop < r.Start || r.Stop > len(text) {
						t.Fatalf("%+v in %q", r, text)
					}
				}
			}
		}
	})
}

// The time to understand a text grows with its length, however its brackets and blocks are nested.
func BenchmarkBind(b *testing.B) {
	text, err := os.ReadFile("testdata/references/postgres.sql")
	if err != nil {
		b.Fatal(err)
	}
	w := worldOf("postgres", strings.Split(string(text), "\n---\n")[0])
	bodies := strings.Split(string(text), "\n---\n")[1:]
	for _, c := range []struct {
		name  string
		texts []string
	}{
		{"bodies", bodies},
		{"whole", []string{strings.Repeat(strings.Join(bodies, ";\n"), 20)}},
		{"brackets", []string{strings.Repeat("(", 500_000) + strings.Repeat(")", 500_000)}},
		{"queries", []string{strings.Repeat("(SELECT 1 FROM ", 60_000)}},
		{"blocks", []string{strings.Repeat("BEGIN ", 160_000)}},
		{"cases", []string{strings.Repeat("CASE WHEN ", 100_000)}},
		{"operands", []string{"SELECT " + strings.Repeat("a+", 500_000) + "a FROM ops.berth"}},
	} {
		b.Run(c.name, func(b *testing.B) {
			b.SetBytes(int64(len(strings.Join(c.texts, ""))))
			var m Memory
			for b.Loop() {
				for _, text := range c.texts {
					Bind(m.Parse(text, &w.rules), Context{World: w})
				}
			}
		})
	}
}
