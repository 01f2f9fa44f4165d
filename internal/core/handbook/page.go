package handbook

// What stands on the page of an object.

import (
	"bytes"
	"cmp"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
)

// pages makes the pages of one database.
type pages struct {
	m *maker
	b *book
}

// link is a name that leads somewhere, if Href is not empty.
type link struct{ Text, Href string }

type crumb = link

// fact is a line of what is known.
type fact struct {
	Name, Text string
	Link       link
}

// column is a row of the table of columns.
type column struct {
	Anchor, Name, Mark, Type, Default string
	Null                              bool
	To                                []link // what its foreign keys lead to
	Notes                             []string
	About                             string
}

// line is a row of a section: what it is, its name, and the rest.
type line struct {
	Anchor, Kind string
	Name         link
	Text         string
	Faint        string
}

// section is a part of a page.
type section struct {
	Anchor, Title string
	Lines         []line
	More          int
}

// objectPage is the page of an object.
type objectPage struct {
	Book       string
	Root       string // the way to the root of the handbook
	Title      string
	Kind       string
	Name       string
	Anchor     string // in one file
	Crumbs     []crumb
	About      string
	Facts      []fact
	Columns    []column
	Sections   []section
	Picture    template.HTML
	Definition template.HTML
	Foot       string
	One        bool
}

// mostLines is how many rows a section has.
const mostLines = 300

// to returns the way from a page of the database to where an object is told of, "" if that is nowhere.
func (p *pages) to(entry int, anchor string) string {
	page := p.b.page(entry)
	if page < 0 {
		return ""
	}
	if page != entry {
		anchor = "o-" + slug(p.b.objects[entry].Name)
	}
	if p.m.one {
		return "#" + p.anchor(page)
	}
	href := p.b.slugOf(page) + ".html"
	if anchor != "" {
		href += "#" + anchor
	}
	return href
}

// anchor returns where a page stands in one file.
func (p *pages) anchor(entry int) string {
	return strings.ReplaceAll(p.b.folder, "/", ".") + "." + p.b.slugOf(entry)
}

func (p *pages) linkTo(entry int, text string) link { return link{text, p.to(entry, "")} }

// object makes the page of an object.
func (m *maker) object(b *book, entry int) ([]byte, error) {
	p := &pages{m, b}
	x, err := p.objectPage(entry)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := templates().ExecuteTemplate(&out, "page", x); err != nil {
		return nil, fmt.Errorf("writing the page of %s: %w", x.Title, err)
	}
	return out.Bytes(), nil
}

func (p *pages) objectPage(entry int) (*objectPage, error) {
	o, s := p.b.objects[entry], p.b.Snapshot
	id := o.ID()
	name := id.String()
	x := &objectPage{Book: p.m.o.Title, Root: "../../", Title: name + ", " + string(o.Kind), Kind: string(o.Kind), Name: name, Anchor: p.anchor(entry), One: p.m.one,
		About: cmp.Or(o.Comment, p.m.o.Notes.Of(s, id, ""))}
	if p.m.one {
		x.Crumbs = []crumb{{s.Location().String(), "#" + strings.ReplaceAll(p.b.folder, "/", ".")}}
	} else {
		x.Crumbs = []crumb{{p.m.o.Title, "../../index.html"}, {s.Location().String(), "index.html"}}
	}
	if id.Schema != "" {
		x.Crumbs = append(x.Crumbs, crumb{id.Schema, x.Crumbs[len(x.Crumbs)-1].Href + map[bool]string{true: "", false: "#s-" + slug(id.Schema)}[p.m.one]})
	}
	x.Facts = p.facts(entry)
	x.Columns = p.columns(entry)
	x.Sections = p.sections(entry)
	var err error
	if x.Picture, err = p.picture(entry); err != nil {
		return nil, err
	}
	x.Definition = p.definition(entry)
	return x, nil
}

// facts returns what is known besides.
func (p *pages) facts(entry int) []fact {
	o, s := p.b.objects[entry], p.b.Snapshot
	var all []fact
	add := func(name, text string) {
		if text != "" {
			all = append(all, fact{Name: name, Text: text})
		}
	}
	if size := p.b.sizes[entry]; size.Rows >= 0 {
		add("rows", "about "+count(size.Rows))
	}
	if size := p.b.sizes[entry]; size.Bytes >= 0 {
		add("size", bytesText(size.Bytes))
	}
	add("owner", o.Owner)
	add("environment", s.Environment)
	if on := p.b.contents.At(entry).On; on != "" {
		f := fact{Name: "on", Text: on}
		if i, ok := p.b.tables[[2]string{o.Schema, on}]; ok {
			f.Link = p.linkTo(i, on)
		}
		all = append(all, f)
	}
	for _, list := range [][]schema.Property{o.Settings, o.Parameters, o.Options, o.Extended} {
		for _, x := range list {
			add(x.Name, x.Value)
		}
	}
	switch {
	case o.Trigger != nil:
		add("fires", o.Trigger.Describe())
		add("when", o.Trigger.When)
	case o.Sequence != nil:
		q := o.Sequence
		for _, f := range [][2]string{{"type", q.Type}, {"start", q.Start}, {"increment", q.Increment}, {"minimum", q.Min}, {"maximum", q.Max}, {"cache", q.Cache}} {
			add(f[0], f[1])
		}
		if q.OwnedBy != "" {
			add("owned by", q.OwnedBy+"."+q.OwnedCol)
		}
	case o.Routine != nil:
		add("language", o.Routine.Language)
		add("returns", o.Routine.Returns)
	case o.Synonym != nil:
		add("for", o.Synonym.String())
	}
	if o.Relation != nil {
		for _, parent := range o.Relation.Parents {
			add("belongs to", parent.Describe())
		}
	}
	return all
}

// columns returns the columns of a relation or a composite type.
func (p *pages) columns(entry int) []column {
	o := p.b.objects[entry]
	var to map[string][]link
	marks := map[string]string{}
	if o.Relation != nil {
		to = map[string][]link{}
		for _, k := range o.Relation.Keys {
			for _, part := range k.Columns {
				switch {
				case k.Primary:
					marks[part.Column] = "primary key"
				case marks[part.Column] == "" && len(k.Columns) == 1:
					marks[part.Column] = "unique"
				}
			}
		}
		for _, f := range o.Relation.ForeignKeys {
			table := f.RefTable
			if f.RefSchema != "" && f.RefSchema != o.Schema {
				table = f.RefSchema + "." + table
			}
			target, ok := p.b.tables[[2]string{f.RefSchema, f.RefTable}]
			for i, c := range f.Columns {
				x := link{Text: table}
				anchor := ""
				if i < len(f.RefColumns) {
					x.Text, anchor = table+"."+f.RefColumns[i], "c-"+slug(f.RefColumns[i])
				}
				if ok {
					x.Href = p.to(target, anchor)
				}
				to[c] = append(to[c], x)
			}
		}
	}
	var all []column
	columns := o.Columns()
	for i := range columns {
		c := &columns[i]
		x := column{Anchor: "c-" + slug(c.Name), Name: c.Name, Mark: marks[c.Name], Type: c.Type, Null: !c.NotNull, Default: c.Default, To: to[c.Name], About: cmp.Or(c.Comment, p.m.o.Notes.Of(p.b.Snapshot, o.ID(), c.Name))}
		if c.Identity != nil {
			x.Notes = append(x.Notes, c.Identity.Describe())
		}
		if c.Generated != nil {
			x.Notes = append(x.Notes, c.Generated.Describe())
		}
		if c.Collation != "" {
			x.Notes = append(x.Notes, "collate "+c.Collation)
		}
		if c.Inherited != nil {
			x.Notes = append(x.Notes, c.Inherited.Describe())
		}
		for _, list := range [][]schema.Property{c.Settings, c.Parameters, c.Options} {
			for _, s := range list {
				x.Notes = append(x.Notes, s.Name+" "+s.Value)
			}
		}
		all = append(all, x)
	}
	return all
}

// sections returns the lists of a page.
func (p *pages) sections(entry int) []section {
	o := p.b.objects[entry]
	var all []section
	add := func(title string, lines []line) {
		if len(lines) == 0 {
			return
		}
		s := section{Anchor: slug(strings.ReplaceAll(title, " ", "-")), Title: title, Lines: lines}
		if len(lines) > mostLines {
			s.Lines, s.More = lines[:mostLines], len(lines)-mostLines
		}
		all = append(all, s)
	}
	if o.Relation != nil {
		add("keys and checks", p.constraints(o.Relation))
	}
	add("referred to by", p.referrers(entry))
	for _, kind := range []schema.Kind{schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy} {
		add(kind.Plural(), p.standing(entry, kind))
	}
	var rights []line
	for _, g := range o.Grants {
		rights = append(rights, line{Name: link{Text: g.PartKey()}, Text: g.Describe()})
	}
	add("rights", rights)
	add("needs", p.needs(entry))
	add("dependants", p.dependants(entry))
	add("other environments", p.elsewhere(o))
	add("history", p.events(o))
	return all
}

func (p *pages) constraints(r *schema.Relation) []line {
	var all []line
	for _, k := range r.Keys {
		all = append(all, line{Kind: string(k.Kind()), Name: link{Text: k.Name}, Text: strings.TrimPrefix(strings.TrimPrefix(k.Describe(), "primary key "), "unique ")})
	}
	for _, f := range r.ForeignKeys {
		x := line{Kind: string(schema.KindForeignKey), Name: link{Text: f.Name}, Text: f.Describe()}
		if i, ok := p.b.tables[[2]string{f.RefSchema, f.RefTable}]; ok && x.Name.Text != "" {
			x.Name.Href = p.to(i, "")
		}
		all = append(all, x)
	}
	for _, c := range r.Checks {
		all = append(all, line{Kind: string(schema.KindCheck), Name: link{Text: c.Name}, Text: c.Describe()})
	}
	for _, c := range r.Exclusions {
		all = append(all, line{Kind: string(schema.KindExclusion), Name: link{Text: c.Name}, Text: c.Describe()})
	}
	return all
}

// referrers returns the foreign keys that lead to a table.
func (p *pages) referrers(entry int) []line {
	o := p.b.objects[entry]
	var all []line
	seen := map[int]bool{}
	for _, i := range p.b.to[entry] {
		e := &p.b.graph.Edges[i]
		from := p.b.graph.Ends[e.From].Entry
		if e.Use != schema.UseForeignKey || seen[from] || p.b.objects[from].Relation == nil {
			continue
		}
		seen[from] = true
		other := p.b.objects[from]
		for _, f := range other.Relation.ForeignKeys {
			if f.RefTable == o.Name && f.RefSchema == o.Schema {
				all = append(all, line{Kind: string(other.Kind), Name: p.linkTo(from, other.ID().String()), Text: "(" + strings.Join(f.Columns, ", ") + ")", Faint: f.Name})
			}
		}
	}
	return all
}

// standing returns what of a kind stands on a relation.
func (p *pages) standing(entry int, kind schema.Kind) []line {
	var all []line
	for _, i := range p.b.on[entry] {
		o := p.b.objects[i]
		if o.Kind != kind {
			continue
		}
		x := line{Anchor: "o-" + slug(o.Name), Name: link{Text: o.Name}, Faint: o.Comment}
		switch {
		case o.Index != nil:
			x.Text = o.Index.Describe()
		case o.Trigger != nil:
			x.Name, x.Text = p.linkTo(i, o.Name), o.Trigger.Describe()
		case o.Policy != nil:
			x.Text = o.Policy.Describe()
		default:
			x.Text = strings.Join(strings.Fields(o.Definition), " ")
		}
		all = append(all, x)
	}
	return all
}

// neighbours returns the other ends of edges, each once, in words.
func (p *pages) neighbours(edges []int32, entry int, needs bool) []line {
	var all []line
	seen := map[int]bool{entry: true}
	for _, i := range edges {
		e := &p.b.graph.Edges[i]
		other := p.b.graph.Ends[e.From].Entry
		if needs {
			other = p.b.graph.Ends[e.To].Entry
		}
		if seen[other] {
			continue
		}
		seen[other] = true
		o := p.b.objects[other]
		if !needs && (attached(o.Kind) || o.Kind == schema.KindTrigger) && (e.Use == schema.UseIndexOn || e.Use == schema.UseTriggerOn || e.Use == schema.UseStandsOn) {
			continue // has a section of its own
		}
		d := p.b.graph.Dependency(p.b.contents, e)
		all = append(all, line{Kind: string(o.Kind), Name: p.linkTo(other, o.ID().String()), Text: p.m.o.Say(&d), Faint: string(d.Evidence)})
	}
	slices.SortStableFunc(all, func(x, y line) int {
		return cmp.Or(strings.Compare(x.Kind, y.Kind), strings.Compare(x.Name.Text, y.Name.Text))
	})
	return all
}

func (p *pages) needs(entry int) []line {
	all := p.neighbours(p.b.from[entry], entry, true)
	for _, i := range p.b.outside[entry] {
		x := &p.b.graph.Outside[i]
		d := p.b.graph.Dependency(p.b.contents, &x.Edge)
		d.To = x.End
		if x.Use == schema.UseRunsUnseen {
			all = append(all, line{Kind: "", Text: p.m.o.Say(&d)})
			continue
		}
		where := strings.Trim(x.End.Outside.Server+"/"+x.End.Outside.Database, "/")
		if where == "" {
			where = "not there"
		} else {
			where = "in " + where
		}
		all = append(all, line{Kind: string(x.End.ID.Kind), Name: link{Text: x.End.ID.String()}, Text: p.m.o.Say(&d), Faint: where})
	}
	return all
}

func (p *pages) dependants(entry int) []line { return p.neighbours(p.b.to[entry], entry, false) }

// elsewhere returns how an object stands in other environments.
func (p *pages) elsewhere(o *schema.Object) []line {
	var all []line
	for _, x := range p.b.apart[o.ID().Identity()] {
		l := line{Name: link{Text: x.Environment}, Text: map[string]string{"same": "as here", "differs": "differs", "missing": "is not there", "there": "is there"}[x.State]}
		if x.Since != "" {
			l.Faint = "since " + x.Since
		}
		all = append(all, l)
	}
	return all
}

func (p *pages) events(o *schema.Object) []line {
	var all []line
	for _, e := range slices.Backward(p.b.events[o.ID()]) {
		all = append(all, line{Name: link{Text: when(e.When)}, Text: e.What})
	}
	return all
}

// count writes a number with commas between thousands.
func count(n int64) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// bytesText writes a size.
func bytesText(n int64) string {
	f := float64(n)
	for _, unit := range []string{"bytes", "kB", "MB", "GB"} {
		if f < 1000 || unit == "GB" {
			if unit == "bytes" {
				return fmt.Sprintf("%d bytes", n)
			}
			return fmt.Sprintf("%.3g %s", f, unit)
		}
		f /= 1000
	}
	return ""
}
