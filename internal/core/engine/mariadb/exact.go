package mariadb

// The views of information_schema show the texts of triggers, events and routines with the escapes in their string
// literals resolved, so that a backslash comes back as something else. Such texts are taken from SHOW CREATE instead,
// which prints what was typed.

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// exactTexts reads the texts again in which a literal may stand.
func (r *reader) exactTexts(ctx context.Context) error {
	for _, o := range r.reading.Objects {
		switch {
		case o.Trigger != nil && strings.ContainsAny(o.Trigger.Body, "'\""):
			text, err := r.showCreate(ctx, o, "TRIGGER")
			if err != nil {
				return err
			}
			if body, ok := behind(text, "for", "each", "row"); ok {
				o.Trigger.Body = r.own(withoutOrder(body))
			}
		case o.Event != nil && strings.ContainsAny(o.Event.Schedule+o.Event.Body, "'\""):
			text, err := r.showCreate(ctx, o, "EVENT")
			if err != nil {
				return err
			}
			if rest, ok := behind(text, "on", "completion"); ok {
				if body, ok := behind(rest, "do"); ok {
					o.Event.Body = r.own(body)
				}
			}
		case r.s.mysql && o.Routine != nil && o.Routine.Definition != "":
			text, err := r.showCreate(ctx, o, routineWord(o.Kind))
			if err != nil {
				return err
			}
			if definition, ok := mysqlRoutine(text); ok {
				definition = usingText().ReplaceAllStringFunc(definition, func(s string) string { return strings.ReplaceAll(s, quote(r.database)+".", "") })
				o.Routine.Definition = r.own(definition)
				if m := languageText().FindStringSubmatch(definition); m != nil {
					o.Routine.Language = m[1]
				}
				engine.SetHead(o.Routine, rules())
			}
		case r.plainRoutines && o.Routine != nil && o.Kind.IsRoutine() && strings.ContainsAny(o.Routine.Definition, "'\""):
			text, err := r.showCreate(ctx, o, routineWord(o.Kind))
			if err != nil {
				return err
			}
			head, body := characteristics(o.Routine.Definition)
			if at := strings.IndexAny(body, "'\"\\"); at > 0 { // what stands before the first literal is as it was typed
				if start := strings.Index(text, body[:at]); start >= 0 {
					o.Routine.Definition = head + "\n" + r.own(text[start:])
					engine.SetHead(o.Routine, rules())
				}
			}
		}
	}
	return nil
}

var viewAlgorithm = engine.Lazily(`^CREATE ALGORITHM=(MERGE|TEMPTABLE) `)

// exactViews asks for the statements of views: information_schema leaves out what characters a literal is of. MySQL has their
// algorithms in no table, and shows ROLLUP there as what it became.
func (r *reader) exactViews(ctx context.Context) error {
	for _, o := range r.tables {
		if o.Kind != schema.KindView || o.Relation.Query == "" || !r.s.mysql && !strings.Contains(o.Relation.Query, "'") {
			continue
		}
		text, err := r.showCreate(ctx, o, "VIEW")
		if err != nil {
			return err
		}
		head, query, ok := cutHead(text, "AS")
		if !ok {
			continue
		}
		if check := strings.LastIndex(query, " WITH "); check >= 0 && strings.HasSuffix(query, " CHECK OPTION") {
			query = query[:check]
		}
		o.Relation.Query = r.own(query)
		if !r.s.mysql {
			continue
		}
		if strings.Contains(head, " JSON RELATIONAL DUALITY VIEW ") {
			o.Settings = append(o.Settings, schema.Property{Name: duality, Value: "json"})
		}
		if !strings.HasSuffix(strings.TrimSpace(head), ")") {
			o.Settings = append(o.Settings, schema.Property{Name: unlisted, Value: "yes"})
		}
		if m := viewAlgorithm().FindStringSubmatch(head); m != nil {
			o.Settings = append(o.Settings, schema.Property{Name: "algorithm", Value: strings.ToLower(m[1])})
		}
	}
	return nil
}

// cutHead cuts a statement at the first of a word that stands outside of names and brackets.
func cutHead(text, word string) (head, rest string, ok bool) {
	depth := 0
	for _, t := range sqltext.Tokens(text, rules()) {
		switch is := text[t.Start:t.End]; {
		case t.Kind == sqltext.Symbol && is == "(":
			depth++
		case t.Kind == sqltext.Symbol && is == ")":
			depth--
		case depth == 0 && t.Kind == sqltext.Word && is == word:
			return text[:t.Start], strings.TrimLeft(text[t.End:], " "), true
		}
	}
	return "", "", false
}

// showCreate asks for the statement of an object. Where it is not to be had the object is marked.
func (r *reader) showCreate(ctx context.Context, o *schema.Object, word string) (string, error) {
	rows, err := r.s.db.QueryContext(ctx, "SHOW CREATE "+word+" "+quote(r.database)+"."+quote(o.Name))
	var said *mysql.MySQLError
	if errors.As(err, &said) {
		r.remark("failed", o.ID().Qualified(), "its text may differ where it holds a backslash: "+said.Message)
		return "", nil
	}
	if err != nil {
		return "", err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return "", err
	}
	values := make([]sql.NullString, len(columns))
	into := make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return "", fmt.Errorf("reading the text of %s: %w", o.ID().Qualified(), err)
		}
	}
	for i, c := range columns {
		if c == "SQL Original Statement" || strings.HasPrefix(c, "Create ") && c != "Created" {
			return values[i].String, rows.Err()
		}
	}
	return "", rows.Err()
}

// behind returns what stands behind words that follow each other in a statement.
func behind(text string, words ...string) (string, bool) {
	tokens := sqltext.Tokens(text, rules())
	for i := range tokens {
		if i+len(words) > len(tokens) {
			break
		}
		found := true
		for k, w := range words {
			t := tokens[i+k]
			found = found && t.Kind == sqltext.Word && strings.EqualFold(text[t.Start:t.End], w)
		}
		if found {
			return strings.TrimLeft(text[tokens[i+len(words)-1].End:], " \t\r\n"), true
		}
	}
	return "", false
}

// withoutOrder takes FOLLOWS or PRECEDES with its name from the front of a trigger's body.
func withoutOrder(body string) string {
	tokens := sqltext.Tokens(body, rules())
	if len(tokens) > 1 && tokens[0].Kind == sqltext.Word {
		switch strings.ToLower(body[tokens[0].Start:tokens[0].End]) {
		case "follows", "precedes":
			return strings.TrimLeft(body[tokens[1].End:], " \t\r\n")
		}
	}
	return body
}
