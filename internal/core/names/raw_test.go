package names

import (
	"bytes"
	"encoding/json"
	"reflect"
	"testing"
	"time"
	"unicode/utf8"
)

type outer struct{ Name string }

type holder struct {
	outer
	At    time.Time
	List  []*outer
	ByKey map[string]any
	Any   any
	Raw   []byte
	None  *outer
}

// A text comes back from JSON byte for byte, whatever it holds, also what the escape itself is made of.
func TestRawTextInJSON(t *testing.T) {
	for _, s := range []string{"", "berth", "caf\xe9", "\xe9", "\xef\xbf", "Ärmel \ufffd", "\U0010ff80", "\U0010ffff\xff", "\xf4\x8f\xbe", `\ufffd`, "\xed\xb3\xa9", "a\x00b"} {
		if e := Escape(s); !utf8.ValidString(e) || Unescape(e) != s {
			t.Errorf("%q became %q and %q", s, e, Unescape(e))
		}
		in := holder{outer{s}, time.Unix(7, 0).UTC(), []*outer{{s}, nil}, map[string]any{s: s}, s, []byte("raw"), nil}
		var b bytes.Buffer
		err := EncodeJSON(&b, in)
		text := b.Bytes()
		if err != nil || !utf8.Valid(text) {
			t.Fatalf("%q: %s %v", s, text, err)
		}
		var back holder
		if err := json.Unmarshal(text, &back); err != nil {
			t.Fatal(err)
		}
		if DecodedJSON(text, &back); !reflect.DeepEqual(in, back) {
			t.Errorf("%q: %+v came back as %+v", s, in, back)
		}
	}
}

func FuzzEscape(f *testing.F) {
	f.Add("caf\xe9")
	f.Add("\U0010ff80\xff")
	f.Fuzz(func(t *testing.T, s string) {
		if e := Escape(s); !utf8.ValidString(e) || Unescape(e) != s {
			t.Errorf("%q became %q", s, e)
		}
	})
}
