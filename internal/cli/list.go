package cli

// The command list: rows of core/view, laid out as a table, JSON or CSV.

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/view"
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

func (a *app) list(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html"); err != nil {
		return err
	}
	l := lister{a: a, Rows: view.Rows{Most: math.MaxInt, IndexMethod: func(engine string) string { return a.traits(engine).IndexMethod }}}
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
	if l.Where, err = conditions(cmd, l.known()); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	l.Catalogue = c
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	limit := int(cmd.Int("limit"))
	if a.as != "text" && !cmd.IsSet("limit") || limit <= 0 {
		limit = math.MaxInt
	}
	if sorting == "" && len(l.Where) == 0 {
		l.Most = limit
	}
	sets := selection.Gather(matches)
	if err := l.Gather(ctx, sets); err != nil {
		return err
	}
	l.Sort(sorting, limit)
	l.List = l.List[:min(limit, len(l.List))]
	if err := l.Complete(ctx); err != nil {
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

// conditions returns what --where asks for.
func conditions(cmd *cli.Command, known []string) ([]view.Condition, error) {
	var all []view.Condition
	for _, text := range cmd.StringSlice("where") {
		w, err := view.ParseCondition(text)
		switch {
		case err != nil:
			return nil, usagef("--where: %q is no condition; write COLUMN=PATTERN, such as key=none or 'rows>1000'", text)
		case !slices.Contains(known, w.Column):
			return nil, usagef("--where: there is no column %q%s; there are %s", w.Column, nearWord(w.Column, known), strings.Join(known, ", "))
		case !w.Sound():
			return nil, usagef("--where: %s compares numbers, and there are some in %s; the size counts bytes", w.Operator, strings.Join(slices.DeleteFunc(slices.Clone(objectColumns), func(c string) bool { return !view.Numeric(c) }), ", "))
		}
		all = append(all, w)
	}
	return all, nil
}

// cell returns what stands in a column; plain is for machines: numbers and times without words.
func (l *lister) cell(row *view.Row, column string, plain bool) string {
	if column == "age" {
		return render.Age(l.a.Now().Sub(row.Match.Contents.Snapshot.Taken))
	}
	if n, ok := row.Number(column); ok && !plain && !(column == "columns" && row.Index != nil) {
		switch {
		case column == "size":
			return render.Bytes(n)
		case n == 0 && column != "rows":
			return ""
		}
		return render.Count(n)
	}
	return l.Text(row, column, plain)
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
		return a.resolveAll(ctx, r, texts)
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
	view.Rows
	a      *app
	unseen []gaps.Gap
}

// subjectOf settles what the rows are.
func (l *lister) subjectOf(cmd *cli.Command) error {
	words := values(cmd, "kind")
	isGrant := func(w string) bool {
		return slices.Contains([]string{"grant", "grants", "right", "rights", "privilege", "privileges"}, strings.ToLower(w))
	}
	rights := slices.ContainsFunc(words, isGrant)
	var err error
	if l.Kinds, err = kindsOf(slices.DeleteFunc(words, isGrant)); err != nil {
		return err
	}
	if to := cmd.String("to"); to != "" {
		rights = true
		if strings.EqualFold(to, "public") {
			to = "everybody"
		}
		l.To = &names.Name{Text: to}
	}
	parts := len(l.Kinds) > 0 && l.Kinds[0].IsPart()
	for _, k := range l.Kinds {
		if k.IsPart() != parts {
			return usagef("--kind: objects and parts cannot stand in one list; ask for %s alone", k)
		}
	}
	switch {
	case rights:
		l.Subject = view.Grants
	case parts:
		l.Subject = view.Parts
	}
	return nil
}

// known returns the columns that the list can show.
func (l *lister) known() []string {
	return [][]string{objectColumns, partColumns, grantColumns}[l.Subject]
}

// concerned returns the kinds of objects that the list is limited to.
func (l *lister) concerned() []schema.Kind {
	if l.Subject == view.Objects {
		return l.Kinds
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
	return [][]string{objectUsual, partUsual, grantUsual}[l.Subject], nil
}

// onlyIndexes reports whether nothing but indexes is listed: then their columns are, too.
func (l *lister) onlyIndexes() bool {
	return l.Subject == view.Objects && len(l.Kinds) == 1 && l.Kinds[0] == schema.KindIndex
}

func positive(n int) string {
	if n == 0 {
		return ""
	}
	return render.Count(n)
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
			if l.Subject == view.Objects {
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
	plain := a.forMachines()
	if plain && !chosen {
		columns = l.machineColumns(columns)
	}
	t := render.Table{}
	oneKind := len(l.Kinds) == 1 && l.Subject != view.Grants
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
	for i := range l.List {
		row := make([]render.Cell, len(t.Columns))
		for j, c := range t.Columns {
			row[j].Text = l.cell(&l.List[i], c.Title, plain)
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
	if l.Total > 0 {
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
		one, many = string(l.Kinds[0]), l.Kinds[0].Plural()
	case l.Subject == view.Parts:
		one, many = "part", "parts"
	case l.Subject == view.Grants:
		one, many = "grant", "grants"
	}
	switch what := render.Plural(l.Total, one, many); {
	case l.Total == 0 && len(l.unseen) > 0:
		l.a.printf("No %s was seen.\n", one)
	case len(l.List) < l.Total:
		l.a.printf("%s, %s shown; for all add --limit 0, for fewer name an ADDRESS or a --kind\n", what, render.Count(len(l.List)))
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
		for i := range l.List {
			if !yield(l.List[i].Match.Entry.ID) {
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
	rows := make([]listed, 0, len(l.List))
	for i := range l.List {
		row := &l.List[i]
		e := row.Match.Entry
		x := listed{place: addressOf(row.Match.Location()), Comment: l.cell(row, "comment", true)}
		switch {
		case row.Grant != nil:
			x.Grantee, x.Granted, x.Grantable, x.Revoked, x.Owner = view.Grantee(row.Grant), row.Grant.Granted, row.Grant.Grantable, row.Grant.Revoked, e.Owner
			if row.Grant.Column != "" {
				x.place = addressOf(row.Match.Contents.Snapshot.Locate(e.ID, row.Grant.Column, schema.KindColumn))
			}
		case row.Match.PartKind != "":
			x.Type, x.Default, x.Key, x.Text = l.cell(row, "type", true), l.cell(row, "default", true), l.cell(row, "key", true), l.cell(row, "text", true)
			if row.Column != nil {
				nullable := !row.Column.NotNull
				x.Nullable = &nullable
			}
		default:
			l.jsonObject(row, &x)
		}
		rows = append(rows, x)
	}
	return render.JSON(l.a.Stdout, map[string]any{"objects": rows, "total": l.Total, "sources": l.a.sources(sources), "unseen": l.a.unseenJSON(l.unseen)})
}

func (l *lister) jsonObject(row *view.Row, x *listed) {
	e := row.Match.Entry
	x.On, x.Owner, x.State = e.On, e.Owner, e.State
	if e.ID.Kind.IsRelation() {
		x.Columns, x.PrimaryKey, x.ForeignKeys, x.Indexes = &e.Columns, &e.PrimaryKey, &e.ForeignKeys, &row.Indexes
	}
	if e.ID.Kind == schema.KindIndex {
		x.Unique = &e.Unique
	}
	if row.Index != nil {
		x.Indexed, x.Method, x.Predicate = l.cell(row, "columns", true), l.cell(row, "method", true), row.Index.Where
	}
	if row.Size.Rows >= 0 {
		x.Rows = &row.Size.Rows
	}
	if row.Size.Bytes >= 0 {
		x.Bytes = &row.Size.Bytes
	}
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
