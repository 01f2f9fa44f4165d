package catalogue

// Loading goes from snapshots by chunks to contents, and decodes no more than the answer needs. What is read is checked
// against its hash.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// chunkQuery asks for the entries of a chunk.
const chunkQuery = "SELECT entries FROM chunk WHERE hash = ?"

// chunkRef is a chunk as the root of a snapshot names it.
type chunkRef struct {
	schema string
	kind   schema.Kind
	count  int
	hash   schema.Hash
}

func (c *Catalogue) node(ctx context.Context, hash schema.Hash) ([]byte, error) {
	var body []byte
	err := c.db.QueryRowContext(ctx, "SELECT body FROM node WHERE hash = ?", hash[:]).Scan(&body)
	return body, c.explain("reading", checkNode(hash, body, err))
}

func (c *Catalogue) root(ctx context.Context, s *Snapshot) ([]chunkRef, error) {
	c = c.of(s)
	body, err := c.node(ctx, s.Root)
	if err != nil {
		return nil, err
	}
	refs, err := s.chunks(body)
	return refs, c.explain("reading", err)
}

// chunks returns what the root of a snapshot names.
func (s *Snapshot) chunks(root []byte) ([]chunkRef, error) {
	refs, ok := decodeRoot(root)
	if !ok {
		return nil, fmt.Errorf("%w: the root of snapshot %d is broken", ErrDamaged, s.ID)
	}
	return refs, nil
}

func decodeRoot(body []byte) (refs []chunkRef, ok bool) {
	r := stored.Reader{S: string(body)}
	for r.Pos < len(r.S) && !r.Failed {
		ref := chunkRef{schema: r.Text(), kind: schema.Kind(r.Text()), count: int(r.Number())}
		copy(ref.hash[:], r.Bytes(len(ref.hash)))
		refs = append(refs, ref)
	}
	return refs, !r.Failed
}

// Contents loads the entries of a snapshot.
func (c *Catalogue) Contents(ctx context.Context, s *Snapshot) (*Contents, error) {
	refs, err := c.root(ctx, s)
	if err != nil {
		return nil, err
	}
	out := &Contents{Snapshot: s, chunks: refs}
	out.entries, err = c.of(s).entriesOf(ctx, refs)
	return out, err
}

// ContentsAhead is like Contents, for who asks for the dependencies next: they are read at the same time.
func (c *Catalogue) ContentsAhead(ctx context.Context, s *Snapshot) (*Contents, error) {
	refs, err := c.root(ctx, s)
	if err != nil {
		return nil, err
	}
	entries := entriesIn(refs)
	out := &Contents{Snapshot: s, chunks: refs, needs: sync.OnceValues(func() (*Graph, error) { return c.of(s).graph(ctx, s, entries) })}
	done := make(chan struct{})
	go func() {
		_, _ = out.needs() // whoever asks gets the error
		close(done)
	}()
	if out.entries, err = c.of(s).entriesOf(ctx, refs); err != nil {
		<-done
	}
	return out, err
}

// entriesIn returns how many entries chunks hold.
func entriesIn(refs []chunkRef) int {
	total := 0
	for _, ref := range refs {
		total += ref.count
	}
	return total
}

// entriesOf loads the entries of chunks; decoding goes on beside reading.
func (c *Catalogue) entriesOf(ctx context.Context, refs []chunkRef) ([]Entry, error) {
	tx, err := c.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer tx.Rollback()
	stmt, err := tx.PrepareContext(ctx, chunkQuery)
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer stmt.Close()
	entries := large[Entry](entriesIn(refs))
	var decoding errgroup.Group
	at := 0
	for _, ref := range refs {
		body, err := chunkBody(ctx, stmt, ref)
		if err != nil {
			_ = decoding.Wait()
			return nil, c.explain("reading", err)
		}
		list := entries[at : at : at+ref.count]
		at += ref.count
		decoding.Go(func() error {
			_, err := decodeChunk(list, ref, body)
			return err
		})
	}
	if err := decoding.Wait(); err != nil {
		return nil, c.explain("reading", err)
	}
	c.own(entries)
	return entries, nil
}

// chunkBody loads a chunk. A row's own Scan would copy it once more, and memory that is touched for the first time
// is what loading a large snapshot spends its time on.
func chunkBody(ctx context.Context, stmt *sql.Stmt, ref chunkRef) (string, error) {
	rows, err := stmt.QueryContext(ctx, ref.hash[:])
	if err != nil {
		return "", err
	}
	defer rows.Close()
	if !rows.Next() {
		if err := rows.Err(); err != nil {
			return "", err
		}
		return "", fmt.Errorf("%w: chunk %s is missing", ErrDamaged, ref.hash)
	}
	var body sql.RawBytes
	if err := rows.Scan(&body); err != nil {
		return "", err
	}
	if err := rows.Err(); err != nil {
		return "", err
	}
	return unsealChunk(ref.hash[:], string(body))
}

// decodeChunk appends the entries of a chunk to list.
func decodeChunk(list []Entry, ref chunkRef, body string) ([]Entry, error) {
	before := len(list)
	list, err := decodeEntries(list, ref.schema, ref.kind, body)
	if err == nil && len(list)-before != ref.count {
		err = fmt.Errorf("%w: chunk %s has lost entries", ErrDamaged, ref.hash)
	}
	return list, err
}

// chunkEntries appends the entries of a chunk to list.
func (c *Catalogue) chunkEntries(ctx context.Context, stmt *sql.Stmt, ref chunkRef, list []Entry) ([]Entry, error) {
	body, err := chunkBody(ctx, stmt, ref)
	if err == nil {
		list, err = decodeChunk(list, ref, body)
	}
	return list, c.explain("reading", err)
}

// Pair loads the entries of two snapshots as far as they lie in chunks that are not the same.
func (c *Catalogue) Pair(ctx context.Context, a, b *Snapshot) (before, after *Contents, same int, err error) {
	refs := [2][]chunkRef{}
	for i, s := range []*Snapshot{a, b} {
		if refs[i], err = c.root(ctx, s); err != nil {
			return nil, nil, 0, err
		}
	}
	shared := map[schema.Hash]bool{}
	for _, ref := range refs[0] {
		shared[ref.hash] = true
	}
	for _, ref := range refs[1] {
		if shared[ref.hash] {
			same += ref.count
		}
	}
	theirs := map[schema.Hash]bool{}
	for _, ref := range refs[1] {
		theirs[ref.hash] = true
	}
	out := [2]*Contents{{Snapshot: a}, {Snapshot: b}}
	other := [2]map[schema.Hash]bool{theirs, shared}
	for i := range out {
		differing := slices.DeleteFunc(refs[i], func(ref chunkRef) bool { return other[i][ref.hash] })
		if out[i].entries, err = c.of(out[i].Snapshot).entriesOf(ctx, differing); err != nil {
			return nil, nil, 0, err
		}
	}
	return out[0], out[1], same, nil
}

// Chunk is a run of objects of one schema and kind, with their names.
type Chunk struct {
	Names    *index.Names
	Snapshot *Snapshot
	Place    int // among all chunks of a scan

	c      *Catalogue
	ctx    context.Context
	t      *Contents
	ref    chunkRef
	places places
	at     int
	list   []Entry
	reader *indexReader // of the Scan that gave the chunk
}

// Kind returns the kind of the chunk's objects.
func (k *Chunk) Kind() schema.Kind { return k.ref.kind }

// Start returns the place of the chunk's first entry among those of the snapshot.
func (k *Chunk) Start() int { return k.at }

// Len returns how many entries the chunk has.
func (k *Chunk) Len() int { return k.ref.count }

// Schema returns the schema of the chunk's objects.
func (k *Chunk) Schema() string { return k.ref.schema }

// Texts returns the texts of the chunk's objects during a Scan, nil if they have none. What the chunk's Names gave
// holds no longer.
func (k *Chunk) Texts() (*index.Texts, error) {
	k.Names = nil
	return k.reader.texts(k)
}

// Entries returns the chunk's entries; they are loaded when they are first asked for.
func (k *Chunk) Entries() ([]Entry, error) {
	switch {
	case k.list != nil:
	case k.t.entries != nil:
		k.list = k.t.entries[k.at : k.at+k.ref.count]
	default:
		stmt, err := k.c.db.PrepareContext(k.ctx, chunkQuery)
		if err != nil {
			return nil, k.c.explain("reading", err)
		}
		defer stmt.Close()
		if k.list, err = k.c.chunkEntries(k.ctx, stmt, k.ref, nil); err != nil {
			return nil, err
		}
		k.c.own(k.list)
	}
	return k.list, nil
}

// Names calls each for the chunks of a snapshot in order. The contents need not hold the entries: see
// Outline.
func (c *Catalogue) Names(ctx context.Context, t *Contents, each func(*Chunk) error) error {
	c = c.of(t.Snapshot)
	chunks, err := c.chunksOf(ctx, t)
	if err != nil {
		return err
	}
	reader := indexReader{c: c, ctx: ctx, keep: true}
	for i := range chunks {
		k := &chunks[i]
		if k.Names, err = reader.names(k); err != nil {
			return err
		}
		if err := each(k); err != nil {
			return err
		}
	}
	c.mendIndexes(ctx, reader.bad)
	return nil
}

// chunksOf returns the chunks of a snapshot, without their names.
func (c *Catalogue) chunksOf(ctx context.Context, t *Contents) ([]Chunk, error) {
	var list []byte
	err := c.db.QueryRowContext(ctx, "SELECT places FROM snapshot WHERE id = ?", t.Snapshot.ID).Scan(&list)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, c.explain("reading", err)
	}
	return c.chunksAt(ctx, t, unsealPlaces(placesKey(t.Snapshot.ID), list)), nil
}

// chunksAt returns the chunks of a snapshot; list says where their indexes lie.
func (c *Catalogue) chunksAt(ctx context.Context, t *Contents, list []byte) []Chunk {
	chunks := make([]Chunk, len(t.chunks))
	at := 0
	for i, ref := range t.chunks {
		chunks[i] = Chunk{Snapshot: t.Snapshot, c: c, ctx: ctx, t: t, ref: ref, at: at}
		if len(list) >= (i+1)*placesSize {
			chunks[i].places = decodePlaces(list[i*placesSize:])
		}
		at += ref.count
	}
	return chunks
}

// chunksOfAll returns the chunks of several snapshots in their order, asking once.
func (c *Catalogue) chunksOfAll(ctx context.Context, snapshots []*Snapshot) ([]Chunk, error) {
	ids := make([]any, len(snapshots))
	for i, s := range snapshots {
		ids[i] = s.ID
	}
	rows, err := c.db.QueryContext(ctx, "SELECT snapshot.id, body, places FROM snapshot LEFT JOIN node ON hash = root WHERE snapshot.id IN (0"+strings.Repeat(", ?", len(ids))+")", ids...)
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer rows.Close()
	type found struct{ root, list []byte }
	of := map[int64]found{}
	for rows.Next() {
		var id int64
		var f found
		if err := rows.Scan(&id, &f.root, &f.list); err != nil {
			return nil, c.explain("reading", err)
		}
		of[id] = f
	}
	if err := rows.Err(); err != nil {
		return nil, c.explain("reading", err)
	}
	var all []Chunk
	for _, s := range snapshots {
		f, ok := of[s.ID]
		if !ok {
			continue // dropped meanwhile
		}
		if schema.HashOf(f.root) != s.Root {
			return nil, c.explain("reading", fmt.Errorf("%w: the root of snapshot %d is missing, or is not what its hash says", ErrDamaged, s.ID))
		}
		refs, err := s.chunks(f.root)
		if err != nil {
			return nil, c.explain("reading", err)
		}
		all = append(all, c.chunksAt(ctx, &Contents{Snapshot: s, chunks: refs}, unsealPlaces(placesKey(s.ID), f.list))...)
	}
	return all, nil
}

// Scan calls each for every chunk of the snapshots, in several goroutines: worker tells which of them, from
// 0 to workers-1. Within a worker chunks come in order. A chunk's Names, and every text that they gave,
// hold only until each returns.
func (c *Catalogue) Scan(ctx context.Context, snapshots []*Snapshot, workers int, each func(worker int, k *Chunk) error) error {
	place := 0
	return c.byHome(snapshots, func(home *Catalogue, list []*Snapshot) error {
		all, err := home.chunksOfAll(ctx, list)
		if err != nil {
			return err
		}
		for i := range all {
			all[i].Place = place
			place++
		}
		return home.scan(ctx, all, workers, each)
	})
}

// scan is Scan over chunks.
func (c *Catalogue) scan(ctx context.Context, all []Chunk, workers int, each func(worker int, k *Chunk) error) error {
	var next atomic.Int64
	var bad atomic.Uint32
	workers = min(workers, max(1, len(all)/16)) // a further connection costs more than a few chunks
	scan := func(worker int) error {
		reader := indexReader{c: c, ctx: ctx}
		for {
			i := int(next.Add(1)) - 1
			if i >= len(all) {
				return nil
			}
			k := &all[i]
			var err error
			k.reader = &reader
			if k.Names, err = reader.names(k); err == nil {
				err = each(worker, k)
			}
			k.Names, k.reader = nil, nil
			if err != nil {
				return err
			}
			if reader.bad > 0 {
				bad.Store(reader.bad)
			}
		}
	}
	var group errgroup.Group
	for w := 1; w < workers; w++ {
		group.Go(func() error { return scan(w) })
	}
	err := scan(0)
	if other := group.Wait(); err == nil {
		err = other
	}
	if err == nil {
		c.mendIndexes(ctx, bad.Load())
	}
	return err
}

// Outline returns the contents of a snapshot without their entries, for Names.
func (c *Catalogue) Outline(ctx context.Context, s *Snapshot) (*Contents, error) {
	refs, err := c.root(ctx, s)
	return &Contents{Snapshot: s, chunks: refs}, err
}

// Objects loads the contents of entries, in their order.
func (c *Catalogue) Objects(ctx context.Context, entries []*Entry) ([]*schema.Object, error) {
	objects := make([]*schema.Object, len(entries))
	err := c.contents(ctx, entries, func(i int, content []byte) error {
		var err error
		objects[i], err = schema.DecodeObject(content)
		return err
	})
	return objects, err
}

// Differing loads two versions of objects as far as they differ: see schema.DecodeDiffering.
func (c *Catalogue) Differing(ctx context.Context, before, after []*Entry) (olds, news []*schema.Object, err error) {
	forms := [2][][]byte{make([][]byte, len(before)), make([][]byte, len(after))}
	for side, entries := range [][]*Entry{before, after} {
		err := c.contents(ctx, entries, func(i int, content []byte) error { forms[side][i] = content; return nil })
		if err != nil {
			return nil, nil, err
		}
	}
	olds, news = make([]*schema.Object, len(before)), make([]*schema.Object, len(after))
	for i := range olds {
		if olds[i], news[i], err = schema.DecodeDiffering(forms[0][i], forms[1][i]); err != nil {
			return nil, nil, c.explain("reading", fmt.Errorf("%w: %v", ErrDamaged, err))
		}
	}
	return olds, news, nil
}

// contents calls each with the place and the compact form of every entry, pack by pack, in several
// goroutines at a time.
func (c *Catalogue) contents(ctx context.Context, entries []*Entry, each func(i int, content []byte) error) error {
	var own, guests []int
	for i, e := range entries {
		if e.home != nil {
			guests = append(guests, i)
		} else {
			own = append(own, i)
		}
	}
	if len(guests) > 0 {
		home := entries[guests[0]].home
		if err := home.contentsOf(ctx, entries, guests, each); err != nil {
			return err
		}
	}
	return c.contentsOf(ctx, entries, own, each)
}

// contentsOf is contents for some of the entries, by their places.
func (c *Catalogue) contentsOf(ctx context.Context, entries []*Entry, order []int, each func(i int, content []byte) error) error {
	if len(order) == 0 {
		return nil
	}
	slices.SortStableFunc(order, func(a, b int) int { return int(entries[a].at.pack) - int(entries[b].at.pack) })
	tx, err := c.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return c.explain("reading", err)
	}
	defer tx.Rollback()
	stmt, err := tx.PrepareContext(ctx, "SELECT body FROM pack WHERE id = ?")
	if err != nil {
		return c.explain("reading", err)
	}
	defer stmt.Close()
	var opening errgroup.Group
	opening.SetLimit(8)
	for len(order) > 0 {
		pack := entries[order[0]].at.pack
		n := 1
		for n < len(order) && entries[order[n]].at.pack == pack {
			n++
		}
		var body []byte
		if err := stmt.QueryRowContext(ctx, pack).Scan(&body); err != nil {
			_ = opening.Wait()
			if errors.Is(err, sql.ErrNoRows) {
				err = fmt.Errorf("%w: pack %d is missing", ErrDamaged, pack)
			}
			return c.explain("reading", err)
		}
		places := order[:n]
		order = order[n:]
		opening.Go(func() error { return c.openPack(pack, body, entries, places, each) })
	}
	return c.explain("reading", opening.Wait())
}

// openPack takes the contents of those entries out of a pack that lie in it.
func (c *Catalogue) openPack(pack uint32, body []byte, entries []*Entry, places []int, each func(i int, content []byte) error) error {
	raw, err := c.dec.DecodeAll(body, nil)
	if err != nil {
		return fmt.Errorf("%w: pack %d: %v", ErrDamaged, pack, err)
	}
	for _, i := range places {
		e := entries[i]
		end := uint64(e.at.offset) + uint64(e.at.length)
		if end > uint64(len(raw)) {
			return fmt.Errorf("%w: pack %d is too short", ErrDamaged, pack)
		}
		content := raw[e.at.offset:end]
		if schema.HashOf(content) != e.Hash {
			return fmt.Errorf("%w: %s does not hold what its hash says", ErrDamaged, e.ID.Qualified())
		}
		if err := each(i, content); err != nil {
			return fmt.Errorf("%w: %v", ErrDamaged, err)
		}
	}
	return nil
}

// Object loads the content of one entry.
func (c *Catalogue) Object(ctx context.Context, e *Entry) (*schema.Object, error) {
	objects, err := c.Objects(ctx, []*Entry{e})
	if err != nil {
		return nil, err
	}
	return objects[0], nil
}

// Needs loads the dependencies of a snapshot.
func (c *Catalogue) Needs(ctx context.Context, t *Contents) (*Graph, error) {
	if t.needs != nil {
		return t.needs()
	}
	return c.of(t.Snapshot).graph(ctx, t.Snapshot, t.Len())
}

func (c *Catalogue) graph(ctx context.Context, s *Snapshot, entries int) (*Graph, error) {
	body, err := c.node(ctx, s.needs)
	if err != nil {
		return nil, err
	}
	return c.wholeGraph(ctx, s, body, entries)
}

// wholeGraph returns the dependencies that are stored as, or named by, a body.
func (c *Catalogue) wholeGraph(ctx context.Context, s *Snapshot, body []byte, entries int) (*Graph, error) {
	if isDirectory(body) {
		dir, err := directoryOf(body, entries)
		if err != nil {
			return nil, c.explain("reading", err)
		}
		g, err := c.newGraphReader(ctx, dir).whole()
		return g, c.explain("reading", err)
	}
	raw, err := c.dec.DecodeAll(body, nil)
	if err != nil {
		return nil, c.explain("reading", fmt.Errorf("%w: the dependencies of snapshot %d: %v", ErrDamaged, s.ID, err))
	}
	g, err := decodeNeeds(raw, entries)
	return g, c.explain("reading", err)
}

// Size is what moves by itself: -1 where it is not known.
type Size struct{ Rows, Bytes int64 }

// Sizes returns the size of each entry, and that of the database as a whole.
func (c *Catalogue) Sizes(ctx context.Context, t *Contents) (entries []Size, database Size, err error) {
	c = c.of(t.Snapshot)
	body, err := c.node(ctx, t.Snapshot.measures)
	if err != nil {
		return nil, Size{}, err
	}
	raw, err := c.dec.DecodeAll(body, nil)
	if err != nil {
		return nil, Size{}, c.explain("reading", fmt.Errorf("%w: the sizes of snapshot %d: %v", ErrDamaged, t.Snapshot.ID, err))
	}
	entries = make([]Size, t.Len())
	for i := range entries {
		entries[i] = Size{-1, -1}
	}
	database = Size{-1, -1}
	r := stored.Reader{S: stored.View(raw)}
	for r.Pos < len(r.S) && !r.Failed {
		place, size := r.Number(), Size{int64(r.Number()) - 1, int64(r.Number()) - 1}
		switch {
		case place == 0:
			database = size
		case place <= uint64(len(entries)):
			entries[place-1] = size
		}
	}
	return entries, database, nil
}
