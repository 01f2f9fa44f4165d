package schema

import (
	"slices"
	"time"
)

// Reading is what an engine read of one database at one moment.
type Reading struct {
	Engine   string // the engine's name
	Version  string // what the server calls itself
	Database string
	User     string
	Taken    time.Time

	Objects      []*Object
	Dependencies []Dependency // those that do not follow from the objects themselves
	Measures     []Measure
	Remarks      []Remark
}

// Sort puts the objects and what belongs to them into the order of their identifiers.
func (r *Reading) Sort() {
	slices.SortFunc(r.Objects, func(a, b *Object) int { return a.ID().Compare(b.ID()) })
}

// Measure is what moves by itself, outside the content of an object.
type Measure struct {
	ID    ID
	Rows  int64 // an estimate unless Exact; -1: not known
	Bytes int64 // -1: not known
}

// Remark says what a reading could not know, or something the reader should be told.
type Remark struct {
	State   string `json:"state"` // "hidden", "locked", "failed", "unread" or "note"
	Subject string `json:"subject,omitempty"`
	Reason  string `json:"reason"`
	// Kinds are those of which objects may be missing, where the remark is about a whole database; empty: any.
	Kinds []Kind `json:"kinds,omitempty"`
}

// Evidence is how a dependency is known.
type Evidence string

// The kinds of evidence.
const (
	Recorded Evidence = "recorded" // the server's own catalogue says so
	Read     Evidence = "read"     // found in the definition's text
	Guessed  Evidence = "guessed"  // inside a string that is run as SQL, or not resolvable for certain
)

// End is one end of a dependency: an object, or a part of it.
type End struct {
	ID   ID
	Part string
}

// Dependency says that From needs To.
type Dependency struct {
	From, To End
	Evidence Evidence
	// Reason says in a word or two how: "foreign key mooring_berth_fk", "index", "reads".
	Reason string
	Line   int // in From's definition, from 1; 0: not known
	Column int
	Text   string // that line
}
