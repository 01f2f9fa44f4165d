// Package handbook writes the catalogue as static pages: an overview, a page for each database and for each object, and a search
// over all names that needs no server. All of it opens from a folder, or from one file.
package handbook

import (
	"context"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/notes"
	"echo-atlas/internal/core/schema"
)

// Choice is what of one database gets into the handbook; Covers is nil for all of it.
type Choice struct {
	Contents *catalogue.Contents
	Covers   func(schema.ID) bool
	Unseen   []string // what was not seen of it, in words
}

// Options of a handbook.
type Options struct {
	Title   string
	Without []schema.Aspect
	Notes   *notes.Notes
	Engine  func(*catalogue.Snapshot) engine.Engine // nil for one that this program has not
	Say     func(*schema.Dependency) string         // how one end of a dependency needs the other, in words
	Latest  []*catalogue.Snapshot                   // of all databases: where environments differ
	Version string                                  // of the program: pages are written anew where it is another
}

// Outcome counts the files of a folder.
type Outcome struct{ Pages, Written, Same, Removed int }

// maker makes the pages of one handbook.
type maker struct {
	c     *catalogue.Catalogue
	o     Options
	books []*book
	one   bool // one file
}

// prepare reads what the pages need.
func prepare(ctx context.Context, c *catalogue.Catalogue, choices []Choice, o Options) (*maker, error) {
	m := &maker{c: c, o: o}
	if m.o.Title == "" {
		m.o.Title = "Handbook"
	}
	folders := map[string]bool{}
	for _, of := range choices {
		b, err := m.read(ctx, of)
		if err != nil {
			return nil, err
		}
		base := slug(of.Contents.Snapshot.Server) + "/" + slug(of.Contents.Snapshot.Database)
		b.folder = base
		for n := 2; folders[b.folder]; n++ { // an older reading of the same database
			b.folder = fmt.Sprint(base, "-", n)
		}
		folders[b.folder] = true
		m.books = append(m.books, b)
	}
	return m, nil
}

// Write writes the handbook into a folder. Only pages that are otherwise now are written, and those of objects that are gone are
// removed. The folder has to be empty or hold a handbook.
func Write(ctx context.Context, c *catalogue.Catalogue, choices []Choice, o Options, into string) (Outcome, error) {
	f, err := openFolder(into)
	if err != nil {
		return Outcome{}, err
	}
	m, err := prepare(ctx, c, choices, o)
	if err != nil {
		return Outcome{}, err
	}
	if err := m.common(f); err != nil {
		return Outcome{}, err
	}
	for _, b := range m.books {
		work, inner := errgroup.WithContext(ctx)
		work.SetLimit(runtime.GOMAXPROCS(0))
		const batch = 64
		for start := 0; start < len(b.pages); start += batch {
			work.Go(func() error {
				for i := start; i < min(start+batch, len(b.pages)); i++ {
					if err := inner.Err(); err != nil {
						return err
					}
					text, err := m.object(b, b.pages[i])
					if err != nil {
						return err
					}
					if err := f.put(b.path(b.pages[i]), text); err != nil {
						return err
					}
				}
				return nil
			})
		}
		if err := work.Wait(); err != nil {
			return f.outcome(), err
		}
	}
	err = f.close()
	return f.outcome(), err
}

// WriteOne writes the handbook as one file.
func WriteOne(ctx context.Context, c *catalogue.Catalogue, choices []Choice, o Options, w io.Writer) (pages int, err error) {
	m, err := prepare(ctx, c, choices, o)
	if err != nil {
		return 0, err
	}
	m.one = true
	return m.single(w)
}

// when writes a moment; the same one always gives the same text.
func when(t time.Time) string { return t.UTC().Format("2006-01-02 15:04") + " UTC" }

// slug returns a name as a part of a path that every file system takes; different names have different ones.
func slug(name string) string {
	var b strings.Builder
	same := name != ""
	for _, r := range name {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '_' || r == '-':
			b.WriteRune(r)
		case r == '.' && b.Len() > 0:
			b.WriteRune('.')
		default:
			same = false
			if r >= 'A' && r <= 'Z' {
				b.WriteRune(r + 'a' - 'A')
			} else {
				b.WriteByte('-')
			}
		}
	}
	s := b.String()
	if len(s) > 80 {
		s, same = s[:80], false
	}
	if strings.HasSuffix(s, ".") || slices.Contains([]string{"index", "con", "prn", "aux", "nul", "com1", "lpt1"}, s) {
		same = false
	}
	if !same {
		h := schema.HashOf([]byte(name))
		s += fmt.Sprintf("-%x", h[:4])
	}
	return s
}
