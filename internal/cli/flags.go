package cli

import (
	"context"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

func kindFlag() cli.Flag {
	return &cli.StringSliceFlag{Name: "kind", Usage: "only objects or parts of this `KIND`, such as table, view, column; several with commas"}
}

func inFlag() cli.Flag {
	return &cli.StringSliceFlag{Name: "in", Usage: "only in what this `ADDRESS` covers"}
}

func limitFlag(usual int) cli.Flag {
	return &cli.IntFlag{Name: "limit", Usage: "at most `N` rows; 0 for all", Value: usual}
}

func withoutFlag() cli.Flag {
	return &cli.StringSliceFlag{Name: "without", Usage: "leave out an `ASPECT`: comments, owners; several with commas"}
}

// splitValue splits a value at commas that stand neither in double quotes nor in brackets.
func splitValue(s string) []string {
	var parts []string
	depth, quoted, start := 0, false, 0
	for i := range len(s) {
		switch c := s[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '(':
			depth++
		case c == ')':
			depth--
		case c == ',' && depth <= 0:
			parts = append(parts, strings.TrimSpace(s[start:i]))
			start = i + 1
		}
	}
	return append(parts, strings.TrimSpace(s[start:]))
}

// values returns the values of a flag that may be given several times and hold commas.
func values(cmd *cli.Command, name string) []string {
	var all []string
	for _, v := range cmd.StringSlice(name) {
		for _, part := range splitValue(v) {
			if part != "" {
				all = append(all, part)
			}
		}
	}
	return all
}

// kinds returns the kinds that --kind names.
func kinds(cmd *cli.Command) ([]schema.Kind, error) {
	var all []schema.Kind
	for _, word := range values(cmd, "kind") {
		k, ok := schema.ParseKind(word)
		if !ok {
			return nil, usagef("--kind: %q is no kind; the kinds are %s", word, kindWords())
		}
		all = append(all, k)
	}
	return all, nil
}

func kindWords() string {
	var words []string
	for _, k := range append(schema.ObjectKinds(), schema.PartKinds()...) {
		words = append(words, string(k))
	}
	return strings.Join(words, ", ")
}

// scope resolves the addresses of --in.
func scope(ctx context.Context, r *catalogue.Resolver, cmd *cli.Command) ([]catalogue.Match, error) {
	return resolveAll(ctx, r, values(cmd, "in"))
}

// resolveAll resolves addresses, each to everything that it fits.
func resolveAll(ctx context.Context, r *catalogue.Resolver, texts []string) ([]catalogue.Match, error) {
	var all []catalogue.Match
	for _, text := range texts {
		a, err := schema.ParseAddress(text)
		if err != nil {
			return nil, err
		}
		matches, err := r.All(ctx, a)
		if err != nil {
			return nil, err
		}
		all = append(all, matches...)
	}
	return all, nil
}

// object opens the catalogue and resolves the only argument of a command to an object or a part.
func (a *app) object(ctx context.Context, cmd *cli.Command) (*catalogue.Catalogue, *catalogue.Match, error) {
	if err := a.form("text", "json"); err != nil {
		return nil, nil, err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return nil, nil, err
	}
	m, err := func() (*catalogue.Match, error) {
		if cmd.Args().Len() != 1 {
			return nil, usagef("%s takes one ADDRESS, not %d; see: %s --help", cmd.Name, cmd.Args().Len(), cmd.FullName())
		}
		address, err := schema.ParseAddress(cmd.Args().First())
		if err != nil {
			return nil, err
		}
		return r.Object(ctx, address)
	}()
	if err != nil {
		c.Close()
		return nil, nil, err
	}
	return c, m, nil
}

func connectTimeoutFlag() cli.Flag {
	return &cli.DurationFlag{Name: "connect-timeout", Usage: "how long to wait for a connection", Value: 10 * time.Second}
}
