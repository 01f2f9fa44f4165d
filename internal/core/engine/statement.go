package engine

// Statements are a plan: each says what it needs of the world and does to it, and which of its parts can stand apart.

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

// Action is what a statement does to its subject.
type Action uint8

// The actions.
const (
	Alter Action = iota // sets or changes something of it
	Make                // makes it
	Drop                // takes it away
)

// Statement is one statement of a script, and one text: Head, then Items between brackets if there are any, then Tail; it
// has no terminator. A script is a plan of statements, put into order by what each says of the world: what it provides, what
// must be there before, what it takes away.
type Statement struct {
	Subject schema.ID // what it is about: orders statements that are ready
	Action  Action
	Step    int // orders the statements of one subject
	Head    string
	Items   []string
	Tail    string
	// Brackets says that the text has its brackets even without items.
	Brackets bool
	// Compound says that the text holds statement terminators of its own.
	Compound bool
	// Settings are those of the session under which the text means what it says.
	Settings []Setting

	// Undo is the text that takes it back, "" where there is nothing to take back; UndoFirst what has to come right before,
	// UndoSettings are those under which it means what it says.
	Undo, UndoFirst string
	UndoSettings    []Setting

	Provides []Resource
	Requires []Resource
	// Wishes are requirements that only order the script: where they make a cycle they are dropped.
	Wishes []Resource
	// Destroys are resources that are not there any more afterwards: what requires them, as they were, comes before.
	Destroys []Resource
	// Frees are names that others may take afterwards.
	Frees []Resource

	// Splits are the parts that can stand apart, in statements of their own.
	Splits []Split
	// Joins says that another statement may take this one in as a part.
	Joins *Joining
	// Strict says that what the server records as needed has to be there, where the engine is lax otherwise: a function that a table
	// calls, what a schema-bound view reads.
	Strict bool
	// FirstForms says that the statement can make do with first forms of types.
	FirstForms bool
	// Unknown says why there is no text: a comment stands in its place.
	Unknown error
	// Alone says that the statement cannot be in a transaction.
	Alone bool
	// Risks are what may go wrong, or cost much, when it runs.
	Risks []Risk
	// Off says that the statement is written as a comment.
	Off bool
	// Given says that every new database has what the statement makes: only one that is known to lack it gets it.
	Given bool
	// Late says that the statement comes after all that are not: others would feel its effect. One that drops comes first.
	Late bool
}

// Split is a part of a statement that can stand apart to break a cycle: a foreign key, a check or a default that is added
// behind, or a first form of the whole, which comes before it.
type Split struct {
	// Item is the part within the statement, and Place the item that it stands for, from 1; 0: one of its own.
	Item  string
	Place int
	// Part is the part of the object whose needs are those of the split.
	Part string
	// Provides and Requires are the part's: the statement's as long as the part is in it.
	Provides []Resource
	Requires []Resource
	// Apart is the statement that does it alone.
	Apart Statement

	// First says that Apart comes before. It is used only where a cycle cannot be cut otherwise. The statement does not
	// provide any more what Apart does; its head is Rest then, if that is not "", and RestUndo takes it back.
	First          bool
	Rest, RestUndo string
}

// Joining is the place that a statement may take within another.
type Joining struct {
	Home Resource // what the other provides
	Item string   // what it is there
}

// Text returns the statement with the items of its splits in it.
func (s *Statement) Text() string {
	items := s.Items
	if len(s.Splits) > 0 {
		items = append([]string(nil), items...)
		for i := range s.Splits {
			switch split := &s.Splits[i]; {
			case split.First:
			case split.Place > 0:
				items[split.Place-1] = split.Item
			default:
				items = append(items, split.Item)
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
