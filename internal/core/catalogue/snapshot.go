package catalogue

// A snapshot is one reading of one database, never altered afterwards; here is what is known of it without its objects.

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Snapshot is one reading of one database, without its content.
type Snapshot struct {
	// Untidy is what failed after the snapshot was stored: the index is put in order with the next one then.
	Untidy error

	home *Catalogue // of a guest: the store that it lies in

	ID          int64
	Server      string
	Database    string
	Engine      string
	Version     string
	User        string
	Environment string
	Family      string
	Label       string
	Taken       time.Time
	Model       int // version of the schema model
	Root        schema.Hash
	Counts      map[schema.Kind]int
	Remarks     []schema.Remark
	When        string // how it was asked for, "" for the latest
	Path        string // of an exported snapshot that was read by its path
	// Pair is what the counterparts of the database are called, where that is not its own name.
	Pair string

	// TakenFrom is the reading that bore the label before, of a snapshot that was just stored.
	TakenFrom *Snapshot

	needs, measures schema.Hash
}

// Location returns the snapshot's database as an address.
func (s *Snapshot) Location() schema.Location {
	return schema.Location{Server: s.Server, Database: s.Database, When: s.When, Path: s.Path}
}

// Counterpart returns the name that the database and its counterparts in other environments share.
func (s *Snapshot) Counterpart() string {
	if s.Pair != "" {
		return s.Pair
	}
	return s.Database
}

// Locate returns where an object or a part of the snapshot is.
func (s *Snapshot) Locate(id schema.ID, part string, partKind schema.Kind) schema.Location {
	l := s.Location()
	l.ID, l.Part, l.PartKind = id, part, partKind
	return l
}

const snapshotColumns = `id, server, database, engine, version, user, environment, family, label, taken, model, root, needs, measures, counts, remarks, path`

// rowTexts are the texts of a snapshot's row that it holds otherwise.
type rowTexts struct{ counts, remarks string }

// scanSnapshot reads a row of the snapshotColumns and the two sums, and checks it.
func scanSnapshot(rows *sql.Rows) (*Snapshot, error) {
	var sum, labelled uint32
	s, row, err := scanRow(rows, &sum, &labelled)
	if err != nil {
		return nil, err
	}
	if want, _, label := s.sums(row.counts, row.remarks); want != sum || label != labelled {
		return nil, fmt.Errorf("%w: the row of snapshot %d is not what was written", ErrDamaged, s.ID)
	}
	return s, nil
}

// scanRow reads a row of the snapshotColumns and more.
func scanRow(rows *sql.Rows, more ...any) (*Snapshot, rowTexts, error) {
	s := new(Snapshot)
	var taken int64
	var root, needs, measures []byte
	var counts, remarks string
	if len(more) == 1 { // of the layout before
		more = append([]any{new(int), new(int)}, more...)
	}
	err := rows.Scan(append([]any{&s.ID, &s.Server, &s.Database, &s.Engine, &s.Version, &s.User, &s.Environment, &s.Family, &s.Label, &taken, &s.Model,
		&root, &needs, &measures, &counts, &remarks, &s.Path}, more...)...)
	if err != nil {
		return nil, rowTexts{}, err
	}
	s.Taken = time.UnixMilli(taken).UTC()
	for _, h := range []struct {
		to   *schema.Hash
		from []byte
	}{{&s.Root, root}, {&s.needs, needs}, {&s.measures, measures}} {
		if len(h.from) != len(*h.to) {
			return nil, rowTexts{}, fmt.Errorf("%w: snapshot %d has a broken hash", ErrDamaged, s.ID)
		}
		*h.to = schema.Hash(h.from)
	}
	if json.Unmarshal([]byte(counts), &s.Counts) != nil || json.Unmarshal([]byte(remarks), &s.Remarks) != nil {
		return nil, rowTexts{}, fmt.Errorf("%w: snapshot %d has broken counts or remarks", ErrDamaged, s.ID)
	}
	return s, rowTexts{counts, remarks}, nil
}

// insertSnapshot writes the row of a snapshot.
func insertSnapshot(ctx context.Context, tx *sql.Tx, s *Snapshot, counts, remarks string, places []byte) error {
	row, keys, label := s.sums(counts, remarks)
	_, err := tx.ExecContext(ctx, "INSERT INTO snapshot ("+snapshotColumns+", sum, keysum, labelsum, places) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		s.ID, s.Server, s.Database, s.Engine, s.Version, s.User, s.Environment, s.Family, s.Label, s.Taken.UnixMilli(), s.Model,
		s.Root[:], s.needs[:], s.measures[:], counts, remarks, s.Path, row, keys, label, seal(placesKey(s.ID), places))
	return err
}

func (c *Catalogue) query(ctx context.Context, where string, args ...any) ([]*Snapshot, error) {
	if err := c.check(ctx); err != nil {
		return nil, c.explain("reading", err)
	}
	rows, err := c.db.QueryContext(ctx, "SELECT "+snapshotColumns+", sum, labelsum FROM snapshot "+where, args...)
	if err != nil {
		return nil, c.explain("reading", err)
	}
	defer rows.Close()
	var all []*Snapshot
	for rows.Next() {
		s, err := scanSnapshot(rows)
		if err != nil {
			return nil, c.explain("reading", err)
		}
		if c.Called != nil {
			s.Engine = c.Called(s.Engine, s.Version)
		}
		if c.Pairing != nil {
			s.Pair = c.Pairing(s.Server, s.Database)
		}
		all = append(all, s)
	}
	return all, c.explain("reading", rows.Err())
}

// Snapshots returns all snapshots, by server and database, the newest first.
func (c *Catalogue) Snapshots(ctx context.Context) ([]*Snapshot, error) {
	return c.query(ctx, "WHERE path = '' ORDER BY server, database, id DESC")
}

// Latest returns the latest snapshot of every database, by server and database.
func (c *Catalogue) Latest(ctx context.Context) ([]*Snapshot, error) {
	return c.query(ctx, "WHERE id IN ("+latestIDs+") ORDER BY server, database")
}

const latestIDs = "SELECT max(id) FROM snapshot WHERE path = '' GROUP BY server, database"

// previous returns the latest snapshot of a database, nil if there is none.
func (c *Catalogue) previous(ctx context.Context, server, database, path string) (*Snapshot, error) {
	all, err := c.query(ctx, "WHERE server = ? AND database = ? AND path = ? ORDER BY id DESC LIMIT 1", server, database, path)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return all[0], nil
}

// At returns the snapshot of a database that WHEN asks for: a label, a number of different readings
// back, or a moment: the latest reading that was taken by then.
func (c *Catalogue) At(ctx context.Context, server, database, when string, now time.Time) (*Snapshot, error) {
	all, err := c.query(ctx, "WHERE server = ? AND database = ? AND path = '' ORDER BY id DESC", server, database)
	if err != nil {
		return nil, err
	}
	found := func(s *Snapshot) (*Snapshot, error) { s.When = when; return s, nil }
	for _, s := range all {
		if s.Label == when {
			return found(s)
		}
	}
	if back, err := strconv.Atoi(when); err == nil && back >= 0 {
		different := 0
		for i, s := range all {
			if i > 0 && s.Root != all[i-1].Root {
				different++
			}
			if different == back {
				return found(s)
			}
		}
		return nil, &WhenError{Server: server, Database: database, When: when, Reason: fmt.Sprintf("there are only %d different readings before the latest", different)}
	}
	moment, err := ParseMoment(when, now)
	if err != nil {
		return nil, &WhenError{server, database, when, "it is no label of the database's snapshots, no number of readings and no date", true}
	}
	for _, s := range all {
		if !s.Taken.After(moment) {
			return found(s)
		}
	}
	return nil, &WhenError{Server: server, Database: database, When: when, Reason: "the first reading was taken later"}
}

// WhenError says why there is no snapshot for a WHEN.
type WhenError struct {
	Server, Database, When, Reason string
	NoMoment                       bool // WHEN is nothing that names a moment
}

func (e *WhenError) Error() string {
	return fmt.Sprintf("no snapshot of %s/%s for @%s: %s", names.Quote(e.Server), names.Quote(e.Database), e.When, e.Reason)
}

// ParseMoment reads a date, which means its last moment, or a date and time, in the location of now;
// "today" and "yesterday" are dates.
func ParseMoment(s string, now time.Time) (time.Time, error) {
	day := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
	switch s {
	case "today":
		return day.AddDate(0, 0, 1).Add(-1), nil
	case "yesterday":
		return day.Add(-1), nil
	}
	if t, err := time.ParseInLocation("2006-01-02", s, now.Location()); err == nil {
		return t.AddDate(0, 0, 1).Add(-1), nil
	}
	for _, form := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05", "2006-01-02 15:04", "2006-01-02 15:04:05", time.RFC3339} {
		if t, err := time.ParseInLocation(form, s, now.Location()); err == nil {
			if strings.HasSuffix(form, ":04") {
				t = t.Add(time.Minute - 1)
			}
			return t, nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is no date or time; write it like 2026-03-01 or 2026-03-01T14:30", s)
}

// Sources returns the distinct snapshots in order, as an answer names what it rests on.
func Sources(all ...*Snapshot) []*Snapshot {
	var distinct []*Snapshot
	for _, s := range all {
		if !slices.ContainsFunc(distinct, func(d *Snapshot) bool { return d.ID == s.ID }) {
			distinct = append(distinct, s)
		}
	}
	return distinct
}
