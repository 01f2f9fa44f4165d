// Package mariadb reads and writes MariaDB from version 10.4 on, and MySQL from 8.0 on, which speak one protocol: the
// tables of information_schema, as the documentation of both describes them. Each is an engine of its own; what MySQL
// does otherwise stands in the files whose names begin with mysql. A database is also the schema; what a definition says
// of its own database is taken out, so that definitions of counterparts compare equal and a script runs in a database of
// any name.
package mariadb

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Engine is the engine of MariaDB, or that of MySQL.
type Engine struct{ mysql bool }

// MySQL returns the engine of MySQL.
func MySQL() Engine { return Engine{mysql: true} }

// Name returns "mariadb" or "mysql".
func (e Engine) Name() string {
	if e.mysql {
		return "mysql"
	}
	return "mariadb"
}

// Schemes returns the schemes of MariaDB and MySQL URLs: either make is read through both, and tells itself what it is.
func (e Engine) Schemes() []string {
	if e.mysql {
		return []string{"mysql", "mariadb"}
	}
	return []string{"mariadb", "mysql"}
}

func rules() sqltext.Rules {
	return sqltext.Rules{VariablesFirst: true, CaseMatters: true, Backticks: true, BackslashEscapes: true, DoubleQuoteStrings: true, HashComments: true, DashNeedsBlank: true}
}

// Dialect returns the rules under the SQL mode that an object keeps (documentation: "SQL_MODE").
func (Engine) Dialect(o *schema.Object) sqltext.Rules {
	r := rules()
	for _, mode := range strings.Split(o.Setting("sql mode"), ",") {
		switch mode {
		case "ANSI_QUOTES":
			r.DoubleQuoteStrings = false
		case "NO_BACKSLASH_ESCAPES":
			r.BackslashEscapes = false
		}
	}
	return r
}

// Traits returns what sets MariaDB and MySQL apart.
func (e Engine) Traits() engine.Traits {
	return engine.Traits{
		Rules: rules(), MadeUp: e.madeUp, OwnNames: []string{"dual"}, Delimiter: "DELIMITER", Include: "source", Placeholder: "?", CrossDatabase: true, KeysOnIndexes: true, IndexMethod: "btree", Types: typeNames,
		LaxKinds: []schema.Kind{schema.KindFunction, schema.KindProcedure, schema.KindAggregate, schema.KindPackage, schema.KindPackageBody, schema.KindTrigger, schema.KindEvent},
		Before:   "SET @before_sql_mode = @@sql_mode, @before_client = @@character_set_client, @before_results = @@character_set_results, @before_connection = @@collation_connection, @before_time_zone = @@time_zone",
		After:    "SET sql_mode = @before_sql_mode, character_set_client = @before_client, character_set_results = @before_results, collation_connection = @before_connection, time_zone = @before_time_zone",
	}
}

// Quote returns a name in backticks.
func (Engine) Quote(name string) string { return quote(name) }

func quote(name string) string { return "`" + strings.ReplaceAll(name, "`", "``") + "`" }

// literal returns a string literal under any SQL mode but NO_BACKSLASH_ESCAPES.
func literal(s string) string {
	return "'" + strings.NewReplacer(`\`, `\\`, "'", "''", "\x00", `\0`).Replace(s) + "'"
}

// literalUnder returns a string literal under a SQL mode.
func literalUnder(mode, s string) string {
	if strings.Contains(mode, "NO_BACKSLASH_ESCAPES") {
		return "'" + strings.ReplaceAll(s, "'", "''") + "'"
	}
	return literal(s)
}

// Database returns the database in the path of a URL.
func (Engine) Database(u string) string {
	parsed, err := url.Parse(u)
	if err != nil {
		return ""
	}
	return strings.TrimPrefix(parsed.Path, "/")
}

type server struct {
	url     string
	budget  *engine.Budget
	config  *mysql.Config
	named   string
	db      *sql.DB
	info    engine.Info
	mysql   bool // MySQL, not MariaDB
	system  bool // read the engine's own databases, too
	version int  // 101106 for 10.11.6
}

// sessionSettings keep a session from writing and from waiting for locks.
func sessionSettings(answer time.Duration) []string {
	return []string{
		"SET SESSION TRANSACTION READ ONLY",
		// The last two are each known to one make only: MariaDB counts seconds, MySQL milliseconds.
		fmt.Sprintf("SET lock_wait_timeout = 2, sql_mode = '', time_zone = '+00:00' /*M! , max_statement_time = %d */ /*!80000 , max_execution_time = %d */",
			int64(answer.Seconds()), answer.Milliseconds()),
	}
}

// config returns the driver's configuration for a target.
func (e Engine) config(ctx context.Context, t engine.Target) (*mysql.Config, *engine.Budget, error) {
	config, err := configOf(t.URL)
	if err != nil {
		return nil, nil, &engine.ConnectError{Target: engine.Display(t.URL), Cause: "the URL is refused", Said: err,
			Advice: "write it like mariadb://user@host:3306/database"}
	}
	config.ConnectionAttributes = "program_name:" + t.Client
	if t.Password != nil {
		if config.Passwd, err = t.Password(ctx); err != nil {
			return nil, nil, &engine.ConnectError{Target: engine.WithoutPassword(t.URL), Cause: "no password", Said: err}
		}
	} else if t.Trusted { // the file is bound to no host
		config.Passwd = passwordFromFile()
	}
	budget := engine.NewBudget()
	config.DialFunc = func(ctx context.Context, network, address string) (net.Conn, error) {
		var dialer net.Dialer
		conn, err := dialer.DialContext(ctx, network, address)
		if err != nil {
			return nil, err
		}
		return engine.Impatient(conn, t.ReadLimit(), budget), nil
	}
	return config, budget, nil
}

// Connect opens a session that cannot write.
func (e Engine) Connect(ctx context.Context, t engine.Target) (engine.Server, error) {
	config, budget, err := e.config(ctx, t)
	if err != nil {
		return nil, err
	}
	s := &server{url: t.URL, budget: budget, system: t.System, config: config, named: e.Database(t.URL)}
	connector, err := mysql.NewConnector(config)
	if err != nil {
		return nil, s.explain(err)
	}
	s.db = sql.OpenDB(readOnly{connector, t.AnswerLimit()})
	s.db.SetMaxIdleConns(4)
	if err := s.greet(ctx); err != nil {
		s.db.Close()
		c := s.explain(err)
		if c.Unclear {
			c.OtherMake(ctx, config.Net, config.Addr, "MariaDB", "MySQL")
		}
		return nil, c
	}
	return s, nil
}

// parameters are those of the driver's that only say how to reach a server, and socket.
var parameters = map[string]string{"tls": "true, skip-verify, preferred or false", "socket": "path of a Unix socket", "timeout": "to connect, such as 5s"}

// Parameters returns those that a URL may have.
func (Engine) Parameters() map[string]string { return parameters }

// configOf turns a URL into the driver's configuration. Nothing of the URL is read by the driver: no parameter can say
// what is sent.
func configOf(u string) (*mysql.Config, error) {
	parsed, err := engine.ParseURL(u, parameters)
	if err != nil {
		return nil, err
	}
	config := mysql.NewConfig()
	config.Net, config.Addr = "tcp", parsed.Address("3306")
	if socket := parsed.Parameters.Get("socket"); socket != "" {
		config.Net, config.Addr = "unix", socket
	}
	switch mode := parsed.Parameters.Get("tls"); mode {
	case "", "false":
	case "true", "skip-verify", "preferred":
		config.TLSConfig = mode
	default:
		return nil, fmt.Errorf("the parameter tls takes %s, not %q", parameters["tls"], mode)
	}
	if text := parsed.Parameters.Get("timeout"); text != "" {
		if config.Timeout, err = time.ParseDuration(text); err != nil {
			return nil, fmt.Errorf("the parameter timeout takes a time such as 5s, not %q", text)
		}
	}
	config.DBName, config.User = parsed.Database, parsed.User
	config.AllowNativePasswords, config.CheckConnLiveness = true, true
	config.AllowAllFiles, config.AllowCleartextPasswords, config.MultiStatements, config.AllowFallbackToPlaintext = false, false, false, parsed.Parameters.Get("tls") == "preferred"
	config.Logger = log.New(io.Discard, "", 0)
	return config, nil
}

// passwordFromFile reads the password of the section [client] of ~/.my.cnf, the client's own file.
func passwordFromFile() string {
	home, err := os.UserHomeDir()
	if err != nil {
		return ""
	}
	f, err := os.Open(filepath.Join(home, ".my.cnf"))
	if err != nil {
		return ""
	}
	defer f.Close()
	section, password := "", ""
	for lines := bufio.NewScanner(f); lines.Scan(); {
		line := strings.TrimSpace(lines.Text())
		if strings.HasPrefix(line, "[") {
			section = strings.Trim(line, "[]")
			continue
		}
		name, value, ok := strings.Cut(line, "=")
		if ok && strings.TrimSpace(name) == "password" && (section == "client" || section == "client-mariadb") {
			password = strings.Trim(strings.TrimSpace(value), `"'`)
		}
	}
	return password
}

// isMySQL tells the makes apart by what a server calls its version.
func isMySQL(version string) bool { return !strings.Contains(strings.ToLower(version), "mariadb") }

var versionNumber = engine.Lazily(`(\d+)\.(\d+)\.(\d+)`)

func (s *server) greet(ctx context.Context) error {
	var version, user string
	if err := s.db.QueryRowContext(ctx, "SELECT version(), current_user()").Scan(&version, &user); err != nil {
		return err
	}
	s.mysql = isMySQL(version)
	if m := versionNumber().FindStringSubmatch(version); m != nil {
		for _, part := range m[1:] {
			n, _ := strconv.Atoi(part)
			s.version = s.version*100 + n
		}
	}
	oldest, name := 100400, "MariaDB "
	if s.mysql {
		oldest, name = 80000, "MySQL "
	}
	if s.version < oldest {
		return fmt.Errorf("the server is %s%s; the oldest versions that are read are MariaDB 10.4 and MySQL 8.0", name, version)
	}
	s.info = engine.Info{Version: name + version, User: user, ReadOnly: "the server refuses writes in every transaction of the session"}
	grants, err := s.db.QueryContext(ctx, "SHOW GRANTS")
	if err != nil {
		return err
	}
	defer grants.Close()
	for grants.Next() {
		var g string
		if err := grants.Scan(&g); err != nil {
			return err
		}
		if rest, ok := strings.CutPrefix(g, "GRANT "); ok {
			rights, _, _ := strings.Cut(rest, " TO ")
			s.info.Rights = append(s.info.Rights, strings.ToLower(rights))
		}
	}
	return grants.Err()
}

func (s *server) Info() engine.Info { return s.info }

// engine returns the engine of the make that the server says it is.
func (s *server) engine() Engine { return Engine{mysql: s.mysql} }

func (s *server) Close() error { return s.db.Close() }

const databasesQuery = `SELECT schema_name FROM information_schema.schemata
WHERE schema_name NOT IN ('information_schema', 'performance_schema', 'mysql', 'sys') ORDER BY schema_name`

// Databases returns those that the user may see anything of; of others the server says nothing.
func (s *server) Databases(ctx context.Context) ([]string, []schema.Remark, error) {
	if s.named != "" {
		return []string{s.named}, nil, nil
	}
	query := databasesQuery
	if s.system {
		query = `SELECT schema_name FROM information_schema.schemata ORDER BY schema_name`
	}
	rows, err := s.db.QueryContext(ctx, query)
	if err != nil {
		return nil, nil, fmt.Errorf("listing the databases of %s: %w", engine.WithoutPassword(s.url), err)
	}
	defer rows.Close()
	var names []string
	for rows.Next() {
		var n string
		if err := rows.Scan(&n); err != nil {
			return nil, nil, err
		}
		names = append(names, n)
	}
	return append(names, engine.ServerLevel), nil, rows.Err()
}

// host returns the host that the session is for.
func (s *server) host() string {
	if s.config == nil {
		return ""
	}
	host, _, err := net.SplitHostPort(s.config.Addr)
	if err != nil {
		return s.config.Addr
	}
	return host
}

// explain says why a connection failed.
func (s *server) explain(err error) *engine.ConnectError {
	c := &engine.ConnectError{Target: engine.WithoutPassword(s.url), Said: err, Cause: "the connection failed"}
	var said *mysql.MySQLError
	var dns *net.DNSError
	var op *net.OpError
	switch {
	case errors.As(err, &said):
		c.Said = fmt.Errorf("the server said: %s", said.Message)
		switch said.Number {
		case 1045, 1698:
			c.Cause, c.Advice = "the server refused the user or the password", "set password_env or password_command for the server, or check the section [client] of ~/.my.cnf"
		case 1049:
			c.Cause, c.Advice = "there is no such database", "leave the database out of the URL to read all of them"
		case 1044:
			c.Cause, c.Advice = "the user has no right on the database", "have SELECT or SHOW VIEW granted on it"
		case 1040, 1203:
			c.Cause, c.Advice = "the server has no connection to spare", "try again later"
		}
	case c.ExplainTLS(err, s.host(), ""):
	case errors.Is(err, mysql.ErrNoTLS):
		c.Cause, c.Advice = "no encrypted connection was made", "the server has no TLS; check ?tls= in the URL"
	case errors.As(err, &dns):
		c.Said, c.Cause, c.Advice = dns, "the host name was not resolved", "check the host in the URL"
	case errors.Is(err, context.DeadlineExceeded):
		c.Said, c.Cause, c.Advice = nil, "the server did not answer in time", "check host, port and firewall"
		c.Unclear = true
	case errors.As(err, &op):
		c.Said, c.Cause, c.Advice = op, "no server answers there", "check that it runs, and the port or socket in the URL"
		c.Unclear = op.Op != "dial"
	default:
		c.Unclear = true
	}
	return c
}
