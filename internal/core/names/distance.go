package names

// How far two names are apart, in edits.

// Letters returns the set of the characters of a text, in any case; many share a place.
func Letters(s string) (set uint64) {
	for i := range len(s) {
		c := s[i]
		if c >= 0x80 { // not worth more
			continue
		}
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		set |= 1 << (c & 63)
	}
	return set
}

// EditDistance returns the number of characters to insert, delete, replace or swap with their
// neighbour to make b of a (restricted Damerau–Levenshtein), or something above limit.
func EditDistance(a, b string, limit int) int {
	if len(a)-4*len(b) > limit || len(b)-4*len(a) > limit { // a character has four bytes at most
		return limit + 1
	}
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > limit || -d > limit {
		return limit + 1
	}
	var room [3 * 64]int
	rows := room[:]
	if len(y) >= 64 {
		rows = make([]int, 3*(len(y)+1))
	}
	n := len(y) + 1
	before, last, row := rows[:n], rows[n:2*n], rows[2*n:3*n]
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(x); i++ {
		row[0] = i
		best := i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			row[j] = min(last[j]+1, row[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				row[j] = min(row[j], before[j-2]+1)
			}
			best = min(best, row[j])
		}
		if best > limit {
			return limit + 1
		}
		before, last, row = last, row, before
	}
	return last[len(y)]
}
