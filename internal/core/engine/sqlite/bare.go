package sqlite

// Which names mean the same without quotes, wherever they stand.

// Bare implements engine.Barer.
func (Engine) Bare(name string) bool { return quote(name) == name }
