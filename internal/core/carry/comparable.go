package carry

// What two engines have in common can be compared: tables with their columns, types in common terms, keys and foreign keys, indexes
// and views by their columns. How one engine writes an expression says nothing of how another does.

import (
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Comparable returns the objects of an engine as far as they can be compared with those of another. Where one of them has no schemas,
// the first of several objects of one name counts; where one has a single type for whole numbers, all such types are one.
func Comparable(objects []*schema.Object, e, other engine.Engine) []*schema.Object {
	types, ok := e.(engine.Carrier)
	against, okay := other.(engine.Carrier)
	if !ok || !okay {
		return nil
	}
	schemas := e.Traits().Schemas && other.Traits().Schemas
	wide := types.Carries("one integer") || against.Carries("one integer")
	var out []*schema.Object
	seen := map[schema.Identity]bool{}
	for _, o := range objects {
		x := common(o, types, wide)
		if x == nil {
			continue
		}
		if !schemas {
			x.Schema = ""
		}
		if id := x.ID().Identity(); !seen[id] {
			seen[id] = true
			out = append(out, x)
		}
	}
	return out
}

// common returns what of an object can be compared, nil for nothing.
func common(o *schema.Object, types engine.Carrier, wide bool) *schema.Object {
	x := &schema.Object{Kind: o.Kind, Schema: o.Schema, Name: o.Name, Within: o.Within}
	switch o.Kind {
	case schema.KindPartitionedTable:
		x.Kind = schema.KindTable
	case schema.KindMaterialisedView:
		x.Kind = schema.KindView
	case schema.KindTable, schema.KindView, schema.KindIndex:
	default:
		return nil
	}
	if o.Index != nil {
		x.Index = &schema.Index{Table: o.Index.Table, Unique: o.Index.Unique, Columns: named(o.Index.Columns)}
		return x
	}
	if o.Relation == nil {
		return nil
	}
	x.Relation = &schema.Relation{}
	for _, c := range o.Relation.Columns {
		column := schema.Column{Name: c.Name}
		if x.Kind == schema.KindTable {
			column.Type, column.NotNull = inCommon(types.ReadType(c.Type), wide), c.NotNull
		}
		x.Relation.Columns = append(x.Relation.Columns, column)
	}
	for _, k := range o.Relation.Keys {
		x.Relation.Keys = append(x.Relation.Keys, schema.Key{Primary: k.Primary, Columns: named(k.Columns)})
		if k.Primary {
			for _, c := range k.ColumnNames() {
				if column := x.Relation.Column(c); column != nil {
					column.NotNull = true
				}
			}
		}
	}
	for _, f := range o.Relation.ForeignKeys {
		x.Relation.ForeignKeys = append(x.Relation.ForeignKeys, schema.ForeignKey{Columns: f.Columns, RefTable: f.RefTable, OnDelete: f.OnDelete, OnUpdate: f.OnUpdate})
	}
	return x
}

// named returns the columns of a key or an index; an expression stands for one without a name.
func named(parts []schema.KeyPart) []schema.KeyPart {
	out := make([]schema.KeyPart, len(parts))
	for i, p := range parts {
		out[i].Column = p.Column
		if p.Column == "" {
			out[i].Column = "an expression"
		}
	}
	return out
}

// inCommon returns a type in common terms.
func inCommon(t engine.DataType, wide bool) string {
	text := t.Base
	switch {
	case wide && strings.HasSuffix(t.Base, "int"), wide && t.Base == "integer":
		return "whole number"
	case t.Base == "":
		text = strings.ToLower(t.Written)
	case t.Base == "decimal" && t.Precision > 0:
		text += fmt.Sprintf("(%d,%d)", t.Precision, t.Scale)
	case t.Length > 0:
		text += fmt.Sprintf("(%d)", t.Length)
	case len(t.Values) > 0:
		text += "(" + strings.Join(t.Values, ", ") + ")"
	}
	if t.Unsigned {
		text += " unsigned"
	}
	if t.Array {
		text += "[]"
	}
	return text
}
