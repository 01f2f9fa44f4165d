package schema

import (
	"bytes"
	"fmt"
	"reflect"
	"strings"
	"testing"
)

// fill sets every field that v can reach to a value of its own.
func fill(v reflect.Value, n *int) {
	*n++
	switch v.Kind() {
	case reflect.String:
		v.SetString(fmt.Sprintf("value %d", *n))
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int:
		v.SetInt(int64(-*n))
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		fill(v.Elem(), n)
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 2, 2))
		fill(v.Index(0), n)
		fill(v.Index(1), n)
	case reflect.Struct:
		for i := range v.NumField() {
			fill(v.Field(i), n)
		}
	}
}

func fullObject() *Object {
	o, n := new(Object), 0
	fill(reflect.ValueOf(o).Elem(), &n)
	return o
}

func TestCompactFormLosesNothing(t *testing.T) {
	for _, o := range []*Object{fullObject(), {}, {Kind: KindTable, Name: "t", Relation: &Relation{}}, {Name: "\x00\xff", Relation: &Relation{Columns: []Column{{}}}}} {
		b := AppendObject(nil, o)
		back, err := DecodeObject(b)
		if err != nil || !reflect.DeepEqual(o, back) {
			t.Errorf("%+v came back as %+v, %v", o, back, err)
		}
		if again := AppendObject(nil, back); !bytes.Equal(b, again) {
			t.Error("the same object has two forms")
		}
		for i := range b {
			if _, err := DecodeObject(b[:i]); err == nil {
				t.Errorf("%d of %d bytes were taken for a whole object", i, len(b))
			}
		}
	}
}

func FuzzDecodeObject(f *testing.F) {
	f.Add(AppendObject(nil, fullObject()))
	f.Add([]byte{9, 1, 0xff, 0xff, 0xff, 0xff, 0x0f})
	f.Fuzz(func(t *testing.T, b []byte) {
		if o, err := DecodeObject(b); err == nil {
			if _, err := DecodeObject(AppendObject(nil, o)); err != nil {
				t.Errorf("what was decoded cannot be: %v", err)
			}
		}
	})
}

// Every property that can differ is found, and is found alone.
func TestCompareFindsEveryField(t *testing.T) {
	base := fullObject()
	var walk func(path string, get func(*Object) reflect.Value)
	checked := 0
	walk = func(path string, get func(*Object) reflect.Value) {
		v := get(base)
		switch v.Kind() {
		case reflect.Pointer:
			walk(path, func(o *Object) reflect.Value { return get(o).Elem() })
		case reflect.Struct:
			for i := range v.NumField() {
				f := v.Type().Field(i)
				if f.Tag.Get("diff") != "-" {
					walk(path+"/"+f.Name, func(o *Object) reflect.Value { return get(o).Field(i) })
				}
			}
		case reflect.Slice:
			walk(path+"[1]", func(o *Object) reflect.Value { return get(o).Index(1) })
		default:
			other := fullObject()
			switch field := get(other); field.Kind() {
			case reflect.String:
				field.SetString("another")
			case reflect.Bool:
				field.SetBool(false)
			case reflect.Int:
				field.SetInt(7)
			}
			checked++
			if len(Compare(base, other, ModelVersion, ModelVersion)) == 0 {
				t.Errorf("a change of %s is not found", path)
			}
		}
	}
	walk("", func(o *Object) reflect.Value { return reflect.ValueOf(o).Elem() })
	if checked < 50 {
		t.Errorf("only %d fields were checked", checked)
	}
	if found := Compare(base, fullObject(), ModelVersion, ModelVersion); len(found) > 0 {
		t.Errorf("the same object differs: %+v", found)
	}
}

// Comparing only what differs gives what comparing the whole objects gives.
func TestDecodeDiffering(t *testing.T) {
	full := fullObject()
	objects := []*Object{full, {}, {Kind: KindTable, Name: "t", Relation: &Relation{}}}
	for _, change := range []func(*Object){
		func(o *Object) { o.Owner = "else" }, func(o *Object) { o.Comment = "" }, func(o *Object) { o.Source += " " }, func(o *Object) { o.Relation = nil },
		func(o *Object) { o.Relation = &Relation{Columns: []Column{{Name: "a"}}} }, func(o *Object) { o.Trigger, o.Index = nil, nil },
	} {
		o := *full
		change(&o)
		objects = append(objects, &o)
	}
	for i, a := range objects {
		for j, b := range objects {
			formA, formB := AppendObject(nil, a), AppendObject(nil, b)
			x, y, err := DecodeDiffering(formA, formB)
			if err != nil {
				t.Fatal(err)
			}
			want, got := Compare(a, b, ModelVersion, ModelVersion), Compare(x, y, ModelVersion, ModelVersion)
			if !reflect.DeepEqual(got, want) {
				t.Errorf("%d and %d differ in %+v, not %+v", i, j, got, want)
			}
			if _, _, err := DecodeDiffering(formA[:len(formA)/2], formB); err == nil && i != j && len(formA) > 4 {
				t.Errorf("half of object %d was taken for a whole", i)
			}
		}
	}
}

func TestCompareParts(t *testing.T) {
	column := func(name, typ string) Column { return Column{Name: name, Type: typ} }
	table := func(columns ...Column) *Object {
		return &Object{Kind: KindTable, Name: "t", Relation: &Relation{Columns: columns}}
	}
	for _, c := range []struct {
		name          string
		before, after *Object
		want          string
	}{
		{"type", table(column("a", "int")), table(column("a", "text")), "columns/a/type: int, text"},
		{"added", table(column("a", "int")), table(column("a", "int"), column("b", "text")), "columns/b: -, text"},
		{"removed", table(column("a", "int"), column("x/y", "int")), table(column("a", "int")), "columns/x~1y: int, -"},
		{"order", table(column("a", "int"), column("b", "int")), table(column("b", "int"), column("a", "int")), "columns/order: a, b, b, a"},
		{"inserted", table(column("a", "int"), column("b", "int")), table(column("a", "int"), column("z", "int"), column("b", "int")), "columns/z: -, int"},
		{"comment", &Object{Comment: ""}, &Object{Comment: "x"}, "comment: -, x"},
		{"unnamed checks", &Object{Relation: &Relation{Checks: []Check{{Expression: "a > 0"}}}}, &Object{Relation: &Relation{Checks: []Check{{Expression: "a > 1"}}}},
			"checks/check (a > 0): a > 0, -; checks/check (a > 1): -, a > 1"},
		{"layout", &Object{Source: "CREATE"}, &Object{Source: "create"}, ""},
	} {
		var got []string
		for _, d := range Compare(c.before, c.after, ModelVersion, ModelVersion) {
			text := func(s *string) string {
				if s == nil {
					return "-"
				}
				return *s
			}
			got = append(got, d.Path+": "+text(d.Old)+", "+text(d.New))
		}
		if s := strings.Join(got, "; "); s != c.want {
			t.Errorf("%s: %s; want %s", c.name, s, c.want)
		}
	}
}
