package catalogue

// Dependencies of a snapshot are numbers in memory: an edge is 24 bytes, and what leads outside keeps its name. The forms in which
// earlier programs stored them, as one blob, are read here.

import (
	"cmp"
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
	Reached  []Reach // of a part of a graph: the entries in the order in which they were reached
	Resolver int     // the version of what understood the texts, 0 for one of before

	texts []string
	near  func(entry int) ([]int, error) // of a graph that does not hold what each entry needs
	needs map[int][]int                  // by entry, once it is asked for
}

// Reach is an entry that was reached, and how many of the edges are followed from it: those of one entry stand behind those of the one before.
type Reach struct{ Entry, Edges int32 }

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
		return schema.End{ID: t.At(g.Ends[i].Entry).ID, Part: g.Ends[i].Part, PartKind: g.Ends[i].PartKind}
	}
	return schema.Dependency{From: end(e.From), To: end(e.To), Use: e.Use, Constraint: g.Constraint(e), Evidence: g.Evidence(e), Field: e.Field, Start: int(e.Start), Stop: int(e.Stop)}
}

// Direct returns the entries that an entry needs, each once and without itself.
func (g *Graph) Direct(entry int) ([]int, error) {
	if g.near != nil {
		return g.near(entry)
	}
	if g.needs == nil {
		g.needs = map[int][]int{}
		for i := range g.Edges {
			from, to := g.Ends[g.Edges[i].From].Entry, g.Ends[g.Edges[i].To].Entry
			if list := g.needs[from]; from != to && !slices.Contains(list, to) {
				g.needs[from] = append(list, to)
			}
		}
	}
	return g.needs[entry], nil
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
		return nil, errBrokenNeeds
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
