package cli

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

func (a *app) listCommand() *cli.Command {
	return &cli.Command{
		Name:      "list",
		Usage:     "objects, or columns and other parts, as rows to compare",
		ArgsUsage: "[ADDRESS…]",
		Description: "Columns of objects: " + strings.Join(objectColumns, ", ") + "\nColumns of parts: " + strings.Join(partColumns, ", ") +
			"\n\nExamples:\n  echo-atlas list quay-live/berths\n  echo-atlas list quay-live --kind table --sort columns\n" +
			"  echo-atlas list 'quay-live/berths/m*' --kind column\n  echo-atlas list --kind table --columns name,rows,size --as csv",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			kindFlag(), limitFlag(1000),
			&cli.StringFlag{Name: "sort", Usage: "sort by this `COLUMN`, numbers the largest first"},
			&cli.StringSliceFlag{Name: "columns", Usage: "show these `COLUMNS`, with commas"},
		},
		Action: a.list,
	}
}

var (
	objectColumns = []string{"kind", "database", "name", "on", "columns", "key", "foreign", "indexes", "rows", "size", "state", "age", "owner", "comment"}
	objectUsual   = []string{"kind", "database", "name", "on", "columns", "key", "indexes", "rows", "size", "state", "comment"}
	partColumns   = []string{"kind", "database", "object", "name", "type", "nullable", "key", "default", "comment", "text", "age"}
	partUsual     = []string{"kind", "database", "object", "name", "type", "nullable", "key", "default", "text", "comment"}
)

// listRow is a row of list: an object or a part.
type listRow struct {
	match   catalogue.Match
	size    catalogue.Size
	indexes int
	line    *catalogue.NameLine // of a column
	part    *schema.Part        // of another part, or a column whose object was loaded
	column  *schema.Column
}

func (a *app) list(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown"); err != nil {
		return err
	}
	wanted, err := kinds(cmd)
	if err != nil {
		return err
	}
	parts := len(wanted) > 0 && wanted[0].IsPart()
	for _, k := range wanted {
		if k.IsPart() != parts {
			return usagef("--kind: objects and parts cannot stand in one list; ask for %s alone", k)
		}
	}
	columns, err := chooseColumns(cmd, parts)
	if err != nil {
		return err
	}
	sorting := cmd.String("sort")
	if sorting != "" && !slices.Contains(map[bool][]string{true: partColumns, false: objectColumns}[parts], sorting) {
		return usagef("--sort: there is no column %q; there are %s", sorting, strings.Join(map[bool][]string{true: partColumns, false: objectColumns}[parts], ", "))
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	limit := int(cmd.Int("limit"))
	if a.as != "text" && !cmd.IsSet("limit") || limit <= 0 {
		limit = math.MaxInt
	}
	l := lister{a: a, c: c, kinds: wanted, most: math.MaxInt}
	if sorting == "" {
		l.most = limit
	}
	if parts {
		err = l.parts(ctx, matches)
	} else {
		err = l.objects(ctx, matches)
	}
	if err != nil {
		return err
	}
	if sorting != "" {
		order := make([]int, len(l.rows)) // the rows themselves are too large to be moved about
		for i := range l.rows {
			order[i] = i
		}
		slices.SortFunc(order, func(i, j int) int { return cmp.Or(compareRows(&l.rows[i], &l.rows[j], sorting), i-j) })
		sorted := make([]listRow, 0, min(limit, len(order)))
		for _, i := range order[:min(limit, len(order))] {
			sorted = append(sorted, l.rows[i])
		}
		l.rows = sorted
	}
	total := l.total
	l.rows = l.rows[:min(limit, len(l.rows))]
	if parts {
		if err := l.complete(ctx); err != nil {
			return err
		}
	}
	var snapshots []*catalogue.Snapshot
	for i := range matches {
		snapshots = append(snapshots, matches[i].Contents.Snapshot)
	}
	return l.write(columns, total, parts, catalogue.Sources(snapshots...), cmd.IsSet("columns"))
}

// selection resolves the addresses of a command; none means everything.
func (a *app) selection(ctx context.Context, r *catalogue.Resolver, texts []string) ([]catalogue.Match, error) {
	if len(texts) > 0 {
		return resolveAll(ctx, r, texts)
	}
	if len(r.Latest()) == 0 {
		return nil, usagef("the catalogue is empty; run: echo-atlas survey")
	}
	var all []catalogue.Match
	for _, s := range r.Latest() {
		t, err := r.Contents(ctx, s)
		if err != nil {
			return nil, err
		}
		all = append(all, catalogue.Match{Contents: t})
	}
	return all, nil
}

func chooseColumns(cmd *cli.Command, parts bool) ([]string, error) {
	all, usual := objectColumns, objectUsual
	if parts {
		all, usual = partColumns, partUsual
	}
	chosen := values(cmd, "columns")
	for _, name := range chosen {
		if !slices.Contains(all, name) {
			return nil, usagef("--columns: there is no column %q; there are %s", name, strings.Join(all, ", "))
		}
	}
	if len(chosen) == 0 {
		return usual, nil
	}
	return chosen, nil
}

type lister struct {
	a     *app
	c     *catalogue.Catalogue
	kinds []schema.Kind
	most  int // rows that are kept; all are counted
	rows  []listRow
	total int
}

// keep counts a row, and reports whether it is to be kept.
func (l *lister) keep() bool {
	l.total++
	return len(l.rows) < l.most
}

func (l *lister) objects(ctx context.Context, matches []catalogue.Match) error {
	known := map[int64][]catalogue.Size{}
	type object struct {
		snapshot int64
		id       schema.ID
	}
	seen, of := map[object]bool{}, map[int64]int{}
	for i := range matches {
		of[matches[i].Contents.Snapshot.ID]++
	}
	for i := range matches {
		m := &matches[i]
		t := m.Contents
		sizes, ok := known[t.Snapshot.ID]
		if !ok {
			var err error
			if sizes, _, err = l.c.Sizes(ctx, t); err != nil {
				return err
			}
			known[t.Snapshot.ID] = sizes
		}
		first := len(l.rows)
		next := 0
		for _, e := range m.Entries() {
			if len(l.kinds) > 0 && !slices.Contains(l.kinds, e.ID.Kind) {
				continue
			}
			if of[t.Snapshot.ID] > 1 { // they may overlap
				key := object{t.Snapshot.ID, e.ID}
				if seen[key] {
					continue
				}
				seen[key] = true
			}
			if !l.keep() {
				continue
			}
			row := listRow{match: catalogue.Match{Contents: t, Entry: e}}
			for &t.Entries[next] != e && t.Entries[next].ID != e.ID { // both are in order
				next++
			}
			row.size = sizes[next]
			l.rows = append(l.rows, row)
		}
		var kept []*catalogue.Entry
		for i := range l.rows[first:] {
			kept = append(kept, l.rows[first+i].match.Entry)
		}
		for i, n := range t.CountIndexes(kept) {
			l.rows[first+i].indexes = n
		}
	}
	return nil
}

// parts gathers parts from the name index; only the rows that are shown are completed from the objects.
func (l *lister) parts(ctx context.Context, matches []catalogue.Match) error {
	for i := range matches {
		m := &matches[i]
		if m.Part != "" {
			if slices.Contains(l.kinds, m.PartKind) && l.keep() {
				l.rows = append(l.rows, listRow{match: *m})
			}
			continue
		}
		wanted := func(*catalogue.Entry) bool { return true }
		if m.Entry != nil {
			wanted = func(e *catalogue.Entry) bool { return e.ID == m.Entry.ID }
		} else if m.Schema != "" {
			wanted = func(e *catalogue.Entry) bool { return e.ID.Schema == m.Schema }
		}
		err := l.c.Names(ctx, m.Contents, func(k *catalogue.Chunk) error {
			entries, err := k.Entries()
			if err != nil || m.Entry != nil && entries[0].ID.Kind != m.Entry.ID.Kind {
				return err
			}
			if len(l.rows) >= l.most && len(l.kinds) == 1 && l.kinds[0] == schema.KindColumn { // they need only be counted
				for i := range entries {
					if entries[i].ID.Kind.IsRelation() && wanted(&entries[i]) {
						l.total += entries[i].Columns
					}
				}
				return nil
			}
			return k.Names.Lines(func(_ string, line catalogue.NameLine) bool {
				if line.Part == "" || !slices.Contains(l.kinds, line.Part) {
					return true
				}
				e := &entries[line.Entry]
				if wanted(e) && l.keep() {
					l.rows = append(l.rows, listRow{match: catalogue.Match{Contents: m.Contents, Entry: e, Part: line.Name, PartKind: line.Part}, line: &line})
				}
				return true
			})
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// complete loads the objects whose parts are shown.
func (l *lister) complete(ctx context.Context) error {
	var entries []*catalogue.Entry
	place := map[*catalogue.Entry]int{}
	for _, row := range l.rows {
		if _, ok := place[row.match.Entry]; !ok {
			place[row.match.Entry] = len(entries)
			entries = append(entries, row.match.Entry)
		}
	}
	objects, err := l.c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	parts := make([]map[[2]string]schema.Part, len(objects))
	for i, o := range objects {
		parts[i] = map[[2]string]schema.Part{}
		for _, p := range o.Parts() {
			parts[i][[2]string{string(p.Kind), p.Name}] = p
		}
	}
	for i := range l.rows {
		row := &l.rows[i]
		at := place[row.match.Entry]
		if p, ok := parts[at][[2]string{string(row.match.PartKind), row.match.Part}]; ok {
			row.part = &p
		}
		if row.match.PartKind == schema.KindColumn && objects[at].Relation != nil {
			row.column = objects[at].Relation.Column(row.match.Part)
		}
	}
	return nil
}

// cell returns what stands in a column; age is that of the reading.
func (row *listRow) cell(column string, now time.Time) string {
	e := row.match.Entry
	switch column {
	case "database":
		return row.match.Contents.Snapshot.Location().String()
	case "age":
		return render.Age(now.Sub(row.match.Contents.Snapshot.Taken))
	case "kind":
		if row.match.PartKind != "" {
			return string(row.match.PartKind)
		}
		return string(e.ID.Kind)
	case "object":
		return e.ID.String()
	case "name":
		if row.match.PartKind != "" {
			return row.match.Part
		}
		return e.ID.String()
	case "state":
		return e.State
	case "on":
		return e.On
	case "owner":
		return e.Owner
	case "columns":
		return positive(e.Columns)
	case "foreign":
		return positive(e.ForeignKeys)
	case "indexes":
		return positive(row.indexes)
	case "rows":
		if row.size.Rows >= 0 {
			return render.Count(row.size.Rows)
		}
	case "size":
		if row.size.Bytes >= 0 {
			return render.Bytes(row.size.Bytes)
		}
	case "key":
		return row.key()
	case "comment":
		switch {
		case row.column != nil:
			return row.column.Comment
		case row.match.PartKind == "":
			return e.Comment
		}
	case "type":
		if row.line != nil {
			return row.line.Type
		}
		if row.column != nil {
			return row.column.Type
		}
	case "nullable":
		if row.column != nil {
			return map[bool]string{true: "no", false: "yes"}[row.column.NotNull]
		}
	case "default":
		if row.column != nil {
			return row.column.Default
		}
	case "text":
		if row.part != nil && row.match.PartKind != schema.KindColumn {
			return row.part.Text
		}
	}
	return ""
}

// key says which keys an object has, or a column belongs to.
func (row *listRow) key() string {
	e := row.match.Entry
	if row.match.PartKind == "" {
		switch {
		case e.ID.Kind == schema.KindIndex && e.Unique:
			return "unique"
		case e.PrimaryKey:
			return "primary"
		case e.Uniques > 0:
			return "unique"
		case e.ID.Kind == schema.KindTable:
			return "none"
		}
		return ""
	}
	if row.line == nil {
		return ""
	}
	var words []string
	for _, w := range []struct {
		flag catalogue.ColumnFlags
		word string
	}{{catalogue.InPrimaryKey, "primary"}, {catalogue.InForeignKey, "foreign"}} {
		if row.line.Flags&w.flag != 0 {
			words = append(words, w.word)
		}
	}
	if row.line.Flags&(catalogue.IsUnique|catalogue.InPrimaryKey) == catalogue.IsUnique {
		words = append(words, "unique")
	}
	return strings.Join(words, ", ")
}

func positive(n int) string {
	if n == 0 {
		return ""
	}
	return render.Count(n)
}

func compareRows(x, y *listRow, column string) int {
	number := func(row *listRow) (int64, bool) {
		switch column {
		case "columns":
			return int64(row.match.Entry.Columns), true
		case "foreign":
			return int64(row.match.Entry.ForeignKeys), true
		case "indexes":
			return int64(row.indexes), true
		case "rows":
			return row.size.Rows, true
		case "size":
			return row.size.Bytes, true
		}
		return 0, false
	}
	if a, ok := number(x); ok {
		b, _ := number(y)
		return cmp.Compare(b, a)
	}
	if column == "age" { // the oldest first
		return x.match.Contents.Snapshot.Taken.Compare(y.match.Contents.Snapshot.Taken)
	}
	return strings.Compare(schema.Fold(x.cell(column, time.Time{})), schema.Fold(y.cell(column, time.Time{})))
}

func (l *lister) write(columns []string, total int, parts bool, sources []*catalogue.Snapshot, chosen bool) error {
	a := l.a
	if a.as == "json" {
		return l.json(total, sources)
	}
	t := render.Table{}
	oneKind := len(l.kinds) == 1
	for _, c := range columns {
		if !chosen && a.as == "text" && (c == "database" && len(sources) == 1 || c == "kind" && oneKind) {
			continue
		}
		col := render.Column{Title: c}
		switch c {
		case "columns", "foreign", "indexes", "rows", "size":
			col.Right = true
		case "name", "object":
			col.Min = 20
		case "comment", "default", "text", "type", "on":
			col.Min = 10
		}
		t.Columns = append(t.Columns, col)
	}
	for i := range l.rows {
		row := make([]render.Cell, len(t.Columns))
		for j, c := range t.Columns {
			row[j].Text = l.rows[i].cell(c.Title, a.Now())
		}
		t.AddCells(row...)
	}
	if a.as != "text" {
		return a.table(&t)
	}
	if total > 0 {
		if err := a.table(&t); err != nil {
			return err
		}
		a.printf("\n")
	}
	what := render.Plural(total, "object", "objects")
	if parts {
		what = render.Plural(total, "part", "parts")
	}
	if oneKind {
		what = render.Plural(total, string(l.kinds[0]), l.kinds[0].Plural())
	}
	if len(l.rows) < total {
		a.printf("%s, %s shown; for all add --limit 0, for fewer name an ADDRESS or a --kind\n", what, render.Count(len(l.rows)))
	} else {
		a.printf("%s\n", what)
	}
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(sources)))
	return nil
}

type listed struct {
	address
	On          string `json:"on,omitempty"`
	Columns     *int   `json:"columns,omitempty"`
	PrimaryKey  *bool  `json:"primary_key,omitempty"`
	ForeignKeys *int   `json:"foreign_keys,omitempty"`
	Indexes     *int   `json:"indexes,omitempty"`
	Unique      *bool  `json:"unique,omitempty"`
	Rows        *int64 `json:"rows,omitempty"`
	Bytes       *int64 `json:"bytes,omitempty"`
	Owner       string `json:"owner,omitempty"`
	Type        string `json:"type,omitempty"`
	Nullable    *bool  `json:"nullable,omitempty"`
	Default     string `json:"default,omitempty"`
	Key         string `json:"key,omitempty"`
	Text        string `json:"text,omitempty"`
	Comment     string `json:"comment,omitempty"`
}

func (l *lister) json(total int, sources []*catalogue.Snapshot) error {
	rows := make([]listed, 0, len(l.rows))
	for i := range l.rows {
		row := &l.rows[i]
		e := row.match.Entry
		x := listed{address: addressOf(row.match.Location()), Comment: row.cell("comment", time.Time{})}
		if row.match.PartKind != "" {
			x.Type, x.Default, x.Key, x.Text = row.cell("type", time.Time{}), row.cell("default", time.Time{}), row.cell("key", time.Time{}), row.cell("text", time.Time{})
			if row.column != nil {
				nullable := !row.column.NotNull
				x.Nullable = &nullable
			}
		} else {
			x.On, x.Owner = e.On, e.Owner
			if e.ID.Kind.IsRelation() {
				x.Columns, x.PrimaryKey, x.ForeignKeys, x.Indexes = &e.Columns, &e.PrimaryKey, &e.ForeignKeys, &row.indexes
			}
			if e.ID.Kind == schema.KindIndex {
				x.Unique = &e.Unique
			}
			if row.size.Rows >= 0 {
				x.Rows = &row.size.Rows
			}
			if row.size.Bytes >= 0 {
				x.Bytes = &row.size.Bytes
			}
		}
		rows = append(rows, x)
	}
	return render.JSON(l.a.Stdout, map[string]any{"objects": rows, "total": total, "sources": l.a.sources(sources)})
}
