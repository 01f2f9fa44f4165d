package schema

// The texts of an object, for whoever looks through them.

// Text is a text that an object keeps: a comment, or SQL that somebody wrote.
type Text struct {
	Part    Kind   // of the part whose text it is, "" for the object itself
	Name    string // of the part
	Type    string // of a column
	Comment bool
	Text    string
}

// Texts returns the texts of an object: its definition, where a kind has one, its comment, and the expressions
// and comments of its parts. A part without a name gives its texts to the object.
func (o *Object) Texts() []Text {
	var all []Text
	add := func(part Kind, name, typ string, comment bool, texts ...string) {
		if name == "" {
			part = ""
		}
		for _, text := range texts {
			if text != "" {
				all = append(all, Text{part, name, typ, comment, text})
			}
		}
	}
	keyParts := func(parts []KeyPart) {
		for _, p := range parts {
			add("", "", "", false, p.Expression)
		}
	}
	whole := o.Source // says all of what follows, as it was typed; of a table its parts say it
	if o.Kind == KindTable {
		whole = ""
	}
	add("", "", "", false, whole, o.Definition)
	add("", "", "", true, o.Comment)
	if r := o.Routine; r != nil && whole == "" {
		add("", "", "", false, r.Definition)
	}
	if t := o.Trigger; t != nil && whole == "" {
		add("", "", "", false, t.Definition, t.When, t.Body)
	}
	if x := o.Index; x != nil && whole == "" {
		keyParts(x.Columns)
		add("", "", "", false, x.Where)
	}
	o.typeTexts(add)
	if r := o.Relation; r != nil {
		if whole == "" {
			add("", "", "", false, r.Query)
		}
		r.texts(add, keyParts)
	}
	return all
}

// typeTexts gives the texts of a type.
func (o *Object) typeTexts(add func(part Kind, name, typ string, comment bool, texts ...string)) {
	if o.Enum != nil {
		add("", "", "", false, o.Enum.Values...)
	}
	if o.Policy != nil {
		add("", "", "", false, o.Policy.Using, o.Policy.Check)
	}
	if o.Event != nil {
		add("", "", "", false, o.Event.Schedule, o.Event.Body)
	}
	if o.Aggregate != nil {
		for _, c := range o.Aggregate.Clauses {
			add("", "", "", false, c.Name+" = "+c.Value)
		}
	}
	if o.Synonym != nil {
		add("", "", "", false, o.Synonym.String())
	}
	if o.Composite != nil {
		for i := range o.Composite.Attributes {
			c := &o.Composite.Attributes[i]
			add(KindColumn, c.Name, c.Type, true, c.Comment)
		}
	}
	if d := o.Domain; d != nil {
		add("", "", "", false, d.Type, d.Default)
		for i := range d.Checks {
			add("", "", "", false, d.Checks[i].Expression)
			add("", "", "", true, d.Checks[i].Comment)
		}
	}
}

// texts gives the texts of the parts of a relation.
func (r *Relation) texts(add func(part Kind, name, typ string, comment bool, texts ...string), keyParts func([]KeyPart)) {
	for i := range r.Columns {
		c := &r.Columns[i]
		add(KindColumn, c.Name, c.Type, true, c.Comment)
		add(KindColumn, c.Name, c.Type, false, c.Default)
		if c.Generated != nil {
			add(KindColumn, c.Name, c.Type, false, c.Generated.Expression)
		}
	}
	for i := range r.Keys {
		k := &r.Keys[i]
		keyParts(k.Columns)
		add(k.Kind(), k.Name, "", true, k.Comment)
	}
	for i := range r.ForeignKeys {
		add(KindForeignKey, r.ForeignKeys[i].Name, "", true, r.ForeignKeys[i].Comment)
	}
	for i := range r.Checks {
		c := &r.Checks[i]
		add(KindCheck, c.Name, "", false, c.Expression)
		add(KindCheck, c.Name, "", true, c.Comment)
	}
	for i := range r.Exclusions {
		e := &r.Exclusions[i]
		add(KindExclusion, e.Name, "", false, e.Definition)
		add(KindExclusion, e.Name, "", true, e.Comment)
	}
}
