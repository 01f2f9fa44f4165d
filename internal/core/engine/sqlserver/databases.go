package sqlserver

// A database of the server with its options (documentation: "sys.databases", "ALTER DATABASE SET options").

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// databaseOption is an option by the column that holds it. What a new database has anyway is not said.
type databaseOption struct {
	usual, words string
	boxed        bool // Azure SQL Database does not have it
}

// worded are options whose value is a word; they follow the columns in front of them in allDatabasesQuery.
var worded = []databaseOption{
	{"", "RECOVERY ", true}, {"CHECKSUM", "PAGE_VERIFY ", true}, {"MULTI_USER", "", false}, {"DISABLED", "DELAYED_DURABILITY = ", false}, {"OFF", "ALLOW_SNAPSHOT_ISOLATION ", false}, {"60", "TARGET_RECOVERY_TIME = ", true},
}

// switched are options that are on or off, by what they are usually.
var switched = []databaseOption{
	{"0", "READ_ONLY", false}, {"0", "", false}, {"0", "READ_COMMITTED_SNAPSHOT", false}, {"0", "AUTO_CLOSE", true}, {"0", "AUTO_SHRINK", false}, {"1", "AUTO_CREATE_STATISTICS", false}, {"0", "", false}, {"1", "AUTO_UPDATE_STATISTICS", false}, {"0", "AUTO_UPDATE_STATISTICS_ASYNC", false},
	{"0", "ANSI_NULL_DEFAULT", false}, {"0", "ANSI_NULLS", false}, {"0", "ANSI_PADDING", false}, {"0", "ANSI_WARNINGS", false}, {"0", "ARITHABORT", false}, {"0", "CONCAT_NULL_YIELDS_NULL", false}, {"0", "NUMERIC_ROUNDABORT", false}, {"0", "QUOTED_IDENTIFIER", false}, {"0", "RECURSIVE_TRIGGERS", false},
	{"0", "CURSOR_CLOSE_ON_COMMIT", false}, {"0", "CURSOR_DEFAULT", true}, {"0", "TRUSTWORTHY", true}, {"0", "DB_CHAINING", true}, {"0", "PARAMETERIZATION", false}, {"0", "QUERY_STORE", false}, {"1", "BROKER", true}, {"0", "HONOR_BROKER_PRIORITY", true}, {"0", "DATE_CORRELATION_OPTIMIZATION", false}, {"0", "MEMORY_OPTIMIZED_ELEVATE_TO_SNAPSHOT", true},
}

const firstWorded, firstSwitched = 4, 10

// database keeps a database of the server with its options.
func (r *reader) database(row *engine.Row) {
	name := row.Text(0)
	switch name {
	case "master", "model", "msdb", "tempdb":
		return
	}
	azure := r.s != nil && r.s.edition == azureDatabase
	head := "CREATE DATABASE " + quote(name)
	if row.Text(3) == "PARTIAL" && !azure {
		head += " CONTAINMENT = PARTIAL"
	}
	if row.Text(1) != "" {
		head += " COLLATE " + row.Text(1)
	}
	alter := "ALTER DATABASE " + quote(name) + " SET "
	all := []string{head, alter + "COMPATIBILITY_LEVEL = " + row.Text(2)}
	for i, o := range worded {
		value := row.Text(firstWorded + i)
		if value == o.usual || value == "" || o.boxed && azure || strings.HasPrefix(value, "IN_TRANSITION") {
			continue
		}
		if o.words == "TARGET_RECOVERY_TIME = " {
			value += " SECONDS"
		}
		all = append(all, alter+o.words+value)
	}
	for i, o := range switched {
		if is := row.Truth(firstSwitched + i); !row.Null(firstSwitched+i) && is != (o.usual == "1") && !(o.boxed && azure) && o.words != "" {
			all = append(all, alter+switchTo(o.words, is, row.Truth(firstSwitched+6)))
		}
	}
	if i := slices.Index(all, alter+"READ_ONLY"); i > 0 { // nothing can be set afterwards
		all = append(slices.Delete(all, i, i+1), alter+"READ_ONLY")
	}
	if row.Truth(firstSwitched + 1) {
		r.remark("unread", schema.ID{Kind: schema.KindDatabase, Name: name}.Qualified(), "it is encrypted: its key is not part of the catalogue yet, and a script makes it without")
	}
	r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindDatabase, Name: name, Definition: strings.Join(all, ";\n")})
}

// switchTo writes an option that is on or off, each in its own words.
func switchTo(words string, on, incremental bool) string {
	state := map[bool]string{true: " ON", false: " OFF"}[on]
	switch words {
	case "READ_ONLY":
		return words
	case "CURSOR_DEFAULT":
		return words + " LOCAL"
	case "PARAMETERIZATION":
		return words + " FORCED"
	case "BROKER":
		return "DISABLE_BROKER"
	case "QUERY_STORE":
		return words + " = ON"
	case "MEMORY_OPTIMIZED_ELEVATE_TO_SNAPSHOT":
		return words + " =" + state
	case "AUTO_CREATE_STATISTICS":
		if on && incremental {
			return words + " ON (INCREMENTAL = ON)"
		}
	}
	return words + state
}

// usualOption returns the statement that sets an option of a database as it usually is, "" where there is no such.
func usualOption(text string) string {
	at := strings.LastIndex(text, " SET ") // a name may hold it, too
	if at < 0 {
		return ""
	}
	head, option := text[:at], text[at+len(" SET "):]
	for from, to := range map[string]string{
		"READ_ONLY": "READ_WRITE", "CURSOR_DEFAULT LOCAL": "CURSOR_DEFAULT GLOBAL", "PARAMETERIZATION FORCED": "PARAMETERIZATION SIMPLE", "DISABLE_BROKER": "ENABLE_BROKER", "RESTRICTED_USER": "MULTI_USER", "SINGLE_USER": "MULTI_USER",
	} {
		if option == from {
			return head + " SET " + to
		}
	}
	for prefix, usual := range map[string]string{
		"PAGE_VERIFY ": "CHECKSUM", "DELAYED_DURABILITY = ": "DISABLED", "TARGET_RECOVERY_TIME = ": "60 SECONDS", "CHANGE_TRACKING = ": "OFF", "QUERY_STORE = ": "OFF", "AUTO_CREATE_STATISTICS ": "ON",
	} {
		if strings.HasPrefix(option, prefix) {
			return head + " SET " + prefix + usual
		}
	}
	if name, ok := strings.CutSuffix(option, " ON"); ok {
		return head + " SET " + name + " OFF"
	}
	if name, ok := strings.CutSuffix(option, " OFF"); ok {
		return head + " SET " + name + " ON"
	}
	return "" // each database has one: the other's is set instead
}

// databaseJobs complete what is known of databases.
func (r *reader) databaseJobs() []job {
	with := func(row *engine.Row, text string) {
		for _, o := range r.reading.Objects {
			if o.Kind == schema.KindDatabase && o.Name == row.Text(0) {
				o.Definition += ";\n" + text
			}
		}
	}
	return []job{
		{ownersQuery, func(row *engine.Row) {
			if owner := row.Text(1); owner != "sa" { // whoever runs the script, as far as it is not said
				with(row, "ALTER AUTHORIZATION ON DATABASE::"+quote(row.Text(0))+" TO "+quote(owner))
			}
		}, signerHidden},
		{trackingQuery, func(row *engine.Row) {
			cleanup := map[bool]string{true: "ON", false: "OFF"}[row.Truth(1)]
			with(row, "ALTER DATABASE "+quote(row.Text(0))+" SET CHANGE_TRACKING = ON (CHANGE_RETENTION = "+row.Text(2)+" "+row.Text(3)+", AUTO_CLEANUP = "+cleanup+")")
		}, signerHidden},
	}
}
