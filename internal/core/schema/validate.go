package schema

// What reads objects relies on rules; what comes from outside is held to them.

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Known reports whether k is a kind of the model, to the letter.
func (k Kind) Known() bool {
	return slices.Contains(objectKinds[:], k) || slices.Contains(partKinds[:], k)
}

// Known reports whether e is one of the kinds of evidence.
func (e Evidence) Known() bool { return e == Recorded || e == Read || e == Guessed }

// Validate reports what breaks a rule of the model in an object that comes from outside: a kind that does not exist, a
// body that does not go with the kind, a list without what it lists. What reads objects relies on these rules.
func (o *Object) Validate() error {
	switch {
	case !slices.Contains(objectKinds[:], o.Kind):
		return fmt.Errorf("%q is no kind of object", o.Kind)
	case o.Name == "":
		return errors.New("it has no name")
	case strings.ContainsRune(o.Schema+o.Name+o.Within+o.Signature, 0):
		return errors.New("its name holds a zero byte")
	case o.Kind.IsRelation() && o.Relation == nil, o.Kind == KindIndex && o.Index == nil, o.Kind == KindSequence && o.Sequence == nil,
		(o.Kind == KindFunction || o.Kind == KindProcedure) && o.Routine == nil:
		return fmt.Errorf("a %s without the body of one", o.Kind)
	case o.Index != nil && o.Kind != KindIndex, o.Sequence != nil && o.Kind != KindSequence, o.Trigger != nil && o.Kind != KindTrigger && o.Kind != KindDatabaseTrigger:
		return fmt.Errorf("a %s with the body of something else", o.Kind)
	}
	if x := o.Index; x != nil {
		if x.Position < 0 {
			return errors.New("its place is negative")
		}
		if err := validParts(x.Columns); err != nil {
			return err
		}
	}
	if r := o.Routine; r != nil && (r.BodyStart < 0 || r.BodyStart > r.BodyEnd || r.BodyEnd > len(r.Definition)) {
		return errors.New("its body lies outside of its definition")
	}
	if o.Relation == nil {
		return nil
	}
	return o.Relation.validate()
}

// Sift takes out of a reading what breaks a rule of the model, and says so in a remark for each: what a server says of one
// object costs no other.
func (r *Reading) Sift() {
	r.Objects = slices.DeleteFunc(r.Objects, func(o *Object) bool {
		err := o.Validate()
		if err != nil {
			r.Remarks = append(r.Remarks, Remark{State: "failed", Subject: o.ID().Qualified(), Reason: "what the server says of it makes no sense: " + err.Error()})
		}
		return err != nil
	})
}

func (r *Relation) validate() error {
	for i, k := range r.Keys {
		if len(k.Columns) == 0 {
			return fmt.Errorf("key %d has no columns", i+1)
		}
		if err := validParts(k.Columns); err != nil {
			return err
		}
	}
	for i, f := range r.ForeignKeys {
		if len(f.Columns) == 0 || len(f.RefColumns) > 0 && len(f.RefColumns) != len(f.Columns) {
			return fmt.Errorf("foreign key %d has %d columns, and refers to %d", i+1, len(f.Columns), len(f.RefColumns))
		}
	}
	seen := make(map[string]bool, len(r.Columns))
	for i, c := range r.Columns {
		if seen[c.Name] {
			return fmt.Errorf("column %d has the name of another", i+1)
		}
		seen[c.Name] = true
	}
	return nil
}

func validParts(parts []KeyPart) error {
	for _, p := range parts {
		if p.Length < 0 {
			return errors.New("the length of a prefix is negative")
		}
	}
	return nil
}
