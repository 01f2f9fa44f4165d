package cli

// The command show: all that core/view gathers about an object or a part, in sections.

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/notes"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
	"echo-atlas/internal/core/view"
)

func (a *app) showCommand() *cli.Command {
	return &cli.Command{
		Name:        "show",
		Usage:       "all about one object: columns, keys, indexes, triggers, needs, dependants, definition",
		ArgsUsage:   "ADDRESS",
		Description: "Examples:\n  echo-atlas show quay-live/berths/mooring\n  echo-atlas show quay-live/berths/mooring.draught_m\n  echo-atlas show index:mooring_by_quay --as json",
		Flags:       []cli.Flag{freshFlag(), maxAgeFlag(), bareFlag()},
		Action:      a.show,
	}
}

// shown is what show tells of an object.
type shown struct {
	*view.About
	unseen []gaps.Gap
	notes  *notes.Notes
}

// note returns the note for the object, or for a part of it; "" if there is none.
func (s *shown) note(part string) string {
	return s.notes.Of(s.Match.Contents.Snapshot, s.Object.ID(), part)
}

func (a *app) show(ctx context.Context, cmd *cli.Command) error {
	c, m, err := a.objectBy(ctx, cmd, func(r *address.Resolver) { r.Sparse, r.Ahead = true, true })
	if err != nil {
		return err
	}
	defer c.Close()
	snapshot := m.Contents.Snapshot
	s := &shown{}
	if s.notes, err = a.notes(); err != nil {
		return err
	}
	if s.About, err = view.NewAbout(ctx, c, m, a.engineOf(snapshot), cmd.Bool("bare")); err != nil {
		return err
	}
	if s.unseen, err = a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{snapshot}, References: true}); err != nil {
		return err
	}
	if a.as == "json" {
		return a.showJSON(s)
	}
	defer a.unseen(s.unseen)
	if m.Part != "" {
		return a.showPart(s)
	}
	return a.showObject(s)
}

// engineOf returns the engine of a snapshot, nil where this program has none.
func (a *app) engineOf(s *catalogue.Snapshot) engine.Engine {
	e, err := a.Engines.Named(s.Engine)
	if err != nil {
		return nil
	}
	return e
}

func (a *app) showJSON(s *shown) error {
	var reasons = func(t *trace.Trace) []map[string]any {
		list := []map[string]any{}
		for i := range t.Nodes[1:] {
			n := &t.Nodes[1+i]
			x, d := addressOf(t.Location(n)), t.Dependency(&t.Edges[n.Via])
			list = append(list, map[string]any{"address": x.Address, "kind": x.Kind, "use": d.Use.String(), "reason": sentence(&d)})
		}
		return list
	}
	out := map[string]any{
		"address": addressOf(s.Match.Location()), "object": s.Object, "needs": reasons(s.Needs), "dependants": reasons(s.Dependants),
		"definition": s.Definition, "note": s.note(s.Match.Part), "unseen": a.unseenJSON(s.unseen), "sources": a.sources([]*catalogue.Snapshot{s.Match.Contents.Snapshot}),
	}
	attached := []*schema.Object{}
	out["attached"] = append(attached, s.Attached...)
	if s.Size.Rows >= 0 {
		out["rows"] = s.Size.Rows
	}
	if s.Size.Bytes >= 0 {
		out["bytes"] = s.Size.Bytes
	}
	return render.JSON(a.Stdout, out)
}

// heading writes what is shown and what the answer rests on.
func (a *app) heading(s *shown, kind schema.Kind) {
	a.printf("%s %s\n", kind, a.paint.Text(render.Title, render.Visible(s.Match.Location().String())))
	facts := []string{a.about(s.Match.Contents.Snapshot)}
	if s.Size.Rows >= 0 {
		facts = append(facts, "about "+render.Plural(s.Size.Rows, "row", "rows"))
	}
	if s.Size.Bytes >= 0 {
		facts = append(facts, render.Bytes(s.Size.Bytes))
	}
	if s.Object.Owner != "" {
		facts = append(facts, "owner "+render.Visible(s.Object.Owner))
	}
	a.printf("%s\n", a.paint.Text(render.Faint, strings.Join(facts, "; ")))
}

func (a *app) section(title string) { a.printf("\n%s\n", a.paint.Text(render.Notable, title)) }

func (a *app) showObject(s *shown) error {
	o := s.Object
	a.heading(s, o.Kind)
	a.paragraph(cmp.Or(o.Comment, s.note("")))
	for _, list := range [][]schema.Property{o.Settings, o.Parameters, o.Options, o.Extended} {
		for _, p := range list {
			a.printf("%s: %s\n", render.Visible(p.Name), render.Visible(p.Value))
		}
	}
	if o.Index != nil && o.Index.PartOf != nil {
		a.printf("part of index: %s\n", render.Visible(names.Quote(o.Index.PartOf.Schema)+"."+names.Quote(o.Index.PartOf.Name)))
	}
	if o.Relation != nil {
		for _, p := range o.Relation.Parents {
			a.printf("%s\n", render.Wrap(render.Visible(p.Describe()), a.width, "  "))
		}
		if err := a.showRelation(s, o.Relation); err != nil {
			return err
		}
	} else if attributes := o.Columns(); len(attributes) > 0 { // of a composite type
		if err := a.showRelation(s, &schema.Relation{Columns: attributes}); err != nil {
			return err
		}
	}
	t := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {Min: 20, Wrap: true}}}
	row := func(name, text string) { t.Add(name, text) }
	switch {
	case o.Index != nil:
		row("on", o.Index.Table)
		row("columns", o.Index.Describe())
	case o.Trigger != nil:
		row("on", o.Trigger.Table)
		row("fires", o.Trigger.Describe())
		if o.Trigger.When != "" {
			row("when", o.Trigger.When)
		}
	case o.Sequence != nil:
		for _, f := range []struct{ name, value string }{{"type", o.Sequence.Type}, {"start", o.Sequence.Start}, {"increment", o.Sequence.Increment},
			{"minimum", o.Sequence.Min}, {"maximum", o.Sequence.Max}, {"cache", o.Sequence.Cache}} {
			if f.value != "" {
				row(f.name, f.value)
			}
		}
		if o.Sequence.OwnedBy != "" {
			row("owned by", o.Sequence.OwnedBy+"."+o.Sequence.OwnedCol)
		}
	}
	if len(t.Rows) > 0 {
		a.printf("\n")
		if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
			return err
		}
	}
	if err := a.showAttached(s.Attached); err != nil {
		return err
	}
	if err := a.showGrants(o.Grants); err != nil {
		return err
	}
	a.neighbours("needs", s.Needs)
	if err := a.outside(s.Outside()); err != nil {
		return err
	}
	a.neighbours("dependants", s.Dependants)
	if s.Definition != "" && o.Kind != schema.KindSchema {
		a.section("definition")
		for _, line := range strings.Split(s.Definition, "\n") {
			a.printf("  %s\n", render.VisibleLines(line))
		}
	}
	return nil
}

func (a *app) paragraph(text string) {
	if text == "" {
		return
	}
	for _, line := range strings.Split(text, "\n") {
		a.printf("  %s\n", render.Wrap(render.Visible(strings.TrimRight(line, "\r")), max(0, a.width-2), "  "))
	}
}

func (a *app) showRelation(s *shown, r *schema.Relation) error {
	if len(r.Columns) > 0 {
		a.section("columns")
	}
	inKey := map[string][]string{}
	for _, k := range r.Keys {
		word := "unique"
		if k.Primary {
			word = "primary key"
		}
		for _, c := range k.Columns {
			if len(k.Columns) == 1 || k.Primary {
				inKey[c.Column] = append(inKey[c.Column], word)
			}
		}
	}
	for _, f := range r.ForeignKeys {
		for i, c := range f.Columns {
			to := names.Quote(f.RefTable)
			if f.RefSchema != "" {
				to = names.Quote(f.RefSchema) + "." + to
			}
			if i < len(f.RefColumns) {
				to += "." + names.Quote(f.RefColumns[i])
			}
			inKey[c] = append(inKey[c], "to "+to)
		}
	}
	t := render.Table{Indent: "  ", Columns: []render.Column{{Title: "#", Right: true, Lesser: 1}, {Title: "name"}, {Title: "type", Min: 10}, {Title: "null"},
		{Title: "default", Min: 10}, {Title: "notes", Min: 14, Wrap: true}}}
	for i, c := range r.Columns {
		notes := inKey[c.Name]
		if c.Identity != nil {
			notes = append(notes, c.Identity.Describe())
		}
		if c.Generated != nil {
			notes = append(notes, c.Generated.Describe())
		}
		if c.Collation != "" {
			notes = append(notes, "collate "+c.Collation)
		}
		if c.Inherited != nil {
			notes = append(notes, c.Inherited.Describe())
		}
		for _, list := range [][]schema.Property{c.Settings, c.Parameters, c.Options} {
			for _, p := range list {
				notes = append(notes, p.Name+" "+p.Value)
			}
		}
		if said := cmp.Or(c.Comment, s.note(c.Name)); said != "" {
			notes = append(notes, said)
		}
		null := "yes"
		if c.NotNull {
			null = "no"
		}
		t.Add(strconv.Itoa(i+1), c.Name, c.Type, null, c.Default, strings.Join(notes, "; "))
	}
	if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
		return err
	}
	k := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{Lesser: 1}, {}, {Min: 20, Wrap: true}}}
	for _, key := range r.Keys {
		k.Add(string(key.Kind()), key.Name, strings.TrimPrefix(strings.TrimPrefix(key.Describe(), "primary key "), "unique "))
	}
	for _, f := range r.ForeignKeys {
		k.Add(string(schema.KindForeignKey), f.Name, f.Describe())
	}
	for _, c := range r.Checks {
		k.Add(string(schema.KindCheck), c.Name, c.Describe())
	}
	for _, x := range r.Exclusions {
		k.Add(string(schema.KindExclusion), x.Name, x.Describe())
	}
	if len(k.Rows) == 0 {
		return nil
	}
	a.section("constraints")
	return k.Text(a.Stdout, a.width, a.paint)
}

// showGrants tells the rights that differ from what a new object gives.
func (a *app) showGrants(grants []schema.Grant) error {
	if len(grants) == 0 {
		return nil
	}
	a.section("rights")
	t := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {Min: 20, Wrap: true}}}
	for _, g := range grants {
		t.Add(g.PartKey(), g.Describe())
	}
	return t.Text(a.Stdout, a.width, a.paint)
}

// attachedKinds stand on a relation and have sections of their own.
var attachedKinds = []schema.Kind{schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy}

func (a *app) showAttached(attached []*schema.Object) error {
	for _, kind := range attachedKinds {
		t := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {Min: 20, Wrap: true}}}
		for _, o := range attached {
			switch {
			case o.Kind != kind:
			case o.Index != nil:
				t.Add(o.Name, o.Index.Describe())
			case o.Trigger != nil:
				t.Add(o.Name, o.Trigger.Describe())
			default:
				text := strings.Join(strings.Fields(o.Definition), " ")
				if o.Policy != nil {
					text = o.Policy.Describe()
				}
				if state := o.Setting("fires"); state != "" {
					text += " (" + state + ")"
				}
				t.Add(o.Name, text)
			}
		}
		if len(t.Rows) > 0 {
			a.section(kind.Plural())
			if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
				return err
			}
		}
	}
	return nil
}

// attaches reports whether a use is that of what stands on a relation.
func attaches(u schema.Use) bool {
	return u == schema.UseIndexOn || u == schema.UseTriggerOn || u == schema.UseStandsOn
}

// neighbours lists what is one dependency away, but for what has a section of its own.
func (a *app) neighbours(title string, t *trace.Trace) {
	const most = 12
	tab := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{Lesser: 1}, {}, {Min: 16, Lesser: 2}}}
	count := 0
	short := map[string]string{}
	if a.width > 0 {
		short = shortNames(a.width, func(yield func(schema.ID) bool) {
			for i := range t.Nodes[1:] {
				if !yield(t.ID(&t.Nodes[1+i])) {
					return
				}
			}
		})
	}
	for i := range t.Nodes[1:] {
		n := &t.Nodes[1+i]
		id, d := t.ID(n), t.Dependency(&t.Edges[n.Via])
		if title == "dependants" && slices.Contains(attachedKinds, id.Kind) && attaches(d.Use) {
			continue
		}
		if count++; count <= most {
			tab.AddCells(render.Cell{Text: string(id.Kind)}, render.Cell{Text: cmp.Or(short[id.String()], id.String())}, render.Cell{Text: sentence(&d), Style: render.Faint})
		}
	}
	if count == 0 {
		return
	}
	a.section(title)
	_ = tab.Text(a.Stdout, a.width, a.paint)
	if count > most {
		option := ""
		if title == "needs" {
			option = " --needs"
		}
		a.printf("  … and %d more: echo-atlas trace %s%s\n", count-most, render.Visible(t.Root.String()), option)
	}
}

func (a *app) showPart(s *shown) error {
	kind := s.Match.PartKind
	a.heading(s, kind)
	for _, p := range s.Object.Parts() {
		if p.Kind == kind && p.Name == s.Match.Part {
			a.printf("\n  %s\n", render.Visible(p.Text))
		}
	}
	for _, c := range s.Object.Columns() {
		if kind == schema.KindColumn && c.Name == s.Match.Part {
			a.paragraph(cmp.Or(c.Comment, s.note(c.Name)))
		}
	}
	a.neighbours("needs", s.Needs)
	a.neighbours("dependants", s.Dependants)
	return nil
}
