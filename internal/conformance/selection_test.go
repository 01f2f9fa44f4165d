package conformance

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// TestSelections writes parts of MariaDB databases, and runs them where nothing else is.
func TestSelections(t *testing.T) {
	s := testservers.MariaDB(t)
	script, err := os.ReadFile(filepath.Join("testdata", "mariadb", "own.sql"))
	if err != nil {
		t.Fatal(err)
	}
	c := testcatalogue.New(t)
	url := s.Database(t, string(script))
	contents := read(t, c, s, "s", url)
	s.Drop(t, url)
	for _, q := range []struct {
		names   string
		options ddl.Options
		want    string
	}{
		{"berth", ddl.Options{}, "berth by_no"}, // its number needs a key
		{"berth by_quay", ddl.Options{}, "berth by_no by_quay"},
		{"stay", ddl.Options{}, "stay"},
		{"loads", ddl.Options{WithNeeds: true}, "berth by_no heavy loads tons"},
		{"numbers", ddl.Options{WithNeeds: true}, "numbers stay_no"},
		{"own_tidy", ddl.Options{WithNeeds: true}, "berth by_no own_tidy stay stay_no tons"},
	} {
		wanted := strings.Fields(q.names)
		var entries []*catalogue.Entry
		for i := range contents.All() {
			if e := contents.At(i); slices.Contains(wanted, e.ID.Name) {
				entries = append(entries, e)
			}
		}
		written, err := ddl.Write(context.Background(), c, s.Engine(), contents, entries, q.options)
		if err != nil {
			t.Fatal(err)
		}
		copied := read(t, c, s, "copy", s.Database(t, written.Text()))
		var got []string
		for _, e := range copied.All() {
			got = append(got, e.ID.Name)
		}
		slices.Sort(got)
		if text := strings.Join(got, " "); text != q.want {
			t.Errorf("%s (%+v): the copy holds %s, want %s", q.names, q.options, text, q.want)
		}
	}
}
