package diff

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

// longest returns the length of the longest common subsequence, by the plain table.
func longest(a, b []string) int {
	row := make([]int, len(b)+1)
	for i := range a {
		diagonal := 0
		for j := range b {
			above := row[j+1]
			if a[i] == b[j] {
				row[j+1] = diagonal + 1
			} else {
				row[j+1] = max(above, row[j])
			}
			diagonal = above
		}
	}
	return row[len(b)]
}

func sides(lines []Line) (before, after []string, common int) {
	for _, l := range lines {
		if l.Change != Added {
			before = append(before, l.Text)
		}
		if l.Change != Removed {
			after = append(after, l.Text)
		}
		if l.Change == "" {
			common++
		}
	}
	return before, after, common
}

func TestLinesAgainstTable(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	text := func(n, words int) []string {
		var lines []string
		for range n {
			lines = append(lines, fmt.Sprint(random.IntN(words)))
		}
		return lines
	}
	for i := range 3000 {
		before := text(random.IntN(30), 1+random.IntN(12))
		after := text(random.IntN(30), 1+random.IntN(12))
		if i%3 == 0 {
			after = slices.Clone(before)
			for range random.IntN(4) {
				after = slices.Insert(after, random.IntN(len(after)+1), "new")
			}
		}
		x, y, common := sides(Lines(before, after))
		if !slices.Equal(x, before) || !slices.Equal(y, after) {
			t.Fatalf("the lines do not give back the texts:\n%q\n%q", before, after)
		}
		if want := longest(before, after); common != want {
			t.Fatalf("%d common lines, want %d:\n%q\n%q", common, want, before, after)
		}
	}
}

func TestLinesOfLongTexts(t *testing.T) {
	var before []string
	for i := range 100_000 {
		before = append(before, fmt.Sprintf("line %d", i))
	}
	after := slices.Clone(before)
	after[10], after[99_000] = "changed", "changed too"
	differ := 0
	for _, l := range Lines(before, after) {
		if l.Change != "" {
			differ++
		}
	}
	if differ != 4 {
		t.Errorf("two changed lines count as %d", differ)
	}
	// Texts that share nothing but a line in the middle, and texts in the other order.
	var other []string
	for i := range 20_000 {
		other = append(other, fmt.Sprintf("other %d", i))
	}
	other[10_000] = before[10_000]
	x, y, _ := sides(Lines(before[:20_000], other))
	if !slices.Equal(x, before[:20_000]) || !slices.Equal(y, other) {
		t.Error("the lines of texts that share little do not give back the texts")
	}
	turned := slices.Clone(before[:20_000])
	slices.Reverse(turned)
	x, y, common := sides(Lines(before[:20_000], turned))
	if !slices.Equal(x, before[:20_000]) || !slices.Equal(y, turned) || common < 1 {
		t.Error("the lines of turned texts do not give back the texts")
	}
}
