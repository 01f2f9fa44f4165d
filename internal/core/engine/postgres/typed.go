package postgres

// Types that are held as what they are: a list of values, another type with conditions, a row.

import (
	"cmp"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

func enumBody(text []byte, o *schema.Object) error {
	o.Enum = &schema.Enum{}
	if len(text) == 0 { // an enum type without values
		return nil
	}
	return unmarshal(text, &o.Enum.Values)
}

// typedPart is a check of a domain or an attribute of a composite type, as the queries give it.
type typedPart struct {
	Name, Type, Collation, Text, Comment string
}

func domainBody(text []byte, o *schema.Object) error {
	var d struct {
		Type, Collation, Default string
		NotNull                  bool   `json:"not_null"`
		NotNullName              string `json:"not_null_name"`
		NotNullComment           string `json:"not_null_comment"`
		Checks                   []typedPart
	}
	if err := unmarshal(text, &d); err != nil {
		return err
	}
	o.Domain = &schema.Domain{Type: d.Type, NotNull: d.NotNull, Default: d.Default, Collation: collationOf(d.Collation), NotNullName: d.NotNullName, NotNullComment: d.NotNullComment}
	for _, c := range d.Checks {
		expression, invalid := strings.CutSuffix(c.Text, " NOT VALID")
		expression = strings.TrimSuffix(strings.TrimPrefix(expression, "CHECK ("), ")")
		o.Domain.Checks = append(o.Domain.Checks, schema.Check{Name: c.Name, Expression: expression, NotValid: invalid, Comment: c.Comment})
	}
	return nil
}

func compositeBody(text []byte, o *schema.Object) error {
	o.Composite = &schema.Composite{}
	if len(text) == 0 {
		return nil
	}
	var all []typedPart
	if err := unmarshal(text, &all); err != nil {
		return err
	}
	for _, a := range all {
		o.Composite.Attributes = append(o.Composite.Attributes, schema.Column{Name: a.Name, Type: a.Type, Collation: collationOf(a.Collation), Comment: a.Comment})
	}
	return nil
}

func aggregateBody(text []byte, o *schema.Object) error {
	var a struct {
		Arguments string
		Clauses   []string
	}
	if err := unmarshal(text, &a); err != nil {
		return err
	}
	o.Aggregate = &schema.Aggregate{Arguments: a.Arguments}
	for _, clause := range a.Clauses {
		name, value, _ := strings.Cut(clause, "=")
		o.Aggregate.Clauses = append(o.Aggregate.Clauses, schema.Property{Name: name, Value: value})
	}
	return nil
}

// policyOf reads a policy as the query prints it; nil where it was not printed.
func policyOf(text string) *schema.Policy {
	p := &schema.Policy{}
	if text == "" || unmarshal([]byte(text), p) != nil {
		return nil
	}
	return p
}

func policyStatement(o *schema.Object) string {
	p := o.Policy
	text := "CREATE POLICY " + quote(o.Name) + " ON " + qualify(o.Schema, o.Within)
	if p.Restrictive {
		text += " AS RESTRICTIVE"
	}
	if p.Command != "" {
		text += " FOR " + strings.ToUpper(p.Command)
	}
	var roles []string
	for _, role := range p.Roles {
		if role == "public" { // which no role can be called
			roles = append(roles, "PUBLIC")
		} else {
			roles = append(roles, quote(role))
		}
	}
	if len(roles) > 0 {
		text += " TO " + strings.Join(roles, ", ")
	}
	if p.Using != "" {
		text += "\n    USING (" + p.Using + ")"
	}
	if p.Check != "" {
		text += "\n    WITH CHECK (" + p.Check + ")"
	}
	return text
}

// collationOf returns the name behind COLLATE.
func collationOf(clause string) string { return strings.TrimPrefix(clause, " COLLATE ") }

func collateClause(name string) string {
	if name == "" {
		return ""
	}
	return " COLLATE " + name
}

// typedStatement returns the statement that makes a type.
func typedStatement(o *schema.Object) string {
	name := qualify(o.Schema, o.Name)
	list := func(head string, items []string) string {
		if len(items) == 0 {
			return head + " ()"
		}
		return head + " (\n    " + strings.Join(items, ",\n    ") + "\n)"
	}
	var items []string
	switch {
	case o.Policy != nil:
		return policyStatement(o)
	case o.Enum != nil:
		for _, v := range o.Enum.Values {
			items = append(items, literal(v))
		}
		return list("CREATE TYPE "+name+" AS ENUM", items)
	case o.Composite != nil:
		for _, a := range o.Composite.Attributes {
			items = append(items, quote(a.Name)+" "+a.Type+collateClause(a.Collation))
		}
		return list("CREATE TYPE "+name+" AS", items)
	case o.Aggregate != nil:
		for _, c := range o.Aggregate.Clauses {
			item := c.Name
			if c.Value != "" {
				item += " = " + c.Value
			}
			items = append(items, item)
		}
		return list("CREATE AGGREGATE "+name+"("+o.Aggregate.Arguments+")", items)
	}
	d := o.Domain
	text := "CREATE DOMAIN " + name + " AS " + d.Type + collateClause(d.Collation)
	if d.Default != "" {
		text += " DEFAULT " + d.Default
	}
	if d.NotNullName != "" {
		text += " CONSTRAINT " + quote(d.NotNullName)
	}
	if d.NotNull {
		text += " NOT NULL"
	}
	for _, c := range d.Checks {
		if !c.NotValid {
			text += "\n    CONSTRAINT " + quote(c.Name) + " CHECK (" + c.Expression + ")"
		}
	}
	return text
}

// typedParts adds what follows the statement that makes a type: checks that are not validated, and the comments of parts.
func (w *writer) typedParts() {
	o := w.Object
	name := qualify(o.Schema, o.Name)
	if o.Domain != nil {
		if comment := o.Domain.NotNullComment; comment != "" {
			w.After("COMMENT ON CONSTRAINT " + quote(cmp.Or(o.Domain.NotNullName, o.Name+"_not_null")) + " ON DOMAIN " + name + " IS " + literal(comment))
		}
		for _, c := range o.Domain.Checks {
			if c.NotValid {
				w.After("ALTER DOMAIN " + name + " ADD CONSTRAINT " + quote(c.Name) + " CHECK (" + c.Expression + ") NOT VALID")
			}
		}
		for _, c := range o.Domain.Checks {
			if c.Comment != "" {
				w.After("COMMENT ON CONSTRAINT " + quote(c.Name) + " ON DOMAIN " + name + " IS " + literal(c.Comment))
			}
		}
	}
	if o.Composite != nil {
		for _, a := range o.Composite.Attributes {
			if a.Comment != "" {
				w.After("COMMENT ON COLUMN " + name + "." + quote(a.Name) + " IS " + literal(a.Comment))
			}
		}
	}
}

// FormerDefinition returns a type and what is said of its parts as one text.
func (Engine) FormerDefinition(o *schema.Object) string {
	w := writer{Maker: engine.NewMaker(o, qualify(o.Schema, o.Name))}
	w.typedParts()
	text := typedStatement(o)
	for i := range w.Statements {
		text += ";\n" + w.Statements[i].Text()
	}
	return text
}
