package names

// Names that are no UTF-8 are kept byte by byte, shown with escapes, and found again by these.

import (
	"bytes"
	"encoding/json"
	"io"
	"reflect"
	"strings"
	"unicode/utf8"
)

// Names and texts are what a server holds: on some engines bytes that are no UTF-8. Where only UTF-8 can stand (JSON), such
// a byte b is written as the private character U+10FF00 + b. A character of that range that a text really holds (the last
// 128 of Unicode, which nothing uses) is written as its own bytes, so that nothing is ambiguous and every text comes back.
const (
	rawFirst = 0x10ff80
	rawBase  = 0x10ff00
)

// holdsRaw reports whether a text needs Escape: it is no UTF-8, or holds one of the private characters.
func holdsRaw(s string) bool {
	for i := 0; i < len(s); {
		if s[i] < utf8.RuneSelf {
			i++
			continue
		}
		r, size := utf8.DecodeRuneInString(s[i:])
		if r >= rawFirst || r == utf8.RuneError && size == 1 {
			return true
		}
		i += size
	}
	return false
}

// Escape returns a text in UTF-8 from which Unescape makes the same bytes again.
func Escape(s string) string {
	if !holdsRaw(s) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		r, size := utf8.DecodeRuneInString(s[i:])
		if r >= rawFirst || r == utf8.RuneError && size == 1 {
			for _, raw := range []byte(s[i : i+size]) {
				b.WriteRune(rawBase + rune(raw))
			}
		} else {
			b.WriteString(s[i : i+size])
		}
		i += size
	}
	return b.String()
}

// Unescape returns the text that Escape was given.
func Unescape(s string) string {
	if !strings.Contains(s, "\xf4\x8f") { // how the private characters begin
		return s
	}
	b := make([]byte, 0, len(s))
	for i := 0; i < len(s); {
		r, size := utf8.DecodeRuneInString(s[i:])
		if r >= rawFirst {
			b = append(b, byte(r-rawBase))
		} else {
			b = append(b, s[i:i+size]...)
		}
		i += size
	}
	return string(b)
}

// EncodeJSON writes a value in JSON, indented, with names as they are and what is no UTF-8 escaped.
func EncodeJSON[T any](w io.Writer, v T) error {
	to := plainWriter{w: w}
	err := encode(&to, v)
	if err == nil && to.refused {
		err = encode(w, EscapeAll(v))
	}
	return err
}

func encode(w io.Writer, v any) error {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	if err := e.Encode(v); err != nil {
		return err
	}
	_, err := w.Write(indented(b.Bytes()))
	return err
}

// indented returns a value in JSON without blanks, and with a line break behind, as json.Indent does with two blanks for a level;
// what an Encoder wrote need not be checked once more.
func indented(text []byte) []byte {
	out := make([]byte, 0, len(text)+len(text)/2)
	depth := 0
	line := func() {
		out = append(out, '\n')
		for range depth {
			out = append(out, "  "...)
		}
	}
	for i := 0; i < len(text); i++ {
		switch c := text[i]; c {
		case '"':
			end := i + 1
			for text[end] != '"' {
				if text[end] == '\\' {
					end++
				}
				end++
			}
			out = append(out, text[i:end+1]...)
			i = end
		case '{', '[':
			out = append(out, c)
			if next := text[i+1]; next == '}' || next == ']' {
				out = append(out, next)
				i++
				continue
			}
			depth++
			line()
		case '}', ']':
			depth--
			line()
			out = append(out, c)
		case ',':
			out = append(out, c)
			line()
		case ':':
			out = append(out, ": "...)
		default:
			out = append(out, c)
		}
	}
	return out
}

// plainWriter takes no JSON in which something has to be escaped. An Encoder writes a value at once, so that nothing was
// written then, and a byte that is no UTF-8 as \ufffd. A text may hold the same letters: escaping it changes nothing.
type plainWriter struct {
	w       io.Writer
	refused bool
}

func (p *plainWriter) Write(b []byte) (int, error) {
	if p.refused = bytes.Contains(b, []byte("\xf4\x8f")) || bytes.Contains(b, []byte(`\ufffd`)); p.refused {
		return len(b), nil
	}
	return p.w.Write(b)
}

// DecodedJSON undoes the escapes in a value that was decoded from a text in JSON.
func DecodedJSON[T any](text []byte, v *T) {
	if bytes.Contains(text, []byte("\xf4\x8f")) || bytes.Contains(bytes.ToLower(text), []byte(`\udbff`)) {
		*v = UnescapeAll(*v)
	}
}

// EscapeAll returns a copy of a value (structures, lists, maps and pointers that end somewhere) with all its strings
// escaped.
func EscapeAll[T any](v T) T { return mapped(v, Escape) }

// UnescapeAll is the reverse of EscapeAll.
func UnescapeAll[T any](v T) T { return mapped(v, Unescape) }

func mapped[T any](v T, f func(string) string) T {
	var out T
	mapStrings(reflect.ValueOf(&out).Elem(), reflect.ValueOf(&v).Elem(), f)
	return out
}

func mapStrings(out, v reflect.Value, f func(string) string) {
	switch kind := v.Kind(); {
	case kind == reflect.String:
		out.SetString(f(v.String()))
	case kind == reflect.Struct:
		if v.CanInterface() { // fields that are not exported stay as they are
			out.Set(v)
		}
		for i := range v.NumField() {
			if field := v.Type().Field(i); field.IsExported() || field.Anonymous && field.Type.Kind() == reflect.Struct {
				mapStrings(out.Field(i), v.Field(i), f)
			}
		}
	case kind == reflect.Pointer && !v.IsNil():
		out.Set(reflect.New(v.Type().Elem()))
		mapStrings(out.Elem(), v.Elem(), f)
	case kind == reflect.Interface && !v.IsNil():
		inner := reflect.New(v.Elem().Type()).Elem()
		mapStrings(inner, v.Elem(), f)
		out.Set(inner)
	case kind == reflect.Slice && !v.IsNil() && v.Type().Elem().Kind() != reflect.Uint8:
		out.Set(reflect.MakeSlice(v.Type(), v.Len(), v.Len()))
		for i := range v.Len() {
			mapStrings(out.Index(i), v.Index(i), f)
		}
	case kind == reflect.Map && !v.IsNil():
		out.Set(reflect.MakeMapWithSize(v.Type(), v.Len()))
		for k, value := range v.Seq2() {
			key, to := reflect.New(k.Type()).Elem(), reflect.New(value.Type()).Elem()
			mapStrings(key, k, f)
			mapStrings(to, value, f)
			out.SetMapIndex(key, to)
		}
	default:
		out.Set(v)
	}
}
