package cli

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
)

func (a *app) diffCommand() *cli.Command {
	return &cli.Command{
		Name:      "diff",
		Usage:     "what changed from OLD to NEW: an overview, then each property",
		ArgsUsage: "OLD NEW [ADDRESS…]",
		Description: "OLD and NEW are databases, servers (their databases are paired by name) or single objects. Further\n" +
			"addresses limit the comparison. Exit code 1 says that they differ.\n\n" +
			"Examples:\n  echo-atlas diff quay-live quay-dev\n  echo-atlas diff quay-live/berths@1 quay-live/berths\n" +
			"  echo-atlas diff quay-live/berths quay-dev/berths 'mooring*'",
		Flags:  []cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), withoutFlag(), &cli.BoolFlag{Name: "summary", Usage: "the overview alone"}},
		Action: a.diff,
	}
}

// pair is two snapshots to compare, with the one object that OLD and NEW may name.
type pair struct {
	before, after      *catalogue.Contents
	schema             string // the one schema to compare
	oldEntry, newEntry *catalogue.Entry
}

func (a *app) diff(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	if cmd.Args().Len() < 2 {
		return usagef("diff takes OLD and NEW; see: %s --help", cmd.FullName())
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
	r.Deferred = cmd.Args().Len() == 2
	pairs, lonely, err := a.pairs(ctx, r, cmd.Args().Get(0), cmd.Args().Get(1))
	if err != nil {
		return err
	}
	limits := cmd.Args().Slice()[2:]
	var results []*diff.Result
	differ := len(lonely) > 0
	hit := make([]bool, len(limits))
	for _, p := range pairs {
		o := diff.Options{Kinds: wanted, Without: values(cmd, "without")}
		if o.Wanted, err = p.wanted(limits, hit); err != nil {
			return err
		}
		res, err := diff.Compare(ctx, c, p.before.Snapshot, p.after.Snapshot, o)
		if err != nil {
			return err
		}
		differ = differ || res.Summary.Differs()
		results = append(results, res)
	}
	for i, ok := range hit {
		if !ok {
			return usagef("nothing in OLD or NEW is called %q", limits[i])
		}
	}
	if a.as == "json" {
		err = a.diffJSON(results, lonely)
	} else {
		err = a.diffText(results, lonely, cmd.Bool("summary"))
	}
	if err == nil && differ {
		err = &exitError{code: exitDiffer}
	}
	return err
}

// pairs resolves OLD and NEW and pairs what they cover by database; lonely are databases that only one
// side has.
func (a *app) pairs(ctx context.Context, r *catalogue.Resolver, old, new string) (pairs []pair, lonely []string, err error) {
	sides := [2][]catalogue.Match{}
	for i, text := range []string{old, new} {
		if sides[i], err = resolveAll(ctx, r, []string{text}); err != nil {
			return nil, nil, err
		}
	}
	before, after := sides[0], sides[1]
	if len(before) == 1 && len(after) == 1 {
		x, y := before[0], after[0]
		if (x.Entry == nil) != (y.Entry == nil) {
			return nil, nil, usagef("one of %s and %s is an object, the other is none; compare two of a kind", x.Location(), y.Location())
		}
		if x.Schema != y.Schema {
			return nil, nil, usagef("%s and %s: compare two databases, or two schemas of the same name", x.Location(), y.Location())
		}
		return []pair{{before: x.Contents, after: y.Contents, schema: x.Schema, oldEntry: x.Entry, newEntry: y.Entry}}, nil, nil
	}
	byName := map[string][2]*catalogue.Match{}
	for i := range sides {
		for j := range sides[i] {
			m := &sides[i][j]
			name := m.Contents.Snapshot.Database
			both := byName[name]
			if m.Entry != nil || both[i] != nil {
				e := &catalogue.AmbiguousError{Address: []string{old, new}[i]}
				for k := range sides[i] {
					e.Matches = append(e.Matches, sides[i][k].Location())
				}
				return nil, nil, e
			}
			both[i] = m
			byName[name] = both
		}
	}
	for _, name := range slices.Sorted(maps.Keys(byName)) {
		both := byName[name]
		switch {
		case both[0] == nil:
			lonely = append(lonely, fmt.Sprintf("database %s is only in NEW (%s)", render.Visible(name), render.Visible(both[1].Location().String())))
		case both[1] == nil:
			lonely = append(lonely, fmt.Sprintf("database %s is only in OLD (%s)", render.Visible(name), render.Visible(both[0].Location().String())))
		default:
			pairs = append(pairs, pair{before: both[0].Contents, after: both[1].Contents})
		}
	}
	if len(pairs) == 0 {
		return nil, nil, usagef("%s and %s have no database of the same name; name one of each, like SERVER/DATABASE", old, new)
	}
	return pairs, lonely, nil
}

// wanted returns which objects the further addresses of diff leave; nil for all.
func (p *pair) wanted(limits []string, hit []bool) (func(schema.ID) bool, error) {
	if p.oldEntry != nil {
		if p.oldEntry.ID != p.newEntry.ID {
			return nil, usagef("%s and %s have different names; a comparison of objects with different names is not known yet",
				p.oldEntry.ID.Qualified(), p.newEntry.ID.Qualified())
		}
		id := p.oldEntry.ID
		return func(x schema.ID) bool {
			return x == id || id.Kind.IsRelation() && x.Table == id.Name && x.Schema == id.Schema
		}, nil
	}
	inSchema := func(id schema.ID) bool {
		return id.Schema == p.schema || id.Kind == schema.KindSchema && id.Name == p.schema
	}
	switch {
	case len(limits) == 0 && p.schema == "":
		return nil, nil
	case len(limits) == 0:
		return inSchema, nil
	}
	chosen := map[schema.ID]bool{}
	for i, text := range limits {
		addr, err := schema.ParseAddress(text)
		if err != nil {
			return nil, err
		}
		if len(addr.Outer) > 0 || addr.Path != "" {
			return nil, usagef("%q: the addresses behind OLD and NEW name objects, without server and database", text)
		}
		for _, t := range []*catalogue.Contents{p.before, p.after} {
			for j := range t.Entries {
				if id := t.Entries[j].ID; fits(addr, id) && (p.schema == "" || inSchema(id)) {
					chosen[id], hit[i] = true, true
				}
			}
		}
	}
	return func(id schema.ID) bool { return chosen[id] }, nil
}

// fits reports whether an address without server and database names an object, or the schema it is in.
func fits(a schema.Address, id schema.ID) bool {
	if a.Kind != "" && a.Kind != id.Kind {
		return false
	}
	last := a.Names[len(a.Names)-1]
	name, _ := last.Matches(id.Name)
	if len(a.Names) == 1 {
		inSchema, _ := last.Matches(id.Schema)
		return name || inSchema && id.Schema != "" && a.Kind == ""
	}
	outer := id.Schema
	if id.Table != "" {
		outer = id.Table
	}
	inside, _ := a.Names[len(a.Names)-2].Matches(outer)
	return name && inside
}

type diffProperty struct {
	Path string  `json:"path"`
	Old  *string `json:"old"`
	New  *string `json:"new"`
}

type diffObject struct {
	address
	Change     diff.Change    `json:"change"`
	Was        string         `json:"was,omitempty"`
	Properties []diffProperty `json:"properties"`
}

func (a *app) diffJSON(results []*diff.Result, lonely []string) error {
	var total diff.Summary
	objects := []diffObject{}
	var olds, news []string
	var snapshots []*catalogue.Snapshot
	for _, res := range results {
		total = sum(total, res.Summary)
		olds, news = append(olds, res.Old.Location().String()), append(news, res.New.Location().String())
		snapshots = append(snapshots, res.Old, res.New)
		for _, o := range res.Objects {
			side := res.New
			if o.Change == diff.Removed {
				side = res.Old
			}
			x := diffObject{address: addressOf(side.Locate(o.ID, "", "")), Change: o.Change, Properties: []diffProperty{}}
			if o.Change == diff.Renamed {
				x.Was = res.Old.Locate(o.Was, "", "").String()
			}
			for _, p := range o.Properties {
				x.Properties = append(x.Properties, diffProperty(p))
			}
			objects = append(objects, x)
		}
	}
	return render.JSON(a.Stdout, map[string]any{"old": strings.Join(olds, ", "), "new": strings.Join(news, ", "), "summary": total, "objects": objects,
		"unpaired": append([]string{}, lonely...), "sources": a.sources(catalogue.Sources(snapshots...))})
}

func sum(a, b diff.Summary) diff.Summary {
	return diff.Summary{Same: a.Same + b.Same, Added: a.Added + b.Added, Removed: a.Removed + b.Removed, Changed: a.Changed + b.Changed, Renamed: a.Renamed + b.Renamed}
}

func (a *app) diffText(results []*diff.Result, lonely []string, summaryOnly bool) error {
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
		if err := a.diffOverview(res); err != nil {
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
func (a *app) diffOverview(res *diff.Result) error {
	if !res.Summary.Differs() {
		a.printf("\nNo difference in %s.\n", render.Plural(res.Summary.Same, "object", "objects"))
		return nil
	}
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
	t := render.Table{Columns: []render.Column{{Title: "kind"}, {Title: "added", Right: true}, {Title: "removed", Right: true}, {Title: "changed", Right: true}, {Title: "renamed", Right: true}}}
	for _, k := range all {
		s := byKind[k]
		t.Add(string(k), positive(s.Added), positive(s.Removed), positive(s.Changed), positive(s.Renamed))
	}
	a.printf("\n")
	if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
		return err
	}
	a.printf("%s\n", a.paint.Text(render.Faint, render.Plural(res.Summary.Same, "object is", "objects are")+" the same"))
	return nil
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
			if change == diff.Renamed {
				a.printf(", was %s\n", render.Visible(o.Was.String()))
				continue
			}
			a.printf("\n")
			for _, p := range o.Properties {
				a.diffProperty(p)
			}
		}
	}
}

// propertyWords returns the path of a property in words: "column depth_m: type".
func propertyWords(path string) string {
	words := map[string]string{"columns": "column", "keys": "key", "foreign_keys": "foreign key", "checks": "check", "settings": "setting", "grants": "rights of", "exclusions": "exclusion constraint", "parents": "parent"}
	parts := strings.Split(path, "/")
	for i := range parts {
		parts[i] = render.Visible(strings.ReplaceAll(parts[i], "~1", "/"))
	}
	out := strings.ReplaceAll(strings.Join(parts, " "), "_", " ")
	if word, ok := words[parts[0]]; ok && len(parts) > 1 && parts[1] != "order" {
		out = strings.TrimPrefix(parts[1], "check ")
		out = word + " " + out
		if len(parts) > 2 {
			out += ": " + strings.ReplaceAll(strings.Join(parts[2:], " "), "_", " ")
		}
	}
	return out
}

// diffProperty writes one property: in a line where it fits, else old and new below each other.
func (a *app) diffProperty(p schema.Difference) {
	path := propertyWords(p.Path)
	text := func(s *string) string { return render.VisibleLines(*s) }
	switch {
	case p.Old == nil && p.New == nil:
		a.printf("    %s\n", path)
	case p.Old == nil:
		a.diffPart(path, a.paint.Text(render.Good, "added"), text(p.New))
	case p.New == nil:
		a.diffPart(path, a.paint.Text(render.Bad, "removed"), text(p.Old))
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

// diffPart writes a part that came or went; one without a name is called by its text.
func (a *app) diffPart(path, change, text string) {
	if strings.Contains(path, text) {
		text = ""
	}
	a.printf("%s\n", strings.TrimRight("    "+path+" "+change+" "+text, " "))
}

// diffLines writes two texts line by line: what both share once, what differs with was or now in
// front.
func (a *app) diffLines(before, after string) {
	const around = 2 // lines that both share, shown beside those that differ
	lines := diff.Lines(strings.Split(before, "\n"), strings.Split(after, "\n"))
	near := make([]bool, len(lines))
	for i, l := range lines {
		for j := max(0, i-around); l.Change != "" && j <= min(len(lines)-1, i+around); j++ {
			near[j] = true
		}
	}
	for i, l := range lines {
		switch {
		case l.Change == diff.Removed:
			a.printf("      %s  %s\n", a.paint.Text(render.Bad, "was"), a.paint.Text(render.Bad, l.Text))
		case l.Change == diff.Added:
			a.printf("      %s  %s\n", a.paint.Text(render.Good, "now"), a.paint.Text(render.Good, l.Text))
		case near[i]:
			a.printf("           %s\n", l.Text)
		case i == 0 || near[i-1]:
			a.printf("           …\n")
		}
	}
}
