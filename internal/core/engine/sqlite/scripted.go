package sqlite

// The shell takes lines that begin with a dot, and some others, for commands of its own.

import (
	"errors"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/sqltext"
)

// Scripted joins a line that holds nothing but "go" or "/" to one beside it: the shell of SQLite takes such a line
// for the end of a statement wherever a semicolon would be one. To SQLite a line break is a blank.
// The shell drops a carriage return at the end of a line, which counts in a string.
func (Engine) Scripted(s *engine.Statement, text, _ string) (string, bool, error) {
	if strings.IndexByte(text, 0) >= 0 {
		return "", false, errors.New("it holds a character of value zero, where the shell ends a line")
	}
	lexer := sqltext.Lexer{Text: text, Rules: rules(), KeepComments: true}
	var b strings.Builder
	done := 0
	before := sqltext.Token{Kind: sqltext.End}
	for t := lexer.Next(); ; {
		if t.Kind == sqltext.Broken {
			return "", false, errors.New("a string or comment in it is not closed")
		}
		if t.Kind == sqltext.End {
			break
		}
		next := lexer.Next()
		word := text[t.Start:t.End]
		if strings.Contains(word, "\r\n") && t.Kind == sqltext.QuotedName {
			return "", false, errors.New("a name in it holds a carriage return and a line feed, of which the shell drops the first")
		}
		if strings.Contains(word, "\r\n") && t.Kind == sqltext.String {
			b.WriteString(text[done:t.Start] + "(" + strings.ReplaceAll(word, "\r\n", "' || char(13, 10) || '") + ")")
			done = t.End
		}
		gap := text[before.End:t.Start]
		if t.Start > 0 && (word == "/" || strings.EqualFold(word, "go")) && (before.Kind == sqltext.Comment || strings.Contains(gap, "\n")) {
			switch {
			case before.Kind != sqltext.Comment:
				b.WriteString(text[done:before.End] + strings.ReplaceAll(gap, "\n", " "))
				done = t.Start
			case next.Kind != sqltext.End && next.Kind != sqltext.Comment:
				b.WriteString(text[done:t.End] + strings.ReplaceAll(text[t.End:next.Start], "\n", " "))
				done = next.Start
			default:
				return "", false, errors.New("a line of it is " + word + " between comments, which the shell takes for the end of a statement")
			}
		}
		before, t = t, next
	}
	// The semicolon must not be part of a comment.
	if before.Kind == sqltext.Comment && strings.HasPrefix(text[before.Start:], "--") {
		text += "\n"
	}
	return b.String() + text[done:], s.Compound, nil
}
