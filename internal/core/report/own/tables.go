package own

// The tables of the catalogue that reports may ask. Their columns are stable: more may be added, none is renamed.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Table is a table that reports may ask.
type Table struct {
	Name, About string
	Columns     []string
}

// Tables are all of them.
var Tables = []Table{
	{"objects", "the latest objects", []string{"address", "server", "database", "environment", "engine", "kind", "schema", "name", "signature", "on_table", "owner", "comment", "state", "columns", "rows", "bytes"}},
	{"columns", "the columns of tables, views and composite types", []string{"address", "object", "server", "database", "schema", "table_name", "kind", "name", "position", "type", "nullable", "default_value", "generated", "identity", "collation", "comment"}},
	{"keys", "primary, unique and foreign keys", []string{"object", "server", "database", "schema", "table_name", "name", "kind", "columns", "ref_schema", "ref_table", "ref_columns", "on_delete", "on_update"}},
	{"indexes", "indexes", []string{"address", "server", "database", "schema", "table_name", "name", "columns", "is_unique", "predicate"}},
	{"grants", "rights, one a row", []string{"address", "server", "database", "schema", "object", "kind", "part", "grantee", "right_name", "grantable"}},
	{"dependencies", "what depends on what", []string{"from_address", "from_kind", "from_part", "to_address", "to_kind", "to_part", "use", "evidence"}},
	{"snapshots", "all readings", []string{"id", "server", "database", "environment", "family", "label", "taken", "engine", "version", "objects"}},
	{"changes", "objects that came, went or changed from one reading to the next", []string{"server", "database", "address", "kind", "change", "taken"}},
}

// Choice is what of one database a report is about; Covers is nil for all of it.
type Choice struct {
	Contents *catalogue.Contents
	Covers   func(schema.ID) bool
}

// filler puts rows into the tables that a report uses.
type filler struct {
	c       *catalogue.Catalogue
	report  *Report
	choices []Choice
	insert  func(table *Table, rows [][]any) error
}

func (f *filler) fill(ctx context.Context) error {
	for i := range Tables {
		t := &Tables[i]
		if !f.report.uses(t.Name) {
			continue
		}
		add := map[string]func(context.Context, *Choice) ([][]any, error){"objects": f.objects, "columns": f.columns, "keys": f.keys, "indexes": f.indexes, "grants": f.grants, "dependencies": f.dependencies, "snapshots": f.snapshots, "changes": f.changes}[t.Name]
		for k := range f.choices {
			rows, err := add(ctx, &f.choices[k])
			if err != nil {
				return err
			}
			if err := f.insert(t, rows); err != nil {
				return fmt.Errorf("filling the table %s: %w", t.Name, err)
			}
		}
	}
	return nil
}

// each calls do for the objects of a choice, but for those that a quick look at the entry leaves out.
func (f *filler) each(ctx context.Context, of *Choice, wanted func(*catalogue.Entry) bool, do func(i int, o *schema.Object, address string)) error {
	const batch = 512
	var places []int
	for i := range of.Contents.All() {
		e := of.Contents.At(i)
		if (of.Covers == nil || of.Covers(e.ID)) && (wanted == nil || wanted(e)) {
			places = append(places, i)
		}
	}
	for part := range slices.Chunk(places, batch) {
		entries := make([]*catalogue.Entry, len(part))
		for k, i := range part {
			entries[k] = of.Contents.At(i)
		}
		objects, err := f.c.Objects(ctx, entries)
		if err != nil {
			return err
		}
		for k, o := range objects {
			do(part[k], o, of.address(o.ID(), ""))
		}
	}
	return nil
}

func (c *Choice) address(id schema.ID, part string) string {
	kind := schema.Kind("")
	if part != "" {
		kind = schema.KindColumn
	}
	return c.Contents.Snapshot.Locate(id, part, kind).String()
}

// known returns nil for what is not known.
func known(n int64) any {
	if n < 0 {
		return nil
	}
	return n
}

func (f *filler) objects(ctx context.Context, of *Choice) ([][]any, error) {
	sizes, _, err := f.c.Sizes(ctx, of.Contents)
	if err != nil {
		return nil, err
	}
	s := of.Contents.Snapshot
	var rows [][]any
	err = f.each(ctx, of, nil, func(i int, o *schema.Object, address string) {
		e := of.Contents.At(i)
		rows = append(rows, []any{address, s.Server, s.Database, s.Environment, s.Engine, string(o.Kind), o.Schema, o.Name, o.Signature, e.On, o.Owner, o.Comment, e.State, len(o.Columns()), known(sizes[i].Rows), known(sizes[i].Bytes)})
	})
	return rows, err
}

func hasColumns(e *catalogue.Entry) bool { return e.ID.Kind.IsRelation() || e.ID.Kind.IsType() }

func (f *filler) columns(ctx context.Context, of *Choice) ([][]any, error) {
	s := of.Contents.Snapshot
	var rows [][]any
	err := f.each(ctx, of, hasColumns, func(_ int, o *schema.Object, address string) {
		columns := o.Columns()
		for i := range columns {
			c := &columns[i]
			generated, identity := "", ""
			if c.Generated != nil {
				generated = c.Generated.Expression
			}
			if c.Identity != nil {
				identity = c.Identity.Describe()
			}
			rows = append(rows, []any{of.address(o.ID(), c.Name), address, s.Server, s.Database, o.Schema, o.Name, string(o.Kind), c.Name, i + 1, c.Type, !c.NotNull, c.Default, generated, identity, c.Collation, c.Comment})
		}
	})
	return rows, err
}

func (f *filler) keys(ctx context.Context, of *Choice) ([][]any, error) {
	s := of.Contents.Snapshot
	var rows [][]any
	err := f.each(ctx, of, func(e *catalogue.Entry) bool { return e.ID.Kind.IsRelation() }, func(_ int, o *schema.Object, address string) {
		if o.Relation == nil {
			return
		}
		for _, k := range o.Relation.Keys {
			names := make([]string, len(k.Columns))
			for i, p := range k.Columns {
				names[i] = cmp.Or(p.Column, p.Expression)
			}
			rows = append(rows, []any{address, s.Server, s.Database, o.Schema, o.Name, k.Name, string(k.Kind()), strings.Join(names, ", "), nil, nil, nil, nil, nil})
		}
		for _, k := range o.Relation.ForeignKeys {
			rows = append(rows, []any{address, s.Server, s.Database, o.Schema, o.Name, k.Name, string(schema.KindForeignKey), strings.Join(k.Columns, ", "), k.RefSchema, k.RefTable, strings.Join(k.RefColumns, ", "), k.OnDelete, k.OnUpdate})
		}
	})
	return rows, err
}

func (f *filler) indexes(ctx context.Context, of *Choice) ([][]any, error) {
	s := of.Contents.Snapshot
	var rows [][]any
	err := f.each(ctx, of, func(e *catalogue.Entry) bool { return e.ID.Kind == schema.KindIndex }, func(_ int, o *schema.Object, address string) {
		if o.Index == nil {
			return
		}
		names := make([]string, len(o.Index.Columns))
		for i, p := range o.Index.Columns {
			names[i] = cmp.Or(p.Column, p.Expression)
		}
		rows = append(rows, []any{address, s.Server, s.Database, o.Schema, o.Index.Table, o.Name, strings.Join(names, ", "), o.Index.Unique, o.Index.Where})
	})
	return rows, err
}

func (f *filler) grants(ctx context.Context, of *Choice) ([][]any, error) {
	s := of.Contents.Snapshot
	var rows [][]any
	err := f.each(ctx, of, nil, func(_ int, o *schema.Object, address string) {
		for _, g := range o.Grants {
			grantee := cmp.Or(g.Grantee, "everybody")
			for _, list := range []struct {
				rights    []string
				grantable bool
			}{{g.Granted, false}, {g.Grantable, true}} {
				for _, right := range list.rights {
					rows = append(rows, []any{address, s.Server, s.Database, o.Schema, o.Name, string(o.Kind), g.Column, grantee, right, list.grantable})
				}
			}
		}
	})
	return rows, err
}

func (f *filler) dependencies(ctx context.Context, of *Choice) ([][]any, error) {
	g, err := f.c.Needs(ctx, of.Contents)
	if err != nil {
		return nil, err
	}
	rows := make([][]any, 0, len(g.Edges))
	addresses := make([]string, of.Contents.Len())
	at := func(i int) string {
		if addresses[i] == "" {
			addresses[i] = of.address(of.Contents.At(i).ID, "")
		}
		return addresses[i]
	}
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to := &g.Ends[e.From], &g.Ends[e.To]
		a, z := of.Contents.At(from.Entry).ID, of.Contents.At(to.Entry).ID
		if of.Covers != nil && !of.Covers(a) && !of.Covers(z) {
			continue
		}
		rows = append(rows, []any{at(from.Entry), string(a.Kind), from.Part, at(to.Entry), string(z.Kind), to.Part, e.Use.String(), string(g.Evidence(e))})
	}
	return rows, nil
}

func stamp(t time.Time) string { return t.UTC().Format(time.RFC3339) }

func (f *filler) snapshots(ctx context.Context, of *Choice) ([][]any, error) {
	all, err := f.readings(ctx, of)
	if err != nil {
		return nil, err
	}
	var rows [][]any
	for _, s := range all {
		n := 0
		for _, k := range s.Counts {
			n += k
		}
		rows = append(rows, []any{s.ID, s.Server, s.Database, s.Environment, s.Family, s.Label, stamp(s.Taken), s.Engine, s.Version, n})
	}
	return rows, nil
}

// readings returns the readings of a database, the oldest first.
func (f *filler) readings(ctx context.Context, of *Choice) ([]*catalogue.Snapshot, error) {
	s := of.Contents.Snapshot
	if s.Path != "" {
		return []*catalogue.Snapshot{s}, nil
	}
	all, err := f.c.Of(ctx, s.Server, s.Database)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(all, func(x, y *catalogue.Snapshot) int { return x.Taken.Compare(y.Taken) })
	return all, nil
}

func (f *filler) changes(ctx context.Context, of *Choice) ([][]any, error) {
	all, err := f.readings(ctx, of)
	if err != nil {
		return nil, err
	}
	var rows [][]any
	err = Changes(ctx, f.c, all, func(s *catalogue.Snapshot, id schema.ID, change string) {
		if of.Covers == nil || of.Covers(id) {
			rows = append(rows, []any{s.Server, s.Database, of.address(id, ""), string(id.Kind), change, stamp(s.Taken)})
		}
	})
	return rows, err
}

// Changes calls each for every object that came, went or changed from one of the readings to the next; they come in the order of
// their times. Readings of different versions of the model are not compared.
func Changes(ctx context.Context, c *catalogue.Catalogue, readings []*catalogue.Snapshot, each func(s *catalogue.Snapshot, id schema.ID, change string)) error {
	var before *catalogue.Contents
	for _, s := range readings {
		if before != nil && s.Root == before.Snapshot.Root {
			continue
		}
		now, err := c.Contents(ctx, s)
		if err != nil {
			return err
		}
		if before != nil && before.Snapshot.Model == s.Model {
			catalogue.DiffEntries(before.All(), now.All(), func(was, is *catalogue.Entry) {
				switch {
				case is == nil:
					each(s, was.ID, "removed")
				case was == nil:
					each(s, is.ID, "added")
				default:
					each(s, is.ID, "changed")
				}
			})
		}
		before = now
	}
	return nil
}
