package search

// Types are found under any of their names, with any arguments that are not given.

import (
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/names"
)

// typeFinder tells which types of columns are meant by what was asked for: those that fit it as a pattern, and those
// that are the same type under another name. A type without a length means it with any.
type typeFinder struct {
	wanted     string
	canonical  func(engine, typ string) string
	known      map[engineType]bool // what was looked at, and whether it is meant
	last       engineType
	lastMeant  bool
	matchesAny bool
}

type engineType struct{ engine, typ string }

func (f *typeFinder) matches(engine, typ string) bool {
	if f.last.typ == typ && f.last.engine == engine && f.known != nil {
		return f.lastMeant
	}
	key := engineType{engine, typ}
	meant, known := f.known[key]
	if !known {
		meant = f.meant(engine, typ)
		if f.known == nil {
			f.known = map[engineType]bool{}
		}
		key.typ = strings.Clone(typ)
		f.known[key] = meant
		f.matchesAny = f.matchesAny || meant
	} else {
		key.typ = strings.Clone(typ) // of an index that is gone with its chunk
	}
	f.last, f.lastMeant = key, meant
	return meant
}

func (f *typeFinder) meant(engine, typ string) bool {
	if names.MatchPattern(f.wanted, typ) {
		return true
	}
	if f.canonical == nil || strings.ContainsAny(f.wanted, "*%?") {
		return false
	}
	wanted, given := f.canonical(engine, f.wanted), f.canonical(engine, typ)
	if wanted == given {
		return true
	}
	if strings.Contains(wanted, "(") {
		return false
	}
	for _, sign := range []string{" zerofill", " unsigned"} {
		given = strings.TrimSuffix(given, sign)
	}
	open := strings.IndexByte(given, '(')
	if open >= 0 {
		if end := strings.IndexByte(given[open:], ')'); end >= 0 {
			given = given[:open] + given[open+end+1:]
		}
	}
	return wanted == given
}

// merge takes in what another finder saw.
func (f *typeFinder) merge(o *typeFinder) {
	if f.known == nil {
		f.known = map[engineType]bool{}
	}
	for t, meant := range o.known {
		f.known[t] = meant
		f.matchesAny = f.matchesAny || meant
	}
}

// near returns types that were seen and are near to what was asked for, under any of their names, the nearest first.
func (f *typeFinder) near(wanted string, synonyms func(engine string) map[string]string) []string {
	wanted = names.Fold(strings.Trim(wanted, "*%? "))
	limit := max(1, utf8.RuneCountInString(wanted)/2)
	distances := map[string]int{}
	for t := range f.known {
		bare, _, _ := strings.Cut(names.Fold(t.typ), "(")
		bare = strings.TrimSpace(bare)
		distance := typeDistance(wanted, bare, limit)
		if synonyms != nil {
			for other, printed := range synonyms(t.engine) {
				if printed == bare {
					distance = min(distance, typeDistance(wanted, other, limit))
				}
			}
		}
		if distance <= limit {
			distances[t.typ] = distance
		}
	}
	var all []string
	for t := range distances {
		all = append(all, t)
	}
	slices.SortFunc(all, func(a, b string) int {
		if d := distances[a] - distances[b]; d != 0 {
			return d
		}
		return strings.Compare(a, b)
	})
	return all[:min(mostNear, len(all))]
}

func typeDistance(wanted, name string, limit int) int {
	d := names.EditDistance(wanted, name, limit)
	if d > limit && len(wanted) >= 3 && (strings.Contains(name, wanted) || strings.Contains(wanted, name) && len(name) >= 3) {
		d = limit
	}
	return d
}
