package address

// What names mean within one database: schema.object.part with leading parts optional, and names that belong to
// a relation (a trigger) as schema.relation.name.

import (
	"context"
	"iter"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// inside finds names in a database: schemas as containers, and objects and parts.
func (r *Resolver) inside(ctx context.Context, t *catalogue.Contents, a Address, names []names.Name) (containers, found []Match, err error) {
	n := len(names)
	last := names[n-1]
	var dialect Dialect
	if a.Signature != nil && r.Dialect != nil {
		dialect = r.Dialect(t.Snapshot.Engine)
	}
	if err := t.Fetch(r.bearers[t.Snapshot.ID]); err != nil {
		return nil, nil, err
	}
	if n == 1 && a.Kind == "" && a.Signature == nil {
		containers = r.schemasOf(t, last)
	}
	for e := range r.among(t) {
		exact, ok := named(e.ID, names)
		switch {
		case !ok, a.Kind != "" && a.Kind != e.ID.Kind, a.Signature != nil && !sameSignature(*a.Signature, e.ID, dialect):
		case e.ID.Kind == schema.KindSchema && a.Kind != schema.KindSchema: // met above
		default:
			found = append(found, Match{Contents: t, Entry: e, exact: exact})
		}
	}
	if n == 1 || a.Kind != "" && !a.Kind.IsPart() || a.Signature != nil {
		return containers, found, nil
	}
	parts, err := r.partsNamed(ctx, t, a, names)
	return containers, append(found, parts...), err
}

// among returns the entries among which the names of the address that is looked for can be: all, or of sparse contents those that bear one.
func (r *Resolver) among(t *catalogue.Contents) iter.Seq[*catalogue.Entry] {
	places, narrowed := r.bearers[t.Snapshot.ID]
	return func(yield func(*catalogue.Entry) bool) {
		if t.IsSparse() && narrowed {
			for _, i := range places {
				if !yield(t.At(i)) {
					return
				}
			}
			return
		}
		for i := range t.All() {
			if !yield(t.At(i)) {
				return
			}
		}
	}
}

// schemasOf returns the schemas of a name, as containers.
func (r *Resolver) schemasOf(t *catalogue.Contents, name names.Name) []Match {
	var all []Match
	seen := map[string]bool{}
	add := func(s string) {
		if s == "" || seen[s] {
			return
		}
		seen[s] = true
		if matches, exactly := name.Matches(s); matches {
			all = append(all, Match{Contents: t, Schema: s, exact: exactly})
		}
	}
	for e := range r.among(t) {
		if e.ID.Kind == schema.KindSchema {
			add(e.ID.Name)
		}
	}
	for _, s := range t.Schemas() {
		add(s)
	}
	return all
}

// named reports whether an object is meant by names, and whether to the letter.
func named(id schema.ID, names []names.Name) (exact, ok bool) {
	n := len(names)
	last := &names[n-1]
	exact = true
	switch {
	case id.Table != "": // its name belongs to a relation
		ok = n <= 3 && admits(last, id.Name, &exact) &&
			(n < 2 || admits(&names[n-2], id.Table, &exact)) && (n < 3 || admits(&names[0], id.Schema, &exact))
		if n == 2 && !ok && id.Schema != "" {
			exact = true
			ok = admits(last, id.Name, &exact) && admits(&names[0], id.Schema, &exact)
		}
	case id.Schema == "":
		ok = n == 1 && admits(last, id.Name, &exact)
	default:
		ok = n <= 2 && admits(last, id.Name, &exact) && (n < 2 || admits(&names[0], id.Schema, &exact))
	}
	return exact, ok
}

// partsNamed returns the parts whose names stand last in an address.
func (r *Resolver) partsNamed(ctx context.Context, t *catalogue.Contents, a Address, names []names.Name) ([]Match, error) {
	n := len(names)
	part, object := &names[n-1], &names[n-2]
	var owners []*catalogue.Entry
	var exactly []bool
	for e := range r.among(t) {
		exact := true
		if (e.ID.Kind.IsRelation() || e.ID.Kind == schema.KindComposite) && admits(object, e.ID.Name, &exact) && (n < 3 || admits(&names[0], e.ID.Schema, &exact)) {
			owners, exactly = append(owners, e), append(exactly, exact)
		}
	}
	objects, err := r.c.Objects(ctx, owners)
	if err != nil {
		return nil, err
	}
	var found []Match
	for i, o := range objects {
		for _, p := range o.Parts() {
			exact := exactly[i]
			if admits(part, p.Name, &exact) && (a.Kind == "" || a.Kind == p.Kind) {
				found = append(found, Match{Contents: t, Entry: owners[i], Part: p.Name, PartKind: p.Kind, exact: exact})
			}
		}
	}
	return found, nil
}

// sameSignature reports whether argument types as somebody wrote them mean those of an object: in any spelling of
// the engine's, with or without the names and modes of parameters, with or without those that only go out.
func sameSignature(written string, id schema.ID, d Dialect) bool {
	if !id.Kind.IsRoutine() && id.Signature == "" {
		return false
	}
	if squeeze(written) == squeeze(id.Signature) {
		return true
	}
	if id.Signature == "" && id.Kind.IsRoutine() && !d.Overloads {
		return written != "" // the name alone is the identity; nothing else can be meant
	}
	wanted := schema.SplitList(written)
	given := schema.SplitList(id.Signature)
	if sameArguments(wanted, given, d) {
		return true
	}
	in := given[:0:0]
	for _, g := range given {
		if mode, _ := argumentMode(g); mode != "out" {
			in = append(in, g)
		}
	}
	return len(in) < len(given) && sameArguments(wanted, in, d)
}

func squeeze(s string) string { return strings.Join(strings.Fields(names.Fold(s)), " ") }

func sameArguments(wanted, given []string, d Dialect) bool {
	if len(wanted) != len(given) {
		return false
	}
	for i := range wanted {
		if !sameArgument(wanted[i], given[i], d) {
			return false
		}
	}
	return true
}

// sameArgument compares the type that somebody wrote with an argument: [mode] [name] type.
func sameArgument(wanted, given string, d Dialect) bool {
	_, wanted = argumentMode(wanted)
	_, given = argumentMode(given)
	if sameType(wanted, given, d) {
		return true
	}
	_, typ, named := cutName(given)
	if !named {
		return false
	}
	if sameType(wanted, typ, d) {
		return true
	}
	// Both with their names.
	name1, typ1, ok := cutName(wanted)
	name2, _, _ := cutName(given)
	return ok && names.Fold(name1) == names.Fold(name2) && sameType(typ1, typ, d)
}

func sameType(a, b string, d Dialect) bool {
	canonical := d.CanonicalType
	if canonical == nil {
		canonical = squeeze
	}
	x, y := canonical(a), canonical(b)
	if x == y {
		return true
	}
	// A type may be written without its schema, or its length, which are no part of a signature.
	x = bareType(x)
	return x == y || !strings.Contains(x, ".") && strings.HasSuffix(y, "."+x)
}

// bareType takes the length out of a type.
func bareType(s string) string {
	open := strings.IndexByte(s, '(')
	if open < 0 {
		return s
	}
	end := strings.IndexByte(s[open:], ')')
	if end < 0 {
		return s
	}
	return strings.Join(strings.Fields(s[:open]+s[open+end+1:]), " ")
}

// argumentMode takes the mode from the front of an argument.
func argumentMode(s string) (mode, rest string) {
	s = strings.TrimSpace(s)
	word, rest, ok := strings.Cut(s, " ")
	if ok {
		switch m := names.Fold(word); m {
		case "in", "out", "inout", "variadic":
			return m, strings.TrimSpace(rest)
		}
	}
	return "", s
}

// cutName takes the name from the front of an argument that has one.
func cutName(s string) (name, typ string, ok bool) {
	if strings.HasPrefix(s, `"`) {
		name, n := names.Unquote(s)
		if n < 0 || n >= len(s) || s[n] != ' ' {
			return "", s, false
		}
		return name, strings.TrimSpace(s[n:]), true
	}
	name, typ, ok = strings.Cut(s, " ")
	return name, strings.TrimSpace(typ), ok
}
