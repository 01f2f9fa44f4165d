package cli

// ddl --into FOLDER: a file an object, and main.sql that runs them. What an earlier run wrote there goes; a folder that holds
// anything else is left alone.

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
)

const mainScript = "main.sql"

func (a *app) ddlInto(ctx context.Context, c *catalogue.Catalogue, cmd *cli.Command, chosen []choice, named []string, o ddl.Options, into string) error {
	if a.as == "json" {
		return usagef("--into writes files; --as json prints the statements without it")
	}
	several := len(chosen) > 1
	refused := &ddl.RefusedError{}
	for _, of := range chosen {
		folder := into
		if several {
			folder = filepath.Join(into, ddl.FileName(of.contents.Snapshot.Server), ddl.FileName(of.contents.Snapshot.Database))
		}
		script, unseen, err := a.script(ctx, c, of, named, o)
		if err != nil {
			return err
		}
		a.needed(script, o)
		if name, wanted := proving(cmd); wanted {
			fmt.Fprintf(a.Stderr, "%s: ", render.Visible(script.Snapshot.Location().String()))
			if _, err := a.prove(ctx, c, of, o, name, ""); err != nil {
				return err
			}
		}
		files := script.Files()
		if err := clearScripts(folder); err != nil {
			return err
		}
		for _, f := range files {
			heading := fmt.Sprintf("%s%s %s of %s\n\n", scriptMark, f.Object.Kind, render.Visible(f.Object.String()), render.Visible(script.Snapshot.Location().String()))
			path := filepath.Join(folder, filepath.FromSlash(f.Path))
			if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
				return fmt.Errorf("writing the scripts: %w", err)
			}
			err := writeScript(path, heading, f.Script)
			if left := (*ddl.RefusedError)(nil); errors.As(err, &left) { // it is said in the end, and costs no other file
				refused.Statements = append(refused.Statements, left.Statements...)
			} else if err != nil {
				return err
			}
		}
		text := a.scriptHeading(script, cmd, unseen) + "-- run it in this folder, in the order in which the files stand\n\n" + script.Includes(files)
		if err := writeWhole(filepath.Join(folder, mainScript), []byte(text), func(first string) bool { return strings.HasPrefix(first, scriptMark) }); err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "wrote %s: %s in %s; %s runs them\n", render.Visible(folder), render.Plural(script.Objects, "object", "objects"), render.Plural(len(files), "file", "files"), mainScript)
	}
	if len(refused.Statements) > 0 {
		return refused
	}
	return nil
}

// clearScripts takes the files out of a folder that its main script names.
func clearScripts(folder string) error {
	entries, err := os.ReadDir(folder)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return os.MkdirAll(folder, 0o755)
	case err != nil:
		return fmt.Errorf("writing the scripts: %w", err)
	case len(entries) == 0:
		return nil
	}
	text, err := os.ReadFile(filepath.Join(folder, mainScript))
	if err != nil || !strings.HasPrefix(string(text), scriptMark) {
		return usagef("%s holds something else than scripts of echo-atlas; name an empty or a new folder", folder)
	}
	for line := range strings.Lines(string(text)) {
		_, name, ok := strings.Cut(strings.TrimSpace(line), " ")
		if !ok || strings.HasPrefix(line, "--") || !strings.HasSuffix(name, ".sql") || !filepath.IsLocal(filepath.FromSlash(name)) {
			continue
		}
		path := filepath.Join(folder, filepath.FromSlash(name))
		if !strings.HasPrefix(beginningOf(path), scriptMark) {
			continue
		}
		if err := os.Remove(path); err != nil {
			return fmt.Errorf("writing the scripts: %w", err)
		}
		for dir := filepath.Dir(path); dir != filepath.Clean(folder); dir = filepath.Dir(dir) {
			if os.Remove(dir) != nil { // it holds more
				break
			}
		}
	}
	return nil
}
