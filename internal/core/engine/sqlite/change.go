package sqlite

// SQLite alters little: a column is added in place, all else of a table by the steps of its documentation ("ALTER TABLE",
// "Making Other Kinds Of Table Schema Changes"): another table, the rows into it, the old one away, and its name.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Change implements engine.Changer.
func (e Engine) Change(was, now *schema.Object, _ string) (engine.Alteration, error) {
	made, err := e.Make(was)
	if err != nil {
		return engine.Alteration{}, err
	}
	fresh, err := e.Make(now)
	if err != nil {
		return engine.Alteration{}, err
	}
	if now.Kind != schema.KindTable || was.Kind != now.Kind || was.Setting("virtual") != "" || now.Setting("virtual") != "" {
		return engine.Alteration{Anew: true}, nil
	}
	if len(schema.Compare(was, now, schema.ModelVersion, schema.ModelVersion)) == 0 {
		return engine.Alteration{}, nil
	}
	if text, ok := columnAdded(was, now); ok {
		return engine.Alteration{Build: []engine.Statement{{Head: text}}}, nil
	}
	return rebuild(was, now, made[0].Undo, fresh[0].Head), nil
}

// columnAdded returns the statement that adds a column, if that is all that differs, and the column can be added in place.
func columnAdded(was, now *schema.Object) (string, bool) {
	n := len(was.Relation.Columns)
	if len(now.Relation.Columns) != n+1 {
		return "", false
	}
	c := now.Relation.Columns[n]
	before := *now.Relation
	before.Columns = before.Columns[:n]
	old := *now
	old.Relation = &before
	if len(schema.Compare(was, &old, schema.ModelVersion, schema.ModelVersion)) > 0 {
		return "", false
	}
	constant := c.Default == "" || !strings.ContainsAny(c.Default, "(") && !strings.HasPrefix(strings.ToLower(c.Default), "current_")
	if c.Identity != nil || c.Generated != nil && c.Generated.Stored || !constant || c.NotNull && (c.Default == "" || strings.EqualFold(c.Default, "null")) {
		return "", false
	}
	text, ok := columnText(now.Source, c.Name)
	if !ok {
		return "", false
	}
	return "ALTER TABLE " + quote(now.Name) + " ADD COLUMN " + text, true
}

// columnText returns the last column of a statement as it is written; ok is false where something stands behind it.
func columnText(source, name string) (string, bool) {
	tokens := sqltext.Tokens(source, rules())
	depth, start, end := 0, -1, -1
	for i, t := range tokens {
		switch text := source[t.Start:t.End]; {
		case t.Kind != sqltext.Symbol:
		case text == "(":
			if depth++; depth == 1 {
				start = i + 1
			}
		case text == ")":
			if depth--; depth == 0 && end < 0 {
				end = i
			}
		case text == "," && depth == 1:
			start = i + 1
		}
		if end >= 0 {
			break
		}
	}
	if start < 0 || end <= start || sqltext.FoldASCII(sqltext.Unquote(source, tokens[start], rules())) != sqltext.FoldASCII(name) {
		return "", false
	}
	return source[tokens[start].Start:tokens[end-1].End], true
}

// rebuild returns the statements that put a table of another form in the place of one.
func rebuild(was, now *schema.Object, drop, create string) engine.Alteration {
	aside := "new " + now.Name
	var from, into []string
	var gone []string
	for _, c := range was.Relation.Columns {
		n := columnOf(now.Relation, c.Name)
		switch {
		case c.Generated != nil:
		case n == nil:
			gone = append(gone, c.Name)
		case n.Generated == nil:
			from, into = append(from, quote(c.Name)), append(into, quote(n.Name))
		}
	}
	var risks []engine.Risk
	if len(gone) > 0 {
		risks = append(risks, engine.Risk{Kind: engine.Loses, Text: "the values of " + strings.Join(gone, ", "), Query: "SELECT count(*) FROM " + quote(now.Name)})
	}
	risks = append(risks, engine.Risk{Kind: engine.Rewrites, Text: "all rows are copied; nobody else writes meanwhile"})
	for i := range now.Relation.Columns {
		if n := &now.Relation.Columns[i]; n.NotNull && n.Generated == nil && (n.Default == "" && columnOf(was.Relation, n.Name) == nil || columnOf(was.Relation, n.Name) != nil && !columnOf(was.Relation, n.Name).NotNull) {
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows that have no value for " + n.Name})
		}
	}
	for _, k := range now.Relation.Keys {
		if !slices.ContainsFunc(was.Relation.Keys, func(o schema.Key) bool { return slices.Equal(o.Columns, k.Columns) }) {
			names := list(k.ColumnNames())
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows that agree in " + names, Query: "SELECT " + names + ", count(*) FROM " + quote(now.Name) + " GROUP BY " + names + " HAVING count(*) > 1"})
		}
	}
	for _, k := range now.Relation.Checks {
		if !slices.ContainsFunc(was.Relation.Checks, func(o schema.Check) bool { return o.Expression == k.Expression }) {
			risks = append(risks, engine.Risk{Kind: engine.MayFail, Text: "rows that do not fulfil a check", Query: "SELECT * FROM " + quote(now.Name) + " WHERE NOT (" + k.Expression + ")"})
		}
	}
	steps := func(create string, from, into []string, risks []engine.Risk) (all []engine.Statement) {
		all = append(all, engine.Statement{Head: engine.Retitled(create, aside, quote, rules()), Risks: risks})
		if len(from) > 0 {
			all = append(all, engine.Statement{Head: "INSERT INTO " + quote(aside) + " (" + strings.Join(into, ", ") + ") SELECT " + strings.Join(from, ", ") + " FROM " + quote(now.Name)})
		}
		return append(all, engine.Statement{Head: drop}, engine.Statement{Head: "ALTER TABLE " + quote(aside) + " RENAME TO " + quote(now.Name)})
	}
	out := engine.Alteration{Disturbs: []string{""}, Build: steps(create, from, into, risks)}
	if len(gone) == 0 {
		return out
	}
	spared := create
	for _, name := range gone { // the columns stay behind the others
		spared = spareColumn(spared, now, was.Relation.Column(name))
		from, into = append(from, quote(name)), append(into, quote(name))
		out.Lost = append(out.Lost, engine.Statement{Head: "ALTER TABLE " + quote(now.Name) + " DROP COLUMN " + quote(name),
			Risks: []engine.Risk{{Kind: engine.Loses, Text: "the values of " + name, Query: "SELECT count(" + quote(name) + ") FROM " + quote(now.Name)}}})
	}
	out.Spare = steps(spared, from, into, risks[1:])
	return out
}

// spareColumn adds to the statement of a table a column that another version of it has, behind its own columns, with nothing but its
// type: it keeps values, and asks for none.
func spareColumn(create string, now *schema.Object, c *schema.Column) string {
	typ := c.Type
	if now.Setting("strict") != "" {
		typ = "ANY"
	}
	tokens := sqltext.Tokens(create, rules())
	depth, begins, columns, last := 0, true, 0, -1
	for i, t := range tokens {
		text := create[t.Start:t.End]
		if depth == 1 && begins && (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName || t.Kind == sqltext.String) && columnOf(now.Relation, sqltext.Unquote(create, t, rules())) != nil {
			columns++
		}
		begins = false
		switch {
		case t.Kind != sqltext.Symbol:
		case text == "(":
			depth++
			begins = depth == 1
		case text == ")":
			depth--
			if depth == 0 && last < 0 {
				last = i
			}
		case text == "," && depth == 1:
			if columns >= len(now.Relation.Columns) && last < 0 {
				last = i
			}
			begins = true
		}
	}
	if last < 1 {
		return create
	}
	end := tokens[last-1].End
	return create[:end] + ", " + strings.TrimSpace(quote(c.Name)+" "+typ) + create[end:]
}

func columnOf(r *schema.Relation, name string) *schema.Column {
	for i := range r.Columns {
		if sqltext.FoldASCII(r.Columns[i].Name) == sqltext.FoldASCII(name) {
			return &r.Columns[i]
		}
	}
	return nil
}

// Unmoved implements engine.Changer: rows that a check does not let in. The client has to stop at an error: .bail on.
func (Engine) Unmoved(there []*schema.Object, absent []schema.ID) []engine.Statement {
	const look = "temp.\"the database is not as it was read\""
	all := []engine.Statement{{Head: "CREATE TEMP TABLE " + strings.TrimPrefix(look, "temp.") + " (what TEXT, as_read INTEGER NOT NULL CHECK (as_read))"}}
	add := func(id schema.ID, condition string) {
		all = append(all, engine.Statement{Head: "INSERT INTO " + look + " SELECT " + literal(id.Qualified()) + ", " + condition})
	}
	for _, o := range there {
		switch at := strings.IndexByte(o.Source, '('); {
		case o.Source == "":
		case o.Kind == schema.KindTable && at >= 0: // a table that was renamed has its name in quotes
			add(o.ID(), "EXISTS (SELECT 1 FROM main.sqlite_schema WHERE name = "+literal(o.Name)+" AND substr(sql, instr(sql, '(')) = "+literal(o.Source[at:])+")")
		default:
			add(o.ID(), "EXISTS (SELECT 1 FROM main.sqlite_schema WHERE name = "+literal(o.Name)+" AND sql = "+literal(o.Source)+")")
		}
	}
	for _, id := range absent {
		add(id, "NOT EXISTS (SELECT 1 FROM main.sqlite_schema WHERE lower(name) = lower("+literal(id.Name)+"))")
	}
	return append(all, engine.Statement{Head: "DROP TABLE " + look})
}

// Wrap implements engine.Wrapper: foreign keys and the texts of views and triggers are left alone while tables are rebuilt.
func (Engine) Wrap(all []*engine.Statement) (first, last []*engine.Statement, prelude string) {
	set := func(texts ...string) (list []*engine.Statement) {
		for _, text := range texts {
			list = append(list, &engine.Statement{Head: text, Alone: true})
		}
		return list
	}
	for _, s := range all { // a table's new name is followed by what mentions it, but not that of one that takes another's place
		s.Settings = []engine.Setting{{Name: "legacy", Text: "PRAGMA legacy_alter_table = ON"}}
		if strings.HasPrefix(s.Head, "ALTER TABLE ") && strings.Contains(s.Head, " RENAME TO ") && !strings.HasPrefix(s.Head, "ALTER TABLE \"new ") {
			s.Settings[0].Text = "PRAGMA legacy_alter_table = OFF"
		}
	}
	last = set("PRAGMA legacy_alter_table = OFF", "PRAGMA foreign_keys = ON")
	for _, s := range all {
		if slices.ContainsFunc(s.Risks, func(r engine.Risk) bool { return r.Kind == engine.Rewrites }) {
			last = append(last, set("PRAGMA foreign_key_check ("+quote(s.Subject.Name)+")")...)
		}
	}
	return set("PRAGMA foreign_keys = OFF"), last, ".bail on"
}

func literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
