package postgres

// Where a script is tried: a database that is made for it and dropped behind it.

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"

	"github.com/jackc/pgx/v5/pgconn"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Workbench opens a session that may make databases.
func (e Engine) Workbench(ctx context.Context, t engine.Target) (engine.Workbench, error) {
	config, _, err := e.config(ctx, t)
	if err != nil {
		return nil, err
	}
	b := &bench{config: config, url: t.URL}
	if config.Database = e.Database(t.URL); config.Database == "" {
		config.Database = "postgres"
	}
	if b.admin, err = pgconn.ConnectConfig(ctx, config); err != nil {
		return nil, explain(t.URL, config.Host, err)
	}
	return b, nil
}

type bench struct {
	config      *pgconn.Config
	url, name   string
	admin, work *pgconn.PgConn
}

func (b *bench) Make(ctx context.Context, name string) (string, error) {
	if err := exec(ctx, b.admin, "CREATE DATABASE "+quote(name)+" TEMPLATE template0 ENCODING 'UTF8'"); err != nil {
		return "", err
	}
	b.name = name
	if err := exec(ctx, b.admin, "COMMENT ON DATABASE "+quote(name)+" IS "+literal(engine.Mark)); err != nil {
		return "", err
	}
	u, err := url.Parse(b.url)
	if err != nil {
		return "", err
	}
	u.Path = "/" + name
	q := u.Query()
	q.Del("dbname")
	u.RawQuery = q.Encode()
	config := b.config.Copy()
	config.Database = name
	b.work, err = pgconn.ConnectConfig(ctx, config)
	return u.String(), err
}

func (b *bench) Run(ctx context.Context, statement string) error { return exec(ctx, b.work, statement) }

func (b *bench) Lacks(ctx context.Context, roles []string) ([]string, error) {
	var there []string
	err := query(ctx, b.admin, "SELECT rolname FROM pg_roles", func(row *engine.Row) error {
		there = append(there, row.Text(0))
		return nil
	})
	var missing []string
	for _, r := range roles {
		if r != "" && r != "public" && r != "PUBLIC" && !slices.Contains(there, r) {
			missing = append(missing, r)
		}
	}
	return missing, err
}

func (b *bench) Close(ctx context.Context) error {
	if b.work != nil {
		_ = b.work.Close(ctx)
	}
	var err error
	if b.name != "" {
		if err = exec(ctx, b.admin, "DROP DATABASE "+quote(b.name)); err != nil {
			err = fmt.Errorf("dropping the scratch database %s: %w", b.name, err)
		}
	}
	return errors.Join(err, b.admin.Close(ctx))
}

// Acts implements engine.Builder: a subscription would connect to its publisher, and take its slot.
func (Engine) Acts(k schema.Kind) bool { return k == schema.KindSubscription }

// Count implements engine.Workbench.
func (b *bench) Count(ctx context.Context, text string) (n int64, err error) {
	err = query(ctx, b.work, text, func(row *engine.Row) error {
		n, err = strconv.ParseInt(row.Text(0), 10, 64)
		return err
	})
	return n, err
}
