package ddl

// A script in pieces: a file for each object, in folders by schema and kind, numbered in the order in which they run.

import (
	"fmt"
	"path"
	"strings"
	"unicode"

	"echo-atlas/internal/core/schema"
)

// File is a piece of a script.
type File struct {
	Path   string // with slashes, of letters, digits and a few signs alone
	Object schema.ID
	Script *Script
}

// Files cuts a script into files. What stands apart from an object, because others have to come in between, is a file of its own.
func (s *Script) Files() []File {
	var files []File
	seen := map[schema.ID]bool{}
	for i, st := range s.Statements {
		id := st.Subject
		if id.Kind == schema.KindForeignKey { // stands apart from its table
			id.Kind, id.Signature = schema.KindTable, ""
		}
		if n := len(files); n > 0 && files[n-1].Object == id {
			files[n-1].Script.Statements = append(files[n-1].Script.Statements, st)
			continue
		}
		part := *s
		part.Statements, part.Together, part.Prelude = s.Statements[i:i+1:i+1], false, ""
		name := FileName(id.Name)
		if seen[id] {
			name += "_later"
		}
		seen[id] = true
		files = append(files, File{
			Path:   path.Join(FileName(id.Schema), FileName(strings.ReplaceAll(string(id.Kind), " ", "_")), fmt.Sprintf("%05d_%s.sql", len(files)+1, name)),
			Object: id, Script: &part,
		})
	}
	return files
}

// FileName returns a name as part of the name of a file: letters and digits stay, all else that could mean something to a file
// system or a client is written as its number. "" stays that.
func FileName(name string) string {
	const longest = 80
	var b strings.Builder
	for i, r := range name {
		switch {
		case r < 0x80 && (unicode.IsLetter(r) || unicode.IsDigit(r)) || r == '_' || r == '-' && i > 0:
			b.WriteRune(r)
		default:
			fmt.Fprintf(&b, "%%%X", r)
		}
		if b.Len() > longest {
			break
		}
	}
	return b.String()
}

// Includes returns the lines of the client's own that run files, as a transaction where the script is one.
func (s *Script) Includes(files []File) string {
	var b strings.Builder
	end := ";\n"
	if s.traits.Batch != "" {
		end = "\n" + s.traits.Batch + "\n"
	}
	if s.Prelude != "" {
		b.WriteString(s.Prelude + "\n")
	}
	t := transaction{script: s, w: &scriptWriter{w: &b}, end: end}
	for _, f := range files {
		t.minds(f.Script.Statements[0])
		b.WriteString(s.traits.Include + " " + f.Path + "\n")
	}
	t.close()
	return b.String()
}
