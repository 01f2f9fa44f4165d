package sqltext

// What a parser finds is a tree of scopes: each binds some names (sources of rows, common table expressions, variables) and
// holds the references that are written in it. Which things the references mean only a catalogue can tell (bind.go).

// ScopeKind tells what a scope is.
type ScopeKind uint8

// The kinds of scopes.
const (
	Block     ScopeKind = iota // statements: a routine, or a block in one
	Query                      // with its common table expressions: one arm, or several joined by UNION and the like
	Arm                        // SELECT … FROM …, VALUES or TABLE
	Statement                  // INSERT, UPDATE, DELETE, MERGE
)

// Scope is a stretch of a text in which names are bound.
type Scope struct {
	Kind        ScopeKind
	Parent      *Scope
	Start, Stop int
	// Apart says that the sources of the parent are not seen here: a derived table that is not LATERAL, the query of an INSERT.
	Apart bool

	Sources   []*Source
	Common    []*Common // common table expressions, seen here and deeper
	Variables []*Variable
	Locals    []*Local // temporary tables and table variables, of a block
	Outputs   []Output // of an arm, or of what a statement returns
	Arms      []*Scope // of a query
	Children  []*Scope // all scopes in this one, in the order of the text
	Refs      []Ref
	joined    []joined // columns that are equal in some of the sources
	sealed    bool     // a text of its own: nothing outside is seen
	into      bool     // what is selected goes into variables
	shown     bool     // the names of the outputs matter to others
	rows      *rows    // what the outputs of a query are called, once that is known
}

// joined is a column of USING, "*" for all that NATURAL finds, and the sources of its join, from and up to.
type joined struct {
	column   string
	from, to int
}

// Source is something that rows come from, or go to.
type Source struct {
	Name    Name   // of a relation or a function
	Query   *Scope // of a derived table
	Alias   string
	Columns []string // that the alias gives
	Call    bool     // a function
	Writes  bool     // rows go there
	Reads   bool
	// Of is the source that this one is another name for: the row that ON CONFLICT excludes.
	Of     *Source
	Hidden bool // only reached by its name: columns without one are not looked for there

	guessed bool // in a string that is run
	several bool // one of several targets: rows go there where a column of it is set
	bound   *rows
}

// Common is a common table expression.
type Common struct {
	Name    string
	Columns []string
	Query   *Scope
	after   int // where it begins to be seen, 0: everywhere in its query
}

// Local is a table that a text makes for itself.
type Local struct {
	Name    string
	Columns []string // nil: as its query has them, or not known
	Query   *Scope
}

// Variable is a variable, a parameter or a cursor.
type Variable struct {
	Name string
	// Row is the relation whose row it holds, Query the query whose rows.
	Row   Name
	Query *Scope
	bound *Relation // the relation whose row a parameter is
	Type  string    // as it is declared, "" where that is not known
}

// Output is a column that a query returns.
type Output struct {
	Name  string
	Ref   int // the place in Refs of the column that it is, -1 if it is more than one
	Star  bool
	Named bool // the name is given, and not that of the column

	start, stop int // of its expression
}

// Name is a name of up to four parts, by the places of its tokens; -1 stands for a part that is left out between dots.
type Name struct {
	Parts [4]int32

	n       int8
	partial bool // the last part is not there to be read
}

// N returns how many parts a name has.
func (n Name) N() int { return int(n.n) }

// RefKind tells what a reference names.
type RefKind uint8

// The kinds of references.
const (
	ToColumn   RefKind = iota // a column, perhaps with its relation in front; or a variable
	ToStar                    // all columns, of all sources or of the one that is named
	ToTarget                  // a column of the target of a statement
	ToAll                     // all columns of the target, which are not named
	ToRoutine                 // something that is called
	ToType                    // a type
	ToTyped                   // a column or a relation, as a type: %TYPE, %ROWTYPE
	ToSequence                // a sequence
	ToConstant                // a relation in a string, regclass
	ToUnseen                  // SQL in an expression that only running it tells
	ToRelation                // a relation, named outside of a query: TRUNCATE, LOCK
	ToFired                   // a column of the table on which a trigger is
	ToNothing                 // what is written does not matter: EXISTS (SELECT * …)
)

// Ref is a reference in a text.
type Ref struct {
	Kind        RefKind
	Name        Name
	Start, Stop int
	Writes      bool
	Args        int32     // of a routine: how many arguments it is given
	ByOutput    bool      // ORDER BY: the name of an output comes first
	Guessed     bool      // inside a string that is run
	Quoted      *[]string // the parts of a name in a string
	Bracketed   bool      // (name).name: the first is a row
	chosen      any       // of a routine: the one that is meant, among several
}

// Tree is a text, understood.
type Tree struct {
	Text  string
	Rules *Rules
	Root  *Scope

	tokens []token
	memory *Memory
}

// part returns part i of a name as the dialect folds it, "" if it is left out.
func (t *Tree) part(n Name, i int) string {
	at := n.Parts[i]
	if at < 0 {
		return ""
	}
	return t.unquoted(&t.tokens[at])
}

// unquoted returns the name that a token stands for.
func (t *Tree) unquoted(tok *token) string {
	s := t.Text[tok.start:tok.end]
	if !tok.folds {
		return s
	}
	return unquote(s, tok.kind, t.Rules)
}

// parts returns the parts of a name.
func (t *Tree) parts(n Name) []string {
	all := t.memory.strings(n.N())
	for i := range all {
		all[i] = t.part(n, i)
	}
	return all
}

// span returns where part i of a name stands.
func (t *Tree) span(n Name, i int) (start, stop int) {
	tok := &t.tokens[n.Parts[i]]
	return int(tok.start), int(tok.end)
}

// token is a token with the keyword that it is, 0 for none, and its first byte where it is a symbol.
type token struct {
	kind       TokenKind
	word       keyword
	symbol     byte
	folds      bool // the name that it is may not be written as it is
	start, end int32
}
