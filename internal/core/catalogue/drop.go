package catalogue

// Dropping a snapshot takes away what no other holds: chunks, then the contents that only these named.

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"echo-atlas/internal/core/schema"
)

// Of returns all snapshots of a database, the newest first.
func (c *Catalogue) Of(ctx context.Context, server, database string) ([]*Snapshot, error) {
	return c.query(ctx, "WHERE server = ? AND database = ? AND path = '' ORDER BY id DESC", server, database)
}

// Drop removes snapshots, and all content that no other snapshot holds.
func (c *Catalogue) Drop(ctx context.Context, all []*Snapshot) error {
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return c.explain("writing to", err)
	}
	defer tx.Rollback()
	for _, s := range all {
		if _, err := tx.ExecContext(ctx, "DELETE FROM snapshot WHERE id = ?", s.ID); err != nil {
			return c.explain("writing to", err)
		}
	}
	deadNodes, err := nodesBeside(ctx, tx)
	if err != nil {
		return c.explain("reading", err)
	}
	live, err := liveChunks(ctx, tx)
	if err != nil {
		return c.explain("reading", err)
	}
	dead, livePacks, err := sortChunks(ctx, tx, live)
	if err != nil {
		return c.explain("reading", err)
	}
	deadPacks, err := packsBeside(ctx, tx, livePacks)
	if err != nil {
		return c.explain("reading", err)
	}
	for _, d := range []struct {
		from string
		keys []any
	}{{"chunk WHERE hash", dead}, {"pack WHERE id", deadPacks}, {"node WHERE hash", deadNodes}} {
		for keys := d.keys; len(keys) > 0; {
			n := min(len(keys), 500)
			if _, err := tx.ExecContext(ctx, "DELETE FROM "+d.from+" IN (?"+strings.Repeat(", ?", n-1)+")", keys[:n]...); err != nil {
				return c.explain("writing to", err)
			}
			keys = keys[n:]
		}
	}
	committed, failed, err := c.rewriteIndexes(ctx, tx)
	if err != nil {
		return c.explain("writing to", err)
	}
	if err := tx.Commit(); err != nil {
		failed()
		return c.explain("writing to", err)
	}
	committed()
	return nil
}

// nodesBeside returns the keys of the nodes that no snapshot holds any more.
func nodesBeside(ctx context.Context, tx *sql.Tx) (dead []any, err error) {
	live := map[schema.Hash]bool{}
	directories, err := tx.QueryContext(ctx, "SELECT body FROM node WHERE hash IN (SELECT needs FROM snapshot)")
	if err != nil {
		return nil, err
	}
	defer directories.Close()
	for directories.Next() {
		var body []byte
		if err := directories.Scan(&body); err != nil {
			return nil, err
		}
		if !isDirectory(body) {
			continue
		}
		d, err := decodeDirectory(body)
		if err != nil {
			return nil, err
		}
		for _, hash := range d.partsOf() {
			live[hash] = true
		}
	}
	if err := directories.Err(); err != nil {
		return nil, err
	}
	rows, err := tx.QueryContext(ctx, "SELECT hash FROM node WHERE hash NOT IN (SELECT root FROM snapshot UNION SELECT needs FROM snapshot UNION SELECT measures FROM snapshot)")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var hash []byte
		if err := rows.Scan(&hash); err != nil {
			return nil, err
		}
		if len(hash) != len(schema.Hash{}) || !live[schema.Hash(hash)] {
			dead = append(dead, hash)
		}
	}
	return dead, rows.Err()
}

// liveChunks returns the chunks that the snapshots that are left hold.
func liveChunks(ctx context.Context, tx *sql.Tx) (map[schema.Hash]bool, error) {
	live := map[schema.Hash]bool{}
	rows, err := tx.QueryContext(ctx, "SELECT body FROM node WHERE hash IN (SELECT root FROM snapshot)")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var body []byte
		if err := rows.Scan(&body); err != nil {
			return nil, err
		}
		refs, ok := decodeRoot(body)
		if !ok {
			return nil, fmt.Errorf("%w: a root is broken", ErrDamaged)
		}
		for _, ref := range refs {
			live[ref.hash] = true
		}
	}
	return live, rows.Err()
}

// sortChunks returns the keys of the chunks that nothing holds any more, and the packs that the others need.
func sortChunks(ctx context.Context, tx *sql.Tx, live map[schema.Hash]bool) (dead []any, packs map[uint32]bool, err error) {
	packs = map[uint32]bool{}
	rows, err := tx.QueryContext(ctx, "SELECT hash, entries FROM chunk")
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var hash, entries []byte
		if err := rows.Scan(&hash, &entries); err != nil {
			return nil, nil, err
		}
		if len(hash) != len(schema.Hash{}) || !live[schema.Hash(hash)] {
			dead = append(dead, hash)
			continue
		}
		body, err := unsealChunk(hash, string(entries))
		if err != nil {
			return nil, nil, err
		}
		list, err := decodeEntries(nil, "", "", body)
		if err != nil {
			return nil, nil, err
		}
		for i := range list {
			packs[list[i].at.pack] = true
		}
	}
	return dead, packs, rows.Err()
}

// packsBeside returns the keys of the packs that are not among those that are needed.
func packsBeside(ctx context.Context, tx *sql.Tx, needed map[uint32]bool) (dead []any, err error) {
	rows, err := tx.QueryContext(ctx, "SELECT id FROM pack")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id uint32
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		if !needed[id] {
			dead = append(dead, id)
		}
	}
	return dead, rows.Err()
}
