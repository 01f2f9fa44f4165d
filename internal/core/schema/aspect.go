package schema

// Aspects are tagged once, in the model; what leaves one out walks the description.

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Aspect is a side of an object that a script or a comparison can leave out. Which fields of the model belong to
// it, their `aspect` tags say.
type Aspect string

// The aspects.
const (
	Comments Aspect = "comments"
	Owners   Aspect = "owners"
	Grants   Aspect = "grants"
	Storage  Aspect = "storage" // where and how the rows lie
)

// Aspects returns all aspects.
func Aspects() []Aspect { return []Aspect{Comments, Owners, Grants, Storage} }

// ParseAspects returns the aspects that words name; the error names what there is.
func ParseAspects(words []string) ([]Aspect, error) {
	var all []Aspect
	for _, w := range words {
		a := Aspect(strings.ToLower(w))
		if !slices.Contains(Aspects(), a) {
			return nil, fmt.Errorf("%q is no aspect; there are %s, %s, %s and %s", w, Comments, Owners, Grants, Storage)
		}
		all = append(all, a)
	}
	return all, nil
}

// storageSettings are the settings that say where and how rows lie; storage parameters say the rest.
var storageSettings = []string{"tablespace", "access method", "engine", "options", "clustered on", "tablespace of keys", "union", "insert method", "connection", "transactional", "autoextend size", "key block size"}

// stored reports whether a setting is one of storage.
func (p Property) stored() bool { return slices.Contains(storageSettings, p.Name) }

// Strip takes aspects out of an object.
func Strip(o *Object, without []Aspect) {
	if len(without) > 0 {
		strip(objectPlan, reflect.ValueOf(o).Elem(), without)
	}
}

func strip(p *plan, v reflect.Value, without []Aspect) {
	switch p.kind {
	case reflect.Pointer:
		if !v.IsNil() {
			strip(p.elem, v.Elem(), without)
		}
	case reflect.Slice:
		if p.elem.kind != reflect.Struct {
			return
		}
		if list, ok := v.Interface().([]Property); ok && slices.Contains(without, Storage) {
			v.Set(reflect.ValueOf(slices.DeleteFunc(slices.Clone(list), Property.stored)))
		}
		for i := range v.Len() {
			strip(p.elem, v.Index(i), without)
		}
	case reflect.Struct:
		for i := range p.fields {
			f := &p.fields[i]
			if f.aspect != "" && slices.Contains(without, f.aspect) {
				v.Field(f.index).SetZero()
				continue
			}
			strip(f.plan, v.Field(f.index), without)
		}
	}
}
