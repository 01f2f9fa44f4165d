// Package postgres reads PostgreSQL, version 12 and later: plain rows of the system catalogues, after
// the chapter "System Catalogs" of its documentation, in one consistent reading.
package postgres

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgproto3"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Engine is the PostgreSQL engine.
type Engine struct{}

// Name returns "postgres".
func (Engine) Name() string { return "postgres" }

// Schemes returns the schemes of PostgreSQL URLs.
func (Engine) Schemes() []string { return []string{"postgres", "postgresql"} }

// Traits returns what sets PostgreSQL apart.
func (Engine) Traits() engine.Traits {
	return engine.Traits{Schemas: true, RolesHeld: true, Rules: rules(), MadeUp: madeUp, OwnNames: []string{"pg_"}, Placeholder: "$", Include: `\ir`, Begin: "BEGIN", Commit: "COMMIT", Overloads: true, IndexMethod: "btree", Types: typeNames,
		Unsearched: []schema.Kind{schema.KindFunction, schema.KindProcedure}, Executing: []schema.Kind{schema.KindIndex, schema.KindMaterialisedView, schema.KindTable,
			schema.KindPartitionedTable, schema.KindPartition, schema.KindForeignTable}}
}

func rules() sqltext.Rules {
	return sqltext.Rules{EscapeStrings: true, DollarQuotes: true, NestedComments: true, FoldLower: true}
}

// SearchPath returns the path that a routine sets itself, else the usual one.
func (Engine) SearchPath(o *schema.Object) []string {
	if o.Routine != nil && o.Routine.BodyStart > 0 && o.Routine.BodyStart <= len(o.Routine.Definition) {
		if path := setPath(o.Routine.Definition[:o.Routine.BodyStart]); path != nil {
			return path
		}
	}
	return []string{"public"}
}

// setPath reads SET search_path TO a, b in the head of a routine; nil where it does not stand there.
func setPath(head string) []string {
	tokens := sqltext.Tokens(head, rules())
	for i := 0; i+3 < len(tokens); i++ {
		if !strings.EqualFold(head[tokens[i].Start:tokens[i].End], "search_path") {
			continue
		}
		path := []string{}
		for _, t := range tokens[i+2:] {
			switch {
			case t.Kind == sqltext.String || t.Kind == sqltext.QuotedName:
				path = append(path, sqltext.Unquote(head, t, rules()))
			case t.Kind == sqltext.Word && sqltext.FoldASCII(head[t.Start:t.End]) != "as":
				path = append(path, sqltext.Unquote(head, t, rules()))
			case t.Kind == sqltext.Symbol && head[t.Start] == ',':
				continue
			default:
				return path
			}
			if next := strings.TrimLeft(head[t.End:], " \t"); !strings.HasPrefix(next, ",") {
				return path
			}
		}
		return path
	}
	return nil
}

// Quote returns a name, in double quotes where PostgreSQL needs them.
func (Engine) Quote(name string) string { return quote(name) }

const lockNotAvailable = "55P03" // SQLSTATE

const oldest = 120000 // server_version_num of the oldest version that is read

// newest is the major version up to which the tables of features are complete.
const newest = 18

// largest is how long one message may be, in bytes: what says to be longer is no PostgreSQL server.
const largest = 256 << 20

type server struct {
	target  engine.Target
	budget  *engine.Budget
	config  *pgconn.Config // without a database
	named   string         // the database that the URL names, "" for all
	conn    *pgconn.PgConn // to the first database
	info    engine.Info
	version int
	log     *slog.Logger
}

// settings of every session: it cannot write, waits only briefly for a lock, and prints definitions
// with every name qualified and independent of the server's settings.
func settings(answer time.Duration) map[string]string {
	return map[string]string{
		"default_transaction_read_only":       "on",
		"search_path":                         "pg_catalog",
		"jit":                                 "off",
		"lock_timeout":                        "250",
		"statement_timeout":                   strconv.FormatInt(answer.Milliseconds(), 10),
		"idle_in_transaction_session_timeout": "60000",
		"client_encoding":                     "UTF8",
		"TimeZone":                            "UTC",
		"DateStyle":                           "ISO",
		"IntervalStyle":                       "postgres",
		"extra_float_digits":                  "1",
		"bytea_output":                        "hex",
		"quote_all_identifiers":               "off",
		"standard_conforming_strings":         "on",
	}
}

// config returns the driver's configuration for a target, without a database and without what keeps a session from writing.
func (e Engine) config(ctx context.Context, t engine.Target) (*pgconn.Config, *engine.Budget, error) {
	if _, err := engine.ParseURL(t.URL, parameters); err != nil {
		return nil, nil, &engine.ConnectError{Target: engine.Display(t.URL), Cause: "the URL is refused", Said: err, Advice: "write it like postgres://user@host:5432/database"}
	}
	config, err := pgconn.ParseConfig(t.URL)
	if err != nil {
		c := &engine.ConnectError{Target: engine.Display(t.URL), Cause: "the URL is not understood",
			Said: errors.New(engine.WithoutPassword(lastCause(err))), Advice: "write it like postgres://user@host:5432/database"}
		c.ExplainTLS(err, "", "sslrootcert")
		return nil, nil, c
	}
	if !t.Trusted { // what the environment says is for the user's own servers
		if os.Getenv("PGPASSWORD") != "" {
			config.Password = ""
		}
		withoutCertificates(config)
	}
	if t.Password != nil {
		password, err := t.Password(ctx)
		if err != nil {
			return nil, nil, &engine.ConnectError{Target: engine.WithoutPassword(t.URL), Cause: "no password", Said: err}
		}
		if password != "" {
			config.Password = password
		}
	}
	config.RuntimeParams["application_name"] = t.Client
	dial, budget := config.DialFunc, engine.NewBudget()
	config.DialFunc = func(ctx context.Context, network, address string) (net.Conn, error) {
		conn, err := dial(ctx, network, address)
		if err != nil {
			return nil, err
		}
		return engine.Impatient(conn, t.ReadLimit(), budget), nil
	}
	config.BuildFrontend = func(r io.Reader, w io.Writer) *pgproto3.Frontend {
		f := pgproto3.NewFrontend(r, w)
		f.SetMaxBodyLen(largest)
		return f
	}
	return config, budget, nil
}

// Connect opens a session that cannot write.
func (e Engine) Connect(ctx context.Context, t engine.Target) (engine.Server, error) {
	config, budget, err := e.config(ctx, t)
	if err != nil {
		return nil, err
	}
	for name, value := range settings(t.AnswerLimit()) {
		config.RuntimeParams[name] = value
	}
	s := &server{target: t, budget: budget, config: config, named: e.Database(t.URL), log: t.Log}
	if s.log == nil {
		s.log = slog.New(slog.NewTextHandler(io.Discard, nil))
	}
	tries := []string{s.named}
	if s.named == "" {
		tries = []string{"postgres", "template1", config.User}
	}
	for _, database := range tries {
		if s.conn, err = s.open(ctx, database); err == nil {
			break
		}
		var said *pgconn.PgError
		if !errors.As(err, &said) || said.Code != "3D000" && said.Code != "42501" && said.Code != "55000" {
			break
		}
	}
	if err == nil {
		err = s.greet(ctx)
	}
	if err != nil {
		_ = s.Close()
		c := explain(t.URL, config.Host, err)
		if c.Unclear {
			c.OtherMake(ctx, "tcp", net.JoinHostPort(config.Host, strconv.Itoa(int(config.Port))), "PostgreSQL")
		}
		return nil, c
	}
	return s, nil
}

// parameters are those of the driver's that only say how to reach a server.
var parameters = map[string]string{
	"sslmode": "disable, allow, prefer, require, verify-ca or verify-full", "sslrootcert": "file of authorities", "sslcert": "file of the client's certificate", "sslkey": "file of its key",
	"sslsni": "0: do not tell the server its name", "host": "folder of a Unix socket, or a host", "port": "port", "dbname": "database", "connect_timeout": "seconds", "target_session_attrs": "which of several hosts: any, read-only, …",
}

// Parameters returns those that a URL may have.
func (Engine) Parameters() map[string]string { return parameters }

// withoutCertificates takes client certificates out of a configuration and its alternatives.
func withoutCertificates(config *pgconn.Config) {
	if config.TLSConfig != nil {
		config.TLSConfig.Certificates, config.TLSConfig.GetClientCertificate = nil, nil
	}
	for _, f := range config.Fallbacks {
		if f.TLSConfig != nil {
			f.TLSConfig.Certificates, f.TLSConfig.GetClientCertificate = nil, nil
		}
	}
}

// Database returns the database in the path, or in ?dbname=.
func (Engine) Database(u string) string {
	parsed, err := url.Parse(u)
	if err != nil {
		return ""
	}
	if name := parsed.Query().Get("dbname"); name != "" {
		return name
	}
	return strings.TrimPrefix(parsed.Path, "/")
}

func (s *server) open(ctx context.Context, database string) (*pgconn.PgConn, error) {
	config := s.config.Copy()
	config.Database = database
	conn, err := pgconn.ConnectConfig(ctx, config)
	if err == nil && conn.ParameterStatus("server_encoding") == "SQL_ASCII" { // its bytes may be no UTF-8
		if err = exec(ctx, conn, rawEncoding); err != nil {
			closeConn(conn)
			return nil, err
		}
	}
	return conn, err
}

// rawEncoding has texts pass as the bytes that they are.
const rawEncoding = "SET client_encoding = 'SQL_ASCII'"

func (s *server) greet(ctx context.Context) error {
	var name, version, super, reads string
	err := query(ctx, s.conn, `SELECT current_user, current_setting('server_version_num'), current_setting('server_version'),
  (SELECT rolsuper FROM pg_roles WHERE rolname = current_user)::text, current_setting('transaction_read_only')`, func(row *engine.Row) error {
		s.version, _ = strconv.Atoi(row.Text(1))
		name, version, super, reads = row.Text(0), row.Text(2), row.Text(3), row.Text(4)
		return nil
	})
	if err != nil {
		return err
	}
	if s.version < oldest {
		return fmt.Errorf("the server is PostgreSQL %s; version 12 is the oldest that is read", version)
	}
	if reads != "on" {
		return errors.New("the server did not make the session read-only")
	}
	s.info = engine.Info{Version: "PostgreSQL " + version, User: name, ReadOnly: "the server refuses writes in every transaction of the session"}
	if super == "true" {
		s.info.Rights = append(s.info.Rights, "superuser")
	}
	return nil
}

func (s *server) Info() engine.Info { return s.info }

// Hidden returns nothing: the catalogue is open to everybody. What holds secrets is told of each object that has any.
func (s *server) Hidden(context.Context, string) ([]schema.Remark, error) { return nil, nil }

func (s *server) Close() error {
	if s.conn == nil {
		return nil
	}
	return s.conn.Close(context.Background())
}

func (s *server) Databases(ctx context.Context) ([]string, []schema.Remark, error) {
	if s.named != "" {
		return []string{s.named}, nil, nil
	}
	var names []string
	var remarks []schema.Remark
	err := query(ctx, s.conn, `SELECT datname, has_database_privilege(datname, 'CONNECT'), datallowconn
FROM pg_database WHERE NOT datistemplate ORDER BY datname`, func(row *engine.Row) error {
		name := row.Text(0)
		switch {
		case row.Text(2) != "t":
			remarks = append(remarks, schema.Remark{State: "hidden", Subject: name, Reason: "the database takes no connections (datallowconn is off)"})
		case row.Text(1) != "t":
			remarks = append(remarks, schema.Remark{State: "hidden", Subject: name,
				Reason: fmt.Sprintf("the user %s lacks the right CONNECT on the database", s.info.User)})
		default:
			names = append(names, name)
		}
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("listing the databases of %s: %w", engine.WithoutPassword(s.target.URL), err)
	}
	return append(names, engine.ServerLevel), remarks, nil
}

// query runs a statement and calls each for every row; the values are only valid during the call, nil
// for null.
func query(ctx context.Context, conn *pgconn.PgConn, sql string, each func(row *engine.Row) error, args ...string) error {
	values := make([][]byte, len(args))
	for i, a := range args {
		values[i] = []byte(a)
	}
	result := conn.ExecParams(ctx, sql, values, nil, nil, nil)
	var failed error
	var row engine.Row
	for result.NextRow() {
		if failed == nil {
			row.Set(result.Values())
			if failed = each(&row); failed == nil {
				failed = row.Check(sql)
			}
		}
	}
	if _, err := result.Close(); err != nil {
		return err
	}
	return failed
}

// explain says why a connection failed.
func explain(target, host string, err error) *engine.ConnectError {
	c := &engine.ConnectError{Target: engine.WithoutPassword(target), Said: err, Cause: "the connection failed"}
	var said *pgconn.PgError
	var dns *net.DNSError
	var op *net.OpError
	switch {
	case errors.As(err, &said):
		c.Said = fmt.Errorf("the server said: %s", said.Message)
		switch said.Code {
		case "28P01", "28000":
			c.Cause, c.Advice = "the server refused the user or the password", "set password_env or password_command for the server, or check ~/.pgpass and pg_hba.conf"
		case "3D000":
			c.Cause, c.Advice = "there is no such database", "leave the database out of the URL to read all of them"
		case "42501":
			c.Cause, c.Advice = "the user has no right to connect to the database", "have CONNECT granted on it"
		case "53300":
			c.Cause, c.Advice = "the server has no connection to spare", "try again later, or use a role with reserved connections"
		case "57P03":
			c.Cause, c.Advice = "the server is starting up or shutting down", "try again in a moment"
		}
	case c.ExplainTLS(err, host, "sslrootcert"):
	case errors.As(err, &dns):
		c.Said, c.Cause, c.Advice = dns, "the host name was not resolved", "check the host in the URL"
	case errors.Is(err, context.DeadlineExceeded):
		c.Said, c.Cause, c.Advice = nil, "the server did not answer in time", "check host, port and firewall"
		c.Unclear = true
	case errors.As(err, &op):
		c.Said, c.Cause, c.Advice = op, "no server answers there", "check that it runs, and the port in the URL"
	default:
		c.Said = errors.New(engine.WithoutPassword(lastCause(err)))
		c.Unclear = true
		if strings.Contains(err.Error(), "tls") {
			c.Cause, c.Advice = "no encrypted connection was made", "check ?sslmode= in the URL"
		}
	}
	return c
}

// lastCause returns what lies at the bottom of an error, without the connection string around it.
func lastCause(err error) string {
	for {
		inner := errors.Unwrap(err)
		if inner == nil {
			return err.Error()
		}
		err = inner
	}
}
