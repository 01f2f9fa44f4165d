package cli

// The two sides of a comparison: addresses, or environments, whose servers are counterparts of those of the other side.

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/selection"
)

// environment returns the newest snapshots of an environment, if that is what a word names and no server bears it.
func (a *app) environment(r *address.Resolver, word string) []*catalogue.Snapshot {
	var all []*catalogue.Snapshot
	if slices.Contains(a.serverNames(), word) {
		return nil
	}
	for _, s := range r.Latest() {
		if s.Server == word {
			return nil
		}
		if s.Environment != "" && names.Fold(s.Environment) == names.Fold(word) {
			all = append(all, s)
		}
	}
	return all
}

// family is what counterparts have in common: the family's name, or the server where it has none.
func family(s *catalogue.Snapshot) string {
	if s.Family != "" {
		return "family " + s.Family
	}
	return "server " + s.Server
}

// side is what one of two arguments covers.
type side struct {
	sets []*selection.Set
	by   bool // it is an environment
}

func (a *app) side(ctx context.Context, r *address.Resolver, text string) (side, error) {
	if all := a.environment(r, text); len(all) > 0 {
		s := side{by: true}
		for _, snapshot := range all {
			t, err := r.Contents(ctx, snapshot)
			if err != nil {
				return s, err
			}
			s.sets = append(s.sets, selection.Gather([]address.Match{{Contents: t}})...)
		}
		return s, nil
	}
	matches, err := a.resolveAll(ctx, r, []string{text})
	var missing *address.NotFoundError
	if errors.As(err, &missing) && !missing.Empty && !strings.ContainsAny(text, "/.") {
		var known []string
		for _, s := range r.Latest() {
			if word := render.Visible(s.Environment); word != "" && !slices.Contains(known, word) {
				known = append(known, word)
			}
		}
		if slices.Sort(known); len(known) > 0 {
			err = fmt.Errorf("%w; the environments are %s", err, strings.Join(known, ", "))
		}
	}
	return side{sets: selection.Gather(matches)}, err
}

// pairs resolves OLD and NEW and pairs what they cover by database; lonely says which databases only one side has.
func (a *app) pairs(ctx context.Context, r *address.Resolver, old, new string, renamed map[string]string) (_ []selection.Pair, lonely []string, err error) {
	var sides [2]side
	for i, text := range []string{old, new} {
		if sides[i], err = a.side(ctx, r, text); err != nil {
			return nil, nil, err
		}
	}
	if sides[0].by || sides[1].by {
		return a.counterparts(r, sides, [2]string{old, new}, renamed)
	}
	pairs, onlyOld, onlyNew, err := selection.Pairs(sides[0].sets, sides[1].sets, renamed)
	if err != nil {
		return nil, nil, err
	}
	lonely = append(alone(r, onlyOld, "OLD"), alone(r, onlyNew, "NEW")...)
	if len(pairs) == 0 {
		return nil, nil, usagef("%s and %s have no database of the same name; name one of each, like SERVER/DATABASE, or say which are one: --rename OLD=NEW", old, new)
	}
	return pairs, lonely, nil
}

func alone(r *address.Resolver, sets []*selection.Set, side string) (lines []string) {
	for _, s := range sets {
		where := s.Contents.Snapshot
		line := fmt.Sprintf("database %s is only in %s (%s)", render.Visible(where.Database), side, render.Visible(where.Location().String()))
		for _, w := range r.Without {
			if other := (&catalogue.Snapshot{Server: w.Server, Database: w.Database}); other.Database == where.Counterpart() || other.Database == where.Database {
				line += "; " + render.Visible(w.Error())
			}
		}
		lines = append(lines, line)
	}
	return lines
}

// counterparts pairs sides of which one is an environment, family by family. An environment beside an address covers what the
// address does.
func (a *app) counterparts(r *address.Resolver, sides [2]side, words [2]string, renamed map[string]string) (pairs []selection.Pair, lonely []string, err error) {
	byFamily := map[string]*[2][]*selection.Set{}
	var families []string
	for i, s := range sides {
		for _, set := range s.sets {
			name := family(set.Contents.Snapshot)
			if byFamily[name] == nil {
				byFamily[name] = &[2][]*selection.Set{}
				families = append(families, name)
			}
			byFamily[name][i] = append(byFamily[name][i], set)
		}
	}
	slices.Sort(families)
	for _, name := range families {
		both := byFamily[name]
		if (len(both[0]) == 0 || len(both[1]) == 0) && (sides[0].by != sides[1].by) {
			continue
		}
		for i, s := range sides {
			if s.by && !sides[1-i].by {
				both[i] = like(both[i], both[1-i], renamed, i == 0)
			}
		}
		found, onlyOld, onlyNew, err := selection.Pairs(both[0], both[1], renamed)
		if err != nil {
			return nil, nil, err
		}
		pairs = append(pairs, found...)
		lonely = append(lonely, alone(r, onlyOld, "OLD")...)
		lonely = append(lonely, alone(r, onlyNew, "NEW")...)
	}
	if len(pairs) == 0 {
		return nil, nil, usagef("%s and %s have no counterparts: servers of one family (in the configuration), with a database of the same name", words[0], words[1])
	}
	return pairs, lonely, nil
}

// like returns of an environment's databases those that are counterparts of some, each covering what its counterpart does.
func like(all, of []*selection.Set, renamed map[string]string, old bool) (out []*selection.Set) {
	key := func(s *catalogue.Snapshot, old bool) string {
		if to, ok := renamed[s.Database]; ok && old {
			return to
		}
		return s.Counterpart()
	}
	for _, other := range of {
		for _, s := range all {
			if key(s.Contents.Snapshot, old) == key(other.Contents.Snapshot, !old) {
				out = append(out, other.Like(s.Contents))
			}
		}
	}
	return out
}
