package ddl

// A script is written statement by statement: settings where they change, terminators as the client takes them.

import (
	"fmt"
	"io"
	"strings"

	"echo-atlas/internal/core/engine"
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
func (s *Script) WriteTo(w StringWriter) error {
	b := scriptWriter{w: w}
	settings := map[string]string{}
	var resets []string
	var refused []Refused
	end := ";\n"
	if s.traits.Batch != "" {
		end = "\n" + s.traits.Batch + "\n"
	}
	last, lastSubject := "", schema.ID{}
	for i, st := range s.Statements {
		text, compound := st.Text(), st.Compound
		if scripter, ok := s.engine.(engine.Scripter); ok {
			var err error
			if text, compound, err = scripter.Scripted(st, text, s.Snapshot.Version); err != nil {
				refused = append(refused, Refused{st.Subject, err})
				err = fmt.Errorf("%s: %w", st.Subject.Qualified(), err)
				b.WriteString("\n-- left out: " + strings.Join(strings.Fields(strings.ToValidUTF8(err.Error(), "?")), " ") + "\n")
				continue
			}
		}
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
	if b.err == nil && len(refused) > 0 {
		return &RefusedError{refused}
	}
	return b.err
}

// RefusedError tells which statements were left out of a script because no text of them is safe in its client.
type RefusedError struct{ Statements []Refused }

// Refused is what a statement that was left out is about, and why there is no text of it.
type Refused struct {
	Subject schema.ID
	Reason  error
}

func (e *RefusedError) Error() string {
	text := fmt.Sprintf("%d of the statements cannot be written so that the client runs them as they are; a comment stands in their place: ", len(e.Statements))
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
