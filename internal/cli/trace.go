package cli

// The command trace: what depends on a thing, or what it needs, by distance.

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/core/view"
)

func (a *app) traceCommand() *cli.Command {
	return &cli.Command{
		Name:      "trace",
		Usage:     "what depends on an object or a column, or what it needs, to any depth",
		ArgsUsage: "ADDRESS [ADDRESS]",
		Description: "Behind each line stands how the dependency is known: recorded by the server, read in the definition's\n" +
			"text, or guessed. With two addresses: the way from one to the other.\n\nExamples:\n  echo-atlas trace quay-live/berths/mooring\n  echo-atlas trace quay-live/berths/mooring.draught_m\n" +
			"  echo-atlas trace quay-live/berths/week_plan --needs\n  echo-atlas trace quay-live/berths/dunning_list quay-live/berths/customer\n" +
			"  echo-atlas trace quay-live/berths/mooring --why\n  echo-atlas trace quay-live/berths/berth.depth_m --if dropped",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			&cli.BoolFlag{Name: "needs", Usage: "what the object needs, instead of what depends on it"},
			&cli.StringFlag{Name: "if", Usage: "what would happen were it `CHANGED`: dropped, dropped-with-dependants, renamed=NEW, retyped=TYPE, required, moved=SCHEMA"},
			&cli.StringFlag{Name: "out", Usage: "with --if renamed=NEW or moved=SCHEMA: write the script that does it, and edits what depends on it, to this `FILE`, - for stdout"},
			&cli.BoolFlag{Name: "why", Usage: "show the lines in which each dependency is written"}, limitFlag(1000),
			&cli.StringSliceFlag{Name: "use", Usage: "only what is joined with it by this `USE`, in the first step: " + strings.Join(usageList(), ", ")},
			&cli.StringSliceFlag{Name: "kind", Usage: "list only this `KIND`, such as view; several with commas"},
			&cli.StringSliceFlag{Name: "in", Usage: "list only what this `ADDRESS` covers"},
			&cli.IntFlag{Name: "depth", Usage: "follow at most `N` dependencies in a row; 0 for all"},
		},
		Action: a.trace,
	}
}

func (a *app) trace(ctx context.Context, cmd *cli.Command) error {
	if cmd.Args().Len() == 2 {
		return a.tracePath(ctx, cmd)
	}
	if cmd.String("if") != "" {
		return a.traceIf(ctx, cmd)
	}
	if cmd.String("out") != "" {
		return usagef("--out writes the script of --if renamed=NEW or moved=SCHEMA, and --if is not given")
	}
	c, m, err := a.objectBy(ctx, cmd, func(r *address.Resolver) { r.Sparse, r.Ahead = true, true }, "csv", "dot", "mermaid", "markdown", "xlsx", "html", "svg", "png")
	if err != nil {
		return err
	}
	defer c.Close()
	dir := trace.Dependants
	if cmd.Bool("needs") {
		dir = trace.Needs
	}
	only, err := a.onlyOf(ctx, c, cmd)
	if err != nil {
		return err
	}
	run := func() (*trace.Trace, error) {
		if e := a.engineOf(m.Contents.Snapshot); dir == trace.Dependants && m.Part != "" && e != nil {
			return trace.RunPrecisely(ctx, c, m, int(cmd.Int("depth")), only.uses, e)
		}
		return trace.RunBy(ctx, c, m, dir, int(cmd.Int("depth")), only.uses)
	}
	t, err := run()
	if err != nil {
		return err
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{t.Snapshot}, References: true})
	if err != nil {
		return err
	}
	all, err := a.beyond(ctx, c, t, dir)
	if err != nil {
		return err
	}
	if dir == trace.Dependants {
		o, err := c.Object(ctx, m.Entry)
		if err != nil {
			return err
		}
		all.own = t.Own(m, o)
	}
	if len(only.kinds)+len(only.in) > 0 {
		if err := t.FetchAll(); err != nil {
			return err
		}
	}
	all.narrow(only)
	if err := a.traceAnswer(ctx, c, cmd, &all, unseen); err != nil {
		return err
	}
	return m.Contents.Err()
}

// traceAnswer gives a trace away in the form that is asked for.
func (a *app) traceAnswer(ctx context.Context, c *catalogue.Catalogue, cmd *cli.Command, all *traced, unseen []gaps.Gap) error {
	if a.as != "text" {
		if err := all.FetchAll(); err != nil {
			return err
		}
	}
	switch a.as {
	case "json":
		return a.traceJSON(ctx, c, all, unseen)
	case "dot", "mermaid", "csv", "markdown", "xlsx", "html", "svg", "png":
		a.unseenBeside(unseen)
		for _, line := range all.unseenSQL() {
			fmt.Fprintf(a.Stderr, "not seen: %s\n", render.Visible(line))
		}
		if said := all.leftOut(); said != "" {
			fmt.Fprintln(a.Stderr, said)
		}
		switch a.as {
		case "dot", "mermaid":
			return a.traceGraph(all)
		case "svg", "png":
			return a.traceChart(all, unseen)
		}
		return a.traceRows(ctx, c, all)
	}
	if err := a.traceText(ctx, c, all, cmd.Bool("why"), int(cmd.Int("limit")), len(unseen)+len(all.unseen) > 0); err != nil {
		return err
	}
	if err := a.foreignText(ctx, c, all); err != nil {
		return err
	}
	if said := all.leftOut(); said != "" {
		a.printf("\n%s\n", said)
	}
	a.unseen(unseen, all.unseenSQL()...)
	return nil
}

type traceNode struct {
	place
	Distance int    `json:"distance"`
	Verdict  string `json:"verdict"`
	Reason   string `json:"reason"`
	// Becomes are the columns that are made of the column that is traced.
	Becomes []string `json:"becomes,omitempty"`
}

type traceEdge struct {
	From     string          `json:"from"`
	To       string          `json:"to"`
	Use      string          `json:"use"`
	Evidence schema.Evidence `json:"evidence"`
	Reason   string          `json:"reason"`
	Line     int             `json:"line,omitempty"`
	Column   int             `json:"column,omitempty"`
	Text     string          `json:"text,omitempty"`
}

// outsideEdge is a need of something that the snapshot does not hold; to is its name as far as it is written.
type outsideEdge struct {
	From     string          `json:"from"`
	To       string          `json:"to"`
	Server   string          `json:"server,omitempty"`
	Database string          `json:"database,omitempty"`
	Use      string          `json:"use"`
	Evidence schema.Evidence `json:"evidence"`
}

// printed returns what show prints as the definition of an object, "" if there is nothing.
func (a *app) printed(t *trace.Trace) func(o *schema.Object) string {
	e := a.engineOf(t.Snapshot)
	return func(o *schema.Object) string { return view.Definition(o, e) }
}

func (a *app) traceJSON(ctx context.Context, c *catalogue.Catalogue, t *traced, unseen []gaps.Gap) error {
	verdict := map[trace.Direction]string{trace.Dependants: "depends", trace.Needs: "needed"}[t.dir]
	nodes := []traceNode{}
	for i := range t.Nodes {
		n := &t.Nodes[i]
		if i == 0 {
			nodes = append(nodes, traceNode{place: addressOf(t.Root), Verdict: "root"})
			continue
		}
		if t.hidden[i] {
			continue
		}
		d := t.Dependency(&t.Edges[n.Via])
		nodes = append(nodes, traceNode{place: addressOf(t.Location(n)), Distance: n.Distance, Verdict: verdict, Reason: sentence(&d), Becomes: becomes(t.Trace, n)})
	}
	for _, p := range t.own {
		nodes = append(nodes, traceNode{place: addressOf(t.Snapshot.Locate(p.Dependency.From.ID, p.Dependency.From.Part, p.Dependency.From.PartKind)), Distance: 1, Verdict: verdict, Reason: ownReason(&p.Dependency)})
	}
	all := make([]int, len(t.Edges))
	for i := range all {
		all[i] = i
	}
	places, err := t.Places(ctx, c, all, a.printed(t.Trace))
	if err != nil {
		return err
	}
	edges, outside := []traceEdge{}, []outsideEdge{}
	where := func(e schema.End) string { return t.Snapshot.Locate(e.ID, e.Part, e.PartKind).String() }
	for i := range t.Edges {
		if !t.listed(&t.Edges[i]) {
			continue
		}
		d, p := t.Dependency(&t.Edges[i]), places[i]
		edges = append(edges, traceEdge{where(d.From), where(d.To), d.Use.String(), d.Evidence, sentence(&d), p.Line, p.Column, p.Text})
	}
	if nodes, edges, err = a.foreignJSON(ctx, c, t, nodes, edges); err != nil {
		return err
	}
	unknown := a.unseenJSON(unseen)
	for _, d := range t.unseen {
		unknown = append(unknown, unseenRow{State: "unseen", Address: where(d.From), Subject: d.From.ID.Qualified(), Reason: sentence(&d)})
	}
	for _, d := range t.Outside() {
		if d.Use == schema.UseRunsUnseen {
			continue
		}
		outside = append(outside, outsideEdge{where(d.From), d.To.ID.String(), d.To.Outside.Server, d.To.Outside.Database, d.Use.String(), d.Evidence})
	}
	answer := map[string]any{"root": t.Root.String(), "nodes": nodes, "edges": edges, "outside": outside, "unknown": unknown, "sources": a.sources([]*catalogue.Snapshot{t.Snapshot})}
	if t.left > 0 {
		answer["unlisted"] = t.left
	}
	if n := t.Holds(); n > 0 {
		answer["holds"] = n
	}
	if len(t.held) > 0 {
		answer["held"] = heldJSON(t.held)
	}
	if t.Bypassed > 0 {
		answer["by_other_columns"] = t.Bypassed
	}
	return render.JSON(a.Stdout, answer)
}

// reachesNothing returns the sentence on a trace that reaches no other object, "" if there is something to list.
func reachesNothing(t *traced, gaps bool) string {
	switch {
	case t.shown() > 0:
		return ""
	case len(t.Nodes) > 1 || t.left > 0:
		return "Nothing of what is asked for is among it."
	case t.only.uses != nil:
		return nothing(gaps) + " is joined with it so."
	case len(t.foreign) > 0:
		return "Nothing in this database depends on it."
	case len(t.own)+len(t.held) > 0, t.dir == trace.Dependants && t.Holds() > 0:
		return nothing(gaps) + " else depends on it."
	case t.dir == trace.Dependants:
		return nothing(gaps) + " depends on it."
	case len(t.Outside()) == 0:
		return nothing(gaps) + " is needed by it."
	}
	return ""
}

// holdText says how much hangs on a thing.
func holdText(u trace.Hold) string {
	switch {
	case u.Lies > 0:
		return render.Plural(u.Lies, "object lies", "objects lie") + " in it"
	case u.Rights == 0:
		return "it owns " + render.Plural(u.Owned, "object", "objects")
	case u.Owned == 0:
		return "it has rights on " + render.Plural(u.Rights, "object", "objects")
	}
	return "it owns " + render.Plural(u.Owned, "object", "objects") + ", and has rights on " + render.Count(u.Rights) + " more"
}

func heldJSON(all []trace.Hold) []map[string]any {
	var list []map[string]any
	for _, u := range all {
		list = append(list, map[string]any{"database": u.Snapshot.Location().String(), "owns": u.Owned, "rights_on": u.Rights, "holds": u.Lies})
	}
	return list
}

// becomes returns the columns of a node that are made of the column that is traced, where that is all that matters of it.
func becomes(t *trace.Trace, n *trace.Node) []string {
	if names, whole := t.Carries(n); !whole {
		return names
	}
	return nil
}

// becoming says how the columns of an object of a kind are made of others.
func becoming(k schema.Kind) string {
	if k == schema.KindView || k == schema.KindMaterialisedView {
		return "becomes"
	}
	return "by"
}

// heldText lists what hangs on a role, a tablespace or a database.
func (a *app) heldText(t *traced) {
	if len(t.held) > 0 {
		a.section("what hangs on it")
		tab := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {}}}
		for _, u := range t.held {
			tab.Add(u.Snapshot.Location().String(), holdText(u))
		}
		_ = tab.Text(a.Stdout, a.width, a.paint)
	}
}

// holds says what lies in a schema, and what a role owns and may use.
func (a *app) holds(t *traced) {
	a.heldText(t)
	if n := t.Holds(); n > 0 && t.dir == trace.Dependants {
		a.printf("\n%s in it; list them with: echo-atlas list %s\n", render.Plural(n, "object lies", "objects lie"), render.Visible(t.Root.String()))
	}
}

// treeRow is a node as it is listed.
type treeRow struct{ node, depth int }

// rows returns the nodes in the order of the tree, at most so many where there is a limit, the edges that are told of them, all or those by
// which they are reached first, and the edges that lead to each node.
func (t *traced) rows(limit int, all bool) (rows []treeRow, told []int, reaching *trace.Lists) {
	children := trace.Group(len(t.Nodes), len(t.Nodes)-1, func(i int) int { return t.Nodes[i+1].By })
	reaching = trace.Group(len(t.Nodes), len(t.Edges), func(i int) int {
		far, _ := ends(&t.Edges[i], t.dir)
		return far
	})
	var walk func(node, depth int)
	walk = func(node, depth int) {
		for _, child := range children.Of(node) {
			i := int(child) + 1
			if limit > 0 && len(rows) == limit {
				return
			}
			if t.hidden[i] {
				walk(i, depth)
				continue
			}
			rows = append(rows, treeRow{i, depth})
			for _, e := range reaching.Of(i) {
				if _, near := ends(&t.Edges[e], t.dir); all || near == t.Nodes[i].By {
					told = append(told, int(e))
				}
			}
			walk(i, depth+1)
		}
	}
	walk(0, 1)
	return rows, told, reaching
}

func (a *app) traceText(ctx context.Context, c *catalogue.Catalogue, t *traced, lines bool, limit int, gaps bool) error {
	dir, count := t.dir, t.shown()
	what := "depends on it"
	if count != 1 {
		what = "depend on it"
	}
	if dir == trace.Needs {
		what = "needed by it"
	}
	a.printf("%s %s\n%s\n", cmp.Or(t.Root.PartKind, t.Root.ID.Kind), a.paint.Text(render.Title, render.Visible(t.Root.String())), a.paint.Text(render.Faint, a.about(t.Snapshot)))
	a.ownParts(t)
	a.holds(t)
	if said := reachesNothing(t, gaps); said != "" {
		a.printf("\n%s\n", said)
		return nil
	}
	a.printf("\n%s %s\n", render.Plural(count, "object", "objects"), what)
	rows, shown, reaching := t.rows(limit, lines)
	if err := t.FetchEnds(shown); err != nil {
		return err
	}
	places, err := t.Places(ctx, c, shown, a.printed(t.Trace))
	if err != nil {
		return err
	}
	const deepest = 12 // levels that are set in
	tab := render.Table{NoHead: true, Columns: []render.Column{{Min: 24}, {}, {Min: 16}, {}}}
	for _, r := range rows {
		id := t.ID(&t.Nodes[r.node])
		reason, evidence := why(t.Trace, r.node, dir, reaching.Of(r.node), places)
		reason = t.overHidden(r.node) + reason
		if names := becomes(t.Trace, &t.Nodes[r.node]); len(names) > 0 {
			reason += "; " + becoming(t.ID(&t.Nodes[r.node]).Kind) + " " + strings.Join(names, ", ")
		}
		tab.AddCells(render.Cell{Text: strings.Repeat("  ", min(r.depth, deepest)) + id.String()}, render.Cell{Text: string(id.Kind), Style: render.Faint},
			render.Cell{Text: reason}, render.Cell{Text: evidence, Style: render.Faint})
		if lines {
			tab.Below = append(tab.Below, a.evidenceLines(t, reaching.Of(r.node), places, strings.Repeat("  ", min(r.depth, deepest)+1)))
		}
	}
	_ = tab.Text(a.Stdout, a.width, a.paint)
	if len(tab.Rows) < count {
		a.printf("\n%s shown; for all add --limit 0, for the nearest --depth N\n", render.Count(len(tab.Rows)))
	}
	if reachedTwice(t.Trace, dir, reaching) {
		a.printf("\nEach object is shown where it is reached first; all ways: --as json\n")
	}
	if dir == trace.Needs {
		if err := a.outside(t.Outside()); err != nil {
			return err
		}
	}
	if t.Cyclic {
		a.printf("Some of these depend on each other in a cycle.\n")
	}
	return nil
}

// ownParts lists what in its own table depends on a column.
func (a *app) ownParts(t *traced) {
	if len(t.own) == 0 {
		return
	}
	a.printf("\n%s of its own table %s on it\n", render.Plural(len(t.own), "part", "parts"), map[bool]string{true: "depends", false: "depend"}[len(t.own) == 1])
	tab := render.Table{NoHead: true, Columns: []render.Column{{Min: 24}, {}, {Min: 16}, {}}}
	for i := range t.own {
		d := &t.own[i].Dependency
		tab.AddCells(render.Cell{Text: "  " + d.From.Part}, render.Cell{Text: string(d.From.PartKind), Style: render.Faint}, render.Cell{Text: ownReason(d)}, render.Cell{Text: string(d.Evidence), Style: render.Faint})
	}
	_ = tab.Text(a.Stdout, a.width, a.paint)
}

// evidenceLines returns the lines in which the dependencies of a node are written, each once, what names the other end set off.
func (a *app) evidenceLines(t *traced, edges []int32, places map[int]trace.Place, indent string) string {
	byLine := map[int][][2]int{}
	texts := map[int]string{}
	for _, i := range edges {
		p := places[int(i)]
		if p.Line == 0 {
			continue
		}
		d := t.Dependency(&t.Edges[i])
		start := offsetOfColumn(p.Text, p.Column)
		span := [2]int{start, min(start+max(0, d.Stop-d.Start), len(p.Text))}
		texts[p.Line] = p.Text
		if !slices.Contains(byLine[p.Line], span) {
			byLine[p.Line] = append(byLine[p.Line], span)
		}
	}
	var b strings.Builder
	for _, line := range slices.Sorted(maps.Keys(texts)) {
		spans := byLine[line]
		slices.SortFunc(spans, func(x, y [2]int) int { return cmp.Or(x[0]-y[0], x[1]-y[1]) })
		end := 0
		spans = slices.DeleteFunc(spans, func(x [2]int) bool { // one within another
			inside := x[0] < end
			end = max(end, x[1])
			return inside
		})
		fmt.Fprintf(&b, "%s%4d  %s\n", indent, line, a.paint.Spans(render.Hit, texts[line], spans))
	}
	return b.String()
}

// offsetOfColumn returns where a column, in characters from 1, begins in a line.
func offsetOfColumn(line string, column int) int {
	for i := range line {
		if column--; column == 0 {
			return i
		}
	}
	return len(line)
}

// reachedTwice reports whether some node is reached over more than one other.
func reachedTwice(t *trace.Trace, dir trace.Direction, reaching *trace.Lists) bool {
	for i := 1; i < len(t.Nodes); i++ {
		by := -1
		for _, e := range reaching.Of(i) {
			_, near := ends(&t.Edges[e], dir)
			if near != i && by >= 0 && near != by {
				return true
			}
			if near != i {
				by = near
			}
		}
	}
	return false
}

// ends returns the node that an edge leads to, and the one that it comes from, in the trace's
// direction.
func ends(e *trace.Edge, dir trace.Direction) (far, near int) {
	if dir == trace.Needs {
		return e.To, e.From
	}
	return e.From, e.To
}

// why says in words how a node hangs on the one it was reached over, and how that is known.
func why(t *trace.Trace, node int, dir trace.Direction, reaching []int32, places map[int]trace.Place) (reason, evidence string) {
	type ground struct {
		reason         string
		columns, lines []string
	}
	var grounds []*ground
	var evidences []string
	for _, at := range reaching {
		if _, near := ends(&t.Edges[at], dir); near != t.Nodes[node].By {
			continue
		}
		e := t.Dependency(&t.Edges[at])
		said := sentence(&e)
		i := slices.IndexFunc(grounds, func(g *ground) bool { return g.reason == said })
		if i < 0 {
			i = len(grounds)
			grounds = append(grounds, &ground{reason: said})
		}
		g := grounds[i]
		if part := e.To.Part; part != "" && !slices.Contains(g.columns, part) {
			g.columns = append(g.columns, part)
		}
		if line := strconv.Itoa(places[int(at)].Line); places[int(at)].Line > 0 && !slices.Contains(g.lines, line) {
			g.lines = append(g.lines, line)
		}
		if !slices.Contains(evidences, string(e.Evidence)) {
			evidences = append(evidences, string(e.Evidence))
		}
	}
	var words []string
	for _, g := range grounds {
		text := g.reason
		if t.Root.Part != "" && t.Nodes[node].By == 0 && len(g.columns) == 0 {
			text += " (which columns is not known)"
		}
		slices.SortFunc(g.lines, func(a, b string) int { return cmp.Or(cmp.Compare(len(a), len(b)), strings.Compare(a, b)) })
		if len(g.lines) > 0 {
			text += ", line " + strings.Join(g.lines, ", ")
		}
		if len(g.columns) > 0 {
			text += ": " + strings.Join(g.columns, ", ")
		}
		words = append(words, text)
	}
	return strings.Join(words, "; "), strings.Join(evidences, ", ")
}

// outside lists what the snapshot does not hold and objects of it need.
func (a *app) outside(all []schema.Dependency) error {
	all = slices.DeleteFunc(slices.Clone(all), func(d schema.Dependency) bool { return d.Use == schema.UseRunsUnseen }) // that is said among what was not seen
	if len(all) == 0 {
		return nil
	}
	a.section("outside of this database")
	t := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {Min: 16}, {}}}
	for i := range all {
		d := &all[i]
		t.Add(d.From.ID.String(), sentence(d), outsideName(d.To))
	}
	return t.Text(a.Stdout, a.width, a.paint)
}

// outsideName returns what lies outside of a snapshot by the name that it is known by.
func outsideName(e schema.End) string {
	name := e.ID.String()
	for _, container := range []string{e.Outside.Database, e.Outside.Server} {
		if container != "" {
			name = schema.Location{Server: container}.String() + "/" + name
		}
	}
	return name
}
