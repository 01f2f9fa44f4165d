package catalogue

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
)

// Graph holds the dependencies of a snapshot.
type Graph struct {
	Ends  []End // objects and parts; sorted by entry, the object itself before its parts
	Edges []Edge

	texts []string
}

// End is an object of the snapshot, by its place among the entries, or a part of it.
type End struct {
	Entry int
	Part  string
}

// Edge is a dependency between two ends.
type Edge struct {
	From, To     int32 // places in Ends
	Line, Column int32
	reason, text int32 // places in texts
	evidence     int8
}

// Evidence returns how a dependency is known.
func (g *Graph) Evidence(e *Edge) schema.Evidence { return evidences[e.evidence] }

// Reason returns in a word or two how the dependant needs the other end.
func (g *Graph) Reason(e *Edge) string { return g.texts[e.reason] }

// Text returns the line of the definition in which the dependency was found.
func (g *Graph) Text(e *Edge) string { return g.texts[e.text] }

var evidences = []schema.Evidence{schema.Recorded, schema.Read, schema.Guessed}

// encodeNeeds writes the dependencies between the entries, numbered by place, as they are stored.
// Dependencies on what the snapshot does not hold are left out.
func encodeNeeds(entries []Entry, dependencies []schema.Dependency) []byte {
	at := make(map[schema.ID]int, len(entries))
	for i := range entries {
		at[entries[i].ID] = i
	}
	ends := map[End]int{}
	var list []End
	resolve := func(e schema.End) (End, bool) {
		i, ok := at[e.ID]
		return End{i, e.Part}, ok
	}
	type edge struct {
		from, to End
		d        *schema.Dependency
	}
	edges := make([]edge, 0, len(dependencies))
	for i := range dependencies {
		d := &dependencies[i]
		from, ok1 := resolve(d.From)
		to, ok2 := resolve(d.To)
		if !ok1 || !ok2 {
			continue
		}
		for _, e := range [...]End{from, to} {
			if _, ok := ends[e]; !ok {
				ends[e] = 0
				list = append(list, e)
			}
		}
		edges = append(edges, edge{from, to, d})
	}
	compareEnds := func(a, b End) int { return cmp.Or(cmp.Compare(a.Entry, b.Entry), strings.Compare(a.Part, b.Part)) }
	slices.SortFunc(list, compareEnds)
	for i, e := range list {
		ends[e] = i
	}
	slices.SortStableFunc(edges, func(a, b edge) int {
		return cmp.Or(compareEnds(a.from, b.from), compareEnds(a.to, b.to), strings.Compare(a.d.Reason, b.d.Reason),
			cmp.Compare(a.d.Line, b.d.Line), cmp.Compare(a.d.Column, b.d.Column))
	})
	texts, textList := map[string]int{}, []string{}
	text := func(s string) uint64 {
		i, ok := texts[s]
		if !ok {
			i = len(textList)
			texts[s], textList = i, append(textList, s)
		}
		return uint64(i)
	}
	var body []byte
	for _, e := range edges {
		for _, n := range [...]uint64{uint64(ends[e.from]), uint64(ends[e.to]), uint64(slices.Index(evidences, e.d.Evidence)), text(e.d.Reason),
			uint64(e.d.Line), uint64(e.d.Column), text(e.d.Text)} {
			body = binary.AppendUvarint(body, n)
		}
	}
	b := binary.AppendUvarint(nil, uint64(len(list)))
	for _, e := range list {
		b = binary.AppendUvarint(b, uint64(e.Entry))
		b = appendText(b, e.Part)
	}
	b = binary.AppendUvarint(b, uint64(len(textList)))
	for _, s := range textList {
		b = appendText(b, s)
	}
	b = binary.AppendUvarint(b, uint64(len(edges)))
	return append(b, body...)
}

func decodeNeeds(body []byte, entries int) (*Graph, error) {
	r := byteReader{s: view(body)} // which holds as long as the graph
	count := func() int {
		n := r.number()
		if n > uint64(len(body)) {
			r.failed = true
			return 0
		}
		return int(n)
	}
	g := &Graph{}
	g.Ends = make([]End, count())
	for i := range g.Ends {
		g.Ends[i] = End{int(r.number()), r.text()}
		r.failed = r.failed || g.Ends[i].Entry < 0 || g.Ends[i].Entry >= entries
	}
	g.texts = make([]string, count())
	for i := range g.texts {
		g.texts[i] = r.text()
	}
	g.Edges = make([]Edge, count())
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to, evidence, reason := r.number(), r.number(), r.number(), r.number()
		e.Line, e.Column = int32(r.number()), int32(r.number())
		text := r.number()
		ends, words := uint64(len(g.Ends)), uint64(len(g.texts))
		if r.failed || from >= ends || to >= ends || evidence >= uint64(len(evidences)) || reason >= words || text >= words {
			r.failed = true
			break
		}
		e.From, e.To, e.evidence, e.reason, e.text = int32(from), int32(to), int8(evidence), int32(reason), int32(text)
	}
	if r.failed {
		return nil, fmt.Errorf("%w: the dependencies of a snapshot are broken", ErrDamaged)
	}
	return g, nil
}
