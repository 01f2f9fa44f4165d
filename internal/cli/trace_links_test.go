package cli_test

import (
	"strings"
	"testing"

	"echo-atlas/internal/standin"
)

// A view that reads through a linked server depends on the table there, if the link leads to a server of the configuration.
func TestTraceLinkedServers(t *testing.T) {
	t.Parallel()
	fixture, err := standin.Fixture("beacons_live")
	if err != nil {
		t.Fatal(err)
	}
	start := func(databases map[string]string) *standin.Server {
		s, err := standin.Start("surveyor", "", databases)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(s.Close)
		return s
	}
	far := start(map[string]string{"beacons": fixture, "master": "INSERT INTO sys.databases (name, database_id) VALUES ('beacons', 5);"})
	host, port, _ := strings.Cut(far.Addr(), ":")
	near := start(map[string]string{
		"archive": `INSERT INTO sys.schemas VALUES ('old', 5, 1);
INSERT INTO sys.views (name, object_id, schema_id) VALUES ('tall', 201, 5), ('taller', 202, 5), ('strange', 203, 5);
INSERT INTO sys.columns (object_id, name, column_id, system_type_id, user_type_id, max_length, precision) VALUES (201, 'id', 1, 56, 56, 4, 10), (202, 'id', 1, 56, 56, 4, 10), (203, 'id', 1, 56, 56, 4, 10);
INSERT INTO sys.sql_modules (object_id, definition, uses_ansi_nulls, uses_quoted_identifier) VALUES
  (201, 'CREATE VIEW old.tall AS SELECT id FROM SKERRY.beacons.nav.beacon WHERE height_m > 30', 1, 1), (202, 'CREATE VIEW old.taller AS SELECT id FROM old.tall', 1, 1),
  (203, 'CREATE VIEW old.strange AS SELECT id FROM ELSEWHERE.beacons.nav.beacon', 1, 1);`,
		"master": `INSERT INTO sys.databases (name, database_id) VALUES ('archive', 5);
INSERT INTO sys.servers (server_id, name, product, provider, data_source, is_linked) VALUES (1, 'SKERRY', '', 'MSOLEDBSQL', 'tcp:` + host + `,` + port + `', 1), (2, 'ELSEWHERE', '', 'MSOLEDBSQL', 'elsewhere.example', 1), (3, 'FILES', '', 'MSDASQL', '` + host + `,` + port + `', 1);`,
	})
	p := newPlace(t)
	p.file("echo-atlas.toml", "[servers.lights]\nurl = \"sqlserver://surveyor@"+far.Addr()+"?encrypt=disable\"\n[servers.store]\nurl = \"sqlserver://surveyor@"+near.Addr()+"?encrypt=disable\"\n")
	p.want(0, "survey", "lights", "store")
	out := p.want(0, "trace", "lights/beacons/nav.beacon")
	holds(t, "trace", out, "in other databases", "store/archive/old.tall", "taller", "reads it")
	if strings.Contains(out, "strange") {
		t.Errorf("another server's table:\n%s", out)
	}
}
