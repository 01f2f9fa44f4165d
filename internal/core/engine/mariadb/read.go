package mariadb

// A reading asks information_schema a few large questions, and asks again where something changed meanwhile: there is no
// consistent catalogue.

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// The catalogue queries; @DB stands for the database as a literal.
const (
	// stampQuery tells whether somebody changed definitions: the time is that of the definition's file.
	stampQuery  = `SELECT table_name, table_type, coalesce(create_time, '') FROM information_schema.tables WHERE table_schema = @DB ORDER BY table_name`
	tablesQuery = `SELECT table_name, table_type, engine, row_format, table_rows, data_length, index_length, create_options, table_collation, table_comment, coalesce(create_time, '')
FROM information_schema.tables WHERE table_schema = @DB`
	schemaQuery  = `SELECT default_character_set_name, default_collation_name FROM information_schema.schemata WHERE schema_name = @DB`
	columnsQuery = `SELECT table_name, ordinal_position, column_name, column_type, is_nullable, column_default, extra, character_set_name, collation_name, column_comment, generation_expression, REFERENCESYSTEM
FROM information_schema.columns WHERE table_schema = @DB`
	indexesQuery = `SELECT table_name, index_name, non_unique, seq_in_index, column_name, collation, sub_part, index_type, index_comment, HIDDEN, PARTEXPRESSION
FROM information_schema.statistics WHERE table_schema = @DB`
	referencesQuery = `SELECT constraint_name, table_name, referenced_table_name, update_rule, delete_rule, unique_constraint_schema FROM information_schema.referential_constraints WHERE constraint_schema = @DB`
	keyColumnsQuery = `SELECT constraint_name, table_name, ordinal_position, column_name, referenced_column_name FROM information_schema.key_column_usage
WHERE table_schema = @DB AND referenced_table_name IS NOT NULL`
	checksQuery   = `SELECT constraint_name, table_name, level, check_clause FROM information_schema.check_constraints WHERE constraint_schema = @DB`
	viewsQuery    = `SELECT table_name, view_definition, check_option, definer, security_type, ALGORITHM, character_set_client, collation_connection FROM information_schema.views WHERE table_schema = @DB`
	triggersQuery = `SELECT trigger_name, event_manipulation, event_object_table, action_order, action_statement, action_timing, sql_mode, definer,
  character_set_client, collation_connection FROM information_schema.triggers WHERE trigger_schema = @DB`
)

// newest stands for any version that is newer than what is told apart.
const newest = 1 << 30

type reader struct {
	s        *server
	database string
	reading  *schema.Reading
	charset  string
	collate  string
	stamp    []string
	tables   map[string]*schema.Object
	kinds    map[string]string // table_type
	indexes  map[[2]string]*index
	order    [][2]string
	foreign  map[[2]string]*schema.ForeignKey
	words    map[string]string

	code          []*schema.Object     // routines and events
	plainRoutines bool                 // were read from information_schema alone
	partitioned   map[string]bool      // tables
	vectors       map[string]bool      // tables with an index of vectors
	overlaps      map[[2]string]string // by table and key: the period that may not overlap
	uses          []schema.Dependency  // of libraries by routines
	queries       map[string]string    // of views that the server calls invalid, as it keeps them
}

type index struct {
	unique, hidden bool
	typ, comment   string
	parser, block  string
	vector         string // options of an index of vectors
	place          int    // in the statement of a table of MySQL, whose views have no order
	parts          []schema.KeyPart
}

func newReader(s *server, database string) *reader {
	return &reader{
		s: s, database: database, tables: map[string]*schema.Object{}, kinds: map[string]string{}, indexes: map[[2]string]*index{},
		foreign: map[[2]string]*schema.ForeignKey{}, words: map[string]string{}, partitioned: map[string]bool{}, vectors: map[string]bool{}, overlaps: map[[2]string]string{}, queries: map[string]string{},
		reading: &schema.Reading{Engine: s.engine().Name(), Version: s.info.Version, Database: database, User: s.info.User, Taken: time.Now().UTC()},
	}
}

// Read reads a database. MariaDB has no consistent view of its catalogue: where definitions changed
// meanwhile, all is read again.
func (s *server) Read(ctx context.Context, database string) (*schema.Reading, error) {
	s.budget.Refill()
	if database == engine.ServerLevel {
		return s.readServerLevel(ctx)
	}
	const attempts = 4
	for attempt := 1; ; attempt++ {
		r := newReader(s, database)
		changed, err := r.read(ctx)
		if err != nil {
			return nil, fmt.Errorf("reading database %s of %s: %w", database, engine.WithoutPassword(s.url), err)
		}
		if !changed {
			return r.reading, nil
		}
		if attempt == attempts {
			r.remark("note", "", "definitions were changed all the while it was read; survey again")
			return r.reading, nil
		}
	}
}

func (r *reader) remark(state, subject, reason string) {
	r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: state, Subject: subject, Reason: reason})
}

// query runs a catalogue query and calls each for every row; null is nil.
func (r *reader) query(ctx context.Context, q string, each func(row *engine.Row)) error {
	q = strings.ReplaceAll(worded(q, r.s.mysql, r.s.version), "@DB", literal(r.database))
	return engine.Rows(ctx, r.s.db, q, each)
}

// worded puts what a make and a version calls things in the place of the marks of a query.
func worded(q string, mysql bool, version int) string {
	for _, m := range makes {
		word := m.mariadb
		switch {
		case mysql:
			word = m.mysql
		case m.mark == "HIDDEN" && version < 100600:
			word = "'NO'"
		case m.mark == "DATABASECOMMENT" && version < 100500:
			word = "''"
		case m.mark == "SHOWROUTINE" && version < 110300:
			word = "NULL"
		}
		q = strings.ReplaceAll(q, m.mark, word)
	}
	return q
}

func (r *reader) word(b []byte) string {
	w, ok := r.words[string(b)]
	if !ok {
		w = string(b)
		r.words[w] = w
	}
	return w
}

func (r *reader) read(ctx context.Context) (changed bool, err error) {
	found := false
	if err := r.query(ctx, schemaQuery, func(row *engine.Row) {
		found, r.charset, r.collate = true, row.Text(0), row.Text(1)
	}); err != nil {
		return false, err
	}
	if !found {
		return false, fmt.Errorf("there is no such database, or the user %s may not see it", r.s.info.User)
	}
	if err := r.query(ctx, tablesQuery, r.table); err != nil {
		return false, err
	}
	slices.Sort(r.stamp)
	// The columns are most of the rows: they have a session to themselves.
	both, inner := errgroup.WithContext(ctx)
	words := &reader{s: r.s, database: r.database, words: map[string]string{}, tables: r.tables, kinds: r.kinds, collate: r.collate, reading: &schema.Reading{}}
	both.Go(engine.Guarded(func() error { return words.query(inner, columnsQuery, words.column) }))
	both.Go(engine.Guarded(func() error {
		for _, j := range []struct {
			sql  string
			each func(*engine.Row)
		}{{indexesQuery, r.index}, {referencesQuery, r.reference}, {keyColumnsQuery, r.keyColumn}, {viewsQuery, r.view}, {triggersQuery, r.trigger}, {eventsQuery, r.event}} {
			err := r.query(inner, j.sql, j.each)
			var said *mysql.MySQLError
			if j.sql == eventsQuery && errors.As(err, &said) && slices.Contains(damaged, said.Number) {
				r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: "failed", Reason: "the server cannot read its own table of events: " + said.Message, Kinds: []schema.Kind{schema.KindEvent}})
				continue
			}
			if err != nil {
				return err
			}
		}
		return r.beside(inner)
	}))
	if err := both.Wait(); err != nil {
		return false, err
	}
	r.reading.Remarks = append(r.reading.Remarks, words.reading.Remarks...)
	if err := r.sequences(ctx); err != nil {
		return false, err
	}
	if r.s.mysql {
		if err := r.mysqlTables(ctx); err != nil {
			return false, err
		}
	} else if err := r.special(ctx); err != nil {
		return false, err
	}
	if err := r.exactViews(ctx); err != nil {
		return false, err
	}
	if err := r.brokenCode(ctx); err != nil {
		return false, err
	}
	if err := r.exactTexts(ctx); err != nil {
		return false, err
	}
	r.assemble()
	r.codeNeeds()
	r.libraryNeeds()
	var after []string
	if err := r.query(ctx, stampQuery, func(row *engine.Row) { after = append(after, stampOf(row.Bytes(0), row.Bytes(1), row.Bytes(2))) }); err != nil {
		return false, err
	}
	slices.Sort(after)
	return !slices.Equal(r.stamp, after), nil
}

// beside reads routines, rights and checks, and what the user may not see.
func (r *reader) beside(ctx context.Context) error {
	if err := r.routines(ctx); err != nil {
		return err
	}
	if err := r.grants(ctx); err != nil {
		return err
	}
	if err := r.hiddenKinds(ctx); err != nil {
		return err
	}
	if r.s.mysql {
		if err := r.query(ctx, mysqlChecksQuery, r.mysqlCheck); err != nil {
			return err
		}
		return r.libraries(ctx)
	}
	return r.query(ctx, checksQuery, r.check)
}

// damaged are the errors of a server that cannot read a table of its own (documentation, "Server error message reference").
var damaged = []uint16{1545, 1547, 1548, 1577, 1728}

func stampOf(name, typ, created []byte) string {
	return string(name) + "\x00" + string(typ) + "\x00" + string(created)
}

func (r *reader) table(row *engine.Row) {
	name, typ := row.Text(0), row.Text(1)
	r.stamp = append(r.stamp, stampOf(row.Bytes(0), row.Bytes(1), row.Bytes(10)))
	r.kinds[name] = typ
	o := &schema.Object{Kind: schema.KindTable, Name: name, Relation: &schema.Relation{}}
	switch typ {
	case "VIEW":
		o.Kind = schema.KindView
		if said := row.Text(9); said != "VIEW" && said != "" {
			said = strings.ReplaceAll(said, "'"+r.database+".", "'")
			switch {
			case strings.Contains(said, " denied to user "): // sound, but not for this user
				r.remark("hidden", o.ID().Qualified(), said)
			case strings.Contains(said, "READ ONLY transaction"): // it takes from a sequence
				r.remark("hidden", o.ID().Qualified(), "its columns are not known: it takes numbers from a sequence, and the server opens such a view in no session that cannot write")
			default:
				o.Settings = append(o.Settings, schema.Property{Name: "invalid", Value: said})
				r.remark("failed", o.ID().Qualified(), said)
			}
		}
	case "SEQUENCE":
		o.Kind, o.Relation, o.Sequence = schema.KindSequence, nil, &schema.Sequence{}
		o.Comment = row.Text(9)
		if e := row.Text(2); e != "InnoDB" && e != "" {
			o.Settings = append(o.Settings, schema.Property{Name: "engine", Value: e})
		}
	case "BASE TABLE", "SYSTEM VERSIONED":
		o.Comment = row.Text(9)
		set := func(name, value string) {
			if value != "" {
				o.Settings = append(o.Settings, schema.Property{Name: name, Value: value})
			}
		}
		if row.Null(2) && o.Comment != "" { // the server cannot open it, and says why in the place of its comment
			set(brokenSetting, o.Comment)
			r.remark("failed", o.ID().Qualified(), o.Comment)
			o.Comment = ""
		}
		set("collation", row.Text(8))
		set("engine", row.Text(2))
		options := row.Text(7)
		if i := strings.Index(options, "partitioned"); i >= 0 {
			r.partitioned[name] = true
			options = strings.Replace(options, "partitioned", "", 1)
		}
		if row.Text(2) == "Aria" { // is so by itself
			options = strings.NewReplacer("transactional=1", "", "page_checksum=1", "").Replace(options)
		}
		set("options", strings.Join(strings.Fields(options), " "))
		rows := int64(-1)
		if !row.Null(4) {
			rows = row.Int(4)
		}
		r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: rows, Bytes: max(0, row.Int(5)) + max(0, row.Int(6))})
	default:
		return
	}
	r.tables[name] = o
}

// column runs beside the other queries and touches columns alone.
func (r *reader) column(row *engine.Row) {
	o := r.tables[row.Text(0)]
	if o == nil || o.Relation == nil {
		return
	}
	c := schema.Column{Name: r.word(row.Bytes(2)), Type: r.word(row.Bytes(3)), NotNull: row.Text(4) == "NO", Comment: row.Text(9)}
	if !row.Null(5) {
		c.Default = r.word(row.Bytes(5))
	}
	extra := strings.ToLower(row.Text(6))
	if r.s.mysql {
		r.mysqlColumn(&c, extra, row)
	}
	switch {
	case c.Default == "NULL" && !c.NotNull:
		c.Default = ""
	case strings.Contains(c.Default, "nextval("):
		c.Default = strings.ReplaceAll(c.Default, "nextval("+quote(r.database)+".", "nextval(")
	case strings.Contains(c.Type, "binary") && strings.Contains(c.Default, "?"):
		r.remark("note", schema.ID{Kind: schema.KindTable, Name: o.Name}.Qualified(),
			"the default of "+names.Quote(c.Name)+" holds bytes that the server's catalogue shows as ?")
	}
	if len(row.Bytes(10)) > 0 && c.Generated == nil {
		c.Generated = &schema.Generated{Expression: row.Text(10), Stored: strings.Contains(extra, "stored")}
		c.Default = ""
	}
	if strings.Contains(extra, "auto_increment") {
		c.Identity = &schema.Numbering{Mode: "auto increment"}
	}
	table := o.Setting("collation")
	if table == "" {
		table = r.collate
	}
	if collation := row.Text(8); collation != "" && collation != table && o.Kind == schema.KindTable {
		c.Collation = r.word(row.Bytes(8))
		c.Settings = append(c.Settings, schema.Property{Name: "character set", Value: r.word(row.Bytes(7))})
	}
	if strings.Contains(extra, "without system versioning") {
		c.Settings = append(c.Settings, schema.Property{Name: "system versioning", Value: "without"})
	}
	if strings.Contains(extra, "invisible") {
		c.Settings = append(c.Settings, schema.Property{Name: "invisible", Value: "yes"})
	}
	if _, update, ok := strings.Cut(extra, "on update "); ok {
		update, _, _ = strings.Cut(update, ", ")
		c.Settings = append(c.Settings, schema.Property{Name: "on update", Value: update})
	}
	position, ok := row.Position(1)
	if !ok {
		return
	}
	for len(o.Relation.Columns) < position {
		o.Relation.Columns = append(o.Relation.Columns, schema.Column{})
	}
	o.Relation.Columns[position-1] = c
}

// mysqlDefault makes an expression of a default as MySQL gives it: the bare value.
func mysqlDefault(typ, value string) string {
	for _, numeric := range []string{"int", "decimal", "float", "double", "bit", "tinyint", "smallint", "mediumint", "bigint"} {
		if strings.HasPrefix(typ, numeric) {
			return value
		}
	}
	if (strings.HasPrefix(typ, "datetime") || strings.HasPrefix(typ, "timestamp")) && strings.HasPrefix(strings.ToUpper(value), "CURRENT_TIMESTAMP") {
		return value
	}
	return literal(value)
}

func (r *reader) index(row *engine.Row) {
	key := [2]string{r.word(row.Bytes(0)), r.word(row.Bytes(1))}
	x := r.indexes[key]
	if x == nil {
		x = &index{unique: row.Text(2) == "0", typ: r.word(row.Bytes(7)), comment: row.Text(8), hidden: row.Text(9) == "YES"}
		r.indexes[key] = x
		r.order = append(r.order, key)
	}
	part := schema.KeyPart{Column: r.word(row.Bytes(4)), Descending: row.Text(5) == "D"}
	if !row.Null(10) {
		part.Column, part.Expression = "", unescaped(row.Text(10))
	}
	if n := row.Int(6); n > 0 && x.typ != "SPATIAL" {
		part.Length = int(n)
	}
	at, ok := row.Position(3)
	if !ok {
		return
	}
	for len(x.parts) < at {
		x.parts = append(x.parts, schema.KeyPart{})
	}
	x.parts[at-1] = part
	if x.typ == "VECTOR" {
		r.vectors[key[0]] = true
	}
}

var actions = map[string]string{"CASCADE": "cascade", "SET NULL": "set null", "SET DEFAULT": "set default", "NO ACTION": "no action"}

func (r *reader) reference(row *engine.Row) {
	f := &schema.ForeignKey{Name: row.Text(0), RefTable: r.word(row.Bytes(2)), OnUpdate: actions[row.Text(3)], OnDelete: actions[row.Text(4)]}
	if other := row.Text(5); other != r.database {
		f.RefSchema = other
	}
	if r.s.mysql && (row.Text(3) == "RESTRICT" || row.Text(4) == "RESTRICT") {
		f.Settings = []schema.Property{{Name: writtenRestrict, Value: "written"}}
	}
	r.foreign[[2]string{row.Text(1), f.Name}] = f
}

func (r *reader) keyColumn(row *engine.Row) {
	f := r.foreign[[2]string{row.Text(1), row.Text(0)}]
	if f == nil {
		return
	}
	at, ok := row.Position(2)
	if !ok {
		return
	}
	for len(f.Columns) < at {
		f.Columns, f.RefColumns = append(f.Columns, ""), append(f.RefColumns, "")
	}
	f.Columns[at-1], f.RefColumns[at-1] = r.word(row.Bytes(3)), r.word(row.Bytes(4))
}

func (r *reader) check(row *engine.Row) {
	o := r.tables[row.Text(1)]
	if o == nil || o.Relation == nil {
		return
	}
	c := schema.Check{Name: row.Text(0), Expression: row.Text(3)}
	if row.Text(2) == "Column" {
		c.Column, c.Name = c.Name, ""
	}
	o.Relation.Checks = append(o.Relation.Checks, c)
}

func (r *reader) own(text string) string {
	return sqltext.Requalify(text, rules(), func(q string) (string, bool) { return "", q == r.database })
}

func (r *reader) view(row *engine.Row) {
	o := r.tables[row.Text(0)]
	if o == nil || o.Relation == nil {
		return
	}
	o.Relation.Query = r.own(row.Text(1))
	if o.Setting("invalid") != "" {
		r.queries[o.Name] = row.Text(1)
	}
	if o.Relation.Query == "" {
		r.remark("hidden", o.ID().Qualified(), fmt.Sprintf("the user %s lacks the right SHOW VIEW, so its query is not known", r.s.info.User))
	}
	for _, p := range []struct {
		name, usual string
		value       []byte
	}{{"algorithm", "UNDEFINED", row.Bytes(5)}, {"check option", "NONE", row.Bytes(2)}, {"security", "DEFINER", row.Bytes(4)}} {
		if v := string(p.value); v != p.usual && v != "" {
			o.Settings = append(o.Settings, schema.Property{Name: p.name, Value: strings.ToLower(v)})
		}
	}
	if client, connection := row.Text(6), row.Text(7); client != "utf8mb4" || connection != "utf8mb4_general_ci" || r.s.mysql { // to MySQL SET NAMES means another collation
		o.Settings = append(o.Settings, schema.Property{Name: "character set client", Value: client}, schema.Property{Name: "collation connection", Value: connection})
	}
	o.Owner = row.Text(3)
}

func (r *reader) trigger(row *engine.Row) {
	t := &schema.Trigger{Table: row.Text(2), Timing: strings.ToLower(row.Text(5)), Events: []string{strings.ToLower(row.Text(1))}, Level: "row", Body: row.Text(4)}
	o := &schema.Object{Kind: schema.KindTrigger, Name: row.Text(0), Trigger: t, Owner: row.Text(7)}
	o.Settings = []schema.Property{{Name: "character set client", Value: row.Text(8)}, {Name: "collation connection", Value: row.Text(9)},
		{Name: "order", Value: row.Text(3)}, {Name: "sql mode", Value: row.Text(6)}}
	r.reading.Objects = append(r.reading.Objects, o)
}

var sequenceText = engine.Lazily(`(?:as ([a-z]+(?: unsigned)?) )?start with (-?\d+) minvalue (-?\d+) maxvalue (-?\d+) increment by (-?\d+) (?:cache (\d+)|(nocache)) (cycle|nocycle)`)

// sequences asks for each sequence: the server has no table of them.
func (r *reader) sequences(ctx context.Context) error {
	for name, o := range r.tables {
		if o.Sequence == nil {
			continue
		}
		var table, text string
		err := r.s.db.QueryRowContext(ctx, "SHOW CREATE SEQUENCE "+quote(r.database)+"."+quote(name)).Scan(&table, &text)
		var said *mysql.MySQLError
		switch {
		case errors.As(err, &said) && said.Number == 1205:
			r.remark("locked", o.ID().Qualified(), "another session keeps it locked, so its definition was not read; survey again later")
			continue
		case errors.As(err, &said):
			r.remark("hidden", o.ID().Qualified(), "its definition is not known: "+said.Message)
			continue
		case err != nil:
			return err
		}
		m := sequenceText().FindStringSubmatch(text)
		if m == nil {
			r.remark("failed", o.ID().Qualified(), "its definition was not understood: "+text)
			continue
		}
		cache := m[6]
		if m[7] != "" {
			cache = "0"
		}
		*o.Sequence = schema.Sequence{Type: m[1], Start: m[2], Min: m[3], Max: m[4], Increment: m[5], Cache: cache, Cycle: m[8] == "cycle"}
	}
	return nil
}

// leaveOutUnseen takes out what the server tells of only in part. A user with rights on some columns of a table sees those,
// each with its position: the gaps between them are columns that are there and were not seen.
func (r *reader) leaveOutUnseen() {
	for _, o := range r.tables {
		if o.Relation == nil {
			continue
		}
		all := len(o.Relation.Columns)
		o.Relation.Columns = slices.DeleteFunc(o.Relation.Columns, func(c schema.Column) bool { return c.Name == "" })
		if unseen := all - len(o.Relation.Columns); unseen > 0 {
			r.remark("hidden", o.ID().Qualified(), fmt.Sprintf("the user %s lacks rights on at least %d of its columns, and on what stands on them", r.s.info.User, unseen))
		}
	}
	unseen := func(p schema.KeyPart) bool { return p.Column == "" && p.Expression == "" && !r.s.mysql }
	r.order = slices.DeleteFunc(r.order, func(key [2]string) bool { return slices.ContainsFunc(r.indexes[key].parts, unseen) })
	for key, f := range r.foreign {
		if slices.Contains(f.Columns, "") || len(f.Columns) == 0 {
			delete(r.foreign, key)
		}
	}
}

// assemble puts indexes and foreign keys where they belong and finds what views and triggers need.
func (r *reader) assemble() {
	r.leaveOutUnseen()
	positions := map[string]int{}
	if r.s.mysql {
		slices.SortStableFunc(r.order, func(a, b [2]string) int {
			return cmp.Or(strings.Compare(a[0], b[0]), cmp.Compare(r.indexes[a].place, r.indexes[b].place))
		})
	}
	for _, key := range r.order {
		x, o := r.indexes[key], r.tables[key[0]]
		if o == nil || o.Relation == nil {
			continue
		}
		var settings []schema.Property
		if x.hidden {
			settings = append(settings, schema.Property{Name: map[bool]string{true: invisibleIndex, false: "ignored"}[r.s.mysql], Value: "yes"})
		}
		if x.vector != "" {
			settings = append(settings, schema.Property{Name: vectorOptions, Value: x.vector})
		}
		if x.block != "" {
			settings = append(settings, schema.Property{Name: blockSize, Value: x.block})
		}
		if x.parser != "" {
			settings = append(settings, schema.Property{Name: "parser", Value: x.parser})
		}
		method := strings.ToLower(x.typ)
		if method == "se_specific" || method == "none" { // no word for a statement
			method = ""
		}
		if usual := map[bool]string{true: "hash", false: "btree"}[o.Setting("engine") == "MEMORY"]; method == usual {
			method = ""
		}
		positions[key[0]]++
		if x.unique {
			k := schema.Key{Name: key[1], Primary: key[1] == "PRIMARY", Columns: x.parts, Comment: x.comment, Settings: settings}
			if k.Primary {
				k.Name = ""
			}
			if period := r.overlaps[[2]string{key[0], k.Name}]; period != "" { // the last two are its ends
				k.Columns = append(k.Columns[:len(k.Columns)-2:len(k.Columns)-2], schema.KeyPart{Column: period})
				k.Settings = append(k.Settings, schema.Property{Name: "without overlaps", Value: period})
			}
			if method != "" {
				k.Settings = append(k.Settings, schema.Property{Name: "method", Value: method})
			}
			o.Relation.Keys = append(o.Relation.Keys, k)
			continue
		}
		r.reading.Objects = append(r.reading.Objects, &schema.Object{
			Kind: schema.KindIndex, Within: key[0], Name: key[1], Comment: x.comment,
			Index: &schema.Index{Table: key[0], Columns: x.parts, Method: method, Settings: settings, Position: positions[key[0]]},
		})
	}
	for key, f := range r.foreign {
		if o := r.tables[key[0]]; o != nil && o.Relation != nil {
			if f.OnUpdate == "no action" {
				f.OnUpdate = ""
			} else if f.OnUpdate == "" {
				f.OnUpdate = "restrict"
			}
			if f.OnDelete == "no action" {
				f.OnDelete = ""
			} else if f.OnDelete == "" {
				f.OnDelete = "restrict"
			}
			o.Relation.ForeignKeys = append(o.Relation.ForeignKeys, *f)
		}
	}
	for _, o := range r.tables {
		r.reading.Objects = append(r.reading.Objects, o)
		if o.Relation == nil {
			continue
		}
		slices.SortFunc(o.Relation.ForeignKeys, func(a, b schema.ForeignKey) int { return strings.Compare(a.Name, b.Name) })
		slices.SortFunc(o.Relation.Checks, func(a, b schema.Check) int { return strings.Compare(a.PartKey(), b.PartKey()) })
	}
	slices.SortFunc(r.reading.Remarks, func(a, b schema.Remark) int { return strings.Compare(a.Subject+a.Reason, b.Subject+b.Reason) })
}

// Queries returns what a survey of a new server sends; @DB stands for the database as a literal. Older servers are asked for
// NULL in the place of what they do not have.
func (e Engine) Queries() []string {
	if e.mysql {
		return e.mysqlQueries()
	}
	all := append(sessionSettings(engine.Patience), "SELECT version(), current_user()", "SHOW GRANTS", databasesQuery)
	all = append(all, schemaQuery, tablesQuery, columnsQuery, indexesQuery, referencesQuery, keyColumnsQuery, viewsQuery, triggersQuery, checksQuery, routinesQuery,
		"-- where the server does not allow that:\n"+plainRoutinesQuery, eventsQuery, ownRightsQuery, tableGrantsQuery, routineGrantsQuery,
		"-- for each sequence, each table with partitions, a period or versions, and each trigger and event whose text holds a quote:\nSHOW CREATE SEQUENCE `database`.`name`", "-- what belongs to no database:\n"+allDatabasesQuery, givenOnDatabasesQuery, databaseRightsQuery,
		usersQuery, rolesQuery, proxiesQuery, serversQuery, userRightsQuery, "-- again at the end, to notice changes:\n"+stampQuery)
	for i := range all {
		all[i] = worded(all[i], false, newest)
	}
	return all
}
