package cli

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
	"echo-atlas/internal/core/schema"
)

// databases resolves addresses to databases as a whole.
func databases(ctx context.Context, r *catalogue.Resolver, texts []string) ([]catalogue.Match, error) {
	matches, err := resolveAll(ctx, r, texts)
	if err != nil {
		return nil, err
	}
	for i := range matches {
		if matches[i].Entry != nil || matches[i].Schema != "" {
			return nil, usagef("%s is no database; a snapshot covers a database", matches[i].Location())
		}
	}
	return matches, nil
}

func (a *app) snapshotLabel(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() != 2 {
		return usagef("snapshots label takes ADDRESS and LABEL")
	}
	label := cmd.Args().Get(1)
	if strings.ContainsAny(label, "/@") {
		return usagef("a label cannot hold / or @: it stands behind @ in an address")
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	all, err := databases(ctx, r, []string{cmd.Args().First()})
	if err != nil {
		return err
	}
	for i := range all {
		s := all[i].Contents.Snapshot
		if err := c.SetLabel(ctx, s, label); err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "labelled %s, read %s: %s\n", render.Visible(s.Location().String()), s.Taken.Local().Format("2006-01-02 15:04"), render.Visible(label))
	}
	return nil
}

func (a *app) snapshotExport(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() != 1 {
		return usagef("snapshots export takes one ADDRESS")
	}
	out, into := cmd.String("out"), cmd.String("into")
	if out != "" && into != "" {
		return usagef("--out writes a file, --into a folder; give one of them")
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	address, err := schema.ParseAddress(cmd.Args().First())
	if err != nil {
		return err
	}
	m, err := r.One(ctx, address)
	if err != nil {
		return err
	}
	if m.Entry != nil || m.Schema != "" {
		return usagef("%s is no database; a snapshot covers a database", m.Location())
	}
	if into != "" {
		files, err := c.ExportFiles(ctx, m.Contents.Snapshot)
		if err != nil {
			return err
		}
		return a.writeFolder(into, files)
	}
	text, err := c.Export(ctx, m.Contents.Snapshot)
	if err != nil {
		return err
	}
	if out == "" {
		_, err = a.Stdout.Write(text)
		return err
	}
	return writeWhole(out, text, func(first string) bool { return strings.HasPrefix(first, "{") })
}

// writeFolder writes files below a folder, and removes files of an earlier export that are not among
// them. A folder that holds anything else is refused.
func (a *app) writeFolder(dir string, files map[string][]byte) error {
	var old []string
	err := filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if e.IsDir() {
			if strings.HasPrefix(e.Name(), ".") && path != dir {
				return filepath.SkipDir // such as .git
			}
			return nil
		}
		name, err := filepath.Rel(dir, path)
		if err == nil && filepath.Ext(name) != ".json" {
			return usagef("%s holds %s, which is no part of an export; choose an empty folder", dir, name)
		}
		old = append(old, filepath.ToSlash(name))
		return err
	})
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if len(old) > 0 {
		if _, err := os.Stat(filepath.Join(dir, "snapshot.json")); err != nil {
			return usagef("%s is not empty and holds no export; choose another folder", dir)
		}
	}
	for name, text := range files {
		path := filepath.Join(dir, filepath.FromSlash(name))
		if before, err := os.ReadFile(path); err == nil && string(before) == string(text) {
			continue
		}
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return fmt.Errorf("writing the export: %w", err)
		}
		if err := writeWhole(path, text, func(string) bool { return true }); err != nil {
			return err
		}
	}
	for _, name := range old {
		if _, ok := files[name]; !ok {
			if err := os.Remove(filepath.Join(dir, filepath.FromSlash(name))); err != nil {
				return fmt.Errorf("removing a file of an earlier export: %w", err)
			}
		}
	}
	fmt.Fprintf(a.Stderr, "wrote %s: %s\n", render.Visible(dir), render.Plural(len(files), "file", "files"))
	return nil
}

func (a *app) snapshotImport(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() != 1 {
		return usagef("snapshots import takes one PATH")
	}
	path := cmd.Args().First()
	reading, from, err := catalogue.Import(path)
	if err != nil {
		return err
	}
	base := filepath.Base(path)
	from.Server = strings.TrimSuffix(base, filepath.Ext(base))
	if name := cmd.String("name"); name != "" {
		from.Server = name
	}
	for _, s := range a.cfg.Servers {
		if s.Name == from.Server {
			return usagef("the configuration has a server %q, whose readings would mix with the import; give another name with --name", from.Server)
		}
	}
	c, err := a.open(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	s, _, err := c.Save(ctx, from, reading)
	if err != nil {
		return err
	}
	fmt.Fprintf(a.Stderr, "stored %s: %s\n", render.Visible(s.Location().String()), render.Plural(len(reading.Objects), "object", "objects"))
	return nil
}

func (a *app) snapshotDrop(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() == 0 {
		return usagef("snapshots drop takes the ADDRESS of what to drop")
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	matches, err := databases(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	var gone []*catalogue.Snapshot
	for i := range matches {
		s := matches[i].Contents.Snapshot
		switch {
		case s.When != "":
			gone = append(gone, s)
		case cmd.Bool("all") || cmd.Int("keep") > 0:
			all, err := c.Of(ctx, s.Server, s.Database)
			if err != nil {
				return err
			}
			gone = append(gone, all[min(int(cmd.Int("keep")), len(all)):]...)
		default:
			return usagef("%s names all snapshots of a database; name one with @WHEN, or add --keep N or --all", s.Location())
		}
	}
	gone = catalogue.Sources(gone...)
	if err := c.Drop(ctx, gone); err != nil {
		return err
	}
	fmt.Fprintf(a.Stderr, "dropped %s\n", render.Plural(len(gone), "snapshot", "snapshots"))
	return nil
}
