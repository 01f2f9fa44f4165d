package cli

// The command drift: all environments of a family side by side.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/drift"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/selection"
)

func (a *app) driftCommand() *cli.Command {
	return &cli.Command{
		Name:      "drift",
		Usage:     "all environments of a family side by side: same, differs, missing, and since when",
		ArgsUsage: "[ADDRESS]",
		Description: "Servers of one family (in the configuration) are laid side by side, database by database; what differs in most environments\n" +
			"comes first. ADDRESS limits it to a family, server, database, schema or object. Exit code 1 says that something differs.\n\n" +
			"Examples:\n  echo-atlas drift\n  echo-atlas drift quay --against live\n  echo-atlas drift quay-live/berths/mooring --details\n  echo-atlas drift --as html > drift.html",
		Flags: slices.Concat([]cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), withoutFlag(), bareFlag()}, exactFlags(), []cli.Flag{
			&cli.StringFlag{Name: "against", Usage: "the `ENVIRONMENT` that the others are held against; the one called live or production if not said"},
			&cli.BoolFlag{Name: "details", Usage: "in what each object differs"},
			limitFlag(200)}),
		Action: a.drift,
	}
}

// driftGroup is a database of a family in several environments.
type driftGroup struct {
	*drift.Group
	family, database string
	labels           []string // of the environments
	alone            []string // environments without the database
}

func (a *app) drift(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "html", "xlsx"); err != nil {
		return err
	}
	if cmd.Args().Len() > 1 {
		return usagef("drift takes one ADDRESS; see: %s --help", cmd.FullName())
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
	groups, sets, err := a.families(ctx, r, cmd.Args().First(), cmd.String("against"))
	if err != nil {
		return err
	}
	var snapshots []*catalogue.Snapshot
	var objects []string
	differs := false
	for i := range groups {
		g := &groups[i]
		e, err := a.Engines.Named(g.Snapshots[0].Engine)
		if err != nil {
			return err
		}
		o := diff.For(e)
		o.Kinds, o.Without, o.Order, o.Exact = asked.options.Kinds, asked.options.Without, asked.options.Order, asked.options.Exact
		if set := sets[i]; set != nil && !set.Whole {
			if !cmd.Bool("bare") {
				if err := set.AddAttached(ctx, c); err != nil {
					return err
				}
			}
			o.Wanted = set.Covers
			objects = append(objects, namedObjects([]*selection.Set{set})...)
		}
		if g.Group, err = drift.Compare(ctx, c, g.Snapshots, o); err != nil {
			return err
		}
		differs = differs || len(g.Rows) > 0 || len(g.alone) > 0
		snapshots = append(snapshots, g.Snapshots...)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: catalogue.Sources(snapshots...), Kinds: asked.options.Kinds, Objects: objects})
	if err != nil {
		return err
	}
	switch a.as {
	case "json":
		err = a.driftJSON(groups, unseen)
	case "csv", "xlsx":
		err = a.table(a.driftTable(groups))
	case "markdown", "html":
		err = a.document(a.driftDocument(groups, unseen))
	default:
		if err = a.driftText(groups, cmd, len(unseen) > 0); err == nil {
			a.unseen(unseen)
		}
	}
	if err == nil && differs {
		err = &exitError{code: exitDiffer}
	}
	return err
}

// families returns the databases that are in several environments, as far as an address goes, and what it covers of each.
func (a *app) families(ctx context.Context, r *address.Resolver, text, against string) (groups []driftGroup, sets []*selection.Set, err error) {
	type place struct{ family, database string }
	found := map[place][]*catalogue.Snapshot{}
	servers := map[string][]string{}
	for _, s := range r.Latest() {
		if s.Family == "" || s.Environment == "" {
			continue
		}
		p := place{s.Family, s.Counterpart()}
		found[p] = append(found[p], s)
		if !slices.Contains(servers[s.Family], s.Server) {
			servers[s.Family] = append(servers[s.Family], s.Server)
		}
	}
	limit := map[place]*selection.Set{}
	_, isFamily := servers[text]
	if text != "" && !isFamily {
		matches, err := a.resolveAll(ctx, r, []string{text})
		if err != nil {
			return nil, nil, err
		}
		for _, set := range selection.Gather(matches) {
			s := set.Contents.Snapshot
			if s.Family == "" || s.Environment == "" {
				return nil, nil, usagef("%s belongs to no family; give its servers a family and an environment in the configuration", s.Location())
			}
			if set.Part() != nil {
				return nil, nil, usagef("%s is a part; name its object", set.Part().Location())
			}
			limit[place{s.Family, s.Counterpart()}] = set
		}
	}
	var places []place
	for p, list := range found {
		if len(servers[p.family]) > 1 && (text == "" || isFamily && p.family == text || limit[p] != nil) && len(list) > 0 {
			places = append(places, p)
		}
	}
	slices.SortFunc(places, func(x, y place) int {
		return cmp.Or(cmp.Compare(x.family, y.family), cmp.Compare(x.database, y.database))
	})
	var lacks []string // what is said of families that have no such environment
	for _, p := range places {
		g := driftGroup{family: p.family, database: p.database}
		list, err := firstOf(found[p], against)
		if err != nil {
			if !slices.Contains(lacks, err.Error()) {
				lacks = append(lacks, err.Error())
			}
			continue
		}
		for _, server := range servers[p.family] {
			if !slices.ContainsFunc(list, func(s *catalogue.Snapshot) bool { return s.Server == server }) {
				g.alone = append(g.alone, server)
			}
		}
		g.labels = labels(list)
		g.Group = &drift.Group{Snapshots: list}
		groups, sets = append(groups, g), append(sets, limit[p])
	}
	for _, said := range lacks {
		if len(groups) == 0 {
			return nil, nil, usagef("%s", said)
		}
		fmt.Fprintf(a.Stderr, "echo-atlas: left out, %s\n", strings.TrimPrefix(said, "--against: "))
	}
	if len(groups) == 0 {
		return nil, nil, usagef("no family has two environments that were read; give servers a family and an environment in the configuration, and run: echo-atlas survey")
	}
	return groups, sets, nil
}

// usual are the environments that the others are held against where nothing else is said.
var usual = []string{"live", "production", "prod", "main"}

// firstOf puts the environment that the others are held against in front.
func firstOf(list []*catalogue.Snapshot, against string) ([]*catalogue.Snapshot, error) {
	rank := func(s *catalogue.Snapshot) int {
		if i := slices.Index(usual, names.Fold(s.Environment)); i >= 0 {
			return i
		}
		return len(usual)
	}
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(x, y *catalogue.Snapshot) int { return cmp.Compare(rank(x), rank(y)) })
	if against == "" {
		return list, nil
	}
	for i, s := range list {
		if names.Fold(s.Environment) == names.Fold(against) || s.Server == against {
			return slices.Concat([]*catalogue.Snapshot{s}, list[:i], list[i+1:]), nil
		}
	}
	var known []string
	for _, s := range list {
		known = append(known, s.Environment)
	}
	return nil, usagef("--against: no environment of %s is called %q; it has %s", list[0].Family, against, strings.Join(known, ", "))
}

// labels returns what environments are called: their servers where two bear one name.
func labels(list []*catalogue.Snapshot) []string {
	count := map[string]int{}
	for _, s := range list {
		count[s.Environment]++
	}
	all := make([]string, len(list))
	for i, s := range list {
		if all[i] = s.Environment; count[s.Environment] > 1 {
			all[i] = s.Server
		}
	}
	return all
}

// state returns a cell in words.
func (a *app) state(r *drift.Row, i int, sentence bool) string {
	c := &r.Cells[i]
	word := string(c.State)
	switch {
	case i == 0 && c.State == drift.Same:
		word = "as it is"
	case c.State == drift.Differs && several(r):
		word = fmt.Sprintf("differs (%d)", c.Version-1)
	}
	if !c.Since.IsZero() && sentence {
		word += " since " + c.Since.UTC().Format(time.DateOnly)
	}
	return word
}

// several reports whether an object differs in more than one way.
func several(r *drift.Row) bool {
	return slices.ContainsFunc(r.Cells, func(c drift.Cell) bool { return c.Version > 2 })
}

func (a *app) driftText(groups []driftGroup, cmd *cli.Command, gaps bool) error {
	styles := map[drift.State]render.Style{drift.Same: render.Faint, drift.Differs: render.Hit, drift.Missing: render.Bad, drift.Only: render.Good}
	limit := int(cmd.Int("limit"))
	for i := range groups {
		g := &groups[i]
		if i > 0 {
			a.printf("\n")
		}
		a.printf("%s of %s\n", a.paint.Text(render.Title, render.Visible(g.database)), render.Visible(g.family))
		if len(g.Rows) > 0 {
			t := render.Table{Columns: []render.Column{{Title: "object"}}}
			for _, label := range g.labels {
				t.Columns = append(t.Columns, render.Column{Title: label})
			}
			for j := range g.Rows {
				if limit > 0 && j == limit {
					break
				}
				r := &g.Rows[j]
				cells := []render.Cell{{Text: string(r.ID.Kind) + " " + r.ID.String()}}
				for k := range r.Cells {
					style := styles[r.Cells[k].State]
					if k == 0 && r.Cells[k].State == drift.Same {
						style = render.Plain
					}
					cells = append(cells, render.Cell{Text: a.state(r, k, true), Style: style})
				}
				t.AddCells(cells...)
			}
			if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
				return err
			}
			if limit > 0 && len(g.Rows) > limit {
				a.printf("%s more; --limit 0 shows all\n", render.Count(len(g.Rows)-limit))
			}
		}
		a.printf("%s\n", a.paint.Text(render.Faint, a.driftRest(g, gaps)))
		if cmd.Bool("details") {
			a.driftDetails(g)
		}
	}
	return nil
}

// driftRest says what is the same, and what the answer rests on.
func (a *app) driftRest(g *driftGroup, gaps bool) string {
	rest := render.Plural(g.Same, "object is", "objects are") + " the same in " + render.Plural(len(g.Snapshots), "environment", "environments")
	if len(g.Rows) == 0 {
		rest = "No difference: " + rest
		if gaps {
			rest = "No difference was seen: " + strings.TrimPrefix(rest, "No difference: ")
		}
	}
	var from []string
	for i, s := range g.Snapshots {
		from = append(from, g.labels[i]+" read "+render.Age(a.Now().Sub(s.Taken)))
	}
	rest += "; " + render.Visible(strings.Join(from, ", "))
	if len(g.alone) > 0 {
		rest += "; no such database: " + render.Visible(strings.Join(g.alone, ", "))
	}
	return rest
}

// driftDetails says in what each object differs.
func (a *app) driftDetails(g *driftGroup) {
	for i := range g.Rows {
		r := &g.Rows[i]
		a.printf("\n%s %s\n", r.ID.Kind, a.paint.Text(render.Title, render.Visible(r.ID.String())))
		for k := range r.Cells {
			if k == 0 {
				continue
			}
			twin := slices.IndexFunc(r.Cells[:k], func(c drift.Cell) bool { return c.Version == r.Cells[k].Version && c.Version > 1 })
			a.printf("  %s: %s", render.Visible(g.labels[k]), a.state(r, k, true))
			if twin > 0 {
				a.printf(", as in %s\n", render.Visible(g.labels[twin]))
				continue
			}
			a.printf("\n")
			for _, p := range r.Cells[k].Properties {
				a.diffProperty(p)
			}
		}
	}
}

// driftTable returns all rows of all groups.
func (a *app) driftTable(groups []driftGroup) *render.Table {
	t := &render.Table{Columns: []render.Column{{Title: "family"}, {Title: "database"}, {Title: "kind"}, {Title: "object"}, {Title: "environment"}, {Title: "state"}, {Title: "version", Right: true}, {Title: "since"}}}
	for i := range groups {
		g := &groups[i]
		for j := range g.Rows {
			r := &g.Rows[j]
			for k := range r.Cells {
				since, version := "", ""
				if s := r.Cells[k].Since; !s.IsZero() {
					since = s.UTC().Format(time.RFC3339)
				}
				if v := r.Cells[k].Version; v > 0 {
					version = fmt.Sprint(v)
				}
				t.Add(g.family, g.database, string(r.ID.Kind), r.ID.String(), g.labels[k], string(r.Cells[k].State), version, since)
			}
		}
	}
	return t
}

func (a *app) driftDocument(groups []driftGroup, unseen []gaps.Gap) *render.Document {
	d := &render.Document{Title: "Environments side by side"}
	for i := range groups {
		g := &groups[i]
		d.Blocks = append(d.Blocks, render.Block{Heading: g.database + " of " + g.family})
		if len(g.Rows) > 0 {
			t := &render.Table{Columns: []render.Column{{Title: "object"}}}
			var items []render.Item
			for _, label := range g.labels {
				t.Columns = append(t.Columns, render.Column{Title: label})
			}
			for j := range g.Rows {
				r := &g.Rows[j]
				cells := []string{string(r.ID.Kind) + " " + r.ID.String()}
				for k := range r.Cells {
					cells = append(cells, a.state(r, k, true))
					if len(r.Cells[k].Properties) == 0 {
						continue
					}
					it := render.Item{Runs: []render.Run{{Text: string(r.ID.Kind) + " "}, {Text: r.ID.String(), Code: true}, {Text: " in " + g.labels[k]}}}
					for _, p := range r.Cells[k].Properties {
						it.Items = append(it.Items, propertyItem(p))
					}
					items = append(items, it)
				}
				t.Add(cells...)
			}
			d.Blocks = append(d.Blocks, render.Block{Table: t})
			if len(items) > 0 {
				d.Blocks = append(d.Blocks, render.Block{Items: items})
			}
		}
		d.Blocks = append(d.Blocks, render.Block{Text: a.driftRest(g, len(unseen) > 0)})
	}
	return a.withUnseen(d, unseen)
}

func (a *app) driftJSON(groups []driftGroup, unseen []gaps.Gap) error {
	type state struct {
		Environment string         `json:"environment"`
		Server      string         `json:"server"`
		State       drift.State    `json:"state"`
		Version     int            `json:"version,omitempty"`
		Since       *time.Time     `json:"since,omitempty"`
		Properties  []diffProperty `json:"properties,omitempty"`
	}
	type object struct {
		place
		States []state `json:"states"`
	}
	type group struct {
		Family       string          `json:"family"`
		Database     string          `json:"database"`
		Against      string          `json:"against"`
		Same         int             `json:"same"`
		Objects      []object        `json:"objects"`
		Without      []string        `json:"without"`
		Environments []sourceAddress `json:"environments"`
	}
	out := []group{}
	var snapshots []*catalogue.Snapshot
	for i := range groups {
		g := &groups[i]
		x := group{Family: g.family, Database: g.database, Against: g.Snapshots[0].Location().String(), Same: g.Same, Objects: []object{}, Without: append([]string{}, g.alone...)}
		for _, s := range g.Snapshots {
			x.Environments = append(x.Environments, sourceAddress{s.Environment, s.Location().String()})
		}
		for j := range g.Rows {
			r := &g.Rows[j]
			side := g.Snapshots[0]
			y := object{States: []state{}}
			for k := range r.Cells {
				cell := &r.Cells[k]
				st := state{Environment: g.Snapshots[k].Environment, Server: g.Snapshots[k].Server, State: cell.State, Version: cell.Version}
				if !cell.Since.IsZero() {
					st.Since = &cell.Since
				}
				if cell.State == drift.Only && r.Cells[0].State == drift.Missing && side == g.Snapshots[0] {
					side = g.Snapshots[k]
				}
				for _, p := range cell.Properties {
					st.Properties = append(st.Properties, diffProperty(p))
				}
				y.States = append(y.States, st)
			}
			y.place = addressOf(side.Locate(r.ID, "", ""))
			x.Objects = append(x.Objects, y)
		}
		out = append(out, x)
		snapshots = append(snapshots, g.Snapshots...)
	}
	return render.JSON(a.Stdout, map[string]any{"groups": out, "sources": a.sources(catalogue.Sources(snapshots...)), "unseen": a.unseenJSON(unseen)})
}

// sourceAddress is an environment and the database that it is.
type sourceAddress struct {
	Environment string `json:"environment"`
	Address     string `json:"address"`
}
