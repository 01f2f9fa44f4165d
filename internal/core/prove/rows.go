package prove

// A few made-up rows, so that a script of changes meets some: what the server does not take is left out.

import (
	"context"
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

const (
	rowsEach = 3 // that are tried for each table
	rounds   = 3 // since a row may need one of another table
)

// fill puts rows into tables, and returns how many each has.
func fill(ctx context.Context, bench engine.Workbench, e engine.Engine, tables []*schema.Object) (map[schema.ID]int64, error) {
	done := map[schema.ID]int{}
	for range rounds {
		for _, o := range tables {
			for n := done[o.ID()] + 1; n <= rowsEach; n++ {
				took := false
				for _, all := range []bool{true, false} {
					if text := insert(e, o, n, all); text != "" && bench.Run(ctx, text) == nil {
						took = true
						break
					}
				}
				if ctx.Err() != nil {
					return nil, ctx.Err()
				}
				if !took {
					break
				}
				done[o.ID()] = n
			}
		}
	}
	return counts(ctx, bench, e, tables)
}

// counts returns how many rows tables have; those that cannot be read are left out.
func counts(ctx context.Context, bench engine.Workbench, e engine.Engine, tables []*schema.Object) (map[schema.ID]int64, error) {
	all := map[schema.ID]int64{}
	for _, o := range tables {
		if n, err := bench.Count(ctx, "SELECT count(*) FROM "+named(e, o.Schema, o.Name)); err == nil {
			all[o.ID()] = n
		} else if ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	return all, nil
}

func named(e engine.Engine, schemaName, name string) string {
	if schemaName == "" {
		return e.Quote(name)
	}
	return e.Quote(schemaName) + "." + e.Quote(name)
}

// insert returns a statement for the nth row: of all columns that take a value, or of those alone that must have one.
func insert(e engine.Engine, o *schema.Object, n int, all bool) string {
	refers := map[string]string{}
	for _, f := range o.Relation.ForeignKeys {
		for i, c := range f.Columns {
			if i < len(f.RefColumns) {
				refers[c] = fmt.Sprintf("(SELECT max(%s) FROM %s)", e.Quote(f.RefColumns[i]), named(e, f.RefSchema, f.RefTable))
			}
		}
	}
	key := map[string]bool{}
	if k := o.Relation.PrimaryKey(); k != nil {
		for _, c := range k.ColumnNames() {
			key[c] = true
		}
	}
	var columns, values []string
	for i := range o.Relation.Columns {
		c := &o.Relation.Columns[i]
		if c.Generated != nil || c.Identity != nil || c.Default != "" && !key[c.Name] || !all && !c.NotNull && !key[c.Name] {
			continue
		}
		v := refers[c.Name]
		if v == "" {
			v = value(c.Type, n)
		}
		columns, values = append(columns, e.Quote(c.Name)), append(values, v)
	}
	if len(columns) == 0 {
		return ""
	}
	return "INSERT INTO " + named(e, o.Schema, o.Name) + " (" + strings.Join(columns, ", ") + ") VALUES (" + strings.Join(values, ", ") + ")"
}

// value returns a value of a type, "NULL" for types of which none is known.
func value(typ string, n int) string {
	base := strings.ToLower(typ)
	has := func(words ...string) bool {
		for _, w := range words {
			if strings.Contains(base, w) {
				return true
			}
		}
		return false
	}
	switch {
	case has("[]"):
		return "'{}'"
	case strings.HasPrefix(base, "enum("), strings.HasPrefix(base, "set("):
		first, _, _ := strings.Cut(typ[strings.IndexByte(typ, '(')+1:], "'"+",")
		return strings.TrimSuffix(strings.TrimSuffix(first, ")"), "'") + "'"
	case has("bool"):
		return "true"
	case has("interval"):
		return "'1 day'"
	case has("int", "serial", "numeric", "decimal", "real", "double", "float", "number", "money", "bit", "year"):
		return fmt.Sprint(n)
	case has("timestamp", "datetime"):
		return fmt.Sprintf("'2026-01-0%d 08:00:00'", n)
	case has("date"):
		return fmt.Sprintf("'2026-01-0%d'", n)
	case has("time"):
		return fmt.Sprintf("'08:0%d:00'", n)
	case has("uuid"):
		return fmt.Sprintf("'00000000-0000-4000-8000-00000000000%d'", n)
	case has("json"):
		return "'{}'"
	case has("char", "text", "clob", "blob", "binary", "bytea"), base == "":
		return fmt.Sprintf("'%c'", 'a'+n-1)
	}
	return "NULL"
}

// Lost is a table that had rows and has fewer now.
type Lost struct {
	ID       schema.ID
	Had, Has int64
}
