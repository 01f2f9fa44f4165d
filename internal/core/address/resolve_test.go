package address

import (
	"context"
	"errors"
	"os"
	"strings"
	"testing"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/catalogue/exchange"
	"echo-atlas/internal/core/schema"
)

// thing makes an object of a line "kind schema name(signature)[ on relation]"; a - is no schema.
func thing(line string) *schema.Object {
	kind, rest, _ := strings.Cut(line, " ")
	in, name, _ := strings.Cut(rest, " ")
	name, on, _ := strings.Cut(name, " on ")
	name, signature, _ := strings.Cut(strings.TrimSuffix(name, ")"), "(")
	o := &schema.Object{Kind: schema.Kind(strings.ReplaceAll(kind, "-", " ")), Name: name, Signature: signature, Within: on}
	if in != "-" {
		o.Schema = in
	}
	switch {
	case o.Kind.IsRelation():
		o.Relation = &schema.Relation{Columns: []schema.Column{{Name: "id", Type: "integer"}, {Name: "charge", Type: "text"}}}
	case o.Kind.IsRoutine():
		o.Routine = &schema.Routine{Definition: "CREATE FUNCTION " + name}
	default:
		o.Definition = "CREATE " + name
	}
	return o
}

// harbours is an estate in which the same names stand at every level.
func harbours(t *testing.T) (*catalogue.Catalogue, *Resolver) {
	c, err := catalogue.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	for _, d := range []struct {
		server, database, engine string
		objects                  []string
	}{
		{"live", "berths", "pg", []string{"schema - ops", "table ops mooring", "table ops ops", "table ops berths", "extension - berths", "table public mooring", "view ops Mooring",
			"function ops charge(a integer, b text)", "function ops charge()", "function ops charge(IN a numeric, OUT total numeric)", "function ops fee(\"the day\" timestamp without time zone, VARIADIC ops.codes text[])",
			"table ops charge", "trigger ops stamp on mooring", "table ops charge2", "table a b", "table ops a"}},
		{"live", "tides", "pg", []string{"table ops tide", "table ops mooring"}},
		{"live", "server-level", "pg", []string{"database - berths", "database - tides", "role - tides"}},
		{"dev", "berths", "file", []string{"table - mooring", "table - berths", "procedure - close"}},
		{"berths", "ledger", "file", []string{"table - ledger", "table - live"}},
	} {
		r := &schema.Reading{Engine: d.engine, Database: d.database, Taken: time.Unix(1e9, 0)}
		for _, line := range d.objects {
			r.Objects = append(r.Objects, thing(line))
		}
		if _, _, err := c.Save(context.Background(), catalogue.Origin{Server: d.server, Label: map[string]string{"tides": "rel"}[d.database]}, r); err != nil {
			t.Fatal(err)
		}
	}
	r, err := NewResolver(context.Background(), c, time.Unix(2e9, 0))
	if err != nil {
		t.Fatal(err)
	}
	r.Configured = []string{"stage"}
	names := map[string]string{"int": "integer", "int4": "integer", "decimal": "numeric", "timestamp": "timestamp without time zone"}
	r.Dialect = func(engine string) Dialect {
		return Dialect{Overloads: engine == "pg", CanonicalType: func(s string) string {
			s = squeeze(s)
			if to, ok := names[s]; ok {
				return to
			}
			return s
		}}
	}
	return c, r
}

// It is the same whether entries are there as a whole, or come when they are asked for.
func TestResolve(t *testing.T) {
	for _, sparse := range []bool{false, true} {
		_, r := harbours(t)
		r.Sparse = sparse
		testResolve(t, r)
	}
}

func testResolve(t *testing.T, r *Resolver) {
	for _, q := range []struct {
		address string
		object  bool // an object is wanted
		want    string
	}{
		// The outer level wins, whatever bears the name further in.
		{"live/berths", false, "live/berths"},
		{"live/tides", false, "live/tides"},
		{"LIVE/Berths", false, "live/berths"},
		{"berths", false, "berths/ledger"},
		{"berths/", false, "berths/ledger"},
		{"dev/berths", false, "dev/berths"},
		{"berths/ledger", false, "berths/ledger"},
		{"berths/mooring", false, "dev/berths/mooring live/berths/ops.mooring live/berths/public.mooring"},
		{"live/ops", false, "live/berths/ops live/tides/ops"},
		{"live/berths/ops", false, "live/berths/ops"},
		{"live/*/ops", false, "live/berths/ops live/tides/ops"},
		{"live/tide*", false, "live/tides"},
		{"tides@rel", false, "live/tides@rel"},
		{"live@rel", false, "live/tides@rel"},
		{"*/berths", false, "dev/berths live/berths"},
		// An object that is wanted is found behind a container of its name.
		{"live/berths/ops", true, "live/berths/ops.ops"},
		{"berths/ledger", true, "berths/ledger/ledger"},
		{"dev/berths", true, "dev/berths/berths"},
		{"live/tides", true, "live/server-level/tides live/server-level/tides"},
		{"database:live/berths", true, "live/server-level/berths"},
		{"database:berths", true, "live/server-level/berths"},
		{"schema:ops", true, "live/berths/ops"},
		{"extension:berths", true, "live/berths/berths"},
		// Exact case, patterns, parts.
		{"live/berths/ops.mooring", true, "live/berths/ops.mooring"},
		{"live/berths/ops.Mooring", true, "live/berths/ops.Mooring"},
		{"live/berths/OPS.MOORING", true, "live/berths/ops.mooring live/berths/ops.Mooring"},
		{"live/berths/mooring.stamp", true, "live/berths/ops.mooring.stamp"},
		{"live/berths/public.mooring.id", true, "live/berths/public.mooring.id"},
		{"live/berths/a.b", true, "live/berths/a.b"},
		{`live/berths/"moor*"`, false, "error: nothing is called"},
		// Routines by their types.
		{"charge(int, text)", true, "live/berths/ops.charge(a integer, b text)"},
		{"charge(INTEGER,text)", true, "live/berths/ops.charge(a integer, b text)"},
		{"ops.charge(a int4, b text)", true, "live/berths/ops.charge(a integer, b text)"},
		{"charge(b int4, a text)", true, "error: nothing is called"},
		{"charge()", true, "live/berths/ops.charge()"},
		{"live/berths/charge()", true, "live/berths/ops.charge()"},
		{"charge(decimal)", true, "live/berths/ops.charge(IN a numeric, OUT total numeric)"},
		{"charge(numeric, numeric)", true, "live/berths/ops.charge(IN a numeric, OUT total numeric)"},
		{"charge(numeric(8,2))", true, "live/berths/ops.charge(IN a numeric, OUT total numeric)"},
		{"fee(timestamp, text[])", true, `live/berths/ops.fee("the day" timestamp without time zone, VARIADIC ops.codes text[])`},
		{"charge(text)", true, "error: nothing is called"},
		{"mooring()", true, "error: nothing is called"},
		{"close(int)", true, "dev/berths/close()"},
		// What is not known is said by its level.
		{"liv/berths", false, "error: there is no server or database called \"liv\"; the nearest is live"},
		{"liv/berths/mooring", false, "error: there is no server called \"liv\"; the nearest is live"},
		{"live/bert", false, "error: nothing is called"},
		{"live/tides/ops.tide.height", true, "error: nothing is called \"live/tides/ops.tide.height\"; live/tides/ops.tide has id, charge"},
		{"live/tides/tide.charg", true, "error: nothing is called \"live/tides/tide.charg\"; near it are:"},
		{"mooring.height", true, "error: nothing is called \"mooring.height\"; dev/berths/mooring, for one, has id, charge"},
		{"live/birth/mooring", false, "error: the server live has no database called \"birth\" that was read; the nearest is berths"},
		{"nowhere/mooring", false, "error: there is no server or database called \"nowhere\""},
		{"stage", false, "error: the server stage was never read"},
		{"stage/berths/mooring", false, "error: the server stage was never read"},
		{"live/berths@nope", false, "error: no snapshot of live/berths for @nope"},
	} {
		got := resolved(r, q.address, q.object)
		if rest, ok := strings.CutPrefix(q.want, "error: "); ok {
			if !strings.HasPrefix(got, "error: ") || !strings.Contains(got, rest) {
				t.Errorf("%s (object: %v): %s, want an error with %q", q.address, q.object, got, rest)
			}
		} else if got != q.want {
			t.Errorf("%s (object: %v): %s, want %s", q.address, q.object, got, q.want)
		}
	}
	if len(r.Without) == 0 || r.Without[0].Database != "berths" {
		t.Errorf("the databases without a reading @rel are not told: %v", r.Without)
	}
}

// resolved returns what an address fits, or the error.
func resolved(r *Resolver, text string, object bool) string {
	a, err := Parse(text)
	var all []Match
	if err == nil && object {
		var m *Match
		m, err = r.Object(context.Background(), a)
		var several *AmbiguousError
		switch {
		case errors.As(err, &several):
			var names []string
			for _, l := range several.Matches {
				names = append(names, l.String())
			}
			return strings.Join(names, " ")
		case err == nil:
			all = []Match{*m}
		}
	} else if err == nil {
		all, err = r.All(context.Background(), a)
	}
	if err != nil {
		return "error: " + err.Error()
	}
	var names []string
	for i := range all {
		names = append(names, all[i].Location().String())
	}
	return strings.Join(names, " ")
}

func TestResolvePath(t *testing.T) {
	c, r := harbours(t)
	defer c.Close()
	latest := r.Latest()
	text, err := exchange.Export(context.Background(), c, latest[len(latest)-1], nil)
	if err != nil {
		t.Fatal(err)
	}
	path := t.TempDir() + "/b.json"
	writeFile(t, path, text)
	for text, want := range map[string]string{
		path:                      path,
		path + "/ops.mooring":     path + "/ops.mooring",
		path + "/tide.id":         path + "/ops.tide.id",
		path + "/wrong/ops.tide":  "error: is no address: behind the path",
		path + "/ops.tide/":       "error: is no address: behind the path",
		path + "/ops.tides":       "error: nothing is called",
		path + "x/ops.tide":       "error: there is no file",
		"table:" + path + "/tide": path + "/ops.tide",
		"view:" + path + "/tide":  "error: nothing is called",
		path + "/table:tide":      "error: is no address",
	} {
		got := resolved(r, text, false)
		if rest, ok := strings.CutPrefix(want, "error: "); ok {
			if !strings.HasPrefix(got, "error: ") || !strings.Contains(got, rest) {
				t.Errorf("%s: %s, want an error with %q", text, got, rest)
			}
		} else if got != want {
			t.Errorf("%s: %s, want %s", text, got, want)
		}
	}
}

func writeFile(t *testing.T, path string, text []byte) {
	t.Helper()
	if err := os.WriteFile(path, text, 0o600); err != nil {
		t.Fatal(err)
	}
}

// A column and a constraint that a server calls after it share an address: it is the column, unless a kind stands in front.
func TestColumnBeforeConstraint(t *testing.T) {
	ctx := context.Background()
	c, err := catalogue.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	table := &schema.Object{Kind: schema.KindTable, Name: "mooring", Relation: &schema.Relation{Columns: []schema.Column{{Name: "ship", Type: "int"}}, Keys: []schema.Key{{Name: "ship", Columns: []schema.KeyPart{{Column: "ship"}}}},
		Checks: []schema.Check{{Name: "deep", Expression: "ship > 0"}, {Name: "deep2", Expression: "ship > 0"}}}}
	if _, _, err := c.Save(ctx, catalogue.Origin{Server: "live"}, &schema.Reading{Engine: "file", Database: "berths", Taken: time.Unix(1e9, 0), Objects: []*schema.Object{table}}); err != nil {
		t.Fatal(err)
	}
	r, err := NewResolver(ctx, c, time.Unix(2e9, 0))
	if err != nil {
		t.Fatal(err)
	}
	for text, want := range map[string]schema.Kind{"mooring.ship": schema.KindColumn, "column:mooring.ship": schema.KindColumn, "unique-constraint:mooring.ship": schema.KindUnique, "mooring.deep": schema.KindCheck} {
		a, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		for _, find := range []func(context.Context, Address) (*Match, error){r.One, r.Object} {
			if m, err := find(ctx, a); err != nil || m.PartKind != want {
				t.Errorf("%s: %v (%v), want a %s", text, m, err, want)
			}
		}
	}
	if a, _ := Parse("mooring.deep*"); a.Text != "" {
		var several *AmbiguousError
		if _, err := r.Object(ctx, a); !errors.As(err, &several) {
			t.Errorf("two checks: %v", err)
		}
	}
}
