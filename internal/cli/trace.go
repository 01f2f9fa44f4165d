package cli

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

func (a *app) traceCommand() *cli.Command {
	return &cli.Command{
		Name:      "trace",
		Usage:     "what depends on an object or a column, or what it needs, to any depth",
		ArgsUsage: "ADDRESS",
		Description: "Behind each line stands how the dependency is known: recorded by the server, read in the definition's\n" +
			"text, or guessed.\n\nExamples:\n  echo-atlas trace quay-live/berths/mooring\n  echo-atlas trace quay-live/berths/mooring.draught_m\n" +
			"  echo-atlas trace quay-live/berths/week_plan --needs",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			&cli.BoolFlag{Name: "needs", Usage: "what the object needs, instead of what depends on it"},
			limitFlag(1000),
			&cli.IntFlag{Name: "depth", Usage: "follow at most `N` dependencies in a row; 0 for all"},
		},
		Action: a.trace,
	}
}

func (a *app) trace(ctx context.Context, cmd *cli.Command) error {
	c, m, err := a.object(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	dir := trace.Dependants
	if cmd.Bool("needs") {
		dir = trace.Needs
	}
	t, err := trace.Run(ctx, c, m, dir, int(cmd.Int("depth")))
	if err != nil {
		return err
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{t.Snapshot}, References: true})
	if err != nil {
		return err
	}
	if a.as == "json" {
		return a.traceJSON(t, dir, unseen)
	}
	a.traceText(t, dir, int(cmd.Int("limit")), len(unseen) > 0)
	a.unseen(unseen)
	return nil
}

type traceNode struct {
	address
	Distance int    `json:"distance"`
	Verdict  string `json:"verdict"`
	Reason   string `json:"reason"`
}

type traceEdge struct {
	From     string          `json:"from"`
	To       string          `json:"to"`
	Evidence schema.Evidence `json:"evidence"`
	Reason   string          `json:"reason"`
	Line     int             `json:"line,omitempty"`
	Column   int             `json:"column,omitempty"`
	Text     string          `json:"text,omitempty"`
}

func (a *app) traceJSON(t *trace.Trace, dir trace.Direction, unseen []gaps.Gap) error {
	verdict := map[trace.Direction]string{trace.Dependants: "depends", trace.Needs: "needed"}[dir]
	nodes := []traceNode{}
	for i, n := range t.Nodes {
		x := traceNode{address: addressOf(n.Location), Distance: n.Distance, Verdict: verdict, Reason: n.Reason}
		if i == 0 {
			x.address, x.Verdict = addressOf(t.Root), "root"
		}
		nodes = append(nodes, x)
	}
	edges := []traceEdge{}
	for _, e := range t.Edges {
		edges = append(edges, traceEdge{e.From.String(), e.To.String(), e.Evidence, e.Reason, e.Line, e.Column, e.Text})
	}
	return render.JSON(a.Stdout, map[string]any{"root": t.Root.String(), "nodes": nodes, "edges": edges, "unknown": a.unseenJSON(unseen),
		"sources": a.sources([]*catalogue.Snapshot{t.Snapshot})})
}

func (a *app) traceText(t *trace.Trace, dir trace.Direction, limit int, gaps bool) {
	count := len(t.Nodes) - 1
	what := "depends on it"
	if count != 1 {
		what = "depend on it"
	}
	if dir == trace.Needs {
		what = "needed by it"
	}
	kind := t.Root.ID.Kind
	if t.Root.Part != "" {
		kind = t.Root.PartKind
	}
	a.printf("%s %s\n", kind, a.paint.Text(render.Title, render.Visible(t.Root.String())))
	a.printf("%s\n", a.paint.Text(render.Faint, a.about(t.Snapshot)))
	if count == 0 {
		a.printf("\n%s %s.\n", nothing(gaps), map[trace.Direction]string{trace.Dependants: "depends on it", trace.Needs: "is needed by it"}[dir])
		return
	}
	a.printf("\n%s %s\n", render.Plural(count, "object", "objects"), what)
	children := make([][]int, len(t.Nodes))
	for i := 1; i < len(t.Nodes); i++ {
		children[t.Nodes[i].By] = append(children[t.Nodes[i].By], i)
	}
	reaching := make([][]*trace.Edge, len(t.Nodes)) // the edges that lead to each node
	for i := range t.Edges {
		far, _ := ends(&t.Edges[i], dir)
		reaching[far] = append(reaching[far], &t.Edges[i])
	}
	const deepest = 12 // levels that are set in
	tab := render.Table{NoHead: true, Columns: []render.Column{{Min: 24}, {}, {Min: 16}, {}}}
	var walk func(node, depth int)
	walk = func(node, depth int) {
		for _, i := range children[node] {
			if limit > 0 && len(tab.Rows) == limit {
				return
			}
			n := t.Nodes[i]
			reason, evidence := a.why(t, i, dir, reaching[i])
			tab.AddCells(render.Cell{Text: strings.Repeat("  ", min(depth, deepest)) + n.Location.ID.String()}, render.Cell{Text: string(n.Location.ID.Kind), Style: render.Faint},
				render.Cell{Text: reason}, render.Cell{Text: evidence, Style: render.Faint})
			walk(i, depth+1)
		}
	}
	walk(0, 1)
	_ = tab.Text(a.Stdout, a.width, a.paint)
	if len(tab.Rows) < count {
		a.printf("\n%s shown; for all add --limit 0, for the nearest --depth N\n", render.Count(len(tab.Rows)))
	}
	extra := 0
	for i := 1; i < len(t.Nodes); i++ {
		by := map[int]bool{}
		for _, e := range reaching[i] {
			if _, near := ends(e, dir); near != i {
				by[near] = true
			}
		}
		extra += max(0, len(by)-1)
	}
	if extra > 0 {
		a.printf("\nEach object is shown where it is reached first; all ways: --as json\n")
	}
	if t.Cyclic {
		a.printf("Some of these depend on each other in a cycle.\n")
	}
}

// ends returns the node that an edge leads to, and the one that it comes from, in the trace's
// direction.
func ends(e *trace.Edge, dir trace.Direction) (far, near int) {
	if dir == trace.Needs {
		return e.ToNode, e.FromNode
	}
	return e.FromNode, e.ToNode
}

// why says in words how a node hangs on the one it was reached over, and how that is known.
func (a *app) why(t *trace.Trace, node int, dir trace.Direction, reaching []*trace.Edge) (reason, evidence string) {
	type ground struct {
		reason         string
		columns, lines []string
	}
	var grounds []*ground
	var evidences []string
	for _, e := range reaching {
		if _, near := ends(e, dir); near != t.Nodes[node].By {
			continue
		}
		i := slices.IndexFunc(grounds, func(g *ground) bool { return g.reason == e.Reason })
		if i < 0 {
			i = len(grounds)
			grounds = append(grounds, &ground{reason: e.Reason})
		}
		g := grounds[i]
		if part := e.To.Part; part != "" && !slices.Contains(g.columns, part) {
			g.columns = append(g.columns, part)
		}
		if line := strconv.Itoa(e.Line); e.Line > 0 && !slices.Contains(g.lines, line) {
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
