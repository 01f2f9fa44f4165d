package trace

// What would happen: each dependency on the thing that is changed has an effect by the engine's rules; what is reached over
// something that goes is judged as if that were dropped, what is reached over something that breaks breaks with it.

import (
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Verdict is what would become of a node.
type Verdict struct {
	Effect engine.Effect
	Why    engine.Why
	Edge   int // place of the edge that decides, -1 for none
}

// Forecast is what a change would do.
type Forecast struct {
	Refused bool // the server does not let you
	// Forbidden says that it does not because of what the thing itself is.
	Forbidden bool
	Verdicts  []Verdict // by node; the root's is the zero Verdict
	// Own are the parts of the same object that hold it fast, or go with it.
	Own []OwnVerdict
}

// OwnVerdict is what would become of a part of the same object.
type OwnVerdict struct {
	Dependency schema.Dependency
	Effect     engine.Effect
	Why        engine.Why
}

// Predict says what a change of the root would do to the nodes of a trace of its dependants; o is the root's object, and parents
// those from which it inherits.
func (t *Trace) Predict(f engine.Forecaster, root *address.Match, o *schema.Object, parents []*schema.Object, change engine.Change) Forecast {
	out := Forecast{Verdicts: make([]Verdict, len(t.Nodes))}
	out.Verdicts[0].Edge = -1 // nothing decides over the root
	kind := root.Entry.ID.Kind
	if out.Forbidden = f.Forbids(change, engine.Root{Object: o, Column: root.Part, Parents: parents, Invalid: t.invalid}); out.Forbidden {
		out.Refused = true
	}
	if change == engine.Dropped && t.Holds() > 0 { // RESTRICT, as everywhere
		out.Forbidden, out.Refused = true, true
	}
	if kind == schema.KindPartition && root.Part == "" && change == engine.Dropped && t.held() { // for which the whole graph has to be there
		out.Forbidden, out.Refused = true, true
	}
	t.own(f, root, o, change, &out)
	judge := func(c engine.Change, column bool, k schema.Kind, d *schema.Dependency) (engine.Effect, engine.Why) {
		return f.Effect(engine.Case{Change: c, Column: column, Kind: k, Dependency: d})
	}
	into := make([][]int, len(t.Nodes)) // the edges of each node as a dependant
	for i := range t.Edges {
		into[t.Edges[i].From] = append(into[t.Edges[i].From], i)
	}
	for n := 1; n < len(t.Nodes); n++ { // by distance
		v := Verdict{Effect: engine.Unaffected, Why: engine.WhyNothing, Edge: -1}
		take := func(e engine.Effect, why engine.Why, edge int) {
			if v.Edge < 0 || engine.Graver(e, v.Effect) != v.Effect {
				v = Verdict{e, why, edge}
			}
		}
		if with := t.along(f, root, change, kind, into[n]); with >= 0 { // whatever else it says of the root goes with it
			out.Verdicts[n] = Verdict{engine.Goes, engine.WhyPart, with}
			continue
		}
		for _, i := range into[n] {
			to := t.Edges[i].To
			if id := t.ID(&t.Nodes[n]); t.ByStar[id] {
				d := t.Dependency(&t.Edges[i])
				e, why := f.Effect(engine.Case{Change: change, Column: true, Kind: kind, Dependency: &d, ByStar: true})
				take(e, why, i)
			}
			if t.Nodes[to].Distance >= t.Nodes[n].Distance {
				continue
			}
			d := t.Dependency(&t.Edges[i])
			if to == 0 {
				e, why := judge(change, root.Part != "", kind, &d)
				take(e, why, i)
				continue
			}
			switch out.Verdicts[to].Effect {
			case engine.Goes:
				e, why := judge(change, false, t.ID(&t.Nodes[to]).Kind, &d)
				if change == engine.Dropped || change == engine.DroppedAlong {
					take(e, why, i)
				}
			case engine.Breaks:
				through := t.ID(&t.Nodes[to]).Kind
				if through.IsRoutine() || through == schema.KindView || through == schema.KindMaterialisedView {
					take(engine.Breaks, engine.WhyBehind, i)
				}
			case engine.Uncertain:
				take(engine.Uncertain, engine.WhyText, i)
			}
		}
		out.Verdicts[n] = v
		out.Refused = out.Refused || v.Effect == engine.Refused
	}
	return out
}

// Taken returns where a thing is that bears the new name of a renaming already, "" for nowhere; fold says that other case is
// no other name.
func (t *Trace) Taken(ctx context.Context, c *catalogue.Catalogue, root *address.Match, o *schema.Object, to engine.Renaming, fold bool) (string, error) {
	same := func(a, b string) bool { return a == b || fold && strings.EqualFold(a, b) }
	if to.Column != "" {
		for _, c := range o.Columns() {
			if c.Name != to.Column && same(c.Name, to.Name) {
				return t.Snapshot.Locate(o.ID(), c.Name, schema.KindColumn).String(), nil
			}
		}
		return "", nil
	}
	id := root.Entry.ID
	id.Name = to.Name
	if to.Schema != "" {
		id.Schema = to.Schema
	}
	bearers, err := c.Bearers(ctx, t.contents, id.Name)
	for _, e := range bearers {
		x := e.ID
		if x != root.Entry.ID && x.Kind.NameSpace() == id.Kind.NameSpace() && x.Schema == id.Schema && x.Table == id.Table && x.Signature == id.Signature && same(x.Name, id.Name) {
			return t.Snapshot.Locate(x, "", "").String(), err
		}
	}
	return "", err
}

// Parents returns the objects from which one inherits, or whose partition it is.
func Parents(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents, o *schema.Object) ([]*schema.Object, error) {
	var entries []*catalogue.Entry
	if o.Relation != nil {
		for _, p := range o.Relation.Parents {
			for _, kind := range schema.RelationKinds() {
				if e := t.Find(schema.ID{Kind: kind, Schema: p.Schema, Name: p.Table}); e != nil {
					entries = append(entries, e)
				}
			}
		}
	}
	return c.Objects(ctx, entries)
}

// invalid reports whether something in the database does not work.
func (t *Trace) invalid() bool {
	return slices.ContainsFunc(t.contents.All(), func(e catalogue.Entry) bool { return e.State == "invalid" && e.ID.Kind == schema.KindView })
}

// along returns the edge over which a dependant goes with the root as a whole, because it stands on it; -1 for none.
func (t *Trace) along(f engine.Forecaster, root *address.Match, change engine.Change, kind schema.Kind, edges []int) int {
	if root.Part != "" || change != engine.Dropped && change != engine.DroppedAlong {
		return -1
	}
	for _, i := range edges {
		if t.Edges[i].To != 0 {
			continue
		}
		d := t.Dependency(&t.Edges[i])
		if d.Use == schema.UseIndexOn || d.Use == schema.UseTriggerOn || d.Use == schema.UseStandsOn {
			if e, _ := f.Effect(engine.Case{Change: change, Kind: kind, Dependency: &d}); e == engine.Goes {
				return i
			}
		}
	}
	return -1
}

// Holds returns how many objects lie in the schema that is the root; what stands on others is not counted. They are no nodes.
func (t *Trace) Holds() int {
	id := t.ID(&t.Nodes[0])
	if id.Kind != schema.KindSchema {
		return 0
	}
	n := 0
	for i := range t.contents.All() {
		if e := t.contents.At(i); e.ID.Schema == id.Name && e.On == "" {
			n++
		}
	}
	return n
}

// held reports whether a partition holds rows that a foreign key of another table refers to through its parent.
func (t *Trace) held() bool {
	above := map[int]bool{t.Nodes[0].entry: true}
	for again := true; again; {
		again = false
		for i := range t.graph.Edges {
			e := &t.graph.Edges[i]
			from, to := t.graph.Ends[e.From].Entry, t.graph.Ends[e.To].Entry
			if e.Use == schema.UsePartitionOf && above[from] && !above[to] {
				above[to], again = true, true
			}
		}
	}
	delete(above, t.Nodes[0].entry)
	return len(above) > 0 && slices.ContainsFunc(t.graph.Edges, func(e catalogue.Edge) bool {
		return e.Use == schema.UseForeignKey && above[t.graph.Ends[e.To].Entry] && !above[t.graph.Ends[e.From].Entry]
	})
}

// own judges the parts of the root's own object that depend on the column that is changed.
func (t *Trace) own(f engine.Forecaster, root *address.Match, o *schema.Object, change engine.Change, out *Forecast) {
	for _, p := range t.Own(root, o) {
		effect, why := f.Effect(engine.Case{Change: change, Column: true, Kind: o.Kind, Dependency: &p.Dependency, Own: true, Several: p.Several, Object: o})
		out.Own = append(out.Own, OwnVerdict{p.Dependency, effect, why})
		out.Refused = out.Refused || effect == engine.Refused
	}
}

// OwnPart is a part of an object that depends on a column of the same object.
type OwnPart struct {
	Dependency schema.Dependency
	Several    bool // a key that has other columns, too
}

// Own returns the parts of the root's own object that depend on the column that the root is: keys, foreign keys, checks and
// generated columns, but for what was declared with it.
func (t *Trace) Own(root *address.Match, o *schema.Object) []OwnPart {
	if root.PartKind != schema.KindColumn || o.Relation == nil {
		return nil
	}
	var all []OwnPart
	part := func(kind schema.Kind, name string, several bool) {
		all = append(all, OwnPart{schema.Dependency{From: schema.End{ID: o.ID(), Part: name, PartKind: kind}, To: schema.ColumnEnd(o.ID(), root.Part), Evidence: schema.Recorded}, several})
	}
	for _, k := range o.Relation.Keys {
		if slices.ContainsFunc(k.Columns, func(p schema.KeyPart) bool { return p.Column == root.Part }) {
			part(k.Kind(), k.PartKey(), len(k.Columns) > 1)
		}
	}
	for _, k := range o.Relation.ForeignKeys {
		itself := k.RefTable == o.Name && (k.RefSchema == o.Schema || k.RefSchema == "")
		if slices.Contains(k.Columns, root.Part) || itself && slices.Contains(k.RefColumns, root.Part) {
			part(schema.KindForeignKey, k.PartKey(), len(k.Columns) > 1)
		}
	}
	start := t.Nodes[0].entry
	for i := range t.graph.Edges {
		e := &t.graph.Edges[i]
		from, to := t.graph.Ends[e.From], t.graph.Ends[e.To]
		if to.Entry != start || from.Entry != start || to.Part != root.Part || from.Part == "" || from.Part == root.Part && from.PartKind == schema.KindColumn {
			continue
		}
		if from.PartKind == schema.KindCheck && slices.ContainsFunc(o.Relation.Checks, func(c schema.Check) bool { return c.PartKey() == from.Part && c.Column == root.Part }) {
			continue
		}
		if from.PartKind == schema.KindCheck || e.Field == schema.FieldGenerated {
			all = append(all, OwnPart{Dependency: t.graph.Dependency(t.contents, e)})
		}
	}
	return all
}
