package postgres

// Readings of older models hold storage parameters, options and more among the settings of an object. Before such an object
// is written it is brought into the form of today.

import (
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// ownSettings are the settings whose names are ours.
var ownSettings = []string{"access method", "clustered on", "fires", "force row security", "invalid", joinsLater, "left out", "of type", "partition by", "populated", "replica identity",
	schema.ReplicaIndex, "row security", "schema", "server", "shell", schema.System, "tablespace", "target", "unlogged"}

func isOwnSetting(name string) bool {
	return slices.Contains(ownSettings, name) || strings.HasPrefix(name, partTrigger)
}

// modern returns an object as it is read today; the same object where it says nothing in an older form.
func modern(o *schema.Object) *schema.Object {
	older := slices.ContainsFunc(o.Settings, func(p schema.Property) bool {
		return !isOwnSetting(p.Name) || strings.HasPrefix(p.Value, "index ")
	}) && (o.Relation != nil || o.Index != nil)
	if !older && (o.Relation == nil || !slices.ContainsFunc(o.Relation.Columns, olderColumn)) {
		return o
	}
	out := *o
	out.Settings = nil
	if o.Index != nil {
		x := *o.Index
		x.Columns = slices.Clone(x.Columns)
		out.Index = &x
	}
	for _, p := range o.Settings {
		moderniseSetting(&out, p)
	}
	if o.Relation != nil {
		r := *o.Relation
		r.Columns = slices.Clone(r.Columns)
		for i := range r.Columns {
			moderniseColumn(&r.Columns[i])
		}
		out.Relation = &r
	}
	return &out
}

func moderniseSetting(o *schema.Object, p schema.Property) {
	option, isOption := strings.CutPrefix(p.Name, schema.FormerOption)
	column, isStatistics := strings.CutPrefix(p.Name, schema.FormerStatistics)
	index, isIndex := strings.CutPrefix(p.Value, "index ")
	partOf := func() *schema.IndexName {
		if o.Index.PartOf == nil {
			o.Index.PartOf = &schema.IndexName{}
		}
		return o.Index.PartOf
	}
	switch {
	case isOption:
		o.Options = append(o.Options, schema.Property{Name: option, Value: p.Value})
	case isStatistics && o.Index != nil:
		if i, err := strconv.Atoi(column); err == nil && i > 0 && i <= len(o.Index.Columns) {
			o.Index.Columns[i-1].Statistics = p.Value
		}
	case o.Index != nil && p.Name == schema.FormerPartOf: // the two behind it say so, too
	case o.Index != nil && p.Name == schema.FormerPartOf+" in":
		partOf().Schema = p.Value
	case o.Index != nil && p.Name == schema.FormerPartOf+" named":
		partOf().Name = p.Value
	case p.Name == schema.FormerReplica && isIndex:
		if t := sqltext.Tokens(index, rules()); len(t) > 0 {
			index = sqltext.Unquote(index, t[0], rules())
		}
		o.Settings = append(o.Settings, schema.Property{Name: schema.ReplicaIndex, Value: index})
	case isOwnSetting(p.Name):
		o.Settings = append(o.Settings, p)
	default:
		o.Parameters = append(o.Parameters, p)
	}
}

func olderColumn(c schema.Column) bool {
	return slices.ContainsFunc(c.Settings, func(p schema.Property) bool {
		return p.Name == schema.FormerInherited || p.Name == schema.FormerParameters || strings.HasPrefix(p.Name, schema.FormerOption)
	})
}

func moderniseColumn(c *schema.Column) {
	if !olderColumn(*c) {
		return
	}
	settings := c.Settings
	c.Settings = nil
	for _, p := range settings {
		option, isOption := strings.CutPrefix(p.Name, schema.FormerOption)
		switch {
		case isOption:
			c.Options = append(c.Options, schema.Property{Name: option, Value: p.Value})
		case p.Name == schema.FormerInherited:
			c.Inherited = &schema.Inheriting{OwnDefault: strings.Contains(p.Value, "default"), OwnNull: strings.Contains(p.Value, "not null")}
		case p.Name == schema.FormerParameters:
			for _, parameter := range strings.Split(p.Value, ", ") {
				name, value, _ := strings.Cut(parameter, "=")
				c.Parameters = append(c.Parameters, schema.Property{Name: name, Value: value})
			}
		default:
			c.Settings = append(c.Settings, p)
		}
	}
}
