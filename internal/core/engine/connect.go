package engine

// Why a connection failed, in a form that does not depend on the driver.

import (
	"fmt"
)

// ConnectError says why a server could not be reached.
type ConnectError struct {
	Target string // the URL, without any password
	Cause  string // "name not resolved", "connection refused", "wrong password", …
	Said   error  // what the server or the driver said
	Advice string // what to try next
	// Unclear says that something answered, or nothing did, without telling what it is.
	Unclear bool
}

func (e *ConnectError) Error() string {
	s := fmt.Sprintf("cannot connect to %s: %s", e.Target, e.Cause)
	if e.Said != nil {
		s += fmt.Sprintf(" (%v)", e.Said)
	}
	if e.Advice != "" {
		s += "; " + e.Advice
	}
	return s
}

func (e *ConnectError) Unwrap() error { return e.Said }

var userinfo = Lazily(`^([a-zA-Z][a-zA-Z0-9+.-]*://[^:/?#@]*):.*@`)

// passwordValue is a driver's parameter that carries a password.
var passwordValue = Lazily(`(?i)([?&](?:password|sslpassword|pwd)=)[^&#]*`)

// WithoutPassword returns a text with the passwords of URLs in it left out, also of such as cannot be parsed.
func WithoutPassword(s string) string {
	s = userinfo().ReplaceAllString(s, "$1@")
	return passwordValue().ReplaceAllString(s, "$1…")
}
