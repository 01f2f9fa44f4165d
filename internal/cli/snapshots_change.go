package cli

// The commands that label, export, import and drop snapshots.

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/exchange"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

// databases resolves addresses to databases as a whole.
func (a *app) databases(ctx context.Context, r *address.Resolver, texts []string) ([]address.Match, error) {
	matches, err := a.resolveAll(ctx, r, texts)
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
	if err := catalogue.CheckLabel(label); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	all, err := a.databases(ctx, r, []string{cmd.Args().First()})
	if err != nil {
		return err
	}
	for i := range all {
		s := all[i].Contents.Snapshot
		taken, err := c.SetLabel(ctx, s, label)
		if err != nil {
			return err
		}
		if label == "" {
			fmt.Fprintf(a.Stderr, "%s, read %s, has no label now\n", render.Visible(s.Location().String()), s.Taken.Local().Format("2006-01-02 15:04"))
			continue
		}
		if taken != nil {
			fmt.Fprintf(a.Stderr, "the label %s is taken from the reading of %s\n", render.Visible(label), taken.Taken.Local().Format("2006-01-02 15:04"))
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
	matches, err := a.resolveAll(ctx, r, []string{cmd.Args().First()})
	if err != nil {
		return err
	}
	sets := selection.Gather(matches)
	for _, w := range r.Without {
		fmt.Fprintf(a.Stderr, "left out: %s\n", render.Visible(w.Error()))
	}
	if into == "" && len(sets) > 1 {
		return usagef("%s covers %d databases; write them to a folder with --into", cmd.Args().First(), len(sets))
	}
	for _, s := range sets {
		if len(s.Parts) > 0 {
			return usagef("%s is a part; export its object", s.Parts[0].Location())
		}
		var wanted func(schema.ID) bool
		if !s.Whole {
			if !cmd.Bool("bare") {
				if err := s.AddAttached(ctx, c); err != nil {
					return err
				}
			}
			wanted = s.Covers
		}
		if into != "" {
			files, err := exchange.ExportFiles(ctx, c, s.Contents.Snapshot, wanted)
			if err != nil {
				return err
			}
			folder := into
			if len(sets) > 1 {
				folder = filepath.Join(into, exchange.SafeName(s.Contents.Snapshot.Database))
			}
			if err := a.writeFolder(folder, files); err != nil {
				return err
			}
			continue
		}
		text, err := exchange.Export(ctx, c, s.Contents.Snapshot, wanted)
		if err != nil {
			return err
		}
		if out == "" {
			_, err = a.Stdout.Write(text)
			return err
		}
		if err := writeWhole(out, text, exchange.IsExport); err != nil {
			return err
		}
	}
	return nil
}

// writeFolder writes files below a folder, and removes files of an earlier export that are not among them. What no
// export wrote stays, and is never written over; links out of the folder are not followed.
func (a *app) writeFolder(dir string, files map[string][]byte) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return fmt.Errorf("writing the export: %w", err)
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return fmt.Errorf("writing the export: %w", err)
	}
	defer root.Close()
	var old []string
	err = fs.WalkDir(root.FS(), ".", func(name string, e fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case e.IsDir() && strings.HasPrefix(e.Name(), ".") && name != ".":
			return filepath.SkipDir // such as .git
		case !e.IsDir() && exchange.IsExportName(name):
			if !exchange.OwnFile(dir, name) {
				if _, taken := files[name]; taken {
					return usagef("%s was not written by echo-atlas; move it away or choose another folder", filepath.Join(dir, name))
				}
				return nil // somebody else's
			}
			old = append(old, name)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for name, text := range files {
		if err := writeInside(root, name, text); err != nil {
			return fmt.Errorf("writing the export: %w", err)
		}
	}
	for _, name := range old {
		if _, ok := files[name]; !ok {
			if err := root.Remove(name); err != nil {
				return fmt.Errorf("removing a file of an earlier export: %w", err)
			}
		}
	}
	fmt.Fprintf(a.Stderr, "wrote %s: %s\n", render.Visible(dir), render.Plural(len(files), "file", "files"))
	return nil
}

// writeInside writes a file within a folder, as a whole or not at all; one that holds the text already stays as it is.
func writeInside(root *os.Root, name string, text []byte) error {
	if before, err := root.ReadFile(name); err == nil && string(before) == string(text) {
		return nil
	}
	if err := root.MkdirAll(path.Dir(name), 0o755); err != nil {
		return err
	}
	tmp := path.Join(path.Dir(name), ".echo-atlas-"+strconv.Itoa(os.Getpid()))
	if err := root.WriteFile(tmp, text, 0o644); err != nil {
		_ = root.Remove(tmp)
		return err
	}
	return root.Rename(tmp, name)
}

func (a *app) snapshotImport(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() == 0 {
		return usagef("snapshots import takes the PATH of each snapshot")
	}
	type imported struct {
		reading *schema.Reading
		from    catalogue.Origin
	}
	var all []imported
	for _, file := range cmd.Args().Slice() {
		reading, from, err := exchange.Import(file)
		if errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("%w; it takes the file or folder that snapshots export wrote with --out", err)
		}
		if err != nil {
			return err
		}
		base := filepath.Base(file)
		from.Server = strings.TrimSuffix(base, filepath.Ext(base))
		if name := cmd.String("name"); name != "" {
			from.Server = name
		}
		for _, s := range a.cfg.Servers {
			if s.Name == from.Server {
				return usagef("the configuration has a server %q, whose readings would mix with the import; give another name with --name", from.Server)
			}
		}
		all = append(all, imported{reading, from})
	}
	slices.SortStableFunc(all, func(x, y imported) int { return x.reading.Taken.Compare(y.reading.Taken) }) // as they were taken
	c, err := a.open(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	for _, x := range all {
		s, _, err := c.Save(ctx, x.from, x.reading)
		if err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "stored %s: %s\n", render.Visible(s.Location().String()), render.Plural(len(x.reading.Objects), "object", "objects"))
	}
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
	matches, err := a.databases(ctx, r, cmd.Args().Slice())
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
