package standin

// What a client asks: a login, or a batch.

import (
	"encoding/binary"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"sync"
)

// login is what a client says of itself.
type login struct{ user, password, database, program string }

var errBroken = errors.New("the message is broken")

// parseLogin reads a LOGIN7 message ([MS-TDS] 2.2.6.4): places and lengths of texts, then the texts.
func parseLogin(body []byte) (login, error) {
	const fixed = 94
	if len(body) < fixed {
		return login{}, errBroken
	}
	text := func(at int) ([]byte, error) {
		offset, units := int(binary.LittleEndian.Uint16(body[at:])), int(binary.LittleEndian.Uint16(body[at+2:]))
		if offset+2*units > len(body) {
			return nil, errBroken
		}
		return body[offset : offset+2*units], nil
	}
	var l login
	for _, f := range []struct {
		at int
		to *string
	}{{40, &l.user}, {44, &l.password}, {48, &l.program}, {68, &l.database}} {
		b, err := text(f.at)
		if err != nil {
			return login{}, err
		}
		if f.to == &l.password { // is veiled: halves swapped and bits turned
			plain := make([]byte, len(b))
			for i, c := range b {
				c ^= 0xa5
				plain[i] = c<<4 | c>>4
			}
			b = plain
		}
		*f.to = fromUTF16(b)
	}
	return l, nil
}

// parsePrelogin checks a PRELOGIN message: options, each with place and length, ended by 0xff.
func parsePrelogin(body []byte) error {
	for at := 0; ; at += 5 {
		if at >= len(body) {
			return errBroken
		}
		if body[at] == 0xff {
			return nil
		}
		if at+5 > len(body) || int(binary.BigEndian.Uint16(body[at+1:]))+int(binary.BigEndian.Uint16(body[at+3:])) > len(body) {
			return errBroken
		}
	}
}

func parseBatch(body []byte) (string, error) {
	s := scanner{b: body}
	s.headers()
	if s.failed {
		return "", errBroken
	}
	return fromUTF16(s.b), nil
}

// Numbers of system procedures ([MS-TDS] 2.2.6.6).
const procedureExecuteSQL = 10

// parseRPC reads a call of sp_executesql and puts the parameters into the statement as literals.
func parseRPC(body []byte) (string, error) {
	s := scanner{b: body}
	s.headers()
	name := ""
	if n := s.uint16(); n == 0xffff {
		if id := s.uint16(); id != procedureExecuteSQL {
			return "", fmt.Errorf("there is no procedure number %d here", id)
		}
	} else {
		name = fromUTF16(s.bytes(2 * n))
	}
	s.uint16() // flags
	if s.failed {
		return "", errBroken
	}
	if name != "" && !strings.EqualFold(name, "sp_executesql") && !strings.EqualFold(name, "sys.sp_executesql") {
		return "", fmt.Errorf("could not find stored procedure '%s'", name)
	}
	var values []string
	var names []string
	for len(s.b) > 0 && !s.failed {
		parameter := fromUTF16(s.bytes(2 * s.uint8()))
		s.uint8() // status
		value, err := s.parameter()
		if err != nil {
			return "", err
		}
		names, values = append(names, parameter), append(values, value)
	}
	if s.failed || len(values) == 0 {
		return "", errBroken
	}
	text := strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(values[0], "'"), "'"), "''", "'")
	for i := 2; i < len(values); i++ {
		if !parameterName().MatchString(names[i]) {
			return "", errBroken
		}
		text = regexp.MustCompile(`(?i)`+regexp.QuoteMeta(names[i])+`\b`).ReplaceAllLiteralString(text, values[i])
	}
	return text, nil
}

var parameterName = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`^@\w+$`) })

// parameter reads type and value of a parameter and returns the value as a literal.
func (s *scanner) parameter() (string, error) {
	quoted := func(b []byte) string { return "'" + strings.ReplaceAll(fromUTF16(b), "'", "''") + "'" }
	switch kind := s.uint8(); kind {
	case typeIntN:
		s.uint8()
		b := s.bytes(s.uint8())
		if len(b) == 0 {
			return "NULL", nil
		}
		var wide [8]byte
		copy(wide[:], b)
		n := int64(binary.LittleEndian.Uint64(wide[:]))
		if shift := 64 - 8*len(b); shift > 0 {
			n = n << shift >> shift
		}
		return strconv.FormatInt(n, 10), nil
	case typeBitN:
		s.uint8()
		b := s.bytes(s.uint8())
		if len(b) == 0 {
			return "NULL", nil
		}
		return strconv.Itoa(int(b[0])), nil
	case typeNVarChar:
		longest := s.uint16()
		s.bytes(5) // collation
		if longest != 0xffff {
			n := s.uint16()
			if n == 0xffff {
				return "NULL", nil
			}
			return quoted(s.bytes(n)), nil
		}
		if b := s.bytes(8); b == nil || binary.LittleEndian.Uint64(b) == 1<<64-1 {
			return "NULL", nil
		}
		var all []byte
		for {
			n := s.uint32()
			if n == 0 || s.failed {
				return quoted(all), nil
			}
			all = append(all, s.bytes(n)...)
		}
	default:
		return "", fmt.Errorf("a parameter of type %#x is not known here", kind)
	}
}
