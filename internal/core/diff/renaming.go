package diff

// A renaming gives an object the new names of what it refers to, token by token, so that only what truly differs is left.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// renaming gives names of objects other names, for a comparison: old to new.
type renaming map[string]string

// apply returns a copy of an object that calls others by their new names, its texts cut to tokens, and the old names
// that it was found to hold.
func (r renaming) apply(o *schema.Object, rules sqltext.Rules) (_ *schema.Object, touched []string) {
	return naming{names: r, all: r}.apply(o, rules)
}

// naming gives other names to objects and to columns.
type naming struct {
	names, columns renaming
	all            renaming // of both, for texts
	own            bool     // the columns are those of the relation itself
}

func (r naming) apply(o *schema.Object, rules sqltext.Rules) (_ *schema.Object, touched []string) {
	copied, err := schema.DecodeObject(schema.AppendObject(nil, o))
	if err != nil { // the model reads what it writes
		return o, nil
	}
	name := func(fields ...*string) {
		for _, f := range fields {
			if to, ok := r.names[*f]; ok && *f != "" {
				if !slices.Contains(touched, *f) {
					touched = append(touched, *f)
				}
				*f = to
			}
		}
	}
	column := func(fields ...*string) {
		for _, f := range fields {
			if to, ok := r.columns[*f]; ok && *f != "" {
				*f = to
			}
		}
	}
	text := func(fields ...*string) {
		for _, f := range fields {
			*f = r.all.text(*f, rules, func(old string) {
				if !slices.Contains(touched, old) {
					touched = append(touched, old)
				}
			})
		}
	}
	parts := func(list []schema.KeyPart) {
		for i := range list {
			text(&list[i].Expression)
			column(&list[i].Column)
		}
	}
	if len(r.columns) > 0 {
		renameColumns(copied, column, r.own)
	}
	copied.Source = ""
	name(&copied.Within)
	text(&copied.Definition, &copied.Signature)
	for i := range copied.Settings {
		name(&copied.Settings[i].Value)
	}
	if copied.Relation != nil {
		renameRelation(copied.Relation, name, text, parts)
	}
	renameTypes(copied, name, text)
	if x := copied.Index; x != nil {
		name(&x.Table)
		parts(x.Columns)
		text(&x.Where)
	}
	if t := copied.Trigger; t != nil {
		name(&t.Table)
		text(&t.When, &t.Body, &t.Definition)
	}
	if s := copied.Sequence; s != nil {
		name(&s.OwnedBy)
	}
	if f := copied.Routine; f != nil {
		text(&f.Definition, &f.Returns)
		f.Parameters, f.BodyStart, f.BodyEnd = nil, 0, 0 // which the definition says, too, and where depends on the name
	}
	return copied, touched
}

// renameTypes gives what types, synonyms, events and policies refer to new names.
func renameTypes(copied *schema.Object, name, text func(...*string)) {
	if copied.Event != nil {
		text(&copied.Event.Body)
	}
	if copied.Policy != nil {
		text(&copied.Policy.Using, &copied.Policy.Check)
	}
	if a := copied.Aggregate; a != nil {
		text(&a.Arguments)
		for i := range a.Clauses {
			text(&a.Clauses[i].Value)
		}
	}
	if copied.Synonym != nil {
		name(&copied.Synonym.Name)
	}
	if copied.Composite != nil {
		for i := range copied.Composite.Attributes {
			text(&copied.Composite.Attributes[i].Type)
		}
	}
	if d := copied.Domain; d != nil {
		text(&d.Type, &d.Default)
		for i := range d.Checks {
			text(&d.Checks[i].Expression)
		}
	}
}

// renameColumns gives columns new names where they stand as names; own says that they are the relation's.
func renameColumns(o *schema.Object, column func(...*string), own bool) {
	list := func(names []string) {
		for i := range names {
			column(&names[i])
		}
	}
	if o.Relation != nil {
		for i := range o.Relation.Columns {
			if own {
				column(&o.Relation.Columns[i].Name)
			}
		}
		for i := range o.Relation.Keys {
			list(o.Relation.Keys[i].Include)
		}
		for i := range o.Relation.ForeignKeys {
			f := &o.Relation.ForeignKeys[i]
			if own {
				list(f.Columns)
				list(f.SetColumns)
			} else {
				list(f.RefColumns)
			}
		}
		for i := range o.Relation.Checks {
			column(&o.Relation.Checks[i].Column)
		}
	}
	if o.Index != nil {
		list(o.Index.Include)
	}
	if o.Trigger != nil {
		list(o.Trigger.Columns)
	}
	for i := range o.Grants {
		if own {
			column(&o.Grants[i].Column)
		}
	}
	if o.Sequence != nil {
		column(&o.Sequence.OwnedCol)
	}
}

// renameRelation gives the parts of a relation new names, and those that they refer to.
func renameRelation(rel *schema.Relation, name, text func(...*string), parts func([]schema.KeyPart)) {
	text(&rel.Query)
	for i := range rel.Columns {
		c := &rel.Columns[i]
		text(&c.Type, &c.Default)
		if c.Generated != nil {
			text(&c.Generated.Expression)
		}
	}
	for i := range rel.Keys {
		parts(rel.Keys[i].Columns)
	}
	for i := range rel.ForeignKeys {
		name(&rel.ForeignKeys[i].RefTable, &rel.ForeignKeys[i].RefIndex)
	}
	for i := range rel.Checks {
		text(&rel.Checks[i].Expression)
	}
	for i := range rel.Exclusions {
		text(&rel.Exclusions[i].Definition)
	}
	for i := range rel.Parents {
		name(&rel.Parents[i].Table)
	}
}

// text returns a text as its tokens, with the names replaced: as identifiers, as a string that is nothing but a name
// (with or without a schema), and in strings in dollar quotes, which hold bodies.
func (r renaming) text(s string, rules sqltext.Rules, touched func(old string)) string {
	if s == "" {
		return ""
	}
	var b strings.Builder
	for _, t := range sqltext.Tokens(s, rules) {
		token := s[t.Start:t.End]
		switch {
		case t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName:
			plain := sqltext.Unquote(s, t, rules)
			if to, ok := r[plain]; ok {
				touched(plain)
				token = to
			} else if t.Kind == sqltext.QuotedName {
				token = plain
			}
		case t.Kind == sqltext.String && strings.HasPrefix(token, "$"):
			if end := strings.IndexByte(token[1:], '$') + 2; end > 1 && len(token) >= 2*end {
				token = token[:end] + r.text(token[end:len(token)-end], rules, touched) + token[:end]
			}
		case t.Kind == sqltext.String && len(token) > 2:
			inner := token[1 : len(token)-1]
			front, last := "", inner
			if i := strings.LastIndexByte(inner, '.'); i >= 0 {
				front, last = inner[:i+1], inner[i+1:]
			}
			if to, ok := r[strings.Trim(last, `"`)]; ok {
				touched(strings.Trim(last, `"`))
				token = token[:1] + front + to + token[len(token)-1:]
			}
		}
		b.WriteString(token)
		b.WriteByte(' ')
	}
	return b.String()
}
