package config

// A configuration that lies in a folder may be somebody else's. It may name servers, but it gets secrets only once the
// user has said that it may; that holds for its place and for the servers that it named then.

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"time"
)

// Trusts is the user's own list of configurations that may use secrets.
type Trusts struct {
	path string
	list []trust
}

type trust struct {
	Path string    `json:"path"`
	Hash string    `json:"hash"` // of the server entries
	At   time.Time `json:"at"`
}

// OpenTrusts reads the list in the user's configuration folder; where there is none yet, it is empty.
func OpenTrusts(userFolder string) (*Trusts, error) {
	t := &Trusts{path: filepath.Join(userFolder, "echo-atlas", "trusted.json")}
	text, err := os.ReadFile(t.path)
	if errors.Is(err, fs.ErrNotExist) {
		return t, nil
	}
	if err == nil {
		err = json.Unmarshal(text, &t.list)
	}
	if err != nil {
		return t, fmt.Errorf("reading which configurations are trusted: %s: %w", t.path, err)
	}
	return t, nil
}

// Has reports whether a configuration is trusted as it is now.
func (t *Trusts) Has(c *Config) bool {
	place, hash := c.place(), c.entriesHash()
	return slices.ContainsFunc(t.list, func(o trust) bool { return o.Path == place && o.Hash == hash })
}

// Add trusts a configuration as it is now, and stores the list.
func (t *Trusts) Add(c *Config, now time.Time) error {
	place := c.place()
	t.list = slices.DeleteFunc(t.list, func(o trust) bool { return o.Path == place })
	t.list = append(t.list, trust{place, c.entriesHash(), now.UTC()})
	text, err := json.MarshalIndent(t.list, "", "  ")
	if err != nil {
		return err
	}
	fail := func(err error) error { return fmt.Errorf("keeping which configurations are trusted: %w", err) }
	if err := os.MkdirAll(filepath.Dir(t.path), 0o700); err != nil {
		return fail(err)
	}
	tmp, err := os.CreateTemp(filepath.Dir(t.path), ".trusted-*")
	if err != nil {
		return fail(err)
	}
	_, err = tmp.Write(append(text, '\n'))
	if err = errors.Join(err, tmp.Close()); err == nil {
		err = os.Rename(tmp.Name(), t.path)
	}
	if err != nil {
		os.Remove(tmp.Name())
		return fail(err)
	}
	return nil
}

// place returns where a configuration lies, without links.
func (c *Config) place() string {
	path, err := filepath.Abs(c.Path)
	if err != nil {
		return c.Path
	}
	if real, err := filepath.EvalSymlinks(path); err == nil {
		return real
	}
	return path
}

// entriesHash returns a hash of all that a configuration says of servers.
func (c *Config) entriesHash() string {
	text, err := json.Marshal(struct {
		Servers []Server
		Scratch []Scratch
	}{c.Servers, c.Scratch})
	if err != nil { // plain strings cannot fail
		return ""
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

// Secrets says which secrets a configuration asks for, a line for each server that does.
func (c *Config) Secrets() []string {
	var all []string
	say := func(name, env, command string) {
		switch {
		case env != "":
			all = append(all, fmt.Sprintf("%s: the environment variable %s", name, env))
		case command != "":
			all = append(all, fmt.Sprintf("%s: the output of the program %q", name, command))
		}
	}
	for _, s := range c.Servers {
		say(s.Name, s.PasswordEnv, s.PasswordCommand)
	}
	for _, s := range c.Scratch {
		say(s.Name, s.PasswordEnv, s.PasswordCommand)
	}
	return all
}
