package mariadb

// Routines, packages and events are text that the server keeps, with the settings it was typed under; head and body are
// taken apart.

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// The queries for routines and events. The server's table of routines holds their texts as they were
// typed, and what information_schema leaves out (packages, aggregates); who may not read it gets what
// information_schema tells.
const (
	routinesQuery = `SELECT type, name, param_list, returns, body, CAST(comment AS CHAR), is_deterministic, sql_data_access, security_type, definer, sql_mode, character_set_client, collation_connection, db_collation, aggregate
FROM mysql.proc WHERE db = @DB`
	plainRoutinesQuery = `SELECT routine_type, routine_name, (SELECT group_concat(if(r.routine_type = 'PROCEDURE', concat(p.parameter_mode, ' '), ''), '` + "`', replace(p.parameter_name, '`', '``'), '` '" + `, p.dtd_identifier ORDER BY p.ordinal_position SEPARATOR ', ')
    FROM information_schema.parameters p WHERE p.specific_schema = r.routine_schema AND p.specific_name = r.specific_name AND p.routine_type = r.routine_type AND p.ordinal_position > 0),
  dtd_identifier, routine_definition, routine_comment, is_deterministic, sql_data_access, security_type, definer, sql_mode, character_set_client, collation_connection, database_collation, 'NONE'
FROM information_schema.routines r WHERE routine_schema = @DB`
	eventsQuery = `SELECT event_name, definer, time_zone, event_definition, event_type, execute_at, interval_value, interval_field, sql_mode, starts, ends, status, on_completion, event_comment,
  character_set_client, collation_connection, database_collation FROM information_schema.events WHERE event_schema = @DB`
)

// session returns the settings under which a text was typed.
func session(mode, client, connection string) []schema.Property {
	return []schema.Property{{Name: "character set client", Value: client}, {Name: "collation connection", Value: connection}, {Name: "sql mode", Value: mode}}
}

func denied(err error) bool {
	var said *mysql.MySQLError
	return errors.As(err, &said) && (said.Number == 1142 || said.Number == 1143 || said.Number == 1044 || said.Number == 1146)
}

// routines reads functions, procedures and packages.
func (r *reader) routines(ctx context.Context) error {
	err := r.query(ctx, routinesQuery, r.routine)
	if err != nil && denied(err) { // MySQL has no such table
		r.plainRoutines = true
		err = r.query(ctx, plainRoutinesQuery, r.routine)
	}
	return err
}

func (r *reader) routine(row *engine.Row) {
	typ, name := strings.ToUpper(row.Text(0)), row.Text(1)
	mode := row.Text(10)
	o := &schema.Object{Name: name, Owner: row.Text(9), Comment: row.Text(5), Routine: &schema.Routine{Language: "SQL"}, Settings: session(mode, row.Text(11), row.Text(12))}
	var b strings.Builder
	b.WriteString(typ + " " + quote(name))
	switch typ {
	case "FUNCTION":
		o.Kind = schema.KindFunction
		if row.Text(14) == "GROUP" {
			o.Kind = schema.KindAggregate
		}
		o.Routine.Returns = row.Text(3)
		word := " RETURNS "
		if strings.Contains(mode, "ORACLE") {
			word = " RETURN "
		}
		b.WriteString("(" + row.Text(2) + ")" + word + row.Text(3))
	case "PROCEDURE":
		o.Kind = schema.KindProcedure
		b.WriteString("(" + row.Text(2) + ")")
	case "PACKAGE":
		o.Kind = schema.KindPackage
	case "PACKAGE BODY":
		o.Kind = schema.KindPackageBody
	default:
		r.remark("unread", name, "the server calls it a "+strings.ToLower(typ)+", which is not known here")
		return
	}
	if access := strings.ReplaceAll(row.Text(7), "_", " "); access != "CONTAINS SQL" && o.Kind != schema.KindPackage && o.Kind != schema.KindPackageBody {
		b.WriteString("\n    " + access)
	}
	if row.Text(6) == "YES" {
		b.WriteString("\n    DETERMINISTIC")
	}
	if row.Text(8) != "DEFINER" {
		b.WriteString("\n    SQL SECURITY " + row.Text(8))
	}
	if row.Null(4) {
		r.remark("hidden", o.ID().Qualified(), fmt.Sprintf("the user %s lacks the right SELECT on mysql.proc, or SHOW ROUTINE, so its text is not known", r.s.info.User))
	} else {
		o.Routine.Definition = r.own(b.String()) + "\n" + r.own(row.Text(4))
		if o.Kind.IsRoutine() {
			engine.SetHead(o.Routine, rules())
		}
	}
	r.code = append(r.code, o)
	r.reading.Objects = append(r.reading.Objects, o)
}

func (r *reader) event(row *engine.Row) {
	o := &schema.Object{Kind: schema.KindEvent, Name: row.Text(0), Owner: row.Text(1), Comment: row.Text(13), Settings: session(row.Text(8), row.Text(14), row.Text(15))}
	if zone := row.Text(2); zone != "SYSTEM" {
		o.Settings = append(o.Settings, schema.Property{Name: "time zone", Value: zone})
	}
	var b strings.Builder
	if row.Text(4) == "ONE TIME" {
		b.WriteString("AT " + literal(row.Text(5)))
	} else {
		value := row.Text(6)
		if strings.ContainsAny(value, ":- .") {
			value = literal(strings.Trim(value, "'"))
		}
		b.WriteString("EVERY " + value + " " + row.Text(7))
		if !row.Null(9) {
			b.WriteString(" STARTS " + literal(row.Text(9)))
		}
		if !row.Null(10) {
			b.WriteString(" ENDS " + literal(row.Text(10)))
		}
	}
	b.WriteString(" ON COMPLETION " + row.Text(12))
	switch row.Text(11) {
	case "DISABLED":
		b.WriteString(" DISABLE")
		o.Settings = append(o.Settings, schema.Property{Name: "fires", Value: "disable"})
	case "SLAVESIDE_DISABLED":
		b.WriteString(" DISABLE ON SLAVE")
	}
	if row.Null(3) {
		r.remark("hidden", o.ID().Qualified(), fmt.Sprintf("the user %s lacks the right EVENT, so its text is not known", r.s.info.User))
	} else {
		o.Event = &schema.Event{Schedule: b.String(), Body: r.own(row.Text(3))}
	}
	r.code = append(r.code, o)
	r.reading.Objects = append(r.reading.Objects, o)
}

// codeNeeds notes whose bodies package bodies are.
func (r *reader) codeNeeds() {
	for _, o := range r.code {
		if o.Kind == schema.KindPackageBody {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()),
				To: schema.ObjectEnd(schema.ID{Kind: schema.KindPackage, Name: o.Name}), Evidence: schema.Recorded, Use: schema.UseBodyOf})
		}
	}
}

// code writes a routine, a package or an event.
func code(s *engine.Statement, o *schema.Object) error {
	text := o.Definition // of an event that was read before they were held in parts
	switch {
	case o.Routine != nil:
		text = o.Routine.Definition
	case o.Event != nil:
		text = Engine{}.FormerDefinition(o)
	}
	if text == "" {
		return fmt.Errorf("the text of %s is not known: the survey's user may not see it", o.ID().Qualified())
	}
	s.Compound = true
	s.Head = "CREATE " + definer(o.Owner)
	comment := ""
	if o.Comment != "" {
		comment = "\n    COMMENT " + literalUnder(o.Setting("sql mode"), o.Comment)
	}
	switch o.Kind {
	case schema.KindEvent:
		schedule, body, _ := strings.Cut(text, "\nDO ")
		if o.Event != nil {
			schedule, body = o.Event.Schedule, o.Event.Body
		}
		s.Head += "EVENT " + quote(o.Name) + " ON SCHEDULE " + schedule + comment + "\nDO " + body
	case schema.KindAggregate:
		s.Head += "AGGREGATE "
		s.Undo = "DROP FUNCTION " + quote(o.Name)
		fallthrough
	default:
		// The comment is one of the characteristics, which stand before the body.
		head, body := characteristics(text)
		s.Head += head + comment + "\n" + body
	}
	s.Settings = typedUnder(o, text)
	if o.Kind == schema.KindPackage || o.Kind == schema.KindPackageBody {
		s.UndoSettings = []engine.Setting{{Name: "sql_mode", Text: "SET sql_mode = 'ORACLE'"}}
	}
	if o.Kind == schema.KindEvent {
		zone := o.Setting("time zone")
		if zone == "" {
			zone = "SYSTEM"
		}
		s.Settings = append(s.Settings, engine.Setting{Name: "time_zone", Text: "SET time_zone = " + literal(zone)})
	}
	return nil
}

// characteristics divides a routine's text behind the lines that say how it runs.
func characteristics(text string) (head, body string) {
	start := signatureEnd(text)
	if i := strings.IndexByte(text[start:], '\n'); i >= 0 {
		start += i
	} else {
		start = len(text)
	}
	lines := strings.Split(text[start:], "\n")
	n := 1
	for n < len(lines) && (strings.HasPrefix(lines[n], "    READS SQL") || strings.HasPrefix(lines[n], "    MODIFIES SQL") || strings.HasPrefix(lines[n], "    NO SQL") ||
		lines[n] == "    DETERMINISTIC" || strings.HasPrefix(lines[n], "    SQL SECURITY")) {
		n++
	}
	return text[:start] + strings.Join(lines[:n], "\n"), strings.Join(lines[n:], "\n")
}

// signatureEnd returns where the parameters end, or the name where there are none: both may hold line breaks.
func signatureEnd(text string) int {
	l := sqltext.Lexer{Text: text, Rules: rules()}
	depth, end := 0, 0
	for {
		t := l.Next()
		if t.Kind == sqltext.End {
			return end
		}
		switch is := text[t.Start:t.End]; {
		case t.Kind == sqltext.QuotedName && end == 0:
			end = t.End // the name
		case end == 0:
		case t.Kind == sqltext.Symbol && is == "(":
			depth++
		case depth == 0:
			return end
		case t.Kind == sqltext.Symbol && is == ")":
			if depth--; depth == 0 {
				return t.End
			}
		}
	}
}

// typedUnder returns the settings under which the text of an object means what it says.
func typedUnder(o *schema.Object, text string) []engine.Setting {
	client := o.Setting("character set client")
	if !strings.HasPrefix(client, "utf8") && strings.ContainsFunc(text, func(r rune) bool { return r > 0x7f }) {
		client = "utf8mb4" // in which the script is written
	}
	return []engine.Setting{
		{Name: "characters", Text: fmt.Sprintf("SET character_set_client = %s, character_set_results = utf8mb4, collation_connection = %s", literal(client), literal(o.Setting("collation connection")))},
		{Name: "sql_mode", Text: "SET sql_mode = " + literal(o.Setting("sql mode"))},
	}
}

// FormerDefinition returns an event as earlier readings held it.
func (Engine) FormerDefinition(o *schema.Object) string {
	if o.Event == nil {
		return o.Definition
	}
	return o.Event.Schedule + "\nDO " + o.Event.Body
}
