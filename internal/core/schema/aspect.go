package schema

import "slices"

// Aspect is a side of an object that a script or a comparison can leave out.
type Aspect string

// The aspects.
const (
	Comments Aspect = "comments"
	Owners   Aspect = "owners"
	Grants   Aspect = "grants"
)

// Aspects returns all aspects.
func Aspects() []Aspect { return []Aspect{Comments, Owners, Grants} }

// Strip takes aspects out of an object.
func Strip(o *Object, without []Aspect) {
	if slices.Contains(without, Owners) {
		o.Owner = ""
	}
	if slices.Contains(without, Grants) {
		o.Grants = nil
	}
	if !slices.Contains(without, Comments) {
		return
	}
	o.Comment = ""
	if r := o.Relation; r != nil {
		for i := range r.Columns {
			r.Columns[i].Comment = ""
		}
		for i := range r.Keys {
			r.Keys[i].Comment = ""
		}
		for i := range r.ForeignKeys {
			r.ForeignKeys[i].Comment = ""
		}
		for i := range r.Checks {
			r.Checks[i].Comment = ""
		}
		for i := range r.Exclusions {
			r.Exclusions[i].Comment = ""
		}
	}
}
