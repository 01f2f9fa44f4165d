package search

// A literal is looked for by its rarest byte: names have few of it, so that most of a text is passed by a plain search of bytes.

import "strings"

// frequent are the bytes of names, the most frequent first. All others are rarer.
const frequent = "_eatrnoisldcumpgh yfbvkw0123456789xjqz"

// rarest returns which byte of a text is likely to be the rarest in names.
func rarest(text string) int {
	best, rank := 0, -1
	for i := range len(text) {
		r := strings.IndexByte(frequent, text[i])
		if r < 0 {
			r = len(frequent)
		}
		if r > rank {
			best, rank = i, r
		}
	}
	return best
}

// index is strings.Index for the matcher's literal. It looks for its rarest byte, where strings.Index looks for its
// first, and is the quicker the rarer that is.
func (m *matcher) index(text string) int {
	if m.literal == "" {
		return 0
	}
	rare := m.literal[m.rare]
	last := len(text) - len(m.literal) // where it can start
	for start, tries := 0, 0; start <= last; tries++ {
		n := strings.IndexByte(text[start+m.rare:last+m.rare+1], rare)
		if n < 0 {
			return -1
		}
		start += n
		if text[start:start+len(m.literal)] == m.literal {
			return start
		}
		start++
		if often := start/8 + 16; tries > often { // then bytes are better compared than searched for
			if n = strings.Index(text[start:], m.literal); n >= 0 {
				n += start
			}
			return n
		}
	}
	return -1
}
