package cli

// What a trace says beyond the objects of its own database: other databases, SQL that cannot be seen, the way between two
// objects, and its forms for other programs.

import (
	"cmp"
	"context"
	"fmt"
	"net"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// traced is a trace, and what belongs to its answer.
type traced struct {
	*trace.Trace
	dir     trace.Direction
	foreign []trace.Foreign
	unseen  []schema.Dependency // what runs SQL that cannot be seen
	own     []trace.OwnPart     // parts of the same table that depend on a column
	held    []trace.Hold        // what hangs on a role, a tablespace or a database
	only    only
	hidden  []bool // nodes that are not listed
	left    int    // how many there are
}

// ownReason says how a part of a table depends on a column of it.
func ownReason(d *schema.Dependency) string {
	if d.From.PartKind == schema.KindColumn {
		return "is computed from it"
	}
	return "is on it"
}

// beyond finds what a trace of dependants cannot reach in its own database.
func (a *app) beyond(ctx context.Context, c *catalogue.Catalogue, t *trace.Trace, dir trace.Direction) (traced, error) {
	out := traced{Trace: t, dir: dir}
	unseen := t.Unseen()
	reached := map[schema.ID]bool{}
	for i := range t.Nodes {
		if dir == trace.Needs && len(unseen) > 0 {
			reached[t.ID(&t.Nodes[i])] = true
		}
	}
	for _, d := range unseen {
		if dir == trace.Dependants || reached[d.From.ID] {
			out.unseen = append(out.unseen, d)
		}
	}
	if dir == trace.Dependants && trace.Holder(t.Root.ID.Kind) && t.Snapshot.Path == "" {
		latest, err := c.Latest(ctx)
		if err == nil {
			out.held, err = trace.NewEstate(c, latest).Held(ctx, t)
		}
		return out, err
	}
	reacher, reaches := a.engineOf(t.Snapshot).(engine.Reacher)
	if dir == trace.Needs || !a.traits(t.Snapshot.Engine).CrossDatabase && !reaches || t.Snapshot.Path != "" {
		return out, nil
	}
	latest, err := c.Latest(ctx)
	if err != nil {
		return out, err
	}
	if !slices.ContainsFunc(latest, func(s *catalogue.Snapshot) bool { return s.ID == t.Snapshot.ID }) {
		return out, nil // of another time
	}
	estate := trace.NewEstate(c, latest)
	linker, links := a.engineOf(t.Snapshot).(engine.Linker)
	linked := map[string]map[string]map[string]engine.Reach{} // by the server that links lead to
	out.foreign, err = trace.Beyond(t, func(t *trace.Trace) (all []trace.Foreign, err error) {
		leads := func(r engine.Reach) bool { return a.leads(r, t.Snapshot.Server) }
		if reaches {
			return estate.Imported(ctx, t, reacher, leads)
		}
		if links && linked[t.Snapshot.Server] == nil {
			if linked[t.Snapshot.Server], err = estate.Links(ctx, linker, leads); err != nil {
				return nil, err
			}
		}
		return estate.Elsewhere(ctx, t, linked[t.Snapshot.Server])
	})
	return out, err
}

// leads reports whether a host and a port are those of a server: of a configured one, or as [hosts] has it.
func (a *app) leads(r engine.Reach, server string) bool {
	local := func(host string) string {
		switch host {
		case "", "127.0.0.1", "::1", "localhost":
			return "localhost"
		}
		return strings.ToLower(host)
	}
	for host, name := range a.cfg.Hosts {
		if name == server && (strings.EqualFold(host, r.Host) || strings.EqualFold(host, net.JoinHostPort(r.Host, r.Port))) {
			return true
		}
	}
	for _, s := range a.cfg.Servers {
		u, err := url.Parse(s.URL)
		if s.Name != server || err != nil {
			continue
		}
		if local(u.Hostname()) == local(r.Host) && cmp.Or(u.Port(), r.Usual) == r.Port {
			return true
		}
	}
	return false
}

// unseenSQL says what runs SQL that cannot be seen, as lines.
func (t *traced) unseenSQL() []string {
	byFrom := map[schema.ID]int{}
	var order []schema.ID
	for _, d := range t.unseen {
		if byFrom[d.From.ID]++; byFrom[d.From.ID] == 1 {
			order = append(order, d.From.ID)
		}
	}
	var lines []string
	for _, id := range order {
		lines = append(lines, fmt.Sprintf("%s %s runs SQL that cannot be seen here, and may use anything", id.Kind, id.String()))
	}
	return lines
}

// foreignText lists what depends on the nodes in other databases.
func (a *app) foreignText(ctx context.Context, c *catalogue.Catalogue, t *traced) error {
	if len(t.foreign) == 0 {
		return nil
	}
	a.section("in other databases")
	tab := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{Min: 24}, {}, {Min: 16}, {}}}
	told := t.told()
	for i := range t.foreign {
		f := &t.foreign[i]
		where := f.Snapshot.Locate(f.Entry.ID, "", "").String()
		said := sentence(&f.Dependency)
		switch node := &f.Of.Nodes[f.Node]; {
		case f.Of != t.Trace: // of a database between
			said += ": " + f.Of.Location(node).String()
		case f.Node > 0:
			said += ": " + t.ID(node).String()
		}
		place, err := a.foreignPlace(ctx, c, f)
		if err != nil {
			return err
		}
		if place.Line > 0 {
			said += ", line " + strconv.Itoa(place.Line)
		}
		tab.AddCells(render.Cell{Text: where}, render.Cell{Text: string(f.Entry.ID.Kind), Style: render.Faint}, render.Cell{Text: said}, render.Cell{Text: string(f.Dependency.Evidence), Style: render.Faint})
		for k := range f.Behind.Nodes[1:] {
			n := &f.Behind.Nodes[1+k]
			at := f.Behind.Location(n).String()
			if told[at] {
				continue
			}
			told[at] = true
			d := f.Behind.Dependency(&f.Behind.Edges[n.Via])
			tab.AddCells(render.Cell{Text: strings.Repeat("  ", n.Distance) + f.Behind.ID(n).String()}, render.Cell{Text: string(f.Behind.ID(n).Kind), Style: render.Faint},
				render.Cell{Text: sentence(&d)}, render.Cell{Text: string(d.Evidence), Style: render.Faint})
		}
	}
	return tab.Text(a.Stdout, a.width, a.paint)
}

// told returns what is listed of the trace's own database, which may be reached again through another.
func (t *traced) told() map[string]bool {
	all := map[string]bool{}
	if len(t.foreign) > 0 {
		for i := range t.Nodes {
			all[t.Location(&t.Nodes[i]).String()] = true
		}
	}
	return all
}

func (a *app) foreignPlace(ctx context.Context, c *catalogue.Catalogue, f *trace.Foreign) (trace.Place, error) {
	o, err := c.Object(ctx, f.Entry)
	if err != nil {
		return trace.Place{}, err
	}
	return trace.PlaceIn(o, a.printed(f.Behind)(o), &f.Dependency), nil
}

// foreignJSON adds what lies in other databases to the nodes and edges.
func (a *app) foreignJSON(ctx context.Context, c *catalogue.Catalogue, t *traced, nodes []traceNode, edges []traceEdge) ([]traceNode, []traceEdge, error) {
	told := t.told()
	for i := range t.foreign {
		f := &t.foreign[i]
		node := &f.Of.Nodes[f.Node]
		p, err := a.foreignPlace(ctx, c, f)
		if err != nil {
			return nil, nil, err
		}
		where := f.Snapshot.Locate(f.Entry.ID, "", "")
		nodes = append(nodes, traceNode{place: addressOf(where), Distance: f.Distance, Verdict: "depends", Reason: sentence(&f.Dependency)})
		edges = append(edges, traceEdge{where.String(), f.Of.Location(node).String(), f.Dependency.Use.String(), f.Dependency.Evidence, sentence(&f.Dependency), p.Line, p.Column, p.Text})
		for k := range f.Behind.Nodes[1:] {
			n := &f.Behind.Nodes[1+k]
			e := &f.Behind.Edges[n.Via]
			d := f.Behind.Dependency(e)
			if at := f.Behind.Location(n).String(); !told[at] {
				told[at] = true
				nodes = append(nodes, traceNode{place: addressOf(f.Behind.Location(n)), Distance: f.Distance + n.Distance, Verdict: "depends", Reason: sentence(&d)})
			}
			edges = append(edges, traceEdge{f.Behind.Location(n).String(), f.Behind.Location(&f.Behind.Nodes[e.To]).String(), d.Use.String(), d.Evidence, sentence(&d), 0, 0, ""})
		}
	}
	return nodes, edges, nil
}

// tracePath says how two objects hang together.
func (a *app) tracePath(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	if err := refuseOnly(cmd, "a way"); err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	r.Sparse = true
	var ends [2]*address.Match
	for i := range ends {
		parsed, err := address.Parse(cmd.Args().Get(i))
		if err != nil {
			return err
		}
		if ends[i], err = r.Object(ctx, parsed); err != nil {
			return fileMeant(cmd.Args().Get(i), err)
		}
	}
	if x, y := ends[0].Contents.Snapshot, ends[1].Contents.Snapshot; x.ID != y.ID {
		return usagef("%s and %s lie in different databases; a way leads through one", ends[0].Location(), ends[1].Location())
	}
	from, to := ends[0], ends[1]
	const most = 20
	var way *trace.Trace
	var paths [][]int
	more := false
	for _, dir := range []trace.Direction{trace.Needs, trace.Dependants} {
		if way, err = trace.Run(ctx, c, from, dir, 0); err != nil {
			return err
		}
		if paths, more = way.Paths(to.Entry.ID, most); len(paths) > 0 {
			break
		}
	}
	if err := way.FetchEnds(slices.Concat(paths...)); err != nil {
		return err
	}
	return cmp.Or(a.showPaths(ctx, c, way, to.Location(), paths, more), from.Contents.Err())
}

// showPaths prints the ways of a trace to an object.
func (a *app) showPaths(ctx context.Context, c *catalogue.Catalogue, way *trace.Trace, to schema.Location, paths [][]int, more bool) error {
	places, err := way.Places(ctx, c, slices.Concat(paths...), a.printed(way))
	if err != nil {
		return err
	}
	edge := func(i int) traceEdge {
		d, p := way.Dependency(&way.Edges[i]), places[i]
		return traceEdge{way.Snapshot.Locate(d.From.ID, d.From.Part, d.From.PartKind).String(), way.Snapshot.Locate(d.To.ID, d.To.Part, d.To.PartKind).String(), d.Use.String(), d.Evidence, sentence(&d), p.Line, p.Column, p.Text}
	}
	if a.as == "json" {
		all, edges := [][]traceEdge{}, []traceEdge{}
		seen := map[int]bool{}
		for _, path := range paths {
			var list []traceEdge
			for _, i := range path {
				list = append(list, edge(i))
				if !seen[i] {
					seen[i] = true
					edges = append(edges, edge(i))
				}
			}
			all = append(all, list)
		}
		return render.JSON(a.Stdout, map[string]any{"root": way.Root.String(), "to": to.String(), "paths": all, "more": more, "edges": edges, "sources": a.sources([]*catalogue.Snapshot{way.Snapshot})})
	}
	a.printf("from %s to %s\n%s\n\n", a.paint.Text(render.Title, render.Visible(way.Root.String())), a.paint.Text(render.Title, render.Visible(to.String())), a.paint.Text(render.Faint, a.about(way.Snapshot)))
	switch n := len(paths); {
	case n == 0:
		a.printf("No dependencies lead from one to the other.\n")
		return nil
	case more:
		a.printf("More than %d ways; these are the shortest.\n\n", n)
	case n > 1:
		a.printf("%d ways, the shortest first.\n\n", n)
	}
	t := render.Table{NoHead: true, Columns: []render.Column{{}, {Min: 20}, {Min: 16}, {Min: 20}, {}}}
	for k, path := range paths {
		number := ""
		if len(paths) > 1 {
			number = strconv.Itoa(k + 1)
		}
		for _, i := range path {
			e, d := edge(i), way.Dependency(&way.Edges[i])
			if e.Line > 0 {
				e.Reason += ", line " + strconv.Itoa(e.Line)
			}
			t.AddCells(render.Cell{Text: number}, render.Cell{Text: d.From.ID.String()}, render.Cell{Text: e.Reason, Style: render.Faint}, render.Cell{Text: d.To.ID.String()}, render.Cell{Text: string(d.Evidence), Style: render.Faint})
			number = ""
		}
	}
	return t.Text(a.Stdout, a.width, a.paint)
}

// traceGraph writes the objects of a trace as a graph for a drawing program: DOT or Mermaid.
func (a *app) traceGraph(t *traced) error {
	type link struct{ from, to int }
	labels := map[link][]string{}
	var order []link
	for i := range t.Edges {
		e := &t.Edges[i]
		if t.hidden[e.From] || t.hidden[e.To] {
			continue
		}
		d := t.Dependency(e)
		l := link{e.From, e.To}
		if labels[l] == nil {
			order = append(order, l)
		}
		if word := d.Use.String(); !slices.Contains(labels[l], word) {
			labels[l] = append(labels[l], word)
		}
	}
	// Names are written so that none can end its quotes.
	quoted := func(s string) string {
		return strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", " ").Replace(render.Visible(s))
	}
	if a.as == "mermaid" {
		quoted = func(s string) string {
			var b strings.Builder
			for _, r := range render.Visible(s) {
				if r == '"' || r == '#' || r == '<' || r == '>' || r == '&' || r == '`' {
					fmt.Fprintf(&b, "#%d;", r)
				} else {
					b.WriteRune(r)
				}
			}
			return b.String()
		}
	}
	name := func(i int) string { return t.ID(&t.Nodes[i]).String() }
	if a.as == "dot" {
		a.printf("digraph {\n  rankdir=LR;\n  node [shape=box];\n")
		for i := range t.Nodes {
			if t.hidden[i] {
				continue
			}
			a.printf("  n%d [label=\"%s\"];\n", i, quoted(name(i)))
		}
		for _, l := range order {
			a.printf("  n%d -> n%d [label=\"%s\"];\n", l.from, l.to, quoted(strings.Join(labels[l], ", ")))
		}
		a.printf("}\n")
		return nil
	}
	a.printf("flowchart LR\n")
	for i := range t.Nodes {
		if t.hidden[i] {
			continue
		}
		a.printf("  n%d[\"%s\"]\n", i, quoted(name(i)))
	}
	for _, l := range order {
		a.printf("  n%d -->|\"%s\"| n%d\n", l.from, quoted(strings.Join(labels[l], ", ")), l.to)
	}
	return nil
}

// traceRows writes the edges as rows.
func (a *app) traceRows(ctx context.Context, c *catalogue.Catalogue, t *traced) error {
	all := make([]int, len(t.Edges))
	for i := range all {
		all[i] = i
	}
	places, err := t.Places(ctx, c, all, a.printed(t.Trace))
	if err != nil {
		return err
	}
	tab := render.Table{}
	for _, title := range []string{"from", "to", "use", "evidence", "line", "column", "text"} {
		tab.Columns = append(tab.Columns, render.Column{Title: title, Right: title == "line" || title == "column"})
	}
	where := func(e schema.End) string { return t.Snapshot.Locate(e.ID, e.Part, e.PartKind).String() }
	for i := range t.Edges {
		if !t.listed(&t.Edges[i]) {
			continue
		}
		d, p := t.Dependency(&t.Edges[i]), places[i]
		number := func(n int) string {
			if n == 0 {
				return ""
			}
			return strconv.Itoa(n)
		}
		tab.Add(where(d.From), where(d.To), d.Use.String(), string(d.Evidence), number(p.Line), number(p.Column), p.Text)
	}
	return a.table(&tab)
}
