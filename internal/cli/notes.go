package cli

// Notes of the configuration, and where find meets them.

import (
	"context"
	"strings"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/notes"
	"echo-atlas/internal/core/search"
)

// notes reads the notes of the configuration.
func (a *app) notes() (*notes.Notes, error) {
	texts, err := a.cfg.Notes()
	if err != nil {
		return nil, &exitError{exitUsage, err}
	}
	n, err := notes.New(texts)
	if err != nil {
		return nil, &exitError{exitUsage, err}
	}
	return n, nil
}

// noted is a note that find met, with what it is about.
type noted struct {
	note  *notes.Note
	match *address.Match
}

// findNotes returns the notes that hold a text, one for each thing that they are about, within what is asked for.
func (a *app) findNotes(ctx context.Context, r *address.Resolver, q *search.Query, within []address.Match) ([]noted, error) {
	if !q.Texts {
		return nil, nil
	}
	all, err := a.notes()
	if err != nil || len(all.All()) == 0 || q.Regex || q.Type != "" {
		return nil, err
	}
	var found []noted
	for _, n := range all.All() {
		text := names.Fold(n.Text)
		if !strings.Contains(text, names.Fold(q.Text)) {
			continue
		}
		parsed, err := address.Parse(n.Address)
		if err != nil {
			return nil, err
		}
		matches, err := r.All(ctx, parsed)
		if err != nil { // about nothing that was read
			continue
		}
		for i := range matches {
			m := &matches[i]
			if m.Entry != nil && (len(within) == 0 || covers(within, m)) {
				found = append(found, noted{n, m})
			}
		}
	}
	return found, nil
}

// covers reports whether one of several matches holds another.
func covers(within []address.Match, m *address.Match) bool {
	for i := range within {
		w := &within[i]
		if w.Contents.Snapshot.ID == m.Contents.Snapshot.ID && (w.Entry == nil && (w.Schema == "" || w.Schema == m.Entry.ID.Schema) || w.Entry != nil && w.Entry.ID == m.Entry.ID) {
			return true
		}
	}
	return false
}

// notesText lists notes that were met.
func (a *app) notesText(found []noted) error {
	if len(found) == 0 {
		return nil
	}
	a.section("in notes")
	t := render.Table{NoHead: true, Indent: "  ", Columns: []render.Column{{}, {}, {Min: 20, Wrap: true}}}
	for _, x := range found {
		t.AddCells(render.Cell{Text: string(x.match.Location().ID.Kind), Style: render.Faint}, render.Cell{Text: x.match.Location().String()}, render.Cell{Text: strings.Join(strings.Fields(x.note.Text), " ")})
	}
	return t.Text(a.Stdout, a.width, a.paint)
}
