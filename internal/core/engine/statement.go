package engine

import (
	"strings"

	"echo-atlas/internal/core/schema"
)

// Resource is something that a statement provides or requires: an object, or one of its keys.
type Resource struct {
	What   string // a name space: schema.RelationNames, …, or a state of what is in one, below
	Schema string
	Name   string
	Detail string // a routine's signature, or the relation of a name that is scoped to it
}

// ResourceOf returns the resource that the object of that identity is.
func ResourceOf(id schema.ID) Resource {
	r := Resource{What: id.Kind.NameSpace(), Schema: id.Schema, Name: id.Name, Detail: id.Table + id.Signature}
	if id.Kind == schema.KindSchema {
		r.Schema = ""
	}
	return r
}

// States of what stands in a name space, which statements wait for.
const (
	whole   = "whole "         // the complete form, where a first form comes before
	OwnerOf = "owner of "      // the owner is set
	Indexes = "indexes of "    // all indexes are there
	Heirs   = "partitions of " // all partitions are there
	Order   = "trigger order"  // the triggers of a table that come before
)

// WholeOf returns the resource that only the complete form of an object provides.
func WholeOf(r Resource) Resource {
	r.What = whole + r.What
	return r
}

// Setting is a session setting, and the statement that makes it.
type Setting struct {
	Name, Text string
	Reset      string // what undoes it at the end of a script, where the engine's traits do not
}

// Statement is one statement of a script. Its text is Head, then Items between brackets if there are
// any, then Tail; it has no terminator.
type Statement struct {
	Subject schema.ID // what it is about: orders statements that are ready
	Step    int       // orders the statements of one subject
	Head    string
	Items   []string
	Tail    string

	// Undo is the statement that takes it back, "" where there is nothing to take back.
	Undo string
	// UndoSettings are those under which Undo means what it says.
	UndoSettings []Setting

	Provides []Resource
	Requires []Resource
	// Wishes are requirements that only order the script: where they make a cycle they are dropped.
	Wishes []Resource
	// Into names the relation whose statement may take the statement in as Item, where both are in a
	// script.
	Into *Resource
	Item string

	// Compound says that the text holds statement terminators of its own.
	Compound bool
	// Settings are those of the session under which the text means what it says.
	Settings []Setting

	// Cuts are the items that can stand apart.
	Cuts []Cut

	// Stub makes a first form of the object that others can refer to; it provides what the statement does.
	// It is used, with the statement after it, only where a cycle cannot be cut otherwise.
	Stub *Statement
	// Whole is provided by the statement alone, not by its stub: what cannot make do with the first form requires it.
	Whole []Resource
	// Completing is the head of the statement where the stub was made before, "" if it is the same;
	// Reducing makes a stub of it again.
	Completing, Reducing string
	// FirstForms says that the statement can make do with first forms of types.
	FirstForms bool
	// Brackets says that the text has its brackets even without items.
	Brackets bool
	// Late says that the statement comes after all that are not: others would feel its effect.
	Late bool
}

// Cut is an item of a statement that can stand apart, in a statement of its own, to break a cycle.
type Cut struct {
	Item string
	// Place is the item that Item stands for where it does not stand apart, from 1; 0: one of its own.
	Place int
	// Part is the part of the object whose needs are those of the cut.
	Part     string
	Provides []Resource
	Requires []Resource
	Apart    Statement
}

// Text returns the statement with the items of its cuts in it.
func (s *Statement) Text() string {
	items := s.Items
	if len(s.Cuts) > 0 {
		items = append([]string(nil), items...)
		for _, c := range s.Cuts {
			if c.Place > 0 {
				items[c.Place-1] = c.Item
			} else {
				items = append(items, c.Item)
			}
		}
	}
	if len(items) == 0 && s.Brackets {
		return s.Head + " ()" + s.Tail
	}
	if len(items) == 0 {
		return s.Head + s.Tail
	}
	return s.Head + " (\n    " + strings.Join(items, ",\n    ") + "\n)" + s.Tail
}
