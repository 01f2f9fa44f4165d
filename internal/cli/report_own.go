package cli

// Reports that people write themselves: queries over the catalogue's tables.

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/report/own"
	"echo-atlas/internal/core/selection"
)

// ownReports returns the files of the configuration's reports by their names.
func (a *app) ownReports() (map[string]string, error) {
	files, err := a.cfg.ReportFiles()
	if err != nil {
		return nil, &exitError{exitUsage, err}
	}
	all := map[string]string{}
	for _, f := range files {
		all[strings.TrimSuffix(filepath.Base(f), filepath.Ext(f))] = f
	}
	return all, nil
}

// ownFile returns the file of a report of one's own, "" for the name of a ready-made one.
func (a *app) ownFile(name string) (string, error) {
	switch {
	case name == "" || slices.ContainsFunc(reports, func(r readyMade) bool { return r.name == name }):
		return "", nil
	case strings.HasSuffix(name, ".sql") || strings.ContainsAny(name, `/\`):
		return name, nil
	}
	files, err := a.ownReports()
	return files[name], err
}

// readReport reads the report of a file.
func readReport(path string) (*own.Report, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, usagef("reading the report: %v", err)
	}
	r, err := own.Parse(strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)), string(text))
	if err != nil {
		return nil, usagef("%s: %v", path, err)
	}
	return r, nil
}

// ownReport answers the report of a file.
func (a *app) ownReport(ctx context.Context, cmd *cli.Command, path string) error {
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html", "svg"); err != nil {
		return err
	}
	r, err := readReport(path)
	if err != nil {
		return err
	}
	set := map[string]string{}
	for _, text := range cmd.StringSlice("set") {
		name, value, ok := strings.Cut(text, "=")
		if !ok {
			return usagef("--set %s: write NAME=VALUE", text)
		}
		set[name] = value
	}
	if a.as == "svg" && r.Chart == nil {
		return usagef("%s draws nothing; its head would say so: -- chart: bar NAME, VALUE", path)
	}
	c, resolver, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	choices, snapshots, err := a.reportChoices(ctx, c, resolver, cmd.Args().Tail())
	if err != nil {
		return err
	}
	limit := int(cmd.Int("limit"))
	limits := own.Limits{Time: cmd.Duration("timeout"), Rows: limit}
	if limit <= 0 || a.as != "text" && !cmd.IsSet("limit") {
		limits.Rows = math.MaxInt
	}
	rows, err := own.Run(ctx, c, r, choices, set, limits)
	var wrong *own.ParameterError
	switch {
	case errors.As(err, &wrong):
		return usagef("%s: %v; give it as --set %s=VALUE%s", path, err, wrong.Name, parametersText(r))
	case errors.Is(err, own.ErrTime):
		return &exitError{exitUsage, fmt.Errorf("%s: %w; ask for less, or give it longer with --timeout", path, err)}
	case err != nil:
		return &exitError{exitUsage, fmt.Errorf("%s: %w%s", path, err, tablesText(err))}
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: snapshots, References: true, Everywhere: cmd.Args().Len() == 1})
	if err != nil {
		return err
	}
	return a.writeOwn(r, rows, snapshots, unseen)
}

func (a *app) reportChoices(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, texts []string) ([]own.Choice, []*catalogue.Snapshot, error) {
	matches, err := a.selection(ctx, r, texts)
	if err != nil {
		return nil, nil, err
	}
	var choices []own.Choice
	var snapshots []*catalogue.Snapshot
	for _, s := range selection.Gather(matches) {
		if s.Contents.IsOutline() {
			if s.Contents, err = c.Contents(ctx, s.Contents.Snapshot); err != nil {
				return nil, nil, err
			}
		}
		of := own.Choice{Contents: s.Contents}
		if !s.Whole {
			of.Covers = s.Covers
		}
		choices, snapshots = append(choices, of), append(snapshots, s.Contents.Snapshot)
	}
	return choices, snapshots, nil
}

// parametersText lists the parameters of a report.
func parametersText(r *own.Report) string {
	if len(r.Parameters) == 0 {
		return "; the report has no parameters"
	}
	var words []string
	for _, p := range r.Parameters {
		words = append(words, strings.TrimSpace(p.Name+" ("+p.Type+") "+p.About))
	}
	return "; its parameters are " + strings.Join(words, "; ")
}

// tablesText says what there is where a query names what there is not.
func tablesText(err error) string {
	if !strings.Contains(err.Error(), "no such table") && !strings.Contains(err.Error(), "no such column") {
		return ""
	}
	var all []string
	for _, t := range own.Tables {
		all = append(all, t.Name+" ("+strings.Join(t.Columns, ", ")+")")
	}
	return "\nthere is " + strings.Join(all, "; ")
}

// shown returns a value as it is shown.
func (a *app) shownValue(r *own.Report, column string, v any) string {
	as := r.Columns[column]
	switch x := v.(type) {
	case nil:
		return ""
	case int64:
		switch {
		case a.forMachines():
		case as == "bytes":
			return render.Bytes(x)
		case as == "count":
			return render.Count(x)
		}
		return strconv.FormatInt(x, 10)
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64)
	}
	text := fmt.Sprint(v)
	if as == "time" && !a.forMachines() {
		if t, err := time.Parse(time.RFC3339, text); err == nil {
			return t.UTC().Format("2006-01-02 15:04")
		}
	}
	return text
}

func (a *app) writeOwn(r *own.Report, rows *own.Rows, snapshots []*catalogue.Snapshot, unseen []gaps.Gap) error {
	if a.as == "json" {
		list := []map[string]any{}
		for _, v := range rows.Values {
			row := map[string]any{}
			for i, c := range rows.Columns {
				row[c] = v[i]
			}
			list = append(list, row)
		}
		out := map[string]any{"report": r.Name, "title": r.Title, "columns": rows.Columns, "rows": list, "more": rows.Cut, "sources": a.sources(snapshots), "unseen": a.unseenJSON(unseen)}
		if r.LeadsTo != nil {
			lead := map[string]string{}
			for _, s := range r.LeadsTo.Set {
				lead[s[0]] = s[1]
			}
			out["leads_to"] = map[string]any{"report": r.LeadsTo.Report, "set": lead}
		}
		return render.JSON(a.Stdout, out)
	}
	if a.as == "svg" {
		a.unseenBeside(unseen)
		return a.ownChart(r, rows)
	}
	t := render.Table{}
	for i, c := range rows.Columns {
		numbers := len(rows.Values) > 0
		for _, v := range rows.Values {
			switch v[i].(type) {
			case nil, int64, float64:
			default:
				numbers = false
			}
		}
		t.Columns = append(t.Columns, render.Column{Title: c, Right: numbers, Min: map[bool]int{true: 0, false: 16}[numbers], Wrap: !numbers})
	}
	for _, v := range rows.Values {
		row := make([]string, len(v))
		for i := range v {
			row[i] = a.shownValue(r, rows.Columns[i], v[i])
		}
		t.Add(row...)
	}
	if a.as != "text" {
		a.title = r.Title
		a.unseenBeside(unseen)
		return a.table(&t)
	}
	a.printf("%s\n", a.paint.Text(render.Title, render.Visible(r.Title)))
	if r.About != "" {
		a.printf("%s\n", a.paint.Text(render.Faint, render.Wrap(render.Visible(r.About), a.width, "")))
	}
	a.printf("\n")
	if len(t.Rows) > 0 {
		if err := a.table(&t); err != nil {
			return err
		}
		a.printf("\n")
	}
	a.ownFoot(r, rows)
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(snapshots)))
	a.unseen(unseen)
	return nil
}

// ownFoot says below the rows how many there are, and where they lead.
func (a *app) ownFoot(r *own.Report, rows *own.Rows) {
	if rows.Cut {
		a.printf("%s shown, and there are more; for all add --limit 0\n", render.Plural(len(rows.Values), "row", "rows"))
	} else {
		a.printf("%s\n", render.Plural(len(rows.Values), "row", "rows"))
	}
	if r.Advice != "" && len(rows.Values) > 0 {
		a.printf("%s\n", render.Wrap(render.Visible(r.Advice), a.width, ""))
	}
	if r.LeadsTo == nil || len(rows.Values) == 0 {
		return
	}
	var set []string
	for _, s := range r.LeadsTo.Set {
		i := slices.Index(rows.Columns, s[1])
		if i < 0 {
			continue
		}
		text := s[0] + "=" + fmt.Sprint(rows.Values[0][i])
		if strings.ContainsAny(text, " '\"$&;|<>*?()\\") {
			text = "'" + strings.ReplaceAll(text, "'", `'\''`) + "'"
		}
		set = append(set, "--set "+text)
	}
	a.printf("of the first row goes on: echo-atlas report %s %s\n", render.Visible(r.LeadsTo.Report), render.Visible(strings.Join(set, " ")))
}

// ownChart draws the rows as the head of the report says.
func (a *app) ownChart(r *own.Report, rows *own.Rows) error {
	x, y := slices.Index(rows.Columns, r.Chart.X), slices.Index(rows.Columns, r.Chart.Y)
	if x < 0 || y < 0 {
		return usagef("%s: its chart is of %s and %s, and the query gives %s", r.Name, r.Chart.X, r.Chart.Y, strings.Join(rows.Columns, ", "))
	}
	value := func(v any) (float64, bool) {
		switch n := v.(type) {
		case int64:
			return float64(n), true
		case float64:
			return n, true
		}
		return 0, false
	}
	say := func(n int64) string {
		switch r.Columns[r.Chart.Y] {
		case "bytes":
			return render.Bytes(n)
		}
		return render.Count(n)
	}
	if r.Chart.Kind == "line" {
		p := render.Plot{Title: r.Title, Say: say}
		for _, v := range rows.Values {
			at, err := time.Parse(time.RFC3339, fmt.Sprint(v[x]))
			n, ok := value(v[y])
			if err == nil && ok {
				p.Points = append(p.Points, render.PlotPoint{At: at, Value: int64(math.Round(n))})
			}
		}
		if len(p.Points) == 0 {
			return usagef("%s: there is nothing to draw: %s holds no times, or %s no numbers", r.Name, r.Chart.X, r.Chart.Y)
		}
		slices.SortStableFunc(p.Points, func(a, b render.PlotPoint) int { return a.At.Compare(b.At) })
		return render.SVG(a.Stdout, r.Title, []render.Plot{p})
	}
	b := render.Bars{Title: r.Title, Say: say}
	for _, v := range rows.Values {
		if n, ok := value(v[y]); ok {
			b.Bars = append(b.Bars, render.Bar{Name: a.shownValue(r, r.Chart.X, v[x]), Value: n})
		}
	}
	if len(b.Bars) == 0 {
		return usagef("%s: there is nothing to draw: %s holds no numbers", r.Name, r.Chart.Y)
	}
	return b.SVG(a.Stdout)
}
