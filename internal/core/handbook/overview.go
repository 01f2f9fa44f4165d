package handbook

// The pages that lead to others: the overview, one for each database, and the data of the search.

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"

	"echo-atlas/internal/core/chart"
	"echo-atlas/internal/core/schema"
)

// databaseRow is a database in the overview.
type databaseRow struct {
	Link        link
	Server      string
	Engine      string
	Environment string
	Family      string
	Read        string
	Label       string
	Size        string
	Counts      string
	Schemas     []link
	Unseen      []string
}

type overviewPage struct {
	Book, Root, Title string
	Databases         []databaseRow
	Foot              string
}

// kindList is the objects of a kind on the page of a database.
type kindList struct {
	Title   string
	Objects []objectRow
}

type objectRow struct {
	Link  link
	About string
	Size  string
	State string
}

type schemaList struct {
	Anchor, Name string
	About        string
	Kinds        []kindList
}

type databasePage struct {
	Book, Root, Title string
	Anchor            string
	Crumbs            []crumb
	Row               databaseRow
	Schemas           []schemaList
	Picture           template.HTML
	One               bool
	Foot              string
}

// row tells of a database.
func (m *maker) row(b *book) databaseRow {
	s := b.Snapshot
	counts := map[schema.Kind]int{}
	for _, i := range b.pages {
		counts[b.objects[i].Kind]++
	}
	for i, o := range b.objects {
		if attached(o.Kind) && b.page(i) >= 0 {
			counts[o.Kind]++
		}
	}
	var words []string
	for _, k := range slices.SortedFunc(mapKeys(counts), func(x, y schema.Kind) int { return cmp.Or(cmp.Compare(counts[y], counts[x]), cmp.Compare(x, y)) }) {
		name := string(k)
		if counts[k] != 1 {
			name = k.Plural()
		}
		words = append(words, count(int64(counts[k]))+" "+name)
	}
	r := databaseRow{Link: link{s.Location().String(), b.folder + "/index.html"}, Server: s.Server, Engine: cmp.Or(s.Version, s.Engine), Environment: s.Environment, Family: s.Family, Read: when(s.Taken), Label: s.Label,
		Counts: strings.Join(words, ", "), Unseen: b.Unseen}
	if b.size.Bytes >= 0 {
		r.Size = bytesText(b.size.Bytes)
	}
	if m.one {
		r.Link.Href = "#" + strings.ReplaceAll(b.folder, "/", ".")
	}
	return r
}

func mapKeys[K comparable, V any](m map[K]V) func(func(K) bool) {
	return func(yield func(K) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

// overview makes the first page.
func (m *maker) overview() *overviewPage {
	x := &overviewPage{Book: m.o.Title, Title: m.o.Title}
	last := ""
	for _, b := range m.books {
		r := m.row(b)
		r.Link.Text = b.Snapshot.Database
		if r.Server == last {
			r.Server = ""
		}
		last = b.Snapshot.Server
		for _, i := range b.pages {
			if o := b.objects[i]; o.Kind == schema.KindSchema && !m.one {
				r.Schemas = append(r.Schemas, link{o.Name, b.folder + "/index.html#s-" + slug(o.Name)})
			}
		}
		x.Databases = append(x.Databases, r)
	}
	return x
}

// database makes the page of a database.
func (m *maker) database(b *book) (*databasePage, error) {
	p := &pages{m, b}
	x := &databasePage{Book: m.o.Title, Root: "../../", Title: b.Snapshot.Location().String(), Anchor: strings.ReplaceAll(b.folder, "/", "."), Row: m.row(b), One: m.one, Crumbs: []crumb{{m.o.Title, "../../index.html"}}}
	if m.one {
		x.Crumbs = nil
	}
	type place struct{ schema, kind string }
	lists := map[place]*kindList{}
	at := map[string]int{}
	for _, i := range b.pages {
		o := b.objects[i]
		name := o.Schema
		if o.Kind == schema.KindSchema {
			name = o.Name
		}
		n, ok := at[name]
		if !ok {
			n = len(x.Schemas)
			at[name] = n
			x.Schemas = append(x.Schemas, schemaList{Anchor: "s-" + slug(name), Name: name})
		}
		if o.Kind == schema.KindSchema {
			x.Schemas[n].About = cmp.Or(o.Comment, m.o.Notes.Of(b.Snapshot, o.ID(), ""))
			continue
		}
		k := lists[place{name, string(o.Kind)}]
		if k == nil {
			k = &kindList{Title: o.Kind.Plural()}
			lists[place{name, string(o.Kind)}] = k
		}
		id := o.ID()
		id.Schema = ""
		r := objectRow{Link: p.linkTo(i, id.String()), About: firstLine(cmp.Or(o.Comment, m.o.Notes.Of(b.Snapshot, o.ID(), ""))), State: b.contents.At(i).State}
		if size := b.sizes[i]; size.Rows >= 0 {
			r.Size = count(size.Rows) + " rows"
		} else if size.Bytes >= 0 {
			r.Size = bytesText(size.Bytes)
		}
		k.Objects = append(k.Objects, r)
	}
	for n := range x.Schemas {
		var kinds []string
		for at := range lists {
			if at.schema == x.Schemas[n].Name {
				kinds = append(kinds, at.kind)
			}
		}
		slices.SortFunc(kinds, func(a, z string) int { return cmp.Or(cmp.Compare(rank(a), rank(z)), strings.Compare(a, z)) })
		for _, k := range kinds {
			x.Schemas[n].Kinds = append(x.Schemas[n].Kinds, *lists[place{x.Schemas[n].Name, k}])
		}
	}
	slices.SortStableFunc(x.Schemas, func(a, z schemaList) int { return strings.Compare(a.Name, z.Name) })
	var err error
	x.Picture, err = p.wholePicture()
	return x, err
}

// rank puts tables and views before other kinds.
func rank(kind string) int {
	if i := slices.Index([]string{"table", "partitioned table", "foreign table", "view", "materialised view", "function", "procedure", "trigger"}, kind); i >= 0 {
		return i
	}
	return 99
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(strings.TrimSpace(s), "\n")
	if r := []rune(s); len(r) > 160 {
		return string(r[:159]) + "…"
	}
	return s
}

// found is an object as the search has it: kind, address, file, description, columns.
type found [5]string

// searchData returns all that is searched, as a script: a page that was opened from a folder may load no other data.
func (m *maker) searchData() ([]byte, error) {
	var all []found
	for _, b := range m.books {
		p := &pages{m, b}
		for i, o := range b.objects {
			page := b.page(i)
			if page < 0 {
				continue
			}
			var columns []string
			if page == i {
				for _, c := range o.Columns() {
					columns = append(columns, c.Name)
				}
			}
			href := p.to(i, "")
			if !m.one {
				href = b.folder + "/" + href
			}
			all = append(all, found{string(o.Kind), b.Snapshot.Locate(o.ID(), "", "").String(), href, firstLine(cmp.Or(o.Comment, m.o.Notes.Of(b.Snapshot, o.ID(), ""))), strings.Join(columns, "\n")})
		}
	}
	text, err := json.Marshal(all) // <, > and & are escaped, and so are the line separators of JavaScript
	if err != nil {
		return nil, fmt.Errorf("writing what is searched: %w", err)
	}
	return slices.Concat([]byte("window.handbookNames="), text, []byte(";\n")), nil
}

// common writes the files that all pages share, and those that lead to others.
func (m *maker) common(f *folder) error {
	data, err := m.searchData()
	if err != nil {
		return err
	}
	files := map[string][]byte{"handbook.css": []byte(style + chart.Sheet()), "handbook.js": []byte(script), "names.js": data}
	var out bytes.Buffer
	if err := templates().ExecuteTemplate(&out, "overview", m.overview()); err != nil {
		return fmt.Errorf("writing the overview: %w", err)
	}
	files["index.html"] = bytes.Clone(out.Bytes())
	for _, b := range m.books {
		out.Reset()
		page, err := m.database(b)
		if err != nil {
			return err
		}
		if err := templates().ExecuteTemplate(&out, "database", page); err != nil {
			return fmt.Errorf("writing the page of %s: %w", b.Snapshot.Location(), err)
		}
		files[b.folder+"/index.html"] = bytes.Clone(out.Bytes())
	}
	for _, path := range slices.Sorted(mapKeys(files)) {
		if err := f.put(path, files[path]); err != nil {
			return err
		}
	}
	return nil
}

type onePage struct {
	Overview  *overviewPage
	Style     template.CSS
	Script    template.JS
	Names     template.JS
	Databases []oneDatabase
}

type oneDatabase struct {
	Page    *databasePage
	Objects []*objectPage
}

// single writes everything into one page.
func (m *maker) single(w io.Writer) (int, error) {
	data, err := m.searchData()
	if err != nil {
		return 0, err
	}
	x := onePage{Overview: m.overview(), Style: template.CSS(style + chart.Sheet()), Script: template.JS(script), Names: template.JS(data)} // the data is JSON, the rest our own
	n := 0
	for _, b := range m.books {
		page, err := m.database(b)
		if err != nil {
			return n, err
		}
		d := oneDatabase{Page: page}
		p := &pages{m, b}
		for _, i := range b.pages {
			page, err := p.objectPage(i)
			if err != nil {
				return n, err
			}
			d.Objects = append(d.Objects, page)
			n++
		}
		x.Databases = append(x.Databases, d)
	}
	if err := templates().ExecuteTemplate(w, "one", x); err != nil {
		return n, fmt.Errorf("writing the handbook: %w", err)
	}
	return n, nil
}
