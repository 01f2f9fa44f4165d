// Package address is the grammar of addresses and their one resolver: what a person writes to name a thing in the
// catalogue, and what of the catalogue it means.
package address

import (
	"fmt"
	"strings"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// Address is a parsed address: server/database@WHEN/schema.object.part, leading parts optional. Which
// part is which is only known when it is resolved against a catalogue.
type Address struct {
	Text string // as it was written
	Place
	Target
}

// Place is where an address leads: an exported snapshot by its path, or servers and databases by their names.
type Place struct {
	// Path is set instead of Outer for an exported snapshot: ./, / or ~ in front. It holds all of the
	// address behind the kind; where the path ends and the object begins the file system decides.
	Path  string
	Outer []names.Name // server and database, none to two
	When  string       // behind the @ of the database
}

// Target is what an address names there.
type Target struct {
	Kind schema.Kind // in front, "index:"; empty if not given
	// Names are the parts of the last segment, which dots separate; none where the address ends with a
	// slash or a WHEN.
	Names     []names.Name
	Signature *string // a routine's argument types, nil if not given
}

// Parse parses an address; bytes that are no UTF-8 may stand as they are or escaped (Escape). The error says what is wrong and where.
func Parse(s string) (Address, error) {
	s = names.Unescape(s)
	a := Address{Text: s}
	rest := s
	if i := strings.IndexByte(rest, ':'); i > 0 && !strings.ContainsAny(rest[:i], `./@"`) {
		if kind, ok := schema.ParseKind(rest[:i]); ok {
			a.Kind, rest = kind, rest[i+1:]
		} else {
			return a, &Error{s, fmt.Sprintf("%q is no kind of object; a colon inside a name needs double quotes", rest[:i])}
		}
	}
	if rest == "" {
		return a, &Error{s, "it is empty"}
	}
	if strings.HasPrefix(rest, "./") || strings.HasPrefix(rest, "../") || rest[0] == '/' || rest[0] == '~' {
		a.Path = rest
		return a, nil
	}
	p := parser{whole: s, rest: rest}
	for {
		list, when, sig, err := p.segment()
		if err != nil {
			return a, err
		}
		more := p.rest != ""
		if more {
			p.rest = p.rest[1:] // the slash
		}
		if sig != nil && more {
			return a, &Error{s, "argument types belong to the last part"}
		}
		if more || when != "" {
			if len(list) == 0 {
				return a, &Error{s, "a server or database is missing between slashes"}
			}
			if len(a.Outer) == 2 || a.When != "" {
				return a, &Error{s, "it has too many slashes; a name with a slash needs double quotes"}
			}
			a.Outer = append(a.Outer, JoinNames(list))
			a.When = when
		} else {
			a.Names, a.Signature = list, sig
		}
		if !more || p.rest == "" {
			break
		}
	}
	if len(a.Names) > 3 {
		return a, &Error{s, "it has too many dots; a name with a dot needs double quotes"}
	}
	return a, nil
}

// JoinNames makes one name of names that dots separate, for a segment that names a server or a database: dots mean
// nothing there.
func JoinNames(list []names.Name) names.Name {
	if len(list) == 1 {
		return list[0]
	}
	texts := make([]string, len(list))
	quoted := false
	for i, n := range list {
		texts[i] = n.Text
		quoted = quoted || n.Quoted
	}
	return names.Name{Text: strings.Join(texts, "."), Quoted: quoted}
}

// Error says why a text is no address.
type Error struct{ Address, Reason string }

func (e *Error) Error() string {
	return fmt.Sprintf("%q is no address: %s", e.Address, e.Reason)
}

type parser struct{ whole, rest string }

// segment reads up to the next slash or the end.
func (p *parser) segment() (list []names.Name, when string, signature *string, err error) {
	for {
		name, err := p.name()
		if err != nil {
			return nil, "", nil, err
		}
		list = append(list, name)
		if p.rest == "" || p.rest[0] == '/' {
			return list, "", nil, nil
		}
		switch p.rest[0] {
		case '.':
			p.rest = p.rest[1:]
		case '@':
			end := strings.IndexByte(p.rest, '/')
			if end < 0 {
				end = len(p.rest)
			}
			when, p.rest = p.rest[1:end], p.rest[end:]
			if when == "" {
				return nil, "", nil, &Error{p.whole, "nothing stands behind the @"}
			}
			return list, when, nil, nil
		case '(':
			end := closing(p.rest)
			if end < 0 {
				return nil, "", nil, &Error{p.whole, "a bracket is not closed"}
			}
			sig := strings.TrimSpace(p.rest[1:end])
			p.rest = p.rest[end+1:]
			if p.rest != "" {
				return nil, "", nil, &Error{p.whole, "something stands behind the argument types"}
			}
			return list, "", &sig, nil
		}
	}
}

// closing returns the place of the bracket that closes the one at the start of s, -1 if there is none.
func closing(s string) int {
	depth, quoted := 0, false
	for i := range len(s) {
		switch c := s[i]; {
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '(':
			depth++
		case c == ')':
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

func (p *parser) name() (names.Name, error) {
	if strings.HasPrefix(p.rest, `"`) {
		text, n := names.Unquote(p.rest)
		if n < 0 {
			return names.Name{}, &Error{p.whole, "a double quote is not closed"}
		}
		p.rest = p.rest[n:]
		if p.rest != "" && !strings.ContainsRune("./@(", rune(p.rest[0])) {
			return names.Name{}, &Error{p.whole, fmt.Sprintf("%q stands behind a closing quote", p.rest)}
		}
		return names.Name{Text: text, Quoted: true}, nil
	}
	end := strings.IndexAny(p.rest, `./@("`)
	if end < 0 {
		end = len(p.rest)
	}
	if end < len(p.rest) && p.rest[end] == '"' {
		return names.Name{}, &Error{p.whole, "a double quote stands inside a name; quote the whole name and write the quote twice"}
	}
	if end == 0 {
		return names.Name{}, &Error{p.whole, "a name is missing"}
	}
	name := names.Name{Text: p.rest[:end]}
	p.rest = p.rest[end:]
	return name, nil
}
