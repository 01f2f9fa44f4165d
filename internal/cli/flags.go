package cli

// Flags that several commands have mean the same everywhere, so they are made in one place.

import (
	"context"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
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
	return &cli.StringSliceFlag{Name: "without", Usage: "leave out an `ASPECT`: comments, owners, grants, storage; several with commas"}
}

func bareFlag() cli.Flag {
	return &cli.BoolFlag{Name: "bare", Usage: "a table without its indexes, triggers, policies and rules"}
}

// aspects returns the aspects that --without names.
func aspects(cmd *cli.Command) ([]schema.Aspect, error) {
	all, err := schema.ParseAspects(values(cmd, "without"))
	if err != nil {
		return nil, usagef("--without: %v", err)
	}
	return all, nil
}

// values returns the values of a flag that may be given several times and hold commas.
func values(cmd *cli.Command, name string) []string {
	var all []string
	for _, v := range cmd.StringSlice(name) {
		for _, part := range schema.SplitList(v) {
			if part != "" {
				all = append(all, part)
			}
		}
	}
	return all
}

// kinds returns the kinds that --kind names.
func kinds(cmd *cli.Command) ([]schema.Kind, error) {
	return kindsOf(values(cmd, "kind"))
}

func kindsOf(words []string) ([]schema.Kind, error) {
	var all []schema.Kind
	for _, word := range words {
		k, ok := schema.ParseKind(word)
		if !ok {
			var known []string
			for _, k := range append(schema.ObjectKinds(), schema.PartKinds()...) {
				known = append(known, string(k))
			}
			if near := nearWord(word, known); near != "" {
				return nil, usagef("--kind: %q is no kind%s", word, near)
			}
			return nil, usagef("--kind: %q is no kind; the kinds are %s", word, kindWords())
		}
		all = append(all, k)
	}
	return all, nil
}

// nearWord offers the nearest of some words, "" if none is near.
func nearWord(word string, known []string) string {
	best, distance := "", max(1, (len(word)+1)/3)+1
	for _, k := range known {
		if d := names.EditDistance(names.Fold(word), k, distance); d < distance {
			best, distance = k, d
		}
	}
	if best == "" {
		return ""
	}
	return "; did you mean " + best + "?"
}

func kindWords() string {
	var words []string
	for _, k := range append(schema.ObjectKinds(), schema.PartKinds()...) {
		words = append(words, string(k))
	}
	return strings.Join(words, ", ")
}

// scope resolves the addresses of --in.
func (a *app) scope(ctx context.Context, r *address.Resolver, cmd *cli.Command) ([]address.Match, error) {
	return a.resolveAll(ctx, r, values(cmd, "in"))
}

// resolveAll resolves addresses, each to everything that it fits.
func (a *app) resolveAll(ctx context.Context, r *address.Resolver, texts []string) ([]address.Match, error) {
	var all []address.Match
	texts, err := a.cfg.Expand(texts)
	if err != nil {
		return nil, usagef("%v", err)
	}
	for _, text := range texts {
		parsed, err := address.Parse(text)
		if err != nil {
			return nil, err
		}
		matches, err := r.All(ctx, parsed)
		if err != nil {
			return nil, fileMeant(text, err)
		}
		all = append(all, matches...)
	}
	return all, nil
}

// fileMeant says of an address that fits nothing, but is the name of a file, how an exported snapshot is named.
func fileMeant(text string, err error) error {
	if err == nil || strings.ContainsAny(text, "@:") {
		return err
	}
	path, _, _ := strings.Cut(text, "/")
	if st, statErr := os.Stat(path); statErr != nil || st.IsDir() && !exists(filepath.Join(path, "snapshot.json")) {
		return err
	}
	return usagef("%v\n%s is a file here; an exported snapshot is named by a path that starts with ./: ./%s", err, path, text)
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

// object opens the catalogue and resolves the only argument of a command to an object or a part.
func (a *app) object(ctx context.Context, cmd *cli.Command, forms ...string) (*catalogue.Catalogue, *address.Match, error) {
	return a.objectBy(ctx, cmd, func(r *address.Resolver) { r.Ahead = true }, forms...)
}

// objectBy is like object; prepare tells the resolver what will be asked of it.
func (a *app) objectBy(ctx context.Context, cmd *cli.Command, prepare func(*address.Resolver), forms ...string) (*catalogue.Catalogue, *address.Match, error) {
	if err := a.form(append([]string{"text", "json"}, forms...)...); err != nil {
		return nil, nil, err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return nil, nil, err
	}
	prepare(r)
	m, err := func() (*address.Match, error) {
		texts, err := a.cfg.Expand(cmd.Args().Slice())
		if err != nil {
			return nil, usagef("%v", err)
		}
		if len(texts) != 1 {
			return nil, usagef("%s takes one ADDRESS, not %d; see: %s --help", cmd.Name, len(texts), cmd.FullName())
		}
		parsed, err := address.Parse(texts[0])
		if err != nil {
			return nil, err
		}
		m, err := r.Object(ctx, parsed)
		return m, fileMeant(texts[0], err)
	}()
	if err != nil {
		c.Close()
		return nil, nil, err
	}
	return c, m, nil
}

func connectTimeoutFlag() cli.Flag {
	return durationFlag("connect-timeout", "how long to wait for a connection, such as 5s", "10s")
}
