package standin

// Answers as streams of tokens: columns, rows, and an end.

import (
	"encoding/binary"
)

// Types of columns and tokens ([MS-TDS] 2.2.5.4, 2.2.7).
const (
	typeIntN     = 0x26
	typeBitN     = 0x68
	typeNVarChar = 0xe7

	tokenColumns   = 0x81
	tokenError     = 0xaa
	tokenInfo      = 0xab
	tokenLoginAck  = 0xad
	tokenRow       = 0xd1
	tokenChange    = 0xe3
	tokenDone      = 0xfd
	doneMore       = 0x01
	doneError      = 0x02
	doneCount      = 0x10
	doneAttention  = 0x20
	changeDatabase = 1
	changeSize     = 4
)

// collation is that of SQL_Latin1_General_CP1_CI_AS.
var collation = [5]byte{0x09, 0x04, 0xd0, 0x00, 0x34}

// reply builds the tokens of an answer.
type reply struct{ b []byte }

func (r *reply) short(s string) {
	u := utf16le(s)
	r.b = append(append(r.b, byte(len(u)/2)), u...)
}

func (r *reply) long(s string) {
	u := utf16le(s)
	r.b = append(binary.LittleEndian.AppendUint16(r.b, uint16(len(u)/2)), u...)
}

// token appends a token that begins with its length.
func (r *reply) token(kind byte, fill func(*reply)) {
	var inner reply
	fill(&inner)
	r.b = append(binary.LittleEndian.AppendUint16(append(r.b, kind), uint16(len(inner.b))), inner.b...)
}

func (r *reply) change(kind byte, now, before string) {
	r.token(tokenChange, func(t *reply) {
		t.b = append(t.b, kind)
		t.short(now)
		t.short(before)
	})
}

// message appends an error or a note.
func (r *reply) message(kind byte, number int, class byte, text, server string) {
	r.token(kind, func(t *reply) {
		t.b = append(binary.LittleEndian.AppendUint32(t.b, uint32(number)), 1, class)
		t.long(text)
		t.short(server)
		t.short("")
		t.b = binary.LittleEndian.AppendUint32(t.b, 1)
	})
}

func (r *reply) done(status uint16, rows int) {
	r.b = binary.LittleEndian.AppendUint16(append(r.b, tokenDone), status)
	r.b = binary.LittleEndian.AppendUint16(r.b, 0xc1) // SELECT
	r.b = binary.LittleEndian.AppendUint64(r.b, uint64(rows))
}

// column is a column of a result.
type column struct {
	name string
	kind byte
}

func (r *reply) columns(all []column) {
	r.b = binary.LittleEndian.AppendUint16(append(r.b, tokenColumns), uint16(len(all)))
	for _, c := range all {
		r.b = append(r.b, 0, 0, 0, 0, 0x09, 0x00, c.kind) // user type, flags: may be null, updatable unknown
		switch c.kind {
		case typeIntN:
			r.b = append(r.b, 8)
		case typeBitN:
			r.b = append(r.b, 1)
		default:
			r.b = append(append(r.b, 0xff, 0xff), collation[:]...)
		}
		r.short(c.name)
	}
}

func (r *reply) row(columns []column, values []any) {
	r.b = append(r.b, tokenRow)
	for i, v := range values {
		n, isNumber := v.(int64)
		switch {
		case columns[i].kind == typeIntN && isNumber:
			r.b = binary.LittleEndian.AppendUint64(append(r.b, 8), uint64(n))
		case columns[i].kind == typeBitN && isNumber:
			r.b = append(r.b, 1, byte(n))
		case columns[i].kind != typeNVarChar:
			r.b = append(r.b, 0)
		case v == nil:
			r.b = binary.LittleEndian.AppendUint64(r.b, 1<<64-1)
		default:
			u := utf16le(v.(string))
			r.b = binary.LittleEndian.AppendUint64(r.b, uint64(len(u)))
			if len(u) > 0 {
				r.b = append(binary.LittleEndian.AppendUint32(r.b, uint32(len(u))), u...)
			}
			r.b = binary.LittleEndian.AppendUint32(r.b, 0)
		}
	}
}
