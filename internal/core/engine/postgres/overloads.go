package postgres

// Which of several functions a call means (documentation: "Functions", Function Type Resolution), as far as the types of its arguments are
// known.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
)

// widening are the types of numbers, and of moments, each implicitly cast to those behind it.
var widening = [][]string{{"smallint", "integer", "bigint", "numeric", "real", "double precision"}, {"date", "timestamp", "timestamp without time zone", "timestamp with time zone"}}

// preferred are the types that a string without one is taken for, in the order in which that is tried.
var preferred = []string{"text", "character varying", "character", "name"}

// Overloads implements engine.Overloader.
func (e Engine) Overloads(parameters [][]string, arguments []string) []int {
	t := e.Traits()
	bare := func(s string) string {
		typ := t.ParseType(s)
		typ.Arguments = nil
		return typ.String()
	}
	for i, a := range arguments {
		if a != "" && a != untyped {
			arguments[i] = bare(a)
		}
	}
	best, most := []int{}, -1
	for i, list := range parameters {
		exact, fits := 0, true
		for k, a := range arguments {
			p := ""
			if k < len(list) {
				p = bare(list[k])
			}
			switch {
			case a == "" || a == untyped || p == "":
			case a == p:
				exact++
			default:
				fits = fits && castable(a, p)
			}
		}
		switch {
		case !fits || exact < most:
		case exact > most:
			best, most = []int{i}, exact
		default:
			best = append(best, i)
		}
	}
	for k, a := range arguments { // a string without a type is a text, where one of those left takes one
		if a != untyped {
			continue
		}
		for _, p := range preferred {
			if texts := slices.DeleteFunc(slices.Clone(best), func(i int) bool { return k >= len(parameters[i]) || bare(parameters[i][k]) != p }); len(texts) > 0 {
				best = texts
				break
			}
		}
	}
	return best
}

const untyped = engine.UntypedText

// castable reports whether a value of a type may be given where one of another is wanted. Of types that are not the server's own little is
// known: a domain is cast to what it is made of.
func castable(a, p string) bool {
	if strings.HasPrefix(p, "any") || strings.HasPrefix(p, `"any`) || p == "record" || p == "variadic" {
		return true
	}
	for _, list := range widening {
		from, to := slices.Index(list, a), slices.Index(list, p)
		if from >= 0 || to >= 0 {
			return from >= 0 && to >= from || from >= 0 && to < 0 && !known(p) || to >= 0 && from < 0 && !known(a)
		}
	}
	if slices.Contains(preferred, a) && slices.Contains(preferred, p) {
		return true
	}
	return !known(a) || !known(p)
}

// known reports whether a type is one of the server's own that has no implicit casts but those above.
func known(s string) bool {
	if slices.Contains(preferred, s) || slices.ContainsFunc(widening, func(list []string) bool { return slices.Contains(list, s) }) {
		return true
	}
	switch s {
	case "boolean", "uuid", "json", "jsonb", "bytea", "interval", "time without time zone", "time with time zone", "xml", "money", "point", "inet":
		return true
	}
	return strings.HasSuffix(s, "[]")
}
