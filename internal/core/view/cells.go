package view

// What stands in the columns of a row.

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// numeric are the columns that hold numbers.
var numeric = [...]string{"columns", "foreign", "indexes", "rows", "size"}

// Numeric reports whether a column holds numbers.
func Numeric(column string) bool { return slices.Contains(numeric[:], column) }

// Number returns the number that stands in a column; ok is false where none does.
func (row *Row) Number(column string) (n int64, ok bool) {
	e := row.Match.Entry
	if row.Match.PartKind != "" || row.Grant != nil {
		return 0, false
	}
	switch column {
	case "columns":
		return int64(e.Columns), e.ID.Kind.IsRelation() || e.ID.Kind == schema.KindIndex
	case "foreign":
		return int64(e.ForeignKeys), e.ID.Kind.IsRelation()
	case "indexes":
		return int64(row.Indexes), e.ID.Kind.IsRelation()
	case "rows":
		return row.Size.Rows, row.Size.Rows >= 0
	case "size":
		return row.Size.Bytes, row.Size.Bytes >= 0
	}
	return 0, false
}

// Text returns what stands in a column, numbers in digits; plain is for machines, which get the parts of an address apart.
func (l *Rows) Text(row *Row, column string, plain bool) string {
	if n, ok := row.Number(column); ok && !(column == "columns" && row.Index != nil) {
		return strconv.FormatInt(n, 10)
	}
	e, s := row.Match.Entry, row.Match.Contents.Snapshot
	switch column {
	case "server":
		return s.Server
	case "database":
		if plain {
			return s.Database
		}
		return s.Location().String()
	case "schema":
		return e.ID.Schema
	case "signature":
		return e.ID.Signature
	case "taken":
		return s.Taken.Format(time.RFC3339)
	case "kind":
		return string(cmp.Or(row.Match.PartKind, e.ID.Kind))
	case "object":
		if plain {
			return cmp.Or(e.ID.Table, e.ID.Name)
		}
		return e.ID.String()
	case "name":
		switch {
		case row.Match.PartKind != "":
			return row.Match.Part
		case plain:
			return e.ID.Name
		}
		return e.ID.String()
	case "part":
		if row.Grant != nil {
			return row.Grant.Column
		}
		return row.Match.Part
	case "state":
		return e.State
	case "on":
		return e.On
	case "owner":
		return e.Owner
	case "key":
		return row.key()
	case "unique":
		if e.ID.Kind == schema.KindIndex {
			return yesNo(e.Unique)
		}
	}
	return l.detail(row, column)
}

func yesNo(b bool) string { return map[bool]string{true: "yes", false: "no"}[b] }

// detail returns what stands in a column that says more of a part, an index or a right.
func (l *Rows) detail(row *Row, column string) string {
	if g := row.Grant; g != nil {
		switch column {
		case "grantee":
			return Grantee(g)
		case "rights":
			return strings.Join(g.Granted, ", ")
		case "grantable":
			return strings.Join(g.Grantable, ", ")
		case "revoked":
			return strings.Join(g.Revoked, ", ")
		}
	}
	if x := row.Index; x != nil {
		switch column {
		case "columns":
			text := schema.DescribeKeyParts(x.Columns)
			if len(x.Include) > 0 {
				text += " including " + strings.Join(x.Include, ", ")
			}
			return text
		case "method":
			return cmp.Or(x.Method, l.IndexMethod(row.Match.Contents.Snapshot.Engine))
		case "predicate":
			return x.Where
		}
	}
	switch column {
	case "comment":
		switch {
		case row.Column != nil:
			return row.Column.Comment
		case row.Match.PartKind == "":
			return row.Match.Entry.Comment
		}
	case "type":
		if row.Line != nil {
			return row.Line.Type
		}
		if row.Column != nil {
			return row.Column.Type
		}
	case "nullable":
		if row.Column != nil {
			return yesNo(!row.Column.NotNull)
		}
	case "default":
		if row.Column != nil {
			return row.Column.Default
		}
	case "text":
		if row.Part != nil && row.Match.PartKind != schema.KindColumn {
			return row.Part.Text
		}
	}
	return ""
}

// key says which keys an object has, or a column belongs to.
func (row *Row) key() string {
	e := row.Match.Entry
	if row.Match.PartKind == "" {
		switch {
		case e.ID.Kind == schema.KindIndex && e.Unique:
			return "unique"
		case e.PrimaryKey:
			return "primary"
		case e.Uniques > 0:
			return "unique"
		case e.ID.Kind == schema.KindTable, e.ID.Kind == schema.KindPartitionedTable, e.ID.Kind == schema.KindPartition:
			return "none"
		}
		return ""
	}
	if row.Line == nil {
		return ""
	}
	var words []string
	for _, w := range []struct {
		flag index.ColumnFlags
		word string
	}{{index.InPrimaryKey, "primary"}, {index.InForeignKey, "foreign"}} {
		if row.Line.Flags&w.flag != 0 {
			words = append(words, w.word)
		}
	}
	if row.Line.Flags&(index.IsUnique|index.InPrimaryKey) == index.IsUnique {
		words = append(words, "unique")
	}
	return strings.Join(words, ", ")
}

func (l *Rows) compareRows(x, y *Row, column string) int {
	if Numeric(column) && x.Grant == nil && x.Match.PartKind == "" {
		a, ok := x.Number(column)
		b, also := y.Number(column)
		if !ok {
			a = -1
		}
		if !also {
			b = -1
		}
		return cmp.Compare(b, a)
	}
	if column == "age" { // the oldest first
		return x.Match.Contents.Snapshot.Taken.Compare(y.Match.Contents.Snapshot.Taken)
	}
	return strings.Compare(names.Fold(l.Text(x, column, false)), names.Fold(l.Text(y, column, false)))
}
