package conformance

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/rename"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// What is said of a change is what the server does: every relation, routine, sequence and type, and every column of every table
// of the test databases is really dropped, columns are renamed and get another type, in a transaction that is rolled back or in
// a database made for it. A view that is said to break is opened afterwards, and so is one that is not.
func TestChangesAsPredicted(t *testing.T) {
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) { allChangesAsPredicted(t, s) })
	}
}

func allChangesAsPredicted(t *testing.T, s testservers.Server) {
	t.Helper()
	f, ok := s.Engine().(engine.Forecaster)
	if !ok {
		t.Fatalf("%s says nothing of what its servers do", s.Name())
	}
	files, err := scriptsOf(s, "testdata")
	if err != nil || len(files) == 0 {
		t.Fatal(err)
	}
	files = append(files, filepath.Join("testdata", "renames", s.Name()+".sql"))
	cases, refused := 0, 0
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			script, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			n, r := changesAsPredicted(t, s, f, string(script))
			cases, refused = cases+n, refused+r
		})
	}
	t.Logf("%s: %d changes, %d of them refused", s.Name(), cases, refused)
	if cases < 30 || refused == 0 {
		t.Errorf("%s: only %d changes, %d of them refused", s.Name(), cases, refused)
	}
}

func changesAsPredicted(t *testing.T, s testservers.Server, f engine.Forecaster, script string) (cases, refused int) {
	t.Helper()
	ctx := context.Background()
	c := testcatalogue.New(t)
	url := s.Database(t, script)
	contents := read(t, c, s, "drops", url)
	db := s.Open(t, url)
	db.SetMaxOpenConns(1)
	g, err := c.Needs(ctx, contents)
	if err != nil {
		t.Fatal(err)
	}
	if s.Name() == "postgres" {
		if _, err := db.Exec("CREATE SCHEMA elsewhere"); err != nil {
			t.Fatal(err)
		}
	}
	// try runs a statement, and then opens views; it returns which of them do not open.
	try := func(statement string, views []string) (map[string]bool, error) {
		broken := map[string]bool{}
		open := func(exec func(string, ...any) (sql.Result, error)) {
			for _, v := range views {
				if _, err := exec("SELECT * FROM " + s.Engine().Quote(v) + " LIMIT 0"); err != nil {
					broken[v] = true
				}
			}
		}
		if kin(s) == "mariadb" { // a drop cannot be taken back
			scratch := s.Database(t, script)
			one := s.Open(t, scratch)
			one.SetMaxOpenConns(1)
			_, err := one.Exec(statement)
			if err == nil {
				open(one.Exec)
			}
			one.Close()
			s.Drop(t, scratch)
			return broken, err
		}
		tx, err := db.BeginTx(ctx, nil)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = tx.Rollback() }()
		if _, err = tx.Exec(statement); err == nil && len(views) > 0 {
			open(tx.Exec)
		}
		return broken, err
	}
	check := func(m *address.Match, o *schema.Object, change engine.Change, statement string) {
		parents, err := trace.Parents(ctx, c, contents, o)
		if err != nil {
			t.Fatal(err)
		}
		tr := trace.Follow(g, m, trace.Dependants, 0)
		if s.Engine().Traits().LiveStars && m.Part != "" && change == engine.Renamed {
			if tr.ByStar, err = rename.ByStar(ctx, c, s.Engine(), m); err != nil {
				t.Fatal(err)
			}
		}
		p := tr.Predict(f, m, o, parents, change)
		var views []string
		said := map[string]engine.Effect{}
		for i := range tr.Nodes {
			if id := tr.ID(&tr.Nodes[i]); i > 0 && id.Kind == schema.KindView && s.Name() != "postgres" && tr.Entry(&tr.Nodes[i]).State == "" {
				views = append(views, id.Name)
				said[id.Name] = p.Verdicts[i].Effect
			}
		}
		broken, err := try(statement, views)
		for _, v := range views {
			if err == nil && broken[v] != (said[v] == engine.Breaks) {
				t.Errorf("%s: the view %s: said %s, and it breaks: %v", statement, v, said[v], broken[v])
			}
		}
		cases++
		if err != nil {
			refused++
		}
		if change == engine.Retyped && err != nil { // for what the values and the new type are
			return
		}
		if err != nil && strings.Contains(err.Error(), "cannot run inside a transaction block") { // a subscription goes by itself
			return
		}
		if change == engine.Required && err != nil && strings.Contains(err.Error(), "contains null values") { // the rows decide
			return
		}
		if (err != nil) != p.Refused {
			t.Errorf("%s: said to be refused: %v, and the server says: %v", statement, p.Refused, err)
		}
	}
	objects, err := c.Objects(ctx, all(contents))
	if err != nil {
		t.Fatal(err)
	}
	for i, o := range objects {
		e := contents.At(i)
		if o.Setting(schema.System) != "" {
			continue
		}
		statements, err := s.Engine().Make(o)
		if err != nil {
			continue
		}
		for k := range statements {
			if o.Index != nil && (kin(s) == "mariadb" || contents.Find(schema.ID{Kind: schema.KindPartition, Schema: o.Schema, Name: o.Index.Table}) != nil) {
				continue // whether it is the last that a numbered column has, or a part of another, no dependency tells
			}
			if statements[k].Action == engine.Make && (kin(s) != "mariadb" || i%3 == 0) {
				undo := statements[k].Undo
				for _, set := range statements[k].UndoSettings {
					undo = set.Text + "; " + undo
				}
				check(&address.Match{Contents: contents, Entry: e}, o, engine.Dropped, undo)
			}
		}
		name := s.Engine().Quote(o.Name)
		if o.Schema != "" {
			name = s.Engine().Quote(o.Schema) + "." + name
		}
		table := o.Kind == schema.KindTable || o.Kind == schema.KindPartitionedTable || o.Kind == schema.KindPartition
		whole := &address.Match{Contents: contents, Entry: e}
		switch {
		case s.Name() == "postgres" && (table || o.Kind == schema.KindView || o.Kind == schema.KindMaterialisedView || o.Kind == schema.KindSequence):
			what := map[schema.Kind]string{schema.KindView: "VIEW ", schema.KindMaterialisedView: "MATERIALIZED VIEW ", schema.KindSequence: "SEQUENCE "}[o.Kind]
			if what == "" {
				what = "TABLE "
			}
			check(whole, o, engine.Renamed, "ALTER "+what+name+" RENAME TO another_name")
			check(whole, o, engine.Moved, "ALTER "+what+name+" SET SCHEMA elsewhere")
		case kin(s) == "mariadb" && i%3 == 1 && (table || o.Kind == schema.KindView):
			check(whole, o, engine.Renamed, "RENAME TABLE "+name+" TO another_name")
		case s.Name() == "sqlite" && table:
			check(whole, o, engine.Renamed, "ALTER TABLE "+name+" RENAME TO another_name")
		}
		if !table {
			continue
		}
		for k, col := range o.Relation.Columns {
			if kin(s) == "mariadb" && (i+k)%4 > 0 { // each takes a database
				continue
			}
			m := &address.Match{Contents: contents, Entry: e, Part: col.Name, PartKind: schema.KindColumn}
			column := s.Engine().Quote(col.Name)
			check(m, o, engine.Dropped, "ALTER TABLE "+name+" DROP COLUMN "+column)
			switch kin(s) {
			case "postgres":
				if o.Name != "engine" && o.Name != "hull" { // a child has their column from both
					check(m, o, engine.Renamed, "ALTER TABLE "+name+" RENAME COLUMN "+column+" TO another_name")
				}
				check(m, o, engine.Required, "ALTER TABLE "+name+" ALTER COLUMN "+column+" SET NOT NULL")
				check(m, o, engine.Retyped, "ALTER TABLE "+name+" ALTER COLUMN "+column+" DROP DEFAULT, ALTER COLUMN "+column+" TYPE text USING NULL")
			case "mariadb":
				check(m, o, engine.Renamed, "ALTER TABLE "+name+" RENAME COLUMN "+column+" TO another_name")
			case "sqlite":
				check(m, o, engine.Renamed, "ALTER TABLE "+name+" RENAME COLUMN "+column+" TO another_name")
			}
		}
	}
	return cases, refused
}
