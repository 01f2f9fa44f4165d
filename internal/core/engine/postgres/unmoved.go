package postgres

// A script that changes a database looks first whether that is as it was read.

import (
	"crypto/md5"
	"encoding/hex"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Unmoved implements engine.Changer: one block that raises an exception.
func (Engine) Unmoved(there []*schema.Object, absent []schema.ID) []engine.Statement {
	var b strings.Builder
	b.WriteString("DO $look$\nDECLARE path text := current_setting('search_path');\nBEGIN\n    PERFORM set_config('search_path', 'pg_catalog', true);\n")
	n := 0
	unless := func(condition, said string) {
		n++
		b.WriteString("    IF NOT coalesce((" + condition + "), false) THEN\n        RAISE EXCEPTION USING MESSAGE = " + literal(said+": nothing was changed") + ";\n    END IF;\n")
	}
	for _, o := range there {
		if c := asRead(o); c != "" {
			unless(c, o.ID().Qualified()+" is not as it was read")
		}
	}
	for _, id := range absent {
		if c := missing(id); c != "" {
			unless(c, id.Qualified()+" is there already")
		}
	}
	if n == 0 {
		return nil
	}
	b.WriteString("    PERFORM set_config('search_path', path, true);\nEND $look$")
	text := b.String()
	if strings.Count(text, "$look$") != 2 { // a name holds it
		return nil
	}
	return []engine.Statement{{Head: text}}
}

// asRead returns a condition that holds while an object is as it was read, "" where none is known.
func asRead(o *schema.Object) string {
	name := literal(qualify(o.Schema, o.Name))
	switch {
	case o.Relation != nil && len(o.Relation.Columns) > 0:
		var columns []string
		for _, c := range o.Relation.Columns {
			text := c.Name + " " + c.Type
			if c.NotNull && o.Kind != schema.KindView {
				text += " not null"
			}
			columns = append(columns, text)
		}
		slices.Sort(columns)
		return "SELECT string_agg(x, ', ' ORDER BY x COLLATE \"C\") = " + literal(strings.Join(columns, ", ")) + " FROM (SELECT attname || ' ' || format_type(atttypid, atttypmod) || CASE WHEN attnotnull THEN ' not null' ELSE '' END AS x FROM pg_catalog.pg_attribute WHERE attrelid = to_regclass(" + name + ") AND attnum > 0 AND NOT attisdropped) c"
	case o.Relation != nil, o.Index != nil, o.Sequence != nil:
		return "to_regclass(" + name + ") IS NOT NULL"
	case o.Routine != nil:
		where := " FROM pg_catalog.pg_proc WHERE " + routineNamed(o.ID())
		if body := o.Routine.Body(); body != "" && o.Kind != schema.KindAggregate {
			sum := md5.Sum([]byte(body))
			return "SELECT md5(prosrc) = '" + hex.EncodeToString(sum[:]) + "'" + where
		}
		return "EXISTS (SELECT" + where + ")"
	case o.Trigger != nil:
		return "EXISTS (SELECT FROM pg_catalog.pg_trigger WHERE tgrelid = to_regclass(" + literal(qualify(o.Schema, o.Trigger.Table)) + ") AND tgname = " + literal(o.Name) + ")"
	case o.Enum != nil:
		return "SELECT coalesce(string_agg(enumlabel, E'\\n' ORDER BY enumsortorder), '') = " + literal(strings.Join(o.Enum.Values, "\n")) + " FROM pg_catalog.pg_enum WHERE enumtypid = to_regtype(" + name + ")"
	case o.Kind.IsType():
		return "to_regtype(" + name + ") IS NOT NULL"
	case o.Kind == schema.KindSchema:
		return "to_regnamespace(" + literal(quote(o.Name)) + ") IS NOT NULL"
	}
	return ""
}

// routineNamed returns a condition on pg_proc that holds for one routine.
func routineNamed(id schema.ID) string {
	return "pronamespace = to_regnamespace(" + literal(quote(id.Schema)) + ") AND proname = " + literal(id.Name) + " AND pg_get_function_identity_arguments(oid) = " + literal(id.Signature)
}

// missing returns a condition that holds while there is nothing of a name.
func missing(id schema.ID) string {
	name := literal(qualify(id.Schema, id.Name))
	switch {
	case id.Kind.IsRelation(), id.Kind == schema.KindIndex, id.Kind == schema.KindSequence:
		return "to_regclass(" + name + ") IS NULL"
	case id.Kind.IsRoutine():
		return "NOT EXISTS (SELECT FROM pg_catalog.pg_proc WHERE " + routineNamed(id) + ")"
	case id.Kind.IsType():
		return "to_regtype(" + name + ") IS NULL"
	}
	return ""
}
