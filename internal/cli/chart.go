package cli

// The command chart: an entity-relationship picture of a selection.

import (
	"context"
	"fmt"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/chart"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/trace"
)

// mostBoxes is how many objects a picture shows one by one; more become an overview.
const mostBoxes = 300

// pictureForms are the endings of files and the forms that they stand for.
var pictureForms = map[string]string{".svg": "svg", ".png": "png", ".dot": "dot", ".gv": "dot", ".mmd": "mermaid", ".mermaid": "mermaid", ".json": "json", ".txt": "text"}

func (a *app) chartCommand() *cli.Command {
	return &cli.Command{
		Name:      "chart",
		Usage:     "a picture of tables and what links them",
		ArgsUsage: "ADDRESS…",
		Description: "Draws the tables of the selection with their columns, keys and foreign keys; what is referred to stands left of what\nrefers to it. As text the same in words. --out FILE takes the form from the file's ending: .svg, .png, .dot, .mmd.\n\n" +
			"Examples:\n  echo-atlas chart quay-live/berths --out berths.svg\n  echo-atlas chart --around quay-live/berths/mooring --columns keys --out mooring.png\n" +
			"  echo-atlas chart 'quay-live/berths/*_berth' --with-needs --types --as svg > view.svg\n  echo-atlas chart quay-live/tides --as mermaid",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			&cli.StringFlag{Name: "out", Usage: "write to this `FILE` instead of stdout, in the form of its ending"},
			&cli.StringFlag{Name: "columns", Usage: "`WHICH` columns are drawn: all, keys, none", Value: "all"},
			&cli.BoolFlag{Name: "types", Usage: "with the types of columns, and which take nulls"},
			&cli.StringSliceFlag{Name: "around", Usage: "the table of this `ADDRESS` and its neighbours by foreign keys"},
			&cli.BoolFlag{Name: "with-needs", Usage: "and what the selection needs"},
			&cli.BoolFlag{Name: "with-dependants", Usage: "and what depends on it: views, routines, triggers"},
			&cli.IntFlag{Name: "depth", Usage: "follow at most `N` steps; 0 for all (with --around 1 is usual)"},
			&cli.StringFlag{Name: "group-by", Usage: "colours and letters by `WHAT`: schema, selection (of the configuration)", Value: "schema"},
			kindFlag(), &cli.StringSliceFlag{Name: "except", Usage: "not what this `ADDRESS` covers"},
		},
		Action: a.chart,
	}
}

func (a *app) chart(ctx context.Context, cmd *cli.Command) error {
	out := cmd.String("out")
	if out != "" && !cmd.IsSet("as") && !cmd.Root().IsSet("as") {
		form, ok := pictureForms[strings.ToLower(filepath.Ext(out))]
		if !ok {
			return usagef("--out %s: its ending names no form; there are %s, or say --as svg", out, strings.Join(slices.Sorted(maps.Keys(pictureForms)), ", "))
		}
		a.as = form
	}
	if !slices.Contains([]string{"all", "keys", "none"}, cmd.String("columns")) {
		return usagef("--columns takes all, keys or none, not %q", cmd.String("columns"))
	}
	if out == "" {
		if err := a.form("text", "json", "svg", "png", "dot", "mermaid"); err != nil {
			return err
		}
	}
	if cmd.Args().Len()+len(values(cmd, "around")) == 0 {
		return usagef("chart takes the ADDRESS of what to draw, or --around ADDRESS; see: %s --help", cmd.FullName())
	}
	if cmd.Int("depth") < 0 {
		return usagef("--depth: %d steps cannot be followed", cmd.Int("depth"))
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	choices, err := a.choices(ctx, c, r, cmd)
	if err != nil {
		return err
	}
	o := chart.Options{Columns: cmd.String("columns"), Types: cmd.Bool("types"), WithNeeds: cmd.Bool("with-needs"), WithDependants: cmd.Bool("with-dependants"), Depth: int(cmd.Int("depth")), Most: mostBoxes}
	if o.Group, err = a.groups(ctx, c, r, cmd.String("group-by")); err != nil {
		return err
	}
	n, err := a.notes()
	if err != nil {
		return err
	}
	o.Note = func(s *catalogue.Snapshot, object *schema.Object) string {
		if object.Comment != "" {
			return object.Comment
		}
		return n.Of(s, object.ID(), "")
	}
	d, err := chart.Build(ctx, c, choices, o)
	if err != nil {
		return err
	}
	var snapshots []*catalogue.Snapshot
	for _, of := range choices {
		snapshots = append(snapshots, of.Contents.Snapshot)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: snapshots})
	if err != nil {
		return err
	}
	return a.writeChart(d, snapshots, unseen, out)
}

// traceChart draws the objects of a trace.
func (a *app) traceChart(t *traced, unseen []gaps.Gap) error {
	d := chart.OfTrace(t.Trace, func(i int) bool { return !t.hidden[i] })
	d.Title = "What depends on " + t.Location(&t.Nodes[0]).String()
	if t.dir == trace.Needs {
		d.Title = "What " + t.Location(&t.Nodes[0]).String() + " needs"
	}
	for _, line := range t.unseenSQL() {
		d.Notes = append(d.Notes, "not seen: "+render.Visible(line))
	}
	return a.writeChart(d, []*catalogue.Snapshot{t.Snapshot}, unseen, "")
}

// choices returns what is to be drawn: the tables that addresses cover, and what they name one by one.
func (a *app) choices(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, cmd *cli.Command) ([]chart.Choice, error) {
	wanted, err := kinds(cmd)
	if err != nil {
		return nil, err
	}
	except, err := a.resolveAll(ctx, r, values(cmd, "except"))
	if err != nil {
		return nil, err
	}
	var matches []address.Match
	if cmd.Args().Len() > 0 {
		if matches, err = a.resolveAll(ctx, r, cmd.Args().Slice()); err != nil {
			return nil, err
		}
	}
	around, err := a.resolveAll(ctx, r, values(cmd, "around"))
	if err != nil {
		return nil, err
	}
	sets := selection.Gather(matches)
	middle := selection.Gather(around)
	var out []chart.Choice
	at := map[int64]int{}
	choice := func(t *catalogue.Contents) (*chart.Choice, error) {
		if i, ok := at[t.Snapshot.ID]; ok {
			return &out[i], nil
		}
		if t.IsOutline() {
			var err error
			if t, err = c.Contents(ctx, t.Snapshot); err != nil {
				return nil, err
			}
		}
		at[t.Snapshot.ID] = len(out)
		out = append(out, chart.Choice{Contents: t})
		return &out[len(out)-1], nil
	}
	for _, s := range sets {
		of, err := choice(s.Contents)
		if err != nil {
			return nil, err
		}
		s.Contents = of.Contents
		named := !s.Whole && len(s.Schemas()) == 0
		for _, e := range s.Entries() {
			k := e.ID.Kind
			drawn := k == schema.KindTable || k == schema.KindPartitionedTable || k == schema.KindForeignTable || named && !selection.Attached(k)
			if len(wanted) > 0 {
				drawn = slices.Contains(wanted, k)
			}
			if drawn && !(len(except) > 0 && covers(except, &address.Match{Contents: of.Contents, Entry: e})) {
				of.Entries = append(of.Entries, e)
			}
		}
	}
	for _, s := range middle {
		of, err := choice(s.Contents)
		if err != nil {
			return nil, err
		}
		s.Contents = of.Contents
		for _, e := range s.Entries() {
			if e.ID.Kind.IsRelation() {
				of.Around = append(of.Around, e)
			}
		}
		if len(of.Around) == 0 {
			return nil, usagef("--around: %s is no table", around[0].Location())
		}
	}
	out = slices.DeleteFunc(out, func(x chart.Choice) bool { return len(x.Entries)+len(x.Around) == 0 })
	if len(out) == 0 {
		return nil, usagef("nothing there can be drawn: there are no tables; name views or routines one by one, or add --kind")
	}
	return out, nil
}

// groups returns how objects are grouped, nil for by their schemas.
func (a *app) groups(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, by string) (func(*catalogue.Snapshot, schema.ID) string, error) {
	switch by {
	case "schema":
		return nil, nil
	case "selection":
	default:
		return nil, usagef("--group-by takes schema or selection, not %q", by)
	}
	if len(a.cfg.Selections) == 0 {
		return nil, usagef("--group-by selection: the configuration has no [selections]")
	}
	type group struct {
		name string
		sets []*selection.Set
	}
	var all []group
	for _, name := range slices.Sorted(maps.Keys(a.cfg.Selections)) {
		matches, err := a.resolveAll(ctx, r, []string{"selection:" + name})
		if err != nil {
			return nil, err
		}
		all = append(all, group{name, selection.Gather(matches)})
	}
	return func(s *catalogue.Snapshot, id schema.ID) string {
		for _, g := range all {
			for _, set := range g.sets {
				if set.Contents.Snapshot.ID == s.ID && set.Covers(id) {
					return g.name
				}
			}
		}
		return ""
	}, nil
}

// writeChart writes a diagram in the form that is asked for, to a file or to stdout.
func (a *app) writeChart(d *chart.Diagram, snapshots []*catalogue.Snapshot, unseen []gaps.Gap, out string) error {
	where := make([]string, len(snapshots))
	for i, s := range snapshots {
		where[i] = s.Location().String()
	}
	if d.Title == "" {
		d.Title = strings.Join(where, ", ")
	}
	dashed := func(l chart.Link) bool { return l.Dashed }
	if slices.ContainsFunc(d.Links, dashed) {
		d.Notes = append(d.Notes, "broken lines: what uses what; whole ones: foreign keys")
	}
	for _, s := range snapshots { // no age: the same selection gives the same bytes
		d.Notes = append(d.Notes, render.Visible(s.Location().String())+", "+dated(s))
	}
	for _, line := range a.gapLines(unseen) {
		d.Notes = append(d.Notes, "not seen: "+line)
	}
	var write func(io.Writer) error
	switch a.as {
	case "svg", "png":
		p := chart.Place(d)
		write = p.SVG
		if a.as == "png" {
			write = p.PNG
		}
	case "dot":
		write = d.DOT
	case "mermaid":
		write = d.Mermaid
	case "json":
		write = func(w io.Writer) error { return render.JSON(w, a.chartJSON(d, snapshots, unseen)) }
	case "text":
		write = func(w io.Writer) error { return a.chartText(w, d) }
	default:
		return a.form("text", "json", "svg", "png", "dot", "mermaid")
	}
	if out == "" {
		a.unseenBeside(unseen)
		return write(a.Stdout)
	}
	if err := writeTo(out, write, isPicture); err != nil {
		return err
	}
	fmt.Fprintf(a.Stderr, "%s: %s, %s\n", render.Visible(out), render.Plural(len(d.Boxes), "box", "boxes"), render.Plural(len(d.Links), "link", "links"))
	a.unseenBeside(unseen)
	return nil
}

// isPicture reports whether a file begins as one of the forms of a picture does: such a file may be written over.
func isPicture(beginning string) bool {
	for _, mark := range []string{"<svg ", "\x89PNG", "digraph ", "erDiagram", "{\n", "object"} {
		if strings.HasPrefix(beginning, mark) {
			return true
		}
	}
	return false
}

// chartEnd returns a box or one of its rows in words.
func chartEnd(d *chart.Diagram, box, row int) string {
	name := d.Boxes[box].Name
	if row >= 0 && row < len(d.Boxes[box].Rows) {
		name += "." + d.Boxes[box].Rows[row].Name
	}
	return name
}

// chartText says the diagram in words.
func (a *app) chartText(w io.Writer, d *chart.Diagram) error {
	t := render.Table{Columns: []render.Column{{Title: "object"}, {Title: "kind"}, {Title: "group"}, {Title: "columns", Right: true}, {Title: "state"}, {Title: "about", Min: 20, Wrap: true}}}
	for i := range d.Boxes {
		b := &d.Boxes[i]
		kind, group, columns := b.Kind, "", ""
		if kind == "" {
			kind = "table"
		}
		if b.Group >= 0 {
			group = d.Groups[b.Group]
		}
		if n := len(b.Rows) + b.More; n > 0 {
			columns = fmt.Sprint(n)
		}
		t.Add(b.Name, kind, group, columns, b.State, strings.Join(strings.Fields(b.Note), " "))
	}
	if err := t.Text(w, a.width, a.paint); err != nil {
		return err
	}
	l := render.Table{Columns: []render.Column{{Title: "from"}, {Title: "to"}, {Title: "rows"}, {Title: "link", Min: 16, Wrap: true}, {Title: "state"}}}
	for _, x := range d.Links {
		rows := strings.Trim(x.Many+" : "+x.One, " :")
		if x.Many != "" && x.One != "" {
			rows = x.Many + " : " + x.One
		}
		l.Add(chartEnd(d, x.From, x.FromRow), chartEnd(d, x.To, x.ToRow), rows, x.Label, x.State)
	}
	if len(l.Rows) > 0 {
		fmt.Fprintln(w)
		if err := l.Text(w, a.width, a.paint); err != nil {
			return err
		}
	}
	fmt.Fprintf(w, "\n%s, %s; for a picture add --out FILE.svg\n", render.Plural(len(d.Boxes), "object", "objects"), render.Plural(len(d.Links), "link", "links"))
	for _, n := range d.Notes {
		fmt.Fprintln(w, a.paint.Text(render.Faint, n))
	}
	return nil
}

func (a *app) chartJSON(d *chart.Diagram, snapshots []*catalogue.Snapshot, unseen []gaps.Gap) map[string]any {
	type row struct {
		Name  string `json:"name"`
		Mark  string `json:"mark,omitempty"`
		Type  string `json:"type,omitempty"`
		State string `json:"state,omitempty"`
	}
	type box struct {
		Name    string `json:"name"`
		Kind    string `json:"kind"`
		Group   string `json:"group,omitempty"`
		State   string `json:"state,omitempty"`
		Note    string `json:"note,omitempty"`
		Columns []row  `json:"columns"`
	}
	type link struct {
		From  int    `json:"from"` // in objects
		To    int    `json:"to"`
		Col   string `json:"column,omitempty"`
		ToCol string `json:"to_column,omitempty"`
		Many  string `json:"rows,omitempty"`
		One   string `json:"to_rows,omitempty"`
		Label string `json:"label,omitempty"`
		State string `json:"state,omitempty"`
	}
	boxes, links := []box{}, []link{}
	for i := range d.Boxes {
		b := &d.Boxes[i]
		x := box{Name: b.Name, Kind: b.Kind, State: b.State, Note: b.Note, Columns: []row{}}
		if x.Kind == "" {
			x.Kind = "table"
		}
		if b.Group >= 0 {
			x.Group = d.Groups[b.Group]
		}
		for _, r := range b.Rows {
			x.Columns = append(x.Columns, row{r.Name, r.Mark, r.Type, r.State})
		}
		boxes = append(boxes, x)
	}
	column := func(box, row int) string {
		if row < 0 {
			return ""
		}
		return d.Boxes[box].Rows[row].Name
	}
	for _, l := range d.Links {
		links = append(links, link{l.From, l.To, column(l.From, l.FromRow), column(l.To, l.ToRow), l.Many, l.One, l.Label, l.State})
	}
	return map[string]any{"objects": boxes, "links": links, "sources": a.sources(snapshots), "unseen": a.unseenJSON(unseen)}
}
