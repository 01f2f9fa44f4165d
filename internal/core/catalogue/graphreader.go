package catalogue

// Reading the parts of a graph: all of them, or those that an answer reaches.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"sort"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

var errBrokenNeeds = fmt.Errorf("%w: the dependencies of a snapshot are broken", ErrDamaged)

// openPart is a part of which the edges can be read.
type openPart struct {
	first []int32 // by entry of the run: its first end; one more at the end
	at    []int32 // by entry of the run: where its ends are written
	texts []string
	kinds []kindOfEdge
	lists []int32 // by entry of the run: where its edges begin; one more at the end
	body  string
}

// storedEdge is an edge as a part has it: by the entries of its ends, and which of their ends it joins.
type storedEdge struct {
	near, far   int32 // near is the end of the entry that the list is of
	entry       int32 // of the far end
	kind        int32 // place among the part's kinds
	start, stop int32
}

// signed returns the number that binary.AppendVarint wrote as x.
func signed(x uint64) int64 { return int64(x>>1) ^ -int64(x&1) }

// readPart reads all of a part but its edges.
func readPart(body string, size int) (*openPart, error) {
	r := needsReader{Reader: stored.Reader{S: body}, g: &Graph{}, most: uint64(len(body))}
	r.textsFirst()
	p := &openPart{first: make([]int32, size+1), at: make([]int32, size), lists: make([]int32, size+1), texts: r.g.texts, body: body}
	for i := range size {
		n := r.count()
		p.first[i+1], p.at[i] = p.first[i]+int32(n), int32(r.Pos)
		for range n {
			r.below(uint64(len(p.texts)))
			if r.below(uint64(len(p.texts))); r.Failed {
				return nil, errBrokenNeeds
			}
		}
	}
	p.kinds = make([]kindOfEdge, r.count())
	for i := range p.kinds {
		k := &p.kinds[i]
		k.use, k.evidence, k.constraint, k.field = schema.Use(r.below(256)), int8(r.below(uint64(len(evidences)))), r.word(), schema.Field(r.below(256))
		r.Failed = r.Failed || !k.use.Known() || !k.field.Known()
	}
	for i := range size {
		p.lists[i+1] = p.lists[i] + int32(r.count())
		if int(p.lists[i+1]) > len(body) {
			r.Failed = true
		}
	}
	if r.Failed || len(body)-r.Pos != int(p.lists[size]) {
		return nil, errBrokenNeeds
	}
	for i := range p.lists {
		p.lists[i] += int32(r.Pos)
	}
	return p, nil
}

// appendEnds appends the ends of an entry of the run, which is known as one of the snapshot.
func (p *openPart) appendEnds(list []End, at, entry int) []End {
	r := stored.Reader{S: p.body, Pos: int(p.at[at])}
	for range p.first[at+1] - p.first[at] {
		list = append(list, End{entry, p.texts[r.Number()], schema.Kind(p.texts[r.Number()])})
	}
	return list
}

// entryOf returns the entry of the run that has an end.
func (p *openPart) entryOf(end int32) int {
	return sort.Search(len(p.at), func(i int) bool { return p.first[i+1] > end })
}

// textsFirst reads the texts that the numbers behind them stand for.
func (r *needsReader) textsFirst() {
	r.g.texts = make([]string, r.count())
	for i := range r.g.texts {
		r.g.texts[i] = r.Text()
	}
}

// edges calls each for the edges of an entry; at is its place in the run, and start that of the run.
func (p *openPart) edges(at, start, entries int, each func(storedEdge)) error {
	body, pos := p.body[:p.lists[at+1]], int(p.lists[at])
	number := func() uint64 { // as stored.Reader has it, here in registers
		if pos < len(body) && body[pos] < 0x80 {
			pos++
			return uint64(body[pos-1])
		}
		r := stored.Reader{S: body, Pos: pos}
		n := r.Number()
		if pos = r.Pos; r.Failed {
			n = 1 << 63 // which is too large for whatever it is
		}
		return n
	}
	ends, kinds := uint64(p.first[at+1]-p.first[at]), uint64(len(p.kinds))
	other := int64(start + at)
	for pos < len(body) {
		near, step, far, kind, from, length := number(), number(), number(), number(), number(), number()
		other += signed(step)
		if near >= ends || other < 0 || other >= int64(entries) || far >= 1<<31 || kind >= kinds || from >= 1<<31 || length >= 1<<33 {
			return errBrokenNeeds
		}
		each(storedEdge{int32(near), int32(far), int32(other), int32(kind), int32(from), int32(int64(from) + signed(length))})
	}
	return nil
}

// graphReader builds a graph out of parts.
type graphReader struct {
	c    *Catalogue
	ctx  context.Context
	dir  *directory
	g    *Graph
	tx   *sql.Tx   // nil until something is read: each query by itself would lock the file anew
	stmt *sql.Stmt // that asks for a node
}

func (c *Catalogue) newGraphReader(ctx context.Context, dir *directory) *graphReader {
	return &graphReader{c: c, ctx: ctx, dir: dir, g: &Graph{ByColumn: dir.byColumn, Resolver: dir.resolver, texts: []string{""}}}
}

// close gives up what reading took.
func (l *graphReader) close() {
	if l.stmt != nil {
		l.stmt.Close()
	}
	if l.tx != nil {
		_ = l.tx.Rollback() // it only read
	}
	l.tx, l.stmt = nil, nil
}

func (l *graphReader) begin() (err error) {
	if l.tx == nil {
		if l.tx, err = l.c.db.BeginTx(l.ctx, &sql.TxOptions{ReadOnly: true}); err != nil {
			l.tx = nil
			return err
		}
	}
	if l.stmt == nil {
		l.stmt, err = l.tx.PrepareContext(l.ctx, "SELECT body FROM node WHERE hash = ?")
	}
	return err
}

// read calls each with the parts of some runs as they were encoded, several at a time.
func (l *graphReader) read(which int, runs []int, each func(run int, body string) error) error {
	if err := l.begin(); err != nil {
		return err
	}
	var opening errgroup.Group
	opening.SetLimit(2)
	for _, i := range runs {
		hash := l.dir.runs[i].hashes[which]
		if hash == (schema.Hash{}) {
			continue
		}
		body, err := nodeBody(l.ctx, l.stmt, hash)
		if err != nil {
			_ = opening.Wait()
			return err
		}
		opening.Go(func() error {
			raw, err := l.c.dec.DecodeAll(body, nil)
			if err != nil {
				return fmt.Errorf("%w: dependencies: %v", ErrDamaged, err)
			}
			return each(i, stored.View(raw))
		})
	}
	return opening.Wait()
}

// nodeBody loads a node, checked against its hash.
func nodeBody(ctx context.Context, stmt *sql.Stmt, hash schema.Hash) ([]byte, error) {
	var body []byte
	err := stmt.QueryRowContext(ctx, hash[:]).Scan(&body)
	return body, checkNode(hash, body, err)
}

// checkNode returns what is wrong with a node that was read.
func checkNode(hash schema.Hash, body []byte, err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		err = fmt.Errorf("%w: node %s is missing", ErrDamaged, hash)
	}
	if err == nil && schema.HashOf(body) != hash {
		err = fmt.Errorf("%w: node %s does not hold what its hash says", ErrDamaged, hash)
	}
	return err
}

// open reads a part of some runs; what has none is nil.
func (l *graphReader) open(which int, runs []int) ([]*openPart, error) {
	opened := make([]*openPart, len(l.dir.runs))
	err := l.read(which, runs, func(run int, body string) (err error) {
		opened[run], err = readPart(body, l.dir.size(run))
		return err
	})
	return opened, err
}

// whole reads all of a graph.
func (l *graphReader) whole() (*Graph, error) {
	defer l.close()
	d, g := l.dir, l.g
	runs := make([]int, len(d.runs))
	for i := range runs {
		runs[i] = i
	}
	opened, err := l.open(needsPart, runs)
	if err != nil {
		return nil, err
	}
	first := make([]int32, d.entries+1) // by entry: its first end
	edges := make([]int, len(d.runs)+1)
	constraints := make([]int32, len(d.runs))
	ends := 0
	for i, p := range opened {
		for k := range d.size(i) {
			first[i*runSize+k] = int32(ends)
			if p != nil {
				first[i*runSize+k] += p.first[k]
			}
		}
		edges[i+1] = edges[i] + d.runs[i].edges
		if p != nil {
			ends += int(p.first[len(p.at)])
			constraints[i] = l.constraints(p)
		}
	}
	first[d.entries] = int32(ends)
	g.Ends, g.Edges = make([]End, 0, ends), large[Edge](edges[len(d.runs)])
	for i, p := range opened {
		if p == nil {
			continue
		}
		for at := range p.at {
			g.Ends = p.appendEnds(g.Ends, at, i*runSize+at)
		}
	}
	var reading errgroup.Group
	reading.SetLimit(2)
	for i, p := range opened {
		if p == nil {
			continue
		}
		reading.Go(func() error { return p.fill(g.Edges[edges[i]:edges[i+1]], i*runSize, d.entries, first, constraints[i]) })
	}
	if err := reading.Wait(); err != nil {
		return nil, err
	}
	all := make([][]OutsideEdge, len(d.runs))
	if err := l.outside(runs, first, all); err != nil {
		return nil, err
	}
	for _, list := range all {
		g.Outside = append(g.Outside, list...)
	}
	return g, nil
}

// constraints adds the constraints of a part's kinds to the graph's texts, and returns where they begin.
func (l *graphReader) constraints(p *openPart) int32 {
	first := len(l.g.texts)
	for k := range p.kinds {
		l.g.texts = append(l.g.texts, p.kinds[k].constraint)
	}
	return int32(first)
}

// edge returns an edge of a part without its ends; its constraint is counted from where those of the part begin.
func (p *openPart) edge(x storedEdge, constraints int32) Edge {
	k := &p.kinds[x.kind]
	return Edge{Start: x.start, Stop: x.stop, constraint: constraints + x.kind, Use: k.use, Field: k.field, evidence: k.evidence}
}

// fill reads the edges of a run by dependant.
func (p *openPart) fill(list []Edge, start, entries int, first []int32, constraints int32) error {
	n := 0
	for at := range len(p.first) - 1 {
		broken := false
		err := p.edges(at, start, entries, func(x storedEdge) {
			to := first[x.entry] + x.far
			if broken = broken || n == len(list) || to >= first[x.entry+1]; broken {
				return
			}
			list[n] = p.edge(x, constraints)
			list[n].From, list[n].To = first[start+at]+x.near, to
			n++
		})
		if broken || err != nil {
			return errBrokenNeeds
		}
	}
	if n < len(list) {
		return errBrokenNeeds
	}
	return nil
}

// outside reads what leads out of the snapshot from some runs, by run.
func (l *graphReader) outside(runs []int, first []int32, lists [][]OutsideEdge) error {
	read := make([]string, len(l.dir.runs))
	err := l.read(outsidePart, runs, func(run int, body string) error { read[run] = body; return nil })
	for i, body := range read {
		if err == nil && body != "" {
			lists[i], err = l.outsideOf(i, body, first)
		}
	}
	return err
}

func (l *graphReader) outsideOf(run int, body string, first []int32) ([]OutsideEdge, error) {
	r := needsReader{Reader: stored.Reader{S: body}, g: &Graph{}, most: uint64(len(body))}
	r.textsFirst()
	var list []OutsideEdge
	for r.Pos < len(body) && !r.Failed {
		entry := run*runSize + r.below(uint64(l.dir.size(run)))
		end := first[entry] + int32(r.below(1<<31))
		x := OutsideEdge{Edge: Edge{From: end, To: -1}}
		x.End.Outside = schema.Outside{Server: r.word(), Database: r.word()}
		x.End.ID = schema.ID{Kind: schema.Kind(r.word()), Schema: r.word(), Table: r.word(), Name: r.word(), Signature: r.word()}
		x.End.Part, x.End.PartKind = r.word(), schema.Kind(r.word())
		x.constraint = int32(len(l.g.texts))
		l.g.texts = append(l.g.texts, r.word())
		x.Use, x.evidence, x.Field, x.Start = schema.Use(r.below(256)), int8(r.below(uint64(len(evidences)))), schema.Field(r.below(256)), int32(r.below(1<<31))
		x.Stop = x.Start + int32(signed(r.Number()))
		if r.Failed = r.Failed || !x.Use.Known() || !x.Field.Known() || end < 0 || end >= first[entry+1]; !r.Failed {
			list = append(list, x)
		}
	}
	if r.Failed || len(list) != l.dir.runs[run].outside {
		return nil, errBrokenNeeds
	}
	return list, nil
}
