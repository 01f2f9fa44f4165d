package sqlite

// Where a script is tried: a database that is made for it and dropped behind it.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Workbench returns one whose database is a temporary file.
func (Engine) Workbench(context.Context, engine.Target) (engine.Workbench, error) {
	dir, err := os.MkdirTemp("", "atlas-proof-")
	if err != nil {
		return nil, fmt.Errorf("making a folder for a proof: %w", err)
	}
	return &bench{dir: dir}, nil
}

type bench struct {
	dir  string
	db   *sql.DB
	conn *sql.Conn
}

func (b *bench) Make(ctx context.Context, name string) (string, error) {
	path := filepath.Join(b.dir, name+".db")
	var err error
	if b.db, err = sql.Open("sqlite", path); err != nil {
		return "", err
	}
	if b.conn, err = b.db.Conn(ctx); err != nil {
		return "", err
	}
	return engine.FileURL(path), nil
}

func (b *bench) Run(ctx context.Context, statement string) error {
	_, err := b.conn.ExecContext(ctx, statement)
	return err
}

func (b *bench) Lacks(context.Context, []string) ([]string, error) { return nil, nil }

func (b *bench) Close(context.Context) error {
	var errs []error
	if b.conn != nil {
		errs = append(errs, b.conn.Close())
	}
	if b.db != nil {
		errs = append(errs, b.db.Close())
	}
	return errors.Join(append(errs, os.RemoveAll(b.dir))...)
}

// Acts implements engine.Builder: nothing in a file does.
func (Engine) Acts(schema.Kind) bool { return false }

// Count implements engine.Workbench.
func (b *bench) Count(ctx context.Context, query string) (n int64, err error) {
	err = b.conn.QueryRowContext(ctx, query).Scan(&n)
	return n, err
}
