package cli

// The command report: ready-made questions over the catalogue, each answered in the same forms.

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/report"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/core/view"
)

// reports are the ready-made ones, each with what it tells.
var reports = []struct{ name, about string }{
	{"broken", "definitions that refer to what does not exist, and objects that the server calls invalid"},
	{"unused", "views, routines, sequences and types that nothing in their database uses; programs outside may"},
	{"cycles", "objects that depend on each other in a circle"},
}

func (a *app) reportCommand() *cli.Command {
	return &cli.Command{
		Name:      "report",
		Usage:     "ready-made questions over the catalogue",
		ArgsUsage: "[NAME [ADDRESS…]]",
		Description: "Without NAME the reports are listed; without ADDRESS a report is about everything.\n\nExamples:\n  echo-atlas report\n" +
			"  echo-atlas report broken quay-live\n  echo-atlas report unused quay-live/berths --kind view\n  echo-atlas report cycles --as json",
		Flags:  []cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), limitFlag(1000)},
		Action: a.report,
	}
}

// finding is a row of a report.
type finding struct {
	place
	Reason string `json:"reason,omitempty"`
	Line   int    `json:"line,omitempty"`
	Text   string `json:"text,omitempty"`
	Circle int    `json:"circle,omitempty"` // which circle it is part of

	name string // within its database
}

func (a *app) report(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown"); err != nil {
		return err
	}
	if cmd.Args().Len() == 0 {
		t := render.Table{Columns: []render.Column{{Title: "report"}, {Title: "tells", Min: 20, Wrap: true}}}
		list := []map[string]string{}
		for _, r := range reports {
			t.Add(r.name, r.about)
			list = append(list, map[string]string{"name": r.name, "about": r.about})
		}
		if a.as == "json" {
			return render.JSON(a.Stdout, map[string]any{"reports": list})
		}
		return a.table(&t)
	}
	name := cmd.Args().First()
	known := make([]string, len(reports))
	for i, r := range reports {
		known[i] = r.name
	}
	if !slices.Contains(known, name) {
		return usagef("there is no report %q%s; there are %s", name, nearWord(name, known), strings.Join(known, ", "))
	}
	wanted, err := kinds(cmd)
	if err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	matches, err := a.selection(ctx, r, cmd.Args().Tail())
	if err != nil {
		return err
	}
	findings := []finding{}
	var sources []*catalogue.Snapshot
	for _, s := range selection.Gather(matches) {
		if len(s.Contents.Entries) == 0 { // an outline
			if s.Contents, err = c.Contents(ctx, s.Contents.Snapshot); err != nil {
				return err
			}
		}
		sources = append(sources, s.Contents.Snapshot)
		found, err := a.findings(ctx, c, name, s)
		if err != nil {
			return err
		}
		findings = append(findings, slices.DeleteFunc(found, func(f finding) bool { return len(wanted) > 0 && !slices.Contains(wanted, schema.Kind(f.Kind)) })...)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: sources, References: true, Everywhere: cmd.Args().Len() == 1})
	if err != nil {
		return err
	}
	return a.writeReport(name, findings, sources, unseen, int(cmd.Int("limit")))
}

// findings returns the rows of a report for one database.
func (a *app) findings(ctx context.Context, c *catalogue.Catalogue, name string, s *selection.Set) ([]finding, error) {
	t := s.Contents
	row := func(e *catalogue.Entry) finding {
		return finding{place: addressOf(t.Snapshot.Locate(e.ID, "", "")), name: e.ID.String()}
	}
	var all []finding
	switch name {
	case "broken":
		found, err := report.FindBroken(ctx, c, t)
		if err != nil {
			return nil, err
		}
		engine := a.engineOf(t.Snapshot)
		for _, b := range found {
			if !s.Covers(b.Entry.ID) {
				continue
			}
			f := row(b.Entry)
			if b.Dependency == nil {
				f.Reason = strings.TrimSuffix("invalid: "+b.Said, ": yes")
			} else {
				o, err := c.Object(ctx, b.Entry)
				if err != nil {
					return nil, err
				}
				p := trace.PlaceIn(o, view.Definition(o, engine), b.Dependency)
				f.Reason, f.Line, f.Text = b.Dependency.To.ID.String()+" does not exist here", p.Line, p.Text
			}
			all = append(all, f)
		}
	case "unused":
		found, err := report.FindUnused(ctx, c, t)
		if err != nil {
			return nil, err
		}
		for _, e := range found {
			if s.Covers(e.ID) {
				all = append(all, row(e))
			}
		}
	case "cycles":
		found, err := report.FindCycles(ctx, c, t)
		if err != nil {
			return nil, err
		}
		for i, set := range found {
			if !slices.ContainsFunc(set, func(e *catalogue.Entry) bool { return s.Covers(e.ID) }) {
				continue
			}
			for _, e := range set {
				f := row(e)
				f.Circle = i + 1
				all = append(all, f)
			}
		}
	}
	return all, nil
}

func (a *app) writeReport(name string, findings []finding, sources []*catalogue.Snapshot, unseen []gaps.Gap, limit int) error {
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"report": name, "objects": findings, "total": len(findings), "sources": a.sources(sources), "unseen": a.unseenJSON(unseen)})
	}
	t := render.Table{Columns: []render.Column{{Title: "kind"}, {Title: "database"}, {Title: "name"}}}
	switch name {
	case "broken":
		t.Columns = append(t.Columns, render.Column{Title: "line", Right: true}, render.Column{Title: "why", Min: 20, Wrap: true})
	case "cycles":
		t.Columns = append(t.Columns, render.Column{Title: "circle", Right: true})
	}
	shown := findings
	if a.as == "text" && limit > 0 && len(shown) > limit {
		shown = shown[:limit]
	}
	for _, f := range shown {
		cells := []string{string(f.Kind), names.Quote(f.Server) + "/" + names.Quote(f.Database), f.name}
		switch name {
		case "broken":
			line := ""
			if f.Line > 0 {
				line = fmt.Sprint(f.Line)
			}
			cells = append(cells, line, f.Reason)
		case "cycles":
			cells = append(cells, fmt.Sprint(f.Circle))
		}
		t.Add(cells...)
	}
	if a.as != "text" {
		a.unseenBeside(unseen)
		return a.table(&t)
	}
	if len(shown) > 0 {
		if err := a.table(&t); err != nil {
			return err
		}
		a.printf("\n")
	}
	what := map[string]string{"broken": "is broken", "unused": "is unused", "cycles": "depends on itself in a circle"}[name]
	switch {
	case len(findings) == 0:
		a.printf("%s %s.\n", nothing(len(unseen) > 0), what)
	case len(shown) < len(findings):
		a.printf("%s, %s shown; for all add --limit 0\n", render.Plural(len(findings), "object", "objects"), render.Count(len(shown)))
	default:
		a.printf("%s\n", render.Plural(len(findings), "object", "objects"))
	}
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(sources)))
	a.unseen(unseen)
	return nil
}
