package engine

// Types as engines write them, taken apart: schema, name, arguments, array; synonyms are resolved by the engine's list.

import (
	"strings"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/sqltext"
)

// Type is a type as it is written, taken apart.
type Type struct {
	Schema     string   // "" where none is written
	Name       string   // the engine's own name of it; a name in quotes without them
	Arguments  []string // length, precision, values: what stands in brackets
	Dimensions int      // of an array
}

// ParseType takes a type apart; the other names of the engine's types are resolved. What is no type comes back as a name.
func (t Traits) ParseType(s string) Type {
	tokens := sqltext.Tokens(s, t.Rules)
	text := func(i int) string { return s[tokens[i].Start:tokens[i].End] }
	var typ Type
	end := len(tokens)
	for end >= 2 && text(end-1) == "]" {
		end--
		if tokens[end-1].Kind == sqltext.Number {
			end--
		}
		if end == 0 || text(end-1) != "[" {
			return Type{Name: fold(s)}
		}
		end--
		typ.Dimensions++
	}
	if end >= 1 && t.Rules.Brackets && text(end-1) == "[]" { // where brackets quote names
		end--
		typ.Dimensions++
	}
	var words []string
	for i := 0; i < end; i++ {
		switch {
		case text(i) == "(":
			depth, start := 0, tokens[i].End
			for ; i < end; i++ {
				if word := text(i); word == "(" {
					depth++
				} else if word == ")" {
					depth--
				}
				if depth == 0 || depth == 1 && text(i) == "," {
					typ.Arguments = append(typ.Arguments, strings.TrimSpace(s[start:tokens[i].Start]))
					start = tokens[i].End
				}
				if depth == 0 {
					break
				}
			}
		case text(i) == "." && len(words) > 0:
			if typ.Schema != "" {
				typ.Schema += "."
			}
			typ.Schema += strings.Join(words, " ")
			words = nil
		case tokens[i].Kind == sqltext.QuotedName:
			words = append(words, sqltext.Unquote(s, tokens[i], t.Rules))
		case tokens[i].Kind == sqltext.Word:
			words = append(words, strings.ToLower(text(i)))
		default:
			return Type{Name: fold(s)}
		}
	}
	typ.Name = strings.Join(words, " ")
	if to, ok := t.Types[typ.Name]; ok && typ.Schema == "" {
		typ.Name = to
	}
	return typ
}

func fold(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }

// String returns the one spelling of a type that stands for all of the engine's: without regard to case and blanks.
func (t Type) String() string {
	s := t.Name
	if len(t.Arguments) > 0 { // behind the first word, as in timestamp(3) with time zone
		arguments := "(" + strings.Join(t.Arguments, ",") + ")"
		first, rest, more := strings.Cut(s, " ")
		switch {
		case !more || first == "character" || first == "double" || first == "bit":
			s += arguments
		default:
			s = first + arguments + " " + rest
		}
	}
	if t.Schema != "" {
		s = names.Quote(t.Schema) + "." + s
	}
	return s + strings.Repeat("[]", t.Dimensions)
}

// CanonicalType returns the one spelling of a type that stands for all of the engine's.
func (t Traits) CanonicalType(s string) string { return t.ParseType(s).String() }
