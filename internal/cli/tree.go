package cli

// The command tree: the branches of core/view, printed or as JSON.

import (
	"context"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
	"echo-atlas/internal/core/view"
)

func (a *app) treeCommand() *cli.Command {
	return &cli.Command{
		Name:      "tree",
		Usage:     "the hierarchy of servers, databases, schemas, kinds, objects and parts, with counts",
		ArgsUsage: "[ADDRESS]",
		Description: "Without --depth the tree goes one step further than the address: a database shows its kinds and objects,\n" +
			"an object its parts.\n\nExamples:\n  echo-atlas tree\n  echo-atlas tree quay-live/berths\n  echo-atlas tree quay-live/berths/mooring",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			kindFlag(), limitFlag(2000),
			&cli.IntFlag{Name: "depth", Usage: "how many `LEVELS` to show: 1 servers, 2 databases, 3 schemas and kinds, 4 objects, 5 parts"},
		},
		Action: a.tree,
	}
}

// branch is a node of the tree in JSON.
type branch struct {
	Name     string    `json:"name"`
	Kind     string    `json:"kind"` // "server", "database", "kind", or an object's or part's
	Address  string    `json:"address,omitempty"`
	Note     string    `json:"note,omitempty"`
	Count    int       `json:"count,omitempty"`
	Children []*branch `json:"children,omitempty"`
}

// branches turns branches into their form in JSON.
func (a *app) branches(list []*view.Branch) []*branch {
	var out []*branch
	for _, b := range list {
		x := &branch{Name: b.Name, Kind: branchKind(b), Note: a.branchNote(b), Count: b.Count, Children: a.branches(b.Children)}
		switch {
		case b.Level == view.ServerLevel:
			x.Address = names.Quote(b.Name)
		case b.Level == view.DatabaseLevel:
			x.Address = b.Snapshot.Location().String()
		case b.Part != nil:
			x.Address = b.Snapshot.Locate(b.ID, b.Part.Name, b.Part.Kind).String()
		case b.ID.Name != "":
			x.Address = b.Snapshot.Locate(b.ID, "", "").String()
		}
		out = append(out, x)
	}
	return out
}

// branchKind says what a branch is.
func branchKind(b *view.Branch) string {
	switch {
	case b.Level == view.ServerLevel:
		return "server"
	case b.Level == view.DatabaseLevel:
		return "database"
	case b.Part != nil:
		return string(b.Part.Kind)
	case b.Level == view.KindLevel && !b.IsSchema():
		return "kind"
	}
	return string(b.ID.Kind)
}

// branchNote says what stands beside the name of a branch.
func (a *app) branchNote(b *view.Branch) string {
	switch {
	case b.Level == view.ServerLevel:
		return strings.Trim(b.Snapshot.Engine+", "+b.Snapshot.Environment, ", ")
	case b.Level == view.DatabaseLevel:
		return "read " + render.Age(a.Now().Sub(b.Snapshot.Taken))
	case b.Part != nil:
		return b.Part.Text
	case b.Entry == nil:
	case b.ID.Kind.IsRelation():
		return render.Plural(b.Entry.Columns, "column", "columns")
	case b.Entry.On != "":
		return "on " + names.Quote(b.Entry.On)
	}
	return ""
}

func (a *app) tree(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	wanted, err := kinds(cmd)
	if err != nil {
		return err
	}
	if cmd.Args().Len() > 1 {
		return usagef("tree takes one ADDRESS at most; see: %s --help", cmd.FullName())
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	matches, err := a.selection(ctx, r, cmd.Args().Slice())
	if err != nil {
		return err
	}
	depth := view.Level(cmd.Int("depth"))
	if depth <= 0 {
		depth = view.KindLevel
		if cmd.Args().Len() == 1 {
			depth = view.ObjectLevel
			if slices.ContainsFunc(matches, func(m address.Match) bool { return m.Entry != nil }) {
				depth = view.PartLevel
			} else if len(matches) > 1 {
				depth = view.KindLevel
			}
		}
	}
	t := view.Tree{Kinds: wanted, Depth: depth, Whole: a.as == "json"}
	if err := t.Build(ctx, c, matches); err != nil {
		return err
	}
	var snapshots []*catalogue.Snapshot
	for i := range matches {
		snapshots = append(snapshots, matches[i].Contents.Snapshot)
	}
	sources := catalogue.Sources(snapshots...)
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: sources, Kinds: wanted, Objects: namedObjects(selection.Gather(matches)), Everywhere: cmd.Args().Len() == 0})
	if err != nil {
		return err
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"tree": a.branches(t.Roots), "sources": a.sources(sources), "unseen": a.unseenJSON(unseen)})
	}
	p := treePrinter{a: a, left: int(cmd.Int("limit"))}
	if p.left <= 0 {
		p.left = int(^uint(0) >> 1)
	}
	p.print(t.Roots, "")
	if p.cut > 0 {
		a.printf("… and %s; for all add --limit 0, for fewer name an ADDRESS or a --depth\n", render.Plural(p.cut, "more line", "more lines"))
	}
	a.unseen(unseen)
	return nil
}

type treePrinter struct {
	a         *app
	left, cut int
}

func (p *treePrinter) print(list []*view.Branch, indent string) {
	for _, n := range list {
		if p.left <= 0 {
			p.cut++
		} else {
			p.left--
			p.line(n, indent)
		}
		p.print(n.Children, indent+"  ")
		shown := min(p.left, len(n.Objects))
		for _, e := range n.Objects[:shown] {
			p.line(view.ObjectBranch(n.Snapshot, e), indent+"  ")
		}
		p.left, p.cut = p.left-shown, p.cut+len(n.Objects)-shown
	}
}

func (p *treePrinter) line(n *view.Branch, indent string) {
	name, kind, note := render.Visible(n.Name), branchKind(n), p.a.branchNote(n)
	style := render.Plain
	var rest []string
	switch {
	case kind == "kind":
		if n.Count == 1 {
			name = render.Visible(string(n.ID.Kind))
		}
		p.a.printf("%s%s %s\n", indent, render.Count(n.Count), name)
		return
	case n.Level < view.ObjectLevel:
		style = render.Title
		rest = append(rest, kind)
	case n.Part == nil || n.Part.Kind == schema.KindColumn:
	case !strings.HasPrefix(note, kind) && !(n.Part.Kind == schema.KindUnique && strings.HasPrefix(note, "unique ")):
		rest = append(rest, kind)
	}
	if n.Count > 0 {
		rest = append(rest, render.Plural(n.Count, "object", "objects"))
	}
	if note != "" {
		rest = append(rest, render.Visible(note))
	}
	line := indent + name
	tail := ""
	if len(rest) > 0 {
		tail = "  " + strings.Join(rest, ", ")
		if p.a.width > 0 {
			tail = render.Fit(tail, max(4, p.a.width-render.Width(line)))
		}
	}
	p.a.printf("%s%s%s\n", indent, p.a.paint.Text(style, name), p.a.paint.Text(render.Faint, tail))
}
