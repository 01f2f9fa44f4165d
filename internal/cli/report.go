package cli

// The command report: ready-made questions over the catalogue, each answered in the same forms.

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/history"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/report"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/core/view"
)

type readyMade struct{ name, about, what, advice string }

// reports are the ready-made ones, each with what it tells, what the lack of findings is called, and what to do.
var reports = []readyMade{
	{"broken", "definitions that refer to what does not exist, and objects that the server calls invalid", "is broken", "Edit or drop them; what they were to do does not happen."},
	{"unused", "views, routines, sequences and types that nothing in their database uses; programs outside may", "is unused", "Ask who calls them from outside before dropping any."},
	{"cycles", "objects that depend on each other in a circle", "depends on itself in a circle", "They can only be made, changed and dropped together."},
	{"keyless", "tables without a primary key", "lacks a primary key", "Their rows cannot be told apart for sure, replicated one by one or referred to; give them one."},
	{"unindexed", "foreign keys whose columns no index begins with", "lacks an index", "Deleting or renumbering a row that they refer to reads the whole table; make an index with these columns first."},
	{"redundant", "indexes whose columns another index or key begins with", "is redundant", "The other one answers the same questions; dropping these makes writing cheaper."},
	{"nullable", "unique keys and indexes with columns that take nulls", "takes nulls", "Rows with a null are not told apart by most engines; make the columns not null, or say so in a comment."},
	{"types", "columns whose type differs from that of most columns of their name", "differs", "Joins convert values, and may lose some; give them one type."},
	{"largest", "tables by their size", "has a size that is known", "What is large is worth an eye: indexes, partitions, old rows."},
	{"rights", "who may do what, role by role", "has rights granted", "Take away what nobody needs; rights of everybody are worth a second look."},
	{"changed", "objects that came, went or changed, the latest first; those of the last week, or of --since", "changed", "echo-atlas history ADDRESS tells what changed in one; diff compares two readings."},
	{"drift", "objects that are not the same in all environments of their family", "differs between environments", "echo-atlas drift shows them side by side, and change writes the script that carries one over."},
	{"growth", "tables by how much they grew over the readings that are kept", "grew", "Plan room for what grows; echo-atlas history draws it."},
}

func (a *app) reportCommand() *cli.Command {
	return &cli.Command{
		Name:      "report",
		Usage:     "ready-made questions over the catalogue",
		ArgsUsage: "[NAME [ADDRESS…]]",
		Description: "Without NAME the reports are listed; without ADDRESS a report is about everything.\n\nExamples:\n  echo-atlas report\n" +
			"  echo-atlas report broken quay-live\n  echo-atlas report unused quay-live/berths --kind view\n  echo-atlas report largest --as xlsx > largest.xlsx\n" +
			"  echo-atlas report ./reports/wide-tables.sql --set least=20\n\nA file ending in .sql is a report of your own, and so are those that [reports] of the configuration names: a query over the\ncatalogue's tables (docs/report.md).",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), limitFlag(1000),
			&cli.StringFlag{Name: "since", Usage: "of changed: since this `WHEN`, a date such as 2026-03-01, or a time such as 24h", Value: "168h"},
			&cli.StringSliceFlag{Name: "set", Usage: "of your own reports: a parameter as `NAME=VALUE`"},
			&cli.DurationFlag{Name: "timeout", Usage: "of your own reports: how long one may take", Value: 30 * time.Second},
		},
		Action: a.report,
	}
}

// finding is a row of a report.
type finding struct {
	place
	Reason string `json:"reason,omitempty"`
	Line   int    `json:"line,omitempty"`
	Text   string `json:"text,omitempty"`
	Circle int    `json:"circle,omitempty"` // which circle it is part of

	Columns []string `json:"columns,omitempty"`
	By      string   `json:"by,omitempty"` // the index or key that does the same
	Type    string   `json:"type,omitempty"`
	Usual   string   `json:"usual,omitempty"` // the type of most columns of the name
	Rows    *int64   `json:"rows,omitempty"`
	Bytes   *int64   `json:"bytes,omitempty"`
	More    *int64   `json:"grew_rows,omitempty"`
	Grew    *int64   `json:"grew_bytes,omitempty"`
	Week    string   `json:"-"`
	When    string   `json:"when,omitempty"`
	Change  string   `json:"change,omitempty"`
	Right   string   `json:"right,omitempty"`
	Objects int      `json:"objects,omitempty"` // to how many a right is granted
	Passed  bool     `json:"grantable,omitempty"`

	name string // within its database
}

// listReports tells of the reports that there are.
func (a *app) listReports() error {
	t := render.Table{Columns: []render.Column{{Title: "report"}, {Title: "tells", Min: 20, Wrap: true}}}
	list := []map[string]string{}
	for _, r := range reports {
		t.Add(r.name, r.about)
		list = append(list, map[string]string{"name": r.name, "about": r.about})
	}
	files, err := a.ownReports()
	if err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		r, err := readReport(files[name])
		if err != nil {
			return err
		}
		about := cmp.Or(r.About, r.Title)
		t.Add(name, about)
		list = append(list, map[string]string{"name": name, "about": about, "file": files[name]})
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"reports": list})
	}
	return a.table(&t)
}

func (a *app) report(ctx context.Context, cmd *cli.Command) error {
	if file, err := a.ownFile(cmd.Args().First()); err != nil {
		return err
	} else if file != "" {
		return a.ownReport(ctx, cmd, file)
	}
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html"); err != nil {
		return err
	}
	if cmd.Args().Len() == 0 {
		return a.listReports()
	}
	name := cmd.Args().First()
	if err := a.knownReport(name); err != nil {
		return err
	}
	since, err := moment(cmd.String("since"), a.Now())
	if err != nil {
		return usagef("--since: %v", err)
	}
	wanted, err := kinds(cmd)
	if err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	matches, err := a.selection(ctx, r, cmd.Args().Tail())
	if err != nil {
		return err
	}
	findings := []finding{}
	var sources []*catalogue.Snapshot
	for _, s := range selection.Gather(matches) {
		if s.Contents.IsOutline() {
			if s.Contents, err = c.Contents(ctx, s.Contents.Snapshot); err != nil {
				return err
			}
		}
		sources = append(sources, s.Contents.Snapshot)
		found, err := a.findings(ctx, c, name, s, since)
		if err != nil {
			return err
		}
		findings = append(findings, slices.DeleteFunc(found, func(f finding) bool { return len(wanted) > 0 && !slices.Contains(wanted, schema.Kind(f.Kind)) })...)
	}
	bySize(name, findings)
	refers := name == "broken" || name == "unused" || name == "cycles"
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: sources, References: refers, Everywhere: cmd.Args().Len() == 1})
	if err != nil {
		return err
	}
	return a.writeReport(name, findings, sources, unseen, int(cmd.Int("limit")))
}

// knownReport returns an error that names the reports where there is none of a name.
func (a *app) knownReport(name string) error {
	known := make([]string, len(reports))
	for i, r := range reports {
		known[i] = r.name
	}
	if slices.Contains(known, name) {
		return nil
	}
	files, err := a.ownReports()
	if err != nil {
		return err
	}
	known = append(known, slices.Sorted(maps.Keys(files))...)
	if near := nearWord(name, known); near != "" {
		return usagef("there is no report %q%s", name, near)
	}
	return usagef("there is no report %q; there are %s", name, strings.Join(known, ", "))
}

// findings returns the rows of a report for one database.
func (a *app) findings(ctx context.Context, c *catalogue.Catalogue, name string, s *selection.Set, since time.Time) ([]finding, error) {
	t := s.Contents
	row := func(e *catalogue.Entry) finding {
		return finding{place: addressOf(t.Snapshot.Locate(e.ID, "", "")), name: e.ID.String()}
	}
	var all []finding
	switch name {
	case "broken":
		return a.broken(ctx, c, s, row)
	case "unused":
		found, err := report.FindUnused(ctx, c, t)
		if err != nil {
			return nil, err
		}
		for _, e := range found {
			if s.Covers(e.ID) {
				all = append(all, row(e))
			}
		}
	case "cycles":
		found, err := report.FindCycles(ctx, c, t)
		if err != nil {
			return nil, err
		}
		for i, set := range found {
			if !slices.ContainsFunc(set, func(e *catalogue.Entry) bool { return s.Covers(e.ID) }) {
				continue
			}
			for _, e := range set {
				f := row(e)
				f.Circle = i + 1
				all = append(all, f)
			}
		}
	case "rights":
		return a.rights(ctx, c, s)
	case "changed":
		return a.changed(ctx, c, s, since)
	case "drift":
		return a.drifted(ctx, c, s, row)
	case "largest":
		found, err := report.FindLargest(ctx, c, t)
		for _, x := range found {
			if s.Covers(x.Entry.ID) {
				f := row(x.Entry)
				f.Rows, f.Bytes = sizeOf(x.Rows), sizeOf(x.Bytes)
				all = append(all, f)
			}
		}
		return all, err
	case "growth":
		h, err := history.OfDatabase(ctx, c, t.Snapshot, s.Covers, diff.Options{})
		if err != nil {
			return nil, err
		}
		for i := range h.Grown {
			g := &h.Grown[i]
			f := finding{place: addressOf(t.Snapshot.Locate(g.ID, "", "")), name: g.ID.String(), Rows: sizeOf(g.Last.Rows), Bytes: sizeOf(g.Last.Bytes), Week: week(g)}
			rows, bytes := g.Rows(), g.Bytes()
			f.More, f.Grew = &rows, &bytes
			all = append(all, f)
		}
	default:
		return a.structural(ctx, c, name, s)
	}
	return all, nil
}

// broken returns the objects that do not work, each with the line that says why.
func (a *app) broken(ctx context.Context, c *catalogue.Catalogue, s *selection.Set, row func(*catalogue.Entry) finding) ([]finding, error) {
	t := s.Contents
	var all []finding
	found, err := report.FindBroken(ctx, c, t)
	if err != nil {
		return nil, err
	}
	engine := a.engineOf(t.Snapshot)
	for _, b := range found {
		if !s.Covers(b.Entry.ID) {
			continue
		}
		f := row(b.Entry)
		if b.Dependency == nil {
			f.Reason = strings.TrimSuffix("invalid: "+b.Said, ": yes")
		} else {
			o, err := c.Object(ctx, b.Entry)
			if err != nil {
				return nil, err
			}
			p := trace.PlaceIn(o, view.Definition(o, engine), b.Dependency)
			f.Reason, f.Line, f.Text = b.Dependency.To.ID.String()+" does not exist here", p.Line, p.Text
		}
		all = append(all, f)
	}
	return all, nil
}

// bySize puts what was found in several databases into one order.
func bySize(name string, all []finding) {
	value := func(n *int64) int64 {
		if n == nil {
			return -1
		}
		return *n
	}
	switch name {
	case "changed":
		slices.SortStableFunc(all, func(x, y finding) int { return strings.Compare(y.When, x.When) })
	case "largest":
		slices.SortStableFunc(all, func(x, y finding) int {
			return cmp.Or(cmp.Compare(value(y.Bytes), value(x.Bytes)), cmp.Compare(value(y.Rows), value(x.Rows)))
		})
	case "growth":
		slices.SortStableFunc(all, func(x, y finding) int {
			return cmp.Or(cmp.Compare(value(y.Grew), value(x.Grew)), cmp.Compare(value(y.More), value(x.More)))
		})
	}
}

func sizeOf(n int64) *int64 {
	if n < 0 {
		return nil
	}
	return &n
}

// structural returns the rows of a report on tables and what is in them.
func (a *app) structural(ctx context.Context, c *catalogue.Catalogue, name string, s *selection.Set) ([]finding, error) {
	find := map[string]func(context.Context, *catalogue.Catalogue, *catalogue.Contents) ([]report.Finding, error){"keyless": report.FindKeyless, "unindexed": report.FindUnindexed,
		"redundant": report.FindRedundant, "nullable": report.FindNullable, "types": report.FindTypes}[name]
	found, err := find(ctx, c, s.Contents)
	var all []finding
	for _, x := range found {
		if !s.Covers(x.Entry.ID) {
			continue
		}
		part := schema.KindColumn
		if x.Part == "" || name != "types" {
			part = ""
		}
		f := finding{place: addressOf(s.Contents.Snapshot.Locate(x.Entry.ID, x.Part, part)), name: x.Entry.ID.String(), Columns: x.Columns, By: x.By, Type: x.Type, Usual: x.Usual}
		if part == "" { // a constraint has its table's address
			f.place = addressOf(s.Contents.Snapshot.Locate(x.Entry.ID, "", ""))
		}
		if x.Part != "" {
			f.name += "." + names.Quote(x.Part)
		}
		all = append(all, f)
	}
	return all, err
}

// aboutReport returns what is known of a report.
func aboutReport(name string) (what, advice string) {
	for _, r := range reports {
		if r.name == name {
			return r.what, r.advice
		}
	}
	return "", ""
}

// reportColumns returns the columns of a report behind kind, database and name, and what stands in them.
func (a *app) reportColumns(name string) ([]render.Column, func(f *finding) []string) {
	size := func(n *int64, say func(int64) string) string {
		switch {
		case n == nil:
			return ""
		case a.forMachines():
			return strconv.FormatInt(*n, 10)
		}
		return say(*n)
	}
	more := func(n *int64, say func(int64) string) string {
		if a.forMachines() {
			return strconv.FormatInt(*n, 10)
		}
		return signed(*n, say)
	}
	switch name {
	case "broken":
		return []render.Column{{Title: "line", Right: true}, {Title: "why", Min: 20, Wrap: true}}, func(f *finding) []string {
			line := ""
			if f.Line > 0 {
				line = fmt.Sprint(f.Line)
			}
			return []string{line, f.Reason}
		}
	case "cycles":
		return []render.Column{{Title: "circle", Right: true}}, func(f *finding) []string { return []string{fmt.Sprint(f.Circle)} }
	case "unindexed", "nullable":
		return []render.Column{{Title: "columns", Min: 12, Wrap: true}}, func(f *finding) []string { return []string{strings.Join(f.Columns, ", ")} }
	case "redundant":
		return []render.Column{{Title: "columns", Min: 12, Wrap: true}, {Title: "does the same"}}, func(f *finding) []string { return []string{strings.Join(f.Columns, ", "), f.By} }
	case "rights":
		return []render.Column{{Title: "right"}, {Title: "on", Right: true}, {Title: "objects", Min: 16, Wrap: true}}, func(f *finding) []string {
			right := f.Right
			if f.Passed {
				right += " (grantable)"
			}
			return []string{right, strconv.Itoa(f.Objects), strings.Join(f.Columns, ", ")}
		}
	case "changed":
		return []render.Column{{Title: "change"}, {Title: "when"}}, func(f *finding) []string { return []string{f.Change, a.shownTime(f.When)} }
	case "drift":
		return []render.Column{{Title: "how", Min: 20, Wrap: true}}, func(f *finding) []string { return []string{f.Reason} }
	case "types":
		return []render.Column{{Title: "type"}, {Title: "most have"}}, func(f *finding) []string { return []string{f.Type, f.Usual} }
	case "largest":
		return []render.Column{{Title: "rows", Right: true}, {Title: "size", Right: true}}, func(f *finding) []string {
			return []string{size(f.Rows, render.Count[int64]), size(f.Bytes, render.Bytes)}
		}
	case "growth":
		return []render.Column{{Title: "rows", Right: true}, {Title: "more", Right: true}, {Title: "size", Right: true}, {Title: "more", Right: true}, {Title: "a week", Right: true}}, func(f *finding) []string {
			return []string{size(f.Rows, render.Count[int64]), more(f.More, render.Count[int64]), size(f.Bytes, render.Bytes), more(f.Grew, render.Bytes), f.Week}
		}
	}
	return nil, func(*finding) []string { return nil }
}

func (a *app) writeReport(name string, findings []finding, sources []*catalogue.Snapshot, unseen []gaps.Gap, limit int) error {
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"report": name, "objects": findings, "total": len(findings), "sources": a.sources(sources), "unseen": a.unseenJSON(unseen)})
	}
	t := render.Table{Columns: []render.Column{{Title: "kind"}, {Title: "database"}, {Title: "name"}}}
	columns, cells := a.reportColumns(name)
	t.Columns = append(t.Columns, columns...)
	shown := findings
	if a.as == "text" && limit > 0 && len(shown) > limit {
		shown = shown[:limit]
	}
	for i := range shown {
		f := &shown[i]
		t.Add(append([]string{string(f.Kind), names.Quote(f.Server) + "/" + names.Quote(f.Database), f.name}, cells(f)...)...)
	}
	if a.as != "text" {
		a.unseenBeside(unseen)
		return a.table(&t)
	}
	if len(shown) > 0 {
		if err := a.table(&t); err != nil {
			return err
		}
		a.printf("\n")
	}
	what, advice := aboutReport(name)
	switch {
	case len(findings) == 0:
		a.printf("%s %s.\n", nothing(len(unseen) > 0), what)
		advice = ""
	case len(shown) < len(findings):
		a.printf("%s, %s shown; for all add --limit 0\n", render.Plural(len(findings), "finding", "findings"), render.Count(len(shown)))
	default:
		a.printf("%s\n", render.Plural(len(findings), "finding", "findings"))
	}
	if advice != "" {
		a.printf("%s\n", render.Wrap(advice, a.width, ""))
	}
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(sources)))
	a.unseen(unseen)
	return nil
}
