package cli

// trace --if says what would happen were a thing changed: whether the server lets you, what breaks, and what to edit first.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/rename"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// whyWords are the reasons for what would happen.
var whyWords = map[engine.Why]string{
	engine.WhyDepends: "depends on it", engine.WhyRuns: "fails when it is used next", engine.WhyPart: "belongs to it", engine.WhyTracked: "the server keeps track of it",
	engine.WhyRebuilt: "is built anew", engine.WhyValues: "depends on the new type and the values", engine.WhyLeftOut: "fails where it leaves the column out",
	engine.WhyText: "is known from a text that may not tell all", engine.WhyBehind: "rests on what breaks", engine.WhyNothing: "is not touched",
	engine.WhyStar: "names the column as a star brings it",
}

// change reads what --if asks for.
func change(text string) (engine.Change, error) {
	name, value, given := strings.Cut(text, "=")
	c := engine.Change(name)
	switch c {
	case engine.Dropped, engine.DroppedAlong, engine.Required:
		if given {
			return "", usagef("--if %s takes no value", name)
		}
		return c, nil
	case engine.Renamed, engine.Retyped, engine.Moved:
		if value == "" {
			return "", usagef("--if %s: say what to, like %s=NEW", name, name)
		}
		return c, nil
	}
	known := []string{string(engine.Dropped), string(engine.DroppedAlong), string(engine.Renamed), string(engine.Retyped), string(engine.Required), string(engine.Moved)}
	return "", usagef("--if: there is no change %q%s; there are %s", name, nearWord(name, known), strings.Join(known, ", "))
}

// concerns says of a change that is not one of what is named.
func concerns(what engine.Change, m *address.Match) error {
	column := m.PartKind == schema.KindColumn
	switch {
	case m.Part != "" && !column:
		return usagef("%s is a %s; --if is about objects and columns", m.Location(), m.PartKind)
	case !column && (what == engine.Retyped || what == engine.Required):
		return usagef("--if %s is about a column, and %s is a %s", what, m.Location(), m.Entry.ID.Kind)
	case column && what == engine.Moved:
		return usagef("--if moved is about an object, and %s is a column", m.Location())
	}
	return nil
}

func (a *app) traceIf(ctx context.Context, cmd *cli.Command) error {
	what, err := change(cmd.String("if"))
	if err != nil {
		return err
	}
	if cmd.Bool("needs") {
		return usagef("--if asks for what depends on it, and --needs for the opposite")
	}
	if err := refuseOnly(cmd, "--if"); err != nil {
		return err
	}
	c, m, err := a.objectBy(ctx, cmd, func(r *address.Resolver) { r.Sparse, r.Ahead = true, true })
	if err != nil {
		return err
	}
	defer c.Close()
	s := m.Contents.Snapshot
	if err := concerns(what, m); err != nil {
		return err
	}
	script, err := wantsScript(cmd, what)
	if err != nil {
		return err
	}
	forecaster, ok := a.engineOf(s).(engine.Forecaster)
	if !ok {
		return usagef("what %s servers do is not known here", s.Engine)
	}
	t, err := trace.Dependent(ctx, c, m)
	if err != nil {
		return err
	}
	if err := t.FetchAll(); err != nil {
		return err
	}
	all, err := a.beyond(ctx, c, t, trace.Dependants)
	if err != nil {
		return err
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{s}, References: true})
	if err != nil {
		return err
	}
	p, err := a.predict(ctx, cmd, c, m, &all, forecaster, what)
	if err != nil {
		return err
	}
	if script {
		if err := a.renameScript(ctx, cmd, c, m, p); err != nil || cmd.String("out") == "-" {
			return err
		}
	}
	if a.as == "json" {
		return a.predictJSON(ctx, c, p, unseen)
	}
	a.predictText(p, len(unseen)+len(all.unseen) > 0)
	if err := a.foreignText(ctx, c, &all); err != nil {
		return err
	}
	a.unseen(unseen, all.unseenSQL()...)
	return nil
}

// predicted is a trace with what would happen.
type predicted struct {
	*traced
	forecast trace.Forecast
	change   string
	places   map[int]trace.Place // of the edges that decide
	scripted bool                // it was written as a script
	taken    string              // what bears the new name already
}

// predict says what a change would do to the nodes of a trace.
func (a *app) predict(ctx context.Context, cmd *cli.Command, c *catalogue.Catalogue, m *address.Match, all *traced, f engine.Forecaster, what engine.Change) (*predicted, error) {
	t, e := all.Trace, a.engineOf(m.Contents.Snapshot)
	o, err := c.Object(ctx, m.Entry)
	if err != nil {
		return nil, err
	}
	parents, err := trace.Parents(ctx, c, m.Contents, o)
	if err != nil {
		return nil, err
	}
	if e.Traits().LiveStars && m.Part != "" && what == engine.Renamed {
		if t.ByStar, err = rename.ByStar(ctx, c, e, m); err != nil {
			return nil, err
		}
	}
	p := &predicted{traced: all, forecast: t.Predict(f, m, o, parents, what), change: cmd.String("if")}
	if len(all.held) > 0 && m.Entry.ID.Kind != schema.KindDatabase && what == engine.Dropped && e.Traits().RolesHeld {
		p.forecast.Refused, p.forecast.Forbidden = true, true
	}
	if what == engine.Renamed || what == engine.Moved {
		if p.taken, err = t.Taken(ctx, c, m, o, renaming(cmd, m), !e.Traits().Rules.FoldLower); err != nil {
			return nil, err
		}
		if p.taken != "" {
			p.forecast.Refused, p.forecast.Forbidden = true, true
		}
	}
	if err := m.Contents.Err(); err != nil {
		return nil, err
	}
	p.places, err = p.deciding(ctx, c, a.printed(t))
	return p, err
}

// deciding returns where the dependencies that decide are written.
func (p *predicted) deciding(ctx context.Context, c *catalogue.Catalogue, printed func(*schema.Object) string) (map[int]trace.Place, error) {
	var edges []int
	for _, v := range p.forecast.Verdicts {
		if v.Edge >= 0 {
			edges = append(edges, v.Edge)
		}
	}
	return p.Places(ctx, c, edges, printed)
}

// reason says why something would happen to a node.
func (p *predicted) reason(n int) string {
	v := p.forecast.Verdicts[n]
	if v.Edge < 0 {
		return whyWords[engine.WhyNothing]
	}
	d := p.Dependency(&p.Edges[v.Edge])
	text := sentence(&d)
	if place := p.places[v.Edge]; place.Line > 0 {
		text += ", line " + strconv.Itoa(place.Line)
	}
	if said := whyWords[v.Why]; v.Why != engine.WhyDepends {
		text += "; " + said
	}
	return text
}

func (p *predicted) outcome() string {
	if p.forecast.Refused {
		return "refused"
	}
	return "runs"
}

// count returns how many nodes and parts have an effect.
func (p *predicted) count(e engine.Effect) int {
	n := 0
	for i, v := range p.forecast.Verdicts {
		if i > 0 && v.Effect == e {
			n++
		}
	}
	for _, v := range p.forecast.Own {
		if v.Effect == e {
			n++
		}
	}
	return n
}

// edit is something that has to be edited first.
type edit struct {
	where schema.Location
	kind  schema.Kind
	name  string
	place trace.Place
}

// edits returns what has to be edited, what rests on others first, the parts of the object itself last.
func (p *predicted) edits() []edit {
	stops := func(e engine.Effect) bool { return e == engine.Refused || e == engine.Breaks }
	var nodes []int
	for i, v := range p.forecast.Verdicts {
		if i > 0 && stops(v.Effect) {
			nodes = append(nodes, i)
		}
	}
	slices.SortStableFunc(nodes, func(i, j int) int { return p.Nodes[j].Distance - p.Nodes[i].Distance })
	var list []edit
	for _, i := range nodes {
		n := &p.Nodes[i]
		list = append(list, edit{p.Location(n), p.ID(n).Kind, p.ID(n).String(), p.places[p.forecast.Verdicts[i].Edge]})
	}
	for _, v := range p.forecast.Own {
		if from := v.Dependency.From; stops(v.Effect) {
			list = append(list, edit{where: p.Snapshot.Locate(from.ID, from.Part, from.PartKind), kind: from.PartKind, name: from.ID.String() + "." + from.Part})
		}
	}
	return list
}

// held says what the server does not let go, and what else is in the way.
func (p *predicted) held() string {
	if p.taken != "" {
		return p.taken + " is there already"
	}
	if n := p.Holds(); n > 0 {
		return render.Plural(n, "object lies", "objects lie") + " in it"
	}
	if len(p.traced.held) > 0 {
		var whole trace.Hold
		for _, u := range p.traced.held {
			whole.Owned, whole.Rights, whole.Lies = whole.Owned+u.Owned, whole.Rights+u.Rights, whole.Lies+u.Lies
		}
		return holdText(whole)
	}
	said := "it is held by what it belongs to"
	if p.Root.Part != "" {
		said = "it is a column of a kind that stays as it is"
	}
	if n := p.count(engine.Refused); n > 0 {
		said += fmt.Sprintf("; %d more in its way", n)
	}
	return said
}

func (a *app) predictText(p *predicted, gaps bool) {
	a.printf("%s %s, were it %s\n%s\n\n", cmp.Or(p.Root.PartKind, p.Root.ID.Kind), a.paint.Text(render.Title, render.Visible(p.Root.String())), render.Visible(p.change), a.paint.Text(render.Faint, a.about(p.Snapshot)))
	var counts []string
	for _, e := range []engine.Effect{engine.Refused, engine.Breaks, engine.Goes, engine.Uncertain, engine.Follows} {
		if n := p.count(e); n > 0 {
			counts = append(counts, fmt.Sprintf("%d %s", n, map[engine.Effect]string{engine.Refused: "in its way", engine.Breaks: "would break", engine.Goes: "would go along",
				engine.Uncertain: "uncertain", engine.Follows: "would follow"}[e]))
		}
	}
	switch {
	case p.forecast.Forbidden:
		a.printf("The server refuses it, whatever depends on it: %s.\n", p.held())
	case p.forecast.Refused:
		a.printf("The server refuses it: %s.\n", strings.Join(counts, ", "))
	case len(counts) > 0:
		a.printf("The server lets you: %s.\n", strings.Join(counts, ", "))
	case p.Holds()+len(p.traced.held) > 0:
		a.printf("The server lets you.\n")
	case len(p.foreign) == 0:
		a.printf("The server lets you. %s depends on it.\n", nothing(gaps))
	default:
		a.printf("The server lets you.\n")
	}
	if n := p.Holds(); n > 0 && !p.forecast.Forbidden {
		a.printf("%s in it; what becomes of those, and of what depends on them, is not judged here.\n", render.Plural(n, "object lies", "objects lie"))
	}
	if len(p.traced.held) > 0 && !p.forecast.Forbidden {
		a.printf("What becomes of what hangs on it is not judged here.\n")
	}
	a.heldText(p.traced)
	if n := len(p.foreign); n > 0 {
		a.printf("What depends on it in other databases is not judged: %d below.\n", n)
	}
	t := render.Table{NoHead: true, Columns: []render.Column{{}, {Min: 20}, {}, {Min: 16, Wrap: true}}}
	for _, v := range p.forecast.Own {
		said := ownReason(&v.Dependency)
		t.AddCells(render.Cell{Text: string(v.Effect)}, render.Cell{Text: v.Dependency.From.Part}, render.Cell{Text: string(v.Dependency.From.PartKind), Style: render.Faint}, render.Cell{Text: said})
	}
	for i := 1; i < len(p.Nodes); i++ {
		n := &p.Nodes[i]
		t.AddCells(render.Cell{Text: string(p.forecast.Verdicts[i].Effect)}, render.Cell{Text: strings.Repeat("  ", min(n.Distance-1, 12)) + p.ID(n).String()},
			render.Cell{Text: string(p.ID(n).Kind), Style: render.Faint}, render.Cell{Text: p.reason(i)})
	}
	if len(t.Rows) > 0 {
		a.printf("\n")
		_ = t.Text(a.Stdout, a.width, a.paint)
	}
	edits := p.edits()
	if len(edits) == 0 {
		return
	}
	a.section("to edit first, in this order")
	for k, e := range edits {
		line := ""
		if e.place.Line > 0 {
			line = fmt.Sprintf("  line %d: %s", e.place.Line, render.Visible(strings.TrimSpace(e.place.Text)))
		}
		a.printf("  %d  %s %s%s\n", k+1, e.kind, render.Visible(e.name), a.paint.Text(render.Faint, line))
	}
	if word, _, _ := strings.Cut(p.change, "="); !p.scripted && p.taken == "" && (word == string(engine.Renamed) || word == string(engine.Moved)) {
		a.printf("\nWith --out FILE a script is written that does it, and edits these.\n")
	}
}

func (a *app) predictJSON(ctx context.Context, c *catalogue.Catalogue, p *predicted, unseen []gaps.Gap) error {
	nodes := []traceNode{{place: addressOf(p.Root), Verdict: "root"}}
	for i := 1; i < len(p.Nodes); i++ {
		n := &p.Nodes[i]
		nodes = append(nodes, traceNode{place: addressOf(p.Location(n)), Distance: n.Distance, Verdict: string(p.forecast.Verdicts[i].Effect), Reason: p.reason(i)})
	}
	for _, v := range p.forecast.Own {
		where := p.Snapshot.Locate(v.Dependency.From.ID, v.Dependency.From.Part, v.Dependency.From.PartKind)
		nodes = append(nodes, traceNode{place: addressOf(where), Distance: 1, Verdict: string(v.Effect), Reason: whyWords[v.Why]})
	}
	edges := []traceEdge{}
	judged := len(nodes)
	nodes, edges, err := a.foreignJSON(ctx, c, p.traced, nodes, edges)
	if err != nil {
		return err
	}
	for i := judged; i < len(nodes); i++ {
		nodes[i].Verdict = string(engine.Uncertain)
	}
	edits := []string{}
	for _, e := range p.edits() {
		edits = append(edits, e.where.String())
	}
	unknown := a.unseenJSON(unseen)
	for _, d := range p.unseen {
		unknown = append(unknown, unseenRow{State: "unseen", Address: p.Snapshot.Locate(d.From.ID, "", "").String(), Subject: d.From.ID.Qualified(), Reason: sentence(&d)})
	}
	return render.JSON(a.Stdout, map[string]any{"root": p.Root.String(), "if": p.change, "holds": p.Holds(), "outcome": p.outcome(), "nodes": nodes, "edges": edges, "edits": edits, "unknown": unknown,
		"sources": a.sources([]*catalogue.Snapshot{p.Snapshot})})
}
