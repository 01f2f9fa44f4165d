package sqlserver

// Renames are done by a procedure, which follows no texts; modules are altered in their place.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Rename returns the statements that rename an object or a column, or move an object to another schema. Checks that mention
// a column hold its name fast, so they go before and come back behind (documentation: "sp_rename", "ALTER SCHEMA").
func (e Engine) Rename(o *schema.Object, r engine.Renaming, _ string) ([]engine.Statement, error) {
	id := o.ID()
	name := qualify(o.Schema, o.Name)
	rename := func(what, kind string) []engine.Statement {
		text := "EXEC sys.sp_rename @objname = " + literal(what) + ", @newname = " + literal(r.Name)
		if kind != "" {
			text += ", @objtype = N'" + kind + "'"
		}
		return []engine.Statement{{Subject: id, Step: 1, Head: text}}
	}
	switch {
	case r.Schema != "":
		class := ""
		if o.Kind.IsType() {
			class = "TYPE::"
		}
		return []engine.Statement{{Subject: id, Head: "ALTER SCHEMA " + quote(r.Schema) + " TRANSFER " + class + name}}, nil
	case r.Column != "":
		list := rename(name+"."+quote(r.Column), "COLUMN")
		if o.Relation == nil {
			return list, nil
		}
		for _, c := range o.Relation.Checks {
			if c.Name == "" || !engine.Mentions(c.Expression, r.Column, rules()) {
				continue
			}
			again := engine.Statement{Subject: id, Step: 2, Head: "ALTER TABLE " + name + " ADD CONSTRAINT " + quote(c.Name) + " CHECK " + renamedIn(c.Expression, r)}
			list = append([]engine.Statement{{Subject: id, Head: "ALTER TABLE " + name + " DROP CONSTRAINT " + quote(c.Name)}}, append(list, again)...)
		}
		return list, nil
	case o.Index != nil:
		return rename(qualify(o.Schema, o.Index.Table)+"."+quote(o.Name), "INDEX"), nil
	case o.Kind == schema.KindTableType || o.Kind.IsType() && o.Kind != schema.KindTable:
		return rename(name, "USERDATATYPE"), nil
	case o.Kind == schema.KindTable || o.Kind == schema.KindSequence:
		return rename(name, ""), nil
	}
	return nil, nil // of modules the procedure would leave the old name in the text
}

// renamedIn puts the new name of a column into an expression that speaks of one table alone.
func renamedIn(expression string, r engine.Renaming) string {
	text := sqltext.RenameIn(expression, rules(), map[string]string{r.Column: r.Name}, quote)
	if !strings.HasPrefix(text, "(") {
		text = "(" + text + ")"
	}
	return text
}

// Replace returns the statement that alters a module, or makes it (documentation: "CREATE OR ALTER", since 2016 SP1).
func (e Engine) Replace(o *schema.Object, _ string) ([]engine.Statement, error) {
	if o.Kind == schema.KindTable { // it keeps its rows
		return nil, nil
	}
	made, err := e.Make(o)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(made, func(s engine.Statement) bool { return s.Action == engine.Make })
	if i < 0 {
		return nil, nil
	}
	made[i].Head = engine.CreateInstead(made[i].Head, "CREATE OR ALTER", rules())
	return made[i : i+1], nil
}

// Holds reports whether a module is bound to what it mentions: sp_rename and ALTER SCHEMA refuse then (documentation: "CREATE
// VIEW", SCHEMABINDING).
func (Engine) Holds(o *schema.Object) bool {
	text := ""
	switch {
	case o.Kind == schema.KindView && o.Relation != nil:
		text = o.Relation.Head
	case o.Routine != nil:
		text = o.Routine.Definition[:o.Routine.BodyStart]
		if o.Routine.BodyStart == 0 {
			text = o.Routine.Definition
		}
	}
	return slices.ContainsFunc(sqltext.Tokens(text, rules()), func(t sqltext.Token) bool {
		return t.Kind == sqltext.Word && strings.EqualFold(text[t.Start:t.End], "schemabinding")
	})
}
