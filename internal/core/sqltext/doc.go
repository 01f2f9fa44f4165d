// Package sqltext understands SQL text as far as the catalogue needs it: tokens, and the relations that
// a definition reads or writes. What differs between engines is told by Rules; nothing here knows an
// engine.
package sqltext

// Rules are the lexical rules of a dialect.
type Rules struct {
	DoubleQuoteStrings bool // "…" is a string, not a name
	Backticks          bool // `…` is a name
	Brackets           bool // […] is a name
	BracketEscapes     bool // ]] inside […] stands for ]
	BackslashEscapes   bool // \' does not end a string
	EscapeStrings      bool // E'…' is a string with backslash escapes
	DollarQuotes       bool // $tag$…$tag$ is a string
	HashComments       bool // # starts a comment
	DashNeedsBlank     bool // -- starts a comment only before white space
	NestedComments     bool // /* /* */ */ is one comment
	FoldLower          bool // unquoted names are folded to lower case
	HashNames          bool // #name is a temporary table, @name a variable, and no terminator parts statements
	CaseMatters        bool // names that differ in case alone are two, even without quotes
	VariablesFirst     bool // a variable hides a column of its name
	// MembershipInTable says that "x IN name" reads the relation of that name.
	MembershipInTable bool
}
