package catalogue

import (
	"context"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"os"
	"path/filepath"
	"strconv"

	"echo-atlas/internal/core/schema"
)

// The indexes of names and texts lie in a file of their own beside the database, since a search reads them
// all and a plain file is read several times as quickly as the pages of a database. The file only grows;
// when chunks are dropped a file with the next number takes its place. Nothing depends on it: an index that
// is missing or damaged is made again from the objects.

// indexPlace is where an index lies.
type indexPlace struct {
	file   uint32 // number of the file
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
		buf = make([]byte, p.length)
	}
	buf = buf[:p.length]
	if _, err := f.ReadAt(buf, int64(p.offset)); err != nil {
		return buf, false
	}
	return buf, checksum(buf) == p.sum
}

// placesOf returns where the indexes of a snapshot's chunks lie, in the order of the chunks.
func (c *Catalogue) placesOf(ctx context.Context, t *Contents) ([]places, error) {
	var body []byte
	if err := c.db.QueryRowContext(ctx, "SELECT places FROM snapshot WHERE id = ?", t.Snapshot.ID).Scan(&body); err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, c.explain("reading", err)
	}
	all := make([]places, len(t.chunks))
	for i := range all {
		if len(body) >= (i+1)*placesSize {
			all[i] = decodePlaces(body[i*placesSize:])
		}
	}
	return all, nil
}

// encodeIndex makes one of the indexes of a chunk's objects.
func encodeIndex(which int, objects []*schema.Object) []byte {
	if which == textsIndex {
		return encodeTexts(objects)
	}
	return encodeNames(objects)
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

// rewriteIndexes moves the indexes of all chunks to a new file, without those that no chunk needs any more,
// and makes what is damaged. It returns what is to be done once the transaction is committed, and what if
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
	chunks, err := placesOfChunks(ctx, tx)
	if err != nil {
		return nil, nil, err
	}
	var buf []byte
	for hash, from := range chunks {
		var to places
		for which := range to {
			index, ok := c.readIndex(from[which], buf)
			buf = index
			if !ok {
				if index, err = c.remakeFor(ctx, tx, which, hash); err != nil {
					return nil, nil, err
				}
			}
			if to[which], err = w.add(index); err != nil {
				return nil, nil, err
			}
		}
		chunks[hash] = to
		if _, err := tx.ExecContext(ctx, "UPDATE chunk SET places = ? WHERE hash = ?", to.append(nil), hash[:]); err != nil {
			return nil, nil, err
		}
	}
	if err := placeSnapshots(ctx, tx, chunks); err != nil {
		return nil, nil, err
	}
	if err := w.close(ctx, tx); err != nil {
		return nil, nil, err
	}
	return func() { _ = os.Remove(old) }, remove, nil
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
		chunks[schema.Hash(hash)] = decodePlaces(at)
	}
	return chunks, rows.Err()
}

// remakeFor makes an index of a stored chunk.
func (c *Catalogue) remakeFor(ctx context.Context, tx *sql.Tx, which int, hash schema.Hash) ([]byte, error) {
	var body []byte
	if err := tx.QueryRowContext(ctx, "SELECT entries FROM chunk WHERE hash = ?", hash[:]).Scan(&body); err != nil {
		return nil, err
	}
	entries, err := decodeEntries(nil, "", "", body)
	if err != nil {
		return nil, err
	}
	return c.remakeIndex(ctx, which, entries)
}

// placeSnapshots notes with every snapshot where the indexes of its chunks lie.
func placeSnapshots(ctx context.Context, tx *sql.Tx, chunks map[schema.Hash]places) error {
	rows, err := tx.QueryContext(ctx, "SELECT snapshot.id, node.body FROM snapshot JOIN node ON node.hash = snapshot.root")
	if err != nil {
		return err
	}
	defer rows.Close()
	lists := map[int64][]byte{}
	for rows.Next() {
		var id int64
		var body []byte
		if err := rows.Scan(&id, &body); err != nil {
			return err
		}
		refs, ok := decodeRoot(body)
		if !ok {
			return fmt.Errorf("%w: the root of snapshot %d is broken", ErrDamaged, id)
		}
		list := []byte{}
		for _, ref := range refs {
			list = chunks[ref.hash].append(list)
		}
		lists[id] = list
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for id, list := range lists {
		if _, err := tx.ExecContext(ctx, "UPDATE snapshot SET places = ? WHERE id = ?", list, id); err != nil {
			return err
		}
	}
	return nil
}

// mendIndexes makes damaged indexes once and for all. That it cannot be done is no failure: the next search
// makes them again, for itself.
func (c *Catalogue) mendIndexes(ctx context.Context) {
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
