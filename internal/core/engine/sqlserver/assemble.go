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
	for id, columns := range r.columns {
		if o := r.made[id]; o != nil && o.Relation != nil {
			for _, c := range columns {
				slices.SortFunc(c.Settings, byName)
				o.Relation.Columns = append(o.Relation.Columns, c.Column)
			}
		}
	}
	for _, k := range r.keys {
		o, x := r.made[k.table], r.indexes[at{k.table, k.index}]
		if o == nil || o.Relation == nil || x == nil {
			continue
		}
		key := schema.Key{Name: k.name, Primary: k.primary, Columns: x.parts, Settings: x.properties()}
		usual := map[bool]string{true: "clustered", false: ""}[k.primary]
		if x.method != usual {
			clustering := x.method
			if clustering == "" {
				clustering = "nonclustered"
			}
			key.Settings = append(key.Settings, schema.Property{Name: "clustering", Value: clustering})
		}
		slices.SortFunc(key.Settings, byName)
		o.Relation.Keys = append(o.Relation.Keys, key)
	}
	for id, f := range r.foreign {
		if o := r.made[r.foreignOf[id]]; o != nil && o.Relation != nil {
			o.Relation.ForeignKeys = append(o.Relation.ForeignKeys, *f)
		}
	}
	for _, id := range r.indexOrder {
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
	for _, note := range r.comments {
		note()
	}
	for _, o := range r.reading.Objects {
		switch o.Kind {
		case schema.KindPartitionFunction, schema.KindPartitionScheme:
			o.Definition += ")"
		}
		slices.SortFunc(o.Settings, byName)
		slices.SortFunc(o.Grants, func(a, b schema.Grant) int { return strings.Compare(a.PartKey(), b.PartKey()) })
	}
}

func byName(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) }

// properties are those of an index that a key has, too.
func (x *index) properties() []schema.Property {
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
	if space := x.on(); space != "" {
		set(true, "on", space)
	}
	return all
}

// on says where an index or a table lies, "" for the usual place.
func (x *index) on() string {
	switch {
	case x.space == "" || x.space == "PRIMARY":
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
		r.option(id[0], "on", x.on())
		if x.spaceType == "PS" {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(on.ID()),
				To: schema.ObjectEnd(schema.ID{Kind: schema.KindPartitionScheme, Name: x.space}), Evidence: schema.Recorded, Use: schema.UseLiesOn})
		}
	}
	if x.typ == 0 || x.primary || x.constraint || on.Kind == schema.KindTableType {
		return
	}
	o := &schema.Object{Kind: schema.KindIndex, Schema: on.Schema, Within: on.Name, Name: x.name, Settings: x.properties(),
		Index: &schema.Index{Table: on.Name, Unique: x.unique, Method: x.method, Columns: x.parts, Include: x.include, Where: x.filter}}
	if x.typ == 5 {
		o.Index.Include = nil // all columns
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

// property keeps MS_Description as the comment, and others beside.
func (r *reader) property(row *engine.Row) {
	class, major, minor, name, value := int(row.Int(0)), int(row.Int(1)), int(row.Int(2)), row.Text(3), row.Text(4)
	r.comments = append(r.comments, func() {
		var o *schema.Object
		switch class {
		case 1:
			if o = r.made[major]; o != nil && minor > 0 && o.Relation != nil {
				if c := r.named[at{major, minor}]; c != nil && name == "MS_Description" {
					o.Relation.Column(c.Name).Comment = value
				}
				return
			}
		case 3:
			o = r.find(schema.KindSchema, r.schemas[major])
		case 6:
			o = r.find(schema.KindAlias, r.types[major].name)
		case 7:
			o = r.made[indexKey(at{major, minor})]
		}
		switch {
		case o == nil:
		case name == "MS_Description":
			o.Comment = value
		default:
			o.Extended = append(o.Extended, schema.Property{Name: name, Value: value})
		}
	})
}

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
		case 1:
			o = r.made[major]
		case 3:
			o = r.find(schema.KindSchema, r.schemas[major])
		case 6:
			o = r.find(schema.KindAlias, r.types[major].name)
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
		default:
			g.Granted = append(g.Granted, right)
		}
		slices.Sort(g.Granted)
		slices.Sort(g.Grantable)
		slices.Sort(g.Revoked)
	})
}

// need adds a dependency that the server records.
func (r *reader) need(row *engine.Row) {
	id := int(row.Int(0))
	if table, ok := r.checks[id]; ok {
		id = table
	}
	target, minor := int(row.Int(4)), int(row.Int(5))
	outside := schema.Outside{Server: row.Text(8), Database: row.Text(7)}
	elsewhere := outside != schema.Outside{}
	known := schema.ID{Schema: row.Text(2), Name: row.Text(3)}
	ambiguous := row.Truth(6)
	r.comments = append(r.comments, func() {
		from, to := r.made[id], r.made[target]
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

// serverJobs read what belongs to no database.
func (r *reader) serverJobs() []job {
	add := func(kind schema.Kind, name, signature, definition string) {
		r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: kind, Name: name, Signature: signature, Definition: definition})
	}
	return []job{
		{allDatabasesQuery, func(row *engine.Row) {
			switch name := row.Text(0); name {
			case "master", "model", "msdb", "tempdb":
			default:
				text := "CREATE DATABASE " + quote(name)
				if row.Text(1) != "" {
					text += " COLLATE " + row.Text(1)
				}
				add(schema.KindDatabase, name, "", text+";\nALTER DATABASE "+quote(name)+" SET COMPATIBILITY_LEVEL = "+row.Text(2))
			}
		}},
		{linkedQuery, func(row *engine.Row) {
			text := "EXEC sys.sp_addlinkedserver @server = " + literal(row.Text(0)) + ", @srvproduct = " + literal(row.Text(1))
			for i, name := range []string{"@provider", "@datasrc", "@catalog"} {
				if value := row.Text(i + 2); value != "" {
					text += ", " + name + " = " + literal(value)
				}
			}
			add(schema.KindLinkedServer, row.Text(0), "", text)
		}},
		{loginsQuery, func(row *engine.Row) {
			name := row.Text(0)
			switch strings.TrimSpace(row.Text(1)) {
			case "R":
				add(schema.KindRole, name, "", "CREATE SERVER ROLE "+quote(name))
			case "S":
				add(schema.KindRole, name, "login", "CREATE LOGIN "+quote(name)+" WITH PASSWORD = N'' /* give one */")
			default:
				add(schema.KindRole, name, "login", "CREATE LOGIN "+quote(name)+" FROM WINDOWS")
			}
		}},
	}
}
