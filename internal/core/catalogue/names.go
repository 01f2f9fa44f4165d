package catalogue

import (
	"encoding/binary"
	"fmt"
	"strings"

	"echo-atlas/internal/core/schema"
)

// NameIndex holds the names of a chunk's objects and their parts, one a line, folded for comparison
// without regard to case, so that a search reads one text from end to end.
type NameIndex struct {
	Folded  string // lines; a line break inside a name stands as \x01
	types   []string
	details string
}

// NameLine is what a line of the index stands for.
type NameLine struct {
	Entry int         // place of the object in its chunk
	Part  schema.Kind // kind of the part, "" for the object itself
	Name  string      // as it is written
	Type  string      // of a column
	Flags ColumnFlags
}

// ColumnFlags tell about a column.
type ColumnFlags uint8

// What can be told about a column.
const (
	NotNull ColumnFlags = 1 << iota
	HasDefault
	InPrimaryKey
	IsUnique // alone makes a key
	InForeignKey
	IsIdentity
	IsGenerated
)

// FoldLine returns a name as it stands in the index.
func FoldLine(name string) string { return strings.ReplaceAll(schema.Fold(name), "\n", "\x01") }

type nameEncoder struct {
	folded, details []byte
	types           map[string]int
	typeList        []string
}

// encodeNames makes the index of a chunk's objects.
func encodeNames(objects []*schema.Object) []byte {
	e := nameEncoder{types: map[string]int{"": 0}, typeList: []string{""}}
	for _, o := range objects {
		e.line(true, NameLine{Name: o.Name})
		r := o.Relation
		if r == nil {
			continue
		}
		flags := columnFlags(r)
		for i := range r.Columns {
			c := &r.Columns[i]
			e.line(false, NameLine{Part: schema.KindColumn, Name: c.Name, Type: c.Type, Flags: flags(c)})
		}
		for _, k := range r.Keys {
			e.line(false, NameLine{Part: k.Kind(), Name: k.Name})
		}
		for _, f := range r.ForeignKeys {
			e.line(false, NameLine{Part: schema.KindForeignKey, Name: f.Name})
		}
		for _, c := range r.Checks {
			e.line(false, NameLine{Part: schema.KindCheck, Name: c.Name})
		}
		for _, x := range r.Exclusions {
			e.line(false, NameLine{Part: schema.KindExclusion, Name: x.Name})
		}
	}
	b := appendText(nil, string(e.folded))
	b = binary.AppendUvarint(b, uint64(len(e.typeList)))
	for _, t := range e.typeList {
		b = appendText(b, t)
	}
	return append(b, e.details...)
}

// columnFlags returns a function that tells the flags of a column of r.
func columnFlags(r *schema.Relation) func(*schema.Column) ColumnFlags {
	keyed := map[string]ColumnFlags{}
	for _, k := range r.Keys {
		for _, c := range k.Columns {
			if k.Primary {
				keyed[c.Column] |= InPrimaryKey
			}
			if len(k.Columns) == 1 {
				keyed[c.Column] |= IsUnique
			}
		}
	}
	for _, f := range r.ForeignKeys {
		for _, c := range f.Columns {
			keyed[c] |= InForeignKey
		}
	}
	return func(c *schema.Column) ColumnFlags {
		flags := keyed[c.Name]
		if c.NotNull {
			flags |= NotNull
		}
		if c.Default != "" {
			flags |= HasDefault
		}
		if c.Identity != nil {
			flags |= IsIdentity
		}
		if c.Generated != nil {
			flags |= IsGenerated
		}
		return flags
	}
}

// The details of a line: a byte that holds the part's kind and two flags, then what the flags announce.
const (
	newObject = 0x80
	ownSpell  = 0x40 // the name is not as folded: it follows
)

func (e *nameEncoder) line(object bool, l NameLine) {
	if !object && l.Name == "" {
		return
	}
	folded := FoldLine(l.Name)
	e.folded = append(append(e.folded, folded...), '\n')
	head := byte(0)
	if !object {
		head = byte(l.Part.Rank() - schema.KindColumn.Rank() + 1)
	} else {
		head = newObject
	}
	if folded != l.Name {
		head |= ownSpell
	}
	e.details = append(e.details, head)
	if folded != l.Name {
		e.details = appendText(e.details, l.Name)
	}
	if l.Part == schema.KindColumn {
		i, ok := e.types[l.Type]
		if !ok {
			i = len(e.typeList)
			e.types[l.Type] = i
			e.typeList = append(e.typeList, l.Type)
		}
		e.details = binary.AppendUvarint(e.details, uint64(i))
		e.details = append(e.details, byte(l.Flags))
	}
}

func decodeNames(body []byte) (*NameIndex, error) {
	r := byteReader{s: string(body)}
	x := &NameIndex{Folded: r.text()}
	n := r.number()
	if n > uint64(len(body)) {
		return nil, fmt.Errorf("%w: a name index counts %d types", ErrDamaged, n)
	}
	for range n {
		x.types = append(x.types, r.text())
	}
	if r.failed {
		return nil, fmt.Errorf("%w: a name index ends too early", ErrDamaged)
	}
	x.details = r.s[r.pos:]
	return x, nil
}

// startsLine reports whether some name begins with a text, in any case.
func (x *NameIndex) startsLine(text string) bool {
	folded := FoldLine(text)
	return strings.HasPrefix(x.Folded, folded) || strings.Contains(x.Folded, "\n"+folded)
}

// LineAt is a line of the index: its number and its place in Folded.
type LineAt struct{ Line, Start, End int }

// Sparse calls each for some of the lines, in order; it stops when each returns false. It is quicker than
// Lines where few are wanted.
func (x *NameIndex) Sparse(wanted []LineAt, each func(folded string, l NameLine) bool) error {
	kinds := schema.PartKinds()
	r := byteReader{s: x.details}
	line, entry := 0, -1
	for _, w := range wanted {
		for ; line < w.Line; line++ {
			entry = x.skip(&r, entry)
		}
		head := byte(0)
		if b := r.bytes(1); b != "" {
			head = b[0]
		}
		if head&newObject != 0 {
			entry++
		}
		part := int(head &^ (newObject | ownSpell))
		folded := x.Folded[w.Start:w.End]
		l := NameLine{Entry: entry, Name: folded}
		if head&ownSpell != 0 {
			l.Name = r.text()
		}
		if part > 0 && part <= len(kinds) {
			l.Part = kinds[part-1]
		}
		if part == columnPart {
			if typ := r.number(); typ < uint64(len(x.types)) {
				l.Type = x.types[typ]
			}
			if b := r.bytes(1); b != "" {
				l.Flags = ColumnFlags(b[0])
			}
		}
		if r.failed {
			return fmt.Errorf("%w: a name index is broken", ErrDamaged)
		}
		line++
		if !each(folded, l) {
			return nil
		}
	}
	return nil
}

// columnPart is the number of KindColumn, the first of the kinds of parts.
const columnPart = 1

// skip goes past the details of a line that is not wanted, and returns the number of its object.
func (x *NameIndex) skip(r *byteReader, entry int) int {
	if r.pos >= len(r.s) {
		r.failed = true
		return entry
	}
	head := r.s[r.pos]
	r.pos++
	if head&newObject != 0 {
		entry++
	}
	if head&ownSpell != 0 {
		r.text()
	}
	if head&^(newObject|ownSpell) == columnPart {
		for r.pos < len(r.s) && r.s[r.pos] >= 0x80 {
			r.pos++
		}
		r.pos += 2 // the last byte of the type's number, and the flags
	}
	return entry
}

// Lines calls each for the lines that wanted chooses by number, in order; nil chooses all. It stops
// when each returns false.
func (x *NameIndex) Lines(wanted func(line int) bool, each func(line int, folded string, l NameLine) bool) error {
	r := byteReader{s: x.details}
	kinds := schema.PartKinds()
	rest, entry := x.Folded, -1
	for line := 0; rest != ""; line++ {
		end := strings.IndexByte(rest, '\n')
		if end < 0 {
			break
		}
		folded := rest[:end]
		rest = rest[end+1:]
		head := r.bytes(1)
		if r.failed {
			break
		}
		l := NameLine{Name: folded}
		h := head[0]
		if h&newObject != 0 {
			entry++
		}
		if h&ownSpell != 0 {
			l.Name = r.text()
		}
		if k := int(h &^ (newObject | ownSpell)); k > 0 && k <= len(kinds) {
			l.Part = kinds[k-1]
		}
		if l.Part == schema.KindColumn {
			if t := r.number(); t < uint64(len(x.types)) {
				l.Type = x.types[t]
			}
			if b := r.bytes(1); b != "" {
				l.Flags = ColumnFlags(b[0])
			}
		}
		l.Entry = entry
		if (wanted == nil || wanted(line)) && !each(line, folded, l) {
			return nil
		}
	}
	if r.failed || rest != "" {
		return fmt.Errorf("%w: a name index is broken", ErrDamaged)
	}
	return nil
}
