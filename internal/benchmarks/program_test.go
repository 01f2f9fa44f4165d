package benchmarks

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"echo-atlas/internal/testservers"
)

// helping is set in the environment of this program where it only runs another: a child that is started
// from a small process does not inherit the memory of this one in its account.
const helping = "ECHO_ATLAS_BENCH_HELPER"

// help runs its arguments and writes how long that took (nanoseconds), the largest resident set (bytes)
// and the exit code to file descriptor 3.
func help() {
	cmd := exec.Command(os.Args[1], os.Args[2:]...)
	cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
	start := time.Now()
	err := cmd.Run()
	took := time.Since(start)
	if cmd.ProcessState == nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	memory := int64(0)
	if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
		memory = usage.Maxrss << 10
	}
	fmt.Fprintln(os.NewFile(3, "result"), int64(took), memory, cmd.ProcessState.ExitCode())
}

func TestMain(m *testing.M) {
	if os.Getenv(helping) != "" {
		help()
		return
	}
	testservers.MainWith(m, func() { os.RemoveAll(built.dir) })
}

// built is what the benchmarks share: the program, and databases that take long to make.
var built struct {
	sync.Mutex
	dir  string
	urls map[string]string
}

// program returns the built program.
func program(b *testing.B) string {
	b.Helper()
	built.Lock()
	defer built.Unlock()
	if built.dir == "" {
		dir, err := os.MkdirTemp("", "echo-atlas-bench-")
		if err != nil {
			b.Fatal(err)
		}
		built.dir, built.urls = dir, map[string]string{}
		build := exec.Command("go", "build", "-trimpath", "-ldflags=-s -w", "-o", filepath.Join(dir, "echo-atlas"), "echo-atlas/cmd/echo-atlas")
		build.Env = append(os.Environ(), "CGO_ENABLED=0")
		if out, err := build.CombinedOutput(); err != nil {
			b.Fatalf("building the program: %v\n%s", err, out)
		}
	}
	return filepath.Join(built.dir, "echo-atlas")
}

// filled returns the URL of a generated database of a server, made once a run.
func filled(b *testing.B, s testservers.Server, size Size) string {
	b.Helper()
	program(b)
	key := fmt.Sprint(s.Name(), size)
	if url := built.urls[key]; url != "" {
		return url
	}
	url := s.Lasting(b, strings.Join(Script(s.Name(), size), "\n"))
	built.urls[key] = url
	return url
}

// measured is one run of a whole process.
type measured struct {
	took   time.Duration
	memory int64 // the largest resident set, in bytes
}

// run runs a whole process, its output thrown away, and fails on any exit code that is not allowed.
func run(b *testing.B, name string, args []string, allowed ...int) measured {
	b.Helper()
	self, err := os.Executable()
	if err != nil {
		b.Fatal(err)
	}
	result, told, err := os.Pipe()
	if err != nil {
		b.Fatal(err)
	}
	defer result.Close()
	var errs bytes.Buffer
	cmd := exec.Command(self, append([]string{name}, args...)...)
	// Not /dev/null itself: grep sees that, and stops at the first match.
	cmd.Stdout, cmd.Stderr, cmd.ExtraFiles = io.Discard, &errs, []*os.File{told}
	cmd.Env = append(os.Environ(), "NO_COLOR=1", "LC_ALL=C", helping+"=1")
	err = cmd.Run()
	told.Close()
	var m measured
	var code int
	if _, scan := fmt.Fscan(result, (*int64)(&m.took), &m.memory, &code); err != nil || scan != nil {
		b.Fatalf("%s %v: %v %v\n%s", name, args, err, scan, errs.String())
	}
	if code != 0 && !slices.Contains(allowed, code) {
		b.Fatalf("%s %v: exit code %d\n%s", name, args, code, errs.String())
	}
	return m
}

// median runs f several times and returns the median of the times, and the largest memory.
func median(n int, f func() measured) measured {
	var all []time.Duration
	var out measured
	for range n {
		m := f()
		all = append(all, m.took)
		out.memory = max(out.memory, m.memory)
	}
	slices.Sort(all)
	out.took = all[len(all)/2]
	return out
}

func millis(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// report replaces the time per operation, which means nothing here, by the medians.
func report(b *testing.B, m measured) {
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(millis(m.took), "ms")
	b.ReportMetric(float64(m.memory)/1e6, "MB")
}

func reportRatio(b *testing.B, ours, outside measured, what string) {
	report(b, ours)
	b.ReportMetric(millis(outside.took), what+"-ms")
	b.ReportMetric(float64(ours.took)/float64(outside.took), "ratio")
}
