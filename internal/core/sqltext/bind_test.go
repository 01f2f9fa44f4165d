package sqltext

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

var ms = Rules{HashNames: true, Brackets: true, BracketEscapes: true, NestedComments: true}

// noted is a world that a test file names in its first lines.
type noted struct {
	rules     Rules
	relations map[string][]string
	others    map[string]bool // "routine ops.charge", "type ops.state", "sequence ops.no"
	path      []string
	known     map[string]answer // what was asked for before: benchmarks measure what asks
	key       []byte
}

type answer struct {
	relation *Relation
	other    []any
}

func (w *noted) Same(a, b string) bool {
	return a == b || !w.rules.FoldLower && strings.EqualFold(a, b)
}

// ask finds a thing of a kind, "" for a relation.
func (w *noted) ask(what string, name []string) answer {
	w.key = append(w.key[:0], what...)
	for _, part := range name {
		w.key = append(append(w.key, '.'), part...)
	}
	a, ok := w.known[string(w.key)]
	if !ok {
		a = w.find(what, strings.Join(name, "."))
		w.known[string(w.key)] = a
	}
	return a
}

func (w *noted) find(what, full string) (a answer) {
	if !w.rules.FoldLower {
		full = strings.ToLower(full)
	}
	for _, schema := range append([]string{""}, w.path...) {
		try := strings.TrimPrefix(schema+"."+full, ".")
		if columns, ok := w.relations[try]; ok && what == "" {
			return answer{relation: &Relation{Key: try, Columns: columns}}
		}
		if w.others[what+" "+try] {
			return answer{other: []any{try}}
		}
	}
	return a
}

func (w *noted) Relation(name []string) *Relation { return w.ask("", name).relation }

func (w *noted) other(what string, name []string) any {
	if found := w.ask(what, name).other; found != nil {
		return found[0]
	}
	return nil
}

func (w *noted) Routines(name []string, args int) ([]any, bool) {
	return w.ask("routine", name).other, false
}

func (w *noted) Returned(name []string) *Relation {
	if _, row, ok := strings.Cut(name[len(name)-1], "_rows_of_"); ok {
		return w.Relation([]string{row})
	}
	return nil
}

func (w *noted) Type(name []string) any { return w.other("type", name) }

func (w *noted) Sequence(name []string) any { return w.other("sequence", name) }

// Each file says in its first lines what exists, and behind each name, in a comment, what it refers to: r read, w written, c called,
// t as a type, n numbers taken, ! missing, ? SQL that cannot be seen; ~ in front: guessed. A reference without a note is an
// error, and so is a note that is not met.
func TestReferences(t *testing.T) {
	files, err := filepath.Glob("testdata/references/*.sql")
	if err != nil || len(files) < 4 {
		t.Fatalf("%v, %v", files, err)
	}
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			text, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			cases := strings.Split(string(text), "\n---\n")
			w := worldOf(strings.TrimSuffix(filepath.Base(file), ".sql"), cases[0])
			for _, c := range cases[1:] {
				annotated(t, w, c)
			}
			if len(cases) < 80 {
				t.Errorf("only %d cases", len(cases)-1)
			}
			t.Logf("%d cases", len(cases)-1)
		})
	}
}

func worldOf(dialect, head string) *noted {
	my := my
	my.VariablesFirst = true
	w := &noted{rules: map[string]Rules{"postgres": pg, "mariadb": my, "sqlite": lite, "sqlserver": ms}[dialect], relations: map[string][]string{}, others: map[string]bool{}, known: map[string]answer{}}
	for line := range strings.Lines(head) {
		words := strings.Fields(strings.TrimPrefix(line, "--"))
		switch {
		case len(words) < 2:
		case words[0] == "table":
			w.relations[strings.TrimSuffix(words[1], ":")] = words[2:]
		case words[0] == "path":
			w.path = words[1:]
		default:
			w.others[words[0]+" "+words[1]] = true
		}
	}
	return w
}

// annotated checks one case.
func annotated(t *testing.T, w *noted, text string) {
	t.Helper()
	c := Context{World: w}
	expression := false
	for line := range strings.Lines(text) {
		words := strings.Fields(strings.TrimPrefix(line, "--"))
		if !strings.HasPrefix(line, "-- ") || len(words) < 2 {
			continue
		}
		switch words[0] {
		case "trigger":
			for _, name := range words[1:] {
				c.Trigger = append(c.Trigger, w.Relation(strings.Split(name, ".")))
			}
		case "parameters":
			for _, name := range words[1:] {
				name, row, _ := strings.Cut(name, ":")
				c.Parameters = append(c.Parameters, RowParameter{Name: name, Row: w.Relation([]string{row})})
			}
		case "rows":
			name, of, _ := strings.Cut(words[1], "=")
			if c.Rows == nil {
				c.Rows = map[string]*Relation{}
			}
			c.Rows[name] = w.Relation(strings.Split(of, "."))
		case "row":
			c.Row, expression = w.Relation([]string{words[1]}), true
		}
	}
	parse := Parse
	if expression {
		parse = ParseExpression
	}
	got := map[int][]string{}
	for _, r := range Bind(parse(text, &w.rules), c) {
		note := [...]string{RefReads: "r", RefWrites: "w", RefCalls: "c", RefTypes: "t", RefNumbers: "n", RefUnseen: "?", RefMissing: "!"}[r.Use]
		switch {
		case r.Use == RefMissing:
			note += " " + strings.Join(r.Names, ".")
		case r.Key != nil:
			note += " " + strings.TrimSuffix(fmt.Sprintf("%v.%s", r.Key, r.Column), ".")
		}
		if r.Guessed && r.Use != RefUnseen {
			note = "~" + note
		}
		at := r.Stop
		for at < len(text) && (strings.IndexByte(" \n\t'", text[at]) >= 0) {
			at++
		}
		if !slices.Contains(got[at], note) {
			got[at] = append(got[at], note)
		}
	}
	fail := func(at int, what string, notes []string) {
		line := strings.Count(text[:at], "\n") + 1
		t.Errorf("line %d: %s %s in\n%s", line, what, strings.Join(notes, "; "), text)
	}
	for at := 0; at < len(text); at++ {
		if !strings.HasPrefix(text[at:], "/*") {
			continue
		}
		end := at + strings.Index(text[at:], "*/")
		note := strings.TrimSpace(text[at+2 : end])
		if len(note) < 1 || !strings.ContainsRune("rwctn!?~", rune(note[0])) || len(note) > 1 && note[0] != '~' && note[1] != ' ' {
			continue
		}
		var missed, invented []string
		want := strings.Split(note, "; ")
		for _, n := range want {
			if !slices.Contains(got[at], n) {
				missed = append(missed, n)
			}
		}
		for _, n := range got[at] {
			if !slices.Contains(want, n) {
				invented = append(invented, n)
			}
		}
		if len(missed) > 0 {
			fail(at, "missed", missed)
		}
		if len(invented) > 0 {
			fail(at, "invented", invented)
		}
		delete(got, at)
	}
	for at, notes := range got {
		fail(min(at, len(text)), "invented", notes)
	}
}
