package cli

// A configuration that lies in a folder gets secrets only once the user has trusted it.

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
)

// trusts opens the user's list of trusted configurations.
func trusts() (*config.Trusts, error) {
	user, err := os.UserConfigDir()
	if err != nil {
		return nil, fmt.Errorf("finding your configuration folder: %w", err)
	}
	return config.OpenTrusts(user)
}

// serversTrust lets the configuration that was found use secrets.
func (a *app) serversTrust(_ context.Context, cmd *cli.Command) error {
	switch {
	case cmd.Args().Len() > 0:
		return usagef("servers trust takes no arguments: it is about the configuration that is found here")
	case a.cfg.Path == "":
		return usagef("there is no %s here or in a parent", config.FileName)
	case cmd.String("config") != "" || a.cfg.Own:
		a.printf("%s needs no trust: it is your own, or you name it yourself.\n", render.Visible(a.cfg.Path))
		return nil
	}
	t, err := trusts()
	if err != nil {
		return err
	}
	a.named(func(format string, args ...any) { a.printf(format, args...) })
	if err := t.Add(a.cfg, a.Now()); err != nil {
		return err
	}
	a.printf("It is trusted from now on, until what it says of servers changes.\n")
	return nil
}

// named says what the configuration names.
func (a *app) named(printf func(string, ...any)) {
	printf("%s names\n", render.Visible(a.cfg.Path))
	for _, s := range a.cfg.Servers {
		target := engine.Display(s.URL)
		if s.Files != "" {
			target = "files " + s.Files
		}
		printf("  %s  %s\n", render.Visible(s.Name), render.Visible(target))
	}
	for _, s := range a.cfg.Scratch {
		printf("  %s  %s, where scratch databases may be made\n", render.Visible(s.Name), render.Visible(engine.Display(s.URL)))
	}
	if secrets := a.cfg.Secrets(); len(secrets) > 0 {
		printf("and sends there as passwords\n")
		for _, s := range secrets {
			printf("  %s\n", render.Visible(s))
		}
	}
	printf("Where a server asks for a password and none is named, one from a password file that is bound to no host is sent, and client certificates.\n")
}

// beforeConnecting asks on a terminal whether a configuration that was found may use secrets, once, and says otherwise
// that none are used.
func (a *app) beforeConnecting() error {
	if a.cfg.Trusted || a.cfg.Path == "" || a.asked {
		return nil
	}
	remote := false
	for _, s := range a.cfg.Servers {
		_, file := engine.FilePath(s.URL)
		remote = remote || s.URL != "" && !file
	}
	if !remote {
		return nil
	}
	a.asked = true
	say := func(format string, args ...any) { fmt.Fprintf(a.Stderr, format, args...) }
	if term.IsTerminal(int(os.Stdin.Fd())) && isTerminal(a.Stderr) {
		a.named(say)
		say("Trust it? [y/N] ")
		answer, err := bufio.NewReader(os.Stdin).ReadString('\n')
		if err == nil && strings.EqualFold(strings.TrimSpace(answer), "y") {
			t, err := trusts()
			if err == nil {
				err = t.Add(a.cfg, a.Now())
			}
			if err != nil {
				return err
			}
			a.cfg.Trusted = true
			return nil
		}
	}
	say("%s is not trusted: its servers are tried without secrets; to trust it: echo-atlas servers trust, for one run: --config FILE\n", render.Visible(a.cfg.Path))
	return nil
}

// trustConfig settles whether a configuration that was found may use secrets.
func (a *app) trustConfig() error {
	if a.cfg.Trusted || a.cfg.Path == "" {
		return nil
	}
	t, err := trusts()
	var path *os.PathError
	if errors.As(err, &path) { // unreadable: then nothing is trusted
		return nil
	}
	if t != nil && err == nil {
		a.cfg.Trusted = t.Has(a.cfg)
	}
	return nil
}
