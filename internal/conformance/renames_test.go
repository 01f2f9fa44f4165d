package conformance

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/rename"
	"echo-atlas/internal/core/report"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// The script of a renaming runs, and what was whole before is whole afterwards: views open, routines that tell what they see
// tell the same, every object refers to the same things, and the report of what is broken has nothing new.
func TestRenamesLeaveAllWhole(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) { renamesLeaveAllWhole(t, s) })
	}
}

func renamesLeaveAllWhole(t *testing.T, s testservers.Server) {
	t.Helper()
	files, err := scriptsOf(s, "testdata")
	if err != nil || len(files) == 0 {
		t.Fatal(err)
	}
	files = append(files, filepath.Join("testdata", "renames", s.Name()+".sql"))
	if dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS"); dir != "" {
		more, _ := scriptsOf(s, dir)
		files = append(files, more...)
	}
	renamed, edited := 0, 0
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			script, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			w := renames{t: t, s: s, script: string(script)}
			most := 12 // each takes a copy of the database
			if strings.Contains(file, "renames") || s.Name() == "sqlite" {
				most = 1000
			}
			w.run(most)
			renamed, edited = renamed+w.renamed, edited+w.edited
		})
	}
	t.Logf("%s: %d renamed, %d texts edited", s.Name(), renamed, edited)
	if renamed < 30 {
		t.Errorf("%s: only %d things were renamed", s.Name(), renamed)
	}
}

// renames renames things of one database, each in a copy of its own.
type renames struct {
	t               *testing.T
	s               testservers.Server
	script          string
	renamed, edited int
}

// state is what a database says of itself.
type state struct {
	contents *catalogue.Contents
	catalog  *catalogue.Catalogue
	broken   []string
	refers   map[string]int
	told     map[string]string
}

func (w *renames) run(most int) {
	ctx := context.Background()
	url := w.s.Database(w.t, w.script)
	was := w.look(url)
	w.s.Drop(w.t, url)
	g, err := was.catalog.Needs(ctx, was.contents)
	if err != nil {
		w.t.Fatal(err)
	}
	objects, err := was.catalog.Objects(ctx, all(was.contents))
	if err != nil {
		w.t.Fatal(err)
	}
	type named struct {
		m  *address.Match
		o  *schema.Object
		to engine.Renaming
	}
	var cases []named
	one := func(m *address.Match, o *schema.Object, to engine.Renaming) { cases = append(cases, named{m, o, to}) }
	try := func(m *address.Match, o *schema.Object, to engine.Renaming) {
		parents, err := trace.Parents(ctx, was.catalog, was.contents, o)
		if err != nil {
			w.t.Fatal(err)
		}
		f := w.s.Engine().(engine.Forecaster)
		change := engine.Renamed
		if to.Schema != "" {
			change = engine.Moved
		}
		tr := trace.Follow(g, m, trace.Dependants, 0)
		if w.s.Engine().Traits().LiveStars && m.Part != "" {
			if tr.ByStar, err = rename.ByStar(ctx, was.catalog, w.s.Engine(), m); err != nil {
				w.t.Fatal(err)
			}
		}
		p := tr.Predict(f, m, o, parents, change)
		if p.Refused && (o.Kind.IsRelation() && o.Kind != schema.KindView || m.Part != "" || w.s.Name() == "postgres") {
			return
		}
		w.t.Run(fmt.Sprintf("%s.%s to %s.%s", o.ID(), m.Part, to.Schema, to.Name), func(t *testing.T) {
			one := renames{t: t, s: w.s, script: w.script}
			one.one(was, m, o, to)
			w.renamed, w.edited = w.renamed+one.renamed, w.edited+one.edited
		})
	}
	for i, o := range objects {
		e := was.contents.At(i)
		if o.Setting(schema.System) != "" || e.State != "" || o.Name == "engine" || o.Name == "hull" { // children have a column from both
			continue
		}
		m := &address.Match{Contents: was.contents, Entry: e}
		if o.Kind.IsRelation() || o.Kind.IsRoutine() || o.Kind == schema.KindSequence || o.Kind.IsType() {
			one(m, o, engine.Renaming{Name: "new_name"})
			if w.s.Name() == "postgres" && o.Schema == "ops" && (o.Kind.IsRelation() || o.Kind.IsRoutine()) {
				one(m, o, engine.Renaming{Name: o.Name, Schema: "public"})
			}
		}
		if o.Kind != schema.KindTable {
			continue
		}
		for _, c := range o.Relation.Columns {
			one(&address.Match{Contents: was.contents, Entry: e, Part: c.Name, PartKind: schema.KindColumn}, o, engine.Renaming{Column: c.Name, Name: "new_name"})
		}
	}
	step := max(1, (len(cases)+most-1)/most)
	for i := step / 2; i < len(cases); i += step {
		try(cases[i].m, cases[i].o, cases[i].to)
	}
}

// one renames one thing in a copy of the database.
func (w *renames) one(was *state, m *address.Match, o *schema.Object, to engine.Renaming) {
	w.t.Helper()
	what := fmt.Sprintf("%s %s.%s to %s.%s", o.Kind, o.ID(), m.Part, to.Schema, to.Name)
	plan, err := rename.Write(context.Background(), was.catalog, w.s.Engine(), m, to)
	if err != nil {
		w.t.Logf("%s: not renamed: %v", what, err)
		return
	}
	url := w.s.Database(w.t, w.script)
	script := plan.Script.Text()
	defer w.s.Drop(w.t, url)
	defer func() {
		if w.t.Failed() {
			w.t.Logf("%s:\n%s\n%+v", what, script, plan.Unsure)
		}
	}()
	w.s.Run(w.t, url, script)
	now := w.look(url)
	left := map[string]bool{} // of what was not edited it is said so
	for _, u := range plan.Unsure {
		left[u.Object.String()] = true
	}
	w.renamed++
	w.edited += len(plan.Edited)
	for _, b := range now.broken {
		name, _, _ := strings.Cut(b, ": ")
		if !slices.Contains(was.broken, b) && !left[name] && !slices.ContainsFunc(was.broken, func(x string) bool { return strings.HasPrefix(x, name+": ") }) {
			w.t.Errorf("%s: broken now: %s", what, b)
		}
	}
	for name, said := range was.told {
		if renamedProbe := name == o.ID().String() && m.Part == ""; !renamedProbe && !left[name] && now.told[name] != said {
			w.t.Errorf("%s: %s told %q, and now %q", what, name, said, now.told[name])
		}
	}
	// Names of other databases do not lead to the copy, and what is overloaded may be guessed.
	if len(plan.Unsure) == 0 && !strings.Contains(w.script, "database()") && !o.Kind.IsRoutine() {
		for k, n := range was.refers {
			if now.refers[k] != n {
				w.t.Errorf("%s: %d references %s, and now %d", what, n, k, now.refers[k])
			}
		}
	}
}

// look reads a database, and asks all that tell something of themselves: functions and views called probe_….
func (w *renames) look(url string) *state {
	w.t.Helper()
	ctx := context.Background()
	c := testcatalogue.New(w.t)
	st := &state{catalog: c, contents: read(w.t, c, w.s, "renames", url), refers: map[string]int{}, told: map[string]string{}}
	broken, err := report.FindBroken(ctx, c, st.contents)
	if err != nil {
		w.t.Fatal(err)
	}
	for _, b := range broken {
		name := b.Entry.ID.String() + ": " + b.Said
		if b.Dependency != nil {
			name += b.Dependency.To.ID.String()
		}
		st.broken = append(st.broken, name)
	}
	g, err := c.Needs(ctx, st.contents)
	if err != nil {
		w.t.Fatal(err)
	}
	for i := range g.Edges { // by kinds alone: names are what changes
		e := &g.Edges[i]
		from, to := g.Ends[e.From], g.Ends[e.To]
		st.refers[fmt.Sprintf("%s %s → %s %s", st.contents.At(from.Entry).ID.Kind, e.Use, st.contents.At(to.Entry).ID.Kind, to.PartKind)]++
	}
	db := w.s.Open(w.t, url)
	db.SetMaxOpenConns(1)
	for i := range st.contents.All() {
		id := st.contents.At(i).ID
		name := w.s.Engine().Quote(id.Name)
		if id.Schema != "" {
			name = w.s.Engine().Quote(id.Schema) + "." + name
		}
		switch {
		case id.Kind == schema.KindView && w.s.Name() != "postgres" && st.contents.At(i).State == "":
			st.told[id.String()] = strings.TrimLeft(asked(db, "SELECT * FROM "+name), "[abcdefghijklmnopqrstuvwxyz_öäü ]") // columns may be called otherwise
		case strings.HasPrefix(id.Name, "probe_") && id.Kind == schema.KindFunction:
			st.told[id.String()] = asked(db, "SELECT "+name+"()")
		}
	}
	db.Close()
	return st
}

// asked returns the first value of a query, or what the server says against it.
func asked(db *sql.DB, query string) string {
	tx, err := db.Begin()
	if err != nil {
		return err.Error()
	}
	defer func() { _ = tx.Rollback() }() // it may write
	rows, err := tx.Query(query)
	if err != nil {
		return "error " + strings.Map(func(r rune) rune {
			if r >= '0' && r <= '9' {
				return '#'
			}
			return r
		}, err.Error())
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil || !rows.Next() {
		return fmt.Sprint(columns, err, rows.Err())
	}
	values := make([]any, len(columns))
	for i := range values {
		values[i] = new(sql.NullString)
	}
	if err := rows.Scan(values...); err != nil {
		return err.Error()
	}
	text := ""
	for _, v := range values {
		text += v.(*sql.NullString).String + "|"
	}
	return text
}

// What cannot be edited for certain is left to people, each place with its reason.
func TestRenameLeavesToPeople(t *testing.T) {
	for _, s := range testservers.All(t) {
		if s.Name() == "sqlite" { // follows everywhere, or refuses
			continue
		}
		t.Run(s.Name(), func(t *testing.T) {
			script, err := os.ReadFile(filepath.Join("testdata", "renames", s.Name()+".sql"))
			if err != nil {
				t.Fatal(err)
			}
			c := testcatalogue.New(t)
			contents := read(t, c, s, "renames", s.Database(t, string(script)))
			i := slices.IndexFunc(contents.All(), func(e catalogue.Entry) bool { return e.ID.Name == "berth" && e.ID.Kind == schema.KindTable })
			m := &address.Match{Contents: contents, Entry: contents.At(i), Part: "depth_m", PartKind: schema.KindColumn}
			plan, err := rename.Write(context.Background(), c, s.Engine(), m, engine.Renaming{Column: "depth_m", Name: "new_name"})
			if err != nil {
				t.Fatal(err)
			}
			want := map[string]rename.Reason{"joined": rename.Joins, "taken": rename.Captured, "unseen": rename.NotSeen}
			for _, u := range plan.Unsure {
				if reason, ok := want[u.Object.Name]; !ok || reason != u.Reason || u.Left != (reason != rename.NotSeen) {
					t.Errorf("left to people: %+v", u)
				}
				delete(want, u.Object.Name)
			}
			if len(want) > 0 {
				t.Errorf("not left to people: %v", want)
			}
			if text := plan.Script.Text(); strings.Contains(text, "probe_named") && !strings.Contains(text, "AS depth_m") {
				t.Errorf("an output lost its name:\n%s", text)
			}
		})
	}
}
