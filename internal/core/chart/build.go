package chart

// From a selection of the catalogue to a diagram.

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// Choice is what is chosen of one database: objects that are drawn, and how far from them it goes on.
type Choice struct {
	Contents *catalogue.Contents
	Entries  []*catalogue.Entry
	// Around are objects whose neighbours by foreign keys are drawn, too.
	Around []*catalogue.Entry
}

// Options of a diagram.
type Options struct {
	Columns        string // "all", "keys" or "none"
	Types          bool
	WithNeeds      bool
	WithDependants bool
	Depth          int // of needs, dependants and neighbours; 0: as far as it goes, but for neighbours, of which it is one
	// Group returns the group of an object, "" for none; nil: its schema.
	Group func(s *catalogue.Snapshot, id schema.ID) string
	URL   func(s *catalogue.Snapshot, id schema.ID) string // of its page; nil: none
	Note  func(s *catalogue.Snapshot, o *schema.Object) string
	Most  int // boxes; more are drawn as an overview of groups. 0: no limit
}

// maxRows is how many columns of a table are drawn.
const maxRows = 60

// Build makes the diagram of choices.
func Build(ctx context.Context, c *catalogue.Catalogue, choices []Choice, o Options) (*Diagram, error) {
	b := builder{c: c, o: o, groups: map[string]int{}, several: len(choices) > 1}
	for i := range choices {
		if err := b.widen(ctx, &choices[i]); err != nil {
			return nil, err
		}
	}
	total := 0
	for i := range choices {
		total += len(choices[i].Entries)
	}
	if o.Most > 0 && total > o.Most {
		return b.overview(ctx, choices)
	}
	for i := range choices {
		if err := b.add(ctx, &choices[i]); err != nil {
			return nil, err
		}
	}
	return b.finish(), nil
}

type builder struct {
	c       *catalogue.Catalogue
	o       Options
	d       Diagram
	groups  map[string]int
	several bool
}

// group returns the number of the group of an object.
func (b *builder) group(s *catalogue.Snapshot, id schema.ID) int {
	name := b.groupName(s, id)
	if name == "" {
		return -1
	}
	n, ok := b.groups[name]
	if !ok {
		n = len(b.d.Groups)
		b.groups[name] = n
		b.d.Groups = append(b.d.Groups, name)
	}
	return n
}

func (b *builder) groupName(s *catalogue.Snapshot, id schema.ID) string {
	if b.o.Group != nil {
		return b.o.Group(s, id)
	}
	if !b.several {
		return id.Schema
	}
	if id.Schema == "" {
		return s.Location().String()
	}
	return s.Location().String() + " " + id.Schema
}

// finish sorts the groups by name, so that the same selection has the same letters.
func (b *builder) finish() *Diagram {
	sorted := slices.Sorted(slices.Values(b.d.Groups))
	for i := range b.d.Boxes {
		if g := b.d.Boxes[i].Group; g >= 0 {
			b.d.Boxes[i].Group, _ = slices.BinarySearch(sorted, b.d.Groups[g])
		}
	}
	b.d.Groups = sorted
	return &b.d
}

// widen adds to a choice what is asked for beside it.
func (b *builder) widen(ctx context.Context, of *Choice) error {
	if !b.o.WithNeeds && !b.o.WithDependants && len(of.Around) == 0 {
		return nil
	}
	g, err := b.c.Needs(ctx, of.Contents)
	if err != nil {
		return err
	}
	in := map[int]bool{}
	at := map[schema.ID]int{}
	for i := range of.Contents.All() {
		at[of.Contents.At(i).ID] = i
	}
	for _, e := range of.Entries {
		in[at[e.ID]] = true
	}
	drawn := func(i int) bool {
		k := of.Contents.At(i).ID.Kind
		return k.IsRelation() || k.IsRoutine() || k == schema.KindTrigger || k == schema.KindEvent || k == schema.KindSynonym
	}
	spread := func(from map[int]bool, depth int, next func(e *catalogue.Edge, in map[int]bool) (int, bool)) {
		edge := maps.Clone(from)
		for step := 0; len(edge) > 0 && (depth == 0 || step < depth); step++ {
			found := map[int]bool{}
			for i := range g.Edges {
				if n, ok := next(&g.Edges[i], edge); ok && !in[n] && drawn(n) {
					found[n], in[n] = true, true
				}
			}
			edge = found
		}
	}
	start := maps.Clone(in)
	if b.o.WithNeeds {
		spread(start, b.o.Depth, func(e *catalogue.Edge, in map[int]bool) (int, bool) {
			return g.Ends[e.To].Entry, in[g.Ends[e.From].Entry]
		})
	}
	if b.o.WithDependants {
		spread(start, b.o.Depth, func(e *catalogue.Edge, in map[int]bool) (int, bool) {
			return g.Ends[e.From].Entry, in[g.Ends[e.To].Entry]
		})
	}
	if len(of.Around) > 0 {
		middle := map[int]bool{}
		for _, e := range of.Around {
			middle[at[e.ID]], in[at[e.ID]] = true, true
		}
		spread(middle, max(1, b.o.Depth), func(e *catalogue.Edge, in map[int]bool) (int, bool) {
			from, to := g.Ends[e.From].Entry, g.Ends[e.To].Entry
			switch {
			case e.Use != schema.UseForeignKey:
				return 0, false
			case in[from]:
				return to, true
			}
			return from, in[to]
		})
	}
	of.Entries = of.Entries[:0:0]
	for _, i := range slices.Sorted(maps.Keys(in)) {
		of.Entries = append(of.Entries, of.Contents.At(i))
	}
	return nil
}

// add draws the objects of a choice.
func (b *builder) add(ctx context.Context, of *Choice) error {
	objects, err := b.c.Objects(ctx, of.Entries)
	if err != nil {
		return err
	}
	s := of.Contents.Snapshot
	at := map[schema.ID]int{}
	tables := map[[2]string]int{}
	for i, o := range objects {
		at[o.ID()] = len(b.d.Boxes)
		if o.Kind.IsRelation() {
			tables[[2]string{o.Schema, o.Name}] = len(b.d.Boxes)
		}
		box := b.box(s, o)
		box.Root = slices.Contains(of.Around, of.Entries[i])
		b.d.Boxes = append(b.d.Boxes, box)
	}
	for _, o := range objects {
		b.references(o, at[o.ID()], tables)
	}
	return b.uses(ctx, of, at)
}

// box draws one object.
func (b *builder) box(s *catalogue.Snapshot, o *schema.Object) Box {
	box := Box{Name: o.Name, Group: b.group(s, o.ID()), Note: strings.TrimSpace(o.Comment)}
	if o.Kind != schema.KindTable {
		box.Kind = string(o.Kind)
	}
	if b.o.URL != nil {
		box.URL = b.o.URL(s, o.ID())
	}
	if b.o.Note != nil {
		box.Note = b.o.Note(s, o)
	}
	if o.Relation == nil || b.o.Columns == "none" {
		return box
	}
	marks := Marks(o.Relation)
	for i := range o.Relation.Columns {
		col := &o.Relation.Columns[i]
		if b.o.Columns == "keys" && marks[col.Name] == "" {
			continue
		}
		if len(box.Rows) == maxRows {
			box.More++
			continue
		}
		r := Row{Name: col.Name, Mark: marks[col.Name]}
		if b.o.Types {
			r.Type, r.Null = col.Type, !col.NotNull && !strings.HasPrefix(marks[col.Name], "PK")
		}
		box.Rows = append(box.Rows, r)
	}
	return box
}

// Marks returns what columns are by the keys of their table: PK, FK, PK FK or UK.
func Marks(r *schema.Relation) map[string]string {
	marks := map[string]string{}
	for _, k := range r.Keys {
		for _, p := range k.Columns {
			switch {
			case k.Primary:
				marks[p.Column] = "PK"
			case marks[p.Column] == "" && p.Column != "":
				marks[p.Column] = "UK"
			}
		}
	}
	for _, f := range r.ForeignKeys {
		for _, c := range f.Columns {
			switch marks[c] {
			case "PK", "PK FK":
				marks[c] = "PK FK"
			default:
				marks[c] = "FK"
			}
		}
	}
	return marks
}

// row returns the row of a column, -1 if it is not drawn.
func (b *builder) row(box int, column string) int {
	return slices.IndexFunc(b.d.Boxes[box].Rows, func(r Row) bool { return r.Name == column })
}

// references links a table with those that its foreign keys lead to, column by column.
func (b *builder) references(o *schema.Object, from int, tables map[[2]string]int) {
	if o.Relation == nil {
		return
	}
	for _, f := range o.Relation.ForeignKeys {
		to, ok := tables[[2]string{f.RefSchema, f.RefTable}]
		if !ok {
			continue
		}
		many, one := Multiplicity(o.Relation, f)
		label := f.Name
		if len(f.RefColumns) == len(f.Columns) {
			label = strings.TrimSpace(f.Name + " (" + strings.Join(f.Columns, ", ") + ") → (" + strings.Join(f.RefColumns, ", ") + ")")
		}
		drawn := map[[2]int]bool{}
		for i, c := range f.Columns {
			l := Link{From: from, To: to, FromRow: b.row(from, c), ToRow: -1, Label: label}
			if i < len(f.RefColumns) {
				l.ToRow = b.row(to, f.RefColumns[i])
			}
			if i == 0 {
				l.Many, l.One = many, one
			}
			if ends := [2]int{l.FromRow, l.ToRow}; !drawn[ends] {
				drawn[ends] = true
				b.d.Links = append(b.d.Links, l)
			}
		}
	}
}

// Multiplicity returns how many rows of the table may refer to one, and to how many one of its rows refers.
func Multiplicity(r *schema.Relation, f schema.ForeignKey) (many, one string) {
	many, one = "n", "1"
	for _, k := range r.Keys {
		if len(k.Columns) > 0 && !slices.ContainsFunc(k.Columns, func(p schema.KeyPart) bool { return p.Column == "" || !slices.Contains(f.Columns, p.Column) }) {
			many = "0..1"
		}
	}
	primary := r.PrimaryKey()
	for _, c := range f.Columns {
		col := r.Column(c)
		inKey := primary != nil && slices.ContainsFunc(primary.Columns, func(p schema.KeyPart) bool { return p.Column == c })
		if col != nil && !col.NotNull && !inKey {
			one = "0..1"
		}
	}
	return many, one
}

// uses links objects by what else they depend on: a view with what it reads.
func (b *builder) uses(ctx context.Context, of *Choice, at map[schema.ID]int) error {
	if !slices.ContainsFunc(of.Entries, func(e *catalogue.Entry) bool { return e.ID.Kind != schema.KindTable }) {
		return nil
	}
	g, err := b.c.Needs(ctx, of.Contents)
	if err != nil {
		return err
	}
	words := map[[2]int][]string{}
	var order [][2]int
	for i := range g.Edges {
		e := &g.Edges[i]
		from, ok1 := at[of.Contents.At(g.Ends[e.From].Entry).ID]
		to, ok2 := at[of.Contents.At(g.Ends[e.To].Entry).ID]
		if !ok1 || !ok2 || from == to || e.Use == schema.UseForeignKey {
			continue
		}
		ends := [2]int{from, to}
		if words[ends] == nil {
			order = append(order, ends)
		}
		if w := e.Use.String(); !slices.Contains(words[ends], w) {
			words[ends] = append(words[ends], w)
		}
	}
	for _, ends := range order {
		b.d.Links = append(b.d.Links, Link{From: ends[0], To: ends[1], FromRow: -1, ToRow: -1, Label: strings.Join(words[ends], ", "), Dashed: true})
	}
	return nil
}

// overview draws groups in the place of objects: how many each holds, and how many foreign keys lead from one to another.
func (b *builder) overview(ctx context.Context, choices []Choice) (*Diagram, error) {
	names := map[string]int{}
	one := true
	for i := range choices {
		for _, e := range choices[i].Entries {
			names[b.groupName(choices[i].Contents.Snapshot, e.ID)]++
		}
	}
	one = len(names) <= 1
	group := func(s *catalogue.Snapshot, id schema.ID) string {
		if one { // by the first word of their names
			first, _, _ := strings.Cut(id.Name, "_")
			return first
		}
		return cmp.Or(b.groupName(s, id), "without a group")
	}
	counts := map[string]map[string]int{}
	links := map[[2]string]int{}
	for i := range choices {
		of := &choices[i]
		g, err := b.c.Needs(ctx, of.Contents)
		if err != nil {
			return nil, err
		}
		in := map[schema.ID]bool{}
		for _, e := range of.Entries {
			in[e.ID] = true
			name := group(of.Contents.Snapshot, e.ID)
			if counts[name] == nil {
				counts[name] = map[string]int{}
			}
			counts[name][string(e.ID.Kind)]++
		}
		seen := map[[2]int]bool{}
		for k := range g.Edges {
			e := &g.Edges[k]
			from, to := g.Ends[e.From].Entry, g.Ends[e.To].Entry
			a, z := of.Contents.At(from).ID, of.Contents.At(to).ID
			if e.Use == schema.UseForeignKey && in[a] && in[z] && !seen[[2]int{from, to}] {
				seen[[2]int{from, to}] = true
				links[[2]string{group(of.Contents.Snapshot, a), group(of.Contents.Snapshot, z)}]++
			}
		}
	}
	at := map[string]int{}
	for _, name := range slices.Sorted(maps.Keys(counts)) {
		at[name] = len(b.d.Boxes)
		box := Box{Name: name, Group: -1}
		for _, kind := range slices.Sorted(maps.Keys(counts[name])) {
			box.Rows = append(box.Rows, Row{Name: schema.Kind(kind).Plural(), Type: fmt.Sprint(counts[name][kind])})
		}
		b.d.Boxes = append(b.d.Boxes, box)
	}
	for _, ends := range slices.SortedFunc(maps.Keys(links), func(a, z [2]string) int { return cmp.Or(strings.Compare(a[0], z[0]), strings.Compare(a[1], z[1])) }) {
		if ends[0] != ends[1] {
			b.d.Links = append(b.d.Links, Link{From: at[ends[0]], To: at[ends[1]], FromRow: -1, ToRow: -1, Many: fmt.Sprint(links[ends]), Label: fmt.Sprint(links[ends], " foreign keys")})
		}
	}
	b.d.Notes = append(b.d.Notes, "An overview: a number at a line is how many foreign keys it stands for. Name fewer tables for a picture of each.")
	return &b.d, nil
}

// OfTrace draws the objects of a trace, as far as they are listed.
func OfTrace(t *trace.Trace, listed func(node int) bool) *Diagram {
	d := &Diagram{}
	at := map[int]int{}
	groups := map[string]int{}
	for i := range t.Nodes {
		if !listed(i) {
			continue
		}
		id := t.ID(&t.Nodes[i])
		box := Box{Name: id.Name, Group: -1, Root: i == 0}
		if id.Kind != schema.KindTable {
			box.Kind = string(id.Kind)
		}
		if id.Schema != "" {
			n, ok := groups[id.Schema]
			if !ok {
				n = len(d.Groups)
				groups[id.Schema], d.Groups = n, append(d.Groups, id.Schema)
			}
			box.Group = n
		}
		at[i] = len(d.Boxes)
		d.Boxes = append(d.Boxes, box)
	}
	links := map[[2]int]int{}
	for i := range t.Edges {
		e := &t.Edges[i]
		from, ok1 := at[e.From]
		to, ok2 := at[e.To]
		if !ok1 || !ok2 || from == to {
			continue
		}
		use := t.Dependency(e).Use
		n, ok := links[[2]int{from, to}]
		if !ok {
			n = len(d.Links)
			links[[2]int{from, to}] = n
			d.Links = append(d.Links, Link{From: from, To: to, FromRow: -1, ToRow: -1, Dashed: use != schema.UseForeignKey})
		}
		if word := use.String(); !strings.Contains(d.Links[n].Label, word) {
			d.Links[n].Label = strings.TrimPrefix(d.Links[n].Label+", "+word, ", ")
		}
	}
	return d
}
