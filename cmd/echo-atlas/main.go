// Echo Atlas catalogues the schema objects of database servers.
package main

import (
	"context"
	"os"
	"os/signal"
	"runtime"
	"runtime/debug"
	"syscall"
	"time"

	"echo-atlas/internal/cli"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/engine/mariadb"
	"echo-atlas/internal/core/engine/postgres"
	"echo-atlas/internal/core/engine/sqlite"
	"echo-atlas/internal/core/engine/sqlserver"
)

func main() {
	collectLate()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	code := cli.Run(ctx, os.Args, cli.Environment{
		Stdout: os.Stdout, Stderr: os.Stderr, Now: time.Now,
		Engines: engine.Registry{postgres.Engine{}, mariadb.Engine{}, mariadb.MySQL(), sqlite.Engine{}, sqlserver.Engine{}},
	})
	stop()
	os.Exit(code)
}

// collectLate puts the first garbage collection off until there is some garbage: most answers live for some
// milliseconds and never come there. Afterwards it is collected less often than in a program that runs long.
func collectLate() {
	const first, later = 64 << 20, 400 // bytes, per cent
	before := debug.SetMemoryLimit(first)
	debug.SetGCPercent(-1)
	runtime.SetFinalizer(new([64]byte), func(*[64]byte) { // called after the first collection
		debug.SetMemoryLimit(before)
		if set := debug.SetGCPercent(later); set >= 0 {
			debug.SetGCPercent(set) // by a command, meanwhile
		}
	})
}
