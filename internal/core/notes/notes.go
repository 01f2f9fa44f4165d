// Package notes holds descriptions that people write beside the configuration, by address: for what has no comment on its server.
package notes

import (
	"fmt"
	"maps"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Note is a description of what an address fits.
type Note struct {
	Address string
	Text    string
	parsed  address.Address
}

// Notes are descriptions; nil holds none.
type Notes struct {
	byName   map[string][]*Note // by the last name, folded
	patterns []*Note
	all      []*Note
}

// New returns the notes of texts by address. The error names an address that cannot be read.
func New(texts map[string]string) (*Notes, error) {
	n := &Notes{byName: map[string][]*Note{}}
	for _, at := range slices.Sorted(maps.Keys(texts)) {
		parsed, err := address.Parse(at)
		if err == nil && (parsed.Path != "" || parsed.When != "" || len(parsed.Outer)+len(parsed.Names) == 0) {
			err = fmt.Errorf("a note is about what is there now: server/database/schema.object.part")
		}
		if err != nil {
			return nil, fmt.Errorf("the note for %q: %w", at, err)
		}
		x := &Note{Address: at, Text: texts[at], parsed: parsed}
		n.all = append(n.all, x)
		switch k := len(parsed.Names); {
		case k == 0:
			n.patterns = append(n.patterns, x)
		case parsed.Names[k-1].IsPattern():
			n.patterns = append(n.patterns, x)
		default:
			last := names.Fold(parsed.Names[k-1].Text)
			n.byName[last] = append(n.byName[last], x)
		}
	}
	return n, nil
}

// All returns the notes in the order of their addresses.
func (n *Notes) All() []*Note {
	if n == nil {
		return nil
	}
	return n.all
}

// Of returns the note for an object of a snapshot, or a part of one; "" if there is none. Of several the most exact counts: the one
// with the longest address.
func (n *Notes) Of(s *catalogue.Snapshot, id schema.ID, part string) string {
	if n == nil || len(n.all) == 0 {
		return ""
	}
	last := part
	if last == "" {
		last = id.Name
	}
	var best *Note
	for _, list := range [][]*Note{n.byName[names.Fold(last)], n.patterns} {
		for _, x := range list {
			if x.fits(s, id, part) && (best == nil || len(x.parsed.Outer)+len(x.parsed.Names) > len(best.parsed.Outer)+len(best.parsed.Names)) {
				best = x
			}
		}
	}
	if best == nil {
		return ""
	}
	return best.Text
}

func (x *Note) fits(s *catalogue.Snapshot, id schema.ID, part string) bool {
	is := func(n names.Name, text string) bool { ok, _ := n.Matches(text); return ok }
	switch o := x.parsed.Outer; len(o) {
	case 1:
		if !is(o[0], s.Server) && !is(o[0], s.Database) {
			return false
		}
	case 2:
		if !is(o[0], s.Server) || !is(o[1], s.Database) {
			return false
		}
	}
	if x.parsed.Kind != "" && x.parsed.Kind != id.Kind || x.parsed.Signature != nil && *x.parsed.Signature != id.Signature {
		return false
	}
	given := x.parsed.Names
	chain := []string{id.Name}
	if part != "" {
		chain = append(chain, part)
	}
	if len(given) > len(chain) && id.Schema != "" {
		chain = append([]string{id.Schema}, chain...)
	}
	if len(given) != len(chain) {
		return false
	}
	for i, n := range given {
		if !is(n, chain[i]) {
			return false
		}
	}
	return true
}
