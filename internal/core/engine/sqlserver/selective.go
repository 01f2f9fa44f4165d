package sqlserver

// Selective XML indexes hold some paths of a column (documentation: "CREATE SELECTIVE XML INDEX", "sys.selective_xml_index_paths").

import (
	"errors"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// xmlPath is a path that a selective XML index holds.
type xmlPath struct {
	id   int
	name string
	text string
}

func (r *reader) xmlPath(row *engine.Row) {
	id := at{int(row.Int(0)), int(row.Int(1))}
	text := quote(row.Text(3)) + " = " + plainLiteral(row.Text(4))
	switch {
	case row.Truth(10):
		text += " AS XQUERY " + plainLiteral("node()")
	case row.Text(5) == "SQL":
		text += " AS SQL " + r.typeText(int(row.Int(11)), int(row.Int(12)), int(row.Int(13)), int(row.Int(14)))
	default:
		if !row.Truth(7) && row.Text(6) != "" {
			text += " AS XQUERY " + plainLiteral(row.Text(6))
			if !row.Truth(9) && !row.Null(8) {
				text += " MAXLENGTH(" + row.Text(8) + ")"
			}
		}
	}
	if row.Truth(15) && !row.Truth(10) {
		if !strings.Contains(text, " AS ") {
			text += " AS XQUERY"
		}
		text += " SINGLETON"
	}
	r.xmlPaths[id] = append(r.xmlPaths[id], xmlPath{int(row.Int(2)), row.Text(3), text})
}

func (r *reader) xmlSpace(row *engine.Row) {
	x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]
	if x == nil {
		return
	}
	text := plainLiteral(row.Text(3)) + " AS " + row.Text(4)
	if row.Truth(2) {
		text = "DEFAULT " + plainLiteral(row.Text(3))
	}
	x.settings = append(x.settings, schema.Property{Name: "namespace " + row.Text(4), Value: text})
}

var errPaths = errors.New("the paths that it holds were not read")

// plainLiteral writes a string without the mark of Unicode, where only such a one may stand.
func plainLiteral(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

// selective puts the paths of a selective XML index among its settings, and the name of its path in those of one that is made of it.
func (r *reader) selective(id at, x *index) {
	for _, p := range r.xmlPaths[id] {
		x.settings = append(x.settings, schema.Property{Name: "path " + itoa(p.id), Value: p.text})
	}
	for i, p := range x.settings {
		if p.Name != "for path" {
			continue
		}
		for other, paths := range r.xmlPaths {
			if base := r.indexes[other]; other[0] != id[0] || base == nil || base.name != schema.SettingOf(x.settings, "using") {
				continue
			}
			for _, path := range paths {
				if itoa(path.id) == p.Value {
					x.settings[i].Value = quote(path.name)
					break
				}
			}
		}
	}
}

// selectiveTail writes the namespaces and paths of a selective XML index.
func (w *writer) selectiveTail() string {
	var spaces, paths []string
	for _, p := range w.Object.Settings {
		switch {
		case strings.HasPrefix(p.Name, "namespace "):
			spaces = append(spaces, p.Value)
		case strings.HasPrefix(p.Name, "path "):
			paths = append(paths, p.Value)
		}
	}
	if len(paths) == 0 {
		w.Failed = errPaths
	}
	text := ""
	if len(spaces) > 0 {
		text = " WITH XMLNAMESPACES (" + strings.Join(spaces, ", ") + ")"
	}
	return text + " FOR (" + strings.Join(paths, ", ") + ")"
}

// madeOfXML writes of which XML index one is made, and for what: a sort of question, or the path of a selective one.
func (w *writer) madeOfXML() string {
	text := " USING XML INDEX " + quote(w.Object.Setting("using")) + " FOR "
	path := w.Object.Setting("for path")
	switch {
	case path == "":
		return text + strings.ToUpper(w.Object.Setting("for"))
	case !strings.HasPrefix(path, "["): // its number alone
		w.Failed = errPaths
	}
	return text + "(" + path + ")"
}
