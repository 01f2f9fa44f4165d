package cli

// What bash knows of a line that is being completed: its words, and how the last one has to be quoted. Words are split
// and quoted as the POSIX shell language says (Shell Command Language, 2.2 Quoting); bash replaces only what stands
// behind the last of its word breaks.

import "strings"

type bashWords struct {
	words []string
	raw   string // the last word, as it was typed
	open  byte   // the quote that is open at its end: 0, ' or "
	cut   int    // how many bytes of the last word bash leaves alone
}

// bashLine splits a line up to the cursor. The last word may be empty.
func bashLine(line, breaks string) bashWords {
	var w bashWords
	var word strings.Builder
	inWord := false
	start := 0
	end := func(at int) {
		if inWord {
			w.words = append(w.words, word.String())
		}
		word.Reset()
		inWord = false
		start = at + 1
		w.cut = 0
	}
	for i := 0; i < len(line); i++ {
		c := line[i]
		switch {
		case w.open == '\'':
			if c == '\'' {
				w.open = 0
			} else {
				word.WriteByte(c)
			}
		case w.open == '"':
			switch {
			case c == '"':
				w.open = 0
			case c == '\\' && i+1 < len(line) && strings.IndexByte("$`\"\\", line[i+1]) >= 0:
				i++
				word.WriteByte(line[i])
			default:
				word.WriteByte(c)
			}
		case c == '\'' || c == '"':
			w.open, inWord = c, true
			w.cut = i + 1 - start
		case c == '\\' && i+1 < len(line):
			i++
			word.WriteByte(line[i])
			inWord = true
		case c == ' ' || c == '\t':
			end(i)
		case c == ';' || c == '|' || c == '&' || c == '(' || c == '\n': // another command begins
			w.words = nil
			inWord = false
			end(i)
		default:
			word.WriteByte(c)
			inWord = true
			if strings.IndexByte(breaks, c) >= 0 {
				w.cut = i + 1 - start
			}
		}
	}
	w.words = append(w.words, word.String())
	w.raw = line[min(start, len(line)):]
	if w.open == 0 && w.cut > 0 && (w.raw[w.cut-1] == '"' || w.raw[w.cut-1] == '\'') { // quotes that are closed again
		w.cut = 0
	}
	return w
}

// quote returns a candidate for the last word as bash is to insert it; ok is false where the quotes that are open
// cannot hold it.
func (w bashWords) quote(s string) (string, bool) {
	switch w.open {
	case '\'':
		if strings.IndexByte(s, '\'') >= 0 || w.cut != 1 {
			return "", false
		}
		return s, true
	case '"':
		if w.cut != 1 || strings.IndexByte(s, '!') >= 0 { // ! is the history's, and cannot be quoted there
			return "", false
		}
		return strings.NewReplacer(`\`, `\\`, `"`, `\"`, "$", `\$`, "`", "\\`").Replace(s), true
	}
	text := quoteForShell(s)
	if w.cut == 0 {
		return text, true
	}
	rest, ok := strings.CutPrefix(text, w.raw[:w.cut])
	return rest, ok
}

// quoteForShell returns a word with a backslash in front of every character that could mean something to a shell.
func quoteForShell(s string) string {
	const plain = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_./:@=+,%-"
	var b strings.Builder
	for i, r := range s {
		if !strings.ContainsRune(plain, r) && r < 0x80 || i == 0 && (r == '~' || r == '=') {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}
