package cli

// Reports on rights, on what changed, and on environments.

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/drift"
	"echo-atlas/internal/core/report"
	"echo-atlas/internal/core/report/own"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

// moment reads a date, a time, or how long ago.
func moment(text string, now time.Time) (time.Time, error) {
	if d, err := time.ParseDuration(text); err == nil && d >= 0 {
		return now.Add(-d), nil
	}
	for _, form := range []string{"2006-01-02", "2006-01-02T15:04:05Z07:00", "2006-01-02 15:04"} {
		if t, err := time.ParseInLocation(form, text, now.Location()); err == nil {
			return t, nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is no date such as 2026-03-01, and no time such as 24h", text)
}

// shownTime returns a time as people or programs read it.
func (a *app) shownTime(text string) string {
	if t, err := time.Parse(time.RFC3339, text); err == nil && !a.forMachines() {
		return t.Local().Format("2006-01-02 15:04")
	}
	return text
}

// mostNamed is how many objects a row names.
const mostNamed = 6

// rights returns who may do what.
func (a *app) rights(ctx context.Context, c *catalogue.Catalogue, s *selection.Set) ([]finding, error) {
	found, err := report.FindRights(ctx, c, s.Contents, s.Covers)
	if err != nil {
		return nil, err
	}
	snapshot := s.Contents.Snapshot
	var all []finding
	for _, x := range found {
		name := cmp.Or(x.Grantee, "everybody")
		f := finding{place: place{Address: snapshot.Location().String(), Server: snapshot.Server, Database: snapshot.Database, Kind: x.Kind}, name: name, Right: x.Right, Passed: x.Grantable, Objects: len(x.Objects)}
		f.Object = name
		for i, e := range x.Objects {
			if i == mostNamed && len(x.Objects) > mostNamed+1 {
				f.Columns = append(f.Columns, fmt.Sprintf("and %d more", len(x.Objects)-i))
				break
			}
			f.Columns = append(f.Columns, e.ID.String())
		}
		all = append(all, f)
	}
	return all, nil
}

// changed returns what changed since a moment.
func (a *app) changed(ctx context.Context, c *catalogue.Catalogue, s *selection.Set, since time.Time) ([]finding, error) {
	snapshot := s.Contents.Snapshot
	if snapshot.Path != "" {
		return nil, nil
	}
	readings, err := c.Of(ctx, snapshot.Server, snapshot.Database)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(readings, func(x, y *catalogue.Snapshot) int { return x.Taken.Compare(y.Taken) })
	first := 0 // the last reading before counts as what was there
	for i, r := range readings {
		if r.Taken.Before(since) {
			first = i
		}
	}
	var all []finding
	err = own.Changes(ctx, c, readings[first:], func(r *catalogue.Snapshot, id schema.ID, change string) {
		if r.Taken.Before(since) || !s.Covers(id) {
			return
		}
		all = append(all, finding{place: addressOf(snapshot.Locate(id, "", "")), name: id.String(), Change: change, When: r.Taken.UTC().Format(time.RFC3339)})
	})
	return all, err
}

// drifted returns what is not the same in other environments of the family.
func (a *app) drifted(ctx context.Context, c *catalogue.Catalogue, s *selection.Set, row func(*catalogue.Entry) finding) ([]finding, error) {
	snapshot := s.Contents.Snapshot
	if snapshot.Family == "" || snapshot.Environment == "" || snapshot.Path != "" {
		return nil, nil
	}
	e := a.engineOf(snapshot)
	if e == nil {
		return nil, nil
	}
	latest, err := c.Latest(ctx)
	if err != nil {
		return nil, err
	}
	list := []*catalogue.Snapshot{snapshot}
	for _, other := range latest {
		if other.Family == snapshot.Family && other.Environment != "" && other.Environment != snapshot.Environment && other.Counterpart() == snapshot.Counterpart() && other.Engine == snapshot.Engine {
			list = append(list, other)
		}
	}
	if len(list) == 1 {
		return nil, nil
	}
	g, err := drift.Compare(ctx, c, list, diff.For(e))
	if err != nil {
		return nil, err
	}
	var all []finding
	for i := range g.Rows {
		x := &g.Rows[i]
		here := s.Contents.Find(x.ID)
		if here == nil || !s.Covers(x.ID) {
			continue
		}
		var words []string
		for k := 1; k < len(x.Cells); k++ {
			if state := x.Cells[k].State; state != drift.Same {
				words = append(words, string(state)+" in "+list[k].Environment)
			}
		}
		f := row(here)
		f.Reason = strings.Join(words, ", ")
		all = append(all, f)
	}
	return all, nil
}
