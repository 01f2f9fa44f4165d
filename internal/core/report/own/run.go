package own

// Running a report: the tables that it names are filled, then nothing can be written, attached or loaded any more.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"

	"echo-atlas/internal/core/catalogue"
)

// Limits bound what a report may take.
type Limits struct {
	Time time.Duration
	Rows int
}

// Rows are what a report answers.
type Rows struct {
	Columns []string
	Values  [][]any // nil, int64, float64, string
	Cut     bool    // there are more than the limit
}

// ErrTime says that a report took too long.
var ErrTime = errors.New("the report took longer than it may")

// Run answers a report about what is chosen; set gives its parameters.
func Run(ctx context.Context, c *catalogue.Catalogue, r *Report, choices []Choice, set map[string]string, limits Limits) (*Rows, error) {
	args, err := r.arguments(set)
	if err != nil {
		return nil, err
	}
	db, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		return nil, fmt.Errorf("opening the tables of the report: %w", err)
	}
	defer db.Close()
	conn, err := db.Conn(ctx) // one: each has a memory of its own
	if err != nil {
		return nil, fmt.Errorf("opening the tables of the report: %w", err)
	}
	defer conn.Close()
	for i := range Tables {
		if _, err := conn.ExecContext(ctx, "CREATE TABLE "+Tables[i].Name+" ("+strings.Join(Tables[i].Columns, ", ")+")"); err != nil {
			return nil, fmt.Errorf("making the table %s: %w", Tables[i].Name, err)
		}
	}
	f := filler{c: c, report: r, choices: choices, insert: func(t *Table, rows [][]any) error { return insert(ctx, conn, t, rows) }}
	if err := f.fill(ctx); err != nil {
		return nil, err
	}
	if err := confine(ctx, conn); err != nil {
		return nil, err
	}
	timed, cancel := context.WithTimeout(ctx, limits.Time)
	defer cancel()
	rows, err := query(timed, conn, r.Query, args, limits.Rows)
	if err != nil && timed.Err() != nil && ctx.Err() == nil {
		return nil, fmt.Errorf("%w: %s", ErrTime, limits.Time)
	}
	return rows, err
}

// confine takes away all that a query could do besides reading the tables.
func confine(ctx context.Context, conn *sql.Conn) error {
	for _, statement := range []string{"PRAGMA query_only = 1", "PRAGMA trusted_schema = 0", "PRAGMA temp_store = 2", "PRAGMA cell_size_check = 1"} {
		if _, err := conn.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("confining the report: %w", err)
		}
	}
	for id, most := range map[int]int{lib.SQLITE_LIMIT_ATTACHED: 0, lib.SQLITE_LIMIT_LENGTH: 16 << 20, lib.SQLITE_LIMIT_EXPR_DEPTH: 200, lib.SQLITE_LIMIT_COMPOUND_SELECT: 50} {
		if _, err := sqlite.Limit(conn, id, most); err != nil {
			return fmt.Errorf("confining the report: %w", err)
		}
	}
	return nil
}

// insert puts rows into a table, several in a statement.
func insert(ctx context.Context, conn *sql.Conn, t *Table, rows [][]any) (err error) {
	const several = 40
	if len(rows) == 0 {
		return nil
	}
	tx, err := conn.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = tx.Rollback()
		}
	}()
	one := "(?" + strings.Repeat(", ?", len(t.Columns)-1) + ")"
	var many *sql.Stmt
	if len(rows) >= several {
		if many, err = tx.PrepareContext(ctx, "INSERT INTO "+t.Name+" VALUES "+one+strings.Repeat(", "+one, several-1)); err != nil {
			return err
		}
		defer many.Close()
	}
	args := make([]any, 0, several*len(t.Columns))
	for len(rows) > 0 {
		args = args[:0]
		if len(rows) >= several {
			for _, r := range rows[:several] {
				args = append(args, r...)
			}
			rows = rows[several:]
			if _, err = many.ExecContext(ctx, args...); err != nil {
				return err
			}
			continue
		}
		if _, err = tx.ExecContext(ctx, "INSERT INTO "+t.Name+" VALUES "+one, rows[0]...); err != nil {
			return err
		}
		rows = rows[1:]
	}
	return tx.Commit()
}

func query(ctx context.Context, conn *sql.Conn, text string, args []any, most int) (*Rows, error) {
	rows, err := conn.QueryContext(ctx, text, args...)
	if err != nil {
		return nil, fmt.Errorf("running the report: %w", err)
	}
	defer rows.Close()
	out := &Rows{}
	if out.Columns, err = rows.Columns(); err != nil {
		return nil, fmt.Errorf("running the report: %w", err)
	}
	for rows.Next() {
		if len(out.Values) == most {
			out.Cut = true
			break
		}
		values := make([]any, len(out.Columns))
		into := make([]any, len(values))
		for i := range values {
			into[i] = &values[i]
		}
		if err := rows.Scan(into...); err != nil {
			return nil, fmt.Errorf("running the report: %w", err)
		}
		for i, v := range values {
			switch x := v.(type) {
			case []byte:
				values[i] = string(x)
			case bool:
				values[i] = map[bool]int64{true: 1}[x]
			case time.Time:
				values[i] = x.UTC().Format(time.RFC3339)
			}
		}
		out.Values = append(out.Values, values)
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("running the report: %w", err)
	}
	return out, nil
}

// arguments returns the parameters as they are bound; each has to be given or to have a default.
func (r *Report) arguments(set map[string]string) ([]any, error) {
	var args []any
	for i := range r.Parameters {
		p := &r.Parameters[i]
		text, given := set[p.Name]
		if !given {
			if !p.Given {
				return nil, &ParameterError{p.Name, "is not given"}
			}
			text = p.Default
		}
		v, err := p.value(text)
		if err != nil {
			return nil, &ParameterError{p.Name, err.Error()}
		}
		args = append(args, sql.Named(p.Name, v))
	}
	for name := range set {
		known := false
		for _, p := range r.Parameters {
			known = known || p.Name == name
		}
		if !known {
			return nil, &ParameterError{name, "is none of the report's"}
		}
	}
	return args, nil
}

// ParameterError says what is wrong with a parameter.
type ParameterError struct{ Name, Reason string }

func (e *ParameterError) Error() string { return "the parameter " + e.Name + ": " + e.Reason }
