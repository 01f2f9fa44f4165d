package cli

// Errors of the core are facts. Here, and here alone, they become exit codes and what to do next.

import (
	"context"
	"errors"
	"fmt"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/selection"
)

// The exit codes.
const (
	exitDone        = 0
	exitDiffer      = 1 // diff: they differ; find: nothing found
	exitUsage       = 2
	exitUnreadable  = 3
	exitCatalogue   = 4
	exitInterrupted = 130
)

// exitError carries an exit code; without an error in it nothing is printed.
type exitError struct {
	code int
	err  error
}

func (e *exitError) Error() string {
	if e.err == nil {
		return ""
	}
	return e.err.Error()
}

func (e *exitError) Unwrap() error { return e.err }

func usagef(format string, args ...any) error {
	return &exitError{exitUsage, fmt.Errorf(format, args...)}
}

func exitCode(err error) int {
	var coded *exitError
	var wrong *address.Error
	var missing *address.NotFoundError
	var unknown *address.UnknownPlaceError
	var several *address.AmbiguousError
	var container *address.ContainerError
	var when *catalogue.WhenError
	var mismatch *selection.MismatchError
	var label *catalogue.LabelError
	switch {
	case err == nil:
		return exitDone
	case errors.Is(err, catalogue.ErrDamaged), errors.Is(err, catalogue.ErrLocked), errors.Is(err, catalogue.ErrDropped):
		return exitCatalogue
	case errors.As(err, &coded):
		return coded.code
	case errors.As(err, &wrong), errors.As(err, &missing), errors.As(err, &unknown), errors.As(err, &several), errors.As(err, &container), errors.As(err, &when), errors.As(err, &mismatch), errors.As(err, &label):
		return exitUsage
	case errors.Is(err, context.Canceled):
		return exitInterrupted
	}
	return exitUnreadable
}

// advice returns what to type next, behind an error of the core, which knows no command line; "" where the error says it all.
func advice(err error) string {
	var missing *address.NotFoundError
	var unknown *address.UnknownPlaceError
	var container *address.ContainerError
	var when *catalogue.WhenError
	switch {
	case errors.As(err, &missing) && missing.Empty:
		return "; run: echo-atlas survey"
	case errors.As(err, &missing) && len(missing.Elsewhere)+len(missing.Near) == 0:
		return "; to search parts of names: echo-atlas find TEXT"
	case errors.As(err, &unknown) && unknown.NeverRead:
		return "; run: echo-atlas survey " + names.Quote(unknown.Name)
	case errors.As(err, &container):
		return "; list what it holds with: echo-atlas list " + container.Location.String()
	case errors.As(err, &when) && when.NoMoment:
		return "; see: echo-atlas snapshots"
	}
	return ""
}
