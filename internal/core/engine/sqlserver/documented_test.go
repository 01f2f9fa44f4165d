package sqlserver

// What the documentation says of the server, fact by fact: each is in the fixture moorings, written after it.

import (
	"context"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/standin"
	"echo-atlas/internal/testcatalogue"
)

// moored runs a stand-in with the moorings, as a profile has it.
func moored(t testing.TB, p standin.Profile) *standin.Server {
	t.Helper()
	script, err := standin.Fixture("moorings")
	if err != nil {
		t.Fatal(err)
	}
	s, err := standin.Start("surveyor", "fog-and-foam", map[string]string{"moorings": script, "master": script})
	if err != nil {
		t.Fatal(err)
	}
	s.Profile, s.Hidden = p, []string{"locked"}
	t.Cleanup(s.Close)
	return s
}

// written returns the script of a database, with what is left out of it as comments.
func written(t *testing.T, reading *schema.Reading) string {
	t.Helper()
	c := testcatalogue.New(t)
	contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "north"}, reading)
	var entries []*catalogue.Entry
	for i := range contents.All() {
		entries = append(entries, contents.At(i))
	}
	script, err := ddl.Write(context.Background(), c, Engine{}, contents, entries, ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	_ = script.WriteTo(&b) // says what is left out, which stands in the text, too
	return b.String()
}

// order reports whether texts stand in a script, each behind the one before.
func order(t *testing.T, what, script string, texts ...string) {
	t.Helper()
	at := 0
	for _, text := range texts {
		i := strings.Index(script[at:], text)
		if i < 0 {
			where := "at all"
			if strings.Contains(script, text) {
				where = "behind " + texts[0]
			}
			t.Errorf("%s: %q does not stand %s", what, text, where)
			return
		}
		at += i + len(text)
	}
}

func remarked(r *schema.Reading, state, subject, reason string) bool {
	for _, m := range r.Remarks {
		if m.State == state && m.Subject == subject && strings.Contains(m.Reason, reason) {
			return true
		}
	}
	return false
}

func TestDocumentedFacts(t *testing.T) {
	reading := read(t, moored(t, standin.Profile{Version: "16.0.1000.6"}), "moorings")
	script := written(t, reading)
	golden(t, "moorings.sql", script)
	for _, k := range []struct {
		fact  string
		texts []string
	}{
		{"the seven options are set first", []string{"SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON", "SET NUMERIC_ROUNDABORT OFF", "SET ANSI_NULLS ON", "SET QUOTED_IDENTIFIER ON", "CREATE "}},
		{"a column of an alias type takes no COLLATE (error 452)", []string{"[code] [quay].[code] NOT NULL,"}},
		{"types of one name in two schemas are two", []string{"CREATE TYPE [quay].[code] FROM varchar(8) NOT NULL"}},
		{"and the other", []string{"CREATE TYPE [pier].[code] FROM nvarchar(10) NULL"}},
		{"each has its own description", []string{"N'of the pier', @level0type = N'SCHEMA', @level0name = N'pier', @level1type = N'TYPE', @level1name = N'code'"}},
		{"rights on a table type", []string{"GRANT EXECUTE ON TYPE::[quay].[ropes] TO [hands]"}},
		{"its description", []string{"N'a handful', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TYPE', @level1name = N'ropes'"}},
		{"boundaries of datetime to the tick, and NULL", []string{"[tides] (datetime) AS RANGE LEFT FOR VALUES ('2025-01-01T06:12:30.007', NULL)"}},
		{"boundaries of nvarchar", []string{"[flags] (nvarchar(10)) AS RANGE LEFT FOR VALUES (N'it''s', N'Z')"}},
		{"boundaries of varbinary", []string{"[fees] (varbinary(8)) AS RANGE LEFT FOR VALUES (0x00FF)"}},
		{"the function of a default comes before its table", []string{"CREATE FUNCTION quay.usual_fee", "CREATE TABLE [quay].[mooring]"}},
		{"a foreign key to a unique index comes after it", []string{"CREATE UNIQUE INDEX [mooring_code]", "[FK_rope_mooring] FOREIGN KEY"}},
		{"a key is not for replication", []string{"REFERENCES [quay].[mooring] ([code]) NOT FOR REPLICATION"}},
		{"a check is not for replication", []string{"CONSTRAINT [CK_rope] CHECK NOT FOR REPLICATION ([id]>(0))"}},
		{"a disabled check has the name that switches it off", []string{"ADD CONSTRAINT [CK__mooring__fee__1A2B3C4D] CHECK", "NOCHECK CONSTRAINT [CK__mooring__fee__1A2B3C4D]"}},
		{"a disabled foreign key, too", []string{"WITH NOCHECK ADD CONSTRAINT [FK__rope__id__99887766]", "NOCHECK CONSTRAINT [FK__rope__id__99887766]"}},
		{"descriptions of keys", []string{"N'one number a mooring'", "@level2type = N'CONSTRAINT', @level2name = N'PK_mooring'"}},
		{"of foreign keys, after these", []string{"[FK_rope_mooring] FOREIGN KEY", "N'made fast to'", "@level2name = N'FK_rope_mooring'"}},
		{"of checks", []string{"N'counted from one'", "@level2name = N'CK_rope'"}},
		{"of parameters", []string{"CREATE PROCEDURE quay.haul", "N'of the mooring'", "@level2type = N'PARAMETER', @level2name = N'@code'"}},
		{"other properties of columns", []string{"@name = N'unit', @value = N'crowns'", "@level2type = N'COLUMN', @level2name = N'fee'"}},
		{"of indexes on views", []string{"N'the first'", "@level1type = N'VIEW', @level1name = N'tally', @level2type = N'INDEX', @level2name = N'tally_ix'"}},
		{"of a DDL trigger, after it", []string{"CREATE TRIGGER watch", "N'keeps watch'"}},
		{"a disabled DDL trigger stays so", []string{"CREATE TRIGGER watch", "DISABLE TRIGGER [watch] ON DATABASE"}},
		{"a DDL trigger is made last", []string{"CREATE TABLE [quay].[mooring]", "CREATE TRIGGER watch"}},
		{"the clustered index of a view comes first", []string{"CREATE UNIQUE CLUSTERED INDEX [tally_ix]", "CREATE INDEX [a_tally_mooring]"}},
		{"a full-text index rests on a unique index, which comes first", []string{"CREATE UNIQUE INDEX [mooring_code]", "CREATE FULLTEXT INDEX ON [quay].[mooring]"}},
		{"indexes of memory-optimised tables stand in CREATE TABLE", []string{"CREATE TABLE [quay].[hot]", "INDEX [hot_berth] NONCLUSTERED HASH ([berth]) WITH (BUCKET_COUNT = 4096)", ") WITH (MEMORY_OPTIMIZED = ON, DURABILITY = SCHEMA_AND_DATA)"}},
		{"geometry needs a bounding box", []string{"CREATE SPATIAL INDEX [place_spot] ON [quay].[place] ([spot]) USING GEOMETRY_AUTO_GRID WITH (BOUNDING_BOX = (0, 0, 500, 200.5))"}},
		{"the place of an index against the table's own", []string{"CONSTRAINT [PK_mooring] PRIMARY KEY CLUSTERED ([id]) WITH (DATA_COMPRESSION = PAGE) ON [COLD]"}},
		{"an index where its table lies says nothing", []string{"CREATE UNIQUE INDEX [mooring_code] ON [quay].[mooring] ([code]) WITH (DATA_COMPRESSION = ROW, ALLOW_PAGE_LOCKS = OFF, STATISTICS_NORECOMPUTE = ON)\n"}},
		{"one that lies elsewhere does", []string{"CREATE INDEX [mooring_note] ON [quay].[mooring] ([other code]) WITH (ALLOW_ROW_LOCKS = OFF, OPTIMIZE_FOR_SEQUENTIAL_KEY = ON) ON [PRIMARY]"}},
		{"where large values lie", []string{") TEXTIMAGE_ON [COLD]"}},
		{"compression of a heap", []string{"CREATE TABLE [quay].[rope]", "WITH (DATA_COMPRESSION = ROW)"}},
		{"compression by partition", []string{"ON [by_tide] ([at]) WITH (DATA_COMPRESSION = PAGE ON PARTITIONS (1 TO 2))"}},
		{"how long history is kept", []string{"SYSTEM_VERSIONING = ON (HISTORY_TABLE = [quay].[fee_was], HISTORY_RETENTION_PERIOD = 6 MONTH)"}},
		{"a set of sparse columns", []string{"[all of it] xml COLUMN_SET FOR ALL_SPARSE_COLUMNS"}},
		{"XML of a collection, which comes first", []string{"CREATE XML SCHEMA COLLECTION [quay].[papers] AS N'<xsd:schema", "name=\"it''s\"", "[paper] xml(DOCUMENT [quay].[papers]) NULL"}},
		{"statistics that people made", []string{"CREATE STATISTICS [mooring_pair] ON [quay].[mooring] ([fee], [code]) WHERE ([fee]>(3)) WITH NORECOMPUTE"}},
		{"which trigger fires first", []string{"CREATE TRIGGER quay.rope_1", "sp_settriggerorder @triggername = N'[quay].[rope_1]', @order = N'First', @stmttype = N'INSERT'"}},
		{"and last", []string{"sp_settriggerorder @triggername = N'[quay].[rope_2]', @order = N'Last', @stmttype = N'INSERT'"}},
		{"a security policy after its function and its table", []string{"CREATE FUNCTION quay.may_see", "CREATE SECURITY POLICY [quay].[own_moorings] ADD FILTER PREDICATE [quay].[may_see]([id]) ON [quay].[mooring], ADD BLOCK PREDICATE [quay].[may_see]([id]) ON [quay].[mooring] AFTER INSERT WITH (STATE = ON, SCHEMABINDING = ON)"}},
		{"the owner of a table", []string{"CREATE TABLE [quay].[rope]", "ALTER AUTHORIZATION ON OBJECT::[quay].[rope] TO [mate]"}},
		{"a revoked column right is taken back, not given", []string{"GRANT SELECT ON [quay].[mooring] TO [hands]", "REVOKE SELECT ON [quay].[mooring] ([note]) FROM [hands]"}},
		{"rights on the database", []string{"GRANT VIEW DATABASE STATE TO [hands]"}},
		{"denied ones", []string{"DENY CREATE TABLE TO [hands]"}},
		{"the owner of a role comes first", []string{"CREATE USER [mate] WITH DEFAULT_SCHEMA = [quay]", "CREATE ROLE [hands] AUTHORIZATION [mate]", "ALTER ROLE [hands] ADD MEMBER [mate]"}},
		{"a user without a login", []string{"CREATE USER [ghost] WITHOUT LOGIN"}},
		{"a contained user has a place for a password", []string{"CREATE USER [alone] WITH PASSWORD = /* the password */"}},
		{"an application role, too", []string{"CREATE APPLICATION ROLE [gate] WITH PASSWORD = /* the password */, DEFAULT_SCHEMA = [quay]"}},
		{"a user for a certificate", []string{"CREATE USER [stamped] FOR CERTIFICATE [berth seal]]]"}},
		{"a user for a key", []string{"CREATE USER [keyed] FOR ASYMMETRIC KEY [gate_key]"}},
		{"a user for a certificate that is hidden has a place for it", []string{"CREATE USER [signed] FOR CERTIFICATE /* its name */"}},
		{"an external user", []string{"CREATE USER [cloud] FROM EXTERNAL PROVIDER"}},
		{"a schema called db_… is a schema", []string{"CREATE SCHEMA [db_tools]", "CREATE TABLE [db_tools].[worn]"}},
		{"an encrypted module costs itself alone", []string{"-- left out: procedure:quay.sealed"}},
		{"an always encrypted column costs its table", []string{"-- left out: table:quay.secret"}},
		{"an external table is not written as another", []string{"-- left out: table:quay.far: it is an external table"}},
		{"a rule comes before what it is bound to: a type", []string{"CREATE RULE quay.[some rope] AS @n > 0", "CREATE TYPE [pier].[code]", "EXEC sys.sp_bindrule @rulename = N'[quay].[some rope]', @objname = N'[pier].[code]'"}},
		{"or a column", []string{"CREATE RULE quay.[some rope]", "CREATE TABLE [pier].[crew]", "EXEC sys.sp_bindrule @rulename = N'[quay].[some rope]', @objname = N'[pier].[crew].[id]'"}},
		{"so does a default that stands alone; that of a constraint is none", []string{"CREATE DEFAULT quay.[no fee] AS 0", "CREATE TABLE [pier].[crew]", "EXEC sys.sp_bindefault @defname = N'[quay].[no fee]', @objname = N'[pier].[crew].[id]'"}},
		{"further procedures of one name", []string{"CREATE PROCEDURE quay.haul @ropes", "CREATE PROCEDURE quay.haul;2 AS SELECT 2", "CREATE PROCEDURE quay.haul;3 AS SELECT 3"}},
		{"a file group, a file where the server keeps them, and how it grows", []string{"ALTER DATABASE CURRENT ADD FILEGROUP [COLD]", "SERVERPROPERTY('InstanceDefaultDataPath')", "ADD FILE (NAME = [cold 1]", "TO FILEGROUP [COLD]", "MODIFY FILEGROUP [COLD] AUTOGROW_ALL_FILES", "CREATE PARTITION SCHEME [by_tide]", "CREATE TABLE [quay].[mooring]"}},
		{"one that can only be read is so at the end", []string{"CREATE TABLE [quay].[mooring]", "CREATE VIEW quay.tally", "MODIFY FILEGROUP [COLD] READ_ONLY"}},
		{"one of files, and the usual one", []string{"ADD FILEGROUP [papers] CONTAINS FILESTREAM", "MODIFY FILEGROUP [papers] DEFAULT"}},
		{"a stoplist with its words", []string{"CREATE FULLTEXT STOPLIST [small words]", "ADD N'aboard' LANGUAGE 1033", "ADD N'it''s' LANGUAGE 1033", "CREATE FULLTEXT INDEX ON [quay].[mooring] ([note] LANGUAGE 1033) KEY INDEX [mooring_code] ON [words] WITH (CHANGE_TRACKING = MANUAL, STOPLIST = [small words])"}},
		{"no stoplist, and the column that tells what a document is", []string{"CREATE FULLTEXT INDEX ON [quay].[place] ([picture] TYPE COLUMN [form] LANGUAGE 0) KEY INDEX [PK_place] ON [words] WITH (STOPLIST = OFF)"}},
		{"the database tracks changes before its tables do", []string{"ALTER DATABASE CURRENT SET CHANGE_TRACKING = ON", "ALTER TABLE [quay].[mooring] ENABLE CHANGE_TRACKING WITH (TRACK_COLUMNS_UPDATED = ON)"}},
		{"without the columns that change, too", []string{"ALTER DATABASE CURRENT SET CHANGE_TRACKING = ON", "ALTER TABLE [pier].[crew] ENABLE CHANGE_TRACKING\n"}},
		{"a selective XML index is none over all", []string{"CREATE SELECTIVE XML INDEX [note_papers] ON [quay].[note] ([paper]) WITH XMLNAMESPACES ('urn:harbour' AS h) FOR ([number] = '/h:paper/no' AS SQL varchar(20) SINGLETON, [at] = '/h:paper/at' AS XQUERY 'xs:string' MAXLENGTH(40) SINGLETON, [all of it] = '/h:paper' AS XQUERY 'node()')",
			"CREATE XML INDEX [note_paper_no] ON [quay].[note] ([paper]) USING XML INDEX [note_papers] FOR ([number])"}},
		{"nor a ledger table", []string{"-- left out: table:quay.signed_for: it is a ledger table"}},
	} {
		order(t, k.fact, script, k.texts...)
	}
	if strings.Contains(script, "GRANT SELECT ON [quay].[mooring] ([note])") || strings.Contains(script, "knot") || strings.Contains(script, "GRANT CONNECT") {
		t.Errorf("the script gives what nobody has:\n%s", script)
	}
	for _, k := range []struct{ state, subject, reason string }{
		{"unread", "type:quay.knot", "assembly"}, {"unread", "table:quay.far", "external"}, {"unread", "table:quay.signed_for", "ledger"}, {"unread", "table:quay.secret", "always encrypted"}, {"hidden", "procedure:quay.sealed()", "encrypted"},
		{"hidden", "table:quay.rope", "the foreign key FK_rope_far leads to a table that"}, {"unread", "", "1 of assemblies"}, {"unread", "", "2 of column master keys"}, {"unread", "", "1 of plan guides"}, {"note", "role:signed(user)", "the name of its certificate is hidden"}, {"unread", "", "2 of certificates"},
	} {
		if !remarked(reading, k.state, k.subject, k.reason) {
			t.Errorf("no remark %s %s %q among %+v", k.state, k.subject, k.reason, reading.Remarks)
		}
	}
	needs := map[string]bool{}
	for _, d := range reading.Dependencies {
		needs[d.From.ID.Qualified()+" > "+d.To.ID.Qualified()+" "+d.To.Part] = true
	}
	for _, want := range []string{"table:quay.mooring > function:quay.usual_fee() ", "table:quay.mooring > user-defined-type:quay.code ", "table:quay.mooring > user-defined-type:pier.code ", "procedure:quay.haul() > table-type:quay.ropes ", "procedure:quay.haul() > user-defined-type:quay.code ",
		"procedure:pier.list_crew() > table:pier.crew ", "synonym:quay.lines > table:quay.rope ", "security-policy:quay.own_moorings > function:quay.may_see() ", "statistics-object:quay.mooring.mooring_pair > table:quay.mooring fee",
		"table:pier.crew > rule:quay.\"some rope\" ", "table:pier.crew > default:quay.\"no fee\" ", "user-defined-type:pier.code > rule:quay.\"some rope\" ", "table:quay.mooring > file-group:COLD ", "partition-scheme:by_tide > file-group:COLD ", "table:quay.mooring > full-text-stoplist:\"small words\" ", "index:quay.note.note_paper_no > index:quay.note.note_papers "} {
		if !needs[want] {
			t.Errorf("the need %s is missing: %v", want, needs)
		}
	}
	for need := range needs {
		if strings.Contains(need, "gone") || strings.Contains(need, "list_crew") && !strings.HasPrefix(need, "procedure:pier") {
			t.Errorf("%s: known when it runs, and not before", need)
		}
	}
}

// Who may see less gets less, is told so, and gets the rest.
func TestProfiles(t *testing.T) {
	denied := map[string]int{"sys.sql_expression_dependencies": 229, "sys.dm_db_partition_stats": 262}
	whole := read(t, moored(t, standin.Profile{}), "moorings")
	for name, p := range map[string]standin.Profile{
		"a viewer": {Refused: denied}, "a viewer of 2022": {Refused: map[string]int{"sys.sql_expression_dependencies": 229, "sys.dm_db_partition_stats": 300}, Version: "16.0.1000.6"},
		"a viewer of 2016": {Refused: denied, Version: "13.0.5026.0"}, "Azure SQL Database": {Edition: 5, Version: "12.0.2000.8", Refused: map[string]int{"sys.servers": 208, "sys.dm_db_partition_stats": 262, "sys.plan_guides": 208}},
		"a Managed Instance": {Edition: 8, Version: "12.0.2000.8"}, "a locked catalogue": {Refused: map[string]int{"sys.certificates": 229}},
		"an edition without": {Refused: map[string]int{"sys.selective_xml_index_paths": 208, "sys.numbered_procedures": 208, "sys.change_tracking_tables": 229}},
	} {
		reading := read(t, moored(t, p), "moorings")
		if len(reading.Objects) != len(whole.Objects) {
			t.Errorf("%s: %d objects, not %d", name, len(reading.Objects), len(whole.Objects))
		}
		if p.Refused["sys.sql_expression_dependencies"] != 0 && !remarked(reading, "note", "", "GRANT SELECT ON sys.sql_expression_dependencies TO [surveyor]") {
			t.Errorf("%s: nothing is said of dependencies: %+v", name, reading.Remarks)
		}
		if p.Refused["sys.dm_db_partition_stats"] != 0 {
			found := false
			for _, m := range reading.Measures {
				if m.ID.Name == "mooring" {
					found = true
					if m.Rows != 40 || m.Bytes != 12*8192 {
						t.Errorf("%s: %+v", name, m)
					}
				}
			}
			if !found {
				t.Errorf("%s: no sizes", name)
			}
		}
		if p.Refused["sys.numbered_procedures"] != 0 && (!remarked(reading, "unread", "", "numbered procedures could not be read") || !remarked(reading, "unread", "", "the paths of selective XML indexes could not be read")) {
			t.Errorf("%s: what could not be read is not said: %+v", name, reading.Remarks)
		}
		if p.Refused["sys.numbered_procedures"] != 0 {
			order(t, name, written(t, reading), "-- left out: index:quay.note.note_papers: the paths that it holds were not read", "-- left out: index:quay.note.note_paper_no: the paths that it holds were not read")
		}
		if p.Refused["sys.certificates"] != 0 && !remarked(reading, "note", "role:stamped(user)", "the name of its certificate is hidden") {
			t.Errorf("%s: the certificate of a user is not said to be hidden: %+v", name, reading.Remarks)
		}
		if p.Refused["sys.certificates"] != 0 && !remarked(reading, "unread", "", "certificates are not part of the catalogue, and could not be counted") {
			t.Errorf("%s: %+v", name, reading.Remarks)
		}
	}
	old := standin.Profile{Version: "12.0.2000.8"}
	if _, err := (Engine{}).Connect(context.Background(), target(moored(t, old).Addr(), "moorings")); err == nil || !strings.Contains(err.Error(), "oldest that is read") {
		t.Errorf("2014 is let in: %v", err)
	}
}

// Texts that the user may not see are hidden, not gone: no script writes a table without its default.
func TestHiddenTexts(t *testing.T) {
	reading := read(t, moored(t, standin.Profile{NoTexts: true, Rights: map[string]string{"VIEW DEFINITION": "NULL"}}), "moorings")
	for _, k := range []struct{ subject, reason string }{{"", "lacks the right VIEW DEFINITION"}, {"table:quay.mooring", "the default of the column fee"}, {"table:quay.rope", "the condition of the check CK_rope"}} {
		if !remarked(reading, "hidden", k.subject, k.reason) {
			t.Errorf("no remark on %s %q among %+v", k.subject, k.reason, reading.Remarks)
		}
	}
	script := written(t, reading)
	order(t, "tables whose texts are hidden", script, "-- left out: table:quay.mooring")
	if strings.Contains(script, "CREATE TABLE [quay].[mooring]") || strings.Contains(script, "CREATE TABLE [quay].[rope]") || !strings.Contains(script, "CREATE TABLE [pier].[crew]") {
		t.Errorf("what is hidden is written as if it were not there:\n%s", script)
	}
}

// A user who could write is told that a survey needs less.
func TestRemarks(t *testing.T) {
	reading := read(t, moored(t, standin.Profile{Rights: map[string]string{"INSERT": "1"}}), "moorings")
	if !remarked(reading, "note", "", "could write in this database") {
		t.Errorf("%+v", reading.Remarks)
	}
	s := moored(t, standin.Profile{Rights: map[string]string{"VIEW ANY DEFINITION": "0"}})
	if reading := read(t, s, engine.ServerLevel); !remarked(reading, "hidden", "", "VIEW ANY DEFINITION") {
		t.Errorf("%+v", reading.Remarks)
	}
	session, err := Engine{}.Connect(context.Background(), target(s.Addr(), ""))
	if err != nil {
		t.Fatal(err)
	}
	defer session.Close()
	names, remarks, err := session.Databases(context.Background())
	if err != nil || strings.Join(names, " ") != "moorings old papers "+engine.ServerLevel || len(remarks) != 2 || !strings.Contains(remarks[0].Reason+remarks[1].Reason, "offline") || !strings.Contains(remarks[0].Reason+remarks[1].Reason, "may not open") {
		t.Errorf("%v %+v %v", names, remarks, err)
	}
}

// Logins come back as they were, but for the password; what belongs to every server is left out.
func TestServerLevel(t *testing.T) {
	script := written(t, read(t, moored(t, standin.Profile{}), engine.ServerLevel))
	order(t, "a login", script, "CREATE LOGIN [mate] WITH PASSWORD = /* the password */", "SID = 0x0A0B", "DEFAULT_DATABASE = [moorings]", "ALTER LOGIN [mate] DISABLE", "ALTER SERVER ROLE [deck] ADD MEMBER [mate]")
	order(t, "a server role comes before its members", script, "CREATE SERVER ROLE [deck]", "ADD MEMBER [mate]")
	order(t, "a group of Windows", script, `CREATE LOGIN [SKERRY\crew] FROM WINDOWS`, `ALTER SERVER ROLE [sysadmin] ADD MEMBER [SKERRY\crew]`)
	order(t, "a server of the product SQL Server takes no provider", script, "EXEC sys.sp_addlinkedserver @server = N'NORTH', @srvproduct = N'SQL Server'\n")
	for _, not := range []string{"[sa]", "##", "[public]", "CREATE SERVER ROLE [sysadmin]", "PASSWORD = N''"} {
		if strings.Contains(script, not) {
			t.Errorf("%s stands in\n%s", not, script)
		}
	}
	order(t, "a database with what is set of it, and at last that it can only be read", script, "CREATE DATABASE [old papers] CONTAINMENT = PARTIAL COLLATE Latin1_General_BIN2", "SET COMPATIBILITY_LEVEL = 150", "SET RECOVERY SIMPLE", "SET PAGE_VERIFY NONE", "SET RESTRICTED_USER", "SET DELAYED_DURABILITY = ALLOWED", "SET ALLOW_SNAPSHOT_ISOLATION ON",
		"SET TARGET_RECOVERY_TIME = 0 SECONDS", "SET READ_COMMITTED_SNAPSHOT ON", "SET AUTO_CREATE_STATISTICS OFF", "SET AUTO_UPDATE_STATISTICS_ASYNC ON", "SET ARITHABORT ON", "SET CURSOR_DEFAULT LOCAL", "SET TRUSTWORTHY ON", "SET PARAMETERIZATION FORCED", "SET QUERY_STORE = ON", "SET DISABLE_BROKER",
		"SET MEMORY_OPTIMIZED_ELEVATE_TO_SNAPSHOT = ON", "ALTER DATABASE [old papers] SET READ_ONLY", "ALTER AUTHORIZATION ON DATABASE::[old papers] TO [mate]")
	order(t, "how long changes are kept", script, "ALTER DATABASE [moorings] SET CHANGE_TRACKING = ON (CHANGE_RETENTION = 36 HOURS, AUTO_CLEANUP = OFF)")
	if reading := read(t, moored(t, standin.Profile{}), engine.ServerLevel); !remarked(reading, "unread", "database:\"old papers\"", "it is encrypted") {
		t.Errorf("nothing is said of an encrypted database: %+v", reading.Remarks)
	}
	if strings.Contains(script, "[moorings] SET AUTO") || strings.Contains(script, "[moorings] SET PAGE") {
		t.Errorf("what is usual is said:\n%s", script)
	}
	azure := written(t, read(t, moored(t, standin.Profile{Edition: 5, Version: "12.0.2000.8", Refused: map[string]int{"sys.servers": 208, "sys.server_principals": 208}}), engine.ServerLevel))
	order(t, "Azure SQL Database has logins", azure, "CREATE LOGIN [mate]")
	if strings.Contains(azure, "RECOVERY") || strings.Contains(azure, "BROKER") || !strings.Contains(azure, "[old papers] SET READ_COMMITTED_SNAPSHOT ON") {
		t.Errorf("what Azure SQL Database does not have is set there, or what it has is not:\n%s", azure)
	}
}

// A lock that is in the way for a moment costs one more question.
func TestLockTimeout(t *testing.T) {
	s := moored(t, standin.Profile{Once: map[string]int{"sys.key_constraints": 1222}})
	if reading := read(t, s, "moorings"); len(reading.Objects) == 0 {
		t.Error("nothing was read")
	}
}
