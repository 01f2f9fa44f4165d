package references

// What a text refers to is found again only where that can be otherwise: the text is new, or it holds a word of the name of
// something that came, went or changed.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// known tells of which objects the dependencies are as they were.
type known struct {
	before *schema.Earlier // nil: of none
	words  map[string]bool // of names that mean something else now
	fires  bool            // triggers came, went or changed
	finder *finder
}

func knownFrom(r *schema.Reading, f *finder, before *schema.Earlier) *known {
	if before == nil || before.Resolver != Version || len(before.Same) != len(r.Objects) {
		return &known{}
	}
	k := &known{before: before, words: map[string]bool{}, finder: f}
	for _, id := range before.Changed {
		switch {
		case id.Kind == schema.KindTrigger:
			k.fires = true
		case id.Kind == schema.KindDatabase: // its settings may decide where names are looked for
			return &known{}
		}
		if !k.add(id.Name) || !k.add(id.Table) {
			return &known{}
		}
	}
	// What is changed is also reached by other names: functions that return its rows, synonyms.
	for grown := len(k.words) > 0; grown; {
		grown = false
		for _, o := range r.Objects {
			reaches := o.Routine != nil && k.touches(o.Routine.Returns) || o.Synonym != nil && k.touches(o.Synonym.Name)
			if reaches && !k.touches(o.Name) {
				grown = k.add(o.Name) || grown
			}
		}
	}
	return k
}

// add notes the words of a name, and reports whether it could: one without a word cannot be looked for.
func (k *known) add(name string) bool {
	before := len(k.words)
	words(name, func(word string) bool { k.words[word] = true; return true })
	return name == "" || len(k.words) > before || k.touches(name)
}

// holds reports whether the dependencies of an object are as they were.
func (k *known) holds(i int, o *schema.Object) bool {
	if k.before == nil || !k.before.Same[i] || silent(o) {
		return false
	}
	switch {
	case o.Trigger != nil && k.touches(o.Trigger.Table):
		return false
	case o.Routine != nil && (k.fires && strings.Contains(strings.ToLower(o.Routine.Returns), "trigger") || k.touches(o.Routine.Returns)):
		return false
	case o.Routine != nil && slices.ContainsFunc(k.finder.fires[o.ID()], func(by fired) bool { return k.touches(by.table.Name) }):
		return false
	}
	if o.Routine != nil && slices.ContainsFunc(o.Routine.Parameters, func(p schema.Parameter) bool { return k.touches(p.Type) }) {
		return false
	}
	for _, t := range o.Texts() {
		if !t.Comment && (k.touches(t.Text) || hidesNames(t.Text)) {
			return false
		}
	}
	return true
}

// hidesNames reports whether names may be put together in a text that runs SQL, or be written with escapes.
func hidesNames(text string) bool {
	hides := false
	words(text, func(word string) bool {
		switch word {
		case "execute", "exec", "prepare", "sp_executesql", "u":
			hides = true
		}
		return !hides
	})
	return hides
}

// touches reports whether a text holds a word of a name that means something else now.
func (k *known) touches(text string) bool {
	if len(k.words) == 0 {
		return false
	}
	touches := false
	words(text, func(word string) bool {
		touches = k.words[word]
		return !touches
	})
	return touches
}

// words calls each for the words of a text, in strings and comments too, folded; until it returns false.
func words(text string, each func(word string) bool) {
	folded := names.Fold(text)
	part := func(c byte) bool {
		return 'a' <= c && c <= 'z' || '0' <= c && c <= '9' || c == '_' || c == '$' || c == '#' || c >= 0x80
	}
	for i := 0; i < len(folded); {
		if !part(folded[i]) {
			i++
			continue
		}
		start := i
		for i < len(folded) && part(folded[i]) {
			i++
		}
		if !each(folded[start:i]) {
			return
		}
	}
}
