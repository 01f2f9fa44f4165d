package catalogue

import (
	"context"
	"errors"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
)

// errEnough ends a walk early.
var errEnough = errors.New("enough")

// Complete returns addresses that begin with a text: servers, databases of a server, objects, and behind
// the name of a relation and a dot its columns; most at the utmost. It reads only the indexes of names
// that it needs.
func (r *Resolver) Complete(ctx context.Context, text string, most int) ([]string, error) {
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
				add(schema.QuotePart(s.Server) + "/")
			}
			if last == "" { // every name of every server would be no help
				continue
			}
		case len(outer) == 1 && schema.Fold(outer[0]) == schema.Fold(s.Server):
			if hasPrefixFold(s.Database, last) {
				add(outer[0] + "/" + schema.QuotePart(s.Database) + "/")
			}
			continue
		case len(outer) == 1 && schema.Fold(outer[0]) == schema.Fold(s.Database):
		case len(outer) == 2 && schema.Fold(outer[0]) == schema.Fold(s.Server) && schema.Fold(outer[1]) == schema.Fold(s.Database):
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

// completeNames offers the objects whose name, or schema and name, begins with a text, and the columns
// of the relation that stands in front of its last dot.
func (r *Resolver) completeNames(ctx context.Context, s *Snapshot, text string, offer func(string) bool) error {
	t, err := r.c.Outline(ctx, s)
	if err != nil {
		return err
	}
	object, column, dotted := "", "", false
	if i := strings.LastIndexByte(text, '.'); i >= 0 {
		object, column, dotted = text[:i], text[i+1:], true
	}
	return r.c.Names(ctx, t, func(k *Chunk) error {
		inSchema := ""
		if k.ref.schema != "" {
			inSchema = schema.QuotePart(k.ref.schema) + "."
		}
		needles := []string{text}
		if dotted {
			needles = append(needles, object[strings.LastIndexByte(object, '.')+1:])
			if schema.Fold(object+".") == schema.Fold(inSchema) {
				needles = append(needles, column)
			}
		}
		if !slices.ContainsFunc(needles, func(n string) bool { return k.Names.startsLine(strings.Trim(n, `"`)) }) {
			return nil
		}
		more, current := true, ""
		err := k.Names.Lines(func(_ string, l NameLine) bool {
			name := schema.QuotePart(l.Name)
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
			if dotted && l.Part == schema.KindColumn && k.ref.kind.IsRelation() && hasPrefixFold(name, column) &&
				(schema.Fold(object) == schema.Fold(schema.QuotePart(current)) || schema.Fold(object) == schema.Fold(inSchema+schema.QuotePart(current))) {
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
	return len(s) >= len(prefix) && strings.HasPrefix(schema.Fold(s), schema.Fold(prefix))
}
