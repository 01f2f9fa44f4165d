package cli

// The command format: SQL from a file or stdin, in the house's style.

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/format"
)

func (a *app) formatCommand() *cli.Command {
	return &cli.Command{
		Name:      "format",
		Usage:     "lay out SQL from a file or stdin in the house's style",
		ArgsUsage: "[FILE]",
		Description: "Blanks, line breaks and the case of keywords change, and nothing else. The style stands in [format] of the\nconfiguration, and named ones in [format.NAME].\n\n" +
			"Examples:\n  echo-atlas format berths.sql --dialect postgres\n  echo-atlas format < query.sql --dialect sqlserver --style narrow\n  echo-atlas format berths.sql --in-place",
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "dialect", Usage: "the `ENGINE` whose SQL it is: " + strings.Join(a.dialects(), ", ")},
			&cli.StringFlag{Name: "style", Usage: "a `NAME` of [format.NAME]"},
			&cli.BoolFlag{Name: "in-place", Usage: "write the file anew, as a whole or not at all"},
			&cli.BoolFlag{Name: "check", Usage: "write nothing; exit code 1 where the file is laid out otherwise"},
		},
		Action: a.format,
	}
}

// dialects returns the names of the engines.
func (a *app) dialects() []string {
	var all []string
	for _, e := range a.Engines {
		all = append(all, e.Name())
	}
	return all
}

// styleOf turns a style of the configuration into one to lay out with.
func styleOf(f config.Format) format.Style {
	s := format.Usual
	if f.Keywords != "" {
		s.Keywords = f.Keywords
	}
	if f.Indent != nil {
		s.Indent = *f.Indent
	}
	if f.Width != nil {
		s.Width = *f.Width
	}
	s.CommasBefore, s.Fill = f.Commas == "before", f.Columns == "fill"
	s.Align = f.Align != nil && *f.Align
	s.Needed = f.Quotes == "needed"
	return s
}

// dialect returns the engine whose SQL is given: by --dialect, the style, or the end of the file's name.
func (a *app) dialect(cmd *cli.Command, f config.Format) (engine.Engine, error) {
	name := cmd.String("dialect")
	if name == "" {
		name = f.Dialect
	}
	if name == "" {
		return nil, usagef("say whose SQL it is: --dialect %s, or dialect in [format] of the configuration", strings.Join(a.dialects(), ", "))
	}
	return a.dialectNamed("--dialect", name)
}

// dialectNamed returns the engine that an option names.
func (a *app) dialectNamed(option, name string) (engine.Engine, error) {
	e, err := a.Engines.Named(name)
	if err != nil {
		return nil, usagef("%s: there is no engine %q%s; there are %s", option, name, nearWord(name, a.dialects()), strings.Join(a.dialects(), ", "))
	}
	return e, nil
}

func (a *app) format(_ context.Context, cmd *cli.Command) error {
	if err := a.form("text"); err != nil {
		return err
	}
	if cmd.Args().Len() > 1 {
		return usagef("format takes one FILE, or none for stdin")
	}
	f, err := a.cfg.Style(cmd.String("style"))
	if err != nil {
		return usagef("--style: %v", err)
	}
	e, err := a.dialect(cmd, f)
	if err != nil {
		return err
	}
	path := cmd.Args().First()
	var text []byte
	switch {
	case path == "" && (cmd.Bool("in-place") || cmd.Bool("check")):
		return usagef("--in-place and --check take a FILE")
	case path == "":
		text, err = io.ReadAll(os.Stdin)
		path = "stdin"
	default:
		text, err = os.ReadFile(path)
	}
	if err != nil {
		return fmt.Errorf("reading the SQL: %w", err)
	}
	style := styleOf(f)
	if b, ok := e.(engine.Barer); ok && style.Needed {
		style.Bare = b.Bare
	}
	out, ok := format.Text(string(text), e.Traits().Rules, style)
	if !ok {
		fmt.Fprintf(a.Stderr, "%s is left as it is: a string, a name or a comment in it is not closed, or it is no SQL of %s\n", render.Visible(filepath.Base(path)), e.Name())
	}
	switch {
	case cmd.Bool("check"):
		if out != string(text) {
			fmt.Fprintf(a.Stderr, "%s is laid out otherwise\n", render.Visible(path))
			return &exitError{code: exitDiffer}
		}
		return nil
	case cmd.Bool("in-place"):
		if out == string(text) {
			return nil
		}
		return writeWhole(path, []byte(out), func(string) bool { return true })
	case isTerminal(a.Stdout):
		a.printf("%s", render.VisibleLines(out))
		return nil
	}
	_, err = io.WriteString(a.Stdout, out)
	return err
}
