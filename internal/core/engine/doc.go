// Package engine says what a database engine must offer: connecting, reading the catalogue of a database, and writing
// statements. Each engine is a package of its own below this one, and a line in the registry of main; nothing else names it.
//
// An engine is the only room for its dialect. Whoever needs to know how a name is quoted, a batch ends, a type is called
// or a routine is called asks the engine: Traits for facts that are data, Quote and Statements for text, and the optional
// interfaces for what only some engines have an answer to: Completer (tables that need an index to be made), Scripter
// (clients that take texts for commands of their own), Templater (statements to start from).
//
// What an engine reads becomes the typed model of package schema, never a sentence: a dependency has a use, ends and a place
// (schema.Dependency), a text stands in the field that is its own (schema.Object.Text). What a server sends is not trusted:
// rows are read through Row, whose checks make an error of what was not asked for, sessions time out and have a budget of
// bytes (Impatient), and the survey reads each database behind a recover.
//
// Statements say what they provide and require; package ddl only orders them. A connection writes nothing: sessions are
// read-only where the engine knows such sessions, and Queries tells what is sent.
package engine
