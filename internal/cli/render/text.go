// Package render puts answers into the forms that people and machines read.
package render

import (
	"fmt"
	"strings"
	"time"
	"unicode"

	"github.com/rivo/uniseg"
)

// Visible returns a name or text with everything that could steer a terminal, break a line or hide
// itself written out: \n, \x1b, \u202e; a byte that is no UTF-8: \xe9.
func Visible(s string) string {
	if strings.IndexFunc(s, hidden) < 0 {
		return s
	}
	var b strings.Builder
	for i, r := range s {
		switch {
		case r == unicode.ReplacementChar && !strings.HasPrefix(s[i:], "\ufffd"): // a byte that is no UTF-8
			fmt.Fprintf(&b, `\x%02x`, s[i])
		case r == '\n':
			b.WriteString(`\n`)
		case r == '\r':
			b.WriteString(`\r`)
		case r == '\t':
			b.WriteString(`\t`)
		case !hidden(r):
			b.WriteRune(r)
		case r < 0x80:
			fmt.Fprintf(&b, `\x%02x`, r)
		case r == unicode.ReplacementChar:
			b.WriteString(`\ufffd`)
		default:
			fmt.Fprintf(&b, `\u%04x`, r)
		}
	}
	return b.String()
}

func hidden(r rune) bool {
	if ' ' <= r && r < 0x7f { // most of all
		return false
	}
	return unicode.IsControl(r) || unicode.In(r, unicode.Cf, unicode.Zl, unicode.Zp) || r == unicode.ReplacementChar || r >= 0x10ff80
}

// VisibleLines is like Visible for a text of several lines: line breaks and tabs stay.
func VisibleLines(s string) string {
	lines := strings.Split(s, "\n")
	for i, line := range lines {
		parts := strings.Split(strings.TrimSuffix(line, "\r"), "\t")
		for j, p := range parts {
			parts[j] = Visible(p)
		}
		lines[i] = strings.Join(parts, "\t")
	}
	return strings.Join(lines, "\n")
}

// Width returns how many columns of a terminal s takes.
func Width(s string) int {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return uniseg.StringWidth(s)
		}
	}
	return len(s)
}

// Fit returns s cut to a width, with … where something is missing.
func Fit(s string, width int) string {
	if Width(s) <= width {
		return s
	}
	var b strings.Builder
	used, state := 0, -1
	for rest := s; rest != ""; {
		var cluster string
		var w int
		cluster, rest, w, state = uniseg.FirstGraphemeClusterInString(rest, state)
		if used+w > width-1 {
			break
		}
		b.WriteString(cluster)
		used += w
	}
	return b.String() + "…"
}

// Count returns n with separators between thousands.
func Count[T int | int64](n T) string {
	s := fmt.Sprint(n)
	start := 0
	if n < 0 {
		start = 1
	}
	for i := len(s) - 3; i > start; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Plural returns "1 table", "3 tables".
func Plural[T int | int64](n T, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return Count(n) + " " + many
}

// Bytes returns a size in people's units, powers of 1,000.
func Bytes(n int64) string {
	units := []string{"B", "kB", "MB", "GB", "TB", "PB"}
	f, u := float64(n), 0
	for f >= 999.5 && u < len(units)-1 {
		f /= 1000
		u++
	}
	if u == 0 || f >= 99.5 {
		return fmt.Sprintf("%.0f %s", f, units[u])
	}
	return fmt.Sprintf("%.1f %s", f, units[u])
}

// Age returns how long ago something was, in one unit.
func Age(d time.Duration) string {
	switch {
	case d < 5*time.Second:
		return "just now"
	case d < 2*time.Minute:
		return Plural(int(d/time.Second), "second", "seconds") + " ago"
	case d < 2*time.Hour:
		return Plural(int(d/time.Minute), "minute", "minutes") + " ago"
	case d < 48*time.Hour:
		return Plural(int(d/time.Hour), "hour", "hours") + " ago"
	}
	return Plural(int(d/(24*time.Hour)), "day", "days") + " ago"
}

// Took returns a duration in a form for people.
func Took(d time.Duration) string {
	if d < time.Second {
		return fmt.Sprintf("%d ms", d.Milliseconds())
	}
	return fmt.Sprintf("%.1f s", d.Seconds())
}

// Wrap breaks a text at blanks so that no line is wider than width, and indents all lines but the
// first.
func Wrap(s string, width int, indent string) string {
	if width <= 0 {
		return s
	}
	var b strings.Builder
	used := 0
	for i, word := range strings.Fields(s) {
		w := Width(word)
		switch {
		case i == 0:
		case used+1+w > width:
			b.WriteString("\n" + indent)
			used = 0
		default:
			b.WriteByte(' ')
			used++
		}
		b.WriteString(word)
		used += w
	}
	return b.String()
}
