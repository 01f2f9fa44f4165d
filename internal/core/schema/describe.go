package schema

// Parts of the model as one line each, in words that every engine's users know.

import (
	"cmp"
	"strconv"
	"strings"

	"echo-atlas/internal/core/names"
)

// Describe returns the column as one line for people: type, nullability, default.
func (c Column) Describe() string {
	words := []string{c.Type}
	if c.Type == "" {
		words[0] = "no type"
	}
	if c.NotNull {
		words = append(words, "not null")
	}
	if c.Default != "" {
		words = append(words, "default "+c.Default)
	}
	if c.Identity != nil {
		words = append(words, c.Identity.Describe())
	}
	if c.Generated != nil {
		words = append(words, c.Generated.Describe())
	}
	return strings.Join(words, " ")
}

// Describe returns the identity in a few words.
func (i Numbering) Describe() string {
	if i.Mode == "auto increment" || i.Mode == "identity" {
		return i.Mode
	}
	return "identity " + i.Mode
}

// Describe returns in a few words in what the column differs from its parent's.
func (i Inheriting) Describe() string {
	own := i.former()
	if own == "yes" {
		return "inherited"
	}
	return "inherited " + own
}

// Describe returns the expression and whether it is stored.
func (g Generated) Describe() string {
	s := "generated (" + g.Expression + ")"
	if g.Stored {
		s += " stored"
	}
	return s
}

// Describe returns the key as one line for people.
func (k Key) Describe() string {
	s := "unique "
	if k.Primary {
		s = "primary key "
	}
	s += "(" + DescribeKeyParts(k.Columns) + ")"
	if len(k.Include) > 0 {
		s += " including (" + strings.Join(k.Include, ", ") + ")"
	}
	return withTiming(s, k.Timing)
}

// Describe returns the foreign key as one line for people.
func (f ForeignKey) Describe() string {
	s := "(" + strings.Join(f.Columns, ", ") + ") to "
	if f.RefSchema != "" {
		s += names.Quote(f.RefSchema) + "."
	}
	s += names.Quote(f.RefTable)
	if len(f.RefColumns) > 0 {
		s += " (" + strings.Join(f.RefColumns, ", ") + ")"
	}
	if f.Match != "" {
		s += " match " + f.Match
	}
	if f.OnUpdate != "" {
		s += " on update " + f.OnUpdate
	}
	if f.OnDelete != "" {
		s += " on delete " + f.OnDelete
		if len(f.SetColumns) > 0 {
			s += " (" + strings.Join(f.SetColumns, ", ") + ")"
		}
	}
	if f.Disabled {
		s += " disabled"
	} else if f.NotValid {
		s += " not valid"
	}
	return withTiming(s, f.Timing)
}

// Describe returns the check as one line for people.
func (c Check) Describe() string {
	s := c.Expression
	if c.NoInherit {
		s += " no inherit"
	}
	if c.Disabled {
		s += " disabled"
	} else if c.NotValid {
		s += " not valid"
	}
	return s
}

// Describe returns the property's value.
func (p Property) Describe() string { return p.Value }

// Describe returns the rights as one line for people.
func (g Grant) Describe() string {
	var words []string
	if len(g.Granted) > 0 {
		words = append(words, strings.Join(g.Granted, ", "))
	}
	if len(g.Grantable) > 0 {
		words = append(words, strings.Join(g.Grantable, ", ")+" with grant option")
	}
	if len(g.Revoked) > 0 {
		words = append(words, "not "+strings.Join(g.Revoked, ", "))
	}
	return strings.Join(words, "; ")
}

// Describe returns the parent as one line for people.
func (p Parent) Describe() string {
	s := names.Quote(p.Table)
	if p.Schema != "" {
		s = names.Quote(p.Schema) + "." + s
	}
	if p.Bound != "" {
		return "partition of " + s + " " + p.Bound
	}
	return "inherits " + s
}

// Describe returns the definition.
func (e Exclusion) Describe() string { return e.Definition }

func withTiming(s, timing string) string {
	if timing == "" {
		return s
	}
	return s + " " + timing
}

// DescribeKeyParts returns the columns of a key or an index as one line for people.
func DescribeKeyParts(parts []KeyPart) string {
	var b strings.Builder
	for i, p := range parts {
		if i > 0 {
			b.WriteString(", ")
		}
		if p.Expression != "" {
			b.WriteString("(" + p.Expression + ")")
		} else {
			b.WriteString(names.Quote(p.Column))
		}
		if p.Length > 0 {
			b.WriteString("(" + strconv.Itoa(p.Length) + ")")
		}
		if p.Collation != "" {
			b.WriteString(" collate " + p.Collation)
		}
		if p.OpClass != "" {
			b.WriteString(" " + p.OpClass)
		}
		if p.Descending {
			b.WriteString(" descending")
		}
		if p.Nulls != "" {
			b.WriteString(" nulls " + p.Nulls)
		}
		if p.Statistics != "" {
			b.WriteString(" statistics " + p.Statistics)
		}
	}
	return b.String()
}

// Describe returns the index as one line for people.
func (x Index) Describe() string {
	s := "(" + DescribeKeyParts(x.Columns) + ")"
	if x.Unique {
		s = "unique " + s
	}
	if x.Method != "" {
		s = x.Method + " " + s
	}
	if len(x.Include) > 0 {
		s += " including (" + strings.Join(x.Include, ", ") + ")"
	}
	if x.Where != "" {
		s += " where " + x.Where
	}
	return s
}

// Describe returns when the trigger fires.
func (t Trigger) Describe() string {
	s := strings.TrimSpace(t.Timing + " " + strings.Join(t.Events, " or "))
	if len(t.Columns) > 0 {
		s += " of " + strings.Join(t.Columns, ", ")
	}
	if t.Level != "" {
		s += " for each " + t.Level
	}
	if t.Disabled {
		s += ", disabled"
	}
	return s
}

// String returns the target as it is written in an address, as far as it is given.
func (s *Synonym) String() string {
	var parts []string
	for _, part := range []string{s.Server, s.Database, s.Schema, s.Name} {
		if part != "" || len(parts) > 0 {
			parts = append(parts, names.Quote(part))
		}
	}
	return strings.Join(parts, ".")
}

// Describe returns the policy as one line for people.
func (p *Policy) Describe() string {
	var words []string
	if p.Restrictive {
		words = append(words, "restrictive")
	}
	words = append(words, "for "+cmp.Or(p.Command, "all"))
	if len(p.Roles) > 0 {
		words = append(words, "to "+strings.Join(p.Roles, ", "))
	}
	if p.Using != "" {
		words = append(words, "using ("+p.Using+")")
	}
	if p.Check != "" {
		words = append(words, "check ("+p.Check+")")
	}
	return strings.Join(strings.Fields(strings.Join(words, " ")), " ")
}
