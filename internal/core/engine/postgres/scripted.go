package postgres

// psql takes some texts for commands and variables of its own; they are written so that it does not.

import (
	"errors"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/sqltext"
)

// Scripted keeps psql from three things outside of quotes: putting a variable in for a name behind a colon (a blank
// behind the colon means the same to the server), taking a backslash for a command, and waiting for the end of a
// function's body because a name is "begin".
func (Engine) Scripted(s *engine.Statement, text, _ string) (string, bool, error) {
	routine := strings.HasPrefix(text, "CREATE ") && (strings.Contains(text[:min(len(text), 40)], "FUNCTION ") || strings.Contains(text[:min(len(text), 40)], "PROCEDURE ")) && containsFold(text, "begin")
	if !routine && strings.IndexByte(text, '\\') < 0 && !colonBefore(text) {
		return text, s.Compound, nil
	}
	var b strings.Builder
	done := 0
	tokens := sqltext.Tokens(text, rules())
	for i, t := range tokens {
		word := text[t.Start:t.End]
		switch {
		case t.Kind == sqltext.Broken:
			return "", false, errors.New("a string or comment in it is not closed")
		case t.Kind == sqltext.Symbol && word == `\`:
			return "", false, errors.New("it holds a backslash outside of quotes, which psql takes for a command")
		case t.Kind == sqltext.Placeholder && word[0] == ':', t.Kind == sqltext.Symbol && word == ":" && i+1 < len(tokens) && tokens[i+1].Start == t.End && strings.IndexByte(`'"{`, text[t.End]) >= 0:
			b.WriteString(text[done:t.Start] + ": ")
			done = t.Start + 1
		case routine && t.Kind == sqltext.Word && strings.EqualFold(word, "begin") && (i+1 == len(tokens) || !strings.EqualFold(text[tokens[i+1].Start:tokens[i+1].End], "atomic")):
			b.WriteString(text[done:t.Start] + `"begin"`)
			done = t.End
		}
	}
	if done == 0 {
		return text, s.Compound, nil
	}
	b.WriteString(text[done:])
	return b.String(), s.Compound, nil
}

// colonBefore says whether a text has a colon, other than that of a cast, right before what may be a variable of psql.
func colonBefore(text string) bool {
	for i := strings.IndexByte(text, ':'); i >= 0 && i+1 < len(text); {
		if text[i+1] == ':' {
			i++
		} else if c := text[i+1]; c == '_' || c == '\'' || c == '"' || c == '{' || c >= 0x80 || '0' <= c && c <= '9' || 'a' <= c|0x20 && c|0x20 <= 'z' {
			return true
		}
		next := strings.IndexByte(text[i+1:], ':')
		if next < 0 {
			return false
		}
		i += 1 + next
	}
	return false
}

func containsFold(text, lower string) bool {
	for i := 0; i+len(lower) <= len(text); i++ {
		if text[i]|0x20 == lower[0] && strings.EqualFold(text[i:i+len(lower)], lower) {
			return true
		}
	}
	return false
}
