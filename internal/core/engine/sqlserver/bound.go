package sqlserver

// Rules and defaults that stand alone, and are bound to columns and types (documentation: "sp_bindrule", "sp_bindefault").

import (
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Settings of columns and types to which a rule or a default is bound: its name, quoted.
const (
	boundRule    = "bound rule"
	boundDefault = "bound default"
)

// bind keeps what is bound to a column of an object, or with no column to a type, by the numbers of a rule and a default. That of a default
// constraint is none of them.
func (r *reader) bind(to *schema.Object, column string, settings *[]schema.Property, rule, standing int) {
	for _, b := range []struct {
		name   string
		kind   schema.Kind
		number int
	}{{boundRule, schema.KindRule, rule}, {boundDefault, schema.KindDefault, standing}} {
		o := r.made[b.number]
		if b.number == 0 || o == nil || o.Kind != b.kind {
			continue
		}
		*settings = append(*settings, schema.Property{Name: b.name, Value: qualify(o.Schema, o.Name)})
		use := schema.UseStandsOn
		if b.kind == schema.KindDefault {
			use = schema.UseDefaultFrom
		}
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ColumnEnd(to.ID(), column), To: schema.ObjectEnd(o.ID()), Evidence: schema.Recorded, Use: use})
	}
}

// bindings writes what is bound to something.
func (w *writer) bindings(settings []schema.Property, name string) {
	if rule := schema.SettingOf(settings, boundRule); rule != "" {
		w.After("EXEC sys.sp_bindrule @rulename = "+literal(rule)+", @objname = "+literal(name), resourceCalled(schema.KindRule, rule))
	}
	if standing := schema.SettingOf(settings, boundDefault); standing != "" {
		w.After("EXEC sys.sp_bindefault @defname = "+literal(standing)+", @objname = "+literal(name), resourceCalled(schema.KindDefault, standing))
	}
}

// resourceCalled is an object of a kind by its quoted name.
func resourceCalled(kind schema.Kind, quoted string) engine.Resource {
	s := synonymOf(quoted)
	return engine.ResourceOf(schema.ID{Kind: kind, Schema: s.Schema, Name: s.Name})
}

// numberedProcedure stands in front of the number of a further procedure of one name.
const numberedProcedure = "numbered "

func (r *reader) numbered(row *engine.Row) {
	o := r.made[int(row.Int(0))]
	if o == nil || o.Routine == nil {
		return
	}
	name := numberedProcedure + row.Text(1)
	if row.Null(2) {
		r.remark("hidden", o.ID().Qualified(), "the text of its procedure "+row.Text(1)+" is encrypted, or the user lacks the right VIEW DEFINITION on it")
		r.option(int(row.Int(0)), name, hiddenText)
		return
	}
	r.option(int(row.Int(0)), name, row.Text(2))
}

// numberedOnes writes the further procedures of a name.
func (w *writer) numberedOnes() {
	for _, p := range w.Object.Settings {
		if !strings.HasPrefix(p.Name, numberedProcedure) {
			continue
		}
		if p.Value == hiddenText {
			w.Failed = errHiddenNumbered
			return
		}
		w.After(strings.TrimSpace(p.Value))
	}
}
