package search

import (
	"cmp"
	"context"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/index"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// stored makes a catalogue of databases, each with tables and columns of given names, in environments.
func stored(t testing.TB, databases map[string]map[string][]string) (*catalogue.Catalogue, *address.Resolver) {
	t.Helper()
	c := testcatalogue.New(t)
	for name, tables := range databases {
		server, environment, _ := strings.Cut(name, ":")
		r := &schema.Reading{Engine: "sqlite", Database: "berths", Taken: time.Unix(1e9, 0)}
		for table, columns := range tables {
			o := &schema.Object{Kind: schema.KindTable, Name: table, Relation: &schema.Relation{}}
			for _, col := range columns {
				o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: col, Type: "TEXT"})
			}
			r.Objects = append(r.Objects, o)
		}
		testcatalogue.Save(t, c, catalogue.Origin{Server: server, Environment: environment}, r)
	}
	return c, testcatalogue.Resolver(t, c)
}

func namesOf(hits []*Hit) []string {
	var all []string
	for _, h := range hits {
		all = append(all, h.Location().String())
	}
	return all
}

func TestOrderOfHits(t *testing.T) {
	c, r := stored(t, map[string]map[string][]string{
		"quay-live:live": {"berth": {"id", "berth_no"}, "berth_note": {"text"}, "old_berth": {"x"}, "unberthed": {"at"}},
		"quay-dev:dev":   {"berth": {"id"}},
	})
	ctx := context.Background()
	res, err := Find(ctx, c, r, Query{Text: "BERTH"})
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"quay-live/berths/berth", "quay-dev/berths/berth", "quay-live/berths/berth_note", "quay-live/berths/berth.berth_no", "quay-live/berths/old_berth", "quay-live/berths/unberthed"}
	if got := namesOf(res.Hits); !slices.Equal(got, want) || res.Total != len(want) {
		t.Errorf("%q (%d), want %q", got, res.Total, want)
	}
	few, err := Find(ctx, c, r, Query{Text: "berth", Most: 3})
	if err != nil || !slices.Equal(namesOf(few.Hits), want[:3]) || few.Total != len(want) {
		t.Errorf("the best three: %q of %d, %v", namesOf(few.Hits), few.Total, err)
	}
	if spans := res.Spans(res.Hits[4]); len(spans) != 1 || spans[0] != [2]int{4, 9} {
		t.Errorf("what matches in old_berth: %v", spans)
	}
	for text, want := range map[string]int{"berth*": 4, "*berth": 3, "b?rth": 2, "%no%": 2, "id": 2, "nothing*": 0} {
		res, err := Find(ctx, c, r, Query{Text: text})
		if err != nil || res.Total != want {
			t.Errorf("%q: %d hits, want %d: %q %v", text, res.Total, want, namesOf(res.Hits), err)
		}
	}
	only, err := Find(ctx, c, r, Query{Text: "berth", Kinds: []schema.Kind{schema.KindColumn}})
	if err != nil || !slices.Equal(namesOf(only.Hits), []string{"quay-live/berths/berth.berth_no"}) {
		t.Errorf("columns alone: %q %v", namesOf(only.Hits), err)
	}
	for _, limited := range []struct {
		query Query
		want  []string
	}{
		{Query{Text: "berth", Environments: []string{"dev"}}, []string{"quay-dev/berths/berth"}},
		{Query{Text: "*", Type: "tex*", Environments: []string{"d*", "other"}}, []string{"quay-dev/berths/berth.id"}},
		{Query{Text: "id", Type: "int*"}, nil},
	} {
		res, err := Find(ctx, c, r, limited.query)
		if err != nil || !slices.Equal(namesOf(res.Hits), limited.want) || len(limited.want) == 0 && len(res.Outside) != 2 {
			t.Errorf("%+v: %q, outside %q, %v", limited.query, namesOf(res.Hits), namesOf(res.Outside), err)
		}
	}
	at := func(text string) []address.Match {
		t.Helper()
		parsed, err := address.Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		all, err := r.All(ctx, parsed)
		if err != nil {
			t.Fatal(err)
		}
		return all
	}
	dev := at("quay-dev/berths")
	for _, limited := range []struct {
		query Query
		want  []string
	}{
		{Query{WithColumns: []string{"id", "Berth_*"}}, []string{"quay-live/berths/berth"}},
		{Query{WithColumns: []string{"i?"}}, []string{"quay-live/berths/berth", "quay-dev/berths/berth"}},
		{Query{WithColumns: []string{"i"}}, nil}, // a column is named as a whole
		{Query{Text: "no", WithColumns: []string{"id"}}, []string{"quay-live/berths/berth.berth_no"}},
		{Query{Text: "berth", Except: dev}, []string{"quay-live/berths/berth_note", "quay-live/berths/berth.berth_no", "quay-live/berths/old_berth", "quay-live/berths/unberthed"}},
		{Query{Text: "*", Except: at("quay-live")}, nil},
		{Query{Text: "*", Except: at("quay-live/berths/berth"), Within: dev}, nil},
		{Query{Text: "*", Except: at("quay-live/berths/old_berth"), Within: dev}, []string{"quay-dev/berths/berth", "quay-dev/berths/berth.id"}},
	} {
		res, err := Find(ctx, c, r, limited.query)
		if err != nil || !slices.Equal(namesOf(res.Hits), limited.want) {
			t.Errorf("%+v: %q, want %q: %v", limited.query, namesOf(res.Hits), limited.want, err)
		}
	}
	outside, err := Find(ctx, c, r, Query{Text: "unberthed", Within: dev})
	if err != nil || outside.Total != 0 || len(outside.Outside) != 1 {
		t.Errorf("a hit outside the limits: %+v %v", outside, err)
	}
	miss, err := Find(ctx, c, r, Query{Text: "brth"})
	if err != nil || miss.Total != 0 || len(miss.Near) == 0 || !strings.HasSuffix(miss.Near[0].String(), "/berth") {
		t.Errorf("a miss: %+v %v", miss, err)
	}
	if _, err := Find(ctx, c, r, Query{Text: "(", Regex: true}); err == nil {
		t.Error("a broken regular expression was taken")
	}
	if _, err := Find(ctx, c, r, Query{}); err == nil {
		t.Error("an empty text was taken")
	}
}

// A hit in a text comes with the lines around it, a synonym with what it stands for.
func TestAroundAndSynonyms(t *testing.T) {
	ctx := context.Background()
	c := testcatalogue.New(t)
	reading := &schema.Reading{Engine: "sqlserver", Database: "beacons", Taken: time.Unix(1e9, 0), Objects: []*schema.Object{
		{Kind: schema.KindSynonym, Schema: "dbo", Name: "lights", Definition: "CREATE SYNONYM [dbo].[lights] FOR [nav].[beacon]"},
		{Kind: schema.KindSynonym, Schema: "dbo", Name: "x] FOR [y", Definition: "CREATE SYNONYM [dbo].[x]] FOR [y] FOR [b].[a FOR b]"},
		{Kind: schema.KindView, Schema: "dbo", Name: "v", Relation: &schema.Relation{Query: "one\r\ntwo\nthree\nfour\nfive"}},
	}}
	testcatalogue.Save(t, c, catalogue.Origin{Server: "light"}, reading)
	r := testcatalogue.Resolver(t, c)
	for text, want := range map[string][]string{
		"one": {"|two,three"}, "two": {"one|three,four"}, "five": {"three,four|"}, "three": {"one,two|four,five"},
	} {
		res, err := Find(ctx, c, r, Query{Text: text, Texts: true, Around: 2})
		if err != nil || len(res.Hits) != 1 {
			t.Fatal(res, err)
		}
		if h := res.Hits[0]; strings.Join(h.Before, ",")+"|"+strings.Join(h.After, ",") != want[0] {
			t.Errorf("around %s: %q and %q", text, h.Before, h.After)
		}
	}
	for name, want := range map[string]string{"lights": "[nav].[beacon]", "x]": "[b].[a FOR b]"} {
		if res, err := Find(ctx, c, r, Query{Text: name}); err != nil || len(res.Hits) != 1 || res.Hits[0].Type != want {
			t.Errorf("%s: %+v %v, want %s", name, res.Hits, err, want)
		}
	}
}

// The same thing in several environments of a family is one group, with what differs.
func TestFold(t *testing.T) {
	ctx := context.Background()
	c := testcatalogue.New(t)
	for _, of := range []struct {
		server, environment, family, database, comment string
		column                                         schema.Column
	}{
		{"quay-live", "live", "quay", "berths", "", schema.Column{Name: "draught", Type: "numeric", Default: "draught()"}},
		{"quay-stage", "stage", "quay", "berths", "", schema.Column{Name: "draught", Type: "numeric", Default: "draught()"}},
		{"quay-dev", "dev", "quay", "berths", "of vessels", schema.Column{Name: "draught", Type: "numeric", NotNull: true, Default: "draught() + 1"}},
		{"quay-test", "test", "quay", "tides", "", schema.Column{Name: "draught", Type: "integer"}}, // another database
		{"yard-dev", "dev", "yard", "berths", "", schema.Column{Name: "draught", Type: "text"}},     // another family
		{"a", "", "", "berths", "", schema.Column{Name: "draught", Type: "text"}},                   // of no family
		{"b", "", "", "berths", "", schema.Column{Name: "draught", Type: "text"}},
	} {
		r := &schema.Reading{Engine: "postgres", Database: of.database, Taken: time.Unix(1e9, 0), Objects: []*schema.Object{
			{Kind: schema.KindTable, Name: "draught_log", Comment: of.comment, Relation: &schema.Relation{Columns: []schema.Column{of.column}}},
			{Kind: schema.KindFunction, Name: "f", Signature: "()", Routine: &schema.Routine{Definition: "-- deep\n-- deep\n"}},
		}}
		testcatalogue.Save(t, c, catalogue.Origin{Server: of.server, Environment: of.environment, Family: of.family}, r)
	}
	r := testcatalogue.Resolver(t, c)
	for _, of := range []struct {
		query Query
		want  []string
	}{
		{Query{Text: "draught", Kinds: []schema.Kind{schema.KindTable}}, []string{"a", "b", "quay-live quay-dev! quay-stage", "quay-test", "yard-dev"}},
		{Query{Text: "draught", Kinds: []schema.Kind{schema.KindColumn}}, []string{"a", "b", "quay-live quay-dev! quay-stage", "quay-test", "yard-dev"}},
		{Query{Text: "draught(", Texts: true}, []string{"quay-dev", "quay-live quay-stage"}},                                                  // the lines differ
		{Query{Text: "deep", Texts: true, Environments: []string{"live", "stage"}}, []string{"quay-live quay-stage", "quay-live quay-stage"}}, // two lines
	} {
		res, err := Find(ctx, c, r, of.query)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		hits := 0
		groups, err := Fold(res.Hits, 0)
		if err != nil {
			t.Fatal(err)
		}
		for _, g := range groups {
			row := []string{g.Snapshot.Server}
			for _, o := range g.Others {
				mark := map[bool]string{true: "!"}[o.Differs]
				row = append(row, o.Snapshot.Server+mark)
			}
			hits += len(row)
			slices.Sort(row[1:])
			got = append(got, strings.Join(row, " "))
		}
		slices.Sort(got)
		slices.Sort(of.want)
		if !slices.Equal(got, of.want) || hits != res.Total {
			t.Errorf("%+v: %q (%d of %d hits), want %q", of.query, got, hits, res.Total, of.want)
		}
	}
}

// Words are found however a name joins them; of several texts each is found.
func TestPhrasesAndSeveralTexts(t *testing.T) {
	c, r := stored(t, map[string]map[string][]string{
		"quay-live:live": {"lost property": {"pilotNo"}, "LostProperty": {"pilot_no"}, "old_lost.property_list": {"no_pilot"}, "lost": {"property", "Pilot No"}, "glost_property": nil},
	})
	for _, of := range []struct {
		query Query
		want  []string
		spans []string // what is set off in the first
	}{
		{Query{Text: "lost property"}, []string{"LostProperty", "lost property", "glost_property", "old_lost.property_list"}, []string{"LostProperty"}},
		{Query{Text: " LOST  property", Whole: true}, []string{"LostProperty", "lost property"}, []string{"LostProperty"}},
		{Query{Text: "pilot no"}, []string{"Pilot No", "no_pilot", "pilotNo", "pilot_no"}, []string{"pilotNo"}}, // in any order, the given one first
		{Query{Text: "no pilot", Whole: true}, []string{"Pilot No", "no_pilot", "pilotNo", "pilot_no"}, []string{"pilotNo"}},
		{Query{Text: "list lost"}, []string{"old_lost.property_list"}, []string{"lost", "list"}},
		{Query{Text: "pilot", Or: []string{"old"}}, []string{"Pilot No", "no_pilot", "old_lost.property_list", "pilotNo", "pilot_no"}, []string{"old"}},
		{Query{Text: "_lost", Or: []string{"lost.p", "list", "zzz"}}, []string{"old_lost.property_list"}, []string{"_lost.p", "list"}},
		{Query{Text: "*_no", Or: []string{"lost"}, Kinds: []schema.Kind{schema.KindColumn}}, []string{"pilot_no"}, []string{"pilot_no"}},
		{Query{Text: "zzz", Or: []string{"yyy"}}, nil, nil},
	} {
		for _, texts := range []bool{false, true} {
			of.query.Texts = texts // there are none, so nothing changes
			res, err := Find(context.Background(), c, r, of.query)
			if err != nil {
				t.Fatal(err)
			}
			var got, spans []string
			for i, h := range res.Hits {
				got = append(got, h.Name)
				for _, s := range res.Spans(h) {
					if i == 0 {
						spans = append(spans, h.Name[s[0]:s[1]])
					}
				}
			}
			slices.Sort(got)
			if slices.Sort(of.want); !slices.Equal(got, of.want) || !slices.Equal(spans, of.spans) {
				t.Errorf("%+v: %q, set off %q, want %q", of.query, got, spans, of.want)
			}
		}
	}
}

// Definitions, expressions and comments are found line by line, after the names.
func TestTexts(t *testing.T) {
	ctx := context.Background()
	c := testcatalogue.New(t)
	reading := &schema.Reading{Engine: "postgres", Database: "quay", Taken: time.Unix(1e9, 0), Objects: []*schema.Object{
		{Kind: schema.KindTable, Name: "berth", Comment: "where Ünruhe is moored", Source: "create table berth (TIDE int)", Relation: &schema.Relation{
			Columns: []schema.Column{{Name: "depth", Type: "numeric(4,1)", Default: "tide(0)", Comment: "at low tide"}, {Name: "at", Type: "date", Generated: &schema.Generated{Expression: "low_tide()"}}},
			Checks:  []schema.Check{{Name: "deep", Expression: "depth > tide()"}, {Expression: "tide() > 1"}},
		}},
		{Kind: schema.KindView, Name: "tide_now", Relation: &schema.Relation{Query: "SELECT *\n\tFROM Tide\n\tWHERE tides"}},
		{Kind: schema.KindFunction, Name: "f", Signature: "()", Routine: &schema.Routine{Definition: "BEGIN\r\n  -- the TIDE turns\r\nEND"}},
		{Kind: schema.KindTrigger, Name: "g", Within: "berth", Trigger: &schema.Trigger{Table: "berth", Body: "x := \x01 tide"}},
		{Kind: schema.KindIndex, Name: "i", Index: &schema.Index{Table: "berth", Columns: []schema.KeyPart{{Expression: "tide(a)"}}, Where: "a > 0"}},
	}}
	testcatalogue.Save(t, c, catalogue.Origin{Server: "live", Environment: "live"}, reading)
	r := testcatalogue.Resolver(t, c)
	for _, of := range []struct {
		query Query
		want  []string // where, kind, name, line and what matches
	}{
		{Query{Text: "TIDE"}, []string{
			"comment column depth 1 tide", "definition check constraint deep 1 tide", "definition column at 1 tide", "definition column depth 1 tide", "definition function f 2 TIDE",
			"definition index i 1 tide", "definition table berth 1 tide", "definition trigger g 1 tide", "definition view tide_now 2 Tide", "definition view tide_now 3 tide", "name view tide_now 0 tide"}},
		{Query{Text: "tide", Whole: true, Kinds: []schema.Kind{schema.KindView, schema.KindColumn}}, []string{"comment column depth 1 tide", "definition column depth 1 tide", "definition view tide_now 2 Tide"}},
		{Query{Text: "t?de%t*ns", Kinds: []schema.Kind{schema.KindFunction}}, []string{"definition function f 2 TIDE turns"}},
		{Query{Text: "ünr"}, []string{"comment table berth 1 Ünr"}},
		{Query{Text: "^x|from t", Regex: true}, []string{"definition trigger g 1 x", "definition view tide_now 2 FROM T"}},
		{Query{Text: "tide", Type: "num*"}, []string{"comment column depth 1 tide", "definition column depth 1 tide"}},
		{Query{Text: "berth", Whole: true}, []string{"name table berth 0 berth"}},
		{Query{Text: "ber", Whole: true}, nil},
		{Query{Text: "be.", Whole: true, Regex: true}, nil},
		{Query{Text: "be.+", Whole: true, Regex: true}, []string{"definition function f 1 BEGIN", "name table berth 0 berth"}},
	} {
		of.query.Texts = true
		res, err := Find(ctx, c, r, of.query)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for i, h := range res.Hits {
			in, spans := h.Text, res.Spans(h)
			if h.Where() == InName {
				in = h.Name
				if i > 0 && res.Hits[i-1].Line > 0 {
					t.Errorf("%+v: a text stands before the name %s", of.query, h.Name)
				}
			}
			if len(spans) == 0 {
				t.Fatalf("%+v: nothing is set off in %q", of.query, in)
			}
			got = append(got, fmt.Sprintf("%s %s %s %d %s", h.Where(), h.Kind(), h.Name, h.Line, in[spans[0][0]:spans[0][1]]))
		}
		slices.Sort(got)
		if !slices.Equal(got, of.want) || res.Total != len(of.want) {
			t.Errorf("%+v:\n%q, want\n%q", of.query, got, of.want)
		}
	}
}

// A search finds what a plain scan over all names finds, no more and no less.
func TestAgainstPlainScan(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	pieces := []string{"berth", "Tide", "mooring", "É", "ß", "İ", "K", "ς", "_", " ", "no", "ID", ".", "\n", "*", "%", "\"", "港", "x", "1"}
	word := func(n int) string {
		var b strings.Builder
		for range 1 + random.IntN(n) {
			b.WriteString(pieces[random.IntN(len(pieces))])
		}
		return b.String()
	}
	tables := map[string][]string{}
	type thing struct{ table, column string }
	var all []thing
	for range 900 {
		table := word(4)
		if tables[table] != nil {
			continue
		}
		all = append(all, thing{table: table})
		seen := map[string]bool{}
		for range 1 + random.IntN(6) {
			if c := word(4); !seen[c] {
				seen[c] = true
				tables[table] = append(tables[table], c)
				all = append(all, thing{table, c})
			}
		}
	}
	c, r := stored(t, map[string]map[string][]string{"quay:live": tables})
	check := func(q Query, matches func(name string) bool) {
		t.Helper()
		want := map[thing]bool{}
		for _, n := range all {
			if name := cmp.Or(n.column, n.table); matches(name) {
				want[n] = true
			}
		}
		res, err := Find(context.Background(), c, r, q)
		if err != nil || res.Total != len(want) || len(res.Hits) != len(want) {
			t.Fatalf("%q: %d hits, a plain scan finds %d (%v)", q.Text, res.Total, len(want), err)
		}
		for _, h := range res.Hits {
			is := thing{table: h.ID.Name}
			if h.Part != "" {
				is.column = h.Name
			}
			if !want[is] || len(res.Spans(h)) == 0 {
				t.Errorf("%q: %q is no hit, or nothing in it is set off", q.Text, is)
			}
		}
		few, err := Find(context.Background(), c, r, Query{Text: q.Text, Regex: q.Regex, Most: 7})
		if best := res.Hits[:min(7, len(want))]; err != nil || few.Total != len(want) || !slices.Equal(namesOf(few.Hits), namesOf(best)) {
			t.Errorf("%q: the best 7 of %d are %q, want %q (%v)", q.Text, few.Total, namesOf(few.Hits), namesOf(best), err)
		}
	}
	for range 150 {
		if text := word(2); !strings.ContainsAny(text, "*%?") && len(strings.Fields(text)) < 2 {
			check(Query{Text: text}, func(name string) bool { return strings.Contains(index.FoldLine(name), index.FoldLine(text)) })
		}
	}
	for _, expression := range []string{"^berth", "no$", "[0-9]", "tide|mooring", "^.{1,2}$"} {
		re := regexp.MustCompile("(?i)" + expression)
		check(Query{Text: expression, Regex: true}, func(name string) bool {
			loc := re.FindStringIndex(name)
			return loc != nil && loc[1] > loc[0]
		})
	}
}

// The same of texts, line by line.
func TestTextsAgainstPlainScan(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 5))
	pieces := []string{"berth", "Tide", "SELECT ", "É", "ß", "İ", "\u212a", "ſ", "k", "s", "_", " ", "\n", "\r\n", "\r", "\n\n", "'", "港", "x", "1", "--", "\x1b", "\x00", "\xff"}
	text := func(n int) string {
		var b strings.Builder
		for range random.IntN(n) {
			b.WriteString(pieces[random.IntN(len(pieces))])
		}
		return b.String()
	}
	type place struct {
		object, part string
		comment      bool
		line         int
	}
	lines := map[place]string{}
	add := func(p place, text string) {
		for i, line := range strings.Split(text, "\n") {
			p.line = i + 1
			lines[p] = strings.TrimSuffix(line, "\r")
		}
	}
	reading := &schema.Reading{Engine: "sqlite", Database: "berths", Taken: time.Unix(1e9, 0)}
	for i := range 1500 {
		o := &schema.Object{Kind: schema.KindTable, Name: fmt.Sprint("t", i), Relation: &schema.Relation{Columns: []schema.Column{{Name: "c", Type: "TEXT", Default: text(9), Comment: text(4)}}}}
		if i%3 == 0 {
			o = &schema.Object{Kind: schema.KindView, Name: fmt.Sprint("v", i), Comment: text(6), Relation: &schema.Relation{Query: "SELECT 1\n" + text(300)}}
		}
		reading.Objects = append(reading.Objects, o)
		for _, x := range o.Texts() {
			add(place{object: o.Name, part: x.Name, comment: x.Comment}, x.Text)
		}
	}
	ctx := context.Background()
	c := testcatalogue.New(t)
	testcatalogue.Save(t, c, catalogue.Origin{Server: "quay"}, reading)
	r := testcatalogue.Resolver(t, c)
	check := func(q Query, matches func(line string) bool) {
		t.Helper()
		q.Texts = true
		want := 0
		for _, line := range lines {
			if matches(line) {
				want++
			}
		}
		res, err := Find(ctx, c, r, q)
		if err != nil {
			t.Fatal(err)
		}
		got := 0
		for _, h := range res.Hits {
			if h.Line == 0 {
				continue // in a name
			}
			got++
			p := place{object: h.ID.Name, comment: h.Where() == InComment, line: h.Line}
			if h.Part != "" {
				p.part = h.Name
			}
			if line, ok := lines[p]; !ok || line != h.Text || !matches(line) {
				t.Errorf("%q: %+v says %q, the plain scan %q", q.Text, p, h.Text, line)
			}
		}
		if got != want {
			t.Errorf("%q: %d hits in texts, a plain scan finds %d", q.Text, got, want)
		}
		if few, err := Find(ctx, c, r, Query{Text: q.Text, Or: q.Or, Regex: q.Regex, Texts: true, Most: 5}); err != nil || few.Total != res.Total || !slices.Equal(namesOf(few.Hits), namesOf(res.Hits[:min(5, len(res.Hits))])) {
			t.Errorf("%q: of the best five %d are counted, of all %d (%v)", q.Text, few.Total, res.Total, err)
		}
	}
	holds := func(text string) func(string) bool {
		return func(line string) bool { return strings.Contains(index.FoldLine(line), index.FoldLine(text)) }
	}
	for _, of := range []string{"berth", "K", "ks", "É", "é", "ß", "i", "İ", "港", "tideberth", "select ", "'", "\x1b", "1x", "--s", "zzz"} {
		check(Query{Text: of}, holds(of))
	}
	check(Query{Text: "berthx", Or: []string{"x1", "ké"}}, func(line string) bool { return holds("berthx")(line) || holds("x1")(line) || holds("ké")(line) })
	for _, expression := range []string{"^select", "berth$", "k.s", "x+1", "é|tide", "^.$", "[^ -~]", "t(id)e"} {
		re := regexp.MustCompile("(?i)" + expression)
		check(Query{Text: expression, Regex: true}, func(line string) bool {
			loc := re.FindStringIndex(line)
			return loc != nil && loc[1] > loc[0]
		})
	}
}

func BenchmarkFind(b *testing.B) {
	tables := map[string][]string{}
	for i := range 3000 {
		for j := range 20 {
			name := fmt.Sprintf("berth_%d", i)
			tables[name] = append(tables[name], fmt.Sprintf("column_%d_%d", i%7, j))
		}
	}
	c, r := stored(b, map[string]map[string][]string{"quay:live": tables})
	for b.Loop() {
		if _, err := Find(context.Background(), c, r, Query{Text: "_3_1", Most: 100}); err != nil {
			b.Fatal(err)
		}
	}
}
