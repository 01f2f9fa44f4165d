package postgres

// IF EXISTS and IF NOT EXISTS where the server has them; elsewhere a block that passes by what is there.

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

// conditional are the statements with IF NOT EXISTS (documentation: "CREATE TABLE", …).
var conditional = []string{"CREATE TABLE", "CREATE UNLOGGED TABLE", "CREATE FOREIGN TABLE", "CREATE SEQUENCE", "CREATE UNLOGGED SEQUENCE", "CREATE SCHEMA", "CREATE INDEX", "CREATE UNIQUE INDEX",
	"CREATE MATERIALIZED VIEW", "CREATE EXTENSION", "CREATE SERVER", "CREATE STATISTICS", "CREATE COLLATION", "CREATE USER MAPPING"}

// dropped are the kinds of which DROP takes IF EXISTS behind more than one word.
var dropped = []string{"DROP FOREIGN TABLE", "DROP MATERIALIZED VIEW", "DROP FOREIGN DATA WRAPPER", "DROP EVENT TRIGGER", "DROP TEXT SEARCH CONFIGURATION", "DROP TEXT SEARCH DICTIONARY",
	"DROP TEXT SEARCH PARSER", "DROP TEXT SEARCH TEMPLATE", "DROP OPERATOR CLASS", "DROP OPERATOR FAMILY", "DROP ACCESS METHOD", "DROP USER MAPPING", "DROP TABLE", "DROP VIEW", "DROP INDEX", "DROP SEQUENCE",
	"DROP SCHEMA", "DROP FUNCTION", "DROP PROCEDURE", "DROP AGGREGATE", "DROP TYPE", "DROP DOMAIN", "DROP TRIGGER", "DROP POLICY", "DROP RULE", "DROP OPERATOR", "DROP CAST", "DROP TRANSFORM", "DROP COLLATION",
	"DROP CONVERSION", "DROP EXTENSION", "DROP LANGUAGE", "DROP PUBLICATION", "DROP SUBSCRIPTION", "DROP SERVER", "DROP STATISTICS", "DROP ROLE", "DROP DATABASE", "DROP TABLESPACE", "DROP ROUTINE"}

// IfAbsent implements engine.Careful. What is set of an object, such as its owner, is set all the same.
func (Engine) IfAbsent(s *engine.Statement, text string) string {
	if careful, ok := engine.Behind(text, "IF NOT EXISTS", conditional); ok && !strings.HasPrefix(text, "CREATE INDEX ON") {
		return careful
	}
	errors := "duplicate_table OR duplicate_object OR duplicate_function OR duplicate_schema OR unique_violation"
	switch {
	case strings.HasPrefix(text, "CREATE OR REPLACE VIEW "): // behind a first form, and only there
		return "DO " + dollars("BEGIN\n    IF pg_get_viewdef("+literal(qualify(s.Subject.Schema, s.Subject.Name))+"::regclass) ~ '^\\s*SELECT NULL::' THEN -- the first form\n        EXECUTE "+dollars(text, "statement")+";\n    END IF;\nEND", "absent")
	case strings.HasPrefix(text, "ALTER ") && (strings.Contains(text, " ATTACH PARTITION ") || strings.Contains(text, " ADD") || strings.Contains(text, " INHERIT ")):
		errors += " OR wrong_object_type OR invalid_table_definition"
	case strings.HasPrefix(text, "CREATE OR REPLACE "):
		text = "CREATE " + strings.TrimPrefix(text, "CREATE OR REPLACE ")
	case !strings.HasPrefix(text, "CREATE "):
		return text
	}
	return "DO " + dollars("BEGIN\n    EXECUTE "+dollars(text, "statement")+";\nEXCEPTION WHEN "+errors+" THEN\n    NULL; -- it is there\nEND", "absent")
}

// dollars puts a text in dollar quotes that it does not hold.
func dollars(text, tag string) string {
	for strings.Contains(text, "$"+tag+"$") {
		tag += "_"
	}
	return "$" + tag + "$" + text + "$" + tag + "$"
}

// IfPresent implements engine.Careful.
func (Engine) IfPresent(_ *engine.Statement, text string) string {
	if careful, ok := engine.Behind(text, "IF EXISTS", dropped); ok {
		return careful
	}
	if rest, ok := strings.CutPrefix(text, "ALTER TABLE "); ok && strings.Contains(text, " DROP CONSTRAINT ") {
		return "ALTER TABLE IF EXISTS " + strings.TrimPrefix(strings.Replace(rest, " DROP CONSTRAINT ", " DROP CONSTRAINT IF EXISTS ", 1), "IF EXISTS ")
	}
	return "DO " + dollars("BEGIN\n    EXECUTE "+dollars(text, "statement")+";\nEXCEPTION WHEN undefined_table OR undefined_object OR undefined_function OR undefined_column OR invalid_schema_name THEN\n    NULL; -- it is not there\nEND", "present")
}

// MakeDatabase implements engine.DatabaseMaker: psql takes a name in double quotes.
func (Engine) MakeDatabase(name string) string {
	return "CREATE DATABASE " + quote(name) + " TEMPLATE template0 ENCODING 'UTF8';\n\\connect \"" + strings.ReplaceAll(name, `"`, `""`) + "\"\n"
}
