package rename

// Editing texts: names are replaced at their places, from the end to the beginning.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// Reason tells why people have to look at a place.
type Reason uint8

// The reasons.
const (
	InString    Reason = iota + 1 // the name stands in a string that is run as SQL, or could mean something else
	Joins                         // the name joins relations, as USING and NATURAL do
	Captured                      // with the new name the text would mean something else
	Unclear                       // the name may be that of the thing
	NotSeen                       // SQL runs that cannot be seen
	Elsewhere                     // a synonym stands for it
	NoStatement                   // the engine has no statement that would change it
)

// Unsure is a place in a text that people have to look at.
type Unsure struct {
	Object schema.ID
	Reason Reason
	Line   int    // of the text as the server keeps it, 0 for the whole
	Text   string // of the line
	// Left says that the object was not edited because of it.
	Left bool
}

// edited replaces the names in the texts of an object by those of afterwards, and returns what is not sure. What is left as it
// is holds nothing but that.
func (w *writer) edited(o, now *schema.Object, anew bool) []Unsure {
	var unsure []Unsure
	var texts []references.Text
	changed := false
	for _, t := range w.before.Texts(o) {
		edits := w.edits(o, &t, &unsure)
		if w.plan.Anew && o.Trigger != nil && o.Trigger.Table == w.root.Name && t.Field == schema.FieldSource {
			edits = append(edits, w.onRoot(t.Text)...)
		}
		if len(edits) > 0 {
			now.SetText(t.Field, t.Part, apply(t.Text, edits))
			changed = true
		}
		texts = append(texts, t)
	}
	if !changed && !anew {
		return unsure
	}
	if w.to.Schema == "" || w.engine.Traits().Schemas {
		w.check(o, now, texts, &unsure)
	}
	return unsure
}

// edit is a stretch of a text and what is put in its place.
type edit struct {
	start, stop int
	text        string
}

// apply makes edits in a text.
func apply(text string, edits []edit) string {
	slices.SortFunc(edits, func(a, b edit) int { return a.start - b.start })
	edits = slices.CompactFunc(edits, func(a, b edit) bool { return a.start == b.start })
	var b strings.Builder
	done := 0
	for _, e := range edits {
		if e.start < done {
			continue
		}
		b.WriteString(text[done:e.start] + e.text)
		done = e.stop
	}
	b.WriteString(text[done:])
	return b.String()
}

// onRoot returns the edit of the table behind ON in the head of a trigger.
func (w *writer) onRoot(text string) []edit {
	tokens := sqltext.Tokens(text, w.engine.Traits().Rules)
	for i := 0; i+1 < len(tokens); i++ {
		if strings.EqualFold(text[tokens[i].Start:tokens[i].End], "on") {
			return []edit{{tokens[i+1].Start, tokens[i+1].End, w.engine.Quote(w.to.Name)}}
		}
	}
	return nil
}

// edits returns what has to be replaced in a text, and notes what is not sure.
func (w *writer) edits(o *schema.Object, t *references.Text, unsure *[]Unsure) []edit {
	var list []edit
	quoted := w.engine.Quote(w.to.Name)
	for i := range t.Names {
		n := &t.Names[i]
		mine := n.Key == w.root && (n.Column == w.to.Column || w.to.Column != "" && n.Column != "" && n.Column == w.to.Column)
		switch {
		case n.Use == sqltext.RefBehind:
		case n.Use == sqltext.RefUnseen:
			w.doubt(unsure, o, t, n, NotSeen, false)
		case n.Use == sqltext.RefUnresolved:
			if w.alike(n) {
				w.doubt(unsure, o, t, n, Unclear, false)
			}
		case !mine:
		case n.Guessed:
			w.doubt(unsure, o, t, n, InString, false)
		case n.Joined:
			w.doubt(unsure, o, t, n, Joins, true)
		case n.At == n.End: // it is not written, or stands in a string
			if e, ok := w.inString(t.Text, n); ok {
				list = append(list, e)
			}
		case w.to.Schema != "":
			if e, ok := w.qualified(t.Text, n); ok {
				list = append(list, e)
			}
		case n.Shown: // the output keeps its name
			list = append(list, edit{n.At, n.End, quoted + " AS " + t.Text[n.At:n.End]})
		default:
			list = append(list, edit{n.At, n.End, quoted})
		}
	}
	return list
}

// alike reports whether a name that was not understood could be the one that is changed.
func (w *writer) alike(n *sqltext.Reference) bool {
	name := n.Names[len(n.Names)-1]
	want := w.to.Column
	if want == "" {
		return false
	}
	return name == want || !w.engine.Traits().Rules.FoldLower && strings.EqualFold(name, want)
}

// inString returns the edit of a name in a constant such as 'ops.berth'::regclass.
func (w *writer) inString(text string, n *sqltext.Reference) (edit, bool) {
	if w.to.Column != "" || n.Start < 1 || n.Stop >= len(text) || n.Column != "" {
		return edit{}, false
	}
	s := text[n.Start:n.Stop]
	if text[n.Start-1] != '\'' || text[n.Stop] != '\'' || strings.Contains(s, "'") {
		return edit{}, false
	}
	rules := w.engine.Traits().Rules
	tokens := sqltext.Tokens(s, rules)
	if len(tokens) == 0 {
		return edit{}, false
	}
	at := tokens[len(tokens)-1]
	to := strings.ReplaceAll(w.engine.Quote(w.to.Name), "'", "''")
	if w.to.Schema != "" {
		at.Start = tokens[0].Start
		to = strings.ReplaceAll(w.engine.Quote(w.to.Schema), "'", "''") + "." + to
	}
	return edit{n.Start + at.Start, n.Start + at.End, to}, true
}

// qualified returns the edit that puts the new schema in front of a name.
func (w *writer) qualified(text string, n *sqltext.Reference) (edit, bool) {
	start := n.At
	rules := w.engine.Traits().Rules
	if n.Use == sqltext.RefQualifies {
		if n.At == n.Start { // a column with its relation in front needs no schema
			return edit{}, false
		}
		start = n.Start
	} else if head := text[:n.At]; n.Start < n.At {
		tokens := sqltext.Tokens(head[n.Start:], rules)
		if k := len(tokens); k >= 2 && head[n.Start+tokens[k-1].Start:n.Start+tokens[k-1].End] == "." {
			start = n.Start
		}
	}
	return edit{start, n.End, w.engine.Quote(w.to.Schema) + "." + w.engine.Quote(w.to.Name)}, true
}

// check reads the edited texts in the world as it is afterwards: their names have to mean the same as before.
func (w *writer) check(o, now *schema.Object, before []references.Text, unsure *[]Unsure) {
	after := w.now.Texts(now)
	if len(after) != len(before) {
		*unsure = append(*unsure, Unsure{Object: o.ID(), Reason: Captured, Left: true})
		return
	}
	for i := range before {
		behind := func(n sqltext.Reference) bool { return n.Use == sqltext.RefBehind } // the output may have a name of its own now
		a, b := slices.DeleteFunc(slices.Clone(before[i].Names), behind), slices.DeleteFunc(after[i].Names, behind)
		for k := 0; k < len(a) || k < len(b); k++ {
			switch {
			case k < len(a) && k < len(b) && w.same(&a[k], &b[k]):
			case k < len(a):
				w.doubt(unsure, o, &before[i], &a[k], Captured, true)
				return
			default:
				*unsure = append(*unsure, Unsure{Object: o.ID(), Reason: Captured, Left: true})
				return
			}
		}
	}
}

// same reports whether a name means afterwards what it meant before.
func (w *writer) same(a, b *sqltext.Reference) bool {
	key, column := a.Key, a.Column
	if o, ok := key.(*schema.Object); ok {
		if now := w.moved[o]; now != nil {
			key = now
		}
		if o == w.root && w.to.Column != "" && column == w.to.Column {
			column = w.to.Name
		}
	}
	return a.Use == b.Use && key == b.Key && column == b.Column && a.Guessed == b.Guessed && (a.Ambiguous || !b.Ambiguous)
}

func (w *writer) doubt(unsure *[]Unsure, o *schema.Object, t *references.Text, n *sqltext.Reference, why Reason, left bool) {
	line, _, text := sqltext.Place(t.Text, n.Start)
	u := Unsure{Object: o.ID(), Reason: why, Line: line, Text: strings.TrimSpace(text), Left: left}
	if !slices.Contains(*unsure, u) {
		*unsure = append(*unsure, u)
	}
}

// rename puts the new name of an object into the head of its own text, where that is kept.
func (w *writer) rename(now *schema.Object) bool {
	rules := w.engine.Traits().Rules
	for _, f := range [...]schema.Field{schema.FieldSource, schema.FieldDefinition} {
		text := now.Text(f, "")
		if text == "" {
			continue
		}
		l := sqltext.Lexer{Text: text, Rules: rules}
		for range 40 {
			t := l.Next()
			if t.Kind == sqltext.End {
				return false
			}
			if name := sqltext.Unquote(text, t, rules); (t.Kind == sqltext.Word || t.Kind == sqltext.QuotedName) && (name == w.root.Name || !rules.FoldLower && strings.EqualFold(name, w.root.Name)) {
				now.SetText(f, "", text[:t.Start]+w.engine.Quote(w.to.Name)+text[t.End:])
				return true
			}
		}
		return false
	}
	return true
}

// wanted reports whether the server leaves the dependency of a text on the root to its owner.
func (w *writer) wanted(d *schema.Dependency) bool {
	f, ok := w.engine.(engine.Forecaster)
	if !ok || w.plan.Anew {
		return d.Evidence != schema.Recorded || d.Field != schema.NoField || d.Use == schema.UseTriggerOn && d.From.ID.Kind == schema.KindTrigger
	}
	change := engine.Renamed
	if w.to.Schema != "" {
		change = engine.Moved
	}
	effect, _ := f.Effect(engine.Case{Change: change, Column: w.to.Column != "", Kind: w.root.Kind, Dependency: d})
	return effect == engine.Breaks || effect == engine.Uncertain || effect == engine.Refused
}
