package exchange

// Texts of several lines stand in an export as {"lines": [...]}, one string a line, so that version control shows
// which line of a body was changed.

import (
	"bytes"
	"encoding/json"
)

// stringEnd returns the place behind the JSON string that starts at a place, the length of the text if it does not
// end.
func stringEnd(text []byte, at int) int {
	for i := at + 1; i < len(text); i++ {
		switch text[i] {
		case '\\':
			i++
		case '"':
			return i + 1
		}
	}
	return len(text)
}

// splitLines rewrites the values with line breaks of indented JSON.
func splitLines(text []byte) []byte {
	var out bytes.Buffer
	indent, lineStart := 0, true
	for i := 0; i < len(text); {
		c := text[i]
		switch {
		case c == '\n':
			indent, lineStart = 0, true
		case c == ' ' && lineStart:
			indent++
		default:
			lineStart = false
		}
		if c != '"' {
			out.WriteByte(c)
			i++
			continue
		}
		end := stringEnd(text, i)
		literal := text[i:end]
		i = end
		if i < len(text) && text[i] == ':' || !bytes.Contains(literal, []byte(`\n`)) {
			out.Write(literal)
			continue
		}
		var parts [][]byte
		start := 1
		for k := 1; k < len(literal)-1; k++ {
			if literal[k] != '\\' {
				continue
			}
			if literal[k+1] == 'n' {
				parts = append(parts, literal[start:k])
				start = k + 2
			}
			k++
		}
		if parts == nil { // a backslash and an n
			out.Write(literal)
			continue
		}
		parts = append(parts, literal[start:len(literal)-1])
		pad := bytes.Repeat([]byte(" "), indent)
		out.WriteString(`{"lines": [`)
		for k, p := range parts {
			if k > 0 {
				out.WriteByte(',')
			}
			out.WriteByte('\n')
			out.Write(pad)
			out.WriteString(`  "`)
			out.Write(p)
			out.WriteByte('"')
		}
		out.WriteByte('\n')
		out.Write(pad)
		out.WriteString(`]}`)
	}
	return out.Bytes()
}

// joinLines takes back what splitLines does. Line breaks between the lines move behind them, so that places in the
// text stay near where they were.
func joinLines(text []byte) []byte {
	mark := []byte(`{"lines": [`)
	if !bytes.Contains(text, mark) {
		return text
	}
	var out bytes.Buffer
	for i := 0; i < len(text); {
		switch {
		case text[i] == '"':
			end := stringEnd(text, i)
			out.Write(text[i:end])
			i = end
		case bytes.HasPrefix(text[i:], mark):
			joined, end, ok := joined(text, i+len(mark))
			if !ok {
				out.WriteByte(text[i])
				i++
				continue
			}
			out.Write(joined)
			i = end
		default:
			out.WriteByte(text[i])
			i++
		}
	}
	return out.Bytes()
}

// joined reads the strings of a list of lines from a place on.
func joined(text []byte, at int) (_ []byte, end int, ok bool) {
	out := []byte{'"'}
	breaks, count := 0, 0
	for i := at; i < len(text); {
		switch text[i] {
		case '\n':
			breaks++
			i++
		case ' ', '\t', '\r', ',':
			i++
		case '"':
			end := stringEnd(text, i)
			if !json.Valid(text[i:end]) {
				return nil, 0, false
			}
			if count > 0 {
				out = append(out, `\n`...)
			}
			count++
			out = append(out, text[i+1:end-1]...)
			i = end
		case ']':
			if i+1 >= len(text) || text[i+1] != '}' || count == 0 {
				return nil, 0, false
			}
			out = append(out, '"')
			return append(out, bytes.Repeat([]byte("\n"), breaks)...), i + 2, true
		default:
			return nil, 0, false
		}
	}
	return nil, 0, false
}
