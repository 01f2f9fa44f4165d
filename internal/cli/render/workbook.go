package render

// A table as a workbook for spreadsheet programs: the smallest set of parts that ECMA-376 (Office Open XML) asks for. Texts are
// inline strings, so that none is taken for a formula.

import (
	"archive/zip"
	"encoding/xml"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

const (
	sheetRows  = 1_048_575 // below the titles, as many as a sheet holds
	cellLength = 32_767    // characters in a cell
)

// The styles of cells, as they stand in workbookStyles.
const (
	plainStyle = iota
	titleStyle
	countStyle
	timeStyle
)

var workbookParts = [][2]string{
	{"_rels/.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`},
	{"xl/styles.xml", `<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><numFmts count="1"><numFmt numFmtId="164" formatCode="yyyy\-mm\-dd\ hh:mm:ss"/></numFmts>` +
		`<fonts count="2"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><name val="Calibri"/></font></fonts><fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills>` +
		`<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders><cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>` +
		`<cellXfs count="4"><xf numFmtId="49" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/><xf numFmtId="49" fontId="1" fillId="0" borderId="0" xfId="0" applyNumberFormat="1" applyFont="1"/><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>` +
		`<xf numFmtId="164" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/></cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>`},
}

// XLSX writes the table as a workbook: the titles stay in sight and filter, numbers and times are such, widths fit. Times are
// told from texts by their form, that of RFC 3339.
func (t *Table) XLSX(w io.Writer) error { return t.workbook(w, sheetRows) }

// workbook writes sheets of at most so many rows.
func (t *Table) workbook(w io.Writer, most int) error {
	z := zip.NewWriter(w)
	sheets := max(1, (len(t.Rows)+most-1)/most)
	types := `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>` +
		`<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/>`
	book := `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets>`
	names := `<definedNames>`
	rels := `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId0" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/>`
	for i := range sheets {
		n := strconv.Itoa(i + 1)
		types += `<Override PartName="/xl/worksheets/sheet` + n + `.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>`
		book += `<sheet name="Rows ` + n + `" sheetId="` + n + `" r:id="rId` + n + `"/>`
		names += `<definedName name="_xlnm._FilterDatabase" localSheetId="` + strconv.Itoa(i) + `" hidden="1">'Rows ` + n + `'!$A$1:$` + columnName(len(t.Columns)-1) + `$` + strconv.Itoa(1+len(t.sheet(i, most))) + `</definedName>`
		rels += `<Relationship Id="rId` + n + `" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet` + n + `.xml"/>`
	}
	parts := append([][2]string{{"[Content_Types].xml", types + "</Types>"}}, workbookParts...)
	parts = append(parts, [2]string{"xl/workbook.xml", book + "</sheets>" + names + "</definedNames></workbook>"}, [2]string{"xl/_rels/workbook.xml.rels", rels + "</Relationships>"})
	create := func(name string) (io.Writer, error) {
		return z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)}) // the same rows, the same bytes
	}
	for _, p := range parts {
		out, err := create(p[0])
		if err == nil {
			_, err = io.WriteString(out, xml.Header+p[1])
		}
		if err != nil {
			return fmt.Errorf("writing the workbook: %w", err)
		}
	}
	for i := range sheets {
		out, err := create("xl/worksheets/sheet" + strconv.Itoa(i+1) + ".xml")
		if err == nil {
			err = t.writeSheet(out, t.sheet(i, most), i == 0)
		}
		if err != nil {
			return fmt.Errorf("writing the workbook: %w", err)
		}
	}
	if err := z.Close(); err != nil {
		return fmt.Errorf("writing the workbook: %w", err)
	}
	return nil
}

// sheet returns the rows of a sheet.
func (t *Table) sheet(i, most int) [][]Cell {
	return t.Rows[min(i*most, len(t.Rows)):min((i+1)*most, len(t.Rows))]
}

func (t *Table) writeSheet(w io.Writer, rows [][]Cell, first bool) error {
	var b strings.Builder
	b.WriteString(xml.Header + `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetViews><sheetView workbookViewId="0"`)
	if first {
		b.WriteString(` tabSelected="1"`)
	}
	b.WriteString(`><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/><selection pane="bottomLeft" activeCell="A2" sqref="A2"/></sheetView></sheetViews><cols>`)
	for i, c := range t.Columns {
		widest := utf8.RuneCountInString(c.Title) + 3 // the filter's button
		for _, row := range rows[:min(len(rows), 1000)] {
			if i < len(row) {
				widest = max(widest, utf8.RuneCountInString(row[i].Text)+2)
			}
		}
		fmt.Fprintf(&b, `<col min="%d" max="%d" width="%d" customWidth="1"/>`, i+1, i+1, min(60, widest))
	}
	b.WriteString(`</cols><sheetData><row r="1">`)
	for i, c := range t.Columns {
		cell(&b, i, 1, c.Title, titleStyle)
	}
	b.WriteString("</row>")
	for r, row := range rows {
		n := r + 2
		fmt.Fprintf(&b, `<row r="%d">`, n)
		for i, c := range t.Columns {
			if i < len(row) && row[i].Text != "" {
				if !(c.Right && number(&b, i, n, row[i].Text)) && !moment(&b, i, n, row[i].Text) {
					cell(&b, i, n, row[i].Text, plainStyle)
				}
			}
		}
		b.WriteString("</row>")
		if b.Len() > 1<<20 {
			if _, err := io.WriteString(w, b.String()); err != nil {
				return err
			}
			b.Reset()
		}
	}
	fmt.Fprintf(&b, `</sheetData><autoFilter ref="A1:%s%d"/></worksheet>`, columnName(len(t.Columns)-1), len(rows)+1)
	_, err := io.WriteString(w, b.String())
	return err
}

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// columnName returns the letters of a column, from 0.
func columnName(i int) string {
	if i < 26 {
		return letters[i : i+1]
	}
	name := ""
	for i++; i > 0; i = (i - 1) / 26 {
		name = string(rune('A'+(i-1)%26)) + name
	}
	return name
}

// begin writes the beginning of a cell.
func begin(b *strings.Builder, column, row, style int) {
	b.WriteString(`<c r="`)
	b.WriteString(columnName(column))
	b.WriteString(strconv.Itoa(row))
	b.WriteString(`" s="`)
	b.WriteString(strconv.Itoa(style))
	b.WriteByte('"')
}

// cell writes a text.
func cell(b *strings.Builder, column, row int, text string, style int) {
	text = Visible(text)
	if len(text) > cellLength && utf8.RuneCountInString(text) > cellLength {
		text = string([]rune(text)[:cellLength-1]) + "…"
	}
	begin(b, column, row, style)
	b.WriteString(` t="inlineStr"><is><t xml:space="preserve">`)
	if strings.ContainsAny(text, "<>&'\"\r\n\t") || !utf8.ValidString(text) {
		_ = xml.EscapeText(b, []byte(text)) // a builder takes all
	} else {
		b.WriteString(text)
	}
	b.WriteString("</t></is></c>")
}

// number writes a number, and reports whether the text is one that a spreadsheet holds exactly: of at most 15 digits.
func number(b *strings.Builder, column, row int, text string) bool {
	digits := strings.TrimLeft(text, "+-")
	if len(text)-len(digits) > 1 || len(digits) > 16 || digits == "" || strings.Trim(digits, "0123456789.") != "" {
		return false
	}
	f, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return false
	}
	begin(b, column, row, countStyle)
	b.WriteString("><v>" + strconv.FormatFloat(f, 'f', -1, 64) + "</v></c>")
	return true
}

// moment writes a time as days since the beginning of 1900, as spreadsheets count them, and reports whether the text is one.
func moment(b *strings.Builder, column, row int, text string) bool {
	if len(text) < len("2006-01-02T15:04:05Z") || text[4] != '-' || text[10] != 'T' {
		return false
	}
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return false
	}
	_, offset := at.Zone()
	days := (float64(at.Unix()) + float64(offset)) / 86400
	begin(b, column, row, timeStyle)
	b.WriteString("><v>" + strconv.FormatFloat(days+25569, 'f', 8, 64) + "</v></c>")
	return true
}
