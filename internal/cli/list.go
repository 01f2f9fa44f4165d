package cli

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

func (a *app) listCommand() *cli.Command {
	return &cli.Command{
		Name:      "list",
		Usage:     "objects, or columns and other parts, as rows to compare",
		ArgsUsage: "[ADDRESS…]",
		Description: "Columns of objects: " + strings.Join(objectColumns, ", ") + "\nColumns of parts: " + strings.Join(partColumns, ", ") +
			"\nColumns of rights (--kind grant): " + strings.Join(grantColumns, ", ") +
			"\n\nExamples:\n  echo-atlas list quay-live/berths\n  echo-atlas list quay-live --kind table --sort size\n" +
			"  echo-atlas list 'quay-live/berths/m*' --kind column\n  echo-atlas list --kind table --where key=none --where 'rows>1000'\n" +
			"  echo-atlas list --kind index --where unique=yes\n  echo-atlas list --to clerk\n  echo-atlas list --kind table --columns name,rows,size --as csv",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			&cli.StringSliceFlag{Name: "kind", Usage: "only objects or parts of this `KIND`, such as table, view, column, or rights: grant; several with commas"}, limitFlag(1000),
			&cli.StringFlag{Name: "sort", Usage: "sort by this `COLUMN`, numbers the largest first"},
			&cli.StringSliceFlag{Name: "columns", Usage: "show these `COLUMNS`, with commas"},
			&cli.StringSliceFlag{Name: "where", Usage: "only rows with this `COLUMN=PATTERN`; also != and, for numbers, < > <= >=; may be given several times"},
			&cli.StringFlag{Name: "to", Usage: "the rights of this `ROLE`; everybody for what all have"},
		},
		Action: a.list,
	}
}

var (
	objectColumns = []string{"kind", "server", "database", "schema", "name", "signature", "on", "columns", "key", "unique", "foreign", "indexes", "method", "predicate", "rows", "size", "state", "age", "taken", "owner", "comment"}
	objectUsual   = []string{"kind", "database", "name", "on", "columns", "key", "indexes", "rows", "size", "state", "comment"}
	indexUsual    = []string{"kind", "database", "name", "on", "columns", "unique", "method", "predicate", "size", "state", "comment"}
	partColumns   = []string{"kind", "server", "database", "schema", "object", "name", "type", "nullable", "key", "default", "comment", "text", "age"}
	partUsual     = []string{"kind", "database", "object", "name", "type", "nullable", "key", "default", "text", "comment"}
	grantColumns  = []string{"kind", "server", "database", "schema", "object", "part", "grantee", "rights", "grantable", "revoked", "owner", "age"}
	grantUsual    = []string{"kind", "database", "object", "part", "grantee", "rights", "grantable", "revoked"}
)

// numeric are the columns that hold numbers.
var numeric = []string{"columns", "foreign", "indexes", "rows", "size"}

// listRow is a row of list: an object, a part, or the rights of somebody on one of these.
type listRow struct {
	match   address.Match
	size    catalogue.Size
	indexes int
	line    *catalogue.NameLine // of a column
	part    *schema.Part        // of another part, or a column whose object was loaded
	column  *schema.Column
	index   *schema.Index
	grant   *schema.Grant
}

// listSubject is what the rows of a list are.
type listSubject int

const (
	listObjects listSubject = iota
	listParts
	listGrants
)

func (a *app) list(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown"); err != nil {
		return err
	}
	l := lister{a: a, most: math.MaxInt}
	if err := l.subjectOf(cmd); err != nil {
		return err
	}
	columns, err := l.chooseColumns(cmd)
	if err != nil {
		return err
	}
	sorting := cmd.String("sort")
	if sorting != "" && !slices.Contains(l.known(), sorting) {
		return usagef("--sort: there is no column %q%s; there are %s", sorting, nearWord(sorting, l.known()), strings.Join(l.known(), ", "))
	}
	if l.where, err = conditions(cmd, l.known()); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	l.c = c
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	limit := int(cmd.Int("limit"))
	if a.as != "text" && !cmd.IsSet("limit") || limit <= 0 {
		limit = math.MaxInt
	}
	if sorting == "" && len(l.where) == 0 {
		l.most = limit
	}
	sets := selection.Gather(matches)
	if err := l.gather(ctx, sets); err != nil {
		return err
	}
	if len(l.where) > 0 {
		l.rows = slices.DeleteFunc(l.rows, func(row listRow) bool {
			return slices.ContainsFunc(l.where, func(w condition) bool { return !w.holds(&row, &l) })
		})
		l.total = len(l.rows)
	}
	l.sort(sorting, limit)
	l.rows = l.rows[:min(limit, len(l.rows))]
	if err := l.complete(ctx); err != nil {
		return err
	}
	var snapshots []*catalogue.Snapshot
	for _, s := range sets {
		snapshots = append(snapshots, s.Contents.Snapshot)
	}
	if l.unseen, err = a.gaps(ctx, c, gaps.Concern{Snapshots: snapshots, Kinds: l.concerned(), Objects: namedObjects(sets), Everywhere: cmd.Args().Len() == 0}); err != nil {
		return err
	}
	return l.write(columns, catalogue.Sources(snapshots...), cmd.IsSet("columns"))
}

// namedObjects returns the objects that sets name one by one, as remarks name them; nil where a set covers more.
func namedObjects(sets []*selection.Set) []string {
	names := []string{}
	for _, s := range sets {
		if s.Whole || len(s.Schemas()) > 0 {
			return nil
		}
		for _, e := range s.Entries() {
			names = append(names, e.ID.Qualified())
		}
		for _, p := range s.Parts {
			names = append(names, p.Entry.ID.Qualified())
		}
	}
	return names
}

// selection resolves the addresses of a command; none means everything.
func (a *app) selection(ctx context.Context, r *address.Resolver, texts []string) ([]address.Match, error) {
	if len(texts) > 0 {
		return resolveAll(ctx, r, texts)
	}
	if len(r.Latest()) == 0 {
		return nil, usagef("the catalogue is empty; run: echo-atlas survey")
	}
	var all []address.Match
	for _, s := range r.Latest() {
		load := r.Contents
		if r.Deferred {
			load = r.Outline
		}
		t, err := load(ctx, s)
		if err != nil {
			return nil, err
		}
		all = append(all, address.Match{Contents: t})
	}
	return all, nil
}

type lister struct {
	a       *app
	c       *catalogue.Catalogue
	kinds   []schema.Kind
	subject listSubject
	to      *names.Name // whose rights are listed, nil for all
	where   []condition
	most    int // rows that are kept; all are counted
	rows    []listRow
	total   int
	unseen  []gaps.Gap
}

// subjectOf settles what the rows are.
func (l *lister) subjectOf(cmd *cli.Command) error {
	words := values(cmd, "kind")
	isGrant := func(w string) bool {
		return slices.Contains([]string{"grant", "grants", "right", "rights", "privilege", "privileges"}, strings.ToLower(w))
	}
	rights := slices.ContainsFunc(words, isGrant)
	var err error
	if l.kinds, err = kindsOf(slices.DeleteFunc(words, isGrant)); err != nil {
		return err
	}
	if to := cmd.String("to"); to != "" {
		rights = true
		if strings.EqualFold(to, "public") {
			to = "everybody"
		}
		l.to = &names.Name{Text: to}
	}
	parts := len(l.kinds) > 0 && l.kinds[0].IsPart()
	for _, k := range l.kinds {
		if k.IsPart() != parts {
			return usagef("--kind: objects and parts cannot stand in one list; ask for %s alone", k)
		}
	}
	switch {
	case rights:
		l.subject = listGrants
	case parts:
		l.subject = listParts
	}
	return nil
}

// known returns the columns that the list can show.
func (l *lister) known() []string {
	return [][]string{objectColumns, partColumns, grantColumns}[l.subject]
}

// concerned returns the kinds of objects that the list is limited to.
func (l *lister) concerned() []schema.Kind {
	if l.subject == listObjects {
		return l.kinds
	}
	return nil
}

func (l *lister) chooseColumns(cmd *cli.Command) ([]string, error) {
	chosen := values(cmd, "columns")
	for _, name := range chosen {
		if !slices.Contains(l.known(), name) {
			return nil, usagef("--columns: there is no column %q%s; there are %s", name, nearWord(name, l.known()), strings.Join(l.known(), ", "))
		}
	}
	switch {
	case len(chosen) > 0:
		return chosen, nil
	case l.onlyIndexes():
		return indexUsual, nil
	}
	return [][]string{objectUsual, partUsual, grantUsual}[l.subject], nil
}

// onlyIndexes reports whether nothing but indexes is listed: then their columns are, too.
func (l *lister) onlyIndexes() bool {
	return l.subject == listObjects && len(l.kinds) == 1 && l.kinds[0] == schema.KindIndex
}

func (l *lister) gather(ctx context.Context, sets []*selection.Set) error {
	for _, s := range sets {
		var err error
		switch l.subject {
		case listGrants:
			err = l.grants(ctx, s)
		case listParts:
			err = l.parts(ctx, s)
		default:
			err = l.objects(ctx, s)
		}
		if err != nil {
			return err
		}
	}
	if len(l.where) > 0 || l.subject == listParts {
		wants := func(w condition) bool {
			return slices.Contains([]string{"nullable", "default", "comment", "text", "type", "method", "predicate"}, w.column)
		}
		if slices.ContainsFunc(l.where, wants) {
			return l.complete(ctx)
		}
	}
	return nil
}

// sort puts the rows into the order that is asked for, and keeps as many as are shown.
func (l *lister) sort(by string, limit int) {
	if by == "" {
		return
	}
	order := make([]int, len(l.rows)) // the rows themselves are too large to be moved about
	for i := range l.rows {
		order[i] = i
	}
	slices.SortFunc(order, func(i, j int) int { return cmp.Or(l.compareRows(&l.rows[i], &l.rows[j], by), i-j) })
	sorted := make([]listRow, 0, min(limit, len(order)))
	for _, i := range order[:min(limit, len(order))] {
		sorted = append(sorted, l.rows[i])
	}
	l.rows = sorted
}

// keep counts a row, and reports whether it is to be kept.
func (l *lister) keep() bool {
	l.total++
	return len(l.rows) < l.most
}

func (l *lister) objects(ctx context.Context, s *selection.Set) error {
	t := s.Contents
	sizes, _, err := l.c.Sizes(ctx, t)
	if err != nil {
		return err
	}
	var kept []*catalogue.Entry
	first := len(l.rows)
	for i := range t.Entries {
		e := &t.Entries[i]
		if len(l.kinds) > 0 && !slices.Contains(l.kinds, e.ID.Kind) || !s.Covers(e.ID) || !l.keep() {
			continue
		}
		l.rows = append(l.rows, listRow{match: address.Match{Contents: t, Entry: e}, size: sizes[i]})
		kept = append(kept, e)
	}
	for i, n := range t.CountIndexes(kept) {
		l.rows[first+i].indexes = n
	}
	return nil
}

// grants lists who may do what with the objects of a set.
func (l *lister) grants(ctx context.Context, s *selection.Set) error {
	entries := selection.Kinds(s.Entries(), l.kinds)
	objects, err := l.c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	for i, o := range objects {
		for j := range o.Grants {
			g := &o.Grants[j]
			if l.to != nil {
				if matches, _ := l.to.Matches(granteeOf(g)); !matches {
					continue
				}
			}
			if l.keep() {
				l.rows = append(l.rows, listRow{match: address.Match{Contents: s.Contents, Entry: entries[i]}, grant: g, size: catalogue.Size{Rows: -1, Bytes: -1}})
			}
		}
	}
	return nil
}

func granteeOf(g *schema.Grant) string { return cmp.Or(g.Grantee, "everybody") }

// parts gathers parts from the name index; only the rows that are shown are completed from the objects.
func (l *lister) parts(ctx context.Context, s *selection.Set) error {
	for _, m := range s.Parts {
		if slices.Contains(l.kinds, m.PartKind) && !s.Covers(m.Entry.ID) && l.keep() {
			l.rows = append(l.rows, listRow{match: m})
		}
	}
	return l.c.Names(ctx, s.Contents, func(k *catalogue.Chunk) error {
		entries, err := k.Entries()
		if err != nil {
			return err
		}
		if len(l.rows) >= l.most && len(l.kinds) == 1 && l.kinds[0] == schema.KindColumn { // they need only be counted
			for i := range entries {
				if entries[i].ID.Kind.IsRelation() && s.Covers(entries[i].ID) {
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
			if s.Covers(e.ID) && l.keep() {
				l.rows = append(l.rows, listRow{match: address.Match{Contents: s.Contents, Entry: e, Part: line.Name, PartKind: line.Part}, line: &line})
			}
			return true
		})
	})
}

// complete loads the objects whose parts are shown, and the indexes where these are.
func (l *lister) complete(ctx context.Context) error {
	if l.subject == listGrants || l.subject == listObjects && !slices.ContainsFunc(l.kinds, func(k schema.Kind) bool { return k == schema.KindIndex }) {
		return nil
	}
	var entries []*catalogue.Entry
	place := map[*catalogue.Entry]int{}
	for i := range l.rows {
		row := &l.rows[i]
		if row.column != nil || row.part != nil || row.index != nil || l.subject == listObjects && row.match.Entry.ID.Kind != schema.KindIndex {
			continue
		}
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
	if l.subject == listParts {
		for i, o := range objects {
			parts[i] = map[[2]string]schema.Part{}
			for _, p := range o.Parts() {
				parts[i][[2]string{string(p.Kind), p.Name}] = p
			}
		}
	}
	for i := range l.rows {
		row := &l.rows[i]
		at, ok := place[row.match.Entry]
		if !ok {
			continue
		}
		if l.subject == listObjects {
			row.index = objects[at].Index
			continue
		}
		if p, ok := parts[at][[2]string{string(row.match.PartKind), row.match.Part}]; ok {
			row.part = &p
		}
		if row.match.PartKind == schema.KindColumn && objects[at].Relation != nil {
			row.column = objects[at].Relation.Column(row.match.Part)
		}
	}
	return nil
}

// number returns the number that stands in a column; ok is false where none does.
func (row *listRow) number(column string) (n int64, ok bool) {
	e := row.match.Entry
	if row.match.PartKind != "" || row.grant != nil {
		return 0, false
	}
	switch column {
	case "columns":
		return int64(e.Columns), e.ID.Kind.IsRelation() || e.ID.Kind == schema.KindIndex
	case "foreign":
		return int64(e.ForeignKeys), e.ID.Kind.IsRelation()
	case "indexes":
		return int64(row.indexes), e.ID.Kind.IsRelation()
	case "rows":
		return row.size.Rows, row.size.Rows >= 0
	case "size":
		return row.size.Bytes, row.size.Bytes >= 0
	}
	return 0, false
}

// cell returns what stands in a column; plain is for machines: numbers and times without words.
func (l *lister) cell(row *listRow, column string, plain bool) string {
	if n, ok := row.number(column); ok && !(column == "columns" && row.index != nil) {
		switch {
		case plain:
			return strconv.FormatInt(n, 10)
		case column == "size":
			return render.Bytes(n)
		case n == 0 && column != "rows":
			return ""
		}
		return render.Count(n)
	}
	e, s := row.match.Entry, row.match.Contents.Snapshot
	location := row.match.Location()
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
	case "age":
		return render.Age(l.a.Now().Sub(s.Taken))
	case "taken":
		return s.Taken.Format(time.RFC3339)
	case "kind":
		return string(cmp.Or(row.match.PartKind, e.ID.Kind))
	case "object":
		if plain {
			return cmp.Or(e.ID.Table, e.ID.Name)
		}
		return e.ID.String()
	case "name":
		switch {
		case row.match.PartKind != "":
			return row.match.Part
		case plain:
			return e.ID.Name
		}
		return e.ID.String()
	case "part":
		if row.grant != nil {
			return row.grant.Column
		}
		return addressOf(location).Part
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
func (l *lister) detail(row *listRow, column string) string {
	if g := row.grant; g != nil {
		switch column {
		case "grantee":
			return granteeOf(g)
		case "rights":
			return strings.Join(g.Granted, ", ")
		case "grantable":
			return strings.Join(g.Grantable, ", ")
		case "revoked":
			return strings.Join(g.Revoked, ", ")
		}
	}
	if x := row.index; x != nil {
		switch column {
		case "columns":
			text := schema.DescribeKeyParts(x.Columns)
			if len(x.Include) > 0 {
				text += " including " + strings.Join(x.Include, ", ")
			}
			return text
		case "method":
			return cmp.Or(x.Method, l.a.traits(row.match.Contents.Snapshot.Engine).IndexMethod)
		case "predicate":
			return x.Where
		}
	}
	switch column {
	case "comment":
		switch {
		case row.column != nil:
			return row.column.Comment
		case row.match.PartKind == "":
			return row.match.Entry.Comment
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
			return yesNo(!row.column.NotNull)
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
		case e.ID.Kind == schema.KindTable, e.ID.Kind == schema.KindPartitionedTable, e.ID.Kind == schema.KindPartition:
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

func (l *lister) compareRows(x, y *listRow, column string) int {
	if slices.Contains(numeric, column) && x.grant == nil && x.match.PartKind == "" {
		a, ok := x.number(column)
		b, also := y.number(column)
		if !ok {
			a = -1
		}
		if !also {
			b = -1
		}
		return cmp.Compare(b, a)
	}
	if column == "age" { // the oldest first
		return x.match.Contents.Snapshot.Taken.Compare(y.match.Contents.Snapshot.Taken)
	}
	return strings.Compare(names.Fold(l.cell(x, column, false)), names.Fold(l.cell(y, column, false)))
}

// machineColumns returns the columns of a CSV file: the parts of addresses in columns of their own, times as such.
func (l *lister) machineColumns(columns []string) []string {
	var all []string
	add := func(names ...string) {
		for _, n := range names {
			if !slices.Contains(all, n) {
				all = append(all, n)
			}
		}
	}
	for _, c := range columns {
		switch c {
		case "database":
			add("server", "database")
		case "name":
			if l.subject == listObjects {
				add("schema", "name", "signature")
			} else {
				add("name")
			}
		case "object":
			add("schema", "object", "signature")
		case "age":
			add("taken")
		default:
			add(c)
		}
	}
	return all
}

// layOut returns how a column is laid out.
func (l *lister) layOut(column string) render.Column {
	col := render.Column{Title: column}
	switch column {
	case "columns":
		if col.Right = !l.onlyIndexes(); !col.Right {
			col.Wrap, col.Min = true, 16
		}
	case "foreign", "indexes", "rows", "size":
		col.Right = true
	case "text", "predicate", "rights", "grantable", "revoked":
		col.Wrap, col.Min = true, 16
	case "comment":
		col.Min, col.Lesser = 10, 9
	case "default":
		col.Min, col.Lesser = 10, 6
	case "type":
		col.Min = 10
	}
	switch column {
	case "age", "owner":
		col.Lesser = 8
	case "method", "state":
		col.Lesser = 3
	case "rows", "indexes":
		col.Lesser = 5
	case "size", "foreign":
		col.Lesser = 4
	case "kind":
		col.Lesser = 1
	}
	return col
}

func (l *lister) write(columns []string, sources []*catalogue.Snapshot, chosen bool) error {
	a := l.a
	if a.as == "json" {
		return l.json(sources)
	}
	plain := a.as == "csv"
	if plain && !chosen {
		columns = l.machineColumns(columns)
	}
	t := render.Table{}
	oneKind := len(l.kinds) == 1 && l.subject != listGrants
	short := l.shortNames()
	for _, c := range columns {
		if !chosen && a.as == "text" && (c == "database" && len(sources) == 1 || c == "kind" && oneKind) {
			continue
		}
		col := l.layOut(c)
		if chosen {
			col.Lesser = 0
		}
		t.Columns = append(t.Columns, col)
	}
	for i := range l.rows {
		row := make([]render.Cell, len(t.Columns))
		for j, c := range t.Columns {
			row[j].Text = l.cell(&l.rows[i], c.Title, plain)
			if s, ok := short[row[j].Text]; ok && !plain && (c.Title == "name" || c.Title == "object") {
				row[j].Text = s
			}
		}
		t.AddCells(row...)
	}
	if a.as != "text" {
		a.unseenBeside(l.unseen)
		return a.table(&t)
	}
	if l.total > 0 {
		if err := a.table(&t); err != nil {
			return err
		}
		a.printf("\n")
	}
	l.count(oneKind)
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(sources)))
	a.unseen(l.unseen)
	return nil
}

// count says how many rows there are, and how to see more or fewer.
func (l *lister) count(oneKind bool) {
	one, many := "object", "objects"
	switch {
	case oneKind:
		one, many = string(l.kinds[0]), l.kinds[0].Plural()
	case l.subject == listParts:
		one, many = "part", "parts"
	case l.subject == listGrants:
		one, many = "grant", "grants"
	}
	switch what := render.Plural(l.total, one, many); {
	case l.total == 0 && len(l.unseen) > 0:
		l.a.printf("No %s was seen.\n", one)
	case len(l.rows) < l.total:
		l.a.printf("%s, %s shown; for all add --limit 0, for fewer name an ADDRESS or a --kind\n", what, render.Count(len(l.rows)))
	default:
		l.a.printf("%s\n", what)
	}
}

// shortNames returns a short form of names with long signatures, where a terminal has no room for them and no other
// name would look the same.
func (l *lister) shortNames() map[string]string {
	if l.a.width == 0 || l.a.as != "text" {
		return nil
	}
	return shortNames(l.a.width, func(yield func(schema.ID) bool) {
		for i := range l.rows {
			if !yield(l.rows[i].match.Entry.ID) {
				return
			}
		}
	})
}

type listed struct {
	place
	On          string   `json:"on,omitempty"`
	Columns     *int     `json:"columns,omitempty"`
	PrimaryKey  *bool    `json:"primary_key,omitempty"`
	ForeignKeys *int     `json:"foreign_keys,omitempty"`
	Indexes     *int     `json:"indexes,omitempty"`
	Unique      *bool    `json:"unique,omitempty"`
	Indexed     string   `json:"indexed,omitempty"` // the columns of an index
	Method      string   `json:"method,omitempty"`
	Predicate   string   `json:"predicate,omitempty"`
	Rows        *int64   `json:"rows,omitempty"`
	Bytes       *int64   `json:"bytes,omitempty"`
	State       string   `json:"state,omitempty"`
	Owner       string   `json:"owner,omitempty"`
	Type        string   `json:"type,omitempty"`
	Nullable    *bool    `json:"nullable,omitempty"`
	Default     string   `json:"default,omitempty"`
	Key         string   `json:"key,omitempty"`
	Text        string   `json:"text,omitempty"`
	Comment     string   `json:"comment,omitempty"`
	Grantee     string   `json:"grantee,omitempty"`
	Granted     []string `json:"granted,omitempty"`
	Grantable   []string `json:"grantable,omitempty"`
	Revoked     []string `json:"revoked,omitempty"`
}

func (l *lister) json(sources []*catalogue.Snapshot) error {
	rows := make([]listed, 0, len(l.rows))
	for i := range l.rows {
		row := &l.rows[i]
		e := row.match.Entry
		x := listed{place: addressOf(row.match.Location()), Comment: l.cell(row, "comment", true)}
		switch {
		case row.grant != nil:
			x.Grantee, x.Granted, x.Grantable, x.Revoked, x.Owner = granteeOf(row.grant), row.grant.Granted, row.grant.Grantable, row.grant.Revoked, e.Owner
			if row.grant.Column != "" {
				x.place = addressOf(row.match.Contents.Snapshot.Locate(e.ID, row.grant.Column, schema.KindColumn))
			}
		case row.match.PartKind != "":
			x.Type, x.Default, x.Key, x.Text = l.cell(row, "type", true), l.cell(row, "default", true), l.cell(row, "key", true), l.cell(row, "text", true)
			if row.column != nil {
				nullable := !row.column.NotNull
				x.Nullable = &nullable
			}
		default:
			l.jsonObject(row, &x)
		}
		rows = append(rows, x)
	}
	return render.JSON(l.a.Stdout, map[string]any{"objects": rows, "total": l.total, "sources": l.a.sources(sources), "unseen": l.a.unseenJSON(l.unseen)})
}

func (l *lister) jsonObject(row *listRow, x *listed) {
	e := row.match.Entry
	x.On, x.Owner, x.State = e.On, e.Owner, e.State
	if e.ID.Kind.IsRelation() {
		x.Columns, x.PrimaryKey, x.ForeignKeys, x.Indexes = &e.Columns, &e.PrimaryKey, &e.ForeignKeys, &row.indexes
	}
	if e.ID.Kind == schema.KindIndex {
		x.Unique = &e.Unique
	}
	if row.index != nil {
		x.Indexed, x.Method, x.Predicate = l.cell(row, "columns", true), l.cell(row, "method", true), row.index.Where
	}
	if row.size.Rows >= 0 {
		x.Rows = &row.size.Rows
	}
	if row.size.Bytes >= 0 {
		x.Bytes = &row.size.Bytes
	}
}

// condition limits a list to rows in which a column holds something.
type condition struct {
	column, operator, value string
	number                  int64
	numeric                 bool
}

// conditions returns what --where asks for.
func conditions(cmd *cli.Command, known []string) ([]condition, error) {
	var all []condition
	for _, text := range cmd.StringSlice("where") {
		at := strings.IndexAny(text, "=!<>")
		if at <= 0 {
			return nil, usagef("--where: %q is no condition; write COLUMN=PATTERN, such as key=none or 'rows>1000'", text)
		}
		w := condition{column: strings.TrimSpace(text[:at])}
		for _, operator := range []string{"!=", "<=", ">=", "=", "<", ">"} {
			if rest, ok := strings.CutPrefix(text[at:], operator); ok {
				w.operator, w.value = operator, strings.TrimSpace(rest)
				break
			}
		}
		switch {
		case w.operator == "":
			return nil, usagef("--where: %q is no condition; write COLUMN=PATTERN, such as key=none or 'rows>1000'", text)
		case !slices.Contains(known, w.column):
			return nil, usagef("--where: there is no column %q%s; there are %s", w.column, nearWord(w.column, known), strings.Join(known, ", "))
		}
		n, err := strconv.ParseInt(strings.ReplaceAll(w.value, ",", ""), 10, 64)
		w.number, w.numeric = n, err == nil
		if strings.ContainsAny(w.operator, "<>") && (!w.numeric || !slices.Contains(numeric, w.column)) {
			return nil, usagef("--where: %s compares numbers, and there are some in %s; the size counts bytes", w.operator, strings.Join(numeric, ", "))
		}
		all = append(all, w)
	}
	return all, nil
}

// holds reports whether a row meets the condition. A number that is not known meets none that compares it.
func (w condition) holds(row *listRow, l *lister) bool {
	if slices.Contains(numeric, w.column) && w.numeric {
		n, ok := row.number(w.column)
		if !ok {
			return false
		}
		switch w.operator {
		case "=":
			return n == w.number
		case "!=":
			return n != w.number
		case "<":
			return n < w.number
		case "<=":
			return n <= w.number
		case ">":
			return n > w.number
		}
		return n >= w.number
	}
	text := l.cell(row, w.column, w.column != "name" && w.column != "object" && w.column != "database")
	holds := names.MatchPattern(w.value, text)
	if w.column == "key" && !holds { // one of several words
		for _, word := range strings.Split(text, ", ") {
			holds = holds || names.MatchPattern(w.value, word)
		}
	}
	return holds == (w.operator == "=")
}

// shortNames returns a short form of names whose signatures take more than a good part of the width.
func shortNames(width int, ids func(yield func(schema.ID) bool)) map[string]string {
	short, taken := map[string]string{}, map[string]int{}
	for id := range ids {
		full := id.String()
		if _, seen := short[full]; seen || id.Signature == "" || render.Width(full) <= max(24, width*2/5) {
			continue
		}
		arguments := len(schema.SplitList(id.Signature))
		id.Signature = ""
		s := strings.TrimSuffix(id.String(), "()") + fmt.Sprintf("(… %d)", arguments)
		short[full] = s
		taken[s]++
	}
	for full, s := range short {
		if taken[s] > 1 {
			delete(short, full)
		}
	}
	return short
}
