package diff

// Lines are compared in linear space, by the middle of a shortest way of edits (Myers, "An O(ND) Difference Algorithm").

// Line is a line of two texts that are compared; Change is empty where both have it.
type Line struct {
	Change Change
	Text   string
}

// Lines compares two texts by a longest common subsequence of lines (Myers, "An O(ND) Difference Algorithm and Its
// Variations", 1986, in its linear-space form). Memory grows with the length of the texts, time with their length
// and the number of differences; where these are very many, the subsequence need not be the longest.
func Lines(before, after []string) []Line {
	c := lineComparison{numbers: map[string]int{}}
	a, b := c.number(before), c.number(after)
	c.gone, c.come = make([]bool, len(a)), make([]bool, len(b))
	c.compare(a, b, 0, 0)
	out := make([]Line, 0, max(len(before), len(after)))
	i, j := 0, 0
	for i < len(before) || j < len(after) {
		switch {
		case i < len(before) && c.gone[i]:
			out = append(out, Line{Removed, before[i]})
			i++
		case j < len(after) && c.come[j]:
			out = append(out, Line{Added, after[j]})
			j++
		default:
			out = append(out, Line{"", before[i]})
			i++
			j++
		}
	}
	return out
}

// lineComparison marks which lines of two texts are not common. Lines are compared as numbers.
type lineComparison struct {
	numbers    map[string]int
	gone, come []bool
	forward    []int // furthest points, by diagonal
	backward   []int
}

func (c *lineComparison) number(lines []string) []int {
	numbers := make([]int, len(lines))
	for i, l := range lines {
		n, ok := c.numbers[l]
		if !ok {
			n = len(c.numbers)
			c.numbers[l] = n
		}
		numbers[i] = n
	}
	return numbers
}

// compare marks what is not common to a and b, which start at these places of the texts.
func (c *lineComparison) compare(a, b []int, atA, atB int) {
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b, atA, atB = a[1:], b[1:], atA+1, atB+1
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	if len(a) == 0 || len(b) == 0 {
		for i := range a {
			c.gone[atA+i] = true
		}
		for j := range b {
			c.come[atB+j] = true
		}
		return
	}
	x, y := c.middle(a, b)
	c.compare(a[:x], b[:y], atA, atB)
	c.compare(a[x:], b[y:], atA+x, atB+y)
}

// patience is after how many steps from both ends a middle is taken that need not be on a shortest way.
const patience = 2000

// middle returns a point on a shortest way from the start of both texts to their ends, at neither corner. The first
// lines differ, and so do the last.
func (c *lineComparison) middle(a, b []int) (x, y int) {
	n, m := len(a), len(b)
	delta, most := n-m, (n+m+1)/2
	size := 2*most + 2
	if len(c.forward) < size {
		c.forward, c.backward = make([]int, size), make([]int, size)
	}
	f, r := c.forward[:size], c.backward[:size]
	at := func(k int) int { // a diagonal's place
		if k < 0 {
			k += size
		}
		return k
	}
	f[at(1)], r[at(1)] = 0, 0
	for d := 0; d <= most; d++ {
		bestX, bestY := 0, 0
		for k := -d; k <= d; k += 2 {
			x := f[at(k+1)]
			if k != -d && (k == d || f[at(k-1)] >= f[at(k+1)]) {
				x = f[at(k-1)] + 1
			}
			y := x - k
			for x < n && y < m && x >= 0 && y >= 0 && a[x] == b[y] {
				x, y = x+1, y+1
			}
			f[at(k)] = x
			if x <= n && y <= m && x+y > bestX+bestY {
				bestX, bestY = x, y
			}
			if back := delta - k; delta%2 != 0 && back >= -(d-1) && back <= d-1 && x+r[at(back)] >= n {
				return c.inside(x, y, n, m)
			}
		}
		for k := -d; k <= d; k += 2 {
			x := r[at(k+1)]
			if k != -d && (k == d || r[at(k-1)] >= r[at(k+1)]) {
				x = r[at(k-1)] + 1
			}
			y := x - k
			for x < n && y < m && x >= 0 && y >= 0 && a[n-1-x] == b[m-1-y] {
				x, y = x+1, y+1
			}
			r[at(k)] = x
			if forth := delta - k; delta%2 == 0 && forth >= -d && forth <= d && f[at(forth)]+x >= n {
				return c.inside(n-x, m-y, n, m)
			}
		}
		if d >= patience && bestX+bestY > 0 {
			return c.inside(bestX, bestY, n, m)
		}
	}
	return n, 0
}

// inside keeps a point within the texts, and away from the corners, where nothing would be left to compare.
func (c *lineComparison) inside(x, y, n, m int) (int, int) {
	x, y = min(max(x, 0), n), min(max(y, 0), m)
	if x == 0 && y == 0 || x == n && y == m {
		return n, 0
	}
	return x, y
}
