package testservers

// A real browser for tests of pages.

import (
	"errors"
	"os/exec"
	"testing"
)

// Browser returns the program of a browser that runs without a window.
func Browser(t testing.TB) string {
	t.Helper()
	for _, name := range []string{"chromium", "chromium-browser", "google-chrome"} {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	missing(t, errors.New("no browser is installed (chromium)"))
	return ""
}
