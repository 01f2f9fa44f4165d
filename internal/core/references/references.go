// Package references finds what the texts of a reading refer to: queries, bodies, expressions. It gives the resolver of
// sqltext the reading for a world, and makes dependencies of what it finds. What a server records itself is kept as that, and
// gets the place where it is written.
package references

import (
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Version is that of what is found in texts; it grows when the same text gives others.
const Version = 4

// Add adds to a reading the dependencies that its texts hold. Those of texts that cannot have changed are taken from the
// reading before, where there is one.
func Add(r *schema.Reading, e engine.Engine, before *schema.Earlier) {
	r.Resolver = Version
	merge(r, find(r, e, before))
}

// Find returns the dependencies that the texts of a reading hold, by object.
func Find(r *schema.Reading, e engine.Engine) [][]schema.Dependency { return find(r, e, nil) }

func find(r *schema.Reading, e engine.Engine, before *schema.Earlier) [][]schema.Dependency {
	f := newFinder(r, e)
	known := knownFrom(r, f, before)
	found := make([][]schema.Dependency, len(r.Objects))
	var group errgroup.Group
	group.SetLimit(max(1, runtime.GOMAXPROCS(0)))
	const batch = 256
	for start := 0; start < len(r.Objects); start += batch {
		group.Go(func() error {
			m := memory{}
			for i := start; i < min(start+batch, len(r.Objects)); i++ {
				if known.holds(i, r.Objects[i]) {
					found[i] = before.Found(i)
				} else {
					found[i] = f.object(r.Objects[i], &m)
				}
			}
			return nil
		})
	}
	_ = group.Wait() // never fails
	return found
}

// finder finds the references of a reading.
type finder struct {
	world   *world
	rules   sqltext.Rules
	traits  engine.Traits
	speaker engine.Speaker        // nil where all texts follow the same rules
	pather  engine.Pather         // nil where names are looked for in one place
	fires   map[schema.ID][]fired // by routine: the triggers that call it
}

func newFinder(r *schema.Reading, e engine.Engine) *finder {
	f := &finder{traits: e.Traits(), fires: map[schema.ID][]fired{}}
	f.rules = f.traits.Rules
	f.speaker, _ = e.(engine.Speaker)
	f.world = newWorld(r, &f.traits)
	f.world.overloader, _ = e.(engine.Overloader)
	f.pather, _ = e.(engine.Pather)
	for _, d := range r.Dependencies {
		if d.Use == schema.UseCalls && d.From.ID.Kind == schema.KindTrigger && d.To.ID.Kind.IsRoutine() {
			if o := f.world.objects[d.From.ID]; o != nil && o.Trigger != nil {
				f.fires[d.To.ID] = append(f.fires[d.To.ID], fired{schema.ID{Kind: schema.KindTable, Schema: o.Schema, Name: o.Trigger.Table}, transitions(o.Trigger.Definition, f.rules)})
			}
		}
	}
	return f
}

// fired is a trigger that calls a routine: its table, and the names under which that finds the rows of a statement.
type fired struct {
	table schema.ID
	rows  []string
}

// transitions returns the names of the transition tables in the statement of a trigger: REFERENCING NEW TABLE AS name.
func transitions(definition string, rules sqltext.Rules) []string {
	if !strings.Contains(definition, "REFERENCING") {
		return nil
	}
	var names []string
	tokens := sqltext.Tokens(definition, rules)
	for i := 2; i < len(tokens); i++ {
		if strings.EqualFold(definition[tokens[i-1].Start:tokens[i-1].End], "as") && strings.EqualFold(definition[tokens[i-2].Start:tokens[i-2].End], "table") {
			names = append(names, sqltext.Unquote(definition, tokens[i], rules))
		}
	}
	return names
}

// object returns the dependencies that the texts of an object hold.
func (f *finder) object(o *schema.Object, m *memory) []schema.Dependency {
	if silent(o) {
		return nil
	}
	m.seen.reset()
	s := search{finder: f, object: o, seen: &m.seen, found: m.room.open(), froms: m.froms[:0], rules: f.dialect(o), memory: &m.text}
	s.path = f.world.path(o, f.pather)
	s.texts()
	m.froms = s.froms
	return m.room.keep(s.found)
}

// memory is what the work on one object after another uses again.
type memory struct {
	text  sqltext.Memory
	seen  seen
	froms []schema.End
	room  room
}

// silent reports whether an object has no text that refers to anything.
func silent(o *schema.Object) bool {
	return o.Setting(schema.System) != "" ||
		o.Routine == nil && o.Trigger == nil && o.Event == nil && (o.Index == nil || !computed(o.Index)) && (o.Relation == nil || o.Relation.Query == "" && o.Source == "" && !expressive(o))
}

// computed reports whether an index has expressions.
func computed(x *schema.Index) bool {
	return x.Where != "" || slices.ContainsFunc(x.Columns, func(p schema.KeyPart) bool { return p.Expression != "" })
}

// dialect returns the rules of an object's texts.
func (f *finder) dialect(o *schema.Object) sqltext.Rules {
	if f.speaker != nil {
		return f.speaker.Dialect(o)
	}
	return f.rules
}

// expressive reports whether the parts of a relation have expressions that can refer to something.
func expressive(o *schema.Object) bool {
	return len(o.Relation.Checks) > 0 || slices.ContainsFunc(o.Relation.Columns, func(c schema.Column) bool {
		return c.Generated != nil || strings.Contains(c.Default, "(")
	})
}

// search is the work on one object.
type search struct {
	*finder
	rules  sqltext.Rules // of the object's texts
	memory *sqltext.Memory
	object *schema.Object
	path   []string
	found  []schema.Dependency
	seen   *seen
	froms  []schema.End // that were met

	names     bool // all names are collected, and no dependencies found
	collected []Text
}

func (s *search) texts() {
	o := s.object
	switch {
	case o.Routine != nil:
		s.routine()
	case o.Trigger != nil:
		s.trigger()
	case o.Event != nil:
		s.statements(schema.FieldBody, sqltext.Context{})
	case o.Index != nil && !s.rules.DollarQuotes && !s.names: // recorded: what is in its expressions
		s.index()
	case o.Kind.IsRelation() && o.Relation != nil && o.Relation.Query != "" && !(s.names && o.Source != ""):
		s.statements(schema.FieldQuery, sqltext.Context{})
	case o.Kind == schema.KindView && o.Source != "":
		s.statements(schema.FieldSource, sqltext.Context{})
	}
	if o.Relation != nil {
		s.relation()
	}
}

// routine reads the body of a routine, or its whole statement where the two are one.
func (s *search) routine() {
	o := s.object
	if s.rules.DollarQuotes && !slices.Contains([]string{"", "sql", "plpgsql"}, strings.ToLower(o.Routine.Language)) {
		if o.Routine.Body() != "" && !slices.Contains([]string{"c", "internal"}, strings.ToLower(o.Routine.Language)) {
			s.add(&sqltext.Reference{Use: sqltext.RefUnseen}, "", schema.FieldBody, s.from(schema.ObjectEnd(o.ID())))
		}
		return
	}
	if strings.EqualFold(o.Routine.Language, "javascript") {
		if s.names {
			return
		}
		s.add(&sqltext.Reference{Use: sqltext.RefUnseen}, "", schema.FieldDefinition, s.from(schema.ObjectEnd(o.ID())))
		return
	}
	c := sqltext.Context{}
	for _, by := range s.fires[o.ID()] {
		rel := s.world.relationOf(by.table)
		for _, name := range by.rows {
			if c.Rows == nil {
				c.Rows = map[string]*sqltext.Relation{}
			}
			if rel != nil {
				c.Rows[name] = rel
			}
		}
		if rel != nil && !slices.ContainsFunc(c.Trigger, func(r *sqltext.Relation) bool { return r.Key == rel.Key }) {
			c.Trigger = append(c.Trigger, rel)
		}
	}
	field := schema.FieldDefinition
	if s.rules.DollarQuotes {
		if o.Routine.Body() == "" {
			return
		}
		field = schema.FieldBody
		for _, p := range o.Routine.Parameters {
			c.Parameters = append(c.Parameters, sqltext.RowParameter{Name: p.Name, Row: s.rowOf(p.Type), Type: p.Type})
		}
	}
	s.statements(field, c)
}

func (s *search) trigger() {
	o := s.object
	c := sqltext.Context{}
	if rel := s.world.relationOf(schema.ID{Schema: o.Schema, Name: o.Trigger.Table}); rel != nil {
		c.Trigger = []*sqltext.Relation{rel}
	}
	switch {
	case s.rules.DollarQuotes: // recorded: what it calls, and the columns of its condition
	case o.Source != "":
		s.statements(schema.FieldSource, c)
	case o.Trigger.Definition != "":
		s.statements(schema.FieldDefinition, c)
	default:
		if o.Trigger.When != "" {
			s.expression(schema.FieldWhen, schema.ObjectEnd(o.ID()), o.Trigger.When, c)
		}
		s.statements(schema.FieldBody, c)
	}
}

// index reads the expressions of an index. What they read, the index stands on.
func (s *search) index() {
	x := s.object.Index
	end, c := schema.ObjectEnd(s.object.ID()), sqltext.Context{Row: s.world.relationOf(schema.ID{Schema: s.object.Schema, Name: x.Table})}
	if c.Row == nil {
		return
	}
	for _, p := range x.Columns {
		if p.Expression != "" {
			s.expression(schema.NoField, end, p.Expression, c)
		}
	}
	if x.Where != "" {
		s.expression(schema.FieldWhere, end, x.Where, c)
	}
}

// relation reads the expressions of a relation's parts, where the server does not record what is in them.
func (s *search) relation() {
	r := s.object.Relation
	c := sqltext.Context{Row: s.world.relationOf(s.object.ID())}
	for i := range r.Columns {
		col := &r.Columns[i]
		end := schema.ColumnEnd(s.object.ID(), col.Name)
		if strings.Contains(col.Default, "(") {
			s.expression(schema.FieldDefault, end, col.Default, sqltext.Context{})
		}
		if col.Generated != nil {
			s.expression(schema.FieldGenerated, end, col.Generated.Expression, c)
		}
	}
	for i := range r.Checks {
		k := &r.Checks[i]
		s.expression(schema.FieldCheck, schema.End{ID: s.object.ID(), Part: k.PartKey(), PartKind: schema.KindCheck}, k.Expression, c)
	}
}

func (s *search) statements(field schema.Field, c sqltext.Context) {
	text := s.object.Text(field, "")
	if text == "" {
		return
	}
	s.bind(field, schema.ObjectEnd(s.object.ID()), text, (*sqltext.Memory).Parse, c)
}

// bind finds what a text refers to.
func (s *search) bind(field schema.Field, from schema.End, text string, parse func(*sqltext.Memory, string, *sqltext.Rules) *sqltext.Tree, c sqltext.Context) {
	c.World, c.Names = scoped{s.world, s.path, s.object}, s.names
	m := s.memory
	if m == nil {
		m = new(sqltext.Memory)
	}
	all := understood(text, func() []sqltext.Reference { return sqltext.Bind(parse(m, text, &s.rules), c) })
	if s.names {
		s.collected = append(s.collected, Text{Field: field, Part: from.Part, Text: text, Names: all})
		return
	}
	at := s.from(from)
	for i := range all {
		s.add(&all[i], all[i].Column, field, at)
	}
}

// from returns the number of an end that refers to things.
func (s *search) from(end schema.End) int {
	at := slices.Index(s.froms, end)
	if at < 0 {
		at = len(s.froms)
		s.froms = append(s.froms, end)
	}
	return at
}

// rowOf returns the relation whose row a type is, nil if it is of another kind.
func (s *search) rowOf(typ string) *sqltext.Relation {
	parts := sqltext.TypeName(typ, s.rules)
	if len(parts) == 0 || len(s.world.relations[s.world.fold(parts[len(parts)-1])]) == 0 {
		return nil
	}
	return scoped{s.world, s.path, s.object}.Relation(parts)
}

// understood returns what bind finds in a text. A text that brings it down costs no more than its own answer: what it uses
// cannot be seen, and that is said.
func understood(text string, bind func() []sqltext.Reference) (all []sqltext.Reference) {
	var err error
	defer func() {
		if err != nil {
			all = []sqltext.Reference{{Use: sqltext.RefUnseen, Stop: len(text)}}
		}
	}()
	defer engine.Recover(&err)
	return bind()
}

func (s *search) expression(field schema.Field, from schema.End, text string, c sqltext.Context) {
	s.bind(field, from, text, (*sqltext.Memory).ParseExpression, c)
}

var uses = [...]schema.Use{sqltext.RefReads: schema.UseReads, sqltext.RefWrites: schema.UseWrites, sqltext.RefCalls: schema.UseCalls, sqltext.RefTypes: schema.UseTypedBy,
	sqltext.RefNumbers: schema.UseNumbersFrom, sqltext.RefUnseen: schema.UseRunsUnseen, sqltext.RefMissing: schema.UseReads}

// add makes a dependency of a reference to a column, "" for the whole.
func (s *search) add(r *sqltext.Reference, column string, field schema.Field, from int) {
	at := key{from: from, to: r.Key, column: column, use: uses[r.Use]}
	var missing schema.End
	switch k := r.Key.(type) {
	case *schema.Object:
		if k == s.object && (column == "" || column == s.froms[from].Part) {
			return
		}
	case schema.End:
		at.column = ""
	case nil:
		switch r.Use {
		case sqltext.RefMissing:
			var ok bool
			if missing, ok = s.world.missing(r.Names); !ok {
				return
			}
			at.to = missing
		case sqltext.RefUnseen:
		default: // of the engine's own
			return
		}
	}
	switch {
	case field == schema.FieldDefault && at.use == schema.UseNumbersFrom:
		at.use = schema.UseDefaultFrom
	case s.object.Index != nil && at.use == schema.UseReads:
		at.use = schema.UseIndexOn
	}
	guessed := r.Guessed || r.Use == sqltext.RefMissing
	if i, ok := s.seen.place(&at); ok {
		if d := &s.found[i]; d.Evidence == schema.Guessed && !guessed { // the certain one
			d.Evidence, d.Field, d.Start, d.Stop = schema.Read, field, r.Start, r.Stop
		}
		return
	}
	s.seen.note(at)
	s.found = append(s.found, schema.Dependency{})
	d := &s.found[len(s.found)-1]
	d.From, d.To, d.Use, d.Evidence, d.Field = s.froms[from], missing, at.use, schema.Read, field
	if field != schema.NoField {
		d.Start, d.Stop = r.Start, r.Stop
	}
	if guessed {
		d.Evidence = schema.Guessed
	}
	own := false
	switch k := r.Key.(type) {
	case *schema.Object:
		d.To.ID, d.To.Part, own = k.ID(), column, k == s.object
		if column != "" {
			d.To.PartKind = schema.KindColumn
		}
	case schema.End:
		d.To = k
	}
	if d.To.Part != "" && !own && s.object.Index == nil { // an edge for the object, too; that of an index follows from the object
		s.add(r, "", field, from)
	}
}

// merge adds what was found to what the engine recorded: where both say the same, the record gets the place.
func merge(r *schema.Reading, found [][]schema.Dependency) {
	type edge struct {
		from, to schema.End
		use      schema.Use
	}
	recorded := make(map[edge]int, len(r.Dependencies))
	for i := range r.Dependencies {
		d := &r.Dependencies[i]
		recorded[edge{d.From, d.To, d.Use}] = i
	}
	for _, list := range found {
		for _, d := range list {
			if i, ok := recorded[edge{d.From, d.To, d.Use}]; ok {
				if have := &r.Dependencies[i]; have.Field == schema.NoField {
					have.Field, have.Start, have.Stop = d.Field, d.Start, d.Stop
				}
				continue
			}
			r.Dependencies = append(r.Dependencies, d)
		}
	}
}
