package sqlserver

// A reading runs the queries one after the other; each has one function that takes its rows.

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	mssql "github.com/microsoft/go-mssqldb"

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
	typeOf     map[int]*schema.Object // by number of the type
	usesTypes  []typeUse
	defaults   map[int]int      // default constraint to its table
	parts      map[int]partNote // by number of a constraint
	keyIndexes map[int]at       // foreign key to the index that it rests on
	parameters map[at]string    // their names
	members    []func()
	signers    map[int]string // the certificates and keys of users
	spaces     map[int]string // data spaces
	pressed    map[at][]string
	statistics map[at]*schema.Object
	policies   map[int]*schema.Object
	stoplists  map[int]*schema.Object
	groups     map[int]*schema.Object // file groups
	xmlPaths   map[at][]xmlPath
	marks      []func() // what is said of constraints
	later      []func(context.Context, *sql.DB) error
}

// typeUse is a type that a column or a parameter is of.
type typeUse struct {
	object, typ int
	column      string
}

// partNote takes what is said of a constraint.
type partNote func(name, text string)

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
	comment      *string
}

type module struct {
	definition             string
	hidden, nulls, quoting bool
}

type job struct {
	sql  string
	each func(row *engine.Row)
	// refused says what is done instead where the user may not ask; nil: the reading fails.
	refused func(ctx context.Context, db *sql.DB) error
}

// Errors of the server (documentation, "Database engine events and errors").
const (
	permissionDenied   = 229
	stateDenied        = 262
	viewDenied         = 297
	serverStateDenied  = 300
	lockTimeout        = 1222
	referencesNotFound = 2020
	noSuchObject       = 208
	noSuchCollection   = 6314
)

// saysNumber reports whether an error is one of some of the server's.
func saysNumber(err error, numbers ...int32) bool {
	var said mssql.Error
	return errors.As(err, &said) && slices.Contains(numbers, said.Number)
}

func newReader(s *server, database string) *reader {
	return &reader{
		s: s, reading: &schema.Reading{Engine: "sqlserver", Version: s.info.Version, Database: database, User: s.info.User, Taken: time.Now().UTC()},
		schemas: map[int]string{}, principals: map[int]string{}, signers: map[int]string{}, objects: map[int]*object{}, types: map[int]dataType{}, made: map[int]*schema.Object{}, columns: map[int][]*column{}, named: map[at]*column{},
		indexes: map[at]*index{}, foreign: map[int]*schema.ForeignKey{}, foreignOf: map[int]int{}, checks: map[int]int{}, modules: map[int]module{}, tableTypes: map[int]int{},
		typeOf: map[int]*schema.Object{}, defaults: map[int]int{}, parts: map[int]partNote{}, keyIndexes: map[int]at{}, parameters: map[at]string{},
		functions: map[int]*schema.Object{}, schemes: map[int]*schema.Object{}, options: map[int][]schema.Property{}, triggers: map[int]*schema.Object{},
		spaces: map[int]string{}, pressed: map[at][]string{}, statistics: map[at]*schema.Object{}, policies: map[int]*schema.Object{}, stoplists: map[int]*schema.Object{}, groups: map[int]*schema.Object{}, xmlPaths: map[at][]xmlPath{},
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
	remarks, err := s.hidden(ctx, db, database)
	for _, j := range jobs {
		if err == nil {
			err = j.run(ctx, db)
		}
	}
	for _, ask := range r.later {
		if err == nil {
			err = ask(ctx, db)
		}
	}
	if err != nil {
		return nil, fmt.Errorf("reading database %s of %s: %w", database, engine.WithoutPassword(s.target.URL), err)
	}
	if database != engine.ServerLevel {
		r.assemble()
	}
	r.reading.Remarks = append(r.reading.Remarks, remarks...)
	slices.SortFunc(r.reading.Remarks, func(a, b schema.Remark) int {
		return strings.Compare(a.State+a.Subject+a.Reason, b.State+b.Subject+b.Reason)
	})
	return r.reading, nil
}

// run asks once more where a lock was in the way, and asks otherwise where the user may not ask so.
func (j *job) run(ctx context.Context, db *sql.DB) error {
	rows := 0
	each := func(row *engine.Row) {
		rows++
		j.each(row)
	}
	err := engine.Rows(ctx, db, j.sql, each)
	if saysNumber(err, lockTimeout) && rows == 0 {
		err = engine.Rows(ctx, db, j.sql, each)
	}
	if j.refused != nil && rows == 0 && saysNumber(err, permissionDenied, stateDenied, viewDenied, serverStateDenied, noSuchObject) {
		return j.refused(ctx, db)
	}
	return err
}

// sizesOtherwise asks for sizes in views that need no right of their own.
func (r *reader) sizesOtherwise(ctx context.Context, db *sql.DB) error {
	return engine.Rows(ctx, db, unitsQuery, r.size)
}

// needsOtherwise asks for what modules refer to one by one. What is read from their texts stands beside it.
func (r *reader) needsOtherwise(ctx context.Context, db *sql.DB) error {
	user := quote(r.s.info.User)
	r.remark("note", "", "the dependencies that the server records could not be read at once; modules were asked one by one, and checks, defaults and computed columns not at all (GRANT SELECT ON sys.sql_expression_dependencies TO "+user+")")
	failed := 0
	for _, id := range r.order {
		o := r.made[id]
		if o == nil || o.Kind != schema.KindView && o.Routine == nil && o.Trigger == nil {
			continue
		}
		name := strings.ReplaceAll(qualify(o.Schema, o.Name), "'", "''")
		err := engine.Rows(ctx, db, strings.Replace(referencedQuery, "%s", name, 1), func(row *engine.Row) { r.needOf(id, row, 0) })
		switch {
		case saysNumber(err, referencesNotFound, permissionDenied, noSuchObject):
			failed++
		case err != nil:
			return err
		}
	}
	if failed > 0 {
		r.remark("note", "", fmt.Sprintf("what %d modules refer to the server could not say: they refer to something that is not there, or that the user does not see", failed))
	}
	return nil
}

func (r *reader) remark(state, subject, reason string) {
	r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: state, Subject: subject, Reason: reason})
}

// jobs are the queries in an order in which each finds what it refers to.
func (r *reader) jobs() []job {
	jobs := []job{
		{sql: principalsQuery, each: r.principal}, {sql: schemasQuery, each: r.schema}, {sql: typesQuery, each: r.dataType}, {sql: objectsQuery, each: r.object}, {sql: spacesQuery, each: r.space}, {sql: collectionsQuery, each: r.collection}, {sql: tableTypesQuery, each: r.tableType},
		{sql: columnsQuery, each: r.column}, {sql: identitiesQuery, each: r.identity}, {sql: computedQuery, each: r.computed}, {sql: masksQuery, each: r.mask}, {sql: defaultsQuery, each: r.columnDefault},
		{sql: indexesQuery, each: r.index}, {sql: indexColumns, each: r.indexColumn}, {sql: hashIndexesQuery, each: r.hashIndex}, {sql: xmlIndexesQuery, each: r.xmlIndex}, {sql: spatialQuery, each: r.spatialIndex},
		{sql: keysQuery, each: r.key}, {sql: checksQuery, each: r.check}, {sql: foreignKeysQuery, each: r.foreignKey}, {sql: foreignColumns, each: r.foreignColumn}, {sql: tablesQuery, each: r.table}, {sql: periodsQuery, each: r.period},
		{sql: catalogsQuery, each: r.textCatalog}, {stoplistsQuery, r.stoplist, r.untold("full-text stoplists")}, {stopwordsQuery, r.stopword, r.untold("the words of full-text stoplists")}, {sql: fullTextQuery, each: r.fullText}, {sql: fullTextColumns, each: r.fullTextColumn}, {sql: viewsQuery, each: r.view}, {sql: modulesQuery, each: r.module}, {sql: triggersQuery, each: r.trigger}, {sql: triggerEvents, each: r.triggerEvent},
		{sql: sequencesQuery, each: r.sequence}, {sql: synonymsQuery, each: r.synonym}, {sql: functionsQuery, each: r.partitionFunction}, {sql: rangesQuery, each: r.partitionRange}, {sql: schemesQuery, each: r.partitionScheme},
		{sql: destinationsQuery, each: r.destination}, {sql: parametersQuery, each: r.parameter}, {sql: membersQuery, each: r.member}, {sql: propertiesQuery, each: r.property}, {sql: permissionsQuery, each: r.permission}, {needsQuery, r.need, r.needsOtherwise}, {sizesQuery, r.size, r.sizesOtherwise},
	}
	return append(jobs, r.rareJobs()...)
}

func (r *reader) principal(row *engine.Row) {
	id, name := int(row.Int(0)), row.Text(1)
	r.principals[id] = name
	if id <= 4 || row.Truth(5) {
		return
	}
	o := &schema.Object{Kind: schema.KindRole, Name: name, Signature: "user"}
	head := "CREATE USER " + quote(name)
	var options []string
	if home := row.Text(3); home != "" {
		options = append(options, "DEFAULT_SCHEMA = "+quote(home))
	}
	switch typ := row.Text(2); typ {
	case "R":
		o.Signature, options, head = "", nil, "CREATE ROLE "+quote(name)
		if owner := int(row.Int(4)); owner > 1 {
			r.members = append(r.members, func() {
				o.Definition = strings.Replace(o.Definition, head, head+" AUTHORIZATION "+quote(r.principals[owner]), 1)
				r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(r.principalID(owner)), Evidence: schema.Recorded, Use: schema.UseAny})
			})
		}
	case "A":
		o.Signature, head = "application role", "CREATE APPLICATION ROLE "+quote(name)
		options = append([]string{secretPlace}, options...)
	case "E", "X":
		head += " FROM EXTERNAL PROVIDER"
	case "C", "K":
		r.members = append(r.members, func() { r.signer(o, id, map[string]string{"C": "CERTIFICATE", "K": "ASYMMETRIC KEY"}[typ]) })
	default:
		switch {
		case row.Null(6) || int(row.Int(6)) == 1 || int(row.Int(6)) == 3: // of a login, or of Windows
		case int(row.Int(6)) == 0:
			head += " WITHOUT LOGIN"
		case int(row.Int(6)) == 2:
			options = append([]string{secretPlace}, options...)
		}
	}
	if len(options) > 0 {
		head += " WITH " + strings.Join(options, ", ")
	}
	o.Definition = head
	r.reading.Objects = append(r.reading.Objects, o)
}

// signer completes the statement of a user that is made for a certificate or a key: they share their sid. Who may not see the
// certificate sees no row of it, so that a place is left for its name.
func (r *reader) signer(o *schema.Object, id int, what string) {
	of := "/* its name */"
	if name := r.signers[id]; name != "" {
		of = quote(name)
	} else {
		r.remark("note", o.ID().Qualified(), "the name of its "+strings.ToLower(what)+" is hidden; the script has a place for it")
	}
	head := "CREATE USER " + quote(o.Name)
	o.Definition = strings.Replace(o.Definition, head, head+" FOR "+what+" "+of, 1)
}

// secretPlace stands where a password belongs: it does not run until it is filled in.
const secretPlace = "PASSWORD = /* the password */"

// principalID returns the identifier of a role or a user.
func (r *reader) principalID(id int) schema.ID {
	name := r.principals[id]
	for _, o := range r.reading.Objects {
		if o.Kind == schema.KindRole && o.Name == name {
			return o.ID()
		}
	}
	return schema.ID{Kind: schema.KindRole, Name: name}
}

func (r *reader) member(row *engine.Row) {
	role, member := int(row.Int(0)), r.principals[int(row.Int(1))]
	r.members = append(r.members, func() {
		for _, o := range r.reading.Objects {
			if o.Kind == schema.KindRole && o.Name == member {
				o.Definition += ";\nALTER ROLE " + quote(r.principals[role]) + " ADD MEMBER " + quote(member)
				r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(r.principalID(role)), Evidence: schema.Recorded, Use: schema.UseMemberOf})
			}
		}
	})
}

func (r *reader) schema(row *engine.Row) {
	id, name := int(row.Int(0)), row.Text(1)
	r.schemas[id] = name
	if id >= 16384 || name == "sys" || name == "INFORMATION_SCHEMA" || name == "guest" { // those of fixed roles begin at 16384
		return
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindSchema, Name: name, Owner: row.Text(2)})
}

func (r *reader) dataType(row *engine.Row) {
	t := dataType{row.Text(1), int(row.Int(2)), int(row.Int(3)), int(row.Int(4)), int(row.Int(5)), int(row.Int(6)), row.Truth(7), row.Truth(8), row.Truth(9)}
	id := int(row.Int(0))
	r.types[id] = t
	if row.Truth(10) && t.userMade {
		r.remark("unread", schema.ID{Kind: "type", Schema: r.schemas[t.schema], Name: t.name}.Qualified(), "a type of an assembly is not part of the catalogue yet")
		return
	}
	if t.userMade && !t.isTable {
		null := " NOT NULL"
		if t.nullable {
			null = " NULL"
		}
		name := r.schemas[t.schema]
		r.typeOf[id] = &schema.Object{Kind: schema.KindAlias, Schema: name, Name: t.name,
			Definition: "CREATE TYPE " + quote(name) + "." + quote(t.name) + " FROM " + r.typeText(t.base, t.length, t.precision, t.scale) + null}
		r.reading.Objects = append(r.reading.Objects, r.typeOf[id])
		o, rule, standing := r.typeOf[id], int(row.Int(11)), int(row.Int(12))
		r.marks = append(r.marks, func() { r.bind(o, "", &o.Settings, rule, standing) })
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
	if !row.Null(5) { // else the schema's owner has it
		o.Owner = r.principals[int(row.Int(5))]
	}
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
	case "R":
		o.Kind = schema.KindRule
	case "D":
		o.Kind = schema.KindDefault
	}
	r.made[id] = o
}

func (r *reader) tableType(row *engine.Row) {
	if o := r.made[int(row.Int(0))]; o != nil {
		o.Name, o.Schema = row.Text(2), r.schemas[int(row.Int(3))]
		r.typeOf[int(row.Int(1))] = o
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
	set(row.Truth(15), "column set", "yes")
	set(row.Truth(16), "filestream", "yes")
	if collection := r.typeOf[-int(row.Int(18))]; collection != nil {
		form := "CONTENT"
		if row.Truth(17) {
			form = "DOCUMENT"
		}
		c.Type = "xml(" + form + " " + qualify(collection.Schema, collection.Name) + ")"
		r.usesTypes = append(r.usesTypes, typeUse{table, -int(row.Int(18)), c.Name})
	}
	r.usesTypes = append(r.usesTypes, typeUse{table, int(row.Int(3)), c.Name})
	if on := r.made[table]; on != nil {
		r.bind(on, c.Name, &c.Settings, int(row.Int(19)), int(row.Int(20)))
	}
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
		if row.Null(2) {
			c.Settings = append(c.Settings, schema.Property{Name: hiddenText, Value: "yes"})
			r.hides(int(row.Int(0)), "the expression of the column "+c.Name)
		}
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
		r.defaults[int(row.Int(5))] = int(row.Int(0))
		if row.Null(3) {
			c.Settings = append(c.Settings, schema.Property{Name: hiddenText, Value: "yes"})
			r.hides(int(row.Int(0)), "the default of the column "+c.Name)
		}
		if !row.Truth(4) { // a name of its own
			c.Settings = append(c.Settings, schema.Property{Name: "default name", Value: row.Text(2)})
		}
	}
}

// hiddenText marks a column or a check whose text the user may not see.
const hiddenText = "text hidden"

// hides says that a part of an object has a text that the user may not see: it is there, and not known.
func (r *reader) hides(id int, what string) {
	if o := r.made[id]; o != nil {
		r.remark("hidden", o.ID().Qualified(), what+" is not shown: the user lacks the right VIEW DEFINITION on it")
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
	for _, p := range []struct {
		set  bool
		name string
	}{{!row.Truth(16), "no row locks"}, {!row.Truth(17), "no page locks"}, {row.Truth(18), "no recompute"}} {
		if p.set && x.typ != 0 {
			x.settings = append(x.settings, schema.Property{Name: p.name, Value: "yes"})
		}
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
	case int(row.Int(3)) > 0, x.typ == 3 || x.typ == 4: // columns of XML and spatial indexes have no place in a key
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
		switch int(row.Int(4)) { // 0 primary, 1 secondary, 2 selective, 3 secondary of a selective one
		case 2:
			x.method = "selective xml"
			return
		case 3:
			x.method = "xml"
			x.settings = append(x.settings, schema.Property{Name: "for path", Value: row.Text(5)}, schema.Property{Name: "using", Value: row.Text(2)})
			return
		}
		if !row.Null(2) {
			x.method = "xml"
			x.settings = append(x.settings, schema.Property{Name: "for", Value: strings.ToLower(row.Text(3))}, schema.Property{Name: "using", Value: row.Text(2)})
		}
	}
}

func (r *reader) spatialIndex(row *engine.Row) {
	if x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]; x != nil {
		x.settings = append(x.settings, schema.Property{Name: "tessellation", Value: row.Text(2)})
		if !row.Null(3) {
			x.settings = append(x.settings, schema.Property{Name: "bounding box", Value: row.Text(3) + ", " + row.Text(4) + ", " + row.Text(5) + ", " + row.Text(6)})
		}
	}
}

func (r *reader) key(row *engine.Row) {
	k := key{table: int(row.Int(0)), primary: strings.TrimSpace(row.Text(2)) == "PK", index: int(row.Int(3))}
	if !row.Truth(4) { // a name of its own: one that the server made up is no property
		k.name = row.Text(1)
	}
	k.comment = new(string)
	comment := k.comment
	r.parts[int(row.Int(5))] = func(name, text string) {
		if name == description {
			*comment = text
		}
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
	if !row.Truth(5) || c.Disabled { // what is switched off is called by its name
		c.Name = row.Text(1)
	}
	if row.Null(2) {
		r.hides(table, "the condition of the check "+row.Text(1))
	}
	c.Settings = unreplicated(row.Truth(7))
	at := len(o.Relation.Checks)
	o.Relation.Checks = append(o.Relation.Checks, c)
	r.checks[int(row.Int(6))] = table
	r.parts[int(row.Int(6))] = func(name, text string) {
		if name == description {
			o.Relation.Checks[at].Comment = text
		}
	}
}

var actions = map[string]string{"CASCADE": "cascade", "SET_NULL": "set null", "SET_DEFAULT": "set default"}

func (r *reader) foreignKey(row *engine.Row) {
	id, to := int(row.Int(0)), r.made[int(row.Int(3))]
	if to == nil {
		r.hides(int(row.Int(1)), "the foreign key "+row.Text(2)+" leads to a table that")
		return
	}
	f := &schema.ForeignKey{RefSchema: to.Schema, RefTable: to.Name, OnDelete: actions[row.Text(4)], OnUpdate: actions[row.Text(5)], Disabled: row.Truth(6), NotValid: row.Truth(7)}
	if !row.Truth(8) || f.Disabled {
		f.Name = row.Text(2)
	}
	f.Settings = unreplicated(row.Truth(10))
	r.foreign[id], r.foreignOf[id] = f, int(row.Int(1))
	r.keyIndexes[id] = at{int(row.Int(3)), int(row.Int(9))}
	r.parts[id] = func(name, text string) {
		if name == description {
			f.Comment = text
		}
	}
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
	if r.made[id] == nil { // it went meanwhile
		return
	}
	if row.Truth(1) {
		r.option(id, "memory optimized", strings.ToLower(row.Text(2)))
	}
	if int(row.Int(3)) == 2 {
		if history := r.made[int(row.Int(4))]; history != nil {
			r.option(id, "history table", quote(history.Schema)+"."+quote(history.Name))
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(r.made[id].ID()), To: schema.ObjectEnd(history.ID()), Evidence: schema.Recorded, Use: schema.UseWrites})
		}
	}
	switch {
	case row.Truth(6):
		r.unwritten(id, "an external table")
	case row.Truth(7):
		r.unwritten(id, "a file table")
	}
	r.largeValues(id, r.spaces[int(row.Int(8))])
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
	r.fullTextOptions(id, row)
	if catalog := row.Text(2); catalog != "" {
		r.option(id, "full text catalog", catalog)
		if on := r.made[id]; on != nil {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(on.ID()), To: schema.ObjectEnd(schema.ID{Kind: schema.KindTextCatalog, Name: catalog}), Evidence: schema.Recorded, Use: schema.UseLiesOn})
		}
	}
	if !row.Truth(3) {
		r.option(id, "full text", "disabled")
	}
}

func (r *reader) fullTextColumn(row *engine.Row) {
	id := int(row.Int(0))
	if c := r.named[at{id, int(row.Int(1))}]; c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: "full text language", Value: row.Text(2)})
		if kind := r.named[at{id, int(row.Int(3))}]; kind != nil {
			c.Settings = append(c.Settings, schema.Property{Name: "full text type", Value: kind.Name})
		}
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
	r.modules[int(row.Int(0))] = module{row.Text(1), row.Null(1), row.Truth(2), row.Truth(3)}
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
		if on.Kind == schema.KindView {
			o.Settings = append(o.Settings, schema.Property{Name: ofView, Value: "yes"})
		}
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
	if o := r.triggers[int(row.Int(0))]; o != nil {
		for i, order := range []string{"first", "last"} {
			if row.Truth(2 + i) {
				o.Settings = append(o.Settings, schema.Property{Name: "fires " + order, Value: row.Text(1)})
			}
		}
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
		o.Definition += boundary(row)
	}
}

// boundary writes a value by which rows are parted, as its type is written (documentation, "Constants").
func boundary(row *engine.Row) string {
	if row.Null(1) {
		return "NULL"
	}
	text := row.Text(1)
	switch row.Text(2) {
	case "tinyint", "smallint", "int", "bigint", "bit", "decimal", "numeric", "money", "smallmoney", "float", "real", "binary", "varbinary":
		return text
	case "nchar", "nvarchar", "sysname":
		return literal(text)
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
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
		group := row.Text(1)
		r.marks = append(r.marks, func() { r.lies(o, group) }) // once file groups are known
	}
}

func (r *reader) parameter(row *engine.Row) {
	o := r.made[int(row.Int(0))]
	if o == nil || o.Routine == nil {
		return
	}
	r.usesTypes = append(r.usesTypes, typeUse{int(row.Int(0)), int(row.Int(3)), ""})
	r.parameters[at{int(row.Int(0)), int(row.Int(1))}] = row.Text(2)
	if int(row.Int(1)) != 0 {
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
