// Package schema is the model: one for all engines, rich enough that nothing an engine can express is lost.
//
// An Object is a thing with its own DDL. It has an identity (ID), what every object has (owner, comment, rights, the engine's
// own properties), and the body that its kind asks for: a Relation with columns, keys and checks, an Index, a Sequence, a
// Trigger, a Routine with its parameters, a type as its values, its base or its attributes. Kinds of the long tail have
// no body: their Definition is the statement that makes them.
//
// A Reading is what an engine read of one database at one moment: objects, measures that move by themselves, remarks on what
// was not seen, and the dependencies that do not follow from the objects. A Dependency is typed: two ends, a use, a place in a
// text. What follows from the objects (a foreign key, an index on its table) Structural works out.
//
// Fields are described once, by struct tags, and one walk over the description encodes and decodes (compact.go), compares
// (compare.go) and strips an aspect (aspect.go): a new field cannot be forgotten in one of them. `n` numbers a field for ever,
// `since` names the version of the model that brought it, `diff:"-"` keeps it out of comparisons, `aspect` says what it
// belongs to. The same object always has the same bytes, so their hash is its content hash.
package schema
