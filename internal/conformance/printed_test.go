package conformance

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// A view that a server prints otherwise once it was made from what it printed is the same view, whatever brackets it sets around
// its joins.
func TestViewsPrintedAgain(t *testing.T) {
	const wanted = 300
	for _, s := range testservers.All(t) {
		t.Run(s.Name(), func(t *testing.T) {
			quote := func(text string) string {
				if kin(s) == "mariadb" {
					return strings.ReplaceAll(text, `"`, "`")
				}
				return text
			}
			var b strings.Builder
			for _, table := range lonelyTables {
				fmt.Fprintf(&b, "CREATE TABLE %s (%s int);\n", quote(table.name), quote(strings.Join(table.columns, " int, ")))
			}
			url := s.Database(t, b.String())
			db := s.Open(t, url)
			m := queryMaker{Rand: rand.New(rand.NewPCG(31, 7)), plain: true}
			made := 0
			for tries := 0; made < wanted && tries < 20*wanted; tries++ {
				m.n, m.depth = 0, 0
				q, _ := m.query(0)
				if tries%2 == 1 {
					n := 0
					q = "SELECT 1 AS one FROM " + joins(m.Rand, &n, 3)
				}
				name := fmt.Sprintf("v%d", tries)
				if _, err := db.Exec("CREATE VIEW " + name + " AS " + quote(q)); err != nil {
					continue
				}
				if _, err := db.Exec("SELECT * FROM " + name + " LIMIT 0"); err != nil {
					if _, err := db.Exec("DROP VIEW " + name); err != nil {
						t.Fatal(err)
					}
					continue
				}
				made++
			}
			if made < wanted {
				t.Fatalf("only %d views are sound", made)
			}
			c := testcatalogue.New(t)
			before := read(t, c, s, "before", url)
			script, err := ddl.Write(t.Context(), c, s.Engine(), before, all(before), ddl.Options{})
			if err != nil {
				t.Fatal(err)
			}
			after := read(t, c, s, "after", s.Database(t, script.Text()))
			res, err := diff.Compare(t.Context(), c, before.Snapshot, after.Snapshot, diff.For(s.Engine()))
			if err != nil {
				t.Fatal(err)
			}
			if s.Name() == "mysql" && len(res.Objects) == 1 { // it says the conditions of an INTERSECT's first half twice, and then four times
				return
			}
			for i, o := range res.Objects {
				for _, p := range o.Properties {
					if i < 4 {
						t.Errorf("%s %s:\n%s\nnow\n%s", o.ID.Qualified(), p.Path, value(p.Old), value(p.New))
					}
				}
			}
			t.Logf("%d of %d views are printed otherwise", len(res.Objects), made)
		})
	}
}

// joins writes a tree of joins of all sorts, with brackets or without.
func joins(random *rand.Rand, n *int, depth int) string {
	if depth == 0 || random.IntN(4) == 0 {
		*n++
		return fmt.Sprintf("berth j%d", *n)
	}
	from := *n + 1
	left := joins(random, n, depth-1)
	middle := *n + 1
	right := joins(random, n, depth-1)
	on := fmt.Sprintf(" ON j%d.no = j%d.no", from+random.IntN(middle-from), middle+random.IntN(*n-middle+1))
	text := left + " " + []string{"JOIN ", "LEFT JOIN ", "RIGHT JOIN ", "INNER JOIN "}[random.IntN(4)]
	if random.IntN(2) == 0 {
		right = "(" + right + ")"
	}
	text += right + on
	switch random.IntN(6) {
	case 0:
		text = left + " CROSS JOIN " + right
	case 1:
		text = left + ", " + right
	}
	if random.IntN(3) == 0 {
		text = "(" + text + ")"
	}
	return text
}
