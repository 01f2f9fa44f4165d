// Package config reads echo-atlas.toml: the servers by name, and where things are.
package config

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"echo-atlas/internal/core/engine"
)

// FileName is the name of a configuration file.
const FileName = "echo-atlas.toml"

// Config is a configuration, with its paths made absolute.
type Config struct {
	Path    string // "" if there is none
	Own     bool   // the user's own, or named by hand
	Trusted bool   // may use secrets: its own, or trusted once
	Home    string // where the catalogue lies, "" if not said
	Servers []Server
	Scratch []Scratch
	// Formats are styles of SQL by name, "" the house's own.
	Formats map[string]Format
	// Selections are lists of addresses by name.
	Selections map[string][]string
	// Diff says how databases are compared where the command line does not.
	Diff Diff
	// Hosts are servers by the hosts, with or without a port, under which other servers know them.
	Hosts map[string]string

	notes, reports []string // patterns of files
}

// Diff says how databases are compared.
type Diff struct {
	Without   []string `toml:"without"`
	WithOrder bool     `toml:"with_order"`
	Exact     bool     `toml:"exact"`
	NoRenames bool     `toml:"no_renames"`
	Rename    []string `toml:"rename"`
}

// Server is a server that the configuration names.
type Server struct {
	Name            string
	URL             string   `toml:"url"`
	Files           string   `toml:"files"`
	Environment     string   `toml:"environment"`
	Family          string   `toml:"family"`
	PasswordEnv     string   `toml:"password_env"`
	PasswordCommand string   `toml:"password_command"`
	Databases       []string `toml:"databases"`
	Skip            []string `toml:"skip"`
	// Pair names, for databases that are called otherwise than their counterparts in other environments, what these
	// are called.
	Pair map[string]string `toml:"pair"`
}

// Counterpart returns what the counterparts of a server's database are called, "" where that is its own name.
func (c *Config) Counterpart(server, database string) string {
	for i := range c.Servers {
		if c.Servers[i].Name == server {
			return c.Servers[i].Pair[database]
		}
	}
	return ""
}

// Scratch is a server where scratch databases may be made and dropped.
type Scratch struct {
	Name            string
	URL             string `toml:"url"`
	PasswordEnv     string `toml:"password_env"`
	PasswordCommand string `toml:"password_command"`
}

type document struct {
	Home    string             `toml:"home"`
	Servers map[string]Server  `toml:"servers"`
	Scratch map[string]Scratch `toml:"scratch"`

	Selections map[string][]string `toml:"selections"`
	Format     map[string]any      `toml:"format"`
	Diff       Diff                `toml:"diff"`
	Hosts      map[string]string   `toml:"hosts"`
	Notes      filesTable          `toml:"notes"`
	Reports    filesTable          `toml:"reports"`
}

// Find returns the path of the configuration that counts in a folder: there or in a parent, else in
// the user's configuration folder; "" if there is none.
func Find(folder, userFolder string) (path string, trusted bool) {
	for dir := folder; ; dir = filepath.Dir(dir) {
		path := filepath.Join(dir, FileName)
		if st, err := os.Stat(path); err == nil && st.Mode().IsRegular() {
			return path, userFolder != "" && dir == filepath.Join(userFolder, "echo-atlas")
		}
		if dir == filepath.Dir(dir) {
			break
		}
	}
	if userFolder != "" {
		path := filepath.Join(userFolder, "echo-atlas", FileName)
		if _, err := os.Stat(path); err == nil {
			return path, true
		}
	}
	return "", false
}

// Load reads a configuration file. Errors name the file, and the line where there is one.
func Load(path string, trusted bool) (*Config, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("there is no configuration file %s", path)
		}
		return nil, fmt.Errorf("reading the configuration: %w", err)
	}
	var doc document
	d := toml.NewDecoder(bytes.NewReader(text)).DisallowUnknownFields()
	if err := d.Decode(&doc); err != nil {
		return nil, fmt.Errorf("%s: %s", path, explain(err))
	}
	folder, err := filepath.Abs(filepath.Dir(path))
	if err != nil {
		return nil, fmt.Errorf("reading the configuration: %w", err)
	}
	c := &Config{Path: path, Own: trusted, Trusted: trusted, Selections: doc.Selections, Diff: doc.Diff, Hosts: doc.Hosts}
	for host, server := range c.Hosts {
		if host == "" || server == "" {
			return nil, fmt.Errorf("%s: [hosts]: write the host and its server, such as \"db1.example\" = \"quay-live\"", path)
		}
	}
	if c.Formats, err = formats(doc.Format); err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	for _, file := range doc.Notes.Files {
		c.notes = append(c.notes, resolve(folder, file))
	}
	for _, file := range doc.Reports.Files {
		c.reports = append(c.reports, resolve(folder, file))
	}
	if doc.Home != "" {
		c.Home = resolve(folder, doc.Home)
	}
	for name, s := range doc.Servers {
		s.Name = name
		if err := s.check(); err != nil {
			return nil, fmt.Errorf("%s: server %s: %w", path, name, err)
		}
		if s.Files != "" {
			s.Files = resolve(folder, s.Files)
		}
		if file, ok := engine.FilePath(s.URL); ok {
			s.URL = engine.FileURL(resolve(folder, file))
		}
		c.Servers = append(c.Servers, s)
	}
	slices.SortFunc(c.Servers, func(a, b Server) int { return cmp.Compare(a.Name, b.Name) })
	for name, s := range doc.Scratch {
		s.Name = name
		if engine.HasPassword(s.URL) {
			return nil, fmt.Errorf("%s: scratch %s: %w", path, name, engine.ErrPassword)
		}
		c.Scratch = append(c.Scratch, s)
	}
	slices.SortFunc(c.Scratch, func(a, b Scratch) int { return cmp.Compare(a.Name, b.Name) })
	return c, nil
}

func (s *Server) check() error {
	switch {
	case s.Name == "":
		return errors.New("its name is empty")
	case s.URL == "" && s.Files == "":
		return errors.New("url or files is missing")
	case s.URL != "" && s.Files != "":
		return errors.New("it has both url and files; one server has one of them")
	case engine.HasPassword(s.URL):
		return engine.ErrPassword
	case slices.Contains(slices.Collect(maps.Values(s.Pair)), ""):
		return errors.New("pair names no counterpart for one of the databases; write pair = { berths_stage = \"berths\" }")
	case s.PasswordEnv != "" && s.PasswordCommand != "":
		return errors.New("it has both password_env and password_command")
	}
	return nil
}

// resolve makes a path absolute, from the configuration's folder.
func resolve(folder, path string) string {
	if rest, ok := strings.CutPrefix(path, "~/"); ok {
		if home, err := os.UserHomeDir(); err == nil {
			return filepath.Join(home, rest)
		}
	}
	if filepath.IsAbs(path) {
		return path
	}
	return filepath.Join(folder, path)
}

// explain puts an error of the TOML reader into one line with its place.
func explain(err error) string {
	var strict *toml.StrictMissingError
	if errors.As(err, &strict) && len(strict.Errors) > 0 {
		e := strict.Errors[0]
		row, _ := e.Position()
		return fmt.Sprintf("line %d: %q is no setting here; see: docs/configuration.md", row, strings.Join(e.Key(), "."))
	}
	var decode *toml.DecodeError
	if errors.As(err, &decode) {
		row, column := decode.Position()
		return fmt.Sprintf("line %d, column %d: %s", row, column, strings.TrimPrefix(decode.Error(), "toml: "))
	}
	return err.Error()
}
