package cli

// What an answer could not know is said below it, in every form.

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// traits returns what is known of an engine.
func (a *app) traits(name string) engine.Traits {
	e, err := a.Engines.Named(name)
	if err != nil {
		return engine.Traits{}
	}
	return e.Traits()
}

// gaps returns what could change an answer.
func (a *app) gaps(ctx context.Context, c *catalogue.Catalogue, about gaps.Concern) ([]gaps.Gap, error) {
	about.Servers, about.Traits = a.serverNames(), a.traits
	return gaps.Of(ctx, c, about)
}

// gapWords says what was not seen, and what to do.
func (a *app) gapWords(g gaps.Gap) string {
	switch g.State {
	case gaps.Never:
		return "never read; run: echo-atlas survey " + names.Quote(g.Where.Server)
	case gaps.Unsearched:
		var kinds []string
		for _, k := range g.Kinds {
			kinds = append(kinds, k.Plural())
		}
		return fmt.Sprintf("the bodies of %s (%s) were not searched", render.Plural(g.Count, "routine", "routines"), strings.Join(kinds, ", "))
	case gaps.Elsewhere:
		return "other databases of the server, which may refer to this one, were not looked into"
	case gaps.Failed:
		if g.Subject == "" {
			return "the last reading failed: " + g.Reason
		}
	}
	if g.Subject != "" {
		return g.Subject + ": " + g.Reason
	}
	return g.Reason
}

// mostGaps is how many gaps are told below an answer.
const mostGaps = 5

// gapLines returns the gaps as lines, the last of them a count of the others.
func (a *app) gapLines(all []gaps.Gap) []string {
	var lines []string
	for i, g := range all {
		if i == mostGaps && len(all) > mostGaps+1 {
			lines = append(lines, fmt.Sprintf("and %d more: echo-atlas snapshots remarks", len(all)-i))
			break
		}
		line := string(g.State) + "  " + g.Where.String() + ": " + a.gapWords(g)
		lines = append(lines, render.Visible(strings.Join(strings.Fields(line), " ")))
	}
	return lines
}

// unseen says below an answer for people what it could not know.
func (a *app) unseen(all []gaps.Gap, more ...string) {
	if len(all)+len(more) == 0 {
		return
	}
	a.printf("\n%s\n", a.paint.Text(render.Notable, "not seen"))
	if len(more) > mostGaps {
		more = append(more[:mostGaps:mostGaps], fmt.Sprintf("and %d more", len(more)-mostGaps))
	}
	for _, line := range append(a.gapLines(all), more...) {
		a.printf("  %s\n", render.Wrap(line, max(0, a.width-2), "    "))
	}
}

// unseenBeside says on stderr what an answer for machines that has no room for it could not know.
func (a *app) unseenBeside(all []gaps.Gap) {
	for _, line := range a.gapLines(all) {
		fmt.Fprintf(a.Stderr, "not seen: %s\n", line)
	}
}

type unseenRow struct {
	State   gaps.State    `json:"state"`
	Address string        `json:"address"`
	Subject string        `json:"subject,omitempty"`
	Reason  string        `json:"reason"`
	Kinds   []schema.Kind `json:"kinds,omitempty"`
}

func (a *app) unseenJSON(all []gaps.Gap) []unseenRow {
	rows := []unseenRow{}
	for _, g := range all {
		reason := g.Reason
		if reason == "" {
			reason = a.gapWords(g)
		}
		rows = append(rows, unseenRow{g.State, g.Where.String(), g.Subject, reason, g.Kinds})
	}
	return rows
}

// snapshotRemarks prints what readings could not see, without reading anew.
func (a *app) snapshotRemarks(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	r.Deferred = true
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	var all []*catalogue.Snapshot
	for i := range matches {
		all = append(all, matches[i].Contents.Snapshot)
	}
	all = catalogue.Sources(all...)
	found, err := a.gaps(ctx, c, gaps.Concern{Snapshots: all, Everywhere: cmd.Args().Len() == 0})
	if err != nil {
		return err
	}
	type noted struct {
		Address string          `json:"address"`
		Remarks []schema.Remark `json:"remarks"`
	}
	list := []noted{}
	for _, s := range all {
		list = append(list, noted{s.Location().String(), append([]schema.Remark{}, s.Remarks...)})
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"databases": list, "unseen": a.unseenJSON(found), "sources": a.sources(all)})
	}
	said := false
	for _, n := range list {
		for i, k := range n.Remarks {
			if i == 0 {
				a.printf("%s\n", a.paint.Text(render.Title, render.Visible(n.Address)))
			}
			a.printf("  %s\n", a.remark(k))
			said = true
		}
	}
	for _, g := range found {
		if g.State == gaps.Never || g.State == gaps.Failed && g.Subject == "" {
			a.printf("%s: %s\n", a.paint.Text(render.Title, render.Visible(g.Where.String())), render.VisibleLines(a.gapWords(g)))
			said = true
		}
	}
	if !said {
		a.printf("Nothing stayed unseen.\n")
	}
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(all)))
	return nil
}
