package testservers

// A throwaway MySQL, which only scripts/other-servers brings: Debian has none.

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

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/mariadb"
)

// The programs that run those of servers of other versions; see OtherPostgres.
const (
	OtherMariaDB = "ECHO_ATLAS_MARIADB"
	OtherMySQL   = "ECHO_ATLAS_MYSQL"
)

// MySQLServer is a throwaway MySQL server.
type MySQLServer struct{ MariaDBServer }

var oneMySQL single[MySQLServer]

// MySQL returns the MySQL server of this test process; the first call starts it. Where the environment names none the test is skipped.
func MySQL(t testing.TB) *MySQLServer {
	t.Helper()
	if os.Getenv(OtherMySQL) == "" {
		t.Skip("scripts/test-versions runs this")
	}
	return oneMySQL.get(t, startMySQL)
}

func startMySQL() (*MySQLServer, error) {
	runner := os.Getenv(OtherMySQL)
	owner, err := account("mysql")
	if err != nil {
		return nil, err
	}
	s := &MySQLServer{}
	if s.dir, err = folder("atlas-mysql-", owner); err != nil {
		return nil, err
	}
	run := func(args ...string) *exec.Cmd {
		cmd := exec.Command(runner, append([]string{"mysqld", "--no-defaults", "--datadir=" + filepath.Join(s.dir, "data")}, args...)...)
		cmd.Dir = s.dir
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: owner, Setpgid: true}
		return cmd
	}
	if out, err := run("--initialize-insecure").CombinedOutput(); err != nil {
		os.RemoveAll(s.dir)
		return nil, fmt.Errorf("mysqld --initialize-insecure: %w: %s", err, out)
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
	s.cmd = run("--socket="+s.Socket(), "--tmpdir="+s.dir, fmt.Sprintf("--port=%d", s.port), "--bind-address=127.0.0.1", "--pid-file="+filepath.Join(s.dir, "pid"),
		"--innodb-flush-log-at-trx-commit=0", "--skip-log-bin", "--max-connections=60", "--log-bin-trust-function-creators=ON")
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

// Name returns "mysql", under which its cases lie.
func (s *MySQLServer) Name() string { return "mysql" }

// Engine returns the MySQL engine.
func (s *MySQLServer) Engine() engine.Engine { return mariadb.MySQL() }

// URL returns the URL of a database, or with "" of the server.
func (s *MySQLServer) URL(database string) string {
	return fmt.Sprintf("mysql://root@127.0.0.1:%d/%s", s.port, database)
}

// Database makes a database and runs a script in it; it is dropped with the test.
func (s *MySQLServer) Database(t testing.TB, script string) string {
	t.Helper()
	url := s.Lasting(t, script)
	t.Cleanup(func() { _ = s.once("DROP DATABASE IF EXISTS " + s.Engine().Database(url)) })
	return url
}

// Lasting is like Database; the database stays as long as the server.
func (s *MySQLServer) Lasting(t testing.TB, script string) string {
	t.Helper()
	name := fmt.Sprintf("d%d", databases.Add(1))
	if err := s.once("CREATE DATABASE " + name); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL(name), script)
	return s.URL(name)
}

// Run runs a script with MySQL's own client.
func (s *MySQLServer) Run(t testing.TB, url, script string) {
	t.Helper()
	client(t, script, os.Getenv(OtherMySQL), "mysql", "--no-defaults", "--socket="+s.Socket(), "--user=root", "--default-character-set=utf8mb4", s.Engine().Database(url))
}

// Copy dumps a database with the server's own program and reads that into another.
func (s *MySQLServer) Copy(t testing.TB, url string) string {
	t.Helper()
	dump := exec.Command(os.Getenv(OtherMySQL), "mysqldump", "--no-defaults", "--socket="+s.Socket(), "--user=root", "--routines", "--events", "--triggers", "--force", s.Engine().Database(url))
	var said bytes.Buffer
	dump.Stderr = &said
	script, err := dump.Output()
	if err != nil && len(script) == 0 {
		t.Fatalf("mysqldump: %v: %s", err, said.String())
	}
	return s.Database(t, string(script))
}

var fileStamp = regexp.MustCompile(`(Created|LAST_ALTERED)="[^"]*" ?`)

// Account returns what SHOW CREATE prints of every object; the name of the database is taken out.
func (s *MySQLServer) Account(t testing.TB, url string) []string {
	name := mariadb.Engine{}.Database(url)
	db := s.Open(t, url)
	queries := append(showCreates(t, db, []shown{
		{"TABLE", "SELECT table_name FROM information_schema.tables WHERE table_schema = database() AND table_type = 'BASE TABLE' ORDER BY 1"},
		{"VIEW", "SELECT table_name FROM information_schema.views WHERE table_schema = database() ORDER BY 1"},
		{"FUNCTION", "SELECT routine_name FROM information_schema.routines WHERE routine_schema = database() AND routine_type = 'FUNCTION' ORDER BY 1"},
		{"PROCEDURE", "SELECT routine_name FROM information_schema.routines WHERE routine_schema = database() AND routine_type = 'PROCEDURE' ORDER BY 1"},
		{"EVENT", "SELECT event_name FROM information_schema.events WHERE event_schema = database() ORDER BY 1"},
		{"TRIGGER", "SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema = database() ORDER BY 1"},
	}), `SELECT trigger_name, event_manipulation, event_object_table, action_order FROM information_schema.triggers WHERE trigger_schema = database() ORDER BY trigger_name`,
		`SELECT specific_name, ordinal_position, parameter_mode, parameter_name, dtd_identifier, character_set_name, collation_name FROM information_schema.parameters WHERE specific_schema = database() ORDER BY 1, 2`,
		`SELECT user, host, table_name, table_priv, column_priv FROM mysql.tables_priv WHERE db = database() ORDER BY 1, 2, 3`,
		`SELECT user, host, table_name, column_name, column_priv FROM mysql.columns_priv WHERE db = database() ORDER BY 1, 2, 3, 4`,
		`SELECT user, host, routine_name, routine_type, proc_priv FROM mysql.procs_priv WHERE db = database() ORDER BY 1, 2, 3, 4`)
	all := lines(t, db, queries...)
	for i := range all {
		if !strings.Contains(all[i], "ENGINE=MEMORY") { // an index has that without it, too
			all[i] = strings.ReplaceAll(all[i], " USING BTREE", "")
		}
		all[i] = fileStamp.ReplaceAllString(nextNumber.ReplaceAllString(strings.ReplaceAll(all[i], "`"+name+"`.", ""), ""), "")
	}
	return all
}
