package engine

import "strings"

// CanonicalType returns the one spelling of a type that stands for all of the engine's: without regard to case and
// blanks, the other names of its types resolved. What stands in brackets, and signs of an array, stay.
func (t Traits) CanonicalType(s string) string {
	s = strings.Join(strings.Fields(strings.ToLower(s)), " ")
	array := ""
	for strings.HasSuffix(s, "[]") {
		s, array = strings.TrimSpace(strings.TrimSuffix(s, "[]")), array+"[]"
	}
	arguments := ""
	if open := strings.IndexByte(s, '('); open >= 0 {
		if end := strings.IndexByte(s[open:], ')'); end >= 0 {
			arguments = strings.ReplaceAll(s[open:open+end+1], " ", "")
			s = strings.Join(strings.Fields(s[:open]+" "+s[open+end+1:]), " ")
		}
	}
	if to, ok := t.Types[s]; ok {
		s = to
	}
	if arguments != "" { // behind the first word, as in timestamp(3) with time zone
		first, rest, more := strings.Cut(s, " ")
		switch {
		case !more || first == "character" || first == "double" || first == "bit":
			s += arguments
		default:
			s = first + arguments + " " + rest
		}
	}
	return s + array
}
