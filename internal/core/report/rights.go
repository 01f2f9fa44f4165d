package report

// Who may do what, role by role.

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// Right is what a role may do with objects of a kind.
type Right struct {
	Grantee   string // "" is everybody
	Right     string
	Kind      schema.Kind
	Grantable bool
	Objects   []*catalogue.Entry
	Columns   int // how many of the rights are on single columns
}

// FindRights returns the rights that are granted, by role; covers limits the objects.
func FindRights(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents, covers func(schema.ID) bool) ([]Right, error) {
	type key struct {
		grantee, right string
		kind           schema.Kind
		grantable      bool
	}
	at := map[key]*Right{}
	const batch = 512
	for start := 0; start < t.Len(); start += batch {
		var entries []*catalogue.Entry
		for i := start; i < min(start+batch, t.Len()); i++ {
			if covers(t.At(i).ID) {
				entries = append(entries, t.At(i))
			}
		}
		objects, err := c.Objects(ctx, entries)
		if err != nil {
			return nil, err
		}
		for i, o := range objects {
			for _, g := range o.Grants {
				for n, list := range [][]string{g.Granted, g.Grantable} {
					for _, right := range list {
						k := key{g.Grantee, right, o.Kind, n == 1}
						x := at[k]
						if x == nil {
							x = &Right{Grantee: g.Grantee, Right: right, Kind: o.Kind, Grantable: n == 1}
							at[k] = x
						}
						if len(x.Objects) == 0 || x.Objects[len(x.Objects)-1] != entries[i] {
							x.Objects = append(x.Objects, entries[i])
						}
						if g.Column != "" {
							x.Columns++
						}
					}
				}
			}
		}
	}
	var all []Right
	for _, x := range at {
		all = append(all, *x)
	}
	slices.SortFunc(all, func(a, b Right) int {
		grantable := func(r Right) int { return map[bool]int{true: 1}[r.Grantable] }
		return cmp.Or(strings.Compare(a.Grantee, b.Grantee), strings.Compare(string(a.Kind), string(b.Kind)), strings.Compare(a.Right, b.Right), cmp.Compare(grantable(a), grantable(b)))
	})
	return all, nil
}
