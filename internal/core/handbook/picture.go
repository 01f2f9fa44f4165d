package handbook

// The picture of a table with its neighbours.

import (
	"html/template"
	"slices"
	"strings"

	"echo-atlas/internal/core/chart"
	"echo-atlas/internal/core/schema"
)

// mostNeighbours is how many a picture has.
const mostNeighbours = 16

// picture draws a table, what it refers to and what refers to it; "" for one without neighbours.
func (p *pages) picture(entry int) (template.HTML, error) {
	o := p.b.objects[entry]
	if !o.Kind.IsRelation() || o.Relation == nil {
		return "", nil
	}
	boxes := []int{entry}
	left := 0
	seen := map[int]bool{entry: true}
	add := func(i int) {
		switch {
		case seen[i]:
		case len(boxes) > mostNeighbours:
			left++
			seen[i] = true
		default:
			seen[i] = true
			boxes = append(boxes, i)
		}
	}
	for _, f := range o.Relation.ForeignKeys {
		if i, ok := p.b.tables[[2]string{f.RefSchema, f.RefTable}]; ok {
			add(i)
		}
	}
	for _, i := range p.b.from[entry] {
		e := &p.b.graph.Edges[i]
		if to := p.b.graph.Ends[e.To].Entry; p.b.objects[to].Kind.IsRelation() {
			add(to)
		}
	}
	for _, i := range p.b.to[entry] {
		e := &p.b.graph.Edges[i]
		if from := p.b.graph.Ends[e.From].Entry; e.Use == schema.UseForeignKey || p.b.objects[from].Kind.IsRelation() {
			add(from)
		}
	}
	if len(boxes) == 1 {
		return "", nil
	}
	d := &chart.Diagram{}
	at := map[int]int{}
	for n, i := range boxes {
		at[i] = n
		d.Boxes = append(d.Boxes, p.box(i, i == entry))
	}
	for _, i := range boxes {
		p.references(d, i, at)
	}
	if left > 0 {
		d.Notes = append(d.Notes, "More of its neighbours are listed on this page.")
	}
	var b strings.Builder
	if err := chart.Place(d).Inline(&b, "links of "+o.ID().String()); err != nil {
		return "", err
	}
	return template.HTML(b.String()), nil // the picture escapes what it shows
}

// mostTables is how many the picture of a database has.
const mostTables = 80

// wholePicture draws the tables of a database that are linked, by their keys; "" where there are none, or too many.
func (p *pages) wholePicture() (template.HTML, error) {
	linked := map[int]bool{}
	for i := range p.b.graph.Edges {
		e := &p.b.graph.Edges[i]
		from, to := p.b.graph.Ends[e.From].Entry, p.b.graph.Ends[e.To].Entry
		if e.Use == schema.UseForeignKey && p.b.hasPage[from] && p.b.hasPage[to] && from != to {
			linked[from], linked[to] = true, true
		}
	}
	if len(linked) == 0 || len(linked) > mostTables {
		return "", nil
	}
	d := &chart.Diagram{}
	at := map[int]int{}
	for _, i := range p.b.pages {
		if linked[i] {
			at[i] = len(d.Boxes)
			d.Boxes = append(d.Boxes, p.box(i, false))
		}
	}
	for _, i := range p.b.pages {
		if linked[i] {
			p.references(d, i, at)
		}
	}
	var b strings.Builder
	if err := chart.Place(d).Inline(&b, "tables of "+p.b.Snapshot.Location().String()+" and their foreign keys"); err != nil {
		return "", err
	}
	return template.HTML(b.String()), nil // the picture escapes what it shows
}

func (p *pages) box(i int, root bool) chart.Box {
	o := p.b.objects[i]
	box := chart.Box{Name: o.Name, Group: -1, Root: root, URL: p.to(i, "")}
	if root {
		box.URL = ""
	}
	if o.Kind != schema.KindTable {
		box.Kind = string(o.Kind)
	}
	if o.Relation == nil {
		return box
	}
	marks := chart.Marks(o.Relation)
	for _, c := range o.Relation.Columns {
		if marks[c.Name] == "" {
			continue
		}
		if len(box.Rows) == 12 {
			box.More++
			continue
		}
		box.Rows = append(box.Rows, chart.Row{Name: c.Name, Mark: marks[c.Name]})
	}
	return box
}

// references links a table of a picture with the others in it.
func (p *pages) references(d *chart.Diagram, i int, at map[int]int) {
	o := p.b.objects[i]
	row := func(box int, column string) int {
		return slices.IndexFunc(d.Boxes[box].Rows, func(r chart.Row) bool { return r.Name == column })
	}
	if o.Relation != nil {
		for _, f := range o.Relation.ForeignKeys {
			to, ok := p.b.tables[[2]string{f.RefSchema, f.RefTable}]
			n, drawn := at[to]
			if !ok || !drawn || len(f.Columns) == 0 {
				continue
			}
			l := chart.Link{From: at[i], To: n, FromRow: row(at[i], f.Columns[0]), ToRow: -1, Label: f.Name}
			if len(f.RefColumns) > 0 {
				l.ToRow = row(n, f.RefColumns[0])
			}
			l.Many, l.One = chart.Multiplicity(o.Relation, f)
			d.Links = append(d.Links, l)
		}
	}
	seen := map[int]bool{}
	for _, k := range p.b.from[i] {
		e := &p.b.graph.Edges[k]
		to := p.b.graph.Ends[e.To].Entry
		if n, drawn := at[to]; drawn && to != i && e.Use != schema.UseForeignKey && !seen[to] {
			seen[to] = true
			d.Links = append(d.Links, chart.Link{From: at[i], To: n, FromRow: -1, ToRow: -1, Dashed: true})
		}
	}
}
