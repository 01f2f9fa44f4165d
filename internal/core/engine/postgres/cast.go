package postgres

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/sqltext"
)

// The server prints x IN ('a', 'b') of a varchar x as (x)::text = ANY ((ARRAY['a'::character varying,
// 'b'::character varying])::text[]). Read back, a cast right after ARRAY[…] is moved into the elements, and the
// copy is printed otherwise than the original. An inner cast to what the elements are keeps the outer one in
// its place.

// castArrays writes that inner cast in all texts of a statement.
func castArrays(s *engine.Statement) {
	s.Head, s.Tail = castArray(s.Head), castArray(s.Tail)
	for i := range s.Items {
		s.Items[i] = castArray(s.Items[i])
	}
	for i := range s.Splits {
		s.Splits[i].Item = castArray(s.Splits[i].Item)
		s.Splits[i].Rest = castArray(s.Splits[i].Rest)
		castArrays(&s.Splits[i].Apart)
	}
}

func castArray(text string) string {
	if !strings.Contains(text, "(ARRAY[") {
		return text
	}
	tokens := sqltext.Tokens(text, rules())
	of := func(i int) string {
		if i >= len(tokens) || tokens[i].Kind == sqltext.String || tokens[i].Kind == sqltext.QuotedName {
			return ""
		}
		return text[tokens[i].Start:tokens[i].End]
	}
	var b strings.Builder
	done := 0
	for i := range tokens {
		if of(i) != "(" || of(i+1) != "ARRAY" || of(i+2) != "[" {
			continue
		}
		// To the bracket that closes the array, with the type that every element is cast to.
		depth, end, typ, start, same := 0, -1, "", -1, true
		element := func(to int) {
			if start < 0 {
				same = false
				return
			}
			is := strings.TrimSpace(text[tokens[start].Start:tokens[to].Start])
			start = -1
			same = same && (typ == "" || typ == is)
			typ = is
		}
	scan:
		for j := i + 3; j < len(tokens); j++ {
			switch of(j) {
			case "(", "[":
				depth++
			case ")":
				depth--
			case "]":
				if depth == 0 {
					element(j)
					end = j
					break scan
				}
				depth--
			case ",":
				if depth == 0 {
					element(j)
				}
			case "::":
				if depth == 0 {
					start = j + 1
				}
			}
		}
		if end < 0 || !same || typ == "" || of(end+1) != ")" || of(end+2) != "::" {
			continue
		}
		b.WriteString(text[done:tokens[end].End])
		b.WriteString("::" + typ + "[]")
		done = tokens[end].End
	}
	return b.String() + text[done:]
}
