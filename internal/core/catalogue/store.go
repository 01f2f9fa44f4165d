package catalogue

// The store is one SQLite file, with the files of indexes beside it, readable by its owner alone.

import (
	"context"
	"database/sql"
	"echo-atlas/internal/core/stored"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/klauspost/compress/zstd"
	"modernc.org/sqlite"
)

// ErrDamaged says that the catalogue's file is not what this program wrote.
var ErrDamaged = stored.ErrDamaged

// ErrLocked says that another process keeps the catalogue locked.
var ErrLocked = errors.New("the catalogue is locked by another process")

// ErrDropped says that another process dropped snapshots while an answer was read.
var ErrDropped = errors.New("snapshots were dropped meanwhile")

// format is the version of the file's layout.
const format = 5

const layout = snapshotTable + `
CREATE TABLE node (hash BLOB PRIMARY KEY, body BLOB NOT NULL);
CREATE TABLE chunk (hash BLOB PRIMARY KEY, places BLOB NOT NULL, entries BLOB NOT NULL);
CREATE TABLE indexfile (number INTEGER NOT NULL, length INTEGER NOT NULL);
` + failureTable + tallyTable + `INSERT INTO indexfile VALUES (1, 0);
CREATE TABLE pack (id INTEGER PRIMARY KEY, holds BLOB NOT NULL, body BLOB NOT NULL);
`

const snapshotTable = `CREATE TABLE snapshot (
  id INTEGER PRIMARY KEY, sum INTEGER NOT NULL, keysum INTEGER NOT NULL, labelsum INTEGER NOT NULL, server TEXT NOT NULL, database TEXT NOT NULL, label TEXT NOT NULL,
  path TEXT NOT NULL, -- of an exported snapshot that was read by its path; such ones stand in no list
  engine TEXT NOT NULL, version TEXT NOT NULL, user TEXT NOT NULL,
  environment TEXT NOT NULL, family TEXT NOT NULL, taken INTEGER NOT NULL, model INTEGER NOT NULL,
  root BLOB NOT NULL, needs BLOB NOT NULL, measures BLOB NOT NULL, counts TEXT NOT NULL, remarks TEXT NOT NULL,
  places BLOB NOT NULL); -- of the indexes of the chunks, in their order
CREATE INDEX snapshot_of ON snapshot (server, database, id);
`

// failureTable tells which readings failed after the last that was stored.
const failureTable = `CREATE TABLE failure (server TEXT NOT NULL, database TEXT NOT NULL, at INTEGER NOT NULL, reason TEXT NOT NULL, sum INTEGER NOT NULL, PRIMARY KEY (server, database));
`

// Catalogue is an open store. It may be used by several goroutines.
type Catalogue struct {
	// Pairing returns what the counterparts of a database are called, "" where that is its own name. It may be nil.
	Pairing func(server, database string) string
	// Called returns what the engine of a reading is called now, that was read under a name. It may be nil.
	Called func(engine, version string) string

	// Narrowed says that others could enter the folder and cannot any more.
	Narrowed bool

	db        *sql.DB
	dir       string
	temporary bool // the folder goes when the store is closed
	enc       *zstd.Encoder
	dec       *zstd.Decoder

	first     int64 // of a store of guests: what their numbers begin with
	guestLock sync.Mutex
	guests    *Catalogue
	guestOf   map[string]*Snapshot // by path

	checkLock sync.Mutex
	checked   bool
	moves     atomic.Int64 // number of the file of indexes when it was looked last: it grows with each drop

	indexLock  sync.Mutex
	indexFiles map[uint32]*os.File
}

// Open opens the catalogue in a folder, and makes both where they are missing, readable by their owner
// alone.
func Open(ctx context.Context, dir string) (*Catalogue, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the catalogue's folder: %w", err)
	}
	narrowed := narrow(ctx, dir)
	path := filepath.Join(dir, "catalogue.db")
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("opening the catalogue: %w", err)
	}
	f.Close()
	c, err := openFile(ctx, dir, path, url.Values{})
	if err == nil {
		c.Narrowed = narrowed
	}
	return c, err
}

// openFile opens the catalogue's file with the parameters that SQLite takes in a URI.
func openFile(ctx context.Context, dir, path string, query url.Values) (*Catalogue, error) {
	absolute, err := filepath.Abs(path)
	if err != nil {
		return nil, fmt.Errorf("opening the catalogue: %w", err)
	}
	query["_txlock"], query["_pragma"] = []string{"immediate"}, []string{"busy_timeout(10000)", "page_size(8192)", "synchronous(normal)", "foreign_keys(0)"}
	db, err := sql.Open("sqlite", (&url.URL{Scheme: "file", Path: absolute, RawQuery: query.Encode()}).String())
	if err != nil {
		return nil, fmt.Errorf("opening the catalogue: %w", err)
	}
	c := &Catalogue{db: db, dir: dir, indexFiles: map[uint32]*os.File{}}
	// Changing the journal does not wait for others that do it too.
	err = c.prepare(ctx)
	for until := time.Now().Add(10 * time.Second); isBusy(err) && time.Now().Before(until) && ctx.Err() == nil; {
		time.Sleep(10 * time.Millisecond)
		err = c.prepare(ctx)
	}
	if err != nil {
		db.Close()
		return nil, c.explain("opening", err)
	}
	if c.dec, err = zstd.NewReader(nil, zstd.WithDecoderConcurrency(2)); err != nil {
		db.Close()
		return nil, fmt.Errorf("opening the catalogue: %w", err)
	}
	return c, nil
}

// Look opens the catalogue in a folder for reading. Where there is none, nothing is made there: the catalogue is
// empty, and what exported snapshots need of it lies in a temporary folder that goes when it is closed.
func Look(ctx context.Context, dir string) (*Catalogue, error) {
	if _, err := os.Stat(filepath.Join(dir, "catalogue.db")); !errors.Is(err, fs.ErrNotExist) {
		c, err := Open(ctx, dir)
		if err != nil && cannotWrite(err) {
			if still, stillErr := openStill(ctx, dir); stillErr == nil {
				return still, nil
			}
		}
		return c, err
	}
	temporary, err := os.MkdirTemp("", "atlas-")
	if err != nil {
		return nil, fmt.Errorf("making room for an answer: %w", err)
	}
	c, err := Open(ctx, temporary)
	if err != nil {
		os.RemoveAll(temporary)
		return nil, err
	}
	c.temporary = true
	return c, nil
}

// prepare lays out a new file and checks an old one.
func (c *Catalogue) prepare(ctx context.Context) error {
	var version int
	if err := c.db.QueryRowContext(ctx, "PRAGMA user_version").Scan(&version); err != nil {
		return err
	}
	switch {
	case version == format:
		return nil
	case version == 3 || version == 4:
		return c.upgrade(ctx)
	case version > 0 && version < format:
		return fmt.Errorf("it was written by an earlier version of this program (layout %d, now %d); move the folder away and survey again", version, format)
	case version > format:
		return fmt.Errorf("it was written by a later version of this program (layout %d, known here: %d)", version, format)
	}
	if _, err := c.db.ExecContext(ctx, "PRAGMA journal_mode = wal"); err != nil {
		return err
	}
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	var tables int
	if err := tx.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_schema").Scan(&tables); err != nil || tables > 0 {
		if err == nil {
			err = tx.QueryRowContext(ctx, "PRAGMA user_version").Scan(&version)
		}
		if err == nil && version != format { // another process was not quicker
			err = fmt.Errorf("%w: the file holds something else", ErrDamaged)
		}
		return err
	}
	if _, err := tx.ExecContext(ctx, layout+fmt.Sprintf("PRAGMA user_version = %d;", format)); err != nil {
		return err
	}
	return tx.Commit()
}

// Close closes the store.
func (c *Catalogue) Close() error {
	if c.enc != nil {
		c.enc.Close()
	}
	c.dec.Close()
	c.closeIndexFiles()
	err := c.db.Close()
	if c.guests != nil {
		err = errors.Join(err, c.guests.Close())
	}
	if c.temporary {
		err = errors.Join(err, os.RemoveAll(c.dir))
	}
	return err
}

// explain tells damage and locks from other errors, and says what to do.
func (c *Catalogue) explain(doing string, err error) error {
	if err == nil {
		return nil
	}
	if errors.Is(err, syscall.ENOSPC) {
		return c.diskFull(doing)
	}
	if errors.Is(err, sql.ErrNoRows) || strings.HasPrefix(err.Error(), "sql: Scan error") {
		err = fmt.Errorf("%w: a row is not what was written (%v)", ErrDamaged, err)
	}
	if errors.Is(err, ErrDamaged) && c.moved() {
		return fmt.Errorf("%s the catalogue in %s: %w; try again", doing, c.dir, ErrDropped)
	}
	if errors.Is(err, ErrDamaged) {
		return fmt.Errorf("%s the catalogue in %s: %w; move the folder away and survey again", doing, c.dir, err)
	}
	var coded *sqlite.Error
	if errors.As(err, &coded) {
		switch code := coded.Code() & 0xff; {
		case code == 11 || code == 26 || code == 1 && strings.Contains(err.Error(), "no such"): // corrupt, not a database, other layout
			return fmt.Errorf("%s the catalogue in %s: %w (%v); move the folder away and survey again", doing, c.dir, ErrDamaged, err)
		case code == 5 || code == 6: // busy, locked
			return fmt.Errorf("%s the catalogue in %s: %w; try again when it has finished", doing, c.dir, ErrLocked)
		case code == 13: // full
			return c.diskFull(doing)
		}
	}
	return fmt.Errorf("%s the catalogue in %s: %w", doing, c.dir, err)
}

func (c *Catalogue) diskFull(doing string) error {
	return fmt.Errorf("%s the catalogue in %s: the disk is full; nothing was lost, free some space and try again", doing, c.dir)
}
