// Package carry carries tables, keys, checks, indexes, sequences, comments and simple views from one engine to another: each type
// and expression by the rules of the two engines, and a list of all that cannot be carried or means something else afterwards.
package carry

import (
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Loss is something that does not come along, or does as something else.
type Loss struct {
	Object schema.ID // as it is called in the engine that it comes from
	Part   string    // of the object, "" for the object itself
	Left   bool      // it does not come along; else it means something else
	What   string
}

// Result is what came of objects.
type Result struct {
	Objects []*schema.Object
	Of      map[schema.ID]schema.ID // what the objects were, by what they are now
	Losses  []Loss
}

// carrier is the work on one selection.
type carrier struct {
	from, to     engine.Engine
	read, write  engine.Carrier
	functions    map[string]string // of the source, to common names
	own          map[string]string // common names to those of the target
	types        map[string]*schema.Object
	schemas      map[string]bool
	taken        map[string]bool // names that are taken where names share a space
	now          map[schema.ID]*schema.Object
	indexes      map[[2]string][]*schema.Object // by table
	tables       map[[2]string]*schema.Object   // of the source
	owned        map[[3]string]bool             // columns that have a sequence of their own
	result       Result
	booleans     map[string]bool // columns of that type anywhere, by folded name
	untyped      map[string]bool // columns without a type
	values       bool            // no columns can be named
	object       *schema.Object  // that is carried now
	part         string
	commentsLost bool
	needs        func(schema.ID) []schema.ID
	selected     map[schema.ID]bool
}

// Objects carries objects; types are the enum types and domains that columns may be of, whether or not they are selected.
// needs returns what a view reads.
func Objects(objects, types []*schema.Object, needs func(schema.ID) []schema.ID, from, to engine.Engine) (*Result, error) {
	c := carrier{from: from, to: to, types: map[string]*schema.Object{}, schemas: map[string]bool{}, taken: map[string]bool{}, now: map[schema.ID]*schema.Object{}, own: map[string]string{}, indexes: map[[2]string][]*schema.Object{}, booleans: map[string]bool{}, untyped: map[string]bool{}, tables: map[[2]string]*schema.Object{}, owned: map[[3]string]bool{}}
	var ok, also bool
	c.read, ok = from.(engine.Carrier)
	c.write, also = to.(engine.Carrier)
	if !ok || !also {
		return nil, fmt.Errorf("nothing is carried from %s to %s", from.Name(), to.Name())
	}
	c.functions = c.read.CarriedFunctions()
	for name, common := range c.write.CarriedFunctions() {
		if have := c.own[common]; have == "" || name == common || have != common && name < have {
			c.own[common] = name
		}
	}
	for _, t := range types {
		c.types[t.Name] = t
		c.types[from.Quote(t.Name)] = t
		if t.Schema != "" {
			c.types[from.Quote(t.Schema)+"."+from.Quote(t.Name)] = t
		}
	}
	for _, o := range objects {
		switch {
		case o.Index != nil:
			at := [2]string{o.Schema, o.Index.Table}
			c.indexes[at] = append(c.indexes[at], o)
		case o.Sequence != nil && o.Sequence.OwnedBy != "":
			c.owned[[3]string{o.Schema, o.Sequence.OwnedBy, o.Sequence.OwnedCol}] = true
		case o.Kind.IsRelation() && o.Relation != nil:
			if o.Kind != schema.KindView {
				for _, col := range o.Relation.Columns {
					switch c.read.ReadType(col.Type).Base {
					case "boolean":
						c.booleans[names.Fold(col.Name)] = true
					case "":
						c.untyped[names.Fold(col.Name)] = c.untyped[names.Fold(col.Name)] || col.Type == ""
					}
				}
			}
			c.tables[[2]string{o.Schema, o.Name}] = o
		}
		c.schemas[o.Schema] = true
		if o.Kind == schema.KindSchema {
			c.schemas[o.Name] = true
		}
	}
	for _, o := range objects { // keys and indexes step back
		if o.Kind.IsRelation() || o.Sequence != nil && o.Sequence.OwnedBy == "" {
			in, name := c.place(o, o.Name)
			c.taken[strings.ToLower(in+"."+name)] = true
		}
	}
	c.needs, c.selected = needs, map[schema.ID]bool{}
	for _, o := range objects {
		c.selected[o.ID()] = true
	}
	c.result.Of = map[schema.ID]schema.ID{}
	for _, pass := range []func(*schema.Object) *schema.Object{c.first, c.second} {
		for _, o := range objects {
			c.object, c.part = o, ""
			if now := pass(o); now != nil {
				c.now[o.ID()] = now
				c.result.Objects = append(c.result.Objects, now)
				c.result.Of[now.ID()] = o.ID()
			}
		}
	}
	c.match(objects)
	c.readable()
	return &c.result, nil
}

// first carries what others rest on: schemas, sequences and tables.
func (c *carrier) first(o *schema.Object) *schema.Object {
	switch {
	case o.Setting(schema.System) != "":
		return nil
	case o.Kind == schema.KindSchema:
		if !c.write.Carries("schemas") || o.Name == c.read.Home() || o.Name == c.write.Home() {
			return nil
		}
		return &schema.Object{Kind: o.Kind, Name: o.Name}
	case o.Sequence != nil:
		return c.sequence(o)
	case o.Kind == schema.KindTable || o.Kind == schema.KindPartitionedTable:
		return c.table(o)
	case o.Kind == schema.KindView || o.Index != nil, o.Kind == schema.KindEnum, o.Kind == schema.KindDomain: // later, or in the columns
		return nil
	}
	c.lose(true, "a "+string(o.Kind)+" is not carried")
	return nil
}

// second carries what stands on tables: indexes and views.
func (c *carrier) second(o *schema.Object) *schema.Object {
	switch {
	case o.Setting(schema.System) != "":
	case o.Index != nil:
		return c.index(o)
	case o.Kind == schema.KindView:
		return c.view(o)
	}
	return nil
}

func (c *carrier) lose(left bool, what string) {
	l := Loss{Object: c.object.ID(), Part: c.part, Left: left, What: what}
	if !slices.Contains(c.result.Losses, l) {
		c.result.Losses = append(c.result.Losses, l)
	}
}

// place returns the schema and the name that an object has in the target.
func (c *carrier) place(o *schema.Object, name string) (string, string) {
	switch {
	case c.write.Carries("schemas") && (o.Schema == "" || o.Schema == c.read.Home()):
		return c.write.Home(), name
	case c.write.Carries("schemas"):
		return o.Schema, name
	}
	return "", name
}

// free returns a name that nothing else bears where names share a space; table stands in front where it is needed.
func (c *carrier) free(in, table, name string) string {
	key := func(n string) string { return strings.ToLower(in + "." + n) }
	if name != "" && c.taken[key(name)] {
		if !strings.HasPrefix(name, table+"_") {
			name = table + "_" + name
		}
		for n := 2; c.taken[key(name)]; n++ {
			name = fmt.Sprintf("%s_%d", strings.TrimRight(name, "_0123456789"), n)
		}
	}
	if name != "" {
		c.taken[key(name)] = true
	}
	return name
}

func (c *carrier) comment(text string) string {
	if text != "" && !c.write.Carries("comments") {
		if !c.commentsLost {
			c.commentsLost = true
			part := c.part
			c.part = ""
			c.lose(true, "comments: the engine keeps none")
			c.part = part
		}
		return ""
	}
	return text
}

func (c *carrier) sequence(o *schema.Object) *schema.Object {
	switch {
	case o.Sequence.OwnedBy != "": // its column numbers by itself
		return nil
	case !c.write.Carries("sequences"):
		c.lose(true, "a sequence: the engine has none")
		return nil
	}
	now := &schema.Object{Kind: o.Kind, Comment: c.comment(o.Comment)}
	now.Schema, now.Name = c.place(o, o.Name)
	q := *o.Sequence
	q.OwnedBy, q.OwnedCol = "", ""
	q.Type = ""
	if q.Start == "" {
		q.Start = "1"
	}
	if q.Increment == "" {
		q.Increment = "1"
	}
	if q.Min == "" {
		q.Min = "1"
	}
	if q.Max == "" {
		q.Max = "9223372036854775806"
	}
	if q.Cache == "" || q.Cache == "0" {
		q.Cache = "1"
	}
	if q.Max == "9223372036854775807" && c.to.Traits().CrossDatabase && !c.write.Carries("schemas") { // MariaDB keeps the last for itself
		q.Max = "9223372036854775806"
	}
	now.Sequence = &q
	return now
}

func (c *carrier) index(o *schema.Object) *schema.Object {
	table := c.now[schema.ID{Kind: schema.KindTable, Schema: o.Schema, Name: o.Index.Table}]
	if table == nil {
		table = c.now[schema.ID{Kind: schema.KindPartitionedTable, Schema: o.Schema, Name: o.Index.Table}]
	}
	if table == nil {
		return nil
	}
	x := schema.Index{Table: table.Name, Unique: o.Index.Unique}
	if m := o.Index.Method; m != "" && m != c.from.Traits().IndexMethod {
		c.lose(true, "an index of the method "+m)
		return nil
	}
	if len(o.Index.Include) > 0 {
		c.lose(false, "columns that are included only")
	}
	for _, p := range o.Index.Columns {
		k := schema.KeyPart{Column: p.Column, Descending: p.Descending}
		if p.Length > 0 {
			c.lose(false, "the index of a prefix is one of the whole column")
		}
		if p.Expression != "" {
			if !c.write.Carries("expression indexes") {
				c.lose(true, "an index of an expression: it takes none of this form")
				return nil
			}
			text, problem := c.expression(p.Expression, false)
			if problem != "" {
				c.lose(true, "an index of an expression, because of "+problem)
				return nil
			}
			k.Expression = text
		}
		x.Columns = append(x.Columns, k)
	}
	if o.Index.Where != "" {
		text, problem := c.expression(o.Index.Where, false)
		switch {
		case problem == "" && c.write.Carries("partial indexes"):
			x.Where = text
		case x.Unique:
			c.lose(true, "a unique index of some rows")
			return nil
		default:
			c.lose(false, "an index of some rows is one of all rows")
		}
	}
	now := &schema.Object{Kind: schema.KindIndex, Schema: table.Schema, Within: table.Name, Comment: c.comment(o.Comment), Index: &x}
	now.Name = c.free(now.Schema, table.Name, o.Name)
	return now
}

func (c *carrier) view(o *schema.Object) *schema.Object {
	if o.Relation == nil || o.Relation.Query == "" {
		c.lose(true, "a view whose query is not known")
		return nil
	}
	text, problem := c.expression(o.Relation.Query, true)
	if problem == "" && o.Setting("invalid") != "" {
		problem = "what is wrong with it already"
	}
	if problem != "" {
		c.lose(true, "a view, because of "+problem)
		return nil
	}
	now := &schema.Object{Kind: schema.KindView, Comment: c.comment(o.Comment), Relation: &schema.Relation{Query: text}}
	now.Schema, now.Name = c.place(o, o.Name)
	for _, col := range o.Relation.Columns {
		now.Relation.Columns = append(now.Relation.Columns, schema.Column{Name: col.Name})
	}
	if c.to.Traits().Batch != "" { // the whole statement is kept there
		now.Relation.Head = "CREATE VIEW " + c.to.Quote(now.Schema) + "." + c.to.Quote(now.Name) + " AS\n"
	}
	return now
}

// readable takes out the views that read what does not come along.
func (c *carrier) readable() {
	for again := true; again; {
		again = false
		c.result.Objects = slices.DeleteFunc(c.result.Objects, func(o *schema.Object) bool {
			was := c.result.Of[o.ID()]
			if o.Kind != schema.KindView || c.needs == nil {
				return false
			}
			for _, n := range c.needs(was) {
				if n.Kind.IsRelation() && c.selected[n] && c.now[n] == nil || n.Kind.IsRoutine() {
					c.object, c.part = &schema.Object{Kind: was.Kind, Schema: was.Schema, Name: was.Name}, ""
					c.lose(true, "a view of "+n.String()+", which is not carried")
					c.now[was], again = nil, true
					delete(c.result.Of, o.ID())
					return true
				}
			}
			return false
		})
	}
}

// match gives the columns of foreign keys the types of those that they refer to, where the target asks for that.
func (c *carrier) match(objects []*schema.Object) {
	tables := map[[2]string]*schema.Object{}
	for _, o := range c.result.Objects {
		if o.Relation != nil && o.Kind == schema.KindTable {
			tables[[2]string{o.Schema, o.Name}] = o
		}
	}
	for range 3 { // along chains
		for _, o := range objects {
			now := c.now[o.ID()]
			if now == nil || now.Relation == nil {
				continue
			}
			c.object = o
			now.Relation.ForeignKeys = slices.DeleteFunc(now.Relation.ForeignKeys, func(f schema.ForeignKey) bool {
				to := tables[[2]string{f.RefSchema, f.RefTable}]
				if f.RefSchema == "" && to == nil {
					to = tables[[2]string{now.Schema, f.RefTable}]
				}
				c.part = f.PartKey()
				for _, was := range o.Relation.ForeignKeys {
					if slices.Equal(was.Columns, f.Columns) && was.RefTable == f.RefTable {
						c.part = was.PartKey()
					}
				}
				if to == nil && len(f.RefColumns) > 0 && c.tables[[2]string{refSchema(o, f.RefTable), f.RefTable}] == nil {
					return false // it is not part of the selection, and has to be there
				}
				if to == nil {
					c.lose(true, "a foreign key to "+f.RefTable+", which is not carried")
					return true
				}
				refs := f.RefColumns
				if len(refs) == 0 && to.Relation.PrimaryKey() != nil {
					refs = to.Relation.PrimaryKey().ColumnNames()
				}
				if !held(to, refs) {
					c.lose(true, "a foreign key to columns that no key holds")
					return true
				}
				for i, name := range f.Columns {
					a := now.Relation.Column(name)
					if i >= len(refs) || a == nil {
						continue
					}
					if b := to.Relation.Column(refs[i]); b != nil && a.Type != b.Type && a.Identity == nil {
						c.part = name
						c.lose(false, fmt.Sprintf("it has the type of the column that it refers to, %s", b.Type))
						a.Type = b.Type
					}
				}
				return false
			})
		}
	}
}

// refSchema returns the schema in which a table looks for one that it refers to.
func refSchema(o *schema.Object, table string) string {
	for _, f := range o.Relation.ForeignKeys {
		if f.RefTable == table && f.RefSchema != "" {
			return f.RefSchema
		}
	}
	return o.Schema
}

// held reports whether a key of a table holds just these columns.
func held(o *schema.Object, columns []string) bool {
	return numbers(o, columns) || slices.ContainsFunc(o.Relation.Keys, func(k schema.Key) bool {
		names := k.ColumnNames()
		return len(names) == len(columns) && !slices.ContainsFunc(columns, func(c string) bool { return !slices.Contains(names, c) })
	})
}

// numbers reports whether columns are the one that numbers the rows of a table.
func numbers(o *schema.Object, columns []string) bool {
	if len(columns) != 1 || o.Relation.Column(columns[0]) == nil {
		return false
	}
	return o.Relation.Column(columns[0]).Identity != nil && o.Relation.PrimaryKey() != nil && slices.Equal(o.Relation.PrimaryKey().ColumnNames(), columns)
}
