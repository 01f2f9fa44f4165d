package sqlite

// A statement is the text that SQLite keeps.

import (
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Make returns the text that made the object, as SQLite keeps it. SQLite looks foreign keys and
// the relations of views up only when they are used, so those needs merely order a script.
func (Engine) Make(o *schema.Object) ([]engine.Statement, error) {
	if o.Source == "" {
		if text := carried(o); text != "" {
			now := *o
			now.Source = text
			o = &now
		}
	}
	if o.Source == "" {
		return nil, fmt.Errorf("the definition of %s was not recorded", o.ID().Qualified())
	}
	s := engine.Statement{
		Subject:  o.ID(),
		Action:   engine.Make,
		Head:     strings.TrimRight(o.Source, "; \t\r\n"),
		Undo:     "DROP " + strings.ToUpper(string(o.Kind)) + " " + quote(o.Name),
		Provides: []engine.Resource{engine.ResourceOf(o.ID())},
	}
	if o.Relation != nil {
		for _, f := range o.Relation.ForeignKeys {
			s.Wishes = append(s.Wishes, relation(f.RefTable))
		}
	}
	if on := o.On(); on != "" {
		s.Requires = append(s.Requires, relation(on))
	}
	return []engine.Statement{s}, nil
}

func relation(name string) engine.Resource {
	return engine.Resource{What: schema.RelationNames, Name: name}
}
