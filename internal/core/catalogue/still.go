package catalogue

// Where nothing can be written a catalogue is read as it lies there.

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"modernc.org/sqlite"
)

// openStill opens a catalogue where nothing can be written, not even what tells of a reader: on a disk that is full or
// may only be read. Nobody else writes there either; if someone does, the checksums tell.
func openStill(ctx context.Context, dir string) (*Catalogue, error) {
	path := filepath.Join(dir, "catalogue.db")
	if st, err := os.Stat(path + "-wal"); err == nil && st.Size() > 0 {
		return nil, errors.New("a part of it is not in the file yet")
	}
	return openFile(ctx, dir, path, url.Values{"mode": {"ro"}, "immutable": {"1"}})
}

// cannotWrite says whether an error means that nothing can be written.
func cannotWrite(err error) bool {
	var coded *sqlite.Error
	if errors.As(err, &coded) {
		code := coded.Code() & 0xff
		return code == 8 || code == 10 || code == 13 || code == 14 // read-only, input or output, full, cannot open
	}
	return errors.Is(err, fs.ErrPermission) || errors.Is(err, syscall.EROFS) || errors.Is(err, syscall.ENOSPC) || strings.Contains(err.Error(), "the disk is full")
}

// isBusy says whether another process is writing.
func isBusy(err error) bool {
	var coded *sqlite.Error
	return errors.As(err, &coded) && (coded.Code()&0xff == 5 || coded.Code()&0xff == 6)
}

// moved says whether another process has rewritten the file of indexes, as dropping snapshots does, since it was looked
// last.
func (c *Catalogue) moved() bool {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	var now int64
	if err := c.db.QueryRowContext(ctx, "SELECT number FROM indexfile").Scan(&now); err != nil {
		return false
	}
	before := c.moves.Swap(now)
	return before > 0 && before != now
}

// ours says whether a file of a catalogue's folder is the catalogue's.
func ours(name string) bool {
	return strings.HasPrefix(name, "catalogue.db") || strings.HasPrefix(name, "index-")
}

// narrow keeps others out of the catalogue's folder, if nothing else lies there, and says whether it had to.
func narrow(ctx context.Context, dir string) bool {
	st, err := os.Stat(dir)
	if err != nil || st.Mode().Perm()&0o077 == 0 {
		return false
	}
	list, err := os.ReadDir(dir)
	if err != nil || slices.ContainsFunc(list, func(e fs.DirEntry) bool { return !ours(e.Name()) }) || len(list) == 0 {
		slog.DebugContext(ctx, "others may enter the catalogue's folder; its files are readable by their owner alone", "folder", dir)
		return false
	}
	return os.Chmod(dir, 0o700) == nil
}

// sweep removes files of indexes that a write which came to no end has left. The caller holds the write lock.
func (c *Catalogue) sweep(number uint32) {
	list, err := filepath.Glob(filepath.Join(escapeGlob(c.dir), "index-*"))
	if err != nil {
		return
	}
	for _, path := range list {
		if path != c.indexPath(number) {
			_ = os.Remove(path)
		}
	}
}

// escapeGlob returns a path as a pattern that matches it alone.
func escapeGlob(path string) string {
	return strings.NewReplacer(`\`, `\\`, "*", `\*`, "?", `\?`, "[", `\[`).Replace(path)
}
