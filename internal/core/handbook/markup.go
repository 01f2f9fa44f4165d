package handbook

// Definitions with their words set off, and every name in them that means something a link.

import (
	"html"
	"html/template"
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
	"echo-atlas/internal/core/view"
)

// mostMarked is how long a text is at most that is marked up, in bytes.
const mostMarked = 400_000

// mention is a name in a text, and where it leads.
type mention struct {
	start, end   int
	href, titled string
}

// definition returns the text of an object, marked up.
func (p *pages) definition(entry int) template.HTML {
	o := p.b.objects[entry]
	text := view.Definition(o, p.b.engine)
	if text == "" || o.Kind == schema.KindSchema {
		return ""
	}
	text = strings.ToValidUTF8(text, "\ufffd")
	if len(text) > mostMarked || p.b.engine == nil {
		return template.HTML(html.EscapeString(text)) // escaped
	}
	var b strings.Builder
	mentions := p.mentions(entry, text)
	rules := p.b.engine.Traits().Rules
	mark(&b, text, 0, rules, &mentions)
	return template.HTML(b.String()) // every piece of the text is escaped
}

// mentions returns the names in a text that mean objects which have a page, in the order of the text.
func (p *pages) mentions(entry int, text string) []mention {
	if p.b.reader == nil {
		return nil
	}
	var all []mention
	for _, t := range p.b.reader.Texts(p.b.objects[entry]) {
		base := strings.Index(text, t.Text)
		if base < 0 || t.Text == "" {
			continue
		}
		for _, n := range t.Names {
			target, ok := n.Key.(*schema.Object)
			if !ok || n.End <= n.At || n.Guessed {
				continue
			}
			at, ok := p.b.at[target.ID()]
			if !ok {
				continue
			}
			anchor, title := "", target.ID().String()
			if n.Column != "" {
				anchor, title = "c-"+slug(n.Column), title+"."+n.Column
			}
			if href := p.to(at, anchor); href != "" {
				all = append(all, mention{base + n.At, base + n.End, href, title})
			}
		}
	}
	slices.SortFunc(all, func(x, y mention) int { return x.start - y.start })
	kept := all[:0]
	for _, x := range all {
		if len(kept) == 0 || x.start >= kept[len(kept)-1].end {
			kept = append(kept, x)
		}
	}
	return kept
}

// mark writes a stretch of a text that begins at an offset of the whole; what it mentions is taken from the front of the list.
func mark(b *strings.Builder, text string, base int, rules sqltext.Rules, mentions *[]mention) {
	l := sqltext.Lexer{Text: text, Rules: rules, KeepComments: true}
	last := 0
	for t := l.Next(); t.Kind != sqltext.End; t = l.Next() {
		b.WriteString(html.EscapeString(text[last:t.Start]))
		last = t.End
		word := text[t.Start:t.End]
		for len(*mentions) > 0 && (*mentions)[0].end <= base+t.Start {
			*mentions = (*mentions)[1:]
		}
		if len(*mentions) > 0 && (*mentions)[0].start == base+t.Start && (*mentions)[0].end == base+t.End {
			m := (*mentions)[0]
			b.WriteString(`<a href="` + html.EscapeString(m.href) + `" title="` + html.EscapeString(m.titled) + `">` + html.EscapeString(word) + `</a>`)
			continue
		}
		class := ""
		switch {
		case t.Kind == sqltext.String && word[0] == '$': // a body
			n := strings.IndexByte(word[1:], '$') + 2
			if n >= 2 && len(word) >= 2*n {
				b.WriteString(html.EscapeString(word[:n]))
				mark(b, word[n:len(word)-n], base+t.Start+n, rules, mentions)
				b.WriteString(html.EscapeString(word[len(word)-n:]))
				continue
			}
		case t.Kind == sqltext.String:
			class = "s"
		case t.Kind == sqltext.Number:
			class = "m"
		case t.Kind == sqltext.Comment:
			class = "q"
		case t.Kind == sqltext.Word && sqltext.IsKeyword(word):
			class = "w"
		}
		if class == "" {
			b.WriteString(html.EscapeString(word))
		} else {
			b.WriteString(`<span class="` + class + `">` + html.EscapeString(word) + `</span>`)
		}
	}
	b.WriteString(html.EscapeString(text[last:]))
}
