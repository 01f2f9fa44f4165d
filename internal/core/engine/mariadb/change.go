package mariadb

// How an object becomes another version of itself (documentation: "ALTER TABLE", "ALTER SEQUENCE", "CREATE OR REPLACE").

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Change implements engine.Changer.
func (e Engine) Change(was, now *schema.Object, _ string) (engine.Alteration, error) {
	made, err := e.Make(was)
	if err != nil {
		return engine.Alteration{}, err
	}
	fresh, err := e.Make(now)
	if err != nil {
		return engine.Alteration{}, err
	}
	if was.Kind != now.Kind {
		return engine.Alteration{Anew: true}, nil
	}
	var out engine.Alteration
	switch {
	case now.Kind == schema.KindTable:
		if out, err = e.changeTable(was, now); err != nil {
			return out, err
		}
	case now.Trigger != nil && was.Setting("order") != now.Setting("order"):
		return engine.Alteration{Anew: true}, nil
	case now.Index != nil && was.Index != nil && onlyHidden(was, now):
		word := e.seen()[0]
		if hiddenIndex(now) {
			word = e.seen()[1]
		}
		out.Build = []engine.Statement{{Head: "ALTER TABLE " + quote(now.Index.Table) + " ALTER INDEX " + quote(now.Name) + " " + word, Settings: usual}}
		return out, nil
	case engine.SameMain(made, fresh):
	case now.Index != nil:
		words, columns := indexItem(now)
		out.Build = []engine.Statement{{Head: "ALTER TABLE " + quote(now.Index.Table) + " DROP INDEX " + quote(now.Name) + ", ADD " + words + "INDEX " + quote(now.Name) + " " + columns, Settings: usual, Risks: indexRisks(now)}}
		return out, nil
	case now.Sequence != nil:
		out.Build = changeSequence(was.Sequence, now, strings.TrimPrefix(fresh[0].Head, "CREATE "))
	case now.Trigger != nil:
		return engine.Alteration{Anew: true}, nil
	case e.replaces(now.Kind):
		for _, s := range fresh {
			if s.Action == engine.Make {
				s.Head = "CREATE OR REPLACE" + strings.TrimPrefix(s.Head, "CREATE")
				s.Provides, s.Requires, s.Wishes = nil, nil, nil
				out.Build = append(out.Build, s)
			}
		}
		if now.Kind != schema.KindView && now.Kind != schema.KindEvent { // rights on a routine go with its old definition
			for _, s := range fresh {
				if s.Action != engine.Make {
					s.Provides, s.Requires, s.Wishes = nil, nil, nil
					out.Build = append(out.Build, s)
				}
			}
			return out, nil
		}
	default:
		return engine.Alteration{Anew: true}, nil
	}
	out.Links = append(out.Links, engine.Followers(made, fresh, revoked)...)
	return out, nil
}

// changeSequence alters a sequence; its type is altered by itself, before its limits where these grow, else behind them.
func changeSequence(was *schema.Sequence, now *schema.Object, text string) []engine.Statement {
	q := now.Sequence
	if q.Type != "" {
		text = strings.Replace(text, " AS "+q.Type+" START WITH ", " START WITH ", 1)
	}
	if !q.Cycle {
		text += " NOCYCLE"
	}
	all := []engine.Statement{{Head: "ALTER " + text, Settings: usual}}
	if was == nil || was.Type == q.Type {
		return all
	}
	same := *was
	if same.Type = q.Type; same == *q {
		all = nil
	}
	typed := []engine.Statement{
		// MariaDB 11.8 takes keys of what the connection altered before for those of the sequence (error 4086): after another change of it, it does not.
		{Head: "ALTER TABLE " + quote(now.Name) + " COMMENT=" + literal(now.Comment), Settings: usual},
		{Head: "ALTER SEQUENCE " + quote(now.Name) + " AS " + cmp.Or(q.Type, "bigint"), Settings: usual},
	}
	if len(q.Max) > len(was.Max) || len(q.Max) == len(was.Max) && q.Max > was.Max {
		return append(typed, all...)
	}
	return append(all, typed...)
}

// seen returns how the server calls an index that it makes use of, and one that it does not.
func (e Engine) seen() [2]string {
	if e.mysql {
		return [2]string{"VISIBLE", "INVISIBLE"}
	}
	return [2]string{"NOT IGNORED", "IGNORED"}
}

// hiddenIndex reports whether the server makes no use of an index.
func hiddenIndex(o *schema.Object) bool {
	return schema.SettingOf(o.Index.Settings, "ignored") != "" || schema.SettingOf(o.Index.Settings, invisibleIndex) != ""
}

// onlyHidden reports whether two indexes differ only in that the server makes use of one of them: an index that is dropped and made
// again in one statement stays as it is in that.
func onlyHidden(was, now *schema.Object) bool {
	a, b := *was.Index, *now.Index
	strip := func(x *schema.Index) {
		x.Settings = slices.DeleteFunc(slices.Clone(x.Settings), func(p schema.Property) bool { return p.Name == "ignored" || p.Name == invisibleIndex })
	}
	strip(&a)
	strip(&b)
	x, y := *was, *now
	x.Index, y.Index = &a, &b
	return hiddenIndex(was) != hiddenIndex(now) && len(schema.Compare(&x, &y, schema.ModelVersion, schema.ModelVersion)) == 0
}

// Price implements engine.Pricer: ordinary indexes are built beside readers and writers (documentation: "InnoDB Online DDL
// Operations with the INPLACE Alter Algorithm").
func (Engine) Price(o *schema.Object) []engine.Risk {
	risks := indexRisks(o)
	if m := strings.ToLower(o.Index.Method); m == "fulltext" || m == "spatial" || m == "vector" {
		risks = append(risks, engine.Risk{Kind: engine.HoldsUp, Text: "writers of " + o.Index.Table + ", while it is built (LOCK=SHARED)"})
	}
	return risks
}

func indexRisks(o *schema.Object) []engine.Risk {
	if !o.Index.Unique {
		return nil
	}
	all := valuesOf(o.Index.Columns)
	return []engine.Risk{{Kind: engine.MayFail, Text: "rows that agree in " + all, Query: "SELECT " + all + ", count(*) FROM " + quote(o.Index.Table) + " GROUP BY " + all + " HAVING count(*) > 1"}}
}

// valuesOf returns what the parts of a key hold, as a list for a query.
func valuesOf(parts []schema.KeyPart) string {
	var all []string
	for _, p := range parts {
		if p.Expression != "" {
			all = append(all, "("+p.Expression+")")
		} else {
			all = append(all, quote(p.Column))
		}
	}
	return strings.Join(all, ", ")
}

// revoked returns what takes a grant back.
func revoked(text string) string {
	if !strings.HasPrefix(text, "GRANT ") {
		return ""
	}
	passable := strings.HasSuffix(text, " WITH GRANT OPTION")
	text = strings.TrimSuffix(text, " WITH GRANT OPTION")
	on, to := -1, -1
	for _, t := range sqltext.Tokens(text, rules()) {
		switch word := text[t.Start:t.End]; {
		case t.Kind == sqltext.Word && word == "ON" && on < 0:
			on = t.Start
		case t.Kind == sqltext.Word && word == "TO":
			to = t.Start
		}
	}
	if on < 0 || to < on {
		return ""
	}
	words := strings.TrimSpace(text[len("GRANT "):on])
	if passable {
		words += ", GRANT OPTION"
	}
	return "REVOKE " + words + " " + text[on:to] + "FROM" + text[to+2:]
}

// changeTable alters a table in few statements: what loses data stands apart.
func (e Engine) changeTable(was, now *schema.Object) (engine.Alteration, error) {
	for _, name := range []string{"period", "system period"} {
		if was.Setting(name) != now.Setting(name) {
			return engine.Alteration{}, fmt.Errorf("the periods of a table are changed by hand (%s)", name)
		}
	}
	t := tableChange{mysql: e.mysql, was: was, now: now, alter: "ALTER TABLE " + quote(now.Name) + " "}
	t.foreignKeys()
	t.columns()
	t.keys()
	t.checks()
	t.options()
	if len(t.actions) > 0 {
		t.out.Build = append(t.out.Build, engine.Statement{Head: t.alter + strings.Join(t.actions, ", "), Settings: usual, Risks: t.risks})
	}
	for _, text := range t.apart {
		t.out.Build = append(t.out.Build, engine.Statement{Head: t.alter + text, Settings: usual, Risks: []engine.Risk{{Kind: engine.Rewrites, Text: "nobody writes meanwhile"}}})
	}
	return t.out, nil
}

type tableChange struct {
	mysql    bool
	was, now *schema.Object
	alter    string
	actions  []string
	apart    []string
	risks    []engine.Risk
	out      engine.Alteration
}

func (t *tableChange) risk(kind engine.RiskKind, text, query string) {
	t.risks = append(t.risks, engine.Risk{Kind: kind, Text: text, Query: query})
}

func (t *tableChange) foreignKeys() {
	old, now := t.was.Relation.ForeignKeys, t.now.Relation.ForeignKeys
	item := func(o *schema.Object, f schema.ForeignKey) string { s := foreignKey(o, f); return s.Item }
	for _, f := range old {
		if !slices.ContainsFunc(now, func(n schema.ForeignKey) bool { return item(t.now, n) == item(t.was, f) }) {
			t.out.Release = append(t.out.Release, engine.Statement{Head: t.alter + "DROP FOREIGN KEY " + quote(f.Name), Settings: usual})
		}
	}
	for _, f := range now {
		if slices.ContainsFunc(old, func(o schema.ForeignKey) bool { return item(t.was, o) == item(t.now, f) }) {
			continue
		}
		s := foreignKey(t.now, f)
		var on, set []string
		for i, c := range f.Columns {
			set = append(set, "a."+quote(c)+" IS NOT NULL")
			if i < len(f.RefColumns) {
				on = append(on, "b."+quote(f.RefColumns[i])+" = a."+quote(c))
			}
		}
		query := "SELECT a.* FROM " + quote(t.now.Name) + " a WHERE " + strings.Join(set, " AND ") + " AND NOT EXISTS (SELECT 1 FROM " + quote(f.RefTable) + " b WHERE " + strings.Join(on, " AND ") + ")"
		t.out.Links = append(t.out.Links, engine.Statement{Head: s.Apart.Head, Settings: usual, Wishes: s.Requires, Risks: []engine.Risk{{Kind: engine.MayFail, Text: "rows that refer to nothing", Query: query},
			{Kind: engine.HoldsUp, Text: "writers, while the rows are looked at and copied (ALGORITHM=COPY)"}}})
	}
}

func (t *tableChange) columns() {
	old, now := t.was.Relation, t.now.Relation
	var kept, wanted []string
	for i := range old.Columns {
		c := &old.Columns[i]
		if now.Column(c.Name) != nil {
			kept = append(kept, c.Name)
			continue
		}
		if c.Identity != nil { // its index could not go before it otherwise
			plain := *c
			plain.Identity = nil
			t.out.Release = append(t.out.Release, engine.Statement{Head: t.alter + "MODIFY COLUMN " + column(old, &plain), Settings: usual})
		}
		var risks []engine.Risk
		if c.Generated == nil {
			risks = append(risks, engine.Risk{Kind: engine.Loses, Text: "the values of " + c.Name, Query: "SELECT count(" + quote(c.Name) + ") FROM " + quote(t.now.Name)})
		}
		t.out.Links = append([]engine.Statement{{Head: t.alter + "DROP COLUMN " + quote(c.Name), Settings: usual, Risks: risks}}, t.out.Links...)
	}
	for i := range now.Columns {
		if old.Column(now.Columns[i].Name) != nil {
			wanted = append(wanted, now.Columns[i].Name)
		}
	}
	moved := !slices.Equal(kept, wanted)
	place := " FIRST"
	for i := range now.Columns {
		n := &now.Columns[i]
		c := old.Column(n.Name)
		switch {
		case c == nil:
			t.actions = append(t.actions, "ADD COLUMN "+column(now, n)+place)
			if n.NotNull && n.Default == "" && n.Generated == nil && n.Identity == nil {
				t.risk(engine.Differs, "rows that are there get the zero of its type for "+n.Name, "")
			}
			if t.mysql && strings.HasPrefix(n.Default, "(") {
				t.risk(engine.HoldsUp, "writers, while each row gets its "+n.Name+" (LOCK=SHARED)", "")
			}
			if n.Generated != nil && n.Generated.Stored {
				t.risk(engine.Rewrites, "each row gets a value for "+n.Name+"; nobody writes meanwhile", "")
			}
		case column(old, c) != column(now, n) || moved:
			t.modify(c, n, place, moved)
		}
		place = " AFTER " + quote(n.Name)
	}
}

func (t *tableChange) modify(c, n *schema.Column, place string, moved bool) {
	text := "MODIFY COLUMN " + column(t.now.Relation, n)
	if moved {
		text += place
	}
	if c.Generated != nil && n.Generated == nil || c.Generated == nil && n.Generated != nil || c.Generated != nil && n.Generated != nil && c.Generated.Stored != n.Generated.Stored {
		if c.Generated == nil {
			t.out.Build = append(t.out.Build, engine.Statement{Head: t.alter + "DROP COLUMN " + quote(c.Name), Settings: usual, Risks: []engine.Risk{{Kind: engine.Loses, Text: "the values of " + c.Name}}})
			t.actions = append(t.actions, "ADD COLUMN "+column(t.now.Relation, n)+place)
			return
		}
		if c.Generated.Stored != (n.Generated == nil || n.Generated.Stored) || n.Generated != nil {
			t.actions = append(t.actions, "DROP COLUMN "+quote(c.Name), "ADD COLUMN "+column(t.now.Relation, n)+place)
			return
		}
	}
	t.actions = append(t.actions, text)
	if t.mysql && (c.Identity == nil) != (n.Identity == nil) {
		t.risk(engine.HoldsUp, "writers, while the rows are copied, unless there are none (ALGORITHM=COPY)", "")
	}
	if c.Generated != nil && n.Generated != nil && n.Generated.Stored && c.Generated.Expression != n.Generated.Expression {
		t.risk(engine.Rewrites, "each row gets another value for "+n.Name+"; nobody writes meanwhile", "")
	}
	if c.Type != n.Type || c.Collation != n.Collation {
		t.risk(engine.MayFail, "values of "+n.Name+" that are no "+n.Type+"; where sql_mode is not strict they are cut", "")
		t.risk(engine.Rewrites, "nobody writes meanwhile, unless "+n.Type+" only takes more than "+c.Type, "")
	}
	if n.NotNull && !c.NotNull {
		t.risk(engine.MayFail, "rows that have no value for "+n.Name, "SELECT * FROM "+quote(t.now.Name)+" WHERE "+quote(n.Name)+" IS NULL")
	}
}

func (t *tableChange) keys() {
	text := func(k schema.Key) string {
		words := "UNIQUE KEY " + quote(k.Name) + " "
		if k.Primary {
			words = "PRIMARY KEY "
		}
		parts := keyParts(k.Columns)
		if schema.SettingOf(k.Settings, "without overlaps") != "" {
			parts = strings.TrimSuffix(parts, ")") + " WITHOUT OVERLAPS)"
		}
		return words + parts + keyTail(schema.SettingOf(k.Settings, "method"), k.Settings, k.Comment)
	}
	old, now := t.was.Relation.Keys, t.now.Relation.Keys
	for _, k := range old {
		if slices.ContainsFunc(now, func(n schema.Key) bool { return text(n) == text(k) }) {
			continue
		}
		if k.Primary {
			t.actions = append(t.actions, "DROP PRIMARY KEY")
		} else {
			t.actions = append(t.actions, "DROP KEY "+quote(k.Name))
		}
		t.out.Keys = append(t.out.Keys, k.ColumnNames())
	}
	for _, k := range now {
		if slices.ContainsFunc(old, func(o schema.Key) bool { return text(o) == text(k) }) {
			continue
		}
		t.actions = append(t.actions, "ADD "+text(k))
		if t.mysql && slices.ContainsFunc(k.Columns, func(p schema.KeyPart) bool { return p.Expression != "" }) {
			t.risk(engine.HoldsUp, "writers, while its expression is worked out for each row (LOCK=SHARED)", "")
		}
		names := valuesOf(k.Columns)
		t.risk(engine.MayFail, "rows that agree in "+names, "SELECT "+names+", count(*) FROM "+quote(t.now.Name)+" GROUP BY "+names+" HAVING count(*) > 1")
	}
}

func (t *tableChange) checks() {
	same := func(a, b schema.Check) bool {
		return a.Name == b.Name && a.Expression == b.Expression && a.Column == b.Column
	}
	enforced := func(k schema.Check) bool { return schema.SettingOf(k.Settings, notEnforced) == "" }
	for _, k := range t.was.Relation.Checks {
		if k.Column == "" && !slices.ContainsFunc(t.now.Relation.Checks, func(n schema.Check) bool { return same(n, k) }) {
			t.out.Release = append(t.out.Release, engine.Statement{Head: t.alter + "DROP CONSTRAINT " + quote(k.Name), Settings: usual})
		}
	}
	for _, k := range t.now.Relation.Checks {
		if k.Column != "" {
			continue
		}
		risks := []engine.Risk{{Kind: engine.MayFail, Text: "rows that do not fulfil it", Query: "SELECT * FROM " + quote(t.now.Name) + " WHERE NOT (" + k.Expression + ")"},
			{Kind: engine.HoldsUp, Text: "writers, while the rows are copied (ALGORITHM=COPY)"}}
		text, tail := "ADD CONSTRAINT "+quote(k.Name)+" CHECK ("+k.Expression+")", ""
		if !enforced(k) {
			tail, risks = " NOT ENFORCED", nil
		}
		if i := slices.IndexFunc(t.was.Relation.Checks, func(o schema.Check) bool { return same(o, k) }); i >= 0 {
			if enforced(t.was.Relation.Checks[i]) == enforced(k) {
				continue
			}
			if text = "ALTER CHECK " + quote(k.Name); tail == "" {
				tail = " ENFORCED"
			}
		}
		t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + text + tail, Settings: usual, Risks: risks})
	}
}

// noOption is what takes an option of a table back (documentation: "CREATE TABLE", table options).
var noOption = map[string]string{"ROW_FORMAT": "DEFAULT", "PACK_KEYS": "DEFAULT", "STATS_PERSISTENT": "DEFAULT", "STATS_AUTO_RECALC": "DEFAULT", "STATS_SAMPLE_PAGES": "DEFAULT", "PAGE_CHECKSUM": "1",
	"CONNECTION": "''", "PAGE_COMPRESSED": "0", "ENCRYPTED": "DEFAULT", "ENCRYPTION": "'N'", "COMPRESSION": "''"}

func (t *tableChange) options() {
	if a, b := t.was.Setting("engine"), t.now.Setting("engine"); a != b {
		t.actions = append(t.actions, "ENGINE="+b)
		t.risk(engine.Rewrites, "nobody writes meanwhile", "")
	}
	if a, b := t.was.Setting("collation"), t.now.Setting("collation"); a != b {
		t.actions = append(t.actions, "COLLATE="+b)
	}
	for _, w := range []struct{ setting, word, none string }{{"tablespace", "TABLESPACE ", "`innodb_file_per_table`"}, {"autoextend size", "AUTOEXTEND_SIZE=", "0"}, {"union", "UNION=", "()"}, {"insert method", "INSERT_METHOD=", "NO"},
		{"connection", "CONNECTION=", "''"}, {"transactional", "TRANSACTIONAL=", "0"}} {
		switch a, b := t.was.Setting(w.setting), t.now.Setting(w.setting); {
		case a == b:
		case b == "":
			t.actions = append(t.actions, w.word+w.none)
		case w.setting == "tablespace":
			t.actions = append(t.actions, w.word+quote(b))
			t.risk(engine.Rewrites, "nobody writes meanwhile", "")
		default:
			t.actions = append(t.actions, w.word+b)
		}
	}
	if a, b := t.was.Setting("options"), t.now.Setting("options"); a != b {
		for _, word := range strings.Fields(a) {
			name, _, _ := strings.Cut(word, "=")
			if has := slices.ContainsFunc(strings.Fields(b), func(w string) bool { return strings.HasPrefix(strings.ToUpper(w), strings.ToUpper(name)+"=") }); !has {
				value := noOption[strings.ToUpper(name)]
				if value == "" {
					value = "0"
				}
				t.actions = append(t.actions, name+"="+value)
			}
		}
		if b != "" {
			t.actions = append(t.actions, b)
		}
	}
	if t.was.Comment != t.now.Comment {
		t.actions = append(t.actions, "COMMENT="+literal(t.now.Comment))
	}
	if a, b := t.was.Setting("system versioning"), t.now.Setting("system versioning"); a != b {
		if b == "" {
			t.out.Links = append(t.out.Links, engine.Statement{Head: t.alter + "DROP SYSTEM VERSIONING", Settings: usual, Risks: []engine.Risk{{Kind: engine.Loses, Text: "the history of the rows"}}})
		} else {
			t.apart = append(t.apart, "ADD SYSTEM VERSIONING")
		}
	}
	if a, b := t.was.Setting("partition by"), t.now.Setting("partition by"); a != b {
		if b == "" {
			t.apart = append(t.apart, "REMOVE PARTITIONING")
		} else {
			t.apart = append(t.apart, "PARTITION BY "+b)
		}
	}
}

// Unmoved implements engine.Changer: a block that signals. MySQL has none outside of routines.
func (e Engine) Unmoved(there []*schema.Object, absent []schema.ID) []engine.Statement {
	var b strings.Builder
	b.WriteString("BEGIN NOT ATOMIC\n")
	n := 0
	apart := []engine.Statement{mysqlLong()}
	unless := func(condition, said string) {
		n++
		if len(said) > 100 {
			said = strings.ToValidUTF8(said[:100], "")
		}
		if e.mysql {
			apart = append(apart, mysqlUnless(condition, said))
			return
		}
		b.WriteString("    IF NOT coalesce(" + condition + ", 0) THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = " + literal(said) + "; END IF;\n")
	}
	named := func(id schema.ID) string {
		switch {
		case id.Kind == schema.KindTable || id.Kind == schema.KindView || id.Kind == schema.KindSequence:
			return "EXISTS (SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = " + literal(id.Name) + ")"
		case id.Kind == schema.KindTrigger:
			return "EXISTS (SELECT 1 FROM information_schema.triggers WHERE trigger_schema = DATABASE() AND trigger_name = " + literal(id.Name) + ")"
		case id.Kind == schema.KindEvent:
			return "EXISTS (SELECT 1 FROM information_schema.events WHERE event_schema = DATABASE() AND event_name = " + literal(id.Name) + ")"
		case id.Kind.IsRoutine():
			return "EXISTS (SELECT 1 FROM information_schema.routines WHERE routine_schema = DATABASE() AND routine_name = " + literal(id.Name) + ")"
		}
		return ""
	}
	for _, o := range there {
		c := named(o.ID())
		if o.Kind == schema.KindTable && len(o.Relation.Columns) > 0 {
			var names []string
			for _, x := range o.Relation.Columns {
				names = append(names, x.Name)
			}
			c = "(SELECT GROUP_CONCAT(column_name ORDER BY ordinal_position SEPARATOR ', ') FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = " + literal(o.Name) + ") = " + literal(strings.Join(names, ", "))
		}
		if c != "" {
			unless(c, o.ID().Qualified()+" is not as it was read: nothing was changed")
		}
	}
	for _, id := range absent {
		if c := named(id); c != "" {
			unless("NOT "+c, id.Qualified()+" is there already: nothing was changed")
		}
	}
	if n == 0 {
		return nil
	}
	if e.mysql {
		return apart
	}
	b.WriteString("END")
	return []engine.Statement{{Head: b.String(), Compound: true, Settings: usual}}
}
