package catalogue

import (
	"context"
	"database/sql"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"os"
	"path/filepath"
	"strconv"

	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
)

// The indexes of names and texts lie in a file of their own beside the database, since a search reads them
// all and a plain file is read several times as quickly as the pages of a database. The file only grows;
// when snapshots are dropped, or too much of it belongs to none of the latest ones, a file with the next number
// takes its place. Nothing depends on it: an index that is missing or damaged is made again from the objects.

// indexPlace is where an index lies.
type indexPlace struct {
	file   uint32 // number of the file; 0: it is nowhere
	sum    uint32 // CRC-32C of the index
	length uint32
	offset uint64
}

// places are where the indexes of a chunk lie.
type places [indexes]indexPlace

// The indexes of a chunk.
const (
	namesIndex = iota
	textsIndex
	indexes
)

const (
	indexPlaceSize = 20 // bytes
	placesSize     = indexes * indexPlaceSize
)

func (p places) append(b []byte) []byte {
	for _, at := range p {
		b = binary.LittleEndian.AppendUint32(b, at.file)
		b = binary.LittleEndian.AppendUint32(b, at.sum)
		b = binary.LittleEndian.AppendUint32(b, at.length)
		b = binary.LittleEndian.AppendUint64(b, at.offset)
	}
	return b
}

// decodePlaces reads what append wrote; of broken ones nothing is found.
func decodePlaces(b []byte) (p places) {
	if len(b) < placesSize {
		return p
	}
	for i := range p {
		at := b[i*indexPlaceSize:]
		p[i] = indexPlace{binary.LittleEndian.Uint32(at), binary.LittleEndian.Uint32(at[4:]), binary.LittleEndian.Uint32(at[8:]), binary.LittleEndian.Uint64(at[12:])}
	}
	return p
}

func checksum(b []byte) uint32 { return crc32.Checksum(b, crc32.MakeTable(crc32.Castagnoli)) }

func (c *Catalogue) indexPath(number uint32) string {
	return filepath.Join(c.dir, "index-"+strconv.FormatUint(uint64(number), 10))
}

// indexFile returns an open file of indexes.
func (c *Catalogue) indexFile(number uint32) (*os.File, error) {
	c.indexLock.Lock()
	defer c.indexLock.Unlock()
	if f := c.indexFiles[number]; f != nil {
		return f, nil
	}
	f, err := os.Open(c.indexPath(number))
	if err == nil {
		c.indexFiles[number] = f
	}
	return f, err
}

func (c *Catalogue) closeIndexFiles() {
	c.indexLock.Lock()
	defer c.indexLock.Unlock()
	for _, f := range c.indexFiles {
		f.Close()
	}
}

// readIndex reads an index into buf, which it makes longer where it has to. ok is false where the index is
// not what was written.
func (c *Catalogue) readIndex(p indexPlace, buf []byte) (_ []byte, ok bool) {
	if p.length == 0 {
		return buf[:0], p.file > 0
	}
	f, err := c.indexFile(p.file)
	if err != nil {
		return buf, false
	}
	if uint64(cap(buf)) < uint64(p.length) {
		st, err := f.Stat()
		if err != nil || int64(p.length) > st.Size() {
			return buf, false
		}
		buf = make([]byte, p.length, p.length+p.length/2) // the next may be a little longer
	}
	buf = buf[:p.length]
	if _, err := f.ReadAt(buf, int64(p.offset)); err != nil {
		return buf, false
	}
	return buf, checksum(buf) == p.sum
}

// encodeIndex makes one of the indexes of a chunk's objects.
func encodeIndex(which int, objects []*schema.Object) []byte {
	if which == textsIndex {
		return index.EncodeTexts(objects)
	}
	return index.EncodeNames(objects)
}

// remakeIndex makes an index of a chunk from its entries' objects.
func (c *Catalogue) remakeIndex(ctx context.Context, which int, entries []Entry) ([]byte, error) {
	all := make([]*Entry, len(entries))
	for i := range entries {
		all[i] = &entries[i]
	}
	objects, err := c.Objects(ctx, all)
	if err != nil {
		return nil, err
	}
	return encodeIndex(which, objects), nil
}

// indexWriter adds indexes to the end of a file. It may be used while a transaction holds the database's
// write lock: what was written counts once that is committed.
type indexWriter struct {
	f      *os.File
	number uint32
	end    uint64
}

// newIndexWriter opens the file that the database names. What stands behind the end that it knows was never
// committed, and is written over.
func (c *Catalogue) newIndexWriter(ctx context.Context, tx *sql.Tx) (*indexWriter, error) {
	w := new(indexWriter)
	if err := tx.QueryRowContext(ctx, "SELECT number, length FROM indexfile").Scan(&w.number, &w.end); err != nil {
		return nil, err
	}
	c.sweep(w.number)
	return w, w.open(c, 0)
}

func (w *indexWriter) open(c *Catalogue, flag int) (err error) {
	w.f, err = os.OpenFile(c.indexPath(w.number), os.O_RDWR|os.O_CREATE|flag, 0o600)
	return err
}

func (w *indexWriter) add(index []byte) (indexPlace, error) {
	p := indexPlace{w.number, checksum(index), uint32(len(index)), w.end}
	if len(index) == 0 {
		return p, nil
	}
	if _, err := w.f.WriteAt(index, int64(w.end)); err != nil {
		return p, err
	}
	w.end += uint64(len(index))
	return p, nil
}

// close notes the end in the database.
func (w *indexWriter) close(ctx context.Context, tx *sql.Tx) error {
	if err := w.f.Close(); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, "UPDATE indexfile SET number = ?, length = ?", w.number, w.end)
	return err
}

// rewriteIndexes moves the indexes to a new file, without those that none of the latest snapshots needs, and makes
// what is damaged or missing. It returns what is to be done once the transaction is committed, and what if
// it is not.
func (c *Catalogue) rewriteIndexes(ctx context.Context, tx *sql.Tx) (committed, failed func(), err error) {
	w := new(indexWriter)
	if err := tx.QueryRowContext(ctx, "SELECT number FROM indexfile").Scan(&w.number); err != nil {
		return nil, nil, err
	}
	old := c.indexPath(w.number)
	w.number++
	if err := w.open(c, os.O_TRUNC); err != nil {
		return nil, nil, err
	}
	remove := func() { _ = os.Remove(c.indexPath(w.number)) } // it is made anew next time
	defer func() {
		if err != nil {
			w.f.Close()
			remove()
		}
	}()
	roots, err := rootsOf(ctx, tx)
	if err != nil {
		return nil, nil, err
	}
	before, err := placesOfChunks(ctx, tx)
	if err != nil {
		return nil, nil, err
	}
	after := make(map[schema.Hash]places, len(before))
	var buf []byte
	for _, root := range roots {
		if !root.latest {
			continue
		}
		for _, ref := range root.refs {
			if _, done := after[ref.hash]; done {
				continue
			}
			var to places
			for which := range to {
				index, ok := c.readIndex(before[ref.hash][which], buf)
				buf = index
				if !ok {
					if index, err = c.remakeFor(ctx, tx, which, ref.hash); err != nil {
						return nil, nil, err
					}
				}
				if to[which], err = w.add(index); err != nil {
					return nil, nil, err
				}
			}
			after[ref.hash] = to
		}
	}
	for hash := range before {
		if _, err := tx.ExecContext(ctx, "UPDATE chunk SET places = ? WHERE hash = ?", seal(hash[:], after[hash].append(nil)), hash[:]); err != nil {
			return nil, nil, err
		}
	}
	for _, root := range roots {
		list := []byte{}
		for _, ref := range root.refs {
			list = after[ref.hash].append(list)
		}
		if _, err := tx.ExecContext(ctx, "UPDATE snapshot SET places = ? WHERE id = ?", seal(placesKey(root.snapshot), list), root.snapshot); err != nil {
			return nil, nil, err
		}
	}
	if err := w.close(ctx, tx); err != nil {
		return nil, nil, err
	}
	return func() {
		c.moves.CompareAndSwap(int64(w.number)-1, int64(w.number))
		_ = os.Remove(old)
	}, remove, nil
}

func placesOfChunks(ctx context.Context, tx *sql.Tx) (map[schema.Hash]places, error) {
	rows, err := tx.QueryContext(ctx, "SELECT hash, places FROM chunk")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	chunks := map[schema.Hash]places{}
	for rows.Next() {
		var hash, at []byte
		if err := rows.Scan(&hash, &at); err != nil {
			return nil, err
		}
		if len(hash) != len(schema.Hash{}) {
			return nil, fmt.Errorf("%w: a chunk has a broken hash", ErrDamaged)
		}
		chunks[schema.Hash(hash)] = decodePlaces(unsealPlaces(hash, at))
	}
	return chunks, rows.Err()
}

// remakeFor makes an index of a stored chunk.
func (c *Catalogue) remakeFor(ctx context.Context, tx *sql.Tx, which int, hash schema.Hash) ([]byte, error) {
	var body string
	if err := tx.QueryRowContext(ctx, "SELECT entries FROM chunk WHERE hash = ?", hash[:]).Scan(&body); err != nil {
		return nil, err
	}
	body, err := unsealChunk(hash[:], body)
	if err != nil {
		return nil, err
	}
	entries, err := decodeEntries(nil, "", "", body)
	if err != nil {
		return nil, err
	}
	return c.remakeIndex(ctx, which, entries)
}

// rootOf is a snapshot with its chunks.
type rootOf struct {
	snapshot int64
	latest   bool
	refs     []chunkRef
}

// rootsOf returns all snapshots.
func rootsOf(ctx context.Context, tx *sql.Tx) ([]rootOf, error) {
	rows, err := tx.QueryContext(ctx, "SELECT id, id IN ("+latestIDs+"), body FROM snapshot JOIN node ON hash = root ORDER BY server, database, id")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []rootOf
	for rows.Next() {
		var r rootOf
		var body []byte
		if err := rows.Scan(&r.snapshot, &r.latest, &body); err != nil {
			return nil, err
		}
		var ok bool
		if r.refs, ok = decodeRoot(body); !ok {
			return nil, fmt.Errorf("%w: the root of snapshot %d is broken", ErrDamaged, r.snapshot)
		}
		all = append(all, r)
	}
	return all, rows.Err()
}

// idleSize is up to what size the file of indexes is left alone, in bytes.
const idleSize = 16 << 20

// compactIndexes rewrites the file of indexes where more than half of it belongs to none of the latest
// snapshots.
func (c *Catalogue) compactIndexes(ctx context.Context) error {
	var number uint32
	var length int64
	if err := c.db.QueryRowContext(ctx, "SELECT number, length FROM indexfile").Scan(&number, &length); err != nil || length <= idleSize {
		return c.explain("reading", err)
	}
	rows, err := c.db.QueryContext(ctx, "SELECT id, places FROM snapshot WHERE id IN ("+latestIDs+")")
	if err != nil {
		return c.explain("reading", err)
	}
	defer rows.Close()
	needed := int64(0)
	seen := map[indexPlace]bool{}
	for rows.Next() {
		var id int64
		var list []byte
		if err := rows.Scan(&id, &list); err != nil {
			return c.explain("reading", err)
		}
		for list = unsealPlaces(placesKey(id), list); len(list) >= placesSize; list = list[placesSize:] {
			for _, p := range decodePlaces(list) {
				if !seen[p] {
					seen[p] = true
					needed += int64(p.length)
				}
			}
		}
	}
	if err := rows.Err(); err != nil {
		return c.explain("reading", err)
	}
	if length > 2*needed {
		c.mendIndexes(ctx, number)
	}
	return nil
}

// mendIndexes makes damaged indexes of a file once and for all, and drops those that no latest snapshot needs; 0 is no
// file. That it cannot be done is no failure: the next search makes them again, for itself.
func (c *Catalogue) mendIndexes(ctx context.Context, file uint32) {
	if file == 0 {
		return
	}
	var now uint32
	if err := c.db.QueryRowContext(ctx, "SELECT number FROM indexfile").Scan(&now); err != nil || now != file {
		return // it was not damaged: another process has written a new one meanwhile
	}
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return
	}
	defer tx.Rollback()
	committed, failed, err := c.rewriteIndexes(ctx, tx)
	if err != nil {
		return
	}
	if tx.Commit() != nil {
		failed()
		return
	}
	committed()
}
