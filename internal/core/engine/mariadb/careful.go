package mariadb

// IF EXISTS and IF NOT EXISTS, which MariaDB takes nearly everywhere.

import (
	"regexp"
	"strings"

	"echo-atlas/internal/core/engine"
)

var (
	createHead   = engine.Lazily(`^(CREATE (?:OR REPLACE )?(?:ALGORITHM=\S+ )?(?:DEFINER=(?:` + "`(?:[^`]|``)*`@`(?:[^`]|``)*`" + `|\S+) )?(?:SQL SECURITY \S+ )?(?:UNIQUE |FULLTEXT |SPATIAL |VECTOR |AGGREGATE )?(?:TABLE|VIEW|INDEX|SEQUENCE|PROCEDURE|FUNCTION|TRIGGER|EVENT|LIBRARY|PACKAGE BODY|PACKAGE|DATABASE|USER|ROLE) )(.*)`)
	keyAdded     = engine.Lazily(`(?s)^ALTER TABLE (.*?) ADD CONSTRAINT (.*?) FOREIGN KEY (.*)$`)
	keyDropped   = engine.Lazily(`(?s)^ALTER TABLE (.*?) DROP FOREIGN KEY (.*)$`)
	indexDropped = engine.Lazily("(?s)^DROP INDEX (`(?:[^`]|``)+`|\\S+) ON (.*)$")
)

// IfAbsent implements engine.Careful.
func (e Engine) IfAbsent(s *engine.Statement, text string) string {
	if e.mysql {
		return mysqlIfAbsent(s, text)
	}
	if careful := ifAbsent(text); careful != text {
		return careful
	}
	return replaced(keyAdded(), text, "ALTER TABLE ${1} ADD CONSTRAINT ${2} FOREIGN KEY IF NOT EXISTS ${2} ${3}")
}

// ifAbsent puts IF NOT EXISTS into a statement that makes something.
func ifAbsent(text string) string {
	head, body, more := strings.Cut(text, "\n")
	if m := createHead().FindStringSubmatch(head); m != nil && !strings.HasPrefix(m[2], "IF NOT EXISTS") {
		m[1] = strings.Replace(m[1], "OR REPLACE ", "", 1)
		head = m[1] + "IF NOT EXISTS " + m[2]
		if more {
			head += "\n" + body
		}
		return head
	}
	return text
}

// IfPresent implements engine.Careful.
func (e Engine) IfPresent(_ *engine.Statement, text string) string {
	switch {
	case e.mysql:
		return mysqlIfPresent(text)
	case keyDropped().MatchString(text):
		return replaced(keyDropped(), text, "ALTER TABLE IF EXISTS ${1} DROP FOREIGN KEY IF EXISTS ${2}")
	case indexDropped().MatchString(text):
		return replaced(indexDropped(), text, "ALTER TABLE IF EXISTS ${2} DROP INDEX IF EXISTS ${1}")
	}
	return ifPresent(text)
}

// ifPresent puts IF EXISTS into a statement that drops something.
func ifPresent(text string) string {
	words := engine.FirstWords(text)
	if len(words) > 1 && words[0] == "DROP" {
		kind := "DROP " + words[1]
		if words[1] == "PACKAGE" && len(words) > 2 && words[2] == "BODY" {
			kind += " BODY"
		}
		careful, _ := engine.Behind(text, "IF EXISTS", []string{kind})
		return careful
	}
	return text
}

func replaced(pattern *regexp.Regexp, text, by string) string {
	if at := pattern.FindStringSubmatchIndex(text); at != nil {
		return string(pattern.ExpandString(nil, by, text, at))
	}
	return text
}

// MakeDatabase implements engine.DatabaseMaker: the client sends USE to the server.
func (Engine) MakeDatabase(name string) string {
	return "CREATE DATABASE " + quote(name) + ";\nUSE " + quote(name) + ";\n"
}
