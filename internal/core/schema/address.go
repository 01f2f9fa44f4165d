package schema

import (
	"fmt"
	"strings"
	"unicode"
)

// Address is a parsed address: server/database@WHEN/schema.object.part, leading parts optional. Which
// part is which is only known when it is resolved against a catalogue.
type Address struct {
	Text string // as it was written
	Kind Kind   // in front, "index:"; empty if not given
	// Path is set instead of Outer for an exported snapshot: ./, / or ~ in front. It holds all of the
	// address behind the kind; where the path ends and the object begins the file system decides.
	Path  string
	Outer []Name // server and database, none to two
	When  string // behind the @ of the database
	// Names are the parts of the last segment, which dots separate; none where the address ends with a
	// slash or a WHEN.
	Names     []Name
	Signature *string // a routine's argument types, nil if not given
}

// special holds the characters that make it necessary to quote a part of an address.
const special = `./:@"*%?(),`

// QuotePart returns a name as it is written in an address: in double quotes where it holds a character
// that means something there, or a blank.
func QuotePart(s string) string {
	if plain(s) || s != "" && !strings.ContainsAny(s, special) && strings.IndexFunc(s, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }) < 0 && s[0] != '~' {
		return s
	}
	return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
}

// plain reports whether a name is made of nothing but what means nothing in an address. It errs on the side of no.
func plain(s string) bool {
	for i := range len(s) {
		if c := s[i]; c != '_' && (c < '0' || c > '9') && (c|0x20 < 'a' || c|0x20 > 'z') {
			return false
		}
	}
	return s != ""
}

// ParseAddress parses an address; bytes that are no UTF-8 may stand as they are or escaped (Escape). The error says what is wrong and where.
func ParseAddress(s string) (Address, error) {
	s = Unescape(s)
	a := Address{Text: s}
	rest := s
	if i := strings.IndexByte(rest, ':'); i > 0 && !strings.ContainsAny(rest[:i], `./@"`) {
		if kind, ok := ParseKind(rest[:i]); ok {
			a.Kind, rest = kind, rest[i+1:]
		} else {
			return a, &AddressError{s, fmt.Sprintf("%q is no kind of object; a colon inside a name needs double quotes", rest[:i])}
		}
	}
	if rest == "" {
		return a, &AddressError{s, "it is empty"}
	}
	if strings.HasPrefix(rest, "./") || strings.HasPrefix(rest, "../") || rest[0] == '/' || rest[0] == '~' {
		a.Path = rest
		return a, nil
	}
	p := addressParser{whole: s, rest: rest}
	for {
		names, when, sig, err := p.segment()
		if err != nil {
			return a, err
		}
		more := p.rest != ""
		if more {
			p.rest = p.rest[1:] // the slash
		}
		if sig != nil && more {
			return a, &AddressError{s, "argument types belong to the last part"}
		}
		if more || when != "" {
			if len(names) == 0 {
				return a, &AddressError{s, "a server or database is missing between slashes"}
			}
			if len(a.Outer) == 2 || a.When != "" {
				return a, &AddressError{s, "it has too many slashes; a name with a slash needs double quotes"}
			}
			a.Outer = append(a.Outer, JoinNames(names))
			a.When = when
		} else {
			a.Names, a.Signature = names, sig
		}
		if !more || p.rest == "" {
			break
		}
	}
	if len(a.Names) > 3 {
		return a, &AddressError{s, "it has too many dots; a name with a dot needs double quotes"}
	}
	return a, nil
}

// JoinNames makes one name of names that dots separate, for a segment that names a server or a database: dots mean
// nothing there.
func JoinNames(names []Name) Name {
	if len(names) == 1 {
		return names[0]
	}
	texts := make([]string, len(names))
	quoted := false
	for i, n := range names {
		texts[i] = n.Text
		quoted = quoted || n.Quoted
	}
	return Name{Text: strings.Join(texts, "."), Quoted: quoted}
}

// AddressError says why a text is no address.
type AddressError struct{ Address, Reason string }

func (e *AddressError) Error() string {
	return fmt.Sprintf("%q is no address: %s", e.Address, e.Reason)
}

type addressParser struct{ whole, rest string }

// segment reads up to the next slash or the end.
func (p *addressParser) segment() (names []Name, when string, signature *string, err error) {
	for {
		name, err := p.name()
		if err != nil {
			return nil, "", nil, err
		}
		names = append(names, name)
		if p.rest == "" || p.rest[0] == '/' {
			return names, "", nil, nil
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
				return nil, "", nil, &AddressError{p.whole, "nothing stands behind the @"}
			}
			return names, when, nil, nil
		case '(':
			end := closing(p.rest)
			if end < 0 {
				return nil, "", nil, &AddressError{p.whole, "a bracket is not closed"}
			}
			sig := strings.TrimSpace(p.rest[1:end])
			p.rest = p.rest[end+1:]
			if p.rest != "" {
				return nil, "", nil, &AddressError{p.whole, "something stands behind the argument types"}
			}
			return names, "", &sig, nil
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

func (p *addressParser) name() (Name, error) {
	if strings.HasPrefix(p.rest, `"`) {
		text, n := Unquote(p.rest)
		if n < 0 {
			return Name{}, &AddressError{p.whole, "a double quote is not closed"}
		}
		p.rest = p.rest[n:]
		if p.rest != "" && !strings.ContainsRune("./@(", rune(p.rest[0])) {
			return Name{}, &AddressError{p.whole, fmt.Sprintf("%q stands behind a closing quote", p.rest)}
		}
		return Name{Text: text, Quoted: true}, nil
	}
	end := strings.IndexAny(p.rest, `./@("`)
	if end < 0 {
		end = len(p.rest)
	}
	if end < len(p.rest) && p.rest[end] == '"' {
		return Name{}, &AddressError{p.whole, "a double quote stands inside a name; quote the whole name and write the quote twice"}
	}
	if end == 0 {
		return Name{}, &AddressError{p.whole, "a name is missing"}
	}
	name := Name{Text: p.rest[:end]}
	p.rest = p.rest[end:]
	return name, nil
}

// Unquote reads a name in double quotes from the start of s and returns it with the number of bytes
// that it takes, -1 if it is not closed.
func Unquote(s string) (string, int) {
	var b strings.Builder
	for i := 1; i < len(s); i++ {
		if s[i] != '"' {
			b.WriteByte(s[i])
			continue
		}
		if i+1 < len(s) && s[i+1] == '"' {
			b.WriteByte('"')
			i++
			continue
		}
		return b.String(), i + 1
	}
	return "", -1
}

// Location is where a thing is, split in fields.
type Location struct {
	Server   string
	Database string
	When     string // of an older snapshot, as the reader asked for it
	Path     string // of an exported snapshot, instead of server and database
	ID       ID     // zero for a database as a whole
	Part     string
	PartKind Kind
}

// String returns the full address.
func (l Location) String() string {
	var b strings.Builder
	if l.Path != "" {
		b.WriteString(l.Path)
	} else {
		b.WriteString(QuotePart(l.Server))
	}
	if l.Database != "" && l.Path == "" {
		b.WriteString("/" + QuotePart(l.Database))
		if l.When != "" {
			b.WriteString("@" + l.When)
		}
	}
	if l.ID.Name != "" {
		b.WriteString("/" + l.Local())
	}
	return b.String()
}

// Local returns the address within the database.
func (l Location) Local() string {
	s := l.ID.String()
	if l.Part != "" {
		s += "." + QuotePart(l.Part)
	}
	return s
}

// String returns the identity as it stands in an address, without the kind.
func (a ID) String() string {
	var b strings.Builder
	if a.Schema != "" {
		b.WriteString(QuotePart(a.Schema) + ".")
	}
	if a.Table != "" {
		b.WriteString(QuotePart(a.Table) + ".")
	}
	b.WriteString(QuotePart(a.Name))
	if a.Signature != "" || a.Kind == KindFunction || a.Kind == KindProcedure {
		b.WriteString("(" + a.Signature + ")")
	}
	return b.String()
}

// Qualified returns the identity with its kind in front, as it is needed where several kinds share a
// name.
func (a ID) Qualified() string {
	return strings.ReplaceAll(string(a.Kind), " ", "-") + ":" + a.String()
}
