package cli_test

import (
	"cmp"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"echo-atlas/internal/testservers"
)

// What a reading could not see is said under every answer that it could change, and beforehand.
func TestHidden(t *testing.T) {
	maria := testservers.MariaDB(t)
	url := maria.Database(t, `CREATE TABLE berth (no int PRIMARY KEY); CREATE TABLE pilot (id int PRIMARY KEY); CREATE VIEW deep AS SELECT no FROM berth;
CREATE TRIGGER stamp BEFORE INSERT ON berth FOR EACH ROW SET NEW.no = (SELECT max(id) FROM pilot);`)
	name := maria.Engine().Database(url)
	root := maria.Open(t, maria.URL(""))
	execAll(t, root, "CREATE USER onlooker@'127.0.0.1'", "GRANT SELECT ON "+name+".* TO onlooker@'127.0.0.1'")
	t.Cleanup(func() { _, _ = root.Exec("DROP USER onlooker@'127.0.0.1'") })
	p := newPlace(t)
	p.file("echo-atlas.toml", fmt.Sprintf("[servers.quay]\nurl = \"mariadb://onlooker@127.0.0.1:%d/%s\"\n[servers.reef]\nurl = \"sqlite:reef.db\"\n", maria.Port(), name))
	holds(t, "servers check", p.want(3, "servers", "check"), "triggers: the user onlooker@127.0.0.1 lacks the right TRIGGER")
	p.run("survey", "quay")
	const lacks, never, hidden = "lacks the right TRIGGER", "reef: never read; run: echo-atlas survey reef", "not seen"
	place := "quay/" + name
	for _, c := range []struct {
		args  []string
		code  int
		says  []string
		never string // must not be said
	}{
		{[]string{"list", "--kind", "trigger"}, 0, []string{"No trigger was seen", hidden, lacks, never}, "0 triggers"},
		{[]string{"list", place, "--kind", "trigger"}, 0, []string{lacks}, never},
		{[]string{"list", place, "--kind", "table"}, 0, []string{"2 tables"}, lacks},
		{[]string{"tree", place}, 0, []string{"2 tables", lacks}, ""},
		{[]string{"show", place + "/berth"}, 0, []string{hidden, lacks}, ""},
		{[]string{"find", "stamp"}, 1, []string{"Nothing that was seen is called", lacks, never}, "Nothing is called"},
		{[]string{"trace", place + "/pilot"}, 0, []string{"Nothing that was seen depends on it", lacks, "other databases"}, "Nothing depends on it"},
		{[]string{"diff", place, place}, 0, []string{"No difference was seen", lacks}, "No difference in"},
		{[]string{"ddl", place + "/berth"}, 0, []string{"-- not seen", lacks}, ""},
		{[]string{"snapshots", "remarks"}, 0, []string{lacks, "never read"}, ""},
		{[]string{"list", "reef"}, 2, nil, ""},
	} {
		out, errs, code := p.run(c.args...)
		if code != c.code {
			t.Errorf("%v: exit code %d, want %d\n%s%s", c.args, code, c.code, out, errs)
		}
		holds(t, strings.Join(c.args, " "), strings.Join(strings.Fields(out), " "), c.says...)
		if c.never != "" && strings.Contains(out, c.never) {
			t.Errorf("%v says %q:\n%s", c.args, c.never, out)
		}
	}
	for _, args := range [][]string{{"list"}, {"find", "stamp"}, {"diff", place, place}, {"show", place + "/berth"}} {
		out, _, _ := p.run(append(args, "--as", "json")...)
		holds(t, strings.Join(args, " ")+" in JSON", out, `"unseen": [`, `"hidden"`, lacks)
	}
	p.fails(2, []string{"list", "reef"}, "was never read")
	// A reading that fails is remembered until one does not.
	if err := os.WriteFile(filepath.Join(p.dir, "reef.db"), []byte("no database, but a file of some length, long enough"), 0o600); err != nil {
		t.Fatal(err)
	}
	p.run("survey", "reef")
	holds(t, "list", p.want(0, "list"), "the last reading failed")
	os.Remove(filepath.Join(p.dir, "reef.db"))
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "reef.db"), "CREATE TABLE x (y);")
	p.want(0, "survey", "reef")
	if out := p.want(0, "list"); strings.Contains(out, "failed") || strings.Contains(out, "never read") {
		t.Errorf("it was read and is said not to be:\n%s", out)
	}
}

// Bodies are searched, with the line of what they mention; SQL that is put together when it runs is said not to be seen.
func TestTraceBodies(t *testing.T) {
	pg := testservers.Postgres(t)
	p := newPlace(t)
	p.want(0, "survey", "--from", pg.Database(t, `CREATE TABLE berth (no int PRIMARY KEY, depth int); CREATE TABLE log (what text);
CREATE FUNCTION taken() RETURNS bigint LANGUAGE sql AS 'SELECT count(*) FROM berth';
CREATE FUNCTION deepen(by_m int) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
    UPDATE berth SET depth = depth + by_m;
    INSERT INTO log (what) VALUES ('deeper');
END $$;
CREATE FUNCTION count_all(t text) RETURNS bigint LANGUAGE plpgsql AS $$ DECLARE n bigint; BEGIN EXECUTE 'SELECT count(*) FROM ' || quote_ident(t) INTO n; RETURN n; END $$;
CREATE FUNCTION stamp() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.depth := abs(NEW.depth); RETURN NEW; END $$;
CREATE TRIGGER stamp BEFORE INSERT ON berth FOR EACH ROW EXECUTE FUNCTION stamp();`), "--name", "quay")
	out := p.want(0, "trace", "berth.depth", "--why")
	holds(t, "trace", out, "deepen(by_m integer)", "UPDATE berth SET depth = depth + by_m;", "stamp()", "count_all(t text) runs SQL that cannot be seen here")
	if strings.Contains(out, "taken()") {
		t.Errorf("a count of rows reads no column:\n%s", out)
	}
	holds(t, "trace", p.want(0, "trace", "berth"), "taken()", "reads it, line", "writes it, line")
	holds(t, "trace", p.want(0, "trace", "count_all", "--needs"), "runs SQL that cannot be seen here")
	d := answer[struct {
		Edges []struct {
			From, To, Use, Text string
			Line                int
		}
		Unknown []struct{ State, Subject string }
	}](p, 0, "trace", "berth.depth")
	uses := map[string]bool{}
	for _, e := range d.Edges {
		if strings.Contains(e.From, "deepen") && strings.HasSuffix(e.To, ".depth") {
			uses[e.Use] = e.Line > 0 && strings.Contains(e.Text, "UPDATE berth")
		}
	}
	if !uses["reads"] || !uses["writes"] || len(d.Unknown) != 1 || !strings.Contains(d.Unknown[0].Subject, "count_all") {
		t.Errorf("%+v", d)
	}
	holds(t, "way", p.want(0, "trace", "deepen", "log"), "deepen(by_m integer)", "writes it, line", "log")
	holds(t, "way", p.want(0, "trace", "berth", "log"), "No dependencies lead from one to the other")
	holds(t, "dot", p.want(0, "trace", "berth", "--as", "dot"), "digraph {", "-> n0 [label=\"reads\"]")
	holds(t, "mermaid", p.want(0, "trace", "berth", "--as", "mermaid"), "flowchart LR", "|\"reads, writes\"|")
	holds(t, "csv", p.want(0, "trace", "berth", "--as", "csv"), "from,to,use,evidence,line,column,text", ".depth,writes,read,")
}

// What would happen is said with its outcome, and what to edit first.
func TestTraceIf(t *testing.T) {
	pg := testservers.Postgres(t)
	p := newPlace(t)
	p.want(0, "survey", "--from", pg.Database(t, `CREATE TABLE berth (no int PRIMARY KEY, depth int, name text); CREATE INDEX by_name ON berth (name);
CREATE VIEW deep AS SELECT no, depth FROM berth WHERE depth > 3; CREATE VIEW deepest AS SELECT max(depth) FROM deep;
CREATE FUNCTION deepen() RETURNS void LANGUAGE sql AS 'UPDATE berth SET depth = depth + 1';
CREATE TABLE mooring (id int, berth_no int REFERENCES berth);`), "--name", "quay")
	type answered struct {
		Outcome string
		Edits   []string
		Nodes   []struct{ Address, Verdict, Reason string }
	}
	ask := func(args ...string) (string, map[string]string, []string) {
		t.Helper()
		d := answer[answered](p, 0, append([]string{"trace"}, args...)...)
		verdicts := map[string]string{}
		for _, n := range d.Nodes[1:] {
			_, name, _ := strings.Cut(n.Address, "/public.")
			verdicts[name] = n.Verdict
		}
		return d.Outcome, verdicts, d.Edits
	}
	for _, c := range []struct{ address, change, outcome, want string }{
		{"berth.depth", "dropped", "refused", "deep=refused deepen()=breaks deepest=unaffected"},
		{"berth.depth", "dropped-with-dependants", "runs", "deep=goes deepen()=breaks deepest=goes"},
		{"berth.depth", "renamed=depth_m", "runs", "deep=follows deepen()=breaks deepest=unaffected"},
		{"berth.depth", "retyped=bigint", "refused", "deep=refused deepen()=uncertain deepest=unaffected"},
		{"berth.depth", "required", "runs", "deep=unaffected deepen()=uncertain deepest=unaffected"},
		{"berth.name", "dropped", "runs", "by_name=goes"},
		{"berth", "moved=ops", "runs", "by_name=follows deep=follows deepen()=breaks deepest=unaffected mooring=follows"},
		{"mooring", "dropped", "runs", ""}, // nothing depends on it
		{"berth.no", "dropped", "refused", "berth.berth_pkey=goes deep=refused deepest=unaffected mooring=refused"},
	} {
		outcome, verdicts, _ := ask(c.address, "--if", c.change)
		var got []string
		for name, v := range verdicts {
			got = append(got, name+"="+v)
		}
		slices.Sort(got)
		if text := strings.Join(got, " "); outcome != c.outcome || text != c.want {
			t.Errorf("%s %s: %s, %s; want %s, %s", c.address, c.change, outcome, text, c.outcome, c.want)
		}
	}
	out := p.want(0, "trace", "berth.depth", "--if", "dropped")
	holds(t, "trace --if", out, "The server refuses it: 1 in its way, 1 would break", "to edit first, in this order", "deepen()", "line")
	for _, args := range [][]string{{"berth", "--if", "droped"}, {"berth", "--if", "retyped=int"}, {"berth.depth", "--if", "renamed"}, {"berth.depth", "--if", "moved=x"}, {"berth", "--if", "dropped", "--needs"}} {
		p.fails(2, append([]string{"trace"}, args...))
	}
}

// Reports tell what is broken, unused, or goes round in circles.
func TestReports(t *testing.T) {
	p := newPlace(t)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "reef.db"), "CREATE TABLE berth (no integer primary key, depth real); CREATE VIEW deep AS SELECT no FROM berth WHERE depth > 3; CREATE VIEW torn AS SELECT no\nFROM gone; CREATE VIEW deepest AS SELECT max(no) FROM deep;\nCREATE TRIGGER t AFTER INSERT ON berth BEGIN UPDATE berth SET depth = 0; END;")
	p.want(0, "survey", "--from", "sqlite:reef.db", "--name", "quay")
	holds(t, "reports", p.want(0, "report"), "broken", "unused", "cycles")
	holds(t, "broken", p.want(0, "report", "broken"), "torn", "gone does not exist here", "2 findings")
	out := p.want(0, "report", "unused", "--kind", "view")
	holds(t, "unused", out, "deepest", "torn")
	if strings.Contains(strings.ReplaceAll(out, "deepest", ""), "deep") {
		t.Errorf("deep is used:\n%s", out)
	}
	holds(t, "cycles", p.want(0, "report", "cycles"), "depends on itself in a circle")
	d := answer[struct {
		Objects []struct {
			Address, Kind, Reason, Text string
			Line                        int
		}
	}](p, 0, "report", "broken", "quay")
	if !slices.ContainsFunc(d.Objects, func(o struct {
		Address, Kind, Reason, Text string
		Line                        int
	}) bool {
		return o.Kind == "view" && o.Line == 2 && o.Text == "FROM gone"
	}) {
		t.Errorf("%+v", d)
	}
	p.fails(2, []string{"report", "brokn"}, "there is no report", "broken")
}

// A view of the next database is a dependant, too.
func TestTraceOtherDatabases(t *testing.T) {
	maria := testservers.MariaDB(t)
	far := maria.Database(t, "CREATE TABLE berth (no int PRIMARY KEY, depth int);")
	name := maria.Engine().Database(far)
	near := maria.Database(t, "CREATE VIEW deep AS SELECT no FROM "+name+".berth WHERE depth > 3; CREATE VIEW deepest AS SELECT no FROM deep;")
	p := newPlace(t)
	p.want(0, "survey", "--from", far, "--name", "quay")
	if out := p.want(0, "trace", name+"/berth"); !strings.Contains(out, "were not looked into") {
		t.Errorf("what is not known is not told:\n%s", out)
	}
	p.want(0, "survey", "--from", near, "--name", "quay")
	out := p.want(0, "trace", name+"/berth")
	holds(t, "trace", out, "Nothing in this database depends on it", "in other databases", maria.Engine().Database(near)+"/deep", "deepest", "reads it")
	if strings.Contains(out, "were not looked into") {
		t.Errorf("they were:\n%s", out)
	}
	d := answer[rows](p, 0, "trace", name+"/berth")
	if len(d.Nodes) != 3 || d.Nodes[2].Distance != 2 || len(d.Edges) != 2 || d.Edges[0].Line != 2 {
		t.Errorf("%+v", d)
	}
	holds(t, "trace --if", p.want(0, "trace", name+"/berth", "--if", "dropped"), "is not judged: 1 below", "/deep")
	for _, only := range [][]string{{"--kind", "trigger"}, {"--use", "written"}} {
		out := p.want(0, append([]string{"trace", name + "/berth"}, only...)...)
		if strings.Contains(out, "/deep") || strings.Contains(out, "Nothing depends") {
			t.Errorf("trace %v:\n%s", only, out)
		}
	}
	maria.Drop(t, near)
}

// A column is followed under the names that it gets, and what uses other columns alone is left out, and counted.
func TestTraceColumns(t *testing.T) {
	p := newPlace(t)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "reef.db"), `CREATE TABLE quay (id integer PRIMARY KEY, name text);
CREATE TABLE berth (no integer PRIMARY KEY, depth real, len real, quay_id int REFERENCES quay (id));
CREATE VIEW v1 AS SELECT no, depth AS deep, len FROM berth; CREATE VIEW v2 AS SELECT no FROM v1;
CREATE VIEW v3 AS SELECT x.* FROM (SELECT no, deep * 2 AS twice FROM v1) x; CREATE VIEW v4 AS WITH a AS (SELECT twice, no FROM v3) SELECT no, (SELECT max(twice) FROM a) most FROM a;
CREATE VIEW v5 AS SELECT no FROM v4; CREATE VIEW v6 AS SELECT most FROM v4 UNION SELECT no FROM v2; CREATE VIEW e1 AS SELECT no, depth FROM berth EXCEPT SELECT 1, 2; CREATE VIEW e2 AS SELECT no FROM e1;
CREATE VIEW f1 AS SELECT no FROM berth WHERE depth > 3; CREATE VIEW f2 AS SELECT no FROM f1; CREATE VIEW q1 AS SELECT quay_id FROM berth; CREATE VIEW q2 AS SELECT no FROM berth;`)
	p.want(0, "survey", "--from", "sqlite:reef.db", "--name", "quay")
	for column, want := range map[string]string{"berth.depth": "e1 e2 f1 f2 v1:deep v3:twice v4:most v6", "berth.len": "v1:len", "quay.id": "berth:quay_id primary key q1", "v1.deep": "v3:twice v4:most v6"} {
		d := answer[struct {
			Nodes []struct {
				Object, Part string
				Becomes      []string
			}
			Other int `json:"by_other_columns"`
		}](p, 0, "trace", "quay/reef/"+column)
		var got []string
		for _, n := range d.Nodes[1:] {
			got = append(got, strings.TrimSuffix(cmp.Or(n.Part, n.Object)+":"+strings.Join(n.Becomes, ","), ":"))
		}
		slices.Sort(got)
		if strings.Join(got, " ") != want || d.Other == 0 {
			t.Errorf("%s: %v, and %d by other columns", column, got, d.Other)
		}
	}
	holds(t, "trace", p.want(0, "trace", "quay/reef/berth.depth"), "becomes twice", "more objects depend on these by other columns alone")
}

// A foreign table of another database stands for the table, and what depends on that depends on it.
func TestTraceForeignTables(t *testing.T) {
	pg := testservers.Postgres(t)
	far := pg.Database(t, "CREATE TABLE berth (no int PRIMARY KEY, depth int, quay text);")
	farName, port := nameOf(far), strconv.Itoa(pg.Port())
	near := pg.Database(t, "CREATE EXTENSION postgres_fdw; CREATE SERVER harbour FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '127.0.0.1', port '"+port+"', dbname '"+farName+"');\n"+
		"CREATE SERVER other FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '127.0.0.1', port '1', dbname '"+farName+"');\n"+
		"CREATE FOREIGN TABLE mirror (no int, deep int OPTIONS (column_name 'depth')) SERVER harbour OPTIONS (schema_name 'public', table_name 'berth');\n"+
		"CREATE FOREIGN TABLE strange (no int) SERVER other OPTIONS (schema_name 'public', table_name 'berth');\n"+
		"CREATE VIEW by_depth AS SELECT deep FROM mirror; CREATE VIEW by_number AS SELECT no FROM mirror;")
	third := pg.Database(t, "CREATE EXTENSION postgres_fdw; CREATE SERVER between FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '127.0.0.1', port '"+port+"', dbname '"+nameOf(near)+"');\n"+
		"CREATE FOREIGN TABLE seen (deep int) SERVER between OPTIONS (schema_name 'public', table_name 'by_depth'); CREATE VIEW deepest AS SELECT max(deep) AS most FROM seen;")
	p := newPlace(t)
	p.file("echo-atlas.toml", "[servers.quay]\nurl = \"postgres://atlas@127.0.0.1:"+port+"?sslmode=disable\"\ndatabases = [\""+farName+"\", \""+nameOf(near)+"\"]\n"+
		"[servers.pier]\nurl = \"postgres://atlas@127.0.0.1:"+port+"?sslmode=disable\"\ndatabases = [\""+nameOf(third)+"\"]\n")
	p.want(0, "survey")
	of := "quay/" + farName + "/public.berth"
	out := p.want(0, "trace", of)
	holds(t, "trace", out, "in other databases", nameOf(near)+"/public.mirror", "foreign table", "stands for it", "by_depth", "by_number", "pier/"+nameOf(third)+"/public.seen", "stands for it: quay/"+nameOf(near)+"/public.by_depth", "deepest")
	whole := answer[struct {
		Nodes []struct {
			Address  string
			Distance int
		}
	}](p, 0, "trace", of)
	far3 := map[string]int{}
	for _, n := range whole.Nodes {
		far3[n.Address[strings.LastIndexByte(n.Address, '.')+1:]] = n.Distance
	}
	if far3["mirror"] != 1 || far3["by_depth"] != 2 || far3["seen"] != 3 || far3["deepest"] != 4 {
		t.Errorf("distances: %v", far3)
	}
	if strings.Contains(out, "strange") {
		t.Errorf("another server's table:\n%s", out)
	}
	if out := p.want(0, "trace", of+".depth"); !strings.Contains(out, "by_depth") || strings.Contains(out, "by_number") {
		t.Errorf("the column under its other name:\n%s", out)
	}
	if out := p.want(0, "trace", of+".quay"); strings.Contains(out, "mirror") || strings.Contains(out, "deepest") {
		t.Errorf("a column that it has not:\n%s", out)
	}
	pg.Drop(t, near)
	pg.Drop(t, third)
}

// nameOf returns the database of an address of a server.
func nameOf(rawURL string) string {
	u, err := url.Parse(rawURL)
	if err != nil {
		return ""
	}
	return strings.TrimPrefix(u.Path, "/")
}

// Lists by conditions, of indexes and of rights; types by any name; databases of another name; what --except leaves.
func TestListMore(t *testing.T) {
	pg := testservers.Postgres(t)
	execAll(t, pg.Open(t, pg.URL("postgres")), "CREATE ROLE clerk")
	t.Cleanup(func() { _, _ = pg.Open(t, pg.URL("postgres")).Exec("DROP ROLE clerk") })
	url := pg.Database(t, `CREATE SCHEMA ops; CREATE TABLE ops.berth (no int PRIMARY KEY, quay varchar(20), at timestamptz, payload text); CREATE TABLE ops.log (line text);
CREATE INDEX by_quay ON ops.berth USING hash (quay) WHERE no > 3; GRANT SELECT, UPDATE ON ops.berth TO clerk; GRANT INSERT (line) ON ops.log TO clerk WITH GRANT OPTION;
INSERT INTO ops.berth SELECT i, 'q', now(), repeat(md5(i::text), 200) FROM generate_series(1, 3000) i; ANALYZE;
CREATE FUNCTION ops.charge(a int, b text, c numeric, d timestamptz, e int, f int) RETURNS int LANGUAGE sql AS 'SELECT 1';
CREATE TABLE ops.part (id int, d date) PARTITION BY RANGE (d); CREATE TABLE ops.part_1 PARTITION OF ops.part FOR VALUES FROM ('2024-01-01') TO ('2025-01-01'); INSERT INTO ops.part SELECT i, '2024-05-05' FROM generate_series(1, 500) i; ANALYZE;`)
	p := newPlace(t)
	p.want(0, "survey", "--from", url, "--name", "quay")
	index := answer[struct {
		Objects []struct{ Object, Indexed, Method, Predicate string }
	}](p, 0, "list", "--kind", "index")
	if len(index.Objects) != 1 || index.Objects[0].Indexed != "quay" || index.Objects[0].Method != "hash" || index.Objects[0].Predicate != "no > 3" {
		t.Errorf("%+v", index)
	}
	holds(t, "list --kind index", p.want(0, "list", "--kind", "index"), "columns", "method", "predicate", "no > 3")
	holds(t, "list --to", p.want(0, "list", "--to", "clerk"), "SELECT, UPDATE", "ops.log", "line", "INSERT", "2 grants")
	total := func(args ...string) int { return answer[rows](p, 0, append([]string{"list"}, args...)...).Total }
	for want, args := range map[int][]string{
		3: {"--where", "key=none", "--where", "name=ops.*"},
		2: {"--where", "rows>=500", "--where", "rows<1000", "--kind", "table,partition,partitioned table"},
		1: {"--kind", "column", "--where", "nullable=no"},
	} {
		if got := total(args...); got != want {
			t.Errorf("%v: %d rows, want %d", args, got, want)
		}
	}
	p.fails(2, []string{"list", "--where", "keys=none"}, "did you mean key?")
	p.fails(2, []string{"list", "--where", "owner>3"}, "compares numbers")
	sizes := answer[struct {
		Objects []struct {
			Object string
			Rows   int64
			Bytes  int64
		}
	}](p, 0, "list", "quay/*/ops")
	var scalar int64
	for _, x := range sizes.Objects {
		pg.Open(t, url).QueryRow("SELECT CASE WHEN $1 = 'part' THEN pg_total_relation_size('ops.part_1') ELSE pg_total_relation_size(('ops.' || $1)::regclass) END", x.Object).Scan(&scalar)
		if (x.Object == "berth" || x.Object == "part") && (x.Bytes < scalar/2 || x.Bytes > scalar || x.Rows < 500) {
			t.Errorf("%s: %d rows, %d bytes; the server says %d", x.Object, x.Rows, x.Bytes, scalar)
		}
	}
	for _, typ := range []string{"varchar", "varchar(20)", "VARCHAR", "int4", "timestamptz"} {
		if d := answer[rows](p, 0, "find", "*", "--type", typ); d.Total == 0 {
			t.Errorf("no column of type %s", typ)
		}
	}
	holds(t, "a type that is not there", p.want(1, "find", "*", "--type", "varchr"), "near it are: character varying(20)")
	holds(t, "nothing lacks", p.want(1, "find", "berth", "--except", "quay"), "are there too")
	wide := *p
	wide.env = append(p.env, "COLUMNS=80")
	holds(t, "a long signature", wide.want(0, "list", "--kind", "function"), "ops.charge(… 6)")
	csv := p.want(0, "list", "--kind", "table", "--as", "csv")
	holds(t, "csv", csv, "kind,server,database,schema,name,signature,on,columns", "table,quay,", ",ops,berth,,,4,primary", ",3000,")
}

// Databases of another name are counterparts where the configuration says so.
func TestPairs(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	for _, name := range []string{"live/berths", "stage/berths_copy"} {
		path := filepath.Join(p.dir, name+".db")
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		testservers.SQLite{}.Run(t, "sqlite:"+path, "CREATE TABLE mooring (id integer primary key, draught_m real);")
	}
	const servers = "[servers.live]\nfiles = \"live/*.db\"\nenvironment = \"live\"\nfamily = \"quay\"\n[servers.stage]\nfiles = \"stage/*.db\"\nenvironment = \"stage\"\nfamily = \"quay\"\n"
	p.file("echo-atlas.toml", servers)
	p.want(0, "survey")
	p.fails(2, []string{"diff", "live/*", "stage/*", "x"}, "nothing in OLD or NEW")
	if out := p.want(0, "find", "mooring"); strings.Contains(out, "also stage") {
		t.Errorf("databases of different names are taken for one:\n%s", out)
	}
	p.file("echo-atlas.toml", servers+"pair = { berths_copy = \"berths\" }\n")
	holds(t, "find", p.want(0, "find", "mooring"), "also stage")
	p.want(0, "diff", "live", "stage")
	p.file("echo-atlas.toml", servers+"pair = { berths_copy = \"\" }\n")
	p.fails(2, []string{"servers"}, "pair names no counterpart")
}

// What is looked for may hold line breaks and other control characters, as names and texts may.
func TestFindLineBreaks(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "q.db"), "CREATE TABLE \"a\nb\" (x, \"c\nd\"); CREATE VIEW v AS SELECT 1 AS\ntwo;")
	p.want(0, "survey", "--from", "sqlite:q.db")
	for _, c := range []struct {
		code int
		args []string
	}{
		{0, []string{"a\nb"}}, {0, []string{"a\nb", "--whole"}}, {1, []string{"a\nb", "--kind", "column"}}, {0, []string{"\n", "--kind", "column"}}, {1, []string{"\n", "--whole"}},
		{1, []string{"AS\ntwo"}}, {0, []string{"as\nTWO", "--text"}}, {1, []string{"AS\nthree", "--text"}}, {1, []string{"x\x01y z", "--text", "--whole"}}, {1, []string{"\t\x7f\u202e"}},
	} {
		p.want(c.code, append([]string{"find"}, c.args...)...)
	}
}

// What an object needs of another database is told, though the snapshot does not hold it.
func TestOutside(t *testing.T) {
	maria := testservers.MariaDB(t)
	other := maria.Database(t, "CREATE TABLE berth (no int PRIMARY KEY);")
	far := maria.Engine().Database(other)
	url := maria.Database(t, fmt.Sprintf("CREATE TABLE m (id int PRIMARY KEY, b int, CONSTRAINT far FOREIGN KEY (b) REFERENCES %s.berth (no));\nCREATE VIEW v AS SELECT id FROM m JOIN %s.berth ON b = no;", far, far))
	near := maria.Engine().Database(url)
	p := newPlace(t)
	p.want(0, "survey", "--from", url, "--name", "quay")
	place := "quay/" + near + "/"
	holds(t, "show", p.want(0, "show", place+"v"), "outside of this database", "reads it", far+"/berth")
	holds(t, "trace", p.want(0, "trace", place+"v", "--needs"), "foreign key far", far+"/berth")
	d := answer[struct {
		Outside []struct{ From, To, Database, Use, Evidence string }
	}](p, 0, "trace", place+"v", "--needs")
	uses := map[string]string{}
	for _, x := range d.Outside {
		if x.Database != far || x.To != "berth" {
			t.Errorf("%+v", x)
		}
		uses[x.Use] = x.From + " " + x.Evidence
	}
	if len(uses) != 2 || uses["reads"] != place+"v read" || uses["foreign key"] != place+"m.b recorded" {
		t.Errorf("%v", uses)
	}
	maria.Drop(t, url) // before the database that it refers to
}

// What depends on a thing through a database between is told, too, and what comes back to the first one is not told twice.
func TestTraceThroughDatabases(t *testing.T) {
	maria := testservers.MariaDB(t)
	first := maria.Database(t, "CREATE TABLE berth (no int PRIMARY KEY, depth int);")
	a := maria.Engine().Database(first)
	second := maria.Database(t, "CREATE VIEW deep AS SELECT no FROM "+a+".berth WHERE depth > 3;")
	b := maria.Engine().Database(second)
	third := maria.Database(t, "CREATE VIEW deepest AS SELECT max(no) AS most FROM "+b+".deep; CREATE VIEW told AS SELECT most FROM deepest;")
	c := maria.Engine().Database(third)
	maria.Run(t, first, "CREATE VIEW back AS SELECT no FROM "+b+".deep; CREATE VIEW both_of AS SELECT b.no FROM berth JOIN back b ON b.no = berth.no;")
	p := newPlace(t)
	p.file("echo-atlas.toml", fmt.Sprintf("[servers.quay]\nurl = %q\ndatabases = [%q, %q, %q]\n", maria.URL(""), a, b, c))
	p.want(0, "survey")
	out := p.want(0, "trace", "quay/"+a+"/berth")
	holds(t, "trace", out, "both_of", "quay/"+b+"/deep", "quay/"+c+"/deepest", "reads it: quay/"+b+"/deep", "told", "quay/"+a+"/back")
	if strings.Count(out, "both_of") != 1 || strings.Count(out, "told") != 1 {
		t.Errorf("something is told twice:\n%s", out)
	}
	holds(t, "the last", p.want(0, "trace", "quay/"+c+"/told"), "Nothing")
	for _, url := range []string{third, second, first} {
		maria.Drop(t, url)
	}
}

// Columns that the user has no right on leave gaps: the table is what was seen of it, and what was not is told.
func TestUnseenColumns(t *testing.T) {
	maria := testservers.MariaDB(t)
	url := maria.Database(t, "CREATE TABLE berth (no int, depth int, price int, name text, PRIMARY KEY (depth, price), KEY k (price, no));")
	name := maria.Engine().Database(url)
	root := maria.Open(t, maria.URL(""))
	execAll(t, root, "CREATE USER squinter@'127.0.0.1'", "GRANT SELECT (no, name) ON "+name+".berth TO squinter@'127.0.0.1'")
	t.Cleanup(func() { _, _ = root.Exec("DROP USER squinter@'127.0.0.1'") })
	p := newPlace(t)
	p.want(0, "survey", "--from", fmt.Sprintf("mariadb://squinter@127.0.0.1:%d/%s", maria.Port(), name), "--name", "quay")
	d := answer[rows](p, 0, "list", "quay", "--kind", "column")
	if len(d.Objects) != 2 || !strings.HasSuffix(d.Objects[0].Address, "berth.no") || !strings.HasSuffix(d.Objects[1].Address, "berth.name") {
		t.Errorf("%+v", d.Objects)
	}
	const lacks = "lacks rights on at least 2 of its columns"
	for _, args := range [][]string{{"show", "quay/" + name + "/berth"}, {"list", "quay"}, {"ddl", "quay"}} {
		holds(t, args[0], strings.Join(strings.Fields(p.want(0, args...)), " "), lacks)
	}
}

// What a role owns and may use, what lies in a schema, a tablespace and a database hangs on it, though no dependency says so; whether the
// server lets it go is compared with what the server does.
func TestTraceOfWhatHolds(t *testing.T) {
	pg := testservers.Postgres(t)
	root := pg.Open(t, pg.Database(t, ""))
	url := pg.Database(t, "CREATE ROLE deck_owner; CREATE ROLE deck_reader; CREATE ROLE deck_idle;\nCREATE SCHEMA deck; CREATE TABLE deck.plank (id int); ALTER TABLE deck.plank OWNER TO deck_owner; CREATE VIEW deck.planks AS SELECT id FROM deck.plank; GRANT SELECT ON deck.planks TO deck_reader;")
	t.Cleanup(func() {
		for _, role := range []string{"deck_owner", "deck_reader", "deck_idle"} {
			_, _ = pg.Open(t, pg.Database(t, "")).Exec("DROP ROLE IF EXISTS " + role)
		}
	})
	p := newPlace(t)
	p.file("echo-atlas.toml", "[servers.quay]\nurl = \"postgres://atlas@127.0.0.1:"+strconv.Itoa(pg.Port())+"?sslmode=disable\"\ndatabases = [\""+nameOf(url)+"\", \"server-level\"]\n")
	p.want(0, "survey")
	for role, of := range map[string]struct {
		says string
		held bool
	}{"deck_owner": {"it owns 1 object", true}, "deck_reader": {"it has rights on 1 object", true}, "deck_idle": {"Nothing", false}} {
		holds(t, role, p.want(0, "trace", "role:quay/server-level/"+role), of.says)
		out := p.want(0, "trace", "role:quay/server-level/"+role, "--if", "dropped")
		if refused := strings.Contains(out, "The server refuses it"); refused != of.held {
			t.Errorf("%s: %s", role, out)
		}
		if _, err := root.Exec("DROP ROLE " + role); (err != nil) != of.held {
			t.Errorf("%s: the server says %v", role, err)
		}
	}
	deck := "schema:quay/" + nameOf(url) + "/deck"
	holds(t, "a schema", p.want(0, "trace", deck), "2 objects lie in it", "else depends on it")
	holds(t, "a schema that goes", p.want(0, "trace", deck, "--if", "dropped"), "The server refuses it", "2 objects lie in it")
	holds(t, "a database", p.want(0, "trace", "database:quay/server-level/"+nameOf(url)), "objects lie in it")
	d := answer[struct {
		Held []struct {
			Database string
			Owns     int
		}
	}](p, 0, "trace", "role:quay/server-level/deck_owner")
	if len(d.Held) != 1 || d.Held[0].Owns != 1 || d.Held[0].Database != "quay/"+nameOf(url) {
		t.Errorf("%+v", d)
	}
	pg.Drop(t, url)
}
