package change

// Columns of other names are renamed first; what else differs is changed of what has come of that.

import (
	"fmt"
	"slices"

	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// renameColumns returns the statements that rename columns of an object, and the object as it is behind them. Columns that it has
// from a parent are renamed with the parent's, if it stays one.
func (p *planner) renameColumns(old, to *schema.Object, columns []diff.ColumnRename) (first []engine.Statement, now *schema.Object, err error) {
	renamer, ok := p.e.(engine.Renamer)
	if !ok || len(columns) == 0 {
		return nil, old, nil
	}
	names := map[string]string{}
	now = old
	stays := to.Relation != nil && !slices.ContainsFunc(old.Relation.Parents, func(x schema.Parent) bool {
		return !slices.ContainsFunc(to.Relation.Parents, func(y schema.Parent) bool { return x.Schema == y.Schema && x.Table == y.Table })
	})
	for _, c := range columns {
		column := now.Relation.Column(c.Old)
		if column == nil || now.Relation.Column(c.New) != nil {
			continue
		}
		if column.Inherited == nil || !stays {
			made, err := renamer.Rename(now, engine.Renaming{Column: c.Old, Name: c.New}, p.old.contents.Snapshot.Version)
			if err != nil {
				return nil, nil, fmt.Errorf("renaming the column %s: %w", c.Old, err)
			}
			if len(made) == 0 {
				continue
			}
			if c.Guess {
				made[0].Risks = append(slices.Clone(made[0].Risks), engine.Risk{Kind: engine.Guessed, Text: fmt.Sprintf("%s is taken to be %s, because all else of it is the same", c.New, c.Old)})
			}
			first = append(first, made...)
		}
		names[c.Old] = c.New
		if now, err = p.calledAnew(now, names); err != nil {
			return nil, nil, err
		}
		clear(names)
	}
	return first, now, nil
}

// calledAnew returns a copy of a relation whose columns have other names.
func (p *planner) calledAnew(o *schema.Object, names map[string]string) (*schema.Object, error) {
	now, err := clone(o)
	if err != nil {
		return nil, err
	}
	column := func(fields ...*string) {
		for _, f := range fields {
			if to, ok := names[*f]; ok {
				*f = to
			}
		}
	}
	list := func(names []string) {
		for i := range names {
			column(&names[i])
		}
	}
	text := func(s *string) { *s = sqltext.RenameIn(*s, p.e.Traits().Rules, names, p.e.Quote) }
	parts := func(list []schema.KeyPart) {
		for i := range list {
			column(&list[i].Column)
			text(&list[i].Expression)
		}
	}
	r := now.Relation
	for i := range r.Columns {
		column(&r.Columns[i].Name)
		if r.Columns[i].Generated != nil {
			text(&r.Columns[i].Generated.Expression)
		}
	}
	for i := range r.Keys {
		parts(r.Keys[i].Columns)
		list(r.Keys[i].Include)
	}
	for i := range r.ForeignKeys {
		f := &r.ForeignKeys[i]
		list(f.Columns)
		list(f.SetColumns)
	}
	for i := range r.Checks {
		column(&r.Checks[i].Column)
		text(&r.Checks[i].Expression)
	}
	for i := range r.Exclusions {
		text(&r.Exclusions[i].Definition)
	}
	for i := range now.Grants {
		column(&now.Grants[i].Column)
	}
	return now, nil
}

// relationName names a relation as others refer to it.
type relationName struct{ schema, name string }

// relationNames are the new names of a relation and its columns.
type relationNames struct {
	to      relationName
	columns map[string]string
}

// newNames gathers what has another name.
func (p *planner) newNames(res *diff.Result) {
	p.relations = map[relationName]relationNames{}
	for i := range res.Objects {
		d := &res.Objects[i]
		if !d.ID.Kind.IsRelation() || d.Change != diff.Renamed && len(d.Columns) == 0 {
			continue
		}
		was := d.ID
		if d.Was.Name != "" {
			was = d.Was
		}
		n := relationNames{relationName{d.ID.Schema, d.ID.Name}, map[string]string{}}
		for _, c := range d.Columns {
			n.columns[c.Old] = c.New
		}
		p.relations[relationName{was.Schema, was.Name}] = n
	}
}

// formerly returns what a relation was called.
func (p *planner) formerly(schemaName, name string) string {
	for was, n := range p.relations {
		if n.to == (relationName{schemaName, name}) {
			return was.name
		}
	}
	return name
}

// followNames gives the foreign keys of an object, and the column that owns a sequence, the names that what they refer to will have: the server lets them follow.
func (p *planner) followNames(o *schema.Object) {
	if len(p.relations) == 0 {
		return
	}
	if s := o.Sequence; s != nil {
		if n, ok := p.relations[relationName{o.Schema, s.OwnedBy}]; ok && n.to.schema == o.Schema {
			own := *s
			own.OwnedBy = n.to.name
			if to, ok := n.columns[own.OwnedCol]; ok {
				own.OwnedCol = to
			}
			o.Sequence = &own
		}
	}
	if o.Relation == nil {
		return
	}
	for i := range o.Relation.ForeignKeys {
		f := &o.Relation.ForeignKeys[i]
		n, ok := p.relations[relationName{f.RefSchema, f.RefTable}]
		if !ok {
			continue
		}
		f.RefSchema, f.RefTable = n.to.schema, n.to.name
		f.RefColumns = slices.Clone(f.RefColumns)
		for j, c := range f.RefColumns {
			if to, ok := n.columns[c]; ok {
				f.RefColumns[j] = to
			}
		}
	}
}
