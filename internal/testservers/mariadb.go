package testservers

// A throwaway MariaDB with a data folder and a socket of its own.

import (
	"bytes"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql" // MariaDB for database/sql

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/mariadb"
)

// MariaDBServer is a throwaway MariaDB server.
type MariaDBServer struct {
	dir  string
	port int
	cmd  *exec.Cmd
}

// MariaDB returns the MariaDB server of this test process; the first call starts it.
func MariaDB(t testing.TB) *MariaDBServer {
	t.Helper()
	return oneMariaDB.get(t, startMariaDB)
}

func startMariaDB() (*MariaDBServer, error) {
	paths := map[string]string{}
	other := os.Getenv(OtherMariaDB)
	for _, name := range []string{"mariadbd", "mariadb-install-db", "mariadb"} {
		path, err := exec.LookPath(name)
		if err != nil {
			if path = "/usr/sbin/" + name; name != "mariadbd" {
				return nil, fmt.Errorf("MariaDB's programs are not installed (Debian: apt-get install mariadb-server)")
			}
		}
		paths[name] = path
	}
	owner, err := account("mysql")
	if err != nil {
		return nil, err
	}
	s := &MariaDBServer{}
	if s.dir, err = folder("atlas-mariadb-", owner); err != nil {
		return nil, err
	}
	data := filepath.Join(s.dir, "data")
	run := func(name string, args ...string) *exec.Cmd {
		cmd := exec.Command(paths[name], args...)
		if other != "" {
			cmd = exec.Command(other, append([]string{name}, args...)...)
		}
		cmd.Dir = s.dir
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: owner, Setpgid: true}
		return cmd
	}
	if out, err := run("mariadb-install-db", "--no-defaults", "--datadir="+data, "--auth-root-authentication-method=normal", "--skip-test-db").CombinedOutput(); err != nil {
		os.RemoveAll(s.dir)
		return nil, fmt.Errorf("mariadb-install-db: %w: %s", err, out)
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
	s.cmd = run("mariadbd", "--no-defaults", "--datadir="+data, "--socket="+s.Socket(), "--tmpdir="+s.dir, fmt.Sprintf("--port=%d", s.port), // another server that starts takes leftovers in a shared one away
		"--bind-address=127.0.0.1",
		"--innodb-flush-log-at-trx-commit=0", "--innodb-flush-method=nosync", "--innodb-buffer-pool-size=256M", "--table-open-cache=20000", "--table-definition-cache=20000",
		"--skip-log-bin", "--pid-file="+filepath.Join(s.dir, "pid"), "--character-set-server=utf8mb4", "--max-connections=60")
	s.cmd.Stdout, s.cmd.Stderr = logFile, logFile
	err = start(s.cmd, log, func() error {
		db, err := sql.Open("mysql", s.dsn(""))
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

func (s *MariaDBServer) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	for range 200 {
		if _, err := os.Stat(filepath.Join(s.dir, "pid")); err != nil {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	os.RemoveAll(s.dir)
}

// Socket returns the path of the Unix socket.
func (s *MariaDBServer) Socket() string { return filepath.Join(s.dir, "s") }

// Port returns the TCP port on 127.0.0.1.
func (s *MariaDBServer) Port() int { return s.port }

func (s *MariaDBServer) dsn(database string) string {
	return fmt.Sprintf("root@tcp(127.0.0.1:%d)/%s?multiStatements=true", s.port, database)
}

// URL returns the URL of a database, or with "" of the server.
func (s *MariaDBServer) URL(database string) string {
	return fmt.Sprintf("mariadb://root@127.0.0.1:%d/%s", s.port, database)
}

// Name returns "mariadb".
func (s *MariaDBServer) Name() string { return "mariadb" }

// Major returns the version, as 11.
func (s *MariaDBServer) Major(t testing.TB) (major int) {
	t.Helper()
	if err := s.Open(t, s.URL("")).QueryRow("SELECT substring_index(version(), '.', 1)").Scan(&major); err != nil {
		t.Fatal(err)
	}
	return major
}

// Engine returns the MariaDB engine.
func (s *MariaDBServer) Engine() engine.Engine { return mariadb.Engine{} }

// Database makes a database and runs a script in it with the server's own client; it is dropped with
// the test.
func (s *MariaDBServer) Database(t testing.TB, script string) string {
	t.Helper()
	url := s.Lasting(t, script)
	t.Cleanup(func() { _ = s.once("DROP DATABASE IF EXISTS " + s.Engine().Database(url)) })
	return url
}

// once runs a statement in a session of its own, which is closed behind it: a server has no room for one of each database of a test.
func (s *MariaDBServer) once(statement string) error {
	db, err := sql.Open("mysql", s.dsn(""))
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.Exec(statement)
	return err
}

// Lasting is like Database; the database stays as long as the server.
func (s *MariaDBServer) Lasting(t testing.TB, script string) string {
	t.Helper()
	name := fmt.Sprintf("d%d", databases.Add(1))
	if err := s.once("CREATE DATABASE " + name); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL(name), script)
	return s.URL(name)
}

// Copy dumps a database with the server's own program and reads that into another.
func (s *MariaDBServer) Copy(t testing.TB, url string) string {
	t.Helper()
	dump := exec.Command("mariadb-dump", "--no-defaults", "--socket="+s.Socket(), "--user=root", "--routines", "--events", "--triggers", "--force", s.Engine().Database(url))
	var said bytes.Buffer
	dump.Stderr = &said
	script, err := dump.Output()
	if err != nil && len(script) == 0 {
		t.Fatalf("mariadb-dump: %v: %s", err, said.String())
	}
	return s.Database(t, string(script))
}

// Drop drops a database.
func (s *MariaDBServer) Drop(t testing.TB, url string) {
	t.Helper()
	if err := s.once("DROP DATABASE " + s.Engine().Database(url)); err != nil {
		t.Fatal(err)
	}
}

// Run runs a script with the client mariadb.
func (s *MariaDBServer) Run(t testing.TB, url, script string) {
	t.Helper()
	client(t, script, "mariadb", "--no-defaults", "--socket="+s.Socket(), "--user=root", "--default-character-set=utf8mb4", s.Engine().Database(url))
}

// Open opens a database for writing. Scripts of several statements run as they are.
func (s *MariaDBServer) Open(t testing.TB, url string) *sql.DB {
	return open(t, "mysql", s.dsn(mariadb.Engine{}.Database(url)))
}

// nextNumber is the next number of a column that numbers its rows: it moves with the rows.
var nextNumber = regexp.MustCompile(` AUTO_INCREMENT=\d+`)

// shown is a kind of object with the query of its names.
type shown struct{ show, names string }

// showCreates returns the SHOW CREATE of each object of these kinds.
func showCreates(t testing.TB, db *sql.DB, kinds []shown) (queries []string) {
	for _, kind := range kinds {
		rows, err := db.Query(kind.names)
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			var n string
			if err := rows.Scan(&n); err != nil {
				t.Fatal(err)
			}
			queries = append(queries, "SHOW CREATE "+kind.show+" `"+strings.ReplaceAll(n, "`", "``")+"`")
		}
		if err := rows.Err(); err != nil {
			t.Fatal(err)
		}
		rows.Close()
	}
	return queries
}

// Account returns what SHOW CREATE prints of every object; the name of the database is taken out.
func (s *MariaDBServer) Account(t testing.TB, url string) []string {
	name := mariadb.Engine{}.Database(url)
	db := s.Open(t, url)
	queries := append(showCreates(t, db, []shown{
		{"TABLE", "SELECT table_name FROM information_schema.tables WHERE table_schema = database() AND table_type IN ('BASE TABLE', 'SYSTEM VERSIONED', 'SEQUENCE') ORDER BY 1"},
		{"VIEW", "SELECT table_name FROM information_schema.views WHERE table_schema = database() ORDER BY 1"},
		{"SEQUENCE", "SELECT table_name FROM information_schema.tables WHERE table_schema = database() AND table_type = 'SEQUENCE' ORDER BY 1"},
		{"FUNCTION", "SELECT name FROM mysql.proc WHERE db = database() AND type = 'FUNCTION' ORDER BY 1"},
		{"PROCEDURE", "SELECT name FROM mysql.proc WHERE db = database() AND type = 'PROCEDURE' ORDER BY 1"},
		{"PACKAGE", "SELECT name FROM mysql.proc WHERE db = database() AND type = 'PACKAGE' ORDER BY 1"},
		{"PACKAGE BODY", "SELECT name FROM mysql.proc WHERE db = database() AND type = 'PACKAGE BODY' ORDER BY 1"},
		{"EVENT", "SELECT event_name FROM information_schema.events WHERE event_schema = database() ORDER BY 1"},
	}), `SELECT trigger_name, event_manipulation, event_object_table, action_order, action_statement, action_timing, sql_mode, definer,
		character_set_client, collation_connection FROM information_schema.triggers WHERE trigger_schema = database() ORDER BY trigger_name`,
		`SELECT name, type, aggregate, sql_mode, character_set_client, collation_connection, hex(body) FROM mysql.proc WHERE db = database() ORDER BY type, name`,
		`SELECT user, host, table_name, table_priv, column_priv FROM mysql.tables_priv WHERE db = database() ORDER BY 1, 2, 3`,
		`SELECT user, host, table_name, column_name, column_priv FROM mysql.columns_priv WHERE db = database() ORDER BY 1, 2, 3, 4`,
		`SELECT user, host, routine_name, routine_type, proc_priv FROM mysql.procs_priv WHERE db = database() ORDER BY 1, 2, 3, 4`)
	all := lines(t, db, queries...)
	for i := range all {
		all[i] = strings.ReplaceAll(all[i], "`"+name+"`.", "")
		all[i] = nextNumber.ReplaceAllString(all[i], "")
		usual := " USING BTREE" // which is what an index has without it, too
		if strings.Contains(all[i], "ENGINE=MEMORY") {
			usual = " USING HASH"
		}
		all[i] = strings.ReplaceAll(all[i], usual, "")
		if strings.Contains(all[i], "ENGINE=Aria") { // every ALTER TABLE says what a table has anyway
			all[i] = strings.ReplaceAll(all[i], " PAGE_CHECKSUM=1", "")
		}
	}
	return all
}
