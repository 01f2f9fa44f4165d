package render

// A document is an answer as Markdown, for a review, or as one HTML page without anything from elsewhere, for mail.

import (
	"fmt"
	"html/template"
	"io"
	"strings"
)

// Document is an answer in blocks.
type Document struct {
	Title  string
	Blocks []Block
}

// Block is one of a heading, a paragraph, a table or a list.
type Block struct {
	Heading string
	Text    string
	Table   *Table
	Items   []Item
}

// Item is a point of a list, with texts and points below it.
type Item struct {
	Runs  []Run
	Lines []TextLine
	Items []Item
}

// Run is a stretch of a line.
type Run struct {
	Text string
	Code bool // a name, or SQL
	Gone bool // it was so
	Come bool // it is so now
}

// TextLine is a line of a text, old, new or of both; Spans are the bytes that differ.
type TextLine struct {
	Word  string // "was", "now" or ""
	Text  string
	Spans [][2]int
}

var markdownEscape = strings.NewReplacer("|", `\|`, `\`, `\\`, "<", "&lt;", "&", "&amp;", "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "#", `\#`, "~", `\~`)

// Markdown writes the document as Markdown (CommonMark, with tables).
func (d *Document) Markdown(w io.Writer) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n", markdownEscape.Replace(Visible(d.Title)))
	for _, x := range d.Blocks {
		b.WriteByte('\n')
		switch {
		case x.Heading != "":
			fmt.Fprintf(&b, "## %s\n", markdownEscape.Replace(Visible(x.Heading)))
		case x.Table != nil:
			if err := x.Table.Markdown(&b); err != nil {
				return err
			}
		case len(x.Items) > 0:
			markdownItems(&b, x.Items, "")
		default:
			fmt.Fprintf(&b, "%s\n", markdownEscape.Replace(Visible(x.Text)))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

func markdownItems(b *strings.Builder, items []Item, indent string) {
	for _, it := range items {
		b.WriteString(indent + "- ")
		for _, r := range it.Runs {
			if r.Code {
				b.WriteString(codeSpan(Visible(r.Text)))
			} else {
				b.WriteString(markdownEscape.Replace(Visible(r.Text)))
			}
		}
		b.WriteByte('\n')
		if len(it.Lines) > 0 {
			fence := "```"
			for _, l := range it.Lines {
				for strings.Contains(l.Text, fence) {
					fence += "`"
				}
			}
			fmt.Fprintf(b, "\n%s  %stext\n", indent, fence)
			for _, l := range it.Lines {
				fmt.Fprintf(b, "%s  %-3s  %s\n", indent, l.Word, Visible(l.Text))
			}
			fmt.Fprintf(b, "%s  %s\n\n", indent, fence)
		}
		markdownItems(b, it.Items, indent+"  ")
	}
}

// codeSpan returns a text as a code span, whatever backticks are in it.
func codeSpan(s string) string {
	ticks := "`"
	for strings.Contains(s, ticks) {
		ticks += "`"
	}
	if strings.HasPrefix(s, "`") || strings.HasSuffix(s, "`") {
		s = " " + s + " "
	}
	if s == "" {
		return ""
	}
	return ticks + s + ticks
}

const page = `<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Title}}</title>
<style>
:root { color-scheme: light dark; }
body { font: 15px/1.5 system-ui, sans-serif; margin: 2rem auto; max-width: 60rem; padding: 0 1rem; }
h1 { font-size: 1.4rem; } h2 { font-size: 1.1rem; margin-top: 1.8rem; }
table { border-collapse: collapse; margin: 1rem 0; } th, td { text-align: left; padding: .2rem 1.2rem .2rem 0; vertical-align: top; }
th { font-weight: 600; border-bottom: 1px solid; } td.right, th.right { text-align: right; }
ul { padding-left: 1.2rem; } code, pre { font: 13px/1.5 ui-monospace, monospace; }
pre { overflow-x: auto; padding: .4rem .8rem; border-left: 3px solid #8888; white-space: pre-wrap; }
del { color: #a3262a; text-decoration: line-through; } ins { color: #1d6b32; text-decoration: underline; }
.was { color: #a3262a; } .now { color: #1d6b32; }
@media (prefers-color-scheme: dark) { del, .was { color: #ff9d98; } ins, .now { color: #8fd6a0; } }
</style>
</head>
<body>
<main>
<h1>{{.Title}}</h1>
{{range .Blocks}}{{if .Heading}}<h2>{{.Heading}}</h2>
{{else if .Table}}<table>
<thead><tr>{{range .Table.Columns}}<th scope="col"{{if .Right}} class="right"{{end}}>{{.Title}}</th>{{end}}</tr></thead>
<tbody>{{$columns := .Table.Columns}}{{range .Table.Rows}}<tr>{{range $i, $c := .}}<td{{if (index $columns $i).Right}} class="right"{{end}}>{{visible $c.Text}}</td>{{end}}</tr>
{{end}}</tbody>
</table>
{{else if .Items}}{{template "items" .Items}}{{else}}<p>{{visible .Text}}</p>
{{end}}{{end}}</main>
</body>
</html>
{{define "items"}}<ul>
{{range .}}<li>{{range .Runs}}{{if .Gone}}<del><code>{{visible .Text}}</code></del>{{else if .Come}}<ins><code>{{visible .Text}}</code></ins>{{else if .Code}}<code>{{visible .Text}}</code>{{else}}{{visible .Text}}{{end}}{{end}}{{if .Lines}}
<pre>{{range .Lines}}<span class="{{.Word}}">{{printf "%-3s  " .Word}}{{$word := .Word}}{{range .Parts}}{{if not .Differs}}{{visible .Text}}{{else if eq $word "was"}}<del>{{visible .Text}}</del>{{else}}<ins>{{visible .Text}}</ins>{{end}}{{end}}</span>
{{end}}</pre>
{{end}}{{if .Items}}{{template "items" .Items}}{{end}}</li>
{{end}}</ul>
{{end}}`

// Part is a stretch of a line of a text.
type Part struct {
	Text    string
	Differs bool
}

// Parts cuts the line where it differs.
func (l TextLine) Parts() []Part {
	var parts []Part
	at := 0
	for _, s := range l.Spans {
		if s[0] > at {
			parts = append(parts, Part{l.Text[at:s[0]], false})
		}
		parts = append(parts, Part{l.Text[s[0]:s[1]], true})
		at = s[1]
	}
	return append(parts, Part{l.Text[at:], false})
}

// HTML writes the document as a page of its own.
func (d *Document) HTML(w io.Writer) error {
	t, err := template.New("page").Funcs(template.FuncMap{"visible": Visible}).Parse(page)
	if err != nil {
		return fmt.Errorf("writing the page: %w", err)
	}
	if err := t.Execute(w, d); err != nil {
		return fmt.Errorf("writing the page: %w", err)
	}
	return nil
}
