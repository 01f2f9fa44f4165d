package benchmarks

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// surveyed returns a catalogue that holds the standard database twice: as it is, and with changes made.
func surveyed(b *testing.B, change string) (home, name string, s *testservers.PostgresServer) {
	b.Helper()
	s = testservers.Postgres(b)
	url := s.Lasting(b, strings.Join(Script("postgres", Standard), "\n"))
	home = b.TempDir()
	args := []string{"--home", home, "survey", "--from", url, "--name", "bench"}
	run(b, program(b), args)
	if change != "" {
		s.Run(b, url, change)
		run(b, program(b), args)
	}
	return home, s.Engine().Database(url), s
}

func BenchmarkAnswers(b *testing.B) {
	home, _, _ := surveyed(b, "")
	for _, args := range [][]string{
		{"list", "--kind", "table"}, {"list", "--kind", "column"}, {"list", "--kind", "table", "--sort", "rows"}, {"tree"}, {"tree", "--depth", "4"},
		{"show", "pilot_00014"}, {"show", "pilot_00014.parent_id"}, {"find", "pilot_00014"}, {"find", "pilot"}, {"find", "a"}, {"find", "nosuchname"},
		{"trace", "pilot_00014"}, {"trace", "berth_00000"}, {"servers"}, {"snapshots"},
	} {
		b.Run(strings.Join(args, "_"), func(b *testing.B) {
			for b.Loop() {
				report(b, median(7, func() measured { return run(b, program(b), append([]string{"--home", home}, args...), 1) }))
			}
		})
	}
	for name, args := range map[string][]string{"ddl_one": {"ddl", "pilot_00014"}, "ddl_format": {"ddl", "bench", "--format"}, "ddl_for_mariadb": {"ddl", "bench", "--for", "mariadb"}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				report(b, median(3, func() measured { return run(b, program(b), append([]string{"--home", home}, args...), 1) }))
			}
		})
	}
	b.Run("ddl", func(b *testing.B) {
		for b.Loop() {
			report(b, median(3, func() measured {
				return run(b, program(b), []string{"--home", home, "ddl", "bench", "--out", filepath.Join(b.TempDir(), "all.sql")})
			}))
		}
	})
}

// changes alters a hundred tables in a way that a line of their text shows.
func changes() string {
	var text strings.Builder
	for i := range 100 {
		table := i * 97
		fmt.Fprintf(&text, "ALTER TABLE %s_%05d ADD COLUMN extra_%d integer;\n", stems[table%len(stems)], table, i)
	}
	return text.String()
}

// BenchmarkDiff compares the standard database with itself after a hundred changes, beside GNU diff on
// two flat files that hold the same schema, one property a line.
func BenchmarkDiff(b *testing.B) {
	home, name, s := surveyed(b, changes())
	dir := b.TempDir()
	for i, when := range []string{"@1", ""} {
		text := strings.Join(s.Account(b, s.URL(name)), "\n")
		if i == 0 { // the account before the changes: without what they added
			var kept []string
			for _, line := range strings.Split(text, "\n") {
				if !strings.Contains(line, `"extra_`) {
					kept = append(kept, line)
				}
			}
			text = strings.Join(kept, "\n")
		}
		if err := os.WriteFile(filepath.Join(dir, "flat"+when), []byte(text+"\n"), 0o644); err != nil {
			b.Fatal(err)
		}
	}
	for b.Loop() {
		ours := median(9, func() measured {
			return run(b, program(b), []string{"--home", home, "diff", "bench/" + name + "@1", "bench/" + name}, 1)
		})
		outside := median(9, func() measured {
			return run(b, "diff", []string{filepath.Join(dir, "flat@1"), filepath.Join(dir, "flat")}, 1)
		})
		reportRatio(b, ours, outside, "gnu-diff")
	}
}

// BenchmarkChange writes the script for a hundred changes of the standard database.
func BenchmarkChange(b *testing.B) {
	home, name, _ := surveyed(b, changes())
	for b.Loop() {
		report(b, median(7, func() measured {
			return run(b, program(b), []string{"--home", home, "change", "bench/" + name + "@1", "bench/" + name})
		}))
	}
}

// BenchmarkDrift lays six environments of the standard database side by side, of which three have a hundred changes.
func BenchmarkDrift(b *testing.B) {
	s := testservers.Postgres(b)
	url := s.Lasting(b, strings.Join(Script("postgres", Standard), "\n"))
	home := b.TempDir()
	for i := range 6 {
		if i == 3 {
			s.Run(b, url, changes())
		}
		run(b, program(b), []string{"--home", home, "survey", "--from", url, "--name", fmt.Sprintf("bench-%d", i), "--environment", fmt.Sprintf("e%d", i), "--family", "bench"})
	}
	for b.Loop() {
		report(b, median(7, func() measured { return run(b, program(b), []string{"--home", home, "drift"}, 1) }))
	}
}

// BenchmarkDiffOwners compares snapshots in which every object has another owner.
func BenchmarkDiffOwners(b *testing.B) {
	home, name, _ := surveyed(b, `CREATE ROLE other_owner;
SELECT format('ALTER TABLE %I OWNER TO other_owner', relname) FROM pg_class WHERE relkind IN ('r', 'v') AND relnamespace = 'public'::regnamespace \gexec
`)
	for b.Loop() {
		report(b, median(5, func() measured {
			return run(b, program(b), []string{"--home", home, "diff", "bench/" + name + "@1", "bench/" + name}, 1)
		}))
	}
}

// BenchmarkShare measures pictures and pages: a picture of 30 and of 200 tables, an overview of all, the handbook of all written first and
// again, an own report over all columns, a workbook of all columns.
func BenchmarkShare(b *testing.B) {
	home, _, _ := surveyed(b, "")
	dir := b.TempDir()
	own := filepath.Join(dir, "types.sql")
	if err := os.WriteFile(own, []byte("SELECT type, count(*) FROM columns GROUP BY 1 ORDER BY 2 DESC"), 0o600); err != nil {
		b.Fatal(err)
	}
	book := filepath.Join(dir, "book")
	for _, c := range []struct {
		name string
		args []string
	}{
		{"chart_33", []string{"chart", "pilot_0000?", "pilot_0001?", "berth_0000?", "berth_0001?", "tide_000??", "--out", filepath.Join(dir, "30.svg")}},
		{"chart_around", []string{"chart", "--around", "pilot_00014", "--columns", "keys", "--out", filepath.Join(dir, "around.svg")}},
		{"chart_200", []string{"chart", "*_000??", "*_001??", "--columns", "keys", "--out", filepath.Join(dir, "200.svg")}},
		{"chart_overview", []string{"chart", "bench", "--out", filepath.Join(dir, "all.svg")}},
		{"handbook_first", []string{"handbook", "--into", book}}, {"handbook_again", []string{"handbook", "--into", book}},
		{"report_own", []string{"report", own}}, {"xlsx_columns", []string{"list", "--kind", "column", "--as", "xlsx"}},
	} {
		b.Run(c.name, func(b *testing.B) {
			for b.Loop() {
				report(b, median(1, func() measured { return run(b, program(b), append([]string{"--home", home}, c.args...)) }))
			}
		})
	}
}
