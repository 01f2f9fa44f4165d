package sqlserver

// A reading runs the queries one after the other; each has one function that takes its rows.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

const hashIndexesQuery = `SELECT object_id, index_id, bucket_count FROM sys.hash_indexes`

// at is an object and a number within it: a column, an index.
type at [2]int

// reader gathers the rows of the catalogue by their numbers until all are there.
type reader struct {
	s       *server
	reading *schema.Reading

	schemas    map[int]string
	principals map[int]string
	objects    map[int]*object
	order      []int
	types      map[int]dataType
	made       map[int]*schema.Object // by object number
	columns    map[int][]*column
	named      map[at]*column
	indexes    map[at]*index
	indexOrder []at
	keys       []key
	foreign    map[int]*schema.ForeignKey
	foreignOf  map[int]int // foreign key to its table
	checks     map[int]int // check constraint to its table
	modules    map[int]module
	comments   []func()
	tableTypes map[int]int // object to type
	functions  map[int]*schema.Object
	schemes    map[int]*schema.Object
	options    map[int][]schema.Property // of tables
	triggers   map[int]*schema.Object
}

type object struct {
	schema, parent int
	name, kind     string
}

type dataType struct {
	name                        string
	schema                      int
	base                        int
	length, precision, scale    int
	nullable, userMade, isTable bool
}

type column struct {
	schema.Column
	computed bool
}

type index struct {
	name, space, spaceType, filter         string
	typ, fill                              int
	unique, ignoreDup, primary, constraint bool
	padded, disabled                       bool
	parts                                  []schema.KeyPart
	include                                []string
	partitionedBy                          string
	settings                               []schema.Property
	method                                 string
}

type key struct {
	table, index int
	name         string
	primary      bool
}

type module struct {
	definition             string
	hidden, nulls, quoting bool
}

type job struct {
	sql  string
	each func(row *engine.Row)
}

func newReader(s *server, database string) *reader {
	return &reader{
		s: s, reading: &schema.Reading{Engine: "sqlserver", Version: s.info.Version, Database: database, User: s.info.User, Taken: time.Now().UTC()},
		schemas: map[int]string{}, principals: map[int]string{}, objects: map[int]*object{}, types: map[int]dataType{}, made: map[int]*schema.Object{}, columns: map[int][]*column{}, named: map[at]*column{},
		indexes: map[at]*index{}, foreign: map[int]*schema.ForeignKey{}, foreignOf: map[int]int{}, checks: map[int]int{}, modules: map[int]module{}, tableTypes: map[int]int{},
		functions: map[int]*schema.Object{}, schemes: map[int]*schema.Object{}, options: map[int][]schema.Property{}, triggers: map[int]*schema.Object{},
	}
}

// Read reads a database.
func (s *server) Read(ctx context.Context, database string) (*schema.Reading, error) {
	s.budget.Refill()
	db := s.db
	if database != s.named && database != engine.ServerLevel {
		var err error
		if db, err = s.open(database); err != nil {
			return nil, s.explain(err)
		}
		defer db.Close()
	}
	r := newReader(s, database)
	jobs := r.jobs()
	if database == engine.ServerLevel {
		jobs = r.serverJobs()
	}
	ctx, cancel := context.WithTimeout(ctx, s.target.AnswerLimit())
	defer cancel()
	for _, j := range jobs {
		if err := engine.Rows(ctx, db, j.sql, j.each); err != nil {
			return nil, fmt.Errorf("reading database %s of %s: %w", database, engine.WithoutPassword(s.target.URL), err)
		}
	}
	if database != engine.ServerLevel {
		r.assemble()
		if len(s.info.Rights) == 0 {
			r.reading.Remarks = append(r.reading.Remarks, s.unseen())
		}
	}
	slices.SortFunc(r.reading.Remarks, func(a, b schema.Remark) int {
		return strings.Compare(a.State+a.Subject+a.Reason, b.State+b.Subject+b.Reason)
	})
	return r.reading, nil
}

func (r *reader) remark(state, subject, reason string) {
	r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: state, Subject: subject, Reason: reason})
}

// jobs are the queries in an order in which each finds what it refers to.
func (r *reader) jobs() []job {
	return []job{
		{principalsQuery, r.principal}, {schemasQuery, r.schema}, {typesQuery, r.dataType}, {objectsQuery, r.object}, {tableTypesQuery, r.tableType},
		{columnsQuery, r.column}, {identitiesQuery, r.identity}, {computedQuery, r.computed}, {masksQuery, r.mask}, {defaultsQuery, r.columnDefault},
		{indexesQuery, r.index}, {indexColumns, r.indexColumn}, {hashIndexesQuery, r.hashIndex}, {xmlIndexesQuery, r.xmlIndex}, {spatialQuery, r.spatialIndex},
		{keysQuery, r.key}, {checksQuery, r.check}, {foreignKeysQuery, r.foreignKey}, {foreignColumns, r.foreignColumn}, {tablesQuery, r.table}, {periodsQuery, r.period},
		{catalogsQuery, r.textCatalog}, {fullTextQuery, r.fullText}, {fullTextColumns, r.fullTextColumn}, {viewsQuery, r.view}, {modulesQuery, r.module}, {triggersQuery, r.trigger}, {triggerEvents, r.triggerEvent},
		{sequencesQuery, r.sequence}, {synonymsQuery, r.synonym}, {functionsQuery, r.partitionFunction}, {rangesQuery, r.partitionRange}, {schemesQuery, r.partitionScheme},
		{destinationsQuery, r.destination}, {parametersQuery, r.parameter}, {membersQuery, r.member}, {propertiesQuery, r.property}, {permissionsQuery, r.permission}, {needsQuery, r.need}, {sizesQuery, r.size},
	}
}

func (r *reader) principal(row *engine.Row) {
	id, name := int(row.Int(0)), row.Text(1)
	r.principals[id] = name
	if id > 4 && !row.Truth(5) {
		o := &schema.Object{Kind: schema.KindRole, Name: name}
		switch row.Text(2) {
		case "R":
			o.Definition = "CREATE ROLE " + quote(name)
		default:
			o.Signature = "user"
			o.Definition = "CREATE USER " + quote(name)
			if home := row.Text(3); home != "" {
				o.Definition += " WITH DEFAULT_SCHEMA = " + quote(home)
			}
		}
		r.reading.Objects = append(r.reading.Objects, o)
	}
}

func (r *reader) member(row *engine.Row) {
	role, member := r.principals[int(row.Int(0))], r.principals[int(row.Int(1))]
	for _, o := range r.reading.Objects {
		if o.Kind == schema.KindRole && o.Name == member {
			o.Definition += ";\nALTER ROLE " + quote(role) + " ADD MEMBER " + quote(member)
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(schema.ID{Kind: schema.KindRole, Name: role}), Evidence: schema.Recorded, Use: schema.UseMemberOf})
		}
	}
}

func (r *reader) schema(row *engine.Row) {
	name := row.Text(1)
	r.schemas[int(row.Int(0))] = name
	switch {
	case name == "sys" || name == "INFORMATION_SCHEMA" || name == "guest" || strings.HasPrefix(name, "db_"):
		return
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindSchema, Name: name, Owner: row.Text(2)})
}

func (r *reader) dataType(row *engine.Row) {
	t := dataType{row.Text(1), int(row.Int(2)), int(row.Int(3)), int(row.Int(4)), int(row.Int(5)), int(row.Int(6)), row.Truth(7), row.Truth(8), row.Truth(9)}
	r.types[int(row.Int(0))] = t
	if t.userMade && !t.isTable {
		null := " NOT NULL"
		if t.nullable {
			null = " NULL"
		}
		name := r.schemas[t.schema]
		r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindAlias, Schema: name, Name: t.name,
			Definition: "CREATE TYPE " + quote(name) + "." + quote(t.name) + " FROM " + r.typeText(t.base, t.length, t.precision, t.scale) + null})
	}
}

// typeText writes a type as it stands in a statement (documentation, "Data types").
func (r *reader) typeText(id, length, precision, scale int) string {
	t := r.types[id]
	if t.userMade {
		return quote(r.schemas[t.schema]) + "." + quote(t.name)
	}
	sized := func(n int) string {
		if n < 0 {
			return t.name + "(max)"
		}
		return fmt.Sprintf("%s(%d)", t.name, n)
	}
	switch t.name {
	case "nvarchar", "nchar":
		if length > 0 {
			length /= 2
		}
		return sized(length)
	case "varchar", "char", "varbinary", "binary":
		return sized(length)
	case "decimal", "numeric":
		return fmt.Sprintf("%s(%d,%d)", t.name, precision, scale)
	case "time", "datetime2", "datetimeoffset":
		return sized(scale)
	case "float":
		if precision != 53 {
			return sized(precision)
		}
	}
	return t.name
}

func (r *reader) object(row *engine.Row) {
	id := int(row.Int(0))
	x := &object{schema: int(row.Int(1)), name: row.Text(2), kind: strings.TrimSpace(row.Text(3)), parent: int(row.Int(4))}
	if x.kind == "TR" {
		return // read on its own
	}
	r.objects[id] = x
	r.order = append(r.order, id)
	o := &schema.Object{Schema: r.schemas[x.schema], Name: x.name}
	switch x.kind {
	case "U":
		o.Kind, o.Relation = schema.KindTable, &schema.Relation{}
	case "V":
		o.Kind, o.Relation = schema.KindView, &schema.Relation{}
	case "P":
		o.Kind, o.Routine = schema.KindProcedure, &schema.Routine{Language: "T-SQL"}
	case "FN", "IF", "TF":
		o.Kind, o.Routine = schema.KindFunction, &schema.Routine{Language: "T-SQL"}
	case "SO":
		o.Kind, o.Sequence = schema.KindSequence, &schema.Sequence{}
	case "SN":
		o.Kind = schema.KindSynonym
	case "TT":
		o.Kind, o.Relation = schema.KindTableType, &schema.Relation{} // its schema is that of the type
	default:
		r.remark("unread", schema.ID{Kind: "object", Schema: o.Schema, Name: o.Name}.Qualified(), "an object of an assembly is not part of the catalogue yet")
		return
	}
	r.made[id] = o
}

func (r *reader) tableType(row *engine.Row) {
	if o := r.made[int(row.Int(0))]; o != nil {
		o.Name, o.Schema = row.Text(2), r.schemas[int(row.Int(3))]
	}
}

func (r *reader) column(row *engine.Row) {
	table := int(row.Int(0))
	c := &column{Column: schema.Column{
		Name: row.Text(2), Type: r.typeText(int(row.Int(3)), int(row.Int(4)), int(row.Int(5)), int(row.Int(6))), NotNull: !row.Truth(8), Collation: row.Text(7),
	}, computed: row.Truth(11)}
	set := func(condition bool, name, value string) {
		if condition {
			c.Settings = append(c.Settings, schema.Property{Name: name, Value: value})
		}
	}
	switch int(row.Int(13)) {
	case 1:
		set(true, "generated always", "row start")
	case 2:
		set(true, "generated always", "row end")
	}
	set(row.Truth(14), "hidden", "yes")
	set(row.Truth(9), "rowguidcol", "yes")
	set(row.Truth(12), "sparse", "yes")
	r.columns[table] = append(r.columns[table], c)
	r.named[at{table, int(row.Int(1))}] = c
}

func (r *reader) identity(row *engine.Row) {
	if c := r.named[at{int(row.Int(0)), int(row.Int(1))}]; c != nil {
		c.Identity = &schema.Numbering{Mode: "identity", Sequence: &schema.Sequence{Start: row.Text(2), Increment: row.Text(3)}}
		if row.Truth(4) {
			c.Settings = append(c.Settings, schema.Property{Name: "not for replication", Value: "yes"})
		}
	}
}

func (r *reader) computed(row *engine.Row) {
	if c := r.named[at{int(row.Int(0)), int(row.Int(1))}]; c != nil {
		c.Generated = &schema.Generated{Expression: row.Text(2), Stored: row.Truth(3)}
	}
}

func (r *reader) mask(row *engine.Row) {
	if c := r.named[at{int(row.Int(0)), int(row.Int(1))}]; c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: "masked", Value: row.Text(2)})
	}
}

func (r *reader) columnDefault(row *engine.Row) {
	if c := r.named[at{int(row.Int(0)), int(row.Int(1))}]; c != nil {
		c.Default = row.Text(3)
		if !row.Truth(4) { // a name of its own
			c.Settings = append(c.Settings, schema.Property{Name: "default name", Value: row.Text(2)})
		}
	}
}

func (r *reader) index(row *engine.Row) {
	if row.Truth(15) {
		return // hypothetical
	}
	id := at{int(row.Int(0)), int(row.Int(1))}
	x := &index{
		name: row.Text(2), typ: int(row.Int(3)), unique: row.Truth(4), space: row.Text(5), spaceType: strings.TrimSpace(row.Text(6)), ignoreDup: row.Truth(7), primary: row.Truth(8),
		constraint: row.Truth(9), fill: int(row.Int(10)), padded: row.Truth(11), disabled: row.Truth(12),
	}
	if row.Truth(13) {
		x.filter = row.Text(14)
	}
	x.method = map[int]string{1: "clustered", 3: "xml", 4: "spatial", 5: "clustered columnstore", 6: "columnstore", 7: "hash"}[x.typ]
	r.indexes[id] = x
	r.indexOrder = append(r.indexOrder, id)
}

func (r *reader) indexColumn(row *engine.Row) {
	table := int(row.Int(0))
	x, c := r.indexes[at{table, int(row.Int(1))}], r.named[at{table, int(row.Int(2))}]
	if x == nil || c == nil {
		return
	}
	if int(row.Int(6)) > 0 {
		x.partitionedBy = c.Name
	}
	switch {
	case row.Truth(5):
		x.include = append(x.include, c.Name)
	case int(row.Int(3)) > 0:
		x.parts = append(x.parts, schema.KeyPart{Column: c.Name, Descending: row.Truth(4)})
	}
}

func (r *reader) hashIndex(row *engine.Row) {
	if x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]; x != nil {
		x.settings = append(x.settings, schema.Property{Name: "bucket count", Value: row.Text(2)})
	}
}

func (r *reader) xmlIndex(row *engine.Row) {
	if x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]; x != nil {
		x.method = "primary xml"
		if !row.Null(2) {
			x.method = "xml"
			x.settings = append(x.settings, schema.Property{Name: "for", Value: strings.ToLower(row.Text(3))}, schema.Property{Name: "using", Value: row.Text(2)})
		}
	}
}

func (r *reader) spatialIndex(row *engine.Row) {
	if x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]; x != nil {
		x.settings = append(x.settings, schema.Property{Name: "tessellation", Value: row.Text(2)})
	}
}

func (r *reader) key(row *engine.Row) {
	k := key{table: int(row.Int(0)), primary: strings.TrimSpace(row.Text(2)) == "PK", index: int(row.Int(3))}
	if !row.Truth(4) { // a name of its own: one that the server made up is no property
		k.name = row.Text(1)
	}
	r.keys = append(r.keys, k)
}

func (r *reader) check(row *engine.Row) {
	table := int(row.Int(0))
	o := r.made[table]
	if o == nil || o.Relation == nil {
		return
	}
	c := schema.Check{Expression: row.Text(2), Disabled: row.Truth(3), NotValid: row.Truth(4)}
	if !row.Truth(5) {
		c.Name = row.Text(1)
	}
	o.Relation.Checks = append(o.Relation.Checks, c)
	r.checks[int(row.Int(6))] = table
}

var actions = map[string]string{"CASCADE": "cascade", "SET_NULL": "set null", "SET_DEFAULT": "set default"}

func (r *reader) foreignKey(row *engine.Row) {
	id, to := int(row.Int(0)), r.made[int(row.Int(3))]
	if to == nil {
		return
	}
	f := &schema.ForeignKey{RefSchema: to.Schema, RefTable: to.Name, OnDelete: actions[row.Text(4)], OnUpdate: actions[row.Text(5)], Disabled: row.Truth(6), NotValid: row.Truth(7)}
	if !row.Truth(8) {
		f.Name = row.Text(2)
	}
	r.foreign[id], r.foreignOf[id] = f, int(row.Int(1))
}

func (r *reader) foreignColumn(row *engine.Row) {
	f := r.foreign[int(row.Int(0))]
	from, to := r.named[at{int(row.Int(2)), int(row.Int(3))}], r.named[at{int(row.Int(4)), int(row.Int(5))}]
	if f == nil || from == nil || to == nil {
		return
	}
	f.Columns, f.RefColumns = append(f.Columns, from.Name), append(f.RefColumns, to.Name)
}

func (r *reader) option(table int, name, value string) {
	if value != "" {
		r.options[table] = append(r.options[table], schema.Property{Name: name, Value: value})
	}
}

func (r *reader) table(row *engine.Row) {
	id := int(row.Int(0))
	if row.Truth(1) {
		r.option(id, "memory optimized", strings.ToLower(row.Text(2)))
	}
	if int(row.Int(3)) == 2 {
		if history := r.made[int(row.Int(4))]; history != nil {
			r.option(id, "history table", quote(history.Schema)+"."+quote(history.Name))
		}
	}
	if escalation := row.Text(5); escalation != "TABLE" {
		r.option(id, "lock escalation", strings.ToLower(escalation))
	}
}

func (r *reader) period(row *engine.Row) {
	id := int(row.Int(0))
	if from, to := r.named[at{id, int(row.Int(1))}], r.named[at{id, int(row.Int(2))}]; from != nil && to != nil {
		r.option(id, "period", quote(from.Name)+", "+quote(to.Name))
	}
}

func (r *reader) textCatalog(row *engine.Row) {
	text := "CREATE FULLTEXT CATALOG " + quote(row.Text(0))
	if row.Truth(1) {
		text += " AS DEFAULT"
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindTextCatalog, Name: row.Text(0), Definition: text})
}

func (r *reader) fullText(row *engine.Row) {
	id := int(row.Int(0))
	r.option(id, "full text key", row.Text(1))
	r.option(id, "full text catalog", row.Text(2))
	if !row.Truth(3) {
		r.option(id, "full text", "disabled")
	}
}

func (r *reader) fullTextColumn(row *engine.Row) {
	id := int(row.Int(0))
	if c := r.named[at{id, int(row.Int(1))}]; c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: "full text language", Value: row.Text(2)})
	}
}

func (r *reader) view(row *engine.Row) {
	if row.Truth(1) {
		if o := r.made[int(row.Int(0))]; o != nil {
			o.Settings = append(o.Settings, schema.Property{Name: "check option", Value: "yes"})
		}
	}
}

func (r *reader) module(row *engine.Row) {
	r.modules[int(row.Int(0))] = module{strings.TrimSpace(row.Text(1)), row.Null(1), row.Truth(2), row.Truth(3)}
}

func (r *reader) trigger(row *engine.Row) {
	id := int(row.Int(0))
	o := &schema.Object{Kind: schema.KindDatabaseTrigger, Name: row.Text(1)}
	if int(row.Int(2)) == 1 {
		on := r.made[int(row.Int(3))]
		if on == nil {
			return
		}
		o.Kind, o.Schema, o.Within = schema.KindTrigger, on.Schema, on.Name
		o.Trigger = &schema.Trigger{Table: on.Name, Timing: "after", Level: "statement", Disabled: row.Truth(4)}
		if row.Truth(5) {
			o.Trigger.Timing = "instead of"
		}
	} else if row.Truth(4) {
		o.Settings = append(o.Settings, schema.Property{Name: "fires", Value: "disable"})
	}
	r.made[id], r.triggers[id] = o, o
	r.order = append(r.order, id)
}

func (r *reader) triggerEvent(row *engine.Row) {
	if o := r.triggers[int(row.Int(0))]; o != nil && o.Trigger != nil {
		o.Trigger.Events = append(o.Trigger.Events, strings.ToLower(row.Text(1)))
	}
}

func (r *reader) sequence(row *engine.Row) {
	o := r.made[int(row.Int(0))]
	if o == nil || o.Sequence == nil {
		return
	}
	*o.Sequence = schema.Sequence{Type: r.typeText(int(row.Int(1)), int(row.Int(2)), int(row.Int(3)), int(row.Int(4))), Start: row.Text(5), Increment: row.Text(6), Min: row.Text(7), Max: row.Text(8), Cycle: row.Truth(9), Cache: row.Text(11)}
	if !row.Truth(10) {
		o.Sequence.Cache = "0"
	}
}

func (r *reader) synonym(row *engine.Row) {
	if o := r.made[int(row.Int(0))]; o != nil {
		o.Synonym = synonymOf(row.Text(1))
		r.comments = append(r.comments, func() { r.standsFor(o) })
	}
}

// synonymOf reads the name of up to four parts that a synonym stands for; parts in the middle may be empty.
func synonymOf(name string) *schema.Synonym {
	parts := []string{""}
	for _, t := range sqltext.Tokens(name, rules()) {
		if t.Kind == sqltext.Symbol && name[t.Start] == '.' {
			parts = append(parts, "")
		} else {
			parts[len(parts)-1] += sqltext.Unquote(name, t, rules())
		}
	}
	for len(parts) < 4 {
		parts = append([]string{""}, parts...)
	}
	parts = parts[len(parts)-4:]
	return &schema.Synonym{Server: parts[0], Database: parts[1], Schema: parts[2], Name: parts[3]}
}

// standsFor adds the dependency of a synonym on what it stands for.
func (r *reader) standsFor(o *schema.Object) {
	s := o.Synonym
	d := schema.Dependency{From: schema.ObjectEnd(o.ID()), Use: schema.UseStandsFor, Evidence: schema.Recorded,
		To: schema.End{ID: schema.ID{Schema: s.Schema, Name: s.Name}, Outside: schema.Outside{Server: s.Server, Database: s.Database}}}
	for _, to := range r.made {
		if d.To.Outside == (schema.Outside{}) && to.Name == s.Name && to.Schema == cmp.Or(s.Schema, "dbo") && to.Within == "" && to != o {
			d.To = schema.ObjectEnd(to.ID())
		}
	}
	r.reading.Dependencies = append(r.reading.Dependencies, d)
}

func (r *reader) partitionFunction(row *engine.Row) {
	side := "LEFT"
	if row.Truth(2) {
		side = "RIGHT"
	}
	o := &schema.Object{Kind: schema.KindPartitionFunction, Name: row.Text(1),
		Definition: "CREATE PARTITION FUNCTION " + quote(row.Text(1)) + " (" + r.typeText(int(row.Int(3)), int(row.Int(4)), int(row.Int(5)), int(row.Int(6))) + ") AS RANGE " + side + " FOR VALUES ("}
	r.functions[int(row.Int(0))] = o
	r.reading.Objects = append(r.reading.Objects, o)
}

func (r *reader) partitionRange(row *engine.Row) {
	if o := r.functions[int(row.Int(0))]; o != nil {
		if !strings.HasSuffix(o.Definition, "(") {
			o.Definition += ", "
		}
		o.Definition += literal(row.Text(1))
	}
}

func (r *reader) partitionScheme(row *engine.Row) {
	o := &schema.Object{Kind: schema.KindPartitionScheme, Name: row.Text(1), Settings: []schema.Property{{Name: "function", Value: row.Text(2)}},
		Definition: "CREATE PARTITION SCHEME " + quote(row.Text(1)) + " AS PARTITION " + quote(row.Text(2)) + " TO ("}
	r.schemes[int(row.Int(0))] = o
	r.reading.Objects = append(r.reading.Objects, o)
	r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()),
		To: schema.ObjectEnd(schema.ID{Kind: schema.KindPartitionFunction, Name: row.Text(2)}), Evidence: schema.Recorded, Use: schema.UsePartitionsBy})
}

func (r *reader) destination(row *engine.Row) {
	if o := r.schemes[int(row.Int(0))]; o != nil {
		if !strings.HasSuffix(o.Definition, "(") {
			o.Definition += ", "
		}
		o.Definition += quote(row.Text(1))
	}
}

func (r *reader) parameter(row *engine.Row) {
	o := r.made[int(row.Int(0))]
	if o == nil || o.Routine == nil || int(row.Int(1)) != 0 {
		return
	}
	o.Routine.Returns = r.typeText(int(row.Int(3)), int(row.Int(4)), int(row.Int(5)), int(row.Int(6)))
}

func (r *reader) size(row *engine.Row) {
	o := r.made[int(row.Int(0))]
	if o == nil || o.Kind != schema.KindTable {
		return
	}
	// A row for each index; the table is its rows and all of its indexes.
	rows, bytes := row.Int(3), row.Int(2)*8192
	if last := len(r.reading.Measures) - 1; last >= 0 && r.reading.Measures[last].ID == o.ID() {
		r.reading.Measures[last].Rows += rows
		r.reading.Measures[last].Bytes += bytes
		return
	}
	r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: rows, Bytes: bytes})
}
