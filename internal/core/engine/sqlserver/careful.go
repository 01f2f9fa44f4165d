package sqlserver

// Guards in front of statements, by the functions that tell what is there (documentation: "OBJECT_ID", "TYPE_ID", "SCHEMA_ID").

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// IfAbsent implements engine.Careful. What has to stand first in its batch is handed over as a string.
func (Engine) IfAbsent(s *engine.Statement, text string) string {
	id := s.Subject
	name := qualify(id.Schema, id.Name)
	words := engine.FirstWords(text)
	constraint := ""
	if _, rest, ok := strings.Cut(text, " ADD CONSTRAINT "); ok && len(words) > 0 && words[0] == "ALTER" {
		constraint = rest[:strings.IndexByte(rest, ']')+1]
	}
	run := "EXEC (" + literal(text) + ")"
	switch {
	case constraint != "":
		return "IF OBJECT_ID(" + literal(quote(id.Schema)+"."+constraint) + ") IS NULL\n" + text
	case !strings.EqualFold(text[:min(len(text), 6)], "create"):
		if s.Action == engine.Make { // a module with a comment in front
			return "IF OBJECT_ID(" + literal(name) + ") IS NULL\n" + run
		}
		return text
	case id.Kind == schema.KindSchema:
		return "IF SCHEMA_ID(" + literal(id.Name) + ") IS NULL\n" + run
	case id.Kind == schema.KindIndex:
		return "IF NOT EXISTS (SELECT 1 FROM sys.indexes WHERE name = " + literal(id.Name) + " AND object_id = OBJECT_ID(" + literal(qualify(id.Schema, id.Table)) + "))\n" + text
	case id.Kind.IsType() && id.Kind != schema.KindTable:
		return "IF TYPE_ID(" + literal(name) + ") IS NULL\n" + run
	case id.Kind == schema.KindTable, id.Kind == schema.KindSequence, id.Kind == schema.KindSynonym:
		return "IF OBJECT_ID(" + literal(name) + ") IS NULL\n" + text
	case id.Kind == schema.KindView, id.Kind.IsRoutine(), id.Kind == schema.KindTrigger:
		return "IF OBJECT_ID(" + literal(name) + ") IS NULL\n" + run
	}
	return text
}

// IfPresent implements engine.Careful.
func (Engine) IfPresent(s *engine.Statement, text string) string {
	words := engine.FirstWords(text)
	if rest, ok := strings.CutPrefix(text, "ALTER TABLE "); ok {
		table, _, _ := strings.Cut(rest, " DROP ")
		return "IF OBJECT_ID(" + literal(table) + ") IS NOT NULL\n" + strings.Replace(text, " DROP CONSTRAINT ", " DROP CONSTRAINT IF EXISTS ", 1)
	}
	if len(words) < 2 || words[0] != "DROP" {
		return text
	}
	switch words[1] {
	case "INDEX":
		return "IF OBJECT_ID(" + literal(qualify(s.Subject.Schema, s.Subject.Table)) + ") IS NOT NULL\nDROP INDEX IF EXISTS" + strings.TrimPrefix(text, "DROP INDEX")
	case "TABLE", "VIEW", "PROCEDURE", "FUNCTION", "TRIGGER", "TYPE", "SCHEMA", "SEQUENCE", "SYNONYM", "USER", "ROLE", "RULE", "DEFAULT":
		careful, _ := engine.Behind(text, "IF EXISTS", []string{"DROP " + words[1]})
		return careful
	}
	return text
}

// MakeDatabase implements engine.DatabaseMaker: each in a batch of its own.
func (Engine) MakeDatabase(name string) string {
	return "CREATE DATABASE " + quote(name) + "\nGO\nUSE " + quote(name) + "\nGO\n"
}
