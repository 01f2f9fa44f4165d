package catalogue

import (
	"encoding/binary"
	"fmt"
	"hash/fnv"
	"slices"

	"echo-atlas/internal/core/schema"
)

// Entry is what a snapshot says of an object without its content.
type Entry struct {
	ID   schema.ID
	Hash schema.Hash
	Summary

	at   place
	home *Catalogue // of a guest: the store that its object lies in
}

// Summary holds what lists show of an object.
type Summary struct {
	On          string // the relation it stands on
	Owner       string
	Comment     string // its beginning
	State       string // what is wrong or switched off: "invalid", "disabled", "not valid"
	Columns     int
	ForeignKeys int
	Uniques     int // unique constraints
	Checks      int
	PrimaryKey  bool
	Unique      bool // of an index
}

// place is where an object's content lies.
type place struct{ pack, offset, length uint32 }

// summarise returns the summary of an object.
func summarise(o *schema.Object) Summary {
	s := Summary{On: o.On(), Owner: o.Owner, Comment: beginning(o.Comment)}
	if o.Index != nil {
		s.Unique, s.Columns = o.Index.Unique, len(o.Index.Columns)
	}
	if r := o.Relation; r != nil {
		s.Columns, s.ForeignKeys, s.Checks = len(r.Columns), len(r.ForeignKeys), len(r.Checks)
		for _, k := range r.Keys {
			if k.Primary {
				s.PrimaryKey = true
			} else {
				s.Uniques++
			}
		}
	}
	s.State = state(o)
	return s
}

// state tells what is wrong with an object, or switched off.
func state(o *schema.Object) string {
	switch {
	case o.Setting(schema.System) != "":
		return schema.System
	case o.Setting("invalid") != "":
		return "invalid"
	case o.Trigger != nil && o.Trigger.Disabled, o.Setting("fires") == "disable":
		return "disabled"
	case o.Setting("populated") == "no":
		return "not populated"
	}
	if r := o.Relation; r != nil {
		if slices.ContainsFunc(r.ForeignKeys, func(f schema.ForeignKey) bool { return f.NotValid }) ||
			slices.ContainsFunc(r.Checks, func(c schema.Check) bool { return c.NotValid }) {
			return "not validated"
		}
	}
	return ""
}

// beginning returns the first 200 bytes of a text, cut between characters.
func beginning(s string) string {
	const most = 200
	if len(s) <= most {
		return s
	}
	end := most
	for end > 0 && s[end]&0xc0 == 0x80 {
		end--
	}
	return s[:end]
}

// chunk is a run of entries of one schema and kind.
type chunk struct {
	schema  string
	kind    schema.Kind
	hash    schema.Hash
	entries []Entry
}

// chunkSize is how many entries a chunk has on average.
const chunkSize = 256

// cut divides entries, in the order of their identifiers, into chunks. Where a chunk ends depends on
// the name alone, so that a new object changes one chunk, not all that follow.
func cut(entries []Entry) []chunk {
	var chunks []chunk
	start := 0
	for i := range entries {
		id := entries[i].ID
		last := i == len(entries)-1
		if !last {
			next := entries[i+1].ID
			last = next.Schema != id.Schema || next.Kind != id.Kind || spread(id)%chunkSize == 0
		}
		if last {
			c := chunk{schema: id.Schema, kind: id.Kind, entries: entries[start : i+1]}
			var b []byte
			b = appendText(b, c.schema)
			b = appendText(b, string(c.kind))
			for _, e := range c.entries {
				b = appendText(b, e.ID.Table)
				b = appendText(b, e.ID.Name)
				b = appendText(b, e.ID.Signature)
				b = append(b, e.Hash[:]...)
			}
			c.hash = schema.HashOf(b)
			chunks = append(chunks, c)
			start = i + 1
		}
	}
	return chunks
}

// spread returns a number that depends evenly on every character of a name.
func spread(id schema.ID) uint64 {
	h := fnv.New64a()
	h.Write([]byte(id.Table + "\x00" + id.Name + "\x00" + id.Signature))
	x := h.Sum64()
	x ^= x >> 33
	x *= 0xff51afd7ed558ccd // the finalizer of MurmurHash3
	return x ^ x>>33
}

func appendText(b []byte, s string) []byte {
	b = binary.AppendUvarint(b, uint64(len(s)))
	return append(b, s...)
}

// encodeEntries writes the entries of a chunk as they are stored.
func encodeEntries(entries []Entry) []byte {
	b := binary.AppendUvarint(nil, uint64(len(entries)))
	for i := range entries {
		e := &entries[i]
		for _, s := range [...]string{e.ID.Table, e.ID.Name, e.ID.Signature, e.On, e.Owner, e.Comment, e.State} {
			b = appendText(b, s)
		}
		b = append(b, e.Hash[:]...)
		flags := uint64(0)
		if e.PrimaryKey {
			flags |= 1
		}
		if e.Unique {
			flags |= 2
		}
		for _, n := range [...]uint64{flags, uint64(e.Columns), uint64(e.ForeignKeys), uint64(e.Uniques), uint64(e.Checks),
			uint64(e.at.pack), uint64(e.at.offset), uint64(e.at.length)} {
			b = binary.AppendUvarint(b, n)
		}
	}
	return b
}

// decodeEntries appends the entries of a stored chunk to list.
func decodeEntries(list []Entry, schemaName string, kind schema.Kind, body string) ([]Entry, error) {
	r := byteReader{s: body}
	n := r.number()
	if n > uint64(len(body)) {
		return nil, fmt.Errorf("%w: a chunk counts %d entries", ErrDamaged, n)
	}
	for range n {
		e := Entry{ID: schema.ID{Kind: kind, Schema: schemaName, Table: r.text(), Name: r.text(), Signature: r.text()}}
		e.On, e.Owner, e.Comment, e.State = r.text(), r.text(), r.text(), r.text()
		copy(e.Hash[:], r.bytes(len(e.Hash)))
		flags := r.number()
		e.PrimaryKey, e.Unique = flags&1 != 0, flags&2 != 0
		e.Columns, e.ForeignKeys, e.Uniques, e.Checks = int(r.number()), int(r.number()), int(r.number()), int(r.number())
		e.at = place{uint32(r.number()), uint32(r.number()), uint32(r.number())}
		list = append(list, e)
	}
	if r.failed {
		return nil, fmt.Errorf("%w: a chunk ends too early", ErrDamaged)
	}
	return list, nil
}

// byteReader reads numbers and texts; past the end it returns zeros and remembers the failure.
type byteReader struct {
	s      string
	pos    int
	failed bool
}

func (r *byteReader) number() uint64 {
	var x uint64
	for shift := 0; r.pos < len(r.s) && shift < 64; shift += 7 {
		c := r.s[r.pos]
		r.pos++
		x |= uint64(c&0x7f) << shift
		if c < 0x80 {
			return x
		}
	}
	r.failed = true
	return 0
}

func (r *byteReader) bytes(n int) string {
	if n < 0 || n > len(r.s)-r.pos {
		r.failed = true
		r.pos = len(r.s)
		return ""
	}
	s := r.s[r.pos : r.pos+n]
	r.pos += n
	return s
}

func (r *byteReader) text() string { return r.bytes(int(min(r.number(), 1<<31))) }
