package schema

// OwnedReason is the reason of a dependency of a sequence on the column that owns it: the sequence goes
// when the column goes, but is made before it.
const OwnedReason = "owned by it"

// Structural returns the dependencies that follow from the objects themselves: foreign keys, indexes
// and triggers on their relation, owned sequences. They are recorded: the objects were.
func Structural(objects []*Object) []Dependency {
	relations := make(map[[2]string]ID)
	for _, o := range objects {
		if o.Kind.IsRelation() {
			relations[[2]string{o.Schema, o.Name}] = o.ID()
		}
	}
	var all []Dependency
	add := func(from ID, fromPart string, schema, table, part, reason string) {
		to, ok := relations[[2]string{schema, table}]
		if !ok {
			return
		}
		all = append(all, Dependency{From: End{from, fromPart}, To: End{to, part}, Evidence: Recorded, Reason: reason})
	}
	for _, o := range objects {
		id := o.ID()
		if o.Relation != nil {
			for _, p := range o.Relation.Parents {
				if p.Bound != "" {
					add(id, "", p.Schema, p.Table, "", "partition of it")
				} else {
					add(id, "", p.Schema, p.Table, "", "inherits from it")
				}
			}
			for _, f := range o.Relation.ForeignKeys {
				reason := "foreign key"
				if f.Name != "" {
					reason += " " + QuotePart(f.Name)
				}
				for i, c := range f.Columns {
					part := ""
					if i < len(f.RefColumns) {
						part = f.RefColumns[i]
					}
					add(id, c, f.RefSchema, f.RefTable, part, reason)
				}
			}
		}
		if x := o.Index; x != nil {
			add(id, "", o.Schema, x.Table, "", "index on it")
			for _, c := range x.Columns {
				if c.Column != "" {
					add(id, "", o.Schema, x.Table, c.Column, "index on it")
				}
			}
			for _, c := range x.Include {
				add(id, "", o.Schema, x.Table, c, "index on it")
			}
		}
		if t := o.Trigger; t != nil {
			add(id, "", o.Schema, t.Table, "", "trigger on it")
			for _, c := range t.Columns {
				add(id, "", o.Schema, t.Table, c, "trigger on it")
			}
		}
		if o.Within != "" && o.Trigger == nil && o.Index == nil { // a rule, a policy
			add(id, "", o.Schema, o.Within, "", string(o.Kind)+" on it")
		}
		if s := o.Sequence; s != nil && s.OwnedBy != "" {
			add(id, "", o.Schema, s.OwnedBy, s.OwnedCol, OwnedReason)
		}
	}
	return all
}
