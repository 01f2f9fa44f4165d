package cli

// Completion answers a shell: it completes the last word of a command line from the catalogue, in that shell's own
// quoting.

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/template"
)

func (a *app) completionCommand() *cli.Command {
	return &cli.Command{
		Name:      "completion",
		Usage:     "print what teaches a shell to complete commands, servers, addresses, kinds and columns",
		ArgsUsage: "bash|zsh|fish",
		Description: "Examples:\n  echo-atlas completion bash > ~/.local/share/bash-completion/completions/echo-atlas\n" +
			"  echo-atlas completion fish > ~/.config/fish/completions/echo-atlas.fish",
		Action: func(_ context.Context, cmd *cli.Command) error {
			text, ok := completionScripts[cmd.Args().First()]
			if !ok || cmd.Args().Len() != 1 {
				return usagef("completion takes one of bash, zsh, fish")
			}
			a.printf("%s", text)
			return nil
		},
	}
}

// The scripts leave quoting to those who know how: bash is given words that are quoted already, zsh and fish quote
// what they are given.
var completionScripts = map[string]string{
	"bash": `_echo_atlas() {
  local word
  COMPREPLY=()
  while IFS= read -r word; do
    COMPREPLY+=("$word")
  done < <(command echo-atlas complete bash "$COMP_LINE" "$COMP_POINT" "$COMP_WORDBREAKS" 2>/dev/null)
  [[ ${#COMPREPLY[@]} == 1 && ${COMPREPLY[0]} == */ ]] && compopt -o nospace
}
complete -o default -F _echo_atlas echo-atlas
`,
	"zsh": `#compdef echo-atlas
_echo_atlas() {
  local -a found
  found=("${(@f)$(command echo-atlas complete -- "${(@Q)words[2,CURRENT]}" 2>/dev/null)}")
  [[ -n $found ]] && compadd -S '' -- $found || _files
}
compdef _echo_atlas echo-atlas
`,
	"fish": `complete -c echo-atlas -a '(set -l words (commandline -opc) (commandline -ct | string unescape); command echo-atlas complete -- $words[2..] 2>/dev/null)'
`,
}

// completeCommand is what the shells call: its arguments are the words of the line, the last the one
// that is being typed; for bash, the line itself.
func (a *app) completeCommand() *cli.Command {
	return &cli.Command{Name: "complete", Hidden: true, SkipFlagParsing: true, Action: func(ctx context.Context, cmd *cli.Command) error {
		words := cmd.Args().Slice()
		quoted := func(s string) (string, bool) { return s, true }
		switch {
		case len(words) == 4 && words[0] == "bash":
			point, err := strconv.Atoi(words[2])
			if err != nil || point < 0 || point > len(words[1]) {
				return nil
			}
			line := bashLine(words[1][:point], words[3])
			words, quoted = line.words, line.quote
			if len(words) > 0 {
				words = words[1:]
			}
		case len(words) > 0 && words[0] == "--":
			words = words[1:]
		}
		if len(words) == 0 {
			return nil
		}
		for _, c := range a.candidates(ctx, cmd.Root(), words[:len(words)-1], words[len(words)-1]) {
			if strings.ContainsFunc(c, func(r rune) bool { return unicode.IsControl(r) || r == utf8.RuneError }) { // no line for the shell
				continue
			}
			if text, ok := quoted(c); ok {
				a.printf("%s\n", text)
			}
		}
		return nil
	}}
}

const mostCandidates = 200

// candidates returns what the word that is being typed may become.
func (a *app) candidates(ctx context.Context, cmd *cli.Command, before []string, typed string) []string {
	var all []string
	flags := slices.Clone(cmd.Flags)
	var value cli.Flag // whose value is being typed
	places := 0
	for _, w := range before {
		switch {
		case value != nil:
			value = nil
		case strings.HasPrefix(w, "-"):
			name, _, joined := strings.Cut(strings.TrimLeft(w, "-"), "=")
			for _, f := range flags {
				if _, plain := f.(*cli.BoolFlag); slices.Contains(f.Names(), name) && !plain && !joined {
					value = f
				}
			}
		default:
			if sub := cmd.Command(w); sub != nil && places == 0 {
				cmd = sub
				flags = append(flags, sub.Flags...)
			} else {
				places++
			}
		}
	}
	starting := func(words ...string) {
		for _, w := range words {
			if strings.HasPrefix(w, typed) {
				all = append(all, w)
			}
		}
	}
	switch {
	case value != nil:
		a.valueCandidates(ctx, cmd, value.Names()[0], typed, starting, &all)
	case strings.HasPrefix(typed, "-"):
		for _, f := range flags {
			starting("--" + f.Names()[0])
		}
	default:
		if places == 0 {
			for _, c := range cmd.VisibleCommands() {
				starting(c.Name)
			}
		}
		switch cmd.FullName() {
		case "echo-atlas completion":
			starting("bash", "zsh", "fish")
		case "echo-atlas survey", "echo-atlas servers check":
			starting(a.serverNames()...)
		case "echo-atlas help":
			for _, c := range cmd.Root().VisibleCommands() {
				starting(c.Name)
			}
		case "echo-atlas template":
			if places == 0 {
				starting(append(slices.Clone(template.Verbs), "join")...)
			} else {
				all = append(all, a.addressCandidates(ctx, typed, false)...)
			}
		case "echo-atlas snapshots", "echo-atlas snapshots label", "echo-atlas snapshots drop", "echo-atlas snapshots remarks":
			if places == 0 || cmd.Name != "label" {
				all = append(all, a.addressCandidates(ctx, typed, true)...)
			}
		case "echo-atlas list", "echo-atlas tree", "echo-atlas show", "echo-atlas trace", "echo-atlas report", "echo-atlas ddl", "echo-atlas diff", "echo-atlas snapshots export":
			all = append(all, a.addressCandidates(ctx, typed, false)...)
		}
	}
	return all
}

// valueCandidates offers values of an option; of several with commas, the last.
func (a *app) valueCandidates(ctx context.Context, cmd *cli.Command, option, typed string, starting func(...string), all *[]string) {
	front := ""
	if i := strings.LastIndexByte(typed, ','); i >= 0 {
		front = typed[:i+1]
	}
	listed := func(words []string) {
		for _, w := range words {
			starting(front + w)
		}
	}
	switch option {
	case "as":
		starting("text", "json", "csv", "markdown", "html", "xlsx", "svg", "png", "dot", "mermaid")
	case "color":
		starting("auto", "always", "never")
	case "kind":
		var kinds []string
		for _, k := range append(schema.ObjectKinds(), schema.PartKinds()...) {
			kinds = append(kinds, strings.ReplaceAll(string(k), " ", "-"))
		}
		listed(kinds)
	case "columns":
		listed(allListColumns())
	case "sort":
		starting(allListColumns()...)
	case "without":
		for _, aspect := range schema.Aspects() {
			starting(front + string(aspect))
		}
	case "use":
		listed(usageList())
	case "environment":
		listed(a.environmentNames(ctx))
	case "in", "except":
		*all = a.addressCandidates(ctx, typed, false)
	}
}

// allListColumns returns the columns of all lists, each once.
func allListColumns() []string {
	var all []string
	for _, list := range [][]string{objectColumns, partColumns, grantColumns} {
		for _, c := range list {
			if !slices.Contains(all, c) {
				all = append(all, c)
			}
		}
	}
	return all
}

func (a *app) environmentNames(ctx context.Context) []string {
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return nil
	}
	defer c.Close()
	return environments(r.Latest())
}

func (a *app) addressCandidates(ctx context.Context, typed string, databases bool) []string {
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return nil // a shell has no use for the message
	}
	defer c.Close()
	found, err := r.Complete(ctx, typed, mostCandidates, databases)
	if err != nil {
		return nil
	}
	return found
}
