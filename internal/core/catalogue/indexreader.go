package catalogue

// Indexes of chunks are read one after the other into one place in memory; what cannot be read is made again.

import (
	"context"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/stored"
	"strings"
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
func (r *indexReader) names(k *Chunk) (*index.Names, error) {
	bytes, err := r.read(k, namesIndex)
	if err != nil {
		return nil, err
	}
	body := stored.View(bytes)
	if r.keep {
		body = strings.Clone(body)
	}
	x, err := index.DecodeNames(body)
	return x, r.c.explain("reading", err)
}

// texts reads the index of texts of a chunk, nil where it has none. It holds until the next is read.
func (r *indexReader) texts(k *Chunk) (*index.Texts, error) {
	bytes, err := r.read(k, textsIndex)
	if err != nil || len(bytes) == 0 {
		return nil, err
	}
	x, err := index.DecodeTexts(bytes, &r.folded)
	return x, r.c.explain("reading", err)
}
