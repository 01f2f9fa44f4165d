package mariadb

// MySQL has neither blocks outside of routines nor IF EXISTS for what belongs to a table: conditions are put into expressions and
// into statements that are prepared from a string (documentation: "Prepared Statements", "UUID_TO_BIN").

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// mysqlUnless returns a statement that fails, and says why, unless a condition holds: no function takes the sentence for an identifier,
// and the error repeats it.
func mysqlUnless(condition, said string) engine.Statement {
	return engine.Statement{Head: "SET @unmoved = uuid_to_bin(IF(coalesce(" + condition + ", 0), uuid(), " + literal(said) + "))", Settings: usual}
}

// mysqlLong lets the names of all columns of a table be one text.
func mysqlLong() engine.Statement {
	return engine.Statement{Head: "SET SESSION group_concat_max_len = 1048576", Settings: usual}
}

// mysqlPrepared returns statements that run another where a condition holds.
func mysqlPrepared(condition, text string) string {
	return prepared("IF(" + condition + ", " + strings.NewReplacer("\r", `\r`, "\x1a", `\Z`).Replace(literal(text)) + ", 'DO 0')")
}

// prepared returns statements that run what an expression says.
func prepared(expression string) string {
	return "SET @statement = " + expression + ";\nPREPARE made FROM @statement;\nEXECUTE made;\nDEALLOCATE PREPARE made"
}

func indexThere(table, index string) string {
	return "EXISTS (SELECT 1 FROM information_schema.statistics WHERE table_schema = DATABASE() AND table_name = " + table + " AND index_name = " + index + ")"
}

func constraintThere(table, name string) string {
	return "EXISTS (SELECT 1 FROM information_schema.table_constraints WHERE table_schema = DATABASE() AND table_name = " + table + " AND constraint_name = " + name + ")"
}

var (
	mysqlIndexMade = engine.Lazily("^CREATE (?:UNIQUE |FULLTEXT |SPATIAL )?INDEX (" + sqlName + ") ON (" + sqlName + ") ")
	mysqlKeyMade   = engine.Lazily("^ALTER TABLE (" + sqlName + ") ADD CONSTRAINT (" + sqlName + ") FOREIGN KEY ")
	mysqlKeyGone   = engine.Lazily("^ALTER TABLE (" + sqlName + ") DROP FOREIGN KEY (" + sqlName + ")$")
	mysqlIndexGone = engine.Lazily("^DROP INDEX (" + sqlName + ") ON (" + sqlName + ")$")
)

// sqlName is a name in quotes, or one that needs none.
const sqlName = "`(?:[^`]|``)+`|\\w+"

// asText returns a name as a literal.
func asText(name string) string {
	if strings.HasPrefix(name, "`") {
		name = strings.ReplaceAll(name[1:len(name)-1], "``", "`")
	}
	return literal(name)
}

// mysqlIfAbsent is IfAbsent for MySQL. Its views know IF NOT EXISTS since 9.1 only.
func mysqlIfAbsent(s *engine.Statement, text string) string {
	switch {
	case s.Subject.Kind == schema.KindView && s.Action == engine.Make:
		return mysqlPrepared("NOT EXISTS (SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = "+literal(s.Subject.Name)+")", text)
	case mysqlIndexMade().MatchString(text):
		m := mysqlIndexMade().FindStringSubmatch(text)
		return mysqlPrepared("NOT "+indexThere(asText(m[2]), asText(m[1])), text)
	case mysqlKeyMade().MatchString(text):
		m := mysqlKeyMade().FindStringSubmatch(text)
		return mysqlPrepared("NOT "+constraintThere(asText(m[1]), asText(m[2])), text)
	}
	return ifAbsent(text)
}

// mysqlIfPresent is IfPresent for MySQL.
func mysqlIfPresent(text string) string {
	if m := mysqlKeyGone().FindStringSubmatch(text); m != nil {
		return mysqlPrepared(constraintThere(asText(m[1]), asText(m[2])), text)
	}
	if m := mysqlIndexGone().FindStringSubmatch(text); m != nil {
		return mysqlPrepared(indexThere(asText(m[2]), asText(m[1])), text)
	}
	return ifPresent(text)
}
