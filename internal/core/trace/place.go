package trace

// Where a dependency is written is counted in the text that is shown.

import (
	"context"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Place is where in a text something is written, for people: line and column (in characters) from 1, and the text of
// that line. The zero Place is nowhere.
type Place struct {
	Line, Column int
	Text         string
}

// PlaceIn returns where a dependency of an object is written. Lines are counted in the text that is printed of the
// object, where that holds the text which names the other end, else in that text alone.
func PlaceIn(o *schema.Object, printed string, d *schema.Dependency) Place {
	text, start := o.Text(d.Field, d.From.Part), d.Start
	if d.Field == schema.FieldLine {
		text = o.Text(o.MainField(), "")
		start = offsetOf(text, d.Start, d.Stop)
	}
	if d.Field == schema.NoField || start < 0 || start > len(text) {
		return Place{}
	}
	if base := strings.Index(printed, text); base >= 0 {
		text, start = printed, base+start
	}
	var p Place
	p.Line, p.Column, p.Text = sqltext.Place(text, start)
	return p
}

// offsetOf returns the offset of a line and a column in characters, both from 1; -1 where the text has no such place.
func offsetOf(text string, line, column int) int {
	at := 0
	for ; line > 1; line-- {
		i := strings.IndexByte(text[at:], '\n')
		if i < 0 {
			return -1
		}
		at += i + 1
	}
	for ; column > 1 && at < len(text); column-- {
		_, size := utf8.DecodeRuneInString(text[at:])
		at += size
	}
	return at
}

// Places returns where edges, by their places among those of the trace, are written; printed returns what is printed of
// an object.
func (t *Trace) Places(ctx context.Context, c *catalogue.Catalogue, edges []int, printed func(*schema.Object) string) (map[int]Place, error) {
	var entries []*catalogue.Entry
	at := map[int]int{} // by node
	for _, i := range edges {
		e := &t.Edges[i]
		if _, there := at[e.From]; !there && t.graph.Edges[e.in].Field != schema.NoField {
			at[e.From] = len(entries)
			entries = append(entries, t.Entry(&t.Nodes[e.From]))
		}
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return nil, err
	}
	texts := make([]string, len(objects))
	for i, o := range objects {
		texts[i] = printed(o)
	}
	places := map[int]Place{}
	for _, i := range edges {
		if k, ok := at[t.Edges[i].From]; ok {
			d := t.Dependency(&t.Edges[i])
			if p := PlaceIn(objects[k], texts[k], &d); p.Line > 0 {
				places[i] = p
			}
		}
	}
	return places, nil
}
