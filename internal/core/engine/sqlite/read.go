package sqlite

// A reading takes the schema table in one transaction, and understands each text.

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"strings"
	"time"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// master is a row of sqlite_schema.
type master struct {
	kind, name, table, text string
	shadow                  bool
}

const masterQuery = `SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_schema ORDER BY rowid`

// shadowQuery finds the shadow tables of virtual tables. The pragma is asked once: it looks at every
// table each time.
const shadowQuery = `SELECT name FROM pragma_table_list WHERE schema = 'main' AND type = 'shadow'`

const columnsQuery = `SELECT m.name, x.name, x.type, x."notnull", coalesce(x.dflt_value, ''), x.pk, x.hidden
FROM sqlite_schema m JOIN pragma_table_xinfo(m.name) x
WHERE m.type = 'table' AND m.sql NOT LIKE 'create virtual%' ORDER BY m.rowid, x.cid`

const relationColumnsQuery = `SELECT name, type, "notnull", coalesce(dflt_value, ''), pk, hidden FROM pragma_table_xinfo(?) ORDER BY cid`

const estimatesQuery = `SELECT tbl, max(CAST(stat AS INTEGER)) FROM sqlite_stat1 GROUP BY tbl`

type reader struct {
	tx      *sql.Tx
	system  bool
	reading *schema.Reading
	byName  map[string]*schema.Object // relations, by folded name
}

func (s *server) readOnce(ctx context.Context, database string) (*schema.Reading, error) {
	tx, err := s.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", s.display, explain(err))
	}
	defer tx.Rollback()
	r := reader{tx: tx, system: s.system, byName: map[string]*schema.Object{}, reading: &schema.Reading{
		Engine: "sqlite", Version: s.info.Version, Database: database, Taken: time.Now().UTC(),
	}}
	if err := r.read(ctx); err != nil {
		return nil, fmt.Errorf("reading %s: %w", s.display, explain(err))
	}
	if st, err := os.Stat(s.path); err == nil {
		r.reading.Measures = append(r.reading.Measures, schema.Measure{Rows: -1, Bytes: st.Size()})
	}
	return r.reading, nil
}

func (r *reader) read(ctx context.Context) error {
	shadows, err := r.shadows(ctx)
	if err != nil {
		return err
	}
	rows, err := r.tx.QueryContext(ctx, masterQuery)
	if err != nil {
		return err
	}
	var all []master
	for rows.Next() {
		var m master
		if err := rows.Scan(&m.kind, &m.name, &m.table, &m.text); err != nil {
			return err
		}
		if m.shadow = shadows[m.table]; !m.shadow || r.system { // the virtual table makes them itself
			all = append(all, m)
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	var details []*schema.Object // indexes, views and triggers: read once the tables are known
	for _, m := range all {
		if o := r.object(m); o != nil {
			r.reading.Objects = append(r.reading.Objects, o)
			if o.Kind.IsRelation() {
				r.byName[sqltext.FoldASCII(o.Name)] = o
			}
			details = append(details, o)
		}
	}
	if err := r.tableColumns(ctx); err != nil {
		return err
	}
	for _, o := range details {
		if o.Relation != nil && (o.Kind == schema.KindView || len(o.Relation.Columns) == 0) {
			r.relationColumns(ctx, o)
		}
	}
	r.resolveForeignKeys()
	return r.estimates(ctx)
}

// shadows returns the names of the shadow tables.
func (r *reader) shadows(ctx context.Context) (map[string]bool, error) {
	rows, err := r.tx.QueryContext(ctx, shadowQuery)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	names := map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		names[name] = true
	}
	return names, rows.Err()
}

// object makes an object of a row, nil for what is SQLite's own or follows from another object.
func (r *reader) object(m master) *schema.Object {
	own := strings.HasPrefix(m.name, "sqlite_")
	if own && !r.system || m.text == "" {
		return nil // the engine's own tables, the indexes of keys
	}
	o := &schema.Object{Name: m.name, Source: m.text}
	switch {
	case own:
		o.Settings = append(o.Settings, schema.Property{Name: schema.System, Value: "of the engine"})
	case m.shadow:
		o.Settings = append(o.Settings, schema.Property{Name: schema.System, Value: "shadow of a virtual table"})
	}
	var err error
	switch m.kind {
	case "table":
		o.Kind = schema.KindTable
		err = parseTable(m.text, o)
	case "view":
		o.Kind = schema.KindView
		o.Relation = &schema.Relation{}
		err = parseView(m.text, o)
	case "index":
		o.Kind = schema.KindIndex
		o.Index = &schema.Index{Table: m.table}
		err = parseIndex(m.text, o.Index)
	case "trigger":
		o.Kind = schema.KindTrigger
		o.Trigger = &schema.Trigger{Table: m.table}
		err = parseTrigger(m.text, o.Trigger)
	default:
		r.remark("unread", m.name, fmt.Sprintf("SQLite calls it a %s, which is not known here", m.kind))
		return nil
	}
	if err != nil {
		r.remark("failed", o.ID().Qualified(), fmt.Sprintf("its text was not understood (%v); the definition is kept as it stands", err))
	}
	return o
}

func (r *reader) remark(state, subject, reason string) {
	r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: state, Subject: subject, Reason: reason})
}

// tableColumns takes from the pragma what it says, and leaves what the text said beside.
func (r *reader) tableColumns(ctx context.Context) error {
	rows, err := r.tx.QueryContext(ctx, columnsQuery)
	if err != nil {
		return err
	}
	defer rows.Close()
	parsed := map[string]map[string]schema.Column{}
	for rows.Next() {
		var table string
		var c pragmaColumn
		if err := rows.Scan(&table, &c.name, &c.typ, &c.notNull, &c.def, &c.pk, &c.hidden); err != nil {
			return err
		}
		o := r.byName[sqltext.FoldASCII(table)]
		if o == nil || o.Relation == nil {
			continue
		}
		if parsed[table] == nil {
			parsed[table] = map[string]schema.Column{}
			for _, col := range o.Relation.Columns {
				parsed[table][sqltext.FoldASCII(col.Name)] = col
			}
			o.Relation.Columns = o.Relation.Columns[:0:0]
		}
		o.Relation.Columns = append(o.Relation.Columns, c.column(parsed[table][sqltext.FoldASCII(c.name)]))
	}
	return rows.Err()
}

type pragmaColumn struct {
	name, typ, def string
	notNull        bool
	pk, hidden     int
}

func (c pragmaColumn) column(col schema.Column) schema.Column {
	col.Name, col.NotNull, col.Default = c.name, c.notNull || c.pk > 0 && col.NotNull, c.def
	col.Type = c.typ
	if c.hidden != 2 && c.hidden != 3 {
		col.Generated = nil
	}
	return col
}

// relationColumns asks for the columns of a view or a virtual table. One that is broken costs a remark.
func (r *reader) relationColumns(ctx context.Context, o *schema.Object) {
	rows, err := r.tx.QueryContext(ctx, relationColumnsQuery, o.Name)
	if err == nil {
		defer rows.Close()
		for rows.Next() {
			var c pragmaColumn
			if err = rows.Scan(&c.name, &c.typ, &c.notNull, &c.def, &c.pk, &c.hidden); err != nil {
				break
			}
			if c.hidden == 1 { // of a virtual table
				continue
			}
			o.Relation.Columns = append(o.Relation.Columns, c.column(schema.Column{}))
		}
		if err == nil {
			err = rows.Err()
		}
	}
	if err != nil {
		o.Settings = append(o.Settings, schema.Property{Name: "invalid", Value: strings.TrimPrefix(err.Error(), "SQL logic error: ")})
		r.remark("failed", o.ID().Qualified(), fmt.Sprintf("its columns are not known: %v", err))
	}
}

// resolveForeignKeys gives the names that foreign keys refer to the case in which they were declared,
// and spells out the columns where the text leaves them to the primary key.
func (r *reader) resolveForeignKeys() {
	for _, o := range r.reading.Objects {
		if o.Relation == nil {
			continue
		}
		for i := range o.Relation.ForeignKeys {
			f := &o.Relation.ForeignKeys[i]
			to := r.byName[sqltext.FoldASCII(f.RefTable)]
			if to == nil {
				r.remark("note", o.ID().Qualified(), fmt.Sprintf("its foreign key refers to %s, which does not exist", names.Quote(f.RefTable)))
				continue
			}
			f.RefTable = to.Name
			if key := to.Relation.PrimaryKey(); len(f.RefColumns) == 0 && key != nil && len(key.Columns) == len(f.Columns) {
				f.RefColumns = key.ColumnNames()
			}
		}
	}
}

// estimates reads row counts from the planner's statistics, where ANALYZE left some.
func (r *reader) estimates(ctx context.Context) error {
	var there int
	if err := r.tx.QueryRowContext(ctx, `SELECT count(*) FROM sqlite_schema WHERE name = 'sqlite_stat1'`).Scan(&there); err != nil || there == 0 {
		return err
	}
	rows, err := r.tx.QueryContext(ctx, estimatesQuery)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var table string
		var n int64
		if err := rows.Scan(&table, &n); err != nil {
			return err
		}
		if o := r.byName[sqltext.FoldASCII(table)]; o != nil {
			r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: n, Bytes: -1})
		}
	}
	return rows.Err()
}

// Queries returns what a survey sends; the file is opened with mode=ro.
func (Engine) Queries() []string {
	return []string{"PRAGMA busy_timeout(2000)", "PRAGMA query_only(1)", "PRAGMA trusted_schema(0)", shadowQuery, masterQuery, columnsQuery,
		"-- for each view and virtual table:\n" + relationColumnsQuery, "-- where ANALYZE was run:\n" + estimatesQuery}
}
