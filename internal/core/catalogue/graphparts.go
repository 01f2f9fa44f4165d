package catalogue

// Dependencies of a snapshot are stored in parts, so that an answer about one object reads those near it: entries are taken in runs, and
// for each run there is what they need, what depends on them, and what they use outside of the snapshot. A directory names the parts.

import (
	"cmp"
	"encoding/binary"
	"slices"

	"github.com/klauspost/compress/zstd"
	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/stored"
)

// partsForm is the form of a directory of parts. Its first byte tells it from the forms before, which are compressed.
const partsForm = 5

// runSize is how many entries share a part.
const runSize = 256

// The parts of a run.
const (
	needsPart      = iota // the edges by dependant
	dependantsPart        // the edges by what is depended on
	outsidePart           // the edges that lead out of the snapshot
	parts
)

// run is what the directory says of a run of entries.
type run struct {
	ends, edges, outside int // how many ends, edges by dependant and edges to the outside its parts hold
	unseen               bool
	hashes               [parts]schema.Hash // of the stored parts, zeros where there is none
	bodies               [parts][]byte      // where they are to be stored
}

// directory is what is stored of a graph beside its parts.
type directory struct {
	byColumn bool
	resolver int
	entries  int
	runs     []run
}

// seal compresses the parts and names them.
func (d *directory) seal(enc *zstd.Encoder) {
	var both errgroup.Group
	both.SetLimit(2)
	for i := range d.runs {
		both.Go(func() error {
			r := &d.runs[i]
			for k, body := range r.bodies {
				if body != nil {
					r.bodies[k] = enc.EncodeAll(body, nil)
					r.hashes[k] = schema.HashOf(r.bodies[k])
				}
			}
			return nil
		})
	}
	_ = both.Wait() // never fails
}

func (d *directory) encode() []byte {
	b := []byte{0, partsForm}
	for _, n := range [...]int{b2i(d.byColumn), d.resolver, d.entries} {
		b = binary.AppendUvarint(b, uint64(n))
	}
	for i := range d.runs {
		r := &d.runs[i]
		for _, n := range [...]int{r.ends, r.edges, r.outside, b2i(r.unseen)} {
			b = binary.AppendUvarint(b, uint64(n))
		}
		for _, h := range r.hashes {
			b = append(b, h[:]...)
		}
	}
	return b
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// isDirectory reports whether a stored body is a directory of parts, and not a graph of one of the forms before.
func isDirectory(body []byte) bool { return len(body) > 1 && body[0] == 0 && body[1] == partsForm }

func decodeDirectory(body []byte) (*directory, error) {
	r := needsReader{Reader: stored.Reader{S: stored.View(body), Pos: 2}, most: 1 << 31}
	d := &directory{byColumn: r.Number() != 0, resolver: r.below(1 << 30), entries: r.count()}
	if n := (d.entries + runSize - 1) / runSize; !r.Failed && n <= len(body) {
		d.runs = make([]run, n)
	} else {
		r.Failed = true
	}
	for i := range d.runs {
		x := &d.runs[i]
		x.ends, x.edges, x.outside, x.unseen = r.count(), r.count(), r.count(), r.Number() != 0
		for k := range x.hashes {
			copy(x.hashes[k][:], r.Bytes(len(x.hashes[k])))
		}
	}
	if r.Failed || r.Pos != len(body) {
		return nil, errBrokenNeeds
	}
	return d, nil
}

// directoryOf is decodeDirectory for the graph of so many entries.
func directoryOf(body []byte, entries int) (*directory, error) {
	d, err := decodeDirectory(body)
	if err == nil && d.entries != entries {
		err = errBrokenNeeds
	}
	return d, err
}

// size returns how many entries a run has.
func (d *directory) size(run int) int { return min(runSize, d.entries-run*runSize) }

// partsOf returns the hashes of all parts that a directory names.
func (d *directory) partsOf() []schema.Hash {
	var all []schema.Hash
	for i := range d.runs {
		for _, h := range d.runs[i].hashes {
			if h != (schema.Hash{}) {
				all = append(all, h)
			}
		}
	}
	return all
}

// link is a dependency whose ends are numbered.
type link struct {
	from, to int32 // to means nothing where it leads outside
	d        *schema.Dependency
}

// numbered are dependencies whose ends are numbered by entry, the object itself before its parts.
type numbered struct {
	ends            []End
	first           []int32 // by entry: its first end; one more at the end
	inside, outside []link
}

// number sorts dependencies of entries.
func number(entries []Entry, dependencies []schema.Dependency) *numbered {
	at := make(map[schema.ID]int, len(entries))
	for i := range entries {
		at[entries[i].ID] = i
	}
	n := &numbered{first: make([]int32, len(entries)+1), inside: make([]link, 0, len(dependencies))}
	known := map[End]int32{}
	end := func(entry int, e *schema.End) int32 {
		key := End{entry, e.Part, e.PartKind}
		i, ok := known[key]
		if !ok {
			i = int32(len(n.ends))
			known[key], n.ends = i, append(n.ends, key)
		}
		return i
	}
	for i := range dependencies {
		d := &dependencies[i]
		from, ok := at[d.From.ID]
		if !ok {
			continue
		}
		x := link{from: end(from, &d.From), d: d}
		if to, ok := at[d.To.ID]; ok && d.To.Outside == (schema.Outside{}) {
			x.to = end(to, &d.To)
			n.inside = append(n.inside, x)
		} else {
			n.outside = append(n.outside, x)
		}
	}
	order := make([]int32, len(n.ends))
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortFunc(order, func(a, b int32) int { return compareEnds(n.ends[a], n.ends[b]) })
	sorted, place := make([]End, len(order)), make([]int32, len(order))
	for i, was := range order {
		sorted[i], place[was] = n.ends[was], int32(i)
		n.first[sorted[i].Entry+1]++
	}
	n.ends = sorted
	for i := range entries {
		n.first[i+1] += n.first[i]
	}
	for i := range n.inside {
		n.inside[i].from, n.inside[i].to = place[n.inside[i].from], place[n.inside[i].to]
	}
	for i := range n.outside {
		n.outside[i].from = place[n.outside[i].from]
	}
	slices.SortStableFunc(n.inside, func(a, b link) int {
		return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(a.to, b.to), compareUses(a.d, b.d))
	})
	slices.SortStableFunc(n.outside, func(a, b link) int {
		return cmp.Or(cmp.Compare(a.from, b.from), compareOutside(a.d.To, b.d.To), compareUses(a.d, b.d))
	})
	return n
}

// encodeParts writes the dependencies of entries in parts, not yet compressed.
func encodeParts(entries []Entry, dependencies []schema.Dependency, model, resolver int) *directory {
	n := number(entries, dependencies)
	d := &directory{byColumn: model >= columnModel, resolver: resolver, entries: len(entries), runs: make([]run, (len(entries)+runSize-1)/runSize)}
	if !d.byColumn {
		d.resolver = 0
	}
	byEntry := func(all []link, end func(*link) int32) [][]int32 { // the links of each entry, in their order
		lists := make([][]int32, len(entries))
		for i := range all {
			at := n.ends[end(&all[i])].Entry
			lists[at] = append(lists[at], int32(i))
		}
		return lists
	}
	from := func(x *link) int32 { return x.from }
	needs, dependants, outside := byEntry(n.inside, from), byEntry(n.inside, func(x *link) int32 { return x.to }), byEntry(n.outside, from)
	var both errgroup.Group
	both.SetLimit(2)
	for i := range d.runs {
		both.Go(func() error {
			r, first, past := &d.runs[i], i*runSize, i*runSize+d.size(i)
			if r.ends = int(n.first[past] - n.first[first]); r.ends == 0 {
				return nil
			}
			w := partWriter{n: n, texts: map[string]int{}}
			r.bodies[needsPart], r.edges = w.part(needs, first, past, false)
			w = partWriter{n: n, texts: map[string]int{}}
			r.bodies[dependantsPart], _ = w.part(dependants, first, past, true)
			w = partWriter{n: n, texts: map[string]int{}}
			r.bodies[outsidePart], r.outside, r.unseen = w.outside(outside, first, past)
			return nil
		})
	}
	_ = both.Wait() // never fails
	return d
}

// kindOfEdge is what many edges share.
type kindOfEdge struct {
	use        schema.Use
	evidence   int8
	constraint string
	field      schema.Field
}

// partWriter writes one part.
type partWriter struct {
	n     *numbered
	texts map[string]int
	list  []string
	kinds []kindOfEdge
	body  []byte
}

func (w *partWriter) text(s string) uint64 {
	i, ok := w.texts[s]
	if !ok {
		i = len(w.list)
		w.texts[s], w.list = i, append(w.list, s)
	}
	return uint64(i)
}

func (w *partWriter) numbers(all ...uint64) {
	for _, n := range all {
		w.body = binary.AppendUvarint(w.body, n)
	}
}

// kind returns the number of what an edge shares with others.
func (w *partWriter) kind(known map[kindOfEdge]int, d *schema.Dependency) int {
	k := kindOfEdge{d.Use, int8(slices.Index(evidences, d.Evidence)), d.Constraint, d.Field}
	i, ok := known[k]
	if !ok {
		i = len(w.kinds)
		known[k], w.kinds = i, append(w.kinds, k)
	}
	return i
}

// part writes the edges of the entries of a run: ends, kinds of edges, how long the list of each entry is, and the lists.
func (w *partWriter) part(lists [][]int32, first, past int, dependants bool) (body []byte, edges int) {
	n := w.n
	known := map[kindOfEdge]int{}
	written := make([]int, past-first)
	for entry := first; entry < past; entry++ {
		before := len(w.body)
		other := int64(entry)
		for _, i := range lists[entry] {
			x := &n.inside[i]
			near, far := x.from, x.to
			if dependants {
				near, far = far, near
			}
			at := int64(n.ends[far].Entry)
			w.numbers(uint64(near - n.first[entry]))
			w.body = binary.AppendVarint(w.body, at-other)
			w.numbers(uint64(far-n.first[at]), uint64(w.kind(known, x.d)), uint64(x.d.Start))
			w.body = binary.AppendVarint(w.body, int64(x.d.Stop-x.d.Start))
			other = at
		}
		edges += len(lists[entry])
		written[entry-first] = len(w.body) - before
	}
	all := w.body
	w.body = nil
	for entry := first; entry < past; entry++ {
		ends := n.ends[n.first[entry]:n.first[entry+1]]
		w.numbers(uint64(len(ends)))
		for _, e := range ends {
			w.numbers(w.text(e.Part), w.text(string(e.PartKind)))
		}
	}
	w.numbers(uint64(len(w.kinds)))
	for _, k := range w.kinds {
		w.numbers(uint64(k.use), uint64(k.evidence), w.text(k.constraint), uint64(k.field))
	}
	for _, size := range written {
		w.numbers(uint64(size))
	}
	return append(append(w.textsFirst(), w.body...), all...), edges
}

// textsFirst returns the texts that the numbers behind them stand for.
func (w *partWriter) textsFirst() []byte {
	b := binary.AppendUvarint(nil, uint64(len(w.list)))
	for _, s := range w.list {
		b = stored.AppendText(b, s)
	}
	return b
}

// outside writes the edges of a run that lead out of the snapshot, nothing where there is none.
func (w *partWriter) outside(lists [][]int32, first, past int) (body []byte, edges int, unseen bool) {
	n := w.n
	for entry := first; entry < past; entry++ {
		for _, i := range lists[entry] {
			x := &n.outside[i]
			d, to := x.d, &x.d.To
			w.numbers(uint64(entry-first), uint64(x.from-n.first[entry]))
			for _, s := range [...]string{to.Outside.Server, to.Outside.Database, string(to.ID.Kind), to.ID.Schema, to.ID.Table, to.ID.Name, to.ID.Signature, to.Part, string(to.PartKind), d.Constraint} {
				w.numbers(w.text(s))
			}
			w.numbers(uint64(d.Use), uint64(slices.Index(evidences, d.Evidence)), uint64(d.Field), uint64(d.Start))
			w.body = binary.AppendVarint(w.body, int64(d.Stop-d.Start))
			edges++
			unseen = unseen || d.Use == schema.UseRunsUnseen
		}
	}
	if edges == 0 {
		return nil, 0, false
	}
	return append(w.textsFirst(), w.body...), edges, unseen
}
