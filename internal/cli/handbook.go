package cli

// The command handbook: the catalogue as static pages.

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/handbook"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

func (a *app) handbookCommand() *cli.Command {
	return &cli.Command{
		Name:      "handbook",
		Usage:     "the catalogue as pages that open with nothing installed",
		ArgsUsage: "[ADDRESS…] --into FOLDER",
		Description: "Writes an overview, a page for each database and one for each object, with a search over all names. Without ADDRESS\nit is about everything. Written again into the same folder, only what changed is written.\n\n" +
			"Examples:\n  echo-atlas handbook --into handbook\n  echo-atlas handbook quay-live --into quay --without grants,owners\n  echo-atlas handbook quay-live/berths --one-file berths.html",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			&cli.StringFlag{Name: "into", Usage: "the `FOLDER` to write into: a new or empty one, or one with a handbook"},
			&cli.StringFlag{Name: "one-file", Usage: "write all into this `FILE`, for mail"},
			&cli.StringFlag{Name: "title", Usage: "what the handbook is called", Value: "Handbook"},
			&cli.StringSliceFlag{Name: "without", Usage: "leave out these `ASPECTS`, with commas: comments, owners, grants, storage"},
		},
		Action: a.handbook,
	}
}

func (a *app) handbook(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	into, file := cmd.String("into"), cmd.String("one-file")
	if (into == "") == (file == "") {
		return usagef("say where to write: --into FOLDER, or --one-file FILE")
	}
	o := handbook.Options{Title: cmd.String("title"), Engine: a.engineOf, Say: sentence, Version: Version}
	var err error
	if o.Without, err = schema.ParseAspects(values(cmd, "without")); err != nil {
		return usagef("--without: %v", err)
	}
	if o.Notes, err = a.notes(); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	o.Latest = r.Latest()
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	var choices []handbook.Choice
	var snapshots []*catalogue.Snapshot
	for _, s := range selection.Gather(matches) {
		if s.Contents.IsOutline() {
			if s.Contents, err = c.Contents(ctx, s.Contents.Snapshot); err != nil {
				return err
			}
		}
		of := handbook.Choice{Contents: s.Contents}
		if !s.Whole {
			of.Covers = s.Covers
		}
		unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{s.Contents.Snapshot}})
		if err != nil {
			return err
		}
		of.Unseen = a.gapLines(unseen)
		choices, snapshots = append(choices, of), append(snapshots, s.Contents.Snapshot)
	}
	if file != "" {
		return a.oneFile(ctx, c, choices, o, file)
	}
	done, err := handbook.Write(ctx, c, choices, o, into)
	if errors.Is(err, handbook.ErrForeign) {
		return usagef("--into: %v; name a new folder", err)
	}
	if err != nil {
		return &exitError{exitUnreadable, err}
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"folder": into, "pages": done.Pages, "written": done.Written, "same": done.Same, "removed": done.Removed, "sources": a.sources(snapshots)})
	}
	a.printf("%s in %s: %s written, %d as before, %d removed. Open %s\n", render.Plural(done.Pages, "page", "pages"), render.Visible(into), render.Plural(done.Written, "file", "files"), done.Same, done.Removed, render.Visible(strings.TrimSuffix(into, "/")+"/index.html"))
	return nil
}

// oneFile writes the handbook as one page.
func (a *app) oneFile(ctx context.Context, c *catalogue.Catalogue, choices []handbook.Choice, o handbook.Options, file string) error {
	pages := 0
	err := writeTo(file, func(w io.Writer) (err error) {
		pages, err = handbook.WriteOne(ctx, c, choices, o, w)
		return err
	}, func(first string) bool { return strings.Contains(first, "<title>"+o.Title) })
	if err != nil {
		return err
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"file": file, "pages": pages})
	}
	_, err = fmt.Fprintf(a.Stdout, "%s in %s\n", render.Plural(pages, "object", "objects"), render.Visible(file))
	return err
}
