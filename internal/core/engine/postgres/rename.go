package postgres

// Renames are done by the server for all that it keeps a record of; what is left are the bodies of routines.

import (
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Rename returns the statement that renames an object or a column, or moves an object (documentation: "ALTER TABLE",
// "ALTER TYPE", "ALTER FUNCTION", …).
func (e Engine) Rename(o *schema.Object, r engine.Renaming, _ string) ([]engine.Statement, error) {
	made, err := e.Make(o)
	if err != nil || len(made) == 0 {
		return nil, err
	}
	tail := "RENAME TO " + quote(r.Name)
	switch {
	case r.Schema != "":
		tail = "SET SCHEMA " + quote(r.Schema)
	case r.Column != "" && o.Kind == schema.KindComposite:
		tail = "RENAME ATTRIBUTE " + quote(r.Column) + " TO " + quote(r.Name) + " CASCADE"
	case r.Column != "":
		tail = "RENAME COLUMN " + quote(r.Column) + " TO " + quote(r.Name)
	}
	for _, s := range made {
		if s.Action != engine.Make {
			continue
		}
		if text := engine.Altering(s.Undo, tail); text != "" {
			return []engine.Statement{{Subject: o.ID(), Head: text}}, nil
		}
	}
	return nil, nil
}

// Replace returns the definition of a routine, which takes the place of the one that is there.
func (e Engine) Replace(o *schema.Object, _ string) ([]engine.Statement, error) {
	if o.Kind == schema.KindTable { // it keeps its rows
		return nil, nil
	}
	made, err := e.Make(o)
	if err != nil {
		return nil, err
	}
	for i := range made {
		if made[i].Action == engine.Make {
			made[i].Head = engine.CreateInstead(made[i].Head, "CREATE OR REPLACE", rules())
			return made[i : i+1], nil
		}
	}
	return nil, nil
}
