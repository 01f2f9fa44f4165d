package engine

// A workbench is a server where scratch databases may be made: the only place where this program writes.

import (
	"context"

	"echo-atlas/internal/core/schema"
)

// Builder is implemented by engines that can try a script in a database of their own.
type Builder interface {
	// Workbench opens a session that may make databases. Errors are *ConnectError. The target's URL is "" for an engine that
	// needs no server.
	Workbench(context.Context, Target) (Workbench, error)
	// Acts reports whether objects of a kind do something by themselves, so that they may not be made on a workbench: they would
	// connect elsewhere, or run at their time.
	Acts(schema.Kind) bool
}

// Workbench makes one database, runs statements in it, and drops it.
type Workbench interface {
	// Make makes an empty database of that name, marked as one of this program's, and returns its URL. It fails where there is
	// one of that name already.
	Make(ctx context.Context, name string) (url string, err error)
	// Run runs one statement in the database. The error is what the server says.
	Run(ctx context.Context, statement string) error
	// Count runs a query whose answer is one number.
	Count(ctx context.Context, query string) (int64, error)
	// Lacks returns those of the users and roles, written as in owners and grants, that the server does not have.
	Lacks(ctx context.Context, roles []string) ([]string, error)
	// Close drops the database that was made, and ends the session.
	Close(ctx context.Context) error
}

// Mark is what a scratch database says of itself where it can.
const Mark = "made by Echo Atlas to prove a script; it is dropped afterwards"
