package address

// Completion of a half-written address: the level that the word is at decides what it may go on with.

import (
	"context"
	"errors"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// errEnough ends a walk early.
var errEnough = errors.New("enough")

// Complete returns addresses that begin with a text: servers, databases of a server, behind an @ the labels of
// readings, and unless only databases are wanted, objects, and behind the name of a relation and a dot its columns;
// most at the utmost. It reads only the indexes of names that it needs.
func (r *Resolver) Complete(ctx context.Context, text string, most int, databases bool) ([]string, error) {
	if i := strings.LastIndexByte(text, '@'); i > strings.LastIndexByte(text, '/') && !strings.Contains(text[i:], `"`) {
		return r.completeLabels(ctx, text[:i], text[i+1:])
	}
	var all []string
	add := func(s string) bool {
		if !slices.Contains(all, s) {
			all = append(all, s)
		}
		return len(all) < most
	}
	before, last := "", text
	if i := strings.LastIndexByte(text, '/'); i >= 0 {
		before, last = text[:i], text[i+1:]
	}
	outer := strings.Split(before, "/")
	for _, s := range r.latest {
		switch {
		case before == "":
			if hasPrefixFold(s.Server, last) {
				add(names.Quote(s.Server) + "/")
			}
			if databases && hasPrefixFold(s.Database, last) && last != "" {
				add(names.Quote(s.Database))
			}
			if last == "" || databases { // every name of every server would be no help
				continue
			}
		case len(outer) == 1 && names.Fold(outer[0]) == names.Fold(s.Server):
			if hasPrefixFold(s.Database, last) {
				end := "/"
				if databases {
					end = ""
				}
				add(outer[0] + "/" + names.Quote(s.Database) + end)
			}
			continue
		case databases:
			continue
		case len(outer) == 1 && names.Fold(outer[0]) == names.Fold(s.Database):
		case len(outer) == 2 && names.Fold(outer[0]) == names.Fold(s.Server) && names.Fold(outer[1]) == names.Fold(s.Database):
		default:
			continue
		}
		front := ""
		if before != "" {
			front = before + "/"
		}
		err := r.completeNames(ctx, s, last, func(name string) bool { return add(front + name) })
		if err != nil && !errors.Is(err, errEnough) {
			return nil, err
		}
		if len(all) >= most {
			break
		}
	}
	slices.Sort(all)
	return all, nil
}

// completeLabels returns the labels that the readings of a database, or of a server's databases, bear and that begin
// with a text, behind what stands in front of the @.
func (r *Resolver) completeLabels(ctx context.Context, place, typed string) ([]string, error) {
	a, err := Parse(place + "/")
	if err != nil {
		return nil, nil // nothing that could be completed
	}
	all, err := r.c.Snapshots(ctx)
	if err != nil {
		return nil, err
	}
	var labels []string
	for _, s := range all {
		inServer, _ := a.Outer[0].Matches(s.Server)
		inDatabase, _ := a.Outer[len(a.Outer)-1].Matches(s.Database)
		fits := inServer || inDatabase
		if len(a.Outer) == 2 {
			fits = inServer && inDatabase
		}
		if label := place + "@" + s.Label; fits && s.Label != "" && hasPrefixFold(s.Label, typed) && !slices.Contains(labels, label) {
			labels = append(labels, label)
		}
	}
	slices.Sort(labels)
	return labels, nil
}

// completeNames offers the objects whose name, or schema and name, begins with a text, and the columns
// of the relation that stands in front of its last dot.
func (r *Resolver) completeNames(ctx context.Context, s *catalogue.Snapshot, text string, offer func(string) bool) error {
	t, err := r.c.Outline(ctx, s)
	if err != nil {
		return err
	}
	object, column, dotted := "", "", false
	if i := strings.LastIndexByte(text, '.'); i >= 0 {
		object, column, dotted = text[:i], text[i+1:], true
	}
	return r.c.Names(ctx, t, func(k *catalogue.Chunk) error {
		inSchema := ""
		if k.Schema() != "" {
			inSchema = names.Quote(k.Schema()) + "."
		}
		needles := []string{text}
		if dotted {
			needles = append(needles, object[strings.LastIndexByte(object, '.')+1:])
			if names.Fold(object+".") == names.Fold(inSchema) {
				needles = append(needles, column)
			}
		}
		if !slices.ContainsFunc(needles, func(n string) bool { return k.Names.StartsLine(strings.ReplaceAll(strings.Trim(n, `"`), `""`, `"`)) }) {
			return nil
		}
		more, current := true, ""
		err := k.Names.Lines(func(_ string, l index.Line) bool {
			name := names.Quote(l.Name)
			if l.Part == "" {
				current = l.Name
				switch {
				case hasPrefixFold(name, text):
					more = offer(name)
				case dotted && hasPrefixFold(inSchema+name, text):
					more = offer(inSchema + name)
				}
				return more
			}
			if dotted && l.Part == schema.KindColumn && k.Kind().IsRelation() && hasPrefixFold(name, column) &&
				(names.Fold(object) == names.Fold(names.Quote(current)) || names.Fold(object) == names.Fold(inSchema+names.Quote(current))) {
				more = offer(object + "." + name)
			}
			return more
		})
		if err == nil && !more {
			err = errEnough
		}
		return err
	})
}

func hasPrefixFold(s, prefix string) bool {
	return len(s) >= len(prefix) && strings.HasPrefix(names.Fold(s), names.Fold(prefix))
}
