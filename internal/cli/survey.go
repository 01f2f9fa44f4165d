package cli

// The command survey: servers side by side, a line for each database when it is done, and what stayed unseen.

import (
	"cmp"
	"context"
	"fmt"
	"net/url"
	"os"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/survey"
)

// clientName is what servers show of a session to those who look at the list of them.
const clientName = "echo-atlas survey (read only)"

func (a *app) surveyCommand() *cli.Command {
	return &cli.Command{
		Name:      "survey",
		Usage:     "read every object of every database into new snapshots",
		ArgsUsage: "[SERVER…]",
		Description: "Without a SERVER all servers of the configuration are read, side by side.\n\n" +
			"Examples:\n  echo-atlas survey\n  echo-atlas survey quay-live --label \"before 4.2\"\n  echo-atlas survey --from sqlite:harbour.db --name harbour",
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "from", Usage: "read the server at this `URL`, which need not be configured"},
			&cli.StringFlag{Name: "name", Usage: "what to call the server of --from"},
			&cli.StringFlag{Name: "environment", Usage: "the environment of the server of --from, such as live"},
			&cli.StringFlag{Name: "family", Usage: "the family of the server of --from: which system it is, whatever the environment"},
			&cli.StringFlag{Name: "label", Usage: "a `LABEL` for the new snapshots"},
			&cli.IntFlag{Name: "jobs", Usage: "how many databases to read side by side", Value: 4},
			&cli.BoolFlag{Name: "system", Usage: "read the engine's own objects and those of extensions, too"},
			&cli.BoolFlag{Name: "show-queries", Usage: "print the SQL that would be sent, and send nothing"},
			connectTimeoutFlag(),
			durationFlag("answer-timeout", "how long a server may take over one answer, such as 90s or 5m", engine.Patience.String()),
		},
		Action: a.survey,
	}
}

// targets returns the servers that a command is about.
func (a *app) targets(cmd *cli.Command) ([]survey.Target, error) {
	chosen := cmd.Args().Slice()
	if from := cmd.String("from"); from != "" {
		if len(chosen) > 0 {
			return nil, usagef("--from reads one server; leave out %s", strings.Join(chosen, ", "))
		}
		return a.fromURL(config.Server{Name: cmd.String("name"), URL: from, Environment: cmd.String("environment"), Family: cmd.String("family")})
	}
	for _, option := range []string{"name", "environment", "family"} {
		if cmd.String(option) != "" {
			return nil, usagef("--%s goes with --from", option)
		}
	}
	if len(a.cfg.Servers) == 0 {
		return nil, usagef("no server is configured; write %s (see docs/configuration.md), or give one with --from URL", config.FileName)
	}
	if err := a.beforeConnecting(); err != nil {
		return nil, err
	}
	var targets []survey.Target
	taken := map[string]bool{}
	for _, name := range chosen {
		wanted := names.Name{Text: name}
		found := false
		for _, s := range a.cfg.Servers {
			if matches, _ := wanted.Matches(s.Name); matches {
				found = true
				if !taken[s.Name] {
					targets = append(targets, survey.Target{Server: s, Trusted: a.cfg.Trusted})
				}
				taken[s.Name] = true
			}
		}
		if !found {
			return nil, usagef("the configuration has no server %q; it has %s", name, strings.Join(a.serverNames(), ", "))
		}
	}
	if len(chosen) == 0 {
		for _, s := range a.cfg.Servers {
			targets = append(targets, survey.Target{Server: s, Trusted: a.cfg.Trusted})
		}
	}
	return targets, nil
}

func (a *app) serverNames() []string {
	var names []string
	for _, s := range a.cfg.Servers {
		names = append(names, s.Name)
	}
	return names
}

func (a *app) fromURL(from config.Server) ([]survey.Target, error) {
	e, err := a.Engines.ForURL(from.URL)
	if err != nil {
		if st, statErr := os.Stat(from.URL); statErr == nil && !st.IsDir() {
			return nil, usagef("%s is a file; to read it as an SQLite database write --from sqlite:%s, to store an exported snapshot: echo-atlas snapshots import %s", from.URL, from.URL, from.URL)
		}
		return nil, &exitError{exitUsage, err}
	}
	if from.Name == "" {
		from.Name = e.Database(from.URL)
		if u, err := url.Parse(from.URL); err == nil && u.Hostname() != "" {
			from.Name = u.Hostname()
		}
	}
	if from.Name == "" {
		return nil, usagef("give the server of --from a name with --name")
	}
	for _, s := range a.cfg.Servers {
		if s.Name == from.Name {
			return nil, usagef("the configuration already has a server %q; give another name with --name", s.Name)
		}
	}
	return []survey.Target{{Server: from, Trusted: true}}, nil
}

func (a *app) survey(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	targets, err := a.targets(cmd)
	if err != nil {
		return err
	}
	if cmd.Bool("show-queries") {
		return a.showQueries(targets)
	}
	if err := catalogue.CheckLabel(cmd.String("label")); err != nil {
		return err
	}
	timeout, err := duration(cmd, "connect-timeout")
	if err != nil {
		return err
	}
	patience, err := duration(cmd, "answer-timeout")
	if err != nil {
		return err
	}
	c, err := a.open(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	debug.SetGCPercent(200) // a survey lives long enough for its garbage to count
	started := time.Now()
	progress := newProgress(a.Stderr)
	s := survey.Surveyor{
		Engines: a.Engines, Catalogue: c, Jobs: int(cmd.Int("jobs")), Label: cmd.String("label"), Timeout: timeout, Patience: patience, System: cmd.Bool("system"), Client: clientName,
		Log: a.log(), Progress: progress.event,
	}
	results := s.Run(ctx, targets)
	progress.close()
	if a.as == "json" {
		err = render.JSON(a.Stdout, a.surveyJSON(results))
	} else {
		err = a.surveyText(results, time.Since(started))
	}
	if err != nil {
		return err
	}
	var worst error
	for _, r := range results {
		if r.Err != nil && (worst == nil || exitCode(r.Err) > exitCode(worst)) {
			worst = r.Err
		}
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if worst != nil {
		return &exitError{code: max(exitUnreadable, exitCode(worst))}
	}
	return nil
}

// showQueries prints what a survey of the targets would send, once for each engine.
func (a *app) showQueries(targets []survey.Target) error {
	type queries struct {
		Engine  string   `json:"engine"`
		Queries []string `json:"queries"`
	}
	var all []queries
	s := survey.Surveyor{Engines: a.Engines}
	for _, t := range targets {
		urls, err := s.URLs(t.Server)
		if err != nil {
			return err
		}
		e, err := a.Engines.ForURL(urls[0])
		if err != nil {
			return &exitError{exitUsage, err}
		}
		if !slices.ContainsFunc(all, func(q queries) bool { return q.Engine == e.Name() }) {
			all = append(all, queries{e.Name(), e.Queries()})
		}
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"engines": all})
	}
	for _, q := range all {
		a.printf("-- %s\n", q.Engine)
		for _, text := range q.Queries {
			a.printf("%s;\n\n", text)
		}
	}
	return nil
}

type surveyed struct {
	Address  string              `json:"address"`
	Engine   string              `json:"engine,omitempty"`
	Snapshot int64               `json:"snapshot,omitempty"`
	Counts   map[schema.Kind]int `json:"counts"`
	Changed  any                 `json:"changed"` // null for a first reading
	Warnings []schema.Remark     `json:"warnings"`
	Error    string              `json:"error,omitempty"`
	LastRead *time.Time          `json:"last_read,omitempty"` // of a database that failed
	Millis   int64               `json:"milliseconds"`
}

func (a *app) surveyJSON(results []survey.Result) any {
	list := []surveyed{}
	for _, r := range results {
		d := surveyed{Address: schema.Location{Server: r.Server, Database: r.Database}.String(), Engine: r.Engine, Counts: map[schema.Kind]int{},
			Warnings: []schema.Remark{}, Millis: r.Took.Milliseconds()}
		if r.Changes != nil {
			d.Changed = r.Changes
		}
		if r.Snapshot != nil {
			d.Snapshot, d.Counts, d.Warnings = r.Snapshot.ID, r.Snapshot.Counts, r.Snapshot.Remarks
		}
		if r.Err != nil {
			d.Error = r.Err.Error()
		}
		if r.Last != nil {
			d.LastRead = &r.Last.Taken
		}
		list = append(list, d)
	}
	return map[string]any{"databases": list}
}

func (a *app) surveyText(results []survey.Result, took time.Duration) error {
	t := render.Table{Columns: []render.Column{{Title: "server"}, {Title: "database", Min: 12}, {Title: "environment"}, {Title: "objects", Right: true},
		{Title: "since the last reading", Min: 12}, {Title: "took", Right: true}}}
	totals := map[schema.Kind]int{}
	read := 0
	for _, r := range results {
		row := []render.Cell{{Text: r.Server}, {Text: r.Database}, {Text: r.Environment}}
		if r.Err != nil {
			row = append(row, render.Cell{}, render.Cell{Text: "failed", Style: render.Bad})
		} else {
			read++
			n := 0
			for k, count := range r.Snapshot.Counts {
				n += count
				totals[k] += count
			}
			row = append(row, render.Cell{Text: render.Count(n)}, render.Cell{Text: sinceLast(r)})
		}
		t.AddCells(append(row, render.Cell{Text: render.Took(r.Took)})...)
	}
	if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
		return err
	}
	if read > 0 {
		a.printf("\n%s\n", render.Wrap(fmt.Sprintf("%s in %s: %s", render.Plural(read, "database", "databases"), render.Took(took), countWords(totals)), a.width, ""))
	}
	a.surveyRemarks(results)
	for _, r := range results {
		if r.Snapshot != nil && r.Snapshot.TakenFrom != nil {
			a.printf("\n%s: the label %s is taken from the reading of %s\n", render.Visible(r.Snapshot.Location().String()), render.Visible(r.Snapshot.Label),
				r.Snapshot.TakenFrom.Taken.Local().Format("2006-01-02 15:04"))
		}
		if r.Err == nil {
			continue
		}
		where := schema.Location{Server: r.Server, Database: r.Database}.String()
		a.printf("\n%s %s: %s\n", a.paint.Text(render.Bad, "failed"), render.Visible(where), render.VisibleLines(r.Err.Error()))
		if r.Last != nil {
			a.printf("  its last reading stays: %s\n", render.Age(a.Now().Sub(r.Last.Taken)))
		}
	}
	return nil
}

func sinceLast(r survey.Result) string {
	switch {
	case r.Changes == nil:
		return "first reading"
	case r.Same:
		return "nothing changed"
	}
	var parts []string
	for _, p := range []struct {
		n    int
		word string
	}{{r.Changes.Added, "added"}, {r.Changes.Removed, "removed"}, {r.Changes.Changed, "changed"}} {
		if p.n > 0 {
			parts = append(parts, fmt.Sprintf("%s %s", render.Count(p.n), p.word))
		}
	}
	return strings.Join(parts, ", ")
}

// countWords lists counts by kind: "15 tables, 6 views".
func countWords(counts map[schema.Kind]int) string {
	var all []schema.Kind
	for k := range counts {
		all = append(all, k)
	}
	slices.SortFunc(all, func(a, b schema.Kind) int { return cmp.Or(a.Rank()-b.Rank(), strings.Compare(string(a), string(b))) })
	var words []string
	for _, k := range all {
		words = append(words, render.Plural(counts[k], string(k), k.Plural()))
	}
	if len(words) == 0 {
		return "no objects"
	}
	return strings.Join(words, ", ")
}

// surveyRemarks tells what stayed unknown.
func (a *app) surveyRemarks(results []survey.Result) {
	const most = 8
	for _, r := range results {
		if r.Snapshot == nil || len(r.Snapshot.Remarks) == 0 {
			continue
		}
		a.printf("\n%s\n", render.Visible(r.Snapshot.Location().String()))
		for i, k := range r.Snapshot.Remarks {
			if i == most {
				a.printf("  … and %d more: echo-atlas survey --as json\n", len(r.Snapshot.Remarks)-most)
				break
			}
			a.printf("  %s\n", a.remark(k))
		}
	}
}

func (a *app) remark(k schema.Remark) string {
	s := k.State + "  "
	if k.Subject != "" {
		s += render.Visible(k.Subject) + ": "
	}
	width := a.width
	if width > 0 {
		width = max(20, width-12)
	}
	return render.Wrap(s+render.Visible(k.Reason), width, "          ")
}
