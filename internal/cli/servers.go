package cli

// The commands servers and servers check: what is configured, what was read of it, and what answers now.

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/survey"
)

func (a *app) serversCommand() *cli.Command {
	return &cli.Command{
		Name:        "servers",
		Usage:       "the configured servers, what is known of them and how old that is",
		Description: "Examples:\n  echo-atlas servers\n  echo-atlas servers check quay-live",
		Commands: []*cli.Command{{
			Name:        "check",
			Usage:       "try each connection; tells user, version and rights",
			ArgsUsage:   "[SERVER…]",
			Description: "Example:\n  echo-atlas servers check quay-live",
			Flags:       []cli.Flag{connectTimeoutFlag()},
			Action:      a.serversCheck,
		}, {
			Name:        "trust",
			Usage:       "let the configuration that lies in this folder, or a parent, use secrets",
			Description: "It shows what the configuration names. When its servers change, it has to be trusted again.\n\nExample:\n  echo-atlas servers trust",
			Action:      a.serversTrust,
		}},
		Action: a.servers,
	}
}

type serverRow struct {
	Name        string     `json:"name"`
	Engine      string     `json:"engine,omitempty"`
	Environment string     `json:"environment,omitempty"`
	Family      string     `json:"family,omitempty"`
	Configured  bool       `json:"configured"`
	URL         string     `json:"url,omitempty"`
	Databases   []string   `json:"databases"`
	LastRead    *time.Time `json:"last_read"`
	AgeSeconds  *int64     `json:"age_seconds"`
}

func (a *app) servers(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html"); err != nil {
		return err
	}
	if cmd.Args().Len() > 0 {
		if near := nearWord(cmd.Args().First(), []string{"check", "trust"}); near != "" {
			return usagef("servers has no command %q%s", cmd.Args().First(), near)
		}
		return usagef("servers takes no arguments; to try connections: echo-atlas servers check %s", cmd.Args().First())
	}
	c, err := a.look(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	latest, err := c.Latest(ctx)
	if err != nil {
		return err
	}
	rows := []*serverRow{}
	byName := map[string]*serverRow{}
	for _, s := range a.cfg.Servers {
		target := engine.Display(s.URL)
		if s.Files != "" {
			target = engine.FileURL(s.Files)
		}
		row := &serverRow{Name: s.Name, Environment: s.Environment, Family: s.Family, Configured: true, URL: target, Databases: []string{}}
		if e, err := a.Engines.ForURL(target); err == nil {
			row.Engine = e.Name()
		}
		rows, byName[s.Name] = append(rows, row), row
	}
	for _, s := range latest {
		row := byName[s.Server]
		if row == nil {
			row = &serverRow{Name: s.Server, Engine: s.Engine, Environment: s.Environment, Family: s.Family}
			rows, byName[s.Server] = append(rows, row), row
		}
		row.Databases = append(row.Databases, s.Database)
		if row.LastRead == nil || s.Taken.Before(*row.LastRead) {
			taken, age := s.Taken, int64(a.Now().Sub(s.Taken).Seconds())
			row.LastRead, row.AgeSeconds = &taken, &age
		}
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"servers": rows})
	}
	t := render.Table{Columns: []render.Column{{Title: "server"}, {Title: "engine"}, {Title: "environment"}, {Title: "family"}, {Title: "databases", Min: 12}, {Title: "last read"}, {Title: "remark", Min: 10}}}
	for _, r := range rows {
		age, remark := "never", ""
		if r.LastRead != nil {
			age = render.Age(a.Now().Sub(*r.LastRead))
			if a.forMachines() {
				age = r.LastRead.Format(time.RFC3339)
			}
		}
		if !r.Configured {
			remark = "not in the configuration"
		}
		t.Add(r.Name, r.Engine, r.Environment, r.Family, strings.Join(r.Databases, ", "), age, remark)
	}
	if len(rows) == 0 {
		a.printf("No servers are known. Write %s (see docs/configuration.md), or run: echo-atlas demo\n", config.FileName)
		return nil
	}
	return a.table(&t)
}

type checkRow struct {
	Server    string          `json:"server"`
	Target    string          `json:"target"`
	OK        bool            `json:"ok"`
	Engine    string          `json:"engine,omitempty"`
	Version   string          `json:"version,omitempty"`
	User      string          `json:"user,omitempty"`
	ReadOnly  string          `json:"read_only,omitempty"`
	Rights    []string        `json:"rights,omitempty"`
	Databases []string        `json:"databases,omitempty"`
	LeftOut   []string        `json:"left_out,omitempty"` // by databases and skip
	Idle      []string        `json:"idle,omitempty"`     // what the configuration says to no effect
	Hidden    []schema.Remark `json:"hidden,omitempty"`
	Error     string          `json:"error,omitempty"`
}

func (a *app) serversCheck(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	targets, err := a.targets(cmd)
	if err != nil {
		return err
	}
	timeout, err := duration(cmd, "connect-timeout")
	if err != nil {
		return err
	}
	s := survey.Surveyor{Engines: a.Engines}
	rows := []checkRow{}
	failed := false
	for _, t := range targets {
		urls, err := s.URLs(t.Server)
		if err != nil {
			rows, failed = append(rows, checkRow{Server: t.Server.Name, Target: t.Server.Files, Error: err.Error()}), true
			continue
		}
		for _, u := range urls {
			row := a.check(ctx, t, u, timeout)
			failed = failed || !row.OK
			rows = append(rows, row)
		}
	}
	if a.as == "json" {
		err = render.JSON(a.Stdout, map[string]any{"servers": rows})
	} else {
		a.checkText(rows)
	}
	if err == nil && failed {
		err = &exitError{code: exitUnreadable}
	}
	return err
}

func (a *app) check(ctx context.Context, t survey.Target, u string, limit time.Duration) checkRow {
	row := checkRow{Server: t.Server.Name, Target: engine.Display(u)}
	fail := func(err error) checkRow {
		row.Error = err.Error()
		return row
	}
	e, err := a.Engines.ForURL(u)
	if err != nil {
		return fail(err)
	}
	row.Engine = e.Name()
	session, err := survey.Connect(ctx, e, t, u, survey.Options{Connect: limit, Client: clientName}, a.log())
	if err != nil {
		return fail(err)
	}
	defer session.Close()
	info := session.Info()
	row.Version, row.User, row.ReadOnly, row.Rights = info.Version, info.User, info.ReadOnly, info.Rights
	names, hidden, err := session.Databases(ctx)
	if err != nil {
		return fail(err)
	}
	row.Hidden = hidden
	row.Databases = survey.Chosen(t.Server, names)
	for _, n := range names {
		if !slices.Contains(row.Databases, n) {
			row.LeftOut = append(row.LeftOut, n)
		}
	}
	if t.Server.Files == "" {
		row.Idle = survey.Idle(t.Server, names, hidden)
	}
	for _, n := range row.Databases {
		more, err := session.Hidden(ctx, n)
		if err != nil {
			return fail(err)
		}
		for _, k := range more {
			k.Subject = n
			row.Hidden = append(row.Hidden, k)
		}
	}
	row.OK = true
	return row
}

// byReason puts together the remarks of several databases that say the same.
func byReason(all []schema.Remark) []schema.Remark {
	var merged []schema.Remark
	for _, k := range all {
		i := slices.IndexFunc(merged, func(m schema.Remark) bool { return m.State == k.State && m.Reason == k.Reason })
		if i < 0 {
			merged = append(merged, k)
		} else {
			merged[i].Subject += ", " + k.Subject
		}
	}
	return merged
}

func (a *app) checkText(rows []checkRow) {
	for i, r := range rows {
		if i > 0 {
			a.printf("\n")
		}
		state := a.paint.Text(render.Good, "answers")
		if !r.OK {
			state = a.paint.Text(render.Bad, "failed")
		}
		a.printf("%s  %s  %s\n", a.paint.Text(render.Title, render.Visible(r.Server)), state, render.Visible(r.Target))
		if r.Error != "" {
			width := 0
			if a.width > 0 {
				width = a.width - 2
			}
			a.printf("  %s\n", render.Wrap(render.Visible(r.Error), width, "  "))
			continue
		}
		user := ""
		if r.User != "" {
			user = " as " + render.Visible(r.User)
		}
		a.printf("  %s%s; %s\n", render.Visible(r.Version), user, r.ReadOnly)
		if len(r.Rights) > 0 {
			a.printf("  rights: %s\n", render.Visible(strings.Join(r.Rights, ", ")))
		}
		width := max(0, a.width-4)
		a.printf("  databases: %s\n", render.Wrap(render.Visible(cmp.Or(strings.Join(r.Databases, ", "), "none")), width, "    "))
		if len(r.LeftOut) > 0 {
			a.printf("  left out by the configuration: %s\n", render.Wrap(render.Visible(strings.Join(r.LeftOut, ", ")), width, "    "))
		}
		for _, text := range r.Idle {
			a.printf("  %s\n", render.Wrap(render.Visible(text), width, "    "))
		}
		for _, h := range byReason(r.Hidden) {
			a.printf("  %s\n", a.remark(h))
		}
	}
}
