package catalogue

// An answer about some objects reads the part of the graph that it reaches from them.

import (
	"context"
	"slices"

	"echo-atlas/internal/core/schema"
)

// Around returns, of the dependencies of a snapshot, those by which entries are reached: what depends on them and on what depends on them,
// or what they need and what that needs, as far as depth steps; 0 is no limit. Of what is reached it holds what leads out of the snapshot,
// and of all others what runs SQL that cannot be seen. Ends and edges come in the order of what is reached; the edges of one entry are in
// the order of the whole graph, which is returned where it is there already or was stored by an earlier program.
func (c *Catalogue) Around(ctx context.Context, t *Contents, start []int, needs bool, depth int) (*Graph, error) {
	if t.needs != nil {
		return t.needs()
	}
	home := c.of(t.Snapshot)
	body, err := home.node(ctx, t.Snapshot.needs)
	if err != nil {
		return nil, err
	}
	if !isDirectory(body) {
		return home.wholeGraph(ctx, t.Snapshot, body, t.Len())
	}
	dir, err := directoryOf(body, t.Len())
	if err != nil {
		return nil, home.explain("reading", err)
	}
	a := around{graphReader: home.newGraphReader(ctx, dir), which: dependantsPart, opened: make([]*openPart, len(dir.runs)), constraints: make([]int32, len(dir.runs)), first: make([]int32, dir.entries), reached: make([]bool, dir.entries)}
	defer a.close()
	if needs {
		a.which = needsPart
	}
	a.g.near = func(entry int) ([]int, error) { return a.needed(entry) }
	if err = a.follow(start, depth); err == nil {
		err = a.finish()
	}
	return a.g, home.explain("reading", err)
}

// around reads what is reached of a graph. Until it is finished, the edges have the far entry and the place of the near end among the
// near entry's in place of their ends.
type around struct {
	*graphReader
	which       int
	opened      []*openPart // by run
	constraints []int32     // by run, where those of its part begin
	order       []int       // what is reached, in that order
	reached     []bool      // by entry
	first       []int32     // by entry: its first end among the graph's, one more; 0 where those are not taken
	far         []int32     // by edge: the place of the far end among the far entry's
	direct      []*openPart // by run, the edges by dependant, where they are asked for besides
}

// openRuns opens the parts of entries that are not open yet.
func (a *around) openRuns(entries []int) error {
	var runs []int
	wanted := map[int]bool{}
	for _, entry := range entries {
		if run := entry / runSize; a.opened[run] == nil && !wanted[run] && a.dir.runs[run].ends > 0 {
			wanted[run] = true
			runs = append(runs, run)
		}
	}
	if len(runs) == 0 {
		return nil
	}
	opened, err := a.open(a.which, runs)
	if err != nil {
		return err
	}
	for _, run := range runs {
		a.opened[run] = opened[run]
		a.constraints[run] = a.graphReader.constraints(opened[run])
	}
	return nil
}

// reach notes that an entry is reached.
func (a *around) reach(entry int) {
	if !a.reached[entry] {
		a.reached[entry] = true
		a.order, a.g.Reached = append(a.order, entry), append(a.g.Reached, Reach{Entry: int32(entry)})
	}
}

func (a *around) follow(start []int, depth int) error {
	for _, entry := range start {
		a.reach(entry)
	}
	for from, step := 0, 0; from < len(a.order); step++ {
		level := a.order[from:len(a.order):len(a.order)]
		from = len(a.order)
		if err := a.openRuns(level); err != nil {
			return err
		}
		if depth > 0 && step == depth { // of these the ends are needed, and what leads on is not
			continue
		}
		a.makeRoom(level)
		for i, entry := range level {
			at, p := from-len(level)+i, a.opened[entry/runSize]
			if p == nil {
				continue
			}
			constraints, before := a.constraints[entry/runSize], len(a.g.Edges)
			err := p.edges(entry%runSize, entry-entry%runSize, a.dir.entries, func(x storedEdge) {
				e := p.edge(x, constraints)
				e.From, e.To = x.entry, x.near
				a.g.Edges, a.far = append(a.g.Edges, e), append(a.far, x.far)
				a.reach(int(x.entry))
			})
			if err != nil {
				return err
			}
			a.g.Reached[at].Edges = int32(len(a.g.Edges) - before)
		}
	}
	return nil
}

// makeRoom makes room for the edges of entries: lists that grow are copied, and memory is touched for the first time, time and again.
func (a *around) makeRoom(entries []int) {
	const least = 6 // bytes of an edge
	most := 0
	for _, entry := range entries {
		if p := a.opened[entry/runSize]; p != nil {
			at := entry % runSize
			most += int(p.lists[at+1]-p.lists[at]) / least
		}
	}
	if have := len(a.g.Edges); have+most > cap(a.g.Edges) {
		a.g.Edges, a.far = slices.Grow(a.g.Edges, max(most, have)), slices.Grow(a.far, max(most, have))
	}
}

// take adds the ends of an entry to the graph, and reports whether it has some.
func (a *around) take(entry int) bool {
	if a.first[entry] > 0 {
		return true
	}
	p := a.opened[entry/runSize]
	if p == nil {
		return false
	}
	at := entry % runSize
	a.first[entry] = int32(len(a.g.Ends)) + 1
	a.g.Ends = p.appendEnds(a.g.Ends, at, entry)
	return p.first[at+1] > p.first[at]
}

// finish makes the graph of what was found.
func (a *around) finish() error {
	ends := 0
	for _, entry := range a.order {
		if p, at := a.opened[entry/runSize], entry%runSize; p != nil {
			ends += int(p.first[at+1] - p.first[at])
		}
	}
	a.g.Ends = make([]End, 0, ends)
	for _, entry := range a.order {
		a.take(entry)
	}
	i := 0
	for _, r := range a.g.Reached {
		near := a.first[r.Entry] - 1
		for range r.Edges {
			e := &a.g.Edges[i]
			entry := int(e.From)
			p, at := a.opened[entry/runSize], entry%runSize
			if p == nil || a.far[i] >= p.first[at+1]-p.first[at] {
				return errBrokenNeeds
			}
			if e.From, e.To = a.first[entry]-1+a.far[i], near+e.To; a.which == needsPart {
				e.From, e.To = e.To, e.From
			}
			i++
		}
	}
	return a.outsideOfReached()
}

// outsideOfReached reads what leads out of the snapshot from what is reached, and what runs SQL that cannot be seen.
func (a *around) outsideOfReached() error {
	var runs, entries []int
	touched := make([]bool, len(a.dir.runs))
	for _, entry := range a.order {
		touched[entry/runSize] = true
	}
	for i := range a.dir.runs {
		if r := &a.dir.runs[i]; r.outside > 0 && (touched[i] || r.unseen) {
			runs, entries = append(runs, i), append(entries, i*runSize)
		}
	}
	if len(runs) == 0 {
		return nil
	}
	if err := a.openRuns(entries); err != nil {
		return err
	}
	first := make([]int32, a.dir.entries+1) // as in a graph of these runs alone
	ends := int32(0)
	for _, run := range runs {
		p := a.opened[run]
		if p == nil {
			return errBrokenNeeds
		}
		for at := range p.first {
			first[run*runSize+at] = ends + p.first[at]
		}
		ends += p.first[len(p.at)]
	}
	lists := make([][]OutsideEdge, len(a.dir.runs))
	if err := a.outside(runs, first, lists); err != nil {
		return err
	}
	ends = 0
	for _, run := range runs {
		p := a.opened[run]
		for _, x := range lists[run] {
			own := x.From - ends
			at := p.entryOf(own)
			entry := run*runSize + at
			if !a.reached[entry] && x.Use != schema.UseRunsUnseen {
				continue
			}
			if !a.take(entry) {
				return errBrokenNeeds
			}
			x.From = a.first[entry] - 1 + own - p.first[at]
			a.g.Outside = append(a.g.Outside, x)
		}
		ends += p.first[len(p.at)]
	}
	return nil
}

// needed returns the entries that an entry needs, each once, without itself.
func (a *around) needed(entry int) ([]int, error) {
	defer a.close()
	if a.direct == nil {
		a.direct = make([]*openPart, len(a.dir.runs))
	}
	run := entry / runSize
	if a.dir.runs[run].ends == 0 {
		return nil, nil
	}
	if a.direct[run] == nil {
		opened, err := a.open(needsPart, []int{run})
		if err != nil {
			return nil, a.c.explain("reading", err)
		}
		a.direct[run] = opened[run]
	}
	var all []int
	seen := map[int32]bool{int32(entry): true}
	err := a.direct[run].edges(entry%runSize, entry-entry%runSize, a.dir.entries, func(x storedEdge) {
		if !seen[x.entry] {
			seen[x.entry] = true
			all = append(all, int(x.entry))
		}
	})
	return all, a.c.explain("reading", err)
}
