package catalogue

// The entries of a snapshot are there as a whole, or come chunk by chunk when they are asked for: an answer about one object among many
// needs few of them.

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"sort"
	"sync"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Contents are the entries of a snapshot in the order of their identifiers. Those of an Outline are not there at all; of those of Sparse
// contents each comes when it is asked for.
type Contents struct {
	Snapshot *Snapshot

	entries []Entry // nil where they are not there
	chunks  []chunkRef
	sparse  *sparse                // nil where all are there, or none
	needs   func() (*Graph, error) // what is read meanwhile, nil where it is not
}

// sparse loads entries when they are asked for.
type sparse struct {
	c      *Catalogue
	ctx    context.Context
	chunks []chunkRef
	starts []int // of the chunks among all entries; one more at the end

	lock   sync.Mutex
	at     []*Entry          // by place; nil what is not loaded
	places map[schema.ID]int // of what is loaded
	all    []Entry           // once all are asked for
	err    error             // the first that was met where none can be returned
}

// NewContents returns contents with these entries, which must be in the order of their identifiers.
func NewContents(s *Snapshot, entries []Entry) *Contents {
	return &Contents{Snapshot: s, entries: entries}
}

// Sparse returns the contents of a snapshot, of which each entry is loaded when it is asked for. What goes wrong then, Err returns: it has to be
// asked before an answer is given away. It may be used as long as ctx lasts.
func (c *Catalogue) Sparse(ctx context.Context, s *Snapshot) (*Contents, error) {
	refs, err := c.root(ctx, s)
	if err != nil {
		return nil, err
	}
	p := &sparse{c: c.of(s), ctx: ctx, chunks: refs, starts: make([]int, len(refs)+1), places: map[schema.ID]int{}}
	for i, ref := range refs {
		p.starts[i+1] = p.starts[i] + ref.count
	}
	p.at = make([]*Entry, p.starts[len(refs)])
	return &Contents{Snapshot: s, chunks: refs, sparse: p}, nil
}

// As returns the same contents as those of another copy of the snapshot.
func (t *Contents) As(s *Snapshot) *Contents {
	return &Contents{Snapshot: s, entries: t.entries, chunks: t.chunks, sparse: t.sparse, needs: t.needs}
}

// IsOutline reports whether the entries are not there, and cannot be had.
func (t *Contents) IsOutline() bool { return t.entries == nil && t.sparse == nil }

// IsSparse reports whether entries come when they are asked for.
func (t *Contents) IsSparse() bool { return t.sparse != nil }

// Len returns how many entries there are.
func (t *Contents) Len() int {
	if t.sparse != nil {
		return len(t.sparse.at)
	}
	return len(t.entries)
}

// All returns all entries.
func (t *Contents) All() []Entry {
	if t.sparse != nil {
		return t.sparse.whole()
	}
	return t.entries
}

// At returns the entry at a place.
func (t *Contents) At(i int) *Entry {
	if t.sparse != nil {
		return t.sparse.entry(i)
	}
	return &t.entries[i]
}

// Fetch loads the entries at some places, those that are not there yet.
func (t *Contents) Fetch(places []int) error {
	if t.sparse == nil {
		return nil
	}
	return t.sparse.fetch(places)
}

// Err returns what went wrong when entries were loaded by At or All.
func (t *Contents) Err() error {
	if t.sparse == nil {
		return nil
	}
	t.sparse.lock.Lock()
	defer t.sparse.lock.Unlock()
	return t.sparse.err
}

// Schemas returns the names of the schemas in which entries lie, in their order; "" is none.
func (t *Contents) Schemas() []string {
	var all []string
	add := func(s string) {
		if len(all) == 0 || all[len(all)-1] != s {
			all = append(all, s)
		}
	}
	if t.sparse != nil {
		for _, ref := range t.sparse.chunks {
			add(ref.schema)
		}
		return all
	}
	for i := range t.entries {
		add(t.entries[i].ID.Schema)
	}
	return all
}

// KindAt returns the kind of the entry at a place.
func (t *Contents) KindAt(i int) schema.Kind {
	if t.sparse != nil {
		return t.sparse.chunks[t.sparse.chunkOf(i)].kind
	}
	return t.entries[i].ID.Kind
}

// Find returns the entry of that identity, nil if there is none.
func (t *Contents) Find(id schema.ID) *Entry {
	i := t.Place(id)
	if i < 0 {
		return nil
	}
	return t.At(i)
}

// Place returns the place of the entry of an identity, -1 if there is none.
func (t *Contents) Place(id schema.ID) int {
	if t.sparse == nil {
		return find(t.entries, id)
	}
	if at, ok := t.sparse.placeOf(id); ok {
		return at
	}
	for i, ref := range t.sparse.chunks {
		if ref.schema != id.Schema || ref.kind != id.Kind {
			continue
		}
		last := i
		for last+1 < len(t.sparse.chunks) && t.sparse.chunks[last+1].schema == ref.schema && t.sparse.chunks[last+1].kind == ref.kind {
			last++
		}
		from, to := t.sparse.starts[i], t.sparse.starts[last+1]
		at := from + sort.Search(to-from, func(n int) bool { return t.At(from+n).ID.Compare(id) >= 0 })
		if at < to && t.At(at).ID == id {
			return at
		}
		return -1
	}
	return -1
}

// Bearers returns the entries that bear a name, in any case.
func (c *Catalogue) Bearers(ctx context.Context, t *Contents, name string) ([]*Entry, error) {
	var all []*Entry
	if t.sparse == nil {
		folded := names.Fold(name)
		for i := range t.entries {
			if e := &t.entries[i]; names.Fold(e.ID.Name) == folded {
				all = append(all, e)
			}
		}
		return all, nil
	}
	var places []int
	err := c.Scan(ctx, []*Snapshot{t.Snapshot}, 1, func(_ int, k *Chunk) error {
		found, err := k.Names.Objects(name)
		for _, at := range found {
			places = append(places, k.at+at)
		}
		return err
	})
	if err == nil {
		err = t.Fetch(places)
	}
	if err != nil {
		return nil, err
	}
	for _, i := range places {
		all = append(all, t.At(i))
	}
	return all, nil
}

// Indexed reports whether the names of snapshots can be read without their objects: those of the latest can.
func (c *Catalogue) Indexed(ctx context.Context, snapshots []*Snapshot) (bool, error) {
	indexed := true
	err := c.byHome(snapshots, func(home *Catalogue, list []*Snapshot) error {
		all, err := home.chunksOfAll(ctx, list)
		for i := range all {
			indexed = indexed && all[i].places[namesIndex].file != 0
		}
		return err
	})
	return indexed, err
}

// Attached returns the entries that stand on relations, on some of these: indexes, triggers, rules, policies.
func (c *Catalogue) Attached(ctx context.Context, t *Contents, relations []*Entry) ([]*Entry, error) {
	on := map[string][]string{} // schemas by the names of relations
	var places []int
	for _, e := range relations {
		if e.ID.Kind.IsRelation() {
			on[e.ID.Name] = append(on[e.ID.Name], e.ID.Schema)
			if t.sparse != nil {
				places = append(places, t.Place(e.ID))
			}
		}
	}
	var all []*Entry
	add := func(e *Entry) {
		if e.On != "" && slices.Contains(on[e.On], e.ID.Schema) {
			all = append(all, e)
		}
	}
	if t.sparse == nil || len(on) == 0 {
		for i := range t.entries {
			add(&t.entries[i])
		}
		return all, nil
	}
	g, err := c.Around(ctx, t, places, false, 1) // what stands on a relation depends on it
	if err != nil {
		return nil, err
	}
	var standing []int
	for i := range g.Edges {
		if e := &g.Edges[i]; e.Use == schema.UseIndexOn || e.Use == schema.UseTriggerOn || e.Use == schema.UseStandsOn {
			standing = append(standing, g.Ends[e.From].Entry)
		}
	}
	slices.Sort(standing)
	standing = slices.Compact(standing)
	if err := t.Fetch(standing); err != nil {
		return nil, err
	}
	for _, i := range standing {
		add(t.At(i))
	}
	return all, nil
}

// CountIndexes returns how many indexes stand on each of some entries.
func (t *Contents) CountIndexes(on []*Entry) []int {
	counts := make([]int, len(on))
	relations := map[[2]string]int{}
	for i, e := range on {
		if e.ID.Kind.IsRelation() {
			relations[[2]string{e.ID.Schema, e.ID.Name}] = i
		}
	}
	if len(relations) == 0 {
		return counts
	}
	all := t.All()
	for i := range all {
		if e := &all[i]; e.ID.Kind == schema.KindIndex {
			if at, ok := relations[[2]string{e.ID.Schema, e.On}]; ok {
				counts[at]++
			}
		}
	}
	return counts
}

// chunkOf returns the chunk of the entry at a place.
func (p *sparse) chunkOf(i int) int {
	return sort.Search(len(p.chunks), func(k int) bool { return p.starts[k+1] > i })
}

// placeOf returns the place of an entry that is loaded.
func (p *sparse) placeOf(id schema.ID) (int, bool) {
	p.lock.Lock()
	defer p.lock.Unlock()
	at, ok := p.places[id]
	return at, ok
}

// note keeps the first error; the lock is held.
func (p *sparse) note(err error) {
	if p.err == nil {
		p.err = err
	}
}

// entry returns the entry at a place, an empty one where it cannot be loaded. With it come the others of its chunk.
func (p *sparse) entry(i int) *Entry {
	p.lock.Lock()
	defer p.lock.Unlock()
	if p.at[i] == nil && p.all != nil {
		p.at[i] = &p.all[i]
	}
	if p.at[i] == nil {
		chunk := p.chunkOf(i)
		places := make([]int, 0, p.chunks[chunk].count)
		for at := p.starts[chunk]; at < p.starts[chunk+1]; at++ {
			places = append(places, at)
		}
		p.note(p.load(places))
	}
	if p.at[i] == nil {
		return new(Entry)
	}
	return p.at[i]
}

// whole returns all entries, none where they cannot be loaded.
func (p *sparse) whole() []Entry {
	p.lock.Lock()
	defer p.lock.Unlock()
	if p.all == nil {
		all, err := p.c.entriesOf(p.ctx, p.chunks)
		p.note(err)
		p.all = all
	}
	return p.all
}

func (p *sparse) fetch(places []int) error {
	p.lock.Lock()
	defer p.lock.Unlock()
	missing := slices.DeleteFunc(slices.Clone(places), func(i int) bool { return p.at[i] != nil })
	slices.Sort(missing)
	return p.load(slices.Compact(missing))
}

// load loads the entries at places, which are in order.
func (p *sparse) load(places []int) error {
	if len(places) == 0 {
		return nil
	}
	tx, err := p.c.db.BeginTx(p.ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return p.c.explain("reading", err)
	}
	defer tx.Rollback()
	stmt, err := tx.PrepareContext(p.ctx, chunkQuery)
	if err != nil {
		return p.c.explain("reading", err)
	}
	defer stmt.Close()
	wanted := places
	var decoding errgroup.Group
	decoding.SetLimit(2)
	for len(places) > 0 {
		i := p.chunkOf(places[0])
		n := sort.SearchInts(places, p.starts[i+1])
		some := places[:n]
		places = places[n:]
		body, err := chunkBody(p.ctx, stmt, p.chunks[i])
		if err != nil {
			_ = decoding.Wait()
			return p.c.explain("reading", err)
		}
		decoding.Go(func() error { return p.take(i, body, some) })
	}
	if err := decoding.Wait(); err != nil {
		return p.c.explain("reading", err)
	}
	const few = 1000
	for _, i := range wanted[:min(len(wanted), few)] {
		p.places[p.at[i].ID] = i
	}
	return nil
}

// take takes entries out of a chunk.
func (p *sparse) take(chunk int, body string, places []int) error {
	ref, wanted := p.chunks[chunk], make([]int, len(places))
	for i, at := range places {
		wanted[i] = at - p.starts[chunk]
	}
	list, count, err := decodeSome(make([]Entry, 0, len(places)), ref.schema, ref.kind, body, wanted)
	if err == nil && (count != ref.count || len(list) < len(places)) {
		err = fmt.Errorf("%w: chunk %s has lost entries", ErrDamaged, ref.hash)
	}
	if err != nil {
		return err
	}
	p.c.own(list)
	for i := range list {
		p.at[places[i]] = &list[i]
	}
	return nil
}
