package sqlserver

// How an object becomes another version of itself (documentation: "ALTER TABLE", "ALTER SEQUENCE", "CREATE INDEX", "CREATE OR
// ALTER").

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"unicode/utf16"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Change implements engine.Changer.
func (e Engine) Change(was, now *schema.Object, version string) (engine.Alteration, error) {
	anew := engine.Alteration{Anew: true}
	if was.Kind != now.Kind {
		return anew, nil
	}
	made, err := e.Make(was)
	if err != nil {
		return anew, err
	}
	fresh, err := e.Make(now)
	if err != nil {
		return anew, err
	}
	var out engine.Alteration
	switch {
	case now.Kind == schema.KindFileGroup && !engine.SameMain(made, fresh):
		return anew, fmt.Errorf("what the file group holds is changed by hand")
	case now.Routine != nil && numbers(was) != numbers(now):
		return anew, nil
	case now.Kind == schema.KindTable:
		t := tableChange{was: was, now: now, name: qualify(now.Schema, now.Name)}
		if err := t.run(); err != nil {
			return anew, err
		}
		out = t.out
	case engine.SameMain(made, fresh):
	case now.Sequence != nil && was.Sequence != nil && now.Sequence.Type == was.Sequence.Type && now.Sequence.Start == was.Sequence.Start:
		out.Build = []engine.Statement{{Head: alterSequence(now)}}
	case now.Index != nil && was.Index != nil && rebuilds(was.Index, now.Index):
		out.Build = []engine.Statement{{Head: dropExisting(fresh[0].Head), Risks: Engine{}.Price(now)}}
	case now.Kind == schema.KindView && !e.Holds(was) && !e.Holds(now), now.Trigger != nil && was.Within == now.Within, now.Routine != nil && sameReturn(was.Routine, now.Routine) && !e.Holds(was) && !e.Holds(now):
		list, err := e.Replace(now, version)
		if err != nil || len(list) == 0 {
			return anew, err
		}
		list[0].Provides, list[0].Requires, list[0].Wishes = nil, nil, nil
		out.Build = list
	default:
		return anew, nil
	}
	out.Links = append(out.Links, engine.Followers(ownFollowers(made), ownFollowers(fresh), opposite)...)
	for _, list := range [][]engine.Statement{out.Release, out.Build, out.Links} { // indexes and computed columns hang on them as much as when made
		for i := range list {
			list[i].Settings = sessionOf(list[i].Settings)
		}
	}
	return out, nil
}

// numbers returns the further procedures of a name.
func numbers(o *schema.Object) string {
	var b strings.Builder
	for _, p := range o.Settings {
		if strings.HasPrefix(p.Name, numberedProcedure) {
			b.WriteString(p.Name + "\x00" + p.Value + "\x00")
		}
	}
	return b.String()
}

// sameReturn reports whether a routine gives back the same sort of thing: only then can it be altered.
func sameReturn(a, b *schema.Routine) bool {
	table := func(r *schema.Routine) bool { return strings.HasPrefix(strings.ToUpper(r.Returns), "TABLE") }
	return a != nil && a.Language == b.Language && table(a) == table(b)
}

// ownFollowers leaves out of what makes an object the constraints of a table that stand apart: these are compared as such.
func ownFollowers(all []engine.Statement) []engine.Statement {
	return slices.DeleteFunc(slices.Clone(all), func(s engine.Statement) bool {
		return s.Action != engine.Make && strings.HasPrefix(s.Head, "ALTER TABLE ") && !strings.Contains(s.Head, " SET (LOCK_ESCALATION") && !strings.Contains(s.Head, " ENABLE CHANGE_TRACKING")
	})
}

// opposite returns what takes back what follows the making of an object.
func opposite(text string) string {
	switch {
	case strings.HasPrefix(text, "EXEC sys.sp_addextendedproperty "):
		head, tail, ok := strings.Cut(text, ", @value = ")
		if !ok {
			return ""
		}
		levels := ""
		if i := strings.Index(tail, ", @level0type = "); i >= 0 {
			levels = tail[i:]
		}
		return strings.Replace(head, "sp_addextendedproperty", "sp_dropextendedproperty", 1) + levels
	case strings.HasPrefix(text, "GRANT "), strings.HasPrefix(text, "DENY "):
		_, rest, _ := strings.Cut(text, " ")
		passable := strings.HasSuffix(rest, " WITH GRANT OPTION")
		rest = strings.TrimSuffix(rest, " WITH GRANT OPTION")
		i := strings.LastIndex(rest, " TO ")
		if i < 0 {
			return ""
		}
		text = "REVOKE " + rest[:i] + " FROM " + rest[i+len(" TO "):]
		if passable {
			text += " CASCADE"
		}
		return text
	case strings.HasPrefix(text, "REVOKE "): // of a column, while the table has the right
		i := strings.LastIndex(text, " FROM ")
		return "GRANT " + text[len("REVOKE "):i] + " TO " + text[i+len(" FROM "):]
	case strings.HasPrefix(text, "DISABLE TRIGGER "):
		return "ENABLE" + strings.TrimPrefix(text, "DISABLE")
	case strings.HasPrefix(text, "ALTER AUTHORIZATION ON DATABASE::"): // somebody has to own it
		return ""
	case strings.HasPrefix(text, "ALTER DATABASE ["):
		return usualOption(text)
	case strings.HasPrefix(text, "ALTER AUTHORIZATION ON "):
		return text[:strings.LastIndex(text, " TO [")] + " TO SCHEMA OWNER"
	case strings.HasPrefix(text, "EXEC sys.sp_settriggerorder "):
		return strings.NewReplacer("@order = N'First'", "@order = N'None'", "@order = N'Last'", "@order = N'None'").Replace(text)
	case strings.HasPrefix(text, "ALTER INDEX ") && strings.HasSuffix(text, " DISABLE"):
		return strings.TrimSuffix(text, "DISABLE") + "REBUILD"
	case strings.HasPrefix(text, "CREATE FULLTEXT INDEX ON "):
		on, _, _ := strings.Cut(strings.TrimPrefix(text, "CREATE FULLTEXT INDEX ON "), " (")
		return "DROP FULLTEXT INDEX ON " + on
	case strings.Contains(text, " ENABLE CHANGE_TRACKING"):
		table, _, _ := strings.Cut(text, " ENABLE CHANGE_TRACKING")
		return table + " DISABLE CHANGE_TRACKING"
	case strings.HasPrefix(text, "EXEC sys.sp_bindrule "), strings.HasPrefix(text, "EXEC sys.sp_bindefault "):
		verb, _, _ := strings.Cut(strings.TrimPrefix(text, "EXEC sys.sp_bind"), " ")
		return "EXEC sys.sp_unbind" + verb + " " + text[strings.Index(text, "@objname = "):]
	case strings.HasPrefix(text, "ALTER DATABASE CURRENT MODIFY FILEGROUP "):
		if head, ok := strings.CutSuffix(text, " READ_ONLY"); ok {
			return head + " READ_WRITE"
		}
		if head, ok := strings.CutSuffix(text, " AUTOGROW_ALL_FILES"); ok {
			return head + " AUTOGROW_SINGLE_FILE"
		}
		return "ALTER DATABASE CURRENT MODIFY FILEGROUP " + quote(primary) + " DEFAULT"
	case strings.Contains(text, " SET (LOCK_ESCALATION"):
		table, _, _ := strings.Cut(text, " SET (LOCK_ESCALATION")
		return table + " SET (LOCK_ESCALATION = TABLE)"
	}
	return ""
}

func alterSequence(o *schema.Object) string {
	s := o.Sequence
	text := "ALTER SEQUENCE " + qualify(o.Schema, o.Name) + " INCREMENT BY " + s.Increment + " MINVALUE " + s.Min + " MAXVALUE " + s.Max
	if s.Cycle {
		text += " CYCLE"
	} else {
		text += " NO CYCLE"
	}
	switch s.Cache {
	case "":
		return text + " CACHE"
	case "0":
		return text + " NO CACHE"
	}
	return text + " CACHE " + s.Cache
}

// rebuilds reports whether an index can be made anew in the place of the old one.
func rebuilds(was, now *schema.Index) bool {
	plain := func(x *schema.Index) bool { return x.Method == "" || x.Method == "clustered" }
	return plain(was) && plain(now) && (was.Method == now.Method || was.Method == "")
}

// dropExisting adds to the statement of an index that it takes the place of the old one.
func dropExisting(text string) string {
	const option = "DROP_EXISTING = ON"
	if i := strings.LastIndex(text, " WITH ("); i >= 0 {
		return text[:i] + " WITH (" + option + ", " + text[i+len(" WITH ("):]
	}
	if i := strings.LastIndex(text, ") ON "); i >= 0 {
		return text[:i+1] + " WITH (" + option + ")" + text[i+1:]
	}
	return text + " WITH (" + option + ")"
}

// Price implements engine.Pricer.
func (Engine) Price(o *schema.Object) []engine.Risk {
	return append(uniqueRisk(o), engine.Risk{Kind: engine.HoldsUp, Text: "writers of the table while the index is built (ONLINE = ON spares them where the edition has it)"})
}

func uniqueRisk(o *schema.Object) []engine.Risk {
	if !o.Index.Unique {
		return nil
	}
	var columns []string
	for _, p := range o.Index.Columns {
		columns = append(columns, p.Column)
	}
	return []engine.Risk{{Kind: engine.MayFail, Text: "rows that agree in " + list(columns), Query: twins(qualify(o.Schema, o.Index.Table), columns)}}
}

func twins(table string, columns []string) string {
	return "SELECT " + list(columns) + ", COUNT(*) FROM " + table + " GROUP BY " + list(columns) + " HAVING COUNT(*) > 1"
}

// Unmoved implements engine.Changer: what follows is only compiled where something is not as it was read.
func (Engine) Unmoved(there []*schema.Object, absent []schema.ID) []engine.Statement {
	var all []engine.Statement
	unless := func(condition, said string) {
		all = append(all, engine.Statement{Head: "IF NOT (" + condition + ")\nBEGIN\n    RAISERROR (" + literal(strings.ReplaceAll(said, "%", "%%")) + ", 16, 1);\n    SET NOEXEC ON;\nEND"})
	}
	for _, o := range there {
		if c := present(o); c != "" {
			unless(c, o.ID().Qualified()+" is not as it was read: nothing was changed")
		}
	}
	for _, id := range absent {
		if c := exists(id); c != "" {
			unless("NOT "+c, id.Qualified()+" is there already: nothing was changed")
		}
	}
	return all
}

// Wrap implements engine.Wrapper: whatever was found, the session is as before at the end.
func (Engine) Wrap([]*engine.Statement) (first, last []*engine.Statement, prelude string) {
	return nil, []*engine.Statement{{Head: "SET NOEXEC OFF", Alone: true}}, ""
}

func exists(id schema.ID) string {
	name := literal(qualify(id.Schema, id.Name))
	switch {
	case id.Kind == schema.KindSchema:
		return "SCHEMA_ID(" + literal(id.Name) + ") IS NOT NULL"
	case id.Kind == schema.KindIndex:
		return "EXISTS (SELECT 1 FROM sys.indexes WHERE object_id = OBJECT_ID(" + literal(qualify(id.Schema, id.Table)) + ") AND name = " + literal(id.Name) + ")"
	case id.Kind == schema.KindTableType, id.Kind == schema.KindAlias:
		return "TYPE_ID(" + name + ") IS NOT NULL"
	case id.Kind.IsRelation(), id.Kind.IsRoutine(), id.Kind == schema.KindSequence, id.Kind == schema.KindSynonym, id.Kind == schema.KindTrigger:
		return "OBJECT_ID(" + name + ") IS NOT NULL"
	}
	return ""
}

// present returns a condition that holds where an object is as it was read: a table has its columns, a module its text.
func present(o *schema.Object) string {
	text := ""
	switch {
	case o.Kind == schema.KindTable && o.Relation != nil:
		names := make([]string, len(o.Relation.Columns))
		for i, c := range o.Relation.Columns {
			names[i] = literal(c.Name)
		}
		of := "(SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(" + literal(qualify(o.Schema, o.Name)) + ")"
		return fmt.Sprintf("%s) = %d AND %s AND name IN (%s)) = %d", of, len(names), of, strings.Join(names, ", "), len(names))
	case o.Kind == schema.KindView:
		text = o.Relation.Head + o.Relation.Query + o.Relation.Tail
	case o.Routine != nil:
		text = o.Routine.Definition
	case o.Trigger != nil:
		text = o.Trigger.Definition
	}
	if text == "" {
		return exists(o.ID())
	}
	return "HASHBYTES('SHA2_256', OBJECT_DEFINITION(OBJECT_ID(" + literal(qualify(o.Schema, o.Name)) + "))) = 0x" + hashOf(text)
}

// hashOf returns what HASHBYTES gives for a text: of its characters in two bytes each.
func hashOf(text string) string {
	var b []byte
	for _, u := range utf16.Encode([]rune(text)) {
		b = append(b, byte(u), byte(u>>8))
	}
	sum := sha256.Sum256(b)
	return strings.ToUpper(hex.EncodeToString(sum[:]))
}
