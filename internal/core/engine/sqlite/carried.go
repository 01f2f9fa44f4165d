package sqlite

// A table that no file ever held has no text; it is put together from its parts.

import (
	"strings"

	"echo-atlas/internal/core/schema"
)

// carried returns the statement of an object that came from another engine.
func carried(o *schema.Object) string {
	switch {
	case o.Index != nil:
		b := "CREATE "
		if o.Index.Unique {
			b += "UNIQUE "
		}
		b += "INDEX " + quote(o.Name) + " ON " + quote(o.Index.Table) + " (" + keyColumns(o.Index.Columns) + ")"
		if o.Index.Where != "" {
			b += " WHERE " + o.Index.Where
		}
		return b
	case o.Kind == schema.KindView && o.Relation != nil:
		return "CREATE VIEW " + quote(o.Name) + " AS\n" + o.Relation.Query
	case o.Kind != schema.KindTable || o.Relation == nil:
		return ""
	}
	return carriedTable(o)
}

// carriedTable returns the statement of a table.
func carriedTable(o *schema.Object) string {
	var items []string
	numbered := ""
	for _, c := range o.Relation.Columns {
		b := quote(c.Name) + " " + c.Type
		switch {
		case c.Identity != nil:
			numbered = c.Name
			b = quote(c.Name) + " INTEGER PRIMARY KEY AUTOINCREMENT"
		case c.Generated != nil:
			b += " GENERATED ALWAYS AS (" + c.Generated.Expression + ")"
			if c.Generated.Stored {
				b += " STORED"
			}
		case c.Default != "":
			if b += " DEFAULT "; strings.ContainsAny(c.Default, "( ") && !strings.HasPrefix(c.Default, "'") {
				b += "(" + c.Default + ")"
			} else {
				b += c.Default
			}
		}
		if c.NotNull && c.Identity == nil {
			b += " NOT NULL"
		}
		items = append(items, b)
	}
	for _, k := range o.Relation.Keys {
		if k.Primary && len(k.Columns) == 1 && k.Columns[0].Column == numbered {
			continue
		}
		b := ""
		if k.Name != "" {
			b = "CONSTRAINT " + quote(k.Name) + " "
		}
		word := "UNIQUE"
		if k.Primary {
			word = "PRIMARY KEY"
		}
		if k.Primary && numbered != "" {
			word = "UNIQUE"
		}
		items = append(items, b+word+" ("+keyColumns(k.Columns)+")")
	}
	for _, c := range o.Relation.Checks {
		b := ""
		if c.Name != "" {
			b = "CONSTRAINT " + quote(c.Name) + " "
		}
		items = append(items, b+"CHECK ("+c.Expression+")")
	}
	for _, f := range o.Relation.ForeignKeys {
		items = append(items, carriedReference(f))
	}
	return "CREATE TABLE " + quote(o.Name) + " (\n    " + strings.Join(items, ",\n    ") + "\n)"
}

// carriedReference returns a foreign key as it stands in a table.
func carriedReference(f schema.ForeignKey) string {
	b := ""
	if f.Name != "" {
		b = "CONSTRAINT " + quote(f.Name) + " "
	}
	b += "FOREIGN KEY (" + list(f.Columns) + ") REFERENCES " + quote(f.RefTable)
	if len(f.RefColumns) > 0 {
		b += " (" + list(f.RefColumns) + ")"
	}
	if f.OnDelete != "" {
		b += " ON DELETE " + strings.ToUpper(f.OnDelete)
	}
	if f.OnUpdate != "" {
		b += " ON UPDATE " + strings.ToUpper(f.OnUpdate)
	}
	switch f.Timing {
	case "deferrable":
		b += " DEFERRABLE"
	case "initially deferred":
		b += " DEFERRABLE INITIALLY DEFERRED"
	}
	return b
}

func list(names []string) string {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quote(n)
	}
	return strings.Join(quoted, ", ")
}

func keyColumns(parts []schema.KeyPart) string {
	texts := make([]string, len(parts))
	for i, p := range parts {
		if texts[i] = quote(p.Column); p.Expression != "" {
			texts[i] = "(" + p.Expression + ")"
		}
		if p.Descending {
			texts[i] += " DESC"
		}
	}
	return strings.Join(texts, ", ")
}
