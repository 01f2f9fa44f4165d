package schema

// Parts are what an object holds under a name.

// Part is what an object holds, as far as it has a name.
type Part struct {
	Kind Kind
	Name string
	// Text is the part as one line for people.
	Text string
}

// Parts returns the named parts of an object in the model's order.
func (o *Object) Parts() []Part {
	var all []Part
	add := func(kind Kind, name, text string) {
		if name != "" {
			all = append(all, Part{kind, name, text})
		}
	}
	for _, c := range o.Columns() {
		add(KindColumn, c.Name, c.Describe())
	}
	if o.Relation == nil {
		return all
	}
	for _, k := range o.Relation.Keys {
		add(k.Kind(), k.Name, k.Describe())
	}
	for _, f := range o.Relation.ForeignKeys {
		add(KindForeignKey, f.Name, f.Describe())
	}
	for _, c := range o.Relation.Checks {
		add(KindCheck, c.Name, c.Describe())
	}
	for _, e := range o.Relation.Exclusions {
		add(KindExclusion, e.Name, e.Definition)
	}
	return all
}
