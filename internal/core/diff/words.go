package diff

// Lines that have changed are compared word by word.

import "unicode"

// Words compares two lines word by word, by the same subsequence as Lines. It returns the spans of each, in bytes, that the other
// does not have.
func Words(before, after string) (gone, come [][2]int) {
	atA, atB := 0, 0
	for _, l := range Lines(words(before), words(after)) {
		n := len(l.Text)
		switch l.Change {
		case Removed:
			gone = append(gone, [2]int{atA, atA + n})
			atA += n
		case Added:
			come = append(come, [2]int{atB, atB + n})
			atB += n
		default:
			atA, atB = atA+n, atB+n
		}
	}
	return join(gone), join(come)
}

// words cuts a line into words, runs of blanks, and single other characters.
func words(line string) []string {
	class := func(r rune) int {
		switch {
		case unicode.IsLetter(r), unicode.IsDigit(r), r == '_':
			return 1
		case unicode.IsSpace(r):
			return 2
		}
		return 0
	}
	var all []string
	start, last := 0, -1
	for i, r := range line {
		if c := class(r); i > start && (c != last || c == 0) {
			all = append(all, line[start:i])
			start = i
		}
		last = class(r)
	}
	if start < len(line) {
		all = append(all, line[start:])
	}
	return all
}

// join puts spans that touch together.
func join(spans [][2]int) [][2]int {
	var out [][2]int
	for _, s := range spans {
		if n := len(out); n > 0 && out[n-1][1] == s[0] {
			out[n-1][1] = s[1]
		} else {
			out = append(out, s)
		}
	}
	return out
}

// TextLine is a line of two texts that are compared, or a gap between lines that both have.
type TextLine struct {
	Line
	Gap   bool     // lines that both have are left out here; there is no text
	Spans [][2]int // what of the line the other text does not have, in bytes; none: all of it
}

// Text compares two texts by line, then the lines that have changed by word. Of what both have only the lines that are near are
// returned.
func Text(before, after []string, near int) []TextLine {
	lines := Lines(before, after)
	shown := make([]bool, len(lines))
	for i, l := range lines {
		for j := max(0, i-near); l.Change != "" && j <= min(len(lines)-1, i+near); j++ {
			shown[j] = true
		}
	}
	var out []TextLine
	for i := 0; i < len(lines); {
		switch {
		case lines[i].Change == "" && shown[i]:
			out = append(out, TextLine{Line: lines[i]})
			i++
		case lines[i].Change == "":
			out = append(out, TextLine{Gap: true})
			for i < len(lines) && lines[i].Change == "" && !shown[i] {
				i++
			}
		default:
			var run [2][]TextLine
			for ; i < len(lines) && lines[i].Change != ""; i++ {
				side := 0
				if lines[i].Change == Added {
					side = 1
				}
				run[side] = append(run[side], TextLine{Line: lines[i]})
			}
			for k := range min(len(run[0]), len(run[1])) {
				x, y := &run[0][k], &run[1][k]
				if gone, come := Words(x.Text, y.Text); len(gone)+len(come) > 0 && (covered(gone) < len(x.Text) || covered(come) < len(y.Text)) {
					x.Spans, y.Spans = gone, come
				}
			}
			out = append(append(out, run[0]...), run[1]...)
		}
	}
	return out
}

func covered(spans [][2]int) (n int) {
	for _, s := range spans {
		n += s[1] - s[0]
	}
	return n
}
