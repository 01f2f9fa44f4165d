package drift

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// tables returns tables of "name:type" words: each has one column of the type.
func tables(words string) (all []*schema.Object) {
	for _, w := range strings.Fields(words) {
		name, typ, _ := strings.Cut(w, ":")
		all = append(all, &schema.Object{Kind: schema.KindTable, Name: name, Relation: &schema.Relation{Columns: []schema.Column{{Name: "no", Type: typ}}}})
	}
	return all
}

// Each environment is read on some days; what differs is told with the day from which on it did.
func TestCompare(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 3, n, 12, 0, 0, 0, time.UTC) }
	for _, k := range []struct {
		name     string
		readings []string // "server day: tables", in the order of the days; the servers are compared in the order in which they come first
		same     int
		want     []string // "table: state version [since day]" for each environment
	}{
		{"all the same", []string{"live 1: berth:int tide:int", "test 1: berth:int tide:int"}, 2, nil},
		{"another type, since the one or the other changed", []string{"live 1: berth:int", "test 1: berth:int", "live 3: berth:text", "test 5: berth:int"}, 0,
			[]string{"berth: same 1, differs 2 since 3"}},
		{"a difference as old as the readings", []string{"live 1: berth:int tide:int", "test 2: berth:text tide:int"}, 1, []string{"berth: same 1, differs 2"}},
		{"missing, and there alone", []string{"live 1: berth:int", "test 1: berth:int", "test 4: tide:int"}, 0,
			[]string{"berth: same 1, missing 0 since 4", "tide: missing 0, there 2 since 4"}},
		{"two that are as each other, and a third", []string{"live 1: berth:int", "test 1: berth:text", "dev 1: berth:text", "own 1: berth:date"}, 0,
			[]string{"berth: same 1, differs 2, differs 2, differs 3"}},
		{"what differs most comes first", []string{"live 1: berth:int tide:int", "test 1: berth:int tide:text", "dev 1: berth:text tide:text"}, 0,
			[]string{"tide: same 1, differs 2, differs 2", "berth: same 1, same 1, differs 2"}},
		{"it was as it should be once", []string{"live 1: berth:int", "test 1: berth:int", "test 2: berth:text", "test 3: berth:int", "test 6: berth:text"}, 0,
			[]string{"berth: same 1, differs 2 since 6"}},
	} {
		c := testcatalogue.New(t)
		latest := map[string]*catalogue.Snapshot{}
		var order []string
		for _, line := range k.readings {
			head, words, _ := strings.Cut(line, ":")
			var server string
			var n int
			if _, err := fmt.Sscan(head, &server, &n); err != nil {
				t.Fatal(err)
			}
			if latest[server] == nil {
				order = append(order, server)
			}
			latest[server] = testcatalogue.Save(t, c, catalogue.Origin{Server: server, Environment: server}, &schema.Reading{Engine: "sqlite", Database: "berths", Taken: day(n), Objects: tables(words)}).Snapshot
		}
		var snapshots []*catalogue.Snapshot
		for _, server := range order {
			snapshots = append(snapshots, latest[server])
		}
		g, err := Compare(context.Background(), c, snapshots, diff.Options{})
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for i := range g.Rows {
			var cells []string
			for _, cell := range g.Rows[i].Cells {
				text := fmt.Sprintf("%s %d", cell.State, cell.Version)
				if !cell.Since.IsZero() {
					text += fmt.Sprintf(" since %d", cell.Since.Day())
				}
				cells = append(cells, text)
			}
			got = append(got, g.Rows[i].ID.Name+": "+strings.Join(cells, ", "))
		}
		if !slices.Equal(got, k.want) || g.Same != k.same {
			t.Errorf("%s: %d the same, %q; want %d, %q", k.name, g.Same, got, k.same, k.want)
		}
	}
}
