package catalogue

// A survey that failed is remembered, so that an old answer is not taken for a fresh one.

import (
	"context"
	"database/sql"
	"fmt"
	"time"
)

// Failure is a reading that failed, and was followed by none that did not.
type Failure struct {
	Server   string
	Database string // "" for the server as a whole
	At       time.Time
	Reason   string
}

// NoteFailure remembers that a reading failed.
func (c *Catalogue) NoteFailure(ctx context.Context, f Failure) error {
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return c.explain("writing to", err)
	}
	defer tx.Rollback()
	if err := noteFailure(ctx, tx, f); err != nil {
		return c.explain("writing to", err)
	}
	return c.explain("writing to", tx.Commit())
}

// noteFailure replaces a row in two steps: replacing in one runs no trigger for the row that goes.
func noteFailure(ctx context.Context, tx *sql.Tx, f Failure) error {
	if _, err := tx.ExecContext(ctx, "DELETE FROM failure WHERE server = ? AND database = ?", f.Server, f.Database); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, "INSERT INTO failure VALUES (?, ?, ?, ?, ?)", f.Server, f.Database, f.At.UnixMilli(), f.Reason, f.sum())
	return err
}

func (f *Failure) sum() uint32 { return sumOf(f.Server, f.Database, f.At.UnixMilli(), f.Reason) }

// ForgetFailure forgets the failures of a database and of its server as a whole: it was read.
func (c *Catalogue) ForgetFailure(ctx context.Context, server, database string) error {
	var known int
	if err := c.db.QueryRowContext(ctx, "SELECT count(*) FROM failure WHERE server = ? AND database IN (?, '')", server, database).Scan(&known); err != nil || known == 0 {
		return c.explain("reading", err)
	}
	_, err := c.db.ExecContext(ctx, "DELETE FROM failure WHERE server = ? AND database IN (?, '')", server, database)
	return c.explain("writing to", err)
}

// Failures returns the readings that failed last, by server and database.
func (c *Catalogue) Failures(ctx context.Context) ([]Failure, error) {
	rows, err := c.db.QueryContext(ctx, "SELECT rows, sums, server, database, at, reason, sum FROM tally LEFT JOIN failure WHERE what = 'failure' ORDER BY server, database")
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer rows.Close()
	var all []Failure
	count, sums, found := int64(-1), int64(0), int64(0)
	for rows.Next() {
		var server, database, reason sql.NullString
		var at, sum sql.NullInt64
		if err := rows.Scan(&count, &sums, &server, &database, &at, &reason, &sum); err != nil {
			return nil, c.explain("reading", err)
		}
		if !server.Valid {
			continue // there is none
		}
		f := Failure{server.String, database.String, time.UnixMilli(at.Int64).UTC(), reason.String}
		if int64(f.sum()) != sum.Int64 {
			return nil, c.explain("reading", fmt.Errorf("%w: the row of a failure is not what was written", ErrDamaged))
		}
		found += sum.Int64
		all = append(all, f)
	}
	if err := rows.Err(); err != nil {
		return nil, c.explain("reading", err)
	}
	if count != int64(len(all)) || sums != found {
		return nil, c.explain("reading", fmt.Errorf("%w: of %d failures %d are there", ErrDamaged, count, len(all)))
	}
	return all, nil
}
