package mariadb

// The client cuts a script at delimiters before the server sees it; texts that it would misread are wrapped.

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/sqltext"
)

// Scripted hands a statement over as one string where the client would send something else than it reads: it drops
// comments and a carriage return at the end of a line, has commands of its own, behind a backslash or as the word
// "delimiter", and takes other characters for the beginning of a comment than the server. MySQL makes no code from a
// string; there a text of code stays as it is where only comments and ends of lines are at stake.
func (e Engine) Scripted(s *engine.Statement, text, version string) (string, bool, error) {
	lossy, dangerous := suspect(s, text)
	if !lossy && !dangerous {
		return text, s.Compound, nil
	}
	escaped := strings.NewReplacer(`\`, `\\`, "'", "''", "\x00", `\0`, "\r", `\r`, "\x1a", `\Z`).Replace(text)
	if noBackslash(s) {
		escaped = strings.ReplaceAll(text, "'", "''")
		dangerous = dangerous || strings.ContainsAny(text, "\x00")
	}
	switch {
	case e.mysql && !s.Compound:
		return prepared("'" + escaped + "'"), false, nil
	case !e.mysql && fromStrings(version):
		return "EXECUTE IMMEDIATE '" + escaped + "'", false, nil
	case dangerous:
		return "", false, errors.New("the client would see other strings, comments or commands in it than the server, and the server that it comes from makes no code from a string")
	}
	return text, s.Compound, nil
}

// fromStrings says whether a server makes every kind of object from a string: MariaDB since 10.6; one that is not known is taken
// for such.
func fromStrings(version string) bool {
	if version == "" {
		return true
	}
	var major, minor int
	_, err := fmt.Sscanf(strings.TrimPrefix(strings.TrimPrefix(version, "MariaDB "), "5.5.5-"), "%d.%d", &major, &minor)
	return err == nil && strings.Contains(version, "MariaDB") && (major > 10 || major == 10 && minor >= 6)
}

// noBackslash says whether a backslash means itself under the settings of a statement.
func noBackslash(s *engine.Statement) bool { return underMode(s, "NO_BACKSLASH_ESCAPES") }

// underMode says whether a statement sets a SQL mode.
func underMode(s *engine.Statement, mode string) bool {
	return slices.ContainsFunc(s.Settings, func(set engine.Setting) bool { return set.Name == "sql_mode" && strings.Contains(set.Text, mode) })
}

// suspect says whether the client would send a text changed, and whether it could see something else in it. The client knows whether the
// session takes a backslash for itself, and not whether double quotes stand around names.
func suspect(s *engine.Statement, text string) (lossy, dangerous bool) {
	if strings.IndexByte(text, 0) >= 0 {
		return true, true
	}
	if !strings.ContainsAny(text, "\\\r#") && !strings.Contains(text, "--") && !strings.Contains(text, "/*") && !strings.Contains(strings.ToLower(text), "delimiter") {
		return false, false
	}
	lossy = strings.Contains(text, "\r")
	under := rules()
	under.BackslashEscapes = !noBackslash(s)
	lexer := sqltext.Lexer{Text: text, Rules: under, KeepComments: true}
	for {
		t := lexer.Next()
		word := text[t.Start:t.End]
		switch {
		case t.Kind == sqltext.End:
			return lossy, dangerous
		case t.Kind == sqltext.Broken:
			return true, true
		case t.Kind == sqltext.String:
			// Where they are names, texts in double quotes know no escapes.
			dangerous = dangerous || word[0] == '"' && strings.IndexByte(word, '\\') >= 0 && underMode(s, "ANSI_QUOTES") || strings.IndexByte(word, '\r') >= 0
		case t.Kind == sqltext.Comment:
			lossy = true
			// A comment to the client alone, or to the server alone.
			dangerous = dangerous || strings.HasPrefix(word, "--") && len(word) > 2 && strings.IndexByte(" \t\n\v\f\r", word[2]) < 0 || strings.HasPrefix(word, "/*!") || strings.HasPrefix(word, "/*M!")
		case strings.IndexByte(word, '\\') >= 0, strings.Contains(strings.ToLower(word), "delimiter"):
			dangerous = true
		}
	}
}
