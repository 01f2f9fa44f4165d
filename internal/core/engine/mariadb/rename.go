package mariadb

// The server renames tables, views, sequences, columns, indexes and events; what is code is made anew under another name.

import (
	"errors"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Rename returns the statement that renames an object or a column, or moves a table to another database (documentation:
// "RENAME TABLE", "ALTER TABLE", "ALTER EVENT").
func (Engine) Rename(o *schema.Object, r engine.Renaming, _ string) ([]engine.Statement, error) {
	text := ""
	switch {
	case r.Column != "" && o.Kind != schema.KindTable:
		return nil, errors.New("the columns of a view are called as its statement says; edit the view")
	case r.Column != "":
		text = "ALTER TABLE " + quote(o.Name) + " RENAME COLUMN " + quote(r.Column) + " TO " + quote(r.Name)
	case r.Schema != "" && o.Kind != schema.KindTable && o.Kind != schema.KindSequence:
		return nil, errors.New("the server moves tables and sequences to another database, and nothing else")
	case r.Schema != "":
		text = "RENAME TABLE " + quote(o.Name) + " TO " + quote(r.Schema) + "." + quote(r.Name)
	case o.Kind == schema.KindTable || o.Kind == schema.KindView || o.Kind == schema.KindSequence:
		text = "RENAME TABLE " + quote(o.Name) + " TO " + quote(r.Name)
	case o.Index != nil:
		text = "ALTER TABLE " + quote(o.Index.Table) + " RENAME INDEX " + quote(o.Name) + " TO " + quote(r.Name)
	case o.Kind == schema.KindEvent:
		text = "ALTER EVENT " + quote(o.Name) + " RENAME TO " + quote(r.Name)
	default:
		return nil, nil
	}
	return append([]engine.Statement{{Subject: o.ID(), Head: text, Settings: usual}}, regrants(o, r)...), nil
}

// regrants returns the statements that carry rights over to the new name: the server keeps them under the old one.
func regrants(o *schema.Object, r engine.Renaming) []engine.Statement {
	if o.Relation == nil && o.Sequence == nil {
		return nil
	}
	now := *o
	now.Grants = nil
	for _, g := range o.Grants {
		if r.Column == "" {
			now.Grants = append(now.Grants, g)
		} else if g.Column == r.Column {
			g.Column = r.Name
			now.Grants = append(now.Grants, g)
		}
	}
	on, former := quote(r.Name), quote(o.Name)
	switch {
	case r.Column != "":
		on = former
	case r.Schema != "":
		on = quote(r.Schema) + "." + on
	}
	all := grantStatements(&now, on)
	for i := range all {
		all[i].Requires, all[i].Step = nil, i+1
	}
	for _, g := range o.Grants {
		if r.Column != "" && g.Column != r.Column {
			continue
		}
		words := slices.Concat(g.Granted, g.Grantable)
		if len(g.Grantable) > 0 {
			words = append(words, "GRANT OPTION")
		}
		if g.Column != "" {
			for i := range words {
				words[i] += " (" + quote(g.Column) + ")"
			}
		}
		all = append(all, engine.Statement{Subject: o.ID(), Step: len(all) + 1, Head: "REVOKE " + strings.Join(words, ", ") + " ON " + former + " FROM " + g.Grantee, Settings: usual})
	}
	return all
}

// replaces reports whether the server makes an object of a kind in the place of one that is there.
func (e Engine) replaces(k schema.Kind) bool { return !e.mysql || k == schema.KindView }

// Replace returns the statements that make an object anew, and give its rights again: with the old definition go those on
// routines. MySQL replaces views alone; other things are dropped there first (documentation: "CREATE PROCEDURE", "DROP PROCEDURE").
func (e Engine) Replace(o *schema.Object, _ string) ([]engine.Statement, error) {
	if o.Kind == schema.KindTable { // it keeps its rows; what it may mention are sequences
		var all []engine.Statement
		for i := range o.Relation.Columns {
			if c := &o.Relation.Columns[i]; strings.Contains(c.Default, "nextval(") || strings.Contains(c.Default, "lastval(") {
				all = append(all, engine.Statement{Subject: o.ID(), Step: i, Head: "ALTER TABLE " + quote(o.Name) + " ALTER COLUMN " + quote(c.Name) + " SET DEFAULT (" + c.Default + ")", Settings: usual})
			}
		}
		return all, nil
	}
	made, err := e.Make(o)
	if err != nil {
		return nil, err
	}
	var all []engine.Statement
	for _, s := range made {
		if s.Action == engine.Make {
			if e.replaces(o.Kind) {
				s.Head = "CREATE OR REPLACE" + strings.TrimPrefix(s.Head, "CREATE")
			} else {
				s.Step = 1
				drop := engine.Statement{Subject: s.Subject, Head: s.Undo, Settings: s.UndoSettings, Requires: s.Requires, Wishes: s.Wishes, Provides: []engine.Resource{{What: "gap", Name: o.Name, Detail: string(o.Kind)}}}
				s.Requires = append(s.Requires[:len(s.Requires):len(s.Requires)], drop.Provides...)
				all = append(all, drop)
			}
		}
		all = append(all, s)
	}
	return all, nil
}
