// Package view puts together what an interface shows of the catalogue, for any interface: a terminal, a page, JSON.
package view

import (
	"context"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// About is all about an object, or about a part of one.
type About struct {
	Match      *address.Match
	Object     *schema.Object
	Size       catalogue.Size
	Attached   []*schema.Object // what stands on a relation: indexes, triggers, rules, policies
	Needs      *trace.Trace     // one step
	Dependants *trace.Trace     // one step
	// Definition is the text that the server keeps of the object, else the statement that makes it; "" where that is not
	// known, and for a part.
	Definition string
}

// NewAbout gathers all about a match. With bare set, what stands on a relation is left out. e is the engine of the
// snapshot, nil if this program has none.
func NewAbout(ctx context.Context, c *catalogue.Catalogue, m *address.Match, e engine.Engine, bare bool) (*About, error) {
	a := &About{Match: m, Size: catalogue.Size{Rows: -1, Bytes: -1}}
	var err error
	if a.Object, err = c.Object(ctx, m.Entry); err != nil {
		return nil, err
	}
	t := m.Contents
	sizes, _, err := c.Sizes(ctx, t)
	if err != nil {
		return nil, err
	}
	if at := t.Place(m.Entry.ID); at >= 0 {
		a.Size = sizes[at]
	}
	if !bare {
		on, err := c.Attached(ctx, t, []*catalogue.Entry{m.Entry})
		if err != nil {
			return nil, err
		}
		if a.Attached, err = c.Objects(ctx, on); err != nil {
			return nil, err
		}
	}
	for dir, to := range map[trace.Direction]**trace.Trace{trace.Needs: &a.Needs, trace.Dependants: &a.Dependants} {
		if *to, err = trace.Run(ctx, c, m, dir, 1); err != nil {
			return nil, err
		}
		if err := (*to).FetchAll(); err != nil {
			return nil, err
		}
	}
	if m.Part == "" {
		a.Definition = Definition(a.Object, e)
	}
	return a, t.Err()
}

// Outside returns what the object itself needs that the snapshot does not hold.
func (a *About) Outside() []schema.Dependency {
	var own []schema.Dependency
	for _, d := range a.Needs.Outside() {
		if d.From.ID == a.Match.Entry.ID {
			own = append(own, d)
		}
	}
	return own
}

// Definition returns the text of an object as the server keeps it, else the statement that makes it, "" where there is none
// or the engine is nil.
func Definition(o *schema.Object, e engine.Engine) string {
	if o.Source != "" {
		return o.Source
	}
	if e == nil {
		return ""
	}
	statements, err := e.Make(o)
	if err != nil || len(statements) == 0 {
		return ""
	}
	return statements[0].Text()
}
