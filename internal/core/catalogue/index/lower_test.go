package index

import (
	"math/rand/v2"
	"slices"
	"testing"
)

func TestLowerInto(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	var buf []byte
	for n := range 200 {
		text := make([]byte, n%90)
		plain := true
		for i := range text {
			text[i] = byte(random.IntN(128))
			if n%3 == 0 && random.IntN(30) == 0 {
				text[i] |= 0x80
				plain = false
			}
		}
		want := slices.Clone(text)
		for i, c := range want {
			if 'A' <= c && c <= 'Z' {
				want[i] = c + 'a' - 'A'
			}
		}
		var got bool
		if buf, got = lowerInto(buf, string(text)); !slices.Equal(buf, want) || got != plain {
			t.Errorf("%q becomes %q, plain %v", text, buf, got)
		}
	}
}
