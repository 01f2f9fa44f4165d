package sqlite

// SQLite renames tables and columns, and follows that everywhere; all else is made anew under another name.

import (
	"errors"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Rename returns the statement that renames a table or a column (documentation: "ALTER TABLE").
func (Engine) Rename(o *schema.Object, r engine.Renaming, _ string) ([]engine.Statement, error) {
	switch {
	case r.Schema != "":
		return nil, errors.New("a file has no schemas to move to")
	case r.Column != "" && o.Kind != schema.KindTable:
		return nil, errors.New("the columns of a view are called as its query says; edit the view")
	case o.Kind != schema.KindTable:
		return nil, nil
	case r.Column != "":
		return []engine.Statement{{Subject: o.ID(), Head: "ALTER TABLE " + quote(o.Name) + " RENAME COLUMN " + quote(r.Column) + " TO " + quote(r.Name)}}, nil
	}
	return []engine.Statement{{Subject: o.ID(), Head: "ALTER TABLE " + quote(o.Name) + " RENAME TO " + quote(r.Name)}}, nil
}

// Replace returns the statements that drop an object and make it anew.
func (e Engine) Replace(o *schema.Object, _ string) ([]engine.Statement, error) {
	if o.Kind == schema.KindTable { // it keeps its rows
		return nil, nil
	}
	made, err := e.Make(o)
	if err != nil {
		return nil, err
	}
	s := made[0]
	s.Step = 1
	gap := engine.Resource{What: "gap", Name: o.Name, Detail: string(o.Kind)}
	drop := engine.Statement{Subject: s.Subject, Head: s.Undo, Provides: []engine.Resource{gap}}
	s.Requires = append(s.Requires, gap)
	return []engine.Statement{drop, s}, nil
}
