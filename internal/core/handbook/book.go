package handbook

// What is known of one database, read once for all its pages.

import (
	"context"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/drift"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
)

// book is one database.
type book struct {
	Snapshot *catalogue.Snapshot
	Unseen   []string
	folder   string
	engine   engine.Engine
	contents *catalogue.Contents
	objects  []*schema.Object // by entry
	sizes    []catalogue.Size
	size     catalogue.Size
	graph    *catalogue.Graph
	from, to [][]int32 // edges by entry: what it needs, what depends on it
	outside  [][]int32
	pages    []int         // entries that have one
	hasPage  []bool        // by entry
	on       map[int][]int // what stands on a relation
	at       map[schema.ID]int
	tables   map[[2]string]int
	events   map[schema.ID][]event
	apart    map[schema.Identity][]standing
	reader   *references.Reader
	grown    int // schemas
}

// event is when an object changed.
type event struct {
	When time.Time
	What string
}

// standing is how an object stands in another environment.
type standing struct{ Environment, State, Since string }

// attached are kinds without a page of their own: the page of their table tells of them.
func attached(k schema.Kind) bool {
	return k == schema.KindIndex || k == schema.KindRule || k == schema.KindPolicy
}

func (m *maker) read(ctx context.Context, of Choice) (*book, error) {
	t := of.Contents
	b := &book{Snapshot: t.Snapshot, Unseen: of.Unseen, contents: t, engine: m.o.Engine(t.Snapshot), on: map[int][]int{}, at: make(map[schema.ID]int, t.Len()), tables: map[[2]string]int{}}
	entries := make([]*catalogue.Entry, t.Len())
	for i := range t.All() {
		entries[i] = t.At(i)
		b.at[t.At(i).ID] = i
	}
	var err error
	if b.objects, err = m.c.Objects(ctx, entries); err != nil {
		return nil, err
	}
	if b.sizes, b.size, err = m.c.Sizes(ctx, t); err != nil {
		return nil, err
	}
	if b.graph, err = m.c.Needs(ctx, t); err != nil {
		return nil, err
	}
	b.hasPage = make([]bool, len(entries))
	for i, o := range b.objects {
		schema.Strip(o, m.o.Without)
		id := o.ID()
		if o.Kind.IsRelation() {
			b.tables[[2]string{id.Schema, id.Name}] = i
		}
		if b.hasPage[i] = !attached(o.Kind) && (of.Covers == nil || of.Covers(id)); b.hasPage[i] {
			b.pages = append(b.pages, i)
		}
	}
	for i := range t.All() {
		if e := t.At(i); e.On != "" {
			if table, ok := b.tables[[2]string{e.ID.Schema, e.On}]; ok {
				b.on[table] = append(b.on[table], i)
			}
		}
	}
	b.link()
	if err := b.history(ctx, m.c); err != nil {
		return nil, err
	}
	return b, m.environments(ctx, b)
}

// link puts the edges to their ends, and prepares the reader of texts.
func (b *book) link() {
	n := len(b.objects)
	b.from, b.to, b.outside = make([][]int32, n), make([][]int32, n), make([][]int32, n)
	r := &schema.Reading{Engine: b.Snapshot.Engine, Database: b.Snapshot.Database, Objects: b.objects}
	for i := range b.graph.Edges {
		e := &b.graph.Edges[i]
		from, to := b.graph.Ends[e.From].Entry, b.graph.Ends[e.To].Entry
		b.from[from] = append(b.from[from], int32(i))
		b.to[to] = append(b.to[to], int32(i))
		if e.Use == schema.UseCalls && b.objects[from].Kind == schema.KindTrigger {
			r.Dependencies = append(r.Dependencies, b.graph.Dependency(b.contents, e))
		}
	}
	for i := range b.graph.Outside {
		from := b.graph.Ends[b.graph.Outside[i].From].Entry
		b.outside[from] = append(b.outside[from], int32(i))
	}
	if b.engine != nil {
		b.reader = references.NewReader(r, b.engine)
	}
}

// mostReadings is how many readings back the history on a page goes.
const mostReadings = 40

// history finds when objects changed, by their hashes.
func (b *book) history(ctx context.Context, c *catalogue.Catalogue) error {
	b.events = map[schema.ID][]event{}
	if b.Snapshot.Path != "" {
		return nil
	}
	all, err := c.Of(ctx, b.Snapshot.Server, b.Snapshot.Database)
	if err != nil {
		return err
	}
	all = slices.DeleteFunc(all, func(s *catalogue.Snapshot) bool {
		return s.Taken.After(b.Snapshot.Taken) || s.Model != b.Snapshot.Model
	})
	slices.SortFunc(all, func(x, y *catalogue.Snapshot) int { return x.Taken.Compare(y.Taken) })
	if len(all) > mostReadings {
		all = all[len(all)-mostReadings:]
	}
	var before *catalogue.Contents
	for _, s := range all {
		if before != nil && s.Root == before.Snapshot.Root {
			continue
		}
		now, err := c.Contents(ctx, s)
		if err != nil {
			return err
		}
		if before != nil {
			catalogue.DiffEntries(before.All(), now.All(), func(was, is *catalogue.Entry) {
				switch {
				case is == nil:
				case was == nil:
					b.events[is.ID] = append(b.events[is.ID], event{s.Taken, "came"})
				default:
					b.events[is.ID] = append(b.events[is.ID], event{s.Taken, "changed"})
				}
			})
		}
		before = now
	}
	return nil
}

// environments lays the database beside its counterparts.
func (m *maker) environments(ctx context.Context, b *book) error {
	b.apart = map[schema.Identity][]standing{}
	s := b.Snapshot
	if s.Family == "" || s.Environment == "" || b.engine == nil || s.Path != "" {
		return nil
	}
	list := []*catalogue.Snapshot{s}
	for _, other := range m.o.Latest {
		if other.Family == s.Family && other.Environment != "" && other.Environment != s.Environment && other.Counterpart() == s.Counterpart() && other.Engine == s.Engine {
			list = append(list, other)
		}
	}
	if len(list) == 1 {
		return nil
	}
	o := diff.For(b.engine)
	o.Without = m.o.Without
	g, err := drift.Compare(ctx, m.c, list, o)
	if err != nil {
		return err
	}
	for i := range g.Rows {
		row := &g.Rows[i]
		for k := 1; k < len(row.Cells); k++ {
			x := standing{Environment: list[k].Environment, State: string(row.Cells[k].State)}
			if t := row.Cells[k].Since; !t.IsZero() {
				x.Since = when(t)
			}
			b.apart[row.ID.Identity()] = append(b.apart[row.ID.Identity()], x)
		}
	}
	return nil
}

// path returns the file of an object's page, from the root of the handbook.
func (b *book) path(entry int) string { return b.folder + "/" + b.slugOf(entry) + ".html" }

func (b *book) slugOf(entry int) string {
	id := b.objects[entry].ID()
	name := strings.ReplaceAll(string(id.Kind), " ", "-") + "." + id.String()
	return slug(name)
}

// page returns the entry on whose page an object is told of, -1 if there is none.
func (b *book) page(entry int) int {
	if b.hasPage[entry] {
		return entry
	}
	if attached(b.objects[entry].Kind) {
		if table, ok := b.tables[[2]string{b.objects[entry].Schema, b.contents.At(entry).On}]; ok && b.hasPage[table] {
			return table
		}
	}
	return -1
}
