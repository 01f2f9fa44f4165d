package postgres

// Rows of the catalogue become objects once all have been read.

import (
	"cmp"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// assemble makes objects of the rows.
func (r *reader) assemble() {
	for _, n := range r.namespaces {
		if r.leftOut(pgNamespace, n.oid) {
			continue
		}
		r.reading.Objects = append(r.reading.Objects, &schema.Object{
			Kind: schema.KindSchema, Name: n.name, Owner: r.roles[n.owner], Comment: r.comments[comment{pgNamespace, n.oid, 0}],
			Grants: r.grants[[2]uint32{pgNamespace, n.oid}],
		})
	}
	for i, c := range r.constraints {
		r.constraintAt[c.oid] = i
	}
	for _, c := range r.constraints {
		if x := r.indexes[c.index]; x != nil {
			x.ofConstraint = x.ofConstraint || c.kind != 'f'
		}
	}
	for id, list := range r.attributes {
		if !slices.IsSortedFunc(list, func(a, b attribute) int { return a.number - b.number }) {
			slices.SortFunc(list, func(a, b attribute) int { return cmp.Compare(a.number, b.number) })
			r.attributes[id] = list
		}
	}
	r.addUp()
	made := make(map[[2]uint32]*schema.Object, len(r.classOrder))
	for _, c := range r.classOrder {
		if r.leftOut(pgClass, c.oid) {
			continue
		}
		if o := r.object(c); o != nil {
			o.Schema, o.Name = c.schema, c.name
			if o.Kind != schema.KindIndex { // an index belongs to the owner of its table
				o.Owner = r.roles[c.owner]
			}
			o.Comment = r.comments[comment{pgClass, c.oid, 0}]
			r.setOptions(o, c)
			o.Grants = r.grants[[2]uint32{pgClass, c.oid}]
			made[[2]uint32{pgClass, c.oid}] = o
			r.reading.Objects = append(r.reading.Objects, o)
			r.measure(o, c)
		}
	}
	for _, c := range r.constraints {
		if o := made[[2]uint32{pgClass, c.relation}]; o != nil {
			r.addConstraint(o, c)
		}
	}
	r.routineObjects(made)
	r.triggerObjects(made)
	r.tailObjects(made)
	r.defaultRightsObjects()
	r.needs(made)
	r.marks(made)
	slices.SortFunc(r.reading.Remarks, func(a, b schema.Remark) int {
		return cmp.Or(strings.Compare(a.State, b.State), strings.Compare(a.Subject, b.Subject), strings.Compare(a.Reason, b.Reason))
	})
}

// leftOut reports whether an object belongs to an extension and is not asked for.
func (r *reader) leftOut(class, oid uint32) bool {
	return !r.server.target.System && r.members[[2]uint32{class, oid}] != 0
}

// marks tells objects of extensions, and remarks on those that stand in a schema of the engine.
func (r *reader) marks(made map[[2]uint32]*schema.Object) {
	for at, o := range made {
		if extension := made[[2]uint32{pgExtension, r.members[at]}]; extension != nil && extension != o {
			o.Settings = append(o.Settings, schema.Property{Name: schema.System, Value: "of the extension " + extension.Name})
		} else if o.Schema == "pg_catalog" || o.Schema == "information_schema" {
			r.remark("note", o.ID().Qualified(), "an object of a user's in a schema of the engine")
		}
	}
}

// object makes the body of a relation, index or sequence.
func (r *reader) object(c *class) *schema.Object {
	relation := func(kind schema.Kind) *schema.Object {
		return &schema.Object{Kind: kind, Relation: &schema.Relation{Columns: r.columns(c)}}
	}
	switch c.kind {
	case 'r', 'p', 'f':
		kind := map[byte]schema.Kind{'r': schema.KindTable, 'p': schema.KindPartitionedTable, 'f': schema.KindForeignTable}[c.kind]
		if c.partition {
			kind = schema.KindPartition
		}
		o := relation(kind)
		for _, p := range r.parents[c.oid] {
			if to := r.classes[p.relation]; to != nil {
				o.Relation.Parents = append(o.Relation.Parents, schema.Parent{Schema: to.schema, Table: to.name, Bound: p.bound})
			}
		}
		if r.joinsLater(c) {
			o.Settings = append(o.Settings, schema.Property{Name: joinsLater, Value: "with columns in an order of its own"})
		}
		return o
	case 'v', 'm':
		o := relation(schema.KindView)
		if c.kind == 'm' {
			o.Kind = schema.KindMaterialisedView
		}
		o.Relation.Query = strings.TrimRight(strings.TrimSpace(r.printed[c.oid]), ";")
		return o
	case 'i', 'I':
		x := r.indexes[c.oid]
		if x == nil || x.ofConstraint {
			return nil
		}
		on := r.classes[x.relation]
		if on == nil || r.leftOut(pgClass, x.relation) { // an index on an extension's own table is the extension's
			return nil
		}
		o := &schema.Object{Kind: schema.KindIndex, Index: r.indexBody(c, x)}
		switch {
		case !x.valid && c.kind == 'I':
			o.Settings = append(o.Settings, schema.Property{Name: "invalid", Value: onNotAll})
		case !x.valid:
			o.Settings = append(o.Settings, schema.Property{Name: "invalid", Value: "yes"})
		}
		if parent := r.classes[r.indexParents[c.oid]]; parent != nil {
			if whole := r.indexes[parent.oid]; whole != nil && !whole.valid { // of others the server attaches the parts itself
				o.Index.PartOf = &schema.IndexName{Schema: parent.schema, Name: parent.name}
			}
		}
		return o
	case 'S':
		if r.owned[c.oid].kind == 'i' {
			return nil // of an identity column
		}
		s := r.sequences[c.oid]
		if s == nil {
			return nil
		}
		if owner, ok := r.owned[c.oid]; ok {
			if table := r.classes[owner.table]; table != nil {
				s.OwnedBy, s.OwnedCol = table.name, r.columnName(owner.table, owner.column)
				if table.schema != c.schema {
					s.OwnedBy = ""
				}
			}
		}
		return &schema.Object{Kind: schema.KindSequence, Sequence: s}
	}
	return nil
}

// notRead stands for a text that the server did not print.
const notRead = "?"

func (r *reader) setOptions(o *schema.Object, c *class) {
	if c.persistence == 'u' && c.kind != 'i' && c.kind != 'I' {
		o.Settings = append(o.Settings, schema.Property{Name: "unlogged", Value: "yes"})
	}
	if c.options != "" {
		for _, option := range strings.Split(c.options, "\n") {
			name, value, _ := strings.Cut(option, "=")
			o.Parameters = append(o.Parameters, schema.Property{Name: name, Value: value})
		}
	}
	o.Parameters = append(o.Parameters, r.toastParameters[c.oid]...)
	o.Options = r.foreignOptions[c.oid]
	o.Settings = append(o.Settings, r.relationExtras[c.oid]...)
	if c.kind == 'p' {
		key := r.printed[c.oid]
		if key == "" {
			key = notRead
		}
		o.Settings = append(o.Settings, schema.Property{Name: "partition by", Value: key})
	}
	if o.Index != nil {
		for k := range len(o.Index.Columns) {
			if target := schema.SettingOf(r.extraOf(c.oid, k+1).settings, "statistics"); target != "" {
				o.Index.Columns[k].Statistics = target
			}
		}
	}
	for _, list := range [][]schema.Property{o.Settings, o.Parameters} {
		slices.SortFunc(list, func(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) })
	}
}

func (r *reader) measure(o *schema.Object, c *class) {
	switch c.kind {
	case 'r', 'm', 'p', 'f':
		cost := r.costs[c.oid]
		r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: cost.rows, Bytes: cost.pages * 8192})
	case 'i':
		r.reading.Measures = append(r.reading.Measures, schema.Measure{ID: o.ID(), Rows: -1, Bytes: c.pages * 8192})
	}
}

// cost is what a table takes: its rows, with their long values, its indexes and its partitions.
type cost struct{ rows, pages int64 }

// addUp computes what each relation takes. The numbers are those of the last analysis.
func (r *reader) addUp() {
	r.costs = make(map[uint32]cost, len(r.classOrder))
	for _, c := range r.classOrder {
		switch c.kind {
		case 'r', 'm', 'f':
			r.costs[c.oid] = cost{c.rows, c.pages + r.stores[c.oid]}
		case 'p':
			r.costs[c.oid] = cost{}
		}
	}
	for id, x := range r.indexes {
		if c := r.classes[id]; c != nil {
			if of, ok := r.costs[x.relation]; ok {
				of.pages += c.pages
				r.costs[x.relation] = of
			}
		}
	}
	for _, c := range r.classOrder { // of a partition all that it is a partition of take it
		if !c.partition || c.kind == 'p' {
			continue
		}
		part := r.costs[c.oid]
		for above, depth := c, 0; above != nil && above.partition && len(r.parents[above.oid]) > 0 && depth < 64; depth++ {
			above = r.classes[r.parents[above.oid][0].relation]
			if above == nil {
				break
			}
			whole := r.costs[above.oid]
			whole.rows, whole.pages = whole.rows+max(0, part.rows), whole.pages+part.pages
			r.costs[above.oid] = whole
		}
	}
}

func (r *reader) columns(c *class) []schema.Column {
	list := r.attributes[c.oid]
	columns := make([]schema.Column, len(list))
	for i := range list {
		a := &list[i]
		col := &columns[i]
		typ := r.types[a.typ]
		col.Name, col.Type, col.NotNull = a.name, typ.name, a.notNull
		value := r.defaults[[2]uint32{c.oid, uint32(a.number)}]
		if a.collation != typ.collation {
			col.Collation = r.qualified(r.collations[a.collation])
		}
		switch {
		case a.identity != 0 && c.partition && r.server.version >= 170000: // it comes with the table's
		case a.identity != 0:
			col.Identity = r.numbering(c, a)
		case a.generated != 0: // one that mentions no column is printed with the defaults
			col.Generated = &schema.Generated{Expression: unwrap(cmp.Or(r.printed[value.oid], value.text)), Stored: a.generated == 's'}
		default:
			col.Default = value.text
		}
		if text, ok := r.comments[comment{pgClass, c.oid, a.number}]; ok {
			col.Comment = text
		}
		if (c.kind == 'r' || c.kind == 'p' || c.kind == 'm') && a.storage != typ.storage {
			col.Settings = []schema.Property{{Name: "storage", Value: storages[a.storage]}}
		}
		if extras := r.columnExtras[[2]uint32{c.oid, uint32(a.number)}]; extras != nil {
			col.Settings = append(slices.Clone(extras.settings), col.Settings...)
			col.Parameters, col.Options = extras.parameters, extras.options
			if extras.inherited && !c.partition && !r.joinsLater(c) { // else it is made with the column, and attached
				col.Inherited = r.inheriting(c, col)
			}
		}
		if n, ok := r.notNulls[[2]uint32{c.oid, uint32(a.number)}]; ok {
			n.mark(col)
		}
	}
	return columns
}

// mark keeps what there is to say of a column's not-null constraint.
func (n *notNull) mark(col *schema.Column) {
	set := func(condition bool, name, value string) {
		if condition {
			col.Settings = append(col.Settings, schema.Property{Name: name, Value: value})
		}
	}
	set(n.comment != "", nullComment, n.comment)
	set(n.name != "", nullName, n.name)
	set(n.noInherit, nullNoInherit, "yes")
	set(!n.validated, nullNotValid, "yes")
	slices.SortFunc(col.Settings, func(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) })
}

// numbering returns what there is to say of an identity column and its sequence.
func (r *reader) numbering(c *class, a *attribute) *schema.Numbering {
	n := &schema.Numbering{Mode: "always", Sequence: r.identitySequence(c.oid, a.number)}
	if a.identity == 'd' {
		n.Mode = "by default"
	}
	id := r.identities[[2]int{int(c.oid), a.number}]
	s := r.classes[id]
	if s == nil {
		return n
	}
	if s.name != c.name+"_"+a.name+"_seq" || s.schema != c.schema {
		n.SequenceName = r.qualified(named{s.name, s.schema, false})
	}
	n.Comment, n.Grants = r.comments[comment{pgClass, id, 0}], r.grants[[2]uint32{pgClass, id}]
	usual := byte('p')
	if r.server.version >= 150000 {
		usual = c.persistence
	}
	if s.persistence != usual {
		n.Persistence = map[byte]string{'u': "unlogged", 'p': "logged"}[s.persistence]
	}
	return n
}

var storages = map[byte]string{'p': "plain", 'e': "external", 'm': "main", 'x': "extended"}

// inheriting tells in what an inherited column differs from its parent's.
func (r *reader) inheriting(c *class, col *schema.Column) *schema.Inheriting {
	var own schema.Inheriting
	for _, parent := range r.parents[c.oid] {
		for _, a := range r.attributes[parent.relation] {
			if a.name == col.Name {
				if value := r.defaults[[2]uint32{parent.relation, uint32(a.number)}]; value.text != col.Default && col.Generated == nil {
					own.OwnDefault = true
				}
				if a.notNull != col.NotNull {
					own.OwnNull = true
				}
			}
		}
	}
	return &own
}

// identitySequence returns the options of an identity column's sequence, nil if all are usual.
func (r *reader) identitySequence(table uint32, column int) *schema.Sequence {
	s := r.sequences[r.identities[[2]int{int(table), column}]]
	if s == nil {
		return nil
	}
	options := *s
	options.Type = "" // the column's
	if options == (schema.Sequence{}) {
		return nil
	}
	return &options
}

// qualified returns a name for a statement, with its schema unless that is the engine's.
func (r *reader) qualified(n named) string {
	if n.schema == "pg_catalog" {
		return quote(n.name)
	}
	return quote(n.schema) + "." + quote(n.name)
}

func (r *reader) columnName(relation uint32, number int) string {
	list := r.attributes[relation]
	i, ok := slices.BinarySearchFunc(list, number, func(a attribute, n int) int { return a.number - n })
	if !ok {
		return ""
	}
	return list[i].name
}

func (r *reader) columnNames(relation uint32, numbers []int) []string {
	var names []string
	for _, n := range numbers {
		names = append(names, r.columnName(relation, n))
	}
	return names
}

// renamedForPartition reports whether a foreign key is what a partition has of its parent's, under another name. What
// a table has for each partition of the table that it refers to is no foreign key of its own.
func (r *reader) renamedForPartition(c constraint) bool {
	i, ok := r.constraintAt[c.parent]
	if !ok {
		return false
	}
	parent := r.constraints[i]
	return parent.relation != c.relation && parent.foreign == c.foreign && parent.name != c.name
}

var actions = map[byte]string{'c': "cascade", 'r': "restrict", 'n': "set null", 'd': "set default"}

func (r *reader) addConstraint(o *schema.Object, c constraint) {
	text := r.comments[comment{pgConstraint, c.oid, 0}]
	timing := ""
	if c.deferrable {
		timing = "deferrable"
	}
	if c.deferred {
		timing = "initially deferred"
	}
	rel := o.Relation
	if rel == nil || c.parent != 0 && c.kind == 'f' && !r.renamedForPartition(c) { // it comes with the parent's
		return
	}
	switch c.kind {
	case 'x':
		r.addExclusion(rel, c, text)
	case 'p', 'u':
		key := schema.Key{Name: c.name, Primary: c.kind == 'p', Timing: timing, Comment: text, Inherited: c.parent != 0}
		for _, name := range r.columnNames(c.relation, c.columns) {
			key.Columns = append(key.Columns, schema.KeyPart{Column: name})
		}
		if x := r.indexes[c.index]; x != nil {
			key.Include = r.columnNames(x.relation, x.columns[x.keyColumns:])
			set := func(condition bool, name, value string) {
				if condition {
					key.Settings = append(key.Settings, schema.Property{Name: name, Value: value})
				}
			}
			said, options, space := r.comments[comment{pgClass, c.index, 0}], r.parametersOf(c.index), r.spaceOf(c.index)
			set(said != "", keyIndexComment, said)
			set(x.nullsNotDistinct, "nulls not distinct", "yes")
			set(options != "", keyParameters, options)
			set(space != "", "tablespace", space)
			set(c.period, withoutOverlaps, "yes")
		}
		rel.Keys = insertSorted(rel.Keys, key, func(a, b schema.Key) int {
			if a.Primary != b.Primary {
				if a.Primary {
					return -1
				}
				return 1
			}
			return strings.Compare(a.Name, b.Name)
		})
	case 'f':
		to := r.classes[c.foreign]
		if to == nil {
			return
		}
		f := schema.ForeignKey{
			Name: c.name, Columns: r.columnNames(c.relation, c.columns), RefSchema: to.schema, RefTable: to.name,
			RefColumns: r.columnNames(c.foreign, c.foreignColumns), OnUpdate: actions[c.onUpdate], OnDelete: actions[c.onDelete],
			Timing: timing, NotValid: !c.validated, SetColumns: r.columnNames(c.relation, c.setColumns), Comment: text, Inherited: c.parent != 0,
		}
		if c.match == 'f' {
			f.Match = "full"
		}
		if !c.enforced {
			f.NotValid = false
			f.Settings = append(f.Settings, schema.Property{Name: notEnforced, Value: "yes"})
		}
		if c.period {
			f.Settings = append(f.Settings, schema.Property{Name: withoutOverlaps, Value: "yes"})
		}
		if x := r.indexes[c.index]; x != nil && !x.ofConstraint {
			if on := r.classes[c.index]; on != nil {
				f.RefIndex = on.name
			}
		}
		rel.ForeignKeys = insertSorted(rel.ForeignKeys, f, func(a, b schema.ForeignKey) int { return strings.Compare(a.Name, b.Name) })
	case 'c':
		c.validated = c.validated || !c.enforced
		check := schema.Check{Name: c.name, Expression: unwrap(r.printed[c.oid]), NoInherit: c.noInherit, NotValid: !c.validated, Comment: text, Inherited: !c.local && o.Kind != schema.KindPartition && (o.Setting(joinsLater) == "" || !c.validated)}
		if !c.enforced {
			check.Settings = []schema.Property{{Name: notEnforced, Value: "yes"}}
		}
		rel.Checks = insertSorted(rel.Checks, check, func(a, b schema.Check) int { return strings.Compare(a.Name, b.Name) })
	}
}

func (r *reader) addExclusion(rel *schema.Relation, c constraint, text string) {
	x := schema.Exclusion{Name: c.name, Definition: inTablespace(r.printed[c.oid], r.spaceOf(c.index)), Comment: text}
	if said := r.comments[comment{pgClass, c.index, 0}]; said != "" {
		x.Settings = []schema.Property{{Name: keyIndexComment, Value: said}}
	}
	if c.parent != 0 {
		x.Settings = append(x.Settings, schema.Property{Name: ofWhole, Value: "yes"})
	}
	rel.Exclusions = insertSorted(rel.Exclusions, x, func(a, b schema.Exclusion) int { return strings.Compare(a.Name, b.Name) })
}

// parametersOf returns the storage parameters of the index of a key, as they stand in brackets.
func (r *reader) parametersOf(index uint32) string {
	c := r.classes[index]
	if c == nil || c.options == "" {
		return ""
	}
	var all []string
	for _, o := range strings.Split(c.options, "\n") {
		name, value, _ := strings.Cut(o, "=")
		all = append(all, option(schema.Property{Name: name, Value: value}))
	}
	slices.Sort(all)
	return strings.Join(all, ", ")
}

func (r *reader) spaceOf(index uint32) string {
	return schema.SettingOf(r.relationExtras[index], "tablespace")
}

// inTablespace puts the tablespace into the definition of an exclusion constraint, which the server prints without.
func inTablespace(definition, space string) string {
	if space == "" || definition == "" {
		return definition
	}
	text := " USING INDEX TABLESPACE " + quote(space)
	depth := 0
	for _, t := range sqltext.Tokens(definition, rules()) {
		switch word := definition[t.Start:t.End]; {
		case t.Kind != sqltext.Symbol:
		case word == "(":
			depth++
		case word == ")":
			if depth--; depth == 0 && !strings.HasPrefix(definition[t.End:], " INCLUDE ") && !strings.HasPrefix(definition[t.End:], " WITH ") {
				return definition[:t.End] + text + definition[t.End:]
			}
		}
	}
	return definition
}

func unwrap(expression string) string { return sqltext.Unwrap(expression, rules()) }

func insertSorted[T any](list []T, item T, order func(a, b T) int) []T {
	i, _ := slices.BinarySearchFunc(list, item, order)
	return slices.Insert(list, i, item)
}

func (r *reader) indexBody(c *class, x *index) *schema.Index {
	body := &schema.Index{Unique: x.unique}
	if on := r.classes[x.relation]; on != nil {
		body.Table = on.name
	}
	if method := r.methods[c.method].name; method != "btree" {
		body.Method = method
	}
	text := r.indexDef[c.oid]
	expressions := text.columns
	for i := range x.keyColumns {
		part := schema.KeyPart{}
		if x.columns[i] != 0 {
			part.Column = r.columnName(x.relation, x.columns[i])
		} else if i < len(expressions) {
			part.Expression = unwrap(expressions[i])
		}
		option := x.options[i]
		part.Descending = option&1 != 0
		if nullsFirst := option&2 != 0; nullsFirst != part.Descending {
			part.Nulls = map[bool]string{true: "first", false: "last"}[nullsFirst]
		}
		oc := r.opclasses[uint32(x.classes[i])]
		options := schema.JoinParameters(r.extraOf(c.oid, i+1).parameters)
		if !oc.usual || options != "" {
			part.OpClass = r.qualified(oc)
		}
		if options != "" {
			part.OpClass += " (" + options + ")"
		}
		if co := uint32(x.collations[i]); co != 0 && x.columns[i] != 0 && co != r.usualCollation(x.relation, x.columns[i]) {
			part.Collation = r.qualified(r.collations[co])
		}
		if x.columns[i] == 0 && i < len(text.collations) && text.collations[i] != "" {
			part.Collation = r.qualified(r.collations[uint32(x.collations[i])])
		}
		body.Columns = append(body.Columns, part)
	}
	body.Include = r.columnNames(x.relation, x.columns[x.keyColumns:])
	body.Where = unwrap(text.predicate)
	if x.nullsNotDistinct {
		body.Settings = append(body.Settings, schema.Property{Name: "nulls not distinct", Value: "yes"})
	}
	return body
}

// usualCollation returns the collation that an index on the column has by itself: the column's.
func (r *reader) usualCollation(relation uint32, column int) uint32 {
	list := r.attributes[relation]
	i, ok := slices.BinarySearchFunc(list, column, func(a attribute, n int) int { return a.number - n })
	if !ok {
		return 0
	}
	return list[i].collation
}

// routineObjects makes objects of functions and procedures.
func (r *reader) routineObjects(made map[[2]uint32]*schema.Object) {
	for _, p := range r.routines {
		if r.leftOut(pgProc, p.oid) {
			continue
		}
		o := &schema.Object{
			Kind: schema.KindFunction, Schema: p.schema, Name: p.name, Signature: p.arguments, Owner: r.roles[p.owner], Comment: r.comments[comment{pgProc, p.oid, 0}],
			Routine: &schema.Routine{Language: p.language, Returns: p.result, Definition: r.printed[p.oid]},
		}
		if p.kind == 'p' {
			o.Kind = schema.KindProcedure
		}
		engine.SetHead(o.Routine, rules())
		o.Grants = r.grants[[2]uint32{pgProc, p.oid}]
		made[[2]uint32{pgProc, p.oid}] = o
		r.reading.Objects = append(r.reading.Objects, o)
	}
}

// Bits of pg_trigger.tgtype (catalog/pg_trigger.h).
const (
	triggerRow = 1 << iota
	triggerBefore
	triggerInsert
	triggerDelete
	triggerUpdate
	triggerTruncate
	triggerInstead
)

// triggerObjects makes objects of triggers.
func (r *reader) triggerObjects(made map[[2]uint32]*schema.Object) {
	for _, t := range r.triggers {
		on := made[[2]uint32{pgClass, t.relation}]
		if on == nil {
			continue // on a relation that is not read
		}
		body := &schema.Trigger{Table: on.Name, Timing: "after", Level: "statement", Definition: r.printed[t.oid], Columns: r.columnNames(t.relation, t.columns)}
		if t.typ&triggerBefore != 0 {
			body.Timing = "before"
		}
		if t.typ&triggerInstead != 0 {
			body.Timing = "instead of"
		}
		if t.typ&triggerRow != 0 {
			body.Level = "row"
		}
		for _, e := range []struct {
			bit  int
			word string
		}{{triggerInsert, "insert"}, {triggerUpdate, "update"}, {triggerDelete, "delete"}, {triggerTruncate, "truncate"}} {
			if t.typ&e.bit != 0 {
				body.Events = append(body.Events, e.word)
			}
		}
		o := &schema.Object{Kind: schema.KindTrigger, Schema: on.Schema, Within: on.Name, Name: t.name, Trigger: body, Comment: r.comments[comment{pgTrigger, t.oid, 0}]}
		switch t.enabled {
		case 'D':
			body.Disabled = true
		case 'R':
			o.Settings = []schema.Property{{Name: "fires", Value: "enable replica"}}
		case 'A':
			o.Settings = []schema.Property{{Name: "fires", Value: "enable always"}}
		}
		made[[2]uint32{pgTrigger, t.oid}] = o
		r.reading.Objects = append(r.reading.Objects, o)
	}
	r.triggersOfWholes(made)
}

// triggersOfWholes lets a partition on which a trigger of its whole fires otherwise need that trigger.
func (r *reader) triggersOfWholes(made map[[2]uint32]*schema.Object) {
	type place struct {
		relation uint32
		name     string
	}
	byTable := map[place]*schema.Object{}
	for _, t := range r.triggers {
		if o := made[[2]uint32{pgTrigger, t.oid}]; o != nil {
			byTable[place{t.relation, t.name}] = o
		}
	}
	for _, c := range r.classOrder {
		o := made[[2]uint32{pgClass, c.oid}]
		if o == nil {
			continue
		}
		for _, p := range r.relationExtras[c.oid] {
			name, ok := strings.CutPrefix(p.Name, partTrigger)
			for at, depth := c.oid, 0; ok && depth < 64 && len(r.parents[at]) > 0; depth++ {
				at = r.parents[at][0].relation
				if trigger := byTable[place{at, name}]; trigger != nil {
					r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(trigger.ID()), Evidence: schema.Recorded, Use: schema.UseAny})
					break
				}
			}
		}
	}
}
