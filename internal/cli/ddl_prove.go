package cli

// ddl --prove: the script is tried in a scratch database before anybody sees it.

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/prove"
	"echo-atlas/internal/core/survey"
)

// optional is the value of a flag that may stand alone or with a value behind =.
type optional struct {
	given bool
	value string
}

func (o *optional) Set(s string) error {
	o.given = s != "false"
	if s != "true" && s != "false" {
		o.value = s
	}
	return nil
}

func (o *optional) String() string { return o.value }

// Get returns the flag itself.
func (o *optional) Get() any { return o }

// IsBoolFlag says that the flag may stand alone.
func (o *optional) IsBoolFlag() bool { return true }

func proveFlag() cli.Flag {
	return &cli.GenericFlag{Name: "prove", Usage: "run the script in a scratch database first and compare what comes of it; --prove=`NAME` chooses one of [scratch]", Value: &optional{}}
}

// proving returns whether a proof is asked for, and the name of the scratch server, "" for the only one.
func proving(cmd *cli.Command) (name string, wanted bool) {
	if o, ok := cmd.Generic("prove").(*optional); ok && o.given {
		return o.value, true
	}
	return "", false
}

// scratch returns where the scripts of an engine are tried.
func (a *app) scratch(e engine.Engine, name string) (engine.Target, error) {
	if _, ok := e.(engine.Builder); !ok {
		return engine.Target{}, prove.ErrNoScratch
	}
	if e.Name() == "sqlite" {
		if name != "" {
			return engine.Target{}, usagef("--prove: a script for SQLite is tried in a temporary file, and not in a scratch server %q; write --prove alone", name)
		}
		return engine.Target{Trusted: true, Client: clientName, Log: a.log()}, nil
	}
	var fits, all []string
	for _, s := range a.cfg.Scratch {
		all = append(all, s.Name)
		of, err := a.Engines.ForURL(s.URL)
		if name != "" && s.Name != name || err != nil {
			continue
		}
		if scheme, _, _ := strings.Cut(s.URL, ":"); of.Name() != e.Name() && !slices.Contains(e.Schemes(), strings.ToLower(scheme)) {
			if name != "" {
				return engine.Target{}, usagef("--prove: scratch %s is %s, and the script is for %s", name, of.Name(), e.Name())
			}
			continue
		}
		fits = append(fits, s.Name)
		if len(fits) > 1 {
			return engine.Target{}, usagef("--prove: there are several for %s; choose one: --prove=%s or --prove=%s", e.Name(), fits[0], fits[1])
		}
	}
	if len(fits) == 0 {
		known := "it has none"
		if len(all) > 0 {
			known = "it has " + strings.Join(all, ", ")
		}
		return engine.Target{}, usagef("--prove: the configuration names no server for it: [scratch.NAME] with a url for %s; %s", e.Name(), known)
	}
	if !a.cfg.Trusted {
		return engine.Target{}, usagef("--prove writes on the server that this configuration names; look at it, then run: echo-atlas servers trust")
	}
	for _, s := range a.cfg.Scratch {
		if s.Name == fits[0] {
			server := config.Server{Name: s.Name, URL: s.URL, PasswordEnv: s.PasswordEnv, PasswordCommand: s.PasswordCommand}
			return engine.Target{URL: s.URL, Trusted: true, Client: clientName, Log: a.log(), Password: survey.Password(survey.Target{Server: server, Trusted: true})}, nil
		}
	}
	return engine.Target{}, nil
}

// prove runs a script in a scratch database, and says on stderr what came of it.
func (a *app) prove(ctx context.Context, c *catalogue.Catalogue, of choice, o ddl.Options, name, heading string) (*prove.Proof, error) {
	e, err := a.Engines.Named(of.contents.Snapshot.Engine)
	if err != nil {
		return nil, err
	}
	if len(o.Rename.Containers)+len(o.Rename.Owners) > 0 || o.Drop || o.For != nil {
		return nil, usagef("--prove compares what is made with what was read; leave out --rename, --drop and --for")
	}
	target, err := a.scratch(e, name)
	if errors.Is(err, prove.ErrNoScratch) {
		return nil, &exitError{exitUnreadable, fmt.Errorf("not proved: %w (%s); of the script it is known that its statements stand in an order in which each finds what it needs, and nothing was run", err, e.Name())}
	}
	if err != nil {
		return nil, err
	}
	last := 0
	p, err := prove.Run(ctx, prove.Job{Catalogue: c, Engine: e, Target: target, Contents: of.contents, Entries: of.entries, Options: o, Progress: func(done, all int) {
		if tenth := done * 10 / all; tenth > last && all > 500 {
			last = tenth
			fmt.Fprintf(a.Stderr, "proving: %d of %d statements\n", done, all)
		}
	}})
	var failed *prove.StatementError
	if errors.As(err, &failed) {
		first, _, _ := strings.Cut(failed.Text, "\n")
		said := fmt.Sprintf("not proved: statement %d failed, line %d of the script, about %s: %v\n  %s", failed.Number, strings.Count(heading, "\n")+failed.Line, failed.Subject.Qualified(), failed.Said, first)
		if !o.WithNeeds {
			said += "\nnothing but the selection is in the script; --with-needs brings what it needs"
		}
		return nil, &exitError{exitUnreadable, errors.New(render.VisibleLines(said))}
	}
	if err != nil {
		return nil, fmt.Errorf("proving the script: %w", err)
	}
	return p, a.proofSaid(p, "proved: recreated exactly, "+render.Plural(p.Statements, "statement", "statements")+" in "+p.Took.Round(10_000_000).String())
}

// proofSaid says on stderr what came of a proof; the error is that of a difference.
func (a *app) proofSaid(p *prove.Proof, exact string) error {
	if len(p.Missing) > 0 {
		fmt.Fprintf(a.Stderr, "the scratch server does not have %s; owners and rights were left out of the proof\n", render.Visible(strings.Join(p.Missing, ", ")))
	}
	if n := len(p.LeftOut); n > 0 {
		fmt.Fprintf(a.Stderr, "not part of the proof, because it is not known or would act by itself there: %s", render.Visible(p.LeftOut[0].Qualified()))
		if n > 1 {
			fmt.Fprintf(a.Stderr, " and %d more", n-1)
		}
		fmt.Fprintln(a.Stderr)
	}
	if p.Exact() {
		fmt.Fprintln(a.Stderr, exact)
		return nil
	}
	fmt.Fprintf(a.Stderr, "the script runs, and what it makes differs:\n")
	for _, x := range p.Result.Objects {
		fmt.Fprintf(a.Stderr, "  %s %s\n", x.Change, render.Visible(x.ID.Qualified()))
		for _, d := range x.Properties {
			text := func(s *string) string {
				if s == nil {
					return "none"
				}
				return *s
			}
			fmt.Fprintf(a.Stderr, "    %s: %s, made %s\n", render.Visible(d.Path), render.Visible(text(d.Old)), render.Visible(text(d.New)))
		}
	}
	return &exitError{code: exitDiffer}
}
