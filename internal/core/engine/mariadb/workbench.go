package mariadb

// Where a script is tried: a database that is made for it and dropped behind it.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"strings"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Workbench opens a session that may make databases.
func (e Engine) Workbench(ctx context.Context, t engine.Target) (engine.Workbench, error) {
	config, budget, err := e.config(ctx, t)
	if err != nil {
		return nil, err
	}
	s := &server{url: t.URL, budget: budget, config: config}
	config.DBName, config.MultiStatements = "", e.mysql // in which a guard takes several
	connector, err := mysql.NewConnector(config)
	if err != nil {
		return nil, s.explain(err)
	}
	b := &bench{url: t.URL, db: sql.OpenDB(connector)}
	if b.conn, err = b.db.Conn(ctx); err != nil {
		b.db.Close()
		return nil, s.explain(err)
	}
	version := ""
	if err := b.conn.QueryRowContext(ctx, "SELECT version()").Scan(&version); err != nil {
		return nil, errors.Join(s.explain(err), b.Close(ctx))
	}
	if isMySQL(version) != e.mysql {
		return nil, errors.Join(fmt.Errorf("the scratch server %s calls itself %s, and the script is for %s; name a server of that make", engine.WithoutPassword(t.URL), version, e.Name()), b.Close(ctx))
	}
	return b, nil
}

type bench struct {
	url, name string
	db        *sql.DB
	conn      *sql.Conn
}

func (b *bench) Make(ctx context.Context, name string) (string, error) {
	if err := b.Run(ctx, "CREATE DATABASE "+quote(name)+" COMMENT "+literal(engine.Mark)); err != nil {
		var said *mysql.MySQLError
		if !errors.As(err, &said) || said.Number != 1064 { // older servers know no comments there
			return "", err
		}
		if err = b.Run(ctx, "CREATE DATABASE "+quote(name)); err != nil {
			return "", err
		}
	}
	b.name = name
	u, err := url.Parse(b.url)
	if err != nil {
		return "", err
	}
	u.Path = "/" + name
	return u.String(), b.Run(ctx, "USE "+quote(name))
}

func (b *bench) Run(ctx context.Context, statement string) error {
	_, err := b.conn.ExecContext(ctx, statement)
	return err
}

// Lacks looks for users, written 'name'@'host' or name@host, and for roles.
func (b *bench) Lacks(ctx context.Context, roles []string) ([]string, error) {
	rows, err := b.conn.QueryContext(ctx, "SELECT concat(User, '@', Host) FROM mysql.user UNION ALL SELECT concat(quote(User), '@', quote(Host)) FROM mysql.user")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	there := map[string]bool{"PUBLIC@": true}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		there[name] = true
	}
	var missing []string
	for _, r := range roles {
		role := r
		if !strings.Contains(r, "@") {
			role += "@"
		}
		if plain := strings.NewReplacer("'", "", "`", "").Replace(role); !there[role] && !there[plain] {
			missing = append(missing, r)
		}
	}
	return missing, rows.Err()
}

func (b *bench) Close(ctx context.Context) error {
	var err error
	if b.name != "" {
		if _, err = b.db.ExecContext(ctx, "DROP DATABASE "+quote(b.name)); err != nil {
			err = fmt.Errorf("dropping the scratch database %s: %w", b.name, err)
		}
	}
	return errors.Join(err, b.conn.Close(), b.db.Close())
}

// Acts implements engine.Builder: an event would run.
func (Engine) Acts(k schema.Kind) bool { return k == schema.KindEvent }

// Count implements engine.Workbench.
func (b *bench) Count(ctx context.Context, query string) (n int64, err error) {
	err = b.conn.QueryRowContext(ctx, query).Scan(&n)
	return n, err
}
