package sqlite

import (
	"bytes"
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	"echo-atlas/internal/core/engine"
)

// A file whose log nobody has put into it is read with its log, and nothing comes to lie beside it.
func TestLogOfNobody(t *testing.T) {
	ctx := context.Background()
	live, dir := t.TempDir(), t.TempDir()
	db, err := sql.Open("sqlite", filepath.Join(live, "d.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("PRAGMA journal_mode = wal; CREATE TABLE berth (a); PRAGMA wal_checkpoint; CREATE TABLE tide (a)"); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"d.db", "d.db-wal"} { // as after the writer was killed and its shared memory lost
		body, err := os.ReadFile(filepath.Join(live, name))
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, name), body, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	t.Setenv("TMPDIR", t.TempDir())
	for range 2 {
		s, err := Engine{}.Connect(ctx, engine.Target{URL: "sqlite:" + filepath.Join(dir, "d.db")})
		if err != nil {
			t.Fatal(err)
		}
		r, err := s.Read(ctx, "d")
		if err != nil || len(r.Objects) != 2 {
			t.Errorf("%d objects, %v", len(r.Objects), err)
		}
		if err := s.Close(); err != nil {
			t.Fatal(err)
		}
	}
	for _, d := range []string{dir, os.TempDir()} {
		left, err := os.ReadDir(d)
		if err != nil || len(left) != 2 && d == dir || len(left) != 0 && d != dir {
			t.Errorf("in %s lie %v, %v", d, left, err)
		}
	}
	// A program that has the file open finds its shared memory as it left it.
	shared, err := os.ReadFile(filepath.Join(live, "d.db-shm"))
	if err != nil {
		t.Fatal(err)
	}
	beside, err := Engine{}.Connect(ctx, engine.Target{URL: "sqlite:" + filepath.Join(live, "d.db")})
	if err != nil {
		t.Fatal(err)
	}
	if r, err := beside.Read(ctx, "d"); err != nil || len(r.Objects) != 2 {
		t.Errorf("beside a program that has it open: %v", err)
	}
	if err := beside.Close(); err != nil {
		t.Fatal(err)
	}
	if now, err := os.ReadFile(filepath.Join(live, "d.db-shm")); err != nil || !bytes.Equal(now, shared) {
		t.Errorf("the shared memory of another program was changed: %v", err)
	}
	if err := os.Truncate(filepath.Join(dir, "d.db-wal"), 0); err != nil {
		t.Fatal(err)
	}
	s, err := Engine{}.Connect(ctx, engine.Target{URL: "sqlite:" + filepath.Join(dir, "d.db")})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if r, err := s.Read(ctx, "d"); err != nil || len(r.Objects) != 1 {
		t.Errorf("with an empty log: %v", err)
	}
	if left, _ := os.ReadDir(dir); len(left) != 2 {
		t.Errorf("beside a file with an empty log lie %v", left)
	}
}
