package index

// The index of texts holds them as they are, a head for each beside; they are folded window by window, while they are
// looked through.

import (
	"encoding/binary"
	"fmt"
	"strings"
	"unsafe"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// Texts holds the texts of a chunk's objects and their parts: definitions, expressions, comments.
type Texts struct {
	Body string // all texts, each with a line break behind it

	count  int
	heads  string
	folded *[]byte // memory for a window
}

// Window is a run of whole lines of an index.
type Window struct {
	Start  int // in Body
	Body   string
	Folded string // the same, with ASCII letters in lower case
	Plain  bool   // Body is ASCII
}

// windowSize is about how much text is looked through at once, in bytes: little enough to stay in a cache of the
// processor.
const windowSize = 32 << 10

// Windows calls each for all of the index, window by window. What each is given holds until it returns.
func (x *Texts) Windows(each func(Window)) {
	for at := 0; at < len(x.Body); {
		end := min(at+windowSize, len(x.Body))
		if n := strings.IndexByte(x.Body[end:], '\n'); n >= 0 {
			end += n + 1
		}
		w := Window{Start: at, Body: x.Body[at:end]}
		*x.folded, w.Plain = lowerInto(*x.folded, w.Body)
		w.Folded = stored.View(*x.folded)
		each(w)
		at = end
	}
}

// Item is one text of the index.
type Item struct {
	Entry      int         // place of the object in its chunk
	Part       schema.Kind // of the part whose text it is, "" for the object itself
	Name       string      // of the part
	Type       string      // of a column
	Comment    bool
	Start, End int // in Body
}

// EncodeTexts makes the index of texts of a chunk's objects; it is empty where they have none.
func EncodeTexts(objects []*schema.Object) []byte {
	var heads []byte
	var texts []string
	size := 0
	for entry, o := range objects {
		for _, text := range o.Texts() {
			head := byte(0)
			if text.Part != "" {
				head = byte(text.Part.Rank() - schema.KindColumn.Rank() + 1)
			}
			if text.Comment {
				head |= isComment
			}
			heads = append(binary.AppendUvarint(heads, uint64(entry)), head)
			if text.Part != "" {
				heads = stored.AppendText(stored.AppendText(heads, text.Name), text.Type)
			}
			heads = binary.AppendUvarint(heads, uint64(len(text.Text)))
			texts = append(texts, text.Text)
			size += len(text.Text) + 1
		}
	}
	if len(texts) == 0 {
		return nil
	}
	b := make([]byte, 0, 2*binary.MaxVarintLen64+len(heads)+size)
	b = binary.AppendUvarint(b, uint64(len(texts)))
	b = stored.AppendText(b, stored.View(heads))
	for _, text := range texts {
		b = append(append(b, text...), '\n')
	}
	return b
}

const isComment = 0x80

// DecodeTexts reads an index that EncodeTexts made. It holds until the bytes change; windows of it lie in folded.
func DecodeTexts(encoded []byte, folded *[]byte) (*Texts, error) {
	r := stored.Reader{S: stored.View(encoded)}
	x := &Texts{count: int(r.Number()), heads: r.Text(), folded: folded}
	if r.Failed || x.count < 0 || x.count > len(x.heads) {
		return nil, fmt.Errorf("%w: an index of texts ends too early", stored.ErrDamaged)
	}
	x.Body = stored.View(encoded[r.Pos:])
	return x, nil
}

// Items returns what the index holds, in order.
func (x *Texts) Items() ([]Item, error) {
	kinds := schema.PartKinds()
	r := stored.Reader{S: x.heads}
	items := make([]Item, x.count)
	at := 0
	for i := range items {
		t := &items[i]
		t.Entry = int(r.Number())
		r.Failed = r.Failed || t.Entry < 0
		head := byte(0)
		if b := r.Bytes(1); b != "" {
			head = b[0]
		}
		t.Comment = head&isComment != 0
		if part := int(head &^ isComment); part > 0 && part <= len(kinds) {
			t.Part, t.Name, t.Type = kinds[part-1], r.Text(), r.Text()
		}
		n := r.Number()
		if r.Failed || n >= uint64(len(x.Body)-at) {
			return nil, fmt.Errorf("%w: an index of texts is broken", stored.ErrDamaged)
		}
		t.Start, t.End = at, at+int(n)
		at = t.End + 1
	}
	return items, nil
}

// lowerInto writes a text, with its ASCII letters in lower case, into buf, which it makes longer where it has
// to. plain tells that all of it is ASCII.
func lowerInto(buf []byte, text string) (_ []byte, plain bool) {
	if cap(buf) < len(text) {
		buf = make([]byte, len(text))
	}
	buf = buf[:len(text)]
	bytes := unsafe.Slice(unsafe.StringData(text), len(text))
	seen := uint64(0)
	i := 0
	for ; i+32 <= len(text); i += 32 {
		from, to := bytes[i:i+32:i+32], buf[i:i+32:i+32]
		a, b := binary.LittleEndian.Uint64(from), binary.LittleEndian.Uint64(from[8:])
		c, d := binary.LittleEndian.Uint64(from[16:]), binary.LittleEndian.Uint64(from[24:])
		seen |= a | b | c | d
		binary.LittleEndian.PutUint64(to, lowerEight(a))
		binary.LittleEndian.PutUint64(to[8:], lowerEight(b))
		binary.LittleEndian.PutUint64(to[16:], lowerEight(c))
		binary.LittleEndian.PutUint64(to[24:], lowerEight(d))
	}
	for ; i < len(text); i++ {
		c := text[i]
		seen |= uint64(c)
		if 'A' <= c && c <= 'Z' {
			c |= 0x20
		}
		buf[i] = c
	}
	return buf, seen&high == 0
}

const (
	ones = 0x0101010101010101
	high = 0x80 * ones
)

// lowerEight returns eight bytes with the ASCII letters among them in lower case.
func lowerEight(x uint64) uint64 {
	seven := x &^ high
	// The high bit of each byte that is at least 'A', and of each that is above 'Z'.
	from, beyond := seven+(0x80-'A')*ones, seven+(0x80-'Z'-1)*ones
	return x | (from&^beyond&^x&high)>>2
}
