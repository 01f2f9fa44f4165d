// Package walls tests that the parts of the program depend on each other in one direction only.
package walls

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// layers of internal/core, from the bottom up: a package imports only from its own layer or below.
var layers = [][]string{
	{"names", "stored"},
	{"schema", "sqltext"},
	{"engine"},
	{"engine/postgres", "engine/sqlite", "engine/mariadb", "engine/sqlserver", "catalogue/index", "config"},
	{"catalogue", "references"},
	{"catalogue/exchange"},
	{"address"},
	{"selection", "gaps", "notes"},
	{"survey", "search", "trace", "diff", "template", "report"},
	{"format", "carry"}, {"ddl", "view"}, {"rename", "prove", "chart"}, {"change", "drift", "history"}, {"handbook", "report/own"},
}

func layer(pkg string) int {
	return slices.IndexFunc(layers, func(l []string) bool { return slices.Contains(l, pkg) })
}

func TestWalls(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		from, inCore := strings.CutPrefix(filepath.ToSlash(filepath.Dir(path)), "../core/")
		for _, spec := range file.Imports {
			target, _ := strconv.Unquote(spec.Path.Value)
			to, toCore := strings.CutPrefix(target, "echo-atlas/internal/core/")
			switch {
			case !inCore:
			case strings.HasPrefix(target, "echo-atlas/") && !toCore,
				slices.Contains([]string{"flag", "github.com/urfave/cli/v3", "golang.org/x/term"}, target):
				t.Errorf("%s imports %s: the core knows no interface", path, target)
			case toCore && (layer(from) < 0 || layer(to) < 0):
				t.Errorf("%s or %s has no layer", from, to)
			case toCore && layer(to) > layer(from), toCore && strings.HasPrefix(from, "engine/") && layer(to) == layer(from):
				t.Errorf("%s imports %s, which lies above it or beside it", path, to)
			}
			seen++
		}
		return nil
	})
	if err != nil || seen < 50 {
		t.Errorf("%d imports looked at, %v", seen, err)
	}
}

// engineWords name an engine or its client.
var engineWords = regexp.MustCompile(`(?i)postgres|mariadb|mysql|sqlite|sql ?server|\bpsql\b|sqlcmd`)

// Only an engine's own package names it, and only the interface names the program or an option.
func TestWords(t *testing.T) {
	allowed := map[string]*regexp.Regexp{
		"../core/engine/whois.go":              regexp.MustCompile(`^a(n)? |^-MariaDB$`),                  // who answers at a port, by the greeting
		"../core/engine/url.go":                regexp.MustCompile(`^sqlite$`),                            // the scheme of paths
		"../core/catalogue/store.go":           regexp.MustCompile(`^sqlite$|^SELECT count`),              // the catalogue is such a file itself
		"../core/report/own/run.go":            regexp.MustCompile(`^sqlite$`),                            // so are the tables of reports
		"../core/catalogue/exchange/export.go": regexp.MustCompile(`^("format": ")?echo-atlas snapshot `), // the name of the format
		"../core/config/config.go":             regexp.MustCompile(`^echo-atlas(\.toml)?$`),               // the names of files
		"../core/config/trust.go":              regexp.MustCompile(`^echo-atlas$`),
		"../core/engine/guard.go":              regexp.MustCompile(`^echo-atlas/internal/$`), // the place of a panic
	}
	option := regexp.MustCompile(`(^|[ (])--[a-z]`)
	err := filepath.WalkDir("../core", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ownRoom := regexp.MustCompile(`/engine/(postgres|mariadb|sqlite|sqlserver)/`).MatchString(filepath.ToSlash(path))
		ast.Inspect(file, func(n ast.Node) bool {
			if _, ok := n.(*ast.ImportSpec); ok {
				return false
			}
			literal, ok := n.(*ast.BasicLit)
			if !ok || literal.Kind != token.STRING {
				return true
			}
			text, _ := strconv.Unquote(literal.Value)
			fine := allowed[filepath.ToSlash(path)]
			switch {
			case fine != nil && fine.MatchString(text):
			case !ownRoom && engineWords.MatchString(text):
				t.Errorf("%s names an engine: %q", path, text)
			case strings.Contains(text, "echo-atlas"), option.MatchString(text) && !ownRoom:
				t.Errorf("%s knows the command line: %q", path, text)
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Error(err)
	}
}

// opens reports whether a file opens with a sentence on its one idea, before or behind its imports.
func opens(file *ast.File) bool {
	if file.Doc != nil {
		return true
	}
	attached := map[*ast.CommentGroup]bool{}
	var first token.Pos
	for _, d := range file.Decls {
		switch d := d.(type) {
		case *ast.GenDecl:
			attached[d.Doc] = true
			if d.Tok == token.IMPORT {
				continue
			}
		case *ast.FuncDecl:
			attached[d.Doc] = true
		}
		if first == 0 {
			first = d.Pos()
		}
	}
	return slices.ContainsFunc(file.Comments, func(c *ast.CommentGroup) bool { return !attached[c] && (first == 0 || c.Pos() < first) })
}

// A function that does not fit on a screen is several; only tables are longer. A file says what it is about.
func TestLengths(t *testing.T) {
	const most = 80
	tables := []string{"tails"}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		set := token.NewFileSet()
		file, err := parser.ParseFile(set, path, nil, parser.SkipObjectResolution|parser.ParseComments)
		if err != nil {
			return err
		}
		if !opens(file) {
			t.Errorf("%s opens with no sentence", path)
		}
		for _, d := range file.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok || slices.Contains(tables, f.Name.Name) {
				continue
			}
			if n := set.Position(f.End()).Line - set.Position(f.Pos()).Line + 1; n > most {
				t.Errorf("%s: %s has %d lines", path, f.Name.Name, n)
			}
		}
		return nil
	})
	if err != nil {
		t.Error(err)
	}
}
