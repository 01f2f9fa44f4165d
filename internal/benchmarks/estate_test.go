// Package benchmarks measures the program as a whole process against outside measures, in one run.
package benchmarks

import (
	"fmt"
	"strings"
)

// Size is how large a generated database is.
type Size struct{ Tables, Columns, Views int }

// Standard is the size that the promises speak of.
var Standard = Size{Tables: 10_000, Columns: 20, Views: 1_000}

var stems = []string{"berth", "mooring", "pilot", "sailing", "tide", "beacon", "tariff", "invoice", "vessel", "harbour", "route", "gauge"}

// Script returns statements that make a database: tables with a key, two indexes, a foreign key,
// defaults and comments, and views over two tables each. Batches are to be run one after the other.
func Script(engine string, s Size) []string {
	var batches []string
	var b strings.Builder
	flush := func() {
		batches = append(batches, b.String())
		b.Reset()
	}
	name := func(i int) string { return fmt.Sprintf("%s_%05d", stems[i%len(stems)], i) }
	for i := range s.Tables {
		n := name(i)
		if engine == "mariadb" {
			fmt.Fprintf(&b, "CREATE TABLE %s (id int NOT NULL PRIMARY KEY, parent_id int", n)
		} else {
			fmt.Fprintf(&b, "CREATE TABLE %s (id integer PRIMARY KEY, parent_id integer", n)
		}
		for c := 2; c < s.Columns; c++ {
			typ := []string{"varchar(80) NOT NULL DEFAULT 'none'", "numeric(8,2)", "timestamp", "integer NOT NULL DEFAULT 0", "date"}[c%5]
			if engine == "mariadb" && c%5 == 2 {
				typ = "datetime"
			}
			comment := ""
			if engine == "mariadb" && c%4 == 0 {
				comment = fmt.Sprintf(" COMMENT 'what the %s keeps at %d'", stems[i%len(stems)], c)
			}
			fmt.Fprintf(&b, ", %s_%02d %s%s", stems[(i+c)%len(stems)], c, typ, comment)
		}
		if i > 0 {
			fmt.Fprintf(&b, ", CONSTRAINT %s_parent FOREIGN KEY (parent_id) REFERENCES %s (id)", n, name(i-1-i%7%i))
		}
		b.WriteString(")")
		if engine == "mariadb" {
			fmt.Fprintf(&b, " COMMENT 'table %d of the estate'", i)
		}
		fmt.Fprintf(&b, ";\nCREATE INDEX %s_a ON %s (parent_id, %s_02);\nCREATE INDEX %s_b ON %s (%s_03);\n", n, n, stems[(i+2)%len(stems)], n, n, stems[(i+3)%len(stems)])
		if engine == "postgres" {
			fmt.Fprintf(&b, "COMMENT ON TABLE %s IS 'table %d of the estate';\n", n, i)
			for c := 4; c < s.Columns; c += 4 {
				fmt.Fprintf(&b, "COMMENT ON COLUMN %s.%s_%02d IS 'what it keeps at %d';\n", n, stems[(i+c)%len(stems)], c, c)
			}
		}
		if i%250 == 249 {
			flush()
		}
	}
	flush()
	for i := range s.Views {
		x, y := i*s.Tables/s.Views, (i*s.Tables/s.Views+1)%s.Tables
		fmt.Fprintf(&b, "CREATE VIEW view_%04d AS SELECT a.id, a.parent_id AS up, b.%s_03 AS kept, count(*) AS n FROM %s a JOIN %s b ON b.parent_id = a.id WHERE a.%s_03 > 0 GROUP BY a.id, a.parent_id, b.%s_03;\n",
			i, stems[(y+3)%len(stems)], name(x), name(y), stems[(x+3)%len(stems)], stems[(y+3)%len(stems)])
		if i%250 == 249 {
			flush()
		}
	}
	flush()
	return batches
}
