package catalogue

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
)

// Readers beside another process that drops snapshots are told so, or get a whole answer; they are never told that the
// catalogue is damaged.
func TestReadBesideDrop(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	dir := t.TempDir()
	writer := open(t, dir)
	save(t, writer, described(60))
	stop := make(chan struct{})
	var wait sync.WaitGroup
	wait.Add(1)
	go func() {
		defer wait.Done()
		for n := 0; ; n++ {
			select {
			case <-stop:
				return
			default:
			}
			save(t, writer, described(60+n%7))
			all, err := writer.Of(ctx, "quay", "berths")
			if err == nil {
				err = writer.Drop(ctx, all[1:])
			}
			if err != nil {
				t.Error(err)
				return
			}
		}
	}()
	answers, dropped := 0, 0
	for answers < 15 || dropped+answers < 60 {
		text, err := everything(ctx, dir)
		switch {
		case err == nil && strings.Contains(text, "table"):
			answers++
		case errors.Is(err, ErrDropped):
			dropped++
		default:
			t.Fatalf("after %d answers: %v", answers, err)
		}
	}
	close(stop)
	wait.Wait()
}

// Many at once make and fill a catalogue.
func TestFirstAtOnce(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	for range 12 {
		dir := filepath.Join(t.TempDir(), "new")
		var wait sync.WaitGroup
		for range 8 {
			wait.Add(1)
			go func() {
				defer wait.Done()
				c, err := Open(ctx, dir)
				if err != nil {
					t.Error(err)
					return
				}
				defer c.Close()
				if _, _, err := c.Save(ctx, Origin{Server: "quay"}, described(4)); err != nil {
					t.Error(err)
				}
			}()
		}
		wait.Wait()
	}
}

// A file of indexes that an abandoned write left goes with the next, and others are kept out of the folder.
func TestSweepAndNarrow(t *testing.T) {
	dir := t.TempDir()
	c := open(t, dir)
	save(t, c, described(4))
	if err := c.Close(); err != nil {
		t.Fatal(err)
	}
	writeFile(t, filepath.Join(dir, "index-2"), []byte("abandoned"))
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	c = open(t, dir)
	save(t, c, described(5))
	only(t, dir, 1)
	if st, err := os.Stat(dir); err != nil || st.Mode().Perm() != 0o700 {
		t.Errorf("%v, %v", st.Mode(), err)
	}
	writeFile(t, filepath.Join(dir, "notes.txt"), []byte("mine"))
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	open(t, dir)
	if st, err := os.Stat(dir); err != nil || st.Mode().Perm() != 0o755 {
		t.Errorf("a folder that holds other things: %v, %v", st.Mode(), err)
	}
}
