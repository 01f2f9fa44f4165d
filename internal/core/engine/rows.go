package engine

// Rows are read with checks: a column that is missing or of another form names the query, and nothing is taken for
// something else.

import (
	"context"
	"database/sql"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Row is one row of an answer, read with checks: a column that is not there, or a value that is not of the form that was asked
// for, becomes the row's error, never a panic and never a silent zero. Its bytes are valid until the next row.
type Row struct {
	values [][]byte
	fault  error // the first one
}

// RowError says that an answer is not what was asked for.
type RowError struct {
	Query string // its first words
	Said  error
}

func (e *RowError) Error() string {
	return fmt.Sprintf("the server's answer to %q is not what was asked for: %v", e.Query, e.Said)
}

func (e *RowError) Unwrap() error { return e.Said }

// Set makes the row hold an answer's next values; nil stands for NULL.
func (r *Row) Set(values [][]byte) { r.values = values }

// Check returns what was wrong with the rows so far, as an error that names the query.
func (r *Row) Check(query string) error {
	if r.fault == nil {
		return nil
	}
	words := strings.Fields(query)
	short := strings.Join(words[:min(len(words), 12)], " ")
	return &RowError{Query: strings.ToValidUTF8(short[:min(len(short), 100)], ""), Said: r.fault}
}

// Fault makes the row wrong in a column (from 0) for a reason.
func (r *Row) Fault(i int, reason string) {
	if r.fault == nil {
		r.fault = fmt.Errorf("column %d %s", i+1, reason)
	}
}

func (r *Row) unlike(i int, wanted string) {
	if i < len(r.values) {
		r.Fault(i, fmt.Sprintf("holds %q, not %s", r.values[i][:min(len(r.values[i]), 40)], wanted))
	}
}

// Bytes returns a value; NULL is nil.
func (r *Row) Bytes(i int) []byte {
	if i < len(r.values) {
		return r.values[i]
	}
	r.Fault(i, fmt.Sprintf("is missing: the row has %d", len(r.values)))
	return nil
}

// Text returns a value; NULL is empty.
func (r *Row) Text(i int) string { return string(r.Bytes(i)) }

// Null reports whether a value is NULL.
func (r *Row) Null(i int) bool { return r.Bytes(i) == nil }

// Int returns a whole number; NULL is 0, and an unsigned one that is too large is the largest.
func (r *Row) Int(i int) int64 {
	b := r.Bytes(i)
	if b == nil {
		return 0
	}
	n, err := strconv.ParseInt(string(b), 10, 64)
	if err != nil {
		if u, err := strconv.ParseUint(string(b), 10, 64); err == nil && u > math.MaxInt64 {
			return math.MaxInt64
		}
		r.unlike(i, "a whole number")
	}
	return n
}

// Position returns a place in a list, counted from 1, as columns are; more than 65535 there are on no engine.
func (r *Row) Position(i int) (at int, ok bool) {
	n := r.Int(i)
	if n < 1 || n > math.MaxUint16 {
		r.unlike(i, "a position")
		return 0, false
	}
	return int(n), true
}

// Unsigned returns a number of 32 bits, such as one of an object; NULL is 0.
func (r *Row) Unsigned(i int) uint32 {
	b := r.Bytes(i)
	n := uint64(0)
	for _, c := range b {
		n = n*10 + uint64(c-'0')
		if c < '0' || c > '9' || n > math.MaxUint32 {
			r.unlike(i, "an object's number")
			return 0
		}
	}
	return uint32(n)
}

// Truth returns a truth value as t, f, 1, 0, true or false; NULL is false.
func (r *Row) Truth(i int) bool {
	b := r.Bytes(i)
	switch string(b) {
	case "t", "1", "true":
		return true
	case "f", "0", "false", "":
		return false
	}
	r.unlike(i, "a truth value")
	return false
}

// Letter returns a single character; NULL and the empty one are 0.
func (r *Row) Letter(i int) byte {
	b := r.Bytes(i)
	if len(b) > 1 {
		r.unlike(i, "a single letter")
	}
	if len(b) == 0 {
		return 0
	}
	return b[0]
}

// Ints returns the whole numbers of a list that is written "1 2" or "{1,2}".
func (r *Row) Ints(i int) []int {
	fields := strings.FieldsFunc(string(r.Bytes(i)), func(c rune) bool { return c == ' ' || c == ',' || c == '{' || c == '}' })
	list := make([]int, len(fields))
	for k, f := range fields {
		n, err := strconv.Atoi(f)
		if err != nil {
			r.unlike(i, "a list of numbers")
			return nil
		}
		list[k] = n
	}
	return list
}

// Rows runs a query and calls each for every row.
func Rows(ctx context.Context, db *sql.DB, query string, each func(row *Row)) error {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	raw, to, values := make([]sql.RawBytes, len(columns)), make([]any, len(columns)), make([][]byte, len(columns))
	for i := range raw {
		to[i] = &raw[i]
	}
	row := Row{values: values}
	for rows.Next() {
		if err := rows.Scan(to...); err != nil {
			return err
		}
		for i := range raw {
			values[i] = raw[i]
		}
		each(&row)
		if err := row.Check(query); err != nil {
			return err
		}
	}
	return rows.Err()
}
