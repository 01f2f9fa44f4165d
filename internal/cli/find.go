package cli

// The command find: hits in the order of their places, folded where environments share them; a miss says where else to
// look.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/search"
)

func (a *app) findCommand() *cli.Command {
	return &cli.Command{
		Name:      "find",
		Usage:     "search the names of objects, columns and other parts, on all servers at once",
		ArgsUsage: "[TEXT…]",
		Description: "TEXT is a part of a name, in any case; with a wildcard (* or % for any run of characters, ? for one) it\n" +
			"is the whole name, in a definition or comment a part of a line.\n" +
			"Words in quotes match however a name joins them, and in any order: 'lost property' finds lost_property, LostProperty\n" +
			"and property_lost_at. Of several TEXTs one is to match. Exit code 1 says that nothing was found.\n\n" +
			"Examples:\n  echo-atlas find draught\n  echo-atlas find '*_no' --kind column --in quay-live\n  echo-atlas find '*' --type 'numeric*' --environment live\n  echo-atlas find --with-columns 'vessel_id,*_from'\n  echo-atlas find '*' --in quay-dev --except quay-live\n  echo-atlas find paid_on --text\n  echo-atlas find '^berth_?(no|id)$' --regex",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			kindFlag(), inFlag(), limitFlag(100),
			&cli.StringSliceFlag{Name: "environment", Usage: "only in this `ENVIRONMENT`, such as live; several with commas"},
			&cli.StringFlag{Name: "type", Usage: "only columns of this type, in any of the engine's names for it, or whose type fits this `PATTERN`: int, 'timestamp*'"},
			&cli.StringSliceFlag{Name: "with-columns", Usage: "only objects that have all of these `COLUMNS`, with commas; without a TEXT these objects themselves"},
			&cli.StringSliceFlag{Name: "except", Usage: "leave out what is at this `ADDRESS` too: what is in dev, but not in live"},
			&cli.BoolFlag{Name: "text", Usage: "search definitions (bodies, queries, defaults, checks) and comments too"},
			&cli.IntFlag{Name: "around", Usage: "like --text, with `N` lines before and after each hit"},
			&cli.BoolFlag{Name: "whole", Usage: "TEXT is a whole name, in a definition or comment a whole word"},
			&cli.BoolFlag{Name: "regex", Usage: "TEXT is a regular expression (RE2)"},
		},
		Action: a.find,
	}
}

// environments returns the environments of snapshots, in order.
func environments(all []*catalogue.Snapshot) []string {
	var names []string
	for _, s := range all {
		if s.Environment != "" {
			names = append(names, s.Environment)
		}
	}
	slices.Sort(names)
	return slices.Compact(names)
}

type found struct {
	place
	Where string `json:"where"`
	Line  int    `json:"line,omitempty"`
	Text  string `json:"text"`
	Type  string `json:"type,omitempty"`

	Before []string `json:"before,omitempty"`
	After  []string `json:"after,omitempty"`
}

func (a *app) find(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json", "csv", "markdown", "xlsx", "html"); err != nil {
		return err
	}
	columns := values(cmd, "with-columns")
	if bare := cmd.Args().Len() == 0 && len(columns) > 0; !bare && (cmd.Args().Len() == 0 || slices.Contains(cmd.Args().Slice(), "")) {
		return usagef("find takes a TEXT, or several of which one is to match; a TEXT with a blank needs quotes, '*' finds all")
	}
	wanted, err := kinds(cmd)
	if err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	if len(r.Latest()) == 0 {
		return usagef("the catalogue is empty; run: echo-atlas survey")
	}
	environments := environments(r.Latest())
	for _, wanted := range values(cmd, "environment") {
		if !slices.ContainsFunc(environments, func(e string) bool { return names.MatchPattern(wanted, e) }) {
			return usagef("--environment: nothing is catalogued as %q; there are: %s", wanted, cmp.Or(strings.Join(environments, ", "), "no environment at all"))
		}
	}
	r.Deferred = true
	within, err := a.scope(ctx, r, cmd)
	if err != nil {
		return err
	}
	except, err := a.resolveAll(ctx, r, values(cmd, "except"))
	if err != nil {
		return err
	}
	around := int(cmd.Int("around"))
	if around < 0 {
		return usagef("--around: %d lines cannot be shown", around)
	}
	q := search.Query{Or: cmd.Args().Tail(), WithColumns: columns, Except: except, Text: cmd.Args().First(), Regex: cmd.Bool("regex"), Texts: cmd.Bool("text") || around > 0, Around: around, Whole: cmd.Bool("whole"), Kinds: wanted, Within: within,
		Environments: values(cmd, "environment"), Type: cmd.String("type"),
		CanonicalType: func(engine, typ string) string { return a.traits(engine).CanonicalType(typ) },
		TypeNames:     func(engine string) map[string]string { return a.traits(engine).Types }}
	limit := int(cmd.Int("limit"))
	if limit > 0 && (a.as == "text" || cmd.IsSet("limit")) {
		q.Most = limit
		if a.as == "text" {
			q.Few = mostFolded
		}
	}
	res, err := search.Find(ctx, c, r, q)
	if err != nil {
		return &exitError{exitUsage, err}
	}
	noted, err := a.findNotes(ctx, r, &q, within)
	if err != nil {
		return err
	}
	about := gaps.Concern{Snapshots: res.Sources, Kinds: objectKinds(wanted), Everywhere: len(within) == 0}
	if !q.Texts { // locked or hidden texts do not matter to names
		about.Objects = []string{}
	}
	unseen, err := a.gaps(ctx, c, about)
	if err != nil {
		return err
	}
	if a.as == "text" {
		if err = a.findText(q, res, limit, len(unseen) > 0); err == nil {
			err = a.notesText(noted)
			a.unseen(unseen)
		}
	} else {
		err = a.findData(res, noted, unseen)
	}
	if err == nil && res.Total == 0 && len(noted) == 0 {
		err = &exitError{code: exitDiffer}
	}
	return err
}

// objectKinds returns kinds as those of objects: parts may be of any.
func objectKinds(kinds []schema.Kind) []schema.Kind {
	if slices.ContainsFunc(kinds, schema.Kind.IsPart) {
		return nil
	}
	return kinds
}

func (a *app) findData(res *search.Result, noted []noted, unseen []gaps.Gap) error {
	if a.as == "json" {
		list := []found{}
		for _, h := range res.Hits {
			list = append(list, found{place: addressOf(h.Location()), Where: string(h.Where()), Line: h.Line, Text: textOf(h), Type: h.Type, Before: h.Before, After: h.After})
		}
		for _, n := range noted {
			list = append(list, found{place: addressOf(n.match.Location()), Where: "note", Text: n.note.Text})
		}
		out := map[string]any{"matches": list, "total": res.Total + len(noted), "sources": a.sources(res.Sources), "unseen": a.unseenJSON(unseen)}
		if len(res.Hits) == 0 {
			out["near"] = addresses(res.Near)
			out["words"] = append([]string{}, res.Words...)
			out["outside"] = len(res.Outside)
			out["near_types"] = append([]string{}, res.Types...)
			out["excepted"] = res.Excepted
		}
		return render.JSON(a.Stdout, out)
	}
	a.unseenBeside(unseen)
	t := render.Table{Columns: []render.Column{{Title: "kind"}, {Title: "address"}, {Title: "where"}, {Title: "line", Right: true}, {Title: "text"}, {Title: "type"}}}
	if a.forMachines() {
		for _, title := range []string{"server", "database", "schema", "object", "part", "signature"} {
			t.Columns = append(t.Columns, render.Column{Title: title})
		}
	}
	for _, h := range res.Hits {
		line := ""
		if h.Line > 0 {
			line = strconv.Itoa(h.Line)
		}
		x := addressOf(h.Location())
		row := []string{string(h.Kind()), x.Address, string(h.Where()), line, textOf(h), h.Type, x.Server, x.Database, x.Schema, x.Object, x.Part, x.Signature}
		t.Add(row[:len(t.Columns)]...)
	}
	for _, n := range noted {
		x := addressOf(n.match.Location())
		row := []string{string(x.Kind), x.Address, "note", "", n.note.Text, "", x.Server, x.Database, x.Schema, x.Object, x.Part, x.Signature}
		t.Add(row[:len(t.Columns)]...)
	}
	return a.table(&t)
}

// textOf returns what a hit was found in: a name, or a line of a text.
func textOf(h *search.Hit) string {
	if h.Line > 0 {
		return h.Text
	}
	return h.Name
}

// textCell shows the line of a hit in a text, without its indentation; of a long line what stands around the
// hit.
func textCell(res *search.Result, h *search.Hit) render.Cell {
	const far, before = 48, 24 // bytes
	front := string(h.Where()) + ": "
	if h.Where() == search.InDefinition {
		front = "line " + strconv.Itoa(h.Line) + ": "
	}
	spans := res.Spans(h)
	start := len(h.Text) - len(strings.TrimLeft(h.Text, " \t"))
	if len(spans) > 0 && spans[0][0] > start+far {
		start = spans[0][0] - before
		for start > 0 && !utf8.RuneStart(h.Text[start]) {
			start--
		}
		front += "…"
	}
	cell := render.Cell{Text: front + h.Text[start:]}
	shift := len(front) - start
	for _, s := range spans {
		if s[0] >= start {
			cell.Spans = append(cell.Spans, [2]int{s[0] + shift, s[1] + shift})
		}
	}
	return cell
}

// hitTable shows hits, those of one object together, with what matches set off in the address. Of several hits
// in one object the address of the object stands once, and below it the rest of each.
func (a *app) hitTable(res *search.Result, groups []search.Group, repeats map[int]int) *render.Table {
	// An address is never cut: what was found stands at its end, and it is to be copied.
	t := &render.Table{NoHead: true, Columns: []render.Column{{}, {}, {Min: 8}, {Min: 12}}}
	repeated := map[*search.Hit]int{}
	for i, n := range repeats {
		if i < len(groups) {
			repeated[groups[i].Hit] = n
		}
	}
	note := func(g search.Group) {
		if n := repeated[g.Hit]; n > 0 {
			last := &t.Rows[len(t.Rows)-1][3]
			last.Text = strings.TrimPrefix(last.Text+"; "+render.Plural(n, "key or check is", "keys and checks are")+" named after it", "; ")
		}
	}
	for _, of := range search.ByObject(groups) {
		first := of[0]
		if len(of) == 1 {
			a.hitRow(t, res, first, first.Location().String(), string(first.Kind()))
			note(first)
			continue
		}
		whole := first.Snapshot.Locate(first.ID, "", "").String()
		own := slices.IndexFunc(of, func(g search.Group) bool { return g.Part == "" })
		if own >= 0 {
			a.hitRow(t, res, of[own], whole, string(first.ID.Kind))
			name := of[own].Line == 0
			note(of[own])
			of = slices.Delete(of, own, own+1)
			if text := slices.IndexFunc(of, func(g search.Group) bool { return g.Part == "" }); name && text >= 0 && strings.HasPrefix(t.Rows[len(t.Rows)-1][3].Text, alsoIn(of[text])) {
				t.Rows[len(t.Rows)-1][2] = textCell(res, of[text].Hit) // there is room for it
				of = slices.Delete(of, text, text+1)
			}
		} else {
			t.AddCells(render.Cell{Text: string(first.ID.Kind), Style: render.Faint}, render.Cell{Text: whole, Style: render.Faint})
		}
		for _, g := range of {
			kind, rest := "", ""
			if g.Part != "" {
				kind, rest = "  "+string(g.Part), "  ."+names.Quote(g.Name)
			}
			a.hitRow(t, res, g, rest, kind)
		}
	}
	return t
}

// hitRow adds a hit to a table; where is its address, or the end of it.
func (a *app) hitRow(t *render.Table, res *search.Result, g search.Group, where, kind string) {
	h, cell := g.Hit, render.Cell{Text: where}
	var detail render.Cell
	if h.Line > 0 {
		detail = textCell(res, h)
	} else {
		if last := names.Quote(h.Name); last == h.Name { // not quoted: the name ends the address, or its signature does
			start := len(where) - len(last)
			if start >= 0 && where[start:] == last {
				for _, s := range res.Spans(h) {
					cell.Spans = append(cell.Spans, [2]int{start + s[0], start + s[1]})
				}
			}
		}
		detail = render.Cell{Text: h.Type, Style: render.Faint}
		if h.Kind() == schema.KindSynonym && detail.Text != "" {
			detail.Text = "for " + detail.Text
		}
		if h.NotNull {
			detail.Text += " not null"
		}
	}
	t.AddCells(render.Cell{Text: kind, Style: render.Faint}, cell, detail, render.Cell{Text: alsoIn(g), Style: render.Faint})
}

// mostFolded is up to how many hits those that are the same thing in several environments become one row. Of
// more only some are known, and a row could not say where else its thing is.
const mostFolded = 1000

// alsoIn says in which other environments a thing is, and where it differs.
func alsoIn(g search.Group) string {
	var places []string
	for _, o := range g.Others {
		place := o.Snapshot.Environment
		if place == "" || place == g.Snapshot.Environment {
			place = o.Snapshot.Server
		}
		switch {
		case o.Differs && o.Type != g.Type:
			place += " (" + o.Type + ")"
		case o.Differs && o.Part == schema.KindColumn && o.NotNull:
			place += " (not null)"
		case o.Differs && o.Part == schema.KindColumn:
			place += " (null)"
		case o.Differs:
			place += " (differs)"
		}
		places = append(places, place)
	}
	if places == nil {
		return ""
	}
	return "also " + strings.Join(places, ", ")
}

// around shows a hit in a text with the lines around it, below what it is in, if head asks for that.
func (a *app) around(res *search.Result, g search.Group, head bool) {
	if head {
		a.printf("%s\n", strings.TrimRight(a.paint.Text(render.Faint, string(g.Kind()))+"  "+render.Visible(g.Location().String())+"  "+
			a.paint.Text(render.Faint, strings.TrimSpace(string(g.Where())+"  "+alsoIn(g))), " "))
	}
	number := g.Line - len(g.Before)
	line := func(text string) {
		a.printf("%6d  %s\n", number, text)
		number++
	}
	for _, text := range g.Before {
		line(a.paint.Text(render.Faint, render.Visible(text)))
	}
	line(a.paint.Spans(render.Hit, g.Text, res.Spans(g.Hit)))
	for _, text := range g.After {
		line(a.paint.Text(render.Faint, render.Visible(text)))
	}
}

// whereMost says in which databases most of the hits are, nothing where there is one.
func whereMost(in []search.Count) string {
	if len(in) < 2 {
		return ""
	}
	const most = 3
	var places []string
	for _, c := range in[:min(most, len(in))] {
		places = append(places, fmt.Sprintf("%s (%s)", render.Visible(c.Snapshot.Location().String()), render.Count(c.Hits)))
	}
	return fmt.Sprintf("\nthey are in %s, most in %s", render.Plural(len(in), "database", "databases"), strings.Join(places, ", "))
}

// nothing says that there is nothing, where not all was seen, that nothing was.
func nothing(gaps bool) string {
	if gaps {
		return "Nothing that was seen"
	}
	return "Nothing"
}

func (a *app) findText(q search.Query, res *search.Result, limit int, gaps bool) error {
	if len(res.Hits) > 0 {
		return a.foundText(q, res, limit)
	}
	return a.missedText(q, res, gaps)
}

// foundText shows hits.
func (a *app) foundText(q search.Query, res *search.Result, limit int) error {
	rows, err := res.Rows(limit)
	if err != nil {
		return err
	}
	rows, repeats, repeated := res.WithoutRepeats(rows)
	all := len(rows)
	if limit > 0 {
		rows = rows[:min(limit, all)]
	}
	inTexts := len(rows) // from here on they are shown with the lines around them
	const narrow = 110   // columns, of which an address leaves too few for a line of text
	if q.Around > 0 || a.width > 0 && a.width < narrow {
		if i := slices.IndexFunc(rows, func(g search.Group) bool { return g.Line > 0 }); i >= 0 {
			inTexts = i
		}
	}
	if err := a.hitTable(res, rows[:inTexts], repeats).Text(a.Stdout, a.width, a.paint); err != nil {
		return err
	}
	texts := slices.Concat(search.ByObject(rows[inTexts:])...)
	for i, g := range texts {
		below := i > 0 && q.Around == 0 && texts[i-1].Location() == g.Location() && texts[i-1].Where() == g.Where() // what stands above
		if !below && i+inTexts > 0 {
			a.printf("\n")
		}
		a.around(res, g, !below)
	}
	a.printf("\n%s", render.Plural(res.Total, "hit", "hits"))
	folded := all+repeated < len(res.Hits)
	if folded {
		a.printf(", %s different", render.Count(all))
	}
	if repeated > 0 {
		a.printf(" (%s named after their tables)", render.Plural(repeated, "key or check is", "keys and checks are"))
	}
	if len(rows) < all || len(res.Hits) < res.Total {
		a.printf(", the best %s shown; for all add --limit 0, for fewer --in, --kind, --environment or --type%s", render.Count(len(rows)), whereMost(res.In))
	} else if folded {
		a.printf("; what several environments share stands once")
	}
	a.printf("\n")
	a.printf("%s\n", a.paint.Text(render.Faint, a.footer(res.Sources)))
	return nil
}

// missedText says that nothing was found, and what may have been meant.
func (a *app) missedText(q search.Query, res *search.Result, gaps bool) error {
	switch {
	case res.Excepted > 0:
		a.printf("All %s are there too.\n", render.Count(res.Excepted))
	case q.Text == "":
		a.printf("%s here has all of the columns %s.\n", nothing(gaps), render.Visible(strings.Join(q.WithColumns, ", ")))
	default:
		says := map[bool]string{false: "called", true: "called or says"}[q.Texts]
		if q.Type != "" {
			says = "of the type " + render.Visible(q.Type) + " and " + says
		}
		var quoted []string
		for _, text := range append([]string{q.Text}, q.Or...) {
			quoted = append(quoted, `"`+render.Fit(render.Visible(text), 100)+`"`)
		}
		a.printf("%s is %s %s here.\n", nothing(gaps), says, strings.Join(quoted, " or "))
	}
	const most = 5
	outside, err := search.Fold(res.Outside, most)
	if err != nil {
		return err
	}
	if n := len(outside); n > 0 && len(res.Types) == 0 {
		a.printf("\nOutside what the options allow there %s:\n", map[bool]string{true: "is a hit", false: "are hits"}[n == 1])
		if err := a.hitTable(res, outside[:min(n, most)], nil).Text(a.Stdout, a.width, a.paint); err != nil {
			return err
		}
		if n > most {
			a.printf("and %s more\n", render.Count(n-most))
		}
	}
	if len(res.Near) > 0 && len(res.Outside) == 0 {
		a.printf("\nNear it:\n")
		t := render.Table{NoHead: true, Columns: []render.Column{{}, {Min: 24}}}
		for _, l := range res.Near {
			kind := string(cmp.Or(l.PartKind, l.ID.Kind, "database"))
			t.AddCells(render.Cell{Text: kind, Style: render.Faint}, render.Cell{Text: l.String()})
		}
		if err := t.Text(a.Stdout, a.width, a.paint); err != nil {
			return err
		}
	}
	if len(res.Types) > 0 {
		a.printf("\nNo column has the type %s; near it are: %s\n", render.Visible(q.Type), render.Visible(strings.Join(res.Types, ", ")))
	}
	if len(res.Words) > 0 && len(res.Outside) == 0 {
		a.printf("\nNames hold words near it: %s\n", render.Visible(strings.Join(res.Words, ", ")))
	}
	a.printf("\n%s\n", a.paint.Text(render.Faint, a.footer(res.Sources)))
	return nil
}
