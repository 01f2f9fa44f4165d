package search

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"echo-atlas/internal/core/catalogue"
)

// nearWords returns the words inside names of objects and parts that are nearest to a text, best first.
func nearWords(ctx context.Context, c *catalogue.Catalogue, snapshots []*catalogue.Snapshot, text string) ([]string, error) {
	const most = 5
	text = catalogue.FoldLine(text)
	limit := max(1, utf8.RuneCountInString(text)/3)
	const workers = 2
	var seen [workers]map[string]int
	for i := range seen {
		seen[i] = map[string]int{}
	}
	err := c.Scan(ctx, snapshots, workers, func(worker int, k *catalogue.Chunk) error {
		distances, names, start := seen[worker], k.Names.Folded, 0
		for i := range len(names) {
			if c := names[i]; 'a' <= c && c <= 'z' || c >= utf8.RuneSelf {
				continue
			}
			word := names[start:i]
			start = i + 1
			// By bytes, of which a letter may have four.
			if word == "" || len(word) < len(text)-4*limit || len(word) > len(text)+4*limit {
				continue
			}
			if _, known := distances[word]; !known {
				distances[strings.Clone(word)] = catalogue.EditDistance(text, word, limit)
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	distances := seen[0]
	for _, other := range seen[1:] {
		maps.Copy(distances, other)
	}
	var near []string
	for word, distance := range distances {
		if distance <= limit {
			near = append(near, word)
		}
	}
	slices.SortFunc(near, func(a, b string) int { return cmp.Or(cmp.Compare(distances[a], distances[b]), cmp.Compare(a, b)) })
	return near[:min(len(near), most)], nil
}
