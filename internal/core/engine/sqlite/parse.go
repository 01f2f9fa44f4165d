package sqlite

// What SQLite keeps is the text of CREATE statements; tokens of it are read into columns and constraints.

import (
	"errors"
	"fmt"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// parser reads the statements that SQLite keeps in sqlite_schema, after the syntax diagrams of
// sqlite.org/lang_createtable.html, lang_createindex.html, lang_createview.html and
// lang_createtrigger.html.
type parser struct {
	descendingKey bool // a column is the primary key, in descending order
	text          string
	tokens        []sqltext.Token
	at            int
}

func newParser(text string) *parser {
	return &parser{text: text, tokens: sqltext.Tokens(text, rules())}
}

func (p *parser) done() bool { return p.at >= len(p.tokens) }

func (p *parser) raw() string {
	if p.done() {
		return ""
	}
	return p.text[p.tokens[p.at].Start:p.tokens[p.at].End]
}

// is reports whether the next tokens are these words or symbols.
func (p *parser) is(words ...string) bool {
	for i, w := range words {
		if p.at+i >= len(p.tokens) {
			return false
		}
		t := p.tokens[p.at+i]
		if t.Kind != sqltext.Word && t.Kind != sqltext.Symbol || !strings.EqualFold(p.text[t.Start:t.End], w) {
			return false
		}
	}
	return true
}

// take skips these words or symbols if they are next.
func (p *parser) take(words ...string) bool {
	if !p.is(words...) {
		return false
	}
	p.at += len(words)
	return true
}

func (p *parser) expect(words ...string) error {
	if p.take(words...) {
		return nil
	}
	if p.done() {
		return fmt.Errorf("%s is missing at the end", strings.Join(words, " "))
	}
	line, column, _ := sqltext.Place(p.text, p.tokens[p.at].Start)
	return fmt.Errorf("%s is missing before %q at line %d, column %d", strings.Join(words, " "), p.raw(), line, column)
}

// name reads a name; SQLite takes string literals for names too.
func (p *parser) name() (string, error) {
	if p.done() {
		return "", errors.New("a name is missing at the end")
	}
	t := p.tokens[p.at]
	switch t.Kind {
	case sqltext.Word, sqltext.QuotedName, sqltext.String:
		p.at++
		return sqltext.Unquote(p.text, t, rules()), nil
	}
	line, column, _ := sqltext.Place(p.text, t.Start)
	return "", fmt.Errorf("a name is missing before %q at line %d, column %d", p.raw(), line, column)
}

func (p *parser) qualifiedName() (string, error) {
	name, err := p.name()
	if err == nil && p.take(".") {
		name, err = p.name()
	}
	return name, err
}

// brackets reads "( … )" and returns what stands between them.
func (p *parser) brackets() (string, error) {
	if err := p.expect("("); err != nil {
		return "", err
	}
	start := p.tokens[p.at-1].End
	for depth := 1; !p.done(); p.at++ {
		switch p.raw() {
		case "(":
			depth++
		case ")":
			if depth--; depth == 0 {
				text := strings.TrimSpace(p.text[start:p.tokens[p.at].Start])
				p.at++
				return text, nil
			}
		}
	}
	return "", errors.New("a bracket is not closed")
}

func (p *parser) names() ([]string, error) {
	parts, err := p.keyParts()
	names := make([]string, len(parts))
	for i, part := range parts {
		names[i] = part.Column
	}
	return names, err
}

// keyParts reads the columns of a key or an index: "(a, b COLLATE c DESC, lower(d))".
func (p *parser) keyParts() ([]schema.KeyPart, error) {
	if err := p.expect("("); err != nil {
		return nil, err
	}
	var parts []schema.KeyPart
	for {
		var part schema.KeyPart
		start, first := p.at, p.at
		for depth := 0; !p.done(); p.at++ {
			if depth == 0 && (p.is(",") || p.is(")") || p.is("collate") || p.is("asc") || p.is("desc")) {
				break
			}
			switch p.raw() {
			case "(":
				depth++
			case ")":
				depth--
			}
		}
		if p.at == first || p.done() {
			return nil, errors.New("the list of columns is not closed")
		}
		if t := p.tokens[start]; p.at == start+1 && (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName || t.Kind == sqltext.String) {
			part.Column = sqltext.Unquote(p.text, t, rules())
		} else {
			part.Expression = p.text[p.tokens[start].Start:p.tokens[p.at-1].End]
		}
		if p.take("collate") {
			name, err := p.name()
			if err != nil {
				return nil, err
			}
			part.Collation = name
		}
		part.Descending = p.take("desc")
		p.take("asc")
		parts = append(parts, part)
		if p.take(")") {
			return parts, nil
		}
		if err := p.expect(","); err != nil {
			return nil, err
		}
	}
}

// header reads "CREATE [TEMP] what [IF NOT EXISTS] [schema.]name".
func (p *parser) header(what ...string) error {
	if err := p.expect("create"); err != nil {
		return err
	}
	_ = p.take("temp") || p.take("temporary")
	if err := p.expect(what...); err != nil {
		return err
	}
	p.take("if", "not", "exists")
	_, err := p.qualifiedName()
	return err
}

func parseView(text string, o *schema.Object) error {
	p := newParser(text)
	if err := p.header("view"); err != nil {
		return err
	}
	if p.is("(") {
		list, err := p.brackets()
		if err != nil {
			return err
		}
		o.Settings = []schema.Property{{Name: "column list", Value: list}}
	}
	if err := p.expect("as"); err != nil {
		return err
	}
	if p.done() {
		return errors.New("the query is missing")
	}
	o.Relation.Query = strings.TrimRight(p.text[p.tokens[p.at].Start:], "; \t\r\n")
	return nil
}

func parseIndex(text string, x *schema.Index) error {
	p := newParser(text)
	if err := p.expect("create"); err != nil {
		return err
	}
	x.Unique = p.take("unique")
	if err := p.expect("index"); err != nil {
		return err
	}
	p.take("if", "not", "exists")
	if _, err := p.qualifiedName(); err != nil {
		return err
	}
	if err := p.expect("on"); err != nil {
		return err
	}
	if _, err := p.name(); err != nil {
		return err
	}
	var err error
	if x.Columns, err = p.keyParts(); err != nil {
		return err
	}
	if p.take("where") && !p.done() {
		x.Where = strings.TrimSpace(p.text[p.tokens[p.at].Start:])
	}
	return nil
}

func parseTrigger(text string, t *schema.Trigger) error {
	p := newParser(text)
	if err := p.header("trigger"); err != nil {
		return err
	}
	t.Timing, t.Level = "before", "row"
	switch {
	case p.take("before"):
	case p.take("after"):
		t.Timing = "after"
	case p.take("instead", "of"):
		t.Timing = "instead of"
	}
	switch {
	case p.take("insert"):
		t.Events = []string{"insert"}
	case p.take("delete"):
		t.Events = []string{"delete"}
	case p.take("update"):
		t.Events = []string{"update"}
		for p.take("of") || len(t.Columns) > 0 && p.take(",") {
			name, err := p.name()
			if err != nil {
				return err
			}
			t.Columns = append(t.Columns, name)
		}
	default:
		return p.expect("insert, update or delete")
	}
	if err := p.expect("on"); err != nil {
		return err
	}
	if _, err := p.name(); err != nil {
		return err
	}
	p.take("for", "each", "row")
	if p.take("when") && !p.done() {
		start := p.tokens[p.at].Start
		for depth := 0; !p.done() && (depth > 0 || !p.is("begin")); p.at++ {
			switch p.raw() {
			case "(":
				depth++
			case ")":
				depth--
			}
		}
		if !p.done() {
			t.When = strings.TrimSpace(p.text[start:p.tokens[p.at].Start])
		}
	}
	if p.done() || !p.is("begin") {
		return errors.New("BEGIN is missing")
	}
	t.Body = strings.TrimRight(p.text[p.tokens[p.at].Start:], "; \t\r\n")
	return nil
}
