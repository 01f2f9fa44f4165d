package cli_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// program is the built program; the tests drive it as its users do.
var program string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "echo-atlas-test-")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "echo-atlas")
	build := exec.Command("go", "build", "-o", program, "echo-atlas/cmd/echo-atlas")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "building the program: %v\n%s", err, out)
		os.Exit(1)
	}
	testservers.MainWith(m, func() { os.RemoveAll(dir) })
}

// place is a folder in which the program is run.
type place struct {
	t   *testing.T
	dir string
	env []string
}

func newPlace(t *testing.T) *place {
	t.Helper()
	dir := t.TempDir()
	return &place{t: t, dir: dir, env: []string{"HOME=" + dir, "PATH=" + os.Getenv("PATH"), "ECHO_ATLAS_HOME=" + filepath.Join(dir, "home")}}
}

// demoPlace holds the demo estate, surveyed.
func demoPlace(t *testing.T) *place {
	p := newPlace(t)
	p.want(0, "demo", "--build-only", "sk")
	p.dir = filepath.Join(p.dir, "sk")
	p.want(0, "survey")
	return p
}

func (p *place) file(name, text string) string {
	p.t.Helper()
	path := filepath.Join(p.dir, name)
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		p.t.Fatal(err)
	}
	return path
}

// run runs the program and returns its output and exit code.
func (p *place) run(args ...string) (stdout, stderr string, code int) {
	p.t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir, cmd.Env = p.dir, p.env
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		p.t.Fatal(err)
	}
	if strings.Contains(errs.String(), "goroutine") || strings.Contains(errs.String(), "panic") {
		p.t.Errorf("%v: a stack trace:\n%s", args, errs.String())
	}
	return out.String(), errs.String(), cmd.ProcessState.ExitCode()
}

// want runs the program, checks the exit code and returns stdout.
func (p *place) want(code int, args ...string) string {
	p.t.Helper()
	out, errs, got := p.run(args...)
	if got != code {
		p.t.Fatalf("%v: exit code %d, want %d\n%s%s", args, got, code, out, errs)
	}
	return out
}

// fails runs the program, which has to fail with one clear message that holds all the texts.
func (p *place) fails(code int, args []string, says ...string) {
	p.t.Helper()
	out, errs, got := p.run(args...)
	if got != code {
		p.t.Errorf("%v: exit code %d, want %d\n%s%s", args, got, code, out, errs)
	}
	for _, s := range says {
		if !strings.Contains(errs, s) {
			p.t.Errorf("%v: the message lacks %q:\n%s", args, s, errs)
		}
	}
	if n := strings.Count(errs, "echo-atlas: "); n != 1 {
		p.t.Errorf("%v: %d messages instead of one:\n%s", args, n, errs)
	}
}

func holds(t *testing.T, what, text string, parts ...string) {
	t.Helper()
	for _, part := range parts {
		if !strings.Contains(text, part) {
			t.Errorf("%s lacks %q:\n%s", what, part, text)
		}
	}
}

// answer decodes the JSON answer of a command.
func answer[T any](p *place, code int, args ...string) T {
	p.t.Helper()
	var v T
	out := p.want(code, append(args, "--as", "json")...)
	if err := json.Unmarshal([]byte(out), &v); err != nil {
		p.t.Fatalf("%v: %v\n%s", args, err, out)
	}
	return v
}

type rows struct {
	Objects []struct {
		Address, Kind, Schema, Object, Part, Type, Change, Was string
		Rows                                                   *int64
		Nullable                                               *bool
		Properties                                             []struct {
			Path     string
			Old, New *string
		}
	}
	Matches []struct{ Address, Kind, Where, Text string }
	Total   int
	Summary struct{ Same, Added, Removed, Changed, Renamed int }
	Nodes   []struct {
		Address, Kind string
		Distance      int
	}
	Edges []struct {
		From, To, Evidence string
		Line, Column       int
		Text               string
	}
	Databases []struct {
		Address, Engine, Error string
		Counts                 map[string]int
		Changed                *struct{ Added, Removed, Changed int }
		Warnings               []struct{ State, Subject, Reason string }
	}
	Sources []struct {
		Server, Database string
		AgeSeconds       *int64 `json:"age_seconds"`
	}
}
