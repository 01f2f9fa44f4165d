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
}

// made is a source of rows: how it is called, and its columns, numbers all of them.
type made struct {
	name    string
	columns []string
}

var harbourTables = []made{{"berth", []string{"no", "depth", "harbour_id"}}, {"mooring", []string{"id", "berth_no", "length"}}, {"harbour", []string{"harbour_id", "rank", `"Order"`}}, {`"Tide Table"`, []string{"id", "height", "harbour_id"}}}

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
	switch m.IntN(10) {
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
		if m.IntN(3) == 0 {
			for i := range columns {
				columns[i] = fmt.Sprintf("c%d", i)
			}
			return "(" + q + ") " + m.pick("AS ", "") + alias + " (" + strings.Join(columns, ", ") + ")", made{alias, columns}
		}
		return "(" + q + ") AS " + alias, made{alias, columns}
	}
	all := append(slices.Clone(harbourTables), m.with...)
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
			if m.depth < 4 {
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
			text += m.pick(" JOIN ", " LEFT JOIN ", " FULL OUTER JOIN ", " INNER JOIN ") + s + " ON " + sources[0].name + "." + sources[0].columns[0] + " = " + next.name + "." + next.columns[0]
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
			if strings.HasPrefix(text, "row_number") || strings.HasPrefix(text, "sum") {
				text = "(" + text + ")::int"
			}
		}
		items, names = append(items, text+m.pick(" AS ", " ")+name), append(names, name)
	}
	text := "SELECT " + strings.Join(items, ", ") + " FROM " + from
	if m.IntN(2) == 0 {
		text += " WHERE " + m.condition(sources)
	}
	switch m.IntN(8) {
	case 0:
		c := m.column(sources)
		text = "SELECT " + c + " AS " + names[0]
		for i := 1; i < columns; i++ {
			text += ", count(*) FILTER (WHERE " + m.column(sources) + " > 1)::int AS " + names[i]
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
CREATE TABLE harbour (harbour_id int, rank int, "Order" int); CREATE TABLE "Tide Table" (id int, height int, harbour_id int);`)
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
