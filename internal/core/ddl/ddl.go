// Package ddl writes scripts: the statements that make a selection of objects, in an order that runs.
package ddl

import (
	"context"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
	"echo-atlas/internal/core/trace"
)

// Options say what a script holds.
type Options struct {
	WithNeeds      bool
	WithDependants bool
	Without        []schema.Aspect
	Rename         Renames
	Drop           bool // statements that drop the selection instead of making it
}

// Script is an ordered list of statements for one database.
type Script struct {
	Snapshot   *catalogue.Snapshot
	Statements []engine.Statement
	Objects    int
	Added      []*catalogue.Entry // needs or dependants that were added to the selection
	// Assumed are needs that are not part of the script: the target database must hold them.
	Assumed []schema.ID

	engine engine.Engine
	traits engine.Traits
}

// Text returns the statements as the engine's own client takes them, without a heading.
func (s *Script) Text() string {
	var b strings.Builder
	_ = s.WriteTo(&b) // a Builder does not fail
	return b.String()
}

// StringWriter is what a script is written to.
type StringWriter interface {
	io.Writer
	io.StringWriter
}

// WriteTo writes what Text returns. A *RefusedError comes after all else was written.
func (s *Script) WriteTo(w StringWriter) error {
	b := scriptWriter{w: w}
	settings := map[string]string{}
	var resets []string
	var refused []Refused
	end := ";\n"
	if s.traits.Batch != "" {
		end = "\n" + s.traits.Batch + "\n"
	}
	last, lastSubject := "", schema.ID{}
	for i := range s.Statements {
		st := &s.Statements[i]
		text, compound := st.Text(), st.Compound
		if scripter, ok := s.engine.(engine.Scripter); ok {
			var err error
			if text, compound, err = scripter.Scripted(st, text, s.Snapshot.Version); err != nil {
				refused = append(refused, Refused{st.Subject, err})
				err = fmt.Errorf("%s: %w", st.Subject.Qualified(), err)
				b.WriteString("\n-- left out: " + strings.Join(strings.Fields(strings.ToValidUTF8(err.Error(), "?")), " ") + "\n")
				continue
			}
		}
		// Statements of several lines stand alone; short ones of one object stay together.
		if i > 0 && (strings.Contains(text, "\n") || strings.Contains(last, "\n") || st.Subject != lastSubject) {
			b.WriteString("\n")
		}
		for _, set := range st.Settings {
			if settings[set.Name] == set.Text {
				continue
			}
			if len(settings) == 0 && s.traits.Before != "" {
				b.WriteString(s.traits.Before + ";\n")
			}
			if settings[set.Name] == "" && set.Reset != "" {
				resets = append(resets, set.Reset+end)
			}
			settings[set.Name] = set.Text
			b.WriteString(set.Text + end)
		}
		if compound && s.traits.Delimiter != "" {
			mark := "//"
			for strings.Contains(text, mark) {
				mark += "/"
			}
			b.WriteString(fmt.Sprintf("%s %s\n%s\n%s\n%s ;\n", s.traits.Delimiter, mark, text, mark, s.traits.Delimiter))
		} else {
			b.WriteString(text + end)
		}
		last, lastSubject = text, st.Subject
	}
	if len(resets) > 0 {
		b.WriteString("\n" + strings.Join(resets, ""))
	}
	if len(settings) > 0 && s.traits.After != "" {
		b.WriteString("\n" + s.traits.After + ";\n")
	}
	if b.err == nil && len(refused) > 0 {
		return &RefusedError{refused}
	}
	return b.err
}

// RefusedError tells which statements were left out of a script because no text of them is safe in its client.
type RefusedError struct{ Statements []Refused }

// Refused is what a statement that was left out is about, and why there is no text of it.
type Refused struct {
	Subject schema.ID
	Reason  error
}

func (e *RefusedError) Error() string {
	text := fmt.Sprintf("%d of the statements cannot be written so that the client runs them as they are; a comment stands in their place: ", len(e.Statements))
	for i, s := range e.Statements[:min(len(e.Statements), 3)] {
		if i > 0 {
			text += "; "
		}
		text += s.Subject.Qualified() + ": " + s.Reason.Error()
	}
	return text
}

// scriptWriter keeps the first error.
type scriptWriter struct {
	w   StringWriter
	err error
}

func (b *scriptWriter) WriteString(text string) {
	if b.err == nil {
		_, b.err = b.w.WriteString(text)
	}
}

// Write returns the script for entries of one snapshot.
func Write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, entries []*catalogue.Entry, o Options) (*Script, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	s := &Script{Snapshot: t.Snapshot, engine: e, traits: e.Traits()}
	o.Rename.used = map[string]bool{}
	if o.WithDependants {
		more := trace.Closure(g, t, entries, trace.Dependants)
		s.Added, entries = append(s.Added, more...), append(slices.Clone(entries), more...)
	}
	if o.WithNeeds {
		more := withSchemas(t, entries, trace.Closure(g, t, entries, trace.Needs))
		s.Added, entries = append(s.Added, more...), append(slices.Clone(entries), more...)
	}
	if completer, ok := e.(engine.Completer); ok {
		more, err := complete(ctx, c, completer, t, entries)
		if err != nil {
			return nil, err
		}
		s.Added, entries = append(s.Added, more...), append(slices.Clone(entries), more...)
	}
	s.Objects = len(entries)
	selected := make(map[schema.ID]bool, len(entries))
	for _, entry := range entries {
		selected[entry.ID] = true
	}
	needs := needsOf(g, t, selected)
	all := make([]engine.Statement, 0, 3*len(entries))
	assumed := map[schema.ID]bool{}
	var executing []int // places of statements that may run routines
	add := func(object *schema.Object) error {
		id := object.ID()
		if object.Setting(schema.System) != "" {
			return nil // the engine or an extension makes it
		}
		schema.Strip(object, o.Without)
		o.Rename.object(object, e)
		statements, err := e.Statements(object)
		if err != nil {
			return fmt.Errorf("writing %s: %w", id.Qualified(), err)
		}
		if len(statements) > 0 {
			require(&statements[0], &s.traits, id.Kind, o.Rename.needs(needs[id], e))
			if slices.Contains(s.traits.Executing, id.Kind) {
				executing = append(executing, len(all))
			}
		}
		for _, n := range needs[id] {
			if !selected[n.id] && n.id != id {
				assumed[n.id] = true
			}
		}
		all = append(all, statements...)
		return nil
	}
	if err := inBatches(ctx, c, entries, func(_ int, o *schema.Object) error { return add(o) }); err != nil {
		return nil, err
	}
	needs = nil
	if err := o.Rename.check(containersOf(t), ownersOf(t)); err != nil {
		return nil, err
	}
	waitForRoutines(all, executing)
	if s.Statements, err = Order(takeIn(all)); err != nil {
		return nil, fmt.Errorf("ordering the script: %w", err)
	}
	if o.Drop {
		s.Statements = undo(s.Statements, s.traits.Rules)
		s.Assumed = dependantsLeft(g, t, selected)
		return s, nil
	}
	for id := range assumed {
		s.Assumed = append(s.Assumed, id)
	}
	slices.SortFunc(s.Assumed, schema.ID.Compare)
	return s, nil
}

// containersOf returns the names of the schemas of a database, or its own where it has none.
func containersOf(t *catalogue.Contents) []string {
	names := map[string]bool{t.Snapshot.Database: true}
	for i := range t.Entries {
		id := &t.Entries[i].ID
		if id.Schema != "" {
			names[id.Schema] = true
		}
		if id.Kind == schema.KindSchema {
			names[id.Name] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// ownersOf returns who owns the objects of a database.
func ownersOf(t *catalogue.Contents) []string {
	names := map[string]bool{}
	for i := range t.Entries {
		if owner := t.Entries[i].Owner; owner != "" {
			names[owner] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

// undo turns statements into those that take them back, the last first.
func undo(all []engine.Statement, rules sqltext.Rules) []engine.Statement {
	var out []engine.Statement
	for _, s := range slices.Backward(all) {
		for _, text := range sqltext.Statements(s.Undo, rules) {
			out = append(out, engine.Statement{Subject: s.Subject, Head: text, Settings: s.UndoSettings})
		}
	}
	return out
}

// dependantsLeft returns what depends on the selection and is not part of it.
func dependantsLeft(g *catalogue.Graph, t *catalogue.Contents, selected map[schema.ID]bool) []schema.ID {
	left := map[schema.ID]bool{}
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to := t.Entries[g.Ends[e.From].Entry].ID, t.Entries[g.Ends[e.To].Entry].ID
		if selected[to] && !selected[from] && !goesWith(from.Kind) && e.Use != schema.UseOwnedBy {
			left[from] = true
		}
	}
	return slices.SortedFunc(maps.Keys(left), schema.ID.Compare)
}

// goesWith reports whether objects of a kind go with the relation that they stand on.
func goesWith(k schema.Kind) bool {
	switch k {
	case schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy, schema.KindStatistics:
		return true
	}
	return false
}

// takeIn makes items of statements that the statement of their relation can take in.
func takeIn(all []engine.Statement) []engine.Statement {
	if !slices.ContainsFunc(all, func(s engine.Statement) bool { return s.Into != nil }) {
		return all
	}
	at := map[engine.Resource]int{}
	for i := range all {
		if len(all[i].Items) > 0 {
			for _, r := range all[i].Provides {
				at[r] = i
			}
		}
	}
	kept := all[:0:0]
	items := map[int][]*engine.Statement{}
	for i := range all {
		if all[i].Into != nil {
			if into, ok := at[*all[i].Into]; ok {
				items[into] = append(items[into], &all[i])
				continue
			}
		}
		kept = append(kept, all[i])
	}
	for i := range kept {
		if len(kept[i].Provides) == 0 {
			continue
		}
		into, ok := at[kept[i].Provides[0]]
		if !ok {
			continue
		}
		slices.SortFunc(items[into], func(a, b *engine.Statement) int { return before(a, b) })
		slices.SortStableFunc(items[into], func(a, b *engine.Statement) int { return a.Step - b.Step })
		for _, item := range items[into] {
			kept[i].Items = append(kept[i].Items, item.Item)
			kept[i].Provides = append(kept[i].Provides, item.Provides...)
		}
	}
	return kept
}

// inBatches calls each with the contents of entries, with their places, and keeps few of them in memory.
func inBatches(ctx context.Context, c *catalogue.Catalogue, entries []*catalogue.Entry, each func(i int, o *schema.Object) error) error {
	const batch = 8000
	for start := 0; start < len(entries); start += batch {
		objects, err := c.Objects(ctx, entries[start:min(start+batch, len(entries))])
		if err != nil {
			return err
		}
		for i, o := range objects {
			if err := each(start+i, o); err != nil {
				return err
			}
		}
	}
	return nil
}

// complete returns the indexes that are not selected, but without which a selected table cannot be made: the first
// of each.
func complete(ctx context.Context, c *catalogue.Catalogue, e engine.Completer, t *catalogue.Contents, entries []*catalogue.Entry) ([]*catalogue.Entry, error) {
	type relation struct{ schema, name string }
	selected, done := map[schema.ID]bool{}, map[relation]bool{}
	var relations []*catalogue.Entry
	for _, entry := range entries {
		selected[entry.ID] = true
		if entry.ID.Kind.IsRelation() {
			relations = append(relations, entry)
		}
	}
	tables := map[relation]*schema.Object{}
	err := inBatches(ctx, c, relations, func(i int, o *schema.Object) error {
		if o.Relation != nil && numbersWithoutKey(o.Relation) {
			tables[relation{o.Schema, o.Name}] = o
		}
		return nil
	})
	if err != nil || len(tables) == 0 {
		return nil, err
	}
	var candidates []*catalogue.Entry
	for i := range t.Entries {
		if entry := &t.Entries[i]; entry.ID.Kind == schema.KindIndex && tables[relation{entry.ID.Schema, entry.On}] != nil {
			candidates = append(candidates, entry)
		}
	}
	indexes, err := c.Objects(ctx, candidates)
	if err != nil {
		return nil, err
	}
	var more []*catalogue.Entry
	for pass := range 2 { // those that are selected first: then no other is needed
		for i, index := range indexes {
			at := relation{candidates[i].ID.Schema, candidates[i].On}
			if selected[candidates[i].ID] != (pass == 0) || done[at] || !e.Completes(tables[at], index) {
				continue
			}
			done[at] = true
			if pass == 1 {
				more = append(more, candidates[i])
			}
		}
	}
	return more, nil
}

// numbersWithoutKey reports whether a column numbers its rows and leads no key.
func numbersWithoutKey(r *schema.Relation) bool {
	return slices.ContainsFunc(r.Columns, func(c schema.Column) bool {
		return c.Identity != nil && !slices.ContainsFunc(r.Keys, func(k schema.Key) bool { return len(k.Columns) > 0 && k.Columns[0].Column == c.Name })
	})
}

// waitForRoutines lets statements that run a routine wait for all routines, as far as they can: what a routine calls
// in turn is not known before its body is understood.
func waitForRoutines(all []engine.Statement, executing []int) {
	var routines []engine.Resource
	for i := range all {
		if all[i].Subject.Kind.IsRoutine() && len(all[i].Provides) > 0 && all[i].Step == 0 {
			routines = append(routines, all[i].Provides...)
		}
	}
	runs := func(list []engine.Resource) bool {
		return slices.ContainsFunc(list, func(r engine.Resource) bool { return r.What == schema.RoutineNames })
	}
	for _, i := range executing {
		s := &all[i]
		runsAny := runs(s.Requires) || runs(s.Wishes)
		for k := range s.Cuts {
			if runs(s.Cuts[k].Requires) {
				runsAny = true
				s.Cuts[k].Apart.Wishes = append(s.Cuts[k].Apart.Wishes, routines...)
			}
		}
		if runsAny {
			s.Wishes = append(slices.Clone(s.Wishes), routines...)
			if s.Subject.Kind == schema.KindMaterialisedView { // it is filled, and a routine may read any relation
				s.Wishes = append(s.Wishes, relationsOf(all)...)
			}
		}
	}
}

// relationsOf returns the tables and views that statements make.
func relationsOf(all []engine.Statement) []engine.Resource {
	var list []engine.Resource
	for i := range all {
		for _, r := range all[i].Provides {
			if r.What == schema.RelationNames && all[i].Subject.Kind != schema.KindMaterialisedView {
				list = append(list, r)
			}
		}
	}
	return list
}

// require adds the dependencies of an object to the statement that makes it.
func require(s *engine.Statement, t *engine.Traits, kind schema.Kind, needs []need) {
	lax := t.LaxNeeds || slices.Contains(t.LaxKinds, kind)
	for _, n := range needs {
		r := engine.ResourceOf(n.id)
		if n.id.Kind == schema.KindBaseType && !s.FirstForms {
			s.Requires = append(s.Requires, engine.WholeOf(r))
		}
		cut := -1
		if n.part != "" {
			cut = slices.IndexFunc(s.Cuts, func(c engine.Cut) bool { return c.Part == n.part })
		}
		switch {
		case slices.Contains(s.Provides, r), slices.Contains(s.Requires, r):
		case cut >= 0:
			s.Cuts[cut].Requires = append(s.Cuts[cut].Requires, r)
			s.Cuts[cut].Apart.Requires = append(s.Cuts[cut].Apart.Requires, r)
		case mentions(s, r):
		case lax:
			s.Wishes = append(s.Wishes, r)
		default:
			s.Requires = append(s.Requires, r)
		}
	}
}

// mentions reports whether the engine has already said when r is required.
func mentions(s *engine.Statement, r engine.Resource) bool {
	return slices.Contains(s.Requires, r) || slices.Contains(s.Wishes, r) ||
		slices.ContainsFunc(s.Cuts, func(c engine.Cut) bool { return slices.Contains(c.Requires, r) })
}

// need is something that an object needs, or a part of it.
type need struct {
	id   schema.ID
	part string // of the object that needs it
}

// needsOf returns what each selected object needs, each need once. What follows from the object itself
// (a sequence that a column owns) is left to the engine, which knows how it can stand apart.
func needsOf(g *catalogue.Graph, t *catalogue.Contents, selected map[schema.ID]bool) map[schema.ID][]need {
	needs := make(map[schema.ID][]need, len(selected))
	for i := range g.Edges {
		e := &g.Edges[i]
		from, to := t.Entries[g.Ends[e.From].Entry].ID, t.Entries[g.Ends[e.To].Entry].ID
		if from == to || !selected[from] || e.Use == schema.UseOwnedBy {
			continue
		}
		n := need{to, g.Ends[e.From].Part}
		if list := needs[from]; len(list) == 0 || !slices.Contains(list, n) {
			needs[from] = append(list, n)
		}
	}
	return needs
}

// withSchemas adds the schemas in which the objects of a script stand.
func withSchemas(t *catalogue.Contents, entries, needs []*catalogue.Entry) []*catalogue.Entry {
	there := map[string]bool{}
	for _, e := range entries {
		if e.ID.Kind == schema.KindSchema {
			there[e.ID.Name] = true
		}
	}
	for _, e := range append(slices.Clone(entries), needs...) {
		if name := e.ID.Schema; name != "" && !there[name] {
			there[name] = true
			if s := t.Find(schema.ID{Kind: schema.KindSchema, Name: name}); s != nil {
				needs = append(needs, s)
			}
		}
	}
	return needs
}
