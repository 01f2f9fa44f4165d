package catalogue

// Older layouts are brought to the present one when a catalogue is opened, in one transaction.

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
	"time"
)

// upgrade brings a file of one of the two layouts before to this one: failures were added, and then sums.
func (c *Catalogue) upgrade(ctx context.Context) error {
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	var version int
	if err := tx.QueryRowContext(ctx, "PRAGMA user_version").Scan(&version); err != nil || version == format { // another process was quicker
		return err
	}
	failures := []Failure{}
	if version == 4 {
		if failures, err = failuresBefore(ctx, tx); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "DROP TABLE failure"); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, "ALTER TABLE snapshot RENAME TO before; DROP INDEX snapshot_of;"+snapshotTable+failureTable+tallyTable); err != nil {
		return err
	}
	for _, f := range failures {
		if err := noteFailure(ctx, tx, f); err != nil {
			return err
		}
	}
	if err := sealSnapshots(ctx, tx); err != nil {
		return err
	}
	for _, of := range []struct{ table, key, column string }{{"chunk", "hash", "entries"}, {"chunk", "hash", "places"}, {"pack", "NULL", "holds"}} {
		if err := sealColumn(ctx, tx, of.table, of.key, of.column); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, fmt.Sprintf("DROP TABLE before; PRAGMA user_version = %d;", format)); err != nil {
		return err
	}
	return tx.Commit()
}

func failuresBefore(ctx context.Context, tx *sql.Tx) ([]Failure, error) {
	rows, err := tx.QueryContext(ctx, "SELECT server, database, at, reason FROM failure")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []Failure
	for rows.Next() {
		var f Failure
		var at int64
		if err := rows.Scan(&f.Server, &f.Database, &at, &f.Reason); err != nil {
			return nil, err
		}
		f.At = time.UnixMilli(at)
		all = append(all, f)
	}
	return all, rows.Err()
}

// sealSnapshots copies the snapshots of the layout before.
func sealSnapshots(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, "SELECT "+snapshotColumns+", 0, 0, places FROM before ORDER BY id")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var places []byte
		s, row, err := scanRow(rows, &places)
		if err != nil {
			return err
		}
		if err := insertSnapshot(ctx, tx, s, row.counts, row.remarks, places); err != nil {
			return err
		}
	}
	return rows.Err()
}

// sealColumn puts a sum behind the bodies of a column.
func sealColumn(ctx context.Context, tx *sql.Tx, table, key, column string) error {
	rows, err := tx.QueryContext(ctx, "SELECT rowid, "+key+", "+column+" FROM "+table)
	if err != nil {
		return err
	}
	defer rows.Close()
	set, err := tx.PrepareContext(ctx, strings.Join([]string{"UPDATE", table, "SET", column, "= ? WHERE rowid = ?"}, " "))
	if err != nil {
		return err
	}
	defer set.Close()
	type body struct {
		id        int64
		key, body []byte
	}
	var all []body
	for rows.Next() {
		var b body
		if err := rows.Scan(&b.id, &b.key, &b.body); err != nil {
			return err
		}
		all = append(all, b)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, b := range all {
		if _, err := set.ExecContext(ctx, seal(b.key, b.body), b.id); err != nil {
			return err
		}
	}
	return nil
}
