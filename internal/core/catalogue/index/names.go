// Package index holds what a search reads from end to end: the names and the texts of the objects of a chunk of a
// snapshot, each as one text with the details of its lines beside. It knows the two forms, and no file: where they lie is the
// catalogue's.
package index

import (
	"encoding/binary"
	"fmt"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// Names holds the names of a chunk's objects and their parts, one a line, folded for comparison
// without regard to case, so that a search reads one text from end to end. Of each line there are details
// of the same size, so that those of a hit are found without reading others.
type Names struct {
	Folded string // lines; a line break inside a name stands as \x01
	Plain  bool   // Folded is ASCII
	Words  string // the distinct words of Folded, runs of letters, one a line

	kinds     []schema.Kind // of parts
	types     []string
	typeWidth int // bytes of a type's number in the details
	width     int // bytes of the details of a line
	details   string
	spelt     string // lines whose name is not as folded, in order: line and place in spellings, 4 bytes each
	spellings string
}

// Line is what a line of the index stands for.
type Line struct {
	Entry int         // place of the object in its chunk
	Part  schema.Kind // kind of the part, "" for the object itself
	Name  string      // as it is written
	Type  string      // of a column
	Flags ColumnFlags

	in *Names
	at LineAt
}

// Object returns the name of the object that a line belongs to.
func (l *Line) Object() string {
	if l.Part == "" {
		return l.Name
	}
	line, end := l.at.Line, l.at.Start
	for line > 0 && end > 0 {
		line, end = line-1, strings.LastIndexByte(l.in.Folded[:end-1], '\n')+1
		if l.in.IsObject(line) {
			stop := end + strings.IndexByte(l.in.Folded[end:], '\n')
			return l.in.spelling(line, l.in.Folded[end:stop])
		}
	}
	return ""
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
func FoldLine(name string) string { return strings.ReplaceAll(names.Fold(name), "\n", "\x01") }

type nameEncoder struct {
	folded, spelt, spellings []byte
	lines                    []lineDetails
	types                    map[string]int
	typeList                 []string
	entry                    int
}

// lineDetails are what the index tells of a line besides its name.
type lineDetails struct {
	head, flags byte
	typ, entry  int
}

// EncodeNames makes the index of a chunk's objects.
func EncodeNames(objects []*schema.Object) []byte {
	lines := len(objects)
	for _, o := range objects {
		if o.Composite != nil {
			lines += len(o.Composite.Attributes)
		}
		if r := o.Relation; r != nil {
			lines += len(r.Columns) + len(r.Keys) + len(r.ForeignKeys) + len(r.Checks) + len(r.Exclusions)
		}
	}
	const usual = 16 // bytes of a name
	e := nameEncoder{types: map[string]int{"": 0}, typeList: []string{""}, entry: -1, lines: make([]lineDetails, 0, lines), folded: make([]byte, 0, lines*usual)}
	for _, o := range objects {
		e.line(true, Line{Name: o.Name})
		r := o.Relation
		if r == nil {
			for _, c := range o.Columns() {
				e.line(false, Line{Part: schema.KindColumn, Name: c.Name, Type: c.Type})
			}
		}
		if r == nil {
			continue
		}
		flags := columnFlags(r)
		for i := range r.Columns {
			c := &r.Columns[i]
			e.line(false, Line{Part: schema.KindColumn, Name: c.Name, Type: c.Type, Flags: flags(c)})
		}
		for _, k := range r.Keys {
			e.line(false, Line{Part: k.Kind(), Name: k.Name})
		}
		for _, f := range r.ForeignKeys {
			e.line(false, Line{Part: schema.KindForeignKey, Name: f.Name})
		}
		for _, c := range r.Checks {
			e.line(false, Line{Part: schema.KindCheck, Name: c.Name})
		}
		for _, x := range r.Exclusions {
			e.line(false, Line{Part: schema.KindExclusion, Name: x.Name})
		}
	}
	words, plain := wordsOf(stored.View(e.folded))
	b := []byte{0}
	if plain {
		b[0] = 1
	}
	b = slices.Grow(b, len(e.folded)+len(words)+len(e.spellings)+8*lines)
	b = stored.AppendText(stored.AppendText(b, stored.View(e.folded)), words)
	b = binary.AppendUvarint(b, uint64(len(e.typeList)))
	for _, t := range e.typeList {
		b = stored.AppendText(b, t)
	}
	typeWidth, entryWidth := widthOf(len(e.typeList)), widthOf(len(objects))
	b = append(b, byte(typeWidth), byte(entryWidth))
	b = stored.AppendText(stored.AppendText(b, string(e.spelt)), string(e.spellings))
	for _, l := range e.lines {
		b = appendWide(append(b, l.head, l.flags), l.typ, typeWidth)
		b = appendWide(b, l.entry, entryWidth)
	}
	return b
}

// widthOf returns how many bytes numbers under n take.
func widthOf(n int) int {
	width := 1
	for ; n > 1<<8; n >>= 8 {
		width++
	}
	return width
}

func appendWide(b []byte, n, width int) []byte {
	for range width {
		b = append(b, byte(n))
		n >>= 8
	}
	return b
}

func wide(s string) int {
	n := 0
	for i := len(s) - 1; i >= 0; i-- {
		n = n<<8 | int(s[i])
	}
	return n
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

// The head of a line's details holds the kind of the part, 0 for an object.
const (
	newObject = 0x80
	ownSpell  = 0x40 // the name is not as folded
)

func (e *nameEncoder) line(object bool, l Line) {
	if !object && l.Name == "" {
		return
	}
	folded := FoldLine(l.Name)
	e.folded = append(append(e.folded, folded...), '\n')
	d := lineDetails{head: newObject}
	if object {
		e.entry++
	} else {
		d.head = byte(l.Part.Rank() - schema.KindColumn.Rank() + 1)
	}
	d.entry = e.entry
	if folded != l.Name {
		d.head |= ownSpell
		e.spelt = binary.LittleEndian.AppendUint32(e.spelt, uint32(len(e.lines)))
		e.spelt = binary.LittleEndian.AppendUint32(e.spelt, uint32(len(e.spellings)))
		e.spellings = stored.AppendText(e.spellings, l.Name)
	}
	if l.Part == schema.KindColumn {
		i, ok := e.types[l.Type]
		if !ok {
			i = len(e.typeList)
			e.types[l.Type] = i
			e.typeList = append(e.typeList, l.Type)
		}
		d.typ, d.flags = i, byte(l.Flags)
	}
	e.lines = append(e.lines, d)
}

// wordsOf returns the distinct words of names, and whether all is ASCII.
func wordsOf(folded string) (words string, plain bool) {
	seen := map[string]bool{}
	var b strings.Builder
	plain = true
	start := 0
	for i := range len(folded) {
		c := folded[i]
		plain = plain && c < utf8.RuneSelf
		if 'a' <= c && c <= 'z' || c >= utf8.RuneSelf {
			continue
		}
		if word := folded[start:i]; word != "" && !seen[word] {
			seen[word] = true
			b.WriteString(word)
			b.WriteByte('\n')
		}
		start = i + 1
	}
	return b.String(), plain
}

// DecodeNames reads an index; it refers to body.
func DecodeNames(body string) (*Names, error) {
	r := stored.Reader{S: body}
	x := &Names{kinds: schema.PartKinds(), Plain: r.Bytes(1) == "\x01", Folded: r.Text(), Words: r.Text()}
	n := r.Number()
	if n > uint64(len(body)) {
		return nil, fmt.Errorf("%w: a name index counts %d types", stored.ErrDamaged, n)
	}
	for range n {
		x.types = append(x.types, r.Text())
	}
	typeWidth, entryWidth := r.Bytes(1), r.Bytes(1)
	x.spelt, x.spellings = r.Text(), r.Text()
	if r.Failed {
		return nil, fmt.Errorf("%w: a name index ends too early", stored.ErrDamaged)
	}
	x.typeWidth = int(typeWidth[0])
	x.width = 2 + x.typeWidth + int(entryWidth[0])
	x.details = r.S[r.Pos:]
	if x.typeWidth > 4 || entryWidth[0] > 4 || len(x.spelt)%8 != 0 {
		return nil, fmt.Errorf("%w: a name index is broken", stored.ErrDamaged)
	}
	return x, nil
}

// StartsLine reports whether some name begins with a text, in any case.
func (x *Names) StartsLine(text string) bool {
	folded := FoldLine(text)
	return strings.HasPrefix(x.Folded, folded) || strings.Contains(x.Folded, "\n"+folded)
}

// Objects returns the places in the chunk of the objects that bear a name, in any case.
func (x *Names) Objects(name string) (places []int, err error) {
	folded := FoldLine(name) + "\n"
	line := 0
	for start := 0; ; {
		found := strings.Index(x.Folded[start:], folded)
		if found < 0 {
			return places, nil
		}
		at := start + found
		line += strings.Count(x.Folded[start:at], "\n")
		if (at == 0 || x.Folded[at-1] == '\n') && x.IsObject(line) {
			l, err := x.line(LineAt{Line: line, Start: at, End: at + len(folded) - 1})
			if err != nil {
				return nil, err
			}
			places = append(places, l.Entry)
		}
		line++
		start = at + len(folded)
	}
}

// LineAt is a line of the index: its number, its place in Folded, and where in Folded something in it was
// found.
type LineAt struct{ Line, Start, End, At int }

// IsObject reports whether a line is the name of an object, not of a part.
func (x *Names) IsObject(line int) bool {
	at := line * x.width
	return at < len(x.details) && x.details[at]&newObject != 0
}

// spelling returns the name of a line as it is written.
func (x *Names) spelling(line int, folded string) string {
	if x.details[line*x.width]&ownSpell == 0 {
		return folded
	}
	const size = 8
	i, found := sort.Find(len(x.spelt)/size, func(i int) int { return line - wide(x.spelt[i*size:i*size+4]) })
	if !found {
		return folded
	}
	r := stored.Reader{S: x.spellings, Pos: wide(x.spelt[i*size+4 : i*size+size])}
	return r.Text()
}

// line returns what stands at a place.
func (x *Names) line(at LineAt) (Line, error) {
	start := at.Line * x.width
	if start+x.width > len(x.details) {
		return Line{}, fmt.Errorf("%w: a name index is broken", stored.ErrDamaged)
	}
	d := x.details[start : start+x.width]
	l := Line{Entry: wide(d[2+x.typeWidth:]), Name: x.spelling(at.Line, x.Folded[at.Start:at.End]), in: x, at: at}
	if part := int(d[0] &^ (newObject | ownSpell)); part > 0 && part <= len(x.kinds) {
		l.Part = x.kinds[part-1]
	}
	if l.Part == schema.KindColumn {
		if typ := wide(d[2 : 2+x.typeWidth]); typ < len(x.types) {
			l.Type = x.types[typ]
		}
		l.Flags = ColumnFlags(d[1])
	}
	return l, nil
}

// Sparse calls each for some of the lines; it stops when each returns false.
func (x *Names) Sparse(wanted []LineAt, each func(folded string, l Line) bool) error {
	for _, at := range wanted {
		l, err := x.line(at)
		if err != nil {
			return err
		}
		if !each(x.Folded[at.Start:at.End], l) {
			return nil
		}
	}
	return nil
}

// Lines calls each for all lines, in order; it stops when each returns false.
func (x *Names) Lines(each func(folded string, l Line) bool) error {
	at := LineAt{}
	for at.Start < len(x.Folded) {
		n := strings.IndexByte(x.Folded[at.Start:], '\n')
		if n < 0 {
			return fmt.Errorf("%w: a name index is broken", stored.ErrDamaged)
		}
		at.End = at.Start + n
		l, err := x.line(at)
		if err != nil {
			return err
		}
		if !each(x.Folded[at.Start:at.End], l) {
			return nil
		}
		at.Line, at.Start = at.Line+1, at.End+1
	}
	return nil
}
