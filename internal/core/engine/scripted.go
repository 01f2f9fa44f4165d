package engine

// A client may take a text for something else than the server would; its engine knows.

// Scripter is an engine whose client takes some texts for commands of its own, or for the end of a statement.
type Scripter interface {
	// Scripted returns the text of a statement as the client hands it to the server whole, without its end, and whether
	// it still holds terminators of its own; version is what the server that it comes from calls itself. The error
	// says why no text of it is safe.
	Scripted(s *Statement, text, version string) (scripted string, compound bool, err error)
}
