// Package testservers starts throwaway database servers for tests: each with its own data folder and
// port, stopped and removed at the end. Where a server's programs are missing the tests are skipped,
// loudly; with CI set in the environment that is a failure.
package testservers

import (
	"context"
	"database/sql"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	_ "modernc.org/sqlite" // SQLite for database/sql

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/sqlite"
)

// Server makes databases of one engine for tests.
type Server interface {
	// Name is the engine's name.
	Name() string
	Engine() engine.Engine
	// Database makes a database, runs a script in it, and returns its URL for the tool.
	Database(t testing.TB, script string) string
	// Lasting is like Database, for a database that outlives the test.
	Lasting(t testing.TB, script string) string
	// Run runs a script in a database with the engine's own client.
	Run(t testing.TB, url, script string)
	// Drop drops a database that Database made, so that nothing can lean on it.
	Drop(t testing.TB, url string)
	// Copy makes a copy of a database by the server's own means, and returns its URL.
	Copy(t testing.TB, url string) string
	// Open returns a database/sql handle on a database that Database made; it is closed with the test.
	Open(t testing.TB, url string) *sql.DB
	// Account returns the server's own account of a database, by queries that share nothing with ours:
	// one line a property.
	Account(t testing.TB, url string) []string
}

// All returns a server of each engine that has one here; Debian has no MySQL.
func All(t testing.TB) []Server {
	all := []Server{SQLite{}, Postgres(t), MariaDB(t)}
	if os.Getenv(OtherMySQL) != "" {
		all = append(all, MySQL(t))
	}
	return all
}

// single is the one server of its make in this process.
type single[S any] struct {
	lock    sync.Mutex
	tried   bool
	server  *S
	failure error
}

var (
	onePostgres single[PostgresServer]
	oneMariaDB  single[MariaDBServer]
)

// get returns the server; the first call starts it.
func (s *single[S]) get(t testing.TB, start func() (*S, error)) *S {
	t.Helper()
	s.lock.Lock()
	defer s.lock.Unlock()
	if !s.tried {
		s.tried = true
		s.server, s.failure = start()
	}
	if s.failure != nil {
		missing(t, s.failure)
	}
	return s.server
}

// Main runs the tests of a package and stops the servers that they started.
func Main(m *testing.M) { MainWith(m, func() {}) }

// MainWith is like Main and cleans up with finish.
func MainWith(m *testing.M, finish func()) {
	code := m.Run()
	finish()
	if s := onePostgres.server; s != nil {
		s.stop()
	}
	if s := oneMariaDB.server; s != nil {
		s.stop()
	}
	if s := oneMySQL.server; s != nil {
		s.stop()
	}
	os.Exit(code)
}

// missing skips a test, or fails it in CI.
func missing(t testing.TB, err error) {
	t.Helper()
	if os.Getenv("CI") != "" {
		t.Fatalf("a server is missing: %v", err)
	}
	fmt.Fprintf(os.Stderr, "\n*** %s IS NOT TESTED: %v ***\n\n", t.Name(), err)
	t.Skip(err)
}

// account is the operating-system user that servers run as: they refuse to run as root.
func account(name string) (*syscall.Credential, error) {
	if os.Getuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup(name)
	if err != nil {
		return nil, fmt.Errorf("looking for a user to run the server as: %w", err)
	}
	uid, err1 := strconv.Atoi(u.Uid)
	gid, err2 := strconv.Atoi(u.Gid)
	if err1 != nil || err2 != nil {
		return nil, fmt.Errorf("user %s has no numbers", name)
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// folder makes a folder that the user of the server owns.
func folder(prefix string, owner *syscall.Credential) (string, error) {
	base := ""
	var memory syscall.Statfs_t // in memory, where there is room: the data need not outlive the tests
	if syscall.Statfs("/dev/shm", &memory) == nil && memory.Bavail*uint64(memory.Bsize) > 3<<30 {
		base = "/dev/shm"
	}
	dir, err := os.MkdirTemp(base, prefix)
	if err == nil && owner != nil {
		err = os.Chown(dir, int(owner.Uid), int(owner.Gid))
	}
	return dir, err
}

// start runs a server in the background and waits until ready succeeds.
func start(cmd *exec.Cmd, log string, ready func() error) error {
	if err := cmd.Start(); err != nil {
		return err
	}
	exited := make(chan error, 1)
	go func() { exited <- cmd.Wait() }()
	var err error
	for range 300 {
		if err = ready(); err == nil {
			return nil
		}
		select {
		case <-exited:
			text, _ := os.ReadFile(log)
			return fmt.Errorf("%s ended: %s", filepath.Base(cmd.Path), text)
		case <-time.After(100 * time.Millisecond):
		}
	}
	_ = cmd.Process.Kill()
	return fmt.Errorf("%s did not answer: %w", filepath.Base(cmd.Path), err)
}

func open(t testing.TB, driver, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open(driver, dsn)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

// lines returns the rows of queries, their columns joined, in the order of the queries.
func lines(t testing.TB, db *sql.DB, queries ...string) []string {
	t.Helper()
	var all []string
	for _, q := range queries {
		rows, err := db.QueryContext(context.Background(), q)
		if err != nil {
			t.Fatalf("the server's account: %v\n%s", err, q)
		}
		columns, err := rows.Columns()
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			cells, to := make([]sql.NullString, len(columns)), make([]any, len(columns))
			for i := range cells {
				to[i] = &cells[i]
			}
			if err := rows.Scan(to...); err != nil {
				t.Fatal(err)
			}
			line := ""
			for i, c := range cells {
				line += fmt.Sprintf("%s=%q ", columns[i], c.String)
			}
			all = append(all, line)
		}
		if err := rows.Err(); err != nil {
			t.Fatal(err)
		}
		rows.Close()
	}
	return all
}

var databases atomic.Int64

// SQLite makes database files.
type SQLite struct{}

// Name returns "sqlite".
func (SQLite) Name() string { return "sqlite" }

// Engine returns the SQLite engine.
func (SQLite) Engine() engine.Engine { return sqlite.Engine{} }

// Database makes a file in the test's folder and runs a script in it with SQLite's own client.
func (s SQLite) Database(t testing.TB, script string) string {
	t.Helper()
	return s.in(t, t.TempDir(), script)
}

// Lasting makes a file that stays.
func (s SQLite) Lasting(t testing.TB, script string) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "atlas-sqlite-")
	if err != nil {
		t.Fatal(err)
	}
	return s.in(t, dir, script)
}

func (s SQLite) in(t testing.TB, dir, script string) string {
	t.Helper()
	url := "sqlite:" + filepath.Join(dir, fmt.Sprintf("d%d.db", databases.Add(1)))
	s.Run(t, url, script)
	return url
}

// Run runs a script with sqlite3.
func (SQLite) Run(t testing.TB, url, script string) {
	t.Helper()
	if script == "" {
		script = "VACUUM;" // makes the file
	}
	client(t, script, "sqlite3", "-batch", "-bail", sqlite.PathOf(url))
}

// Drop removes the file.
func (SQLite) Drop(t testing.TB, url string) {
	t.Helper()
	if err := os.Remove(sqlite.PathOf(url)); err != nil {
		t.Fatal(err)
	}
}

// Copy copies the file with VACUUM INTO.
func (s SQLite) Copy(t testing.TB, url string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), fmt.Sprintf("d%d.db", databases.Add(1)))
	s.Run(t, url, "VACUUM INTO '"+path+"';")
	return "sqlite:" + path
}

// client runs a script with an engine's own client.
func client(t testing.TB, script, name string, args ...string) {
	t.Helper()
	if _, err := exec.LookPath(name); err != nil {
		missing(t, fmt.Errorf("the client %s is not installed", name))
	}
	cmd := exec.Command(name, args...)
	cmd.Stdin = strings.NewReader(script)
	cmd.Env = append(os.Environ(), "PGOPTIONS=-c client_min_messages=warning")
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("running a script with %s: %v: %s\n%s", name, err, out, around(script, string(out)))
	}
}

var lineNumber = regexp.MustCompile(`(?:<stdin>:|line )(\d+)`)

// around returns the lines of a script before the one that a message names.
func around(script, message string) string {
	const most = 15
	lines := strings.Split(script, "\n")
	last := min(most, len(lines))
	if m := lineNumber.FindStringSubmatch(message); m != nil {
		n, _ := strconv.Atoi(m[1])
		last = min(n, len(lines))
	}
	return strings.Join(lines[max(0, last-most):last], "\n")
}

// Open opens a file for writing.
func (SQLite) Open(t testing.TB, url string) *sql.DB {
	db := open(t, "sqlite", sqlite.PathOf(url))
	db.SetMaxOpenConns(1)
	return db
}

// Account returns the texts and what the pragmas say.
func (s SQLite) Account(t testing.TB, url string) []string {
	return lines(t, s.Open(t, url),
		`SELECT type, name, tbl_name, sql FROM sqlite_schema WHERE name NOT LIKE 'sqlite!_stat%' ESCAPE '!' ORDER BY type, name`,
		`SELECT m.name, x.* FROM sqlite_schema m, pragma_table_xinfo(m.name) x WHERE m.type = 'table' ORDER BY m.name, x.cid`,
		`SELECT m.name, x.id, x.seq, x."table", x."from", x."to", x.on_update, x.on_delete FROM sqlite_schema m, pragma_foreign_key_list(m.name) x WHERE m.type = 'table' ORDER BY 1, 2, 3`)
}

// Rounds returns how often an attack is run: n times, or as often as scripts/attack says.
func Rounds(n int) int {
	if more, err := strconv.Atoi(os.Getenv("ECHO_ATLAS_ROUNDS")); err == nil {
		return more
	}
	return n
}
