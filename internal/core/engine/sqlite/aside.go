package sqlite

// A file that another program writes to is read in a copy, so that nothing beside it is touched.

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
)

// mostAside is how large a file may be, in bytes, that is copied though it could be read where it lies.
const mostAside = 256 << 20

// copyAside copies the file and its log into a temporary folder, where they can be read. What needs no copy, or cannot be
// copied because it is written to all the while, is read where it lies after an error.
func (s *server) copyAside(ctx context.Context, needed bool) error {
	if st, err := os.Stat(s.path); !needed && (err != nil || st.Size() > mostAside) {
		return errors.Join(errors.New("it is large"), err)
	}
	dir, err := os.MkdirTemp("", "atlas-")
	if err != nil {
		return err
	}
	s.copied = filepath.Join(dir, "copy.db")
	for attempt := 1; ; attempt++ {
		before, err := stampOf(s.path)
		if err == nil {
			err = errors.Join(copyFile(ctx, s.path+"-wal", s.copied+"-wal"), copyFile(ctx, s.path, s.copied))
		}
		after, statErr := stampOf(s.path)
		if err = errors.Join(err, statErr); err == nil && after == before {
			return nil
		}
		if err == nil && attempt == 4 {
			err = errors.New("it was written to all the while")
		}
		if err != nil {
			err = errors.Join(err, s.removeCopy())
			s.copied = ""
			return err
		}
	}
}

func (s *server) removeCopy() error {
	if s.copied == "" {
		return nil
	}
	return os.RemoveAll(filepath.Dir(s.copied))
}

func copyFile(ctx context.Context, from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	for err == nil && ctx.Err() == nil {
		_, err = io.CopyN(out, in, 16<<20)
	}
	if err == io.EOF {
		err = nil
	}
	return errors.Join(err, ctx.Err(), out.Close())
}
