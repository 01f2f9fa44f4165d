package engine

// The URLs of servers, read strictly: what is not understood to the letter is refused and never shown, so that a
// password in any disguise is neither used nor printed.

import (
	"errors"
	"fmt"
	"maps"
	"net"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// URL is the URL of a server, taken apart.
type URL struct {
	Scheme, User, Host, Port string
	Database                 string // the path, without its slash
	Parameters               url.Values
}

// ErrPassword says that a URL holds a password, or what may be one.
var ErrPassword = errors.New("the url holds a password, or what may be one, and it may be shared; take it out and set password_env = \"NAME\" or password_command, or use the engine's own password file")

// secretWord is in the name of a parameter or a setting that may carry a secret.
var secretWord = Lazily(`(?i)pass|pwd|secret|token|credential|private|api_?key`)

// NamesSecret reports whether the name of a parameter or a setting says that its value is a secret.
func NamesSecret(name string) bool { return secretWord().MatchString(name) }

var plainHost = Lazily(`^[A-Za-z0-9._-]*$`)

// ParseURL reads scheme://user@host:port/database?parameter=value. parameters are those that are known, with what they
// mean; nil admits all that name no secret. The error is ErrPassword or says what is wrong, without the URL.
func ParseURL(raw string, parameters map[string]string) (*URL, error) {
	scheme, rest, ok := strings.Cut(raw, "://")
	if !ok || scheme == "" {
		if secretWord().MatchString(raw) {
			return nil, ErrPassword
		}
		return nil, errors.New("it is not written like scheme://user@host:port/database")
	}
	if strings.ContainsFunc(raw, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }) {
		return nil, ErrPassword
	}
	u := &URL{Scheme: strings.ToLower(scheme)}
	if strings.Contains(rest, "#") {
		return nil, ErrPassword
	}
	rest, query, _ := strings.Cut(rest, "?")
	authority, path, _ := strings.Cut(rest, "/")
	if err := u.authority(authority); err != nil {
		return nil, err
	}
	var err error
	if u.Database, err = url.PathUnescape(path); err != nil {
		return nil, errors.New("a percent sign in its path is followed by no two digits")
	}
	if strings.Contains(u.Database, "@") {
		return nil, ErrPassword
	}
	if u.Parameters, err = url.ParseQuery(query); err != nil {
		return nil, errors.New("its parameters are not written like ?name=value&name=value")
	}
	for _, name := range slices.Sorted(maps.Keys(u.Parameters)) {
		if _, known := parameters[name]; known {
			continue
		}
		switch {
		case secretWord().MatchString(name):
			return nil, ErrPassword
		case parameters != nil:
			return nil, fmt.Errorf("the parameter %q is not one of those that a URL may have: %s", name, strings.Join(slices.Sorted(maps.Keys(parameters)), ", "))
		}
	}
	return u, nil
}

// authority reads user@host:port.
func (u *URL) authority(s string) error {
	user, place, found := strings.Cut(s, "@")
	if !found {
		user, place = "", s
	}
	if strings.Contains(place, "@") {
		return ErrPassword
	}
	var err error
	if u.User, err = url.PathUnescape(user); err != nil || strings.Contains(u.User, ":") {
		return ErrPassword
	}
	if strings.HasPrefix(place, "[") {
		end := strings.IndexByte(place, ']')
		if end < 0 || net.ParseIP(place[1:end]) == nil {
			return errors.New("its host is no address")
		}
		u.Host, place = place[1:end], place[end+1:]
		if place != "" && place[0] != ':' {
			return errors.New("its host is no address")
		}
		u.Port = strings.TrimPrefix(place, ":")
	} else {
		u.Host, u.Port, _ = strings.Cut(place, ":")
	}
	if u.Port != "" {
		if n, err := strconv.Atoi(u.Port); err != nil || n < 1 || n > 65535 {
			return ErrPassword // user:secret, without a host
		}
	} else if strings.HasSuffix(place, ":") {
		return ErrPassword
	}
	if u.Host != "" && net.ParseIP(u.Host) == nil && !plainHost().MatchString(u.Host) {
		return errors.New("its host holds characters that no host has")
	}
	return nil
}

// Address returns host:port; the port is the given one where the URL names none.
func (u *URL) Address(port string) string {
	if u.Port != "" {
		port = u.Port
	}
	return net.JoinHostPort(u.Host, port)
}

// FileScheme is that of URLs that are no more than the path of a file: nothing in them is a host or a secret.
const FileScheme = "sqlite"

// FilePath returns the path that a URL is; ok is false where it is no path.
func FilePath(u string) (path string, ok bool) {
	if len(u) <= len(FileScheme) || !strings.EqualFold(u[:len(FileScheme)], FileScheme) || u[len(FileScheme)] != ':' {
		return "", false
	}
	return strings.TrimPrefix(u[len(FileScheme)+1:], "//"), true
}

// FileURL returns the URL of a file.
func FileURL(path string) string { return FileScheme + ":" + path }

// HasPassword reports whether a URL carries a password, or what may be one.
func HasPassword(s string) bool {
	if _, file := FilePath(s); file || s == "" {
		return false
	}
	_, err := ParseURL(s, nil)
	return errors.Is(err, ErrPassword)
}

// Display returns a URL as it may be shown: as it stands where it is understood, else no more than its scheme.
func Display(s string) string {
	if _, file := FilePath(s); file {
		return s
	}
	if _, err := ParseURL(s, nil); err == nil {
		return s
	}
	scheme, _, ok := strings.Cut(s, ":")
	if !ok || !plainHost().MatchString(scheme) || len(scheme) > 20 {
		return "…"
	}
	return scheme + "://…"
}
