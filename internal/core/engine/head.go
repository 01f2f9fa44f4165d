package engine

// The head of a routine is read by the dialect's rules into its parameters and where its body lies.

import (
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// SetHead fills in what the definition of a routine says in its head, and where its body is. An engine calls it once the
// definition is there.
func SetHead(r *schema.Routine, rules sqltext.Rules) {
	r.Parameters, r.BodyStart, r.BodyEnd = nil, 0, 0
	if r.Definition == "" {
		return
	}
	head := sqltext.RoutineHead(r.Definition, rules)
	r.BodyStart, r.BodyEnd = head.Body, head.End
	for _, p := range head.Parameters {
		r.Parameters = append(r.Parameters, schema.Parameter{Name: p.Name, Mode: p.Mode, Type: p.Type, Default: p.Default})
	}
}

// ParametersOf returns the parameters of a routine, also where an older reading holds its definition alone.
func ParametersOf(o *schema.Object, rules sqltext.Rules) []schema.Parameter {
	if o.Routine == nil {
		return nil
	}
	if r := *o.Routine; r.Parameters == nil && r.BodyEnd == 0 {
		SetHead(&r, rules)
		return r.Parameters
	}
	return o.Routine.Parameters
}
