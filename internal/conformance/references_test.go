package conformance

import (
	"fmt"
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

// TestOverloads calls routines of one name with arguments of all sorts: which of them a view calls the server records.
func TestOverloads(t *testing.T) {
	s := testservers.Postgres(t)
	var b strings.Builder
	b.WriteString("CREATE TYPE public.spot AS (x int, y int); CREATE DOMAIN public.metres AS numeric CHECK (VALUE > 0);\n")
	b.WriteString("CREATE TABLE public.berth (id int, no bigint, small smallint, name text, code varchar(9), depth numeric(8,2), swell double precision, since date, at timestamp, moment timestamptz, free boolean, tags text[], place public.spot, draught public.metres, extra jsonb);\n")
	for i, types := range []string{"int", "text", "date", "numeric", "boolean", "timestamptz", "text[]", "public.spot", "jsonb", "int, text", "text, int", "numeric, numeric", "int, int", "date, date", "text, text", "int, boolean"} {
		fmt.Fprintf(&b, "CREATE FUNCTION public.charge(%s) RETURNS %s LANGUAGE sql AS 'SELECT NULL::%[2]s';\n", types, []string{"int", "text", "date", "numeric"}[i%4])
	}
	calls := []string{"id", "no", "small", "name", "code", "depth", "swell", "since", "at", "moment", "free", "tags", "place", "draught", "extra", "1", "1.5", "'x'::text", "id + 1", "depth * 2", "name || 'x'", "id > 2", "name IS NULL",
		"free AND id = 1", "NOT free", "lower(name)", "current_date", "current_timestamp", "now()", "date '2026-01-01'", "charge(id)", "charge(name)", "charge(since)", "charge(charge(depth) || 'a')", "CAST(id AS text)", "(depth)", "id::numeric", "extra -> 'a'",
		"id, name", "name, id", "depth, depth", "id, id", "since, since", "name, code", "id, free", "id, 'x'::text", "charge(1), name", "1, 2", "depth, id", "small, code", "no, depth", "b.id", "b.name, b.id", "(SELECT max(x.since) FROM berth x)", "count(*) OVER ()"}
	for i, args := range calls {
		fmt.Fprintf(&b, "DO $do$ BEGIN CREATE VIEW public.v%02d AS SELECT public.charge(%s) AS c FROM public.berth b; EXCEPTION WHEN undefined_function OR ambiguous_function THEN END $do$;\n", i, strings.ReplaceAll(args, "charge(", "public.charge("))
	}
	reading := readingOf(t, s, s.Database(t, b.String()))
	called := func(all []schema.Dependency) map[string][]string {
		lists := map[string][]string{}
		for _, d := range all {
			if name := d.To.ID.Qualified(); d.Use == schema.UseCalls && !slices.Contains(lists[d.From.ID.Name], name) {
				lists[d.From.ID.Name] = append(lists[d.From.ID.Name], name)
			}
		}
		return lists
	}
	recorded, found := called(reading.Dependencies), called(slices.Concat(references.Find(reading, s.Engine())...))
	exact := 0
	for view, want := range recorded {
		got := found[view]
		for _, name := range want {
			if !slices.Contains(got, name) {
				t.Errorf("%s calls %v; found is %v", view, want, got)
			}
		}
		if len(got) == len(want) {
			exact++
		}
	}
	if len(recorded) < 40 || exact*20 < len(recorded)*19 {
		t.Errorf("of %d views with calls %d are told exactly", len(recorded), exact)
	}
	t.Logf("%d views, %d exactly", len(recorded), exact)
}
