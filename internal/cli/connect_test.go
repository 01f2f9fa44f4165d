package cli_test

import (
	"database/sql"
	"fmt"
	"io/fs"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"echo-atlas/internal/testservers"
)

// exec runs statements in a database, in order.
func execAll(t *testing.T, db *sql.DB, statements ...string) {
	t.Helper()
	for _, q := range statements {
		if _, err := db.Exec(q); err != nil {
			t.Fatalf("%s: %v", q, err)
		}
	}
}

const secret = "kelp-and-brine-77"

// guarded makes a user with a password and a database that the user may not read, on both servers.
func guarded(t *testing.T) (pg *testservers.PostgresServer, maria *testservers.MariaDBServer, pgDB, mariaDB string) {
	t.Helper()
	pg, maria = testservers.Postgres(t), testservers.MariaDB(t)
	pgURL, mariaURL := pg.Database(t, someTables(1)), maria.Database(t, someTables(1))
	pgDB, mariaDB = pg.Engine().Database(pgURL), maria.Engine().Database(mariaURL)
	admin, root := pg.Open(t, pg.URL("postgres")), maria.Open(t, maria.URL(""))
	execAll(t, admin, "CREATE ROLE with_password LOGIN PASSWORD '"+secret+"'", "REVOKE CONNECT ON DATABASE postgres FROM PUBLIC")
	execAll(t, root, "CREATE USER with_password@'127.0.0.1' IDENTIFIED BY '"+secret+"'", "GRANT SELECT, SHOW VIEW, TRIGGER ON "+mariaDB+".* TO with_password@'127.0.0.1'")
	t.Cleanup(func() {
		_, _ = pg.Open(t, pg.URL("postgres")).Exec("GRANT CONNECT ON DATABASE postgres TO PUBLIC")
		_, _ = pg.Open(t, pg.URL("postgres")).Exec("DROP ROLE with_password")
		_, _ = maria.Open(t, maria.URL("")).Exec("DROP USER with_password@'127.0.0.1'")
	})
	return pg, maria, pgDB, mariaDB
}

// servers check says of each failure what it is and what to try next.
func TestCheckExplains(t *testing.T) {
	pg, maria, pgDB, mariaDB := guarded(t)
	p := newPlace(t)
	p.env = append(p.env, "RIGHT="+secret, "WRONG=driftwood")
	at := func(scheme, user string, port int, rest string) string {
		return fmt.Sprintf("%s://%s@127.0.0.1:%d/%s", scheme, user, port, rest)
	}
	cases := []struct{ url, more, says, next string }{
		{at("postgres", "atlas", 1, "x"), "", "no server answers there", "check that it runs"},
		{at("mariadb", "root", 1, "x"), "", "no server answers there", "check that it runs"},
		{"postgres://atlas@no..such..host/x", "", "the host name was not resolved", "check the host"},
		{"mariadb://atlas@no..such..host/x", "", "the host name was not resolved", "check the host"},
		{at("postgres", "atlas", pg.Port(), pgDB+"?sslmode=require"), "", "no encrypted connection was made", "sslmode"},
		{at("mariadb", "root", maria.Port(), mariaDB+"?tls=true"), "", "no encrypted connection was made", "tls"},
		{at("postgres", "with_password", pg.Port(), pgDB+"?sslmode=disable"), `password_env = "WRONG"`, "refused the user or the password", "password_env"},
		{at("mariadb", "with_password", maria.Port(), mariaDB), `password_env = "WRONG"`, "refused the user or the password", "password_env"},
		{at("postgres", "with_password", pg.Port(), pgDB+"?sslmode=disable"), `password_env = "UNSET"`, "UNSET", "is not set"},
		{at("postgres", "atlas", pg.Port(), "no_such?sslmode=disable"), "", "there is no such database", "leave the database out"},
		{at("mariadb", "root", maria.Port(), "no_such"), "", "there is no such database", "leave the database out"},
		{at("postgres", "with_password", pg.Port(), "postgres?sslmode=disable"), `password_env = "RIGHT"`, "no right to connect", "CONNECT"},
		{at("mariadb", "with_password", maria.Port(), "mysql"), `password_env = "RIGHT"`, "no right on the database", "granted"},
		{"postgres://atlas@/x?host=/no/such/socket", "", "no server answers there", "check that it runs"},
		{"sqlite:none.db", "", "there is no such file", "check the path"},
		{"sqlite:.", "", "it is a folder", "files ="},
	}
	for _, c := range cases {
		p.file("echo-atlas.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = %q\n%s\n", c.url, c.more))
		out := strings.Join(strings.Fields(p.want(3, "--config", "echo-atlas.toml", "servers", "check", "--connect-timeout", "5s")), " ")
		if !strings.Contains(out, c.says) || !strings.Contains(out, c.next) || strings.Contains(out, secret) || strings.Contains(out, "driftwood") {
			t.Errorf("%s %s: want %q and %q:\n%s", c.url, c.more, c.says, c.next, out)
		}
	}
}

// Passwords come from the environment, a command or the engine's own file, and stand in no output and
// no file of the catalogue.
func TestPasswords(t *testing.T) {
	pg, maria, pgDB, mariaDB := guarded(t)
	for _, way := range []string{`password_env = "RIGHT"`, `password_command = "printf '%s\n' ` + secret + `"`, ""} {
		p := newPlace(t)
		if strings.Contains(way, "env") {
			p.env = append(p.env, "RIGHT="+secret)
		}
		if way == "" {
			if err := os.WriteFile(filepath.Join(p.dir, ".pgpass"), []byte("127.0.0.1:*:*:with_password:"+secret+"\n"), 0o600); err != nil {
				t.Fatal(err)
			}
			p.file(".my.cnf", "[mysqld]\npassword=other\n[client]\npassword = \""+secret+"\"\n")
		}
		config := p.file("my.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = \"postgres://with_password@127.0.0.1:%d/%s?sslmode=disable\"\n%s\n[servers.isle]\nurl = \"mariadb://with_password@127.0.0.1:%d/%s\"\n%s\n",
			pg.Port(), pgDB, way, maria.Port(), mariaDB, way))
		out, errs, code := p.run("--config", config, "survey")
		if code != 0 {
			t.Errorf("%q: exit code %d\n%s%s", way, code, out, errs)
		}
		all := out + errs
		for _, args := range [][]string{{"servers", "check"}, {"servers"}, {"snapshots", "--as", "json"}, {"list", "--as", "json"}, {"survey", "--verbose"}} {
			out, errs, _ := p.run(append([]string{"--config", config}, args...)...)
			all += out + errs
		}
		if strings.Contains(all, secret) {
			t.Errorf("%q: the password stands in the output:\n%s", way, all)
		}
		err := filepath.WalkDir(filepath.Join(p.dir, "home"), func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() {
				return err
			}
			b, err := os.ReadFile(path)
			if strings.Contains(string(b), secret) {
				t.Errorf("%q: the password stands in %s", way, filepath.Base(path))
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}

// Unix sockets serve as well as ports.
func TestSockets(t *testing.T) {
	pg, maria := testservers.Postgres(t), testservers.MariaDB(t)
	pgDB, mariaDB := pg.Engine().Database(pg.Database(t, someTables(1))), maria.Engine().Database(maria.Database(t, someTables(1)))
	p := newPlace(t)
	for name, url := range map[string]string{
		"quay": fmt.Sprintf("postgres://atlas@/%s?host=%s&port=%d", pgDB, pg.Dir(), pg.Port()),
		"isle": fmt.Sprintf("mariadb://root@localhost/%s?socket=%s", mariaDB, maria.Socket()),
	} {
		p.want(0, "survey", "--from", url, "--name", name)
	}
	if d := answer[rows](p, 0, "list", "--kind", "table"); d.Total != 2 {
		t.Errorf("%+v", d)
	}
}

// A configuration that lies in a folder gets no secret before the user has said so: not a variable, not the output of a
// program, not the password of a file that is bound to no host.
func TestForeignFolder(t *testing.T) {
	pg, maria, pgDB, mariaDB := guarded(t)
	p := newPlace(t)
	p.env = append(p.env, "RIGHT="+secret, "PGPASSWORD="+secret)
	home := t.TempDir()
	p.env = append(p.env, "HOME="+home)
	if err := os.WriteFile(filepath.Join(home, ".my.cnf"), []byte("[client]\npassword="+secret+"\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	config := func(quay string) string {
		return fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = \"postgres://with_password@127.0.0.1:%d/%s?sslmode=disable\"\n%s\n[servers.reef]\nurl = \"postgres://with_password@127.0.0.1:%d/%s?sslmode=disable\"\n"+
			"[servers.isle]\nurl = \"mariadb://with_password@127.0.0.1:%d/%s\"\n", pg.Port(), pgDB, quay, pg.Port(), pgDB, maria.Port(), mariaDB)
	}
	for _, way := range []string{`password_env = "RIGHT"`, `password_command = "touch ran; printf '` + secret + `'"`} {
		p.file("echo-atlas.toml", config(way))
		out, errs, code := p.run("servers", "check")
		if code != 3 || strings.Count(out, "  failed  ") != 3 || !strings.Contains(errs, "servers trust") {
			t.Errorf("%s, not trusted: exit code %d\n%s%s", way, code, out, errs)
		}
		if _, err := os.Stat(filepath.Join(p.dir, "ran")); err == nil {
			t.Error("the program of a configuration that is not trusted ran")
		}
		p.want(0, "--config", "echo-atlas.toml", "servers", "check")
		if _, _, code := p.run("servers", "check"); code != 3 {
			t.Error("--config trusts for more than one run")
		}
		shown := p.want(0, "servers", "trust")
		holds(t, "servers trust", shown, "quay", "with_password@127.0.0.1", way[strings.IndexByte(way, '"')+1:][:5])
		p.want(0, "servers", "check")
		p.want(0, "survey")
		p.file("echo-atlas.toml", config(way)+"[servers.rogue]\nurl = \"mariadb://127.0.0.1:1\"\n")
		if out, errs, _ := p.run("servers", "check"); strings.Contains(out, "  answers  ") || !strings.Contains(errs, "servers trust") {
			t.Errorf("it is trusted though its servers changed:\n%s%s", out, errs)
		}
	}
}

// What a URL of a found configuration says to the driver is refused, and nothing is sent.
func TestForeignParameters(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer listener.Close()
	var connections atomic.Int32
	go func() {
		for {
			c, err := listener.Accept()
			if err != nil {
				return
			}
			connections.Add(1)
			c.Close()
		}
	}()
	p := newPlace(t)
	for _, url := range []string{
		"mariadb://root@%s/b?multiStatements=true&sql_mode=%%27%%27;DROP%%20TABLE%%20x", "mariadb://root@%s/b?sql_mode='',%%20GLOBAL%%20general_log=1", "mariadb://root@%s/b?allowAllFiles=true",
		"mariadb://root@%s/b?allowCleartextPasswords=true", "postgres://root@%s/b?options=-c%%20default_transaction_read_only=off", "postgres://root@%s/b?default_transaction_read_only=off",
		"postgres://root@%s/b?search_path=evil", "postgres://root@%s/b?service=live", "sqlserver://root@%s?app+name=x;y", "sqlserver://root@%s?krb5conffile=/etc/passwd",
	} {
		url = fmt.Sprintf(url, listener.Addr())
		p.file("echo-atlas.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = %q\n", url))
		out, errs, code := p.run("--config", "echo-atlas.toml", "servers", "check")
		if said := strings.Join(strings.Fields(out+errs), " "); code != 2 && code != 3 || !strings.Contains(said, "the URL is refused") && !strings.Contains(said, "holds a password") {
			t.Errorf("%s: exit code %d: %s", url, code, said)
		}
	}
	if n := connections.Load(); n > 0 {
		t.Errorf("%d connections were made", n)
	}
}

// A command for a password that does not end, or whose children do not, is given up like a server that does not answer.
func TestPasswordCommandHangs(t *testing.T) {
	t.Parallel()
	pg, _, database, _ := guarded(t)
	for _, command := range []string{"sleep 600", "sleep 600 & sleep 600; wait", "exec 1>&-; sleep 600"} {
		p := newPlace(t)
		config := p.file("my.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = \"postgres://with_password@127.0.0.1:%d/%s?sslmode=disable\"\npassword_command = %q\n", pg.Port(), database, command))
		out, errs, code := p.run("--config", config, "survey", "--connect-timeout", "1s")
		if code != 3 || !strings.Contains(out+errs, "password") {
			t.Errorf("%s: exit code %d\n%s%s", command, code, out, errs)
		}
	}
}

func TestServersTypo(t *testing.T) {
	p := newPlace(t)
	p.fails(2, []string{"servers", "chek"}, "no command", "did you mean check?")
	p.fails(2, []string{"servers", "lighthouse"}, "echo-atlas servers check lighthouse")
}
