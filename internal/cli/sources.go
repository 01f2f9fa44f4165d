package cli

// Every answer says on which snapshots it rests, and how old these are.

import (
	"fmt"
	"strings"
	"time"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/schema"
)

// source is what an answer says in JSON of a snapshot that it rests on.
type source struct {
	Server      string    `json:"server"`
	Database    string    `json:"database"`
	Engine      string    `json:"engine"`
	Environment string    `json:"environment,omitempty"`
	Snapshot    int64     `json:"snapshot"`
	Label       string    `json:"label,omitempty"`
	Taken       time.Time `json:"taken"`
	AgeSeconds  int64     `json:"age_seconds"`
}

func (a *app) sources(all []*catalogue.Snapshot) []source {
	list := []source{}
	for _, s := range all {
		list = append(list, source{s.Server, s.Database, s.Engine, s.Environment, s.ID, s.Label, s.Taken, int64(a.Now().Sub(s.Taken).Seconds())})
	}
	return list
}

// about says in words what a snapshot is: engine, environment, age.
func (a *app) about(s *catalogue.Snapshot) string {
	words := []string{s.Engine}
	if s.Environment != "" {
		words = append(words, s.Environment)
	}
	words = append(words, "read "+render.Age(a.Now().Sub(s.Taken)))
	if s.Label != "" {
		words = append(words, "label "+s.Label)
	}
	return render.Visible(strings.Join(words, ", "))
}

// footer says what an answer rests on: each snapshot where they are few, else their number and the
// oldest.
func (a *app) footer(all []*catalogue.Snapshot) string {
	all = catalogue.Sources(all...)
	switch {
	case len(all) == 0:
		return ""
	case len(all) <= 2:
		var parts []string
		for _, s := range all {
			parts = append(parts, render.Visible(s.Location().String())+" ("+a.about(s)+")")
		}
		return strings.Join(parts, "; ")
	}
	oldest := all[0]
	for _, s := range all {
		if s.Taken.Before(oldest.Taken) {
			oldest = s
		}
	}
	return fmt.Sprintf("%d databases; the oldest reading is that of %s (%s)", len(all), render.Visible(oldest.Location().String()), a.about(oldest))
}

// place is an address in JSON, whole and split in fields.
type place struct {
	Address   string      `json:"address"`
	Server    string      `json:"server,omitempty"`
	Database  string      `json:"database,omitempty"`
	Schema    string      `json:"schema,omitempty"`
	Object    string      `json:"object,omitempty"`
	Part      string      `json:"part,omitempty"`
	Kind      schema.Kind `json:"kind,omitempty"`
	Signature string      `json:"signature,omitempty"`
}

func addressOf(l schema.Location) place {
	x := place{
		Address: l.String(), Server: l.Server, Database: l.Database, Schema: l.ID.Schema, Object: l.ID.Name, Part: l.Part, Kind: l.ID.Kind,
		Signature: l.ID.Signature,
	}
	if l.ID.Table != "" {
		x.Object, x.Part = l.ID.Table, l.ID.Name
	}
	if l.Part != "" {
		x.Kind = l.PartKind
	}
	return x
}

// addresses returns the whole addresses in JSON's form.
func addresses(all []schema.Location) []place {
	list := []place{}
	for _, l := range all {
		list = append(list, addressOf(l))
	}
	return list
}
