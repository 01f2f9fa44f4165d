// Echo Atlas catalogues the schema objects of database servers.
package main

import (
	"context"
	"os"
	"os/signal"
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
	// Most answers live for some milliseconds: collect garbage less often than a long-running program.
	debug.SetGCPercent(400)
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	code := cli.Run(ctx, os.Args, cli.Environment{
		Stdout: os.Stdout, Stderr: os.Stderr, Now: time.Now,
		Engines: engine.Registry{postgres.Engine{}, mariadb.Engine{}, sqlite.Engine{}, sqlserver.Engine{}},
	})
	stop()
	os.Exit(code)
}
