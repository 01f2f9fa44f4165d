package sqlserver

// A small interpreter runs scripts against a model of a database that only knows names: what a statement needs has to be there,
// and what comes out has to be what was meant.

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/standin"
	"echo-atlas/internal/testcatalogue"
)

// machine holds what there is: kinds and names, in lower case, and the parts of tables.
type machine struct {
	things  map[string]bool // "table quay.rope", "index quay.rope.by_id", "constraint quay.rope.CK", "role mate"
	columns map[string][]string
	unique  map[string][]string // column lists that foreign keys may rest on, by table
	options map[string]bool
	faults  []string
}

func newMachine() *machine {
	return &machine{things: map[string]bool{"schema dbo": true, "role dbo": true, "role public": true, "filegroup PRIMARY": true}, columns: map[string][]string{}, unique: map[string][]string{}, options: map[string]bool{}}
}

func (m *machine) fault(batch, format string, args ...any) {
	first, _, _ := strings.Cut(strings.TrimSpace(batch), "\n")
	m.faults = append(m.faults, fmt.Sprintf(format, args...)+": "+first)
}

// want reports a fault where something is missing.
func (m *machine) want(batch string, thing string) {
	if !m.things[thing] {
		m.fault(batch, "%s is not there", thing)
	}
}

func (m *machine) add(batch, thing string) {
	if m.things[thing] {
		m.fault(batch, "%s is there already", thing)
	}
	m.things[thing] = true
}

func (m *machine) remove(batch, thing string) {
	m.want(batch, thing)
	delete(m.things, thing)
}

// relation returns the thing of a name, whatever kind of object it is.
func (m *machine) object(name string) string {
	for _, kind := range []string{"table", "view", "procedure", "function", "sequence", "synonym", "security policy"} {
		if m.things[kind+" "+name] {
			return kind + " " + name
		}
	}
	return "object " + name
}

const namePattern = `((?:\[(?:[^\]]|\]\])*\]|\w+)(?:\s*\.\s*(?:\[(?:[^\]]|\]\])*\]|\w+))?)`

// plain takes the brackets off a name.
func plain(name string) string {
	parts := regexp.MustCompile(`\[((?:[^\]]|\]\])*)\]|\w+`).FindAllStringSubmatch(name, -1)
	var out []string
	for _, p := range parts {
		if strings.HasPrefix(p[0], "[") {
			out = append(out, strings.ReplaceAll(p[1], "]]", "]"))
		} else {
			out = append(out, p[0])
		}
	}
	return strings.Join(out, ".")
}

// rule runs the statements that a pattern fits.
type rule struct {
	pattern *regexp.Regexp
	run     func(m *machine, batch string, found []string)
}

func re(text string) *regexp.Regexp {
	return regexp.MustCompile(`(?is)^` + strings.ReplaceAll(text, "NAME", namePattern))
}

// made adds an object of a schema that has to be there.
func made(kind string) func(*machine, string, []string) {
	return func(m *machine, batch string, found []string) {
		name := plain(found[1])
		if in, _, ok := strings.Cut(name, "."); ok {
			m.want(batch, "schema "+in)
		}
		m.add(batch, kind+" "+name)
	}
}

func gone(kind string) func(*machine, string, []string) {
	return func(m *machine, batch string, found []string) {
		name := plain(found[1])
		m.remove(batch, kind+" "+name)
		for thing := range m.things {
			if strings.HasPrefix(thing, "index "+name+".") || strings.HasPrefix(thing, "constraint "+name+".") || strings.HasPrefix(thing, "trigger on "+name+" ") || thing == "full-text index "+name || strings.HasPrefix(thing, "statistics "+name+".") || thing == "clustered "+name || thing == "tracked "+name || strings.HasPrefix(thing, "bound rule to "+name+".") || strings.HasPrefix(thing, "bound efault to "+name+".") || thing == "bound rule to "+name || thing == "bound efault to "+name {
				delete(m.things, thing)
			}
			if strings.HasPrefix(thing, "foreign key ") && strings.HasSuffix(thing, " to "+name) && !strings.Contains(thing, " of "+name+" ") {
				m.fault(batch, "%s still refers to it", thing)
			}
		}
		maps.DeleteFunc(m.things, func(thing string, _ bool) bool { return strings.Contains(thing, " of "+name+" to ") })
		delete(m.columns, name)
	}
}

// constraint adds what ADD [CONSTRAINT …] and the items of CREATE TABLE say.
func (m *machine) constraint(batch, table, text string) {
	if f := re(`\s*CONSTRAINT NAME (.*)`).FindStringSubmatch(text); f != nil {
		m.add(batch, "constraint "+table+"."+plain(f[1]))
		text = f[2]
	}
	list := func(s string) string { return strings.ToLower(plain(strings.ReplaceAll(s, " DESC", ""))) }
	switch {
	case re(`\s*(?:PRIMARY KEY|UNIQUE)`).MatchString(text):
		if f := re(`.*?\(([^)]*)\)`).FindStringSubmatch(text); f != nil {
			m.unique[table] = append(m.unique[table], list(f[1]))
		}
	case re(`\s*FOREIGN KEY`).MatchString(text):
		f := re(`\s*FOREIGN KEY \([^)]*\) REFERENCES NAME \(([^)]*)\)`).FindStringSubmatch(text)
		to := plain(f[1])
		m.want(batch, "table "+to)
		if !slices.Contains(m.unique[to], list(f[2])) {
			m.fault(batch, "no key on %s (%s) among %q", to, list(f[2]), m.unique[to])
		}
		m.things["foreign key of "+table+" to "+to] = true
	}
}

// bindable reports a fault where no column and no type has a name.
func (m *machine) bindable(batch, quoted string) {
	name := plain(quoted)
	if i := strings.LastIndex(name, "."); m.things["type "+name] || i > 0 && slices.Contains(m.columns[name[:i]], name[i+1:]) {
		return
	}
	m.fault(batch, "nothing is called %s", name)
}

// placed reports a fault where a file group is not there in which something shall lie.
func (m *machine) placed(batch, text string) {
	for _, f := range regexp.MustCompile(`(?i) (?:TEXTIMAGE_)?ON \[((?:[^\]]|\]\])*)\](?:,| TEXTIMAGE_ON| WITH|\s*$)`).FindAllStringSubmatch(text, -1) {
		if group := "filegroup " + f[1]; !m.things["partition scheme "+f[1]] {
			m.want(batch, group)
		}
	}
}

// session checks the options without which some statements fail (documentation: "CREATE INDEX", "SET options").
func (m *machine) session(batch string) {
	for _, o := range []string{"ansi_padding", "ansi_warnings", "arithabort", "concat_null_yields_null", "ansi_nulls", "quoted_identifier"} {
		if !m.options[o] {
			m.fault(batch, "%s is off", o)
		}
	}
	if m.options["numeric_roundabort"] {
		m.fault(batch, "numeric_roundabort is on")
	}
}

var machineRules = []rule{
	{re(`SET (.*)`), func(m *machine, batch string, _ []string) {
		for line := range strings.Lines(batch) {
			f := re(`SET (.*) (ON|OFF)\s*$`).FindStringSubmatch(line)
			for _, name := range strings.Split(f[1], ",") {
				m.options[strings.ToLower(strings.TrimSpace(name))] = strings.EqualFold(f[2], "ON")
			}
		}
	}},
	{re(`IF NOT EXISTS \(SELECT 1 FROM sys\.change_tracking_databases .*\sALTER DATABASE CURRENT SET CHANGE_TRACKING = ON$`), func(m *machine, _ string, _ []string) { m.options["change tracking"] = true }},
	{re(`ALTER TABLE NAME (ENABLE|DISABLE) CHANGE_TRACKING`), func(m *machine, batch string, f []string) {
		m.want(batch, "table "+plain(f[1]))
		switch {
		case f[2] == "DISABLE":
			m.remove(batch, "tracked "+plain(f[1]))
		case !m.options["change tracking"]:
			m.fault(batch, "the database does not track changes")
		default:
			m.add(batch, "tracked "+plain(f[1]))
		}
	}},
	{re(`CREATE RULE NAME AS`), made("rule")}, {re(`CREATE DEFAULT NAME AS`), made("default")}, {re(`DROP RULE NAME`), gone("rule")}, {re(`DROP DEFAULT NAME`), gone("default")},
	{re(`EXEC sys\.sp_bind(rule|efault) @\w+ = N'([^']*)', @objname = N'([^']*)'$`), func(m *machine, batch string, f []string) {
		m.want(batch, map[string]string{"rule": "rule ", "efault": "default "}[f[1]]+plain(f[2]))
		m.bindable(batch, f[3])
		m.add(batch, "bound "+f[1]+" to "+plain(f[3]))
	}},
	{re(`EXEC sys\.sp_unbind(rule|efault) @objname = N'([^']*)'$`), func(m *machine, batch string, f []string) {
		m.bindable(batch, f[2])
		m.remove(batch, "bound "+f[1]+" to "+plain(f[2]))
	}},
	{re(`ALTER DATABASE CURRENT ADD FILEGROUP NAME`), made("filegroup")},
	{re(`DECLARE @file .*\(N\w+ = NAME, F\w+ = ' \+ @file \+ N'\) TO FILEGROUP NAME';\s+EXEC \(@file\)$`), func(m *machine, batch string, f []string) {
		m.want(batch, "filegroup "+plain(f[2]))
		m.add(batch, "file "+plain(f[1]))
	}},
	{re(`ALTER DATABASE CURRENT REMOVE (FILE|FILEGROUP) NAME`), func(m *machine, batch string, f []string) {
		m.remove(batch, strings.ToLower(f[1])+" "+plain(f[2]))
	}},
	{re(`ALTER DATABASE CURRENT MODIFY FILEGROUP NAME (?:DEFAULT|READ_ONLY|READ_WRITE|AUTOGROW_ALL_FILES)$`), func(m *machine, batch string, f []string) { m.want(batch, "filegroup "+plain(f[1])) }},
	{re(`CREATE FULLTEXT STOPLIST NAME`), made("stoplist")}, {re(`DROP FULLTEXT STOPLIST NAME`), gone("stoplist")},
	{re(`ALTER FULLTEXT STOPLIST NAME ADD N'`), func(m *machine, batch string, f []string) { m.want(batch, "stoplist "+plain(f[1])) }},
	{re(`CREATE PROCEDURE NAME;(\d+)`), func(m *machine, batch string, f []string) { m.want(batch, "procedure "+plain(f[1])) }},
	{re(`IF NOT `), func(*machine, string, []string) {}},
	{re(`CREATE SCHEMA NAME(?: AUTHORIZATION NAME)?`), func(m *machine, batch string, f []string) {
		m.add(batch, "schema "+plain(f[1]))
		if f[2] != "" {
			m.want(batch, "role "+plain(f[2]))
		}
	}},
	{re(`CREATE (?:USER|ROLE|APPLICATION ROLE) NAME(?:.* AUTHORIZATION NAME)?`), func(m *machine, batch string, f []string) {
		m.add(batch, "role "+plain(f[1]))
		if f[2] != "" {
			m.want(batch, "role "+plain(f[2]))
		}
	}},
	{re(`ALTER ROLE NAME ADD MEMBER NAME`), func(m *machine, batch string, f []string) {
		if role := plain(f[1]); !strings.HasPrefix(role, "db_") {
			m.want(batch, "role "+role)
		}
		m.want(batch, "role "+plain(f[2]))
	}},
	{re(`CREATE TYPE NAME AS TABLE`), made("type")}, {re(`CREATE TYPE NAME`), made("type")}, {re(`CREATE XML SCHEMA COLLECTION NAME`), made("type")},
	{re(`CREATE PARTITION FUNCTION NAME`), made("partition function")}, {re(`CREATE FULLTEXT CATALOG NAME`), made("catalog")},
	{re(`CREATE PARTITION SCHEME NAME AS PARTITION NAME`), func(m *machine, batch string, f []string) {
		m.want(batch, "partition function "+plain(f[2]))
		for _, group := range regexp.MustCompile(`\[([^\]]*)\]`).FindAllStringSubmatch(batch[strings.Index(batch, " TO ("):], -1) {
			m.want(batch, "filegroup "+group[1])
		}
		m.add(batch, "partition scheme "+plain(f[1]))
	}},
	{re(`CREATE TABLE NAME \((.*?)\n\)(.*)`), func(m *machine, batch string, f []string) {
		made("table")(m, batch, f)
		table := plain(f[1])
		for _, item := range strings.Split(f[2], ",\n") {
			switch item = strings.TrimSpace(item); {
			case re(`CONSTRAINT |PRIMARY KEY|UNIQUE|FOREIGN KEY|CHECK`).MatchString(item):
				m.constraint(batch, table, item)
			case strings.HasPrefix(item, "PERIOD "):
			case strings.HasPrefix(item, "INDEX "):
				m.add(batch, "index "+table+"."+plain(re(`INDEX NAME`).FindStringSubmatch(item)[1]))
			default:
				m.column(batch, table, item)
			}
		}
		m.placed(batch, f[2]+f[3])
		if on := regexp.MustCompile(`(?i) ON \[(\w+)\] \(`).FindStringSubmatch(f[3]); on != nil {
			m.want(batch, "partition scheme "+on[1])
		}
		if history := regexp.MustCompile(`HISTORY_TABLE = ` + namePattern).FindStringSubmatch(f[3]); history != nil {
			m.want(batch, "table "+plain(history[1]))
		}
	}},
	{re(`CREATE (?:OR ALTER )?VIEW NAME`), made("view")}, {re(`CREATE (?:OR ALTER )?PROC(?:EDURE)? NAME`), made("procedure")}, {re(`CREATE FUNCTION NAME`), made("function")},
	{re(`CREATE SEQUENCE NAME`), made("sequence")}, {re(`CREATE SYNONYM NAME`), made("synonym")}, {re(`CREATE SECURITY POLICY NAME`), made("security policy")},
	{re(`CREATE TRIGGER NAME ON DATABASE`), made("database trigger")},
	{re(`CREATE TRIGGER NAME ON NAME`), func(m *machine, batch string, f []string) {
		if m.object(plain(f[2])) == "object "+plain(f[2]) {
			m.fault(batch, "%s is not there", plain(f[2]))
		}
		m.add(batch, "trigger on "+plain(f[2])+" "+plain(f[1]))
	}},
	{re(`CREATE FULLTEXT INDEX ON NAME .*KEY INDEX NAME`), func(m *machine, batch string, f []string) {
		table, key := plain(f[1]), plain(f[2])
		if !m.things["index "+table+"."+key] && !m.things["constraint "+table+"."+key] {
			m.fault(batch, "the key %s is not there", key)
		}
		if list := re(`.*STOPLIST = NAME`).FindStringSubmatch(batch); list != nil && plain(list[1]) != "OFF" {
			m.want(batch, "stoplist "+plain(list[1]))
		}
		m.add(batch, "full-text index "+table)
	}},
	{re(`CREATE STATISTICS NAME ON NAME`), func(m *machine, batch string, f []string) {
		m.want(batch, "table "+plain(f[2]))
		m.add(batch, "statistics "+plain(f[2])+"."+plain(f[1]))
	}},
	{re(`CREATE ([A-Z ]*?)INDEX NAME ON NAME(?: \(([^)]*)\))?`), func(m *machine, batch string, f []string) {
		table := plain(f[3])
		if m.things["view "+table] {
			m.session(batch)
			if clustered := "clustered " + table; !m.things[clustered] {
				if strings.TrimSpace(f[1]) != "UNIQUE CLUSTERED" {
					m.fault(batch, "a view has its clustered index first")
				}
				m.things[clustered] = true
			}
		} else {
			m.want(batch, "table "+table)
		}
		if strings.Contains(batch, " WHERE ") || strings.Contains(f[1], "XML") || strings.Contains(f[1], "SPATIAL") {
			m.session(batch)
		}
		m.placed(batch, strings.TrimPrefix(batch, f[0]))
		if using := re(`.*USING XML INDEX NAME`).FindStringSubmatch(batch); using != nil {
			m.want(batch, "index "+table+"."+plain(using[1]))
		}
		if strings.Contains(f[1], "UNIQUE") {
			m.unique[table] = append(m.unique[table], strings.ToLower(plain(strings.ReplaceAll(f[4], " DESC", ""))))
		}
		m.add(batch, "index "+table+"."+plain(f[2]))
	}},
	{re(`ALTER TABLE NAME (?:WITH (?:NO)?CHECK )?ADD (.*)`), func(m *machine, batch string, f []string) {
		table := plain(f[1])
		m.want(batch, "table "+table)
		if re(`(CONSTRAINT|PRIMARY KEY|UNIQUE|FOREIGN KEY|CHECK|DEFAULT)\b`).MatchString(f[2]) {
			m.constraint(batch, table, f[2])
		} else {
			m.column(batch, table, f[2])
		}
	}},
	{re(`ALTER TABLE NAME ALTER COLUMN NAME`), func(m *machine, batch string, f []string) {
		if table := plain(f[1]); !slices.Contains(m.columns[table], plain(f[2])) {
			m.fault(batch, "no column %s", plain(f[2]))
		}
	}},
	{re(`ALTER TABLE NAME DROP COLUMN NAME`), func(m *machine, batch string, f []string) {
		table := plain(f[1])
		at := slices.Index(m.columns[table], plain(f[2]))
		if at < 0 {
			m.fault(batch, "no column %s among %q", plain(f[2]), m.columns[table])
			return
		}
		m.columns[table] = slices.Delete(m.columns[table], at, at+1)
	}},
	{re(`ALTER TABLE NAME DROP CONSTRAINT NAME`), func(m *machine, batch string, f []string) {
		m.remove(batch, "constraint "+plain(f[1])+"."+plain(f[2]))
	}},
	{re(`ALTER TABLE NAME NOCHECK CONSTRAINT NAME`), func(m *machine, batch string, f []string) {
		m.want(batch, "constraint "+plain(f[1])+"."+plain(f[2]))
	}},
	{re(`ALTER TABLE NAME SET`), func(m *machine, batch string, f []string) { m.want(batch, "table "+plain(f[1])) }},
	{re(`ALTER INDEX NAME ON NAME (?:DISABLE|REBUILD)`), func(m *machine, batch string, f []string) {
		m.want(batch, "index "+plain(f[2])+"."+plain(f[1]))
	}},
	{re(`ALTER SEQUENCE NAME`), func(m *machine, batch string, f []string) { m.want(batch, "sequence "+plain(f[1])) }},
	{re(`ALTER AUTHORIZATION ON \w+::NAME TO NAME`), func(m *machine, batch string, f []string) {
		m.want(batch, m.object(plain(f[1])))
		m.want(batch, "role "+plain(f[2]))
	}},
	{re(`(?:DISABLE|ENABLE) TRIGGER NAME ON DATABASE`), func(m *machine, batch string, f []string) { m.want(batch, "database trigger "+plain(f[1])) }},
	{re(`(?:DISABLE|ENABLE) TRIGGER NAME ON NAME`), func(m *machine, batch string, f []string) {
		m.want(batch, "trigger on "+plain(f[2])+" "+plain(f[1]))
	}},
	{re(`EXEC sys\.sp_settriggerorder @triggername = N'([^']*)'`), func(m *machine, batch string, f []string) {
		for thing := range m.things {
			if strings.HasSuffix(thing, " "+plain(f[1])) && strings.Contains(thing, "trigger") {
				return
			}
		}
		m.fault(batch, "no trigger")
	}},
	{re(`EXEC sys\.sp_(add|drop)extendedproperty`), describes},
	{re(`(?:GRANT|DENY|REVOKE) .*? ON (SCHEMA::|TYPE::|XML SCHEMA COLLECTION::)?NAME(?: \(.*?\))? (?:TO|FROM) NAME`), func(m *machine, batch string, f []string) {
		switch name := plain(f[2]); f[1] {
		case "SCHEMA::":
			m.want(batch, "schema "+name)
		case "":
			m.want(batch, m.object(name))
		default:
			m.want(batch, "type "+name)
		}
		m.want(batch, "role "+plain(f[3]))
	}},
	{re(`(?:GRANT|DENY) [A-Z ]+ TO NAME`), func(m *machine, batch string, f []string) { m.want(batch, "role "+plain(f[1])) }},
	{re(`DROP TRIGGER NAME ON DATABASE`), gone("database trigger")},
	{re(`DROP TRIGGER NAME`), func(m *machine, batch string, f []string) {
		before := len(m.things)
		maps.DeleteFunc(m.things, func(thing string, _ bool) bool {
			return strings.HasPrefix(thing, "trigger on ") && strings.HasSuffix(thing, " "+plain(f[1]))
		})
		if len(m.things) == before {
			m.fault(batch, "no trigger")
		}
	}},
	{re(`DROP INDEX NAME ON NAME`), func(m *machine, batch string, f []string) {
		m.remove(batch, "index "+plain(f[2])+"."+plain(f[1]))
	}},
	{re(`DROP FULLTEXT INDEX ON NAME`), func(m *machine, batch string, f []string) { m.remove(batch, "full-text index "+plain(f[1])) }},
	{re(`DROP FULLTEXT CATALOG NAME`), func(m *machine, batch string, f []string) {
		for thing := range m.things {
			if strings.HasPrefix(thing, "full-text index ") {
				m.fault(batch, "%s lies in it", thing)
			}
		}
		m.remove(batch, "catalog "+plain(f[1]))
	}},
	{re(`DROP PARTITION (SCHEME|FUNCTION) NAME`), func(m *machine, batch string, f []string) {
		m.remove(batch, "partition "+strings.ToLower(f[1])+" "+plain(f[2]))
	}},
	{re(`DROP (?:TYPE|XML SCHEMA COLLECTION) NAME`), gone("type")}, {re(`DROP SECURITY POLICY NAME`), gone("security policy")},
	{re(`DROP STATISTICS NAME\.NAME`), func(m *machine, batch string, f []string) { m.remove(batch, "statistics "+plain(f[1])+"."+plain(f[2])) }},
	{re(`DROP (?:ROLE|USER|APPLICATION ROLE) NAME`), func(m *machine, batch string, f []string) { m.remove(batch, "role "+plain(f[1])) }},
	{re(`ALTER ROLE NAME DROP MEMBER NAME`), func(m *machine, batch string, f []string) { m.want(batch, "role "+plain(f[2])) }},
	{re(`DROP SCHEMA NAME`), func(m *machine, batch string, f []string) {
		m.remove(batch, "schema "+plain(f[1]))
		for thing := range m.things {
			if _, name, _ := strings.Cut(thing, " "); strings.HasPrefix(name, plain(f[1])+".") && m.things[thing] {
				m.fault(batch, "%s lies in it", thing)
			}
		}
	}},
	{re(`DROP TABLE NAME`), gone("table")}, {re(`DROP VIEW NAME`), gone("view")}, {re(`DROP PROCEDURE NAME`), gone("procedure")}, {re(`DROP FUNCTION NAME`), gone("function")}, {re(`DROP SEQUENCE NAME`), gone("sequence")}, {re(`DROP SYNONYM NAME`), gone("synonym")},
}

// describes checks that what a description is of is there.
func describes(m *machine, batch string, _ []string) {
	level := map[string]string{}
	for _, f := range regexp.MustCompile(`@level(\d)(type|name) = N'((?:[^']|'')*)'`).FindAllStringSubmatch(batch, -1) {
		level[f[1]+f[2]] = strings.ReplaceAll(f[3], "''", "'")
	}
	if level["0type"] != "SCHEMA" {
		return
	}
	m.want(batch, "schema "+level["0name"])
	name := level["0name"] + "." + level["1name"]
	kind := strings.ToLower(level["1type"])
	if kind == "" {
		return
	}
	m.want(batch, kind+" "+name)
	switch level["2type"] {
	case "COLUMN":
		if !slices.Contains(m.columns[name], level["2name"]) && kind == "table" {
			m.fault(batch, "no column %s", level["2name"])
		}
	case "CONSTRAINT":
		m.want(batch, "constraint "+name+"."+level["2name"])
	case "INDEX":
		m.want(batch, "index "+name+"."+level["2name"])
	}
}

// column adds a column, and the default that stands with it.
func (m *machine) column(batch, table, text string) {
	f := re(`NAME (\[[^\]]*\]\.\[[^\]]*\])?`).FindStringSubmatch(text)
	m.columns[table] = append(m.columns[table], plain(f[1]))
	if f[2] != "" {
		m.want(batch, "type "+plain(f[2]))
	}
	if d := regexp.MustCompile(`CONSTRAINT (\[[^\]]*\]) DEFAULT`).FindStringSubmatch(text); d != nil {
		m.add(batch, "constraint "+table+"."+plain(d[1]))
	}
	if strings.Contains(text, " AS ") && !strings.Contains(text, "GENERATED") {
		m.session(batch)
	}
}

// run runs a script; what is altered in place of being made is there before.
func (m *machine) run(t *testing.T, script string) {
	t.Helper()
	m.execute(script)
	for _, f := range m.faults {
		t.Error(f)
	}
}

func (m *machine) execute(script string) {
	comment := regexp.MustCompile(`(?m)^\s*--.*\n?`)
	for _, batch := range batches(script) {
		if batch = strings.TrimSpace(comment.ReplaceAllString(batch, "")); batch == "" {
			continue
		}
		if f := re(`CREATE OR ALTER (VIEW|TRIGGER|PROCEDURE|FUNCTION) NAME`).FindStringSubmatch(batch); f != nil {
			continue
		}
		i := slices.IndexFunc(machineRules, func(r rule) bool { return r.pattern.MatchString(batch) })
		if i < 0 {
			m.fault(batch, "no rule")
			continue
		}
		machineRules[i].run(m, batch, machineRules[i].pattern.FindStringSubmatch(batch))
	}
}

// state is everything that is there, in order.
func (m *machine) state() []string {
	var all []string
	for thing, is := range m.things {
		if is {
			all = append(all, thing)
		}
	}
	for table, columns := range m.columns {
		all = append(all, table+": "+strings.Join(slices.Sorted(slices.Values(columns)), ", "))
	}
	slices.Sort(all)
	return all
}

// Each statement finds what it needs; all that was read is there afterwards, and nothing is left when it is dropped.
func TestScriptsRunInTheMachine(t *testing.T) {
	for _, reading := range []*schema.Reading{read(t, start(t), "beacons"), read(t, moored(t, standin.Profile{Version: "16.0.1000.6"}), "moorings")} {
		m := newMachine()
		m.run(t, written(t, reading))
		for _, o := range reading.Objects {
			if made, err := (Engine{}).Make(o); err != nil || len(made) == 0 {
				continue
			}
			want := map[schema.Kind]string{schema.KindTable: "table ", schema.KindView: "view ", schema.KindProcedure: "procedure ", schema.KindFunction: "function ", schema.KindSequence: "sequence ", schema.KindSynonym: "synonym ", schema.KindAlias: "type ", schema.KindTableType: "type ", schema.KindRule: "rule ", schema.KindDefault: "default "}[o.Kind]
			switch {
			case want != "":
				want += o.Schema + "." + o.Name
			case o.Kind == schema.KindIndex:
				want = "index " + o.Schema + "." + o.Within + "." + o.Name
			case o.Kind == schema.KindTrigger:
				want = "trigger on " + o.Schema + "." + o.Within + " " + o.Schema + "." + o.Name
			case o.Kind == schema.KindSchema:
				want = "schema " + o.Name
			case o.Kind == schema.KindFileGroup:
				want = "filegroup " + o.Name
			case o.Kind == schema.KindStoplist:
				want = "stoplist " + o.Name
			case o.Kind == schema.KindRole && !strings.Contains(o.Definition, "/*"):
				want = "role " + o.Name
			default:
				continue
			}
			if !m.things[want] {
				t.Errorf("%s: %s is not there", reading.Database, want)
			}
		}
	}
}

// The machine notices each statement that comes too early, and each that is left out and that others need.
func TestMachineNotices(t *testing.T) {
	script := written(t, read(t, moored(t, standin.Profile{}), "moorings"))
	for _, k := range []struct{ first, then string }{
		{"CREATE UNIQUE INDEX [mooring_code]", "CREATE TABLE [quay].[rope]"}, {"CREATE UNIQUE CLUSTERED INDEX [tally_ix]", "CREATE INDEX [a_tally_mooring]"}, {"CREATE UNIQUE INDEX [mooring_code]", "CREATE FULLTEXT INDEX"}, {"CREATE SCHEMA [quay]", "CREATE TYPE [quay].[code]"},
		{"CREATE PARTITION FUNCTION [tides]", "CREATE PARTITION SCHEME"}, {"CREATE TABLE [quay].[fee_was]", "CREATE TABLE [quay].[fee]"}, {"SET QUOTED_IDENTIFIER ON", "CREATE UNIQUE CLUSTERED"}, {"CREATE USER [mate]", "CREATE ROLE [hands]"}, {"CREATE TYPE [pier].[code]", "CREATE TABLE [quay].[mooring]"},
		{"CREATE RULE quay.[some rope]", "sp_bindrule"}, {"CREATE DEFAULT quay.[no fee]", "sp_bindefault"}, {"ADD FILEGROUP [COLD]", "CREATE TABLE [quay].[mooring]"}, {"ADD FILEGROUP [COLD]", "CREATE PARTITION SCHEME"}, {"CREATE FULLTEXT STOPLIST", "CREATE FULLTEXT INDEX"},
		{"SET CHANGE_TRACKING = ON", "ENABLE CHANGE_TRACKING"}, {"CREATE SELECTIVE XML INDEX", "CREATE XML INDEX [note_paper_no]"},
	} {
		all := batches(script)
		i := slices.IndexFunc(all, func(b string) bool { return strings.Contains(b, k.first) })
		if i < 0 || !strings.Contains(strings.Join(all[i:], "\n"), k.then) {
			t.Errorf("%s does not stand before %s", k.first, k.then)
			continue
		}
		m := newMachine()
		m.execute(strings.Join(slices.Delete(all, i, i+1), "\nGO\n"))
		if len(m.faults) == 0 {
			t.Errorf("without %s nothing is noticed", k.first)
		}
	}
}

// The script from one state to another ends in that other state.
func TestChangesRunInTheMachine(t *testing.T) {
	s := start(t)
	c := testcatalogue.New(t)
	live, dev := read(t, s, "beacons"), read(t, s, "beacons_dev")
	dev.Database = live.Database
	old, now := testcatalogue.Save(t, c, catalogue.Origin{Server: "live"}, live), testcatalogue.Save(t, c, catalogue.Origin{Server: "dev"}, dev)
	for _, k := range []struct {
		from, to *schema.Reading
		script   string
	}{{live, dev, changeScript(t, c, old, now, true)}, {dev, live, changeScript(t, c, now, old, true)}} {
		m, want := newMachine(), newMachine()
		m.run(t, written(t, k.from))
		m.run(t, k.script)
		want.run(t, written(t, k.to))
		if got, want := m.state(), want.state(); !slices.Equal(got, want) {
			for _, x := range got {
				if !slices.Contains(want, x) {
					t.Errorf("too much: %s", x)
				}
			}
			for _, x := range want {
				if !slices.Contains(got, x) {
					t.Errorf("missing: %s", x)
				}
			}
		}
	}
}

// leavesOf returns which objects of a reading nothing else depends on: without them the rest is whole.
func leavesOf(r *schema.Reading) []schema.ID {
	held := map[schema.ID]bool{}
	for _, d := range append(schema.Structural(r.Objects), r.Dependencies...) {
		if d.From.ID != d.To.ID {
			held[d.To.ID] = true
		}
	}
	var all []schema.ID
	for _, o := range r.Objects {
		id := o.ID()
		named := slices.ContainsFunc(r.Objects, func(x *schema.Object) bool {
			return x.Schema == o.Name && o.Kind == schema.KindSchema || x.Owner == o.Name && o.Kind == schema.KindRole ||
				slices.ContainsFunc(x.Grants, func(g schema.Grant) bool { return g.Grantee == o.Name && o.Kind == schema.KindRole })
		})
		if !held[id] && !named && o.Within == "" && o.Kind != schema.KindIndex {
			all = append(all, id)
		}
	}
	return all
}

// without returns a reading that lacks some objects, with what stands on them.
func without(r *schema.Reading, gone map[schema.ID]bool) *schema.Reading {
	out := *r
	on := func(o *schema.Object) bool {
		return slices.ContainsFunc(slices.Collect(maps.Keys(gone)), func(id schema.ID) bool {
			return id.Kind.IsRelation() && id.Schema == o.Schema && id.Name == o.On()
		})
	}
	out.Objects = slices.DeleteFunc(slices.Clone(r.Objects), func(o *schema.Object) bool { return gone[o.ID()] || o.On() != "" && on(o) })
	there := map[schema.ID]bool{}
	for _, o := range out.Objects {
		there[o.ID()] = true
	}
	out.Dependencies = slices.DeleteFunc(slices.Clone(r.Dependencies), func(d schema.Dependency) bool { return !there[d.From.ID] })
	out.Measures = nil
	return &out
}

// What nothing depends on goes and comes back by the script, thing by thing and several at a time, and the script that drops all ends
// where it began.
func TestLeavesComeAndGoInTheMachine(t *testing.T) {
	for _, whole := range []*schema.Reading{read(t, start(t), "beacons"), read(t, moored(t, standin.Profile{Version: "16.0.1000.6"}), "moorings")} {
		leaves := leavesOf(whole)
		random := rand.New(rand.NewPCG(16, uint64(len(leaves))))
		rounds := [][]schema.ID{}
		for _, id := range leaves {
			rounds = append(rounds, []schema.ID{id})
		}
		for range 6 {
			some := slices.Clone(leaves)
			random.Shuffle(len(some), func(i, j int) { some[i], some[j] = some[j], some[i] })
			rounds = append(rounds, some[:2+random.IntN(len(some)/2)])
		}
		if len(leaves) < 8 {
			t.Errorf("%s: only %d leaves", whole.Database, len(leaves))
		}
		for _, ids := range rounds {
			gone := map[schema.ID]bool{}
			for _, id := range ids {
				gone[id] = true
			}
			less := without(whole, gone)
			c := testcatalogue.New(t)
			old, now := testcatalogue.Save(t, c, catalogue.Origin{Server: "a"}, whole), testcatalogue.Save(t, c, catalogue.Origin{Server: "b"}, less)
			for _, k := range []struct {
				from, to *schema.Reading
				script   string
			}{{whole, less, changeScript(t, c, old, now, true)}, {less, whole, changeScript(t, c, now, old, true)}} {
				m, want := newMachine(), newMachine()
				m.execute(written(t, k.from))
				m.execute(k.script)
				want.execute(written(t, k.to))
				if len(m.faults) > 0 || !slices.Equal(m.state(), want.state()) {
					t.Errorf("%s with %d and then %d objects, %v: %q\nis    %q\nwants %q\n%s", whole.Database, len(k.from.Objects), len(k.to.Objects), ids, m.faults, m.state(), want.state(), k.script)
					return
				}
			}
		}
		c := testcatalogue.New(t)
		contents := testcatalogue.Save(t, c, catalogue.Origin{Server: "a"}, whole)
		var entries []*catalogue.Entry
		for i := range contents.All() {
			entries = append(entries, contents.At(i))
		}
		script, err := ddl.Write(t.Context(), c, Engine{}, contents, entries, ddl.Options{Drop: true})
		if err != nil {
			t.Fatal(err)
		}
		m := newMachine()
		before := m.state()
		m.execute(written(t, whole))
		m.execute(script.Text())
		if len(m.faults) > 0 || !slices.Equal(m.state(), before) {
			t.Errorf("%s, all dropped: %q\nis    %q\nwants %q\n%s", whole.Database, m.faults, m.state(), before, script.Text())
		}
	}
}

// besides returns what one list has and another has not.
func besides(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(x string) bool { return slices.Contains(b, x) })
}

// What is bound, tracked and numbered goes and comes back, each alone and all at once.
func TestPropertiesComeAndGoInTheMachine(t *testing.T) {
	whole := read(t, moored(t, standin.Profile{Version: "16.0.1000.6"}), "moorings")
	names := []string{boundRule, boundDefault, changeTracking, numberedProcedure + "2", "full text stoplist", "full text tracking"}
	drop := func(list []schema.Property, name string) []schema.Property {
		return slices.DeleteFunc(slices.Clone(list), func(p schema.Property) bool { return p.Name == name || name == "" && slices.Contains(names, p.Name) })
	}
	for _, name := range append(names, "") {
		less, lost := *whole, 0
		less.Objects = nil
		for _, o := range whole.Objects {
			copied := *o
			copied.Settings = drop(o.Settings, name)
			lost += len(o.Settings) - len(copied.Settings)
			if o.Relation != nil {
				relation := *o.Relation
				relation.Columns = slices.Clone(o.Relation.Columns)
				for i := range relation.Columns {
					c := &relation.Columns[i]
					before := len(c.Settings)
					c.Settings = drop(c.Settings, name)
					lost += before - len(c.Settings)
				}
				copied.Relation = &relation
			}
			less.Objects = append(less.Objects, &copied)
		}
		if lost == 0 {
			t.Errorf("nothing has %q", name)
		}
		c := testcatalogue.New(t)
		old, now := testcatalogue.Save(t, c, catalogue.Origin{Server: "a"}, whole), testcatalogue.Save(t, c, catalogue.Origin{Server: "b"}, &less)
		for _, k := range []struct {
			from, to *schema.Reading
			script   string
		}{{whole, &less, changeScript(t, c, old, now, true)}, {&less, whole, changeScript(t, c, now, old, true)}} {
			m, want := newMachine(), newMachine()
			m.run(t, written(t, k.from))
			before := m.state()
			m.run(t, k.script)
			want.run(t, written(t, k.to))
			if got := m.state(); !slices.Equal(got, want.state()) || slices.Equal(got, before) && (name == boundRule || name == boundDefault || name == changeTracking) {
				t.Errorf("%q: too much %q\nmissing %q\n%s", name, besides(got, want.state()), besides(want.state(), got), k.script)
			}
		}
	}
}
