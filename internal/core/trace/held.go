package trace

// What hangs on a role, a tablespace or a database stands in no graph: who owns an object, who has rights on it and where it lies is kept
// with each.

import (
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Hold is how much hangs on a thing in a database: what a role owns and on how much it has rights, and what lies in a tablespace or a
// database. Its own object and memberships are not counted.
type Hold struct {
	Snapshot            *catalogue.Snapshot
	Owned, Rights, Lies int
}

// Holder reports whether what hangs on objects of a kind stands in no graph.
func Holder(k schema.Kind) bool {
	return k == schema.KindRole || k == schema.KindTablespace || k == schema.KindDatabase
}

// Held returns what hangs on the root, by database: of its server, where it belongs to no database. It is nil for other roots than roles,
// tablespaces and databases.
func (e *Estate) Held(ctx context.Context, t *Trace) ([]Hold, error) {
	role := t.ID(&t.Nodes[0])
	if !Holder(role.Kind) {
		return nil, nil
	}
	names := []string{role.Name}
	if role.Signature != "" || t.Snapshot.Database == engine.ServerLevel { // as servers write accounts
		names = append(names, role.Name+"@"+role.Signature, "'"+role.Name+"'", "'"+role.Name+"'@'"+role.Signature+"'")
	}
	named := func(s string) bool { return s != "" && slices.Contains(names, s) }
	holds := func(u *Hold, o *schema.Object) {
		switch {
		case role.Kind == schema.KindTablespace:
			if o.Setting("tablespace") == role.Name || o.Setting("tablespace of keys") == role.Name {
				u.Lies++
			}
		case role.Kind == schema.KindDatabase:
			u.Lies++
		case named(o.Owner):
			u.Owned++
		case slices.ContainsFunc(o.Grants, func(g schema.Grant) bool { return named(g.Grantee) }), o.Policy != nil && slices.ContainsFunc(o.Policy.Roles, func(r string) bool { return named(strings.Trim(r, `"`)) }):
			u.Rights++
		}
	}
	var all []Hold
	for _, s := range e.latest {
		if role.Kind == schema.KindDatabase && s.Database != role.Name {
			continue
		}
		if s.Path != "" || s.Server != t.Snapshot.Server || t.Snapshot.Database != engine.ServerLevel && s.Database != t.Snapshot.Database {
			continue
		}
		h, err := e.load(ctx, s)
		if err != nil {
			return nil, err
		}
		contents := h.contents
		use := Hold{Snapshot: s}
		const batch = 2000
		for start := 0; start < contents.Len(); start += batch {
			var some []*catalogue.Entry
			for i := start; i < min(start+batch, contents.Len()); i++ {
				some = append(some, contents.At(i))
			}
			objects, err := e.catalogue.Objects(ctx, some)
			if err != nil {
				return nil, err
			}
			for i, o := range objects {
				if some[i].ID != role || s.ID != t.Snapshot.ID {
					holds(&use, o)
				}
			}
		}
		if use.Owned+use.Rights+use.Lies > 0 {
			all = append(all, use)
		}
	}
	return all, nil
}
