package postgres

// What there is to say of not-null constraints and of the sequences of identity columns is altered on its own (documentation,
// "ALTER TABLE", since 18; "ALTER SEQUENCE").

import (
	"cmp"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// setNotNull returns what makes a column that may be null one that may not.
func (t *tableChange) setNotNull(n *schema.Column) string {
	if n.Setting(nullNotValid) != "" {
		return t.alter + unvalidatedNull(t.now.Name, n)
	}
	if n.Setting(nullName) == "" && n.Setting(nullNoInherit) == "" {
		return t.alter + "ALTER COLUMN " + quote(n.Name) + " SET NOT NULL"
	}
	return t.alter + strings.TrimSuffix(unvalidatedNull(t.now.Name, n), " NOT VALID")
}

// notNull alters the constraint of a column that may not be null in both versions.
func (t *tableChange) notNull(c, n *schema.Column) {
	old, now := nullNamed(t.was.Name, c), nullNamed(t.now.Name, n)
	differs := func(name string) bool { return c.Setting(name) != n.Setting(name) }
	switch {
	case c.Setting(nullNotValid) == "" && n.Setting(nullNotValid) != "": // it cannot be made less valid
		t.release(t.alter + "ALTER COLUMN " + quote(n.Name) + " DROP NOT NULL")
		t.build(t.setNotNull(n))
		return
	case differs(nullName) && !(c.Setting(nullName) == "" && strings.HasSuffix(now, "_"+n.Name+"_not_null")): // else the table was called otherwise when it was made
		t.renameConstraint(old, now)
	default:
		now = old
	}
	if differs(nullNotValid) {
		t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + "VALIDATE CONSTRAINT " + quote(now), Risks: []engine.Risk{
			{Kind: engine.MayFail, Text: "rows that have no value", Query: "SELECT * FROM " + t.name + " WHERE " + quote(n.Name) + " IS NULL"}}})
	}
	if differs(nullNoInherit) {
		word := "INHERIT"
		if n.Setting(nullNoInherit) != "" {
			word = "NO INHERIT"
		}
		t.build(t.alter + "ALTER CONSTRAINT " + quote(now) + " " + word)
	}
}

// plainNulls takes out of columns what notNull has altered, so that it does not follow again.
func plainNulls(columns []schema.Column) {
	for i := range columns {
		columns[i].Settings = slices.DeleteFunc(slices.Clone(columns[i].Settings), func(p schema.Property) bool { return p.Name == nullNotValid || p.Name == nullNoInherit })
	}
}

// sequenceOf renames the sequence of an identity column, and says what else is altered of it.
func (t *tableChange) sequenceOf(c, n *schema.Column) {
	if c.Identity == nil || n.Identity == nil {
		return
	}
	name := func(table *schema.Object, column *schema.Column) string {
		return cmp.Or(column.Identity.SequenceName, qualify(table.Schema, table.Name+"_"+column.Name+"_seq"))
	}
	old, now := name(t.was, c), name(t.now, n)
	madeUpThen := c.Identity.SequenceName == "" && strings.HasSuffix(strings.Trim(now, `"`), "_"+n.Name+"_seq") // when the table was called otherwise
	if c.Identity.SequenceName != n.Identity.SequenceName && old != now && !madeUpThen {
		t.build("ALTER SEQUENCE " + old + " RENAME TO " + now[strings.LastIndexByte(now, '.')+1:])
	}
	if a, b := c.Identity.Persistence, n.Identity.Persistence; a != b {
		word := b
		if word == "" {
			word = map[string]string{"logged": "unlogged", "unlogged": "logged"}[a]
		}
		t.build("ALTER SEQUENCE " + now + " SET " + strings.ToUpper(word))
	}
}

// keyStorage alters where the index of a key lies, and how.
func (t *tableChange) keyStorage(was, now schema.Key) {
	alter := "ALTER INDEX " + qualify(t.now.Schema, now.Name) + " "
	split := func(k schema.Key) []string {
		text := schema.SettingOf(k.Settings, keyParameters)
		if text == "" {
			return nil
		}
		return strings.Split(text, ", ")
	}
	var reset, set []string
	name := func(option string) string { before, _, _ := strings.Cut(option, " ="); return before }
	for _, o := range split(was) {
		if !slices.ContainsFunc(split(now), func(n string) bool { return name(n) == name(o) }) {
			reset = append(reset, name(o))
		}
	}
	for _, o := range split(now) {
		if !slices.Contains(split(was), o) {
			set = append(set, o)
		}
	}
	if len(reset) > 0 {
		t.build(alter + "RESET (" + strings.Join(reset, ", ") + ")")
	}
	if len(set) > 0 {
		t.build(alter + "SET (" + strings.Join(set, ", ") + ")")
	}
	if a, b := schema.SettingOf(was.Settings, "tablespace"), schema.SettingOf(now.Settings, "tablespace"); a != b {
		t.build(alter+"SET TABLESPACE "+quote(cmp.Or(b, "pg_default")), engine.Risk{Kind: engine.Rewrites, Text: "it is copied to the other place, and nobody reads or writes it meanwhile"})
	}
}

// ofKey are the settings of a key that ask for another one where they differ.
func ofKey(settings []schema.Property) []schema.Property {
	return slices.DeleteFunc(slices.Clone(settings), func(p schema.Property) bool {
		return p.Name == keyParameters || p.Name == keyIndexComment || p.Name == "tablespace"
	})
}
