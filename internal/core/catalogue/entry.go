package catalogue

// An entry is what lists need of an object; entries of one schema and kind are stored in chunks, which snapshots share.

import (
	"encoding/binary"
	"fmt"
	"hash/fnv"
	"slices"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
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
			b = stored.AppendText(b, c.schema)
			b = stored.AppendText(b, string(c.kind))
			for _, e := range c.entries {
				b = stored.AppendText(b, e.ID.Table)
				b = stored.AppendText(b, e.ID.Name)
				b = stored.AppendText(b, e.ID.Signature)
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

// encodeEntries writes the entries of a chunk as they are stored.
func encodeEntries(entries []Entry) []byte {
	b := binary.AppendUvarint(nil, uint64(len(entries)))
	for i := range entries {
		e := &entries[i]
		for _, s := range [...]string{e.ID.Table, e.ID.Name, e.ID.Signature, e.On, e.Owner, e.Comment, e.State} {
			b = stored.AppendText(b, s)
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
	list, _, err := decodeSome(list, schemaName, kind, body, nil)
	return list, err
}

// decodeSome appends those entries of a stored chunk to list that are wanted, by their places in it in order, or nil for all; it returns how
// many the chunk holds.
func decodeSome(list []Entry, schemaName string, kind schema.Kind, body string, wanted []int) (some []Entry, count int, err error) {
	r := stored.Reader{S: body}
	n := r.Number()
	if n > uint64(len(body)) {
		return nil, 0, fmt.Errorf("%w: a chunk counts %d entries", ErrDamaged, n)
	}
	before := len(list)
	for i := range int(n) {
		if wanted != nil {
			if k := len(list) - before; k == len(wanted) || wanted[k] != i {
				skipEntry(&r)
				continue
			}
		}
		e := Entry{ID: schema.ID{Kind: kind, Schema: schemaName, Table: r.Text(), Name: r.Text(), Signature: r.Text()}}
		e.On, e.Owner, e.Comment, e.State = r.Text(), r.Text(), r.Text(), r.Text()
		copy(e.Hash[:], r.Bytes(len(e.Hash)))
		flags := r.Number()
		e.PrimaryKey, e.Unique = flags&1 != 0, flags&2 != 0
		e.Columns, e.ForeignKeys, e.Uniques, e.Checks = int(r.Number()), int(r.Number()), int(r.Number()), int(r.Number())
		e.at = place{uint32(r.Number()), uint32(r.Number()), uint32(r.Number())}
		list = append(list, e)
	}
	if r.Failed {
		return nil, 0, fmt.Errorf("%w: a chunk ends too early", ErrDamaged)
	}
	return list, int(n), nil
}

// skipEntry reads past an entry.
func skipEntry(r *stored.Reader) {
	const texts, numbers = 7, 8
	for range texts {
		r.Text()
	}
	r.Bytes(len(schema.Hash{}))
	for range numbers {
		r.Number()
	}
}
