package report

// What the structure of tables tells: keys that are missing, indexes that are or that are too many, columns that should be alike.

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Finding is a table, or something in it, that a report names.
type Finding struct {
	Entry   *catalogue.Entry
	Part    string   // the column or constraint, "" for the object
	Columns []string // that it is about
	By      string   // what does the same: another index or key
	Type    string   // of the column
	Usual   string   // the type that most columns of its name have
	Count   int      // how many columns have that
}

// table is a table with what stands on it.
type table struct {
	entry   *catalogue.Entry
	object  *schema.Object
	indexes []*schema.Object
	entries []*catalogue.Entry // of the indexes
}

// tables loads the tables of a snapshot with their indexes, in the order of their identifiers.
func tables(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]*table, error) {
	var entries []*catalogue.Entry
	for i := range t.All() {
		e := t.At(i)
		if k := e.ID.Kind; (k == schema.KindTable || k == schema.KindPartitionedTable || k == schema.KindPartition || k == schema.KindIndex) && e.State != schema.System {
			entries = append(entries, e)
		}
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return nil, err
	}
	var all []*table
	at := map[[2]string]*table{}
	for i, o := range objects {
		if e := entries[i]; e.ID.Kind != schema.KindIndex && o.Relation != nil {
			x := &table{entry: e, object: o}
			all = append(all, x)
			at[[2]string{e.ID.Schema, e.ID.Name}] = x
		}
	}
	for i, o := range objects {
		if x := at[[2]string{entries[i].ID.Schema, entries[i].On}]; o.Index != nil && x != nil {
			x.indexes, x.entries = append(x.indexes, o), append(x.entries, entries[i])
		}
	}
	return all, nil
}

// ordered is what keeps rows of a table in an order: a key, or an index of all rows.
type ordered struct {
	name    string
	columns []string // "" for an expression
	unique  bool
	key     bool
	at      int // of an index: its place among the table's
}

// orders returns the keys of a table and its indexes of all rows by an ordinary method.
func (x *table) orders() (all []ordered) {
	for _, k := range x.object.Relation.Keys {
		all = append(all, ordered{name: k.PartKey(), columns: k.ColumnNames(), unique: true, key: true})
	}
	for i, o := range x.indexes {
		if m := strings.ToLower(o.Index.Method); o.Index.Where != "" || m != "" && m != "btree" && m != "clustered" || o.Setting("invalid") != "" {
			continue
		}
		var columns []string
		for _, p := range o.Index.Columns {
			columns = append(columns, p.Column)
		}
		all = append(all, ordered{name: o.Name, columns: columns, unique: o.Index.Unique, at: i})
	}
	return all
}

// FindKeyless returns the tables without a primary key. Partitions have that of the whole.
func FindKeyless(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Finding, error) {
	all, err := tables(ctx, c, t)
	var found []Finding
	for _, x := range all {
		if x.entry.ID.Kind != schema.KindPartition && x.object.Relation.PrimaryKey() == nil {
			found = append(found, Finding{Entry: x.entry})
		}
	}
	return found, err
}

// FindUnindexed returns the foreign keys whose columns no key and no index begins with: deleting a row that they refer to reads the
// whole table.
func FindUnindexed(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Finding, error) {
	all, err := tables(ctx, c, t)
	var found []Finding
	for _, x := range all {
		orders := x.orders()
		for _, f := range x.object.Relation.ForeignKeys {
			begins := func(o ordered) bool {
				return len(o.columns) >= len(f.Columns) && sameSet(o.columns[:len(f.Columns)], f.Columns)
			}
			if !slices.ContainsFunc(orders, begins) {
				found = append(found, Finding{Entry: x.entry, Part: f.PartKey(), Columns: f.Columns})
			}
		}
	}
	return found, err
}

func sameSet(a, b []string) bool {
	x, y := slices.Sorted(slices.Values(a)), slices.Sorted(slices.Values(b))
	return slices.Equal(x, y)
}

// FindRedundant returns the indexes whose columns another index or key of the table begins with: it answers the same questions. Of two
// that are the same the later one is told.
func FindRedundant(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Finding, error) {
	all, err := tables(ctx, c, t)
	var found []Finding
	for _, x := range all {
		orders := x.orders()
		for i, o := range orders {
			index := x.indexOf(o)
			if index == nil || slices.Contains(o.columns, "") {
				continue
			}
			by := slices.IndexFunc(orders, func(other ordered) bool {
				same := slices.Equal(other.columns, o.columns)
				longer := len(other.columns) > len(o.columns) && slices.Equal(other.columns[:len(o.columns)], o.columns)
				return other.name != o.name && sameDirections(index, x.indexOf(other)) && (same && (other.unique || !o.unique) && (other.key || other.unique && !o.unique || slices.IndexFunc(orders, func(z ordered) bool { return z.name == other.name }) < i) || longer && !o.unique)
			})
			if by >= 0 {
				found = append(found, Finding{Entry: x.entries[o.at], Columns: o.columns, By: orders[by].name})
			}
		}
	}
	return found, err
}

// indexOf returns the index that keeps an order, nil for a key.
func (x *table) indexOf(o ordered) *schema.Object {
	if o.key {
		return nil
	}
	return x.indexes[o.at]
}

// sameDirections reports whether an index sorts by its columns as another one, or a key, does, and holds no more.
func sameDirections(a, b *schema.Object) bool {
	if len(a.Index.Include) > 0 {
		return false
	}
	for i, p := range a.Index.Columns {
		q := schema.KeyPart{}
		if b != nil && i < len(b.Index.Columns) {
			q = b.Index.Columns[i]
		}
		if p.Descending != q.Descending || p.Collation != q.Collation || p.OpClass != q.OpClass || p.Length != q.Length || p.Nulls != q.Nulls {
			return false
		}
	}
	return true
}

// FindNullable returns the unique keys and indexes with a column that takes nulls: rows that have one are not told apart.
func FindNullable(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Finding, error) {
	all, err := tables(ctx, c, t)
	var found []Finding
	for _, x := range all {
		for _, o := range x.orders() {
			var nullable []string
			for _, name := range o.columns {
				if column := x.object.Relation.Column(name); column != nil && !column.NotNull {
					nullable = append(nullable, name)
				}
			}
			primary := x.object.Relation.PrimaryKey()
			if o.unique && len(nullable) > 0 && !(o.key && primary != nil && primary.PartKey() == o.name) {
				found = append(found, Finding{Entry: x.entry, Part: o.name, Columns: nullable})
			}
		}
	}
	return found, err
}

// FindTypes returns the columns whose type is another one than most columns of their name have. Names that a few columns have say
// nothing.
func FindTypes(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Finding, error) {
	const least = 3 // columns of one name
	all, err := tables(ctx, c, t)
	if err != nil {
		return nil, err
	}
	counts := map[string]map[string]int{}
	each := func(do func(x *table, column *schema.Column, typ string)) {
		for _, x := range all {
			if x.entry.ID.Kind == schema.KindPartition {
				continue
			}
			for i := range x.object.Relation.Columns {
				column := &x.object.Relation.Columns[i]
				do(x, column, strings.ToLower(column.Type))
			}
		}
	}
	each(func(_ *table, column *schema.Column, typ string) {
		if counts[column.Name] == nil {
			counts[column.Name] = map[string]int{}
		}
		counts[column.Name][typ]++
	})
	var found []Finding
	each(func(x *table, column *schema.Column, typ string) {
		sum, usual := 0, ""
		for other, n := range counts[column.Name] {
			sum += n
			if n > counts[column.Name][usual] || n == counts[column.Name][usual] && (usual == "" || other < usual) {
				usual = other
			}
		}
		if len(counts[column.Name]) > 1 && sum >= least && typ != usual && counts[column.Name][usual] > counts[column.Name][typ] {
			found = append(found, Finding{Entry: x.entry, Part: column.Name, Type: column.Type, Usual: usual, Count: counts[column.Name][usual]})
		}
	})
	slices.SortStableFunc(found, func(a, b Finding) int { return cmp.Or(cmp.Compare(a.Part, b.Part), a.Entry.ID.Compare(b.Entry.ID)) })
	return found, nil
}

// Sized is a relation with its size; -1 where it is not known.
type Sized struct {
	Entry       *catalogue.Entry
	Rows, Bytes int64
}

// FindLargest returns the relations of a snapshot whose size is known, the largest first.
func FindLargest(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents) ([]Sized, error) {
	sizes, _, err := c.Sizes(ctx, t)
	if err != nil {
		return nil, err
	}
	var all []Sized
	for i := range t.All() {
		if s := sizes[i]; t.At(i).ID.Kind.IsRelation() && (s.Rows > 0 || s.Bytes > 0) {
			all = append(all, Sized{t.At(i), s.Rows, s.Bytes})
		}
	}
	slices.SortFunc(all, func(a, b Sized) int {
		return cmp.Or(cmp.Compare(b.Bytes, a.Bytes), cmp.Compare(b.Rows, a.Rows), a.Entry.ID.Compare(b.Entry.ID))
	})
	return all, nil
}
