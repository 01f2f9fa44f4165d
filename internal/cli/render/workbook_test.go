package render

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
)

// What stands in a workbook is read back by another program's library: no text is a formula, numbers and times are such.
func TestXLSX(t *testing.T) {
	table := Table{Columns: []Column{{Title: "name"}, {Title: "rows", Right: true}, {Title: "taken"}}}
	long := strings.Repeat("ä", 40_000)
	rows := [][3]string{{"berth", "12", "2026-03-01T06:30:00Z"}, {"=cmd|' /C calc'!A0", "-3.5", "2026-03-01T06:30:00+02:00"}, {"+1", "1 kB", "yesterday"}, {"  <b>&\x1b[31m\x00\uffff]]>", "12345678901234567890", ""},
		{"007", "", ""}, {long, "0", ""}, {"a\nb", "1e5", ""}, {"@SUM(1)", "0x10", ""}}
	for _, r := range rows {
		table.Add(r[:]...)
	}
	var out, again bytes.Buffer
	if err := errors.Join(table.XLSX(&out), table.XLSX(&again)); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(out.Bytes(), again.Bytes()) {
		t.Error("the same rows give other bytes")
	}
	f, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	value := func(cell string) (string, excelize.CellType) {
		kind, err1 := f.GetCellType("Rows 1", cell)
		text, err2 := f.GetCellValue("Rows 1", cell)
		formula, err3 := f.GetCellFormula("Rows 1", cell)
		if err := errors.Join(err1, err2, err3); err != nil || formula != "" {
			t.Fatalf("%s: formula %q, %v", cell, formula, err)
		}
		return text, kind
	}
	for cell, want := range map[string]struct {
		text   string
		number bool
	}{
		"A1": {"name", false}, "A2": {"berth", false}, "B2": {"12", true}, "C2": {"2026-03-01 06:30:00", true}, "A3": {"=cmd|' /C calc'!A0", false}, "B3": {"-3.5", true}, "C3": {"2026-03-01 06:30:00", true}, "A4": {"+1", false},
		"B4": {"1 kB", false}, "C4": {"yesterday", false}, "A5": {"  <b>&" + Visible("\x1b[31m\x00") + "\ufffd]]>", false}, "B5": {"12345678901234567890", false}, "A6": {"007", false}, "B7": {"0", true}, "B8": {"1e5", false}, "B9": {"0x10", false}, "A9": {"@SUM(1)", false},
	} {
		text, kind := value(cell)
		if text != want.text || (kind == excelize.CellTypeUnset || kind == excelize.CellTypeNumber) != want.number {
			t.Errorf("%s is %q of type %d, want %+v", cell, text, kind, want)
		}
	}
	if text, _ := value("A7"); len([]rune(text)) != cellLength || !strings.HasSuffix(text, "…") {
		t.Errorf("a long text has %d characters", len([]rune(text)))
	}
	panes, err := f.GetPanes("Rows 1")
	if err != nil || !panes.Freeze || panes.YSplit != 1 {
		t.Errorf("panes: %+v, %v", panes, err)
	}
	wellFormed(t, out.Bytes())
}

// wellFormed reads every part of a workbook as XML.
func wellFormed(t *testing.T, book []byte) {
	z, err := zip.NewReader(bytes.NewReader(book), int64(len(book)))
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range z.File {
		r, err := part.Open()
		if err != nil {
			t.Fatal(err)
		}
		d := xml.NewDecoder(r)
		for err == nil {
			_, err = d.Token()
		}
		if err != io.EOF {
			t.Errorf("%s: %v", part.Name, err)
		}
		r.Close()
	}
}

// More rows than a sheet holds go on in the next.
func TestXLSXSheets(t *testing.T) {
	table := Table{Columns: []Column{{Title: "n", Right: true}}}
	for range 7 {
		table.Add("1")
	}
	var out bytes.Buffer
	if err := table.workbook(&out, 3); err != nil {
		t.Fatal(err)
	}
	wellFormed(t, out.Bytes())
	f, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for i, want := range []int{4, 4, 2} {
		if rows, err := f.GetRows(f.GetSheetName(i)); err != nil || len(rows) != want {
			t.Errorf("sheet %d has %d rows, want %d; %v", i+1, len(rows), want, err)
		}
	}
	for i, want := range map[int]string{0: "A", 25: "Z", 26: "AA", 701: "ZZ", 702: "AAA"} {
		if got := columnName(i); got != want {
			t.Errorf("column %d is %s, want %s", i, got, want)
		}
	}
}
