package cli

// What the options of diff and change, and the configuration's [diff], ask for.

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

func compareFlags() []cli.Flag {
	return []cli.Flag{
		&cli.StringSliceFlag{Name: "rename", Usage: "`OLD=NEW` are one thing: objects, columns (TABLE.OLD=NEW), schemas, databases, or owners (owner:OLD=NEW)"},
		&cli.BoolFlag{Name: "no-renames", Usage: "what has another name is another thing"},
	}
}

func exactFlags() []cli.Flag {
	return []cli.Flag{
		&cli.BoolFlag{Name: "with-order", Usage: "the order of columns counts"},
		&cli.BoolFlag{Name: "exact", Usage: "layout, needless brackets and names that servers make up count, and the order of columns"},
	}
}

// comparing is how databases are compared.
type comparing struct {
	options diff.Options
	renames []renamed
	left    []string // what the configuration asks for, in words
}

// renamed is a renaming as it was written.
type renamed struct {
	text, old, now string
	hit            bool // it fits something
}

// comparing returns what the options ask for, and where they say nothing, the configuration.
func (a *app) comparing(cmd *cli.Command) (c comparing, err error) {
	set := a.cfg.Diff
	if c.options.Kinds, err = kinds(cmd); err != nil {
		return c, err
	}
	if c.options.Without, err = aspects(cmd); err != nil {
		return c, err
	}
	if !cmd.IsSet("without") && len(set.Without) > 0 {
		if c.options.Without, err = schema.ParseAspects(set.Without); err != nil {
			return c, usagef("%s: [diff] without: %v", a.cfg.Path, err)
		}
		c.left = append(c.left, "without "+strings.Join(set.Without, ", "))
	}
	flag := func(name, words string, configured bool) bool {
		if !cmd.IsSet(name) && configured {
			c.left = append(c.left, words)
			return true
		}
		return cmd.Bool(name)
	}
	c.options.Order = flag("with-order", "with the order of columns", set.WithOrder)
	c.options.Exact = flag("exact", "exactly", set.Exact)
	c.options.Order = c.options.Order || c.options.Exact
	c.options.NoRenames = flag("no-renames", "without renamings", set.NoRenames)
	texts := cmd.StringSlice("rename")
	if len(texts) == 0 && len(set.Rename) > 0 {
		texts = set.Rename
		c.left = append(c.left, "renamed "+strings.Join(set.Rename, ", "))
	}
	for _, text := range texts {
		for _, one := range schema.SplitList(text) {
			r, ok := splitRename(one)
			if !ok {
				return c, usagef("--rename: %q is no renaming; write OLD=NEW", one)
			}
			r.hit = len(cmd.StringSlice("rename")) == 0 // those of the configuration need not fit here
			c.renames = append(c.renames, r)
		}
	}
	return c, nil
}

// splitRename cuts OLD=NEW at the sign outside of quotes.
func splitRename(text string) (r renamed, ok bool) {
	quoted := false
	for i := range len(text) {
		switch {
		case text[i] == '"':
			quoted = !quoted
		case text[i] == '=' && !quoted:
			r = renamed{text: text, old: strings.TrimSpace(text[:i]), now: strings.TrimSpace(text[i+1:])}
			return r, r.old != "" && r.now != ""
		}
	}
	return r, false
}

// plain returns a name without its quotes.
func plainName(s string) string {
	if len(s) > 1 && s[0] == '"' && s[len(s)-1] == '"' {
		return strings.ReplaceAll(s[1:len(s)-1], `""`, `"`)
	}
	return s
}

// databases returns the renamings that may be those of databases.
func (c *comparing) databases() map[string]string {
	all := map[string]string{}
	for _, r := range c.renames {
		all[plainName(strings.TrimPrefix(r.old, "database:"))] = plainName(r.now)
	}
	return all
}

// fix finds what the renamings say of two databases: objects and columns go into the options, schemas and owners are returned.
func (d *differ) fix(ctx context.Context, old, now *catalogue.Contents, o *diff.Options) (ddl.Renames, error) {
	var containers ddl.Renames
	for i := range d.asked.renames {
		r := &d.asked.renames[i]
		if name, ok := strings.CutPrefix(r.old, "owner:"); ok {
			set(&containers.Owners, plainName(name), plainName(r.now))
			r.hit = true
			continue
		}
		if name, ok := strings.CutPrefix(r.old, "database:"); ok || plainName(name) == old.Snapshot.Database && plainName(r.now) == now.Snapshot.Database {
			r.hit = r.hit || plainName(name) == old.Snapshot.Database
			continue
		}
		name := strings.TrimPrefix(r.old, "schema:")
		if hasSchema(old, plainName(name)) {
			set(&containers.Containers, plainName(name), plainName(r.now))
			r.hit = true
			continue
		}
		from, err := d.inside(ctx, old, r.old)
		if err != nil || from == nil {
			if err != nil {
				return containers, err
			}
			continue
		}
		r.hit = true
		to := r.now
		if from.Part != "" && !strings.Contains(to, ".") {
			to = r.old[:strings.LastIndexByte(r.old, '.')+1] + to
		}
		into, err := d.inside(ctx, now, to)
		if err == nil && into == nil {
			err = usagef("--rename %s: nothing in NEW is called %s", r.text, to)
		}
		if err == nil && (into.Part == "") != (from.Part == "") {
			err = usagef("--rename %s: one is a part and the other is not", r.text)
		}
		if err != nil {
			return containers, err
		}
		o.Fixed = append(o.Fixed, diff.Rename{Old: from.Entry.ID, New: into.Entry.ID, OldColumn: from.Part, NewColumn: into.Part})
	}
	return containers, nil
}

func set(m *map[string]string, old, now string) {
	if *m == nil {
		*m = map[string]string{}
	}
	(*m)[old] = now
}

func hasSchema(t *catalogue.Contents, name string) bool {
	return slices.ContainsFunc(t.All(), func(e catalogue.Entry) bool { return e.ID.Schema == name && name != "" })
}

// inside returns the only object or part of a database that an address fits, nil for none.
func (d *differ) inside(ctx context.Context, t *catalogue.Contents, text string) (*address.Match, error) {
	parsed, err := address.Parse(text)
	if err != nil {
		return nil, err
	}
	matches, err := d.r.Inside(ctx, t, parsed)
	if err != nil {
		return nil, err
	}
	matches = slices.DeleteFunc(matches, func(m address.Match) bool { return m.Entry == nil })
	switch len(matches) {
	case 0:
		return nil, nil
	case 1:
		return &matches[0], nil
	}
	return nil, usagef("--rename: %q fits %d things in %s; say which, as KIND:NAME", text, len(matches), t.Snapshot.Location())
}

// unused reports the first renaming that fitted nothing.
func (d *differ) unused() error {
	for i, ok := range d.hit {
		if !ok {
			return usagef("nothing in OLD or NEW is called %q", d.limits[i])
		}
	}
	for _, r := range d.asked.renames {
		if !r.hit {
			return usagef("--rename %s: nothing in OLD is called %s", r.text, r.old)
		}
	}
	return nil
}

// moved returns a database with other names for schemas and owners, to be compared.
func moved(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, names *ddl.Renames) (*catalogue.Snapshot, error) {
	return guest(ctx, c, t, func(all []*schema.Object) []*schema.Object {
		for _, o := range all {
			names.Apply(o, e)
		}
		return all
	})
}

// guest returns a database whose objects are others, to be compared.
func guest(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents, other func([]*schema.Object) []*schema.Object) (*catalogue.Snapshot, error) {
	entries := make([]*catalogue.Entry, t.Len())
	for i := range t.All() {
		entries[i] = t.At(i)
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return nil, err
	}
	for i, o := range objects {
		id := entries[i].ID
		o.Kind, o.Schema, o.Within, o.Name, o.Signature = id.Kind, id.Schema, id.Table, id.Name, id.Signature
	}
	s := t.Snapshot
	reading := &schema.Reading{Engine: s.Engine, Version: s.Version, Database: s.Database, User: s.User, Model: s.Model, Taken: s.Taken, Objects: other(objects), Remarks: s.Remarks}
	reading.Sort()
	return c.SaveGuest(ctx, catalogue.Origin{Server: s.Server, Environment: s.Environment, Family: s.Family, Path: fmt.Sprintf("%s %d", s.Location(), s.ID)}, reading)
}
