package sqltext

// Keywords, and names in some dialects, are the same in any case of ASCII letters.

// FoldASCII returns a keyword, or a name where only the case of ASCII letters does not count, in lower case.
func FoldASCII(s string) string {
	b := []byte(s)
	for i, c := range b {
		if 'A' <= c && c <= 'Z' {
			b[i] = c + 'a' - 'A'
		}
	}
	return string(b)
}
