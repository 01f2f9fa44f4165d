package postgres

// What the server records in pg_depend becomes dependencies between objects and columns.

import (
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"

	"echo-atlas/internal/core/engine"
)

// owned is what belongs to a larger object: a default to its column, a constraint to its table.
type ownedBy struct {
	object *schema.Object
	part   string
	kind   schema.Kind // of the part
}

func (o ownedBy) end() schema.End {
	return schema.End{ID: o.object.ID(), Part: o.part, PartKind: o.kind}
}

// needs adds the dependencies that the server records.
func (r *reader) needs(made map[[2]uint32]*schema.Object) {
	for at, o := range made { // an extension lies in a schema
		if at[0] != pgExtension {
			continue
		}
		tokens := sqltext.Tokens(o.Definition, rules())
		for i := 1; i < len(tokens); i++ {
			if o.Definition[tokens[i-1].Start:tokens[i-1].End] == "SCHEMA" {
				in := schema.ID{Kind: schema.KindSchema, Name: sqltext.Unquote(o.Definition, tokens[i], rules())}
				r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(in), Use: schema.UseLiesOn, Evidence: schema.Recorded})
				break
			}
		}
	}
	r.published(made)
	r.partners(made)
	if len(r.recorded) == 0 {
		return
	}
	owner := r.owners(made)
	for _, d := range r.recorded {
		from := r.end(d.class, d.object, d.part, d.view, made, owner)
		to := r.end(d.refClass, d.refObject, d.refPart, false, made, owner)
		if from.object == nil || to.object == nil || from.object == to.object {
			continue
		}
		if to.object.Relation == nil {
			to.part, to.kind = "", ""
		} else if (from.object.Definition != "" || from.object.Policy != nil) && from.object.Within == to.object.Name && from.object.Schema == to.object.Schema && to.part == "" {
			continue // a rule or a policy on its own table
		}
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{
			From: from.end(), To: to.end(), Evidence: schema.Recorded, Use: useOf(d, to.object.Kind),
		})
	}
}

// published adds the schemas that publications publish as a whole: the server records them in a table of their own.
func (r *reader) published(made map[[2]uint32]*schema.Object) {
	for at, o := range made {
		if at[0] != pgPublication {
			continue
		}
		tokens := sqltext.Tokens(o.Definition, rules())
		word := func(i int) string { return o.Definition[tokens[i].Start:tokens[i].End] }
		for i := 3; i < len(tokens); i++ {
			if word(i-3) == "TABLES" && word(i-2) == "IN" && word(i-1) == "SCHEMA" {
				in := schema.ID{Kind: schema.KindSchema, Name: sqltext.Unquote(o.Definition, tokens[i], rules())}
				r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(in), Use: schema.UsePublishes, Evidence: schema.Recorded})
			}
		}
	}
}

var partner = engine.Lazily("(COMMUTATOR|NEGATOR) = OPERATOR\\((\"(?:[^\"]|\"\")*\"|[^\".]+)\\.([-+*/<>=~!@#%^&|`?]+)\\)")

// partners adds the operators that an operator names as its commutator and its negator: one that is not there yet is made as an empty
// one when it is named. Which of two comes first does not matter, so these are found in the text and not recorded.
func (r *reader) partners(made map[[2]uint32]*schema.Object) {
	type name struct{ schema, name, signature string }
	operators := map[name]*schema.Object{}
	for at, o := range made {
		if at[0] == pgOperator {
			operators[name{o.Schema, o.Name, o.Signature}] = o
		}
	}
	for _, o := range operators {
		for _, m := range partner().FindAllStringSubmatch(o.Definition, -1) {
			in := m[2]
			if in[0] == '"' {
				in = strings.ReplaceAll(in[1:len(in)-1], `""`, `"`)
			}
			signature := o.Signature
			if left, right, two := strings.Cut(signature, ", "); two && m[1] == "COMMUTATOR" {
				signature = right + ", " + left
			}
			if other := operators[name{in, m[3], signature}]; other != nil && other != o {
				r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(other.ID()), Use: schema.UsePairsWith, Evidence: schema.Read})
			}
		}
	}
}

// owners maps what is no object of its own to the object that it belongs to.
func (r *reader) owners(made map[[2]uint32]*schema.Object) map[[2]uint32]ownedBy {
	owner := map[[2]uint32]ownedBy{}
	for at, value := range r.defaults {
		owner[[2]uint32{pgAttrdef, value.oid}] = ownedBy{made[[2]uint32{pgClass, at[0]}], r.columnName(at[0], int(at[1])), schema.KindColumn}
	}
	for _, c := range r.constraints {
		owner[[2]uint32{pgConstraint, c.oid}] = ownedBy{made[[2]uint32{pgClass, c.relation}], c.name, constraintKinds[c.kind]}
	}
	for _, t := range r.tails {
		if t.kind == schema.KindComposite {
			owner[[2]uint32{pgClass, t.relation}] = ownedBy{object: made[[2]uint32{pgType, t.oid}]}
		}
	}
	for _, d := range r.recorded {
		at := [2]uint32{d.class, d.object}
		switch {
		case d.class == pgConstraint && d.refClass == pgType && owner[at].object == nil: // of a domain
		case (d.class == pgAmop || d.class == pgAmproc) && d.refClass == pgOpclass:
		case (d.class == pgAmop || d.class == pgAmproc) && d.refClass == pgOpfamily && owner[at].object == nil:
		case d.class == pgPublicationRel && d.refClass == pgPublication:
		default:
			continue
		}
		owner[at] = ownedBy{object: made[[2]uint32{d.refClass, d.refObject}]}
	}
	return owner
}

// end resolves one end of a recorded dependency.
func (r *reader) end(class, object, part uint32, view bool, made map[[2]uint32]*schema.Object, owner map[[2]uint32]ownedBy) ownedBy {
	if view {
		class = pgClass
	}
	if class == pgType && made[[2]uint32{class, object}] == nil {
		if of, ok := r.typesOf[object]; ok { // an array, or the rows of a relation
			class, object = of[0], of[1]
		}
	}
	at := [2]uint32{class, object}
	if o, ok := owner[at]; ok {
		return o
	}
	if o := made[at]; o != nil {
		if class == pgClass && part > 0 && !view {
			return ownedBy{o, r.columnName(object, int(part)), schema.KindColumn}
		}
		return ownedBy{object: o}
	}
	if extension := r.members[at]; extension != 0 && made[at] == nil {
		return ownedBy{object: made[[2]uint32{pgExtension, extension}]}
	}
	return ownedBy{}
}

// constraintKinds are those of pg_constraint.contype.
var constraintKinds = map[byte]schema.Kind{'c': schema.KindCheck, 'f': schema.KindForeignKey, 'p': schema.KindPrimaryKey, 'u': schema.KindUnique, 'x': schema.KindExclusion}

// useOf returns the way in which one needs the other.
func useOf(d dependency, to schema.Kind) schema.Use {
	switch {
	case to == schema.KindExtension:
		return schema.UseExtends
	case d.refClass == pgProc:
		return schema.UseCalls
	case d.class == pgPolicy || d.class == pgRewrite && !d.view:
		return schema.UseReads
	case d.refClass == pgType:
		return schema.UseTypedBy
	case d.refClass == pgClass:
		switch d.class {
		case pgRewrite, pgProc:
			return schema.UseReads
		case pgAttrdef:
			return schema.UseDefaultFrom
		case pgPublicationRel:
			return schema.UsePublishes
		case pgStatistic:
			return schema.UseStatisticsOn
		case pgTrigger:
			return schema.UseTriggerOn
		}
	case d.refClass == pgCollation:
		return schema.UseSortsBy
	case d.refClass == pgServer:
		return schema.UseLiesOn
	}
	return schema.UseAny
}
