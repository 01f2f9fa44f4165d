package cli

// The command snapshots: the readings there are.

import (
	"context"
	"strconv"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/schema"
)

func (a *app) snapshotsCommand() *cli.Command {
	return &cli.Command{
		Name:      "snapshots",
		Usage:     "the snapshots of the catalogue; label, export, import and drop them",
		ArgsUsage: "[ADDRESS…]",
		Description: "The column \"back\" counts different readings back: what an address takes behind @.\n\n" +
			"Examples:\n  echo-atlas snapshots\n  echo-atlas snapshots quay-live/berths\n  echo-atlas diff quay-live/berths@1 quay-live/berths",
		Flags:  []cli.Flag{limitFlag(200)},
		Action: a.snapshots,
		Commands: []*cli.Command{
			{Name: "label", Usage: "give a snapshot a label, or with \"\" take it away", ArgsUsage: "ADDRESS LABEL", Action: a.snapshotLabel,
				Description: "Example:\n  echo-atlas snapshots label quay-live/berths release-4"},
			{Name: "export", Usage: "write a snapshot, or some of its objects, to one JSON file, or to a folder with a file for each object", ArgsUsage: "ADDRESS", Action: a.snapshotExport,
				Description: "An exported snapshot can stand wherever an address is taken: a path that starts with ./, / or ~.\n\n" +
					"Examples:\n  echo-atlas snapshots export quay-live/berths --out berths.json\n  echo-atlas snapshots export quay-live/berths --into schema\n" +
					"  echo-atlas snapshots export quay-live@release-4 --into schemas\n" +
					"  echo-atlas diff ./berths.json quay-dev/berths",
				Flags: []cli.Flag{&cli.StringFlag{Name: "out", Usage: "the `FILE` to write; stdout if none is named"},
					&cli.StringFlag{Name: "into", Usage: "the `FOLDER` to write to; files in it that are no part of an export stay"}, bareFlag()}},
			{Name: "import", Usage: "store an exported snapshot in the catalogue", ArgsUsage: "PATH…", Action: a.snapshotImport,
				Description: "Example:\n  echo-atlas snapshots import berths.json --name customer-a",
				Flags:       []cli.Flag{&cli.StringFlag{Name: "name", Usage: "what to call the server; the name of the file, if none is named"}}},
			{Name: "remarks", Usage: "what the readings could not see, and what else they tell", ArgsUsage: "[ADDRESS…]", Action: a.snapshotRemarks,
				Description: "Nothing is read anew.\n\nExample:\n  echo-atlas snapshots remarks quay-live"},
			{Name: "drop", Usage: "drop snapshots and what only they hold", ArgsUsage: "ADDRESS…", Action: a.snapshotDrop,
				Description: "An ADDRESS with @WHEN drops that reading; all of a database go with --all, all but the latest N with --keep N.\n\n" +
					"Examples:\n  echo-atlas snapshots drop quay-dev/berths@3\n  echo-atlas snapshots drop quay-dev --keep 10",
				Flags: []cli.Flag{&cli.BoolFlag{Name: "all", Usage: "drop every snapshot of the databases"}, &cli.IntFlag{Name: "keep", Usage: "keep the latest `N` snapshots of each database"}}},
		},
	}
}

type snapshotRow struct {
	Snapshot    int64               `json:"snapshot"`
	Address     string              `json:"address"`
	Server      string              `json:"server"`
	Database    string              `json:"database"`
	Environment string              `json:"environment,omitempty"`
	Engine      string              `json:"engine"`
	Taken       time.Time           `json:"taken"`
	AgeSeconds  int64               `json:"age_seconds"`
	Label       string              `json:"label,omitempty"`
	Back        int                 `json:"back"`
	Same        bool                `json:"same_as_before"`
	Counts      map[schema.Kind]int `json:"counts"`
	Remarks     []schema.Remark     `json:"remarks"`
}

func (a *app) snapshots(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html"); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, nil)
	if err != nil {
		return err
	}
	defer c.Close()
	all, err := c.Snapshots(ctx)
	if err != nil {
		return err
	}
	wanted := map[[2]string]bool{}
	if cmd.Args().Len() > 0 {
		matches, err := a.resolveAll(ctx, r, cmd.Args().Slice())
		if err != nil {
			return err
		}
		for i := range matches {
			s := matches[i].Contents.Snapshot
			wanted[[2]string{s.Server, s.Database}] = true
		}
	}
	rows := []snapshotRow{}
	back := 0
	for i, s := range all {
		sameDatabase := i > 0 && all[i-1].Server == s.Server && all[i-1].Database == s.Database
		if !sameDatabase {
			back = 0
		} else if all[i-1].Root != s.Root {
			back++
		}
		if len(wanted) > 0 && !wanted[[2]string{s.Server, s.Database}] {
			continue
		}
		same := i+1 < len(all) && all[i+1].Server == s.Server && all[i+1].Database == s.Database && all[i+1].Root == s.Root
		rows = append(rows, snapshotRow{s.ID, s.Location().String(), s.Server, s.Database, s.Environment, s.Engine, s.Taken,
			int64(a.Now().Sub(s.Taken).Seconds()), s.Label, back, same, s.Counts, s.Remarks})
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"snapshots": rows})
	}
	if len(rows) == 0 {
		a.printf("There are no snapshots; run: echo-atlas survey\n")
		return nil
	}
	return a.snapshotTable(rows, int(cmd.Int("limit")))
}

func (a *app) snapshotTable(rows []snapshotRow, limit int) error {
	t := render.Table{Columns: []render.Column{{Title: "database", Min: 20}, {Title: "back", Right: true}, {Title: "taken"}, {Title: "age"}, {Title: "objects", Right: true},
		{Title: "content"}, {Title: "label", Min: 10}}}
	if a.forMachines() {
		t.Columns[0].Title, t.Columns[3].Title = "address", "age_seconds"
		t.Columns = append(t.Columns, render.Column{Title: "server"}, render.Column{Title: "database"})
	}
	for i, s := range rows {
		if limit > 0 && i == limit && a.as == "text" {
			break
		}
		objects := 0
		for _, n := range s.Counts {
			objects += n
		}
		content := "changed"
		if s.Same {
			content = "as before"
		}
		if i+1 == len(rows) || rows[i+1].Address != s.Address {
			content = "first"
		}
		if a.forMachines() {
			t.Add(s.Address, strconv.Itoa(s.Back), s.Taken.Format(time.RFC3339), strconv.FormatInt(s.AgeSeconds, 10), strconv.Itoa(objects), content, s.Label, s.Server, s.Database)
			continue
		}
		t.Add(s.Address, strconv.Itoa(s.Back), s.Taken.Local().Format("2006-01-02 15:04"), render.Age(a.Now().Sub(s.Taken)), render.Count(objects), content, s.Label)
	}
	if err := a.table(&t); err != nil {
		return err
	}
	if a.as == "text" && len(t.Rows) < len(rows) {
		a.printf("\n%s, %d shown; for all add --limit 0\n", render.Plural(len(rows), "snapshot", "snapshots"), len(t.Rows))
	}
	return nil
}
