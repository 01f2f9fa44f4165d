package conformance

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// release alters a database as a release of a program would, until so many alterations went through.
type release struct {
	s        testservers.Server
	random   *rand.Rand
	contents *catalogue.Contents
	tables   []*schema.Object
	texts    []string // of what is no table
	n        int
}

func (r *release) table() *schema.Object { return r.tables[r.random.IntN(len(r.tables))] }

func (r *release) name(o *schema.Object) string {
	if o.Schema != "" {
		return r.s.Engine().Quote(o.Schema) + "." + r.s.Engine().Quote(o.Name)
	}
	return r.s.Engine().Quote(o.Name)
}

// mentioned reports whether a definition that the server does not follow mentions a table.
func (r *release) mentioned(name string) bool {
	if r.s.Name() == "postgres" {
		return false
	}
	return slices.ContainsFunc(r.texts, func(text string) bool { return engine.Mentions(text, name, r.s.Engine().Traits().Rules) })
}

// alteration returns a statement that may go through.
func (r *release) alteration() string {
	r.n++
	o := r.table()
	table, quote := r.name(o), r.s.Engine().Quote
	c := o.Relation.Columns[r.random.IntN(len(o.Relation.Columns))]
	column := quote(c.Name)
	alter := "ALTER TABLE " + table + " "
	in := func(name string) string { // a new thing beside the table
		if o.Schema != "" {
			return quote(o.Schema) + "." + quote(name)
		}
		return quote(name)
	}
	what := r.random.IntN(17)
	if (what == 2 || what == 3 || what == 4 || what == 9) && r.mentioned(o.Name) { // MariaDB and SQLite let what mentions it break
		return ""
	}
	switch what {
	case 0:
		return alter + fmt.Sprintf("ADD COLUMN added_%d integer", r.n)
	case 1:
		return alter + fmt.Sprintf("ADD COLUMN added_%d varchar(30) NOT NULL DEFAULT 'none'", r.n)
	case 2:
		if c.NotNull && c.Default == "" { // the way back has no value for it
			return ""
		}
		return alter + "DROP COLUMN " + column
	case 3:
		return alter + "RENAME COLUMN " + column + " TO " + quote(c.Name+"_now")
	case 4:
		return alter + "RENAME TO " + quote(o.Name+"_now")
	case 5:
		return fmt.Sprintf("CREATE INDEX by_%d ON %s (%s)", r.n, table, column)
	case 6:
		return fmt.Sprintf("CREATE UNIQUE INDEX one_%d ON %s (%s, %s)", r.n, table, column, quote(o.Relation.Columns[0].Name))
	case 7:
		return fmt.Sprintf("CREATE VIEW %s AS SELECT %s FROM %s", in(fmt.Sprintf("seen_%d", r.n)), column, table)
	case 8:
		if k := o.Relation.PrimaryKey(); k != nil && len(k.Columns) == 1 && k.Columns[0].Column != "" {
			of := o.Relation.Column(k.Columns[0].Column)
			return fmt.Sprintf("CREATE TABLE %s (id integer PRIMARY KEY, of_%d %s, FOREIGN KEY (of_%d) REFERENCES %s (%s))", in(fmt.Sprintf("made_%d", r.n)), r.n, of.Type, r.n, table, quote(of.Name))
		}
		return fmt.Sprintf("CREATE TABLE %s (id integer PRIMARY KEY, note varchar(20) DEFAULT 'x')", in(fmt.Sprintf("made_%d", r.n)))
	case 9:
		return "DROP TABLE " + table
	case 10:
		for i := range r.contents.All() {
			if e := r.contents.At(r.random.IntN(r.contents.Len())); i < 50 && e.ID.Kind == schema.KindIndex {
				if kin(r.s) == "mariadb" {
					return "DROP INDEX " + quote(e.ID.Name) + " ON " + quote(e.On)
				}
				return "DROP INDEX " + in(e.ID.Name)
			}
		}
	case 11:
		if r.s.Name() != "sqlite" {
			return alter + "ALTER COLUMN " + column + " SET DEFAULT '1'"
		}
	case 12:
		if r.s.Name() != "sqlite" {
			return alter + "ALTER COLUMN " + column + " DROP DEFAULT"
		}
	}
	switch kin(r.s) {
	case "postgres":
		return []string{alter + "ALTER COLUMN " + column + " SET NOT NULL", alter + "ALTER COLUMN " + column + " DROP NOT NULL", alter + "ALTER COLUMN " + column + " TYPE text",
			fmt.Sprintf("COMMENT ON COLUMN %s.%s IS 'since %d'", table, column, r.n), fmt.Sprintf("%sADD CONSTRAINT right_%d CHECK (%s IS NOT NULL)", alter, r.n, column), "GRANT SELECT ON " + table + " TO PUBLIC",
			alter + "ALTER COLUMN " + column + " TYPE bigint"}[r.random.IntN(7)]
	case "mariadb":
		return []string{fmt.Sprintf("%sMODIFY COLUMN %s %s NULL COMMENT 'since %d'", alter, column, c.Type, r.n), alter + "MODIFY COLUMN " + column + " text", fmt.Sprintf("%sADD CONSTRAINT right_%d CHECK (%s IS NOT NULL)", alter, r.n, column),
			alter + "COMMENT = 'of the release'", alter + "MODIFY COLUMN " + column + " bigint NOT NULL DEFAULT 0",
			fmt.Sprintf("CREATE TRIGGER fired_%d BEFORE INSERT ON %s FOR EACH ROW SET @seen = 1", r.n, table)}[r.random.IntN(6)]
	}
	return fmt.Sprintf("CREATE TRIGGER fired_%d AFTER INSERT ON %s BEGIN SELECT count(*) FROM %s; END", r.n, table, table)
}

// A version of a schema that a release altered is made of the old one by the script, and the old one of the new one.
func TestReleases(t *testing.T) {
	folders := map[string]int{"testdata": 8}
	if dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS"); dir != "" {
		folders = map[string]int{dir: 30}
	}
	for dir, alterations := range folders {
		eachCase(t, dir, func(t *testing.T, s testservers.Server, script string) {
			t.Parallel()
			c := testcatalogue.New(t)
			was, now := s.Database(t, script), s.Database(t, script)
			old := read(t, c, s, "was", was)
			r := release{s: s, random: rand.New(rand.NewPCG(14, uint64(len(script)))), contents: old}
			objects, err := c.Objects(t.Context(), all(old))
			if err != nil {
				t.Fatal(err)
			}
			unions := "" // what they hold together has to stay of one form
			for _, o := range objects {
				if o.Setting("union") != "" {
					unions += o.Setting("union") + " " + s.Engine().Quote(o.Name)
				}
			}
			for _, o := range objects {
				if engine.Mentions(unions, o.Name, s.Engine().Traits().Rules) {
					continue
				}
				if o.Kind == schema.KindTable && len(o.Relation.Columns) > 0 && o.Setting(schema.System) == "" && o.Setting("system period") == "" { // periods are changed by hand
					r.tables = append(r.tables, o)
				}
				if o.Kind != schema.KindTable {
					made, _ := s.Engine().Make(o)
					for i := range made {
						r.texts = append(r.texts, made[i].Text())
					}
				}
			}
			if len(r.tables) == 0 {
				return
			}
			db := s.Open(t, now)
			var done []string
			for range 20 * alterations {
				if len(done) == alterations {
					break
				}
				if text := r.alteration(); text != "" {
					if _, err := db.Exec(text); err == nil {
						done, r.texts = append(done, text), append(r.texts, text)
					}
				}
			}
			if len(done) == 0 {
				return
			}
			fresh := read(t, c, s, "now", now)
			defer func() {
				if t.Failed() {
					t.Log(strings.Join(done, ";\n"))
				}
			}()
			carried(t, c, s, old, fresh, was, false)
			if !t.Failed() {
				carried(t, c, s, fresh, old, now, false)
			}
		})
	}
}

// An older generation of a real schema becomes the newer one, and the newer one the older.
func TestGenerations(t *testing.T) {
	dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS")
	if dir == "" {
		t.Skip("scripts/real-schemas runs this")
	}
	for _, s := range testservers.All(t) {
		olds, err := filepath.Glob(filepath.Join(dir, "generations", s.Name(), "*-1.sql"))
		if err != nil || len(olds) == 0 {
			t.Fatalf("no generations for %s: %v", s.Name(), err)
		}
		for _, path := range olds {
			t.Run(s.Name()+"/"+filepath.Base(path), func(t *testing.T) {
				var urls [2]string
				for i, name := range []string{path, strings.TrimSuffix(path, "-1.sql") + "-2.sql"} {
					script, err := os.ReadFile(name)
					if err != nil {
						t.Fatal(err)
					}
					urls[i] = s.Database(t, string(script))
				}
				c := testcatalogue.New(t)
				old, now := read(t, c, s, "old", urls[0]), read(t, c, s, "new", urls[1])
				carried(t, c, s, old, now, urls[0], false)
				carried(t, c, s, now, old, urls[1], false)
			})
		}
	}
}
