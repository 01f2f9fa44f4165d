package cli

// Answers rest on snapshots. Where one is too old for what was asked, its server is surveyed before.

import (
	"context"
	"fmt"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/survey"
)

func freshFlag() cli.Flag {
	return &cli.BoolFlag{Name: "fresh", Usage: "read the servers anew first"}
}

func maxAgeFlag() cli.Flag {
	return durationFlag("max-age", "read those servers anew first whose last reading is older than this `AGE`, such as 1h or 1d", "")
}

// refresh reads servers anew as --fresh and --max-age ask: those that the addresses name, or all. What
// fails is told; the answer then rests on the last reading, and its age is shown.
func (a *app) refresh(ctx context.Context, c *catalogue.Catalogue, cmd *cli.Command) error {
	fresh := cmd.Bool("fresh")
	limit, err := duration(cmd, "max-age")
	if err != nil {
		return err
	}
	if !fresh && limit <= 0 {
		return nil
	}
	if err := a.beforeConnecting(); err != nil {
		return err
	}
	latest, err := c.Latest(ctx)
	if err != nil {
		return err
	}
	oldest := map[string]time.Time{}
	for _, s := range latest {
		if at, ok := oldest[s.Server]; !ok || s.Taken.Before(at) {
			oldest[s.Server] = s.Taken
		}
	}
	var targets []survey.Target
	for _, s := range a.concerned(cmd) {
		at, known := oldest[s.Name]
		if fresh || !known || a.Now().Sub(at) > limit {
			targets = append(targets, survey.Target{Server: s, Trusted: a.cfg.Trusted})
		}
	}
	progress := newProgress(a.Stderr)
	s := survey.Surveyor{Engines: a.Engines, Catalogue: c, Jobs: 4, Timeout: 10 * time.Second, Client: clientName, Log: a.log(), Progress: progress.event}
	results := s.Run(ctx, targets)
	progress.close()
	for _, r := range results {
		if r.Err != nil {
			a.stale = true
			where := schema.Location{Server: r.Server, Database: r.Database}.String()
			fmt.Fprintf(a.Stderr, "not read anew: %s: %s\n", render.Visible(where), render.VisibleLines(r.Err.Error()))
		}
	}
	return ctx.Err()
}

// concerned returns the configured servers that the arguments name in front, all if they name none.
func (a *app) concerned(cmd *cli.Command) []config.Server {
	var chosen []config.Server
	texts := append(cmd.Args().Slice(), values(cmd, "in")...)
	if expanded, err := a.cfg.Expand(texts); err == nil { // else the command itself will say so
		texts = expanded
	}
	for _, s := range a.cfg.Servers {
		for _, text := range texts {
			parsed, err := address.Parse(text)
			if err != nil {
				continue
			}
			first := append(parsed.Outer, parsed.Names...)
			if len(first) == 0 {
				continue
			}
			if matches, _ := first[0].Matches(s.Name); matches {
				chosen = append(chosen, s)
				break
			}
		}
	}
	if len(chosen) == 0 {
		return a.cfg.Servers
	}
	return chosen
}
