package config

// Named selections stand for the addresses in them, also within each other.

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// selectionMark stands in front of the name of a selection where an address could be.
const selectionMark = "selection:"

// SelectionError says why a selection cannot be used.
type SelectionError struct {
	Name   string
	Reason string
}

func (e *SelectionError) Error() string { return "selection:" + e.Name + ": " + e.Reason }

// Expand returns addresses with those in the place of selections that these hold.
func (c *Config) Expand(texts []string) ([]string, error) {
	if !slices.ContainsFunc(texts, func(s string) bool { return strings.HasPrefix(s, selectionMark) }) {
		return texts, nil
	}
	return c.expand(texts, nil)
}

func (c *Config) expand(texts, within []string) ([]string, error) {
	var all []string
	for _, text := range texts {
		name, ok := strings.CutPrefix(text, selectionMark)
		if !ok {
			all = append(all, text)
			continue
		}
		list, known := c.Selections[name]
		switch {
		case slices.Contains(within, name):
			return nil, &SelectionError{name, "it holds itself"}
		case !known && len(c.Selections) == 0:
			return nil, &SelectionError{name, "the configuration has no selections; they stand in [selections], as NAME = [\"ADDRESS\", …]"}
		case !known:
			return nil, &SelectionError{name, "there is no such selection; there is " + strings.Join(slices.Sorted(maps.Keys(c.Selections)), ", ")}
		case len(list) == 0:
			return nil, &SelectionError{name, "it is empty"}
		}
		more, err := c.expand(list, append(slices.Clone(within), name))
		if err != nil {
			return nil, fmt.Errorf("selection:%s: %w", name, err)
		}
		all = append(all, more...)
	}
	return all, nil
}
