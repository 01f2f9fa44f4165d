package cli

// A comparison as a document: Markdown for a review, HTML for mail.

import (
	"context"
	"fmt"
	"strings"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/chart"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/schema"
)

// document writes a document in the form that is asked for.
func (a *app) document(d *render.Document) error {
	write := d.Markdown
	if a.as == "html" {
		write = d.HTML
	}
	if !isTerminal(a.Stdout) {
		return write(a.Stdout)
	}
	var text strings.Builder // on a terminal nothing may move the cursor
	err := write(&text)
	a.printf("%s", render.VisibleLines(text.String()))
	return err
}

func (a *app) diffDocument(results []*diff.Result, lonely []string, summaryOnly bool, unseen []gaps.Gap) *render.Document {
	var total diff.Summary
	for _, res := range results {
		total = total.Plus(res.Summary)
	}
	d := &render.Document{Title: fmt.Sprintf("What changed from %s to %s", results[0].Old.Location(), results[0].New.Location())}
	if len(results) > 1 {
		d.Title = fmt.Sprintf("What changed in %d databases", len(results))
	}
	for _, res := range results {
		sides := &render.Table{Columns: []render.Column{{}, {Title: "database"}, {Title: "state"}}}
		sides.Add("old", res.Old.Location().String(), dated(res.Old))
		sides.Add("new", res.New.Location().String(), dated(res.New))
		if len(results) > 1 {
			d.Blocks = append(d.Blocks, render.Block{Heading: res.New.Location().String()})
		}
		d.Blocks = append(d.Blocks, render.Block{Table: sides})
		if t := overview(res); len(t.Rows) > 0 {
			d.Blocks = append(d.Blocks, render.Block{Table: t})
		}
		d.Blocks = append(d.Blocks, render.Block{Text: restOf(res, len(unseen) > 0)})
		if summaryOnly {
			continue
		}
		for _, change := range []diff.Change{diff.Added, diff.Removed, diff.Renamed, diff.Changed} {
			var items []render.Item
			for _, o := range res.Objects {
				if o.Change == change {
					items = append(items, objectItem(&o))
				}
			}
			if len(items) > 0 {
				word := string(change)
				d.Blocks = append(d.Blocks, render.Block{Heading: strings.ToUpper(word[:1]) + word[1:]}, render.Block{Items: items})
			}
		}
		var questions []render.Item
		for _, q := range res.Questions {
			what, option := renameOption(q)
			questions = append(questions, render.Item{Runs: []render.Run{{Text: fmt.Sprintf("%s, %.0f %% alike; if so: ", what, 100*q.Likelihood)}, {Text: option, Code: true}}})
		}
		if len(questions) > 0 {
			d.Blocks = append(d.Blocks, render.Block{Heading: "May be renamed"}, render.Block{Items: questions})
		}
	}
	for _, line := range lonely {
		d.Blocks = append(d.Blocks, render.Block{Text: line})
	}
	return a.withUnseen(d, unseen)
}

// withUnseen adds to a document what was not seen.
func (a *app) withUnseen(d *render.Document, unseen []gaps.Gap) *render.Document {
	if len(unseen) > 0 {
		var items []render.Item
		for _, line := range a.gapLines(unseen) {
			items = append(items, render.Item{Runs: []render.Run{{Text: line}}})
		}
		d.Blocks = append(d.Blocks, render.Block{Heading: "Not seen"}, render.Block{Items: items})
	}
	return d
}

// dated says what a snapshot is, for those who read it later.
func dated(s *catalogue.Snapshot) string {
	words := []string{s.Engine}
	for _, w := range []string{s.Environment, "read " + s.Taken.UTC().Format("2006-01-02 15:04") + " UTC"} {
		if w != "" {
			words = append(words, w)
		}
	}
	if s.Label != "" {
		words = append(words, "label "+s.Label)
	}
	return strings.Join(words, ", ")
}

func objectItem(o *diff.Object) render.Item {
	it := render.Item{Runs: []render.Run{{Text: string(o.ID.Kind) + " "}, {Text: o.ID.String(), Code: true}}}
	if o.Was.Name != "" {
		it.Runs = append(it.Runs, render.Run{Text: ", was "}, render.Run{Text: o.Was.String(), Code: true})
	}
	for _, p := range o.Properties {
		if o.Change != diff.Renamed || p.Path != "name" {
			it.Items = append(it.Items, propertyItem(p))
		}
	}
	if n := len(o.Followers); n > 0 {
		names := make([]string, n)
		for i, id := range o.Followers {
			names[i] = string(id.Kind) + " " + id.String()
		}
		it.Items = append(it.Items, render.Item{Runs: []render.Run{{Text: render.Plural(n, "follows", "follow") + ": " + strings.Join(names, ", ")}}})
	}
	return it
}

// propertyItem says what differs in one property.
func propertyItem(p schema.Difference) render.Item {
	const around = 2
	path, isPart := propertyWords(p.Path)
	it := render.Item{Runs: []render.Run{{Text: path}}}
	add := func(runs ...render.Run) { it.Runs = append(it.Runs, runs...) }
	text := func(s *string) string {
		if s == nil {
			return ""
		}
		return *s
	}
	old, now := text(p.Old), text(p.New)
	word := func(came, set string) string {
		if isPart {
			return " " + came + " "
		}
		return " " + set + " "
	}
	switch {
	case strings.Contains(old+now, "\n"):
		var before, after []string
		if p.Old != nil {
			before = strings.Split(old, "\n")
		}
		if p.New != nil {
			after = strings.Split(now, "\n")
		}
		for _, l := range diff.Text(before, after, around) {
			line := render.TextLine{Text: l.Text, Spans: l.Spans}
			switch {
			case l.Gap:
				line.Text = "…"
			case l.Change == diff.Removed:
				line.Word = "was"
			case l.Change == diff.Added:
				line.Word = "now"
			}
			it.Lines = append(it.Lines, line)
		}
	case p.Old == nil && p.New == nil:
	case isPart && (p.Old == nil || p.New == nil) && (strings.Contains(path, old+now) || strings.HasSuffix(old+now, path)): // it is called by its text
		add(render.Run{Text: map[bool]string{true: " added", false: " removed"}[p.Old == nil]})
	case p.Old == nil:
		add(render.Run{Text: word("added", "now")}, render.Run{Text: now, Code: true, Come: true})
	case p.New == nil:
		add(render.Run{Text: word("removed", "no longer")}, render.Run{Text: old, Code: true, Gone: true})
	default:
		add(render.Run{Text: " was "}, render.Run{Text: old, Code: true, Gone: true}, render.Run{Text: ", now "}, render.Run{Text: now, Code: true, Come: true})
	}
	return it
}

// diffChart draws what differs in a comparison of two databases.
func (a *app) diffChart(ctx context.Context, c *catalogue.Catalogue, results []*diff.Result, unseen []gaps.Gap) error {
	if len(results) != 1 {
		return usagef("a picture shows one comparison, and there are %d; name one database", len(results))
	}
	res := results[0]
	d, err := chart.OfDiff(ctx, c, res, c.Contents)
	if err != nil {
		return err
	}
	d.Title = fmt.Sprintf("What changed from %s to %s", res.Old.Location(), res.New.Location())
	if len(d.Boxes) == 0 {
		d.Notes = append(d.Notes, "No table, view, routine or trigger differs.")
	}
	return a.writeChart(d, []*catalogue.Snapshot{res.Old, res.New}, unseen, "")
}

// diffTable returns what differs as rows: one for each property, one for an object that is on one side alone.
func diffTable(results []*diff.Result) *render.Table {
	t := &render.Table{}
	for _, title := range []string{"change", "kind", "address", "was", "property", "old", "new"} {
		t.Columns = append(t.Columns, render.Column{Title: title})
	}
	for _, res := range results {
		for i := range res.Objects {
			o := &res.Objects[i]
			side, was := res.New, ""
			if o.Change == diff.Removed {
				side = res.Old
			}
			if o.Was.Name != "" {
				was = res.Old.Locate(o.Was, "", "").String()
			}
			at := side.Locate(o.ID, "", "").String()
			if len(o.Properties) == 0 {
				t.Add(string(o.Change), string(o.ID.Kind), at, was, "", "", "")
			}
			for _, p := range o.Properties {
				row := []string{string(o.Change), string(o.ID.Kind), at, was, p.Path, "", ""}
				for k, value := range []*string{p.Old, p.New} {
					if value != nil {
						row[5+k] = *value
					}
				}
				t.Add(row...)
			}
		}
	}
	return t
}
