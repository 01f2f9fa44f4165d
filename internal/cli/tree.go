package cli

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

// branch is a node of the tree.
type branch struct {
	Name     string    `json:"name"`
	Kind     string    `json:"kind"` // "server", "database", "kind", or an object's or part's
	Address  string    `json:"address,omitempty"`
	Note     string    `json:"note,omitempty"`
	Count    int       `json:"count,omitempty"`
	Children []*branch `json:"children,omitempty"`

	one     string             // of a kind: its name in the singular
	objects []*catalogue.Entry // of a kind, behind its children: objects that are printed without their parts
}

// The levels of the tree.
const (
	levelServer = 1 + iota
	levelDatabase
	levelKind
	levelObject
	levelPart
)

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
	depth := int(cmd.Int("depth"))
	if depth <= 0 {
		depth = levelKind
		if cmd.Args().Len() == 1 {
			depth = levelObject
			if slices.ContainsFunc(matches, func(m address.Match) bool { return m.Entry != nil }) {
				depth = levelPart
			} else if len(matches) > 1 {
				depth = levelKind
			}
		}
	}
	b := treeBuilder{c: c, a: a, kinds: wanted, depth: depth}
	var snapshots []*catalogue.Snapshot
	for i := range matches {
		snapshots = append(snapshots, matches[i].Contents.Snapshot)
		b.add(&matches[i])
	}
	if err := b.loadParts(ctx); err != nil {
		return err
	}
	b.prune(b.roots, 1)
	sources := catalogue.Sources(snapshots...)
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: sources, Kinds: wanted, Objects: namedObjects(selection.Gather(matches)), Everywhere: cmd.Args().Len() == 0})
	if err != nil {
		return err
	}
	if a.as == "json" {
		return render.JSON(a.Stdout, map[string]any{"tree": b.roots, "sources": a.sources(sources), "unseen": a.unseenJSON(unseen)})
	}
	p := treePrinter{a: a, left: int(cmd.Int("limit"))}
	if p.left <= 0 {
		p.left = int(^uint(0) >> 1)
	}
	p.print(b.roots, "")
	if p.cut > 0 {
		a.printf("… and %s; for all add --limit 0, for fewer name an ADDRESS or a --depth\n", render.Plural(p.cut, "more line", "more lines"))
	}
	a.unseen(unseen)
	return nil
}

type treeBuilder struct {
	a     *app
	c     *catalogue.Catalogue
	kinds []schema.Kind
	depth int
	roots []*branch
	bare  []partsOf // objects whose parts are still to be loaded
}

// partsOf is an object whose parts go below a branch.
type partsOf struct {
	branch *branch
	match  *address.Match
	entry  *catalogue.Entry
}

// loadParts fills in the parts of all objects at once.
func (b *treeBuilder) loadParts(ctx context.Context) error {
	entries := make([]*catalogue.Entry, len(b.bare))
	for i, o := range b.bare {
		entries[i] = o.entry
	}
	objects, err := b.c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	for i, o := range b.bare {
		for _, p := range objects[i].Parts() {
			if o.match.Part != "" && p.Name != o.match.Part {
				continue
			}
			part := &branch{Name: p.Name, Kind: string(p.Kind), Note: p.Text}
			if b.a.as == "json" {
				part.Address = o.match.Contents.Snapshot.Locate(o.entry.ID, p.Name, p.Kind).String()
			}
			o.branch.Children = append(o.branch.Children, part)
		}
	}
	return nil
}

func child(list *[]*branch, name, kind string) *branch {
	for _, b := range *list {
		if b.Name == name && b.Kind == kind {
			return b
		}
	}
	b := &branch{Name: name, Kind: kind}
	*list = append(*list, b)
	return b
}

func (b *treeBuilder) add(m *address.Match) {
	s := m.Contents.Snapshot
	server := child(&b.roots, s.Server, "server")
	server.Address, server.Note = names.Quote(s.Server), strings.Trim(s.Engine+", "+s.Environment, ", ")
	database := child(&server.Children, s.Database, "database")
	database.Address, database.Note = s.Location().String(), "read "+render.Age(b.a.Now().Sub(s.Taken))
	var last, sub *branch // of the entry before: its kind, and its schema if it has one
	var lastID schema.ID
	for _, e := range m.Entries() {
		if len(b.kinds) > 0 && !slices.Contains(b.kinds, e.ID.Kind) {
			continue
		}
		server.Count++
		database.Count++
		if e.ID.Kind == schema.KindSchema {
			database.Count--
			server.Count--
			child(&database.Children, e.ID.Name, "schema").Address = s.Locate(e.ID, "", "").String()
			continue
		}
		if last == nil || lastID.Schema != e.ID.Schema || lastID.Kind != e.ID.Kind {
			parent := &database.Children
			sub = nil
			if e.ID.Schema != "" {
				sub = child(&database.Children, e.ID.Schema, "schema")
				sub.Address = s.Locate(schema.ID{Kind: schema.KindSchema, Name: e.ID.Schema}, "", "").String()
				parent = &sub.Children
			}
			last, lastID = child(parent, e.ID.Kind.Plural(), "kind"), e.ID
			last.one = string(e.ID.Kind)
		}
		if sub != nil {
			sub.Count++
		}
		last.Count++
		if b.depth < levelObject {
			continue
		}
		if b.depth == levelObject && b.a.as != "json" {
			last.objects = append(last.objects, e) // most of a large tree, of which the first are shown
			continue
		}
		o := branchOf(e)
		if b.a.as == "json" {
			o.Address = s.Locate(e.ID, "", "").String()
		}
		last.Children = append(last.Children, o)
		if b.depth >= levelPart {
			b.bare = append(b.bare, partsOf{o, m, e})
		}
	}
}

func branchOf(e *catalogue.Entry) *branch {
	return &branch{Name: bare(e.ID), Kind: string(e.ID.Kind), Note: objectNote(e)}
}

// bare returns an object's name without its schema.
func bare(id schema.ID) string {
	id.Schema = ""
	return id.String()
}

func objectNote(e *catalogue.Entry) string {
	switch {
	case e.ID.Kind.IsRelation():
		return render.Plural(e.Columns, "column", "columns")
	case e.On != "":
		return "on " + names.Quote(e.On)
	}
	return ""
}

// prune drops what lies deeper than the depth.
func (b *treeBuilder) prune(list []*branch, level int) {
	for _, n := range list {
		next := level + 1
		if n.Kind == "schema" {
			next = level // schemas and kinds share a level
		}
		if next > b.depth {
			n.Children, n.objects = nil, nil
		}
		b.prune(n.Children, next)
	}
}

type treePrinter struct {
	a         *app
	left, cut int
}

func (p *treePrinter) print(list []*branch, indent string) {
	for _, n := range list {
		if p.left <= 0 {
			p.cut++
		} else {
			p.left--
			p.line(n, indent)
		}
		p.print(n.Children, indent+"  ")
		shown := min(p.left, len(n.objects))
		for _, e := range n.objects[:shown] {
			p.line(branchOf(e), indent+"  ")
		}
		p.left, p.cut = p.left-shown, p.cut+len(n.objects)-shown
	}
}

func (p *treePrinter) line(n *branch, indent string) {
	name := render.Visible(n.Name)
	style := render.Plain
	var rest []string
	switch n.Kind {
	case "server", "database", "schema":
		style = render.Title
		rest = append(rest, n.Kind)
	case "kind":
		if n.Count == 1 {
			name = render.Visible(n.one)
		}
		p.a.printf("%s%s %s\n", indent, render.Count(n.Count), name)
		return
	case string(schema.KindColumn):
	default:
		if kind := schema.Kind(n.Kind); kind.IsPart() && !strings.HasPrefix(n.Note, n.Kind) && !(kind == schema.KindUnique && strings.HasPrefix(n.Note, "unique ")) {
			rest = append(rest, n.Kind)
		}
	}
	if n.Count > 0 {
		rest = append(rest, render.Plural(n.Count, "object", "objects"))
	}
	if n.Note != "" {
		rest = append(rest, render.Visible(n.Note))
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
