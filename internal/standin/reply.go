package standin

// Answers as streams of tokens: columns, rows, and an end.

import (
	"encoding/binary"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"sync"
)

// Types of columns and tokens ([MS-TDS] 2.2.5.4, 2.2.7).
const (
	typeIntN      = 0x26
	typeBitN      = 0x68
	typeFloatN    = 0x6d
	typeNVarChar  = 0xe7
	typeChar      = 0xaf
	typeVarBinary = 0xa5
	typeVariant   = 0x62
	typeInt8      = 0x7f

	tokenColumns   = 0x81
	tokenError     = 0xaa
	tokenInfo      = 0xab
	tokenLoginAck  = 0xad
	tokenRow       = 0xd1
	tokenNullRow   = 0xd2
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

// column is a column of a result, as its view declares it.
type column struct {
	name string
	kind byte
	size int // in bytes; 0: without bounds
}

var declared = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^(\w+)(?:\((\d+)\))?$`) })

// columnOf returns a column of a declared type; of an expression, which has none, its values tell.
func columnOf(name, typ string, values func(yield func(any) bool)) column {
	m := declared().FindStringSubmatch(strings.ToLower(typ))
	if m == nil {
		for v := range values {
			if _, number := v.(int64); number {
				return column{name, typeIntN, 8}
			} else if v != nil {
				break
			}
		}
		return column{name, typeNVarChar, 0}
	}
	n, _ := strconv.Atoi(m[2])
	switch m[1] {
	case "bit":
		return column{name, typeBitN, 1}
	case "tinyint":
		return column{name, typeIntN, 1}
	case "smallint":
		return column{name, typeIntN, 2}
	case "int":
		return column{name, typeIntN, 4}
	case "bigint", "integer":
		return column{name, typeIntN, 8}
	case "float":
		return column{name, typeFloatN, 8}
	case "char":
		return column{name, typeChar, n}
	case "varbinary":
		return column{name, typeVarBinary, n}
	case "sql_variant":
		return column{name, typeVariant, 8009}
	}
	if n > 4000 {
		n = 0
	}
	return column{name, typeNVarChar, 2 * n}
}

func (r *reply) columns(all []column) {
	r.b = binary.LittleEndian.AppendUint16(append(r.b, tokenColumns), uint16(len(all)))
	for _, c := range all {
		r.b = append(r.b, 0, 0, 0, 0, 0x09, 0x00, c.kind) // user type, flags: may be null, updatable unknown
		switch c.kind {
		case typeIntN, typeBitN, typeFloatN:
			r.b = append(r.b, byte(c.size))
		case typeVariant:
			r.b = binary.LittleEndian.AppendUint32(r.b, uint32(c.size))
		case typeVarBinary:
			r.b = binary.LittleEndian.AppendUint16(r.b, uint16(c.size))
		case typeNVarChar, typeChar:
			size := uint16(c.size)
			if c.size == 0 {
				size = 0xffff
			}
			r.b = append(binary.LittleEndian.AppendUint16(r.b, size), collation[:]...)
		}
		r.short(c.name)
	}
}

// row appends a row; one that holds NULL says first which of its values are ([MS-TDS] 2.2.7.14).
func (r *reply) row(columns []column, values []any) {
	nulls, some := make([]byte, (len(values)+7)/8), false
	for i, v := range values {
		if v == nil {
			nulls[i/8], some = nulls[i/8]|1<<(i%8), true
		}
	}
	if r.b = append(r.b, tokenRow); some {
		r.b[len(r.b)-1] = tokenNullRow
		r.b = append(r.b, nulls...)
	}
	for i, v := range values {
		if v != nil {
			r.value(columns[i], v)
		}
	}
}

func (r *reply) value(c column, v any) {
	n, _ := v.(int64)
	sized := func(b []byte) { r.b = append(binary.LittleEndian.AppendUint16(r.b, uint16(len(b))), b...) }
	switch c.kind {
	case typeIntN, typeBitN:
		r.b = append(r.b, byte(c.size))
		r.b = append(r.b, binary.LittleEndian.AppendUint64(nil, uint64(n))[:c.size]...)
	case typeFloatN:
		f, ok := v.(float64)
		if !ok {
			f = float64(n)
		}
		r.b = binary.LittleEndian.AppendUint64(append(r.b, 8), math.Float64bits(f))
	case typeChar: // padded to its width
		text := textOf(v)
		sized([]byte(text + strings.Repeat(" ", max(0, c.size-len(text)))))
	case typeVarBinary:
		sized([]byte(textOf(v)))
	case typeVariant: // its length, its own type, how many bytes of that follow, and those; then the value
		if _, whole := v.(int64); whole {
			r.b = append(binary.LittleEndian.AppendUint32(r.b, 10), typeInt8, 0)
			r.b = binary.LittleEndian.AppendUint64(r.b, uint64(n))
			return
		}
		u := utf16le(textOf(v))
		r.b = append(binary.LittleEndian.AppendUint32(r.b, uint32(9+len(u))), typeNVarChar, 7)
		r.b = append(r.b, collation[:]...)
		r.b = append(append(r.b, 0x40, 0x1f), u...)
	default:
		u := utf16le(textOf(v))
		if c.size > 0 {
			sized(u)
			return
		}
		r.b = binary.LittleEndian.AppendUint64(r.b, uint64(len(u)))
		if len(u) > 0 {
			r.b = append(binary.LittleEndian.AppendUint32(r.b, uint32(len(u))), u...)
		}
		r.b = binary.LittleEndian.AppendUint32(r.b, 0)
	}
}

func textOf(v any) string {
	if b, ok := v.([]byte); ok {
		return string(b)
	}
	return fmt.Sprint(v)
}
