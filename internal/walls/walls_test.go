// Package walls tests that the parts of the program depend on each other in one direction only.
package walls

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// layers of internal/core, from the bottom up: a package imports only from its own layer or below.
var layers = [][]string{
	{"names"},
	{"schema", "sqltext"},
	{"engine"},
	{"engine/postgres", "engine/sqlite", "engine/mariadb", "engine/sqlserver", "catalogue", "config"},
	{"catalogue/exchange"},
	{"address"},
	{"selection", "gaps"},
	{"survey", "search", "trace", "diff", "template"},
	{"ddl"},
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
