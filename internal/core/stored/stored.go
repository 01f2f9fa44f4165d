// Package stored writes and reads numbers and texts as the catalogue stores them: numbers in as few bytes as they need, texts
// behind their length. What is read may be damaged: reading never fails in the middle, and remembers that it did.
package stored

import (
	"encoding/binary"
	"errors"
	"unsafe"
)

// ErrDamaged says that what is stored is not what this program wrote.
var ErrDamaged = errors.New("the catalogue is damaged")

// AppendText appends a text behind its length.
func AppendText(b []byte, s string) []byte {
	b = binary.AppendUvarint(b, uint64(len(s)))
	return append(b, s...)
}

// Reader reads numbers and texts; past the end it returns zeros and remembers the failure.
type Reader struct {
	S      string
	Pos    int
	Failed bool
}

// Number reads what binary.AppendUvarint wrote.
func (r *Reader) Number() uint64 {
	if r.Pos < len(r.S) && r.S[r.Pos] < 0x80 { // most are small; this much is inlined
		r.Pos++
		return uint64(r.S[r.Pos-1])
	}
	return r.large()
}

// large reads a number of several bytes.
func (r *Reader) large() uint64 {
	var x uint64
	for shift := 0; r.Pos < len(r.S) && shift < 64; shift += 7 {
		c := r.S[r.Pos]
		r.Pos++
		x |= uint64(c&0x7f) << shift
		if c < 0x80 {
			return x
		}
	}
	r.Failed = true
	return 0
}

// Bytes reads n bytes.
func (r *Reader) Bytes(n int) string {
	if n < 0 || n > len(r.S)-r.Pos {
		r.Failed = true
		r.Pos = len(r.S)
		return ""
	}
	s := r.S[r.Pos : r.Pos+n]
	r.Pos += n
	return s
}

// Text reads what AppendText wrote.
func (r *Reader) Text() string { return r.Bytes(int(min(r.Number(), 1<<31))) }

// View returns bytes as a text without copying them: a copy is half of the time of a search. It holds until
// the bytes change.
func View(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

// Bytes is the opposite of View; the bytes must not be changed.
func Bytes(s string) []byte { return unsafe.Slice(unsafe.StringData(s), len(s)) }
