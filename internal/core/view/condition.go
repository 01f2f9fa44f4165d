package view

// Conditions limit a list to rows in which a column holds something.

import (
	"errors"
	"strconv"
	"strings"

	"echo-atlas/internal/core/names"
)

// Condition limits a list to rows in which a column holds something.
type Condition struct {
	Column, Operator, Value string
	number                  int64
	numeric                 bool
}

// ErrCondition says that a text is no condition.
var ErrCondition = errors.New("no condition")

// ParseCondition reads a condition: a column, one of = != < <= > >=, and a pattern or a number.
func ParseCondition(text string) (Condition, error) {
	at := strings.IndexAny(text, "=!<>")
	if at <= 0 {
		return Condition{}, ErrCondition
	}
	w := Condition{Column: strings.TrimSpace(text[:at])}
	for _, operator := range []string{"!=", "<=", ">=", "=", "<", ">"} {
		if rest, ok := strings.CutPrefix(text[at:], operator); ok {
			w.Operator, w.Value = operator, strings.TrimSpace(rest)
			break
		}
	}
	if w.Operator == "" {
		return Condition{}, ErrCondition
	}
	n, err := strconv.ParseInt(strings.ReplaceAll(w.Value, ",", ""), 10, 64)
	w.number, w.numeric = n, err == nil
	return w, nil
}

// Sound reports whether the condition makes sense: only numbers are less or more than others.
func (w Condition) Sound() bool {
	return !strings.ContainsAny(w.Operator, "<>") || w.numeric && Numeric(w.Column)
}

// holds reports whether a row meets the condition. A number that is not known meets none that compares it.
func (w Condition) holds(row *Row, l *Rows) bool {
	if Numeric(w.Column) && w.numeric {
		n, ok := row.Number(w.Column)
		if !ok {
			return false
		}
		switch w.Operator {
		case "=":
			return n == w.number
		case "!=":
			return n != w.number
		case "<":
			return n < w.number
		case "<=":
			return n <= w.number
		case ">":
			return n > w.number
		}
		return n >= w.number
	}
	text := l.Text(row, w.Column, w.Column != "name" && w.Column != "object" && w.Column != "database")
	holds := names.MatchPattern(w.Value, text)
	if w.Column == "key" && !holds { // one of several words
		for _, word := range strings.Split(text, ", ") {
			holds = holds || names.MatchPattern(w.Value, word)
		}
	}
	return holds == (w.Operator == "=")
}
