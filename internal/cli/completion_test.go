package cli_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"echo-atlas/internal/testservers"
)

// hostileWords are names that a shell would run, expand or take apart.
var hostileWords = []string{"z`touch pwned`", "z$(touch pwned)", "z;touch pwned", "z&touch pwned", "z|touch pwned", "z>pwned", "z<pwned", "z\nb", "z!b", "z*", "z[a-z]", "z{a,b}", "z#b", "z'b", `z"b`, "z b", `z\b`, "~z", "z$HOME", "zéa"}

// inShell runs a script with a shell, in the folder of a place.
func (p *place) inShell(shell string, args ...string) string {
	p.t.Helper()
	if _, err := exec.LookPath(shell); err != nil {
		if os.Getenv("CI") != "" {
			p.t.Fatalf("%s is not installed", shell)
		}
		p.t.Skipf("%s is not installed", shell)
	}
	cmd := exec.Command(shell, args...)
	cmd.Dir, cmd.Env = p.dir, append(p.env, "PATH="+filepath.Dir(program)+":"+os.Getenv("PATH"), "TERM=dumb")
	out, err := cmd.CombinedOutput()
	if err != nil {
		p.t.Fatalf("%s: %v\n%s", shell, err, out)
	}
	return string(out)
}

// TestCompletionInShells completes hostile names in the real shells, and takes what was inserted as the shell takes it
// on Enter: it has to be the name again, and nothing may have run.
func TestCompletionInShells(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	var script strings.Builder
	for _, name := range hostileWords {
		fmt.Fprintf(&script, "CREATE TABLE %s (x);", `"`+strings.ReplaceAll(name, `"`, `""`)+`"`)
	}
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "quay.db"), script.String())
	p.want(0, "survey", "--from", "sqlite:quay.db", "--name", "quay")
	var want []string // every address but the one that is no line
	for line := range strings.Lines(p.want(0, "complete", "--", "show", "quay/quay/")) {
		want = append(want, strings.TrimSuffix(line, "\n"))
	}
	if len(want) != len(hostileWords)-1 {
		t.Fatalf("%d candidates for %d names: %q", len(want), len(hostileWords), want)
	}
	check := func(t *testing.T, got []string) {
		t.Helper()
		slices.Sort(got)
		slices.Sort(want)
		if !slices.Equal(got, want) {
			t.Errorf("completed to\n%q, want\n%q", got, want)
		}
		if files, _ := filepath.Glob(filepath.Join(p.dir, "*pwned*")); len(files) > 0 {
			t.Errorf("a name ran: %v", files)
		}
	}
	lines := func(s string) []string {
		return strings.FieldsFunc(s, func(r rune) bool { return r == '\n' || r == '\r' })
	}
	p.file("bash.sh", p.want(0, "completion", "bash"))
	p.file("zsh.sh", p.want(0, "completion", "zsh"))
	p.file("fish.fish", p.want(0, "completion", "fish"))
	t.Run("bash", func(t *testing.T) {
		q := *p
		q.t = t
		check(t, lines(q.inShell("bash", "-c", `. ./bash.sh
COMP_LINE='echo-atlas show quay/quay/' COMP_POINT=26 COMP_WORDBREAKS=$' \t\n"\'@><=;|&(:'
_echo_atlas 2>/dev/null
for word in "${COMPREPLY[@]}"; do eval "set -- $word"; [ $# = 1 ] && printf '%s\n' "$1"; done`)))
	})
	t.Run("fish", func(t *testing.T) {
		q := *p
		q.t = t
		// What complete prints fish quotes when it inserts it; string escape does the same.
		check(t, lines(q.inShell("fish", "--no-config", "-c", `source fish.fish
for word in (complete -C 'echo-atlas show quay/quay/'); set -l word (string split -f 1 \t -- $word); eval "printf '%s\n' "(string escape -- $word); end`)))
	})
	t.Run("zsh", func(t *testing.T) {
		q := *p
		q.t = t
		// A real line editor, in which a key lists what would be inserted for each match.
		var got []string
		for _, address := range want {
			last, _ := utf8.DecodeLastRuneInString(address)
			out := q.inShell("zsh", "-f", "-c", `zmodload zsh/zpty
zpty -b z zsh -f -i
wait_for() { while true; do zpty -r -t z out; [[ -s $1 ]] && return; sleep 0.02; done }
zpty -w z 'unset zle_bracketed_paste; PS1= RPS1=; autoload -Uz compinit; compinit -D -u; . ./zsh.sh; function echo-atlas { print -r -- "<$2>" > shown }; print ready > ready'
wait_for ready
zpty -w -n z "echo-atlas show ${(q)1}"$'\t'
zpty -w -n z $'\r'
wait_for shown
cat shown; rm -f shown ready; zpty -d z`, "zsh", address[:len(address)-utf8.RuneLen(last)])
			got = append(got, strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(out), "<"), ">"))
		}
		check(t, got)
	})
}
