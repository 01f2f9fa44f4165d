package schema

import (
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
)

// The compact form of an object: the fields that are set, each as its number (uvarint) and its value,
// ended by a zero; strings and lists with their length in front. The same object always has the same
// bytes, so the form serves for the content hash as well as for the store.

// Hash is the content hash of an object or of a node above it: the first 16 bytes of a SHA-256.
type Hash [16]byte

// String returns the hash in hexadecimal digits.
func (h Hash) String() string { return hex.EncodeToString(h[:]) }

// HashOf returns the hash of b.
func HashOf(b []byte) Hash {
	sum := sha256.Sum256(b)
	return Hash(sum[:16])
}

// AppendObject appends the compact form of o to b.
func AppendObject(b []byte, o *Object) []byte {
	return objectPlan.append(b, reflect.ValueOf(o).Elem())
}

// DecodeObject reads an object from its compact form; b must hold nothing else.
func DecodeObject(b []byte) (*Object, error) {
	o := new(Object)
	d := decoder{s: string(b)}
	if err := d.structure(objectPlan, reflect.ValueOf(o).Elem()); err != nil {
		return nil, fmt.Errorf("decoding an object: %w", err)
	}
	if d.pos != len(d.s) {
		return nil, errors.New("decoding an object: bytes are left over")
	}
	return o, nil
}

// plan tells how the values of one type are written.
type plan struct {
	kind   reflect.Kind // String, Bool, Int, Struct, Pointer, Slice
	typ    reflect.Type
	elem   *plan       // of Pointer and Slice
	fields []planField // of Struct, by number
	byTag  []int       // number to place in fields, -1 if unused
}

type planField struct {
	index, number, since int
	name                 string // JSON name
	compare              bool
	aspect               Aspect // that the field belongs to, "" for none
	plan                 *plan
}

// objectPlan is computed once and never altered.
var objectPlan = planOf(reflect.TypeFor[Object](), map[reflect.Type]*plan{})

func planOf(t reflect.Type, seen map[reflect.Type]*plan) *plan {
	if p := seen[t]; p != nil {
		return p
	}
	p := &plan{kind: t.Kind(), typ: t}
	seen[t] = p
	switch t.Kind() {
	case reflect.String, reflect.Bool, reflect.Int:
	case reflect.Pointer, reflect.Slice:
		p.elem = planOf(t.Elem(), seen)
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			tag, since, _ := strings.Cut(f.Tag.Get("n"), ",since=")
			number, err := strconv.Atoi(tag)
			if err != nil {
				panic("schema: field " + t.Name() + "." + f.Name + " has no number") // a mistake in this package
			}
			version, _ := strconv.Atoi(since)
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			p.fields = append(p.fields, planField{
				index: i, number: number, since: version, name: name,
				compare: f.Tag.Get("diff") != "-", aspect: Aspect(f.Tag.Get("aspect")), plan: planOf(f.Type, seen),
			})
		}
		slices.SortFunc(p.fields, func(a, b planField) int { return cmp.Compare(a.number, b.number) })
		p.byTag = make([]int, p.fields[len(p.fields)-1].number+1)
		for i := range p.byTag {
			p.byTag[i] = -1
		}
		for i, f := range p.fields {
			p.byTag[f.number] = i
		}
	default:
		panic("schema: the model cannot hold a " + t.String()) // a mistake in this package
	}
	return p
}

func (p *plan) append(b []byte, v reflect.Value) []byte {
	switch p.kind {
	case reflect.String:
		b = binary.AppendUvarint(b, uint64(v.Len()))
		return append(b, v.String()...)
	case reflect.Bool:
		if v.Bool() {
			return append(b, 1)
		}
		return append(b, 0)
	case reflect.Int:
		return binary.AppendVarint(b, v.Int())
	case reflect.Pointer:
		return p.elem.append(b, v.Elem())
	case reflect.Slice:
		n := v.Len()
		b = binary.AppendUvarint(b, uint64(n))
		for i := range n {
			b = p.elem.append(b, v.Index(i))
		}
		return b
	}
	for i := range p.fields {
		f := &p.fields[i]
		fv := v.Field(f.index)
		if unset(f.plan.kind, fv) {
			continue
		}
		b = binary.AppendUvarint(b, uint64(f.number))
		b = f.plan.append(b, fv)
	}
	return append(b, 0)
}

// unset reports whether v need not be written; a nil and an empty list are the same.
func unset(kind reflect.Kind, v reflect.Value) bool {
	switch kind {
	case reflect.String, reflect.Slice:
		return v.Len() == 0
	case reflect.Bool:
		return !v.Bool()
	case reflect.Int:
		return v.Int() == 0
	case reflect.Pointer:
		return v.IsNil()
	}
	return false
}

var errTruncated = errors.New("the data ends too early")

// decoder reads the compact form; strings share the memory of s.
type decoder struct {
	s   string
	pos int
}

func (d *decoder) uvarint() (uint64, error) {
	var x uint64
	for shift := 0; shift < 64; shift += 7 {
		if d.pos >= len(d.s) {
			return 0, errTruncated
		}
		c := d.s[d.pos]
		d.pos++
		x |= uint64(c&0x7f) << shift
		if c < 0x80 {
			return x, nil
		}
	}
	return 0, errors.New("a number is too long")
}

func (d *decoder) text() (string, error) {
	n, err := d.uvarint()
	if err != nil {
		return "", err
	}
	if n > uint64(len(d.s)-d.pos) {
		return "", errTruncated
	}
	s := d.s[d.pos : d.pos+int(n)]
	d.pos += int(n)
	return s, nil
}

func (d *decoder) structure(p *plan, v reflect.Value) error {
	for {
		f, err := d.field(p)
		if f == nil || err != nil {
			return err
		}
		if err := d.value(f.plan, v.Field(f.index)); err != nil {
			return err
		}
	}
}

func (d *decoder) value(p *plan, v reflect.Value) error {
	switch p.kind {
	case reflect.String:
		s, err := d.text()
		v.SetString(s)
		return err
	case reflect.Struct:
		return d.structure(p, v)
	case reflect.Pointer:
		v.Set(reflect.New(p.elem.typ))
		return d.value(p.elem, v.Elem())
	}
	n, err := d.uvarint()
	if err != nil {
		return err
	}
	switch p.kind {
	case reflect.Bool:
		v.SetBool(n != 0)
	case reflect.Int:
		v.SetInt(int64(n>>1) ^ -int64(n&1))
	case reflect.Slice:
		if n > uint64(len(d.s)-d.pos) { // an element takes a byte at least
			return errTruncated
		}
		v.Set(reflect.MakeSlice(p.typ, int(n), int(n)))
		for i := range int(n) {
			if err := d.value(p.elem, v.Index(i)); err != nil {
				return err
			}
		}
	}
	return nil
}

// skip passes over a value.
func (d *decoder) skip(p *plan) error {
	switch p.kind {
	case reflect.String:
		_, err := d.text()
		return err
	case reflect.Pointer:
		return d.skip(p.elem)
	case reflect.Struct:
		for {
			f, err := d.field(p)
			if f == nil || err != nil {
				return err
			}
			if err := d.skip(f.plan); err != nil {
				return err
			}
		}
	}
	n, err := d.uvarint()
	if err != nil || p.kind != reflect.Slice {
		return err
	}
	for ; n > 0; n-- {
		if err := d.skip(p.elem); err != nil {
			return err
		}
	}
	return nil
}

// field reads the number of the next field of a structure, nil at its end.
func (d *decoder) field(p *plan) (*planField, error) {
	number, err := d.uvarint()
	if err != nil || number == 0 {
		return nil, err
	}
	if number >= uint64(len(p.byTag)) || p.byTag[number] < 0 {
		return nil, fmt.Errorf("%s has no field number %d", p.typ.Name(), number)
	}
	return &p.fields[p.byTag[number]], nil
}

// DecodeDiffering reads two objects from their compact forms as far as they differ: a field that both
// hold alike is left out of both, so that comparing what comes back gives the same as comparing the
// whole objects, for less.
func DecodeDiffering(a, b []byte) (x, y *Object, err error) {
	x, y = new(Object), new(Object)
	d := [2]decoder{{s: string(a)}, {s: string(b)}}
	v := [2]reflect.Value{reflect.ValueOf(x).Elem(), reflect.ValueOf(y).Elem()}
	var f [2]*planField
	for i := range d {
		if f[i], err = d[i].field(objectPlan); err != nil {
			return nil, nil, fmt.Errorf("decoding an object: %w", err)
		}
	}
	for f[0] != nil || f[1] != nil {
		use := [2]bool{f[0] != nil && (f[1] == nil || f[0].number <= f[1].number), f[1] != nil && (f[0] == nil || f[1].number <= f[0].number)}
		if use[0] && use[1] {
			if d[0].s[d[0].pos:] == d[1].s[d[1].pos:] {
				return x, y, nil
			}
			start := [2]int{d[0].pos, d[1].pos}
			for i := range d {
				if err := d[i].skip(f[i].plan); err != nil {
					return nil, nil, fmt.Errorf("decoding an object: %w", err)
				}
			}
			if d[0].s[start[0]:d[0].pos] != d[1].s[start[1]:d[1].pos] {
				d[0].pos, d[1].pos = start[0], start[1]
			} else {
				for i := range d {
					if f[i], err = d[i].field(objectPlan); err != nil {
						return nil, nil, fmt.Errorf("decoding an object: %w", err)
					}
				}
				continue
			}
		}
		for i := range d {
			if !use[i] {
				continue
			}
			if err = d[i].value(f[i].plan, v[i].Field(f[i].index)); err == nil {
				f[i], err = d[i].field(objectPlan)
			}
			if err != nil {
				return nil, nil, fmt.Errorf("decoding an object: %w", err)
			}
		}
	}
	return x, y, nil
}
