package cli_test

import (
	"bytes"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
)

// Exports that somebody altered are refused with the place, and lead nowhere.
func TestImportAttacks(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	p.want(0, "snapshots", "export", "quay-live/berths", "--out", "good.json")
	for what, change := range map[string][2]string{
		"a kind that is a path":     {`"kind": "table"`, `"kind": "../../../tmp/evil"`},
		"a kind of a part":          {`"kind": "table"`, `"kind": "column"`},
		"no kind":                   {`"kind": "table"`, `"kind": ""`},
		"evidence":                  {`"evidence": "read"`, `"evidence": "../x"`},
		"a negative place":          {`"start": `, `"start": -`},
		"a place beyond all texts":  {`"start": `, `"start": 99999999999`},
		"a way that is none":        {`"use": "reads"`, `"use": "eats"`},
		"a text that is none":       {`"field": "source"`, `"field": "../x"`},
		"a part of no kind":         {`"part_kind": "column"`, `"part_kind": "moon"`},
		"another type":              {`"kind": "table"`, `"kind": 7`},
		"an unknown field":          {`"kind": "table"`, `"kind": "table", "run": "x"`},
		"an index without a body":   {`"index": {`, `"sequence": {`},
		"an object without columns": {`"columns": [`, `"columns": null, "checks": [`},
	} {
		text := strings.Replace(p.read("good.json"), change[0], change[1], 1)
		if text == p.read("good.json") {
			t.Fatalf("%s: the test changes nothing", what)
		}
		p.file("bad.json", text)
		for _, args := range [][]string{{"snapshots", "import", "bad.json"}, {"list", "./bad.json"}, {"ddl", "./bad.json"}, {"snapshots", "export", "./bad.json", "--into", "out"}} {
			if out, errs, code := p.run(args...); code != 3 || !strings.Contains(errs, "bad.json") {
				t.Errorf("%s: %v: exit code %d\n%s%s", what, args, code, out, errs)
			}
		}
	}
	// What is no regular file, or no end of one.
	if err := syscall.Mkfifo(filepath.Join(p.dir, "pipe.json"), 0o600); err != nil {
		t.Fatal(err)
	}
	p.fails(3, []string{"snapshots", "import", "pipe.json"}, "no regular file")
	p.fails(3, []string{"snapshots", "import", "/dev/zero"}, "no regular file")
	huge, err := os.Create(filepath.Join(p.dir, "huge.json"))
	if err != nil {
		t.Fatal(err)
	}
	if err := huge.Truncate(2 << 30); err != nil {
		t.Fatal(err)
	}
	huge.Close()
	p.fails(3, []string{"snapshots", "import", "huge.json"}, "longer than")
}

// An export writes over nothing that it did not write, and does not follow links.
func TestExportStaysInside(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	outside := t.TempDir()
	kept := map[string]string{"mine/snapshot.json": `{"mine": true}`, "mine/table/notes.json": `{"a": 1}`, "mine/README.md": "read", "mine/table/mooring.json": `{"object": {"kind": "table", "name": "other"}}`}
	for _, folder := range []string{"mine/table", "linked"} {
		if err := os.MkdirAll(filepath.Join(p.dir, folder), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	for name, text := range kept {
		p.file(name, text)
	}
	p.fails(2, []string{"snapshots", "export", "quay-live/berths", "--into", "mine"}, "was not written by echo-atlas")
	for name, text := range kept {
		if p.read(name) != text {
			t.Errorf("%s was written over", name)
		}
	}
	if err := os.Symlink(outside, filepath.Join(p.dir, "linked", "table")); err != nil {
		t.Fatal(err)
	}
	if _, _, code := p.run("snapshots", "export", "quay-live/berths", "--into", "linked"); code == 0 {
		t.Error("a link out of the folder was followed")
	}
	if files, _ := os.ReadDir(outside); len(files) > 0 {
		t.Errorf("%d files stand outside", len(files))
	}
	p.file("other.json", `{"name": "somebody's", "version": 1}`)
	p.fails(2, []string{"snapshots", "export", "quay-live/berths", "--out", "other.json"}, "was not written by echo-atlas")
	p.want(0, "snapshots", "export", "quay-live/berths", "--out", "own.json")
	p.want(0, "snapshots", "export", "quay-live/berths", "--out", "own.json")
	// Of an earlier export what is no longer there goes, and all else stays.
	p.want(0, "snapshots", "export", "quay-live/berths", "--into", "own")
	p.file("own/README.md", "read")
	p.file("own/table/notes.json", `{"a": 1}`)
	p.want(0, "snapshots", "export", "quay-live/berths/mooring", "--into", "own")
	if p.read("own/README.md") != "read" || p.read("own/table/notes.json") == "" {
		t.Error("somebody else's files are gone")
	}
	if files, _ := filepath.Glob(filepath.Join(p.dir, "own", "table", "*")); len(files) != 2 {
		t.Errorf("files stay that are no part of the export: %v", files)
	}
}

// An exported snapshot that is named by its path answers like one that was surveyed, beside those, and never comes into the
// catalogue.
func TestGuests(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	for _, database := range []string{"berths", "tides"} {
		p.want(0, "snapshots", "export", "quay-live/"+database, "--out", database+".json")
	}
	p.want(0, "snapshots", "export", "quay-dev/berths", "--into", "dev")
	snapshots := p.want(0, "snapshots", "--as", "json")
	file := func() []byte {
		text, err := os.ReadFile(filepath.Join(filepath.Dir(p.dir), "home", "catalogue.db"))
		if err != nil {
			t.Fatal(err)
		}
		return text
	}
	before := file()
	for _, c := range []struct {
		code int
		args []string
		says []string
	}{
		{0, []string{"list", "./berths.json", "./tides.json"}, []string{"mooring", "gauge"}},
		{0, []string{"find", "mooring", "--in", "./berths.json", "--in", "quay-dev"}, []string{"./berths.json/mooring", "also dev"}},
		{0, []string{"find", "paid_on", "--text", "--in", "./berths.json"}, []string{"./berths.json"}},
		{0, []string{"show", "./berths.json/mooring"}, []string{"draught_m", "mooring_open"}},
		{0, []string{"trace", "./dev/mooring"}, []string{"open_mooring"}},
		{0, []string{"ddl", "./berths.json/mooring"}, []string{"CREATE TABLE mooring"}},
		{0, []string{"diff", "./berths.json", "quay-live/berths"}, []string{"No difference"}},
		{1, []string{"diff", "./dev", "./berths.json"}, []string{"changed"}},
		{1, []string{"diff", "./dev", "quay-live/berths"}, []string{"changed"}},
		{0, []string{"tree", "./tides.json"}, []string{"tables"}},
	} {
		out, errs, code := p.run(c.args...)
		if code != c.code {
			t.Errorf("%v: exit code %d\n%s%s", c.args, code, out, errs)
		}
		holds(t, strings.Join(c.args, " "), out, c.says...)
	}
	if after := p.want(0, "snapshots", "--as", "json"); stripAges(after) != stripAges(snapshots) || !bytes.Equal(file(), before) {
		t.Error("the catalogue was changed")
	}
}

func stripAges(s string) string {
	return regexp.MustCompile(`"age_seconds": \d+`).ReplaceAllString(s, "")
}
