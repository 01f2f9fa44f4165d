package catalogue

// Saving stores what is not there yet: contents by hash, chunks by the hashes of their entries. One transaction makes the
// snapshot visible.

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sort"

	"github.com/klauspost/compress/zstd"
	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// Origin says where a reading comes from.
type Origin struct {
	Server, Environment, Family, Label string
	Path                               string // of an exported snapshot
}

// Changes counts what differs from the snapshot before.
type Changes struct {
	Added   int `json:"added"`
	Removed int `json:"removed"`
	Changed int `json:"changed"`
}

// packSize is about how much content a pack holds before it is compressed, in bytes. An answer that
// needs one object reads one pack.
const packSize = 32 << 10

// pack is a run of contents that is compressed as one.
type pack struct {
	holds, body []byte
	id          uint32
}

// Save stores a reading as a new snapshot and returns it, with what changed since the one before; nil
// if it is the first. The reading is put into order.
func (c *Catalogue) Save(ctx context.Context, from Origin, r *schema.Reading) (*Snapshot, *Changes, error) {
	d, err := c.Draft(r)
	if err != nil {
		return nil, nil, err
	}
	return d.Save(ctx, from)
}

// Draft is a reading in its compact form, not yet stored. Its dependencies may still be added to.
type Draft struct {
	r *schema.Reading
	w *saver
}

// Draft prepares a reading for being stored: the reading is put into order.
func (c *Catalogue) Draft(r *schema.Reading) (*Draft, error) {
	r.Sort()
	for i := 1; i < len(r.Objects); i++ {
		if r.Objects[i].ID() == r.Objects[i-1].ID() {
			return nil, fmt.Errorf("storing %s: the reading holds %s twice", r.Database, r.Objects[i].ID().Qualified())
		}
	}
	w := &saver{c: c, model: cmp.Or(r.Model, schema.ModelVersion), objects: r.Objects}
	w.encode()
	return &Draft{r, w}, nil
}

// Save stores the draft as a new snapshot, as the catalogue's Save does.
func (d *Draft) Save(ctx context.Context, from Origin) (*Snapshot, *Changes, error) {
	r, w, c := d.r, d.w, d.w.c
	// The dependencies are worked out beside the rest.
	var needs *directory
	var measures []byte
	var beside errgroup.Group
	beside.Go(func() error {
		needs = encodeParts(w.entries, append(schema.Structural(r.Objects), r.Dependencies...), w.model, r.Resolver)
		measures = encodeMeasures(w.entries, r.Measures)
		enc, err := c.encoder()
		if err != nil {
			return err
		}
		needs.seal(enc)
		return nil
	})
	defer func() { _ = beside.Wait() }()
	before, err := c.previous(ctx, from.Server, r.Database, from.Path)
	if err != nil {
		return nil, nil, err
	}
	s := &Snapshot{
		Server: from.Server, Database: r.Database, Engine: r.Engine, Version: r.Version, User: r.User, Environment: from.Environment,
		Family: from.Family, Label: from.Label, Taken: r.Taken, Model: w.model, Counts: map[schema.Kind]int{}, Remarks: r.Remarks, Path: from.Path,
	}
	if c.Called != nil {
		s.Engine = c.Called(s.Engine, s.Version)
	}
	for _, o := range r.Objects {
		s.Counts[o.Kind]++
	}
	if err := CheckLabel(s.Label); err != nil {
		return nil, nil, err
	}
	if s.Label != "" {
		if s.TakenFrom, err = c.labelled(ctx, s, s.Label); err != nil {
			return nil, nil, err
		}
	}
	if err := beside.Wait(); err != nil {
		return nil, nil, err
	}
	for {
		changes, err := w.reuse(ctx, before)
		if errors.Is(err, ErrDropped) {
			if before, err = c.previous(ctx, from.Server, r.Database, from.Path); err == nil {
				continue
			}
		}
		if err != nil {
			return nil, nil, err
		}
		if err := w.fillPacks(); err != nil {
			return nil, nil, err
		}
		err = w.write(ctx, s, needs, measures)
		if err == nil {
			s.Untidy = w.c.compactIndexes(ctx) // the snapshot is stored, whatever becomes of the index
			return s, changes, nil
		}
		if !errors.Is(err, errDropped) {
			return nil, nil, c.explain("writing to", err)
		}
		if before, err = c.previous(ctx, from.Server, r.Database, from.Path); err != nil {
			return nil, nil, err
		}
	}
}

// errDropped says that snapshots were dropped since it was looked which contents are stored already.
var errDropped = errors.New("stored contents were dropped meanwhile")

type saver struct {
	c        *Catalogue
	model    int
	objects  []*schema.Object
	contents [][]byte
	entries  []Entry
	chunks   []chunk
	fresh    []bool            // by chunk: it has to be stored
	bare     []bool            // by chunk: its indexes have to be stored
	moves    uint32            // number of the file of indexes when it was looked what is stored: it grows with each drop
	indexes  [][indexes][]byte // by chunk, if they have to be stored
	places   []places
	packs    []*pack
	inPack   map[schema.Hash]packed
}

type packed struct {
	pack           *pack
	offset, length uint32
}

// encode writes the objects in their compact form and cuts them into chunks.
func (w *saver) encode() {
	w.contents = make([][]byte, len(w.objects))
	w.entries = make([]Entry, len(w.objects))
	var half errgroup.Group
	work := func(from, to int) {
		var arena []byte
		for i := from; i < to; i++ {
			if cap(arena)-len(arena) < 16<<10 {
				arena = make([]byte, 0, 1<<20)
			}
			start := len(arena)
			arena = schema.AppendObject(arena, w.objects[i])
			w.contents[i] = arena[start:len(arena):len(arena)]
			w.entries[i] = Entry{ID: w.objects[i].ID(), Hash: schema.HashOf(w.contents[i]), Summary: summarise(w.objects[i])}
		}
	}
	middle := len(w.objects) / 2
	half.Go(func() error { work(0, middle); return nil })
	work(middle, len(w.objects))
	_ = half.Wait() // never fails
	w.chunks = cut(w.entries)
	w.fresh, w.bare = make([]bool, len(w.chunks)), make([]bool, len(w.chunks))
}

// reuse finds the contents that are stored already, and counts what changed.
func (w *saver) reuse(ctx context.Context, before *Snapshot) (*Changes, error) {
	wanted := make(map[schema.Hash]place)
	if err := w.c.db.QueryRowContext(ctx, "SELECT number FROM indexfile").Scan(&w.moves); err != nil {
		return nil, w.c.explain("reading", err)
	}
	clear(w.fresh)
	clear(w.bare)
	w.places = make([]places, len(w.chunks))
	for i, ch := range w.chunks {
		var at []byte
		err := w.c.db.QueryRowContext(ctx, "SELECT places FROM chunk WHERE hash = ?", ch.hash[:]).Scan(&at)
		switch err {
		case nil:
			w.places[i] = decodePlaces(unsealPlaces(ch.hash[:], at))
			w.bare[i] = w.places[i][namesIndex].file == 0
		case sql.ErrNoRows:
			w.fresh[i], w.bare[i] = true, true
			for _, e := range ch.entries {
				wanted[e.Hash] = place{}
			}
		default:
			return nil, w.c.explain("reading", err)
		}
	}
	if err := w.c.findContents(ctx, wanted); err != nil {
		return nil, err
	}
	for i, ch := range w.chunks {
		if w.fresh[i] {
			for j := range ch.entries {
				ch.entries[j].at = wanted[ch.entries[j].Hash]
			}
		}
	}
	if before == nil {
		return nil, nil
	}
	return w.count(ctx, before)
}

// count compares with the snapshot before by hashes.
func (w *saver) count(ctx context.Context, before *Snapshot) (*Changes, error) {
	changes := &Changes{}
	old, err := w.c.Contents(ctx, before)
	if err != nil {
		return nil, err
	}
	var olds []*Entry
	var news []*schema.Object // of objects that were read with another version of the model
	DiffEntries(old.entries, w.entries, func(was, now *Entry) {
		switch {
		case was == nil:
			changes.Added++
		case now == nil:
			changes.Removed++
		case before.Model != w.model:
			olds, news = append(olds, was), append(news, w.objects[find(w.entries, now.ID)])
		default:
			changes.Changed++
		}
	})
	return changes, w.countOlder(ctx, before, olds, news, changes)
}

// countOlder counts what changed of objects whose bytes differ, if only because the model has got more fields.
func (w *saver) countOlder(ctx context.Context, before *Snapshot, olds []*Entry, news []*schema.Object, changes *Changes) error {
	if len(olds) == 0 {
		return nil
	}
	objects, err := w.c.Objects(ctx, olds)
	if err != nil {
		return err
	}
	for i, o := range objects {
		if len(schema.Compare(o, news[i], before.Model, w.model)) > 0 {
			changes.Changed++
		}
	}
	return nil
}

// DiffEntries calls each for every object that differs between two lists in the order of their
// identifiers; one side is nil where it is missing there. What is of another kind now is the same object; such
// pairs come after the others of both sides, what is on one side alone last.
func DiffEntries(before, after []Entry, each func(before, after *Entry)) {
	var gone, come []*Entry
	i, j := 0, 0
	for i < len(before) || j < len(after) {
		order := 0
		switch {
		case i == len(before):
			order = 1
		case j == len(after):
			order = -1
		default:
			order = before[i].ID.Compare(after[j].ID)
		}
		switch {
		case order < 0:
			gone = append(gone, &before[i])
			i++
		case order > 0:
			come = append(come, &after[j])
			j++
		default:
			if before[i].Hash != after[j].Hash {
				each(&before[i], &after[j])
			}
			i++
			j++
		}
	}
	pairIdentities(gone, come, each)
}

// pairIdentities calls each for what is on one side alone by its identifier, the same objects of two kinds as pairs.
func pairIdentities(gone, come []*Entry, each func(before, after *Entry)) {
	if len(gone) > 0 && len(come) > 0 {
		now := make(map[schema.Identity]int, len(come))
		for i, e := range come {
			now[e.ID.Identity()] = i
		}
		come = slices.Clone(come)
		gone = slices.DeleteFunc(gone, func(e *Entry) bool {
			i, ok := now[e.ID.Identity()]
			if ok = ok && come[i] != nil; ok {
				each(e, come[i])
				come[i] = nil
			}
			return ok
		})
	}
	for _, e := range gone {
		each(e, nil)
	}
	for _, e := range come {
		if e != nil {
			each(nil, e)
		}
	}
}

// holdSize is the size of a record that tells where in a pack a content lies: hash, offset, length.
const holdSize = len(schema.Hash{}) + 8

// findContents fills in where the wanted contents lie, as far as they are stored.
func (c *Catalogue) findContents(ctx context.Context, wanted map[schema.Hash]place) error {
	if len(wanted) == 0 {
		return nil
	}
	rows, err := c.db.QueryContext(ctx, "SELECT id, holds FROM pack")
	if err != nil {
		return c.explain("reading", err)
	}
	defer rows.Close()
	for rows.Next() {
		var id uint32
		var holds sql.RawBytes
		if err := rows.Scan(&id, &holds); err != nil {
			return c.explain("reading", err)
		}
		body, ok := unseal(nil, stored.View(holds))
		if !ok {
			return c.explain("reading", fmt.Errorf("%w: what pack %d holds is not what was written", ErrDamaged, id))
		}
		for holds = holds[:len(body)]; len(holds) >= holdSize; holds = holds[holdSize:] {
			hash := schema.Hash(holds[:16])
			if _, ok := wanted[hash]; ok {
				wanted[hash] = place{id, binary.LittleEndian.Uint32(holds[16:]), binary.LittleEndian.Uint32(holds[20:])}
			}
		}
	}
	return c.explain("reading", rows.Err())
}

// fillPacks puts the new contents into packs and compresses them.
func (w *saver) fillPacks() error {
	w.inPack, w.packs = map[schema.Hash]packed{}, nil
	var raw [][]byte
	var current []byte
	p := &pack{}
	flush := func() {
		if len(current) > 0 {
			raw, w.packs = append(raw, current), append(w.packs, p)
			p, current = &pack{}, nil
		}
	}
	at := 0
	for i, ch := range w.chunks {
		if w.fresh[i] {
			for j := range ch.entries {
				e := &ch.entries[j]
				if _, there := w.inPack[e.Hash]; there || e.at.length > 0 {
					continue
				}
				content := w.contents[at+j]
				w.inPack[e.Hash] = packed{p, uint32(len(current)), uint32(len(content))}
				p.holds = append(p.holds, e.Hash[:]...)
				p.holds = binary.LittleEndian.AppendUint32(p.holds, uint32(len(current)))
				p.holds = binary.LittleEndian.AppendUint32(p.holds, uint32(len(content)))
				if current = append(current, content...); len(current) >= packSize {
					flush()
				}
			}
		}
		at += len(ch.entries)
	}
	flush()
	enc, err := w.c.encoder()
	if err != nil {
		return err
	}
	var both errgroup.Group
	both.SetLimit(2)
	w.indexes = make([][indexes][]byte, len(w.chunks))
	at = 0
	for i, ch := range w.chunks {
		if w.bare[i] {
			objects := w.objects[at : at+len(ch.entries)]
			both.Go(func() error {
				for which := range indexes {
					w.indexes[i][which] = encodeIndex(which, objects)
				}
				return nil
			})
		}
		at += len(ch.entries)
	}
	for i := range raw {
		both.Go(func() error { w.packs[i].body = enc.EncodeAll(raw[i], nil); return nil })
	}
	return both.Wait()
}

func (c *Catalogue) encoder() (*zstd.Encoder, error) {
	enc, err := zstd.NewWriter(nil, zstd.WithEncoderConcurrency(2), zstd.WithEncoderLevel(zstd.SpeedDefault))
	if err != nil {
		return nil, fmt.Errorf("preparing to compress: %w", err)
	}
	return enc, nil
}

// write stores everything in one transaction.
func (w *saver) write(ctx context.Context, s *Snapshot, needs *directory, measures []byte) error {
	enc, err := w.c.encoder()
	if err != nil {
		return err
	}
	measures = enc.EncodeAll(measures, nil)
	counts, err := json.Marshal(s.Counts)
	if err != nil {
		return err
	}
	if s.Remarks == nil {
		s.Remarks = []schema.Remark{}
	}
	remarks, err := json.Marshal(s.Remarks)
	if err != nil {
		return err
	}
	tx, err := w.c.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	index, err := w.c.newIndexWriter(ctx, tx)
	if err != nil {
		return err
	}
	defer index.f.Close()
	if index.number != w.moves {
		return errDropped
	}
	if err := w.writePacks(ctx, tx); err != nil {
		return err
	}
	root, placed, err := w.writeChunks(ctx, tx, index)
	if err != nil {
		return err
	}
	if err := index.close(ctx, tx); err != nil {
		return err
	}
	if err := w.writeNodes(ctx, tx, s, root, needs, measures); err != nil {
		return err
	}
	if err := tx.QueryRowContext(ctx, "SELECT ifnull(max(id), ?) + 1 FROM snapshot", w.c.first).Scan(&s.ID); err != nil {
		return err
	}
	if err := insertSnapshot(ctx, tx, s, string(counts), string(remarks), placed); err != nil {
		return err
	}
	if w.c.first == 0 { // earlier programs kept exported snapshots here
		if _, err := tx.ExecContext(ctx, "DELETE FROM snapshot WHERE path <> ''"); err != nil {
			return err
		}
	}
	if s.Label != "" && s.Path == "" { // one label stands on one reading
		_, err := tx.ExecContext(ctx, "UPDATE snapshot SET label = '', labelsum = 0 WHERE server = ? AND database = ? AND path = '' AND label = ? AND id <> ?", s.Server, s.Database, s.Label, s.ID)
		if err != nil {
			return err
		}
	}
	return tx.Commit()
}

// writeNodes stores what a snapshot names by hash beside its chunks.
func (w *saver) writeNodes(ctx context.Context, tx *sql.Tx, s *Snapshot, root []byte, needs *directory, measures []byte) error {
	insert, err := tx.PrepareContext(ctx, "INSERT INTO node (hash, body) VALUES (?, ?) ON CONFLICT (hash) DO NOTHING")
	if err != nil {
		return err
	}
	defer insert.Close()
	store := func(hash schema.Hash, body []byte) error {
		if body == nil {
			body = []byte{} // of an empty database: nil would be NULL
		}
		_, err := insert.ExecContext(ctx, hash[:], body)
		return err
	}
	for i := range needs.runs {
		for k, body := range needs.runs[i].bodies {
			if body != nil {
				if err := store(needs.runs[i].hashes[k], body); err != nil {
					return err
				}
			}
		}
	}
	for _, x := range []struct {
		to   *schema.Hash
		body []byte
	}{{&s.Root, root}, {&s.needs, needs.encode()}, {&s.measures, measures}} {
		*x.to = schema.HashOf(x.body)
		if err := store(*x.to, x.body); err != nil {
			return err
		}
	}
	return nil
}

// writePacks stores the packs and numbers them.
func (w *saver) writePacks(ctx context.Context, tx *sql.Tx) error {
	for _, p := range w.packs {
		res, err := tx.ExecContext(ctx, "INSERT INTO pack (holds, body) VALUES (?, ?)", seal(nil, p.holds), p.body)
		if err != nil {
			return err
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		p.id = uint32(id)
	}
	return nil
}

// writeChunks stores the chunks that are not there yet, and their indexes; it returns the body of the root and where the
// indexes are.
func (w *saver) writeChunks(ctx context.Context, tx *sql.Tx, index *indexWriter) (root, placed []byte, err error) {
	placed = []byte{}
	for i, ch := range w.chunks {
		root = stored.AppendText(root, ch.schema)
		root = stored.AppendText(root, string(ch.kind))
		root = binary.AppendUvarint(root, uint64(len(ch.entries)))
		root = append(root, ch.hash[:]...)
		if w.fresh[i] {
			for j := range ch.entries {
				if in, ok := w.inPack[ch.entries[j].Hash]; ok {
					ch.entries[j].at = place{in.pack.id, in.offset, in.length}
				}
			}
			if _, err := tx.ExecContext(ctx, "INSERT INTO chunk (hash, places, entries) VALUES (?, '', ?) ON CONFLICT (hash) DO NOTHING",
				ch.hash[:], seal(ch.hash[:], encodeEntries(ch.entries))); err != nil {
				return nil, nil, err
			}
		}
		if w.bare[i] {
			for which, body := range w.indexes[i] {
				if w.places[i][which], err = index.add(body); err != nil {
					return nil, nil, err
				}
			}
			if _, err := tx.ExecContext(ctx, "UPDATE chunk SET places = ? WHERE hash = ?", seal(ch.hash[:], w.places[i].append(nil)), ch.hash[:]); err != nil {
				return nil, nil, err
			}
		}
		placed = w.places[i].append(placed)
	}
	return root, placed, nil
}

// find returns the place of an identity among entries in order, -1 if it is not there. It copies no
// entry: their places in packs may be written meanwhile.
func find(entries []Entry, id schema.ID) int {
	i, ok := sort.Find(len(entries), func(i int) int { return id.Compare(entries[i].ID) })
	if !ok {
		return -1
	}
	return i
}

// encodeMeasures writes what moves by itself: place of the entry (0 for the database), rows, bytes.
func encodeMeasures(entries []Entry, measures []schema.Measure) []byte {
	var b []byte
	for _, m := range measures {
		place := 0
		if m.ID != (schema.ID{}) {
			i := find(entries, m.ID)
			if i < 0 {
				continue
			}
			place = i + 1
		}
		b = binary.AppendUvarint(b, uint64(place))
		b = binary.AppendUvarint(b, uint64(m.Rows+1))
		b = binary.AppendUvarint(b, uint64(m.Bytes+1))
	}
	return b
}
