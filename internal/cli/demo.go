package cli

// The command demo builds the demo estate and takes a tour of the commands in it.

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/demo"
)

func (a *app) demoCommand() *cli.Command {
	return &cli.Command{
		Name:      "demo",
		Usage:     "build the demo estate, the Skerry Line, and take a tour through it",
		ArgsUsage: "[DIR]",
		Description: "Builds SQLite files and a configuration in DIR (skerry-line, if none is named), starts a stand-in of SQL Server\n" +
			"on this machine while it lasts, and shows each command\n" +
			"with its output, as it can be typed there next.\n\nExample:\n  echo-atlas demo /tmp/skerry-line",
		Flags:  []cli.Flag{&cli.BoolFlag{Name: "build-only", Usage: "build the estate without the tour"}},
		Action: a.demo,
	}
}

func (a *app) demo(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text"); err != nil {
		return err
	}
	if cmd.Args().Len() > 1 {
		return usagef("demo takes one DIR at most")
	}
	dir := "skerry-line"
	if cmd.Args().Len() == 1 {
		dir = cmd.Args().First()
	}
	if err := demo.Build(ctx, dir); err != nil {
		return err
	}
	a.printf("The Skerry Line is built in %s. To type along: cd %s\n", render.Visible(dir), shellWord(dir))
	if cmd.Bool("build-only") {
		return nil
	}
	lights, err := demo.StartLights()
	if err != nil {
		return err
	}
	defer lights.Close()
	config := filepath.Join(dir, "echo-atlas.toml")
	for _, step := range demo.Tour(lights) {
		words := []string{"echo-atlas"}
		for _, w := range step.Args {
			words = append(words, shellWord(w))
		}
		a.printf("\n%s\n%s\n\n", a.paint.Text(render.Faint, "# "+step.Why), a.paint.Text(render.Title, "$ "+strings.Join(words, " ")))
		color := "never"
		if a.paint.On {
			color = "always"
		}
		args := append([]string{"echo-atlas", "--config", config, "--home", filepath.Join(dir, "catalogue"), "--color", color}, step.Args...)
		for i := range args {
			if slices.Contains(demo.Exported, args[i]) || slices.Contains(demo.Written, args[i]) && args[i-1][0] == '-' { // typed in the demo's folder, which this is not
				args[i] = filepath.Join(dir, args[i])
			}
		}
		switch code := Run(ctx, args, a.Environment); {
		case ctx.Err() != nil:
			return ctx.Err()
		case code != exitDone && code != exitDiffer:
			return &exitError{code, fmt.Errorf("the tour stopped at: %s", strings.Join(words, " "))}
		}
	}
	a.printf("\n%s\n", a.paint.Text(render.Faint, "# That was the tour. cd "+shellWord(dir)+" and ask on, with: echo-atlas --help"))
	return nil
}

// shellWord returns a word as it is typed in a shell.
func shellWord(s string) string {
	if s != "" && strings.IndexFunc(s, func(r rune) bool {
		return !(r == '-' || r == '_' || r == '.' || r == '/' || r == ',' || r == ':' || r == '@' || r == '=' || '0' <= r && r <= '9' || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z')
	}) < 0 {
		return s
	}
	return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'"
}
