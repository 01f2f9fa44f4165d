package ddl

// A script is written statement by statement: settings where they change, terminators as the client takes them.

import (
	"fmt"
	"io"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/format"
	"echo-atlas/internal/core/schema"
)

// Text returns the statements as the engine's own client takes them, without a heading.
func (s *Script) Text() string {
	var b strings.Builder
	_ = s.WriteTo(&b) // a Builder does not fail
	return b.String()
}

// StringWriter is what a script is written to.
type StringWriter interface {
	io.Writer
	io.StringWriter
}

// WriteTo writes what Text returns. A *RefusedError comes after all else was written.
func (s *Script) WriteTo(w StringWriter) error { return s.writeTo(w, func(int) {}) }

// writeTo tells before it writes the text of a statement.
func (s *Script) writeTo(w StringWriter, before func(i int)) error {
	b := scriptWriter{w: w}
	settings := map[string]string{}
	var resets []string
	var refused []Refused
	end := ";\n"
	if s.traits.Batch != "" {
		end = "\n" + s.traits.Batch + "\n"
	}
	if s.Prelude != "" {
		b.WriteString(s.Prelude + "\n")
	}
	t := transaction{script: s, w: &b, end: end}
	last, lastSubject := "", schema.ID{}
	for i, st := range s.Statements {
		text, compound, err := s.text(st), st.Compound, st.Unknown
		if scripter, ok := s.engine.(engine.Scripter); ok && err == nil {
			text, compound, err = scripter.Scripted(st, text, s.version())
		}
		if err != nil {
			refused = append(refused, Refused{st.Subject, err})
			b.WriteString("\n-- left out: " + strings.Join(strings.Fields(strings.ToValidUTF8(st.Subject.Qualified()+": "+err.Error(), "?")), " ") + "\n")
			continue
		}
		t.minds(st)
		// Statements of several lines stand alone; short ones of one object stay together.
		if i > 0 && (strings.Contains(text, "\n") || strings.Contains(last, "\n") || st.Subject != lastSubject) {
			b.WriteString("\n")
		}
		for _, set := range st.Settings {
			if settings[set.Name] == set.Text {
				continue
			}
			if len(settings) == 0 && s.traits.Before != "" {
				b.WriteString(s.traits.Before + ";\n")
			}
			if settings[set.Name] == "" && set.Reset != "" {
				resets = append(resets, set.Reset+end)
			}
			settings[set.Name] = set.Text
			b.WriteString(set.Text + end)
		}
		before(i)
		for _, line := range notes(st) {
			b.WriteString("-- " + line + "\n")
		}
		if st.Off {
			b.WriteString("-- " + strings.ReplaceAll(text, "\n", "\n-- ") + ";\n")
			last, lastSubject = text+"\n", st.Subject
			continue
		}
		if compound && s.traits.Delimiter != "" {
			mark := "//"
			for strings.Contains(text, mark) {
				mark += "/"
			}
			b.WriteString(fmt.Sprintf("%s %s\n%s\n%s\n%s ;\n", s.traits.Delimiter, mark, text, mark, s.traits.Delimiter))
		} else {
			b.WriteString(text + end)
		}
		last, lastSubject = text, st.Subject
	}
	if len(resets) > 0 {
		b.WriteString("\n" + strings.Join(resets, ""))
	}
	if len(settings) > 0 && s.traits.After != "" {
		b.WriteString("\n" + s.traits.After + ";\n")
	}
	t.close()
	if b.err == nil && len(refused) > 0 {
		return &RefusedError{refused}
	}
	return b.err
}

// notes returns what is said in front of a statement, as lines.
func notes(st *engine.Statement) []string {
	var lines []string
	for i := range st.Risks {
		r := &st.Risks[i]
		line := r.Kind.String()
		if r.Text != "" {
			line += ": " + r.Text
		}
		lines = append(lines, strings.Join(strings.Fields(strings.ToValidUTF8(line, "?")), " "))
		if r.Query != "" {
			lines = append(lines, "  look first: "+strings.Join(strings.Fields(strings.ToValidUTF8(r.Query, "?")), " "))
		}
	}
	return lines
}

// version returns what the server calls itself that the script is for, "" where that is not known.
func (s *Script) version() string {
	if s.carried {
		return ""
	}
	return s.Snapshot.Version
}

// text returns the text of a statement, minding what is there where that is asked for.
func (s *Script) text(st *engine.Statement) string {
	text := st.Text()
	if s.style != nil && (s.styleAll || !keepsText(st.Subject.Kind)) {
		style := *s.style
		if b, ok := s.engine.(engine.Barer); ok && style.Needed {
			style.Bare = b.Bare
		}
		if out, ok := format.Text(text, s.traits.Rules, style); ok {
			text = strings.TrimRight(out, "\n")
		}
	}
	careful, ok := s.engine.(engine.Careful)
	switch {
	case !ok || !s.Careful:
	case st.Action == engine.Drop:
		text = careful.IfPresent(st, text)
	case s.IfAbsent:
		text = careful.IfAbsent(st, text)
	}
	return text
}

// keepsText reports whether the text of an object is somebody's own.
func keepsText(k schema.Kind) bool {
	switch k {
	case schema.KindView, schema.KindMaterialisedView, schema.KindTrigger, schema.KindEvent, schema.KindRule, schema.KindPackage, schema.KindPackageBody, schema.KindDatabaseTrigger:
		return true
	}
	return k.IsRoutine()
}

// transaction encloses the statements of a script that take effect together; those that cannot be in one stand outside.
type transaction struct {
	script *Script
	w      *scriptWriter
	end    string
	open   bool
}

// minds opens or closes the transaction before a statement.
func (t *transaction) minds(st *engine.Statement) {
	if !t.script.Together || t.script.traits.Begin == "" || t.open != st.Alone {
		return
	}
	if t.open {
		t.close()
		return
	}
	t.w.WriteString(t.script.traits.Begin + t.end + "\n")
	t.open = true
}

func (t *transaction) close() {
	if t.open {
		t.w.WriteString("\n" + t.script.traits.Commit + t.end)
		t.open = false
	}
}

// Piece is a statement of a script as it is run by itself.
type Piece struct {
	Subject  schema.ID
	Settings []engine.Setting
	Text     string
	Line     int // on which it begins in the text of the script
	Risks    []engine.Risk
}

// Pieces returns the statements of a script as they are run one by one, without what is meant for a client.
func (s *Script) Pieces() []Piece {
	pieces := make([]Piece, 0, len(s.Statements))
	lines := lineCounter{at: make([]int, len(s.Statements))}
	_ = s.writeTo(&lines, func(i int) { lines.at[i] = lines.n + 1 }) // what is refused for the client's sake is no matter here
	for i, st := range s.Statements {
		if !st.Off {
			pieces = append(pieces, Piece{st.Subject, st.Settings, s.text(st), lines.at[i], st.Risks})
		}
	}
	return pieces
}

// lineCounter counts the lines that are written.
type lineCounter struct {
	n  int
	at []int
}

func (c *lineCounter) Write(b []byte) (int, error) { return c.WriteString(string(b)) }

func (c *lineCounter) WriteString(text string) (int, error) {
	c.n += strings.Count(text, "\n")
	return len(text), nil
}

// RefusedError tells which statements were left out of a script because no text of them is safe in its client, or none is known.
type RefusedError struct{ Statements []Refused }

// Refused is what a statement that was left out is about, and why there is no text of it.
type Refused struct {
	Subject schema.ID
	Reason  error
}

func (e *RefusedError) Error() string {
	text := fmt.Sprintf("%d of the statements cannot be written, or not so that the client runs them as they are; a comment stands in their place: ", len(e.Statements))
	for i, s := range e.Statements[:min(len(e.Statements), 3)] {
		if i > 0 {
			text += "; "
		}
		text += s.Subject.Qualified() + ": " + s.Reason.Error()
	}
	return text
}

// scriptWriter keeps the first error.
type scriptWriter struct {
	w   StringWriter
	err error
}

func (b *scriptWriter) WriteString(text string) {
	if b.err == nil {
		_, b.err = b.w.WriteString(text)
	}
}
