package sqlite

import (
	"cmp"
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// tableMaker writes tables of every form that the syntax allows, with names that are hard to read.
type tableMaker struct {
	*rand.Rand
	made []string // tables to refer to, each with a column "id"
}

func (m *tableMaker) one(of ...string) string { return of[m.IntN(len(of))] }

// maybe returns a text in one case of n.
func (m *tableMaker) maybe(n int, text string) string {
	if m.IntN(n) > 0 {
		return ""
	}
	return text
}

func (m *tableMaker) quoted(name string) string {
	switch m.IntN(4) {
	case 0:
		return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
	case 1:
		return "`" + strings.ReplaceAll(name, "`", "``") + "`"
	case 2:
		if !strings.Contains(name, "]") {
			return "[" + name + "]"
		}
	}
	if strings.Trim(name, "abcdefghijklmnopqrstuvwxyz_0123456789") == "" {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

// space is what may stand between two words.
func (m *tableMaker) space() string {
	return m.one(" ", " ", " ", "\n", "\t ", " /* ( , ' */ ", " -- it's ) here\n")
}

func (m *tableMaker) table(i int) string {
	name := m.one("berth", "tide gauge", `say "aye"`, "back`tick", "ünter", "select", "a.b", "semi;colon", "x) (y") + fmt.Sprint(i)
	names := []string{"id"}
	for range m.IntN(5) {
		names = append(names, m.one("no", "At Tide", "group", `q"uote`, "depth", "back`tick", "check ", "ä")+fmt.Sprint(len(names)))
	}
	literal := func() string {
		return m.one("1", "-2.5", "'it''s'", "NULL", "CURRENT_TIMESTAMP", "(1 + (2))", "x'0aff'", "('a)b' || ')')", "+7", "TRUE")
	}
	pick := func() string { return m.quoted(names[m.IntN(len(names))]) }
	references := func(column string) string {
		target := m.made[m.IntN(len(m.made))]
		return "REFERENCES" + m.space() + m.quoted(target) + m.maybe(2, m.space()+"("+m.quoted(column)+")") + m.maybe(3, " ON DELETE "+m.one("CASCADE", "SET NULL", "RESTRICT", "NO ACTION", "SET DEFAULT")) +
			m.maybe(3, " ON UPDATE "+m.one("CASCADE", "SET NULL")) + m.maybe(4, " DEFERRABLE INITIALLY DEFERRED")
	}
	var parts []string
	for j, n := range names {
		c := m.quoted(n) + m.space() + m.one("INTEGER", "TEXT", "numeric (4, 1)", "varchar(10)", "UNSIGNED BIG INT", "")
		if j == 0 {
			c += m.space() + "PRIMARY KEY" + m.maybe(3, " ON CONFLICT REPLACE")
		}
		c += m.maybe(3, m.space()+"NOT"+m.space()+"NULL") + m.maybe(3, m.space()+m.maybe(2, "CONSTRAINT d ")+"DEFAULT "+literal()) + m.maybe(4, m.space()+"COLLATE NOCASE") +
			m.maybe(4, m.space()+"CHECK"+m.space()+"("+m.quoted(n)+" <> ')' /* ) */)")
		if j > 0 {
			c += m.maybe(5, m.space()+"UNIQUE")
			if len(m.made) > 0 {
				c += m.maybe(4, m.space()+references("id"))
			}
		}
		parts = append(parts, c)
	}
	if m.IntN(3) == 0 && len(names) > 1 {
		parts = append(parts, m.maybe(2, "CONSTRAINT "+m.quoted("by place")+" ")+"UNIQUE ("+m.quoted(names[1+m.IntN(len(names)-1)])+m.maybe(3, " COLLATE RTRIM")+m.maybe(3, " DESC")+")")
	}
	if m.IntN(3) == 0 && len(m.made) > 0 {
		parts = append(parts, "CONSTRAINT fk FOREIGN KEY ("+pick()+") "+references("id"))
	}
	parts = append(parts, m.maybe(3, "CHECK ("+pick()+" IN (1, 2, '3,4'))"))
	if m.IntN(4) == 0 {
		parts = append(parts[:len(names)], append([]string{"gen AS (length(" + pick() + "))" + m.one("", " STORED", " VIRTUAL")}, parts[len(names):]...)...)
	}
	parts = slices.DeleteFunc(parts, func(p string) bool { return p == "" })
	m.made = append(m.made, name)
	return "CREATE TABLE " + m.quoted(name) + m.space() + "(" + strings.Join(parts, ","+m.space()) + m.space() + ")" + m.maybe(6, " WITHOUT ROWID")
}

// said is what SQLite itself says of a table, by its pragmas; ours is the same of what was read.
func said(t *testing.T, db *sql.DB, table string) []string {
	t.Helper()
	var all []string
	each := func(query string, line func(scan func(...any))) {
		rows, err := db.Query(query, table)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		for rows.Next() {
			line(func(to ...any) {
				if err := rows.Scan(to...); err != nil {
					t.Fatal(err)
				}
			})
		}
		if err := rows.Err(); err != nil {
			t.Fatal(err)
		}
	}
	each("SELECT name, type, \"notnull\", coalesce(dflt_value, ''), pk, hidden FROM pragma_table_xinfo(?)", func(scan func(...any)) {
		var name, typ, preset string
		var notNull bool
		var key, hidden int
		scan(&name, &typ, &notNull, &preset, &key, &hidden)
		if hidden > 1 {
			typ = "" // the pragma adds words of its own
		}
		all = append(all, fmt.Sprintf("column %s %s default %s key %d generated %v", name, squeezed(typ), squeezed(preset), key, hidden > 1))
		if notNull && hidden < 2 {
			all = append(all, "not null "+name)
		}
	})
	// A key that needs no index of its own is the number of the row, and is never null.
	each(`SELECT max(x.name) FROM pragma_table_xinfo(?1) x WHERE x.pk > 0 AND NOT EXISTS (SELECT 1 FROM pragma_index_list(?1) l WHERE l.origin = 'pk') GROUP BY ?1 HAVING count(*) = 1`, func(scan func(...any)) {
		var name string
		scan(&name)
		if line := "not null " + name; !slices.Contains(all, line) {
			all = append(all, line)
		}
	})
	// A reference that names no column is one to the primary key.
	each(`SELECT f.id, f."table", f."from", coalesce(f."to", 'id'), f.on_update, f.on_delete FROM pragma_foreign_key_list(?) f`, func(scan func(...any)) {
		var id int
		var to, from, column, update, remove string
		scan(&id, &to, &from, &column, &update, &remove)
		all = append(all, fmt.Sprintf("reference %s to %s %s update %s delete %s", from, to, column, update, remove))
	})
	each(`SELECT group_concat(i.name, ',') FROM pragma_index_list(?) l, pragma_index_info(l.name) i WHERE l.origin = 'u' GROUP BY l.name`, func(scan func(...any)) {
		var columns string
		scan(&columns)
		all = append(all, "unique "+columns)
	})
	slices.Sort(all)
	return slices.Compact(all) // SQLite makes one index of two equal constraints
}

func squeezed(s string) string { return strings.Join(strings.Fields(s), "") }

func ours(o *schema.Object, withoutRowID bool) []string {
	var all []string
	key := map[string]int{}
	for _, k := range o.Relation.Keys {
		var columns []string
		for i, c := range k.Columns {
			columns = append(columns, c.Column)
			if k.Primary {
				key[c.Column] = i + 1
			}
		}
		if !k.Primary {
			all = append(all, "unique "+strings.Join(columns, ","))
		}
	}
	for _, c := range o.Relation.Columns {
		preset, typ := c.Default, c.Type
		if c.Generated != nil {
			typ = ""
		}
		all = append(all, fmt.Sprintf("column %s %s default %s key %d generated %v", c.Name, squeezed(typ), squeezed(preset), key[c.Name], c.Generated != nil))
		if c.NotNull || withoutRowID && key[c.Name] > 0 {
			all = append(all, "not null "+c.Name)
		}
	}
	action := func(a string) string { return strings.ToUpper(cmp.Or(a, "no action")) }
	for _, f := range o.Relation.ForeignKeys {
		for i, c := range f.Columns {
			to := ""
			if i < len(f.RefColumns) {
				to = f.RefColumns[i]
			}
			all = append(all, fmt.Sprintf("reference %s to %s %s update %s delete %s", c, f.RefTable, to, action(f.OnUpdate), action(f.OnDelete)))
		}
	}
	slices.Sort(all)
	return slices.Compact(all)
}

// What is read of tables from their texts is what SQLite itself made of them.
func TestGeneratedTables(t *testing.T) {
	path := filepath.Join(t.TempDir(), "berths.db")
	db, err := sql.Open("sqlite", path)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	m := &tableMaker{Rand: rand.New(rand.NewPCG(4, 2))}
	texts := map[string]string{}
	for i := range 300 {
		text := m.table(i)
		if _, err := db.Exec(text); err != nil {
			t.Fatalf("%v:\n%s", err, text)
		}
		texts[m.made[i]] = text
	}
	session, err := Engine{}.Connect(context.Background(), engine.Target{URL: "sqlite:" + path})
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	reading, err := session.Read(context.Background(), "berths")
	if err != nil {
		t.Fatal(err)
	}
	if len(reading.Remarks) > 0 || len(reading.Objects) != len(texts) {
		t.Fatalf("%d objects of %d, remarks %+v", len(reading.Objects), len(texts), reading.Remarks)
	}
	for _, o := range reading.Objects {
		text := texts[o.Name]
		want, got := said(t, db, o.Name), ours(o, strings.HasSuffix(text, "WITHOUT ROWID"))
		if !slices.Equal(got, want) {
			t.Errorf("%s\n got %q\nwant %q", text, got, want)
		}
	}
}
