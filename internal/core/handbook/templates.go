package handbook

// The pages' form: HTML, its style, and the script of the search.

import (
	_ "embed"
	"html/template"
	"strings"
)

//go:embed form/handbook.css
var style string

//go:embed form/handbook.js
var script string

//go:embed form/pages.html
var forms string

var templates = template.Must(template.New("pages").Funcs(template.FuncMap{"lines": func(s string) []string { return strings.Split(strings.TrimSpace(s), "\n") }}).Parse(forms))
