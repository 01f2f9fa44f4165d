package cli_test

import (
	"encoding/json"
	"image/png"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"echo-atlas/internal/testservers"
)

func TestChart(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	words := p.want(0, "chart", "quay-live/berths")
	holds(t, "chart", words, "mooring.vessel_id", "vessel.id", "n : 1", "n : 0..1", "15 objects, 20 links", "--out FILE.svg")
	svg := p.want(0, "chart", "quay-live/berths", "--as", "svg")
	if again := p.want(0, "chart", "quay-live/berths", "--as", "svg"); again != svg || !strings.HasPrefix(svg, "<svg ") || !strings.Contains(svg, ">draught_m</text>") {
		t.Errorf("the picture: %.300s", svg)
	}
	keys := p.want(0, "chart", "--around", "quay-live/berths/mooring", "--columns", "keys", "--types", "--as", "svg")
	if strings.Contains(keys, ">draught_m<") || !strings.Contains(keys, ">vessel_id<") || strings.Contains(keys, ">pilot<") || !strings.Contains(keys, ">invoice_line<") || !strings.Contains(keys, ">INTEGER") {
		t.Errorf("around mooring: %s", regexp.MustCompile(`<text.*`).FindAllString(keys, -1))
	}
	if two := p.want(0, "chart", "--around", "quay-live/berths/mooring", "--depth", "2"); !strings.Contains(two, "harbour") {
		t.Errorf("two steps around it:\n%s", two)
	}
	if views := p.want(0, "chart", "quay-live/berths/mooring", "--with-dependants"); !strings.Contains(views, "harbour_load") || !strings.Contains(views, "view") {
		t.Errorf("with dependants:\n%s", views)
	}
	if needs := p.want(0, "chart", "quay-live/berths/free_berth", "--with-needs", "--depth", "1"); !strings.Contains(needs, "berth") || strings.Contains(needs, "harbour_load") {
		t.Errorf("with needs:\n%s", needs)
	}
	file := filepath.Join(p.dir, "berths.png")
	p.want(0, "chart", "quay-live/berths", "--out", file)
	f, err := os.Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if image, err := png.Decode(f); err != nil || image.Bounds().Dx() < 800 {
		t.Errorf("%v", err)
	}
	holds(t, "mermaid", p.want(0, "chart", "quay-live/tides", "--as", "mermaid"), "erDiagram", "[\"gauge\"]")
	holds(t, "dot", p.want(0, "chart", "quay-live/berths", "--as", "dot"), "digraph \"quay-live/berths\" {", "taillabel=\"n\"")
	var d struct {
		Objects []struct{ Name, Kind string }
		Links   []struct {
			From, To int
			Column   string
			Rows     string
			ToRows   string `json:"to_rows"`
		}
	}
	if err := json.Unmarshal([]byte(p.want(0, "chart", "quay-live/berths", "--as", "json")), &d); err != nil || len(d.Objects) != 15 || len(d.Links) != 20 {
		t.Errorf("%v, %+v", err, d)
	}
	if picture := p.want(1, "diff", "quay-live/berths", "quay-dev/berths", "--as", "svg"); !strings.Contains(picture, ">added<") || !strings.Contains(picture, ">tide_margin_m<") {
		t.Error("the picture of what changed lacks it")
	}
	holds(t, "trace", p.want(0, "trace", "quay-live/berths/mooring", "--as", "svg"), ">open_mooring<", "What depends on quay-live/berths/mooring")
	p.fails(2, []string{"chart"}, "takes the ADDRESS")
	p.fails(2, []string{"chart", "quay-live/berths", "--columns", "some"}, "all, keys or none")
	p.fails(2, []string{"chart", "quay-live/berths", "--out", "x.docx"}, ".svg")
	holds(t, "groups", p.want(0, "chart", "quay-live/berths", "--group-by", "selection"), "tariffs")
	p.fails(2, []string{"chart", "quay-live/berths", "--group-by", "colour"}, "schema or selection")
	p.fails(2, []string{"chart", "quay-live/berths/noo"}, "noo")
	p.file("mine.svg", "my own words")
	p.fails(2, []string{"chart", "quay-live/berths", "--out", "mine.svg"}, "was not written by")
}

// More tables than anybody can read become an overview of groups.
func TestChartOverview(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	var script strings.Builder
	for i := range 420 {
		name := []string{"berth", "pilot", "tide"}[i%3] + "_" + string(rune('a'+i/3%26)) + string(rune('a'+i/78))
		script.WriteString("CREATE TABLE " + name + " (id INTEGER PRIMARY KEY, up INTEGER REFERENCES berth_aa (id));\n")
	}
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "wide.db"), script.String())
	p.want(0, "survey", "--from", "sqlite:wide.db", "--name", "quay")
	holds(t, "overview", p.want(0, "chart", "quay/wide"), "pilot", "An overview", "140 foreign keys", "3 objects")
}

// Notes of the configuration stand where the server has no comment.
func TestNotes(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "reef.db"), "CREATE TABLE berth (no INTEGER PRIMARY KEY, depth_m REAL); CREATE TABLE quay (name TEXT);")
	p.file("echo-atlas.toml", "[servers.quay]\nurl = \"sqlite:reef.db\"\n[notes]\nfiles = [\"notes-*.toml\"]\n")
	p.file("notes-berths.toml", "\"quay/reef/berth\" = \"Where a boat lies.\"\n\"berth.depth_m\" = \"At the lowest of tides.\"\n")
	p.want(0, "survey", "quay")
	holds(t, "show", p.want(0, "show", "berth"), "Where a boat lies.", "At the lowest of tides.")
	holds(t, "show a column", p.want(0, "show", "berth.depth_m"), "At the lowest of tides.")
	holds(t, "find", p.want(0, "find", "lowest OF", "--text"), "in notes", "quay/reef/berth.depth_m", "At the lowest of tides.")
	holds(t, "find", p.want(0, "find", "lowest of", "--text", "--as", "json"), `"where": "note"`, `"total": 1`)
	p.want(1, "find", "lowest of", "--text", "--in", "quay/reef/quay")
	holds(t, "chart", p.want(0, "chart", "quay/reef"), "Where a boat lies.")
	p.file("notes-berths.toml", "\"quay/reef/berth = 1\n")
	p.fails(2, []string{"show", "berth"}, "berths.toml", "\"ADDRESS\" = \"TEXT\"")
	p.file("echo-atlas.toml", "[servers.quay]\nurl = \"sqlite:reef.db\"\n[notes]\nfiles = [\"nowhere.toml\"]\n")
	p.fails(2, []string{"show", "berth"}, "no file matches")
}

// What is shown as rows is to be had as a workbook and as a page, too.
func TestRowsForOthers(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	for _, c := range []struct {
		code int
		args []string
		text string
	}{
		{0, []string{"list", "quay-live/berths", "--kind", "table"}, "mooring"}, {0, []string{"find", "mooring"}, "quay-live/berths/mooring"}, {1, []string{"diff", "quay-live/berths", "quay-dev/berths"}, "columns/tide_margin_m"}, {1, []string{"drift", "quay"}, "stage"},
		{0, []string{"trace", "quay-live/berths/mooring"}, "quay-live/berths/open_mooring"}, {0, []string{"report", "largest", "quay-live"}, "2000"}, {0, []string{"snapshots"}, "quay-live/tides"}, {0, []string{"history", "quay-live/berths"}, "27"},
	} {
		book := p.want(c.code, append(c.args, "--as", "xlsx")...)
		f, err := excelize.OpenReader(strings.NewReader(book))
		if err != nil {
			t.Errorf("%v: %v", c.args, err)
			continue
		}
		rows, err := f.GetRows("Rows 1")
		found := false
		for _, row := range rows {
			for _, cell := range row {
				found = found || cell == c.text
			}
		}
		if err != nil || !found {
			t.Errorf("%v: %v, %q is not in %v", c.args, err, c.text, rows)
		}
		f.Close()
		holds(t, "html", p.want(c.code, append(c.args, "--as", "html")...), "<!DOCTYPE html>", "</html>")
	}
}
