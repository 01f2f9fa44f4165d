package handbook

// The folder of a handbook: a list of its files with their hashes tells what is to be written again, and what is ours to remove.

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"

	"echo-atlas/internal/core/schema"
)

// listName is the file that lists the others.
const listName = "handbook-files.json"

const listFormat = "files of a handbook 1"

type fileList struct {
	Format string            `json:"format"`
	Files  map[string]string `json:"files"` // hashes by path
}

// ErrForeign says that a folder holds something else.
var ErrForeign = errors.New("the folder holds files and no handbook")

type folder struct {
	root string
	lock sync.Mutex
	old  map[string]string
	now  map[string]string
	made map[string]bool // folders
	out  Outcome
}

func openFolder(root string) (*folder, error) {
	f := &folder{root: root, now: map[string]string{}, made: map[string]bool{}}
	text, err := os.ReadFile(filepath.Join(root, listName))
	switch {
	case err == nil:
		var list fileList
		if err := json.Unmarshal(text, &list); err != nil || list.Format != listFormat {
			return nil, fmt.Errorf("%s: %w: %s is not understood", root, ErrForeign, listName)
		}
		f.old = list.Files
		return f, nil
	case !errors.Is(err, fs.ErrNotExist):
		return nil, fmt.Errorf("opening the handbook: %w", err)
	}
	entries, err := os.ReadDir(root)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if err := os.MkdirAll(root, 0o755); err != nil {
			return nil, fmt.Errorf("making the handbook's folder: %w", err)
		}
	case err != nil:
		return nil, fmt.Errorf("opening the handbook: %w", err)
	case len(entries) > 0:
		return nil, fmt.Errorf("%s: %w", root, ErrForeign)
	}
	// From now on the folder is known as ours, even if it is left half-written.
	return f, f.save(nil)
}

// put writes a file, if it is not there as it is to be.
func (f *folder) put(path string, text []byte) error {
	h := schema.HashOf(text)
	hash := fmt.Sprintf("%x", h[:])
	full := filepath.Join(f.root, filepath.FromSlash(path))
	f.lock.Lock()
	f.now[path] = hash
	same := f.old[path] == hash
	dir := filepath.Dir(full)
	make := !f.made[dir]
	f.made[dir] = true
	if strings.HasSuffix(path, ".html") {
		f.out.Pages++
	}
	f.lock.Unlock()
	if same {
		if st, err := os.Stat(full); err == nil && st.Size() == int64(len(text)) {
			f.lock.Lock()
			f.out.Same++
			f.lock.Unlock()
			return nil
		}
	}
	if make {
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return fmt.Errorf("writing the handbook: %w", err)
		}
	}
	if err := os.WriteFile(full, text, 0o644); err != nil {
		return fmt.Errorf("writing the handbook: %w", err)
	}
	f.lock.Lock()
	f.out.Written++
	f.lock.Unlock()
	return nil
}

// close removes the files that are no longer part of the handbook, and writes the list.
func (f *folder) close() error {
	for path := range f.old {
		if _, still := f.now[path]; still || !filepath.IsLocal(filepath.FromSlash(path)) {
			continue
		}
		full := filepath.Join(f.root, filepath.FromSlash(path))
		if err := os.Remove(full); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("removing an old page: %w", err)
		}
		f.out.Removed++
		for dir := filepath.Dir(full); dir != f.root && os.Remove(dir) == nil; dir = filepath.Dir(dir) { // as far as they are empty
		}
	}
	return f.save(f.now)
}

func (f *folder) save(files map[string]string) error {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetIndent("", " ")
	if err := e.Encode(fileList{listFormat, files}); err != nil {
		return fmt.Errorf("writing the handbook's list: %w", err)
	}
	if err := os.WriteFile(filepath.Join(f.root, listName), b.Bytes(), 0o644); err != nil {
		return fmt.Errorf("writing the handbook's list: %w", err)
	}
	return nil
}

func (f *folder) outcome() Outcome { return f.out }
