package diff

// Equal schemas that are written differently are equal: in the layout of texts, in brackets that change nothing, in what is implied,
// in the names that servers make up.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// texts are the properties that hold SQL, by the last step of their paths.
var texts = []string{"definition", "query", "body", "when", "where", "default", "expression", "using", "check", "type", "returns", "columns", "head", "tail"}

func isText(path string) bool {
	return slices.Contains(texts, path[strings.LastIndexByte(path, '/')+1:])
}

// meant leaves out the differences that mean nothing. reordered says that one of those was the order of columns.
func (o *Options) meant(was, id schema.ID, all []schema.Difference) (_ []schema.Difference, reordered bool) {
	if !o.Exact {
		all = o.withoutTwins(all)
	}
	all = slices.DeleteFunc(all, func(d schema.Difference) bool {
		switch last := d.Path[strings.LastIndexByte(d.Path, '/')+1:]; {
		case d.Path == "columns/order":
			reordered = reordered || !o.Order
			return !o.Order
		case o.Exact:
			return false
		case strings.Contains(d.Path, "/settings/not null name"), last == "not_null_name", last == "sequence_name": // of constraints and sequences that come with a column: where it was made up, by the table's name of then
			return o.madeUpOrNone(was.Name, id.Name, d.Old) && o.madeUpOrNone(was.Name, id.Name, d.New)
		case last == "default" && (d.Old == nil || d.New == nil):
			return strings.EqualFold(said(d.Old)+said(d.New), "null")
		case d.Old == nil || d.New == nil:
			return false
		case last == "name" && strings.Count(d.Path, "/") == 2 && !strings.HasPrefix(d.Path, "columns/"):
			return o.MadeUp != nil && o.MadeUp(was.Name, *d.Old) && o.MadeUp(id.Name, *d.New)
		case isText(d.Path):
			return sqltext.SameMeaning(*d.Old, *d.New, o.Rules, id.Schema)
		}
		return false
	})
	return all, reordered
}

// madeUpOrNone reports whether a name is none, or one that the server could have made up for the table under either of its names.
func (o *Options) madeUpOrNone(was, now string, name *string) bool {
	if name == nil || *name == "" {
		return true
	}
	plain := strings.ReplaceAll((*name)[strings.LastIndexByte(*name, '.')+1:], `"`, "")
	return o.MadeUp != nil && (o.MadeUp(was, plain) || o.MadeUp(now, plain))
}

func said(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// withoutTwins leaves out constraints without a name that are there on both sides, laid out differently: they are called by their
// texts.
func (o *Options) withoutTwins(all []schema.Difference) []schema.Difference {
	type part struct{ list, meaning string }
	gone := map[part][]int{}
	of := func(d *schema.Difference) (_ part, ok bool) {
		list, name, _ := strings.Cut(d.Path, "/")
		if !strings.HasPrefix(name, "check (") || (d.Old == nil) == (d.New == nil) {
			return part{}, false
		}
		return part{list, sqltext.Meaning(said(d.Old)+said(d.New), o.Rules, "")}, true
	}
	for i := range all {
		if p, ok := of(&all[i]); ok && all[i].New == nil {
			gone[p] = append(gone[p], i)
		}
	}
	if len(gone) == 0 {
		return all
	}
	twin := map[int]bool{}
	for j := range all {
		if p, ok := of(&all[j]); ok && all[j].Old == nil && len(gone[p]) > 0 {
			twin[j], twin[gone[p][0]] = true, true
			gone[p] = gone[p][1:]
		}
	}
	var left []schema.Difference
	for i := range all {
		if !twin[i] {
			left = append(left, all[i])
		}
	}
	return left
}
