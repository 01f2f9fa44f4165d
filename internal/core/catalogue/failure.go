package catalogue

import (
	"context"
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
	_, err := c.db.ExecContext(ctx, "INSERT OR REPLACE INTO failure VALUES (?, ?, ?, ?)", f.Server, f.Database, f.At.UnixMilli(), f.Reason)
	return c.explain("writing to", err)
}

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
	rows, err := c.db.QueryContext(ctx, "SELECT server, database, at, reason FROM failure ORDER BY server, database")
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer rows.Close()
	var all []Failure
	for rows.Next() {
		var f Failure
		var at int64
		if err := rows.Scan(&f.Server, &f.Database, &at, &f.Reason); err != nil {
			return nil, c.explain("reading", err)
		}
		f.At = time.UnixMilli(at).UTC()
		all = append(all, f)
	}
	return all, c.explain("reading", rows.Err())
}
