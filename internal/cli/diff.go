package cli

// The command diff: pairs of databases, compared one by one; counts first, then objects, then properties.

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/carry"
	"echo-atlas/internal/core/catalogue"
	changing "echo-atlas/internal/core/change"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

func (a *app) diffCommand() *cli.Command {
	return &cli.Command{
		Name:      "diff",
		Usage:     "what changed from OLD to NEW: an overview, then each property",
		ArgsUsage: "OLD NEW [ADDRESS…]",
		Description: "OLD and NEW are databases, servers (their databases are paired by name), schemas, objects, columns or other parts.\n" +
			"Further addresses limit the comparison. A table is compared with its indexes, triggers, policies and rules. Exit code 1\n" +
			"says that they differ.\n\n" +
			"Examples:\n  echo-atlas diff quay-live quay-dev\n  echo-atlas diff quay-live/berths@1 quay-live/berths\n" +
			"  echo-atlas diff quay-live/berths quay-dev/berths 'mooring*'\n  echo-atlas diff quay-live/berths/mooring.draught_m quay-dev/berths/mooring.draught_m",
		Flags: slices.Concat([]cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), withoutFlag(), bareFlag()}, compareFlags(), exactFlags(),
			[]cli.Flag{&cli.BoolFlag{Name: "summary", Usage: "the overview alone"}}),
		Action: a.diff,
	}
}

func (a *app) diff(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "markdown", "html", "csv", "xlsx", "svg", "png", "dot", "mermaid"); err != nil {
		return err
	}
	if cmd.Args().Len() < 2 {
		return usagef("diff takes OLD and NEW; see: %s --help", cmd.FullName())
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
	r.Deferred = cmd.Args().Len() == 2 && len(asked.renames) == 0
	pairs, lonely, err := a.pairs(ctx, r, cmd.Args().Get(0), cmd.Args().Get(1), asked.databases())
	if err != nil {
		return err
	}
	d := differ{a: a, r: r, limits: cmd.Args().Slice()[2:], bare: cmd.Bool("bare"), asked: asked}
	d.hit = make([]bool, len(d.limits))
	var results []*diff.Result
	different := len(lonely) > 0
	for _, p := range pairs {
		res, err := d.compare(ctx, c, p)
		if err != nil {
			return err
		}
		different = different || res.Summary.Differs()
		results = append(results, res)
	}
	if err := d.unused(); err != nil {
		return err
	}
	var snapshots []*catalogue.Snapshot
	var objects []string
	for _, p := range pairs {
		snapshots = append(snapshots, p.Old.Contents.Snapshot, p.New.Contents.Snapshot)
		objects = append(objects, namedObjects([]*selection.Set{p.Old, p.New})...)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: catalogue.Sources(snapshots...), Kinds: asked.options.Kinds, Objects: objects})
	if err != nil {
		return err
	}
	switch a.as {
	case "json":
		err = a.diffJSON(results, lonely, d.across, unseen)
	case "svg", "png", "dot", "mermaid":
		err = a.diffChart(ctx, c, results, unseen)
	case "csv", "xlsx":
		a.unseenBeside(unseen)
		err = a.table(diffTable(results))
	case "markdown", "html":
		doc := a.diffDocument(results, lonely, cmd.Bool("summary"), unseen)
		if d.across {
			doc.Blocks = append(doc.Blocks, render.Block{Text: across})
		}
		err = a.document(doc)
	default:
		if err = a.diffText(results, lonely, cmd.Bool("summary"), len(unseen) > 0); err == nil {
			if d.across {
				a.printf("\n%s\n", a.paint.Text(render.Faint, render.Wrap(across, a.width, "")))
			}
			if len(asked.left) > 0 {
				a.printf("\n%s\n", a.paint.Text(render.Faint, "compared as the configuration says: "+render.Visible(strings.Join(asked.left, "; "))))
			}
			a.unseen(unseen)
		}
	}
	if err == nil && different {
		err = &exitError{code: exitDiffer}
	}
	return err
}

// differ compares pairs of databases as the arguments of diff limit it.
type differ struct {
	a      *app
	r      *address.Resolver
	limits []string
	hit    []bool // by limit: something fits it
	bare   bool
	asked  comparing

	script  bool        // the outcome is for a script
	brought []schema.ID // into the script, by what was asked for
	across  bool        // of two engines
}

func (d *differ) compare(ctx context.Context, c *catalogue.Catalogue, p selection.Pair) (*diff.Result, error) {
	old, now := p.Old.Contents.Snapshot, p.New.Contents.Snapshot
	e, err := d.a.Engines.Named(now.Engine)
	if err != nil {
		return nil, err
	}
	o := diff.For(e)
	o.Kinds, o.Without, o.Order, o.Exact, o.NoRenames = d.asked.options.Kinds, d.asked.options.Without, d.asked.options.Order, d.asked.options.Exact, d.asked.options.NoRenames
	if old.Engine != now.Engine {
		return d.acrossEngines(ctx, c, p)
	}
	containers, err := d.fix(ctx, p.Old.Contents, p.New.Contents, &o)
	if err != nil {
		return nil, err
	}
	if x, y, ok := p.Renamed(); ok {
		set(&containers.Containers, x, y)
	}
	if len(containers.Containers)+len(containers.Owners) > 0 && d.script {
		return nil, usagef("schemas and owners are not renamed by a script of changes; ddl --rename writes NEW under other names")
	}
	if len(containers.Containers)+len(containers.Owners) > 0 {
		return d.elsewhere(ctx, c, e, p, &containers, o)
	}
	if x, y := p.Old.Part(), p.New.Part(); x != nil && y != nil {
		return d.part(ctx, c, p, x, y, o)
	}
	if x, y := p.Old.One(), p.New.One(); x != nil && y != nil && x.ID != y.ID && d.script {
		o.Fixed = append(o.Fixed, diff.Rename{Old: x.ID, New: y.ID})
	} else if x != nil && y != nil && x.ID != y.ID {
		return diff.Objects(ctx, c, p.Old.Contents, p.New.Contents, x, y, o)
	}
	sets := []*selection.Set{p.Old, p.New}
	if len(d.limits) > 0 {
		var err error
		if sets, err = d.limited(ctx, p, &o); err != nil {
			return nil, err
		}
	}
	if !d.bare {
		for _, s := range sets {
			if err := s.AddAttached(ctx, c); err != nil {
				return nil, err
			}
		}
	}
	wanted := func(id schema.ID) bool {
		inside := p.Old.Whole || p.Old.Covers(id) || p.New.Covers(id)
		return inside && slices.ContainsFunc(sets, func(s *selection.Set) bool { return s.Covers(id) })
	}
	limited := !p.Old.Whole || len(d.limits) > 0
	if d.script && (limited || len(o.Kinds) > 0) {
		return d.chosen(ctx, c, p, o, wanted)
	}
	if limited {
		o.Wanted = wanted
	}
	return diff.Compare(ctx, c, old, now, o)
}

// chosen compares all, and takes of what differs what is wanted for a script, with what that brings along.
func (d *differ) chosen(ctx context.Context, c *catalogue.Catalogue, p selection.Pair, o diff.Options, wanted func(schema.ID) bool) (*diff.Result, error) {
	of := o.Kinds
	o.Kinds = nil
	if len(o.Parts) > 0 {
		return nil, usagef("a script changes whole objects; name the object, not a part of it")
	}
	all, err := diff.Compare(ctx, c, p.Old.Contents.Snapshot, p.New.Contents.Snapshot, o)
	if err != nil {
		return nil, err
	}
	is := func(id schema.ID) bool {
		return id.Name != "" && wanted(id) && (len(of) == 0 || slices.Contains(of, id.Kind))
	}
	res, brought, err := changing.Choose(ctx, c, p.Old.Contents, p.New.Contents, all, func(x *diff.Object) bool { return is(x.ID) || is(x.Was) })
	d.brought = brought
	return res, err
}

// across is what is compared between engines.
const across = "of two engines, only what both have is compared: tables, columns with their types in common terms, null, keys and foreign keys, indexes and views by their columns; not defaults, checks, texts, rights, comments and all else"

// acrossEngines compares what two engines have in common.
func (d *differ) acrossEngines(ctx context.Context, c *catalogue.Catalogue, p selection.Pair) (*diff.Result, error) {
	if len(d.limits) > 0 || !p.Old.Whole || !p.New.Whole || len(d.asked.renames) > 0 {
		return nil, usagef("%s is %s and %s %s; databases of two engines are compared as a whole", p.Old.Contents.Snapshot.Location(), p.Old.Contents.Snapshot.Engine, p.New.Contents.Snapshot.Location(), p.New.Contents.Snapshot.Engine)
	}
	d.across = true
	sides := [2]*catalogue.Snapshot{p.Old.Contents.Snapshot, p.New.Contents.Snapshot}
	var engines [2]engine.Engine
	for i, s := range sides {
		var err error
		if engines[i], err = d.a.Engines.Named(s.Engine); err != nil {
			return nil, err
		}
	}
	var guests [2]*catalogue.Snapshot
	for i, s := range sides {
		t, err := c.Contents(ctx, s)
		if err != nil {
			return nil, err
		}
		guests[i], err = guest(ctx, c, t, func(all []*schema.Object) []*schema.Object { return carry.Comparable(all, engines[i], engines[1-i]) })
		if err != nil {
			return nil, err
		}
	}
	o := diff.Options{Kinds: d.asked.options.Kinds, Order: d.asked.options.Order, NoRenames: d.asked.options.NoRenames, Rules: d.a.traits(sides[1].Engine).Rules}
	res, err := diff.Compare(ctx, c, guests[0], guests[1], o)
	if err != nil {
		return nil, err
	}
	res.Old, res.New = sides[0], sides[1]
	return res, nil
}

// elsewhere compares with an old side whose schemas or owners have other names.
func (d *differ) elsewhere(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, p selection.Pair, names *ddl.Renames, o diff.Options) (*diff.Result, error) {
	if len(d.limits) > 0 || p.Old.One() != nil || p.Old.Part() != nil {
		return nil, usagef("schemas and owners are renamed between whole databases and schemas, not for single objects")
	}
	if e.Name() != p.Old.Contents.Snapshot.Engine {
		return nil, usagef("schemas and owners are renamed between databases of one engine")
	}
	full, err := c.Contents(ctx, p.Old.Contents.Snapshot)
	if err != nil {
		return nil, err
	}
	guest, err := moved(ctx, c, e, full, names)
	if err != nil {
		return nil, fmt.Errorf("renaming schemas: %w", err)
	}
	back := map[string]string{}
	for old, now := range names.Containers {
		back[now] = old
	}
	was := func(id schema.ID) schema.ID {
		if old, ok := back[id.Schema]; ok {
			id.Schema = old
		}
		if old, ok := back[id.Name]; ok && id.Kind == schema.KindSchema {
			id.Name = old
		}
		return id
	}
	if !p.Old.Whole {
		o.Wanted = func(id schema.ID) bool { return p.Old.Covers(was(id)) || p.New.Covers(id) }
	}
	res, err := diff.Compare(ctx, c, guest, p.New.Contents.Snapshot, o)
	if err != nil {
		return nil, err
	}
	res.Old = p.Old.Contents.Snapshot
	for i := range res.Objects {
		if x := &res.Objects[i]; x.Change == diff.Removed {
			x.ID = was(x.ID)
		} else if x.Was.Name != "" {
			x.Was = was(x.Was)
		}
	}
	return res, nil
}

// limited returns what the further addresses fit on both sides. A part limits the comparison of its object.
func (d *differ) limited(ctx context.Context, p selection.Pair, o *diff.Options) ([]*selection.Set, error) {
	var sets []*selection.Set
	parts := map[schema.ID][]diff.Part{}
	whole := map[schema.ID]bool{}
	for i, text := range d.limits {
		parsed, err := address.Parse(text)
		if err != nil {
			return nil, err
		}
		if len(parsed.Outer) > 0 || parsed.Path != "" {
			return nil, usagef("%q: the addresses behind OLD and NEW name objects, without server and database", text)
		}
		for _, t := range []*catalogue.Contents{p.Old.Contents, p.New.Contents} {
			matches, err := d.r.Inside(ctx, t, parsed)
			if err != nil {
				return nil, err
			}
			for j := range matches {
				m := &matches[j]
				d.hit[i] = true
				if m.Part != "" {
					parts[m.Entry.ID] = append(parts[m.Entry.ID], diff.Part{Kind: m.PartKind, Name: m.Part})
					m.Part, m.PartKind = "", ""
				} else if m.Entry != nil {
					whole[m.Entry.ID] = true
				}
			}
			gathered := selection.Gather(matches)
			sets = append(sets, gathered...)
		}
	}
	for id := range whole {
		delete(parts, id)
	}
	o.Parts = parts
	if len(parts) > 0 {
		d.bare = true
	}
	return sets, nil
}

// part compares one part with another.
func (d *differ) part(ctx context.Context, c *catalogue.Catalogue, p selection.Pair, x, y *address.Match, o diff.Options) (*diff.Result, error) {
	if x.PartKind != y.PartKind {
		return nil, usagef("%s is a %s and %s a %s; compare two of a kind", x.Location(), x.PartKind, y.Location(), y.PartKind)
	}
	if x.Part != y.Part {
		return nil, usagef("%s and %s have different names; to compare columns of different names, compare their tables", x.Location(), y.Location())
	}
	o.Parts = map[schema.ID][]diff.Part{y.Entry.ID: {{Kind: y.PartKind, Name: y.Part}}}
	return diff.Objects(ctx, c, p.Old.Contents, p.New.Contents, x.Entry, y.Entry, o)
}

type diffProperty struct {
	Path  string  `json:"path"`
	Old   *string `json:"old"`
	New   *string `json:"new"`
	Guess bool    `json:"guess,omitempty"` // a part taken for another that was renamed
}

type diffObject struct {
	place
	Change     diff.Change    `json:"change"`
	Was        string         `json:"was,omitempty"`
	Properties []diffProperty `json:"properties"`
	Followers  []string       `json:"followers,omitempty"`
}

func (a *app) diffJSON(results []*diff.Result, lonely []string, engines bool, unseen []gaps.Gap) error {
	var total diff.Summary
	objects := []diffObject{}
	var olds, news []string
	var snapshots []*catalogue.Snapshot
	for _, res := range results {
		total = total.Plus(res.Summary)
		olds, news = append(olds, res.Old.Location().String()), append(news, res.New.Location().String())
		snapshots = append(snapshots, res.Old, res.New)
		for _, o := range res.Objects {
			side := res.New
			if o.Change == diff.Removed {
				side = res.Old
			}
			x := diffObject{place: addressOf(side.Locate(o.ID, "", "")), Change: o.Change, Properties: []diffProperty{}}
			if o.Was.Name != "" {
				x.Was = res.Old.Locate(o.Was, "", "").String()
			}
			for _, id := range o.Followers {
				x.Followers = append(x.Followers, res.New.Locate(id, "", "").String())
			}
			for _, p := range o.Properties {
				x.Properties = append(x.Properties, diffProperty(p))
			}
			objects = append(objects, x)
		}
	}
	questions := []map[string]any{}
	for _, res := range results {
		for _, q := range res.Questions {
			_, option := renameOption(q)
			questions = append(questions, map[string]any{"address": res.New.Locate(q.New, q.NewColumn, "").String(), "was": res.Old.Locate(q.Old, q.OldColumn, "").String(),
				"likelihood": math.Round(100*q.Likelihood) / 100, "option": option})
		}
	}
	limited := ""
	if engines {
		limited = across
	}
	return render.JSON(a.Stdout, map[string]any{"limited": limited, "questions": questions, "old": strings.Join(olds, ", "), "new": strings.Join(news, ", "), "summary": total, "objects": objects,
		"unpaired": append([]string{}, lonely...), "sources": a.sources(catalogue.Sources(snapshots...)), "unseen": a.unseenJSON(unseen)})
}

func (a *app) diffText(results []*diff.Result, lonely []string, summaryOnly, gaps bool) error {
	for i, res := range results {
		if i > 0 {
			a.printf("\n")
		}
		t := render.Table{NoHead: true, Columns: []render.Column{{}, {Min: 20}, {Min: 12}}}
		t.AddCells(render.Cell{Text: "old", Style: render.Faint}, render.Cell{Text: res.Old.Location().String(), Style: render.Title}, render.Cell{Text: a.about(res.Old), Style: render.Faint})
		t.AddCells(render.Cell{Text: "new", Style: render.Faint}, render.Cell{Text: res.New.Location().String(), Style: render.Title}, render.Cell{Text: a.about(res.New), Style: render.Faint})
		if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
			return err
		}
		if err := a.diffOverview(res, gaps); err != nil {
			return err
		}
		if !summaryOnly {
			a.diffDetails(res)
		}
	}
	for _, line := range lonely {
		a.printf("\n%s\n", line)
	}
	return nil
}

// diffOverview counts what differs by kind.
func (a *app) diffOverview(res *diff.Result, gaps bool) error {
	a.printf("\n")
	if t := overview(res); len(t.Rows) > 0 {
		if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
			return err
		}
		a.printf("%s\n", a.paint.Text(render.Faint, restOf(res, gaps)))
		return nil
	}
	a.printf("%s\n", restOf(res, gaps))
	return nil
}

// overview counts what differs by kind; it has no rows where nothing does.
func overview(res *diff.Result) *render.Table {
	byKind := map[schema.Kind]*diff.Summary{}
	for _, o := range res.Objects {
		s := byKind[o.ID.Kind]
		if s == nil {
			s = &diff.Summary{}
			byKind[o.ID.Kind] = s
		}
		switch o.Change {
		case diff.Added:
			s.Added++
		case diff.Removed:
			s.Removed++
		case diff.Changed:
			s.Changed++
		case diff.Renamed:
			s.Renamed++
		}
	}
	all := slices.SortedFunc(maps.Keys(byKind), func(a, b schema.Kind) int { return cmp.Compare(a.Rank(), b.Rank()) })
	t := &render.Table{Columns: []render.Column{{Title: "kind"}, {Title: "added", Right: true}, {Title: "removed", Right: true}, {Title: "changed", Right: true}, {Title: "renamed", Right: true}}}
	for _, k := range all {
		s := byKind[k]
		t.Add(string(k), positive(s.Added), positive(s.Removed), positive(s.Changed), positive(s.Renamed))
	}
	return t
}

// restOf says what does not differ.
func restOf(res *diff.Result, gaps bool) string {
	rest := render.Plural(res.Summary.Same, "object is", "objects are") + " the same"
	if !res.Summary.Differs() {
		rest = "No difference in " + render.Plural(res.Summary.Same, "object", "objects")
		if gaps {
			rest = "No difference was seen in " + render.Plural(res.Summary.Same, "object", "objects")
		}
		if res.Summary.Reordered == 0 {
			return rest + "."
		}
	}
	if n := res.Summary.Followed; n > 0 {
		rest += fmt.Sprintf("; %s only in the names of what was renamed", render.Plural(n, "differs", "differ"))
	}
	if n := res.Summary.Reordered; n > 0 {
		rest += fmt.Sprintf("; %s only in the order of columns, which --with-order compares", render.Plural(n, "differs", "differ"))
	}
	return rest
}

func (a *app) diffDetails(res *diff.Result) {
	styles := map[diff.Change]render.Style{diff.Added: render.Good, diff.Removed: render.Bad, diff.Changed: render.Hit, diff.Renamed: render.Notable}
	for _, change := range []diff.Change{diff.Added, diff.Removed, diff.Renamed, diff.Changed} {
		first := true
		for _, o := range res.Objects {
			if o.Change != change {
				continue
			}
			if first {
				a.printf("\n%s\n", a.paint.Text(styles[change], string(change)))
				first = false
			}
			a.printf("  %s %s", o.ID.Kind, render.Visible(o.ID.String()))
			if o.Was.Name != "" {
				a.printf(", was %s", render.Visible(o.Was.String()))
			}
			a.printf("\n")
			for _, p := range o.Properties {
				if change != diff.Renamed || p.Path != "name" {
					a.diffProperty(p)
				}
			}
			a.followers(o.Followers)
		}
	}
	a.questions(res)
}

// followers names what differs only in that it calls a renamed object by its new name.
func (a *app) followers(all []schema.ID) {
	const most = 12
	if len(all) == 0 {
		return
	}
	var names []string
	for _, id := range all[:min(most, len(all))] {
		names = append(names, string(id.Kind)+" "+id.String())
	}
	if len(all) > most {
		names = append(names, fmt.Sprintf("and %d more", len(all)-most))
	}
	a.printf("    %s\n", render.Wrap(render.Plural(len(all), "follows", "follow")+": "+render.Visible(strings.Join(names, ", ")), max(0, a.width-4), "    "))
}

// partWords are the lists of parts in a property's path, with what one part is called. A part's own name may begin
// with the word.
var partWords = map[string]string{"columns": "column", "keys": "key", "foreign_keys": "foreign key", "checks": "check constraint", "settings": "setting", "grants": "rights of",
	"exclusions": "exclusion constraint", "parents": "parent"}

// propertyWords returns the path of a property in words: "column depth_m: type". isPart says that it is a part as a
// whole.
func propertyWords(path string) (words string, isPart bool) {
	parts := strings.Split(path, "/")
	for i := range parts {
		parts[i] = render.Visible(strings.ReplaceAll(parts[i], "~1", "/"))
	}
	word, ok := partWords[parts[0]]
	if !ok || len(parts) == 1 || parts[1] == "order" && len(parts) == 2 {
		return strings.ReplaceAll(strings.Join(parts, " "), "_", " "), false
	}
	name := parts[1]
	for _, own := range []string{"foreign key ", "unique ", "check "} { // of a part that has no name
		if rest, found := strings.CutPrefix(name, own+"("); found {
			name, word = "("+rest, strings.TrimSpace(own)
		}
	}
	words = word + " " + name
	if name == "primary key" {
		words = name
	}
	if len(parts) > 2 {
		words += ": " + strings.ReplaceAll(strings.Join(parts[2:], " "), "_", " ")
	}
	return words, len(parts) == 2
}

// diffProperty writes one property: in a line where it fits, else old and new below each other.
func (a *app) diffProperty(p schema.Difference) {
	path, isPart := propertyWords(p.Path)
	text := func(s *string) string { return render.VisibleLines(*s) }
	switch {
	case p.Old == nil && p.New == nil:
		a.printf("    %s\n", path)
	case p.Old != nil && p.New != nil && strings.HasSuffix(p.Path, "/name"): // a part of another name
		word := "renamed"
		if p.Guess {
			word = "renamed?"
		}
		a.printf("    %s %s was %s\n", strings.TrimSuffix(path, ": name"), a.paint.Text(render.Notable, word), text(p.Old))
	case p.Old == nil && isPart:
		a.diffPart(path, a.paint.Text(render.Good, "added"), text(p.New))
	case p.New == nil && isPart:
		a.diffPart(path, a.paint.Text(render.Bad, "removed"), text(p.Old))
	case p.Old == nil:
		a.diffSet(path, "now", render.Good, text(p.New))
	case p.New == nil:
		a.diffSet(path, "no longer", render.Bad, text(p.Old))
	default:
		before, after := text(p.Old), text(p.New)
		line := fmt.Sprintf("    %s  %s -> %s", path, before, after)
		width := a.width
		if width == 0 {
			width = 100
		}
		if !strings.Contains(before+after, "\n") && render.Width(line) <= width {
			a.printf("    %s was %s, now %s\n", path, a.paint.Text(render.Bad, before), a.paint.Text(render.Good, after))
			return
		}
		a.printf("    %s\n", path)
		a.diffLines(before, after)
	}
}

// diffSet writes a property that one side alone has.
func (a *app) diffSet(path, word string, style render.Style, text string) {
	if !strings.Contains(text, "\n") {
		a.printf("    %s %s %s\n", path, word, a.paint.Text(style, text))
		return
	}
	a.printf("    %s %s\n", path, word)
	for _, line := range strings.Split(text, "\n") {
		a.printf("      %s\n", a.paint.Text(style, line))
	}
}

// diffPart writes a part that came or went; one without a name is called by its text.
func (a *app) diffPart(path, change, text string) {
	if strings.Contains(path, text) || strings.HasSuffix(text, path) {
		text = ""
	}
	if strings.HasPrefix(text, "primary key ") && path == "primary key" {
		text = strings.TrimPrefix(text, "primary key ")
	}
	text = strings.ReplaceAll(text, "\n", "\n      ")
	a.printf("%s\n", strings.TrimRight("    "+path+" "+change+" "+text, " "))
}

// diffLines writes two texts line by line: what both share once, what differs with was or now in front, and of a line that has
// changed the words.
func (a *app) diffLines(before, after string) {
	const around = 2 // lines that both share, shown beside those that differ
	for _, l := range diff.Text(strings.Split(before, "\n"), strings.Split(after, "\n"), around) {
		word, style := "   ", render.Plain
		switch {
		case l.Gap:
			a.printf("           …\n")
			continue
		case l.Change == diff.Removed:
			word, style = "was", render.Bad
		case l.Change == diff.Added:
			word, style = "now", render.Good
		}
		text := a.paint.Text(style, l.Text)
		if len(l.Spans) > 0 {
			text = a.paint.Spans(style, l.Text, l.Spans)
		}
		a.printf("      %s  %s\n", a.paint.Text(style, word), text)
	}
}

// questions says what may be a renaming.
func (a *app) questions(res *diff.Result) {
	for i, q := range res.Questions {
		if i == 0 {
			a.printf("\n%s\n", a.paint.Text(render.Notable, "may be renamed"))
		}
		what, option := renameOption(q)
		a.printf("  %s, %.0f %% alike; if so: %s\n", what, 100*q.Likelihood, option)
	}
}

// renameOption returns what may be renamed, in words, and the option that says so.
func renameOption(q diff.Question) (what, option string) {
	old, now := q.Old.String(), q.New.String()
	what = fmt.Sprintf("%s %s, was %s", q.New.Kind, render.Visible(now), render.Visible(old))
	if q.OldColumn != "" {
		what = fmt.Sprintf("column %s of %s %s, was %s", render.Visible(q.NewColumn), q.New.Kind, render.Visible(now), render.Visible(q.OldColumn))
		old, now = old+"."+names.Quote(q.OldColumn), names.Quote(q.NewColumn)
	}
	return what, "--rename " + shellWord(render.Visible(old+"="+now))
}
