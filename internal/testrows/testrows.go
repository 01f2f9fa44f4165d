// Package testrows attacks the decoders of what servers send with rows that were recorded from real servers and altered since.
// A line of a recording is the name of the function that takes the row, and its values.
package testrows

import (
	"os"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// null stands for NULL in a recording; tabs part the values.
const null = `\N`

// Decoder takes rows by the name of what they belong to, and then puts the reading together.
type Decoder struct {
	Take   map[string]func(*engine.Row) error
	Finish func() *schema.Reading
}

// Each makes a taker of one that refuses no row by itself.
func Each(each func(*engine.Row)) func(*engine.Row) error {
	return func(row *engine.Row) error { each(row); return nil }
}

// values are those that a hostile server would try.
var values = []string{null, "", "0", "-1", "1", "65536", "4294967295", "9223372036854775807", "99999999999999999999", "x", "t", "{", "}", "{1,2,3}", "[\"a", "'", "=", "(", ")", "\x00", "\xff", strings.Repeat("7", 3000)}

// Fuzz runs a decoder over altered rows. A row may be refused; what the decoder lets pass must be objects that the engine
// can write, or that the model refuses: without a panic, and in a time and memory that end.
func Fuzz(f *testing.F, e engine.Engine, fresh func() Decoder) {
	file, err := os.ReadFile("testdata/rows.txt")
	if err != nil {
		f.Fatal(err)
	}
	var recorded [][]string
	for line := range strings.Lines(string(file)) {
		recorded = append(recorded, strings.Split(strings.TrimSuffix(line, "\n"), "\t"))
	}
	untouched := fresh()
	for name := range untouched.Take {
		if !slices.ContainsFunc(recorded, func(row []string) bool { return row[0] == name }) {
			f.Logf("no recorded row for %s", name)
		}
	}
	if refused := decode(e, untouched, recorded); refused != 0 {
		f.Fatalf("%d rows are refused as they were recorded", refused)
	}
	for seed := range byte(120) { // one change in each of many places, all kinds of change among them
		f.Add([]byte{seed % 5, seed * 37, seed * 11, seed})
	}
	f.Fuzz(func(_ *testing.T, edits []byte) { decode(e, fresh(), altered(recorded, edits)) })
}

// altered returns a copy of rows after edits of four bytes each: two for the row, one for the value in it, and one for what
// is done.
func altered(recorded [][]string, edits []byte) [][]string {
	rows := slices.Clone(recorded)
	for ; len(edits) >= 4; edits = edits[4:] {
		at := (int(edits[0])<<8 | int(edits[1])) % len(rows)
		row := slices.Clone(rows[at])
		field, op := 0, int(edits[3])
		if len(row) > 1 {
			field = 1 + int(edits[2])%(len(row)-1)
		}
		switch {
		case op < 2*len(values):
			row[field] = values[op/2]
		case op < 80: // another row's value
			other := rows[(at+op)%len(rows)]
			row[field] = other[min(field, len(other)-1)]
		case op < 100: // a row twice
			rows = slices.Insert(rows, at, row)
			continue
		case op < 120: // a row not at all
			if len(rows) > 1 {
				rows = slices.Delete(rows, at, at+1)
			}
			continue
		case op < 140: // a short row
			row = row[:field]
		case op < 160: // a long row
			row = append(row, row[field])
		default: // one character
			if v := []byte(row[field]); len(v) > 0 {
				v[op%len(v)] ^= byte(1 << (op % 7))
				row[field] = string(v)
			}
		}
		if len(row) > 0 {
			rows[at] = row
		}
	}
	return rows
}

// decode returns how many rows were refused.
func decode(e engine.Engine, d Decoder, rows [][]string) (refused int) {
	var row engine.Row
	for _, fields := range rows {
		take := d.Take[fields[0]]
		if take == nil {
			continue
		}
		values := make([][]byte, len(fields)-1)
		for i, v := range fields[1:] {
			if v != null {
				values[i] = []byte(v)
			}
		}
		row.Set(values)
		if take(&row) != nil || row.Check(fields[0]) != nil {
			row, refused = engine.Row{}, refused+1
		}
	}
	for _, o := range d.Finish().Objects {
		if o.Validate() == nil {
			_, _ = e.Make(o)
		}
	}
	return refused
}
