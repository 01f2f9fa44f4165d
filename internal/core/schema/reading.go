package schema

// A reading is what an engine hands over.

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
	Model    int // the version of the model that it was read with; 0 for this program's
	Taken    time.Time

	Objects      []*Object
	Dependencies []Dependency // those that do not follow from the objects themselves
	Measures     []Measure
	Remarks      []Remark
	Resolver     int // the version of what found the dependencies in texts; 0: not known
}

// Earlier is the reading of the same database before, as far as it tells what a new one need not work out again.
type Earlier struct {
	Resolver int    // the version of what found its dependencies in texts
	Same     []bool // by object of the new reading: it was the same before
	Changed  []ID   // what came, went, or is otherwise now
	// Found returns the dependencies that the texts of an object had, by its place in the new reading.
	Found func(i int) []Dependency
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
