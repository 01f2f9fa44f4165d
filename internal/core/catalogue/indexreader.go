package catalogue

import (
	"context"
	"strings"
	"unsafe"
)

// indexReader reads the indexes of chunks one after the other, into one place in memory.
type indexReader struct {
	c    *Catalogue
	ctx  context.Context
	keep bool   // each index stays, instead of lying where the next will
	bad  uint32 // number of a file that an index is not in, though it should be; 0 if there is none

	buf    []byte
	folded []byte // of a window of texts
}

// read returns an index of a chunk.
func (r *indexReader) read(k *Chunk, which int) ([]byte, error) {
	var ok bool
	if r.buf, ok = r.c.readIndex(k.places[which], r.buf); ok {
		return r.buf, nil
	}
	r.bad = max(r.bad, k.places[which].file)
	entries, err := k.Entries()
	if err != nil {
		return nil, err
	}
	return r.c.remakeIndex(r.ctx, which, entries)
}

// names returns the index of names of a chunk.
func (r *indexReader) names(k *Chunk) (*NameIndex, error) {
	index, err := r.read(k, namesIndex)
	if err != nil {
		return nil, err
	}
	body := view(index)
	if r.keep {
		body = strings.Clone(body)
	}
	x, err := decodeNames(body)
	return x, r.c.explain("reading", err)
}

// view returns bytes as a text without copying them: a copy is half of the time of a search. It holds until
// the bytes change.
func view(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

// viewBytes is the opposite of view; the bytes must not be changed.
func viewBytes(s string) []byte { return unsafe.Slice(unsafe.StringData(s), len(s)) }
