package engine

// What an engine must offer, what it may, and the registry.

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Target says how to reach a server.
type Target struct {
	URL string
	// Password returns the password, "" to leave it to the engine's own password file. It may be nil.
	Password func(context.Context) (string, error)
	// Trusted says that the user stands for the URL: secrets that are not bound to its host may be sent there.
	Trusted  bool
	Client   string // what the server shows of the session, for people who look at its list of sessions
	Log      *slog.Logger
	System   bool          // read the engine's own objects and those of extensions, too
	Patience time.Duration // how long the server may take over one answer; 0 for the usual
}

// Engine is one make of database server.
type Engine interface {
	// Name is the name in JSON and in lists: "postgres".
	Name() string
	// Schemes are those of its URLs, the usual one first. Engines that speak one protocol share them.
	Schemes() []string
	// Parameters are those that a URL may have, each with what it means.
	Parameters() map[string]string
	// Traits tell what sets the engine apart.
	Traits() Traits
	// Database returns the database that a URL names, "" for all that the server holds.
	Database(url string) string
	// Connect opens a read-only session. Errors are *ConnectError.
	Connect(context.Context, Target) (Server, error)
	// Queries returns the SQL that a survey sends, in order, for people to read; what is bound to a
	// parameter or depends on the server's version is described in comments.
	Queries() []string
	// Make returns the statements that make an object. They say what takes them back, what they provide and what they
	// require beyond the dependencies that the catalogue knows.
	Make(*schema.Object) ([]Statement, error)
	// Quote returns a name as it is written in a statement, in quotes where it needs them.
	Quote(name string) string
}

// Completer is implemented by engines whose tables cannot be made without some of the indexes that stand on them.
type Completer interface {
	// Completes reports whether the statements that make a table need an index on it, and whether one such index is enough.
	Completes(table, index *schema.Object) (needed, one bool)
}

// Emptier is implemented by engines whose new databases hold something that not every database has.
type Emptier interface {
	// Surplus returns statements that take from a new database what another does not have; they come first.
	Surplus(has func(schema.ID) bool) []Statement
}

// Former is implemented by engines whose earlier readings held as statements what is held as types now.
type Former interface {
	// FormerDefinition returns the statement of an object as those readings held it.
	FormerDefinition(*schema.Object) string
}

// Parted is implemented by engines that were part of another.
type Parted interface {
	// Took reports whether a reading under the other's name is one of this engine.
	Took(engine, version string) bool
}

// Pather is implemented by engines that look for names in several schemas.
type Pather interface {
	// SearchPath returns the schemas in which the texts of an object find names that have none in front, in order.
	SearchPath(*schema.Object) []string
}

// Speaker is implemented by engines whose objects keep settings of their own that change what a text means.
type Speaker interface {
	// Dialect returns the rules under which the texts of an object were written.
	Dialect(*schema.Object) sqltext.Rules
}

// Traits tell what sets an engine apart.
type Traits struct {
	Schemas bool          // a database holds schemas
	Rules   sqltext.Rules // of its dialect
	// LaxNeeds says that the server takes a definition whose needs are not there yet. Such needs then
	// only order the statements of a script as far as they can.
	LaxNeeds bool
	// Before and After enclose a script whose statements change settings, so that the session is
	// afterwards as it was.
	Before, After string
	// LaxKinds are the kinds whose definitions the server takes though their needs are not there yet.
	LaxKinds []schema.Kind
	// Executing are the kinds that run the routines that they need when they are made.
	Executing []schema.Kind
	// Unsearched are the kinds whose bodies readings of models before the fifth did not search for what they refer to.
	Unsearched []schema.Kind
	// OwnNames are the beginnings of names, in small letters, that are the engine's own.
	OwnNames []string
	// CrossDatabase says that definitions may refer to objects of other databases of the server.
	CrossDatabase bool
	// RolesHeld says that a role which owns something or has rights cannot be dropped, nor a tablespace in which something lies.
	RolesHeld bool
	// KeysOnIndexes says that a foreign key rests on an index of its own table, which cannot go while no other takes its place.
	KeysOnIndexes bool
	// LiveStars says that views show the columns of a star under the names that they have at present.
	LiveStars bool
	// WholeRenames says that the renaming of a column reads every definition, and fails where one does not fit.
	WholeRenames bool
	// Overloads says that routines of one name are told apart by their argument types.
	Overloads bool
	// IndexMethod is how an index works that says nothing else.
	IndexMethod string
	// MadeUp reports whether the name of a constraint of a table is one that the server makes up; nil where it makes up none that
	// the catalogue keeps.
	MadeUp func(table, name string) bool
	// Types holds the engine's other names of types, folded, each with the one that it prints.
	Types map[string]string
	// Begin and Commit enclose statements that take effect together or not at all, "" where the engine's DDL knows no
	// transactions.
	Begin, Commit string
	// Placeholder is how a statement marks a value that is given later: "$" with a number, "?", or "@"
	// with a name.
	Placeholder string
	// Batch is the word on a line of its own that the client takes for the end of a statement, "" where a
	// semicolon is.
	Batch string
	// Include is the client's command that runs a file, whose path follows.
	Include string
	// Delimiter is the client's command that sets another terminator, for statements that hold
	// terminators of their own; "" where the client finds their end itself.
	Delimiter string
}

// ServerLevel is the name under which what belongs to no database is read: roles, databases.
const ServerLevel = "server-level"

// Server is an open session.
type Server interface {
	// Info tells about the session.
	Info() Info
	// Databases returns the databases that can be read, ServerLevel among them where the URL names no
	// database, and remarks on those that cannot.
	Databases(context.Context) ([]string, []schema.Remark, error)
	// Read reads one database, or ServerLevel. Remarks of what stayed unknown are part of the reading.
	Read(ctx context.Context, database string) (*schema.Reading, error)
	// Hidden tells beforehand what a reading of the database could not see for want of rights.
	Hidden(ctx context.Context, database string) ([]schema.Remark, error)
	Close() error
}

// Info tells about a session.
type Info struct {
	Version  string   // what the server calls itself
	User     string   // as whom the session runs
	ReadOnly string   // how the session is kept from writing
	Rights   []string // in words, what the user may see or is
}

// Registry holds the engines of a program.
type Registry []Engine

// Named returns the engine of that name.
func (r Registry) Named(name string) (Engine, error) {
	for _, e := range r {
		if e.Name() == name {
			return e, nil
		}
	}
	return nil, fmt.Errorf("this program has no engine called %q; it has %s", name, strings.Join(r.names(), ", "))
}

// Called returns what the engine of a reading is called now: one that was part of another before takes its readings over.
func (r Registry) Called(engine, version string) string {
	for _, e := range r {
		if of, ok := e.(Parted); ok && of.Took(engine, version) {
			return e.Name()
		}
	}
	return engine
}

// ForURL returns the engine that serves a URL.
func (r Registry) ForURL(url string) (Engine, error) {
	if scheme, _, ok := strings.Cut(url, ":"); ok {
		scheme = strings.ToLower(scheme)
		for _, usual := range []bool{true, false} {
			for _, e := range r {
				if at := slices.Index(e.Schemes(), scheme); at == 0 || at > 0 && !usual {
					return e, nil
				}
			}
		}
	}
	var schemes []string
	for _, e := range r {
		for _, s := range e.Schemes() {
			if !slices.Contains(schemes, s+":") {
				schemes = append(schemes, s+":")
			}
		}
	}
	return nil, fmt.Errorf("no engine serves %q; a URL starts with one of %s", Display(url), strings.Join(schemes, ", "))
}

func (r Registry) names() []string {
	names := make([]string, len(r))
	for i, e := range r {
		names[i] = e.Name()
	}
	return names
}
