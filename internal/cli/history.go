package cli

// The command history: when an object changed, and how; what grew.

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/history"
	"echo-atlas/internal/core/schema"
)

func (a *app) historyCommand() *cli.Command {
	return &cli.Command{
		Name:      "history",
		Usage:     "when an object or a database changed, how, and how it grew",
		ArgsUsage: "ADDRESS",
		Description: "ADDRESS is an object, a part of one, a schema or a database. Of an object each change is told, the newest first; of a database\n" +
			"what each reading found, and which tables grow most. What is gone is addressed as it was: SERVER/DATABASE@WHEN/OBJECT.\n\n" +
			"Examples:\n  echo-atlas history quay-live/berths/mooring\n  echo-atlas history quay-live/berths\n  echo-atlas history quay-live/berths/mooring --as svg > mooring.svg",
		Flags:  append([]cli.Flag{freshFlag(), maxAgeFlag(), withoutFlag(), limitFlag(20)}, exactFlags()...),
		Action: a.history,
	}
}

// told is a history of one of the two sorts.
type told struct {
	where    schema.Location
	kind     schema.Kind
	snapshot *catalogue.Snapshot // the newest reading
	object   *history.Object
	database *history.Database
}

func (a *app) history(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "svg", "xlsx", "html"); err != nil {
		return err
	}
	if cmd.Args().Len() != 1 {
		return usagef("history takes one ADDRESS; see: %s --help", cmd.FullName())
	}
	asked, err := a.comparing(cmd)
	if err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	parsed, err := address.Parse(cmd.Args().First())
	if err != nil {
		return err
	}
	match, err := r.One(ctx, parsed)
	if err != nil {
		return fileMeant(cmd.Args().First(), err)
	}
	t := told{where: match.Location(), snapshot: match.Contents.Snapshot}
	if t.snapshot.Path == "" {
		all, err := c.Of(ctx, t.snapshot.Server, t.snapshot.Database)
		if err != nil {
			return err
		}
		t.snapshot = all[0]
	}
	e, err := a.Engines.Named(t.snapshot.Engine)
	if err != nil {
		return err
	}
	o := diff.For(e)
	o.Without, o.Order, o.Exact = asked.options.Without, asked.options.Order, asked.options.Exact
	if match.Entry != nil {
		t.kind = match.Entry.ID.Kind
		if match.Part != "" {
			t.kind = match.PartKind
			o.Parts = map[schema.ID][]diff.Part{match.Entry.ID: {{Kind: match.PartKind, Name: match.Part}}}
		}
		t.object, err = history.OfObject(ctx, c, t.snapshot, match.Entry.ID, o)
	} else {
		var wanted func(schema.ID) bool
		if match.Schema != "" {
			wanted = match.Covers
		}
		t.database, err = history.OfDatabase(ctx, c, t.snapshot, wanted, o)
	}
	if err != nil {
		return err
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{t.snapshot}})
	if err != nil {
		return err
	}
	return a.tellHistory(&t, cmd, unseen)
}

func (a *app) tellHistory(t *told, cmd *cli.Command, unseen []gaps.Gap) error {
	limit := int(cmd.Int("limit"))
	switch {
	case a.as == "json":
		return a.historyJSON(t, unseen)
	case a.as == "svg":
		plots := t.plots()
		if len(plots) == 0 {
			return usagef("no size of %s is known from more than one reading; there is nothing to draw", t.where)
		}
		return render.SVG(a.Stdout, t.where.String(), plots)
	case a.as != "text" && t.object != nil:
		return a.table(stepTable(t.object))
	case a.as != "text":
		return a.table(readingTable(t.database, 0, a.forMachines()))
	}
	var err error
	if t.object != nil {
		a.objectHistory(t, limit)
	} else {
		err = a.databaseHistory(t, limit)
	}
	if err == nil {
		for _, p := range t.plots() {
			a.printf("\n%s\n", a.paint.Text(render.Title, p.Title))
			const height, most = 5, 100
			for _, line := range p.Text(min(cmpWidth(a.width), most), height) {
				a.printf("  %s\n", line)
			}
		}
		a.unseen(unseen)
	}
	return err
}

// cmpWidth is how wide a plot may be.
func cmpWidth(width int) int {
	if width == 0 {
		return 80
	}
	return max(30, width-2)
}

// moments returns how a history tells times: with seconds where its readings lie close together.
func moments(first, last time.Time) func(time.Time) string {
	layout := "2006-01-02 15:04"
	if last.Sub(first) < time.Hour {
		layout = time.DateTime
	}
	return func(t time.Time) string { return t.UTC().Format(layout) }
}

func (a *app) objectHistory(t *told, limit int) {
	h := t.object
	first, last := h.Readings[0], h.Readings[len(h.Readings)-1]
	moment := moments(first.Taken, last.Taken)
	a.printf("%s %s\n", t.kind, a.paint.Text(render.Title, render.Visible(t.where.String())))
	a.printf("%s\n\n", a.paint.Text(render.Faint, fmt.Sprintf("%s from %s to %s UTC; %s", render.Plural(len(h.Readings), "reading", "readings"), moment(first.Taken), moment(last.Taken), render.Plural(changes(h), "change", "changes"))))
	styles := map[history.Change]render.Style{history.Added: render.Good, history.Removed: render.Bad, history.Changed: render.Hit}
	for i, s := range slices.Backward(h.Steps) {
		if limit > 0 && len(h.Steps)-i > limit {
			a.printf("%s before; --limit 0 shows all\n", render.Plural(i+1, "change", "changes"))
			break
		}
		a.printf("%s  %s%s\n", moment(s.Snapshot.Taken), a.paint.Text(styles[s.Change], stepWords(s, moment)), a.paint.Text(render.Faint, labelWords(s.Snapshot)))
		for _, p := range s.Properties {
			a.diffProperty(p)
		}
	}
}

func changes(h *history.Object) (n int) {
	for _, s := range h.Steps {
		if s.Change != history.First {
			n++
		}
	}
	return n
}

func stepWords(s history.Step, moment func(time.Time) string) string {
	switch {
	case s.Change == history.First:
		return "there, in the first reading"
	case s.Before != nil:
		return string(s.Change) + " since " + moment(s.Before.Taken)
	}
	return string(s.Change)
}

func labelWords(s *catalogue.Snapshot) string {
	if s.Label == "" {
		return ""
	}
	return ", label " + render.Visible(s.Label)
}

func stepTable(h *history.Object) *render.Table {
	t := &render.Table{Columns: []render.Column{{Title: "taken"}, {Title: "label"}, {Title: "change"}, {Title: "property"}, {Title: "old"}, {Title: "new"}}}
	for _, s := range h.Steps {
		if len(s.Properties) == 0 {
			t.Add(s.Snapshot.Taken.UTC().Format(time.RFC3339), s.Snapshot.Label, string(s.Change), "", "", "")
		}
		for _, p := range s.Properties {
			x := [2]string{}
			for i, v := range []*string{p.Old, p.New} {
				if v != nil {
					x[i] = *v
				}
			}
			t.Add(s.Snapshot.Taken.UTC().Format(time.RFC3339), s.Snapshot.Label, string(s.Change), p.Path, x[0], x[1])
		}
	}
	return t
}

// readingTable lists readings, the newest first; only those that found something otherwise where a limit is given. plain is for machines:
// numbers and times as they are.
func readingTable(h *history.Database, limit int, plain bool) *render.Table {
	t := &render.Table{Columns: []render.Column{{Title: "read"}, {Title: "objects", Right: true}, {Title: "added", Right: true}, {Title: "removed", Right: true}, {Title: "changed", Right: true}, {Title: "renamed", Right: true}, {Title: "size", Right: true}, {Title: "label"}}}
	moment := moments(h.Readings[0].Snapshot.Taken, h.Readings[len(h.Readings)-1].Snapshot.Taken)
	for i, r := range slices.Backward(h.Readings) {
		if limit > 0 && i > 0 && !r.Summary.Differs() && r.Snapshot.Label == "" {
			continue
		}
		if limit > 0 && len(t.Rows) == limit {
			break
		}
		s := r.Summary
		size := ""
		if r.Bytes >= 0 {
			size = render.Bytes(r.Bytes)
			if plain {
				size = strconv.FormatInt(r.Bytes, 10)
			}
		}
		if plain {
			t.Add(r.Snapshot.Taken.UTC().Format(time.RFC3339), strconv.Itoa(r.Objects), strconv.Itoa(s.Added), strconv.Itoa(s.Removed), strconv.Itoa(s.Changed), strconv.Itoa(s.Renamed), size, r.Snapshot.Label)
			continue
		}
		t.Add(moment(r.Snapshot.Taken), render.Count(r.Objects), positive(s.Added), positive(s.Removed), positive(s.Changed), positive(s.Renamed), size, r.Snapshot.Label)
	}
	return t
}

func (a *app) databaseHistory(t *told, limit int) error {
	h := t.database
	a.printf("%s\n", a.paint.Text(render.Title, render.Visible(t.where.String())))
	first, last := h.Readings[0].Snapshot, h.Readings[len(h.Readings)-1].Snapshot
	moment := moments(first.Taken, last.Taken)
	a.printf("%s\n\n", a.paint.Text(render.Faint, fmt.Sprintf("%s from %s to %s UTC; shown are those that found something changed", render.Plural(len(h.Readings), "reading", "readings"), moment(first.Taken), moment(last.Taken))))
	if err := readingTable(h, max(1, limit), false).Text(a.Stdout, a.width, a.paint); err != nil {
		return err
	}
	if len(h.Grown) == 0 {
		return nil
	}
	g := render.Table{Columns: []render.Column{{Title: "grew most"}, {Title: "rows", Right: true}, {Title: "more", Right: true}, {Title: "size", Right: true}, {Title: "more", Right: true}, {Title: "a week", Right: true}}}
	for i := range h.Grown {
		if limit > 0 && i == min(limit, 10) {
			break
		}
		x := &h.Grown[i]
		g.Add(string(x.ID.Kind)+" "+x.ID.String(), known(x.Last.Rows, render.Count[int64]), signed(x.Rows(), render.Count[int64]), known(x.Last.Bytes, render.Bytes), signed(x.Bytes(), render.Bytes), week(x))
	}
	a.printf("\n")
	return g.Text(a.Stdout, a.width, a.paint)
}

func known(n int64, say func(int64) string) string {
	if n < 0 {
		return ""
	}
	return say(n)
}

func signed(n int64, say func(int64) string) string {
	switch {
	case n == 0:
		return ""
	case n < 0:
		return "-" + say(-n)
	}
	return "+" + say(n)
}

// week says how much something grows in a week: in bytes, or where these are not known in rows.
func week(g *history.Growth) string {
	over := g.Last.Taken.Sub(g.First.Taken)
	if n, ok := history.PerWeek(g.Bytes(), over); ok && g.Bytes() != 0 {
		return signed(int64(math.Round(n)), render.Bytes)
	}
	if n, ok := history.PerWeek(g.Rows(), over); ok {
		return signed(int64(math.Round(n)), func(n int64) string { return render.Count(n) + " rows" })
	}
	return ""
}

// plots returns how sizes moved, where more than one reading knows them.
func (t *told) plots() []render.Plot {
	var rows, bytes []render.PlotPoint
	if t.object != nil && !t.kind.IsPart() {
		for _, p := range t.object.Sizes {
			if p.Rows >= 0 {
				rows = append(rows, render.PlotPoint{At: p.Taken, Value: p.Rows})
			}
			if p.Bytes >= 0 {
				bytes = append(bytes, render.PlotPoint{At: p.Taken, Value: p.Bytes})
			}
		}
	}
	if t.database != nil {
		for _, r := range t.database.Readings {
			if r.Bytes >= 0 {
				bytes = append(bytes, render.PlotPoint{At: r.Snapshot.Taken, Value: r.Bytes})
			}
		}
	}
	var plots []render.Plot
	add := func(what string, points []render.PlotPoint, say func(int64) string) {
		if len(points) < 2 || !slices.ContainsFunc(points, func(p render.PlotPoint) bool { return p.Value > 0 }) {
			return
		}
		first, last := points[0], points[len(points)-1]
		title := fmt.Sprintf("%s: %s, was %s", what, say(last.Value), say(first.Value))
		if n, ok := history.PerWeek(last.Value-first.Value, last.At.Sub(first.At)); ok && math.Round(n) != 0 {
			title += "; " + signed(int64(math.Round(n)), say) + " a week"
		}
		plots = append(plots, render.Plot{Title: title, Points: points, Say: say})
	}
	add("rows", rows, render.Count[int64])
	add("size", bytes, render.Bytes)
	return plots
}

func (a *app) historyJSON(t *told, unseen []gaps.Gap) error {
	type size struct {
		Taken time.Time `json:"taken"`
		Rows  *int64    `json:"rows"`
		Bytes *int64    `json:"bytes"`
	}
	sized := func(p history.Point) size {
		s := size{Taken: p.Taken}
		if p.Rows >= 0 {
			s.Rows = &p.Rows
		}
		if p.Bytes >= 0 {
			s.Bytes = &p.Bytes
		}
		return s
	}
	out := map[string]any{"address": t.where.String(), "sources": a.sources([]*catalogue.Snapshot{t.snapshot}), "unseen": a.unseenJSON(unseen)}
	if h := t.object; h != nil {
		type step struct {
			Snapshot   int64          `json:"snapshot"`
			Taken      time.Time      `json:"taken"`
			Label      string         `json:"label,omitempty"`
			Change     history.Change `json:"change"`
			Properties []diffProperty `json:"properties"`
		}
		steps, sizes := []step{}, []size{}
		for _, s := range h.Steps {
			x := step{s.Snapshot.ID, s.Snapshot.Taken, s.Snapshot.Label, s.Change, []diffProperty{}}
			for _, p := range s.Properties {
				x.Properties = append(x.Properties, diffProperty(p))
			}
			steps = append(steps, x)
		}
		for _, p := range h.Sizes {
			sizes = append(sizes, sized(p))
		}
		out["kind"], out["changes"], out["sizes"], out["readings"] = t.kind, steps, sizes, len(h.Readings)
		return render.JSON(a.Stdout, out)
	}
	type reading struct {
		Snapshot int64        `json:"snapshot"`
		Taken    time.Time    `json:"taken"`
		Label    string       `json:"label,omitempty"`
		Objects  int          `json:"objects"`
		Bytes    *int64       `json:"bytes"`
		Summary  diff.Summary `json:"summary"`
	}
	type growth struct {
		place
		First size `json:"first"`
		Last  size `json:"last"`
	}
	readings, grown := []reading{}, []growth{}
	for _, r := range t.database.Readings {
		x := reading{r.Snapshot.ID, r.Snapshot.Taken, r.Snapshot.Label, r.Objects, nil, r.Summary}
		if r.Bytes >= 0 {
			x.Bytes = &r.Bytes
		}
		readings = append(readings, x)
	}
	for i := range t.database.Grown {
		g := &t.database.Grown[i]
		grown = append(grown, growth{addressOf(t.snapshot.Locate(g.ID, "", "")), sized(g.First), sized(g.Last)})
	}
	out["readings"], out["grown"] = readings, grown
	return render.JSON(a.Stdout, out)
}
