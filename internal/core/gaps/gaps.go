// Package gaps tells what an answer cannot know: what a reading did not see, what was never read or failed to be read
// last, and where nobody looked. An answer that a gap could change has to say so.
package gaps

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// State is what sort of gap it is: those of remarks, and these.
type State string

// The states of gaps.
const (
	Hidden     State = "hidden"     // for want of a right
	Locked     State = "locked"     // another session kept it locked
	Failed     State = "failed"     // it was tried, and failed
	Unread     State = "unread"     // not read by this program
	Never      State = "never read" // a server of the configuration
	Unsearched State = "unsearched" // bodies that are not searched for what they refer to
	Elsewhere  State = "elsewhere"  // other databases that were not looked into
)

// Gap is one thing that was not seen.
type Gap struct {
	State   State
	Where   schema.Location // a server, or a database of it
	Subject string          // the object that it is about, with its kind in front; "" for all of the place
	Reason  string
	Kinds   []schema.Kind // those of which something may be missing; none: any
	Count   int           // of what was not searched
}

// Concern says what an answer is about.
type Concern struct {
	Snapshots []*catalogue.Snapshot // on which it rests
	// Kinds are those that it is limited to, none for all.
	Kinds []schema.Kind
	// Objects are those that it is about, as remarks name them; nil for all of the snapshots.
	Objects []string
	// Servers are those that might hold more: the names of the configuration. Empty where the answer is about
	// databases that were named.
	Servers []string
	// Everywhere says that the answer is about all that the servers hold, so that a database that was never read
	// could change it.
	Everywhere bool
	// References says that the answer is about what refers to what.
	References bool
	Traits     func(engine string) engine.Traits
}

// Of returns what could change an answer, the server first, then by database.
func Of(ctx context.Context, c *catalogue.Catalogue, about Concern) ([]Gap, error) {
	var all []Gap
	latest, err := c.Latest(ctx)
	if err != nil {
		return nil, err
	}
	for _, s := range about.Snapshots {
		for _, k := range s.Remarks {
			if k.State != "note" && about.touches(k) {
				all = append(all, Gap{State: State(k.State), Where: s.Location(), Subject: k.Subject, Reason: k.Reason, Kinds: k.Kinds})
			}
		}
		if about.References && about.Traits != nil {
			all = append(all, about.references(s, latest)...)
		}
	}
	failures, err := c.Failures(ctx)
	if err != nil {
		return nil, err
	}
	read := map[string]bool{}
	if about.Everywhere {
		for _, s := range latest {
			read[s.Server] = true
		}
	}
	failed := map[string]bool{}
	for _, f := range failures {
		if !about.concerns(f) {
			continue
		}
		failed[f.Server] = true
		all = append(all, Gap{State: Failed, Where: schema.Location{Server: f.Server, Database: f.Database}, Reason: f.Reason})
	}
	if about.Everywhere {
		for _, name := range about.Servers {
			if !read[name] && !failed[name] {
				all = append(all, Gap{State: Never, Where: schema.Location{Server: name}})
			}
		}
	}
	slices.SortStableFunc(all, func(a, b Gap) int {
		return cmp.Or(strings.Compare(a.Where.Server, b.Where.Server), strings.Compare(a.Where.Database, b.Where.Database), strings.Compare(a.Subject, b.Subject))
	})
	return all, nil
}

// touches reports whether a remark could change the answer.
func (about *Concern) touches(k schema.Remark) bool {
	if k.Subject != "" && about.Objects != nil && !about.References && !slices.Contains(about.Objects, k.Subject) {
		return false
	}
	if len(about.Kinds) == 0 || len(k.Kinds) == 0 {
		return true
	}
	return slices.ContainsFunc(k.Kinds, func(kind schema.Kind) bool { return slices.Contains(about.Kinds, kind) })
}

// concerns reports whether a failed reading could change the answer: it is of a database or server on which that
// rests, or of one that the configuration names while the answer is about everything.
func (about *Concern) concerns(f catalogue.Failure) bool {
	for _, s := range about.Snapshots {
		if s.Server == f.Server && s.When == "" && s.Path == "" && (f.Database == "" || f.Database == s.Database) {
			return true
		}
	}
	return about.Everywhere && slices.Contains(about.Servers, f.Server)
}

// searchedModel is the first version of the model whose readings searched the bodies of all kinds.
const searchedModel = 5

// references returns what may refer to something, and was not searched for that.
func (about *Concern) references(s *catalogue.Snapshot, latest []*catalogue.Snapshot) []Gap {
	var all []Gap
	traits := about.Traits(s.Engine)
	count := 0
	var kinds []schema.Kind
	for _, k := range traits.Unsearched {
		if n := s.Counts[k]; n > 0 && s.Model < searchedModel {
			count += n
			kinds = append(kinds, k)
		}
	}
	if count > 0 {
		all = append(all, Gap{State: Unsearched, Where: s.Location(), Kinds: kinds, Count: count})
	}
	others := slices.ContainsFunc(latest, func(o *catalogue.Snapshot) bool {
		return o.Server == s.Server && o.Database != s.Database && o.Database != engine.ServerLevel
	})
	if traits.CrossDatabase && s.Path == "" && s.Database != engine.ServerLevel && !others {
		all = append(all, Gap{State: Elsewhere, Where: s.Location()})
	}
	return all
}
