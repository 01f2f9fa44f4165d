package engine

// What has another name afterwards, and what is put in the place of what mentioned the old one.

import (
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Renaming is another name for an object or a column, or another schema for an object.
type Renaming struct {
	Column string // "" for the object itself
	Name   string // the new name; that of the object where it only moves
	Schema string // where the object moves to, "" for nowhere
}

// Renamer is implemented by engines that rename, and replace definitions. version is what the server calls itself.
type Renamer interface {
	// Rename returns the statements that rename something; none where the engine has no statement for it, and the thing has
	// to be made anew.
	Rename(o *schema.Object, r Renaming, version string) ([]Statement, error)
	// Replace returns the statements that put the definition of an object in the place of the one that is there, and leave
	// its rights as they are.
	Replace(o *schema.Object, version string) ([]Statement, error)
}

// Holder is implemented by engines where a definition can hold what it mentions fast, so that it has to go before a renaming.
type Holder interface {
	// Holds reports whether the definition of an object does that.
	Holds(o *schema.Object) bool
}

// Altering returns the statement that alters what a statement drops, "" where that is not told by its words: DROP TABLE x
// becomes ALTER TABLE x and tail.
func Altering(drop, tail string) string {
	what, ok := strings.CutPrefix(drop, "DROP ")
	if !ok {
		return ""
	}
	return "ALTER " + strings.TrimSuffix(strings.Replace(what, "IF EXISTS ", "", 1), " CASCADE") + " " + tail
}

// CreateInstead puts words in the place of the CREATE with which a text begins, behind its comments.
func CreateInstead(text, words string, rules sqltext.Rules) string {
	l := sqltext.Lexer{Text: text, Rules: rules}
	t := l.Next()
	if !strings.EqualFold(text[t.Start:t.End], "create") {
		return text
	}
	next := l.Next()
	if strings.EqualFold(text[next.Start:next.End], "or") { // it does so already
		return text
	}
	return text[:t.Start] + words + text[t.End:]
}
