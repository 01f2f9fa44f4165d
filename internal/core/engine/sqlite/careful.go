package sqlite

// Every CREATE and DROP of SQLite minds what is there.

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/sqltext"
)

// IfAbsent implements engine.Careful.
func (Engine) IfAbsent(_ *engine.Statement, text string) string {
	l := sqltext.Lexer{Text: text, Rules: rules()}
	if t := l.Next(); !strings.EqualFold(text[t.Start:t.End], "create") {
		return text
	}
	for range 4 {
		t := l.Next()
		switch strings.ToLower(text[t.Start:t.End]) {
		case "temp", "temporary", "unique", "virtual":
		case "table", "view", "index", "trigger":
			if next := l.Next(); strings.EqualFold(text[next.Start:next.End], "if") {
				return text
			}
			return text[:t.End] + " IF NOT EXISTS" + text[t.End:]
		default:
			return text
		}
	}
	return text
}

// IfPresent implements engine.Careful.
func (Engine) IfPresent(_ *engine.Statement, text string) string {
	careful, _ := engine.Behind(text, "IF EXISTS", []string{"DROP TABLE", "DROP VIEW", "DROP INDEX", "DROP TRIGGER"})
	return careful
}
