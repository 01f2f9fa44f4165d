// Package cli is the interface: flags in, core called, result rendered.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
)

// Version is the program's version.
const Version = "0.1.0"

// Environment is what the program finds around itself.
type Environment struct {
	Stdout, Stderr io.Writer
	Engines        engine.Registry
	Now            func() time.Time
}

// app holds what the commands share.
type app struct {
	Environment
	width int // of the terminal; 0: no limit
	paint render.Paint
	home  string
	cfg   *config.Config
	as    string
	title string // of a page: what was asked for

	verbose bool
	asked   bool // whether the configuration is trusted
	stale   bool // a fresh reading was asked for and failed
}

// Run runs the program with its arguments, the first its own name, and returns the exit code.
func Run(ctx context.Context, args []string, env Environment) int {
	var a *app
	var err error
	for range 4 {
		out := &counted{Writer: env.Stdout}
		a = &app{Environment: env, title: strings.Join(args[min(1, len(args)):], " ")}
		a.Stdout = out
		// What is read while snapshots are dropped is asked for once more, as long as nothing was answered.
		if err = a.root().Run(ctx, args); !errors.Is(err, catalogue.ErrDropped) || out.written {
			break
		}
	}
	if ctx.Err() != nil && err != nil {
		fmt.Fprintln(env.Stderr, "echo-atlas: interrupted; what was stored before stays")
		return exitInterrupted
	}
	var coded *exitError
	if err != nil && !(errors.As(err, &coded) && coded.err == nil) {
		fmt.Fprintf(env.Stderr, "echo-atlas: %s\n", render.VisibleLines(err.Error()+advice(err)))
	}
	if code := exitCode(err); code > exitDiffer || !a.stale {
		return code
	}
	return exitUnreadable
}

// counted remembers whether anything was written.
type counted struct {
	io.Writer
	written bool
}

func (c *counted) Write(b []byte) (int, error) {
	c.written = c.written || len(b) > 0
	return c.Writer.Write(b)
}

// file returns the file behind a writer, nil if there is none.
func file(w io.Writer) *os.File {
	if c, ok := w.(*counted); ok {
		w = c.Writer
	}
	f, _ := w.(*os.File)
	return f
}

func (a *app) root() *cli.Command {
	root := &cli.Command{
		Name:    "echo-atlas",
		Usage:   "a catalogue of every schema object on your database servers",
		Version: Version,
		Description: "Reads the schemas of PostgreSQL, MariaDB, MySQL and SQL Server and of SQLite files into a local catalogue, and\n" +
			"answers from there. It never changes a database that it catalogues.\n\nStart with: echo-atlas demo",
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "as", Usage: "the `FORM` of the answer: text, json, and where they make sense csv, xlsx, markdown, html, svg, png, dot, mermaid", Value: "text"},
			&cli.StringFlag{Name: "config", Usage: "the configuration `FILE`, instead of echo-atlas.toml here, in a parent or your configuration folder"},
			&cli.StringFlag{Name: "home", Usage: "the `FOLDER` of the catalogue", Sources: cli.EnvVars("ECHO_ATLAS_HOME")},
			&cli.StringFlag{Name: "color", Usage: "`WHEN` to use colour: auto, always, never", Value: "auto"},
			&cli.BoolFlag{Name: "verbose", Usage: "tell on stderr what is done and how long it takes"},
		},
		Commands: []*cli.Command{
			a.serversCommand(), a.surveyCommand(), a.listCommand(), a.treeCommand(), a.findCommand(), a.showCommand(), a.traceCommand(), a.reportCommand(), a.chartCommand(), a.handbookCommand(),
			a.ddlCommand(), a.formatCommand(), a.templateCommand(), a.diffCommand(), a.changeCommand(), a.driftCommand(), a.historyCommand(), a.snapshotsCommand(), a.demoCommand(),
			a.completionCommand(), a.completeCommand(), a.helpCommand(), a.versionCommand(),
		},
		Before:                    a.before,
		Writer:                    a.Stdout,
		ErrWriter:                 a.Stderr,
		ExitErrHandler:            func(context.Context, *cli.Command, error) {},
		DisableSliceFlagSeparator: true,
		HideHelpCommand:           true,
		Action:                    unknownCommand,
	}
	var finish func(c *cli.Command)
	finish = func(c *cli.Command) {
		c.OnUsageError = func(_ context.Context, cmd *cli.Command, err error, _ bool) error {
			return plainUsage(cmd, err)
		}
		c.DisableSliceFlagSeparator = true
		c.HideHelpCommand = true
		for _, sub := range c.Commands {
			finish(sub)
		}
	}
	finish(root)
	return root
}

func unknownCommand(_ context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() == 0 {
		return cli.ShowRootCommandHelp(cmd)
	}
	return noCommand(cmd.Root(), cmd.Args().First())
}

// before settles what all commands share.
func (a *app) before(ctx context.Context, cmd *cli.Command) (context.Context, error) {
	a.as, a.verbose = cmd.String("as"), cmd.Bool("verbose")
	switch cmd.String("color") {
	case "always":
		a.paint.On = true
	case "never":
		a.paint.On = false
	case "auto":
		a.paint.On = isTerminal(a.Stdout) && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
	default:
		return ctx, usagef("--color takes auto, always or never, not %q", cmd.String("color"))
	}
	a.width = terminalWidth(a.Stdout)
	a.home = cmd.String("home")
	path, trusted := cmd.String("config"), true
	if path == "" {
		here, err := os.Getwd()
		if err != nil {
			return ctx, fmt.Errorf("finding the working folder: %w", err)
		}
		user, err := os.UserConfigDir()
		if err != nil {
			user = "" // a user without a home has no configuration of their own
		}
		path, trusted = config.Find(here, user)
	}
	a.cfg = &config.Config{}
	if path != "" {
		cfg, err := config.Load(path, trusted)
		if err != nil {
			return ctx, &exitError{exitUsage, err}
		}
		a.cfg = cfg
		if err := a.trustConfig(); err != nil {
			return ctx, err
		}
	}
	if a.home == "" {
		a.home = a.cfg.Home
	}
	if a.home == "" {
		dir, err := dataFolder()
		if err != nil {
			return ctx, usagef("no place for the catalogue is known (%v); name one with --home", err)
		}
		a.home = dir
	}
	return ctx, nil
}

// dataFolder returns the user's data folder (XDG Base Directory Specification).
func dataFolder() (string, error) {
	if dir := os.Getenv("XDG_DATA_HOME"); filepath.IsAbs(dir) {
		return filepath.Join(dir, "echo-atlas"), nil
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(home, ".local", "share", "echo-atlas"), nil
}

func isTerminal(w io.Writer) bool {
	f := file(w)
	return f != nil && term.IsTerminal(int(f.Fd()))
}

// terminalWidth returns the width to fit, 0 for none: what goes into a file or a pipe is not cut,
// unless COLUMNS says so.
func terminalWidth(w io.Writer) int {
	if n, err := strconv.Atoi(os.Getenv("COLUMNS")); err == nil && n > 0 {
		return max(n, 20)
	}
	if f := file(w); f != nil {
		if n, _, err := term.GetSize(int(f.Fd())); err == nil && n > 0 {
			return n
		}
	}
	return 0
}

// open opens the catalogue.
func (a *app) open(ctx context.Context) (*catalogue.Catalogue, error) {
	c, err := catalogue.Open(ctx, a.home)
	if err == nil {
		c.Pairing, c.Called = a.cfg.Counterpart, a.Engines.Called
		a.tellNarrowed(c)
	}
	return c, err
}

func (a *app) tellNarrowed(c *catalogue.Catalogue) {
	if c.Narrowed {
		fmt.Fprintf(a.Stderr, "echo-atlas: others could enter the catalogue's folder %s; now only you can\n", render.Visible(a.home))
	}
}

// look opens the catalogue for reading alone: where there is none, none is made.
func (a *app) look(ctx context.Context) (*catalogue.Catalogue, error) {
	c, err := catalogue.Look(ctx, a.home)
	if err == nil {
		c.Pairing, c.Called = a.cfg.Counterpart, a.Engines.Called
		a.tellNarrowed(c)
	}
	return c, err
}

// resolver opens the catalogue for looking things up, after reading anew what --fresh and --max-age of
// the command ask for. The catalogue has to be closed.
func (a *app) resolver(ctx context.Context, cmd *cli.Command) (*catalogue.Catalogue, *address.Resolver, error) {
	open := a.look
	if cmd != nil && (cmd.Bool("fresh") || cmd.String("max-age") != "") {
		open = a.open
	}
	c, err := open(ctx)
	if err != nil {
		return nil, nil, err
	}
	if cmd != nil {
		if err := a.refresh(ctx, c, cmd); err != nil {
			c.Close()
			return nil, nil, err
		}
	}
	r, err := a.resolverOf(ctx, c)
	if err != nil {
		c.Close()
		return nil, nil, err
	}
	return c, r, nil
}

// resolverOf returns what resolves addresses in a catalogue.
func (a *app) resolverOf(ctx context.Context, c *catalogue.Catalogue) (*address.Resolver, error) {
	r, err := address.NewResolver(ctx, c, a.Now())
	if err != nil {
		return nil, err
	}
	r.Configured = a.serverNames()
	r.Dialect = func(name string) address.Dialect {
		t := a.traits(name)
		return address.Dialect{Overloads: t.Overloads, CanonicalType: t.CanonicalType}
	}
	return r, nil
}

// form checks that a command can answer in the form that is asked for.
func (a *app) form(forms ...string) error {
	if slices.Contains(forms, a.as) {
		if a.as == "xlsx" || a.as == "png" {
			if isTerminal(a.Stdout) {
				return usagef("--as %s is not for a terminal; send it to a file: … --as %s > answer.%s", a.as, a.as, a.as)
			}
		}
		return nil
	}
	return usagef("--as takes %s here, not %q", strings.Join(forms, ", "), a.as)
}

// table writes a table in the form that is asked for.
func (a *app) table(t *render.Table) error {
	switch a.as {
	case "xlsx":
		return t.XLSX(a.Stdout)
	case "html":
		return a.document(&render.Document{Title: a.title, Blocks: []render.Block{{Table: t}}})
	}
	if write := map[string]func(io.Writer) error{"csv": t.CSV, "markdown": t.Markdown}[a.as]; write != nil {
		if !isTerminal(a.Stdout) {
			return write(a.Stdout)
		}
		var text strings.Builder // on a terminal nothing may move the cursor
		err := write(&text)
		a.printf("%s", render.VisibleLines(text.String()))
		return err
	}
	return t.Text(a.Stdout, a.width, a.paint)
}

// forMachines reports whether rows are asked for that programs go on with: numbers and times as they are, every column.
func (a *app) forMachines() bool { return a.as == "csv" || a.as == "xlsx" }

func (a *app) printf(format string, args ...any) {
	fmt.Fprintf(a.Stdout, format, args...)
}

func (a *app) log() *slog.Logger {
	level := slog.LevelWarn
	if a.verbose {
		level = slog.LevelDebug
	}
	return slog.New(slog.NewTextHandler(a.Stderr, &slog.HandlerOptions{Level: level}))
}
