package cli

// Wrong usage in plain words: what the library says of an option is put into ours, with the nearest option.

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/core/engine"
)

var (
	unknownOption = engine.Lazily(`^flag provided but not defined: -+(.+)$`)
	wrongValue    = engine.Lazily(`(?s)^invalid (?:boolean )?value "(.*)" for (?:flag )?-+([\w-]+): (.*)$`)
	missingValue  = engine.Lazily(`^flag needs an argument: -+(.+)$`)
)

// plainUsage says what is wrong with the options of a command.
func plainUsage(cmd *cli.Command, err error) error {
	text := err.Error()
	see := "; see: " + cmd.FullName() + " --help"
	if m := unknownOption().FindStringSubmatch(text); m != nil {
		name, _, _ := strings.Cut(m[1], "=")
		var known []string
		for _, c := range cmd.Lineage() {
			for _, f := range c.Flags {
				known = append(known, f.Names()[0])
			}
		}
		near := nearWord(name, known)
		if near != "" {
			near = strings.Replace(near, "did you mean ", "did you mean --", 1)
			return usagef("there is no option --%s%s", name, near)
		}
		return usagef("there is no option --%s%s", name, see)
	}
	if m := wrongValue().FindStringSubmatch(text); m != nil {
		what := "is not understood"
		switch {
		case strings.Contains(m[3], "ParseInt") && strings.Contains(m[3], "range"):
			what = "is too large a number"
		case strings.Contains(m[3], "ParseInt"):
			what = "is no whole number"
		case strings.Contains(m[3], "ParseBool") || strings.Contains(m[3], "parse error"):
			what = "is no value: the option takes none"
		}
		return usagef("--%s: %q %s%s", m[2], m[1], what, see)
	}
	if m := missingValue().FindStringSubmatch(text); m != nil {
		return usagef("--%s needs a value%s", strings.TrimLeft(m[1], "-"), see)
	}
	return usagef("%v%s", err, see)
}

// helpCommand explains a command as --help does.
func (a *app) helpCommand() *cli.Command {
	return &cli.Command{Name: "help", Usage: "explain a command", ArgsUsage: "[COMMAND…]", Description: "Example:\n  echo-atlas help find",
		Action: func(ctx context.Context, cmd *cli.Command) error {
			of, words := cmd.Root(), cmd.Args().Slice()
			if len(words) == 0 {
				return cli.ShowRootCommandHelp(of)
			}
			for i, word := range words {
				sub := of.Command(word)
				if sub == nil {
					return noCommand(of, word)
				}
				if i == len(words)-1 {
					return cli.ShowCommandHelp(ctx, of, word)
				}
				of = sub
			}
			return nil
		}}
}

// versionCommand prints what --version does.
func (a *app) versionCommand() *cli.Command {
	return &cli.Command{Name: "version", Usage: "print the version", Action: func(_ context.Context, cmd *cli.Command) error {
		a.printf("%s version %s\n", cmd.Root().Name, Version)
		return nil
	}}
}

// noCommand says that there is no such command below another, and which is near.
func noCommand(of *cli.Command, word string) error {
	var known []string
	for _, c := range of.VisibleCommands() {
		known = append(known, c.Name)
	}
	if near := nearWord(word, known); near != "" {
		return usagef("there is no command %q%s", word, near)
	}
	return usagef("there is no command %q; see: %s --help", word, of.FullName())
}

// durationFlag is an option whose value is a time span: see parseDuration.
func durationFlag(name, usage, usual string) cli.Flag {
	return &cli.StringFlag{Name: name, Usage: usage, Value: usual}
}

// duration returns the time span that an option gives, 0 if it is empty.
func duration(cmd *cli.Command, name string) (time.Duration, error) {
	text := cmd.String(name)
	if text == "" {
		return 0, nil
	}
	d, err := parseDuration(text)
	if err != nil {
		return 0, usagef("--%s: %v", name, err)
	}
	return d, nil
}

var spanPart = engine.Lazily(`^\s*(\d+(?:\.\d+)?)\s*([a-z]+)`)

// parseDuration reads a time span as people write it: 90s, 15m, 1h30m, 1d, 2w, 3 hours.
func parseDuration(s string) (time.Duration, error) {
	units := []struct {
		span  time.Duration
		words string
	}{
		{time.Millisecond, "ms millisecond milliseconds"}, {time.Second, "s sec second seconds"}, {time.Minute, "m min minute minutes"},
		{time.Hour, "h hour hours"}, {24 * time.Hour, "d day days"}, {7 * 24 * time.Hour, "w week weeks"},
	}
	var total time.Duration
	rest := strings.ToLower(strings.TrimSpace(s))
	for rest != "" {
		m := spanPart().FindStringSubmatch(rest)
		if m == nil {
			return 0, fmt.Errorf("%q is no time span; write it like 90s, 15m, 1h30m, 1d or 2w", s)
		}
		var n float64
		fmt.Sscan(m[1], &n)
		known := false
		for _, u := range units {
			for _, w := range strings.Fields(u.words) {
				if w == m[2] {
					total += time.Duration(n * float64(u.span))
					known = true
				}
			}
		}
		if !known {
			return 0, fmt.Errorf("%q is no time span: %q is no unit; there are s, m, h, d and w", s, m[2])
		}
		rest = strings.TrimLeft(rest[len(m[0]):], " ,")
	}
	if total < 0 {
		return 0, fmt.Errorf("%q is too long a time", s)
	}
	return total, nil
}
