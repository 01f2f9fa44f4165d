package catalogue

import (
	"encoding/binary"
	"fmt"

	"github.com/klauspost/compress/s2"

	"echo-atlas/internal/core/schema"
)

// TextIndex holds the texts of a chunk's objects and their parts: definitions, expressions, comments.
type TextIndex struct {
	Body   string // all texts, each with a line break behind it
	Folded string // the same, with ASCII letters in lower case
	Plain  bool   // Body is ASCII

	count int
	heads string
}

// TextItem is one text of the index.
type TextItem struct {
	Entry      int         // place of the object in its chunk
	Part       schema.Kind // of the part whose text it is, "" for the object itself
	Name       string      // of the part
	Type       string      // of a column
	Comment    bool
	Start, End int // in Body
}

// encodeTexts makes the index of texts of a chunk's objects; it is empty where they have none.
func encodeTexts(objects []*schema.Object) []byte {
	var heads, body []byte
	count := 0
	for entry, o := range objects {
		for _, text := range o.Texts() {
			count++
			head := byte(0)
			if text.Part != "" {
				head = byte(text.Part.Rank() - schema.KindColumn.Rank() + 1)
			}
			if text.Comment {
				head |= isComment
			}
			heads = append(binary.AppendUvarint(heads, uint64(entry)), head)
			if text.Part != "" {
				heads = appendText(appendText(heads, text.Name), text.Type)
			}
			heads = binary.AppendUvarint(heads, uint64(len(text.Text)))
			body = append(append(body, text.Text...), '\n')
		}
	}
	if count == 0 {
		return nil
	}
	b := binary.AppendUvarint(nil, uint64(count))
	b = appendText(b, string(heads))
	return append(b, s2.EncodeBetter(nil, body)...)
}

const isComment = 0x80

// texts reads the index of texts of a chunk, nil where it has none. It holds until the next is read.
func (r *indexReader) texts(k *Chunk) (*TextIndex, error) {
	index, err := r.read(k, textsIndex)
	if err != nil || len(index) == 0 {
		return nil, err
	}
	x, packed, err := decodeTexts(index)
	if err == nil {
		if r.text, err = s2.Decode(r.text[:cap(r.text)], packed); err != nil {
			err = fmt.Errorf("%w: an index of texts: %v", ErrDamaged, err)
		}
	}
	if err != nil {
		return nil, r.c.explain("reading", err)
	}
	r.folded, x.Plain = lowerInto(r.folded, r.text)
	x.Body, x.Folded = view(r.text), view(r.folded)
	return x, nil
}

func decodeTexts(index []byte) (x *TextIndex, packed []byte, err error) {
	r := byteReader{s: view(index)}
	x = &TextIndex{count: int(r.number()), heads: r.text()}
	if r.failed || x.count > len(x.heads) {
		return nil, nil, fmt.Errorf("%w: an index of texts ends too early", ErrDamaged)
	}
	return x, index[r.pos:], nil
}

// Items returns what the index holds, in order.
func (x *TextIndex) Items() ([]TextItem, error) {
	kinds := schema.PartKinds()
	r := byteReader{s: x.heads}
	items := make([]TextItem, x.count)
	at := 0
	for i := range items {
		t := &items[i]
		t.Entry = int(r.number())
		head := byte(0)
		if b := r.bytes(1); b != "" {
			head = b[0]
		}
		t.Comment = head&isComment != 0
		if part := int(head &^ isComment); part > 0 && part <= len(kinds) {
			t.Part, t.Name, t.Type = kinds[part-1], r.text(), r.text()
		}
		n := r.number()
		if r.failed || n >= uint64(len(x.Body)-at) {
			return nil, fmt.Errorf("%w: an index of texts is broken", ErrDamaged)
		}
		t.Start, t.End = at, at+int(n)
		at = t.End + 1
	}
	return items, nil
}

// lowerInto writes a text, with its ASCII letters in lower case, into buf, which it makes longer where it has
// to. plain tells that all of it is ASCII.
func lowerInto(buf, text []byte) (_ []byte, plain bool) {
	if cap(buf) < len(text) {
		buf = make([]byte, len(text))
	}
	buf = buf[:len(text)]
	const (
		high = 0x8080808080808080
		ones = 0x0101010101010101
	)
	seen := uint64(0)
	i := 0
	for ; i+8 <= len(text); i += 8 {
		x := binary.LittleEndian.Uint64(text[i:])
		seen |= x
		// The high bit of each byte that is at least 'A', and of each that is above 'Z'.
		from, beyond := x&^high+(0x80-'A')*ones, x&^high+(0x80-'Z'-1)*ones
		binary.LittleEndian.PutUint64(buf[i:], x|(from&^beyond&^x&high)>>2)
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
