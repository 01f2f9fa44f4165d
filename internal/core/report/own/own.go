// Package own runs reports that people write themselves: one query over tables of the catalogue, in an SQLite that lies in memory
// and can reach nothing else. A comment at the head of the query says what it tells.
package own

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"echo-atlas/internal/core/sqltext"
)

// Report is a query with what its head says.
type Report struct {
	Name       string
	Title      string
	About      string // what it tells
	Advice     string // what to do
	Parameters []Parameter
	Columns    map[string]string // how values are shown: "bytes", "count", "time"
	LeadsTo    *Lead
	Chart      *Chart
	Query      string
}

// Parameter is a value that is put into the query, as :NAME.
type Parameter struct {
	Name, Type, Default, About string // Type is "text" or "number"
	Given                      bool   // there is a default
}

// Lead says which report goes on from a row.
type Lead struct {
	Report string
	Set    [][2]string // parameters of that report and columns of this one
}

// Chart says how the rows are drawn.
type Chart struct{ Kind, X, Y string } // Kind is "bar" or "line"

// rules are those of the dialect of reports.
var rules = sqltext.Rules{Backticks: true, Brackets: true}

// Parse reads a report. The head is made of comments in front of the query, each "-- WORD: text".
func Parse(name, text string) (*Report, error) {
	r := &Report{Name: name, Title: name, Columns: map[string]string{}}
	rest := text
	for n := 1; ; n++ {
		line, more, _ := strings.Cut(rest, "\n")
		trimmed := strings.TrimSpace(line)
		if trimmed != "" && !strings.HasPrefix(trimmed, "--") {
			break
		}
		if word, value, ok := strings.Cut(strings.TrimSpace(strings.TrimPrefix(trimmed, "--")), ":"); ok && trimmed != "" {
			if err := r.head(strings.TrimSpace(word), strings.TrimSpace(value)); err != nil {
				return nil, fmt.Errorf("line %d: %w", n, err)
			}
		}
		if more == "" {
			rest = ""
			break
		}
		rest = more
	}
	r.Query = strings.TrimSpace(rest)
	return r, r.check()
}

func (r *Report) head(word, value string) error {
	switch strings.ToLower(word) {
	case "title":
		r.Title = value
	case "about":
		r.About = strings.TrimSpace(r.About + " " + value)
	case "advice":
		r.Advice = strings.TrimSpace(r.Advice + " " + value)
	case "parameter":
		given, about, _ := strings.Cut(value, ",")
		left, right, has := strings.Cut(given, "=")
		words := strings.Fields(left)
		if len(words) != 2 || words[1] != "text" && words[1] != "number" {
			return errors.New("a parameter is written as NAME text, or NAME number = 5, what it is")
		}
		p := Parameter{Name: words[0], Type: words[1], Default: strings.TrimSpace(right), Given: has, About: strings.TrimSpace(about)}
		if _, err := p.value(p.Default); has && err != nil {
			return err
		}
		r.Parameters = append(r.Parameters, p)
	case "column":
		name, as, ok := strings.Cut(value, " as ")
		if as = strings.TrimSpace(as); !ok || !slices.Contains([]string{"bytes", "count", "time"}, as) {
			return errors.New("a column is written as NAME as bytes, NAME as count, or NAME as time")
		}
		r.Columns[strings.TrimSpace(name)] = as
	case "leads to":
		words := strings.Fields(value)
		if len(words) < 2 {
			return errors.New("where a row leads to is written as REPORT PARAMETER=COLUMN")
		}
		r.LeadsTo = &Lead{Report: words[0]}
		for _, w := range words[1:] {
			parameter, column, ok := strings.Cut(w, "=")
			if !ok {
				return errors.New("where a row leads to is written as REPORT PARAMETER=COLUMN")
			}
			r.LeadsTo.Set = append(r.LeadsTo.Set, [2]string{parameter, column})
		}
	case "chart":
		kind, axes, _ := strings.Cut(value, " ")
		x, y, ok := strings.Cut(axes, ",")
		r.Chart = &Chart{kind, strings.TrimSpace(x), strings.TrimSpace(y)}
		if !ok || kind != "bar" && kind != "line" || r.Chart.X == "" || r.Chart.Y == "" {
			return errors.New("a chart is written as bar NAME, VALUE or line TIME, VALUE")
		}
	}
	return nil // other words are comments
}

// check asserts that there is one query, which only reads.
func (r *Report) check() error {
	tokens := sqltext.Tokens(r.Query, rules)
	for i, t := range tokens {
		if r.Query[t.Start:t.End] == ";" && i < len(tokens)-1 {
			return errors.New("a report is one query, and there is more behind the semicolon")
		}
		if t.Kind == sqltext.Broken {
			return errors.New("a string or a comment in it is not closed")
		}
	}
	if len(tokens) == 0 {
		return errors.New("there is no query in it")
	}
	if first := strings.ToLower(r.Query[tokens[0].Start:tokens[0].End]); first != "select" && first != "with" && first != "values" {
		return fmt.Errorf("a report is a query that begins with SELECT or WITH, not with %s", r.Query[tokens[0].Start:tokens[0].End])
	}
	return nil
}

// value returns what is bound for a parameter.
func (p *Parameter) value(text string) (any, error) {
	if p.Type == "text" {
		return text, nil
	}
	if n, err := strconv.ParseInt(text, 10, 64); err == nil {
		return n, nil
	}
	f, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return nil, fmt.Errorf("the parameter %s takes a number, not %q", p.Name, text)
	}
	return f, nil
}

// uses reports whether the query names a table.
func (r *Report) uses(table string) bool {
	for _, t := range sqltext.Tokens(r.Query, rules) {
		if (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName) && strings.EqualFold(sqltext.Unquote(r.Query, t, rules), table) {
			return true
		}
	}
	return false
}
