package benchmarks

import (
	"os"
	"path/filepath"
	"testing"

	"echo-atlas/internal/testservers"
)

// surveyOnce surveys a database into a new catalogue.
func surveyOnce(b *testing.B, url string) measured {
	return run(b, program(b), []string{"--home", b.TempDir(), "survey", "--from", url, "--name", "bench"})
}

// psqlQueries are the raw catalogue rows that a survey of PostgreSQL rests on, as a person would fetch
// them with the server's own client: whole catalogues, and the definitions of views.
const psqlQueries = `SELECT oid, nspname, nspowner, nspacl FROM pg_namespace;
SELECT oid, relname, relnamespace, relkind, relowner, relam, reltuples, relpages, relpersistence, relispartition, reloptions, relacl FROM pg_class WHERE oid >= 16384;
SELECT attrelid, attnum, attname, atttypid, atttypmod, attnotnull, attidentity, attgenerated, attcollation FROM pg_attribute WHERE attrelid >= 16384 AND attnum > 0;
SELECT oid, conname, conrelid, contype, conkey, confrelid, confkey, confupdtype, confdeltype, condeferrable, convalidated, conindid FROM pg_constraint;
SELECT indexrelid, indrelid, indisunique, indkey, indoption, indclass, indcollation FROM pg_index WHERE indexrelid >= 16384;
SELECT oid, adrelid, adnum, pg_get_expr(adbin, adrelid) FROM pg_attrdef;
SELECT classoid, objoid, objsubid, description FROM pg_description WHERE objoid >= 16384;
SELECT classid, objid, objsubid, refclassid, refobjid, refobjsubid, deptype FROM pg_depend WHERE refobjid >= 16384;
SELECT oid, pg_get_viewdef(oid) FROM pg_class WHERE relkind = 'v' AND oid >= 16384;`

func BenchmarkSurveyPostgres(b *testing.B) {
	s := testservers.Postgres(b)
	url := filled(b, s, Standard)
	for b.Loop() {
		ours := median(5, func() measured { return surveyOnce(b, url) })
		outside := median(5, func() measured {
			return run(b, "psql", []string{"-XqAt", "-v", "ON_ERROR_STOP=1", url, "-c", psqlQueries})
		})
		reportRatio(b, ours, outside, "psql")
	}
}

const clientQueries = `SELECT * FROM information_schema.tables WHERE table_schema = database();
SELECT * FROM information_schema.columns WHERE table_schema = database();
SELECT * FROM information_schema.statistics WHERE table_schema = database();
SELECT * FROM information_schema.referential_constraints WHERE constraint_schema = database();
SELECT * FROM information_schema.key_column_usage WHERE table_schema = database();
SELECT * FROM information_schema.check_constraints WHERE constraint_schema = database();
SELECT * FROM information_schema.views WHERE table_schema = database();
SELECT * FROM information_schema.triggers WHERE trigger_schema = database();`

func BenchmarkSurveyMariaDB(b *testing.B) {
	s := testservers.MariaDB(b)
	url := filled(b, s, Standard)
	name := s.Engine().Database(url)
	for b.Loop() {
		ours := median(3, func() measured { return surveyOnce(b, url) })
		outside := median(3, func() measured {
			return run(b, "mariadb", []string{"--no-defaults", "--batch", "--skip-column-names", "--socket=" + s.Socket(), "--user=root", "-e", clientQueries, name})
		})
		reportRatio(b, ours, outside, "client")
	}
}

// BenchmarkSurveyLarge shows that memory grows with size and no faster.
func BenchmarkSurveyLarge(b *testing.B) {
	s := testservers.Postgres(b)
	small, large := filled(b, s, Standard), filled(b, s, Size{Tables: 50_000, Columns: 20, Views: 5_000})
	for b.Loop() {
		few, many := median(3, func() measured { return surveyOnce(b, small) }), surveyOnce(b, large)
		report(b, many)
		b.ReportMetric(float64(many.memory)/float64(few.memory), "memory-of-10000-tables")
		b.ReportMetric(float64(many.took)/float64(few.took), "time-of-10000-tables")
	}
}

// BenchmarkUnchanged tells what a second survey of an unchanged database adds to the catalogue.
func BenchmarkUnchanged(b *testing.B) {
	s := testservers.Postgres(b)
	url := filled(b, s, Standard)
	home := b.TempDir()
	size := func() (n int64) {
		for _, name := range []string{"catalogue.db", "catalogue.db-wal"} {
			if st, err := os.Stat(filepath.Join(home, name)); err == nil {
				n += st.Size()
			}
		}
		return n
	}
	args := []string{"--home", home, "survey", "--from", url, "--name", "bench"}
	run(b, program(b), args)
	for b.Loop() {
		before := size()
		m := run(b, program(b), args)
		report(b, m)
		b.ReportMetric(100*float64(size()-before)/float64(before), "%-added")
	}
}
