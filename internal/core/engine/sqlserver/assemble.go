package sqlserver

// Rows of the catalogue views become objects; modules get their text, comments their objects.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// assemble puts the parts where they belong.
func (r *reader) assemble() {
	for _, mark := range r.marks {
		mark()
	}
	for id, columns := range r.columns {
		if o := r.made[id]; o != nil && o.Relation != nil {
			for _, c := range columns {
				slices.SortFunc(c.Settings, byName)
				o.Relation.Columns = append(o.Relation.Columns, c.Column)
			}
		}
	}
	for _, k := range r.keys {
		r.addKey(k)
	}
	for id, f := range r.foreign {
		if x := r.indexes[r.keyIndexes[id]]; x != nil && !x.primary && !x.constraint {
			f.RefIndex = x.name
		}
		if o := r.made[r.foreignOf[id]]; o != nil && o.Relation != nil {
			o.Relation.ForeignKeys = append(o.Relation.ForeignKeys, *f)
		}
	}
	for _, id := range r.indexOrder {
		r.selective(id, r.indexes[id])
		r.indexObject(id)
	}
	for _, id := range r.order {
		o := r.made[id]
		if o == nil {
			continue
		}
		if rel := o.Relation; rel != nil {
			slices.SortFunc(rel.Keys, func(a, b schema.Key) int {
				if a.Primary != b.Primary {
					return map[bool]int{true: -1, false: 1}[a.Primary]
				}
				return strings.Compare(a.PartKey(), b.PartKey())
			})
			slices.SortFunc(rel.ForeignKeys, func(a, b schema.ForeignKey) int { return strings.Compare(a.PartKey(), b.PartKey()) })
			slices.SortFunc(rel.Checks, func(a, b schema.Check) int { return strings.Compare(a.PartKey(), b.PartKey()) })
		}
		o.Settings = append(o.Settings, r.options[id]...)
		r.text(o, id)
		slices.SortFunc(o.Settings, byName)
		r.reading.Objects = append(r.reading.Objects, o)
	}
	for _, do := range r.members { // all principals are known
		do()
	}
	for _, note := range r.comments {
		note()
	}
	r.typed()
	for _, o := range r.reading.Objects {
		switch o.Kind {
		case schema.KindPartitionFunction, schema.KindPartitionScheme:
			o.Definition += ")"
		}
		slices.SortFunc(o.Settings, byName)
		slices.SortFunc(o.Grants, func(a, b schema.Grant) int { return strings.Compare(a.PartKey(), b.PartKey()) })
	}
}

// addKey adds a key to its table, with what is known of its index.
func (r *reader) addKey(k key) {
	o, x := r.made[k.table], r.indexes[at{k.table, k.index}]
	if o == nil || o.Relation == nil || x == nil {
		return
	}
	key := schema.Key{Name: k.name, Primary: k.primary, Columns: x.parts, Settings: x.properties(r.compressionOf(at{k.table, k.index}, x))}
	if space := x.on(r.home(k.table, k.index)); space != "" {
		key.Settings = append(key.Settings, schema.Property{Name: "on", Value: space})
	}
	usual := map[bool]string{true: "clustered", false: ""}[k.primary]
	if x.method != usual {
		clustering := x.method
		if clustering == "" {
			clustering = "nonclustered"
		}
		key.Settings = append(key.Settings, schema.Property{Name: "clustering", Value: clustering})
	}
	slices.SortFunc(key.Settings, byName)
	place := len(o.Relation.Keys)
	o.Relation.Keys = append(o.Relation.Keys, key)
	if note := k.comment; note != nil {
		o.Relation.Keys[place].Comment = *note
	}
}

// home returns the heap or the clustered index of a table, by which its other indexes lie; nil for that one itself.
func (r *reader) home(table, but int) *index {
	for _, number := range []int{0, 1} {
		if x := r.indexes[at{table, number}]; x != nil && number != but {
			return x
		}
	}
	return nil
}

// typed adds the types that columns and parameters are of, and of which table types and modules are made.
func (r *reader) typed() {
	seen := map[typeUse]bool{}
	for _, u := range r.usesTypes {
		from, to := r.made[u.object], r.typeOf[u.typ]
		if from == nil || to == nil || from == to || seen[u] {
			continue
		}
		seen[u] = true
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ColumnEnd(from.ID(), u.column), To: schema.ObjectEnd(to.ID()), Evidence: schema.Recorded, Use: schema.UseTypedBy})
	}
}

func byName(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) }

// properties are those of an index that a key has, too.
func (x *index) properties(compression string) []schema.Property {
	all := slices.Clone(x.settings)
	set := func(condition bool, name, value string) {
		if condition {
			all = append(all, schema.Property{Name: name, Value: value})
		}
	}
	set(x.fill > 0 && x.fill < 100, "fill factor", itoa(x.fill))
	set(x.padded, "pad index", "yes")
	set(x.ignoreDup, "ignore duplicates", "yes")
	set(x.disabled, "invalid", "disabled")
	set(compression != "", "compression", compression)
	return all
}

// on says where an index or a table lies, "" for the usual place: that of its table, which lies in PRIMARY where nothing else is said.
func (x *index) on(usual *index) string {
	switch {
	case x.space == "", usual == nil && x.space == "PRIMARY", usual != nil && x.space == usual.space && x.partitionedBy == usual.partitionedBy, x.typ == 3:
		return ""
	case x.spaceType == "PS":
		return quote(x.space) + " (" + quote(x.partitionedBy) + ")"
	}
	return quote(x.space)
}

func (r *reader) indexObject(id at) {
	x, on := r.indexes[id], r.made[id[0]]
	if on == nil || on.Relation == nil {
		return
	}
	if id[1] < 2 && on.Kind == schema.KindTable { // the table lies where its heap or clustered index does
		r.option(id[0], "on", x.on(nil))
		if x.typ == 0 {
			r.option(id[0], "compression", r.compressionOf(id, x))
		}
		r.lies(on, x.space)
		if x.spaceType == "PS" {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(on.ID()),
				To: schema.ObjectEnd(schema.ID{Kind: schema.KindPartitionScheme, Name: x.space}), Evidence: schema.Recorded, Use: schema.UseLiesOn})
		}
	}
	if x.typ == 0 || x.primary || x.constraint || on.Kind == schema.KindTableType {
		return
	}
	settings := x.properties(r.compressionOf(id, x))
	if space := x.on(r.home(id[0], id[1])); space != "" {
		settings = append(settings, schema.Property{Name: "on", Value: space})
	}
	slices.SortFunc(settings, byName)
	if on.Kind == schema.KindView {
		settings = append(settings, schema.Property{Name: ofView, Value: "yes"})
	}
	if slices.ContainsFunc(r.options[id[0]], func(p schema.Property) bool { return p.Name == "memory optimized" }) {
		settings = append(settings, schema.Property{Name: inMemory, Value: "yes"})
	}
	o := &schema.Object{Kind: schema.KindIndex, Schema: on.Schema, Within: on.Name, Name: x.name, Settings: settings,
		Index: &schema.Index{Table: on.Name, Unique: x.unique, Method: x.method, Columns: x.parts, Include: x.include, Where: x.filter}}
	if x.typ == 5 {
		o.Index.Include = nil // all columns
	}
	r.lies(o, x.space)
	if x.spaceType == "PS" { // of its own, or its table's
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(schema.ID{Kind: schema.KindPartitionScheme, Name: x.space}), Evidence: schema.Recorded, Use: schema.UseLiesOn})
	}
	if using := o.Setting("using"); using != "" {
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()),
			To: schema.ObjectEnd(schema.ID{Kind: schema.KindIndex, Schema: on.Schema, Table: on.Name, Name: using}), Evidence: schema.Recorded, Use: schema.UseMadeOf})
	}
	r.reading.Objects = append(r.reading.Objects, o)
	index := o
	r.indexes[id].settings = nil
	r.made[indexKey(id)] = index
}

// Settings of indexes and triggers that stand on a view, and of indexes of a memory-optimised table: these are part of its statement.
const (
	ofView   = "of a view"
	inMemory = "in memory"
)

// indexKey numbers an index among the objects, where numbers of objects do not reach.
func indexKey(id at) int { return -(id[0]*1_000_000 + id[1]) }

// text gives a module its definition and the settings under which it was made.
func (r *reader) text(o *schema.Object, id int) {
	m, ok := r.modules[id]
	if !ok {
		return
	}
	if m.hidden {
		r.remark("hidden", o.ID().Qualified(), "its text is encrypted, or the user lacks the right VIEW DEFINITION on it")
	}
	if !m.nulls {
		o.Settings = append(o.Settings, schema.Property{Name: "ansi nulls", Value: "off"})
	}
	if !m.quoting {
		o.Settings = append(o.Settings, schema.Property{Name: "quoted identifier", Value: "off"})
	}
	switch {
	case o.Routine != nil:
		o.Routine.Definition = m.definition
		engine.SetHead(o.Routine, rules())
	case o.Trigger != nil:
		o.Trigger.Definition = m.definition
	case o.Relation != nil:
		o.Relation.Head, o.Relation.Query, o.Relation.Tail = sqltext.ViewQuery(m.definition, rules())
	default:
		o.Definition = m.definition
	}
}

// description is the extended property that tools show as the comment.
const description = "MS_Description"

// property keeps MS_Description as the comment, and others beside.
func (r *reader) property(row *engine.Row) {
	class, major, minor, name, value := int(row.Int(0)), int(row.Int(1)), int(row.Int(2)), row.Text(3), row.Text(4)
	if note := r.parts[major]; class == 1 && note != nil {
		r.marks = append(r.marks, func() { note(name, value) })
		return
	}
	r.comments = append(r.comments, func() {
		var o *schema.Object
		switch class {
		case 1:
			o = r.made[major]
			if c := r.named[at{major, minor}]; o != nil && minor > 0 && o.Relation != nil {
				switch {
				case c == nil:
				case name == description:
					o.Relation.Column(c.Name).Comment = value
				default:
					into := o.Relation.Column(c.Name)
					into.Options = append(into.Options, schema.Property{Name: name, Value: value})
				}
				return
			}
		case 2:
			if o = r.made[major]; o != nil {
				o.Extended = append(o.Extended, schema.Property{Name: ofParameter + r.parameters[at{major, minor}] + " " + name, Value: value})
			}
			return
		case 3:
			o = r.find(schema.KindSchema, r.schemas[major])
		case 6:
			o = r.typeOf[major]
		case 7:
			o = r.made[indexKey(at{major, minor})]
		}
		switch {
		case o == nil:
		case name == description:
			o.Comment = value
		default:
			o.Extended = append(o.Extended, schema.Property{Name: name, Value: value})
		}
	})
}

// ofParameter stands in front of the name of an extended property of a parameter.
const ofParameter = "parameter "

func (r *reader) find(kind schema.Kind, name string) *schema.Object {
	for _, o := range r.reading.Objects {
		if o.Kind == kind && o.Name == name {
			return o
		}
	}
	return nil
}

// permission keeps a right; one that is denied is kept as revoked.
func (r *reader) permission(row *engine.Row) {
	class, major, minor := int(row.Int(0)), int(row.Int(1)), int(row.Int(2))
	grantee, right, state := row.Text(3), row.Text(4), strings.TrimSpace(row.Text(5))
	r.comments = append(r.comments, func() {
		var o *schema.Object
		switch class {
		case 0:
			r.databaseRight(grantee, right, state)
			return
		case 1:
			o = r.made[major]
		case 3:
			o = r.find(schema.KindSchema, r.schemas[major])
		case 6:
			o = r.typeOf[major]
		}
		if o == nil {
			return
		}
		column := ""
		if c := r.named[at{major, minor}]; c != nil && class == 1 && minor > 0 {
			column = c.Name
		}
		i := slices.IndexFunc(o.Grants, func(g schema.Grant) bool { return g.Grantee == grantee && g.Column == column })
		if i < 0 {
			i = len(o.Grants)
			o.Grants = append(o.Grants, schema.Grant{Grantee: grantee, Column: column})
		}
		g := &o.Grants[i]
		switch state {
		case "W":
			g.Grantable = append(g.Grantable, right)
		case "D":
			g.Revoked = append(g.Revoked, right)
		case "R": // of a column, while the table has the right
			g.Revoked = append(g.Revoked, right+takenBack)
		default:
			g.Granted = append(g.Granted, right)
		}
		slices.Sort(g.Granted)
		slices.Sort(g.Grantable)
		slices.Sort(g.Revoked)
	})
}

// takenBack marks a right on a column that was revoked, and not denied.
const takenBack = " (taken back)"

// databaseRight keeps a right on the database itself with the one who has it.
func (r *reader) databaseRight(grantee, right, state string) {
	for _, o := range r.reading.Objects {
		if o.Kind != schema.KindRole || o.Name != grantee {
			continue
		}
		switch {
		case right == "CONNECT" && state == "G" && o.Signature == "user": // comes with the user
		case state == "D":
			o.Definition += ";\nDENY " + right + " TO " + quote(grantee)
		case state == "W":
			o.Definition += ";\nGRANT " + right + " TO " + quote(grantee) + " WITH GRANT OPTION"
		default:
			o.Definition += ";\nGRANT " + right + " TO " + quote(grantee)
		}
	}
}

// need adds a dependency that the server records. That of a default or a check is its table's.
func (r *reader) need(row *engine.Row) {
	id := int(row.Int(0))
	if table, ok := r.checks[id]; ok {
		id = table
	}
	if table, ok := r.defaults[id]; ok {
		id = table
	}
	r.needOf(id, row, 2)
}

// needOf adds what an object refers to; its description begins at a column of the row.
func (r *reader) needOf(id int, row *engine.Row, first int) {
	target, minor := int(row.Int(first+2)), int(row.Int(first+3))
	outside := schema.Outside{Server: row.Text(first + 6), Database: row.Text(first + 5)}
	elsewhere := outside != schema.Outside{}
	known := schema.ID{Schema: row.Text(first), Name: row.Text(first + 1)}
	ambiguous, byCaller := row.Truth(first+4), row.Truth(first+7)
	r.comments = append(r.comments, func() {
		from, to := r.made[id], r.made[target]
		if from != nil && to == nil && byCaller && !elsewhere { // known when it runs: in the schema of the one who calls, else in dbo
			if to = r.called(known, from.Schema); to == nil {
				return
			}
		}
		switch {
		case from == nil || from == to:
			return
		case to == nil && target == 0 && !elsewhere && !ambiguous:
			r.remark("note", from.ID().Qualified(), "it mentions "+strings.Trim(known.Schema+"."+known.Name, ".")+", which does not exist")
			return
		case to == nil && elsewhere:
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.End{ID: known, Outside: outside}, Evidence: schema.Recorded, Use: schema.UseReads})
			return
		case to == nil:
			return
		}
		part := ""
		if c := r.named[at{target, minor}]; c != nil && minor > 0 {
			part = c.Name
		}
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.ColumnEnd(to.ID(), part), Evidence: schema.Recorded, Use: schema.UseReads})
	})
}

// called returns what a name means to the modules of a schema, nil where there is none.
func (r *reader) called(name schema.ID, home string) *schema.Object {
	for _, in := range []string{name.Schema, home, "dbo"} {
		for _, id := range r.order {
			if o := r.made[id]; o != nil && o.Within == "" && strings.EqualFold(o.Name, name.Name) && (in == o.Schema && in != "") && (name.Schema == "" || name.Schema == in) {
				return o
			}
		}
	}
	return nil
}

// serverJobs read what belongs to no database.
func (r *reader) serverJobs() []job {
	add := func(kind schema.Kind, name, signature, definition string) {
		r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: kind, Name: name, Signature: signature, Definition: definition})
	}
	login := func(row *engine.Row) {
		name, typ := row.Text(1), strings.TrimSpace(row.Text(2))
		switch {
		case strings.HasPrefix(name, "##"), name == "sa", name == "public": // the server's own
		case typ == "R":
			add(schema.KindRole, name, "", "CREATE SERVER ROLE "+quote(name))
		default:
			add(schema.KindRole, name, "login", loginText(name, typ, row.Text(5), row.Text(4), row.Truth(3)))
		}
	}
	jobs := []job{
		{sql: allDatabasesQuery, each: r.database},
		{sql: linkedQuery, each: func(row *engine.Row) {
			text := "EXEC sys.sp_addlinkedserver @server = " + literal(row.Text(0)) + ", @srvproduct = " + literal(row.Text(1))
			if row.Text(1) != "SQL Server" { // that product takes neither provider nor source: the server's name is both
				for i, name := range []string{"@provider", "@datasrc", "@catalog"} {
					if value := row.Text(i + 2); value != "" {
						text += ", " + name + " = " + literal(value)
					}
				}
			}
			add(schema.KindLinkedServer, row.Text(0), "", text)
		}},
		{sql: loginsQuery, each: login},
		{sql: loginRolesQuery, each: func(row *engine.Row) {
			for _, o := range r.reading.Objects {
				if o.Kind == schema.KindRole && o.Name == row.Text(1) {
					o.Definition += ";\nALTER SERVER ROLE " + quote(row.Text(0)) + " ADD MEMBER " + quote(o.Name)
				}
			}
		}},
	}
	if r.s != nil && r.s.edition == azureDatabase { // it has no linked servers, and logins of its own alone
		jobs = []job{jobs[0], {sql: sqlLoginsQuery, each: login}}
	}
	return append(jobs, r.databaseJobs()...)
}

// loginText writes a login: its password is a place that does not run until it is filled in.
func loginText(name, typ, sid, database string, disabled bool) string {
	var options []string
	text := "CREATE LOGIN " + quote(name)
	switch typ {
	case "S":
		options = append(options, secretPlace)
		if sid != "" {
			options = append(options, "SID = "+sid)
		}
	case "E", "X":
		text += " FROM EXTERNAL PROVIDER"
	default:
		text += " FROM WINDOWS"
	}
	if database != "" && database != "master" {
		options = append(options, "DEFAULT_DATABASE = "+quote(database))
	}
	if len(options) > 0 {
		text += " WITH " + strings.Join(options, ", ")
	}
	if disabled {
		text += ";\nALTER LOGIN " + quote(name) + " DISABLE"
	}
	return text
}
