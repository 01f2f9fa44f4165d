package selection

// Lists of addresses from a file: a line each, or what other commands print as JSON.

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// ErrNoAddresses says that a list holds none.
var ErrNoAddresses = errors.New("it holds no addresses: one a line, or the JSON that list, find, trace and diff print")

// ReadList returns the addresses in a text: one a line, where # begins a comment and blank lines count for nothing; or a JSON
// document, of which every object with a field "address" counts in the lists objects, matches, nodes and databases.
func ReadList(text string) ([]string, error) {
	var all []string
	seen := map[string]bool{}
	add := func(s string) {
		if !seen[s] {
			seen[s] = true
			all = append(all, s)
		}
	}
	text = strings.TrimPrefix(text, "\ufeff")
	if strings.HasPrefix(strings.TrimSpace(text), "{") {
		type row struct {
			Address string `json:"address"`
			Kind    string `json:"kind"`
			Part    string `json:"part"`
			Object  string `json:"object"`
		}
		var doc struct{ Objects, Matches, Nodes, Databases []row }
		if err := json.Unmarshal([]byte(text), &doc); err != nil {
			return nil, fmt.Errorf("it is no JSON: %w", err)
		}
		for _, list := range [][]row{doc.Objects, doc.Matches, doc.Nodes, doc.Databases} {
			for _, r := range list {
				switch {
				case r.Address == "":
				case r.Part != "" || r.Object == "":
					add(r.Address)
				default:
					add(r.Kind + ":" + r.Address) // of the things of one name, this one
				}
			}
		}
	} else {
		for line := range strings.Lines(text) {
			if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
				add(line)
			}
		}
	}
	if len(all) == 0 {
		return nil, ErrNoAddresses
	}
	return all, nil
}
