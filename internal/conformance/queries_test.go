package conformance

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testservers"
)

// queryMaker writes random queries over tables that it knows, in every shape that the grammar has.
type queryMaker struct {
	*rand.Rand
	n     int // numbers names
	depth int
	outer [][]made // sources that are seen from outside
	with  []made   // common table expressions that are seen
	// plain keeps to what MariaDB and SQLite have, too.
	plain bool
}

// made is a source of rows: how it is called, and its columns, numbers all of them.
type made struct {
	name    string
	columns []string
}

var harbourTables = []made{{"berth", []string{"no", "depth", "harbour_id"}}, {"mooring", []string{"id", "berth_no", "length"}}, {"harbour", []string{"harbour_id", "grade", `"Order"`}}, {`"Tide Table"`, []string{"id", "height", "harbour_id"}}}

// lonelyTables share no name of a column: what is taken away is not found elsewhere.
var lonelyTables = []made{{"berth", []string{"no", "depth", "lies_in"}}, {"mooring", []string{"id", "berth_no", "length"}}, {"harbour", []string{"harbour_id", "grade", `"Order"`}}, {`"Tide Table"`, []string{"tide_id", "height", "measured_in"}}}

func (m *queryMaker) tables() []made {
	if m.plain {
		return lonelyTables
	}
	return harbourTables
}

func (m *queryMaker) pick(words ...string) string { return words[m.IntN(len(words))] }

func (m *queryMaker) fresh() string {
	m.n++
	return m.pick("a", "b", "x", "depth", "no", `"Some One"`, "t") + fmt.Sprint(m.n)
}

// quoted adds a number to a name, inside its quotes.
func joinName(prefix string) string {
	if i := strings.LastIndexByte(prefix, '"'); i > 0 && i < len(prefix)-1 {
		return prefix[:i] + prefix[i+1:] + `"`
	}
	return prefix
}

// column returns a column of a source in view; sometimes one from outside.
func (m *queryMaker) column(in []made) string {
	if len(m.outer) > 0 && m.IntN(5) == 0 {
		in = m.outer[len(m.outer)-1]
	}
	if len(in) == 0 {
		return fmt.Sprint(m.IntN(9))
	}
	s := in[m.IntN(len(in))]
	if len(s.columns) == 0 {
		return "1"
	}
	c := s.columns[m.IntN(len(s.columns))]
	for _, other := range in {
		if other.name != s.name && slices.Contains(other.columns, c) {
			return s.name + "." + c
		}
	}
	if m.IntN(2) == 0 {
		return c
	}
	return s.name + "." + c
}

func (m *queryMaker) expression(in []made) string {
	if m.depth > 5 {
		return m.column(in)
	}
	m.depth++
	defer func() { m.depth-- }()
	x := func() string { return m.expression(in) }
	if m.plain {
		return m.plainExpression(in)
	}
	switch m.IntN(16) {
	case 0:
		return x() + m.pick(" + ", "*", " - ", " % ") + x()
	case 1:
		return "CASE WHEN " + m.condition(in) + " THEN " + x() + " ELSE " + x() + " END"
	case 2:
		return "coalesce(" + x() + ", " + x() + ")"
	case 3:
		return "cast(" + x() + " AS " + m.pick("int", "numeric(9,2)", "double precision") + ")::int"
	case 4:
		return "(SELECT max(" + m.sub(in, 1) + ")"
	case 5:
		return "extract(day FROM date '2026-03-01' + (" + x() + ")::int)::int"
	case 6:
		return "greatest(" + x() + ", abs(" + x() + "))"
	case 7:
		return "nullif(" + x() + ", 3)"
	case 8:
		return "(ARRAY[" + x() + ", " + x() + "])[1]"
	case 9:
		return "position('x' in (" + x() + ")::text)"
	case 10:
		return "(" + x() + ")"
	case 11:
		return "length(trim(both ' ' from (" + x() + ")::text))"
	}
	return m.column(in)
}

// plainExpression writes an expression that all dialects have.
func (m *queryMaker) plainExpression(in []made) string {
	x := func() string { return m.expression(in) }
	switch m.IntN(12) {
	case 0:
		return x() + m.pick(" + ", "*", " - ", " % ") + x()
	case 1:
		return "CASE WHEN " + m.condition(in) + " THEN " + x() + " ELSE " + x() + " END"
	case 2:
		return "coalesce(" + x() + ", " + x() + ")"
	case 3:
		return "cast(" + x() + " AS char(9))"
	case 4:
		return "(SELECT max(" + m.sub(in, 1) + ")"
	case 5:
		return "nullif(" + x() + ", abs(" + x() + "))"
	case 6:
		return "CASE " + x() + " WHEN 1 THEN 'from x' ELSE " + x() + " END"
	case 7:
		return "(" + x() + ")"
	}
	return m.column(in)
}

// sub writes the rest of a scalar query, from the expression on.
func (m *queryMaker) sub(in []made, _ int) string {
	m.outer = append(m.outer, in)
	from, sources := m.from()
	text := m.expression(sources) + ") FROM " + from
	if m.IntN(2) == 0 {
		text += " WHERE " + m.condition(sources)
	}
	m.outer = m.outer[:len(m.outer)-1]
	return text
}

func (m *queryMaker) condition(in []made) string {
	if m.depth > 5 {
		return m.column(in) + " > 0"
	}
	m.depth++
	defer func() { m.depth-- }()
	x := func() string { return m.expression(in) }
	kinds := 10
	if m.plain {
		kinds = 7
	}
	switch m.IntN(kinds) {
	case 0:
		return m.condition(in) + m.pick(" AND ", " OR ") + m.condition(in)
	case 1:
		return "NOT (" + m.condition(in) + ")"
	case 2:
		return x() + " BETWEEN " + x() + " AND " + x()
	case 3:
		return x() + " IS " + m.pick("NULL", "NOT NULL")
	case 4:
		return x() + " IN (" + x() + ", " + x() + ")"
	case 5, 6:
		m.outer = append(m.outer, in)
		defer func() { m.outer = m.outer[:len(m.outer)-1] }()
		if m.IntN(2) == 0 {
			q, _ := m.query(1)
			if m.plain {
				return x() + " IN (" + strings.TrimSuffix(q, " LIMIT 3") + ")"
			}
			return x() + " = ANY (" + q + ")"
		}
		q, _ := m.query(0)
		return m.pick("", "NOT ") + "EXISTS (" + q + ")"
	case 7:
		return x() + " IS DISTINCT FROM " + x()
	case 8:
		return "(" + x() + ", 1) < (2, " + x() + ")"
	}
	return x() + m.pick(" = ", " < ", " <> ", ">=") + x()
}

// source writes one source.
func (m *queryMaker) source() (string, made) {
	if m.depth < 4 && m.IntN(4) == 0 {
		m.depth++
		outer := m.outer
		m.outer = nil
		q, columns := m.query(1 + m.IntN(3))
		m.outer = outer
		m.depth--
		alias := joinName(m.fresh())
		given := slices.Clone(columns)
		if m.IntN(3) == 0 {
			for i := range columns {
				columns[i] = fmt.Sprintf("c%d", i)
			}
			if m.plain {
				return "(" + q + ") " + alias, made{alias, given}
			}
			return "(" + q + ") " + m.pick("AS ", "") + alias + " (" + strings.Join(columns, ", ") + ")", made{alias, columns}
		}
		return "(" + q + ") AS " + alias, made{alias, columns}
	}
	all := append(slices.Clone(m.tables()), m.with...)
	t := all[m.IntN(len(all))]
	alias := joinName(m.fresh())
	return t.name + m.pick(" AS ", " ") + alias, made{alias, t.columns}
}

func (m *queryMaker) from() (string, []made) {
	text, first := m.source()
	sources := []made{first}
	for range m.IntN(3) {
		s, next := m.source()
		switch m.IntN(6) {
		case 0:
			text += ", " + s
		case 1:
			text += " CROSS JOIN " + s
		case 2:
			shared := slices.IndexFunc(next.columns, func(c string) bool { return c == "harbour_id" })
			at := slices.IndexFunc(sources, func(x made) bool { return slices.Contains(x.columns, "harbour_id") })
			if shared >= 0 && at >= 0 && len(sources) == 1 {
				text += " JOIN " + s + " USING (harbour_id)"
				break
			}
			fallthrough
		case 3:
			if m.depth < 4 && !m.plain {
				m.depth++
				m.outer = append(m.outer, sources)
				q, columns := m.query(2)
				m.outer = m.outer[:len(m.outer)-1]
				m.depth--
				next = made{joinName(m.fresh()), columns}
				text += " LEFT JOIN LATERAL (" + q + ") " + next.name + " ON true"
				break
			}
			fallthrough
		default:
			join := m.pick(" JOIN ", " LEFT JOIN ", " FULL OUTER JOIN ", " INNER JOIN ")
			if m.plain && strings.HasPrefix(join, " FULL") {
				join = " LEFT OUTER JOIN "
			}
			text += join + s + " ON " + sources[0].name + "." + sources[0].columns[0] + " = " + next.name + "." + next.columns[0]
		}
		sources = append(sources, next)
	}
	return text, sources
}

// query writes a query of so many columns; 0: any.
func (m *queryMaker) query(columns int) (string, []string) {
	m.depth++
	defer func() { m.depth-- }()
	prefix := ""
	with := len(m.with)
	defer func() { m.with = m.with[:with] }()
	if m.depth < 4 && m.IntN(5) == 0 {
		outer := m.outer
		m.outer = nil
		name := joinName(m.fresh())
		if m.IntN(3) == 0 {
			prefix = "WITH RECURSIVE " + name + " (up, level) AS (SELECT no, 1 FROM berth UNION ALL SELECT r.up + m.berth_no, r.level + 1 FROM " + name + " r JOIN mooring m ON m.id = r.up WHERE level < 5) "
			m.with = append(m.with, made{name, []string{"up", "level"}})
		} else {
			q, given := m.query(2)
			prefix = "WITH " + name + " AS (" + q + ") "
			m.with = append(m.with, made{name, given})
		}
		m.outer = outer
	}
	text, names := m.selects(columns)
	if m.IntN(6) == 0 {
		next, _ := m.selects(len(names))
		text += m.pick(" UNION ALL ", " UNION ", " INTERSECT ", " EXCEPT ") + next
		if m.IntN(2) == 0 {
			text += " ORDER BY " + m.pick("1", names[0])
		}
	} else if m.IntN(4) == 0 {
		text += " LIMIT 3"
	}
	if m.plain && prefix != "" && !strings.Contains(text, " "+m.with[len(m.with)-1].name+" ") {
		prefix = "" // what is not used is not looked at by all servers
	}
	return prefix + text, names
}

func (m *queryMaker) selects(columns int) (string, []string) {
	if columns == 0 {
		columns = 1 + m.IntN(3)
	}
	from, sources := m.from()
	var items, names []string
	for i := range columns {
		name := fmt.Sprintf("o%d_%d", m.n, i)
		text := m.expression(sources)
		switch m.IntN(8) {
		case 0:
			text = m.pick("row_number()", "sum("+m.column(sources)+")", "lag("+m.column(sources)+")") + " OVER (PARTITION BY " + m.column(sources) + " ORDER BY " + m.column(sources) + m.pick("", " DESC NULLS LAST") + ")"
			if m.plain {
				text = strings.TrimSuffix(text, " DESC NULLS LAST)")
				if strings.Count(text, "(") > strings.Count(text, ")") {
					text += " DESC)"
				}
			} else if strings.HasPrefix(text, "row_number") || strings.HasPrefix(text, "sum") {
				text = "(" + text + ")::int"
			}
		}
		items, names = append(items, text+m.pick(" AS ", " ")+name), append(names, name)
	}
	text := "SELECT " + strings.Join(items, ", ") + " FROM " + from
	if m.IntN(2) == 0 {
		text += " WHERE " + m.condition(sources)
	}
	shape := m.IntN(8)
	if m.plain && shape < 2 {
		shape = 8
	}
	switch shape {
	case 0:
		c := m.column(sources)
		text = "SELECT " + c + " AS " + names[0]
		for i := 1; i < columns; i++ {
			text += ", count(*) FILTER (WHERE " + m.column(sources) + " > 1)::int AS " + names[i]
		}
		text += " FROM " + from + " GROUP BY " + c + " HAVING max(" + m.column(sources) + ") > 2"
	case 8:
		c := m.column(sources)
		text = "SELECT " + c + " AS " + names[0]
		for i := 1; i < columns; i++ {
			text += ", sum(CASE WHEN " + m.column(sources) + " > 1 THEN 1 END) AS " + names[i]
		}
		text += " FROM " + from + " GROUP BY " + c + " HAVING max(" + m.column(sources) + ") > 2"
	case 1:
		text = "SELECT DISTINCT ON (" + m.column(sources) + ")" + strings.TrimPrefix(text, "SELECT")
	}
	return text, names
}

// The columns that a query reads are those that the server records of a view of it, whatever the shape of the query: thousands
// of random ones, as they are typed and as the server prints them.
func TestRandomQueriesAsRecorded(t *testing.T) {
	s := testservers.Postgres(t)
	url := s.Database(t, `CREATE TABLE berth (no int, depth int, harbour_id int); CREATE TABLE mooring (id int, berth_no int, length int);
CREATE TABLE harbour (harbour_id int, grade int, "Order" int); CREATE TABLE "Tide Table" (id int, height int, harbour_id int);`)
	db := s.Open(t, url)
	db.SetMaxOpenConns(1)
	typed := map[string]string{}
	m := queryMaker{Rand: rand.New(rand.NewPCG(26, 11))}
	tries := 0
	for len(typed) < 2200 && tries < 20000 {
		tries++
		m.n, m.depth = 0, 0
		q, _ := m.query(0)
		if m.IntN(10) == 0 {
			q = strings.Replace(q, " FROM ", m.pick(" -- berth.depth\n FROM ", " /* FROM harbour */ FROM "), 1)
		}
		switch m.IntN(12) {
		case 0:
			q = "SELECT * FROM (" + q + ") deep JOIN berth ON true"
		case 1:
			q = "SELECT b.*, (SELECT count(*) FROM mooring WHERE berth_no = b.no) FROM berth b WHERE EXISTS (" + q + ")"
		case 2:
			q = "SELECT harbour_id, no FROM berth NATURAL JOIN harbour WHERE no > 1"
		case 3:
			q = "SELECT h FROM harbour h"
		}
		name := fmt.Sprintf("v%d", tries)
		if _, err := db.Exec("CREATE VIEW " + name + " AS " + q); err == nil {
			typed[name] = q
		}
	}
	t.Logf("%d of %d queries are sound", len(typed), tries)
	if len(typed) < 2000 {
		t.Fatalf("only %d of %d queries are sound", len(typed), tries)
	}
	reading := readingOf(t, s, url)
	recorded := readsOf(reading.Dependencies)
	failed := 0
	for _, form := range []string{"printed", "typed"} {
		if form == "typed" {
			for _, o := range reading.Objects {
				if q, ok := typed[o.Name]; ok {
					o.Relation.Query = q
				}
			}
		}
		found := readsOf(slices.Concat(references.Find(reading, s.Engine())...))
		for _, o := range reading.Objects {
			if o.Kind != schema.KindView {
				continue
			}
			if wrong := differences(recorded[o.ID()], found[o.ID()]); len(wrong) > 0 {
				if failed++; failed < 15 {
					t.Errorf("%s, %s: %s\n%s", o.Name, form, strings.Join(wrong, "; "), o.Relation.Query)
				}
			}
		}
	}
	if failed > 0 {
		t.Errorf("%d of %d queries are not understood", failed, 2*len(typed))
	}
}

// What a query of MariaDB or SQLite reads is judged by what breaks: a view stops working where a column that it reads is not
// there any more, and only there.
func TestRandomQueriesByWhatBreaks(t *testing.T) {
	const wanted = 250
	for _, s := range testservers.All(t) {
		if s.Name() == "postgres" { // it records what views read
			continue
		}
		t.Run(s.Name(), func(t *testing.T) {
			quote := func(text string) string {
				return strings.ReplaceAll(text, `"`, "`") // SQLite takes a name in double quotes for a string where there is none
			}
			tables := func(without string) string {
				var b strings.Builder
				for _, table := range lonelyTables {
					var columns []string
					for _, c := range table.columns {
						if table.name+"."+c == without {
							c = "gone_" + fmt.Sprint(len(columns))
						}
						columns = append(columns, c+" int")
					}
					fmt.Fprintf(&b, "CREATE TABLE %s (%s);\n", table.name, strings.Join(columns, ", "))
				}
				return quote(b.String())
			}
			whole := s.Database(t, tables(""))
			db := s.Open(t, whole)
			typed := map[string]string{}
			m := queryMaker{Rand: rand.New(rand.NewPCG(26, 12)), plain: true}
			tries := 0
			for ; len(typed) < wanted && tries < 20*wanted; tries++ {
				m.n, m.depth = 0, 0
				q, _ := m.query(0)
				name := fmt.Sprintf("v%d", tries)
				if _, err := db.Exec("CREATE VIEW " + name + " AS " + quote(q)); err != nil {
					continue
				}
				if _, err := db.Exec("SELECT * FROM " + name + " LIMIT 0"); err != nil {
					continue
				}
				typed[name] = quote(q)
			}
			t.Logf("%d of %d queries are sound", len(typed), tries)
			if len(typed) < wanted {
				t.Fatalf("only %d of %d queries are sound", len(typed), tries)
			}
			reading := readingOf(t, s, whole)
			found := map[string]map[string]bool{}
			for id, reads := range readsOf(slices.Concat(references.Find(reading, s.Engine())...)) {
				found[id.Name] = reads
			}
			failed := 0
			for _, table := range lonelyTables {
				for _, c := range table.columns {
					broken := s.Open(t, s.Database(t, tables(table.name+"."+c)))
					bare := func(name string) string { return strings.Trim(name, `"`) }
					column := (&schema.ID{Kind: schema.KindTable, Name: bare(table.name)}).Qualified() + " " + bare(c)
					for name, q := range typed {
						_, err := broken.Exec("CREATE VIEW " + name + " AS " + q)
						if err == nil {
							_, err = broken.Exec("SELECT * FROM " + name + " LIMIT 0")
						}
						if breaks := err != nil; breaks != found[name][column] {
							if failed++; failed < 10 {
								t.Errorf("%s without %s: breaks: %v (%v), said to read it: %v\n%s\n%s", name, column, breaks, err, found[name][column], q, printed(reading, name))
							}
						}
					}
				}
			}
			if failed > 0 {
				t.Errorf("%d wrong answers", failed)
			}
		})
	}
}

// printed returns the text that was read of a view.
func printed(r *schema.Reading, name string) string {
	for _, o := range r.Objects {
		if o.Name == name {
			return o.Source + o.Relation.Query
		}
	}
	return ""
}

// readingOf reads a database, and stores nothing.
func readingOf(t *testing.T, s testservers.Server, url string) *schema.Reading {
	t.Helper()
	ctx := context.Background()
	session, err := s.Engine().Connect(ctx, engine.Target{URL: url})
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	reading, err := session.Read(ctx, s.Engine().Database(url))
	if err != nil {
		t.Fatal(err)
	}
	return reading
}
