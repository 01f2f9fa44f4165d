package chart

// What is drawn, before it has a place.

// Diagram is boxes and the links between them.
type Diagram struct {
	Title  string
	Boxes  []Box
	Links  []Link
	Groups []string // names of the groups, in the order of their letters
	Notes  []string // lines below the picture: what was not seen, what is left out
}

// Box is a table or another object.
type Box struct {
	Name  string // as it is written in the head
	Kind  string // "" for tables
	Group int    // in Groups, -1 for none
	Rows  []Row
	More  int    // rows that are left out
	State string // "added", "removed", "changed", "renamed"; "" where nothing is compared
	Root  bool   // what the picture is about
	URL   string // of the page about it
	Note  string // what its comment says
}

// Row is a column of a table.
type Row struct {
	Name  string
	Mark  string // "PK", "FK", "PK FK", "UK"
	Type  string // "" where types are not shown
	Null  bool   // takes nulls; shown where types are
	State string
}

// Link leads from a row to another: a foreign key from its column to the column that it refers to. A row of -1 is the head.
type Link struct {
	From, To       int // boxes
	FromRow, ToRow int
	// Many and One are the multiplicities at the two ends: how many rows may refer to one, and to how many one refers.
	Many, One string
	Label     string // of the constraint and its columns, or the use
	Dashed    bool   // a dependency, not a foreign key
	State     string
}
