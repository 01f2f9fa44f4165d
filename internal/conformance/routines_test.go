package conformance

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// Bodies and parameters of routines are what the servers keep apart themselves.
func TestRoutinesInParts(t *testing.T) {
	// Each row: the routine as schema.name(types), what is told, and its value.
	accounts := map[string]string{
		"postgres": `SELECT n.nspname || '.' || p.proname || '(' || pg_get_function_identity_arguments(p.oid) || ')', 'body', p.prosrc
FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace JOIN pg_language l ON l.oid = p.prolang WHERE p.oid >= 16384 AND p.prokind IN ('f', 'p') AND p.prosqlbody IS NULL AND l.lanname NOT IN ('c', 'internal')
UNION ALL SELECT n.nspname || '.' || p.proname || '(' || pg_get_function_identity_arguments(p.oid) || ')', 'parameters',
  (SELECT coalesce(string_agg(coalesce(nullif(p.proargnames[i], ''), '_') || ' ' || coalesce(CASE p.proargmodes[i] WHEN 'o' THEN 'out' WHEN 'b' THEN 'inout' WHEN 'v' THEN 'variadic' END, 'in'), ', ' ORDER BY i), '')
   FROM generate_subscripts(coalesce(p.proallargtypes, p.proargtypes::oid[] ), 1) i0, LATERAL (SELECT i0 + CASE WHEN p.proallargtypes IS NULL THEN 1 ELSE 0 END AS i) x WHERE p.proargmodes[i] IS DISTINCT FROM 't')
FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace WHERE p.oid >= 16384 AND p.prokind IN ('f', 'p')`,
		"mariadb": `SELECT routine_name, 'body', routine_definition FROM information_schema.routines WHERE routine_schema = database() AND routine_type IN ('FUNCTION', 'PROCEDURE')
UNION ALL SELECT r.routine_name, 'parameters', (SELECT coalesce(group_concat(concat(p.parameter_name, ' ', lower(p.parameter_mode)) ORDER BY p.ordinal_position SEPARATOR ', '), '') FROM information_schema.parameters p
  WHERE p.specific_schema = r.routine_schema AND p.specific_name = r.specific_name AND p.ordinal_position > 0) FROM information_schema.routines r WHERE routine_schema = database() AND routine_type IN ('FUNCTION', 'PROCEDURE')`,
	}
	for _, s := range []testservers.Server{testservers.Postgres(t), testservers.MariaDB(t)} {
		t.Run(s.Name(), func(t *testing.T) {
			script, err := os.ReadFile(filepath.Join("testdata", s.Name(), "code.sql"))
			if err != nil {
				t.Fatal(err)
			}
			url := s.Database(t, string(script))
			c := testcatalogue.New(t)
			contents := read(t, c, s, "quay", url)
			objects, err := c.Objects(context.Background(), all(contents))
			if err != nil {
				t.Fatal(err)
			}
			routines := map[string]*schema.Object{}
			for _, o := range objects {
				if o.Routine == nil || !o.Kind.IsRoutine() {
					continue
				}
				key := o.Name
				if o.Schema != "" {
					key = fmt.Sprintf("%s.%s(%s)", o.Schema, o.Name, o.Signature)
				}
				routines[key] = o
			}
			rows, err := s.Open(t, url).Query(accounts[s.Name()])
			if err != nil {
				t.Fatal(err)
			}
			defer rows.Close()
			compared := 0
			for rows.Next() {
				var key, what string
				var value sql.NullString
				if err := rows.Scan(&key, &what, &value); err != nil {
					t.Fatal(err)
				}
				o := routines[key]
				if o == nil {
					t.Errorf("%s was not read", key)
					continue
				}
				got := strings.TrimRight(o.Routine.Body(), "; \n")
				if what == "parameters" {
					var list []string
					for _, p := range o.Routine.Parameters {
						name, mode := p.Name, p.Mode
						if name == "" {
							name = "_"
						}
						if mode == "" {
							mode = "in"
						}
						if p.Type == "" {
							t.Errorf("%s: the parameter %s has no type", key, name)
						}
						list = append(list, name+" "+mode)
					}
					got = strings.Join(list, ", ")
				}
				want := strings.TrimPrefix(strings.TrimRight(value.String, "; \n"), "AS ") // which the Oracle mode counts as a part of the body
				if got != want {
					t.Errorf("%s, its %s:\n%q, and the server says\n%q", key, what, got, want)
				}
				compared++
			}
			if err := rows.Err(); err != nil || compared < 10 {
				t.Errorf("%d were compared, %v", compared, err)
			}
		})
	}
}
