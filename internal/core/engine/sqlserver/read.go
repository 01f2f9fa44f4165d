package sqlserver

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
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
	each func(row []sql.NullString)
}

func number(v sql.NullString) int {
	n, err := strconv.Atoi(v.String)
	if err != nil {
		return 0
	}
	return n
}

func truth(v sql.NullString) bool { return v.String == "1" || v.String == "true" }

// Read reads a database.
func (s *server) Read(ctx context.Context, database string) (*schema.Reading, error) {
	db := s.db
	if database != s.named && database != engine.ServerLevel {
		var err error
		if db, err = s.open(database); err != nil {
			return nil, s.explain(err)
		}
		defer db.Close()
	}
	r := &reader{
		s: s, reading: &schema.Reading{Engine: "sqlserver", Version: s.info.Version, Database: database, User: s.info.User, Taken: time.Now().UTC()},
		schemas: map[int]string{}, principals: map[int]string{}, objects: map[int]*object{}, types: map[int]dataType{}, made: map[int]*schema.Object{}, columns: map[int][]*column{}, named: map[at]*column{},
		indexes: map[at]*index{}, foreign: map[int]*schema.ForeignKey{}, foreignOf: map[int]int{}, checks: map[int]int{}, modules: map[int]module{}, tableTypes: map[int]int{},
		functions: map[int]*schema.Object{}, schemes: map[int]*schema.Object{}, options: map[int][]schema.Property{}, triggers: map[int]*schema.Object{},
	}
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

func (r *reader) principal(row []sql.NullString) {
	id, name := number(row[0]), row[1].String
	r.principals[id] = name
	if id > 4 && !truth(row[5]) {
		o := &schema.Object{Kind: schema.KindRole, Name: name}
		switch row[2].String {
		case "R":
			o.Definition = "CREATE ROLE " + quote(name)
		default:
			o.Signature = "user"
			o.Definition = "CREATE USER " + quote(name)
			if home := row[3].String; home != "" {
				o.Definition += " WITH DEFAULT_SCHEMA = " + quote(home)
			}
		}
		r.reading.Objects = append(r.reading.Objects, o)
	}
}

func (r *reader) member(row []sql.NullString) {
	role, member := r.principals[number(row[0])], r.principals[number(row[1])]
	for _, o := range r.reading.Objects {
		if o.Kind == schema.KindRole && o.Name == member {
			o.Definition += ";\nALTER ROLE " + quote(role) + " ADD MEMBER " + quote(member)
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.End{ID: o.ID()}, To: schema.End{ID: schema.ID{Kind: schema.KindRole, Name: role}}, Evidence: schema.Recorded, Reason: "member of it"})
		}
	}
}

func (r *reader) schema(row []sql.NullString) {
	name := row[1].String
	r.schemas[number(row[0])] = name
	switch {
	case name == "sys" || name == "INFORMATION_SCHEMA" || name == "guest" || strings.HasPrefix(name, "db_"):
		return
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindSchema, Name: name, Owner: row[2].String})
}

func (r *reader) dataType(row []sql.NullString) {
	t := dataType{row[1].String, number(row[2]), number(row[3]), number(row[4]), number(row[5]), number(row[6]), truth(row[7]), truth(row[8]), truth(row[9])}
	r.types[number(row[0])] = t
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

func (r *reader) object(row []sql.NullString) {
	id := number(row[0])
	x := &object{schema: number(row[1]), name: row[2].String, kind: strings.TrimSpace(row[3].String), parent: number(row[4])}
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

func (r *reader) tableType(row []sql.NullString) {
	if o := r.made[number(row[0])]; o != nil {
		o.Name, o.Schema = row[2].String, r.schemas[number(row[3])]
	}
}

func (r *reader) column(row []sql.NullString) {
	table := number(row[0])
	c := &column{Column: schema.Column{
		Name: row[2].String, Type: r.typeText(number(row[3]), number(row[4]), number(row[5]), number(row[6])), NotNull: !truth(row[8]), Collation: row[7].String,
	}, computed: truth(row[11])}
	set := func(condition bool, name, value string) {
		if condition {
			c.Settings = append(c.Settings, schema.Property{Name: name, Value: value})
		}
	}
	switch number(row[13]) {
	case 1:
		set(true, "generated always", "row start")
	case 2:
		set(true, "generated always", "row end")
	}
	set(truth(row[14]), "hidden", "yes")
	set(truth(row[9]), "rowguidcol", "yes")
	set(truth(row[12]), "sparse", "yes")
	r.columns[table] = append(r.columns[table], c)
	r.named[at{table, number(row[1])}] = c
}

func (r *reader) identity(row []sql.NullString) {
	if c := r.named[at{number(row[0]), number(row[1])}]; c != nil {
		c.Identity = &schema.Identity{Mode: "identity", Sequence: &schema.Sequence{Start: row[2].String, Increment: row[3].String}}
		if truth(row[4]) {
			c.Settings = append(c.Settings, schema.Property{Name: "not for replication", Value: "yes"})
		}
	}
}

func (r *reader) computed(row []sql.NullString) {
	if c := r.named[at{number(row[0]), number(row[1])}]; c != nil {
		c.Generated = &schema.Generated{Expression: row[2].String, Stored: truth(row[3])}
	}
}

func (r *reader) mask(row []sql.NullString) {
	if c := r.named[at{number(row[0]), number(row[1])}]; c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: "masked", Value: row[2].String})
	}
}

func (r *reader) columnDefault(row []sql.NullString) {
	if c := r.named[at{number(row[0]), number(row[1])}]; c != nil {
		c.Default = row[3].String
		if !truth(row[4]) { // a name of its own
			c.Settings = append(c.Settings, schema.Property{Name: "default name", Value: row[2].String})
		}
	}
}

func (r *reader) index(row []sql.NullString) {
	if truth(row[15]) {
		return // hypothetical
	}
	id := at{number(row[0]), number(row[1])}
	x := &index{
		name: row[2].String, typ: number(row[3]), unique: truth(row[4]), space: row[5].String, spaceType: strings.TrimSpace(row[6].String), ignoreDup: truth(row[7]), primary: truth(row[8]),
		constraint: truth(row[9]), fill: number(row[10]), padded: truth(row[11]), disabled: truth(row[12]),
	}
	if truth(row[13]) {
		x.filter = row[14].String
	}
	x.method = map[int]string{1: "clustered", 3: "xml", 4: "spatial", 5: "clustered columnstore", 6: "columnstore", 7: "hash"}[x.typ]
	r.indexes[id] = x
	r.indexOrder = append(r.indexOrder, id)
}

func (r *reader) indexColumn(row []sql.NullString) {
	table := number(row[0])
	x, c := r.indexes[at{table, number(row[1])}], r.named[at{table, number(row[2])}]
	if x == nil || c == nil {
		return
	}
	if number(row[6]) > 0 {
		x.partitionedBy = c.Name
	}
	switch {
	case truth(row[5]):
		x.include = append(x.include, c.Name)
	case number(row[3]) > 0:
		x.parts = append(x.parts, schema.KeyPart{Column: c.Name, Descending: truth(row[4])})
	}
}

func (r *reader) hashIndex(row []sql.NullString) {
	if x := r.indexes[at{number(row[0]), number(row[1])}]; x != nil {
		x.settings = append(x.settings, schema.Property{Name: "bucket count", Value: row[2].String})
	}
}

func (r *reader) xmlIndex(row []sql.NullString) {
	if x := r.indexes[at{number(row[0]), number(row[1])}]; x != nil {
		x.method = "primary xml"
		if row[2].Valid {
			x.method = "xml"
			x.settings = append(x.settings, schema.Property{Name: "for", Value: strings.ToLower(row[3].String)}, schema.Property{Name: "using", Value: row[2].String})
		}
	}
}

func (r *reader) spatialIndex(row []sql.NullString) {
	if x := r.indexes[at{number(row[0]), number(row[1])}]; x != nil {
		x.settings = append(x.settings, schema.Property{Name: "tessellation", Value: row[2].String})
	}
}

func (r *reader) key(row []sql.NullString) {
	k := key{table: number(row[0]), primary: strings.TrimSpace(row[2].String) == "PK", index: number(row[3])}
	if !truth(row[4]) { // a name of its own: one that the server made up is no property
		k.name = row[1].String
	}
	r.keys = append(r.keys, k)
}

func (r *reader) check(row []sql.NullString) {
	table := number(row[0])
	o := r.made[table]
	if o == nil || o.Relation == nil {
		return
	}
	c := schema.Check{Expression: row[2].String, Disabled: truth(row[3]), NotValid: truth(row[4])}
	if !truth(row[5]) {
		c.Name = row[1].String
	}
	o.Relation.Checks = append(o.Relation.Checks, c)
	r.checks[number(row[6])] = table
}

var actions = map[string]string{"CASCADE": "cascade", "SET_NULL": "set null", "SET_DEFAULT": "set default"}

func (r *reader) foreignKey(row []sql.NullString) {
	id, to := number(row[0]), r.made[number(row[3])]
	if to == nil {
		return
	}
	f := &schema.ForeignKey{RefSchema: to.Schema, RefTable: to.Name, OnDelete: actions[row[4].String], OnUpdate: actions[row[5].String], Disabled: truth(row[6]), NotValid: truth(row[7])}
	if !truth(row[8]) {
		f.Name = row[2].String
	}
	r.foreign[id], r.foreignOf[id] = f, number(row[1])
}

func (r *reader) foreignColumn(row []sql.NullString) {
	f := r.foreign[number(row[0])]
	from, to := r.named[at{number(row[2]), number(row[3])}], r.named[at{number(row[4]), number(row[5])}]
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

func (r *reader) table(row []sql.NullString) {
	id := number(row[0])
	if truth(row[1]) {
		r.option(id, "memory optimized", strings.ToLower(row[2].String))
	}
	if number(row[3]) == 2 {
		if history := r.made[number(row[4])]; history != nil {
			r.option(id, "history table", quote(history.Schema)+"."+quote(history.Name))
		}
	}
	if escalation := row[5].String; escalation != "TABLE" {
		r.option(id, "lock escalation", strings.ToLower(escalation))
	}
}

func (r *reader) period(row []sql.NullString) {
	id := number(row[0])
	if from, to := r.named[at{id, number(row[1])}], r.named[at{id, number(row[2])}]; from != nil && to != nil {
		r.option(id, "period", quote(from.Name)+", "+quote(to.Name))
	}
}

func (r *reader) textCatalog(row []sql.NullString) {
	text := "CREATE FULLTEXT CATALOG " + quote(row[0].String)
	if truth(row[1]) {
		text += " AS DEFAULT"
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindTextCatalog, Name: row[0].String, Definition: text})
}

func (r *reader) fullText(row []sql.NullString) {
	id := number(row[0])
	r.option(id, "full text key", row[1].String)
	r.option(id, "full text catalog", row[2].String)
	if !truth(row[3]) {
		r.option(id, "full text", "disabled")
	}
}

func (r *reader) fullTextColumn(row []sql.NullString) {
	id := number(row[0])
	if c := r.named[at{id, number(row[1])}]; c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: "full text language", Value: row[2].String})
	}
}

func (r *reader) view(row []sql.NullString) {
	if truth(row[1]) {
		if o := r.made[number(row[0])]; o != nil {
			o.Settings = append(o.Settings, schema.Property{Name: "check option", Value: "yes"})
		}
	}
}

func (r *reader) module(row []sql.NullString) {
	r.modules[number(row[0])] = module{strings.TrimSpace(row[1].String), !row[1].Valid, truth(row[2]), truth(row[3])}
}

func (r *reader) trigger(row []sql.NullString) {
	id := number(row[0])
	o := &schema.Object{Kind: schema.KindDatabaseTrigger, Name: row[1].String}
	if number(row[2]) == 1 {
		on := r.made[number(row[3])]
		if on == nil {
			return
		}
		o.Kind, o.Schema, o.Within = schema.KindTrigger, on.Schema, on.Name
		o.Trigger = &schema.Trigger{Table: on.Name, Timing: "after", Level: "statement", Disabled: truth(row[4])}
		if truth(row[5]) {
			o.Trigger.Timing = "instead of"
		}
	} else if truth(row[4]) {
		o.Settings = append(o.Settings, schema.Property{Name: "fires", Value: "disable"})
	}
	r.made[id], r.triggers[id] = o, o
	r.order = append(r.order, id)
}

func (r *reader) triggerEvent(row []sql.NullString) {
	if o := r.triggers[number(row[0])]; o != nil && o.Trigger != nil {
		o.Trigger.Events = append(o.Trigger.Events, strings.ToLower(row[1].String))
	}
}

func (r *reader) sequence(row []sql.NullString) {
	o := r.made[number(row[0])]
	if o == nil {
		return
	}
	*o.Sequence = schema.Sequence{Type: r.typeText(number(row[1]), number(row[2]), number(row[3]), number(row[4])), Start: row[5].String, Increment: row[6].String, Min: row[7].String, Max: row[8].String, Cycle: truth(row[9]), Cache: row[11].String}
	if !truth(row[10]) {
		o.Sequence.Cache = "0"
	}
}

func (r *reader) synonym(row []sql.NullString) {
	if o := r.made[number(row[0])]; o != nil {
		o.Definition = "CREATE SYNONYM " + quote(o.Schema) + "." + quote(o.Name) + " FOR " + row[1].String
	}
}

func (r *reader) partitionFunction(row []sql.NullString) {
	side := "LEFT"
	if truth(row[2]) {
		side = "RIGHT"
	}
	o := &schema.Object{Kind: schema.KindPartitionFunction, Name: row[1].String,
		Definition: "CREATE PARTITION FUNCTION " + quote(row[1].String) + " (" + r.typeText(number(row[3]), number(row[4]), number(row[5]), number(row[6])) + ") AS RANGE " + side + " FOR VALUES ("}
	r.functions[number(row[0])] = o
	r.reading.Objects = append(r.reading.Objects, o)
}

func (r *reader) partitionRange(row []sql.NullString) {
	if o := r.functions[number(row[0])]; o != nil {
		if !strings.HasSuffix(o.Definition, "(") {
			o.Definition += ", "
		}
		o.Definition += literal(row[1].String)
	}
}

func (r *reader) partitionScheme(row []sql.NullString) {
	o := &schema.Object{Kind: schema.KindPartitionScheme, Name: row[1].String, Settings: []schema.Property{{Name: "function", Value: row[2].String}},
		Definition: "CREATE PARTITION SCHEME " + quote(row[1].String) + " AS PARTITION " + quote(row[2].String) + " TO ("}
	r.schemes[number(row[0])] = o
	r.reading.Objects = append(r.reading.Objects, o)
	r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.End{ID: o.ID()},
		To: schema.End{ID: schema.ID{Kind: schema.KindPartitionFunction, Name: row[2].String}}, Evidence: schema.Recorded, Reason: "partitions by it"})
}

func (r *reader) destination(row []sql.NullString) {
	if o := r.schemes[number(row[0])]; o != nil {
		if !strings.HasSuffix(o.Definition, "(") {
			o.Definition += ", "
		}
		o.Definition += quote(row[1].String)
	}
}

func (r *reader) parameter(row []sql.NullString) {
	o := r.made[number(row[0])]
	if o == nil || o.Routine == nil || number(row[1]) != 0 {
		return
	}
	o.Routine.Returns = r.typeText(number(row[3]), number(row[4]), number(row[5]), number(row[6]))
}

func (r *reader) size(row []sql.NullString) {
	o := r.made[number(row[0])]
	if o == nil || o.Kind != schema.KindTable {
		return
	}
	// A row for each index; the table is its rows and all of its indexes.
	rows, bytes := int64(number(row[3])), int64(number(row[2]))*8192
	if last := len(r.reading.Measures) - 1; last >= 0 && r.reading.Measures[last].ID == o.ID() {
		r.reading.Measures[last].Rows += rows
		r.reading.Measures[last].Bytes += bytes
		return
	}
	r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: rows, Bytes: bytes})
}
