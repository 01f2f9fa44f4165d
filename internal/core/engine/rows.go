package engine

import (
	"context"
	"database/sql"
)

// Rows runs a query and calls each for every row, with its values as T takes them: sql.RawBytes (valid during the
// call only) or sql.NullString.
func Rows[T any](ctx context.Context, db *sql.DB, query string, each func(row []T)) error {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	row, to := make([]T, len(columns)), make([]any, len(columns))
	for i := range row {
		to[i] = &row[i]
	}
	for rows.Next() {
		if err := rows.Scan(to...); err != nil {
			return err
		}
		each(row)
	}
	return rows.Err()
}
