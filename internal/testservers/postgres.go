package testservers

// A throwaway PostgreSQL with a data folder and a socket of its own.

import (
	"database/sql"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // PostgreSQL for database/sql

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/postgres"
)

// PostgresServer is a throwaway PostgreSQL server.
type PostgresServer struct {
	dir  string
	port int
	cmd  *exec.Cmd
}

// Postgres returns the PostgreSQL server of this test process; the first call starts it.
func Postgres(t testing.TB) *PostgresServer {
	t.Helper()
	return onePostgres.get(t, startPostgres)
}

// OtherPostgres names a program in the environment that runs PostgreSQL's programs of another version than the machine's: their
// names and arguments are its own. See scripts/other-servers.
const OtherPostgres = "ECHO_ATLAS_POSTGRES"

// postgresPrograms returns how a program of PostgreSQL is called.
func postgresPrograms() (func(name string, args ...string) *exec.Cmd, error) {
	if runner := os.Getenv(OtherPostgres); runner != "" {
		return func(name string, args ...string) *exec.Cmd {
			return exec.Command(runner, append([]string{name}, args...)...)
		}, nil
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	if path, err := exec.LookPath("initdb"); err == nil {
		found = append(found, path)
	}
	if len(found) == 0 {
		return nil, fmt.Errorf("PostgreSQL's programs are not installed (Debian: apt-get install postgresql)")
	}
	bin := filepath.Dir(found[len(found)-1])
	return func(name string, args ...string) *exec.Cmd { return exec.Command(filepath.Join(bin, name), args...) }, nil
}

func startPostgres() (*PostgresServer, error) {
	program, err := postgresPrograms()
	if err != nil {
		return nil, err
	}
	owner, err := account("postgres")
	if err != nil {
		return nil, err
	}
	s := &PostgresServer{}
	if s.dir, err = folder("atlas-postgres-", owner); err != nil {
		return nil, err
	}
	run := func(name string, args ...string) *exec.Cmd {
		cmd := program(name, args...)
		cmd.Dir = s.dir
		cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: owner, Setpgid: true}
		return cmd
	}
	data := filepath.Join(s.dir, "data")
	if out, err := run("initdb", "-D", data, "-U", "atlas", "-A", "trust", "-E", "UTF8", "--no-sync").CombinedOutput(); err != nil {
		os.RemoveAll(s.dir)
		return nil, fmt.Errorf("initdb: %w: %s", err, out)
	}
	// One role has to give a password; the others need none.
	hba := "host all with_password 127.0.0.1/32 scram-sha-256\nlocal all all trust\nhost all all 127.0.0.1/32 trust\n"
	if err := os.WriteFile(filepath.Join(data, "pg_hba.conf"), []byte(hba), 0o600); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	log := filepath.Join(s.dir, "log")
	logFile, err := os.Create(log)
	if err != nil {
		return nil, err
	}
	defer logFile.Close()
	s.cmd = run("postgres", "-D", data, "-k", s.dir, "-p", strconv.Itoa(s.port), "-c", "listen_addresses=127.0.0.1", "-c", "fsync=off",
		"-c", "max_connections=60", "-c", "autovacuum=off")
	s.cmd.Stdout, s.cmd.Stderr = logFile, logFile
	err = start(s.cmd, log, func() error {
		db, err := sql.Open("pgx", s.URL("postgres"))
		if err != nil {
			return err
		}
		defer db.Close()
		return db.Ping()
	})
	if err != nil {
		os.RemoveAll(s.dir)
		return nil, err
	}
	return s, nil
}

func (s *PostgresServer) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGINT) // fast shutdown
	for range 100 {
		if _, err := os.Stat(filepath.Join(s.dir, "data", "postmaster.pid")); err != nil {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	os.RemoveAll(s.dir)
}

// URL returns the URL of a database, or with "" of the server.
func (s *PostgresServer) URL(database string) string {
	u := fmt.Sprintf("postgres://atlas@127.0.0.1:%d", s.port)
	if database != "" {
		u += "/" + database
	}
	return u + "?sslmode=disable"
}

// Major returns the version, as 18.
func (s *PostgresServer) Major(t testing.TB) int {
	t.Helper()
	var version int
	if err := open(t, "pgx", s.URL("postgres")).QueryRow("SELECT current_setting('server_version_num')::int / 10000").Scan(&version); err != nil {
		t.Fatal(err)
	}
	return version
}

// Dump returns the lines of what the server's own dump program writes of a database, in order; nil where there is no such program.
func (s *PostgresServer) Dump(t testing.TB, url string) []string {
	t.Helper()
	program, err := postgresPrograms()
	if err != nil {
		t.Fatal(err)
	}
	cmd := program("pg_dump", "--schema-only", "--no-sync", url)
	cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
	out, err := cmd.CombinedOutput()
	var exit *exec.ExitError
	if errors.Is(err, os.ErrNotExist) || errors.As(err, &exit) && exit.ExitCode() == 127 {
		return nil
	}
	if err != nil {
		t.Fatalf("the server's dump: %v: %s", err, out)
	}
	lines := strings.Split(string(out), "\n")
	lines = slices.DeleteFunc(lines, func(l string) bool { // what stands between statements, and a key that is made up each time
		return l == "" || strings.HasPrefix(l, "--") || strings.HasPrefix(l, "\\restrict ") || strings.HasPrefix(l, "\\unrestrict ")
	})
	var all []string
	for _, l := range lines {
		all = append(all, loose(strings.ReplaceAll(l, "password=hush", ""))...)
	}
	slices.Sort(all)
	return all
}

var (
	dumpedGrant   = regexp.MustCompile(`^GRANT ([A-Z, ]+) ON (.*?)( WITH GRANT OPTION)?;$`)
	dumpedOptions = regexp.MustCompile(`^(.*WITH \()([a-z_.]+='[^']*'(?:, [a-z_.]+='[^']*')+)(\).*)$`)
)

// loose takes out of a line of a dump what is no property: the order of rights and of options, and that an owner may pass on a right,
// which it may anyway.
func loose(line string) []string {
	if m := dumpedGrant.FindStringSubmatch(line); m != nil {
		var all []string
		for _, right := range strings.FieldsFunc(m[1], func(r rune) bool { return r == ',' }) {
			all = append(all, "GRANT "+strings.TrimSpace(right)+" ON "+m[2])
		}
		return all
	}
	if m := dumpedOptions.FindStringSubmatch(line); m != nil {
		options := strings.Split(m[2], ", ")
		slices.Sort(options)
		line = m[1] + strings.Join(options, ", ") + m[3]
	}
	return []string{strings.Join(strings.Fields(line), " ")}
}

// Dir returns the folder of the Unix socket.
func (s *PostgresServer) Dir() string { return s.dir }

// Port returns the TCP port on 127.0.0.1.
func (s *PostgresServer) Port() int { return s.port }

// Name returns "postgres".
func (s *PostgresServer) Name() string { return "postgres" }

// Engine returns the PostgreSQL engine.
func (s *PostgresServer) Engine() engine.Engine { return postgres.Engine{} }

// Database makes a database and runs a script in it with the server's own client; it is dropped with
// the test.
func (s *PostgresServer) Database(t testing.TB, script string) string {
	t.Helper()
	url := s.Lasting(t, script)
	t.Cleanup(func() {
		_ = s.force(t, "DROP DATABASE IF EXISTS "+s.Engine().Database(url))
	})
	return url
}

// Lasting is like Database; the database stays as long as the server.
func (s *PostgresServer) Lasting(t testing.TB, script string) string {
	t.Helper()
	name := fmt.Sprintf("d%d", databases.Add(1))
	if _, err := s.Open(t, s.URL("postgres")).Exec("CREATE DATABASE " + name); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL(name), script)
	return s.URL(name)
}

// Raw makes a database whose texts are any bytes. The second URL is that under which they can be read and written as
// such.
func (s *PostgresServer) Raw(t testing.TB) (url, rawURL string) {
	t.Helper()
	name := fmt.Sprintf("d%d", databases.Add(1))
	if _, err := s.Open(t, s.URL("postgres")).Exec("CREATE DATABASE " + name + " ENCODING 'SQL_ASCII' LC_COLLATE 'C' LC_CTYPE 'C' TEMPLATE template0"); err != nil {
		t.Fatal(err)
	}
	return s.URL(name), s.URL(name) + "&client_encoding=SQL_ASCII"
}

// Copy makes a database with another as its template.
func (s *PostgresServer) Copy(t testing.TB, url string) string {
	t.Helper()
	name := fmt.Sprintf("d%d", databases.Add(1))
	if _, err := s.Open(t, s.URL("postgres")).Exec("CREATE DATABASE " + name + " TEMPLATE " + s.Engine().Database(url)); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = s.force(t, "DROP DATABASE IF EXISTS "+name)
	})
	return s.URL(name)
}

// Drop drops a database.
func (s *PostgresServer) Drop(t testing.TB, url string) {
	t.Helper()
	inside := open(t, "pgx", url)
	var names sql.NullString
	if err := inside.QueryRow("SELECT string_agg(quote_ident(subname), E'\n') FROM pg_subscription WHERE subdbid = (SELECT oid FROM pg_database WHERE datname = current_database())").Scan(&names); err != nil {
		t.Fatal(err)
	}
	for _, name := range strings.Fields(names.String) {
		for _, text := range []string{"ALTER SUBSCRIPTION %s DISABLE", "ALTER SUBSCRIPTION %s SET (slot_name = NONE)", "DROP SUBSCRIPTION %s"} {
			if _, err := inside.Exec(fmt.Sprintf(text, name)); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := s.force(t, "DROP DATABASE "+s.Engine().Database(url)); err != nil {
		t.Fatal(err)
	}
}

// force drops a database whoever is in it.
func (s *PostgresServer) force(t testing.TB, drop string) error {
	db := open(t, "pgx", s.URL("postgres"))
	if s.Major(t) >= 13 {
		drop += " WITH (FORCE)"
	} else if _, err := db.Exec("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '" + drop[strings.LastIndexByte(drop, ' ')+1:] + "'"); err != nil {
		return err
	}
	_, err := db.Exec(drop)
	return err
}

var sinceVersion = regexp.MustCompile(`-- (since|until) (\d+)\n$`)

// forVersion leaves out of a script the lines that the server is too old for, or too new: they say so at their ends.
func (s *PostgresServer) forVersion(t testing.TB, script string) string {
	t.Helper()
	if !strings.Contains(script, "-- since ") {
		return script
	}
	major := s.Major(t)
	var b strings.Builder
	for line := range strings.Lines(script) {
		if m := sinceVersion.FindStringSubmatch(line); m != nil {
			if n, _ := strconv.Atoi(m[2]); m[1] == "since" && n > major || m[1] == "until" && n < major {
				continue
			}
		}
		b.WriteString(line)
	}
	return b.String()
}

// Run runs a script with psql.
func (s *PostgresServer) Run(t testing.TB, url, script string) {
	t.Helper()
	client(t, s.forVersion(t, script), "psql", "-Xq", "-v", "ON_ERROR_STOP=1", "-f", "-", url)
}

// Open opens a database for writing. Scripts of several statements run as they are, but for raw databases.
func (s *PostgresServer) Open(t testing.TB, url string) *sql.DB {
	if strings.Contains(url, "client_encoding") {
		return open(t, "pgx", url)
	}
	return open(t, "pgx", url+"&default_query_exec_mode=simple_protocol")
}

// ownObjects is a condition on objects of a catalogue: those that a user made, not an extension.
func ownObjects(catalogue string) string {
	if catalogue == "pg_type" {
		return `x.typnamespace <> 'pg_toast'::regnamespace AND ` + ownObjects("pg_type ")
	}
	return `x.oid >= 16384 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = '` + catalogue + `'::regclass AND e.objid = x.oid AND e.deptype = 'e')`
}

// rightsOf spells out a list of rights without who gave them, also where the list is the usual one.
func rightsOf(acl, kind, owner string) string {
	return `(SELECT string_agg(coalesce(r.rolname, 'everybody') || ' ' || g.privilege_type || CASE WHEN g.is_grantable AND g.grantee <> ` + owner + ` THEN '*' ELSE '' END, ', ' ORDER BY r.rolname NULLS FIRST, g.privilege_type)
		FROM (SELECT DISTINCT grantee, privilege_type, is_grantable FROM aclexplode(coalesce(` + acl + `, acldefault('` + kind + `', ` + owner + `)))) g LEFT JOIN pg_roles r ON r.oid = g.grantee) AS rights`
}

// objectAccount is what the catalogue itself holds of a kind of object, all its columns but those that
// are numbers of objects, which are spelt out.
func objectAccount(catalogue, columns string) string {
	return `SELECT '` + catalogue + `' AS catalogue, (pg_identify_object('` + catalogue + `'::regclass, x.oid, 0)).identity, ` + columns + `,
		obj_description(x.oid, '` + catalogue + `') AS comment FROM ` + catalogue + ` x WHERE ` + ownObjects(catalogue) + ` ORDER BY 2`
}

// known takes out of queries what a version does not have.
func (s *PostgresServer) known(t testing.TB, queries ...string) []string {
	major := s.Major(t)
	for _, k := range []struct {
		since    int
		has, not string
	}{
		{13, "x.pubviaroot", "''"}, {13, "t.tgparentid <> 0 AS cloned", "false AS cloned"}, {13, "x.stxstattarget", "''"}, {14, "a.attcompression", "''"}, {14, "r.rngmultitypid::regtype", "''"},
		{15, "concat_ws(' ', r.prrelid::regclass, r.prattrs, pg_get_expr(r.prqual, r.prrelid))", "r.prrelid::regclass::text"},
		{15, "(SELECT string_agg(r.pnnspid::regnamespace::text, ', ') FROM pg_publication_namespace r WHERE r.pnpubid = x.oid)", "''"},
	} {
		for i := range queries {
			if major < k.since {
				queries[i] = strings.ReplaceAll(queries[i], k.has, k.not)
			}
		}
	}
	return queries
}

// Account returns what the server's own definition functions print, and the rows of its catalogue by
// name.
func (s *PostgresServer) Account(t testing.TB, url string) []string {
	const user = `n.nspname NOT LIKE 'pg\_%' AND n.nspname <> 'information_schema'`
	own := user + ` AND c.oid >= 16384 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'pg_class'::regclass AND e.objid = c.oid AND e.deptype = 'e')`
	options := func(column string) string {
		return `(SELECT array_agg(o ORDER BY o) FROM unnest(` + column + `) o WHERE o NOT LIKE 'pg\_attver=%')::text`
	}
	return lines(t, s.Open(t, url), s.known(t,
		`SELECT n.nspname, pg_get_userbyid(n.nspowner) AS owner, `+rightsOf("n.nspacl", "n", "n.nspowner")+`, obj_description(n.oid, 'pg_namespace') AS comment FROM pg_namespace n WHERE `+user+` ORDER BY 1`,
		`SELECT n.nspname, c.relname, c.relkind, c.relpersistence, `+options("c.reloptions")+` AS options, (SELECT `+options("t.reloptions")+` FROM pg_class t WHERE t.oid = c.reltoastrelid) AS toast,
		 pg_get_userbyid(c.relowner) AS owner, (SELECT amname FROM pg_am WHERE oid = c.relam) AS method, c.reloftype::regtype, c.relrowsecurity, c.relforcerowsecurity, c.relreplident, c.relispopulated, c.relispartition,
		 pg_get_expr(c.relpartbound, c.oid) AS bound, CASE WHEN c.relkind = 'p' THEN pg_get_partkeydef(c.oid) END AS partkey, (SELECT spcname FROM pg_tablespace WHERE oid = c.reltablespace) AS space,
		 (SELECT string_agg(i.inhparent::regclass::text, ', ' ORDER BY i.inhseqno) FROM pg_inherits i WHERE i.inhrelid = c.oid) AS parents,
		 (SELECT s.srvname || ' ' || coalesce(f.ftoptions::text, '') FROM pg_foreign_table f JOIN pg_foreign_server s ON s.oid = f.ftserver WHERE f.ftrelid = c.oid) AS foreign_table,
		 CASE WHEN c.relkind = 'S' THEN '' ELSE NULL END AS sequence, obj_description(c.oid, 'pg_class') AS comment
		 FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` AND c.relkind <> 't' ORDER BY 1, 2, 3`,
		`SELECT n.nspname, c.relname, `+rightsOf("c.relacl", "r", "c.relowner")+` FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` AND c.relkind IN ('r', 'v', 'm', 'p', 'f') ORDER BY 1, 2`,
		`SELECT n.nspname, c.relname, `+rightsOf("c.relacl", "s", "c.relowner")+` FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` AND c.relkind = 'S' ORDER BY 1, 2`,
		`SELECT n.nspname, c.relname, a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull, a.attidentity, a.attgenerated, (SELECT co.collname FROM pg_collation co WHERE co.oid = a.attcollation) AS collation,
		 a.attstorage, a.attcompression, a.attstattarget, `+options("a.attoptions")+` AS options, a.attfdwoptions::text, CASE WHEN c.relispartition THEN NULL ELSE a.attislocal END AS local, a.attinhcount,
		 (SELECT string_agg(g.grantee::regrole::text || ' ' || g.privilege_type || g.is_grantable, ', ' ORDER BY g.grantee::regrole::text, g.privilege_type) FROM aclexplode(a.attacl) g) AS rights,
		 pg_get_expr(d.adbin, d.adrelid) AS value, col_description(c.oid, a.attnum) AS comment,
		 row_number() OVER (PARTITION BY c.oid ORDER BY a.attnum) AS position
		 FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
		 LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum
		 WHERE `+own+` AND c.relkind IN ('r', 'v', 'i', 'p', 'm', 'f', 'c', 'I') AND a.attnum > 0 AND NOT a.attisdropped ORDER BY 1, 2, a.attnum`,
		`SELECT n.nspname, c.relname, k.conname, k.contype, pg_get_constraintdef(k.oid), CASE WHEN c.relispartition OR k.contype = 'n' AND k.coninhcount > 0 THEN NULL ELSE k.conislocal END AS local, k.coninhcount, k.convalidated, CASE WHEN k.contype = 'c' THEN k.connoinherit END AS no_inherit, obj_description(k.oid, 'pg_constraint') AS comment
		 FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` AND NOT (k.contype = 'f' AND k.conparentid <> 0) ORDER BY 1, 2, 3`,
		`SELECT pg_get_indexdef(i.indexrelid), i.indisvalid, i.indisclustered, i.indisreplident, (SELECT p.inhparent::regclass FROM pg_inherits p WHERE p.inhrelid = i.indexrelid) AS parent
		 FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` ORDER BY 1`,
		`SELECT n.nspname, c.relname, pg_get_viewdef(c.oid) FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` AND c.relkind IN ('v', 'm') ORDER BY 1, 2`,
		`SELECT n.nspname, c.relname, format_type(s.seqtypid, NULL), s.seqstart, s.seqincrement, s.seqmin, s.seqmax, s.seqcache, s.seqcycle
		 FROM pg_sequence s JOIN pg_class c ON c.oid = s.seqrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE `+own+` ORDER BY 1, 2`,
		objectAccount("pg_proc", `CASE WHEN x.prokind <> 'a' THEN pg_get_functiondef(x.oid) END AS definition, pg_get_userbyid(x.proowner) AS owner, x.prokind, x.proparallel, x.provolatile, pg_get_function_arguments(x.oid) AS arguments, `+rightsOf("x.proacl", "f", "x.proowner")),
		`SELECT a.aggfnoid::regprocedure, a.aggkind, a.aggnumdirectargs, a.aggtransfn, a.aggfinalfn, a.aggcombinefn, a.aggserialfn, a.aggdeserialfn, a.aggmtransfn, a.aggminvtransfn, a.aggmfinalfn, a.aggfinalextra, a.aggmfinalextra,
		 a.aggfinalmodify, a.aggmfinalmodify, a.aggsortop::regoperator, a.aggtranstype::regtype, a.aggtransspace, a.aggmtranstype::regtype, a.aggmtransspace, a.agginitval, a.aggminitval FROM pg_aggregate a
		 WHERE a.aggfnoid::oid >= 16384 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'pg_proc'::regclass AND e.objid = a.aggfnoid AND e.deptype = 'e') ORDER BY a.aggfnoid::regprocedure::text`,
		`SELECT pg_get_triggerdef(t.oid), t.tgenabled, t.tgparentid <> 0 AS cloned, obj_description(t.oid, 'pg_trigger') AS comment FROM pg_trigger t WHERE NOT t.tgisinternal ORDER BY 1`,
		`SELECT c.relname, pg_get_serial_sequence(quote_ident(n.nspname) || '.' || quote_ident(c.relname), a.attname) FROM pg_attribute a
		 JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
		 WHERE `+own+` AND c.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped ORDER BY 1, 2`,
		objectAccount("pg_type", `x.typtype, pg_get_userbyid(x.typowner) AS owner, x.typcategory, x.typispreferred, x.typisdefined, x.typdelim, x.typnotnull, format_type(x.typbasetype, x.typtypmod) AS base, x.typdefault, (SELECT co.collname FROM pg_collation co WHERE co.oid = x.typcollation) AS collation,
		 x.typlen, x.typbyval, x.typalign, x.typstorage, x.typinput, x.typanalyze, (SELECT string_agg(e.enumlabel, ',' ORDER BY e.enumsortorder) FROM pg_enum e WHERE e.enumtypid = x.oid) AS labels,
		 (SELECT string_agg(k.conname || ' ' || pg_get_constraintdef(k.oid) || coalesce(obj_description(k.oid, 'pg_constraint'), ''), ',' ORDER BY k.conname) FROM pg_constraint k WHERE k.contypid = x.oid) AS checks,
		 (SELECT concat_ws(' ', r.rngsubtype::regtype, r.rngmultitypid::regtype, r.rngcollation, r.rngcanonical, r.rngsubdiff, (SELECT opcname FROM pg_opclass WHERE oid = r.rngsubopc)) FROM pg_range r WHERE r.rngtypid = x.oid) AS range,
		 `+rightsOf("x.typacl", "T", "x.typowner")),
		objectAccount("pg_extension", `x.extversion, x.extnamespace::regnamespace, x.extrelocatable`),
		objectAccount("pg_collation", `pg_get_userbyid(x.collowner) AS owner, x.collprovider, x.collisdeterministic, x.collencoding, x.collcollate, x.collctype, coalesce(to_jsonb(x) ->> 'colliculocale', to_jsonb(x) ->> 'colllocale') AS locale, to_jsonb(x) ->> 'collicurules' AS rules`),
		objectAccount("pg_conversion", `pg_get_userbyid(x.conowner) AS owner, x.conforencoding, x.contoencoding, x.conproc, x.condefault`),
		objectAccount("pg_operator", `pg_get_userbyid(x.oprowner) AS owner, x.oprkind, x.oprcanmerge, x.oprcanhash, x.oprcom::regoperator, x.oprnegate::regoperator, x.oprcode, x.oprrest, x.oprjoin`),
		objectAccount("pg_opfamily", `pg_get_userbyid(x.opfowner) AS owner,
		 (SELECT string_agg(concat_ws(' ', o.amopstrategy, o.amoppurpose, o.amopopr::regoperator), ', ' ORDER BY o.amopstrategy, o.amopopr::regoperator::text) FROM pg_amop o WHERE o.amopfamily = x.oid) AS operators,
		 (SELECT string_agg(concat_ws(' ', f.amprocnum, f.amproclefttype::regtype, f.amproc), ', ' ORDER BY f.amprocnum, f.amproc::text) FROM pg_amproc f WHERE f.amprocfamily = x.oid) AS functions`),
		objectAccount("pg_opclass", `pg_get_userbyid(x.opcowner) AS owner, x.opcdefault, x.opcintype::regtype, x.opckeytype::regtype, (SELECT opfname FROM pg_opfamily WHERE oid = x.opcfamily) AS family,
		 (SELECT count(*) FROM pg_depend d WHERE d.refclassid = 'pg_opclass'::regclass AND d.refobjid = x.oid) AS members`),
		objectAccount("pg_cast", `x.castcontext, x.castmethod, x.castfunc::regprocedure`),
		objectAccount("pg_language", `pg_get_userbyid(x.lanowner) AS owner, x.lanpltrusted, x.lanplcallfoid::regproc, x.laninline::regproc, x.lanvalidator::regproc`),
		objectAccount("pg_am", `x.amtype, x.amhandler`),
		objectAccount("pg_transform", `x.trffromsql, x.trftosql`),
		objectAccount("pg_ts_parser", `x.prsstart, x.prstoken, x.prsend, x.prsheadline, x.prslextype`),
		objectAccount("pg_ts_template", `x.tmplinit, x.tmpllexize`),
		objectAccount("pg_ts_dict", `pg_get_userbyid(x.dictowner) AS owner, x.dicttemplate::regclass::text <> '' AS there, x.dictinitoption, (SELECT tmplname FROM pg_ts_template WHERE oid = x.dicttemplate) AS template`),
		objectAccount("pg_ts_config", `pg_get_userbyid(x.cfgowner) AS owner, (SELECT prsname FROM pg_ts_parser WHERE oid = x.cfgparser) AS parser,
		 (SELECT string_agg(m.maptokentype || ':' || m.mapseqno || ':' || m.mapdict::regdictionary, ',' ORDER BY m.maptokentype, m.mapseqno) FROM pg_ts_config_map m WHERE m.mapcfg = x.oid) AS map`),
		objectAccount("pg_foreign_data_wrapper", `pg_get_userbyid(x.fdwowner) AS owner, x.fdwhandler::regproc, x.fdwvalidator::regproc, x.fdwoptions::text, `+rightsOf("x.fdwacl", "F", "x.fdwowner")),
		objectAccount("pg_foreign_server", `pg_get_userbyid(x.srvowner) AS owner, x.srvtype, x.srvversion, x.srvoptions::text, (SELECT fdwname FROM pg_foreign_data_wrapper WHERE oid = x.srvfdw) AS wrapper, `+rightsOf("x.srvacl", "S", "x.srvowner")),
		`SELECT srvname, usename, umoptions::text FROM pg_user_mappings ORDER BY 1, 2`,
		objectAccount("pg_event_trigger", `pg_get_userbyid(x.evtowner) AS owner, x.evtevent, x.evtfoid::regproc, x.evtenabled, x.evttags::text`),
		objectAccount("pg_statistic_ext", `pg_get_userbyid(x.stxowner) AS owner, pg_get_statisticsobjdef(x.oid) AS definition, x.stxstattarget`),
		objectAccount("pg_policy", `x.polcmd, x.polpermissive, (SELECT string_agg(CASE WHEN r = 0 THEN 'everybody' ELSE pg_get_userbyid(r) END, ',' ORDER BY pg_get_userbyid(r)) FROM unnest(x.polroles) r) AS roles, pg_get_expr(x.polqual, x.polrelid) AS qual, pg_get_expr(x.polwithcheck, x.polrelid) AS checked`),
		objectAccount("pg_rewrite", `pg_get_ruledef(x.oid) AS definition, x.ev_enabled`),
		objectAccount("pg_publication", `pg_get_userbyid(x.pubowner) AS owner, x.puballtables, x.pubinsert, x.pubupdate, x.pubdelete, x.pubtruncate, x.pubviaroot,
		 (SELECT string_agg(concat_ws(' ', r.prrelid::regclass, r.prattrs, pg_get_expr(r.prqual, r.prrelid)), ', ' ORDER BY r.prrelid::regclass::text) FROM pg_publication_rel r WHERE r.prpubid = x.oid) AS tables,
		 (SELECT string_agg(r.pnnspid::regnamespace::text, ', ') FROM pg_publication_namespace r WHERE r.pnpubid = x.oid) AS schemas`),
		`SELECT subname, pg_get_userbyid(subowner) AS owner, (to_jsonb(x) - 'oid' - 'subdbid' - 'subowner' - 'subconninfo')::text AS rest, replace(subconninfo, 'password=hush', '') AS connection, obj_description(oid, 'pg_subscription') AS comment
		 FROM pg_subscription x WHERE subdbid = (SELECT oid FROM pg_database WHERE datname = current_database()) ORDER BY 1`,
		`SELECT pg_get_userbyid(d.defaclrole) AS role, d.defaclnamespace::regnamespace, d.defaclobjtype, (SELECT string_agg(g.grantee::regrole::text || ' ' || g.privilege_type || CASE WHEN g.grantee <> d.defaclrole THEN g.is_grantable::text ELSE '' END, ', ' ORDER BY g.grantee::regrole::text, g.privilege_type) FROM aclexplode(d.defaclacl) g) AS rights
		 FROM pg_default_acl d ORDER BY 1, d.defaclnamespace::regnamespace::text, 3`,
	)...)
}
