package schema

// Dependencies that follow from the objects themselves: foreign keys, what stands on what, who owns whom.

// Structural returns the dependencies that follow from the objects themselves: foreign keys, indexes
// and triggers on their relation, owned sequences. They are recorded: the objects were. What the objects do not hold is an
// end outside of them.
func Structural(objects []*Object) []Dependency {
	relations := make(map[[2]string]ID)
	indexes := make(map[[3]string]ID)
	for _, o := range objects {
		switch {
		case o.Kind.IsRelation():
			relations[[2]string{o.Schema, o.Name}] = o.ID()
		case o.Index != nil && o.Index.Unique:
			indexes[[3]string{o.Schema, o.Index.Table, o.Name}] = o.ID()
		}
	}
	var all []Dependency
	add := func(from ID, fromPart string, schema, table, part string, use Use, constraint string) {
		id, ok := relations[[2]string{schema, table}]
		if !ok {
			id = ID{Schema: schema, Name: table}
		}
		to := ColumnEnd(id, part)
		if !ok && from.Schema == "" && schema != "" { // where there are no schemas, it is another database
			to.ID.Schema, to.Outside.Database = "", schema
		}
		all = append(all, Dependency{From: ColumnEnd(from, fromPart), To: to, Use: use, Constraint: constraint, Evidence: Recorded})
	}
	for _, o := range objects {
		id := o.ID()
		if o.Relation != nil {
			for _, p := range o.Relation.Parents {
				if p.Bound != "" {
					add(id, "", p.Schema, p.Table, "", UsePartitionOf, "")
				} else {
					add(id, "", p.Schema, p.Table, "", UseInherits, "")
				}
			}
			for _, f := range o.Relation.ForeignKeys {
				for i, c := range f.Columns {
					part := ""
					if i < len(f.RefColumns) {
						part = f.RefColumns[i]
					}
					add(id, c, f.RefSchema, f.RefTable, part, UseForeignKey, f.Name)
				}
				if f.RefIndex != "" { // no key of the other table holds it, but an index
					if to, ok := indexes[[3]string{f.RefSchema, f.RefTable, f.RefIndex}]; ok {
						all = append(all, Dependency{From: ObjectEnd(id), To: ObjectEnd(to), Use: UseForeignKey, Constraint: f.Name, Evidence: Recorded})
					}
				}
			}
		}
		if x := o.Index; x != nil {
			add(id, "", o.Schema, x.Table, "", UseIndexOn, "")
			for _, c := range x.Columns {
				if c.Column != "" {
					add(id, "", o.Schema, x.Table, c.Column, UseIndexOn, "")
				}
			}
			for _, c := range x.Include {
				add(id, "", o.Schema, x.Table, c, UseIndexOn, "")
			}
		}
		if t := o.Trigger; t != nil {
			add(id, "", o.Schema, t.Table, "", UseTriggerOn, "")
			for _, c := range t.Columns {
				add(id, "", o.Schema, t.Table, c, UseTriggerOn, "")
			}
		}
		if o.Within != "" && o.Trigger == nil && o.Index == nil { // a rule, a policy
			add(id, "", o.Schema, o.Within, "", UseStandsOn, "")
		}
		if s := o.Sequence; s != nil && s.OwnedBy != "" {
			add(id, "", o.Schema, s.OwnedBy, s.OwnedCol, UseOwnedBy, "")
		}
	}
	return all
}
