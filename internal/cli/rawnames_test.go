package cli_test

import (
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"echo-atlas/internal/testservers"
)

// Names and texts that are no UTF-8 come through every form: shown, in JSON as valid UTF-8 whose addresses lead back,
// exported and imported, and in scripts that make the same again.
func TestNamesThatAreNotUTF8(t *testing.T) {
	const script = "CREATE TABLE \"caf\xe9\" (\"s\xfc\xdf\" int NOT NULL, b varchar(9) DEFAULT '\xfe', CHECK (\"s\xfc\xdf\" > 1));\n" +
		"CREATE TABLE \"caf\xe8\" (id int);\nCREATE INDEX \"i\xe9\" ON \"caf\xe9\" ((b || '\xfd'), \"s\xfc\xdf\");\n" +
		"CREATE VIEW \"v\xe9\" AS SELECT \"s\xfc\xdf\" FROM \"caf\xe9\";\nCREATE TABLE \"\U0010ff85\" (id int);\n"
	pg := testservers.Postgres(t)
	source, rawSource := pg.Raw(t)
	again, rawAgain := pg.Raw(t)
	pg.Run(t, rawSource, "SET client_encoding = 'SQL_ASCII';\n"+script+"COMMENT ON TABLE \"caf\xe9\" IS '\xe9\xff'; ALTER TABLE \"caf\xe9\" SET (fillfactor = 70);\n"+
		"CREATE TYPE \"e\xe9\" AS ENUM ('\xe1'); CREATE FOREIGN DATA WRAPPER \"w\xe9\" OPTIONS (\"o\xe9\" 'v\xe9'); CREATE FUNCTION f(\"p\xe9\" int) RETURNS int LANGUAGE sql AS 'SELECT 1 -- \xe7';")
	lite := testservers.SQLite{}
	for _, c := range []struct {
		server                             testservers.Server
		url, rawURL, again, rawAgain, name string
	}{
		{pg, source, rawSource, again, rawAgain, "harbour"},
		{lite, lite.Database(t, script), "", lite.Database(t, ""), "", "reef"},
	} {
		p := newPlace(t)
		p.want(0, "survey", "--from", c.url, "--name", c.name)
		database := c.name + "/" + c.server.Engine().Database(c.url) + "/"
		first := map[string]bool{}
		for _, o := range answer[rows](p, 0, "list", c.name).Objects {
			if !utf8.ValidString(o.Address) || first[o.Address] {
				t.Errorf("%q is no address, or that of two", o.Address)
			}
			first[o.Address] = true
			if o.Kind == "table" {
				p.want(0, "show", o.Address)
				p.want(0, "ddl", o.Address)
			}
		}
		holds(t, c.name, p.want(0, "show", database+"caf\xe9"), `caf\xe9`, `s\xfc\xdf`, `v\xe9`)
		holds(t, c.name, p.want(0, "trace", database+"caf\xe9.s\xfc\xdf"), `v\xe9`)
		if out := p.want(0, "find", "F\xe9"); !strings.Contains(out, `caf\xe9`) || strings.Contains(out, `caf\xe8`) {
			t.Errorf("find: %s", out)
		}
		p.want(0, "find", "*f\xe9")
		p.want(0, "snapshots", "export", c.name, "--out", "folder")
		p.want(0, "snapshots", "import", "folder", "--name", "copy")
		holds(t, "a copy", p.want(0, "diff", strings.TrimSuffix(database, "/"), "copy/"+c.server.Engine().Database(c.url)), "No difference")

		made := p.want(0, "ddl", c.name)
		url, againURL := c.url, c.again
		if c.rawURL != "" {
			url, againURL = c.rawURL, c.rawAgain
		}
		want := c.server.Account(t, url)
		c.server.Drop(t, c.url)
		c.server.Run(t, c.again, made)
		if got := c.server.Account(t, againURL); !slices.Equal(got, want) {
			t.Errorf("%s: the copy differs:\n%q\nwant\n%q", c.name, got, want)
		}
	}
}
