package schema

// What models before the fifth held among the settings of an object, told apart by their names, has fields of its own now.
// Readings of those models are compared with later ones in the older form, which says the same.

import (
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/names"
)

// openModel is the first version of the model that holds the engine's open lists apart from its settings, and the query of
// a view apart from its statement.
const openModel = 5

// The names of settings in which older models held what has fields of its own.
const (
	FormerOption     = "option "               // followed by the name: Options
	FormerExtended   = "property "             // followed by the name: Extended
	FormerParameters = "options"               // of a column: Parameters
	FormerInherited  = "inherited"             // of a column: Inherited
	FormerStatistics = "statistics of column " // of an index, followed by the number from 1: KeyPart.Statistics
	FormerReplica    = "replica identity"      // of a table, "index" and its name: the setting ReplicaIndex
	FormerPartOf     = "part of index"         // of an index, with " in" and " named": Index.PartOf
)

// ReplicaIndex names the setting for the index by which replicas know the rows of a table.
const ReplicaIndex = "replica identity index"

// ClusterIndex names the setting for the index by which the rows of a relation are put into order.
const ClusterIndex = "clustered on"

// plainlyQuoted returns a name as it stands in SQL, in quotes unless it is of small letters, digits and _.
func plainlyQuoted(name string) string {
	plain := func(r rune) bool { return r == '_' || 'a' <= r && r <= 'z' || '0' <= r && r <= '9' }
	if name != "" && strings.IndexFunc(name, func(r rune) bool { return !plain(r) }) < 0 && (name[0] < '0' || name[0] > '9') {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

// OlderForm returns an object as models before the fifth held it; the same object where nothing differs.
func OlderForm(o *Object) *Object {
	out := *o
	prefixed := func(to *[]Property, prefix string, list []Property) {
		for _, p := range list {
			*to = append(*to, Property{prefix + p.Name, p.Value})
		}
	}
	out.Settings = slices.Clone(o.Settings)
	for i, p := range out.Settings {
		if p.Name == ReplicaIndex {
			out.Settings[i] = Property{FormerReplica, "index " + plainlyQuoted(p.Value)}
		}
	}
	out.Settings = append(out.Settings, o.Parameters...)
	prefixed(&out.Settings, FormerOption, o.Options)
	prefixed(&out.Settings, FormerExtended, o.Extended)
	out.Parameters, out.Options, out.Extended = nil, nil, nil
	if x := o.Index; x != nil {
		out.Index = olderIndex(x, &out.Settings)
	}
	if r := o.Relation; r != nil {
		own := *r
		own.Query, own.Head, own.Tail = r.Head+r.Query+r.Tail, "", ""
		own.Columns = slices.Clone(r.Columns)
		for i := range own.Columns {
			c := &own.Columns[i]
			c.Settings = slices.Clone(c.Settings)
			if c.Inherited != nil {
				c.Settings = append(c.Settings, Property{FormerInherited, c.Inherited.former()})
			}
			if len(c.Parameters) > 0 {
				c.Settings = append(c.Settings, Property{FormerParameters, JoinParameters(c.Parameters)})
			}
			prefixed(&c.Settings, FormerOption, c.Options)
			c.Parameters, c.Options, c.Inherited = nil, nil, nil
			sortProperties(c.Settings)
		}
		out.Relation = &own
	}
	sortProperties(out.Settings)
	return &out
}

func olderIndex(x *Index, settings *[]Property) *Index {
	own := *x
	own.Columns = slices.Clone(x.Columns)
	for i := range own.Columns {
		if s := own.Columns[i].Statistics; s != "" {
			*settings = append(*settings, Property{fmt.Sprintf("%s%d", FormerStatistics, i+1), s})
			own.Columns[i].Statistics = ""
		}
	}
	if p := x.PartOf; p != nil {
		*settings = append(*settings, Property{FormerPartOf, names.Quote(p.Schema) + "." + names.Quote(p.Name)}, Property{FormerPartOf + " in", p.Schema}, Property{FormerPartOf + " named", p.Name})
		own.PartOf = nil
	}
	return &own
}

func (i *Inheriting) former() string {
	var own []string
	if i.OwnDefault {
		own = append(own, "default")
	}
	if i.OwnNull {
		own = append(own, "not null")
	}
	if len(own) == 0 {
		return "yes"
	}
	return "with its own " + strings.Join(own, ", ")
}

// JoinParameters returns a list as one text: NAME=VALUE, NAME=VALUE.
func JoinParameters(list []Property) string {
	all := make([]string, len(list))
	for i, p := range list {
		all[i] = p.Name + "=" + p.Value
	}
	return strings.Join(all, ", ")
}

func sortProperties(list []Property) {
	slices.SortFunc(list, func(a, b Property) int { return strings.Compare(a.Name, b.Name) })
}
