package handbook

// The pages' form: HTML, its style, and the script of the search.

import (
	_ "embed"
	"html/template"
	"strings"
	"sync"
)

//go:embed form/handbook.css
var style string

//go:embed form/handbook.js
var script string

//go:embed form/pages.html
var forms string

// templates are parsed when the first page is written.
var templates = sync.OnceValue(func() *template.Template {
	return template.Must(template.New("pages").Funcs(template.FuncMap{"lines": func(s string) []string { return strings.Split(strings.TrimSpace(s), "\n") }}).Parse(forms))
})
