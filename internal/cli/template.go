package cli

// The command template: statements to start from.

import (
	"context"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/template"
)

func (a *app) templateCommand() *cli.Command {
	return &cli.Command{
		Name:      "template",
		Usage:     "a statement to start from: select, insert, update, delete, call, alter, join",
		ArgsUsage: "VERB ADDRESS…",
		Description: "Statements come in the syntax and quoting of the object's engine; update and delete name a row by its key.\n" +
			"join takes two tables or more and joins them by the shortest chain of foreign keys; the\nfurther ones are looked for in the database of the first.\n\n" +
			"Examples:\n  echo-atlas template insert quay-live/berths/mooring\n  echo-atlas template join quay-live/berths/mooring harbour",
		Action: a.template,
	}
}

type templated struct {
	Verb    string `json:"verb"`
	Address string `json:"address"`
	Text    string `json:"text"`
	Guessed bool   `json:"guessed,omitempty"`
}

func (a *app) template(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	verb, texts := cmd.Args().First(), cmd.Args().Tail()
	switch {
	case verb != "join" && !slices.Contains(template.Verbs, verb):
		return usagef("template takes a VERB, one of %s, join, and then an ADDRESS; see: echo-atlas template --help", strings.Join(template.Verbs, ", "))
	case verb == "join" && len(texts) < 2:
		return usagef("template join takes two tables or more")
	case verb != "join" && len(texts) != 1:
		return usagef("template %s takes one ADDRESS", verb)
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	var matches []*address.Match
	for _, text := range texts {
		parsed, err := address.Parse(text)
		if err != nil {
			return err
		}
		var m *address.Match
		if len(matches) > 0 {
			m = beside(ctx, r, parsed, matches[0])
		}
		if m == nil {
			if m, err = r.Object(ctx, parsed); err != nil {
				return err
			}
		}
		if len(matches) > 0 && m.Contents.Snapshot.ID != matches[0].Contents.Snapshot.ID {
			return usagef("%s and %s are in different databases; a statement joins tables of one", matches[0].Location(), m.Location())
		}
		matches = append(matches, m)
	}
	t := matches[0].Contents
	e, err := a.Engines.Named(t.Snapshot.Engine)
	if err != nil {
		return err
	}
	var all []templated
	if verb == "join" {
		var tables []*catalogue.Entry
		for _, m := range matches {
			tables = append(tables, m.Entry)
		}
		joins, err := template.Joins(ctx, c, e, t, tables)
		if err != nil {
			return &exitError{exitUsage, err}
		}
		for _, j := range joins {
			all = append(all, templated{verb, matches[0].Location().String(), j.Text, j.Guessed})
		}
	} else {
		o, err := c.Object(ctx, matches[0].Entry)
		if err != nil {
			return err
		}
		text, err := template.Write(e, verb, o, matches[0].Part)
		if err != nil {
			return &exitError{exitUsage, err}
		}
		all = append(all, templated{verb, matches[0].Location().String(), text, false})
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"templates": all, "sources": a.sources([]*catalogue.Snapshot{t.Snapshot})})
	}
	for i, x := range all {
		if i > 0 {
			a.printf("\n-- or\n")
		}
		a.printf("%s;\n", render.VisibleLines(x.Text))
	}
	return nil
}

// beside returns the only thing in the database of first that an address fits, nil if that is not so: the
// further tables of a join need not repeat where the first is.
func beside(ctx context.Context, r *address.Resolver, parsed address.Address, first *address.Match) *address.Match {
	var all []address.Match
	var err error
	if len(parsed.Outer) == 0 && parsed.Path == "" {
		all, err = r.Inside(ctx, first.Contents, parsed)
	} else {
		all, err = r.All(ctx, parsed)
	}
	if err != nil {
		return nil // Object tells what is wrong, with near names
	}
	all = slices.DeleteFunc(all, func(m address.Match) bool {
		return m.Entry == nil || m.Contents.Snapshot.ID != first.Contents.Snapshot.ID
	})
	if len(all) != 1 {
		return nil
	}
	return &all[0]
}
