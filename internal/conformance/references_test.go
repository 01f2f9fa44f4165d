package conformance

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testservers"
)

// What PostgreSQL records of a view is the judge of what is read from its text: the relations, and the columns.
func TestViewsAsRecorded(t *testing.T) {
	s := testservers.Postgres(t)
	files, err := filepath.Glob("testdata/postgres/*.sql")
	if err != nil || len(files) == 0 {
		t.Fatal(err)
	}
	if dir := os.Getenv("ECHO_ATLAS_REAL_SCHEMAS"); dir != "" {
		more, _ := filepath.Glob(filepath.Join(dir, "postgres", "*.sql"))
		files = append(files, more...)
	}
	views, columns := 0, 0
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			script, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			v, c := asRecorded(t, s, string(script))
			views, columns = views+v, columns+c
		})
	}
	t.Logf("%d views, %d columns", views, columns)
	if views < 10 {
		t.Errorf("only %d views were compared", views)
	}
}

// asRecorded compares what the views of a database refer to, by their texts and by the server's record.
func asRecorded(t *testing.T, s *testservers.PostgresServer, script string) (views, columns int) {
	t.Helper()
	reading := readingOf(t, s, s.Database(t, script))
	recorded, found := readsOf(reading.Dependencies), readsOf(slices.Concat(references.Find(reading, s.Engine())...))
	for _, o := range reading.Objects {
		if o.Relation == nil || o.Relation.Query == "" {
			continue
		}
		views++
		columns += len(recorded[o.ID()])
		if wrong := differences(recorded[o.ID()], found[o.ID()]); len(wrong) > 0 {
			t.Errorf("%s: %s\n%s", o.ID().Qualified(), strings.Join(wrong, "; "), o.Relation.Query)
		}
	}
	return views, columns
}

// readsOf returns what relations read of others, by the first.
func readsOf(all []schema.Dependency) map[schema.ID]map[string]bool {
	reads := map[schema.ID]map[string]bool{}
	for i := range all {
		d := &all[i]
		if d.Use != schema.UseReads || !d.From.ID.Kind.IsRelation() || d.From.PartKind != "" || !d.To.ID.Kind.IsRelation() {
			continue
		}
		if reads[d.From.ID] == nil {
			reads[d.From.ID] = map[string]bool{}
		}
		reads[d.From.ID][d.To.ID.Qualified()+" "+d.To.Part] = true
	}
	return reads
}

// differences tells what was missed of what is recorded, and what was invented. A relation of which no column is read is
// recorded in another way.
func differences(want, got map[string]bool) []string {
	var wrong []string
	for text := range want {
		if !got[text] {
			wrong = append(wrong, "missed "+text)
		}
	}
	for text := range got {
		if !want[text] && !strings.HasSuffix(text, " ") {
			wrong = append(wrong, "invented "+text)
		}
	}
	slices.Sort(wrong)
	return wrong
}
