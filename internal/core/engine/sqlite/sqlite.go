// Package sqlite reads SQLite database files. A file is a database, named by its stem. What SQLite
// keeps of an object is the text that made it; the package reads those texts after the grammar that is
// published at sqlite.org/lang.html, and takes from the pragmas what they say.
package sqlite

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"modernc.org/sqlite" // also registers the driver

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Engine is the SQLite engine.
type Engine struct{}

// Name returns "sqlite".
func (Engine) Name() string { return "sqlite" }

// Schemes returns the scheme of sqlite:PATH.
func (Engine) Schemes() []string { return []string{"sqlite"} }

func rules() sqltext.Rules {
	return sqltext.Rules{Backticks: true, Brackets: true, MembershipInTable: true}
}

// Database returns the stem of the file.
func (Engine) Database(url string) string { return DatabaseName(PathOf(url)) }

// Traits returns what sets SQLite apart.
func (Engine) Traits() engine.Traits {
	return engine.Traits{Rules: rules(), OwnNames: []string{"sqlite_"}, LaxNeeds: true, LiveStars: true, WholeRenames: true, Include: ".read", Begin: "BEGIN", Commit: "COMMIT", Placeholder: "?", IndexMethod: "btree", Types: typeNames}
}

// Quote returns a name, in double quotes unless it is a plain word that is no keyword.
func (Engine) Quote(name string) string { return quote(name) }

type server struct {
	system        bool // read what SQLite makes itself, too
	path, display string
	db            *sql.DB
	info          engine.Info
	immutable     bool
	copied        string // a copy of the file, read in its place
	stamp         fileStamp
}

// fileStamp notices that a file was written to.
type fileStamp struct {
	size     int64
	modified time.Time
	wal      bool
}

func stampOf(path string) (fileStamp, error) {
	st, err := os.Stat(path)
	if err != nil {
		return fileStamp{}, err
	}
	log, err := os.Stat(path + "-wal")
	return fileStamp{st.Size(), st.ModTime(), err == nil && log.Size() > 0}, nil
}

// Connect opens a file for reading only. It makes no file beside it: a file in write-ahead mode that
// nobody has open is read as it lies there.
func (Engine) Connect(ctx context.Context, t engine.Target) (engine.Server, error) {
	path := PathOf(t.URL)
	fail := func(cause string, err error, advice string) error {
		return &engine.ConnectError{Target: t.URL, Cause: cause, Said: err, Advice: advice}
	}
	st, err := os.Stat(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil, fail("there is no such file", nil, "check the path; it is taken from the folder you are in, or from the configuration's")
	case err != nil:
		return nil, fail("the file cannot be read", err, "check the rights of the file and its folders")
	case st.IsDir():
		return nil, fail("it is a folder", nil, `name one file, or in the configuration files = "FOLDER/*.db"`)
	}
	header, err := readHeader(path)
	switch {
	case err != nil:
		return nil, fail("the file cannot be read", err, "check the rights of the file and its folders")
	case len(header) == 0: // a new database that nothing was written to yet
	case len(header) < 100 || string(header[:16]) != "SQLite format 3\x00":
		return nil, fail("the file is no SQLite database", nil, "check the path")
	}
	s := &server{path: path, display: t.URL, system: t.System}
	if s.stamp, err = stampOf(path); err != nil {
		return nil, fail("the file cannot be read", err, "")
	}
	s.immutable = len(header) >= 100 && header[18] == 2 && !s.stamp.wal
	if s.stamp.wal {
		// Its log is not in it: reading it there would make the shared memory beside it, or leave marks in that of another
		// program.
		_, missing := os.Stat(path + "-shm")
		alone := errors.Is(missing, os.ErrNotExist)
		if err := s.copyAside(ctx, alone); alone && err != nil {
			return nil, fail("its write-ahead log cannot be read where it lies, nor copied", err, "open it once with a program that may write to it, or make room in the folder for temporary files")
		}
	}
	if err := s.open(ctx); err != nil {
		_ = s.removeCopy()
		return nil, fail("the file cannot be opened", err, "if another program is writing to it, try again")
	}
	return s, nil
}

func readHeader(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	header := make([]byte, 100)
	n, err := f.Read(header)
	if n == 0 && err != nil && err.Error() == "EOF" {
		return nil, nil
	}
	return header[:n], err
}

func (s *server) open(ctx context.Context) error {
	absolute, err := filepath.Abs(cmp.Or(s.copied, s.path))
	if err != nil {
		return err
	}
	query := url.Values{"mode": {"ro"}, "_pragma": {"busy_timeout(2000)", "query_only(1)", "trusted_schema(0)"}}
	if s.immutable {
		query.Set("immutable", "1")
	}
	uri := url.URL{Scheme: "file", Path: absolute, RawQuery: query.Encode()}
	s.db, err = sql.Open("sqlite", uri.String())
	if err != nil {
		return err
	}
	s.db.SetMaxOpenConns(1)
	var version string
	if err := s.db.QueryRowContext(ctx, "SELECT sqlite_version() FROM (SELECT count(*) FROM sqlite_schema)").Scan(&version); err != nil {
		s.db.Close()
		return err
	}
	s.info = engine.Info{Version: "SQLite " + version, ReadOnly: "the file is opened for reading only", Rights: []string{"reads the whole file"}}
	return nil
}

// PathOf returns the file that a URL names: sqlite:PATH, sqlite://PATH or the path alone.
func PathOf(u string) string {
	if path, ok := engine.FilePath(u); ok {
		return path
	}
	return strings.TrimPrefix(u, "//")
}

// DatabaseName returns the name of the database in a file: its stem.
func DatabaseName(path string) string {
	base := filepath.Base(path)
	if stem := strings.TrimSuffix(base, filepath.Ext(base)); stem != "" {
		return stem
	}
	return base
}

func (s *server) Info() engine.Info { return s.info }

func (s *server) Close() error { return errors.Join(s.db.Close(), s.removeCopy()) }

// Parameters returns none: a path has no parameters.
func (Engine) Parameters() map[string]string { return nil }

// Hidden returns nothing: who may read the file sees all of it.
func (s *server) Hidden(context.Context, string) ([]schema.Remark, error) { return nil, nil }

func (s *server) Databases(context.Context) ([]string, []schema.Remark, error) {
	return []string{DatabaseName(s.path)}, nil, nil
}

// Read reads the file in one transaction. A file that was read without locks is read again if somebody
// wrote to it meanwhile.
func (s *server) Read(ctx context.Context, database string) (*schema.Reading, error) {
	for attempt := 1; ; attempt++ {
		reading, err := s.readOnce(ctx, database)
		if !s.immutable {
			return reading, err
		}
		after, statErr := stampOf(s.path)
		if statErr != nil {
			return nil, fmt.Errorf("reading %s: %w", s.display, statErr)
		}
		if after == s.stamp {
			return reading, err
		}
		if attempt == 4 {
			return nil, fmt.Errorf("reading %s: it was written to all the while; try again", s.display)
		}
		s.stamp, s.immutable = after, !after.wal
		s.db.Close()
		if err := s.open(ctx); err != nil {
			return nil, fmt.Errorf("opening %s again: %w", s.display, err)
		}
	}
}

// explain puts SQLite's errors into words.
func explain(err error) error {
	var coded *sqlite.Error
	if errors.As(err, &coded) {
		switch coded.Code() & 0xff {
		case 5, 6: // SQLITE_BUSY, SQLITE_LOCKED
			return fmt.Errorf("another program keeps the file locked; try again later (%w)", err)
		case 11, 26: // SQLITE_CORRUPT, SQLITE_NOTADB
			return fmt.Errorf("the file is damaged, or no SQLite database (%w)", err)
		}
	}
	return err
}
