package render

// A table fits the width: what matters least gives way first, and what identifies a thing is never cut.

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"
)

// Column is a column of a table.
type Column struct {
	Title string
	Right bool // numbers
	Min   int  // a column wider than this may be cut to fit; 0: never
	Keep  bool // cut only where the others are as narrow as they may be
	Wrap  bool // what does not fit goes on in further lines, and is not cut
	// Lesser columns are left out where the table does not fit otherwise, those with the greatest number first; 0: never.
	Lesser int
}

// Cell is a value with its look.
type Cell struct {
	Text  string
	Style Style
	Spans [][2]int // bytes of Text to set off
}

// Table is rows under titles.
type Table struct {
	Columns []Column
	Rows    [][]Cell
	Indent  string
	NoHead  bool
	Below   []string // by row: whole lines that stand below it, as they are
}

// Add adds a row of plain texts.
func (t *Table) Add(texts ...string) {
	row := make([]Cell, len(texts))
	for i, s := range texts {
		row[i].Text = s
	}
	t.Rows = append(t.Rows, row)
}

// AddCells adds a row.
func (t *Table) AddCells(cells ...Cell) { t.Rows = append(t.Rows, cells) }

// Text writes the table in plain columns. Where width is not 0 the widest columns that may be are cut
// until it fits. Columns that hold nothing are left out.
func (t *Table) Text(w io.Writer, width int, paint Paint) error {
	n := len(t.Columns)
	texts, widths, used := t.measure(width)
	var b strings.Builder
	line := func(cell func(i int) (text, painted string)) {
		b.WriteString(t.Indent)
		pending := 0
		for i := range t.Columns {
			if !used[i] {
				continue
			}
			text, painted := cell(i)
			gap := widths[i] - Width(text)
			if t.Columns[i].Right {
				pending += gap
				gap = 0
			}
			if text != "" {
				b.WriteString(strings.Repeat(" ", pending))
				b.WriteString(painted)
				pending = 0
			}
			pending += gap + 2
		}
		b.WriteByte('\n')
	}
	if !t.NoHead {
		line(func(i int) (string, string) {
			title := Fit(t.Columns[i].Title, widths[i])
			return title, paint.Text(Faint, title)
		})
	}
	for r, row := range t.Rows {
		var further [][]string // by line: what goes on there, by column
		for i := range row {
			if i < n && t.Columns[i].Wrap && used[i] && Width(texts[r][i]) > widths[i] {
				lines := strings.Split(Wrap(texts[r][i], widths[i], ""), "\n")
				texts[r][i] = lines[0]
				for k, text := range lines[1:] {
					if k == len(further) {
						further = append(further, make([]string, n))
					}
					further[k][i] = text
				}
			}
		}
		line(func(i int) (string, string) {
			if i >= len(row) {
				return "", ""
			}
			if t.Columns[i].Wrap {
				return texts[r][i], paint.Text(row[i].Style, texts[r][i])
			}
			text := Fit(texts[r][i], widths[i])
			if kept, cut := strings.CutSuffix(text, "…"); len(row[i].Spans) > 0 && (text == row[i].Text || cut && strings.HasPrefix(row[i].Text, kept)) {
				return text, paint.Spans(Hit, text, within(row[i].Spans, len(kept)))
			}
			return text, paint.Text(row[i].Style, text)
		})
		for _, more := range further {
			line(func(i int) (string, string) {
				if i >= len(row) {
					return "", ""
				}
				return more[i], paint.Text(row[i].Style, more[i])
			})
		}
		if r < len(t.Below) {
			b.WriteString(t.Below[r])
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// measure returns the texts of the cells, and of each column how wide it is and whether anything stands in it.
func (t *Table) measure(width int) (texts [][]string, widths []int, used []bool) {
	n := len(t.Columns)
	widths, used = make([]int, n), make([]bool, n)
	texts = make([][]string, len(t.Rows))
	for r, row := range t.Rows {
		texts[r] = make([]string, n)
		for i := range min(n, len(row)) {
			s := Visible(row[i].Text)
			texts[r][i] = s
			widths[i] = max(widths[i], Width(s))
			used[i] = used[i] || s != ""
		}
	}
	for i, c := range t.Columns {
		if !t.NoHead {
			widths[i] = max(widths[i], Width(c.Title))
		}
		if !used[i] {
			widths[i] = 0
		}
	}
	t.fit(widths, used, width)
	return texts, widths, used
}

// within returns the spans as far as they lie in the first n bytes.
func within(spans [][2]int, n int) [][2]int {
	var all [][2]int
	for _, s := range spans {
		if s[0] < n {
			all = append(all, [2]int{s[0], min(s[1], n)})
		}
	}
	return all
}

// fit leaves out lesser columns until the others can be narrowed to the width, and narrows them.
func (t *Table) fit(widths []int, used []bool, width int) {
	if width <= 0 {
		return
	}
	for {
		least := Width(t.Indent) - 2
		lesser := -1
		for i, c := range t.Columns {
			if !used[i] {
				continue
			}
			w := widths[i]
			if c.Min > 0 {
				w = min(w, c.Min)
			}
			least += w + 2
			if c.Lesser > 0 && (lesser < 0 || c.Lesser > t.Columns[lesser].Lesser) {
				lesser = i
			}
		}
		if least <= width || lesser < 0 {
			break
		}
		used[lesser], widths[lesser] = false, 0
	}
	t.shrink(widths, used, width)
}

// shrink narrows the widest of the columns that may be cut until the row fits.
func (t *Table) shrink(widths []int, used []bool, width int) {
	if width <= 0 {
		return
	}
	total := Width(t.Indent)
	for i, w := range widths {
		if used[i] {
			total += w + 2
		}
	}
	for over := total - 2 - width; over > 0; over-- {
		widest := -1
		for i, c := range t.Columns {
			switch {
			case !used[i] || c.Min == 0 || widths[i] <= c.Min:
			case widest < 0, t.Columns[widest].Keep && !c.Keep, t.Columns[widest].Keep == c.Keep && widths[i] > widths[widest]:
				widest = i
			}
		}
		if widest < 0 {
			return
		}
		widths[widest]--
	}
}

// CSV writes the table as RFC 4180 has it. A text that a spreadsheet would take for a formula gets an
// apostrophe in front.
func (t *Table) CSV(w io.Writer) error {
	out := csv.NewWriter(w)
	record := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		record[i] = c.Title
	}
	if err := out.Write(record); err != nil {
		return err
	}
	for _, row := range t.Rows {
		for i := range record {
			record[i] = ""
			if i < len(row) {
				record[i] = harmless(row[i].Text)
			}
		}
		if err := out.Write(record); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func harmless(s string) string {
	if s != "" && strings.IndexByte("=+-@\t\r", s[0]) >= 0 && strings.Trim(s, "+-0123456789.") != "" {
		return "'" + s
	}
	return s
}

// Markdown writes the table as a Markdown table.
func (t *Table) Markdown(w io.Writer) error {
	var b strings.Builder
	for _, c := range t.Columns {
		b.WriteString("| " + c.Title + " ")
	}
	b.WriteString("|\n")
	for _, c := range t.Columns {
		if c.Right {
			b.WriteString("|---:")
		} else {
			b.WriteString("|---")
		}
	}
	b.WriteString("|\n")
	escape := strings.NewReplacer("|", `\|`, `\`, `\\`, "<", "&lt;", "&", "&amp;", "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`)
	for _, row := range t.Rows {
		for i := range t.Columns {
			text := ""
			if i < len(row) {
				text = escape.Replace(Visible(row[i].Text))
			}
			fmt.Fprintf(&b, "| %s ", text)
		}
		b.WriteString("|\n")
	}
	_, err := io.WriteString(w, b.String())
	return err
}
