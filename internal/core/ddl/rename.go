package ddl

// Renames of schemas, databases and owners are made in the objects before they are written: in fields as such, in texts at
// qualifiers.

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Renames give other names to databases, schemas and owners; old to new.
type Renames struct {
	Containers map[string]string // databases or schemas: whatever stands in front of names
	Owners     map[string]string

	used     map[string]bool // the old names that were met
	database string          // whose texts they are
}

// RenameError says that nothing bears the old name of a renaming.
type RenameError struct {
	Old   string
	Word  string   // "schema or database", "owner"
	Known []string // the names that there are
}

func (e *RenameError) Error() string {
	const most = 12
	known := e.Known
	if len(known) > most {
		known = append(slices.Clone(known[:most]), fmt.Sprintf("and %d more", len(e.Known)-most))
	}
	if len(known) == 0 {
		return fmt.Sprintf("nothing in the script has a %s, so none is called %q", e.Word, e.Old)
	}
	return fmt.Sprintf("no %s is called %q; there is %s", e.Word, e.Old, strings.Join(known, ", "))
}

// to returns the new name of a container.
func (r *Renames) to(old string) (string, bool) {
	to, ok := r.Containers[old]
	if ok {
		r.used[old] = true
	}
	return to, ok
}

// owner returns the new name of an owner or grantee.
func (r *Renames) owner(old string) (string, bool) {
	to, ok := r.Owners[old]
	if ok {
		r.used["owner:"+old] = true
	}
	return to, ok
}

// check reports an old name that was not met and that none of those that are known bears.
func (r *Renames) check(containers, owners []string) error {
	for _, old := range slices.Sorted(maps.Keys(r.Containers)) {
		if !r.used[old] && !slices.Contains(containers, old) {
			return &RenameError{old, "schema or database", containers}
		}
	}
	for _, old := range slices.Sorted(maps.Keys(r.Owners)) {
		if !r.used["owner:"+old] && !slices.Contains(owners, old) {
			return &RenameError{old, "owner", owners}
		}
	}
	return nil
}

// ParseRename adds a renaming that is written OLD=NEW or owner:OLD=NEW; double quotes protect a sign of
// equality.
func (r *Renames) ParseRename(s string) error {
	rest, owner := strings.CutPrefix(s, "owner:")
	for _, word := range []string{"schema:", "database:"} {
		rest = strings.TrimPrefix(rest, word)
	}
	var parts []string
	for rest != "" || len(parts) == 1 {
		var name string
		if strings.HasPrefix(rest, `"`) {
			end := strings.Index(rest[1:], `"`)
			if end < 0 {
				return fmt.Errorf("%q: a double quote is not closed", s)
			}
			name, rest = rest[1:end+1], rest[end+2:]
		} else {
			end := strings.IndexByte(rest, '=')
			if end < 0 {
				end = len(rest)
			}
			name, rest = rest[:end], rest[end:]
		}
		parts = append(parts, name)
		if rest == "" {
			break
		}
		if rest[0] != '=' {
			return fmt.Errorf("%q: = is missing behind a quoted name", s)
		}
		rest = rest[1:]
	}
	if len(parts) != 2 || parts[0] == "" || parts[1] == "" {
		return fmt.Errorf("%q is no renaming; write OLD=NEW, or owner:OLD=NEW", s)
	}
	to := &r.Containers
	if owner {
		to = &r.Owners
	}
	if *to == nil {
		*to = map[string]string{}
	}
	(*to)[parts[0]] = parts[1]
	return nil
}

func (r *Renames) container(name string) string {
	if to, ok := r.to(name); ok {
		return to
	}
	return name
}

// needs returns what is needed as it is called after the renaming.
func (r *Renames) needs(all []need, e engine.Engine) []need {
	if len(r.Containers) == 0 {
		return all
	}
	all = slices.Clone(all)
	for i := range all {
		all[i].id = r.id(all[i].id, e)
	}
	return all
}

// requalifyAll renames the qualifiers in a text that holds nothing else before dots.
func (r *Renames) requalifyAll(text string, e engine.Engine) string {
	if text == "" {
		return ""
	}
	return sqltext.RequalifyAll(text, e.Traits().Rules, func(q string) (string, bool) {
		to, ok := r.to(q)
		return e.Quote(to), ok
	})
}

// requalify renames the qualifiers in a text.
func (r *Renames) requalify(text string, e engine.Engine) string {
	if text == "" {
		return ""
	}
	return sqltext.RequalifyIn(text, e.Traits().Rules, r.database, func(q string) (string, bool) {
		to, ok := r.to(q)
		return e.Quote(to), ok
	})
}

func (r *Renames) id(id schema.ID, e engine.Engine) schema.ID {
	id.Schema = r.container(id.Schema)
	id.Signature = r.requalifyAll(id.Signature, e)
	if id.Kind == schema.KindCast || id.Kind == schema.KindTransform { // called after types
		id.Name = r.requalifyAll(id.Name, e)
	}
	if id.Kind == schema.KindSchema {
		id.Name = r.container(id.Name)
	}
	return id
}

// Apply renames in an object that is read, as a script would write it.
func (r *Renames) Apply(o *schema.Object, e engine.Engine) {
	if r.used == nil {
		r.used = map[string]bool{}
	}
	r.object(o, e)
}

// Used reports whether something was called by an old name.
func (r *Renames) Used(old string) bool { return r.used[old] || r.used["owner:"+old] }

// object renames an object and everything in its texts that refers to what is renamed.
func (r *Renames) object(o *schema.Object, e engine.Engine) {
	if to, ok := r.owner(o.Owner); ok {
		o.Owner = to
	}
	for i := range o.Grants {
		if to, ok := r.owner(o.Grants[i].Grantee); ok {
			o.Grants[i].Grantee = to
		}
	}
	if o.Policy != nil {
		for i, role := range o.Policy.Roles {
			if to, ok := r.owner(role); ok {
				o.Policy.Roles[i] = to
			}
		}
	}
	if len(r.Containers) == 0 {
		return
	}
	id := r.id(o.ID(), e)
	o.Schema, o.Name, o.Signature = id.Schema, id.Name, id.Signature
	text := func(fields ...*string) {
		for _, f := range fields {
			*f = r.requalify(*f, e)
		}
	}
	// name renames the qualifier of a type, a collation or an operator class.
	name := func(f *string) {
		for old, to := range r.Containers {
			quoted := e.Quote(old) + "."
			if at := strings.Index(*f, quoted); at == 0 || at > 0 && (*f)[at-1] == ' ' && strings.Contains((*f)[:at], "(") { // in the brackets of a type, too
				r.used[old] = true
				*f = (*f)[:at] + e.Quote(to) + "." + (*f)[at+len(quoted):]
				return
			}
		}
	}
	parts := func(list []schema.KeyPart) {
		for i := range list {
			text(&list[i].Expression)
			name(&list[i].Collation)
			name(&list[i].OpClass)
		}
	}
	if o.Relation != nil {
		r.relation(o.Relation, text, name)
	}
	r.types(o, e, text, name)
	if o.Index != nil {
		parts(o.Index.Columns)
		text(&o.Index.Where)
	}
	if o.Trigger != nil {
		text(&o.Trigger.Body, &o.Trigger.When, &o.Trigger.Definition)
	}
	r.settings(o, e, text, name)
	if o.Definition != "" {
		switch o.Kind {
		case schema.KindRule, schema.KindPolicy, schema.KindEvent:
			text(&o.Definition)
		default:
			o.Definition = r.requalifyAll(o.Definition, e)
		}
	}
	if o.Routine != nil {
		r.routine(o.Routine, text, e)
	}
}

// settings renames in the settings of an object that name others.
func (r *Renames) settings(o *schema.Object, e engine.Engine, text func(...*string), name func(*string)) {
	for i := range o.Settings {
		switch o.Settings[i].Name {
		case "schema":
			o.Settings[i].Value = r.container(o.Settings[i].Value)
		case "of type", "history table":
			o.Settings[i].Value = r.requalifyAll(o.Settings[i].Value, e)
		case "bound rule", "bound default":
			name(&o.Settings[i].Value)
		default:
			if strings.HasPrefix(o.Settings[i].Name, "numbered ") {
				text(&o.Settings[i].Value)
			}
		}
	}
}

// types renames in the bodies of types and synonyms.
func (r *Renames) types(o *schema.Object, e engine.Engine, text func(...*string), name func(*string)) {
	if o.Event != nil {
		text(&o.Event.Body)
	}
	if o.Policy != nil {
		text(&o.Policy.Using, &o.Policy.Check)
	}
	if o.Synonym != nil && o.Synonym.Server+o.Synonym.Database == "" {
		o.Synonym.Schema = r.container(o.Synonym.Schema)
	}
	if a := o.Aggregate; a != nil {
		a.Arguments = r.requalifyAll(a.Arguments, e)
		for i := range a.Clauses {
			a.Clauses[i].Value = r.requalifyAll(a.Clauses[i].Value, e)
		}
	}
	if o.Composite != nil {
		for i := range o.Composite.Attributes {
			name(&o.Composite.Attributes[i].Type)
			name(&o.Composite.Attributes[i].Collation)
		}
	}
	if d := o.Domain; d != nil {
		name(&d.Type)
		name(&d.Collation)
		text(&d.Default)
		for i := range d.Checks {
			text(&d.Checks[i].Expression)
		}
	}
}

// relation renames in the parts of a table or a view.
func (r *Renames) relation(rel *schema.Relation, text func(...*string), name func(*string)) {
	text(&rel.Head, &rel.Query)
	for i := range rel.Columns {
		c := &rel.Columns[i]
		name(&c.Type)
		name(&c.Collation)
		text(&c.Default)
		if c.Generated != nil {
			text(&c.Generated.Expression)
		}
		for k := range c.Settings {
			if bound := c.Settings[k].Name; bound == "bound rule" || bound == "bound default" {
				name(&c.Settings[k].Value)
			}
		}
	}
	for i := range rel.ForeignKeys {
		rel.ForeignKeys[i].RefSchema = r.container(rel.ForeignKeys[i].RefSchema)
	}
	for i := range rel.Checks {
		text(&rel.Checks[i].Expression)
	}
	for i := range rel.Exclusions {
		text(&rel.Exclusions[i].Definition)
	}
	for i := range rel.Parents {
		rel.Parents[i].Schema = r.container(rel.Parents[i].Schema)
		text(&rel.Parents[i].Bound)
	}
}

// routine renames in the head and the body of a routine.
func (r *Renames) routine(f *schema.Routine, text func(...*string), e engine.Engine) {
	rules := e.Traits().Rules
	header, body := f.Definition, ""
	for _, t := range sqltext.Tokens(header, rules) { // types and names alone stand before LANGUAGE
		if t.Kind == sqltext.Word && strings.EqualFold(header[t.Start:t.End], "language") {
			header, body = header[:t.Start], header[t.Start:]
			break
		}
	}
	if body == "" {
		header, body = "", header
	}
	text(&body)
	f.Definition = r.requalifyAll(header, e) + r.strings(r.searchPath(body, rules), rules, text)
	engine.SetHead(f, rules)
	f.Returns = r.requalifyAll(f.Returns, e)
}

// searchPath renames in the clause SET search_path of a routine, which lists schemas as strings.
func (r *Renames) searchPath(text string, rules sqltext.Rules) string {
	tokens := sqltext.Tokens(text, rules)
	word := func(i int) string { return text[tokens[i].Start:tokens[i].End] }
	var b strings.Builder
	done := 0
	for i := range tokens {
		if !strings.EqualFold(word(i), "search_path") || i+1 >= len(tokens) {
			continue
		}
		for j := i + 2; j < len(tokens) && (tokens[j].Kind == sqltext.String || word(j) == ","); j++ {
			if inner := strings.Trim(word(j), "'"); r.container(inner) != inner {
				b.WriteString(text[done:tokens[j].Start] + "'" + r.container(inner) + "'")
				done = tokens[j].End
			}
		}
		break
	}
	return b.String() + text[done:]
}

// strings renames inside the bodies of routines, which stand in string literals with dollar quotes.
func (r *Renames) strings(definition string, rules sqltext.Rules, text func(...*string)) string {
	var b strings.Builder
	done := 0
	for _, t := range sqltext.Tokens(definition, rules) {
		s := definition[t.Start:t.End]
		if t.Kind != sqltext.String || s[0] != '$' {
			continue
		}
		tag := s[:strings.IndexByte(s[1:], '$')+2]
		body := s[len(tag) : len(s)-len(tag)]
		text(&body)
		b.WriteString(definition[done:t.Start] + tag + body + tag)
		done = t.End
	}
	b.WriteString(definition[done:])
	return b.String()
}
