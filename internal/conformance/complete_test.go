package conformance

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// count runs a query that returns one number.
func count(t *testing.T, db *sql.DB, query string) int {
	t.Helper()
	var n int
	if err := db.QueryRow(query).Scan(&n); err != nil {
		t.Fatalf("%v\n%s", err, query)
	}
	return n
}

// own is a condition on rows of a catalogue that belong to a user and to no extension.
func own(catalogue string) string {
	return fmt.Sprintf(`x.oid >= 16384 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = '%s'::regclass AND e.objid = x.oid AND e.deptype IN ('e', 'i'))`, catalogue)
}

func relations(kinds, more string) string {
	return `SELECT count(*) FROM pg_class x JOIN pg_namespace n ON n.oid = x.relnamespace WHERE x.relkind IN (` + kinds + `) AND n.nspname !~ '^pg_' AND n.nspname <> 'information_schema' AND ` + more + ` AND ` +
		`NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'pg_class'::regclass AND e.objid = x.oid AND e.deptype = 'e')`
}

// postgresCounts counts each kind by queries that share nothing with the engine's.
var postgresCounts = map[schema.Kind]string{
	schema.KindTable:            relations("'r'", "NOT x.relispartition"),
	schema.KindPartitionedTable: relations("'p'", "NOT x.relispartition"),
	schema.KindPartition:        relations("'r','p','f'", "x.relispartition"),
	schema.KindForeignTable:     relations("'f'", "NOT x.relispartition"),
	schema.KindView:             relations("'v'", "true"),
	schema.KindMaterialisedView: relations("'m'", "true"),
	schema.KindIndex:            relations("'i','I'", "NOT EXISTS (SELECT 1 FROM pg_constraint k WHERE k.conindid = x.oid AND k.contype IN ('p', 'u', 'x')) AND x.oid >= 16384"),
	schema.KindSequence:         relations("'S'", "NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = x.oid AND d.deptype = 'i' AND d.classid = 'pg_class'::regclass)"),
	schema.KindFunction:         `SELECT count(*) FROM pg_proc x WHERE x.prokind IN ('f', 'w') AND ` + own("pg_proc"),
	schema.KindProcedure:        `SELECT count(*) FROM pg_proc x WHERE x.prokind = 'p' AND ` + own("pg_proc"),
	schema.KindAggregate:        `SELECT count(*) FROM pg_proc x WHERE x.prokind = 'a' AND ` + own("pg_proc"),
	schema.KindTrigger:          `SELECT count(*) FROM pg_trigger x WHERE NOT tgisinternal AND tgparentid = 0`,
	schema.KindEnum:             `SELECT count(*) FROM pg_type x WHERE typtype = 'e' AND ` + own("pg_type"),
	schema.KindDomain:           `SELECT count(*) FROM pg_type x WHERE typtype = 'd' AND ` + own("pg_type"),
	schema.KindBaseType:         `SELECT count(*) FROM pg_type x WHERE typtype = 'b' AND typelem = 0 AND ` + own("pg_type"),
	schema.KindRange:            `SELECT count(*) FROM pg_type x WHERE typtype = 'r' AND ` + own("pg_type"),
	schema.KindComposite:        relations("'c'", "true"),
	schema.KindPolicy:           `SELECT count(*) FROM pg_policy`,
	schema.KindRule:             `SELECT count(*) FROM pg_rewrite x WHERE rulename <> '_RETURN' AND x.oid >= 16384`,
	schema.KindExtension:        `SELECT count(*) FROM pg_extension x WHERE x.oid >= 16384`,
	schema.KindCollation:        `SELECT count(*) FROM pg_collation x WHERE ` + own("pg_collation"),
	schema.KindConversion:       `SELECT count(*) FROM pg_conversion x WHERE ` + own("pg_conversion"),
	schema.KindCast:             `SELECT count(*) FROM pg_cast x WHERE ` + own("pg_cast"),
	schema.KindOperator:         `SELECT count(*) FROM pg_operator x WHERE ` + own("pg_operator"),
	schema.KindOperatorClass:    `SELECT count(*) FROM pg_opclass x WHERE ` + own("pg_opclass"),
	schema.KindOperatorFamily:   `SELECT count(*) FROM pg_opfamily x WHERE ` + own("pg_opfamily"),
	schema.KindLanguage:         `SELECT count(*) FROM pg_language x WHERE ` + own("pg_language"),
	schema.KindAccessMethod:     `SELECT count(*) FROM pg_am x WHERE ` + own("pg_am"),
	schema.KindTransform:        `SELECT count(*) FROM pg_transform x WHERE ` + own("pg_transform"),
	schema.KindTextConfig:       `SELECT count(*) FROM pg_ts_config x WHERE ` + own("pg_ts_config"),
	schema.KindTextDictionary:   `SELECT count(*) FROM pg_ts_dict x WHERE ` + own("pg_ts_dict"),
	schema.KindTextParser:       `SELECT count(*) FROM pg_ts_parser x WHERE ` + own("pg_ts_parser"),
	schema.KindTextTemplate:     `SELECT count(*) FROM pg_ts_template x WHERE ` + own("pg_ts_template"),
	schema.KindWrapper:          `SELECT count(*) FROM pg_foreign_data_wrapper x WHERE ` + own("pg_foreign_data_wrapper"),
	schema.KindServer:           `SELECT count(*) FROM pg_foreign_server x WHERE ` + own("pg_foreign_server"),
	schema.KindUserMapping:      `SELECT count(*) FROM pg_user_mapping`,
	schema.KindPublication:      `SELECT count(*) FROM pg_publication`,
	schema.KindSubscription:     `SELECT count(*) FROM pg_subscription WHERE subdbid = (SELECT oid FROM pg_database WHERE datname = current_database())`,
	schema.KindEventTrigger:     `SELECT count(*) FROM pg_event_trigger x WHERE ` + own("pg_event_trigger"),
	schema.KindStatistics:       `SELECT count(*) FROM pg_statistic_ext`,
	schema.KindDefaultRights:    `SELECT count(*) FROM pg_default_acl`,
	schema.KindSchema:           `SELECT count(*) FROM pg_namespace WHERE nspname !~ '^pg_' AND nspname <> 'information_schema'`,
}

// The survey lists exactly what the server's own catalogue holds, as superuser and as a user who may do
// nothing but connect.
func TestNothingIsMissing(t *testing.T) {
	s := testservers.Postgres(t)
	if _, err := s.Open(t, s.URL("postgres")).Exec("CREATE ROLE onlooker LOGIN"); err != nil {
		t.Fatal(err)
	}
	seen := map[schema.Kind]bool{}
	cases, _ := filepath.Glob("testdata/postgres/*.sql")
	for _, path := range cases {
		t.Run(filepath.Base(path), func(t *testing.T) {
			script, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			url := s.Database(t, string(script))
			c := testcatalogue.New(t)
			rich := read(t, c, s, "rich", url)
			poor := read(t, c, s, "poor", strings.Replace(url, "atlas@", "onlooker@", 1))
			db := s.Open(t, url)
			for kind, n := range rich.Snapshot.Counts {
				if postgresCounts[kind] == "" {
					t.Errorf("%d %s: the test counts none", n, kind.Plural())
				}
			}
			for kind, query := range postgresCounts {
				n := count(t, db, query)
				if got := rich.Snapshot.Counts[kind]; got != n {
					t.Errorf("%d %s, the server has %d", got, kind.Plural(), n)
				}
				seen[kind] = seen[kind] || n > 0
			}
			// What the poor user does not see is told.
			res, err := diff.Compare(context.Background(), c, rich.Snapshot, poor.Snapshot, diff.Options{Exact: true, Order: true})
			if err != nil {
				t.Fatal(err)
			}
			for _, o := range res.Objects {
				told := false
				for _, k := range poor.Snapshot.Remarks {
					told = told || k.State == "hidden" && k.Subject == o.ID.Qualified()
				}
				if o.Change != diff.Changed || !told {
					t.Errorf("for the poor user %s %s, and nothing is told: %+v", o.Change, o.ID.Qualified(), o.Properties)
				}
			}
			for _, k := range poor.Snapshot.Remarks {
				if k.State == "failed" || k.State == "locked" {
					t.Errorf("for the poor user: %+v", k)
				}
			}
		})
	}
	for kind := range postgresCounts {
		if !seen[kind] {
			t.Errorf("no case holds a %s", kind)
		}
	}
}

// serverLevel reads what belongs to no database of a server.
func serverLevel(t *testing.T, c *catalogue.Catalogue, s interface {
	testservers.Server
	URL(string) string
}, name string) *catalogue.Contents {
	t.Helper()
	ctx := context.Background()
	session, err := s.Engine().Connect(ctx, engine.Target{URL: s.URL("")})
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	reading, err := session.Read(ctx, engine.ServerLevel)
	if err != nil {
		t.Fatal(err)
	}
	snapshot, _, err := c.Save(ctx, catalogue.Origin{Server: name}, reading)
	if err != nil {
		t.Fatal(err)
	}
	contents, err := c.Contents(ctx, snapshot)
	if err != nil {
		t.Fatal(err)
	}
	return contents
}

// Roles, databases and what they may do are a snapshot of their own.
func TestServerLevel(t *testing.T) {
	s := testservers.Postgres(t)
	admin := s.Open(t, s.URL("postgres"))
	make := `CREATE ROLE "Pier Crew" NOINHERIT CREATEDB CONNECTION LIMIT 5 VALID UNTIL '2030-01-01 00:00+00'; CREATE ROLE rower LOGIN PASSWORD 'hush';
GRANT "Pier Crew" TO rower WITH ADMIN OPTION; GRANT pg_monitor TO rower; ALTER ROLE rower SET work_mem = '1MB'; ALTER ROLE rower IN DATABASE postgres SET search_path = 'a', "B b";
ALTER ROLE rower SET harbour.api_secret = 'hush'; ALTER ROLE rower SET password_encryption = 'md5';
COMMENT ON ROLE rower IS 'rows';`
	drop := `DROP ROLE IF EXISTS rower; DROP ROLE IF EXISTS "Pier Crew";`
	if _, err := admin.Exec(drop + make); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _, _ = s.Open(t, s.URL("postgres")).Exec(drop) })
	c := testcatalogue.New(t)
	ctx := context.Background()
	level := func(name string) *catalogue.Contents { return serverLevel(t, c, s, name) }
	before := level("before")
	if n, want := before.Snapshot.Counts[schema.KindRole], count(t, admin, `SELECT count(*) FROM pg_authid WHERE rolname !~ '^pg_'`); n != want {
		t.Errorf("%d roles, the server has %d", n, want)
	}
	if n, want := before.Snapshot.Counts[schema.KindDatabase], count(t, admin, `SELECT count(*) FROM pg_database WHERE datname !~ '^template'`); n != want {
		t.Errorf("%d databases, the server has %d", n, want)
	}
	var chosen []*catalogue.Entry
	for i := range before.All() {
		if name := before.At(i).ID.Name; name == "rower" || name == "Pier Crew" {
			chosen = append(chosen, before.At(i))
		}
	}
	script, err := ddl.Write(ctx, c, s.Engine(), before, chosen, ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(script.Text(), "hush") || strings.Contains(script.Text(), "SCRAM") {
		t.Errorf("the script holds a password:\n%s", script.Text())
	}
	if !strings.Contains(script.Text(), "harbour.api_secret is set") || !strings.Contains(script.Text(), "password_encryption = 'md5'") {
		t.Errorf("the script does not say which setting it lacks:\n%s", script.Text())
	}
	if _, err := admin.Exec("ALTER ROLE rower RESET harbour.api_secret"); err != nil {
		t.Fatal(err)
	}
	before = level("before without secrets")
	if _, err := admin.Exec(drop); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL("postgres"), script.Text())
	compare(t, c, before, level("after"))
}

// What versions brought to roles and databases comes back, by the server's own account.
func TestServerLevelOfVersions(t *testing.T) {
	s := testservers.Postgres(t)
	major := s.Major(t)
	admin := s.Open(t, s.URL("postgres"))
	statements := "CREATE ROLE tide_crew; CREATE ROLE tide_clerk NOINHERIT LOGIN; GRANT tide_crew TO tide_clerk;"
	account := []string{"SELECT (to_jsonb(m) - 'oid' - 'roleid' - 'member' - 'grantor')::text FROM pg_auth_members m WHERE roleid = 'tide_crew'::regrole ORDER BY 1", "SELECT datname, (to_jsonb(d) - 'oid' - 'dattablespace' - 'datdba' - 'datfrozenxid' - 'datminmxid' - 'datlastsysoid')::text FROM pg_database d WHERE datname ~ '^tide_' ORDER BY 1"}
	databases := []string{}
	if major >= 15 {
		statements += "GRANT SET ON PARAMETER work_mem TO tide_crew; GRANT ALTER SYSTEM, SET ON PARAMETER log_min_duration_statement TO tide_clerk WITH GRANT OPTION;"
		account = append(account, "SELECT parname, a.grantee::regrole, a.privilege_type, a.is_grantable FROM pg_parameter_acl, aclexplode(paracl) a WHERE a.grantee::regrole::text ~ '^tide_' ORDER BY 1, 2, 3")
		databases = append(databases, "CREATE DATABASE tide_icu TEMPLATE template0 LOCALE_PROVIDER icu ICU_LOCALE 'is' LC_COLLATE 'C' LC_CTYPE 'C'")
	}
	if major >= 16 {
		statements += "CREATE ROLE tide_boy; GRANT tide_crew TO tide_boy WITH INHERIT FALSE, SET FALSE; CREATE ROLE tide_girl NOINHERIT; GRANT tide_crew TO tide_girl WITH ADMIN TRUE, INHERIT TRUE;"
		databases = append(databases, "CREATE DATABASE tide_rules TEMPLATE template0 LOCALE_PROVIDER icu ICU_LOCALE 'und' ICU_RULES '&a < b' LC_COLLATE 'C' LC_CTYPE 'C'")
	}
	if major >= 17 {
		databases = append(databases, "CREATE DATABASE tide_builtin TEMPLATE template0 LOCALE_PROVIDER builtin BUILTIN_LOCALE 'C.UTF-8' LC_COLLATE 'C' LC_CTYPE 'C'")
	}
	drop := func() {
		for _, name := range []string{"tide_icu", "tide_rules", "tide_builtin"} {
			_, _ = admin.Exec("DROP DATABASE IF EXISTS " + name)
		}
		if major >= 15 {
			_, _ = admin.Exec("DO $$DECLARE r name; BEGIN FOR r IN SELECT rolname FROM pg_roles WHERE rolname ~ '^tide_' LOOP EXECUTE 'DROP OWNED BY ' || r; END LOOP; END$$")
		}
		if _, err := admin.Exec("DROP ROLE IF EXISTS tide_boy, tide_girl, tide_clerk, tide_crew"); err != nil {
			t.Error(err)
		}
	}
	drop()
	t.Cleanup(func() { admin = s.Open(t, s.URL("postgres")); drop() })
	for _, q := range append([]string{statements}, databases...) {
		if _, err := admin.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	c := testcatalogue.New(t)
	said := func() (all []string) {
		for _, q := range account {
			rows, err := admin.Query(q)
			if err != nil {
				t.Fatal(err)
			}
			columns, _ := rows.Columns()
			for rows.Next() {
				cells := make([]string, len(columns))
				to := make([]any, len(columns))
				for i := range cells {
					to[i] = &cells[i]
				}
				if err := rows.Scan(to...); err != nil {
					t.Fatal(err)
				}
				all = append(all, strings.Join(cells, " "))
			}
			rows.Close()
		}
		return all
	}
	before, was := serverLevel(t, c, s, "before"), said()
	var chosen []*catalogue.Entry
	for i := range before.All() {
		if strings.HasPrefix(before.At(i).ID.Name, "tide_") {
			chosen = append(chosen, before.At(i))
		}
	}
	script, err := ddl.Write(context.Background(), c, s.Engine(), before, chosen, ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	drop()
	s.Run(t, s.URL("postgres"), script.Text())
	compare(t, c, before, serverLevel(t, c, s, "after"))
	compareLines(t, "the server's account", was, said())
}

// mariaDBCounts counts each kind by queries that share nothing with the engine's.
var mariaDBCounts = map[schema.Kind]string{
	schema.KindTable:       `SELECT count(*) FROM information_schema.tables WHERE table_schema = database() AND table_type IN ('BASE TABLE', 'SYSTEM VERSIONED')`,
	schema.KindView:        `SELECT count(*) FROM information_schema.views WHERE table_schema = database()`,
	schema.KindSequence:    `SELECT count(*) FROM information_schema.tables WHERE table_schema = database() AND table_type = 'SEQUENCE'`,
	schema.KindIndex:       `SELECT count(DISTINCT table_name, index_name) FROM information_schema.statistics WHERE table_schema = database() AND non_unique = 1`,
	schema.KindFunction:    `SELECT count(*) FROM mysql.proc WHERE db = database() AND type = 'FUNCTION' AND aggregate <> 'GROUP'`,
	schema.KindAggregate:   `SELECT count(*) FROM mysql.proc WHERE db = database() AND aggregate = 'GROUP'`,
	schema.KindProcedure:   `SELECT count(*) FROM mysql.proc WHERE db = database() AND type = 'PROCEDURE'`,
	schema.KindPackage:     `SELECT count(*) FROM mysql.proc WHERE db = database() AND type = 'PACKAGE'`,
	schema.KindPackageBody: `SELECT count(*) FROM mysql.proc WHERE db = database() AND type = 'PACKAGE BODY'`,
	schema.KindTrigger:     `SELECT count(*) FROM information_schema.triggers WHERE trigger_schema = database()`,
	schema.KindEvent:       `SELECT count(*) FROM mysql.event WHERE db = database()`,
}

// The same for MariaDB. There a poor user does not see whole kinds: that is told, with the right that is
// missing.
func TestNothingIsMissingMariaDB(t *testing.T) {
	s := testservers.MariaDB(t)
	seen := map[schema.Kind]bool{}
	cases, _ := filepath.Glob("testdata/mariadb/*.sql")
	for _, path := range cases {
		t.Run(filepath.Base(path), func(t *testing.T) {
			script, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			url := s.Database(t, string(script))
			db := s.Open(t, url)
			for _, q := range []string{"CREATE USER IF NOT EXISTS onlooker@'127.0.0.1'", "GRANT SELECT ON " + s.Engine().Database(url) + ".* TO onlooker@'127.0.0.1'"} {
				if _, err := db.Exec(q); err != nil {
					t.Fatal(err)
				}
			}
			c := testcatalogue.New(t)
			rich := read(t, c, s, "rich", url)
			poor := read(t, c, s, "poor", strings.Replace(url, "root@", "onlooker@", 1))
			for kind, n := range rich.Snapshot.Counts {
				if mariaDBCounts[kind] == "" {
					t.Errorf("%d %s: the test counts none", n, kind.Plural())
				}
			}
			told := map[string]bool{}
			for _, k := range poor.Snapshot.Remarks {
				if k.State == "failed" || k.State == "locked" {
					t.Errorf("for the poor user: %+v", k)
				}
				for _, word := range []string{"trigger", "event", "routines", "rights"} {
					told[word] = told[word] || k.State == "hidden" && k.Subject == "" && strings.Contains(k.Reason, word)
				}
			}
			if !told["trigger"] || !told["event"] || !told["routines"] || !told["rights"] {
				t.Errorf("what stays hidden is not told: %+v", poor.Snapshot.Remarks)
			}
			for kind, query := range mariaDBCounts {
				n := count(t, db, query)
				seen[kind] = seen[kind] || n > 0
				if got := rich.Snapshot.Counts[kind]; got != n {
					t.Errorf("%d %s, the server has %d", got, kind.Plural(), n)
				}
				switch kind {
				case schema.KindTable, schema.KindView, schema.KindSequence, schema.KindIndex:
					if got := poor.Snapshot.Counts[kind]; got != n {
						t.Errorf("the poor user sees %d of %d %s", got, n, kind.Plural())
					}
				}
			}
		})
	}
	for kind := range mariaDBCounts {
		if !seen[kind] {
			t.Errorf("no case holds a %s", kind)
		}
	}
}

// Users, roles and databases of MariaDB are a snapshot of their own.
func TestServerLevelMariaDB(t *testing.T) {
	s := testservers.MariaDB(t)
	root := s.Open(t, s.URL(""))
	drop := "DROP USER IF EXISTS rower@'10.%', locked@'%', tied@'%', aged@'%', stale@'%', other@'%'; DROP ROLE IF EXISTS pier_crew, inner_crew; DROP DATABASE IF EXISTS log_books; DROP SERVER IF EXISTS far_one;"
	if _, err := root.Exec(drop + `CREATE DATABASE log_books CHARACTER SET latin1 COLLATE latin1_german1_ci; CREATE ROLE pier_crew;
CREATE USER rower@'10.%' IDENTIFIED BY 'hush' REQUIRE SSL WITH MAX_QUERIES_PER_HOUR 50; GRANT pier_crew TO rower@'10.%' WITH ADMIN OPTION; SET DEFAULT ROLE pier_crew FOR rower@'10.%';
ALTER DATABASE log_books COMMENT 'what was written; it''s old'; CREATE USER locked@'%' ACCOUNT LOCK PASSWORD EXPIRE NEVER; CREATE USER aged@'%' IDENTIFIED BY 'hush' PASSWORD EXPIRE INTERVAL 30 DAY; CREATE USER stale@'%' IDENTIFIED BY 'hush' PASSWORD EXPIRE;
CREATE USER tied@'%' IDENTIFIED VIA unix_socket OR mysql_native_password USING PASSWORD('hush') REQUIRE CIPHER 'AES' ISSUER '/CN=Skerry' SUBJECT '/CN=crew' WITH MAX_STATEMENT_TIME 3.5 MAX_USER_CONNECTIONS 2;
CREATE USER other@'%'; GRANT PROXY ON tied@'%' TO other@'%' WITH GRANT OPTION; GRANT ALL ON *.* TO other@'%' WITH GRANT OPTION; GRANT ALL ON log_books.* TO rower@'10.%';
CREATE ROLE inner_crew; GRANT pier_crew TO inner_crew; GRANT INSERT ON log_books.* TO inner_crew; CREATE SERVER far_one FOREIGN DATA WRAPPER mysql OPTIONS (HOST '10.0.0.9', DATABASE 'skerry', USER 'crew', PASSWORD 'hush', PORT 3307);
GRANT PROCESS, RELOAD ON *.* TO rower@'10.%'; GRANT SELECT, TRIGGER ON log_books.* TO pier_crew WITH GRANT OPTION;`); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _, _ = s.Open(t, s.URL("")).Exec(drop) })
	c := testcatalogue.New(t)
	ctx := context.Background()
	level := func(name string) *catalogue.Contents { return serverLevel(t, c, s, name) }
	before := level("before")
	var chosen []*catalogue.Entry
	for i := range before.All() {
		if name := before.At(i).ID.Name; slices.Contains([]string{"rower", "pier_crew", "log_books", "locked", "tied", "aged", "stale", "other", "far_one", "inner_crew"}, name) {
			chosen = append(chosen, before.At(i))
		}
	}
	if len(chosen) != 10 {
		t.Fatalf("%d of user, role and database", len(chosen))
	}
	script, err := ddl.Write(ctx, c, s.Engine(), before, chosen, ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(script.Text(), "hush") || regexp.MustCompile(`\*[0-9A-F]{10}`).MatchString(script.Text()) {
		t.Errorf("the script holds a password:\n%s", script.Text())
	}
	said := func() (all []string) { // by SHOW CREATE USER and SHOW GRANTS, without what is a secret
		for _, name := range []string{"pier_crew", "inner_crew", "rower@'10.%'", "locked@'%'", "tied@'%'", "aged@'%'", "stale@'%'", "other@'%'"} {
			q := "SHOW CREATE USER " + name
			if !strings.Contains(name, "@") {
				q = "SELECT concat_ws(' ', Db, Select_priv, Insert_priv, Trigger_priv) FROM mysql.db WHERE User = '" + name + "'" // what is a role's own
			}
			all = append(all, firstColumn(t, root, q, "SHOW GRANTS FOR "+name)...)
		}
		secret := regexp.MustCompile(` (USING|IDENTIFIED BY PASSWORD) '[^']*'`)
		for i := range all {
			all[i] = secret.ReplaceAllString(all[i], "")
		}
		return all
	}
	account := said()
	if _, err := root.Exec(drop); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL("mysql"), script.Text())
	compare(t, c, before, level("after"))
	compareLines(t, "the server's account", account, said())
	for _, priv := range firstColumn(t, root, "SELECT Priv FROM mysql.global_priv WHERE User IN ('rower', 'aged', 'stale', 'tied')") {
		if !strings.Contains(priv, `"invalid"`) {
			t.Errorf("a user with a password has none now, and lets everybody in: %s", priv)
		}
	}
}

// firstColumn returns the texts in the first columns of the answers to queries.
func firstColumn(t *testing.T, db *sql.DB, queries ...string) (all []string) {
	t.Helper()
	for _, q := range queries {
		rows, err := db.Query(q)
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			var text string
			if err := rows.Scan(&text); err != nil {
				t.Fatal(err)
			}
			all = append(all, text)
		}
		rows.Close()
	}
	return all
}

// What the engine or an extension made is left out unless it is asked for, is marked, and stands in no
// script; what a user put among it is shown.
func TestSystemObjects(t *testing.T) {
	ctx := context.Background()
	for _, c := range []struct {
		server          testservers.Server
		script          string
		system, strayed string // an object of each sort
	}{
		{testservers.Postgres(t), `CREATE EXTENSION pg_trgm; CREATE TABLE berth (name text); CREATE INDEX near ON berth USING gin (name gin_trgm_ops);
CREATE FUNCTION pg_catalog.my_own() RETURNS int LANGUAGE sql AS 'SELECT 1';`, "gtrgm_in", "my_own"},
		{testservers.SQLite{}, `CREATE VIRTUAL TABLE notes USING fts5 (title); CREATE TABLE berth (id INTEGER PRIMARY KEY AUTOINCREMENT);`, "notes_content", ""},
	} {
		t.Run(c.server.Name(), func(t *testing.T) {
			url := c.server.Database(t, c.script)
			store := testcatalogue.New(t)
			names := func(system bool) (*catalogue.Contents, map[string]string) {
				session, err := c.server.Engine().Connect(ctx, engine.Target{URL: url, System: system})
				if err != nil {
					t.Fatal(err)
				}
				defer session.Close()
				reading, err := session.Read(ctx, c.server.Engine().Database(url))
				if err != nil {
					t.Fatal(err)
				}
				if c.strayed != "" && (len(reading.Remarks) != 1 || reading.Remarks[0].State != "note" || !strings.Contains(reading.Remarks[0].Subject, c.strayed)) {
					t.Errorf("what strayed is not told: %+v", reading.Remarks)
				}
				snapshot, _, err := store.Save(ctx, catalogue.Origin{Server: fmt.Sprint(system)}, reading)
				if err != nil {
					t.Fatal(err)
				}
				contents, err := store.Contents(ctx, snapshot)
				if err != nil {
					t.Fatal(err)
				}
				states := map[string]string{}
				for _, e := range contents.All() {
					states[e.ID.Name] = e.State
				}
				return contents, states
			}
			_, plain := names(false)
			whole, marked := names(true)
			if _, there := plain[c.system]; there || marked[c.system] != "system" || plain["berth"] != "" || marked["berth"] != "" {
				t.Errorf("%s: %v; %v", c.system, plain, marked)
			}
			if _, there := plain[c.strayed]; c.strayed != "" && !there {
				t.Errorf("%s strayed and is not shown", c.strayed)
			}
			written, err := ddl.Write(ctx, store, c.server.Engine(), whole, all(whole), ddl.Options{})
			if err != nil {
				t.Fatal(err)
			}
			if strings.Contains(written.Text(), c.system) {
				t.Errorf("the script makes %s:\n%s", c.system, written.Text())
			}
			if c.strayed == "" { // nobody else may put a thing there
				c.server.Database(t, written.Text())
			}
		})
	}
}
