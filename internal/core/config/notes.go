package config

// Files beside the configuration: descriptions, which [notes] names, and reports, which [reports] names.

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"github.com/pelletier/go-toml/v2"
)

// filesTable is [notes] or [reports].
type filesTable struct {
	Files []string `toml:"files"`
}

// Notes reads the files of notes and returns the texts by address. A file is TOML: "ADDRESS" = "TEXT", a line each. Of one address in
// several files the last counts.
func (c *Config) Notes() (map[string]string, error) {
	all := map[string]string{}
	files, err := c.files("notes", c.notes)
	if err != nil {
		return nil, err
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			return nil, fmt.Errorf("reading the notes: %w", err)
		}
		var doc map[string]string
		if err := toml.NewDecoder(bytes.NewReader(text)).Decode(&doc); err != nil {
			return nil, fmt.Errorf("%s: %s (notes are written as \"ADDRESS\" = \"TEXT\")", file, explain(err))
		}
		for at, note := range doc {
			all[at] = note
		}
	}
	return all, nil
}

// ReportFiles returns the files of reports.
func (c *Config) ReportFiles() ([]string, error) { return c.files("reports", c.reports) }

// files returns the files that patterns of a table match, those of each pattern in the order of their names.
func (c *Config) files(table string, patterns []string) ([]string, error) {
	var all []string
	for _, pattern := range patterns {
		files, err := filepath.Glob(pattern)
		if err != nil {
			return nil, fmt.Errorf("%s: [%s]: the pattern %q is not understood: %w", c.Path, table, pattern, err)
		}
		if len(files) == 0 {
			return nil, fmt.Errorf("%s: [%s]: no file matches %s", c.Path, table, pattern)
		}
		slices.Sort(files)
		all = append(all, files...)
	}
	return all, nil
}
