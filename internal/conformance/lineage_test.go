package conformance

import (
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// What a trace of a column leaves out does not depend on it: in chains of views the values of each column are changed, and what
// then shows other values has to be in its trace, by that column.
func TestColumnsThroughViews(t *testing.T) {
	ctx := context.Background()
	s := testservers.SQLite{}
	m := queryMaker{Rand: rand.New(rand.NewPCG(12, 26)), plain: true}
	changed, reached, bypassed := 0, 0, 0
	for round := range testservers.Rounds(40) {
		url := s.Database(t, lonelyScript(&m))
		db := s.Open(t, url)
		db.SetMaxOpenConns(1)
		views := chain(t, &m, db)
		c := testcatalogue.New(t)
		contents := read(t, c, s, fmt.Sprintf("views%d", round), url)
		before := map[string][]string{}
		for _, v := range views {
			for _, column := range v.columns {
				var err error
				if before[v.name+"."+column], err = values(db, v.name, column); err != nil {
					t.Fatal(err)
				}
			}
		}
		for _, table := range lonelyTables {
			for _, column := range table.columns {
				bare := strings.Trim(column, `"`)
				entry := contents.Find(schema.ID{Kind: schema.KindTable, Name: strings.Trim(table.name, `"`)})
				tr, err := trace.RunPrecisely(ctx, c, &address.Match{Contents: contents, Entry: entry, Part: bare, PartKind: schema.KindColumn}, 0, nil, s.Engine())
				if err != nil {
					t.Fatal(err)
				}
				bypassed += tr.Bypassed
				said := map[string]bool{}
				for i := 1; i < len(tr.Nodes); i++ {
					columns, whole := tr.Carries(&tr.Nodes[i])
					name := tr.ID(&tr.Nodes[i]).Name
					for _, v := range views {
						for _, column := range v.columns {
							if v.name == name && (whole || slices.Contains(columns, column)) {
								said[name+"."+column] = true
							}
						}
					}
				}
				reached += len(said)
				tx, err := db.BeginTx(ctx, nil)
				if err != nil {
					t.Fatal(err)
				}
				if _, err := tx.Exec(fmt.Sprintf("UPDATE %s SET %s = (%s + rowid * 7 + %d) %% 11", table.name, column, column, m.IntN(5))); err != nil {
					t.Fatal(err)
				}
				for _, v := range views {
					for _, out := range v.columns {
						if now, err := values(tx, v.name, out); err != nil || !slices.Equal(now, before[v.name+"."+out]) {
							if changed++; !said[v.name+"."+out] {
								var text string
								_ = tx.QueryRow("SELECT sql FROM sqlite_schema WHERE name = ?", v.name).Scan(&text)
								t.Errorf("%s.%s changes %s.%s, and the trace does not say so\n%s", table.name, column, v.name, out, text)
							}
						}
					}
				}
				if err := tx.Rollback(); err != nil {
					t.Fatal(err)
				}
			}
		}
	}
	t.Logf("%d columns of views show other values; %d were said to depend on them, %d objects to depend on others alone", changed, reached, bypassed)
	if changed < 100 || bypassed < 30 || reached > 6*changed {
		t.Errorf("too little was shown, or too much said")
	}
}

// lonelyScript makes the tables with some rows.
func lonelyScript(m *queryMaker) string {
	var b strings.Builder
	for _, table := range lonelyTables {
		fmt.Fprintf(&b, "CREATE TABLE %s (%s);\n", table.name, strings.Join(table.columns, " int, ")+" int")
		for range 4 {
			fmt.Fprintf(&b, "INSERT INTO %s VALUES (%d, %d, %d);\n", table.name, m.IntN(6), m.IntN(9), m.IntN(4))
		}
	}
	return b.String()
}

// chain makes views on the tables and on each other.
func chain(t *testing.T, m *queryMaker, db *sql.DB) []made {
	t.Helper()
	var views []made
	m.with = nil
	defer func() { m.with = nil }()
	for tries := 0; len(views) < 7 && tries < 200; tries++ {
		m.n, m.depth = 0, 2
		q, columns := m.query(1 + m.IntN(4))
		q = strings.NewReplacer(" UNION ALL ", " UNION ALL ", " UNION ", " UNION ALL ", " LIMIT 3", "").Replace(q)
		v := made{fmt.Sprintf("w%d", len(views)), columns}
		if len(views) > 0 && m.IntN(3) == 0 {
			of := views[m.IntN(len(views))]
			q = "SELECT " + m.pick("x.*", "*") + " FROM " + of.name + " x"
			v.columns = of.columns
		} else if len(views) > 0 && m.IntN(2) == 0 {
			of := views[m.IntN(len(views))]
			q, v.columns = "SELECT "+of.columns[m.IntN(len(of.columns))]+" AS y FROM "+of.name, []string{"y"}
		}
		if _, err := db.Exec("CREATE VIEW " + v.name + " AS " + q); err != nil {
			continue
		}
		rows := 0
		err := db.QueryRow("SELECT count(*) FROM (SELECT * FROM " + v.name + " LIMIT 60)").Scan(&rows)
		for _, c := range v.columns {
			if err == nil && rows < 60 {
				_, err = values(db, v.name, c)
			}
		}
		if err != nil || rows == 60 { // broken, or too much to look at
			if _, err := db.Exec("DROP VIEW " + v.name); err != nil {
				t.Fatal(err)
			}
			continue
		}
		views = append(views, v)
		m.with = []made{v}
	}
	return views
}

// values returns the values of a column, in order.
func values(db interface {
	Query(string, ...any) (*sql.Rows, error)
}, relation, column string) ([]string, error) {
	rows, err := db.Query("SELECT quote(" + column + ") FROM " + relation)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []string
	for rows.Next() {
		var v string
		if err := rows.Scan(&v); err != nil {
			return nil, err
		}
		all = append(all, v)
	}
	slices.Sort(all)
	return all, rows.Err()
}
