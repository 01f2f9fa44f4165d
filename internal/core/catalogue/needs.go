package catalogue

// Dependencies of a snapshot are one blob of numbers: texts, ends, edges by end. In memory an edge is 24 bytes; what leads
// outside keeps its name.

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// Graph holds the dependencies of a snapshot: numbers, so that a million of them take little room. What people read of
// one is made when it is shown.
type Graph struct {
	Ends    []End // objects and parts; sorted by entry, the object itself before its parts
	Edges   []Edge
	Outside []OutsideEdge // what lies outside of the snapshot
	// ByColumn says that what reads columns by its text is known by these: an edge to the object alone touches none.
	ByColumn bool
	Resolver int // the version of what understood the texts, 0 for one of before

	texts []string
}

// End is an object of the snapshot, by its place among the entries, or a part of it.
type End struct {
	Entry    int
	Part     string
	PartKind schema.Kind
}

// Edge is a dependency between two ends.
type Edge struct {
	From, To    int32 // places in Ends
	Start, Stop int32 // in the text that Field names
	constraint  int32 // place in texts
	Use         schema.Use
	Field       schema.Field
	evidence    int8
}

// OutsideEdge is a dependency on something that the snapshot does not hold.
type OutsideEdge struct {
	Edge            // its To means nothing
	End  schema.End // as far as it is known
}

// Evidence returns how a dependency is known.
func (g *Graph) Evidence(e *Edge) schema.Evidence { return evidences[e.evidence] }

// Constraint returns the name of the constraint that a dependency is, "" for none.
func (g *Graph) Constraint(e *Edge) string { return g.texts[e.constraint] }

// Dependency returns an edge as it was read.
func (g *Graph) Dependency(t *Contents, e *Edge) schema.Dependency {
	end := func(i int32) schema.End {
		if i < 0 {
			return schema.End{}
		}
		return schema.End{ID: t.Entries[g.Ends[i].Entry].ID, Part: g.Ends[i].Part, PartKind: g.Ends[i].PartKind}
	}
	return schema.Dependency{From: end(e.From), To: end(e.To), Use: e.Use, Constraint: g.Constraint(e), Evidence: g.Evidence(e), Field: e.Field, Start: int(e.Start), Stop: int(e.Stop)}
}

var evidences = []schema.Evidence{schema.Recorded, schema.Read, schema.Guessed}

// The stored form begins with a zero and a number; the first form began with the number of the ends.
const (
	objectsForm = 2 // what reads a relation by its text is known by the object alone
	columnsForm = 3 // and by the column
	needsForm   = 4 // and the version of what understood the texts is told
)

// columnModel is the first version of the model whose readings say of each column what reads it.
const columnModel = 5

// needsWriter writes dependencies as they are stored: texts, ends, the edges between them, and those that lead outside.
type needsWriter struct {
	texts map[string]int
	list  []string
	body  []byte
}

func (w *needsWriter) text(s string) uint64 {
	i, ok := w.texts[s]
	if !ok {
		i = len(w.list)
		w.texts[s], w.list = i, append(w.list, s)
	}
	return uint64(i)
}

func (w *needsWriter) numbers(all ...uint64) {
	for _, n := range all {
		w.body = binary.AppendUvarint(w.body, n)
	}
}

func (w *needsWriter) edge(d *schema.Dependency) {
	w.numbers(uint64(d.Use), uint64(slices.Index(evidences, d.Evidence)), w.text(d.Constraint), uint64(d.Field), uint64(d.Start), uint64(d.Stop))
}

// outside writes an end that lies outside of the snapshot.
func (w *needsWriter) outside(to *schema.End) {
	for _, s := range [...]string{to.Outside.Server, to.Outside.Database, string(to.ID.Kind), to.ID.Schema, to.ID.Table, to.ID.Name, to.ID.Signature, to.Part, string(to.PartKind)} {
		w.numbers(w.text(s))
	}
}

// encodeNeeds writes the dependencies of the entries, numbered by place, as they are stored.
func encodeNeeds(entries []Entry, dependencies []schema.Dependency, model, resolver int) []byte {
	at := make(map[schema.ID]int, len(entries))
	for i := range entries {
		at[entries[i].ID] = i
	}
	type edge struct {
		from, to End
		d        *schema.Dependency
	}
	ends := map[End]int{}
	var list []End
	end := func(e End) {
		if _, ok := ends[e]; !ok {
			ends[e] = 0
			list = append(list, e)
		}
	}
	inside, outside := make([]edge, 0, len(dependencies)), []edge{}
	for i := range dependencies {
		d := &dependencies[i]
		from, ok := at[d.From.ID]
		if !ok {
			continue
		}
		x := edge{from: End{from, d.From.Part, d.From.PartKind}, d: d}
		end(x.from)
		if to, ok := at[d.To.ID]; ok && d.To.Outside == (schema.Outside{}) {
			x.to = End{to, d.To.Part, d.To.PartKind}
			end(x.to)
			inside = append(inside, x)
		} else {
			outside = append(outside, x)
		}
	}
	slices.SortFunc(list, compareEnds)
	for i, e := range list {
		ends[e] = i
	}
	slices.SortStableFunc(inside, func(a, b edge) int {
		return cmp.Or(compareEnds(a.from, b.from), compareEnds(a.to, b.to), compareUses(a.d, b.d))
	})
	slices.SortStableFunc(outside, func(a, b edge) int {
		return cmp.Or(compareEnds(a.from, b.from), compareOutside(a.d.To, b.d.To), compareUses(a.d, b.d))
	})
	w := needsWriter{texts: map[string]int{}}
	w.text("") // of what has none
	w.numbers(uint64(len(list)))
	for _, e := range list {
		w.numbers(uint64(e.Entry), w.text(e.Part), w.text(string(e.PartKind)))
	}
	w.numbers(uint64(len(inside)))
	for _, e := range inside {
		w.numbers(uint64(ends[e.from]), uint64(ends[e.to]))
		w.edge(e.d)
	}
	w.numbers(uint64(len(outside)))
	for _, e := range outside {
		w.numbers(uint64(ends[e.from]))
		w.outside(&e.d.To)
		w.edge(e.d)
	}
	form := byte(needsForm)
	if model < columnModel {
		form = objectsForm
	}
	b := []byte{0, form}
	if form == needsForm {
		b = binary.AppendUvarint(b, uint64(resolver))
	}
	b = binary.AppendUvarint(b, uint64(len(w.list)))
	for _, s := range w.list {
		b = stored.AppendText(b, s)
	}
	return append(b, w.body...)
}

func compareEnds(a, b End) int {
	return cmp.Or(cmp.Compare(a.Entry, b.Entry), strings.Compare(a.Part, b.Part), cmp.Compare(a.PartKind, b.PartKind))
}

func compareUses(a, b *schema.Dependency) int {
	return cmp.Or(cmp.Compare(a.Use, b.Use), strings.Compare(a.Constraint, b.Constraint), cmp.Compare(a.Field, b.Field), cmp.Compare(a.Start, b.Start))
}

func compareOutside(a, b schema.End) int {
	return cmp.Or(strings.Compare(a.Outside.Server, b.Outside.Server), strings.Compare(a.Outside.Database, b.Outside.Database), a.ID.Compare(b.ID),
		strings.Compare(a.Part, b.Part), cmp.Compare(a.PartKind, b.PartKind))
}

// needsReader reads the stored form; what is out of range makes it fail.
type needsReader struct {
	stored.Reader
	g    *Graph
	most uint64 // what a number that counts may be
}

func (r *needsReader) count() int { return r.below(r.most + 1) }

// below reads a number that has to be less than n.
func (r *needsReader) below(n uint64) int {
	x := r.Number()
	if x >= n {
		r.Failed = true
		return 0
	}
	return int(x)
}

func (r *needsReader) word() string {
	if i := r.below(uint64(len(r.g.texts))); !r.Failed {
		return r.g.texts[i]
	}
	return ""
}

func (r *needsReader) edge(e *Edge) {
	e.Use, e.evidence, e.constraint = schema.Use(r.below(256)), int8(r.below(uint64(len(evidences)))), int32(r.below(uint64(len(r.g.texts))))
	e.Field, e.Start, e.Stop = schema.Field(r.below(256)), int32(r.below(1<<31)), int32(r.below(1<<31))
	if !e.Use.Known() || !e.Field.Known() {
		r.Failed = true
	}
}

func decodeNeeds(body []byte, entries int) (*Graph, error) {
	r := needsReader{Reader: stored.Reader{S: stored.View(body)}, g: &Graph{}, most: uint64(len(body))} // which holds as long as the graph
	if len(body) < 2 || body[0] != 0 || body[1] < objectsForm || body[1] > needsForm {
		r.sentences(entries)
	} else {
		r.Number()
		form := r.Number()
		r.g.ByColumn = form >= columnsForm
		if form >= needsForm {
			r.g.Resolver = r.below(1 << 30)
		}
		r.typed(entries)
	}
	if r.Failed {
		return nil, fmt.Errorf("%w: the dependencies of a snapshot are broken", ErrDamaged)
	}
	return r.g, nil
}

func (r *needsReader) typed(entries int) {
	g := r.g
	g.texts = make([]string, r.count())
	for i := range g.texts {
		g.texts[i] = r.Text()
	}
	g.Ends = make([]End, r.count())
	for i := range g.Ends {
		g.Ends[i] = End{r.below(uint64(entries)), r.word(), schema.Kind(r.word())}
	}
	ends := uint64(len(g.Ends))
	g.Edges = large[Edge](r.count())
	for i := range g.Edges {
		e := &g.Edges[i]
		e.From, e.To = int32(r.below(ends)), int32(r.below(ends))
		if r.edge(e); r.Failed {
			return
		}
	}
	g.Outside = make([]OutsideEdge, r.count())
	for i := range g.Outside {
		x := &g.Outside[i]
		x.From, x.To = int32(r.below(ends)), -1
		x.End.Outside = schema.Outside{Server: r.word(), Database: r.word()}
		x.End.ID = schema.ID{Kind: schema.Kind(r.word()), Schema: r.word(), Table: r.word(), Name: r.word(), Signature: r.word()}
		x.End.Part, x.End.PartKind = r.word(), schema.Kind(r.word())
		if r.edge(&x.Edge); r.Failed {
			return
		}
	}
}
