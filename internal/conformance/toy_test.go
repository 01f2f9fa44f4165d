package conformance

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/cli"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// toy is a fifth engine, of a make that never was: a "server" is a folder, a database a file in it, and each line of it an
// object: "table NAME COLUMN:TYPE …" or "view NAME of TABLE". It is all that an engine has to be.
type toy struct{ folder string }

func (toy) Name() string                  { return "toy" }
func (toy) Schemes() []string             { return []string{"toy"} }
func (toy) Parameters() map[string]string { return nil }
func (toy) Quote(name string) string      { return "<" + strings.ReplaceAll(name, ">", ">>") + ">" }
func (toy) Database(string) string        { return "" }
func (toy) Queries() []string             { return []string{"-- the files of the folder"} }

func (toy) Traits() engine.Traits {
	return engine.Traits{Rules: sqltext.Rules{}, Batch: "RUN", Types: map[string]string{"whole": "number"}}
}

func (t toy) Connect(context.Context, engine.Target) (engine.Server, error) {
	if _, err := os.Stat(t.folder); err != nil {
		return nil, &engine.ConnectError{Target: "toy", Cause: "there is no such folder", Said: err}
	}
	return t, nil
}

func (t toy) Info() engine.Info {
	return engine.Info{Version: "Toy 1", User: "child", ReadOnly: "files are read"}
}

func (toy) Close() error { return nil }

func (toy) Hidden(context.Context, string) ([]schema.Remark, error) { return nil, nil }

func (t toy) Databases(context.Context) ([]string, []schema.Remark, error) {
	files, err := os.ReadDir(t.folder)
	var names []string
	for _, f := range files {
		names = append(names, f.Name())
	}
	return names, nil, err
}

func (t toy) Read(_ context.Context, database string) (*schema.Reading, error) {
	text, err := os.ReadFile(filepath.Join(t.folder, database))
	if err != nil {
		return nil, err
	}
	r := &schema.Reading{Engine: "toy", Version: "Toy 1", Database: database, User: "child", Taken: time.Now()}
	for line := range strings.Lines(string(text)) {
		words := strings.Fields(line)
		o := &schema.Object{Kind: schema.Kind(words[0]), Name: words[1], Relation: &schema.Relation{}}
		r.Objects = append(r.Objects, o)
		if o.Kind == schema.KindView {
			o.Relation.Query = "ALL OF " + t.Quote(words[3])
			r.Dependencies = append(r.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(schema.ID{Kind: schema.KindTable, Name: words[3]}),
				Use: schema.UseReads, Evidence: schema.Recorded, Field: schema.FieldQuery, Start: 7, Stop: len(o.Relation.Query)})
			continue
		}
		for _, c := range words[2:] {
			name, typ, _ := strings.Cut(c, ":")
			o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: name, Type: typ})
		}
	}
	return r, nil
}

func (t toy) Make(o *schema.Object) ([]engine.Statement, error) {
	m := engine.NewMaker(o, t.Quote(o.Name))
	if o.Kind == schema.KindView {
		m.Main(engine.Statement{Head: "MAKE VIEW " + m.Name + "\n" + o.Relation.Query})
		return m.Statements, nil
	}
	var items []string
	for _, c := range o.Relation.Columns {
		items = append(items, t.Quote(c.Name)+" "+c.Type)
	}
	m.Main(engine.Statement{Head: "MAKE TABLE " + m.Name, Items: items, Brackets: true})
	return m.Statements, nil
}

// An engine is a package and a line in the registry, and nothing else: every command answers for a fifth one.
func TestAnotherEngine(t *testing.T) {
	folder := t.TempDir()
	file := func(name, text string) {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	file("berths", "view deep of berth\ntable berth no:number depth:number\n")
	file("tides", "table tide at:moment\n")
	home := filepath.Join(t.TempDir(), "home")
	run := func(want int, args ...string) string {
		t.Helper()
		var out, errs bytes.Buffer
		code := cli.Run(context.Background(), append([]string{"echo-atlas", "--home", home}, args...), cli.Environment{Stdout: &out, Stderr: &errs, Now: time.Now, Engines: engine.Registry{toy{folder}}})
		if code != want {
			t.Fatalf("%v: exit code %d\n%s%s", args, code, &out, &errs)
		}
		return out.String()
	}
	run(0, "survey", "--from", "toy://shelf", "--name", "shelf")
	file("berths", "view deep of berth\ntable berth no:number depth:number name:text\n")
	run(0, "survey", "--from", "toy://shelf", "--name", "shelf")
	for _, c := range []struct {
		code int
		args string
		want []string
	}{
		{0, "list shelf/berths", []string{"berth", "deep", "toy, read"}},
		{0, "tree shelf", []string{"tides", "berths"}},
		{0, "find dep", []string{"shelf/berths/berth.depth"}},
		{0, "find * --type whole --kind column", []string{".no ", ".depth "}},
		{0, "show shelf/berths/deep", []string{"MAKE VIEW <deep>", "reads it"}},
		{0, "trace shelf/berths/berth", []string{"deep", "reads it, line 2", "recorded"}},
		{0, "ddl shelf/berths", []string{"MAKE TABLE <berth> (\n    <no> number,\n    <depth> number,\n    <name> text\n)\nRUN\n\nMAKE VIEW <deep>\nALL OF <berth>\nRUN"}},
		{0, "template insert shelf/berths/berth", []string{"INSERT INTO <berth>", "? /* no number */"}},
		{0, "template alter shelf/berths/berth", []string{"ALTER TABLE <berth> ADD COLUMN <new_column>"}},
		{1, "diff shelf/berths@1 shelf/berths", []string{"name"}},
		{0, "snapshots", []string{"shelf/tides"}},
	} {
		out := run(c.code, strings.Fields(c.args)...)
		for _, want := range c.want {
			if !strings.Contains(out, want) {
				t.Errorf("%s: no %q in\n%s", c.args, want, out)
			}
		}
	}
	if _, err := (engine.Registry{toy{}}).Named("other"); err == nil || !strings.Contains(fmt.Sprint(err), "toy") {
		t.Error(err)
	}
}
