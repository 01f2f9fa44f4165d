package view

// A tree goes from servers by databases, schemas and kinds to objects and their parts. Objects of a level that is the last
// are not made branches of: a large tree is mostly these, and of most only the number is shown.

import (
	"context"
	"slices"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Level is how deep in a tree something stands. Schemas and kinds share a level.
type Level int

// The levels.
const (
	ServerLevel Level = 1 + iota
	DatabaseLevel
	KindLevel
	ObjectLevel
	PartLevel
)

// Branch is a node of a tree.
type Branch struct {
	Level    Level
	Name     string
	Snapshot *catalogue.Snapshot // that it stands in; of a server, one of them
	ID       schema.ID           // of a schema, a kind (the kind alone) and an object
	Entry    *catalogue.Entry    // of an object
	Part     *schema.Part        // of a part
	Count    int                 // of objects in it
	Children []*Branch
	Objects  []*catalogue.Entry // of a kind, behind its children: objects without their parts
}

// IsSchema reports whether the branch is a schema.
func (b *Branch) IsSchema() bool {
	return b.Level == KindLevel && b.ID.Kind == schema.KindSchema && b.ID.Name != ""
}

// Tree is a forest of servers.
type Tree struct {
	Kinds []schema.Kind // of objects that are counted and shown; none: all
	Depth Level         // the deepest level
	Whole bool          // objects are branches even where their level is the last
	Roots []*Branch

	bare []partsOf // objects whose parts are still to be loaded
}

// partsOf is an object whose parts go below a branch.
type partsOf struct {
	branch *Branch
	match  *address.Match
	entry  *catalogue.Entry
}

// Build adds what matches fit.
func (t *Tree) Build(ctx context.Context, c *catalogue.Catalogue, matches []address.Match) error {
	for i := range matches {
		t.add(&matches[i])
	}
	if err := t.loadParts(ctx, c); err != nil {
		return err
	}
	t.prune(t.Roots)
	return nil
}

// loadParts fills in the parts of all objects at once.
func (t *Tree) loadParts(ctx context.Context, c *catalogue.Catalogue) error {
	entries := make([]*catalogue.Entry, len(t.bare))
	for i, o := range t.bare {
		entries[i] = o.entry
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return err
	}
	for i, o := range t.bare {
		parts := objects[i].Parts()
		for k := range parts {
			if p := &parts[k]; o.match.Part == "" || p.Name == o.match.Part {
				o.branch.Children = append(o.branch.Children, &Branch{Level: PartLevel, Name: p.Name, Snapshot: o.branch.Snapshot, ID: o.entry.ID, Part: p})
			}
		}
	}
	return nil
}

// child returns the branch of that name and identity, which is added where it is missing.
func child(list *[]*Branch, b Branch) *Branch {
	for _, have := range *list {
		if have.Name == b.Name && have.ID == b.ID {
			return have
		}
	}
	*list = append(*list, &b)
	return &b
}

func (t *Tree) add(m *address.Match) {
	s := m.Contents.Snapshot
	server := child(&t.Roots, Branch{Level: ServerLevel, Name: s.Server})
	server.Snapshot = s
	database := child(&server.Children, Branch{Level: DatabaseLevel, Name: s.Database})
	database.Snapshot = s
	branchOf := func(list *[]*Branch, name string, id schema.ID) *Branch {
		return child(list, Branch{Level: KindLevel, Name: name, Snapshot: s, ID: id})
	}
	var last, sub *Branch // of the entry before: its kind, and its schema if it has one
	var lastID schema.ID
	for _, e := range m.Entries() {
		if len(t.Kinds) > 0 && !slices.Contains(t.Kinds, e.ID.Kind) {
			continue
		}
		if e.ID.Kind == schema.KindSchema {
			branchOf(&database.Children, e.ID.Name, schema.ID{Kind: schema.KindSchema, Name: e.ID.Name})
			continue
		}
		server.Count++
		database.Count++
		if last == nil || lastID.Schema != e.ID.Schema || lastID.Kind != e.ID.Kind {
			parent := &database.Children
			sub = nil
			if name := e.ID.Schema; name != "" {
				sub = branchOf(parent, name, schema.ID{Kind: schema.KindSchema, Name: name})
				parent = &sub.Children
			}
			last, lastID = branchOf(parent, e.ID.Kind.Plural(), schema.ID{Kind: e.ID.Kind}), e.ID
		}
		if sub != nil {
			sub.Count++
		}
		last.Count++
		switch {
		case t.Depth < ObjectLevel:
		case t.Depth == ObjectLevel && !t.Whole:
			last.Objects = append(last.Objects, e)
		default:
			o := ObjectBranch(s, e)
			last.Children = append(last.Children, o)
			if t.Depth >= PartLevel {
				t.bare = append(t.bare, partsOf{o, m, e})
			}
		}
	}
}

// ObjectBranch returns the branch of an object without its parts.
func ObjectBranch(s *catalogue.Snapshot, e *catalogue.Entry) *Branch {
	id := e.ID
	id.Schema = ""
	return &Branch{Level: ObjectLevel, Name: id.String(), Snapshot: s, ID: e.ID, Entry: e}
}

// prune drops what lies deeper than the depth.
func (t *Tree) prune(list []*Branch) {
	for _, b := range list {
		next := b.Level + 1
		if b.IsSchema() {
			next = b.Level
		}
		if next > t.Depth {
			b.Children, b.Objects = nil, nil
		}
		t.prune(b.Children)
	}
}
