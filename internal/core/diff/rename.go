package diff

// What is gone from one side and has come on the other may be one object under two names. Two objects are taken for
// one where they agree in all but the name and no other pair does. What then differs only in the name by which it calls
// a renamed object follows from the rename, and is folded under it.

import (
	"bytes"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// comparison is the work of Compare: pairs of old and new, and what is on one side alone.
type comparison struct {
	c          *catalogue.Catalogue
	o          *Options
	res        *Result
	models     [2]int
	olds, news []*catalogue.Entry
	gone, come []*catalogue.Entry

	before, after []*schema.Object // of gone and come, where they are loaded
	names         renaming         // old name to new
	columns       []columnNames
	hidden        [2]map[string]bool // of which objects not all was seen
	followers     []follower
	renamedAs     map[string]int // old name to the place of its rename among the result's objects
}

// mostRenames is how many objects may be gone and come together for renames to be looked for: beyond that they are
// no likely explanation.
const mostRenames = 2000

func (w *comparison) run(ctx context.Context) error {
	w.names, w.renamedAs = renaming{}, map[string]int{}
	if len(w.gone) > 0 && len(w.come) > 0 && (len(w.gone)+len(w.come) <= mostRenames && !w.o.NoRenames || len(w.o.Fixed) > 0) {
		var err error
		if w.before, err = w.c.Objects(ctx, w.gone); err != nil {
			return err
		}
		if w.after, err = w.c.Objects(ctx, w.come); err != nil {
			return err
		}
		w.fixed()
		if !w.o.NoRenames && len(w.gone)+len(w.come) <= mostRenames {
			w.renames()
			w.ask()
		}
	}
	for _, e := range w.gone {
		w.res.Summary.Removed++
		w.res.Objects = append(w.res.Objects, Object{ID: e.ID, Change: Removed})
	}
	for _, e := range w.come {
		w.res.Summary.Added++
		w.res.Objects = append(w.res.Objects, Object{ID: e.ID, Change: Added})
	}
	before, after, err := w.c.Differing(ctx, w.olds, w.news)
	if err != nil {
		return err
	}
	for i := range before {
		w.findColumns(w.olds[i].ID, w.news[i].ID, before[i], after[i])
	}
	for i := range before {
		w.changed(w.olds[i].ID, w.news[i].ID, before[i], after[i], false)
	}
	w.fold()
	return nil
}

// take removes a pair from what is gone and come.
func (w *comparison) take(gone, come map[int]bool) {
	left := func(entries []*catalogue.Entry, objects []*schema.Object, taken map[int]bool) ([]*catalogue.Entry, []*schema.Object) {
		var e []*catalogue.Entry
		var o []*schema.Object
		for i := range entries {
			if !taken[i] {
				e, o = append(e, entries[i]), append(o, objects[i])
			}
		}
		return e, o
	}
	w.gone, w.before = left(w.gone, w.before, gone)
	w.come, w.after = left(w.come, w.after, come)
}

// renames pairs objects that agree in all but their names: relations first, since others are called after them.
func (w *comparison) renames() {
	relations := func(o *schema.Object) bool { return o.Kind.IsRelation() }
	others := func(o *schema.Object) bool { return !o.Kind.IsRelation() }
	w.pair(relations, exactly)
	w.pair(relations, loosely)
	w.pair(relations, elsewhere)
	w.followIdentity()
	w.pair(others, exactly)
	w.pair(others, loosely) // once more: of what was found now others may be called after
}

// likeness is equal for two objects that agree in all but the name.
type likeness struct {
	space, schema, table string
	hash                 schema.Hash
}

// How objects are held against each other.
const (
	exactly   = iota // all but the name is the same
	loosely          // the names of constraints may be others
	elsewhere        // the name is the same, and the schema is another
)

// like returns the likeness of an object. ok is false where there is too little to go by.
func (w *comparison) like(o *schema.Object, names renaming, how int) (_ likeness, ok bool) {
	loose := how == loosely
	switch {
	case o.Relation != nil && len(o.Relation.Columns) > 0, o.Index != nil, o.Trigger != nil, o.Sequence != nil:
	case o.Routine != nil && o.Routine.Definition != "", o.Definition != "", o.IsTyped():
	default:
		return likeness{}, false
	}
	own := renaming{}
	for old, to := range names {
		own[old] = to
	}
	own[o.Name] = self
	if loose && o.Relation == nil { // what it is called after itself may be another: a trigger and its function
		delete(own, o.Name)
		if to, ok := names[o.Name]; ok {
			own[o.Name] = to
		}
		o = headless(o, w.o.Rules)
	}
	n, _ := own.apply(o, w.o.Rules)
	schema.Strip(n, w.o.Without)
	n.Name, n.Schema = "", ""
	forgetMadeUp(n)
	if loose {
		forgetNames(n)
	}
	if how == elsewhere {
		return likeness{o.Kind.NameSpace(), "", o.Name, schema.HashOf(schema.AppendObject(nil, n))}, true
	}
	return likeness{o.Kind.NameSpace(), o.Schema, n.Within, schema.HashOf(schema.AppendObject(nil, n))}, true
}

// headless returns an object whose definition does not say its name, where it says it first.
func headless(o *schema.Object, rules sqltext.Rules) *schema.Object {
	out := *o
	out.Definition = withoutFirst(o.Definition, o.Name, rules)
	if o.Trigger != nil {
		t := *o.Trigger
		t.Definition = withoutFirst(t.Definition, o.Name, rules)
		out.Trigger = &t
	}
	if o.Routine != nil {
		r := *o.Routine
		r.Definition = withoutFirst(r.Definition, o.Name, rules)
		out.Routine = &r
	}
	return &out
}

func withoutFirst(text, name string, rules sqltext.Rules) string {
	for _, t := range sqltext.Tokens(text, rules) {
		if (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName) && sqltext.Unquote(text, t, rules) == name {
			return text[:t.Start] + "it" + text[t.End:]
		}
	}
	return text
}

// self stands for an object's own name.
const self = "\x00"

// forgetMadeUp takes out what columns bring that is called after the table of then: sequences and not-null constraints.
func forgetMadeUp(o *schema.Object) {
	if o.Relation == nil {
		return
	}
	for i := range o.Relation.Columns {
		c := &o.Relation.Columns[i]
		if c.Identity != nil && c.Identity.SequenceName != "" {
			identity := *c.Identity
			identity.SequenceName = ""
			c.Identity = &identity
		}
		if c.Setting("not null name") != "" {
			c.Settings = slices.DeleteFunc(slices.Clone(c.Settings), func(p schema.Property) bool { return p.Name == "not null name" })
		}
	}
}

// forgetNames takes the names of constraints out of an object, and puts these in an order of their own.
func forgetNames(o *schema.Object) {
	r := o.Relation
	if r == nil {
		return
	}
	for i := range r.Keys {
		r.Keys[i].Name = ""
	}
	for i := range r.ForeignKeys {
		r.ForeignKeys[i].Name = ""
	}
	for i := range r.Checks {
		r.Checks[i].Name = ""
	}
	for i := range r.Exclusions {
		r.Exclusions[i].Name = ""
	}
	order := func(x, y *schema.Relation) int {
		return bytes.Compare(schema.AppendObject(nil, &schema.Object{Relation: x}), schema.AppendObject(nil, &schema.Object{Relation: y}))
	}
	slices.SortFunc(r.Keys, func(x, y schema.Key) int {
		return order(&schema.Relation{Keys: []schema.Key{x}}, &schema.Relation{Keys: []schema.Key{y}})
	})
	slices.SortFunc(r.ForeignKeys, func(x, y schema.ForeignKey) int {
		return order(&schema.Relation{ForeignKeys: []schema.ForeignKey{x}}, &schema.Relation{ForeignKeys: []schema.ForeignKey{y}})
	})
	slices.SortFunc(r.Checks, func(x, y schema.Check) int {
		return order(&schema.Relation{Checks: []schema.Check{x}}, &schema.Relation{Checks: []schema.Check{y}})
	})
	slices.SortFunc(r.Exclusions, func(x, y schema.Exclusion) int {
		return order(&schema.Relation{Exclusions: []schema.Exclusion{x}}, &schema.Relation{Exclusions: []schema.Exclusion{y}})
	})
}

// pair finds renamed objects among those that are wanted.
func (w *comparison) pair(wanted func(*schema.Object) bool, how int) {
	sides := [2]map[likeness][]int{{}, {}}
	for side, objects := range [][]*schema.Object{w.before, w.after} {
		names := w.names
		if side == 1 {
			names = nil
		}
		for i, o := range objects {
			if !wanted(o) {
				continue
			}
			if l, ok := w.like(o, names, how); ok {
				sides[side][l] = append(sides[side][l], i)
			}
		}
	}
	gone, come := map[int]bool{}, map[int]bool{}
	for j, o := range w.after { // in the order of identifiers
		if !wanted(o) {
			continue
		}
		l, ok := w.like(o, nil, how)
		from := sides[0][l]
		if !ok || len(from) != 1 || len(sides[1][l]) != 1 {
			continue
		}
		i := from[0]
		gone[i], come[j] = true, true
		w.rename(i, j)
	}
	w.take(gone, come)
}

// rename notes that an object has another name.
func (w *comparison) rename(i, j int) {
	old, now := w.gone[i].ID, w.come[j].ID
	w.names[old.Name] = now.Name
	w.findColumns(old, now, w.before[i], w.after[j])
	properties := []schema.Difference{{Path: "name", Old: &old.Name, New: &now.Name}}
	if old.Schema != now.Schema {
		properties = append(properties, schema.Difference{Path: "schema", Old: &old.Schema, New: &now.Schema})
	}
	left, _, _ := w.properties(old, now, w.before[i], w.after[j], true)
	w.renamedAs[old.Name] = len(w.res.Objects)
	w.res.Summary.Renamed++
	w.res.Objects = append(w.res.Objects, Object{ID: now, Was: old, Change: Renamed, Properties: append(properties, left...), Columns: w.columnsOf(now)})
}

// followIdentity pairs objects that are called after a renamed relation: a trigger of PostgreSQL.
func (w *comparison) followIdentity() {
	at := map[schema.Identity]int{}
	for i, e := range w.gone {
		id := e.ID.Identity()
		if to, ok := w.names[id.Table]; ok && id.Table != "" {
			id.Table = to
			at[id] = i
		}
	}
	gone, come := map[int]bool{}, map[int]bool{}
	for j, e := range w.come {
		if i, ok := at[e.ID.Identity()]; ok {
			gone[i], come[j] = true, true
			w.changed(w.gone[i].ID, e.ID, w.before[i], w.after[j], true)
		}
	}
	w.take(gone, come)
}

// properties returns what differs between two versions of an object but for what follows from a renaming, and which renamed
// relations the old one mentions.
func (w *comparison) properties(was, id schema.ID, before, after *schema.Object, renamed bool) (_ []schema.Difference, touched []string, reordered bool) {
	plain := w.o.properties(id, before, after, w.models)
	n := w.naming(id, before)
	if len(n.all) > 0 {
		var old *schema.Object
		old, touched = n.apply(before, w.o.Rules)
		now, _ := renaming{}.apply(after, w.o.Rules)
		if renamed {
			old.Kind, old.Name, old.Schema, old.Within = now.Kind, now.Name, now.Schema, now.Within
		}
		if len(touched) > 0 || len(n.columns) > 0 || renamed {
			compared := schema.Comparison{Models: w.models, Without: w.o.Without, Apart: w.o.NoRenames, Renamed: len(n.columns) > 0}
			left, _ := w.o.meant(was, id, compared.Compare(old, now))
			columns := w.columnsOf(id)
			if len(columns) > 0 {
				plain = append(plain, compared.Compare(calledAnew(before, columns), after)...)
			}
			plain = merge(plain, left, columns)
		}
	}
	plain, reordered = w.o.meant(was, id, plain)
	plain = w.seen(was, id, plain)
	return w.o.onlyParts(id, plain), touched, reordered
}

// seen leaves out what one of the readings could not see of an object: that is not known to differ, and stands among what was not seen.
func (w *comparison) seen(was, id schema.ID, all []schema.Difference) []schema.Difference {
	if len(w.hidden[0])+len(w.hidden[1]) == 0 {
		return all
	}
	old, now := w.hidden[0][was.Qualified()], w.hidden[1][id.Qualified()]
	if !old && !now {
		return all
	}
	return slices.DeleteFunc(all, func(d schema.Difference) bool {
		if d.Path == "definition" && shownToAll(id.Kind, said(d.Old)) == shownToAll(id.Kind, said(d.New)) {
			return true
		}
		return old && said(d.Old) == "" || now && said(d.New) == ""
	})
}

// shownToAll returns of a definition what any user sees: the connection of a subscription and the options of a user mapping are hidden
// from most.
func shownToAll(kind schema.Kind, definition string) string {
	const connection = " CONNECTION "
	switch kind {
	case schema.KindUserMapping:
		before, _, _ := strings.Cut(definition, " OPTIONS (")
		return before
	case schema.KindSubscription:
		head, rest, ok := strings.Cut(definition, connection)
		if t := sqltext.Tokens(rest, sqltext.Rules{}); ok && len(t) > 0 && t[0].Kind == sqltext.String {
			return head + connection + rest[t[0].End:]
		}
	}
	return definition
}

// hiddenIn returns the objects of which a reading could not see all.
func hiddenIn(s *catalogue.Snapshot) map[string]bool {
	all := map[string]bool{}
	for _, r := range s.Remarks {
		if r.Subject != "" && r.State != "note" {
			all[r.Subject] = true
		}
	}
	return all
}

// merge returns the differences that are left under new names, with their values as they are. A text that is the same as it stands
// does not differ because a word in it is somewhere else the name of something.
func merge(plain, left []schema.Difference, columns []ColumnRename) []schema.Difference {
	at := map[string]*schema.Difference{}
	for i := range plain {
		at[plain[i].Path] = &plain[i]
	}
	own := func(path string) bool {
		return slices.ContainsFunc(columns, func(c ColumnRename) bool { return strings.HasPrefix(path, "columns/"+schema.PathPart(c.New)+"/") })
	}
	var out []schema.Difference
	for _, c := range columns {
		out = append(out, schema.Difference{Path: "columns/" + schema.PathPart(c.New) + "/name", Old: &c.Old, New: &c.New, Guess: c.Guess})
	}
	for _, d := range left {
		if as := at[d.Path]; as != nil {
			out = append(out, *as)
		} else if !isText(d.Path) || own(d.Path) {
			out = append(out, d)
		}
	}
	return out
}

// calledAnew returns a relation whose columns have their new names, and nothing else.
func calledAnew(o *schema.Object, columns []ColumnRename) *schema.Object {
	relation := *o.Relation
	relation.Columns = slices.Clone(relation.Columns)
	for _, c := range columns {
		relation.Column(c.Old).Name = c.New
	}
	out := *o
	out.Relation = &relation
	return &out
}

// changed adds what differs in an object that both sides have.
func (w *comparison) changed(was, id schema.ID, before, after *schema.Object, renamed bool) {
	properties, touched, reordered := w.properties(was, id, before, after, renamed)
	if len(properties) == 0 {
		if of := w.followed(touched); of != "" && len(w.o.properties(id, before, after, w.models)) > 0 {
			w.followers = append(w.followers, follower{of, id})
			w.res.Summary.Followed++
			return
		}
		w.res.Summary.Same++ // laid out differently, or in what is left out
		if reordered {
			w.res.Summary.Reordered++
		}
		return
	}
	w.res.Summary.Changed++
	o := Object{ID: id, Change: Changed, Properties: properties, Columns: w.columnsOf(id)}
	if renamed {
		o.Was = was
	}
	w.res.Objects = append(w.res.Objects, o)
}

// follower differs only in the name of what was renamed: a relation by its old name, or the relation whose column was.
type follower struct {
	of string
	id schema.ID
}

// followed returns the first of some names that is the old one of a renamed object, or of a relation whose columns are.
func (w *comparison) followed(touched []string) string {
	for _, name := range touched {
		if _, ok := w.renamedAs[name]; ok || slices.ContainsFunc(w.columns, func(c columnNames) bool { return c.was.Name == name }) {
			return name
		}
	}
	return ""
}

// fold puts what follows under what it follows from.
func (w *comparison) fold() {
	for _, f := range w.followers {
		i, ok := w.renamedAs[f.of]
		if !ok {
			i = slices.IndexFunc(w.res.Objects, func(o Object) bool { return o.ID.Name == f.of && len(o.Columns) > 0 })
		}
		if i < 0 { // what is looked at is limited to others
			w.res.Summary.Followed--
			w.res.Summary.Same++
			continue
		}
		w.res.Objects[i].Followers = append(w.res.Objects[i].Followers, f.id)
	}
}
