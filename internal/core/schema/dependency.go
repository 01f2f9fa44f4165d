package schema

import (
	"fmt"
	"slices"
)

// A dependency is a fact of its own: who needs whom, in what way, and where that is written. Sentences about it are the
// interface's; no code finds out by words what a dependency is.

// Evidence is how a dependency is known.
type Evidence string

// The kinds of evidence.
const (
	Recorded Evidence = "recorded" // the server's own catalogue says so
	Read     Evidence = "read"     // found in the definition's text
	Guessed  Evidence = "guessed"  // inside a string that is run as SQL, or not resolvable for certain
)

// Use is the way in which one thing needs another. The numbers are stored: a new one goes to the end.
type Use uint8

// The uses.
const (
	UseAny          Use = iota // in a way that has no word of its own
	UseReads                   // takes rows or columns from a relation
	UseWrites                  // changes rows of a relation
	UseCalls                   // runs a routine
	UseTypedBy                 // a column, a parameter or a value is of the type
	UseForeignKey              // refers to rows, by the constraint that is named
	UseIndexOn                 // indexes a relation or a column
	UseTriggerOn               // fires at changes of a relation or a column
	UseStandsOn                // a rule or a policy, on its relation
	UseStatisticsOn            // statistics of a relation
	UseOwnedBy                 // a sequence, of the column with which it goes; it is made before it
	UsePartitionOf             // holds rows of a partitioned table
	UseInherits                // has the columns of another table
	UseMemberOf                // a role, of another
	UseNumbersFrom             // takes numbers from a sequence
	UseDefaultFrom             // its default does so, or else takes from the other
	UseBodyOf                  // the body of a package
	UseSortsBy                 // a collation
	UseLiesOn                  // a foreign server, a partition scheme
	UsePartitionsBy            // a partition function
	UseMadeOf                  // an index that is made of another
	UseExtends                 // belongs to an extension, or uses what is in it
	UsePublishes               // a publication does
	UseStandsFor               // a synonym
	UseRunsUnseen              // runs SQL that cannot be seen
	UsePairsWith               // an operator, with its commutator or negator: either may come first
)

var useNames = [...]string{"uses", "reads", "writes", "calls", "typed by", "foreign key", "index on", "trigger on", "stands on", "statistics on", "owned by", "partition of", "inherits",
	"member of", "numbers from", "default from", "body of", "sorts by", "lies on", "partitions by", "made of", "of extension", "publishes", "stands for", "runs unseen", "pairs with"}

// String returns the use in a word or two, as it stands in JSON.
func (u Use) String() string {
	if u.Known() {
		return useNames[u]
	}
	return fmt.Sprintf("use %d", uint8(u))
}

// Apart reports whether the order of two things does not follow from the use: the engine knows how they are made one without the other.
func (u Use) Apart() bool { return u == UseOwnedBy || u == UsePairsWith }

// Known reports whether u is one of the uses.
func (u Use) Known() bool { return int(u) < len(useNames) }

// ParseUse returns the use that String returns as s.
func ParseUse(s string) (Use, bool) {
	i := slices.Index(useNames[:], s)
	return Use(max(i, 0)), i >= 0
}

// Field names a text of an object, in which a dependency is written. The numbers are stored.
type Field uint8

// The fields.
const (
	NoField         Field = iota // it is not known where, or nowhere
	FieldSource                  // Object.Source
	FieldDefinition              // the statement: Object.Definition, that of a routine or a trigger
	FieldQuery                   // of a view
	FieldBody                    // of a trigger or a routine
	FieldWhen                    // of a trigger
	FieldWhere                   // of an index
	FieldDefault                 // of the column that is the part of From
	FieldGenerated               // likewise
	FieldCheck                   // the expression of the check that is the part of From
	FieldLine                    // of an older reading: Start is the line and Stop the column, in the object's main text
)

var fieldNames = [...]string{"", "source", "definition", "query", "body", "when", "where", "default", "generated", "check", "line"}

// String returns the field as it stands in JSON; "" for none.
func (f Field) String() string {
	if f.Known() {
		return fieldNames[f]
	}
	return fmt.Sprintf("field %d", uint8(f))
}

// Known reports whether f is one of the fields.
func (f Field) Known() bool { return int(f) < len(fieldNames) }

// ParseField returns the field that String returns as s.
func ParseField(s string) (Field, bool) {
	i := slices.Index(fieldNames[:], s)
	return Field(max(i, 0)), i >= 0
}

// End is one end of a dependency: an object, or a part of it.
type End struct {
	ID       ID
	Part     string
	PartKind Kind // of the part, "" for the object itself
	// Outside says where the end lies if it is not in the snapshot; ID is then as far known as it was written.
	Outside Outside
}

// Outside is a place outside of a snapshot, as far as it is given: another database of the server, or of a linked server.
type Outside struct{ Server, Database string }

// ColumnEnd returns the end that is a column of an object, or for "" the object.
func ColumnEnd(id ID, name string) End {
	if name == "" {
		return End{ID: id}
	}
	return End{ID: id, Part: name, PartKind: KindColumn}
}

// ObjectEnd returns the end that is an object as a whole.
func ObjectEnd(id ID) End { return End{ID: id} }

// Dependency says that From needs To.
type Dependency struct {
	From, To   End
	Use        Use
	Constraint string // the name of the constraint that says so, "" for none
	Evidence   Evidence
	// Field is the text of From in which it is written, Start and Stop the places in it, in bytes.
	Field       Field
	Start, Stop int
}

// Text returns a text of an object by its field; part names the column or check whose it is.
func (o *Object) Text(f Field, part string) string {
	switch f {
	case FieldSource:
		return o.Source
	case FieldDefinition:
		switch {
		case o.Routine != nil:
			return o.Routine.Definition
		case o.Trigger != nil:
			return o.Trigger.Definition
		}
		return o.Definition
	case FieldBody:
		switch {
		case o.Trigger != nil:
			return o.Trigger.Body
		case o.Routine != nil:
			return o.Routine.Body()
		case o.Event != nil:
			return o.Event.Body
		}
	case FieldWhen:
		if o.Trigger != nil {
			return o.Trigger.When
		}
	case FieldWhere:
		if o.Index != nil {
			return o.Index.Where
		}
	}
	r := o.Relation
	if r == nil {
		return ""
	}
	switch f {
	case FieldQuery:
		return r.Query
	case FieldDefault, FieldGenerated:
		c := r.Column(part)
		switch {
		case c == nil:
		case f == FieldDefault:
			return c.Default
		case c.Generated != nil:
			return c.Generated.Expression
		}
	case FieldCheck:
		for i := range r.Checks {
			if r.Checks[i].PartKey() == part {
				return r.Checks[i].Expression
			}
		}
	}
	return ""
}

// SetText puts a text of an object in the place of the one that Text returns.
func (o *Object) SetText(f Field, part, text string) {
	switch f {
	case FieldSource:
		o.Source = text
	case FieldDefinition:
		switch {
		case o.Routine != nil:
			r := *o.Routine
			r.BodyEnd += len(text) - len(r.Definition)
			r.Definition = text
			o.Routine = &r
		case o.Trigger != nil:
			t := *o.Trigger
			t.Definition = text
			o.Trigger = &t
		default:
			o.Definition = text
		}
	case FieldBody:
		switch {
		case o.Trigger != nil:
			t := *o.Trigger
			t.Body = text
			o.Trigger = &t
		case o.Routine != nil:
			r := *o.Routine
			r.Definition = r.Definition[:r.BodyStart] + text + r.Definition[r.BodyEnd:]
			r.BodyEnd = r.BodyStart + len(text)
			o.Routine = &r
		case o.Event != nil:
			e := *o.Event
			e.Body = text
			o.Event = &e
		}
	case FieldWhen:
		if o.Trigger != nil {
			t := *o.Trigger
			t.When = text
			o.Trigger = &t
		}
	}
	if o.Relation == nil {
		return
	}
	r := *o.Relation
	o.Relation = &r
	switch f {
	case FieldQuery:
		r.Query = text
	case FieldDefault, FieldGenerated:
		r.Columns = slices.Clone(r.Columns)
		if c := r.Column(part); c != nil && f == FieldDefault {
			c.Default = text
		} else if c != nil && c.Generated != nil {
			g := *c.Generated
			g.Expression = text
			c.Generated = &g
		}
	case FieldCheck:
		r.Checks = slices.Clone(r.Checks)
		for i := range r.Checks {
			if r.Checks[i].PartKey() == part {
				r.Checks[i].Expression = text
			}
		}
	}
}

// MainField returns the field of the one text in which older readings counted lines.
func (o *Object) MainField() Field {
	for _, f := range [...]Field{FieldSource, FieldQuery, FieldBody, FieldDefinition} {
		if o.Text(f, "") != "" {
			return f
		}
	}
	return NoField
}
