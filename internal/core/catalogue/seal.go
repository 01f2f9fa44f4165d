package catalogue

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/binary"
	"fmt"
	"hash/crc32"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// What no hash covers carries a CRC-32C: bodies at their end, rows in a column. The table tally counts the rows that
// there should be and adds up their sums, so that none of them can go unnoticed; triggers keep it.

// sealSize is the size of a body's sum, in bytes.
const sealSize = 4

// seal returns a body with its sum behind it; key is what the body is found by.
func seal(key, body []byte) []byte {
	return binary.LittleEndian.AppendUint32(body, sealOf(key, body))
}

func sealOf(key, body []byte) uint32 {
	table := crc32.MakeTable(crc32.Castagnoli)
	return crc32.Update(crc32.Checksum(key, table), table, body)
}

// unseal returns a body without its sum; ok is false where it is not what was written.
func unseal(key []byte, sealed string) (body string, ok bool) {
	n := len(sealed) - sealSize
	if n < 0 {
		return "", false
	}
	bytes := stored.Bytes(sealed)
	return sealed[:n], sealOf(key, bytes[:n]) == binary.LittleEndian.Uint32(bytes[n:])
}

// unsealChunk returns the entries of a chunk as they were encoded.
func unsealChunk(hash []byte, sealed string) (string, error) {
	body, ok := unseal(hash, sealed)
	if !ok {
		return "", fmt.Errorf("%w: the entries of chunk %x are not what was written", ErrDamaged, hash)
	}
	return body, nil
}

// unsealPlaces returns the places of indexes, none where they are not what was written: indexes can be made again.
func unsealPlaces(key, sealed []byte) []byte {
	body, ok := unseal(key, stored.View(sealed))
	if !ok {
		return nil
	}
	return sealed[:len(body)]
}

// placesKey is what the places of a snapshot's indexes are sealed with.
func placesKey(snapshot int64) []byte { return binary.LittleEndian.AppendUint64(nil, uint64(snapshot)) }

// sumOf returns the sum of a row's values: numbers, and texts with their lengths.
func sumOf(values ...any) uint32 {
	var b []byte
	for _, v := range values {
		switch v := v.(type) {
		case int64:
			b = binary.LittleEndian.AppendUint64(b, uint64(v))
		case string:
			b = stored.AppendText(b, v)
		case schema.Hash:
			b = append(b, v[:]...)
		}
	}
	return checksum(b)
}

// sums returns the sums of a snapshot's row, of its keys, and of its label.
func (s *Snapshot) sums(counts, remarks string) (row, keys, label uint32) {
	return sumOf(s.ID, s.Server, s.Database, s.Engine, s.Version, s.User, s.Environment, s.Family, s.Taken.UnixMilli(), int64(s.Model), s.Root, s.needs, s.measures, counts, remarks, s.Path),
		sumOf(s.Server, s.Database, s.ID), labelSum(s.ID, s.Label, s.Path)
}

// labelSum covers what rows are chosen by beside their keys.
func labelSum(snapshot int64, label, path string) uint32 {
	if label == "" && path == "" {
		return 0
	}
	return sumOf(snapshot, label, path)
}

const tallyTable = `
CREATE TABLE tally (what TEXT PRIMARY KEY, rows INTEGER NOT NULL, sums INTEGER NOT NULL, keys INTEGER NOT NULL);
INSERT INTO tally VALUES ('snapshot', 0, 0, 0), ('failure', 0, 0, 0);
CREATE TRIGGER snapshot_comes AFTER INSERT ON snapshot BEGIN UPDATE tally SET rows = rows + 1, sums = sums + NEW.sum + NEW.labelsum, keys = keys + NEW.keysum WHERE what = 'snapshot'; END;
CREATE TRIGGER snapshot_goes AFTER DELETE ON snapshot BEGIN UPDATE tally SET rows = rows - 1, sums = sums - OLD.sum - OLD.labelsum, keys = keys - OLD.keysum WHERE what = 'snapshot'; END;
CREATE TRIGGER snapshot_changes AFTER UPDATE OF labelsum ON snapshot BEGIN UPDATE tally SET sums = sums - OLD.labelsum + NEW.labelsum WHERE what = 'snapshot'; END;
CREATE TRIGGER failure_comes AFTER INSERT ON failure BEGIN UPDATE tally SET rows = rows + 1, sums = sums + NEW.sum WHERE what = 'failure'; END;
CREATE TRIGGER failure_goes AFTER DELETE ON failure BEGIN UPDATE tally SET rows = rows - 1, sums = sums - OLD.sum WHERE what = 'failure'; END;
`

// check compares the snapshots that are there, in the table and in its index, with the tally: a row that cannot be
// found any more would be missed by nobody. It is done once for an open catalogue.
func (c *Catalogue) check(ctx context.Context) error {
	c.checkLock.Lock()
	defer c.checkLock.Unlock()
	if c.checked {
		return nil
	}
	tx, err := c.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback()
	var number, rows, sums, keys int64
	if err := tx.QueryRowContext(ctx, "SELECT number FROM indexfile").Scan(&number); err != nil {
		return err
	}
	if err := tx.QueryRowContext(ctx, "SELECT rows, sums, keys FROM tally WHERE what = 'snapshot'").Scan(&rows, &sums, &keys); err != nil {
		return err
	}
	broken := fmt.Errorf("%w: the %d snapshots are not as they were written", ErrDamaged, rows)
	type key struct {
		server, database string
		id               int64
	}
	for _, list := range []struct {
		query string
		order func(a, b key) int
	}{
		{"SELECT id, server, database, sum, labelsum, label, path FROM snapshot NOT INDEXED ORDER BY id", func(a, b key) int { return cmp.Compare(a.id, b.id) }},
		// The index holds neither.
		{"SELECT id, server, database, 0, 0, '', '' FROM snapshot INDEXED BY snapshot_of ORDER BY server, database, id", func(a, b key) int {
			return cmp.Or(cmp.Compare(a.server, b.server), cmp.Compare(a.database, b.database), cmp.Compare(a.id, b.id))
		}},
	} {
		found, err := tx.QueryContext(ctx, list.query)
		if err != nil {
			return err
		}
		defer found.Close()
		rowsLeft, keysLeft, before := rows, keys, key{}
		for ; found.Next(); rowsLeft-- {
			var k key
			var sum, labelled int64
			var label, path string
			if err := found.Scan(&k.id, &k.server, &k.database, &sum, &labelled, &label, &path); err != nil {
				return err
			}
			if list.order(before, k) >= 0 || labelled != int64(labelSum(k.id, label, path)) {
				return broken
			}
			keysLeft -= int64(sumOf(k.server, k.database, k.id))
			sums -= sum + labelled
			before = k
		}
		if err := found.Err(); err != nil {
			return err
		}
		if rowsLeft != 0 || keysLeft != 0 {
			return broken
		}
	}
	if sums != 0 {
		return broken
	}
	c.checked = true
	c.moves.Store(number)
	return nil
}
