package render

// JSON for programs: nothing in it can act on a terminal, and it reads back as what was put in.

import (
	"fmt"
	"io"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"echo-atlas/internal/core/names"
)

// JSON writes a value in JSON, indented, with names as they are; what would move a terminal's cursor, or turn the
// direction of a text around, is written as an escape, which means the same (RFC 8259, section 7).
// Bytes that are no UTF-8 are escaped as names.Escape says, and an address that holds them is one.
func JSON(w io.Writer, v any) error {
	return names.EncodeJSON(escaper{w}, v)
}

// escaper escapes the hidden characters of a text in JSON, which stand in strings alone. It is handed whole characters.
type escaper struct{ w io.Writer }

func (e escaper) Write(b []byte) (int, error) {
	done := 0
	var out []byte
	for i := 0; i < len(b); {
		if c := b[i]; c < 0x7f {
			i++
			continue
		}
		r, size := utf8.DecodeRune(b[i:])
		if hidden(r) && r != unicode.ReplacementChar {
			out = append(out, b[done:i]...)
			if high, low := utf16.EncodeRune(r); high != unicode.ReplacementChar {
				out = fmt.Appendf(out, `\u%04x\u%04x`, high, low)
			} else {
				out = fmt.Appendf(out, `\u%04x`, r)
			}
			done = i + size
		}
		i += size
	}
	if done > 0 {
		if _, err := e.w.Write(append(out, b[done:]...)); err != nil {
			return 0, err
		}
		return len(b), nil
	}
	return e.w.Write(b)
}
