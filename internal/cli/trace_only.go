package cli

// What of a trace is listed: --use, --kind and --in.

import (
	"context"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/trace"
)

// usageWords are the words of --use and what they mean, in the order in which they are offered.
var usageWords = []struct {
	word string
	uses []schema.Use
}{
	{"read", []schema.Use{schema.UseReads}}, {"written", []schema.Use{schema.UseWrites}}, {"called", []schema.Use{schema.UseCalls}}, {"typed", []schema.Use{schema.UseTypedBy}},
	{"fired", []schema.Use{schema.UseTriggerOn}}, {"referred", []schema.Use{schema.UseForeignKey}}, {"indexed", []schema.Use{schema.UseIndexOn}},
}

func usageList() []string {
	var known []string
	for _, u := range usageWords {
		known = append(known, u.word)
	}
	return known
}

// usesOf returns the uses that --use names, nil for all.
func usesOf(cmd *cli.Command) ([]schema.Use, error) {
	var uses []schema.Use
	for _, word := range values(cmd, "use") {
		i := slices.Index(usageList(), strings.ToLower(word))
		if i < 0 {
			return nil, usagef("--use: there is no use %q%s; there are %s", word, nearWord(word, usageList()), strings.Join(usageList(), ", "))
		}
		uses = append(uses, usageWords[i].uses...)
	}
	return uses, nil
}

// only is what is listed of a trace. All is followed; what is not listed is counted.
type only struct {
	kinds []schema.Kind
	in    []address.Match
	uses  []schema.Use
}

func (a *app) onlyOf(ctx context.Context, c *catalogue.Catalogue, cmd *cli.Command) (o only, err error) {
	if o.uses, err = usesOf(cmd); err != nil {
		return o, err
	}
	if o.kinds, err = kinds(cmd); err != nil {
		return o, err
	}
	if len(values(cmd, "in")) == 0 {
		return o, nil
	}
	r, err := a.resolverOf(ctx, c)
	if err != nil {
		return o, err
	}
	o.in, err = a.scope(ctx, r, cmd)
	return o, err
}

// refuseOnly says that a question has no part that could be left out.
func refuseOnly(cmd *cli.Command, question string) error {
	for _, name := range []string{"use", "kind", "in"} {
		if cmd.IsSet(name) {
			return usagef("%s cannot be asked of a part of the dependencies; leave out --%s", question, name)
		}
	}
	return nil
}

// lists reports whether an object, or a part of one where kind is that of the part, is listed.
func (o *only) lists(s *catalogue.Snapshot, id schema.ID, kind schema.Kind) bool {
	if len(o.kinds) > 0 && !slices.Contains(o.kinds, kind) {
		return false
	}
	return len(o.in) == 0 || slices.ContainsFunc(o.in, func(m address.Match) bool { return m.Contents.Snapshot.ID == s.ID && m.Covers(id) })
}

// narrow leaves out what is not listed, and counts it.
func (t *traced) narrow(o only) {
	t.only = o
	t.hidden = make([]bool, len(t.Nodes))
	for i := 1; i < len(t.Nodes) && len(o.kinds)+len(o.in) > 0; i++ {
		id := t.ID(&t.Nodes[i])
		if t.hidden[i] = !o.lists(t.Snapshot, id, id.Kind); t.hidden[i] {
			t.left++
		}
	}
	if o.uses != nil {
		t.own = nil // neither read nor written: they stand on it
	}
	t.own = slices.DeleteFunc(t.own, func(p trace.OwnPart) bool {
		return !o.lists(t.Snapshot, p.Dependency.From.ID, p.Dependency.From.PartKind)
	})
	t.foreign = slices.DeleteFunc(t.foreign, func(f trace.Foreign) bool {
		id := f.Entry.ID
		out := !o.lists(f.Snapshot, id, id.Kind) || f.Of == t.Trace && f.Node == 0 && o.uses != nil && !slices.Contains(o.uses, f.Dependency.Use)
		if out {
			t.left++
		}
		return out
	})
}

// shown returns how many nodes are listed beside the root.
func (t *traced) shown() int {
	n := 0
	for i := 1; i < len(t.Nodes); i++ {
		if !t.hidden[i] {
			n++
		}
	}
	return n
}

// overHidden says what a node depends on, or is needed by, where that is not listed above it.
func (t *traced) overHidden(node int) string {
	if by := t.Nodes[node].By; t.hidden[by] {
		return "via " + t.ID(&t.Nodes[by]).String() + ": "
	}
	return ""
}

// listed reports whether an edge leads to a node that is listed.
func (t *traced) listed(e *trace.Edge) bool {
	far, _ := ends(e, t.dir)
	return !t.hidden[far] && (far > 0 || t.left == 0)
}

// leftOut says what was not listed, "" if nothing was.
func (t *traced) leftOut() string {
	said := t.narrowed()
	if t.Bypassed > 0 {
		other := render.Plural(t.Bypassed, "more object depends", "more objects depend") + " on these by other columns alone"
		said = strings.TrimPrefix(said+"\n"+other, "\n")
	}
	return said
}

// narrowed says what was left out on demand.
func (t *traced) narrowed() string {
	switch {
	case t.left > 0 && t.only.uses != nil:
		return render.Plural(t.left, "more is", "more are") + " not listed, by --kind or --in; the first step follows only what --use names"
	case t.left > 0:
		return render.Plural(t.left, "more is", "more are") + " not listed, by --kind or --in"
	case t.only.uses != nil:
		return "Only what --use names was followed from it."
	}
	return ""
}
