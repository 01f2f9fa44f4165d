package render

import (
	"encoding/json"
	"io"
)

// JSON writes a value in JSON, indented, with names as they are.
func JSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}
