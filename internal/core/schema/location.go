package schema

// A location is an address in parts.

import (
	"strings"

	"echo-atlas/internal/core/names"
)

// Location is where a thing is, split in fields.
type Location struct {
	Server   string
	Database string
	When     string // of an older snapshot, as the reader asked for it
	Path     string // of an exported snapshot, instead of server and database
	ID       ID     // zero for a database as a whole
	Part     string
	PartKind Kind
}

// String returns the full address.
func (l Location) String() string {
	var b strings.Builder
	if l.Path != "" {
		b.WriteString(l.Path)
	} else {
		b.WriteString(names.Quote(l.Server))
	}
	if l.Database != "" && l.Path == "" {
		b.WriteString("/" + names.Quote(l.Database))
		if l.When != "" {
			b.WriteString("@" + l.When)
		}
	}
	if l.ID.Name != "" {
		b.WriteString("/" + l.Local())
	}
	return b.String()
}

// Local returns the address within the database.
func (l Location) Local() string {
	s := l.ID.String()
	if l.Part != "" {
		s += "." + names.Quote(l.Part)
	}
	return s
}

// String returns the identity as it stands in an address, without the kind.
func (a ID) String() string {
	var b strings.Builder
	if a.Schema != "" {
		b.WriteString(names.Quote(a.Schema) + ".")
	}
	if a.Table != "" {
		b.WriteString(names.Quote(a.Table) + ".")
	}
	b.WriteString(names.Quote(a.Name))
	if a.Signature != "" || a.Kind == KindFunction || a.Kind == KindProcedure {
		b.WriteString("(" + a.Signature + ")")
	}
	return b.String()
}

// Qualified returns the identity with its kind in front, as it is needed where several kinds share a
// name.
func (a ID) Qualified() string {
	return strings.ReplaceAll(string(a.Kind), " ", "-") + ":" + a.String()
}
