package schema

// Comparison walks the description of the model: fields by name, parts by their keys, and what may be a part under a new
// name.

import (
	"encoding/json"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/names"
)

// Difference is one property that differs between two versions of an object.
type Difference struct {
	Path string  // field names and part names, joined by "/": relation/columns/draught_m/type
	Old  *string // nil: the property, or the part, is not there
	New  *string
	// Guess says that a part was taken for another that was renamed because all its properties are the same.
	Guess bool
}

// Compare returns the properties in which two versions of an object differ, in the model's order.
// A property that came with a later model version than either snapshot was read with is not compared:
// there, it was not recorded. Nor are properties of the aspects that are left out.
func Compare(before, after *Object, beforeModel, afterModel int, without ...Aspect) []Difference {
	return Comparison{Models: [2]int{beforeModel, afterModel}, Without: without}.Compare(before, after)
}

// Comparison says how versions of objects are compared.
type Comparison struct {
	Models  [2]int // with which they were read
	Without []Aspect
	Apart   bool // a part of another name is another part
	Renamed bool // columns are called by their new names on both sides
}

// Compare returns the properties in which two versions of an object differ, in the model's order.
func (o Comparison) Compare(before, after *Object) []Difference {
	c := comparison{model: min(o.Models[0], o.Models[1]), without: o.Without, apart: o.Apart, named: o.Renamed}
	if c.model < openModel {
		before, after = OlderForm(before), OlderForm(after)
	}
	c.structure("", objectPlan, reflect.ValueOf(before).Elem(), reflect.ValueOf(after).Elem())
	return c.found
}

type comparison struct {
	model   int
	without []Aspect
	apart   bool
	named   bool
	found   []Difference
}

// inBodies are fields that only group others; they are left out of paths.
func join(path, name string) string {
	switch {
	case name == "relation":
		return path
	case path == "":
		return name
	}
	return path + "/" + name
}

// typedModel is the first version of the model that holds all such objects as what they are.
const typedModel = 5

// otherForm reports whether a field says in one of two objects what the other says elsewhere: statements that later models
// hold as types.
func otherForm(f *planField, a, b reflect.Value) bool {
	if f.name != "definition" || a.Type() != reflect.TypeFor[Object]() {
		return false
	}
	x, y := a.Addr().Interface().(*Object), b.Addr().Interface().(*Object)
	return x.IsTyped() != y.IsTyped()
}

func (c *comparison) structure(path string, p *plan, a, b reflect.Value) {
	for i := range p.fields {
		f := &p.fields[i]
		if f.compare && f.since <= c.model && !slices.Contains(c.without, f.aspect) && !(c.model < typedModel && otherForm(f, a, b)) {
			c.value(join(path, f.name), f.plan, a.Field(f.index), b.Field(f.index))
		}
	}
}

func (c *comparison) value(path string, p *plan, a, b reflect.Value) {
	switch p.kind {
	case reflect.Struct:
		c.structure(path, p, a, b)
	case reflect.Pointer:
		if !a.IsNil() && !b.IsNil() {
			c.value(path, p.elem, a.Elem(), b.Elem())
			return
		}
		if a.IsNil() != b.IsNil() {
			c.add(path, describe(p, a), describe(p, b))
		}
	case reflect.Slice:
		if p.elem.typ.Implements(reflect.TypeFor[keyed]()) {
			c.parts(path, p, a, b)
			return
		}
		if !reflect.DeepEqual(a.Interface(), b.Interface()) && a.Len()+b.Len() > 0 {
			c.add(path, describe(p, a), describe(p, b))
		}
	default:
		if !a.Equal(b) {
			c.add(path, describe(p, a), describe(p, b))
		}
	}
}

// keyed is implemented by parts that are matched by a key rather than by their place.
type keyed interface{ PartKey() string }

func partKeys(v reflect.Value) ([]string, map[string]int) {
	keys, at := make([]string, v.Len()), make(map[string]int, v.Len())
	for i := range v.Len() {
		key := v.Index(i).Interface().(keyed).PartKey()
		for n := 2; ; n++ { // unnamed twins
			if _, taken := at[key]; !taken {
				break
			}
			key = strings.TrimSuffix(key, " #"+strconv.Itoa(n-1)) + " #" + strconv.Itoa(n)
		}
		keys[i], at[key] = key, i
	}
	return keys, at
}

func (c *comparison) parts(path string, p *plan, a, b reflect.Value) {
	if slices.Contains(c.without, Storage) {
		for _, v := range []*reflect.Value{&a, &b} {
			if list, ok := v.Interface().([]Property); ok {
				*v = reflect.ValueOf(slices.DeleteFunc(slices.Clone(list), Property.stored))
			}
		}
	}
	oldKeys, oldAt := partKeys(a)
	newKeys, newAt := partKeys(b)
	was := c.renamed(p.elem, a, b, oldKeys, newKeys, oldAt, newAt)
	from := make(map[string]bool, len(was))
	for _, key := range was {
		from[key] = true
	}
	var oldShared, newShared []string
	for i, key := range oldKeys {
		j, both := newAt[key]
		if !both {
			if !from[key] {
				c.add(path+"/"+PathPart(key), describe(p.elem, a.Index(i)), nil)
			}
			continue
		}
		oldShared = append(oldShared, key)
		c.value(path+"/"+PathPart(key), p.elem, a.Index(i), b.Index(j))
	}
	for j, key := range newKeys {
		if _, both := oldAt[key]; both {
			newShared = append(newShared, key)
		} else if old, ok := was[key]; ok {
			c.add(path+"/"+PathPart(key)+"/name", &old, &newKeys[j])
			c.found[len(c.found)-1].Guess = p.elem.typ == reflect.TypeFor[Column]()
		} else {
			c.add(path+"/"+PathPart(key), nil, describe(p.elem, b.Index(j)))
		}
	}
	// Only the order of columns is a property of the schema.
	if p.elem.typ == reflect.TypeFor[Column]() && !slices.Equal(oldShared, newShared) {
		before, after := strings.Join(oldShared, ", "), strings.Join(newShared, ", ")
		c.add(path+"/order", &before, &after)
	}
}

// renamed finds parts that are called otherwise and are the same in all else, by their new name: where one is gone
// and one has come, or, of several that are the same, those at the same place.
func (c *comparison) renamed(p *plan, a, b reflect.Value, oldKeys, newKeys []string, oldAt, newAt map[string]int) map[string]string {
	type side struct{ places []int }
	if c.apart || c.named && p.typ == reflect.TypeFor[Column]() {
		return nil
	}
	gone, come := map[Hash]*side{}, map[Hash]*side{}
	gather := func(list reflect.Value, keys []string, other map[string]int, into map[Hash]*side) {
		for i, key := range keys {
			if _, both := other[key]; both {
				continue
			}
			part := reflect.New(p.typ).Elem()
			part.Set(list.Index(i))
			name := part.FieldByName("Name")
			if !name.IsValid() || name.String() == "" {
				continue
			}
			name.SetString("")
			for k := range p.fields { // shared slices stay as they are: only this copy's own fields are cleared
				if f := &p.fields[k]; f.aspect != "" && slices.Contains(c.without, f.aspect) {
					part.Field(f.index).SetZero()
				}
			}
			h := HashOf(p.append(nil, part))
			if into[h] == nil {
				into[h] = &side{}
			}
			into[h].places = append(into[h].places, i)
		}
	}
	gather(a, oldKeys, newAt, gone)
	gather(b, newKeys, oldAt, come)
	var was map[string]string
	pair := func(i, j int) {
		if was == nil {
			was = map[string]string{}
		}
		was[newKeys[j]] = oldKeys[i]
	}
	for h, x := range gone {
		y := come[h]
		switch {
		case y == nil:
		case len(x.places) == 1 && len(y.places) == 1:
			if i, j := x.places[0], y.places[0]; i == j || p.typ != reflect.TypeFor[Column]() || Alike(oldKeys[i], newKeys[j]) >= 0.4 {
				pair(i, j)
			}
		default:
			for _, i := range x.places {
				if slices.Contains(y.places, i) {
					pair(i, i)
				}
			}
		}
	}
	return was
}

// Alike returns how much two names are alike, from 0 to 1.
func Alike(a, b string) float64 {
	a, b = names.Fold(a), names.Fold(b)
	longest := max(len(a), len(b))
	if longest == 0 {
		return 1
	}
	likeness := 1 - float64(names.EditDistance(a, b, longest))/float64(longest)
	if strings.Contains(a, b) || strings.Contains(b, a) { // one with a word more
		likeness = max(likeness, 0.6)
	}
	return max(likeness, 0)
}

// PathPart returns a part's name as it stands in the path of a property.
func PathPart(name string) string { return strings.ReplaceAll(name, "/", "~1") }

func (c *comparison) add(path string, before, after *string) {
	c.found = append(c.found, Difference{Path: path, Old: before, New: after})
}

// describe returns a value as people read it, nil if it is not set.
func describe(p *plan, v reflect.Value) *string {
	if p.kind != reflect.Bool && unset(p.kind, v) {
		return nil
	}
	var s string
	switch p.kind {
	case reflect.String:
		s = v.String()
	case reflect.Bool:
		s = map[bool]string{true: "yes", false: "no"}[v.Bool()]
	case reflect.Int:
		s = strconv.FormatInt(v.Int(), 10)
	default:
		if d, ok := v.Interface().(describer); ok {
			s = d.Describe()
			break
		}
		if v.Kind() == reflect.Slice && v.Type().Elem().Kind() == reflect.String {
			s = strings.Join(v.Interface().([]string), ", ")
			break
		}
		if parts, ok := v.Interface().([]KeyPart); ok {
			s = DescribeKeyParts(parts)
			break
		}
		text, err := json.Marshal(v.Interface())
		if err != nil { // the model holds nothing that cannot be marshalled
			return nil
		}
		s = string(text)
	}
	return &s
}

// describer is implemented by parts that have a short form for people.
type describer interface{ Describe() string }
