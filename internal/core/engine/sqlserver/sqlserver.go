// Package sqlserver reads SQL Server, version 2016 and later: the catalogue views of the schema sys, as the
// documentation of Transact-SQL describes them. Its queries stay within what the stand-in of
// internal/standin understands, too; see queries_test.go.
package sqlserver

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	mssql "github.com/microsoft/go-mssqldb"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Engine is the engine of SQL Server.
type Engine struct{}

// Name returns "sqlserver".
func (Engine) Name() string { return "sqlserver" }

// Schemes returns the schemes of SQL Server URLs.
func (Engine) Schemes() []string { return []string{"sqlserver", "mssql"} }

func rules() sqltext.Rules {
	return sqltext.Rules{HashNames: true, CaseMatters: true, Brackets: true, BracketEscapes: true, NestedComments: true}
}

// Dialect returns the rules under the setting QUOTED_IDENTIFIER that a module keeps.
func (Engine) Dialect(o *schema.Object) sqltext.Rules {
	r := rules()
	r.DoubleQuoteStrings = o.Setting("quoted identifier") == "off"
	return r
}

// Traits returns what sets SQL Server apart.
func (Engine) Traits() engine.Traits {
	return engine.Traits{Schemas: true, Rules: rules(), MadeUp: madeUp, OwnNames: []string{"sys", "inserted", "deleted"}, LaxNeeds: true, Batch: "GO", Include: ":r", Placeholder: "@", CrossDatabase: true, IndexMethod: "nonclustered", Types: typeNames}
}

// Quote returns a name in brackets.
func (Engine) Quote(name string) string { return quote(name) }

func quote(name string) string { return "[" + strings.ReplaceAll(name, "]", "]]") + "]" }

// literal returns a Unicode string literal.
func literal(s string) string { return "N'" + strings.ReplaceAll(s, "'", "''") + "'" }

// Database returns what ?database= names.
func (Engine) Database(u string) string {
	parsed, err := url.Parse(u)
	if err != nil {
		return ""
	}
	return parsed.Query().Get("database")
}

type server struct {
	target  engine.Target
	budget  *engine.Budget
	config  url.URL
	named   string
	db      *sql.DB // of the first database
	info    engine.Info
	version int // 13 for 2016
	edition int // as SERVERPROPERTY('EngineEdition') has it
}

// Editions that are no server of one's own (documentation, "SERVERPROPERTY"); their versions do not count.
const (
	azureDatabase = 5
	azureManaged  = 8
)

const (
	oldest = 13 // SQL Server 2016
	newest = 16
)

// parameters are those of the driver's that only say how to reach a server.
var parameters = map[string]string{
	"database": "database", "encrypt": "strict, true, false or disable", "TrustServerCertificate": "true: accept any certificate", "hostNameInCertificate": "name that the certificate is for",
	"certificate": "file of authorities", "ApplicationIntent": "ReadOnly: go to a readable secondary", "dial timeout": "seconds to connect",
}

// Parameters returns those that a URL may have.
func (Engine) Parameters() map[string]string { return parameters }

// Connect opens a session. The server cannot be asked to refuse writes in one: only reading statements
// are sent.
func (e Engine) Connect(ctx context.Context, t engine.Target) (engine.Server, error) {
	strict, err := engine.ParseURL(t.URL, parameters)
	if err != nil {
		return nil, &engine.ConnectError{Target: engine.Display(t.URL), Cause: "the URL is refused", Said: err, Advice: "write it like sqlserver://user@host:1433?database=name"}
	}
	parsed, err := url.Parse(t.URL)
	if err != nil {
		return nil, &engine.ConnectError{Target: engine.Display(t.URL), Cause: "the URL is not understood", Advice: "write it like sqlserver://user@host:1433?database=name"}
	}
	parsed.Scheme = "sqlserver"
	query := parsed.Query()
	query.Set("app name", t.Client)
	if query.Get("ApplicationIntent") == "" && query.Get("database") != "" {
		query.Set("ApplicationIntent", "ReadOnly")
	}
	if query.Get("encrypt") == "" {
		query.Set("encrypt", "true")
	}
	if query.Get("dial timeout") == "" {
		query.Set("dial timeout", "10")
	}
	parsed.RawQuery = query.Encode()
	if t.Password != nil {
		password, err := t.Password(ctx)
		if err != nil {
			return nil, &engine.ConnectError{Target: engine.WithoutPassword(t.URL), Cause: "no password", Said: err}
		}
		parsed.User = url.UserPassword(parsed.User.Username(), password)
	}
	s := &server{target: t, budget: engine.NewBudget(), config: *parsed, named: e.Database(t.URL)}
	if s.db, err = s.open(s.named); err != nil {
		return nil, s.explain(err)
	}
	if err := s.greet(ctx); err != nil {
		s.db.Close()
		c := s.explain(err)
		if c.Unclear {
			c.OtherMake(ctx, "tcp", strict.Address("1433"), "SQL Server")
		}
		return nil, c
	}
	return s, nil
}

// open returns a handle on a database; sessions wait only briefly for locks.
func (s *server) open(database string) (*sql.DB, error) {
	config := s.config
	query := config.Query()
	if database != "" {
		query.Set("database", database)
	}
	config.RawQuery = query.Encode()
	connector, err := mssql.NewConnector(config.String())
	if err != nil {
		return nil, err
	}
	connector.SessionInitSQL = sessionSettings
	connector.Dialer = impatient{s.target.ReadLimit(), s.budget}
	return sql.OpenDB(connector), nil
}

const sessionSettings = "SET LOCK_TIMEOUT 1000; SET DEADLOCK_PRIORITY LOW"

// impatient gives up on a server that falls silent, or does not end.
type impatient struct {
	limit  time.Duration
	budget *engine.Budget
}

// DialContext connects.
func (d impatient) DialContext(ctx context.Context, network, address string) (net.Conn, error) {
	var dialer net.Dialer
	conn, err := dialer.DialContext(ctx, network, address)
	if err != nil {
		return nil, err
	}
	return engine.Impatient(conn, d.limit, d.budget), nil
}

func (s *server) greet(ctx context.Context) error {
	var version, user, edition sql.NullString
	var number sql.NullInt64
	err := s.db.QueryRowContext(ctx, greetQuery).Scan(&version, &user, &number, &edition)
	if err != nil {
		return err
	}
	major, _, _ := strings.Cut(version.String, ".")
	s.version, _ = strconv.Atoi(major)
	s.edition = int(number.Int64)
	name := "SQL Server " + version.String
	switch s.edition {
	case azureDatabase:
		name, s.version = "Azure SQL Database "+version.String, newest
	case azureManaged:
		name, s.version = "Azure SQL Managed Instance "+version.String, newest
	}
	if s.version < oldest {
		return fmt.Errorf("the server is SQL Server %s; version 13 (2016) is the oldest that is read", version.String)
	}
	s.info = engine.Info{Version: name, User: user.String, ReadOnly: "the server cannot refuse writes in a session; only reading statements are sent"}
	if sees, err := s.rights(ctx, s.db); err != nil {
		return err
	} else if sees.definitions {
		s.info.Rights = append(s.info.Rights, "view definition")
	}
	return nil
}

// rights are what the user may do in a database.
type rights struct{ definitions, alter, insert bool }

func (s *server) rights(ctx context.Context, db *sql.DB) (r rights, err error) {
	var all [3]sql.NullInt64
	if err := db.QueryRowContext(ctx, rightsQuery).Scan(&all[0], &all[1], &all[2]); err != nil {
		return r, err
	}
	return rights{all[0].Int64 == 1, all[1].Int64 == 1, all[2].Int64 == 1}, nil
}

func (s *server) Info() engine.Info { return s.info }

func (s *server) Close() error { return s.db.Close() }

// Hidden tells of the right to see definitions.
func (s *server) Hidden(ctx context.Context, database string) ([]schema.Remark, error) {
	db := s.db
	if database != engine.ServerLevel && database != s.named {
		var err error
		if db, err = s.open(database); err != nil {
			return nil, err
		}
		defer db.Close()
	}
	return s.hidden(ctx, db, database)
}

// hidden returns what the user does not see in a database, and that it could write where that is so.
func (s *server) hidden(ctx context.Context, db *sql.DB, database string) ([]schema.Remark, error) {
	if database == engine.ServerLevel {
		var sees sql.NullInt64
		if err := db.QueryRowContext(ctx, serverRightsQuery).Scan(&sees); err != nil || sees.Int64 == 1 {
			return nil, err
		}
		return []schema.Remark{{State: "hidden", Reason: fmt.Sprintf("the user %s lacks the right VIEW ANY DEFINITION on the server: logins, roles and linked servers that it has no right on are not shown (GRANT VIEW ANY DEFINITION TO %s)", s.info.User, quote(s.info.User))}}, nil
	}
	r, err := s.rights(ctx, db)
	if err != nil {
		return nil, err
	}
	var all []schema.Remark
	if !r.definitions {
		all = append(all, s.unseen())
	}
	if r.alter || r.insert {
		all = append(all, schema.Remark{State: "note", Reason: fmt.Sprintf("the user %s could write in this database; a survey needs VIEW DEFINITION alone", s.info.User)})
	}
	return all, nil
}

func (s *server) unseen() schema.Remark {
	return schema.Remark{State: "hidden", Reason: fmt.Sprintf("the user %s lacks the right VIEW DEFINITION on the database: objects and texts that it has no right on are not shown (GRANT VIEW DEFINITION TO %s)", s.info.User, quote(s.info.User))}
}

// Databases returns those that are open to the user; of others the server says no more than the name.
func (s *server) Databases(ctx context.Context) ([]string, []schema.Remark, error) {
	if s.named != "" {
		return []string{s.named}, nil, nil
	}
	var names []string
	var remarks []schema.Remark
	err := engine.Rows(ctx, s.db, databasesQuery, func(row *engine.Row) {
		name, state := row.Text(0), row.Text(1)
		switch name {
		case "master", "model", "msdb", "tempdb":
			if !s.target.System {
				return
			}
		}
		if state != "ONLINE" {
			remarks = append(remarks, schema.Remark{State: "hidden", Subject: name, Reason: "the database is " + strings.ToLower(state)})
			return
		}
		if row.Null(2) || row.Int(2) == 0 {
			remarks = append(remarks, schema.Remark{State: "hidden", Subject: name, Reason: "the user " + s.info.User + " may not open the database"})
			return
		}
		names = append(names, name)
	})
	if err != nil {
		return nil, nil, fmt.Errorf("listing the databases of %s: %w", engine.WithoutPassword(s.target.URL), err)
	}
	return append(names, engine.ServerLevel), remarks, nil
}

// explain says why a connection failed.
func (s *server) explain(err error) *engine.ConnectError {
	c := &engine.ConnectError{Target: engine.WithoutPassword(s.target.URL), Said: errors.New(engine.WithoutPassword(err.Error())), Cause: "the connection failed"}
	var said mssql.Error
	var dns *net.DNSError
	var op *net.OpError
	switch {
	case errors.As(err, &said):
		c.Said = fmt.Errorf("the server said: %s", said.Message)
		switch said.Number {
		case 18456, 18452:
			c.Cause, c.Advice = "the server refused the user or the password", "set password_env or password_command for the server"
		case 4060:
			c.Cause, c.Advice = "there is no such database, or the user may not open it", "leave the database out of the URL to read all of them, or have CONNECT granted on it"
		}
	case c.ExplainTLS(err, s.config.Hostname(), "certificate"):
	case errors.As(err, &dns):
		c.Said, c.Cause, c.Advice = dns, "the host name was not resolved", "check the host in the URL"
	case errors.Is(err, context.DeadlineExceeded), os.IsTimeout(err):
		c.Said, c.Cause, c.Advice = nil, "the server did not answer in time", "check host, port and firewall"
		c.Unclear = true
	case errors.As(err, &op):
		c.Said, c.Cause, c.Advice = op, "no server answers there", "check that it runs, and the port in the URL"
	case strings.Contains(err.Error(), "encryption"), strings.Contains(err.Error(), "TLS"), strings.Contains(err.Error(), "certificate"):
		c.Cause, c.Advice = "no encrypted connection was made", "name its authority with ?certificate=FILE, or the name in it with ?hostNameInCertificate=; look at ?encrypt= and ?TrustServerCertificate= as well"
	default:
		c.Unclear = true
	}
	return c
}
