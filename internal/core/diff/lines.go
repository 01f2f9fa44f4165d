package diff

// Line is a line of two texts that are compared; Change is empty where both have it.
type Line struct {
	Change Change
	Text   string
}

// Lines compares two texts by their longest common subsequence of lines. Where that would be too
// much work the texts count as wholly different.
func Lines(before, after []string) []Line {
	head := 0
	for head < len(before) && head < len(after) && before[head] == after[head] {
		head++
	}
	tail := 0
	for tail < len(before)-head && tail < len(after)-head && before[len(before)-1-tail] == after[len(after)-1-tail] {
		tail++
	}
	var out []Line
	add := func(change Change, lines []string) {
		for _, l := range lines {
			out = append(out, Line{change, l})
		}
	}
	add("", before[:head])
	a, b := before[head:len(before)-tail], after[head:len(after)-tail]
	const most = 4 << 20
	if len(a)*len(b) > most {
		add(Removed, a)
		add(Added, b)
	} else {
		out = append(out, common(a, b)...)
	}
	add("", before[len(before)-tail:])
	return out
}

func common(a, b []string) []Line {
	// length[i][j] is that of the longest common subsequence of a[i:] and b[j:].
	length := make([][]int, len(a)+1)
	for i := range length {
		length[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if a[i] == b[j] {
				length[i][j] = length[i+1][j+1] + 1
			} else {
				length[i][j] = max(length[i+1][j], length[i][j+1])
			}
		}
	}
	var out []Line
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			out = append(out, Line{"", a[i]})
			i++
			j++
		case i < len(a) && (j == len(b) || length[i+1][j] >= length[i][j+1]):
			out = append(out, Line{Removed, a[i]})
			i++
		default:
			out = append(out, Line{Added, b[j]})
			j++
		}
	}
	return out
}
