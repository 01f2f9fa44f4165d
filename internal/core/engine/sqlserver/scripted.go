package sqlserver

// The client ends a batch at a line GO, wherever it stands; a text with such a line is put together from strings.

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

// A line that sqlcmd takes for the end of a batch or for a command, and a variable of its own anywhere in a line.
var command = engine.Lazily(`(?im)^[\s\x00-\x20\x{a0}\x{feff}]*(go\b|:|!!|(ed|exit|quit|reset)\b)|\$\(`)

// Scripted hands a statement over as strings where a line of it could be a command to the client. No part of them
// begins a line or holds the sign of a variable.
func (Engine) Scripted(s *engine.Statement, text, _ string) (string, bool, error) {
	if !command().MatchString(text) {
		return text, s.Compound, nil
	}
	var b strings.Builder
	b.WriteString("DECLARE @text nvarchar(max) = CAST(N'' AS nvarchar(max))")
	text = strings.NewReplacer("'", "''", "$(", "$' + N'(").Replace(text)
	for i, line := range strings.Split(text, "\n") {
		b.WriteString("\n    + ")
		if i > 0 {
			b.WriteString("NCHAR(10) + ")
		}
		b.WriteString("N'" + strings.ReplaceAll(line, "\r", "' + NCHAR(13) + N'") + "'")
	}
	b.WriteString(";\nEXEC (@text)")
	return b.String(), s.Compound, nil
}
