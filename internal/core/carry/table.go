package carry

// Tables: columns, keys, foreign keys and checks.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

func (c *carrier) table(o *schema.Object) *schema.Object {
	if o.Relation == nil {
		return nil
	}
	if len(o.Relation.Columns) == 0 {
		c.lose(true, "a table without columns")
		return nil
	}
	now := &schema.Object{Kind: schema.KindTable, Comment: c.comment(o.Comment), Relation: &schema.Relation{}}
	now.Schema, now.Name = c.place(o, o.Name)
	if o.Kind == schema.KindPartitionedTable || o.Setting("partition by") != "" {
		c.lose(false, "it is not cut into partitions")
	}
	if o.Setting("row security") != "" {
		c.lose(true, "row security")
	}
	keyed := keyColumns(o)
	for i := range o.Relation.Columns {
		c.part = o.Relation.Columns[i].Name
		c.column(now, o, &o.Relation.Columns[i], max(keyed[c.part], c.indexed(o, c.part)))
	}
	c.shorten(now, o, keyed)
	for _, k := range o.Relation.Keys {
		c.part = k.PartKey()
		c.key(now, k)
	}
	for _, k := range o.Relation.Checks {
		c.part = k.PartKey()
		text, problem := c.expression(k.Expression, false)
		if problem == "" && c.to.Traits().Delimiter != "" { // documentation: "CONSTRAINT"
			for _, col := range now.Relation.Columns {
				if engine.Mentions(text, col.Name, c.to.Traits().Rules) && (col.Identity != nil || follows(o, col.Name)) {
					problem = "the column " + col.Name + ", which numbers rows or follows a reference"
				}
			}
		}
		if problem != "" {
			c.lose(true, "a check, because of "+problem)
			continue
		}
		now.Relation.Checks = append(now.Relation.Checks, schema.Check{Name: k.Name, Expression: text})
	}
	for i := range now.Relation.Checks {
		k := &now.Relation.Checks[i]
		if k.Name == "" {
			k.Name = now.Name + "_check"
		}
		k.Name = c.free("check "+now.Schema, now.Name, k.Name)
	}
	for _, x := range o.Relation.Exclusions {
		c.part = x.Name
		c.lose(true, "an exclusion constraint")
	}
	for _, f := range o.Relation.ForeignKeys {
		c.part = f.PartKey()
		c.foreignKey(now, o, f)
	}
	c.part = ""
	c.numberedKey(now)
	if folded := map[string]bool{}; !c.to.Traits().Rules.FoldLower {
		for _, col := range now.Relation.Columns {
			if f := names.Fold(col.Name); folded[f] {
				c.lose(true, "a table with columns whose names are one there: "+col.Name)
				return nil
			} else {
				folded[f] = true
			}
		}
	}
	return now
}

// numberedKey adds a key for a column that numbers the rows where the engine asks for one.
func (c *carrier) numberedKey(now *schema.Object) {
	for _, col := range now.Relation.Columns {
		if col.Identity == nil || c.to.Traits().Delimiter == "" || slices.ContainsFunc(now.Relation.Keys, func(k schema.Key) bool { return k.Columns[0].Column == col.Name }) {
			continue
		}
		c.part = col.Name
		c.lose(false, "a column that numbers the rows is a key")
		now.Relation.Keys = append(now.Relation.Keys, schema.Key{Name: now.Name + "_" + col.Name + "_key", Columns: []schema.KeyPart{{Column: col.Name}}})
	}
	c.part = ""
}

// follows reports whether a column changes with what it refers to.
func follows(o *schema.Object, column string) bool {
	return slices.ContainsFunc(o.Relation.ForeignKeys, func(f schema.ForeignKey) bool {
		acts := func(a string) bool { return a == "cascade" || a == "set null" || a == "set default" }
		return slices.Contains(f.Columns, column) && (acts(f.OnUpdate) || acts(f.OnDelete))
	})
}

// keyColumns returns the columns of a table that are in a key or a foreign key.
func keyColumns(o *schema.Object) map[string]int {
	keyed := map[string]int{}
	for _, k := range o.Relation.Keys {
		for _, name := range k.ColumnNames() {
			keyed[name] = max(keyed[name], len(k.Columns))
		}
	}
	for _, f := range o.Relation.ForeignKeys {
		for _, name := range f.Columns {
			keyed[name] = max(keyed[name], len(f.Columns))
		}
	}
	return keyed
}

// shorten makes texts of the longest columns of characters where the target keeps a row short and they are in no key.
func (c *carrier) shorten(now, o *schema.Object, keyed map[string]int) {
	const most = 15000 // characters of four bytes each
	length := func(col *schema.Column) int {
		if t := c.write.ReadType(col.Type); t.Base == "varchar" || t.Base == "char" {
			return t.Length
		}
		return 0
	}
	for c.write.Carries("short rows") {
		total, longest := 0, -1
		for i := range now.Relation.Columns {
			col := &now.Relation.Columns[i]
			n := length(col)
			if total += n; n > 0 && keyed[col.Name] == 0 && c.indexed(o, col.Name) == 0 && (longest < 0 || n > length(&now.Relation.Columns[longest])) {
				longest = i
			}
		}
		if total <= most || longest < 0 {
			return
		}
		col := &now.Relation.Columns[longest]
		c.part = col.Name
		c.lose(false, "its length is not kept to: a row holds no more")
		col.Type, _ = c.write.WriteType(engine.DataType{Base: "text", Precision: -1}, 0)
	}
}

// typeOf returns the type of a column in common terms, through domains and enum types.
func (c *carrier) typeOf(col *schema.Column, now *schema.Object) engine.DataType {
	t := c.read.ReadType(col.Type)
	of := c.types[strings.TrimSuffix(col.Type, "[]")]
	switch {
	case of == nil:
	case of.Enum != nil:
		t = engine.DataType{Base: "enum", Values: of.Enum.Values, Written: col.Type, Precision: -1, Array: strings.HasSuffix(col.Type, "[]")}
	case of.Domain != nil:
		inner := schema.Column{Name: col.Name, Type: of.Domain.Type}
		t = c.typeOf(&inner, now)
		for _, k := range of.Domain.Checks {
			text, problem := c.expression(strings.NewReplacer("VALUE", c.from.Quote(col.Name)).Replace(k.Expression), false)
			if problem != "" {
				c.lose(true, "the check of a domain, because of "+problem)
				continue
			}
			now.Relation.Checks = append(now.Relation.Checks, schema.Check{Expression: text})
		}
		if of.Domain.NotNull {
			col.NotNull = true
		}
		if col.Default == "" {
			col.Default = of.Domain.Default
		}
	}
	return t
}

func (c *carrier) column(now, o *schema.Object, from *schema.Column, keyed int) {
	col := *from
	out := schema.Column{Name: col.Name, Comment: c.comment(col.Comment)}
	t := c.typeOf(&col, now)
	text, change := c.write.WriteType(t, keyed)
	if text == "" {
		text, change = c.anyText(t, keyed)
	}
	out.Type, out.NotNull = text, col.NotNull
	if change != "" {
		c.lose(false, change)
	}
	if col.Collation != "" {
		c.lose(false, "its collation "+col.Collation+": text is compared and sorted as the engine does")
	}
	if t.Base == "enum" && !strings.HasPrefix(text, "enum(") {
		quoted := make([]string, len(t.Values))
		for i, v := range t.Values {
			quoted[i] = c.literal(v)
		}
		if len(quoted) > 0 && !t.Array {
			now.Relation.Checks = append(now.Relation.Checks, schema.Check{Expression: c.to.Quote(col.Name) + " IN (" + strings.Join(quoted, ", ") + ")"})
			c.lose(false, "a list of values is a check; it sorts by its letters")
		}
	}
	switch {
	case (col.Identity != nil || c.numbered(o, from)) && !c.write.Carries("strict types") && slices.ContainsFunc(now.Relation.Columns, func(x schema.Column) bool { return x.Identity != nil }):
		c.lose(true, "its numbering: a table has one column that numbers its rows")
	case col.Identity != nil, c.numbered(o, from):
		out.Identity, out.NotNull = &schema.Numbering{Mode: "by default"}, true
		if c.to.Traits().Delimiter != "" {
			out.Identity.Mode = "auto increment"
		}
		if c.write.Carries("strict types") && out.Type != "smallint" && out.Type != "integer" && out.Type != "bigint" {
			out.Type = "bigint"
			c.lose(false, "what numbers rows goes to 2 to the 63rd")
		}
	case col.Generated != nil:
		text, problem := c.expression(col.Generated.Expression, false)
		if c.write.Carries("strict types") {
			if t.Base == "blob" {
				problem = "its type"
			}
			text = "CAST((" + text + ") AS " + out.Type + ")"
		}
		if problem != "" {
			c.lose(true, "the computation of the column, because of "+problem)
			break
		}
		out.Generated = &schema.Generated{Expression: text, Stored: col.Generated.Stored}
		if !out.Generated.Stored && !c.write.Carries("virtual") {
			out.Generated.Stored = true
			c.lose(false, "it is computed when a row is written, not when it is read")
		}
		if c.to.Traits().Delimiter != "" { // it takes no NOT NULL there
			out.NotNull = false
		}
	case col.Default != "" && !strings.EqualFold(col.Default, "null"):
		out.Default = c.defaultOf(col.Default, t)
		if d, ok := c.write.(engine.Defaulter); ok && out.Default != "" {
			out.Default = d.WriteDefault(out.Type, out.Default)
		}
	}
	if out.Identity == nil && col.Default == "" && col.Identity == nil && t.Base == "timestamp" && col.Setting("on update") != "" {
		c.lose(true, "the time of the last change is not set by itself")
	}
	now.Relation.Columns = append(now.Relation.Columns, out)
}

// anyText returns the type for what has no common term.
func (c *carrier) anyText(t engine.DataType, keyed int) (text, change string) {
	text, _ = c.write.WriteType(engine.DataType{Base: "text", Precision: -1}, keyed)
	if t.Written == "" {
		return text, "a column without a type is text"
	}
	return text, "the type " + t.Written + " is text"
}

// indexed returns how many columns the widest index has that is carried, too, and has a column; 0 for none.
func (c *carrier) indexed(o *schema.Object, column string) int {
	widest := 0
	for _, x := range c.indexes[[2]string{o.Schema, o.Name}] {
		if slices.ContainsFunc(x.Index.Columns, func(k schema.KeyPart) bool { return k.Column == column }) {
			widest = max(widest, len(x.Index.Columns))
		}
	}
	return widest
}

// numbered reports whether a column numbers its rows without saying so: from a sequence of its own, or as the number of the row.
func (c *carrier) numbered(o *schema.Object, col *schema.Column) bool {
	if strings.HasPrefix(strings.ToLower(col.Default), "nextval(") {
		return c.owned[[3]string{o.Schema, o.Name, col.Name}]
	}
	k := o.Relation.PrimaryKey()
	return c.read.Carries("rowids") && k != nil && len(k.Columns) == 1 && k.Columns[0].Column == col.Name && strings.EqualFold(col.Type, "integer")
}

// defaultOf carries a default, "" for one that does not come along.
func (c *carrier) defaultOf(text string, t engine.DataType) string {
	c.values = true
	out, problem := c.expression(text, false)
	c.values = false
	if problem == "" && strings.Contains(out, "0000-00-00") {
		problem = "the date 0000-00-00"
	}
	if number := strings.Trim(out, "-0123456789. ") == ""; problem == "" && number && c.write.Carries("strict types") {
		switch t.Base {
		case "blob", "binary", "varbinary", "uuid", "json":
			problem = "its type"
		case "date", "time", "timestamp", "interval":
			problem = "a number as a time"
		case "", "text", "varchar", "char", "enum":
			out = c.literal(out)
		}
	}
	switch {
	case problem != "":
		c.lose(true, "its default "+text+", because of "+problem)
		return ""
	case t.Base == "boolean" && (out == "1" || out == "'1'" || out == "b'1'"):
		out = "TRUE"
	case t.Base == "boolean" && (out == "0" || out == "'0'" || out == "b'0'"):
		out = "FALSE"
	}
	if n := len(sqltext.Tokens(out, c.to.Traits().Rules)); n > 1 && !strings.HasPrefix(out, "(") && !(n == 2 && strings.HasPrefix(out, "-")) {
		out = "(" + out + ")"
	}
	if !c.write.Carries("booleans") {
		switch strings.ToUpper(out) {
		case "TRUE":
			out = "1"
		case "FALSE":
			out = "0"
		}
	}
	return out
}

func (c *carrier) key(now *schema.Object, k schema.Key) {
	out := schema.Key{Primary: k.Primary, Name: k.Name}
	if schema.SettingOf(k.Settings, "without overlaps") != "" {
		c.lose(true, "a key of periods")
		return
	}
	for _, p := range k.Columns {
		if p.Expression != "" {
			c.lose(true, "a key of an expression")
			return
		}
		if col := now.Relation.Column(p.Column); k.Primary && col != nil && col.Generated == nil { // as the standard has it
			col.NotNull = true
		}
		if p.Length > 0 {
			c.lose(false, "the key of a prefix is one of the whole column")
		}
		out.Columns = append(out.Columns, schema.KeyPart{Column: p.Column})
	}
	if k.Timing != "" {
		if c.write.Carries("deferrable") && c.write.Carries("schemas") {
			out.Timing = k.Timing
		} else {
			c.lose(false, "a key that is checked at the end of a transaction is checked at once")
		}
	}
	if schema.SettingOf(k.Settings, "nulls") != "" {
		c.lose(false, "nulls are not equal in it")
	}
	if k.Primary && (out.Name == "" || strings.EqualFold(out.Name, "primary")) {
		out.Name = now.Name + "_pkey"
	}
	if !k.Primary && out.Name == "" {
		out.Name = now.Name + "_" + strings.Join(k.ColumnNames(), "_") + "_key"
	}
	out.Name = c.free(now.Schema, now.Name, out.Name)
	if c.to.Traits().Delimiter != "" && out.Primary {
		out.Name = "PRIMARY"
	}
	now.Relation.Keys = append(now.Relation.Keys, out)
}

func (c *carrier) foreignKey(now, o *schema.Object, f schema.ForeignKey) {
	out := schema.ForeignKey{Name: f.Name, Columns: f.Columns, RefTable: f.RefTable, RefColumns: f.RefColumns, OnDelete: f.OnDelete, OnUpdate: f.OnUpdate}
	in := f.RefSchema
	if in == "" {
		in = o.Schema
	}
	out.RefSchema, _ = c.place(&schema.Object{Schema: in}, "")
	if f.Timing != "" {
		if c.write.Carries("deferrable") {
			out.Timing = f.Timing
		} else {
			c.lose(false, "a reference that is checked at the end of a transaction is checked at once")
		}
	}
	if f.Match != "" {
		c.lose(false, "MATCH FULL is as MATCH SIMPLE")
	}
	if len(f.SetColumns) > 0 {
		c.lose(false, "all of its columns are set, not some")
	}
	for _, action := range []*string{&out.OnDelete, &out.OnUpdate} {
		if *action == "set default" && !c.write.Carries("set default") {
			c.lose(false, "SET DEFAULT is no action: the engine has none")
			*action = ""
		}
		if *action == "restrict" && c.to.Traits().Batch != "" {
			*action = ""
		}
	}
	if len(out.RefColumns) == 0 { // the key of the other table, spelt out
		if to := c.tables[[2]string{in, f.RefTable}]; to != nil && to.Relation.PrimaryKey() != nil {
			out.RefColumns = to.Relation.PrimaryKey().ColumnNames()
		}
	}
	if out.Name == "" {
		out.Name = now.Name + "_" + strings.Join(f.Columns, "_") + "_fkey"
	}
	bears := func(name string) bool { // keys and checks of the same table, too, have names
		return slices.ContainsFunc(now.Relation.Keys, func(k schema.Key) bool { return strings.EqualFold(k.Name, name) }) ||
			slices.ContainsFunc(now.Relation.Checks, func(k schema.Check) bool { return strings.EqualFold(k.Name, name) })
	}
	if bears(out.Name) {
		out.Name += "_fkey"
	}
	out.Name = c.free("foreign key", now.Name, out.Name)
	now.Relation.ForeignKeys = append(now.Relation.ForeignKeys, out)
}
