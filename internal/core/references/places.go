package references

// Every place of a name in the texts of an object, for whoever writes them anew.

import (
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Text is a text of an object with all names in it, as far as they are understood.
type Text struct {
	Field schema.Field
	Part  string // the column or check whose it is
	Text  string
	Names []sqltext.Reference
}

// Reader reads the texts of the objects of one reading.
type Reader struct{ *finder }

// NewReader returns a reader for a reading, which has to hold all that names can mean: relations, routines, types, sequences
// and synonyms; and the dependencies of triggers on what they call.
func NewReader(r *schema.Reading, e engine.Engine) *Reader { return &Reader{newFinder(r, e)} }

// Texts returns the texts of an object. The keys of the names are objects of the reading.
func (r *Reader) Texts(o *schema.Object) []Text {
	s := search{finder: r.finder, object: o, path: r.world.path(o, r.pather), names: true, rules: r.dialect(o)}
	if o.Routine != nil && r.rules.DollarQuotes && o.Routine.Body() != "" { // the head is a text of its own
		head := o.Routine.Definition[:o.Routine.BodyStart]
		c := sqltext.Context{World: scoped{s.world, s.path, o}, Names: true}
		refs := understood(head, func() []sqltext.Reference { return sqltext.Bind(sqltext.Parse(head, &r.rules), c) })
		s.collected = append(s.collected, Text{Field: schema.FieldDefinition, Text: o.Routine.Definition, Names: refs})
	}
	s.texts()
	for i := 1; i < len(s.collected); i++ { // the body of such a routine stands in its definition
		if first, t := &s.collected[0], &s.collected[i]; first.Field == schema.FieldDefinition && t.Field == schema.FieldBody {
			for _, n := range t.Names {
				n.Start, n.Stop = n.Start+o.Routine.BodyStart, n.Stop+o.Routine.BodyStart
				if n.End > 0 {
					n.At, n.End = n.At+o.Routine.BodyStart, n.End+o.Routine.BodyStart
				}
				first.Names = append(first.Names, n)
			}
			s.collected = append(s.collected[:i], s.collected[i+1:]...)
			i--
		}
	}
	return s.collected
}
