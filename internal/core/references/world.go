package references

// The world of a reading: names as the dialect compares them, in the places where it looks for them.

import (
	"strings"
	"sync"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// world holds the objects of a reading by their names.
type world struct {
	traits     *engine.Traits
	overloader engine.Overloader // nil where one name is one routine
	database   string
	objects    map[schema.ID]*schema.Object
	// by name space and folded name
	relations, routines, types, sequences, synonyms map[string][]*schema.Object
	schemas                                         map[string]bool

	made map[*schema.Object]*made // of relations
}

func newWorld(r *schema.Reading, t *engine.Traits) *world {
	w := &world{traits: t, database: r.Database, objects: make(map[schema.ID]*schema.Object, len(r.Objects)), relations: make(map[string][]*schema.Object, len(r.Objects)), routines: map[string][]*schema.Object{},
		types: map[string][]*schema.Object{}, sequences: map[string][]*schema.Object{}, synonyms: map[string][]*schema.Object{}, schemas: map[string]bool{}, made: map[*schema.Object]*made{}}
	for _, o := range r.Objects {
		w.objects[o.ID()] = o
		var in map[string][]*schema.Object
		switch {
		case o.Kind.IsRelation():
			in, w.made[o] = w.relations, new(made)
		case o.Kind.IsRoutine() || o.Kind == schema.KindPackage:
			in = w.routines
		case o.Kind.IsType():
			in = w.types
		case o.Kind == schema.KindSequence:
			in = w.sequences
		case o.Kind == schema.KindSynonym:
			in = w.synonyms
		case o.Kind == schema.KindSchema:
			w.schemas[w.fold(o.Name)] = true
			continue
		default:
			continue
		}
		w.schemas[w.fold(o.Schema)] = true
		in[w.fold(o.Name)] = append(in[w.fold(o.Name)], o)
	}
	return w
}

// relation returns what is known of a relation.
func (w *world) relation(o *schema.Object) *sqltext.Relation {
	m := w.made[o]
	m.once.Do(func() {
		m.relation.Key = o
		if o.Relation != nil {
			m.relation.Columns = make([]string, len(o.Relation.Columns))
			for i := range o.Relation.Columns {
				m.relation.Columns[i] = o.Relation.Columns[i].Name
			}
		}
		m.relation.Unknown = len(m.relation.Columns) == 0
	})
	return &m.relation
}

// made is what the resolver is told of a relation, made when it asks for the first time.
type made struct {
	once     sync.Once
	relation sqltext.Relation
}

// fold returns a name as it is compared.
func (w *world) fold(name string) string {
	if w.traits.Rules.FoldLower { // what is not quoted has been folded
		return name
	}
	return names.Fold(name)
}

// relationOf returns the relation of a name space, schema and name.
func (w *world) relationOf(id schema.ID) *sqltext.Relation {
	for _, o := range w.relations[w.fold(id.Name)] {
		if o.Schema == id.Schema && o.Name == id.Name {
			return w.relation(o)
		}
	}
	return nil
}

// path returns the schemas in which names without one are looked for.
func (w *world) path(o *schema.Object, p engine.Pather) []string {
	switch {
	case !w.traits.Schemas:
		return []string{""}
	case p != nil:
		return p.SearchPath(o)
	}
	return []string{o.Schema}
}

// missing returns the end of something that does not exist, and whether that can be said: what an engine has of its own
// is not in the reading.
func (w *world) missing(parts []string) (schema.End, bool) {
	name := parts[len(parts)-1]
	if name == "" || strings.HasPrefix(name, "#") || strings.HasPrefix(name, "@") {
		return schema.End{}, false
	}
	if len(parts) > 1 {
		qualifier := parts[len(parts)-2]
		if w.traits.Schemas && !w.schemas[w.fold(qualifier)] {
			return schema.End{}, false
		}
		if !w.traits.Schemas {
			return schema.End{}, false
		}
		return schema.ObjectEnd(schema.ID{Schema: qualifier, Name: name}), true
	}
	lower := strings.ToLower(name)
	for _, own := range w.traits.OwnNames {
		if strings.HasPrefix(lower, own) {
			return schema.End{}, false
		}
	}
	return schema.ObjectEnd(schema.ID{Name: name}), true
}

// scoped is the world as one object sees it.
type scoped struct {
	*world
	path   []string
	object *schema.Object
}

// Same compares the names of columns and aliases.
func (s scoped) Same(a, b string) bool {
	if a == b {
		return true
	}
	return !s.traits.Rules.FoldLower && len(a) <= len(b)+8 && strings.EqualFold(a, b)
}

// place cuts a name into the database it is in, "" for this one, the schema, "" for none given, and itself.
func (s scoped) place(parts []string) (server, database, container, name string) {
	name = parts[len(parts)-1]
	rest := parts[:len(parts)-1]
	if s.traits.Schemas && len(rest) > 0 {
		container = rest[len(rest)-1]
		rest = rest[:len(rest)-1]
	}
	if len(rest) > 0 {
		database = rest[len(rest)-1]
		rest = rest[:len(rest)-1]
	}
	if len(rest) > 0 {
		server = rest[0]
	}
	if database == s.database || s.traits.Schemas && s.traits.CrossDatabase && strings.EqualFold(database, s.database) || !s.traits.Schemas && strings.EqualFold(database, "main") && !s.traits.CrossDatabase {
		database = ""
	}
	return server, database, container, name
}

// pick returns the object of a name: the one of the schema that is given, else that of the first schema of the path that has
// one. guessed says that the path does not reach it.
func (s scoped) pick(list []*schema.Object, container, name string) (_ *schema.Object, guessed bool) {
	in := func(schemaName string) *schema.Object {
		var loose *schema.Object
		for _, o := range list {
			if o.Schema != schemaName && !(s.fold(o.Schema) == s.fold(schemaName)) {
				continue
			}
			if o.Name == name {
				return o
			}
			loose = o
		}
		return loose
	}
	if len(list) == 0 {
		return nil, false
	}
	if container != "" || !s.traits.Schemas {
		return in(container), false
	}
	for _, schemaName := range s.path {
		if o := in(schemaName); o != nil {
			return o, false
		}
	}
	if o := in(s.object.Schema); o != nil {
		return o, true
	}
	if len(list) == 1 {
		return list[0], true
	}
	return nil, false
}

// outside returns the end of something in another database.
func outside(server, database, container, name string, kind schema.Kind) schema.End {
	return schema.End{ID: schema.ID{Kind: kind, Schema: container, Name: name}, Outside: schema.Outside{Server: server, Database: database}}
}

// Relation implements sqltext.World.
func (s scoped) Relation(parts []string) *sqltext.Relation {
	server, database, container, name := s.place(parts)
	if server != "" || database != "" {
		if strings.EqualFold(database, "information_schema") || strings.EqualFold(database, "performance_schema") || strings.EqualFold(database, "temp") || strings.EqualFold(database, "tempdb") {
			return &sqltext.Relation{Key: nil, Unknown: true}
		}
		return &sqltext.Relation{Key: outside(server, database, container, name, ""), Unknown: true}
	}
	o, guessed := s.pick(s.relations[s.fold(name)], container, name)
	if o == nil {
		if syn, _ := s.pick(s.synonyms[s.fold(name)], container, name); syn != nil {
			return &sqltext.Relation{Key: syn, Unknown: true}
		}
		return nil
	}
	r := s.relation(o)
	if guessed {
		own := *r
		own.Guessed = true
		return &own
	}
	return r
}

// Routines implements sqltext.World.
func (s scoped) Routines(parts []string, args int) (keys []any, guessed bool) {
	server, database, container, name := s.place(parts)
	if server != "" || database != "" {
		if s.traits.CrossDatabase && !s.traits.Schemas { // a package's routine has the form of one in a database
			if p, _ := s.pick(s.routines[s.fold(database)], "", database); p != nil {
				return []any{p}, false
			}
			return nil, false
		}
		return nil, false
	}
	list := s.routines[s.fold(name)]
	if len(list) == 0 {
		return nil, false
	}
	first, guessed := s.pick(list, container, name)
	if first == nil {
		return nil, false
	}
	var same, all []any
	for _, o := range list {
		if o.Schema != first.Schema || o.Kind == schema.KindPackage && len(parts) == 1 {
			continue
		}
		all = append(all, o)
		if takes(o, args) {
			same = append(same, o)
		}
	}
	if len(same) > 0 {
		return same, guessed
	}
	return all, guessed || len(all) > 0
}

// Choose implements sqltext.Chooser.
func (s scoped) Choose(keys []any, types []string) []any {
	if s.overloader == nil {
		return keys
	}
	parameters := make([][]string, len(keys))
	for i, k := range keys {
		o, ok := k.(*schema.Object)
		if !ok || o.Routine == nil {
			return keys
		}
		for _, p := range o.Routine.Parameters {
			switch {
			case p.Mode == "variadic":
				return keys
			case p.Mode != "out" || o.Kind != schema.KindFunction:
				parameters[i] = append(parameters[i], p.Type)
			}
		}
	}
	var chosen []any
	for _, i := range s.overloader.Overloads(parameters, types) {
		chosen = append(chosen, keys[i])
	}
	return chosen
}

// TypeOf implements sqltext.Chooser.
func (s scoped) TypeOf(key any, column string) string {
	o, ok := key.(*schema.Object)
	switch {
	case !ok:
	case column == "" && o.Routine != nil:
		return o.Routine.Returns
	case o.Relation != nil:
		if c := o.Relation.Column(column); c != nil {
			return c.Type
		}
	}
	return ""
}

// Returned implements sqltext.World: the rows of a function of PostgreSQL that returns those of a relation.
func (s scoped) Returned(parts []string) *sqltext.Relation {
	if !s.traits.Rules.DollarQuotes {
		return nil
	}
	server, database, container, name := s.place(parts)
	if server != "" || database != "" {
		return nil
	}
	o, guessed := s.pick(s.routines[s.fold(name)], container, name)
	if o == nil || guessed || o.Routine == nil || o.Routine.Returns == "" {
		return nil
	}
	of := sqltext.TypeName(o.Routine.Returns, s.traits.Rules)
	if len(of) == 0 || len(s.relations[s.fold(of[len(of)-1])]) == 0 {
		return nil
	}
	return s.Relation(of)
}

// takes reports whether a routine can be called with so many arguments.
func takes(o *schema.Object, args int) bool {
	if o.Routine == nil || len(o.Routine.Parameters) == 0 {
		return o.Routine == nil || args == 0 || o.Signature == "" && o.Routine.Parameters == nil
	}
	least, most := 0, 0
	for _, p := range o.Routine.Parameters {
		switch {
		case p.Mode == "out" && o.Kind == schema.KindFunction:
			continue
		case p.Mode == "variadic":
			return args >= least
		}
		most++
		if p.Default == "" {
			least++
		}
	}
	return args >= least && args <= most
}

// Type implements sqltext.World.
func (s scoped) Type(parts []string) any {
	server, database, container, name := s.place(parts)
	if server != "" || database != "" {
		return nil
	}
	if o, guessed := s.pick(s.types[s.fold(name)], container, name); o != nil && !(guessed && len(parts) == 1) {
		return o
	}
	if o, guessed := s.pick(s.relations[s.fold(name)], container, name); o != nil && s.traits.Rules.DollarQuotes && !(guessed && len(parts) == 1) {
		return o
	}
	return nil
}

// Sequence implements sqltext.World.
func (s scoped) Sequence(parts []string) any {
	server, database, container, name := s.place(parts)
	if server != "" || database != "" {
		return nil
	}
	if o, _ := s.pick(s.sequences[s.fold(name)], container, name); o != nil {
		return o
	}
	return nil
}
