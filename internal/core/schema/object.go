package schema

// The model: an object, and the body that its kind asks for.

import "strings"

// ModelVersion is the version of the model that this program writes. A property that came with a later
// version than the one a snapshot was read with was not recorded there. The `n` tag numbers a field in
// the compact form: a number, once used, is never given to another field; `since` names the version
// that brought the field, where that is not the first.
const ModelVersion = 6

// Identity is what makes an object the same one, in every snapshot of its database: its name in the name space that it
// is unique in. The kind is a property: a table that becomes a partition keeps its identity.
type Identity struct{ Space, Schema, Table, Name, Signature string }

// ID identifies an object within one snapshot: its identity, and the kind that it is of there.
type ID struct {
	Kind   Kind
	Schema string // empty where the engine has no schemas
	Table  string // the relation whose name space the name belongs to; empty where names belong to the schema
	Name   string
	// Signature holds a routine's argument types, separated by ", "; empty for all else.
	Signature string
}

// Identity returns what the object is called, whatever its kind.
func (a ID) Identity() Identity {
	return Identity{a.Kind.NameSpace(), a.Schema, a.Table, a.Name, a.Signature}
}

// Compare orders identifiers as people read them: by schema, kind, name.
func (a ID) Compare(b ID) int {
	if c := strings.Compare(a.Schema, b.Schema); c != 0 {
		return c
	}
	if c := a.Kind.Rank() - b.Kind.Rank(); c != 0 {
		return c
	}
	if c := strings.Compare(string(a.Kind), string(b.Kind)); c != 0 {
		return c
	}
	if c := strings.Compare(a.Table, b.Table); c != 0 {
		return c
	}
	if c := strings.Compare(a.Name, b.Name); c != 0 {
		return c
	}
	return strings.Compare(a.Signature, b.Signature)
}

// Object is a thing with its own DDL. Which of the bodies is set follows from the kind.
type Object struct {
	Kind      Kind   `json:"kind" n:"1"`
	Schema    string `json:"schema,omitempty" n:"2"`
	Within    string `json:"within,omitempty" n:"3"` // ID.Table
	Name      string `json:"name" n:"4"`
	Signature string `json:"signature,omitempty" n:"5"`

	Owner    string     `json:"owner,omitempty" n:"6" aspect:"owners"`
	Comment  string     `json:"comment,omitempty" n:"7" aspect:"comments"`
	Settings []Property `json:"settings,omitempty" n:"8"` // the engine's own properties, with names of ours, sorted by name
	// The engine's open lists, whose names are the engine's, an extension's or a user's. Models before the fifth kept them
	// among the settings.
	Parameters []Property `json:"parameters,omitempty" n:"23,since=5" aspect:"storage"` // storage parameters and the like
	Options    []Property `json:"options,omitempty" n:"24,since=5"`                     // what a foreign-data wrapper is told
	Extended   []Property `json:"extended,omitempty" n:"25,since=5"`                    // properties that users attach

	Relation *Relation `json:"relation,omitempty" n:"9"`
	Index    *Index    `json:"index,omitempty" n:"10"`
	Sequence *Sequence `json:"sequence,omitempty" n:"11"`
	Trigger  *Trigger  `json:"trigger,omitempty" n:"12"`

	// Source is the text that the server keeps of the object, as somebody typed it. It is not compared:
	// what it says is in the other fields, how it is laid out is no property of the schema.
	Source string `json:"source,omitempty" n:"13" diff:"-"`

	Routine *Routine `json:"routine,omitempty" n:"14"`

	// Definition is the statement that makes an object of a kind that has no body of its own.
	Definition string  `json:"definition,omitempty" n:"15,since=2"`
	Grants     []Grant `json:"grants,omitempty" n:"16,since=2" aspect:"grants"`

	// Types that are a list, another type, or a row. Models before the fourth kept them as statements.
	Enum      *Enum      `json:"enum,omitempty" n:"17,since=4"`
	Domain    *Domain    `json:"domain,omitempty" n:"18,since=4"`
	Composite *Composite `json:"composite,omitempty" n:"19,since=4"`
	Synonym   *Synonym   `json:"synonym,omitempty" n:"20,since=4"`
	Event     *Event     `json:"event,omitempty" n:"21,since=4"`
	Policy    *Policy    `json:"policy,omitempty" n:"22,since=4"`
	Aggregate *Aggregate `json:"aggregate,omitempty" n:"26,since=5"`
}

// Policy says which rows of a table some roles see, and which they may write.
type Policy struct {
	Restrictive bool     `json:"restrictive,omitempty" n:"1"`
	Command     string   `json:"command,omitempty" n:"2"` // "select", "insert", "update", "delete"; "" for all
	Roles       []string `json:"roles,omitempty" n:"3"`   // none: everybody
	Using       string   `json:"using,omitempty" n:"4"`   // an expression
	Check       string   `json:"check,omitempty" n:"5"`   // likewise
}

// Aggregate is a function over many rows, made of others.
type Aggregate struct {
	Arguments string     `json:"arguments,omitempty" n:"1"` // as the engine writes them
	Clauses   []Property `json:"clauses,omitempty" n:"2"`   // what it is made of, by the engine's names, in its order; a value may be missing
}

// Event is a thing that the server does by the clock.
type Event struct {
	Schedule string `json:"schedule" n:"1"` // when, as the engine writes it
	Body     string `json:"body" n:"2"`     // what it does
}

// Synonym is another name of an object, here or elsewhere, as far as it is written.
type Synonym struct {
	Server   string `json:"server,omitempty" n:"1"`
	Database string `json:"database,omitempty" n:"2"`
	Schema   string `json:"schema,omitempty" n:"3"`
	Name     string `json:"name" n:"4"`
}

// Enum is a type that is a list of values, in order.
type Enum struct {
	Values []string `json:"values,omitempty" n:"1"`
}

// Composite is a type that is a row.
type Composite struct {
	Attributes []Column `json:"attributes,omitempty" n:"1"`
}

// Domain is a type that is another with conditions.
type Domain struct {
	Type      string  `json:"type" n:"1"`
	NotNull   bool    `json:"not_null,omitempty" n:"2"`
	Default   string  `json:"default,omitempty" n:"3"`
	Collation string  `json:"collation,omitempty" n:"4"`
	Checks    []Check `json:"checks,omitempty" n:"5"`
	// NotNullName is that of the constraint, where it is not the one that the server makes up.
	NotNullName    string `json:"not_null_name,omitempty" n:"6,since=6"`
	NotNullComment string `json:"not_null_comment,omitempty" n:"7,since=6" aspect:"comments"`
}

// Columns returns the columns of a relation, or the attributes of a composite type.
func (o *Object) Columns() []Column {
	switch {
	case o.Relation != nil:
		return o.Relation.Columns
	case o.Composite != nil:
		return o.Composite.Attributes
	}
	return nil
}

// IsTyped reports whether the object is held as what it is where older models kept a statement.
func (o *Object) IsTyped() bool {
	return o.Enum != nil || o.Domain != nil || o.Composite != nil || o.Synonym != nil || o.Event != nil || o.Policy != nil || o.Aggregate != nil
}

// ID returns the object's identity.
func (o *Object) ID() ID {
	return ID{Kind: o.Kind, Schema: o.Schema, Table: o.Within, Name: o.Name, Signature: o.Signature}
}

// On returns the name of the relation that the object stands on (an index, a trigger), or "".
func (o *Object) On() string {
	switch {
	case o.Index != nil:
		return o.Index.Table
	case o.Trigger != nil:
		return o.Trigger.Table
	}
	return o.Within
}

// Setting returns the value of the engine's own property of that name, "" if it is not set.
func (o *Object) Setting(name string) string { return SettingOf(o.Settings, name) }

// SettingOf returns the value of the property of that name, "" if it is not there.
func SettingOf(all []Property, name string) string {
	for _, p := range all {
		if p.Name == name {
			return p.Value
		}
	}
	return ""
}

// System names the setting of an object that the engine or an extension made; scripts leave it to them.
const System = "system"

// Property is a named value of the engine's own.
type Property struct {
	Name  string `json:"name" n:"1"`
	Value string `json:"value" n:"2"`
}

// PartKey returns the name: properties are matched by it.
func (p Property) PartKey() string { return p.Name }

// Grant tells in what the rights of a grantee differ from those that every new object of the kind gives.
type Grant struct {
	Grantee   string   `json:"grantee" n:"1"`          // "" is everybody (PUBLIC)
	Column    string   `json:"column,omitempty" n:"2"` // of rights on one column
	Granted   []string `json:"granted,omitempty" n:"3"`
	Grantable []string `json:"grantable,omitempty" n:"4"` // with the right to pass them on
	Revoked   []string `json:"revoked,omitempty" n:"5"`   // of what a new object gives
}

// PartKey returns the grantee, and the column if there is one.
func (g Grant) PartKey() string {
	name := g.Grantee
	if name == "" {
		name = "everybody"
	}
	if g.Column != "" {
		name += " on column " + g.Column
	}
	return name
}

// Parent is a relation whose columns another inherits, or whose partition it is.
type Parent struct {
	Schema string `json:"schema,omitempty" n:"1"`
	Table  string `json:"table" n:"2"`
	// Bound says which rows a partition takes, as the engine writes it; "" for inheritance.
	Bound string `json:"bound,omitempty" n:"3"`
}

// PartKey returns the parent's name.
func (p Parent) PartKey() string { return p.Schema + "." + p.Table }

// Exclusion is an exclusion constraint.
type Exclusion struct {
	Name       string `json:"name" n:"1"`
	Definition string `json:"definition" n:"2"` // as the engine writes it, from EXCLUDE on
	Comment    string `json:"comment,omitempty" n:"3" aspect:"comments"`

	Settings []Property `json:"settings,omitempty" n:"4,since=6"` // the engine's own
}

// PartKey returns the name.
func (e Exclusion) PartKey() string { return e.Name }

// Relation holds the parts of a table or view.
type Relation struct {
	Columns     []Column     `json:"columns,omitempty" n:"1"`
	Keys        []Key        `json:"keys,omitempty" n:"2"`
	ForeignKeys []ForeignKey `json:"foreign_keys,omitempty" n:"3"`
	Checks      []Check      `json:"checks,omitempty" n:"4"`
	Query       string       `json:"query,omitempty" n:"5"` // of a view: the query alone
	Exclusions  []Exclusion  `json:"exclusions,omitempty" n:"6,since=2"`
	Parents     []Parent     `json:"parents,omitempty" n:"7,since=2"`
	// Head and Tail are what stands before and behind the query of a view, where the engine keeps the whole statement.
	Head string `json:"head,omitempty" n:"8,since=5"`
	Tail string `json:"tail,omitempty" n:"9,since=5"`
}

// PrimaryKey returns the primary key, nil if there is none.
func (r *Relation) PrimaryKey() *Key {
	for i := range r.Keys {
		if r.Keys[i].Primary {
			return &r.Keys[i]
		}
	}
	return nil
}

// Column returns the column of that name, nil if there is none.
func (r *Relation) Column(name string) *Column {
	for i := range r.Columns {
		if r.Columns[i].Name == name {
			return &r.Columns[i]
		}
	}
	return nil
}

// Column is a column of a relation, in the relation's order.
type Column struct {
	Name      string     `json:"name" n:"1"`
	Type      string     `json:"type,omitempty" n:"2"` // as the engine writes it, length and precision included
	NotNull   bool       `json:"not_null,omitempty" n:"3"`
	Default   string     `json:"default,omitempty" n:"4"` // an SQL expression
	Identity  *Numbering `json:"identity,omitempty" n:"5"`
	Generated *Generated `json:"generated,omitempty" n:"6"`
	Collation string     `json:"collation,omitempty" n:"7"`
	Comment   string     `json:"comment,omitempty" n:"8" aspect:"comments"`
	Settings  []Property `json:"settings,omitempty" n:"9"`

	Parameters []Property  `json:"parameters,omitempty" n:"10,since=5"` // as an object's
	Options    []Property  `json:"options,omitempty" n:"11,since=5"`
	Inherited  *Inheriting `json:"inherited,omitempty" n:"12,since=5"` // nil: the column is the table's own
}

// Inheriting says in what a column that comes from a parent differs from it.
type Inheriting struct {
	OwnDefault bool `json:"own_default,omitempty" n:"1"`
	OwnNull    bool `json:"own_null,omitempty" n:"2"` // whether it takes nulls
}

// PartKey returns the name: columns are matched by it.
func (c Column) PartKey() string { return c.Name }

// Setting returns the value of the engine's own property of that name, "" if it is not set.
func (c *Column) Setting(name string) string { return SettingOf(c.Settings, name) }

// Numbering says how a column numbers its rows.
type Numbering struct {
	// Mode is "always" or "by default" (SQL identity columns) or "auto increment".
	Mode     string    `json:"mode" n:"1"`
	Sequence *Sequence `json:"sequence,omitempty" n:"2"`
	// What there is to say of the sequence behind it. The name is that which the server does not make up by itself.
	SequenceName string  `json:"sequence_name,omitempty" n:"3,since=6"`
	Comment      string  `json:"comment,omitempty" n:"4,since=6" aspect:"comments"`
	Grants       []Grant `json:"grants,omitempty" n:"5,since=6" aspect:"grants"`
	Persistence  string  `json:"persistence,omitempty" n:"6,since=6"` // "logged" or "unlogged", where the table is not so
}

// Generated says how a generated column is computed.
type Generated struct {
	Expression string `json:"expression" n:"1"`
	Stored     bool   `json:"stored,omitempty" n:"2"`
}

// Key is a primary key or a unique constraint.
type Key struct {
	Name     string     `json:"name,omitempty" n:"1"`
	Primary  bool       `json:"primary,omitempty" n:"2"`
	Columns  []KeyPart  `json:"columns" n:"3"`
	Include  []string   `json:"include,omitempty" n:"4"`
	Timing   string     `json:"timing,omitempty" n:"5"` // "", "deferrable" or "initially deferred"
	Comment  string     `json:"comment,omitempty" n:"6" aspect:"comments"`
	Settings []Property `json:"settings,omitempty" n:"7"`
	// Inherited says that the key of a partition is part of its parent's.
	Inherited bool `json:"inherited,omitempty" n:"8,since=3"`
}

// PartKey returns what keys are matched by: the name, or where there is none, kind and columns.
func (k Key) PartKey() string {
	switch {
	case k.Name != "":
		return k.Name
	case k.Primary:
		return "primary key"
	}
	return "unique (" + strings.Join(k.ColumnNames(), ", ") + ")"
}

// Kind returns KindPrimaryKey or KindUnique.
func (k Key) Kind() Kind {
	if k.Primary {
		return KindPrimaryKey
	}
	return KindUnique
}

// ColumnNames returns the names of the key's columns in order.
func (k Key) ColumnNames() []string {
	names := make([]string, len(k.Columns))
	for i, c := range k.Columns {
		names[i] = c.Column
	}
	return names
}

// KeyPart is one column or expression of a key or an index.
type KeyPart struct {
	Column     string `json:"column,omitempty" n:"1"`
	Expression string `json:"expression,omitempty" n:"2"` // instead of a column
	Descending bool   `json:"descending,omitempty" n:"3"`
	Nulls      string `json:"nulls,omitempty" n:"4"` // "first" or "last", where that is not the order's own
	Collation  string `json:"collation,omitempty" n:"5"`
	OpClass    string `json:"operator_class,omitempty" n:"6"`
	Length     int    `json:"length,omitempty" n:"7"`             // of a prefix, in characters
	Statistics string `json:"statistics,omitempty" n:"8,since=5"` // how many values the server keeps of an expression
}

// ForeignKey is a referential constraint.
type ForeignKey struct {
	Name       string   `json:"name,omitempty" n:"1"`
	Columns    []string `json:"columns" n:"2"`
	RefSchema  string   `json:"ref_schema,omitempty" n:"3"`
	RefTable   string   `json:"ref_table" n:"4"`
	RefColumns []string `json:"ref_columns,omitempty" n:"5"` // empty: the primary key, not spelt out
	OnUpdate   string   `json:"on_update,omitempty" n:"6"`   // "cascade", "restrict", "set null", "set default"; "": no action
	OnDelete   string   `json:"on_delete,omitempty" n:"7"`
	Match      string   `json:"match,omitempty" n:"8"` // "full"; "": simple
	Timing     string   `json:"timing,omitempty" n:"9"`
	NotValid   bool     `json:"not_valid,omitempty" n:"10"`
	SetColumns []string `json:"set_columns,omitempty" n:"11"` // the columns that "set null" or "set default" is limited to
	Comment    string   `json:"comment,omitempty" n:"12" aspect:"comments"`
	// RefIndex is the unique index that the reference rests on, where no key of the other table does.
	RefIndex string `json:"ref_index,omitempty" n:"13"`
	Disabled bool   `json:"disabled,omitempty" n:"14,since=2"`
	// Inherited says that the foreign key of a partition is part of its parent's, under a name of its own.
	Inherited bool       `json:"inherited,omitempty" n:"15,since=3"`
	Settings  []Property `json:"settings,omitempty" n:"16,since=6"` // the engine's own
}

// PartKey returns the name, or where there is none, the columns.
func (f ForeignKey) PartKey() string {
	if f.Name != "" {
		return f.Name
	}
	return "foreign key (" + strings.Join(f.Columns, ", ") + ") to " + f.RefTable
}

// Check is a check constraint.
type Check struct {
	Name       string `json:"name,omitempty" n:"1"`
	Expression string `json:"expression" n:"2"`
	NoInherit  bool   `json:"no_inherit,omitempty" n:"3"`
	NotValid   bool   `json:"not_valid,omitempty" n:"4"`
	Comment    string `json:"comment,omitempty" n:"5" aspect:"comments"`
	// Column is the column that the check was declared with, where the engine keeps that apart.
	Column string `json:"column,omitempty" n:"6"`
	// Inherited says that the check is there because a parent has it.
	Inherited bool       `json:"inherited,omitempty" n:"7,since=2"`
	Disabled  bool       `json:"disabled,omitempty" n:"8,since=2"`
	Settings  []Property `json:"settings,omitempty" n:"9,since=6"` // the engine's own
}

// PartKey returns the name, or where there is none, the expression.
func (c Check) PartKey() string {
	if c.Name != "" {
		return c.Name
	}
	return "check (" + c.Expression + ")"
}

// Index is an index that is not made by a key.
type Index struct {
	Table    string     `json:"table" n:"1"`
	Unique   bool       `json:"unique,omitempty" n:"2"`
	Method   string     `json:"method,omitempty" n:"3"` // where it is not the engine's usual one
	Columns  []KeyPart  `json:"columns" n:"4"`
	Include  []string   `json:"include,omitempty" n:"5"`
	Where    string     `json:"where,omitempty" n:"6"` // of a partial index
	Settings []Property `json:"settings,omitempty" n:"7"`
	// Position is the place among the table's indexes, where the engine keeps one; it is not compared.
	Position int `json:"position,omitempty" n:"8" diff:"-"`
	// PartOf is the index of a partitioned table that has to be told of this one.
	PartOf *IndexName `json:"part_of,omitempty" n:"9,since=5"`
}

// IndexName names an index.
type IndexName struct {
	Schema string `json:"schema,omitempty" n:"1"`
	Name   string `json:"name" n:"2"`
}

// Sequence is a number generator. Numbers are kept as text: their range is the engine's.
type Sequence struct {
	Type      string `json:"type,omitempty" n:"1"`
	Start     string `json:"start,omitempty" n:"2"`
	Increment string `json:"increment,omitempty" n:"3"`
	Min       string `json:"min,omitempty" n:"4"`
	Max       string `json:"max,omitempty" n:"5"`
	Cache     string `json:"cache,omitempty" n:"6"`
	Cycle     bool   `json:"cycle,omitempty" n:"7"`
	OwnedBy   string `json:"owned_by,omitempty" n:"8"`  // table, of the same schema, of the column that owns it
	OwnedCol  string `json:"owned_col,omitempty" n:"9"` // that column
}

// Trigger is a row or statement trigger.
type Trigger struct {
	Table    string   `json:"table" n:"1"`
	Timing   string   `json:"timing,omitempty" n:"2"` // "before", "after", "instead of"
	Events   []string `json:"events,omitempty" n:"3"` // "insert", "update", "delete", "truncate"
	Columns  []string `json:"columns,omitempty" n:"4"`
	Level    string   `json:"level,omitempty" n:"5"` // "row" or "statement"
	When     string   `json:"when,omitempty" n:"6"`
	Body     string   `json:"body,omitempty" n:"7"`
	Disabled bool     `json:"disabled,omitempty" n:"8"`
	// Definition is the whole statement, where the server prints it; Body is empty then.
	Definition string `json:"definition,omitempty" n:"9"`
}

// Routine is a function, a procedure, or a package of them.
type Routine struct {
	Language   string `json:"language,omitempty" n:"1"`
	Returns    string `json:"returns,omitempty" n:"2"`
	Definition string `json:"definition,omitempty" n:"3"` // the whole statement
	// What follows is in the definition, too, where it is compared.
	Parameters []Parameter `json:"parameters,omitempty" n:"4,since=4" diff:"-"`
	BodyStart  int         `json:"body_start,omitempty" n:"5,since=4" diff:"-"` // of the body in the definition, in bytes
	BodyEnd    int         `json:"body_end,omitempty" n:"6,since=4" diff:"-"`
}

// Parameter is one of a routine.
type Parameter struct {
	Name    string `json:"name,omitempty" n:"1"`
	Mode    string `json:"mode,omitempty" n:"2"` // "" or "in", "out", "inout", "variadic", "readonly"
	Type    string `json:"type,omitempty" n:"3"`
	Default string `json:"default,omitempty" n:"4"`
}

// Body returns what the routine does, apart from its head; "" where that is not known.
func (r *Routine) Body() string {
	if r.BodyStart < 0 || r.BodyStart > r.BodyEnd || r.BodyEnd > len(r.Definition) {
		return ""
	}
	return r.Definition[r.BodyStart:r.BodyEnd]
}
