package conformance

import (
	"strings"
	"testing"

	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// What one user may not see is no difference to what another sees: it is hidden, and not gone or empty.
func TestHiddenIsNoDifference(t *testing.T) {
	s := testservers.Postgres(t)
	url := s.Database(t, `
DO $$BEGIN IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'plain_onlooker') THEN CREATE ROLE plain_onlooker LOGIN; END IF; END$$;
CREATE SUBSCRIPTION hidden_one CONNECTION 'host=mainland.example dbname=skerry' PUBLICATION p WITH (connect = false, slot_name = NONE);
CREATE FOREIGN DATA WRAPPER shy; CREATE SERVER ashore FOREIGN DATA WRAPPER shy OPTIONS (host 'mainland.example');
CREATE USER MAPPING FOR atlas SERVER ashore OPTIONS (user_name 'atlas'); CREATE USER MAPPING FOR PUBLIC SERVER ashore OPTIONS (user_name 'all');
CREATE SCHEMA shut; REVOKE ALL ON SCHEMA shut FROM PUBLIC; CREATE TABLE shut.box (id integer PRIMARY KEY, what text DEFAULT 'x' CHECK (what <> ''));
CREATE VIEW shut.seen AS SELECT id FROM shut.box; CREATE FUNCTION shut.f() RETURNS integer LANGUAGE sql AS 'SELECT 1'; CREATE MATERIALIZED VIEW shut.kept AS SELECT 1 AS one;`)
	c := testcatalogue.New(t)
	rich := read(t, c, s, "rich", url)
	poor := read(t, c, s, "poor", strings.Replace(url, "atlas@", "plain_onlooker@", 1))
	for _, exact := range []bool{false, true} {
		o := diff.For(s.Engine())
		o.Exact = exact
		res, err := diff.Compare(t.Context(), c, rich.Snapshot, poor.Snapshot, o)
		if err != nil {
			t.Fatal(err)
		}
		back, err := diff.Compare(t.Context(), c, poor.Snapshot, rich.Snapshot, o)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range append(res.Objects, back.Objects...) {
			t.Errorf("exact %v: %s %s", exact, x.Change, x.ID.Qualified())
			for _, p := range x.Properties {
				t.Errorf("  %s: %s, now %s", p.Path, value(p.Old), value(p.New))
			}
		}
	}
}
